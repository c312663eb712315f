"""Tallies: sums that follow a table's rows over its pages, in decimal arithmetic."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal, InvalidOperation
from typing import NamedTuple

from fleetquill.errors import DataError, Where
from fleetquill.layout.boxes.boxes import Element

Sums = Mapping[str, Decimal]
ZERO = Decimal(0)


class TallyView(NamedTuple):
    """What the tallies say at one place of a table."""

    brought: Sums  # before this page
    so_far: Sums  # up to this place
    group: Sums  # of this row group
    all: Sums

    def value(self, name: str, scope: str) -> Decimal:
        if scope == "page":
            return self.so_far.get(name, ZERO) - self.brought.get(name, ZERO)
        sums = {"brought": self.brought, "so-far": self.so_far, "group": self.group, "all": self.all}[scope]
        return sums.get(name, ZERO)


class Contributions:
    """What each row of a table adds to each tally."""

    def __init__(self, rows: Sequence[Sums]) -> None:
        self._running: list[dict[str, Decimal]] = [{}]
        for row in rows:
            if row:
                sums = dict(self._running[-1])
                for name, value in row.items():
                    sums[name] = sums.get(name, ZERO) + value
                self._running.append(sums)
            else:
                self._running.append(self._running[-1])

    @property
    def any(self) -> bool:
        """Whether any row adds anything."""
        return bool(self._running[-1])

    def before(self, row: int) -> Sums:
        """The sums of all rows before `row`."""
        return self._running[row]

    def between(self, first: int, stop: int) -> Sums:
        """The sums of the rows [first, stop)."""
        earlier, later = self._running[first], self._running[stop]
        return {name: value - earlier.get(name, ZERO) for name, value in later.items()}

    def view(self, page_start: int, place: int, group: tuple[int, int]) -> TallyView:
        """The view of a place after `place` rows, on a page that begins with row `page_start`."""
        return TallyView(self.before(page_start), self.before(place), self.between(*group), self._running[-1])

    def widest(self) -> TallyView:
        """A view that shows the whole sums everywhere: for measuring."""
        return TallyView(self._running[-1], self._running[-1], self._running[-1], self._running[-1])


PlaceOf = Callable[[Element | None], Where]  # where an element stands in its source


def value_of(element: Element | None, tally: str, row: int, column: int, place_of: PlaceOf) -> Decimal:
    """The number that a cell adds: its data-value, a <data value> in it, or its text.

    Raises DataError with row and column (from 1) where that is not a number.
    """
    if element is None:
        return ZERO
    text = element.get("data-value")
    if text is None:
        inner = next(element.iter("data"), None)
        text = inner.get("value") if inner is not None else "".join(str(t) for t in element.itertext())
    text = (text or "").strip()
    if not text:
        return ZERO
    try:
        value = Decimal(text)
    except InvalidOperation:
        value = Decimal("NaN")
    if not value.is_finite():
        raise DataError(
            f"Row {row}, column {column}: '{text}' is not a number, and the tally '{tally}' adds it up.",
            where=place_of(element),
            remedy="Give the plain number in a data-value attribute.",
        )
    return value
