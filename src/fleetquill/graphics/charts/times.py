"""Time along an axis: dates and moments as days, and the places where a scale of time is marked."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from datetime import date, datetime, timedelta
from typing import Any, Final, NamedTuple

EPOCH: Final = datetime(2000, 1, 1)
DAY: Final = 86_400.0
MONTH: Final = re.compile(r"(\d{4})-(\d{2})")
ISO: Final = re.compile(r"\d{4}-\d{2}-\d{2}(?:[T ]\d{2}:\d{2}(?::\d{2}(?:\.\d+)?)?(?:Z|[+-]\d{2}:?\d{2})?)?")

Write = Callable[[datetime, str], str]  # a moment by a CLDR pattern, in the locale's words


def moment_of(value: Any) -> datetime | None:
    """A date, a moment, or text that is one (ISO 8601; a month, too); zones are left aside. None for all else."""
    if isinstance(value, datetime):
        return value.replace(tzinfo=None)
    if isinstance(value, date):
        return datetime(value.year, value.month, value.day)
    if not isinstance(value, str):
        return None
    text = value.strip()
    try:
        if MONTH.fullmatch(text):
            return datetime.fromisoformat(f"{text}-01")
        return datetime.fromisoformat(text).replace(tzinfo=None) if ISO.fullmatch(text) else None
    except ValueError:
        return None


def days_of(moment: datetime) -> float:
    """Days since the beginning of 2000."""
    return (moment - EPOCH).total_seconds() / DAY


def moment_at(days: float) -> datetime:
    return EPOCH + timedelta(days=days)


class _Unit(NamedTuple):
    """A step of a scale of time; `pattern` is what is written at each, `larger` at the first within a larger unit."""

    days: float
    months: int
    pattern: str
    larger: str


UNITS: Final = (
    *(_Unit(minutes / 1440, 0, "H:mm", "d MMM") for minutes in (1, 5, 10, 15, 30)),
    *(_Unit(hours / 24, 0, "H:mm", "d MMM") for hours in (1, 2, 3, 6, 12)),
    *(_Unit(days, 0, "d", "d MMM") for days in (1, 2, 7, 14)),
    *(_Unit(30.4 * months, months, "LLL", "LLL y") for months in (1, 2, 3, 6)),
    *(_Unit(365.25 * years, 12 * years, "y", "y") for years in (1, 2, 5, 10, 20, 50, 100)),
)


def time_ticks(first: float, last: float, most: int, write: Write) -> list[tuple[float, str]]:
    """Places in days with their labels, at most so many: a label tells its larger unit where that changes."""
    span = max(last - first, 1 / 1440)
    unit = next((u for u in UNITS if span / u.days <= most), UNITS[-1])
    found: list[tuple[float, str]] = []
    before = ""
    for moment in _steps(first, last, unit):
        larger = {"H:mm": "y-M-d", "d": "y-M", "LLL": "y", "y": ""}[unit.pattern]
        here = "".join(str(getattr(moment, name)) + "-" for part in larger.split("-") for name in NAMES.get(part, ()))
        pattern = unit.larger if here != before else unit.pattern
        before = here
        text = write(moment, pattern)
        if unit.pattern == "H:mm" and pattern != unit.pattern and (moment.hour or moment.minute):
            text = f"{write(moment, 'H:mm')}\n{text}"
        found.append((days_of(moment), text))
    return found


NAMES: Final = {"y": ("year",), "M": ("month",), "d": ("day",)}


def _steps(first: float, last: float, unit: _Unit) -> Iterator[datetime]:
    """The moments of a unit between two places."""
    slack = (last - first) * 1e-6
    if unit.months:
        start = moment_at(first)
        month = start.year * 12 + start.month - 1
        month -= month % unit.months
        while True:
            year, index = divmod(month, 12)
            if not 1 <= year <= 9998:
                return
            moment = datetime(year, index + 1, 1)
            if days_of(moment) > last + slack:
                return
            if days_of(moment) >= first - slack:
                yield moment
            month += unit.months
    else:
        base = 2.0 if unit.days == 7 or unit.days == 14 else 0.0  # weeks begin on Monday; 3 January 2000 was one
        number = -((base - first + slack) // unit.days)
        place = base + (number - 1) * unit.days
        while place <= last + slack:
            if place >= first - slack:
                yield moment_at(round(place * 1440) / 1440)
            place += unit.days


def label_of(moments: list[datetime], write: Write) -> list[str]:
    """Moments as names of bars: as finely as they differ."""
    if all((m.hour, m.minute, m.second) == (0, 0, 0) for m in moments):
        if all(m.day == 1 for m in moments) and len({(m.year, m.month) for m in moments}) == len(set(moments)):
            same_year = len({m.year for m in moments}) == 1
            if all(m.month == 1 for m in moments) and not same_year:
                return [write(m, "y") for m in moments]
            return [write(m, "LLL" if same_year and len(moments) > 1 else "LLL y") for m in moments]
        same_year = len({m.year for m in moments}) == 1
        return [write(m, "d MMM" if same_year else "d MMM y") for m in moments]
    return [write(m, "d MMM H:mm") for m in moments]
