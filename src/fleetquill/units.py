"""Lengths and paper sizes. Inside the engine a length is CSS px (1/96 inch) as float."""

from __future__ import annotations

import re
from typing import Final

from fleetquill.errors import OptionError

PX_PER_UNIT: Final = {  # CSS Values 4 §6.2, absolute lengths
    "px": 1.0,
    "cm": 96 / 2.54,
    "mm": 96 / 25.4,
    "q": 96 / 101.6,
    "in": 96.0,
    "pc": 16.0,
    "pt": 96 / 72,
}

BYTES: Final = re.compile(r"\s*(\d+(?:\.\d+)?)\s*([kmg]?b)\s*", re.IGNORECASE)
UNITS_OF_BYTES: Final = ("b", "kb", "mb", "gb")

POINTS_PER_PX: Final = 0.75
POINTS_PER_INCH: Final = 72.0

_MM: Final = PX_PER_UNIT["mm"]
_INCH: Final = PX_PER_UNIT["in"]

PAPERS: Final = {  # CSS Paged Media 3 §7.1, width × height in px, portrait
    "a3": (297 * _MM, 420 * _MM),
    "a4": (210 * _MM, 297 * _MM),
    "a5": (148 * _MM, 210 * _MM),
    "a6": (105 * _MM, 148 * _MM),
    "b4": (250 * _MM, 353 * _MM),
    "b5": (176 * _MM, 250 * _MM),
    "jis-b4": (257 * _MM, 364 * _MM),
    "jis-b5": (182 * _MM, 257 * _MM),
    "letter": (8.5 * _INCH, 11 * _INCH),
    "legal": (8.5 * _INCH, 14 * _INCH),
    "ledger": (11 * _INCH, 17 * _INCH),
}


def byte_count(given: int | str) -> int:
    """A number of bytes, as such or written as '64MB' (decimal: kB, MB, GB). Raises OptionError for anything else."""
    found = BYTES.fullmatch(given) if isinstance(given, str) else None
    if found is not None:
        return int(float(found[1]) * 1_000 ** UNITS_OF_BYTES.index(found[2].lower()))
    if isinstance(given, int) and not isinstance(given, bool) and given >= 0:
        return given
    raise OptionError(f"{given!r} is no number of bytes.", remedy="Give one such as 64_000_000 or '64MB'.")
