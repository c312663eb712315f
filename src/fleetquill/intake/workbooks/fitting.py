"""Whether texts have room in their cells, by about what their letters take; numbers are made to fit."""

from __future__ import annotations

from typing import Any, Final

from fleetquill.formats import Formats
from fleetquill.intake.workbooks.area import PX_PER_POINT
from fleetquill.intake.workbooks.number_formats import Shown, show

USUAL_SIZE: Final = 11.0  # points
LETTER: Final = 0.53  # em, about, as are the next ones
WIDE_LETTER: Final = 1.0  # of East Asian writing
FIGURE: Final = 0.51
POINTS: Final = frozenset(".,:;'/ -\u00a0\u202f\u2009\u2019()")
POINT: Final = 0.32
SHARES: Final = {"%": 0.84, "‰": 1.25}
BOLD: Final = 1.08
PADDING: Final = 4.0  # px of both sides
LEAST: Final = 0.3  # of the size of letters
MOST_DECIMALS: Final = 10


def size_of(font: Any) -> float:
    """The size of letters in px."""
    return float(getattr(font, "sz", None) or USUAL_SIZE) * PX_PER_POINT


def wide(text: str, font: Any) -> float:
    """The px that the widest line of a text takes in its cell."""
    ems = max(sum(map(_letter, line)) for line in text.split("\n"))
    return ems * size_of(font) * (BOLD if getattr(font, "b", False) else 1.0) + PADDING


def _letter(character: str) -> float:
    if character.isdigit():
        return FIGURE
    if character in POINTS:
        return POINT
    return WIDE_LETTER if ord(character) > 0x2E80 else SHARES.get(character, LETTER)


def share_of(text: str, font: Any, room: float) -> float:
    """By what the letters of a text are to be made smaller to have room; 1 for those that fit."""
    needed = wide(text, font)
    return 1.0 if needed <= room else max(LEAST, (room - PADDING) / (needed - PADDING))


def fitted(cell: Any, shown: Shown, room: float, formats: Formats) -> tuple[Shown, float]:
    """What a cell shows in so many px, and by what its letters are made smaller: 1 for those that fit.

    A number without a format of its own is rounded to as many decimals as have room, as sheets do.
    """
    if wide(shown.text, cell.font) > room and isinstance(cell.value, float) and cell.number_format == "General":
        for decimals in range(MOST_DECIMALS, -1, -1):
            rounded = show(round(cell.value, decimals), "General", formats)
            if wide(rounded.text, cell.font) <= room and (cell.value == 0 or rounded.text.strip("-0.,")):
                return rounded, 1.0
    return shown, share_of(shown.text, cell.font, room)
