"""The room that floats leave beside them in one block formatting context on one page (CSS 2.2 §9.5)."""

from __future__ import annotations

import math
from typing import Final, NamedTuple

from fleetquill.layout.contract.resume import BrokenFloat
from fleetquill.style.properties import ComputedStyle

LEAST_BAND: Final = 0.01  # px of height that a box counts as having


def physical_side(side: str, style: ComputedStyle) -> str:
    """A side as left or right: `inline-start` is where lines begin in the box around (CSS Logical 1 §2.3)."""
    if not side.startswith("inline-"):
        return side
    begins_left = (style.parent or style).direction == "ltr"
    return "left" if begins_left == (side == "inline-start") else "right"


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
        self.broken: list[BrokenFloat] = []  # floats that go on on the next page

    def mark(self) -> tuple[int, int]:
        """How many floats there are, to go back to."""
        return len(self.rects), len(self.broken)

    def back_to(self, mark: tuple[int, int]) -> None:
        """Forgets the floats that came since: what they stand in is laid out elsewhere."""
        del self.rects[mark[0] :], self.broken[mark[1] :]

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

    def below(self, style: ComputedStyle, top: float) -> float:
        """The height at which nothing floats any more on the sides that `clear` names (§9.5.2)."""
        side = physical_side(style.clear, style)
        found = [rect.bottom for rect in self.rects if side == "both" or rect.left_side == (side == "left")]
        return max([top, *found])

    def go_on(self, style: ComputedStyle) -> bool:
        """Whether one of the floats that `clear` names goes on on the next page."""
        if style.clear == "none":
            return False
        side = physical_side(style.clear, style)
        return any(side == "both" or cut.left_side == (side == "left") for cut in self.broken)

    def find(self, width: float, height: float, top: float, left: float, right: float) -> tuple[float, float, float]:
        """Where something of that size fits first at or below `top`: (top, left edge, right edge)."""
        while True:
            free_left, free_right = self.band(top, height, left, right)
            following = self.next_edge(top)
            is_whole = (free_left, free_right) == (left, right)  # no float is in the way of what is too wide
            if is_whole or free_right - free_left >= width - LEAST_BAND or math.isinf(following):
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
