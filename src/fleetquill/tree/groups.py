"""Rows of a ledger in groups, one within another: where each begins and ends, and what its figures come to."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any, Final, NamedTuple

from fleetquill.errors import OptionError, meant
from fleetquill.keywords import told_constructor
from fleetquill.tree.column import FIGURES, Column
from fleetquill.tree.forms import check_form

TOTAL, SHARE = "total", "share"
SUMMARIES: Final = (TOTAL, *FIGURES, SHARE)
SHARE_FORM, COUNT_FORM = "percent", "#,##0"
SHARE_DIGITS: Final = Decimal("0.001")
ZERO: Final = Decimal(0)


@told_constructor
@dataclass(frozen=True, slots=True)
class Group:
    """A level by which rows that follow one another are grouped.

    `name` is a column, or a value of the rows that no column shows. A heading with the value stands before the rows
    of a group, written in `form` (see `Column`) or by `heading`, a function of the value; with `heads=False` there is
    none. `summaries` are the rows after them: 'total' has what each column says of itself; 'sum', 'average', 'count',
    'least' and 'most' have that figure of each column that has a total; 'share' has what the group's sum is of the
    whole. A pair such as ('average', 'Mean') says what stands beside it. `label` is a function of the value's text and
    the number of rows: what stands beside the first of them. With `new_page` each group begins on a page of its own.
    """

    name: str
    form: str | Callable[[Any], Any] = ""
    heading: Callable[[Any], Any] | None = None
    heads: bool = True
    summaries: Sequence[str | tuple[str, str]] = (TOTAL,)
    label: Callable[[str, int], str] | None = None
    new_page: bool = False

    def __post_init__(self) -> None:
        if not isinstance(self.name, str) or not self.name:
            raise OptionError(f"{self.name!r} is not the name of a group.", remedy="Give the name of a column.")
        if isinstance(self.form, str):
            check_form(self.form)
        if isinstance(self.summaries, str):
            raise OptionError(f"'{self.summaries}' is not a list of summaries.", remedy=f"Give ['{self.summaries}'].")
        for summary, _ in self.rows:
            if summary not in SUMMARIES:
                raise OptionError(f"'{summary}' is no summary of a group.", remedy=meant(str(summary), SUMMARIES))

    @property
    def rows(self) -> list[tuple[str, str]]:
        """The summaries, each with what its author wants to stand beside it, '' where that is left to us."""
        return [(one, "") if isinstance(one, str) else (one[0], one[1]) for one in self.summaries]


def as_groups(given: str | Group | Sequence[str | Group]) -> tuple[Group, ...]:
    """Groups, those that are only a name as such."""
    if not given:
        return ()
    levels = [given] if isinstance(given, (str, Group)) else given
    return tuple(level if isinstance(level, Group) else Group(level) for level in levels)


def read_columns(columns: Sequence[Column], groups: Sequence[Group]) -> list[Column]:
    """The columns that are read of each row: those that are shown, then those that only groups need."""
    shown = {column.name for column in columns}
    return [*columns, *(Column(name) for name in dict.fromkeys(group.name for group in groups) if name not in shown)]


def wants_extremes(totals: Iterable[str], groups: Iterable[Group]) -> bool:
    """Whether any column or summary shows the least or the most of its values."""
    return not {*totals, *(kind for group in groups for kind, _ in group.rows)}.isdisjoint(("least", "most"))


class Account:
    """What rows come to so far: how many they are, and the figures of each column that is added up."""

    __slots__ = ("counts", "extremes", "least", "most", "rows", "sums")

    def __init__(self, columns: int, *, extremes: bool = True) -> None:
        """Without `extremes` nobody asks for the least and the most of its values."""
        self.rows = 0
        self.extremes = extremes
        self.sums = [ZERO] * columns
        self.counts = [0] * columns
        self.least: list[Decimal | None] = [None] * columns
        self.most: list[Decimal | None] = [None] * columns

    def add(self, values: Sequence[Decimal | None]) -> None:
        """Adds a row; None is a value that is not there."""
        self.rows += 1
        for place, value in enumerate(values):
            if value is None:
                continue
            self.sums[place] += value
            self.counts[place] += 1
            if not self.extremes:
                continue
            least, most = self.least[place], self.most[place]
            if least is None or value < least:
                self.least[place] = value
            if most is None or value > most:
                self.most[place] = value

    def merge(self, other: Account) -> None:
        """Adds all rows of another."""
        self.rows += other.rows
        for place, count in enumerate(other.counts):
            self.sums[place] += other.sums[place]
            self.counts[place] += count
            if count and self.extremes:
                self.least[place] = min(_known(self.least[place], other.least[place]))
                self.most[place] = max(_known(self.most[place], other.most[place]))

    def copy(self) -> Account:
        other = Account(0, extremes=self.extremes)
        other.rows = self.rows
        other.sums, other.counts = list(self.sums), list(self.counts)
        other.least, other.most = list(self.least), list(self.most)
        return other

    def figure(self, kind: str, place: int) -> Decimal | None:
        """What a column comes to; None where it has no value, which sums and counts do not need."""
        count = self.counts[place]
        if kind == "sum":
            return self.sums[place]
        if kind == "count":
            return Decimal(count)
        if kind == "average":
            return self.sums[place] / count if count else None
        return self.least[place] if kind == "least" else self.most[place]

    def share(self, place: int, whole: Account) -> Decimal | None:
        """What the sum of a column is of the whole; None where that is nothing."""
        whole_sum = whole.sums[place]
        return (self.sums[place] / whole_sum).quantize(SHARE_DIGITS) if whole_sum else None


def _known(*values: Decimal | None) -> list[Decimal]:
    return [value for value in values if value is not None]


class Ended(NamedTuple):
    """A group that has come to its end."""

    level: int
    key: Any
    account: Account


class Accounts:
    """The whole and the groups that rows stand in, one within another."""

    def __init__(self, levels: int, columns: int, *, extremes: bool = True) -> None:
        self._columns = columns
        self._extremes = extremes
        self.keys: tuple[Any, ...] | None = None  # of the groups at hand
        self._open = [self._new() for _ in range(levels + 1)]  # the whole, then the groups

    def _new(self) -> Account:
        return Account(self._columns, extremes=self._extremes)

    def copy(self) -> Accounts:
        other = Accounts(0, self._columns, extremes=self._extremes)
        other.keys = self.keys
        other._open = [account.copy() for account in self._open]
        return other

    @property
    def whole(self) -> Account:
        """All rows of groups that have ended."""
        return self._open[0]

    def begin(self, keys: tuple[Any, ...]) -> list[Ended]:
        """Groups that end before a row with these keys, the innermost first."""
        known, self.keys = self.keys, keys
        if known is None or known == keys:
            return []
        return self._end(level_of(known, keys), known)

    def add(self, values: Sequence[Decimal | None]) -> None:
        self._open[-1].add(values)

    def finish(self) -> list[Ended]:
        """The groups that end with the last row; `whole` is then all."""
        return [] if self.keys is None else self._end(0, self.keys)

    def _end(self, first: int, keys: tuple[Any, ...]) -> list[Ended]:
        ended: list[Ended] = []
        for level in range(len(keys) - 1, first - 1, -1):
            account = self._open[level + 1]
            self._open[level].merge(account)
            self._open[level + 1] = self._new()
            ended.append(Ended(level, keys[level], account))
        return ended


def level_of(before: tuple[Any, ...], after: tuple[Any, ...]) -> int:
    """The outermost level on which keys differ; how many levels there are where they do not."""
    return next((level for level, (a, b) in enumerate(zip(before, after, strict=True)) if a != b), len(after))


class SummaryRow(NamedTuple):
    """A row after a group: its kind, what stands beside it, and for each column that is added up its value and form
    ('' for the column's own)."""

    kind: str
    level: int
    label: str
    values: tuple[tuple[Decimal | None, str], ...]


def summary_rows(
    ended: Ended, group: Group, text: str, totals: Sequence[str], whole: Account | None, labels: Mapping[str, str]
) -> Iterator[SummaryRow]:
    """The rows after a group. `text` is its value as it is shown, `totals` are the figures of columns that have one,
    `labels` name the summaries in the document's language."""
    account = ended.account
    for number, (kind, given) in enumerate(group.rows):
        label = given or (text if kind == TOTAL else labels.get(kind, kind))
        if group.label is not None and not number:
            label = str(group.label(text, account.rows))
        yield SummaryRow(kind, ended.level, label, tuple(_values(account, kind, totals, whole)))


def _values(
    account: Account, kind: str, totals: Sequence[str], whole: Account | None
) -> Iterator[tuple[Decimal | None, str]]:
    for place, own in enumerate(totals):
        figure = own if kind == TOTAL else kind
        if figure == SHARE:
            yield (None if whole is None else account.share(place, whole)), SHARE_FORM
        else:
            yield account.figure(figure, place), COUNT_FORM if figure == "count" else ""
