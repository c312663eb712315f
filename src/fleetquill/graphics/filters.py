"""Filters on what a box shows: colours changed as they are, what is blurred as a picture (Filter Effects 1 §5)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from fleetquill.deadline import heed
from fleetquill.drawing.canvas import Area, Drawing
from fleetquill.graphics.color_filters import dyed, matrix_of
from fleetquill.style.filter_values import Blur, DropShadow, Filter, Recolor
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import Rgba

REACH: Final = 3.0  # deviations that a blur reaches


def room_of(filters: Sequence[Filter]) -> float:
    """How far ink gets beyond its box, with room for outlines."""
    reach = 10.0
    for step in filters:
        if isinstance(step, Blur):
            reach += REACH * step.deviation
        elif isinstance(step, DropShadow):
            reach += REACH * step.deviation + max(abs(step.x), abs(step.y))
    return min(reach, 2_000.0)


def grown(area: Area, by: float) -> Area:
    return area[0] - by, area[1] - by, area[2] + 2 * by, area[3] + 2 * by


def filtered(drawing: Drawing, filters: Sequence[Filter], style: ComputedStyle, area: Area) -> Drawing:
    """What a drawing is after those functions; `area` is what its ink does not leave."""
    for step in filters:
        heed()
        if isinstance(step, Recolor):
            drawing = matrix_of(step).drawing(drawing)
        elif isinstance(step, Blur):
            drawing = _blurred(drawing, step.deviation, area)
        elif isinstance(step, DropShadow):
            drawing = _with_shadow(drawing, step, style.used_color(step.color), area)
    return drawing


def _blurred(drawing: Drawing, deviation: float, area: Area) -> Drawing:
    from fleetquill.graphics.blur import blurred
    from fleetquill.graphics.raster import RasterCanvas, picture_of, soft_scale

    if deviation <= 0:
        return drawing
    x, y, width, height = area
    scale = soft_scale(width, height, deviation)
    pixels = RasterCanvas(width, height, scale, x, y)
    drawing.paint(pixels)
    heed()
    soft = blurred(pixels.pixels, deviation * scale)
    heed()
    picture = picture_of(soft, scale)
    found = Drawing(*drawing.extent)
    found.picture(picture, x, y, picture.width, picture.height)
    return found


def _with_shadow(drawing: Drawing, shadow: DropShadow, color: Rgba, area: Area) -> Drawing:
    """What is drawn, with its own outline in a colour blurred below it."""
    below = _blurred(dyed(color).drawing(drawing), shadow.deviation, area)
    found = Drawing(*drawing.extent)
    found.save()
    found.transform((1.0, 0.0, 0.0, 1.0, shadow.x, shadow.y))
    found.add(below)
    found.restore()
    found.add(drawing)
    return found
