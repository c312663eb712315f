"""Basic shapes and paths: what fills them, their outlines, their markers (SVG 2 §13)."""

from __future__ import annotations

from typing import Final

from fleetquill.drawing.canvas import Segment
from fleetquill.drawing.matrices import inverse, moved
from fleetquill.drawing.paths import bounds, encloses
from fleetquill.graphics.svg.inks import Ink, fill_with, stroke_of, stroke_width_of, through
from fleetquill.graphics.svg.markers import draw_markers
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.paths import path_length
from fleetquill.graphics.svg.reading import Element
from fleetquill.style.box_values import IDENTITY, Matrix
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import Rgba

MARKED: Final = ("path", "line", "polyline", "polygon")


def draw_shape(painter: SvgPainter, element: Element, path: list[Segment], style: ComputedStyle, depth: int) -> None:
    """Draws the shape of an element."""
    if not path or style.visibility != "visible":
        return
    if style.paint_order == "stroke":
        _stroke(painter, element, path, style, depth)
    if encloses(path):
        ink = Ink(style.fill, style.fill_opacity, style, depth)
        fill_with(painter, ink, path, style.fill_rule == "evenodd")
    if style.paint_order != "stroke":
        _stroke(painter, element, path, style, depth)
    if element.tag in MARKED and (style.marker_start or style.marker_mid or style.marker_end):
        around, painter.context = (
            painter.context,
            {
                "fill": Ink(style.fill, style.fill_opacity, style, depth).settled(painter),
                "stroke": Ink(style.stroke, style.stroke_opacity, style, depth).settled(painter),
            },
        )
        draw_markers(painter, path, style, depth)
        painter.context = around


def _stroke(painter: SvgPainter, element: Element, path: list[Segment], style: ComputedStyle, depth: int) -> None:
    ink = Ink(style.stroke, style.stroke_opacity, style, depth)
    if stroke_width_of(style, painter.size) <= 0 or not ink.is_seen(painter):
        return
    share = path_length(element.get("pathlength", ""), path) if style.stroke_dasharray else 1.0
    stroke = stroke_of(style, painter.size, share)
    still = style.vector_effect == "non-scaling-stroke"
    matrix: Matrix = getattr(painter.out, "matrix", IDENTITY) if still else IDENTITY
    outline = [moved(segment, matrix) for segment in path] if still else path

    def draw(color: Rgba) -> None:
        if still:
            painter.out.save()
            painter.out.transform(inverse(matrix))
        painter.out.stroke_path(outline, color, stroke)
        if still:
            painter.out.restore()

    box = bounds(path)
    through(painter, ink, box, stroke.width * max(1.0, style.stroke_miterlimit) / 2, draw)
