"""Shadows of boxes, outside and inside (CSS Backgrounds 3 §6)."""

from __future__ import annotations

from typing import Final

from fleetquill.drawing.canvas import Canvas
from fleetquill.drawing.paths import Corners, inset, rectangle, rounded
from fleetquill.graphics.blur import REACH, shadow_picture
from fleetquill.paint.areas import Areas
from fleetquill.paint.borders import Frame
from fleetquill.style.background_values import BoxShadow
from fleetquill.style.properties import ComputedStyle

WIDE: Final = 10_000.0  # px around a box: the outside of it


def paint_shadows(canvas: Canvas, style: ComputedStyle, frame: Frame, corners: Corners, *, inside: bool) -> None:
    """The shadows outside of a box, or those inside it; the first lies uppermost."""
    for shadow in reversed(style.box_shadow):
        if shadow.inset != inside:
            continue
        if inside:
            _paint_inset(canvas, style, shadow, Areas(style, frame, corners))
        else:
            _paint_outer(canvas, style, shadow, frame, corners)


def _paint_outer(canvas: Canvas, style: ComputedStyle, shadow: BoxShadow, frame: Frame, corners: Corners) -> None:
    color = style.used_color(shadow.color)
    spread = shadow.spread
    width, height = frame.width + 2 * spread, frame.height + 2 * spread
    if width <= 0 or height <= 0 or color.alpha <= 0:
        return
    x, y = frame.x + shadow.x - spread, frame.y + shadow.y - spread
    canvas.save()
    outside = rectangle(frame.x - WIDE, frame.y - WIDE, frame.width + 2 * WIDE, frame.height + 2 * WIDE)
    canvas.clip([*outside, *rounded(*frame[:4], corners)], even_odd=True)
    grown = inset(corners, -spread, -spread, -spread, -spread) if not corners.square else corners
    if shadow.blur <= 0:
        canvas.fill_path(rounded(x, y, width, height, grown), color)
    else:
        radius = max(0.0, min(grown.top_left[0], width / 2, height / 2))
        margin = round(REACH * shadow.blur, 2)
        box = (margin, margin, round(width, 2), round(height, 2))
        picture = shadow_picture(
            box[2] + 2 * margin, box[3] + 2 * margin, box, round(radius, 2), shadow.blur, color, inside=False
        )
        canvas.picture(picture, x - margin, y - margin, picture.width, picture.height)
    canvas.restore()


def _paint_inset(canvas: Canvas, style: ComputedStyle, shadow: BoxShadow, areas: Areas) -> None:
    color = style.used_color(shadow.color)
    x, y, width, height = areas.boxes["padding-box"]
    corners = areas.corners["padding-box"]
    if width <= 0 or height <= 0:
        return
    hole_x, hole_y = x + shadow.x + shadow.spread, y + shadow.y + shadow.spread
    hole_width, hole_height = max(0.0, width - 2 * shadow.spread), max(0.0, height - 2 * shadow.spread)
    canvas.save()
    canvas.clip(rounded(x, y, width, height, corners))
    if shadow.blur <= 0:
        outside = rectangle(x - WIDE, y - WIDE, width + 2 * WIDE, height + 2 * WIDE)
        inner = inset(corners, shadow.spread, shadow.spread, shadow.spread, shadow.spread)
        canvas.fill_path([*outside, *rounded(hole_x, hole_y, hole_width, hole_height, inner)], color, even_odd=True)
    else:
        radius = max(0.0, min(corners.top_left[0] - shadow.spread, hole_width / 2, hole_height / 2))
        hole = (round(hole_x - x, 2), round(hole_y - y, 2), round(hole_width, 2), round(hole_height, 2))
        picture = shadow_picture(
            round(width, 2), round(height, 2), hole, round(radius, 2), shadow.blur, color, inside=True
        )
        canvas.picture(picture, x, y, picture.width, picture.height)
    canvas.restore()
