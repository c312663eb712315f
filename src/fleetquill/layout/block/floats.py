"""Floats: boxes moved to the side, and the room that they leave beside them (CSS 2.2 §9.5)."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Final, NamedTuple

from fleetquill.layout.contract.dispatch import content_widths, layout
from fleetquill.layout.contract.sizing import edges_of, length_or_zero, margin_left_right, own_width

if TYPE_CHECKING:
    from fleetquill.layout.boxes.boxes import Box
    from fleetquill.layout.contract.fragments import Fragment
    from fleetquill.layout.contract.space import Space

LEAST_BAND: Final = 0.01  # px of height that a box counts as having


class FloatRect(NamedTuple):
    """The margin box of a placed float, in px of its formatting context."""

    left_side: bool
    left: float
    right: float
    top: float
    bottom: float


class Floats:
    """The floats of one block formatting context on one page."""

    def __init__(self) -> None:
        self.rects: list[FloatRect] = []

    def band(self, top: float, height: float, left: float, right: float) -> tuple[float, float]:
        """The edges of what is free between `left` and `right` over a height."""
        bottom = top + max(height, LEAST_BAND)
        for rect in self.rects:
            if rect.top < bottom and rect.bottom > top:
                if rect.left_side:
                    left = max(left, rect.right)
                else:
                    right = min(right, rect.left)
        return left, right

    def next_edge(self, top: float) -> float:
        """The nearest bottom of a float below `top`; infinity where there is none."""
        return min((rect.bottom for rect in self.rects if rect.bottom > top + LEAST_BAND), default=math.inf)

    def below(self, side: str, top: float) -> float:
        """The height at which nothing floats any more on a side: for `clear` (§9.5.2)."""
        found = [
            rect.bottom for rect in self.rects if side == "both" or rect.left_side == (side in ("left", "inline-start"))
        ]
        return max([top, *found])

    def find(self, width: float, height: float, top: float, left: float, right: float) -> tuple[float, float, float]:
        """Where something of that size fits first at or below `top`: (top, left edge, right edge)."""
        while True:
            free_left, free_right = self.band(top, height, left, right)
            following = self.next_edge(top)
            if free_right - free_left >= width - LEAST_BAND or math.isinf(following):
                return top, free_left, free_right
            top = following

    def place(self, left_side: bool, width: float, height: float, top: float, left: float, right: float) -> FloatRect:
        """Places a float's margin box by the rules of §9.5.1."""
        top = max([top, *(rect.top for rect in self.rects)])
        top, free_left, free_right = self.find(width, height, top, left, right)
        x = free_left if left_side else free_right - width
        rect = FloatRect(left_side, x, x + width, top, top + height)
        self.rects.append(rect)
        return rect

    @property
    def bottom(self) -> float:
        return max((rect.bottom for rect in self.rects), default=0.0)


class FloatSpace(NamedTuple):
    """The floats around a box, and where the box's content area stands in their context."""

    floats: Floats
    x: float
    y: float

    def moved(self, x: float, y: float) -> FloatSpace:
        return FloatSpace(self.floats, self.x + x, self.y + y)


def is_float(box: Box) -> bool:
    return box.style.float != "none" and not box.kept.get("is_item")


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
