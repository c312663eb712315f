"""What a ledger is made of: its box, and plain rows as pages hold them."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.rows import Cell
from fleetquill.layout.boxes.boxes import Box, TableBox
from fleetquill.layout.contract.fragments import Fragment

if TYPE_CHECKING:
    from fleetquill.layout.table.row_stream import RowStream


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


class Stencil:
    """An empty row that plain rows stand on; `ground` is what paint makes of it, once."""

    __slots__ = ("ground", "row")

    def __init__(self, row: Fragment) -> None:
        self.row = row
        self.ground: Drawing | None = None


class LedgerRows(NamedTuple):
    """Plain rows one below the other: `stencils` are the empty rows that they stand on, in turn."""

    rows: list[list[Cell]]
    height: float  # from one row to the next
    first: int  # number of the first row, which picks its stencil
    stencils: tuple[Stencil, Stencil]
    closing: Stencil  # the line under the last row: each row draws the one over it
    texts: list[tuple[str, ...]]
