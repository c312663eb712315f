"""Functions that formulas of conditional formats may call (ISO/IEC 29500-1 §18.17.7)."""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from datetime import date, datetime, timedelta
from fnmatch import translate
from statistics import fmean, median, stdev
from typing import Any, Final, NoReturn

from fleetquill.intake.workbooks.area import Area
from fleetquill.intake.workbooks.number_formats import EPOCH, serial

LAST_DAY: Final = 2_958_465.0  # 9999-12-31
ERROR: Final = re.compile(r"#(?:DIV/0!|N/A|NAME\?|NULL!|NUM!|REF!|VALUE!|GETTING_DATA|SPILL!|CALC!)")
CRITERION: Final = re.compile(r"(<=|>=|<>|<|>|=)?(.*)", re.DOTALL)
MOST_TEXT: Final = 32_767


class Fault(Exception):
    """An error that a formula gives, such as #DIV/0!."""


class Cells:
    """The values of an area; two of the same area are the same."""

    __slots__ = ("area", "counted", "values")

    def __init__(self, area: Area, values: list[Plain]) -> None:
        self.area = area
        self.values = values
        self.counted: Counter[Any] | None = None

    def counts(self) -> Counter[Any]:
        """How often each value is there."""
        if self.counted is None:
            self.counted = Counter(key_of(value) for value in self.values)
        return self.counted


Plain = float | str | bool | None
Value = Plain | Cells
Function = Callable[[Sequence[Value]], Value]


def single(value: Value) -> Plain:
    """The value of one cell; an error in it is raised."""
    if isinstance(value, Cells):
        if len(value.values) != 1:
            _wrong()
        return single(value.values[0])
    if isinstance(value, str) and value.startswith("#") and ERROR.fullmatch(value):
        raise Fault(value)
    return value


def number(value: Value) -> float:
    value = single(value)
    if value is None or isinstance(value, (bool, int, float)):
        return float(value or 0.0)
    try:
        found = float(str(value))
    except ValueError:
        return _wrong()
    return found if math.isfinite(found) else _wrong()


def text(value: Value) -> str:
    value = single(value)
    if isinstance(value, bool):
        return "TRUE" if value else "FALSE"
    if isinstance(value, float):
        return f"{value:.15g}"
    return "" if value is None else str(value)


def key_of(value: Any) -> tuple[int, Any]:
    """What values are compared by: numbers before text before truths, text without its case."""
    if isinstance(value, bool):
        return 2, value
    if isinstance(value, (int, float)):
        return 0, float(value)
    return (1, value.casefold()) if isinstance(value, str) else (-1, None)


def _wrong() -> NoReturn:
    raise Fault("#VALUE!")


# ---- what functions are given ----


def _all(values: Sequence[Value]) -> Iterator[Value]:
    for value in values:
        if isinstance(value, Cells):
            yield from map(single, value.values)
        else:
            yield single(value)


def _numbers(values: Sequence[Value]) -> list[float]:
    """Numbers of areas and those given; text in areas is passed over."""
    found: list[float] = []
    for value in values:
        if isinstance(value, Cells):
            cells = map(single, value.values)
            found += [float(cell) for cell in cells if isinstance(cell, float) and not isinstance(cell, bool)]
        else:
            found.append(number(value))
    return found


def _truths(values: Sequence[Value]) -> list[bool]:
    return [bool(number(value)) for value in _all(values) if value is not None]


def _at(values: Sequence[Value], index: int, usual: Value = None) -> Value:
    return single(values[index]) if index < len(values) else usual


def _of(work: Callable[[list[float]], float], *, least: int = 1) -> Function:
    """A function of all numbers that it is given."""

    def call(values: Sequence[Value]) -> Value:
        found = _numbers(values)
        if len(found) < least:
            raise Fault("#DIV/0!")
        return float(work(found))

    return call


def _plain(work: Callable[..., Value], least: int = 1, most: int | None = None) -> Function:
    """A function of so many single values."""

    def call(values: Sequence[Value]) -> Value:
        if not least <= len(values) <= (most or least):
            return _wrong()
        try:
            return work(*map(single, values))
        except (ArithmeticError, ValueError) as error:
            raise Fault("#NUM!") from error

    return call


# ---- numbers ----


def _rounded(away: str) -> Callable[..., float]:
    def work(value: Value, digits: Value = None) -> float:
        scale = 10.0 ** max(-15, min(15, int(number(digits))))
        scaled = abs(number(value)) * scale
        whole = {"up": math.ceil, "down": math.floor}.get(away, lambda at: math.floor(at + 0.5))(scaled)
        return math.copysign(whole / scale, number(value))

    return work


def _stepped(work: Callable[[float], float]) -> Callable[[Value, Value], float]:
    """A number at a multiple of another."""

    def call(value: Value, step: Value) -> float:
        size = number(step)
        return work(number(value) / size) * size if size else 0.0

    return call


def _mod(value: Value, divisor: Value) -> float:
    by = number(divisor)
    if not by:
        raise Fault("#DIV/0!")
    return number(value) - by * math.floor(number(value) / by)


def _ranked(values: Sequence[Value], *, largest: bool) -> float:
    numbers = sorted(_numbers(values[:1]), reverse=largest)
    at = int(number(_at(values, 1)))
    if not 1 <= at <= len(numbers):
        raise Fault("#NUM!")
    return numbers[at - 1]


# ---- counting ----


def _criterion(said: Value) -> Callable[[Any], bool]:
    """What a cell has to be: a value, text with * and ?, or a comparison."""
    if not isinstance(said, str):
        return lambda value: key_of(value) == key_of(said)
    found = CRITERION.fullmatch(said)
    assert found is not None
    sign, wanted = found[1] or "=", found[2]
    try:
        limit: float | str = float(wanted)
    except ValueError:
        limit = wanted
    if sign in ("=", "<>"):
        same = _alike(limit)
        return same if sign == "=" else lambda value: not same(value)
    kind, edge = key_of(limit)
    compare = {"<": lambda v: v < edge, ">": lambda v: v > edge, "<=": lambda v: v <= edge, ">=": lambda v: v >= edge}
    return lambda value: key_of(value)[0] == kind and compare[sign](key_of(value)[1])


def _alike(limit: float | str) -> Callable[[Any], bool]:
    if isinstance(limit, float):
        return lambda value: key_of(value) == (0, limit)
    if not limit:
        return lambda value: value is None or value == ""
    pattern = re.compile(translate(limit.casefold().replace("[", "[[]")))
    return lambda value: isinstance(value, str) and pattern.match(value.casefold()) is not None


def _count_if(values: Sequence[Value]) -> Value:
    if len(values) != 2 or not isinstance(values[0], Cells):
        return _wrong()
    wanted = single(values[1])
    if not isinstance(wanted, str):
        return float(values[0].counts()[key_of(wanted)])
    holds = _criterion(wanted)
    return float(sum(holds(value) for value in values[0].values))


def _count_ifs(values: Sequence[Value]) -> Value:
    pairs = [(values[at], _criterion(single(values[at + 1]))) for at in range(0, len(values) - 1, 2)]
    columns = [[holds(value) for value in cells.values] for cells, holds in pairs if isinstance(cells, Cells)]
    return float(sum(map(all, zip(*columns, strict=False)))) if len(columns) == len(pairs) else _wrong()


def _match(values: Sequence[Value]) -> Value:
    """The place of a value in a row or column, where it is looked for as it stands."""
    if len(values) < 2 or not isinstance(values[1], Cells) or number(_at(values, 2, 1.0)):
        return _wrong()
    holds = _criterion(single(values[0]))
    for at, value in enumerate(values[1].values, 1):
        if holds(value):
            return float(at)
    raise Fault("#N/A")


# ---- text and days ----


def _found(*, exact: bool) -> Callable[..., float]:
    def work(part: Value, whole: Value, start: Value = 1.0) -> float:
        one, other = text(part), text(whole)
        if not exact:
            one, other = one.casefold(), other.casefold()
        at = other.find(one, int(number(start)) - 1)
        return float(at + 1) if at >= 0 else _wrong()

    return work


def _day(value: Value) -> datetime:
    days = number(value)
    if not 0 <= days <= LAST_DAY:
        raise Fault("#NUM!")
    return EPOCH + timedelta(days=days)


def _moved(day: datetime, months: int, *, to_end: bool = False) -> float:
    """A day some months away, at most the last of its month."""
    year, month = divmod(day.year * 12 + day.month - 1 + months, 12)
    following = date(year + (month == 11), (month + 1) % 12 + 1, 1)
    last = (following - timedelta(days=1)).day
    return serial(date(year, month + 1, last if to_end else min(day.day, last)))


def _date(year: Value, month: Value, day: Value) -> float:
    return _moved(datetime(int(number(year)), 1, 1), int(number(month)) - 1) + number(day) - 1


def _weekday(value: Value, kind: Value = 1.0) -> float:
    monday = _day(value).weekday()  # 0 for Monday
    found = {1: (monday + 1) % 7 + 1, 2: monday + 1, 3: monday}.get(int(number(kind)))
    return _wrong() if found is None else float(found)


FUNCTIONS: Final[dict[str, Function]] = {
    "AND": lambda values: all(_truths(values)), "OR": lambda values: any(_truths(values)),
    "XOR": lambda values: sum(_truths(values)) % 2 == 1, "NOT": _plain(lambda value: not number(value)),
    "TRUE": lambda _: True, "FALSE": lambda _: False,
    "ISBLANK": lambda values: _at(values, 0) is None,
    "ISNUMBER": lambda values: isinstance(_at(values, 0), float),
    "ISTEXT": lambda values: isinstance(_at(values, 0), str),
    "ISNONTEXT": lambda values: not isinstance(_at(values, 0), str),
    "ISLOGICAL": lambda values: isinstance(_at(values, 0), bool),
    "ISEVEN": _plain(lambda value: int(number(value)) % 2 == 0),
    "ISODD": _plain(lambda value: int(number(value)) % 2 == 1),
    "SUM": _of(sum, least=0), "PRODUCT": _of(math.prod, least=0), "AVERAGE": _of(fmean), "MEDIAN": _of(median),
    "MIN": _of(lambda numbers: min(numbers, default=0.0), least=0), "STDEV": _of(stdev, least=2),
    "MAX": _of(lambda numbers: max(numbers, default=0.0), least=0), "STDEV.S": _of(stdev, least=2),
    "LARGE": lambda values: _ranked(values, largest=True), "SMALL": lambda values: _ranked(values, largest=False),
    "COUNT": lambda values: float(sum(isinstance(value, float) for value in _all(values))),
    "COUNTA": lambda values: float(sum(value is not None for value in _all(values))),
    "COUNTBLANK": lambda values: float(sum(value is None or value == "" for value in _all(values))),
    "COUNTIF": _count_if, "COUNTIFS": _count_ifs, "MATCH": _match,
    "ABS": _plain(lambda value: abs(number(value))), "SIGN": _plain(lambda value: math.copysign(1, number(value))
                                                                    if number(value) else 0.0),
    "INT": _plain(lambda value: float(math.floor(number(value)))), "SQRT": _plain(lambda v: math.sqrt(number(v))),
    "ROUND": _plain(_rounded("half"), 2), "ROUNDUP": _plain(_rounded("up"), 2),
    "ROUNDDOWN": _plain(_rounded("down"), 2), "TRUNC": _plain(_rounded("down"), 1, 2),
    "FLOOR": _plain(_stepped(math.floor), 2), "CEILING": _plain(_stepped(math.ceil), 2), "MOD": _plain(_mod, 2),
    "LEN": _plain(lambda value: float(len(text(value)))), "LOWER": _plain(lambda value: text(value).lower()),
    "UPPER": _plain(lambda value: text(value).upper()),
    "TRIM": _plain(lambda value: " ".join(filter(None, text(value).split(" ")))),
    "LEFT": _plain(lambda value, count=1.0: text(value)[: max(0, int(number(count)))], 1, 2),
    "RIGHT": _plain(lambda value, count=1.0: text(value)[-int(number(count)) :] if number(count) >= 1 else "", 1, 2),
    "MID": _plain(lambda value, start, count: text(value)[max(0, int(number(start)) - 1) :][: int(number(count))], 3),
    "FIND": _plain(_found(exact=True), 2, 3), "SEARCH": _plain(_found(exact=False), 2, 3),
    "EXACT": _plain(lambda one, other: text(one) == text(other), 2), "VALUE": _plain(number),
    "N": _plain(lambda value: number(value) if not isinstance(value, str) else 0.0),
    "CONCATENATE": lambda values: "".join(map(text, values))[:MOST_TEXT],
    "DATE": _plain(_date, 3), "YEAR": _plain(lambda value: float(_day(value).year)),
    "MONTH": _plain(lambda value: float(_day(value).month)), "DAY": _plain(lambda value: float(_day(value).day)),
    "HOUR": _plain(lambda value: float(_day(value).hour)), "WEEKDAY": _plain(_weekday, 1, 2),
    "EDATE": _plain(lambda day, months: _moved(_day(day), int(number(months))), 2),
    "EOMONTH": _plain(lambda day, months: _moved(_day(day), int(number(months)), to_end=True), 2),
    "ISOWEEKNUM": _plain(lambda value: float(_day(value).isocalendar().week)),
}  # fmt: skip
