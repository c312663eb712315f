"""Values that stand in a table as text: numbers, money, shares and dates as a locale writes them."""

from __future__ import annotations

import re
from datetime import date
from decimal import Decimal
from typing import Final, NamedTuple

from fleetquill.formats import Formats

MOST_DIGITS: Final = 15  # more is a name written in figures
SPACES: Final = "\u00a0\u202f\u2009 "
MINUSES: Final = "−\u2013-"  # the last one last: it would make a range
SIGNS: Final = {"€": "EUR", "$": "USD", "£": "GBP", "¥": "JPY", "₹": "INR", "zł": "PLN", "Kč": "CZK"}
ISO_DATE: Final = re.compile(r"\d{4}-\d\d-\d\d")
PARTS: Final = re.compile(
    rf"(?P<open>\()?(?P<sign>[{MINUSES}])?(?P<before>[^\d\W]{{1,3}}|[€$£¥₹])?[{SPACES}]?(?P<sign2>[{MINUSES}])?"
    rf"(?P<body>\d[\d.,'’٬٫{SPACES}]*?)[{SPACES}]?(?P<after>%|[^\d\W]{{1,3}}|[€$£¥₹])?(?P<close>\))?"
)


class TextValue(NamedTuple):
    """The value that a text writes, and the form in which it does."""

    value: Decimal | date
    form: str


def read_value(text: str, formats: Formats) -> TextValue | None:
    """The number, amount, share or ISO date that a text is, and nothing else; None where it is text.

    A figure with a leading zero, or with more digits than are counted with, is a name.
    """
    if not text or len(text) > 40 or not any(character.isdigit() for character in text):
        return None
    if ISO_DATE.fullmatch(text):
        try:
            return TextValue(date.fromisoformat(text), "date:yyyy-MM-dd")
        except ValueError:
            return None
    found = PARTS.fullmatch(text.strip())
    if found is None or bool(found["open"]) != bool(found["close"]):
        return None
    number = _number(found["body"], formats)
    unit = found["before"] or found["after"] or ""
    if number is None or (found["before"] and found["after"]):
        return None
    negative = found["open"] or found["sign"] or found["sign2"]
    value = -number if negative else number
    decimals = -min(0, int(number.as_tuple().exponent))
    if unit == "%":
        return TextValue(value.scaleb(-2), "percent:0" + ("." + "0" * decimals if decimals else "") + "%")
    if unit:
        currency = _currency(unit, formats)
        return TextValue(value, f"money:{currency}") if currency else None
    if not decimals and found["body"].isdigit():
        return TextValue(value, "")
    grouped = sum(character.isdigit() for character in found["body"]) < len(found["body"]) - bool(decimals)
    whole = "#,##0" if grouped else "0"
    return TextValue(value, whole + ("." + "0" * decimals if decimals else ""))


def _number(body: str, formats: Formats) -> Decimal | None:
    """The number of figures with the locale's separators, or of figures with one point as programs write them."""
    if not body.isascii() and not all(c.isascii() or c in "’٬٫" or c in SPACES for c in body):
        return None
    symbols = formats.locale.number_symbols.get("latn", {})
    point, group = symbols.get("decimal", "."), symbols.get("group", ",")
    groups = "[" + re.escape(group + (SPACES if group in SPACES else "")) + ("'’" if group in "'’" else "") + "]"
    strict = rf"(?:\d{{1,3}}(?:{groups}\d{{3}})+|\d+)(?:{re.escape(point)}\d+)?"
    if re.fullmatch(strict, body):
        plain = re.sub(groups, "", body).replace(point, ".")
    elif re.fullmatch(r"\d+\.\d{1,2}", body):
        plain = body
    else:
        return None
    whole = plain.partition(".")[0]
    if (len(whole) > 1 and whole[0] == "0") or len(plain.replace(".", "")) > MOST_DIGITS:
        return None
    return Decimal(plain)


def _currency(unit: str, formats: Formats) -> str:
    """The code of a currency by its sign, the locale's own sign, or the code itself; '' for another unit."""
    if formats.currency and unit == formats.locale.currency_symbols.get(formats.currency, ""):
        return formats.currency
    if unit in SIGNS:
        return SIGNS[unit]
    return unit if unit in formats.locale.currency_symbols else ""
