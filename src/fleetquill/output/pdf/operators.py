"""Small pieces of content streams: numbers, colours, the cells of ledgers."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Final

from fleetquill.style.values import Rgba

if TYPE_CHECKING:
    from fleetquill.layout.table.ledger_rows import Cell, Look
    from fleetquill.text.shaping import Word

MOST_CELLS: Final = 10_000


def num(value: float) -> str:
    """A coordinate to the hundredth of a px."""
    return f"{round(value, 2):.10g}"


def is_gray(color: Rgba) -> bool:
    return color.red == color.green == color.blue


def rgb(color: Rgba) -> str:
    if is_gray(color):
        return f"{round(color.red, 4):g}"
    return f"{round(color.red, 4):g} {round(color.green, 4):g} {round(color.blue, 4):g}"


class CellOperators:
    """The operators that set a ledger's cells, made once for each cell; `base` is what rows begin in."""

    def __init__(self, base: Look, look_operators: Callable[[Look], str], use: Callable[[Cell], None]) -> None:
        self.base = base
        self.known: dict[Cell, str] = {}
        self._last_words: tuple[Word, ...] = ()
        self._look_operators = look_operators
        self._use = use

    def make(self, cell: Cell) -> str:
        """The operators of a cell: a place, and a string set there."""
        if not cell.strings:
            return ""
        words = cell.words
        if words is not self._last_words:
            self._use(cell)
            self._last_words = words
        op = f"1 0 0 -1 {cell.place} Tm[{cell.strings}]TJ "
        if cell.look != self.base:
            op = f"{self._look_operators(cell.look)} {op}{self._look_operators(self.base)} "
        if len(self.known) >= MOST_CELLS:
            self.known.clear()
        self.known[cell] = op
        return op
