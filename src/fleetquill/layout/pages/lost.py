"""Looks over a finished page for text that nobody can read: cut off by its box, over other text, beyond the paper."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from math import inf
from typing import Final, NamedTuple

from fleetquill.layout.boxes.boxes import Box, PictureBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.fragments import AnchorFragment, Fragment, LineFragment, PictureFragment, TextSpan
from fleetquill.layout.contract.space import OUT_OF_SIGHT
from fleetquill.layout.inline.boxes import ControlBox
from fleetquill.layout.items.boxes import ItemsBox

SHOWN: Final = 0.5  # of a line's height that may be cut off before its text counts as lost
REMEDY: Final = " A scale of 'fit' makes all of it as much smaller as that takes."
SLACK: Final = 1.0  # px that nobody minds


class Paper(NamedTuple):
    """The px of the paper, from the corner that fragments are counted from."""

    left: float
    right: float
    context: Context

    def look(self, what: str, box: Box, x: float, width: float) -> bool:
        """Points out what reaches over one of the sides; whether it does."""
        left, right = self.left - x, x + width - self.right
        over = max(left, right)
        if over <= SLACK:
            return False
        goes_on = over == (left if box.style.direction == "rtl" else right)
        remedy = REMEDY if goes_on and not self.context.fits else ""
        _remark(self, box, f"{what} reaches {over * 0.75:.1f} pt over the side of the page.{remedy}")
        return True


def remark_lost(parts: Iterable[Fragment], left: float, right: float, context: Context) -> None:
    """Points out text that a box cuts off, that lies over what follows, or that reaches over the paper's sides."""
    for part in parts:
        _look(part, 0.0, 0.0, None, Paper(left, right, context))


def _look(fragment: Fragment, x: float, y: float, limit: float | None, paper: Paper) -> float:
    """Goes through a fragment; gives how far down text reaches in it. What stands below `limit` has been told."""
    x, y = x + fragment.x, y + fragment.y
    if fragment.box.element is not None and fragment.box.element in paper.context.told_wide:
        paper = paper._replace(left=-inf, right=inf)
    style = fragment.box.style
    if style.transform or isinstance(fragment, (PictureFragment, AnchorFragment)):
        return y
    clips = style.overflow != "visible" and not isinstance(fragment.box, (PictureBox, ControlBox))
    bottom = y + fragment.height - style.border_bottom_width
    deepest, lost = y, fragment.cut
    ends: list[tuple[Fragment, float]] = []
    inner = bottom if clips else limit
    for child in fragment.children:
        if isinstance(child, LineFragment):
            end = _line(child, x, y, fragment.box, paper)
            top = y + child.y
            lost = lost or (clips and bottom < top + SHOWN * child.height and _is_shown(child))
        else:
            end = _look(child, x, y, inner, paper)
            ends.append((child, end))
            lost = lost or (clips and end > bottom + SLACK and has_text_below(child, y, bottom))
        deepest = max(deepest, end)
    if lost and fragment.width > OUT_OF_SIGHT and (limit is None or y < limit):
        _remark(paper, fragment.box, "What stands in this box is taller than it: text is cut off.")
    if not clips:
        _remark_over(ends, y, paper)
        if isinstance(fragment.box, ItemsBox):
            _remark_wide([child for child, _ in ends], x, paper)
    return min(deepest, bottom) if clips else deepest


def _line(line: LineFragment, x: float, y: float, box: Box, paper: Paper) -> float:
    """Looks at a line; gives where it ends."""
    at = x + line.x
    for item in line.items:
        if isinstance(item, Fragment):
            _look(item, at, y + line.y, None, paper)
        elif isinstance(item, TextSpan) and line.fault is None and paper.look("Text", box, at + item.x, item.width):
            break
    return y + line.y + (line.height if _is_shown(line) else 0.0)


def _is_shown(line: LineFragment) -> bool:
    """Whether anything in a line can be seen: a clearing '.' of `visibility: hidden` cannot."""
    return any(not isinstance(item, TextSpan) or item.run.style.visibility == "visible" for item in line.items)


def has_text_below(fragment: Fragment, y: float, bottom: float, limit: float = inf) -> bool:
    """Whether a line in a fragment, which stands in one at `y`, stands for the most part below `bottom`: one that boxes
    around it, the last of which ends at `limit`, do not cut off."""
    y += fragment.y
    if fragment.box.style.overflow != "visible":
        limit = min(limit, y + fragment.height)
    for child in fragment.children:
        if isinstance(child, LineFragment):
            if y + child.y < limit and y + child.y + SHOWN * child.height > bottom and _is_shown(child):
                return True
        elif has_text_below(child, y, bottom, limit):
            return True
    return False


def _remark_over(ends: list[tuple[Fragment, float]], y: float, paper: Paper) -> None:
    """Text of a box with a height of its own that lies over text after it."""
    for place, (child, end) in enumerate(ends):
        style = child.box.style
        if end <= y + child.y + child.height + SLACK or style.position != "static" or style.float != "none":
            continue
        for other, other_end in ends[place + 1 :]:
            beside = other.x >= child.x + child.width - SLACK or child.x >= other.x + other.width - SLACK
            below = y + other.y >= end - SLACK or other_end <= y + other.y
            if not beside and not below and _is_in_flow(other) and _lie_over(child, other):
                over = (end - y - child.y - child.height) * 0.75
                message = f"What stands in this box is {over:.1f} pt taller than it and lies over what follows."
                _remark(paper, child.box, message)
                break


def _remark_wide(items: list[Fragment], x: float, paper: Paper) -> None:
    """Items that reach over the sides of the paper."""
    for item in items:
        if item.box.style.position == "static":
            paper.look("A box", item.box, x + item.x, item.width)


def _lie_over(one: Fragment, other: Fragment) -> bool:
    """Whether a line of one lies over a line of the other, both within the same box."""
    lines = list(_lines_of(other, 0.0, 0.0))
    return any(
        x < right - SLACK and x + wide > left + SLACK and y < bottom - SLACK and y + high > top + SLACK
        for x, y, wide, high in _lines_of(one, 0.0, 0.0)
        for left, top, right, bottom in ((a, b, a + c, b + d) for a, b, c, d in lines)
    )


def _lines_of(fragment: Fragment, x: float, y: float) -> Iterator[tuple[float, float, float, float]]:
    """The text of lines: from where it begins to where it ends, as high as its line."""
    x, y = x + fragment.x, y + fragment.y
    for child in fragment.children:
        if not isinstance(child, LineFragment):
            yield from _lines_of(child, x, y)
            continue
        for item in child.items:
            if isinstance(item, TextSpan):
                yield x + child.x + item.x, y + child.y, item.width, child.height
            elif isinstance(item, Fragment):
                yield from _lines_of(item, x + child.x, y + child.y)


def _is_in_flow(fragment: Fragment) -> bool:
    style = fragment.box.style
    return style.position == "static" and style.float == "none"


def _remark(paper: Paper, box: Box, message: str) -> None:
    while box.element is None and box.children:
        box = box.children[0]
    paper.context.remark("overflow", message, box.element)
