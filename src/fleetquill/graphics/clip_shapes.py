"""The paths of basic shapes in a box (CSS Shapes 1 §3, CSS Masking 1 §5.1)."""

from __future__ import annotations

from typing import Any

from fleetquill.drawing.canvas import Area, Path
from fleetquill.drawing.matrices import moved
from fleetquill.drawing.paths import Corners, ellipse, fitting, polygon, rectangle, rounded
from fleetquill.graphics.svg.paths import path_data
from fleetquill.style.box_values import translation
from fleetquill.style.lengths import resolve
from fleetquill.style.shape_values import Clip, Inset, Outline, Oval, Placed, Polygon, Rect


def shape_path_in(clip: Clip, area: Area) -> tuple[Path, bool]:
    """The outline of a shape in a box, and whether it is filled by the even-odd rule."""
    shape = clip.shape
    x, y, width, height = area
    if shape is None:
        return rectangle(*area), False
    if isinstance(shape, Oval):
        return _oval(shape, area), False
    if isinstance(shape, Polygon):
        points = [(x + resolve(across, width), y + resolve(down, height)) for across, down in shape.points]
        return polygon(*points), shape.rule == "evenodd"
    if isinstance(shape, Outline):
        path = [moved(segment, translation(x, y)) for segment in path_data(shape.text)]
        return path or polygon((x, y)), shape.rule == "evenodd"
    return _rectangle(shape, area), False


def _rectangle(shape: Inset | Rect | Placed, area: Area) -> Path:
    x, y, width, height = area
    if isinstance(shape, Placed):
        left, top = resolve(shape.place[0], width), resolve(shape.place[1], height)
        right, bottom = left + resolve(shape.place[2], width), top + resolve(shape.place[3], height)
    else:
        sizes = (height, width, height, width)
        if isinstance(shape, Inset):
            top, right, bottom, left = (resolve(edge, size) for edge, size in zip(shape.edges, sizes, strict=True))
            right, bottom = width - right, height - bottom
            if left > right:  # edges that cross meet in proportion (CSS Shapes 1 §3.1)
                left = right = width * left / (left + width - right)
            if top > bottom:
                top = bottom = height * top / (top + height - bottom)
        else:
            whole = (0.0, width, height, 0.0)
            top, right, bottom, left = (
                own if edge == "auto" else resolve(edge, size)
                for edge, size, own in zip(shape.edges, sizes, whole, strict=True)
            )
    wide, high = max(0.0, right - left), max(0.0, bottom - top)
    return rounded(x + left, y + top, wide, high, _corners(shape.radii, area, wide, high))


def _corners(radii: tuple[Any, ...], area: Area, wide: float, high: float) -> Corners:
    across = [resolve(radius, area[2]) for radius in radii[:4]]
    down = [resolve(radius, area[3]) for radius in radii[4:]]
    return fitting(Corners(*zip(across, down, strict=True)), wide, high)


def _oval(shape: Oval, area: Area) -> Path:
    x, y, width, height = area
    cx, cy = resolve(shape.center[0], width), resolve(shape.center[1], height)
    across, down = (abs(cx), abs(width - cx)), (abs(cy), abs(height - cy))
    if len(shape.radii) == 1:
        radius = shape.radii[0]
        if isinstance(radius, str):
            used = min(*across, *down) if radius == "closest-side" else max(*across, *down)
        else:
            used = resolve(radius, (width * width + height * height) ** 0.5 / 2**0.5)
        return ellipse(x + cx, y + cy, used, used)
    radii = []
    for radius, ends, size in zip(shape.radii, (across, down), (width, height), strict=True):
        picks = min(ends) if radius == "closest-side" else max(ends)
        radii.append(picks if isinstance(radius, str) else resolve(radius, size))
    return ellipse(x + cx, y + cy, radii[0], radii[1])
