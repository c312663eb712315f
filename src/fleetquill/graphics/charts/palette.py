"""What tells series apart: colours that differ in lightness too, dashes and marks."""

from __future__ import annotations

from typing import Final

import tinycss2

from fleetquill.style.colors import srgb_of

COLORS: Final = (  # neighbours differ in lightness, so that they do in grey and to eyes that see fewer hues
    "#0f4c4a", "#b8923a", "#7fb7be", "#8c2d19", "#5b6c9e", "#e3c16f", "#4d7c3a", "#a56cc1", "#1f2f56", "#d46a6a",
    "#8a8f91", "#b7d7a8",
)  # fmt: skip
ON_DARK: Final = (  # the same hues where the ground is dark
    "#6fc3bd", "#e0b85c", "#bfe3e6", "#e08466", "#9fb0e0", "#f4e0a6", "#93c77c", "#cfa3e3", "#7f93c9", "#f0a3a3",
    "#b8bec0", "#d8efcb",
)  # fmt: skip
DASHES: Final = ("solid", (0, (5, 1.6)), (0, (1, 1.4)), (0, (5, 1.4, 1, 1.4)))
MARKS: Final = ("o", "s", "^", "D", "v", "P", "X", "<", ">", "p", "h", "d")
Color = tuple[float, float, float, float]


def color_of(text: str) -> Color | None:
    """A CSS colour; None where it is none, or the element's own."""
    found = srgb_of(tinycss2.parse_one_component_value(text))
    return found if isinstance(found, tuple) else None


def dash_of(index: int) -> object:
    """The dash of a line: the first ones are solid as long as their colours tell them apart."""
    return DASHES[index // 4 % len(DASHES)]


def mark_of(index: int) -> str:
    return MARKS[index % len(MARKS)]


def lightness(color: Color) -> float:
    """How light a colour looks, from 0 to 1 (the luma of its parts)."""
    return 0.299 * color[0] + 0.587 * color[1] + 0.114 * color[2]
