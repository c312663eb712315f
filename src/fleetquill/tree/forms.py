"""Forms of values, as columns, tallies and values name them: checked where they are written."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Final

from fleetquill.errors import OptionError, nearest

KINDS: Final = ("money", "number", "percent", "date", "time", "datetime", "duration", "bytes", "text")
NO_NUMBERS: Final = frozenset(("date", "time", "datetime", "duration", "text"))  # kinds whose values need be no number
DIGIT: Final = re.compile(r"[0#@]")  # a digit place of a CLDR number pattern (UTS #35, part 3, §3.1)
STYLES: Final = ("short", "medium", "long", "full")


def kind_of_form(form: str) -> tuple[str, str]:
    """The kind of a form and its detail; a CLDR pattern is the detail of 'number'."""
    kind, _, detail = form.partition(":")
    if kind in KINDS:
        return kind, detail
    return ("number", form) if form else ("", "")


@lru_cache(maxsize=1_000)
def check_form(form: str) -> None:
    """Raises OptionError where a form is neither a kind nor a CLDR pattern with a digit place."""
    kind, detail = kind_of_form(form)
    if kind == "money" and detail:
        check_currency(detail)
    elif kind in ("number", "percent"):
        if detail and not DIGIT.search(_unquoted(detail)):
            raise OptionError(f"'{form}' is not a form of a value.", remedy=_meant(form))
        if detail:
            _check_pattern(form, detail)
    elif kind in ("date", "time", "datetime") and detail and detail not in STYLES:
        letters = {letter for letter in _unquoted(detail) if letter.isalpha()}
        if "%" in detail or letters - set("GyYuUrQqMLwWdDFgEecabBhHkKjJCmsSAzZOvVXx"):
            raise OptionError(
                f"'{detail}' is not a pattern for a date or time.",
                remedy="Use short, medium, long or full, or a CLDR pattern such as 'dd.MM.yyyy'.",
            )
    elif kind in ("duration", "bytes", "text") and detail:
        raise OptionError(f"The form '{kind}' has no detail: '{detail}' says nothing.", remedy=f"Write '{kind}'.")


def check_currency(currency: str) -> None:
    """Raises OptionError where a currency is no code of ISO 4217."""
    known = _currencies()
    if currency in known:
        return
    meant = currency.upper() if currency.upper() in known else ""
    raise OptionError(
        f"'{currency}' is not a currency.",
        remedy=f"Did you mean '{meant}'?" if meant else "Use a code of ISO 4217, such as EUR.",
    )


@lru_cache(maxsize=1)
def _currencies() -> frozenset[str]:
    from babel.core import get_global

    return frozenset(get_global("all_currencies"))


def _unquoted(pattern: str) -> str:
    """A CLDR pattern without what stands in quotes."""
    return re.sub(r"'[^']*'", "", pattern)


def _check_pattern(form: str, pattern: str) -> None:
    from babel.numbers import parse_pattern

    try:
        parse_pattern(pattern)
    except (ValueError, AttributeError, TypeError) as error:
        raise OptionError(f"'{form}' is not a CLDR number pattern.", remedy="As in '#,##0.00'.") from error


def _meant(form: str) -> str:
    word = form.partition(":")[0]
    if word.upper() in _currencies():
        return f"Did you mean 'money:{word.upper()}'?"
    meant = nearest(word.lower(), KINDS)
    if meant:
        return f"Did you mean '{meant}'?"
    return f"Use {', '.join(KINDS)}, or a CLDR pattern such as '#,##0.00'."
