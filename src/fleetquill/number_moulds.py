"""Numbers of one form written quickly: what stands around and between their figures is taken from what Babel writes.

A form that has as many decimals for every number is written by Babel a few times, as probes. From then on Python writes
the figures, and what Babel put around and between them is put there.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from decimal import Decimal
from typing import Final, NamedTuple

PROBE, WHOLE = "1234567.123456789", "1234567"
FIGURES: Final = re.compile(r"1(?P<group>\D*)234(?P<next>\D*)567(?P<fraction>(?P<point>\D+)(?P<decimals>\d+))?")
LARGEST: Final = Decimal(10) ** 15
SMALLEST: Final = Decimal(10) ** -12

Write = Callable[[Decimal], str]


class Mould(NamedTuple):
    """What stands around the figures of positive and of negative numbers, and between them."""

    pattern: str  # by which Python writes the figures
    marks: dict[int, str]  # what a comma and a point become
    positive: tuple[str, str]
    negative: tuple[str, str]

    def write(self, amount: Decimal) -> str | None:
        """The number as a text; None for what is better left to Babel: nought, and what is very large or small."""
        size = abs(amount)
        if not size.is_finite() or not SMALLEST < size < LARGEST:
            return None
        figures = format(size, self.pattern)
        if not figures.strip("0."):
            return None
        before, after = self.positive if amount > 0 else self.negative
        return f"{before}{figures.translate(self.marks)}{after}"


def mould_of(write: Write) -> Mould | None:
    """The mould of a form that Babel writes; None where it is none that such figures fit."""
    sides: list[tuple[str, str]] = []
    marks: set[tuple[str, str, int]] = set()
    for probe in (PROBE, f"-{PROBE}", WHOLE, f"-{WHOLE}"):
        text = write(Decimal(probe))
        found = FIGURES.search(text)
        if found is None or found["group"] != found["next"]:
            return None
        before, after = text[: found.start()], text[found.end() :]
        if any(map(str.isdigit, before + after)):
            return None
        sides.append((before, after))
        marks.add((found["group"], found["point"] or "", len(found["decimals"] or "")))
    if len(marks) != 1 or sides[0] != sides[2] or sides[1] != sides[3]:
        return None
    ((group, point, decimals),) = marks
    return Mould(f",.{decimals}f", {ord(","): group, ord("."): point}, sides[0], sides[1])
