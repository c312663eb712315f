"""How wide the columns of a table in plain text are."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import Final, NamedTuple

from rich.cells import cell_len

LEGIBLE: Final = 6  # columns of text that words are not broken below
FIGURE: Final = re.compile(r"\d")
SPACES: Final = re.compile("[ \n]+")


class Measure(NamedTuple):
    """What a column needs: for its longest figure, for its longest word, and for its longest line."""

    figure: int = 1
    least: int = 1
    most: int = 1

    def widened(self, by: int) -> Measure:
        return Measure(self.figure + by, self.least + by, self.most + by)


def measure_of_text(text: str) -> Measure:
    words = SPACES.split(text)
    figures = max((cell_len(word) for word in words if _is_figure(word)), default=1)
    return Measure(figures, max(map(cell_len, words), default=0), max(map(cell_len, text.split("\n"))))


def largest(measures: Iterable[Measure]) -> Measure:
    """What a column needs for all that stands in it."""
    return Measure(*map(max, zip(Measure(), *measures, strict=True)))


def together(measures: Sequence[Measure], gaps: int) -> Measure:
    """What columns beside one another need."""
    return Measure(*map(sum, zip(*measures, strict=True))).widened(gaps) if measures else Measure()


def _is_figure(word: str) -> bool:
    """Whether a word is a number, an amount or a date: broken in two it would be another."""
    return bool(FIGURE.search(word)) and 2 * sum(map(str.isalpha, word)) < len(word)


def shared_widths(measures: Sequence[Measure], room: int) -> list[int]:
    """Widths that take at most `room` where that can be.

    All get their longest line where there is room; else those that are widest give way, down to their longest word;
    else words are broken, and at the worst the table is wider than the room: a figure is never broken.
    """
    least, most = [one.least for one in measures], [one.most for one in measures]
    if sum(least) > room:
        return _broken(measures, room)
    low, high = 1, max(most, default=1)
    while low < high:  # the largest width that no column has to exceed
        middle = (low + high + 1) // 2
        if sum(_limited(measures, middle)) <= room:
            low = middle
        else:
            high = middle - 1
    widths = _limited(measures, low)
    for index, (width, wanted) in enumerate(zip(widths, most, strict=True)):
        if width < wanted and sum(widths) < room:
            widths[index] += 1
    return widths


def _broken(measures: Sequence[Measure], room: int) -> list[int]:
    """Widths where words do not fit: what room figures leave is shared in the measure of what words want beyond."""
    floors = [max(one.figure, min(one.least, LEGIBLE)) for one in measures]
    wanted = [one.least - floor for one, floor in zip(measures, floors, strict=True)]
    spare, total = max(0, room - sum(floors)), sum(wanted)
    return [floor + (spare * more // total if total else 0) for floor, more in zip(floors, wanted, strict=True)]


def _limited(measures: Sequence[Measure], limit: int) -> list[int]:
    return [max(one.least, min(one.most, limit)) for one in measures]
