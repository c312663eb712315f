"""Lines and pictures that are taller than a page are cut in slices, one for each page (CSS Fragmentation 3 §4.1)."""

from __future__ import annotations

from collections.abc import Iterator
from copy import copy
from typing import Final, overload

from fleetquill.layout.boxes.boxes import Box
from fleetquill.layout.contract.fragments import Fragment, InlineFragment, LineFragment, TextSpan
from fleetquill.layout.contract.resume import SlicedLine
from fleetquill.style.properties import ComputedStyle

LEAST_ROOM: Final = 8.0  # px that a page must have for slices; where it has less, what is too tall runs off it
ABOVE: Final = 1.0  # of the font size, what glyphs may take above their baseline
BELOW: Final = 0.35  # and below it


def slice_of(whole: Fragment | LineFragment, around: Box, taken: float, room: float) -> Fragment:
    """What stands here of something that pages before have taken so much of: the rest of it is cut off."""
    box = Box(ComputedStyle(around.style, {"overflow": "hidden"}), None, [])
    box.quiet = around.quiet
    part = Fragment(box, whole.width, _clean_cut(whole, taken, min(taken + room, whole.height)) - taken)
    part.first, part.last = taken == 0.0, taken + part.height >= whole.height
    shown = _between(whole, taken, taken + part.height)
    shown.x, shown.y = 0.0, -taken
    part.children.append(shown)
    return part


def slice_line(line: LineFragment, around: Box, taken: float, room: float) -> tuple[Fragment, SlicedLine | None]:
    """This page's slice of a line, and what is still to come of it."""
    part = slice_of(line, around, taken, room)
    part.x = line.x
    return part, None if part.last else SlicedLine(line, taken + part.height)


def _clean_cut(whole: Fragment | LineFragment, top: float, bottom: float) -> float:
    """A cut at `bottom` or above it that goes through no text, where there is one below `top`."""
    if bottom >= whole.height:
        return bottom
    cut = bottom
    extents = sorted(_extents(whole, -whole.y), reverse=True)
    for high, low in extents:
        if high < cut < low:
            cut = high
    return cut if cut > top + LEAST_ROOM else bottom


def _extents(part: Fragment | LineFragment, y: float) -> Iterator[tuple[float, float]]:
    """Where the words in a fragment begin and end, down from the top of the whole."""
    y += part.y
    for item in part.children if isinstance(part, Fragment) else part.items:
        if isinstance(item, TextSpan):
            size = item.run.style.font_size
            yield y + item.baseline - ABOVE * size, y + item.baseline + BELOW * size
        elif not isinstance(item, InlineFragment):
            yield from _extents(item, y)


@overload
def _between(whole: Fragment, top: float, bottom: float) -> Fragment: ...


@overload
def _between(whole: LineFragment, top: float, bottom: float) -> LineFragment: ...


def _between(whole: Fragment | LineFragment, top: float, bottom: float) -> Fragment | LineFragment:
    """A fragment with what can be seen of it between two heights: words that cannot are not there."""
    if isinstance(whole, Fragment):
        shown = whole.twin()
        shown.children = [
            _between(child, top - child.y, bottom - child.y)
            for child in whole.children
            if child.y < bottom and child.y + max(child.height, LEAST_ROOM) > top
        ]
        return shown
    line = copy(whole)
    if top > 0.0:
        line.fault = None
    line.items = [
        _between(item, top - item.y, bottom - item.y) if isinstance(item, Fragment) else item
        for item in whole.items
        if _reaches_into(item, top, bottom)
    ]
    return line


def _reaches_into(item: TextSpan | InlineFragment | Fragment, top: float, bottom: float) -> bool:
    if isinstance(item, TextSpan):
        size = item.run.style.font_size
        return item.baseline - ABOVE * size < bottom and item.baseline + BELOW * size > top
    return item.y < bottom and item.y + item.height > top
