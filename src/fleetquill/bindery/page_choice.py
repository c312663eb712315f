"""Which pages of a file are meant: '2-5', '7-', '1,3,5', 'odd', 'last'."""

from __future__ import annotations

import re
from typing import Final

from fleetquill.errors import OptionError, Where

RANGE: Final = re.compile(r"(\d+|last)?\s*(?:(-)\s*(\d+|last)?)?")
REMEDY: Final = "Write pages as '2-5', '7-', '1,3,last', 'odd' or 'even'."


def chosen_pages(choice: str, count: int, source: str = "") -> list[int]:
    """The numbers of pages, from 1 on, in the order in which they are named: '5-2' runs backwards.

    Raises OptionError where it is no choice of pages, or names one that is not there.
    """
    text = choice.strip().lower()
    if not text or text == "all":
        return list(range(1, count + 1))
    return [number for part in text.split(",") for number in _range(part.strip(), choice, count, source)]


def _range(text: str, choice: str, count: int, source: str) -> list[int]:
    if text in ("odd", "even"):
        return list(range(1 if text == "odd" else 2, count + 1, 2))
    found = RANGE.fullmatch(text)
    if found is None or not text or text == "-":
        raise OptionError(f"{choice!r} is no choice of pages.", remedy=REMEDY)
    first = _number(found[1], 1, count)
    last = first if found[2] is None else _number(found[3], count, count)
    for number in (first, last):
        if not 1 <= number <= count:
            have = f"it has {count} page{'s' * (count != 1)}"
            raise OptionError(f"There is no page {number}: {have}.", where=Where(source) if source else None)
    return list(range(first, last + 1)) if first <= last else list(range(first, last - 1, -1))


def _number(text: str | None, usual: int, count: int) -> int:
    if text is None:
        return usual
    return count if text == "last" else int(text)
