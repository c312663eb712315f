"""Basic shapes and paths: what fills them, their outlines, their markers (SVG 2 §13)."""

from __future__ import annotations

from typing import Final

from fleetquill.drawing.canvas import Segment, Stroke
from fleetquill.graphics.svg.gradients import fill_gradient, stops_of
from fleetquill.graphics.svg.markers import draw_markers
from fleetquill.graphics.svg.measures import diagonal
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.patterns import fill_pattern
from fleetquill.graphics.svg.servers import plain_color, server_of
from fleetquill.style.lengths import resolve
from fleetquill.style.properties import ComputedStyle

CAPS: Final = {"butt": 0, "round": 1, "square": 2}
JOINS: Final = {"miter": 0, "miter-clip": 0, "arcs": 0, "round": 1, "bevel": 2}


def draw_shape(painter: SvgPainter, tag: str, path: list[Segment], style: ComputedStyle, depth: int) -> None:
    """Draws a shape whose element has that tag."""
    if not path or style.visibility != "visible":
        return
    if style.paint_order == "stroke":
        _stroke(painter, path, style)
    if tag != "line":
        _fill(painter, path, style, depth)
    if style.paint_order != "stroke":
        _stroke(painter, path, style)
    if tag in ("path", "line", "polyline", "polygon"):
        draw_markers(painter, path, style, depth)


def _fill(painter: SvgPainter, path: list[Segment], style: ComputedStyle, depth: int) -> None:
    paint, opacity = style.fill, style.fill_opacity
    color = plain_color(paint, style, opacity)
    even_odd = style.fill_rule == "evenodd"
    server = server_of(paint, painter)
    if server is not None and server.element.tag == "pattern":
        fill_pattern(painter, server, path, even_odd, depth)
    elif server is not None:
        fill_gradient(painter, server, path, even_odd, opacity, color)
    elif color.alpha > 0:
        painter.out.fill_path(path, color, even_odd)


def _stroke(painter: SvgPainter, path: list[Segment], style: ComputedStyle) -> None:
    paint, opacity = style.stroke, style.stroke_opacity
    color = plain_color(paint, style, opacity)
    server = server_of(paint, painter)
    if server is not None:
        stops = stops_of(painter, server, opacity)
        color = stops[len(stops) // 2][1] if stops else color
        if len(stops) > 1:
            painter.out.note("A gradient on an SVG outline is drawn in one colour.")
    basis = diagonal(painter.size)
    width = resolve(style.stroke_width, basis)
    if width <= 0 or color.alpha <= 0:
        return
    dash = tuple(resolve(part, basis) for part in style.stroke_dasharray)
    if sum(dash) <= 0 or min(dash) < 0:
        dash = ()
    offset = resolve(style.stroke_dashoffset, basis)
    cap, join = CAPS[style.stroke_linecap], JOINS[style.stroke_linejoin]
    painter.out.stroke_path(path, color, Stroke(width, dash, offset, cap, join, style.stroke_miterlimit))
