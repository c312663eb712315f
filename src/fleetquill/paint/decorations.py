"""All that is drawn for a box itself: shadows, background, borders, outline (CSS Backgrounds 3)."""

from __future__ import annotations

from collections.abc import Mapping

from fleetquill.drawing.canvas import Canvas, Drawing
from fleetquill.drawing.paths import SQUARE, rounded
from fleetquill.drawing.pictures import Picture
from fleetquill.paint.backgrounds import paint_background, paint_outline, paint_shadows
from fleetquill.paint.borders import Decoration, Frame, corners_of, paint_borders
from fleetquill.style.properties import ComputedStyle


def paint_decoration(
    canvas: Canvas,
    style: ComputedStyle,
    decoration: Decoration,
    frame: Frame,
    pictures: Mapping[str, Picture | Drawing] | None = None,
) -> None:
    """Shadows, background, borders and outline; `pictures` are those of the background, by address."""
    corners = corners_of(style, frame) if decoration.round else SQUARE
    if decoration.layered:
        paint_shadows(canvas, style, frame, corners, inside=False)
        paint_background(canvas, style, frame, corners, pictures or {})
        paint_shadows(canvas, style, frame, corners, inside=True)
        paint_outline(canvas, style, frame, corners)
    elif decoration.background is not None:
        if corners.square:
            canvas.fill_rect(frame.x, frame.y, frame.width, frame.height, decoration.background)
        else:
            canvas.fill_path(rounded(*frame[:4], corners), decoration.background)
    paint_borders(canvas, decoration.sides, frame, corners)
