"""The rows of a ledger as they are read: their texts, groups and running sums."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from decimal import Decimal, InvalidOperation
from typing import Any, Final, NamedTuple

from fleetquill.deadline import heed
from fleetquill.errors import DataError, Where
from fleetquill.layout.table.tallies import TallyView
from fleetquill.tree.rows import CHUNK, Row, Rows
from fleetquill.tree.values import Marked

STRINGS: Final = {str}
ROOM_FOR_SUMS: Final = 100  # times the sum of the first rows, for the width of columns that are added up
MEASURED: Final = 2_000  # rows that those widths are taken from

Amounts = tuple[Decimal, ...]


class LedgerColumn(NamedTuple):
    """What the ledger needs to know of a column."""

    name: str
    format: Callable[[Any], str]
    totalled: bool
    plain: bool = False  # whether text stands as it is
    mark: Callable[[Any], str] | None = None  # the class of a value's cell


class LedgerPlan(NamedTuple):
    """A ledger as its author wants it."""

    columns: Sequence[LedgerColumn]
    rows: Rows
    group: int | None  # the column by whose value rows are grouped
    source: str
    grows: tuple[bool, ...] = ()  # of rows that are read once: for each column, whether figures stand in it
    marks: tuple[tuple[str, ...], ...] = ()  # for each column, the classes that its cells have


class State(NamedTuple):
    """What is known before a row: the sums of all rows so far, those of the group at hand, and its name."""

    sums: Amounts
    group_sums: Amounts
    group: str | None


class RowStream:
    """A window of rows with their texts and running sums.

    It moves on as pages ask for rows, and goes back where a page is laid out again: rows are opened
    anew then, from the last place whose sums were written down.
    """

    def __init__(self, plan: LedgerPlan) -> None:
        self.plan = plan
        self._formats = [column.format for column in plan.columns]
        self._plain = all(column.plain and column.mark is None for column in plan.columns)
        self._marks = [(index, column.mark) for index, column in enumerate(plan.columns) if column.mark is not None]
        self._totals = [index for index, column in enumerate(plan.columns) if column.totalled]
        nothing = (Decimal(0),) * len(self._totals)
        self._widest: TallyView | None = None
        self._states = [State(nothing, nothing, None)]  # before each chunk that has been read
        self._open(0)

    def _open(self, chunk: int) -> None:
        """Begins the window anew at a chunk that has been read before, or is the first."""
        state = self._states[chunk]
        self._base = chunk * CHUNK  # number of the first row that is held
        self._read_rows = self._base  # how many rows have been read from the start on
        self._chunks: Iterator[list[Row]] = self.plan.rows.chunks(chunk)
        self._texts: list[tuple[str, ...]] = []
        self._groups: list[str] = []
        self._sums: list[Amounts] = [state.sums]
        self._group_sums: list[Amounts] = [state.group_sums]
        self._group = state.group

    def _hold(self, number: int) -> bool:
        """Takes care that a row is in the window; False where there is no such row."""
        if number < self._base:
            self._open(min(number // CHUNK, len(self._states) - 1))
        while number - self._base >= len(self._texts):
            heed()
            if not self._read():
                return False
        return True

    # ---- what pages ask ----

    def text(self, number: int) -> tuple[str, ...] | None:
        """The texts of a row; None after the last."""
        return self._texts[number - self._base] if self._hold(number) else None

    def slice(self, first: int, count: int) -> list[tuple[str, ...]]:
        """Up to `count` rows from `first` on."""
        self._hold(first)
        self._hold(first + count)
        start = first - self._base
        return self._texts[start : start + count]

    def group(self, number: int) -> str | None:
        """The group that a row belongs to; None where there is no such row or no grouping."""
        if self.plan.group is None or not self._hold(number):
            return None
        return self._groups[number - self._base]

    def group_length(self, number: int, most: int) -> int:
        """How many rows from `number` on are of its group, up to `most`."""
        self._hold(number)
        self._hold(number + most)
        start = number - self._base
        name = self._groups[start]
        length = 1
        while length < most and start + length < len(self._groups) and self._groups[start + length] == name:
            length += 1
        return length

    def forget(self, number: int) -> None:
        """Drops the rows before `number`: no page is expected to ask for them again."""
        drop = number - self._base
        if drop > CHUNK:
            del self._texts[:drop], self._groups[:drop]
            if self._totals:
                del self._sums[:drop], self._group_sums[:drop]
            self._base = number

    def sums(self, number: int) -> dict[str, Decimal]:
        """The tallies of all rows before `number`."""
        self._hold(number)
        return self._named(self._sums[number - self._base]) if self._totals else {}

    def group_sums(self, number: int) -> dict[str, Decimal]:
        """The tallies of the rows of one group up to and with the row before `number`."""
        self._hold(number)
        return self._named(self._group_sums[number - self._base]) if self._totals else {}

    def _named(self, values: Sequence[Decimal]) -> dict[str, Decimal]:
        return dict(zip([self.plan.columns[index].name for index in self._totals], values, strict=True))

    def widest(self) -> TallyView:
        """Sums wider than any that are to be expected: for measuring."""
        if self._widest is None:
            self._hold(MEASURED)
            last = min(MEASURED - self._base, len(self._sums) - 1)
            sums = {name: value * ROOM_FOR_SUMS for name, value in self._named(self._sums[last]).items()}
            self._widest = TallyView({}, sums, sums, sums)
        return self._widest

    # ---- reading ----

    def _read(self) -> bool:
        rows = next(self._chunks, None)
        if rows is None:
            return False
        group = self.plan.group
        plain = self._plain
        for row in rows:
            texts = row if plain and {value.__class__ for value in row} == STRINGS else self._shown(row)
            begins = False
            if group is not None:
                begins = texts[group] != self._group
                self._group = texts[group]
                self._groups.append(texts[group])
            if self._totals:
                self._add(row, begins)
            self._texts.append(texts)
            self._read_rows += 1
        chunk, part = divmod(self._read_rows, CHUNK)
        if not part and chunk == len(self._states):
            self._states.append(State(self._sums[-1], self._group_sums[-1], self._group))
        return True

    def _shown(self, row: Row) -> tuple[str, ...]:
        try:
            texts = ["" if v is None else show(v) for show, v in zip(self._formats, row, strict=True)]
        except ValueError as error:
            raise self._fault(row, str(error)) from error
        for index, mark_of in self._marks:
            try:
                mark = mark_of(row[index])
            except ValueError as error:
                name = self.plan.columns[index].name
                what = f"Row {self._read_rows + 1}, column '{name}': {error}."
                raise DataError(what, where=Where(self.plan.source or "rows")) from error
            if mark:
                texts[index] = Marked.of(texts[index], mark)
        return tuple(texts)

    def _fault(self, row: Row, what: str) -> DataError:
        for column, value in zip(self.plan.columns, row, strict=True):
            try:
                if value is not None:
                    column.format(value)
            except ValueError:
                what = f"column '{column.name}': {what}"
                break
        return DataError(f"Row {self._read_rows + 1}, {what}.", where=Where(self.plan.source or "rows"))

    def _add(self, row: Row, begins: bool) -> None:
        values = tuple([self._number(row[index], index) for index in self._totals])
        self._sums.append(tuple(map(Decimal.__add__, self._sums[-1], values)))
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
            name = self.plan.columns[index].name
            raise DataError(
                f"Row {self._read_rows + 1}, column '{name}': {value!r} is not a number, but it is added up.",
                where=Where(self.plan.source or "rows"),
            )
        return number
