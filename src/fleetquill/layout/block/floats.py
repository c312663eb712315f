"""Floats: boxes moved to the side, and the room that they leave beside them (CSS 2.2 §9.5)."""

from __future__ import annotations

import math

from fleetquill.layout.boxes.boxes import Box
from fleetquill.layout.contract.dispatch import content_widths, layout
from fleetquill.layout.contract.float_space import FloatSpace
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.contract.sizing import edges_of, length_or_zero, margin_left_right, own_width
from fleetquill.layout.contract.space import Space


def is_float(box: Box) -> bool:
    return box.style.float != "none" and not box.is_item


def lay_out_float(box: Box, space: Space) -> Fragment:
    """A float, shrunk to fit (§10.3.5). It is not broken."""
    style = box.style
    across = edges_of(style, space.width).across
    width = own_width(style, space.width, across)
    if width is None and not hasattr(box, "picture"):
        least, most = content_widths(box, space.context)
        width = max(least, min(most, space.width - sum(margin_left_right(style, space.width, None))))
    inner = space._replace(room=math.inf, at_top=True, fixed_width=width, fixed_height=None, floats=None)
    fragment = layout(box, inner, None).fragment
    assert fragment is not None
    return fragment


def place_float(box: Box, fragment: Fragment, around: FloatSpace, width: float, y: float) -> float:
    """Places a laid-out float in a content area `width` wide, at `y` or below; gives its bottom edge.

    `y` and the result are from the top of the content area; so is where the fragment is put.
    """
    style = box.style
    left, right = margin_left_right(style, width, None)
    top, bottom = length_or_zero(style.margin_top, width), length_or_zero(style.margin_bottom, width)
    if style.clear != "none":
        y = around.floats.below(style.clear, y + around.y) - around.y
    left_side = style.float in ("left", "inline-start")
    rect = around.floats.place(
        left_side,
        fragment.width + left + right,
        fragment.height + top + bottom,
        y + around.y,
        around.x,
        around.x + width,
    )
    fragment.x = rect.left - around.x + left
    fragment.y = rect.top - around.y + top
    return rect.bottom - around.y
