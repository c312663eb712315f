"""All that is drawn for a box itself: shadows, background, borders (CSS Backgrounds 3)."""

from __future__ import annotations

from collections.abc import Mapping

from fleetquill.drawing.canvas import Canvas, Drawing
from fleetquill.drawing.paths import SQUARE, rounded
from fleetquill.drawing.pictures import Picture
from fleetquill.paint.areas import Areas
from fleetquill.paint.backgrounds import PaintText, paint_background
from fleetquill.paint.border_images import paint_border_image
from fleetquill.paint.borders import Decoration, Frame, corners_of
from fleetquill.paint.shadows import paint_shadows
from fleetquill.paint.sides import paint_borders
from fleetquill.style.properties import ComputedStyle


def paint_decoration(
    canvas: Canvas,
    style: ComputedStyle,
    decoration: Decoration,
    frame: Frame,
    pictures: Mapping[str, Picture | Drawing] | None = None,
    *,
    root: Areas | None = None,
    text: PaintText | None = None,
) -> None:
    """Shadows, background and borders; `pictures` are those of the background, by address.

    `root` and `text` are as `paint_background` has them.
    """
    corners = corners_of(style, frame) if decoration.round else SQUARE
    if decoration.layered:
        paint_shadows(canvas, style, frame, corners, inside=False)
        paint_background(canvas, style, frame, corners, pictures or {}, root=root, text=text)
        paint_shadows(canvas, style, frame, corners, inside=True)
    elif decoration.background is not None:
        if corners.square:
            canvas.fill_rect(frame.x, frame.y, frame.width, frame.height, decoration.background)
        else:
            canvas.fill_path(rounded(*frame[:4], corners), decoration.background)
    if style.border_image_source == "none" or not paint_border_image(canvas, style, frame, pictures or {}):
        paint_borders(canvas, decoration.sides, frame, corners)
