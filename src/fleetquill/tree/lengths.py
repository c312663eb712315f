"""Lengths and papers as users write them, checked where they are written."""

from __future__ import annotations

import re
from typing import Any, Final

import tinycss2

from fleetquill.errors import OptionError, nearest
from fleetquill.style.generated import page_size
from fleetquill.style.lengths import FixedBasis, Relative, compute_length, length_percentage
from fleetquill.style.tokens import without_space
from fleetquill.units import PAPERS, POINTS_PER_PX, PX_PER_UNIT

Length = str | int | float
PageSize = str | tuple[float, float]  # a paper or two lengths; or width and height in millimetres
UNITS: Final = re.compile(r"(?<=\d)\s+(?=(?:mm|cm|in|pt|pc|px|q)\b)", re.IGNORECASE)
TIMES: Final = re.compile(r"([\d.]+)\s*(mm|cm|in|pt|px)?\s*[x×]\s*([\d.]+)\s*(mm|cm|in|pt|px)?", re.IGNORECASE)


def as_page(value: object) -> str:
    """A page as text: a paper or two lengths ('210x297' is millimetres), or the two numbers of a tuple."""
    if isinstance(value, (tuple, list)):
        if len(value) != 2 or not all(isinstance(side, (int, float)) and side > 0 for side in value):
            raise OptionError(f"{value!r} is not a page.", remedy="Give its width and height in millimetres.")
        return f"{value[0]:g}mm {value[1]:g}mm"
    if not isinstance(value, str):
        raise OptionError(f"{value!r} is not a page.", remedy="Give a paper such as 'A4 landscape', or '80mm 50mm'.")
    times = TIMES.fullmatch(value.strip())
    if times is not None:
        unit = times[4] or times[2] or "mm"
        return f"{times[1]}{times[2] or unit} {times[3]}{unit}"
    return UNITS.sub("", value)


def css_length(value: Length, what: str) -> str:
    """A length as CSS: a number is points, text has its unit. Raises OptionError where it is neither."""
    if isinstance(value, (int, float)) and not isinstance(value, bool):
        return f"{value:g}pt"
    if isinstance(value, str):
        value = UNITS.sub("", value.strip())
        tokens = without_space(tinycss2.parse_component_value_list(value))
        if len(tokens) == 1 and (length_percentage(tokens[0]) is not None or tokens[0].type == "function"):
            return value
    raise OptionError(
        f"{value!r} is not a length for '{what}'.",
        remedy=f"Write a number of points, or a number with a unit: {', '.join(PX_PER_UNIT)}, em, %.",
    )


def css_lengths(value: Length, what: str) -> str:
    """One to four lengths, as for margins."""
    if not isinstance(value, str):
        return css_length(value, what)
    parts = UNITS.sub("", value).split()
    if not 1 <= len(parts) <= 4:
        raise OptionError(f"'{what}' takes one to four lengths, not {value!r}.")
    return " ".join(css_length(part, what) for part in parts)


def px_of(value: Length, what: str, basis: float = 0.0) -> float:
    """A length in px; percentages are of `basis`."""
    tokens = without_space(tinycss2.parse_component_value_list(css_length(value, what)))
    computed: Any = compute_length(length_percentage(tokens[0]), FixedBasis())
    if isinstance(computed, float):
        return computed
    return computed.resolve(basis) if isinstance(computed, Relative) else float(computed.resolve(basis))


def css_page(given: object) -> str:
    """A paper ('A4', 'A4 landscape') or a width and a height ('80mm 50mm', '80mm auto', '80x50') as CSS."""
    value = as_page(given)
    tokens = without_space(tinycss2.parse_component_value_list(value))
    if page_size(tokens) is None:
        name = value.split()[0].lower() if value.split() else ""
        meant = nearest(name, PAPERS)
        hint = f"Did you mean '{meant.upper()}'?" if meant else "Give a paper such as 'A4 landscape', or '80mm 50mm'."
        raise OptionError(f"{value!r} is not a page.", remedy=hint)
    return value


def page_px(value: object) -> tuple[float, float]:
    """Width and height of a page in px; a page without a height counts as A4 is high."""
    size = page_size(without_space(tinycss2.parse_component_value_list(css_page(value))))
    width, height = PAPERS["a4"]
    if size[0] == "landscape":
        return height, width
    if isinstance(size[0], float):
        width = size[0]
        height = size[1] if len(size) > 1 and isinstance(size[1], float) else height
    return width, height


def points(px: float) -> float:
    return round(px * POINTS_PER_PX, 3)
