"""The one door to every formatting model: layout of a box, and how narrow and wide it can be."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fleetquill.layout.boxes import Box
from fleetquill.layout.context import Context
from fleetquill.layout.sizing import edges_of, limits, own_width
from fleetquill.layout.space import Laid, Resume, Space

Layout = Callable[[Any, Space, Resume | None], Laid]
ContentWidths = Callable[[Any, Context], tuple[float, float]]

MODELS: dict[type[Box], tuple[Layout, ContentWidths]] = {}


def layout(box: Box, space: Space, resume: Resume | None) -> Laid:
    """What of `box` fits into `space`, from `resume` on, and where to go on."""
    return MODELS[box.__class__][0](box, space, resume)


def content_widths(box: Box, context: Context) -> tuple[float, float]:
    """Min-content and max-content contributions of the border box, in px (CSS Sizing 3 §5)."""
    kept = box.kept.get("widths")
    if kept is None:
        kept = box.kept["widths"] = _content_widths(box, context)
    return kept


def least_content_width(box: Box, context: Context) -> float:
    """The min-content width of the border box, whatever `width` the box itself asks for."""
    return MODELS[box.__class__][1](box, context)[0] + edges_of(box.style, 0.0).across


def _content_widths(box: Box, context: Context) -> tuple[float, float]:
    style = box.style
    across = edges_of(style, 0.0).across
    fixed = own_width(style, 0.0, across) if isinstance(style.width, float) else None
    if fixed is not None:
        return fixed, fixed
    least, most = MODELS[box.__class__][1](box, context)
    low, high = limits(style, 0.0, across) if isinstance(style.max_width, (float, str)) else (across, float("inf"))
    least, most = max(low, min(least + across, high)), max(low, min(most + across, high))
    if style.width == "min-content":
        return least, least
    return (most, most) if style.width == "max-content" else (least, most)
