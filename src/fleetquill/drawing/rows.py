"""Plain rows of text one below the other, as the pages of a ledger hold thousands of them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple, Protocol, cast

from fleetquill.drawing.canvas import Canvas, Drawing, Look
from fleetquill.drawing.places import Place, RowModel
from fleetquill.text.figures import Figures
from fleetquill.text.shaping import Word


class Cell:
    """One value in one column: what it is set in, its glyphs, and where they stand from its row's top-left corner.
    `column` is its number in the order of the row.

    The glyphs are those of `words`, a space between each, which is the last of several; where there are `figures`,
    those that they have for the characters of `text`. A cell without a look is empty.
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


class Ground(NamedTuple):
    """What a row stands on, and how far it is to the next one, px."""

    drawing: Drawing
    height: float


class Rows(NamedTuple):
    """Rows of cells, and what each stands on."""

    cells: list[list[Cell]]
    grounds: list[Ground]
    closing: Drawing  # the line under the last row: each row draws the one over it
    model: RowModel | None = None  # what rows are in the document, where they are alike
    places: Sequence[Sequence[Place | None]] = ()  # by row and column, where they are not


class RowCanvas(Protocol):
    """A canvas that can keep cells and grounds ready to be set again and again."""

    def stamp_rows(self, x: float, y: float, rows: Rows) -> None:
        """Draws rows from a top-left corner on."""


def draw_rows(canvas: Canvas, x: float, y: float, rows: Rows) -> None:
    """Draws rows from a top-left corner on, on any canvas."""
    if hasattr(canvas, "stamp_rows"):  # a RowCanvas; asking its class is dear
        cast(RowCanvas, canvas).stamp_rows(x, y, rows)
    else:
        draw_cells(canvas, x, y, rows)


def draw_cells(canvas: Canvas, x: float, y: float, rows: Rows) -> None:
    """Draws rows cell by cell."""
    for number, (row, ground) in enumerate(zip(rows.cells, rows.grounds, strict=True)):
        _draw_ground(canvas, x, y, ground.drawing)
        for cell in row:
            if cell.look is not None:
                canvas.mark(rows.places[number][cell.column] if rows.places else None)
                setting = cell.look.setting
                words = cell.words if cell.figures is None else (setting.exact(cell.text),)
                space = setting.space.advance * cell.look.size + cell.look.letter_spacing
                canvas.text(x + cell.x, y + cell.baseline, cell.look, words, space)
        y += ground.height
    _draw_ground(canvas, x, y, rows.closing)


def _draw_ground(canvas: Canvas, x: float, y: float, ground: Drawing) -> None:
    if ground.steps:
        canvas.save()
        canvas.transform((1.0, 0.0, 0.0, 1.0, x, y))
        ground.paint(canvas)
        canvas.restore()
