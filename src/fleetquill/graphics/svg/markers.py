"""Markers on the vertices of lines (SVG 2 §13.7)."""

from __future__ import annotations

import math

from fleetquill.drawing.canvas import Segment
from fleetquill.drawing.paths import rectangle
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.paths import first_number, length_of, vertices
from fleetquill.graphics.svg.reading import Element, view_box
from fleetquill.graphics.svg.transforms import fit_view
from fleetquill.style.box_values import multiply, translation
from fleetquill.style.lengths import resolve
from fleetquill.style.properties import ComputedStyle


def draw_markers(painter: SvgPainter, path: list[Segment], style: ComputedStyle, depth: int) -> None:
    """What stands on the start, the end and the vertices between of a path."""
    places = vertices(path)
    for index, (x, y, angle) in enumerate(places):
        last = index == len(places) - 1
        name = style.marker_start if index == 0 else style.marker_end if last else style.marker_mid
        marker = painter.styles.ids.get(name) if name else None
        if marker is not None and marker not in painter.busy and marker.tag == "marker":
            if index == 0 and marker.get("orient") == "auto-start-reverse":
                angle += math.pi
            painter.busy.append(marker)
            _draw_marker(painter, marker, (x, y, angle), resolve(style.stroke_width, 1.0), depth)
            painter.busy.pop()


def _draw_marker(
    painter: SvgPainter, marker: Element, place: tuple[float, float, float], stroke_width: float, depth: int
) -> None:
    width, height = (length_of(marker.get(name, "3"), 1) or 0.0 for name in ("markerwidth", "markerheight"))
    if width <= 0 or height <= 0:
        return
    x, y, angle = place
    orient = marker.get("orient", "0")
    turn = angle if orient.startswith("auto") else math.radians(first_number(orient, 0.0))
    scale = 1.0 if marker.get("markerunits", "").lower() == "userspaceonuse" else stroke_width or 1.0
    cos, sin = math.cos(turn), math.sin(turn)
    matrix = multiply((cos, sin, -sin, cos, x, y), (scale, 0.0, 0.0, scale, 0.0, 0.0))
    view = view_box(marker.get("viewbox")) or (0.0, 0.0, width, height)
    fitted = fit_view(view, (0.0, 0.0, width, height), marker.get("preserveaspectratio", ""))
    at = (length_of(marker.get("refx", "0"), view[2]) or 0.0, length_of(marker.get("refy", "0"), view[3]) or 0.0)
    anchor = translation(-(fitted[0] * at[0] + fitted[4]), -(fitted[3] * at[1] + fitted[5]))
    style = painter.styles.in_place(marker)
    painter.out.save()
    painter.out.transform(multiply(multiply(matrix, anchor), fitted))
    if style.overflow not in ("visible", "auto"):
        painter.out.clip(rectangle(*view))
    painter.children(marker, style, depth + 1)
    painter.out.restore()
