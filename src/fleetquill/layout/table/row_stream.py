"""The rows of a ledger as they are read: their texts, groups and running sums."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from decimal import Decimal, InvalidOperation
from math import isfinite
from types import MappingProxyType
from typing import Any, Final, NamedTuple

from fleetquill.deadline import heed
from fleetquill.errors import DataError, Where
from fleetquill.layout.table.tallies import TallyView
from fleetquill.tree.groups import (
    SHARE,
    ZERO,
    Account,
    Accounts,
    Ended,
    Group,
    SummaryRow,
    level_of,
    summary_rows,
    wants_extremes,
)
from fleetquill.tree.rows import CHUNK, Row, Rows
from fleetquill.tree.values import Marked

STRINGS: Final = {str}
NO_LABELS: Final[Mapping[str, str]] = MappingProxyType({})
NO_FORMS: Final[Mapping[str, Callable[[Any], str]]] = MappingProxyType({})
ROOM_FOR_SUMS: Final = 100  # times the sum of the first rows, for the width of columns that are added up
MEASURED: Final = 2_000  # rows that those widths are taken from

Amounts = tuple[Decimal, ...]


class LedgerColumn(NamedTuple):
    """What the ledger needs to know of a column."""

    name: str
    format: Callable[[Any], str]
    plain: bool = False  # whether text stands as it is
    figure: str = ""  # what its values come to: 'sum', 'average' and so on
    mark: Callable[[Any], str] | None = None  # the class of a value's cell


class LedgerGroup(NamedTuple):
    """A level of groups: the place of its value in a row, how that is shown in its heading, and what it asks for."""

    place: int
    format: Callable[[Any], str]
    facts: Group


class LedgerPlan(NamedTuple):
    """A ledger as its author wants it."""

    columns: Sequence[LedgerColumn]
    rows: Rows
    source: str
    groups: Sequence[LedgerGroup] = ()  # the outermost first
    labels: Mapping[str, str] = NO_LABELS  # of summaries
    grows: tuple[bool, ...] = ()  # of rows that are read once: for each column, whether figures stand in it
    marks: tuple[tuple[str, ...], ...] = ()  # for each column, the classes that its cells have
    forms: Mapping[str, Callable[[Any], str]] = NO_FORMS  # how figures are written that no column's form suits


class State(NamedTuple):
    """What is known before a row: the sums of all rows so far, and the accounts of the groups at hand."""

    sums: Amounts
    accounts: Accounts


Keys = tuple[Any, ...]  # the values by which a row is grouped, on each level


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
        self._totals = [(index, column.figure) for index, column in enumerate(plan.columns) if column.figure]
        self._figures = [figure for _, figure in self._totals]
        self._keys = [group.place for group in plan.groups]
        self._width = len(plan.columns)
        self._widest: TallyView | None = None
        self._whole: Account | None = None  # of all rows, where groups say their share of it
        nothing = (ZERO,) * len(self._totals)
        extremes = wants_extremes(self._figures, [group.facts for group in plan.groups])
        accounts = Accounts(len(plan.groups), len(self._totals), extremes=extremes)
        self._states = [State(nothing, accounts)]  # before each chunk that has been read
        self._open(0)

    def _open(self, chunk: int) -> None:
        """Begins the window anew at a chunk that has been read before, or is the first."""
        state = self._states[chunk]
        self._base = chunk * CHUNK  # number of the first row that is held
        self._read_rows = self._base  # how many rows have been read from the start on
        self._chunks: Iterator[list[Row]] = self.plan.rows.chunks(chunk)
        self._texts: list[tuple[str, ...]] = []
        self._groups: list[Keys] = []
        self._before = state.accounts.keys  # of the row before those that are held
        self._sums: list[Amounts] = [state.sums]
        self._accounts = state.accounts.copy()
        self._ended: dict[int, list[Ended]] = {}  # groups by the number of the row after their last
        self._finished = False

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

    def begins(self, number: int) -> int:
        """The outermost level on which groups begin with a row, or end before it; how many levels there are where none
        does."""
        levels = len(self._keys)
        if number == 0 or not self._hold(number):
            return 0
        here = self._groups[number - self._base]
        before = self._groups[number - 1 - self._base] if number > self._base else self._before
        return levels if before is here or before is None else level_of(before, here)

    def heading(self, number: int, level: int) -> str:
        """What stands above the rows of the group that a row belongs to."""
        self._hold(number)
        key = self._groups[number - self._base][level]
        group = self.plan.groups[level]
        shown = key if group.facts.heading is None or key is None else group.facts.heading(key)
        return "" if shown is None else group.format(shown)

    def summaries(self, number: int) -> list[SummaryRow]:
        """The rows that stand after those before `number`: of the groups that end there, the innermost first."""
        self._hold(number)
        return [row for ended in self._ended.get(number, ()) for row in self._summaries(ended)]

    def _summaries(self, ended: Ended) -> Iterator[SummaryRow]:
        group = self.plan.groups[ended.level]
        text = "" if ended.key is None else group.format(ended.key)
        return summary_rows(ended, group.facts, text, self._figures, self._all(), self.plan.labels)

    def _all(self) -> Account | None:
        """What all rows come to, where any group says its share of that: they are read once more for it."""
        if self._whole is None and any(kind == SHARE for group in self.plan.groups for kind, _ in group.facts.rows):
            whole = Account(len(self._totals))
            for chunk in self.plan.rows.chunks():
                for row in chunk:
                    whole.add(self._amounts(row))
            self._whole = whole
        return self._whole

    def cells(self, row: SummaryRow) -> list[str]:
        """The texts of a summary row: beside the columns before the first figure, then under each column."""
        lead = self._totals[0][0] if self._totals else self._width
        texts = [""] * self._width
        for (index, _), (value, form) in zip(self._totals, row.values, strict=True):
            show = self.plan.forms[form] if form else self._formats[index]
            texts[index] = "" if value is None else show(value)
        return [row.label, *texts[lead:]] if lead else texts

    def group_length(self, number: int, most: int) -> int:
        """How many rows from `number` on are of its group, up to `most`."""
        self._hold(number)
        self._hold(number + most)
        start = number - self._base
        keys = self._groups[start]
        length = 1
        while length < most and start + length < len(self._groups) and self._groups[start + length] is keys:
            length += 1
        return length

    def forget(self, number: int) -> None:
        """Drops the rows before `number`: no page is expected to ask for them again."""
        drop = number - self._base
        if drop > CHUNK:
            self._before = self._groups[drop - 1] if self._keys else None
            del self._texts[:drop], self._groups[:drop]
            if self._totals:
                del self._sums[:drop]
            self._ended = {row: ended for row, ended in self._ended.items() if row >= number}
            self._base = number

    def sums(self, number: int) -> dict[str, Decimal]:
        """The tallies of all rows before `number`."""
        if not self._totals:
            return {}
        self._hold(number)
        sums = self._named(self._sums[number - self._base])
        if self._finished and number == self._read_rows:
            whole = self._accounts.whole
            for place, (index, figure) in enumerate(self._totals):
                sums[self.plan.columns[index].name] = whole.figure(figure, place) or ZERO
        return sums

    def _named(self, values: Sequence[Decimal]) -> dict[str, Decimal]:
        return dict(zip([self.plan.columns[index].name for index, _ in self._totals], values, strict=True))

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
            self._finish()
            return False
        keys, plain, width = self._keys, self._plain, self._width
        for row in rows:
            if plain and {value.__class__ for value in row} == STRINGS:
                self._texts.append(row if len(row) == width else row[:width])
            else:
                self._texts.append(self._shown(row))
            if keys:
                self._begin(tuple([row[place] for place in keys]))
            if self._totals or keys:
                self._add(row)
            self._read_rows += 1
        chunk, part = divmod(self._read_rows, CHUNK)
        if not part and chunk == len(self._states):
            self._states.append(State(self._sums[-1], self._accounts.copy()))
        return True

    def _begin(self, keys: Keys) -> None:
        """Takes the groups of the next row; rows of the same group share their keys."""
        accounts = self._accounts
        if accounts.keys == keys:
            self._groups.append(accounts.keys)
            return
        ended = accounts.begin(keys)
        if ended:
            self._ended[self._read_rows] = ended
        self._groups.append(keys)

    def _finish(self) -> None:
        if not self._finished:
            self._finished = True
            ended = self._accounts.finish()
            if ended:
                self._ended[self._read_rows] = ended

    def _shown(self, row: Row) -> tuple[str, ...]:
        try:
            texts = ["" if v is None else show(v) for show, v in zip(self._formats, row, strict=False)]
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
        for column, value in zip(self.plan.columns, row, strict=False):
            try:
                if value is not None:
                    column.format(value)
            except ValueError:
                what = f"column '{column.name}': {what}"
                break
        return DataError(f"Row {self._read_rows + 1}, {what}.", where=Where(self.plan.source or "rows"))

    def _add(self, row: Row) -> None:
        values = self._amounts(row)
        if values:
            pairs = zip(self._sums[-1], values, strict=True)
            self._sums.append(tuple([old if new is None else old + new for old, new in pairs]))
        self._accounts.add(values)

    def _amounts(self, row: Row) -> list[Decimal | None]:
        amounts: list[Decimal | None] = []
        for index, figure in self._totals:
            value = row[index]
            if value.__class__ is float and figure != "count" and isfinite(value):
                amounts.append(Decimal(repr(value)))
            else:
                amounts.append(self._counted(value) if figure == "count" else self._number(value, index))
        return amounts

    @staticmethod
    def _counted(value: Any) -> Decimal | None:
        return None if value is None or value == "" else ZERO

    def _number(self, value: Any, index: int) -> Decimal | None:
        if value is None or value == "":
            return None
        if value.__class__ is Decimal and value.is_finite():
            return value
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
