"""The rows of a ledger as they are read: their texts, groups and running sums."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal, InvalidOperation
from itertools import islice
from typing import Any, Final

from fleetquill.authoring.ledger import LedgerPlan
from fleetquill.errors import DataError, Where
from fleetquill.layout.table.tallies import TallyView

STRINGS: Final = {str}
ROOM_FOR_SUMS: Final = 100  # times the sum of the sample, for the width of columns that are added up
CHUNK: Final = 512  # rows that are read at a time


class RowStream:
    """Rows with their texts and running sums; those of the page at hand can be asked for again."""

    def __init__(self, plan: LedgerPlan, sample: list[tuple[Any, ...]]) -> None:
        self.plan = plan
        self._rows = plan.rows
        self._formats = [column.format for column in plan.columns]
        self._plain = all(format is str for format in self._formats)
        self._totals = [index for index, column in enumerate(plan.columns) if column.totalled]
        self._waiting = sample
        self._base = 0  # number of the first row that is held
        self.texts: list[tuple[str, ...]] = []
        self._sums: list[tuple[Decimal, ...]] = [(Decimal(0),) * len(self._totals)]
        self._group_sums: list[tuple[Decimal, ...]] = [(Decimal(0),) * len(self._totals)]
        self.groups: list[str] = []
        self.ended = False

    def text(self, number: int) -> tuple[str, ...] | None:
        """The texts of a row; None after the last."""
        while number - self._base >= len(self.texts):
            if self.ended:
                return None
            self._read()
        return self.texts[number - self._base]

    def slice(self, first: int, count: int) -> list[tuple[str, ...]]:
        """Up to `count` rows from `first` on."""
        self.text(first + count)
        start = first - self._base
        return self.texts[start : start + count]

    def group(self, number: int) -> str | None:
        """The group that a row belongs to; None where there is no such row or no grouping."""
        if self.plan.group is None or self.text(number) is None:
            return None
        return self.groups[number - self._base]

    def group_length(self, number: int, most: int) -> int:
        """How many rows from `number` on are of its group, up to `most`."""
        self.text(number + most)
        start = number - self._base
        name = self.groups[start]
        length = 1
        while length < most and start + length < len(self.groups) and self.groups[start + length] == name:
            length += 1
        return length

    def forget(self, number: int) -> None:
        """Drops the rows before `number`: no page asks for them again."""
        drop = number - self._base
        if drop > CHUNK:
            del self.texts[:drop], self.groups[:drop]
            if self._totals:
                del self._sums[:drop], self._group_sums[:drop]
            self._base = number

    def sums(self, number: int) -> dict[str, Decimal]:
        """The tallies of all rows before `number`."""
        return self._named(self._sums[number - self._base if self._totals else 0])

    def group_sums(self, number: int) -> dict[str, Decimal]:
        """The tallies of the rows of one group up to and with the row before `number`."""
        return self._named(self._group_sums[number - self._base if self._totals else 0])

    def widest(self) -> TallyView:
        """Sums wider than any that are to be expected: for measuring."""
        self.text(self._base)
        sums = {name: value * ROOM_FOR_SUMS for name, value in self._named(self._sums[-1]).items()}
        return TallyView({}, sums, sums, sums)

    def _named(self, values: Sequence[Decimal]) -> dict[str, Decimal]:
        names = [self.plan.columns[index].name for index in self._totals]
        return dict(zip(names, values, strict=True))

    def _read(self) -> None:
        rows = self._waiting or list(islice(self._rows, CHUNK))
        self._waiting = []
        if not rows:
            self.ended = True
            return
        group = self.plan.group
        plain = self._plain
        for row in rows:
            texts = row if plain and {value.__class__ for value in row} == STRINGS else self._shown(row)
            if group is not None:
                self.groups.append(texts[group])
            if self._totals:
                self._add(row, group)
            self.texts.append(texts)

    def _shown(self, row: tuple[Any, ...]) -> tuple[str, ...]:
        try:
            return tuple(["" if v is None else show(v) for show, v in zip(self._formats, row, strict=True)])
        except ValueError as error:
            raise self._fault(row, str(error)) from error

    def _fault(self, row: tuple[Any, ...], what: str) -> DataError:
        number = self._base + len(self.texts) + 1
        for column, value in zip(self.plan.columns, row, strict=True):
            try:
                if value is not None:
                    column.format(value)
            except ValueError:
                what = f"column '{column.name}': {what}"
                break
        return DataError(f"Row {number}, {what}.", where=Where(self.plan.source or "rows"))

    def _add(self, row: tuple[Any, ...], group: int | None) -> None:
        values = tuple([self._number(row[index], index) for index in self._totals])
        self._sums.append(tuple(map(Decimal.__add__, self._sums[-1], values)))
        begins = group is not None and (len(self.groups) < 2 or self.groups[-1] != self.groups[-2])
        before = (Decimal(0),) * len(values) if begins else self._group_sums[-1]
        self._group_sums.append(tuple(map(Decimal.__add__, before, values)))

    def _number(self, value: Any, index: int) -> Decimal:
        if value is None or value == "":
            return Decimal(0)
        try:
            number = Decimal(str(value)) if isinstance(value, float) else Decimal(value)
        except (InvalidOperation, TypeError, ValueError):
            number = Decimal("NaN")
        if not number.is_finite():
            row = self._base + len(self.texts) + 1
            raise DataError(
                f"Row {row}, column '{self.plan.columns[index].name}': {value!r} is not a number, but it is added up.",
                where=Where(self.plan.source or "rows"),
            )
        return number
