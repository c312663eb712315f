"""Lines in a border style, straight and along a curve: how dashes and dots are spread (CSS Backgrounds 3 §3.2)."""

from __future__ import annotations

import math

from fleetquill.drawing.canvas import Canvas, Path, Stroke
from fleetquill.drawing.paths import length_of, polygon
from fleetquill.paint.borders import Side, shades

Point = tuple[float, float]

THICK = 3.0  # px: from here on dashes are shorter beside their width
DOT = 0.02  # px, of a dot before it is rounded: readers make more of nothing


def spread(length: float, dash: float, gap: float, *, closed: bool) -> float:
    """The gap, near to the one asked for, with which whole dashes fill a line from end to end, or a ring."""
    count = math.floor((length if closed else length + gap) / (dash + gap))
    gaps = [
        (length - dashes * dash) / between
        for dashes in (count, count + 1)
        if (between := dashes if closed else dashes - 1) > 0
    ]
    fitting = [found for found in gaps if found > 0]
    return min(fitting, key=lambda found: abs(found - gap), default=gap)


def stroke_of(side: Side, length: float, *, closed: bool = False) -> Stroke:
    """The stroke of a dashed or dotted line of that length; a dotted one begins with the middle of its first dot."""
    width = side.width
    if side.style == "dotted":
        return Stroke(width, (DOT, width + spread(length, width, width, closed=closed) - DOT), cap=1)
    dash, gap = (2 * width, width) if width >= THICK else (3 * width, 2 * width)
    return Stroke(width, (dash, spread(length, dash, gap, closed=closed)))


def stroke_ring(canvas: Canvas, path: Path, side: Side) -> None:
    """A dashed or dotted line along a closed path."""
    canvas.stroke_path(path, side.color, stroke_of(side, length_of(path), closed=True))


def stroke_line(canvas: Canvas, start: Point, end: Point, side: Side) -> None:
    """A line across or down in a border style; `start` and `end` are in the middle of its width."""
    across = start[1] == end[1]
    length = abs(end[0] - start[0]) + abs(end[1] - start[1])
    width = side.width
    if side.style == "dotted":
        inward = min(width, length) / 2
        dx, dy = (inward, 0.0) if across else (0.0, inward)
        path = [("m", start[0] + dx, start[1] + dy), ("l", end[0] - dx, end[1] - dy)]
        canvas.stroke_path(path, side.color, stroke_of(side, length))
    elif side.style == "dashed":
        canvas.stroke_path([("m", *start), ("l", *end)], side.color, stroke_of(side, length))
    else:
        for share_from, share_to, color in shades(0 if across else 3, side):
            low, high = (share_from - 0.5) * width, (share_to - 0.5) * width
            dx, dy, ex, ey = (0.0, low, 0.0, high) if across else (low, 0.0, high, 0.0)
            corners = ((start[0] + dx, start[1] + dy), (end[0] + dx, end[1] + dy), (end[0] + ex, end[1] + ey),
                       (start[0] + ex, start[1] + ey))  # fmt: skip
            canvas.fill_path(polygon(*corners), color)
