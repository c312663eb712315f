"""Lines and pictures that are taller than a page are cut in slices, one for each page (CSS Fragmentation 3 §4.1)."""

from __future__ import annotations

from copy import copy
from typing import Final

from fleetquill.layout.boxes.boxes import Box
from fleetquill.layout.contract.fragments import Fragment, InlineFragment, LineFragment, TextSpan
from fleetquill.layout.contract.resume import SlicedLine
from fleetquill.style.properties import ComputedStyle

LEAST_ROOM: Final = 8.0  # px that a page must have for slices; where it has less, what is too tall runs off it
ABOVE: Final = 1.2  # of the font size, what glyphs may take above their baseline
BELOW: Final = 0.5  # and below it


def slice_of(whole: Fragment | LineFragment, around: Box, taken: float, room: float) -> Fragment:
    """What stands here of something that pages before have taken so much of: the rest of it is cut off."""
    box = Box(ComputedStyle(around.style, {"overflow": "hidden"}), None, [])
    box.quiet = around.quiet
    part = Fragment(box, whole.width, min(room, whole.height - taken))
    part.first, part.last = taken == 0.0, taken + part.height >= whole.height
    shown = whole.twin() if isinstance(whole, Fragment) else _line_between(whole, taken, taken + part.height)
    shown.x, shown.y = 0.0, -taken
    part.children.append(shown)
    return part


def slice_line(line: LineFragment, around: Box, taken: float, room: float) -> tuple[Fragment, SlicedLine | None]:
    """This page's slice of a line, and what is still to come of it."""
    part = slice_of(line, around, taken, room)
    part.x = line.x
    return part, None if part.last else SlicedLine(line, taken + part.height)


def _line_between(line: LineFragment, top: float, bottom: float) -> LineFragment:
    """The line with what can be seen of it between two heights: words that cannot are not there."""
    part = copy(line)
    part.items = [item for item in line.items if _reaches_into(item, top, bottom)]
    if top > 0.0:
        part.fault = None
    return part


def _reaches_into(item: TextSpan | InlineFragment | Fragment, top: float, bottom: float) -> bool:
    if isinstance(item, TextSpan):
        size = item.run.style.font_size
        return item.baseline - ABOVE * size < bottom and item.baseline + BELOW * size > top
    return item.y < bottom and item.y + item.height > top
