"""The texts of a ledger that its columns must have room for, found without formatting every value."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from decimal import Decimal
from heapq import nlargest
from itertools import zip_longest
from typing import Any, Final

from fleetquill.layout.table.row_stream import LedgerColumn
from fleetquill.tree.rows import Row
from fleetquill.tree.values import is_missing

LONGEST: Final = 12  # texts of each column that are measured
MOST_SEEN: Final = 2_000
NUMBERS: Final = (int, float, Decimal)
LONG_NUMBERS: Final = frozenset((float, Decimal))  # those whose fractions may be of any length


ADVANCES: Final = {  # of characters in hundredths of the font size, as sans-serif faces have them
    **dict.fromkeys("ijlI.,:;'|! ", 27), **dict.fromkeys("ftr()[]{}/-\"°·", 34), **dict.fromkeys("cksvxyzJ?*^_", 49),
    **dict.fromkeys("aegLEFTSZ+<>=~", 52), **dict.fromkeys("0123456789€$£#", 54),
    **dict.fromkeys("bdhnopquBPRKXYVAC", 58), **dict.fromkeys("DGHNOQU&", 68), **dict.fromkeys("wm%", 82),
    **dict.fromkeys("MW@", 90),
}  # fmt: skip
FIGURES: Final = frozenset("0123456789.,:-+ ")  # as good as alike in width: the longest text is the widest
OTHER: Final = 62
DATE: Final = re.compile(r"\d{1,4}([-/.])\d{1,2}\1\d{1,4}|\d{1,2}:\d\d")  # or a time


class _Advances(dict[int, str]):
    """What each character becomes: one whose number is its advance."""

    def __missing__(self, code: int) -> str:
        found = self[code] = chr(ADVANCES.get(chr(code), OTHER if code < 0x2E80 else 100))
        return found


WEIGHED: Final = _Advances()


def rough_width(text: str) -> int:
    """How wide a text is in any face, more or less, in hundredths of its size."""
    return sum(text.translate(WEIGHED).encode("latin-1"))


class _Widest:
    """What is widest of one column: the widest texts, the ends of its numbers, a few of all other values."""

    def __init__(self, column: LedgerColumn) -> None:
        self.column = column
        self.texts: list[str] = []
        self.longest = 0
        self.seen: set[str] = set()  # texts that have been weighed, as far as they are kept
        self.numbers: list[Any] = []
        self.others: dict[Any, None] = {}

    def take(self, values: Sequence[Any]) -> None:
        kinds = set(map(type, values))
        texts = set(values) if kinds == {str} else {value for value in values if isinstance(value, str)}
        self._keep(texts)
        if kinds == {str}:
            return
        numbers = [value for value in values if isinstance(value, NUMBERS) and not is_missing(value)]
        if numbers:
            found = [*self.numbers[:2], min(numbers), max(numbers)]
            self.numbers = [min(found), max(found)]
            if self.column.plain and kinds & LONG_NUMBERS:
                self._keep(set(map(self._text, numbers)))
        if kinds - {str, *NUMBERS} and len(self.others) < 20 * LONGEST:
            self.others.update(dict.fromkeys(self._text(value) for value in values[:: max(1, len(values) // LONGEST)]))

    def _keep(self, texts: set[str]) -> None:
        if FIGURES.issuperset("".join(texts)):
            texts = set(nlargest(2, texts, key=len))
        texts -= self.seen
        self.longest = max(self.longest, max(map(len, texts), default=0))
        likely = {text for text in texts if 2 * len(text) > self.longest}
        if likely:
            self.texts = nlargest(LONGEST, {*self.texts, *likely}, key=rough_width)
        if len(self.seen) < MOST_SEEN:
            self.seen |= texts

    def _text(self, value: Any) -> str:
        try:
            return "" if value is None else self.column.format(value)
        except (ValueError, TypeError):
            return ""  # the row itself will say so, with its number

    def found(self) -> list[str]:
        texts = [text if self.column.plain else self._text(text) for text in self.texts]
        return nlargest(LONGEST, {*texts, *map(self._text, self.numbers), *self.others}, key=rough_width)


def widest_texts(columns: Sequence[LedgerColumn], chunks: Iterable[Sequence[Row]]) -> list[tuple[str, ...]]:
    """Rows of texts that have the widest of each column in them."""
    watched = [_Widest(column) for column in columns]
    for chunk in chunks:
        for widest, values in zip(watched, zip(*chunk, strict=True), strict=False):
            widest.take(values)
    return list(zip_longest(*(widest.found() for widest in watched), fillvalue=""))


def holds_figures(texts: Iterable[str]) -> bool:
    """Whether the texts of a column are numbers and the like, which may grow longer; dates do not."""
    return all(sum(map(str.isalpha, text)) * 2 < len(text) and not DATE.search(text) for text in texts if text)
