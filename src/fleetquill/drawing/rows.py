"""Plain rows of text one below the other, as the pages of a ledger hold thousands of them."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Final, NamedTuple, Protocol, cast

from fleetquill.drawing.canvas import Canvas, Drawing, Look
from fleetquill.drawing.places import LedgerRow
from fleetquill.text.figures import Figures
from fleetquill.text.shaping import Word


class Cell:
    """One value in one column: what it is set in, its glyphs, and where they stand from its row's top-left corner.
    `column` is its number in the order of the row.

    The glyphs are those of `words`, a space between each; where there are `figures`, those that they
    have for the characters of `text`. A cell without a look is empty.
    """

    __slots__ = ("baseline", "column", "figures", "look", "text", "words", "x")

    def __init__(
        self,
        x: float,
        baseline: float,
        look: Look | None,
        words: tuple[Word, ...],
        figures: Figures | None,
        text: str,
        column: int,
    ) -> None:
        self.column = column
        self.x = x
        self.baseline = baseline
        self.look = look
        self.words = words
        self.figures = figures
        self.text = text


class Higher(NamedTuple):
    """A row with texts of several lines: how much higher it is than the others, px, and what it stands on."""

    by: float
    ground: Drawing


NONE_HIGHER: Final[Mapping[int, Higher]] = MappingProxyType({})


class Rows(NamedTuple):
    """Rows of cells, and what they stand on in turn: `grounds` of rows with an even and an odd number."""

    cells: list[list[Cell]]
    height: float  # from one row to the next, px
    first: int  # number of the first row, which picks its ground
    grounds: tuple[Drawing, Drawing]
    closing: Drawing  # the line under the last row: each row draws the one over it
    model: LedgerRow | None = None  # what rows are in the document
    higher: Mapping[int, Higher] = NONE_HIGHER  # by their place among these rows

    def ground(self, place: int) -> Drawing:
        """What a row stands on."""
        higher = self.higher.get(place)
        return self.grounds[(self.first + place) % 2] if higher is None else higher.ground


class RowCanvas(Protocol):
    """A canvas that can keep cells and grounds ready to be set again and again."""

    def stamp_rows(self, x: float, y: float, rows: Rows) -> None:
        """Draws rows from a top-left corner on."""


def draw_rows(canvas: Canvas, x: float, y: float, rows: Rows) -> None:
    """Draws rows from a top-left corner on, on any canvas."""
    if hasattr(canvas, "stamp_rows"):  # a RowCanvas; asking its class is dear
        cast(RowCanvas, canvas).stamp_rows(x, y, rows)
        return
    for offset, row in enumerate(rows.cells):
        top = y + offset * rows.height
        _draw_ground(canvas, x, top, rows.ground(offset))
        for cell in row:
            if cell.look is not None:
                setting = cell.look.setting
                words = cell.words if cell.figures is None else (setting.exact(cell.text),)
                space = setting.space.advance * cell.look.size + cell.look.letter_spacing
                canvas.text(x + cell.x, top + cell.baseline, cell.look, words, space)
        if offset in rows.higher:
            y += rows.higher[offset].by
    _draw_ground(canvas, x, y + len(rows.cells) * rows.height, rows.closing)


def _draw_ground(canvas: Canvas, x: float, y: float, ground: Drawing) -> None:
    if ground.steps:
        canvas.save()
        canvas.transform((1.0, 0.0, 0.0, 1.0, x, y))
        ground.paint(canvas)
        canvas.restore()
