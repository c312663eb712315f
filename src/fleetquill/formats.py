"""Numbers, money, percentages and dates by locale: CLDR patterns through Babel.

The functions are the filters of templates. Each takes the value first and raises ValueError with a
message for people where the value is not of its kind.
"""

from __future__ import annotations

from collections.abc import Callable
from datetime import date, datetime, time
from decimal import Decimal, InvalidOperation
from functools import lru_cache
from typing import TYPE_CHECKING, Any, Final

from fleetquill.errors import OptionError

if TYPE_CHECKING:
    from babel import Locale
    from babel.numbers import NumberPattern

MOST_PATTERNS: Final = 256
MOST_DATES: Final = 4_096


def check_locale(locale: str) -> None:
    """Raises OptionError where a locale is none. The usual one is known to be one without a look."""
    if locale != "en":
        _locale(locale)


def _locale(name: str) -> Locale:
    from babel import Locale, UnknownLocaleError

    try:
        return Locale.parse(name.replace("-", "_"))
    except (UnknownLocaleError, ValueError, TypeError, AttributeError) as error:
        raise OptionError(
            f"The locale '{name}' is not known.",
            remedy="Use a language or a language and a country: 'de', 'en-IE'.",
        ) from error


class Formats:
    """The formats of one locale, such as 'en-IE' or 'de'."""

    def __init__(self, locale: str) -> None:
        self.locale = _locale(locale)

    def money(self, value: Any, currency: str = "EUR") -> str:
        """An amount with its currency as the locale writes it."""
        from babel.numbers import format_currency

        return format_currency(as_decimal(value), currency, locale=self.locale)

    def number(self, value: Any, pattern: str | None = None) -> str:
        """A number, by a CLDR pattern such as '#,##0.00' or the locale's own."""
        from babel.numbers import format_decimal

        return format_decimal(as_decimal(value), format=_number_pattern(pattern), locale=self.locale)

    def percent(self, value: Any, pattern: str | None = None) -> str:
        """A share as a percentage: 0.21 is 21 %."""
        from babel.numbers import format_percent

        form = _number_pattern(pattern)
        return format_percent(as_decimal(value), format=form, locale=self.locale, decimal_quantization=False)

    def date(self, value: Any, form: str = "medium") -> str:
        """A date: `form` is short, medium, long, full or a CLDR pattern. ISO text is a date, too."""
        day = _as_date(value)
        return _date_text(day.date() if isinstance(day, datetime) else day, form, self.locale)

    def time(self, value: Any, form: str = "short") -> str:
        """A time of day, as `date`."""
        from babel.dates import format_time

        return format_time(_as_time(value), format=form, locale=self.locale)

    def plural(self, value: Any, one: str, other: str, **forms: str) -> str:
        """The form of a word for a number: `one`, `other`, or another CLDR category given by name."""
        category = self.locale.plural_form(as_decimal(value))
        return {"one": one, "other": other, **forms}.get(category, other)

    def form(self, value: Any, form: str) -> str:
        """A value in a form: a CLDR pattern, 'money:EUR', 'percent', 'date:long', 'time', or '' for plain."""
        kind, _, detail = form.partition(":")
        if kind == "money":
            return self.money(value, detail or "EUR")
        if kind == "percent":
            return self.percent(value, detail or None)
        if kind == "date":
            return self.date(value, detail or "medium")
        if kind == "time":
            return self.time(value, detail or "short")
        return self.number(value, form or None)

    def filters(self) -> dict[str, Callable[..., str]]:
        return {
            "money": self.money,
            "number": self.number,
            "percent": self.percent,
            "date": self.date,
            "time": self.time,
            "plural": self.plural,
        }


@lru_cache(maxsize=MOST_DATES)
def _date_text(day: date, form: str, locale: Locale) -> str:
    """A date as text: the same few come again and again."""
    from babel.dates import format_date

    return format_date(day, format=form, locale=locale)


@lru_cache(maxsize=MOST_PATTERNS)
def _number_pattern(pattern: str | None) -> NumberPattern | None:
    """A pattern that has been read; None for the locale's own."""
    from babel.numbers import parse_pattern

    return parse_pattern(pattern) if pattern is not None else None


def as_decimal(value: Any) -> Decimal:
    """The exact decimal of a number or of text that is one."""
    if isinstance(value, bool) or not isinstance(value, (int, float, str, Decimal)):
        raise ValueError(f"{value!r} is not a number")
    try:
        number = Decimal(str(value)) if isinstance(value, float) else Decimal(value)
    except InvalidOperation as error:
        raise ValueError(f"{value!r} is not a number") from error
    if not number.is_finite():
        raise ValueError(f"{value!r} is not a finite number")
    return number


def _as_date(value: Any) -> date:
    if isinstance(value, str):
        try:
            return datetime.fromisoformat(value)
        except ValueError as error:
            raise ValueError(f"{value!r} is not a date such as 2026-05-31") from error
    if not isinstance(value, date):
        raise ValueError(f"{value!r} is not a date")
    return value


def _as_time(value: Any) -> time | datetime:
    if isinstance(value, str):
        for parse in (time.fromisoformat, datetime.fromisoformat):
            try:
                return parse(value)
            except ValueError:
                continue
        raise ValueError(f"{value!r} is not a time such as 14:30")
    if not isinstance(value, (time, datetime)):
        raise ValueError(f"{value!r} is not a time")
    return value
