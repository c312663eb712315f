"""Numbers, money, percentages and dates by locale: CLDR patterns through Babel.

The functions are the filters of templates. Each takes the value first and raises ValueError with a
message for people where the value is not of its kind.
"""

from __future__ import annotations

import copy
import re
from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext, suppress
from datetime import date, datetime, time, timedelta
from decimal import Decimal, InvalidOperation, getcontext, localcontext
from functools import cached_property, lru_cache
from typing import TYPE_CHECKING, Any, Final

from fleetquill.errors import OptionError
from fleetquill.number_moulds import mould_of
from fleetquill.tree.forms import STYLES, check_currency, check_form, kind_of_form
from fleetquill.tree.values import own_text, plain_value

if TYPE_CHECKING:
    from babel import Locale
    from babel.numbers import NumberPattern

NOTHING: Final = Decimal(0)
MOST_PATTERNS: Final = 256
MOST_DATES: Final = 4_096
NUMBERS: Final = (Decimal, str, int, float)  # what numbers are given as
MORE_FIGURES: Final = 10  # that a form may fill up behind the point
MOST_FIGURES: Final = 400  # before or after the point: no float has more
PER: Final = re.compile("[%‰]")
DIGITS: Final = re.compile(r"[#0,.]+")  # of a number pattern
BYTE_UNITS: Final = ("B", "kB", "MB", "GB", "TB", "PB")


def check_locale(locale: str) -> None:
    """Raises OptionError where a locale is none. The usual one is known to be one without a look."""
    if locale != "en":
        _locale(locale)


def _locale(name: str) -> Locale:
    from babel import Locale, UnknownLocaleError

    try:
        return _with_plain_groups(Locale.parse(name.replace("-", "_")))
    except (UnknownLocaleError, ValueError, TypeError, AttributeError) as error:
        raise OptionError(
            f"The locale '{name}' is not known.",
            remedy="Use a language or a language and a country: 'de', 'en-IE'.",
        ) from error


def _with_plain_groups(locale: Locale) -> Locale:
    """The locale, or one like it where an apostrophe parts groups of figures, as in Switzerland: patterns quote with
    that, and every second one would be taken out. The typographic apostrophe is none of a pattern's."""
    systems = locale.number_symbols
    if not any(symbols.get("group") == "'" for symbols in systems.values()):
        return locale
    from babel import Locale

    class Grouped(Locale):
        @property
        def number_symbols(self) -> Any:
            return {
                name: {**symbols, "group": "’"} if symbols.get("group") == "'" else symbols
                for name, symbols in systems.items()
            }

    return Grouped(locale.language, locale.territory, locale.script, locale.variant)


class Formats:
    """The formats of one locale, such as 'en-IE' or 'de'; `currency` is that of amounts that name none."""

    def __init__(self, locale: str, currency: str = "") -> None:
        self.locale = _locale(locale)
        self._currency = currency
        self._patterns: dict[int, NumberPattern] = {}  # of numbers with so many decimals

    @cached_property
    def currency(self) -> str:
        """The currency of amounts that name none: the given one, or that of the locale's territory; '' for none."""
        if self._currency or not self.locale.territory:
            return self._currency
        from babel.numbers import get_territory_currencies

        found = get_territory_currencies(self.locale.territory)
        return str(found[0]) if found else ""

    def money(self, value: Any, currency: str = "") -> str:
        """An amount with its currency as the locale writes it."""
        from babel.numbers import format_currency

        amount = as_decimal(value)
        used = currency or self.currency
        if not used:
            raise ValueError(f"no currency is named for {value!r}, and the locale '{self.locale}' has no country")
        with _room_for(amount):
            return format_currency(amount, _currency(used), locale=self.locale)

    def number(self, value: Any, pattern: str | None = None) -> str:
        """A number, by a CLDR pattern such as '#,##0.00'; without one all its digits, as the locale writes them."""
        from babel.numbers import format_decimal

        amount = as_decimal(value)
        if pattern is None:
            if isinstance(value, float):
                amount = Decimal(f"{value:.15g}")  # what a float holds for sure
            exponent = amount.as_tuple().exponent
            digits = max(0, -exponent) if isinstance(exponent, int) else 0
            with _room_for(amount):
                return str(self._with_digits(digits).apply(amount, self.locale))
        try:
            with _room_for(amount):
                return format_decimal(amount, format=_number_pattern(pattern), locale=self.locale)
        except InvalidOperation as error:
            raise ValueError(f"{value!r} does not fit the form '{pattern}'") from error

    def _with_digits(self, digits: int) -> NumberPattern:
        """The locale's own pattern for numbers of so many decimals."""
        found = self._patterns.get(digits)
        if found is None:
            found = self._patterns[digits] = copy.copy(self.locale.decimal_formats[None])
            found.frac_prec = (digits, digits)
        return found

    def percent(self, value: Any, pattern: str | None = None) -> str:
        """A share as a percentage: 0.21 is 21 %; with all its digits, or as many as a pattern has. A pattern of digits
        alone gets the sign as the locale writes it."""
        from babel.numbers import format_percent

        amount, form = as_decimal(value), _number_pattern(pattern)
        if form is not None and not PER.search(form.pattern):
            digits, usual = form.pattern, self.locale.percent_formats[None].pattern
            form = _number_pattern(DIGITS.sub(lambda _: digits, usual))
        with _room_for(amount):
            return format_percent(amount, format=form, locale=self.locale, decimal_quantization=form is not None)

    def date(self, value: Any, form: str = "medium") -> str:
        """A date: `form` is short, medium, long, full or a CLDR pattern. ISO text is a date, too."""
        day = _as_date(value)
        return _date_text(day.date() if isinstance(day, datetime) else day, _date_form(form), self.locale)

    def time(self, value: Any, form: str = "short") -> str:
        """A time of day, as `date`."""
        from babel.dates import format_time

        return format_time(_as_time(value), format=_date_form(form), locale=self.locale)

    def datetime(self, value: Any, form: str = "medium") -> str:
        """A date with its time of day, as `date`; by a name the seconds are left out where they are none."""
        from babel.dates import format_date, format_datetime, format_time

        moment = _as_date(value)
        if not isinstance(moment, datetime):
            moment = datetime.combine(moment, time())
        if _date_form(form) not in STYLES:
            return format_datetime(moment, format=form, locale=self.locale)
        clock = "medium" if moment.second and form in ("medium", "long", "full") else "short"
        return f"{format_date(moment, form, self.locale)}, {format_time(moment, clock, locale=self.locale)}"

    def duration(self, value: Any) -> str:
        """A length of time in hours, minutes and seconds: 26:05:00. It is a timedelta, or a number of seconds."""
        seconds = as_decimal(value.total_seconds() if isinstance(value, timedelta) else value)
        whole, fraction = divmod(abs(seconds), 1)
        minutes, rest = divmod(int(whole), 60)
        hours, minutes = divmod(minutes, 60)
        text = f"{hours}:{minutes:02d}:{rest:02d}"
        if fraction:
            text += self.number(fraction)[1:]
        return f"-{text}" if seconds < 0 else text

    def bytes(self, value: Any) -> str:
        """A number of bytes in the largest unit that leaves it above one: 1.5 MB."""
        size = as_decimal(value)
        unit = 0
        while abs(size) >= 1000 and unit < len(BYTE_UNITS) - 1:
            size, unit = size / 1000, unit + 1
        return f"{self.number(size, '#,##0.#')}\u00a0{BYTE_UNITS[unit]}"

    def plural(self, value: Any, one: str, other: str, **forms: str) -> str:
        """The form of a word for a number: `one`, `other`, or another CLDR category given by name."""
        category = self.locale.plural_form(as_decimal(value))
        return {"one": one, "other": other, **forms}.get(category, other)

    def text(self, value: Any) -> str:
        """A value of any kind as a table shows it: one rule for cells, ledgers and text. '' for one that is missing.

        Whole numbers stand as they are, others with the locale's separators and all their digits. Raises
        ValueError where a value has no text.
        """
        kind = value.__class__
        if kind is str:
            return value  # type: ignore[no-any-return]
        if kind is int:
            return str(value)
        value = plain_value(value)
        if value is None:
            return ""
        write = next((write for kinds, write in self._writers.items() if isinstance(value, kinds)), own_text)
        return write(value)

    @cached_property
    def _writers(self) -> dict[type | tuple[type, ...], Callable[[Any], str]]:
        """How values are written that locales write each in their way."""
        return {
            (float, Decimal): self.number,
            datetime: self.datetime,
            date: self.date,
            time: self.time,
            timedelta: self.duration,
        }

    def form(self, value: Any, form: str) -> str:
        """A value in a form: a CLDR pattern, 'money:EUR', 'percent', 'date:long', 'time' and so on, or '' for plain."""
        if not form:
            return self.text(value)
        value = plain_value(value)
        if value is None or value == "":
            return ""
        kind, detail = kind_of_form(form)
        if kind == "money":
            return self.money(value, detail)
        if kind == "percent":
            return self.percent(value, detail or None)
        if kind == "date":
            return self.date(value, detail or "medium")
        if kind == "time":
            return self.time(value, detail or "short")
        if kind == "datetime":
            return self.datetime(value, detail or "medium")
        if kind == "duration":
            return self.duration(value)
        if kind == "bytes":
            return self.bytes(value)
        if kind == "text":
            return self.text(value)
        return self.number(value, detail or None)

    def writer(self, form: str) -> Callable[[Any], str]:
        """What writes values in a form as `form` does, quicker where they are many numbers."""
        kind, detail = kind_of_form(form)
        mould = None
        if kind == "money" or (kind == "number" and detail):
            with suppress(ValueError, OptionError):  # the values themselves will tell what is wrong
                mould = mould_of(lambda amount: self.form(amount, form))
        if mould is None:
            return lambda value: self.form(value, form)
        write, slow = mould.write, self.form

        def writes(value: Any) -> str:
            kind = value.__class__
            if kind is int or (kind is float and value == value):
                value = as_decimal(value)
            text = write(value) if value.__class__ is Decimal else None
            return slow(value, form) if text is None else text

        return writes

    def filters(self) -> dict[str, Callable[..., str]]:
        return {
            "money": self.money,
            "number": self.number,
            "percent": self.percent,
            "date": self.date,
            "time": self.time,
            "datetime": self.datetime,
            "duration": self.duration,
            "bytes": self.bytes,
            "plural": self.plural,
        }


def _room_for(amount: Decimal) -> AbstractContextManager[object]:
    """A context of decimals in which all figures of a number fit, rounded or filled up."""
    figures = len(amount.as_tuple().digits) + abs(amount.adjusted()) + MORE_FIGURES
    if figures <= getcontext().prec:
        return nullcontext()
    context = getcontext().copy()
    context.prec = figures
    return localcontext(context)


def _currency(name: Any) -> str:
    if not isinstance(name, str):
        raise ValueError(f"{name!r} is not a currency")
    try:
        check_currency(name)
    except OptionError as error:
        raise ValueError(f"'{name}' is not a currency of ISO 4217") from error
    return name


def _date_form(form: Any) -> str:
    if not isinstance(form, str):
        raise ValueError(f"{form!r} is not a form of a date or time: use short, medium, long, full or a CLDR pattern")
    try:
        check_form(f"date:{form}")
    except OptionError as error:
        raise ValueError(
            f"'{form}' is not a form of a date or time: use short, medium, long, full or a CLDR pattern, 'dd.MM.yyyy'"
        ) from error
    return form


@lru_cache(maxsize=MOST_DATES)
def _date_text(day: date, form: str, locale: Locale) -> str:
    """A date as text: the same few come again and again."""
    from babel.dates import format_date

    return format_date(day, format=form, locale=locale)


@lru_cache(maxsize=MOST_PATTERNS)
def _number_pattern(pattern: str | None) -> NumberPattern | None:
    """A pattern that has been read; None for the locale's own. ValueError where it is none."""
    from babel.numbers import parse_pattern

    if pattern is None:
        return None
    if not isinstance(pattern, str):
        raise ValueError(f"{pattern!r} is not a CLDR number pattern such as '#,##0.00'")
    try:
        check_form(f"number:{pattern}")
    except OptionError as error:
        raise ValueError(f"'{pattern}' is not a CLDR number pattern such as '#,##0.00'") from error
    return parse_pattern(pattern)


def as_decimal(value: Any) -> Decimal:
    """The exact decimal of a number or of text that is one."""
    if value.__class__ not in NUMBERS:
        value = plain_value(value)
    if isinstance(value, bool) or not isinstance(value, NUMBERS):
        raise ValueError(f"{value!r} is not a number")
    try:
        number = Decimal(str(value)) if isinstance(value, float) else Decimal(value)
    except InvalidOperation as error:
        raise ValueError(f"{value!r} is not a number") from error
    if not number.is_finite():
        raise ValueError(f"{value!r} is not a finite number")
    if number and abs(number.adjusted()) > MOST_FIGURES:
        raise ValueError(f"{value!r} has too many figures to be written")
    return number


def as_amount(value: Any, figure: str = "sum") -> Decimal | None:
    """What a value adds to a figure of its column ('sum', 'count' and so on): None where there is none, and nothing
    to a count, which needs no number. Raises ValueError where a number is needed and this is none."""
    if value is None or value == "":
        return None
    return NOTHING if figure == "count" else as_decimal(value)


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
