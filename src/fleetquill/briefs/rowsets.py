"""Rows of a brief: opened when a part asks for them, and what is made of them on the way, row by row."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from decimal import Decimal
from itertools import chain
from operator import itemgetter
from typing import Any, Final, NamedTuple

from fleetquill.briefs.expressions import Expression, Values, plain
from fleetquill.briefs.nodes import Node
from fleetquill.briefs.parameters import as_type
from fleetquill.deadline import heed
from fleetquill.errors import meant, shown
from fleetquill.formats import as_amount
from fleetquill.tree.groups import ZERO, Account
from fleetquill.tree.rows import Row, SpooledRows

Names = tuple[str, ...]
NOTHING: Final = object()


class Opened(NamedTuple):
    """Rows that have been opened: the names of their values, and the rows as they come."""

    names: Names
    rows: Iterator[Row]

    def place(self, name: str, node: Node) -> int:
        """Where a value stands in each row. Raises DataError where there is none of that name."""
        if name not in self.names:
            raise node.fault(f"The rows have no '{name}'.", meant(name, self.names))
        return self.names.index(name)

    def places(self, names: Iterable[str], node: Node) -> list[int]:
        return [self.place(name, node) for name in names]

    def records(self) -> Iterator[dict[str, Any]]:
        """The rows as mappings."""
        for row in self.rows:
            yield dict(zip(self.names, row, strict=True))

    def peeked(self) -> tuple[Opened, bool]:
        """The same rows, and whether there is any."""
        first = next(self.rows, None)
        if first is None:
            return self, False
        return Opened(self.names, chain([first], self.rows)), True


class RowSet:
    """Rows that parts can open, each for itself.

    Those that are asked for once go by as they come; others are kept, many of them in a temporary file.
    """

    def __init__(self, open_rows: Callable[[], Opened], *, often: bool) -> None:
        self._open = open_rows
        self._often = often
        self._names: Names | None = None
        self._kept: SpooledRows | None = None

    def open(self) -> Opened:
        if self._kept is not None and self._names is not None:
            return Opened(self._names, self._again(self._kept))
        opened = self._open()
        if not self._often:
            return opened
        self._names, self._kept = opened.names, SpooledRows(opened.rows)
        return Opened(self._names, self._again(self._kept))

    @staticmethod
    def _again(kept: SpooledRows) -> Iterator[Row]:
        for chunk in kept.chunks():
            yield from chunk

    def __iter__(self) -> Iterator[dict[str, Any]]:
        """The rows as expressions see them."""
        opened = self.open()
        for row in opened.rows:
            yield dict(zip(opened.names, map(plain, row), strict=True))

    def __len__(self) -> int:
        return sum(1 for _ in self.open().rows)

    def __bool__(self) -> bool:
        return next(self.open().rows, None) is not None

    def __getitem__(self, number: int) -> dict[str, Any]:
        for place, row in enumerate(self):
            if place == number:
                return row
        raise IndexError(number)


def held(names: Names, rows: Sequence[Row]) -> RowSet:
    """Rows that are in memory."""
    return RowSet(lambda: Opened(names, iter(rows)), often=False)


Stage = Callable[[Opened], Opened]


def typed(opened: Opened, types: Node) -> Opened:
    """Values as the types have them that are given for their names."""
    kinds = [(opened.place(name, node), node.text(), node) for name, node in types.items()]

    def rows() -> Iterator[Row]:
        for number, row in enumerate(opened.rows, 1):
            values = list(row)
            for place, kind, node in kinds:
                try:
                    values[place] = None if values[place] == "" else as_type(values[place], kind)
                except ValueError as error:
                    raise node.fault(f"row {number}, '{opened.names[place]}': {error}.") from error
            yield tuple(values)

    return Opened(opened.names, rows())


class RowValues:
    """The values that an expression asks for, of each row."""

    def __init__(self, opened: Opened, asked: Iterable[str], outer: Values) -> None:
        names = set(asked)
        self._places = [(name, place) for place, name in enumerate(opened.names) if name in names]
        self._outer = {name: value for name, value in outer.items() if name in names}

    def of(self, row: Row) -> dict[str, Any]:
        values = dict(self._outer)
        for name, place in self._places:
            values[name] = plain(row[place])
        return values


def computed(opened: Opened, expressions: Sequence[tuple[str, Expression]], outer: Values) -> Opened:
    """Rows with values that are worked out, each of which may use those before it."""
    names = opened.names
    for name, _ in expressions:
        names = names if name in names else (*names, name)
    asked = RowValues(opened, {n for _, expression in expressions for n in expression.names}, outer)
    added = len(names) - len(opened.names)
    targets = [(name, names.index(name), expression) for name, expression in expressions]

    def rows() -> Iterator[Row]:
        for number, row in enumerate(opened.rows, 1):
            heed()
            values = asked.of(row)
            made = [*row, *[None] * added]
            for name, place, expression in targets:
                made[place] = values[name] = expression.value(values, f"row {number}")
            yield tuple(made)

    return Opened(names, rows())


def filtered(opened: Opened, condition: Expression, outer: Values) -> Opened:
    asked = RowValues(opened, condition.names, outer)

    def rows() -> Iterator[Row]:
        for number, row in enumerate(opened.rows, 1):
            heed()
            if condition.holds(asked.of(row), f"row {number}"):
                yield row

    return Opened(opened.names, rows())


def kept(opened: Opened, names: Sequence[str], node: Node) -> Opened:
    """The values of some names alone, in their order."""
    places = opened.places(names, node)
    pick = itemgetter(*places) if len(places) > 1 else None
    rows = map(pick, opened.rows) if pick is not None else ((row[places[0]],) for row in opened.rows)
    return Opened(tuple(names), iter(rows))


def sorted_by(opened: Opened, keys: Sequence[str], node: Node) -> Opened:
    """Rows in the order of names, from the highest where a '-' stands before one; what is missing comes last."""
    rows = list(opened.rows)
    for key in reversed(keys):
        place = opened.place(key.removeprefix("-"), node)
        there = [row for row in rows if row[place] is not None]
        missing = [row for row in rows if row[place] is None]
        try:
            there.sort(key=itemgetter(place), reverse=key.startswith("-"))
        except TypeError as error:
            raise node.fault(f"'{key}' cannot be sorted: its values are of several kinds.") from error
        rows = there + missing
    return Opened(opened.names, iter(rows))


def distinct(opened: Opened, names: Sequence[str], node: Node) -> Opened:
    """The first row of each combination of values."""
    places = opened.places(names or opened.names, node)

    def rows() -> Iterator[Row]:
        seen: set[Row] = set()
        for row in opened.rows:
            key = tuple([row[place] for place in places])
            if key not in seen:
                seen.add(key)
                yield row

    return Opened(opened.names, rows())


def first(opened: Opened, count: int) -> Opened:
    """The first rows; those after them are not read."""

    def rows() -> Iterator[Row]:
        for _, row in zip(range(count), opened.rows, strict=False):
            yield row

    return Opened(opened.names, rows())


class Measure(NamedTuple):
    """A value that is added up row by row, within rows that have some values alike."""

    name: str  # of what it comes to
    of: str
    within: Sequence[str]
    node: Node


def running(opened: Opened, measures: Sequence[Measure]) -> Opened:
    """Rows with what values come to so far."""
    found = [(opened.place(m.of, m.node), opened.places(m.within, m.node), m) for m in measures]

    def rows() -> Iterator[Row]:
        sums: list[dict[Row, Decimal]] = [{} for _ in found]
        for number, row in enumerate(opened.rows, 1):
            more: list[Decimal] = []
            for so_far, (place, within, measure) in zip(sums, found, strict=True):
                key = tuple([row[inner] for inner in within])
                so_far[key] = so_far.get(key, ZERO) + _number(row[place], measure, number)
                more.append(so_far[key])
            yield (*row, *more)

    return Opened((*opened.names, *(measure.name for measure in measures)), rows())


def shares(opened: Opened, measures: Sequence[Measure]) -> Opened:
    """Rows with what values are of the whole: they are gone through twice."""
    found = [(opened.place(m.of, m.node), opened.places(m.within, m.node), m) for m in measures]
    spooled = SpooledRows(opened.rows)

    def rows() -> Iterator[Row]:
        wholes: list[dict[Row, Decimal]] = [{} for _ in found]
        for number, row in enumerate(chain.from_iterable(spooled.chunks()), 1):
            for whole, (place, within, measure) in zip(wholes, found, strict=True):
                key = tuple([row[inner] for inner in within])
                whole[key] = whole.get(key, ZERO) + _number(row[place], measure, number)
        for number, row in enumerate(chain.from_iterable(spooled.chunks()), 1):
            more: list[Decimal | None] = []
            for whole, (place, within, measure) in zip(wholes, found, strict=True):
                of = whole[tuple([row[inner] for inner in within])]
                more.append(_number(row[place], measure, number) / of if of else None)
            yield (*row, *more)

    return Opened((*opened.names, *(measure.name for measure in measures)), rows())


def _number(value: Any, measure: Measure, number: int) -> Decimal:
    return _added(value, "sum", measure, number) or ZERO


def _added(value: Any, figure: str, said: Measure | Wanted, number: int) -> Decimal | None:
    """What a value adds to a figure; raises DataError where it is no number."""
    try:
        return as_amount(value, figure)
    except ValueError as error:
        raise said.node.fault(f"row {number}, '{said.of}': {shown(value)} is not a number.") from error


class Wanted(NamedTuple):
    """A figure of each group of rows: its name, what it is ('sum', 'count', …) and of which value; '' for the rows."""

    name: str
    figure: str
    of: str
    node: Node


def summed(opened: Opened, by: Sequence[str], figures: Sequence[Wanted], node: Node) -> Opened:
    """A row for each combination of values, in the order in which they are met, with figures of its rows."""
    keys = opened.places(by, node)
    places = [opened.place(wanted.of, wanted.node) if wanted.of else None for wanted in figures]

    def rows() -> Iterator[Row]:
        accounts: dict[Row, Account] = {}
        for number, row in enumerate(opened.rows, 1):
            heed()
            key = tuple([row[place] for place in keys])
            account = accounts.get(key)
            if account is None:
                account = accounts[key] = Account(len(figures))
            account.add([_amount(row, place, one, number) for place, one in zip(places, figures, strict=True)])
        for key, account in accounts.items():
            yield (*key, *(account.figure(one.figure, place) for place, one in enumerate(figures)))

    return Opened((*by, *(wanted.name for wanted in figures)), rows())


def _amount(row: Row, place: int | None, wanted: Wanted, number: int) -> Decimal | None:
    if place is None:
        return ZERO
    return _added(row[place], wanted.figure, wanted, number)


def joined(opened: Opened, other: Opened, keys: Mapping[str, str], node: Node) -> Opened:
    """Rows with the values of others that agree with them: each as often as it finds one, once where it finds none."""
    left = opened.places(keys.keys(), node)
    right = other.places(keys.values(), node)
    more = [place for place, name in enumerate(other.names) if name not in keys.values()]
    for place in more:
        if other.names[place] in opened.names:
            raise node.fault(
                f"Both sides have a '{other.names[place]}'.", "Take it out of one, with 'keep' or 'from' and 'compute'."
            )
    found: dict[Row, list[Row]] = {}
    for row in other.rows:
        key = tuple([row[place] for place in right])
        found.setdefault(key, []).append(tuple([row[place] for place in more]))
    none = [(None,) * len(more)]

    def rows() -> Iterator[Row]:
        for row in opened.rows:
            for match in found.get(tuple([row[place] for place in left]), none):
                yield (*row, *match)

    return Opened((*opened.names, *(other.names[place] for place in more)), rows())
