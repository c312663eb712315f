"""Forms of values as number formats of workbooks (ISO/IEC 29500-1 §18.8.31)."""

from __future__ import annotations

import re
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from typing import Final

from fleetquill.formats import DIGITS as PLACES
from fleetquill.formats import PER, Formats
from fleetquill.structure.sheets import Value
from fleetquill.tree.forms import STYLES, kind_of_form

PLAIN: Final = "General"
DIGITS: Final = re.compile(r"[#0][#0,]*(?:\.[#0]*)?")
DATE_PARTS: Final = re.compile(r"'((?:[^']|'')*)'|([A-Za-z])\2*|[^A-Za-z']+")
LETTERS: Final = {  # of CLDR patterns (UTS #35, part 4): how often a letter stands, and what says the same
    "y": ("yyyy", "yy", "yyyy", "yyyy"), "M": ("m", "mm", "mmm", "mmmm", "mmmmm"), "L": ("m", "mm", "mmm", "mmmm"),
    "d": ("d", "dd"), "E": ("ddd", "ddd", "ddd", "dddd"), "c": ("ddd", "ddd", "ddd", "dddd"), "H": ("h", "hh"),
    "h": ("h", "hh"), "m": ("m", "mm"), "s": ("s", "ss"), "a": ("AM/PM",), "u": ("yyyy",),
}  # fmt: skip


def code_of(value: Value, form: str, formats: Formats) -> str:
    """The number format for a value in a form."""
    kind, detail = kind_of_form(form)
    if kind == "money":
        return _money(detail or formats.currency, formats)
    if kind == "percent":
        signed = detail if PER.search(detail) else PLACES.sub(r"\g<0>%", detail)
        return _pattern(signed) if detail else _share(value)
    if isinstance(value, datetime):
        return _moment(detail, formats)
    if isinstance(value, date):
        return _date(detail or "medium", formats)
    if isinstance(value, time):
        return _clock(detail or "short", formats)
    if isinstance(value, timedelta):
        return "[h]:mm:ss"
    if kind == "bytes":
        return "#,##0"
    if detail:
        return _pattern(detail)
    if isinstance(value, Decimal):
        decimals = -min(0, int(value.as_tuple().exponent))
        return "0." + "0" * decimals if 0 < decimals <= 15 else PLAIN
    return PLAIN


def _pattern(pattern: str) -> str:
    """A CLDR number pattern: both write digits alike."""
    if "@" in pattern or "E" in pattern or "¤" in pattern:
        return PLAIN
    parts = re.split(r"('(?:[^']|'')*')", pattern)
    return "".join(_quoted(part[1:-1]) if part.startswith("'") else part for part in parts)


def _quoted(text: str) -> str:
    return '"{}"'.format(text.replace("''", "'").replace('"', '""')) if text else '"\'"'


def _money(currency: str, formats: Formats) -> str:
    """The locale's pattern of amounts, with the currency's own decimals."""
    if not currency:
        return "#,##0.00"
    from babel.numbers import get_currency_precision, get_currency_symbol

    decimals = get_currency_precision(currency)
    digits = "#,##0" + ("." + "0" * decimals if decimals else "")
    pattern = formats.locale.currency_formats["standard"].pattern
    symbol = get_currency_symbol(currency, locale=formats.locale)
    sections = [DIGITS.sub(digits, part, count=1).replace("¤", f'"{symbol}"') for part in pattern.split(";")]
    return ";".join(part.replace("'", "") for part in sections)


def _share(value: Value) -> str:
    if not isinstance(value, Decimal):
        return "0%"
    decimals = max(0, -int(value.as_tuple().exponent) - 2)
    return f"0.{'0' * decimals}%" if decimals else "0%"


def _date(form: str, formats: Formats) -> str:
    return _date_code(str(formats.locale.date_formats[form].pattern) if form in STYLES else form)


def _clock(form: str, formats: Formats) -> str:
    if form in ("long", "full"):  # these name the zone, which a cell has not
        form = "medium"
    return _date_code(str(formats.locale.time_formats[form].pattern) if form in STYLES else form)


def _moment(form: str, formats: Formats) -> str:
    if form and form not in STYLES:
        return _date_code(form)
    return f"{_date(form or 'medium', formats)} {_clock('short', formats)}"


def _date_code(pattern: str) -> str:
    found: list[str] = []
    for part in DATE_PARTS.finditer(pattern):
        letter = part[2]
        if part[1] is not None:
            found.append(_quoted(part[1]))
        elif letter is None:
            found.append("".join(c if c in " /:-.," or c in "\u00a0\u202f" else f'"{c}"' for c in part[0]))
        else:
            codes = LETTERS.get(letter, ())
            if codes:
                found.append(codes[min(len(part[0]), len(codes)) - 1])
    return "".join(found).replace("\u202f", " ") or "yyyy-mm-dd"
