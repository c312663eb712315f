"""Small pieces of content streams: numbers, colours, the cells of ledgers."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping
from functools import lru_cache
from typing import Final

from fleetquill.caches import Cache
from fleetquill.drawing.canvas import Look, Segment
from fleetquill.drawing.paths import CLOSED
from fleetquill.drawing.rows import Cell
from fleetquill.output.pdf.strings import FigureHexes, WordStrings, strings_of
from fleetquill.pdf.objects import LARGEST, number
from fleetquill.style.values import Rgba
from fleetquill.text.shaping import Word

PLACES: Final = 2  # of a coordinate
MAGNIFIED: Final = 2.0  # times; below that, a hundredth of a unit is fine enough
RECTANGLES: Final = 10_000  # known ones: codes of one size have not many more; each takes some 600 bytes
MOST_CELLS: Final = 20_000  # some more than a ledger of ten columns keeps


def num(value: float) -> str:
    """A coordinate to the hundredth of a px."""
    return number(value, PLACES)


def font_size(size: float) -> str:
    """A size of letters: 10 pt are 13.3333 px."""
    return number(size, 4)


def places_at(scale: float) -> int:
    """The decimal places of coordinates that are made larger, for a hundredth of a px on the page."""
    if not scale > MAGNIFIED:
        return PLACES
    return PLACES + math.ceil(math.log10(min(scale, LARGEST)))


def factors(matrix: Iterable[float]) -> str:
    """The parts of a transformation."""
    return " ".join([number(part, 6) for part in matrix])


def is_gray(color: Rgba) -> bool:
    return color.red == color.green == color.blue


def rgb(color: Rgba) -> str:
    if is_gray(color):
        return number(color.red, 4)
    return f"{number(color.red, 4)} {number(color.green, 4)} {number(color.blue, 4)}"


class CellOperators:
    """The operators that set a ledger's cells, made once for each cell; `base` is what rows begin in."""

    def __init__(
        self,
        base: Look,
        look_operators: Callable[[Look], str],
        use: Callable[[tuple[Word, ...]], bool],
        words: WordStrings,
        recoded: Callable[[tuple[Word, ...]], Mapping[Word, str]],
        hexes: FigureHexes,
    ) -> None:
        self.base = base
        self.known: Cache[Cell, str] = Cache(MOST_CELLS)
        self._places: Cache[tuple[float, float], str] = Cache(MOST_CELLS)
        self._last_words: tuple[Word, ...] = ()
        self._look_operators = look_operators
        self._use = use
        self._words = words
        self._recoded = recoded
        self._hexes = hexes

    def make(self, cell: Cell) -> str:
        """The operators of a cell: a place, and a string set there."""
        look = cell.look
        if look is None:
            return ""
        words = cell.words
        known: Mapping[Word, str] = self._words
        if words is not self._last_words:
            if self._use(words):
                known = self._recoded(words)
            self._last_words = words if cell.figures is not None else ()
        if cell.figures is not None:
            strings = f"<{cell.text.translate(self._hexes[cell.figures])}>"
        else:
            shown = words[:-1] if len(words) > 1 else words  # the last of several is the space between them
            space = self._words[look.setting.space]
            strings = space.join([self._strings(word, known) for word in shown])
            if shown[-1].spaced:  # on the next line: who copies the text wants to have the space
                strings += space
        place = cell.x, cell.baseline
        matrix = self._places.get(place) or self._places.put(place, f"1 0 0 -1 {cell.x:.2f} {cell.baseline:.2f} Tm[")
        op = f"{matrix}{strings}]TJ "
        if look is not self.base and look != self.base:
            op = f"{self._look_operators(look)} {op}{self._look_operators(self.base)} "
        self.known[cell] = op
        return op

    def _strings(self, word: Word, known: Mapping[Word, str]) -> str:
        """What is shown of a word; with figures and the like in it, it is seldom met again, and not kept."""
        return known[word] if known is not self._words or word.text.isalpha() else strings_of(word)


@lru_cache(maxsize=RECTANGLES)
def upright(segments: tuple[Segment, ...], places: int) -> str:
    """The operator of five segments that are an upright rectangle, '' where they are not."""
    begin, first, second, third, end = segments
    if not (len(begin) == len(first) == len(second) == 3 and begin[0] == "m" and end == CLOSED):
        return ""
    x, y, right, bottom = begin[1], begin[2], first[1], second[2]
    if first != ("l", right, y) or second != ("l", right, bottom) or third != ("l", x, bottom):
        return ""
    left, width = _stretch(x, right, places)
    top, height = _stretch(y, bottom, places)
    return f"{left} {top} {width} {height} re"


def _stretch(start: float, end: float, places: int) -> tuple[str, str]:
    """Where a stretch begins and how long it is: it ends where its end would be written."""
    begun = number(start, places)
    return begun, number(float(number(end, places)) - float(begun), places)
