"""The texts of a ledger that its columns must have room for, found without formatting every value."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from decimal import Decimal
from heapq import nlargest
from itertools import zip_longest
from typing import Any, Final

from fleetquill.layout.table.row_stream import LedgerColumn
from fleetquill.tree.rows import Row

LONGEST: Final = 4  # texts of each column that are measured
NUMBERS: Final = (int, float, Decimal)
LONG_NUMBERS: Final = frozenset((float, Decimal))  # those whose fractions may be of any length


class _Widest:
    """What is widest of one column: the longest texts, the ends of its numbers, a few of all other values."""

    def __init__(self, column: LedgerColumn) -> None:
        self.column = column
        self.texts: list[str] = []
        self.numbers: list[Any] = []
        self.others: dict[Any, None] = {}

    def take(self, values: Sequence[Any]) -> None:
        kinds = set(map(type, values))
        if kinds == {str}:
            self._keep_text(max(values, key=len))
            return
        texts = [value for value in values if isinstance(value, str)]
        if texts:
            self._keep_text(max(texts, key=len))
        numbers = [value for value in values if isinstance(value, NUMBERS) and value == value]
        if numbers:
            found = [*self.numbers[:2], min(numbers), max(numbers)]
            self.numbers = [min(found), max(found)]
            if self.column.plain and kinds & LONG_NUMBERS:
                self._keep_text(max(map(str, numbers), key=len))
        if kinds - {str, *NUMBERS} and len(self.others) < 40 * LONGEST:
            self.others.update(dict.fromkeys(self._text(value) for value in values[:: max(1, len(values) // LONGEST)]))

    def _keep_text(self, text: str) -> None:
        if len(self.texts) < LONGEST or len(text) > len(self.texts[-1]):
            self.texts = nlargest(LONGEST, dict.fromkeys([*self.texts, text]), key=len)

    def _text(self, value: Any) -> str:
        try:
            return "" if value is None else self.column.format(value)
        except (ValueError, TypeError):
            return ""  # the row itself will say so, with its number

    def found(self) -> list[str]:
        texts = [text if self.column.plain else self._text(text) for text in self.texts]
        return nlargest(LONGEST, dict.fromkeys([*texts, *map(self._text, self.numbers), *self.others]), key=len)


def widest_texts(columns: Sequence[LedgerColumn], chunks: Iterable[Sequence[Row]]) -> list[tuple[str, ...]]:
    """Rows of texts that have the widest of each column in them."""
    watched = [_Widest(column) for column in columns]
    for chunk in chunks:
        for widest, values in zip(watched, zip(*chunk, strict=True), strict=True):
            widest.take(values)
    return list(zip_longest(*(widest.found() for widest in watched), fillvalue=""))


def holds_figures(texts: Iterable[str]) -> bool:
    """Whether the texts of a column are numbers, dates and the like, which may grow longer."""
    return all(sum(map(str.isalpha, text)) * 2 < len(text) for text in texts if text)
