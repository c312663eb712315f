"""Lines around boxes that take no room and lie over what is in them (CSS UI 4 §3, CSS 2.2 appendix E)."""

from __future__ import annotations

from fleetquill.drawing.canvas import Canvas
from fleetquill.drawing.paths import SQUARE, inset
from fleetquill.paint.borders import Frame, Side, corners_of
from fleetquill.paint.sides import paint_borders
from fleetquill.style.properties import ComputedStyle


def paint_outline(canvas: Canvas, style: ComputedStyle, frame: Frame) -> None:
    """The outline of a border box, further out or in by its offset."""
    width = style.outline_width
    if width <= 0 or style.visibility != "visible":
        return
    reach = width + style.outline_offset
    kind = "solid" if style.outline_style == "auto" else style.outline_style
    side = Side(width, kind, style.outline_color)
    outer = Frame(
        frame.x - reach, frame.y - reach, frame.width + 2 * reach, frame.height + 2 * reach, frame.first, frame.last
    )
    corners = corners_of(style, frame)
    grown = SQUARE if corners.square else inset(corners, -reach, -reach, -reach, -reach)
    paint_borders(canvas, (side, side, side, side), outer, grown)
