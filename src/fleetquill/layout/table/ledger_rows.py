"""What a ledger is made of: its box, and plain rows as pages hold them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fleetquill.layout.boxes.boxes import Box, TableBox
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.named import NamedTuple

if TYPE_CHECKING:
    from fleetquill.layout.table.row_stream import RowStream
    from fleetquill.style.values import Rgba
    from fleetquill.text.face import Face
    from fleetquill.text.shaping import Word


class LedgerBox(Box):
    """A ledger: its prototype table, and its rows as they come."""

    __slots__ = ("prototype", "stream")

    def __init__(self, prototype: TableBox, stream: RowStream) -> None:
        super().__init__(prototype.style, prototype.element, [])
        self.prototype = prototype
        self.stream = stream


class RowsBox(Box):
    """A block of plain rows on one page."""

    __slots__ = ()


class Cell:
    """One value in one column: its glyphs as a TJ string, and where it stands in its row.

    `place` is x and baseline from the row's top-left corner, as text.
    """

    __slots__ = ("look", "place", "strings", "words")

    def __init__(self, place: str, look: Look, strings: str, words: tuple[Word, ...]) -> None:
        self.place = place
        self.look = look
        self.strings = strings
        self.words = words


class Look(NamedTuple):
    """What the cells of a column are set in."""

    face: Face | str  # '' for no look at all
    size: float
    color: Rgba
    letter_spacing: float


class LedgerRows(NamedTuple):
    """Plain rows one below the other: `stencils` are the empty rows that they stand on, in turn."""

    rows: list[list[Cell]]
    height: float  # from one row to the next
    first: int  # number of the first row, which picks its stencil
    stencils: tuple[Fragment, Fragment]
    closing: Fragment  # the line under the last row: each row draws the one over it
    texts: list[tuple[str, ...]]
