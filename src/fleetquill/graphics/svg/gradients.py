"""Linear and radial gradients of SVG (SVG 2 §14.2)."""

from __future__ import annotations

import math

from fleetquill.drawing.canvas import Drawing, Matrix, Segment
from fleetquill.drawing.gradients import Axial, ColorStop, Round
from fleetquill.graphics.svg.measures import diagonal
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.paths import bounds, length_of
from fleetquill.graphics.svg.servers import Server
from fleetquill.graphics.svg.transforms import transform_of
from fleetquill.style.box_values import multiply
from fleetquill.style.values import Rgba


def stops_of(painter: SvgPainter, server: Server, opacity: float) -> tuple[ColorStop, ...]:
    """The colours of a gradient and where they stand."""
    stops: list[ColorStop] = []
    last = 0.0
    for stop in server.content().iterchildren("stop"):
        style = painter.styles.in_place(stop)
        color = style.stop_color
        offset = length_of(stop.get("offset", "0"), 1.0) or 0.0
        last = max(last, min(1.0, max(0.0, offset)))
        stops.append((last, color._replace(alpha=color.alpha * style.stop_opacity * opacity)))
    return tuple(stops)


def fill_gradient(
    painter: SvgPainter, server: Server, path: list[Segment], even_odd: bool, opacity: float, fallback: Rgba
) -> None:
    """Fills a path with a gradient; with the colour `fallback` where it has no stops."""
    out = painter.out
    stops = stops_of(painter, server, opacity)
    if len(stops) < 2 or server.element.tag not in ("lineargradient", "radialgradient"):
        color = stops[0][1] if stops else fallback
        if color.alpha > 0:
            out.fill_path(path, color, even_odd)
        return
    boxed = server.is_boxed("gradientunits")
    matrix = transform_of(server.get("gradienttransform") or "")
    if boxed:
        x, y, width, height = bounds(path)
        if width <= 0 or height <= 0:
            return
        matrix = multiply((width, 0.0, 0.0, height, x, y), matrix)
    if (server.get("spreadmethod") or "pad") != "pad":
        out.note("An SVG gradient that repeats is drawn once.")
    size = (1.0, 1.0) if boxed else painter.size
    gradient = _axial(server, stops, size) if server.element.tag == "lineargradient" else _round(server, stops, size)
    if gradient is None:
        out.fill_path(path, stops[-1][1], even_odd)
    else:
        _shade(out, path, gradient, matrix, even_odd)


def _measure(server: Server, name: str, default: str, axis: int, size: tuple[float, float]) -> float:
    basis = size[axis] if axis < 2 else diagonal(size)
    return length_of(server.get(name) or default, basis) or 0.0


def _axial(server: Server, stops: tuple[ColorStop, ...], size: tuple[float, float]) -> Axial | None:
    start = _measure(server, "x1", "0%", 0, size), _measure(server, "y1", "0%", 1, size)
    end = _measure(server, "x2", "100%", 0, size), _measure(server, "y2", "0%", 1, size)
    return None if start == end else Axial(start, end, stops)


def _round(server: Server, stops: tuple[ColorStop, ...], size: tuple[float, float]) -> Round | None:
    center = _measure(server, "cx", "50%", 0, size), _measure(server, "cy", "50%", 1, size)
    radius = _measure(server, "r", "50%", 2, size)
    if radius <= 0:
        return None
    focus = (
        _measure(server, "fx", server.get("cx") or "50%", 0, size) - center[0],
        _measure(server, "fy", server.get("cy") or "50%", 1, size) - center[1],
    )
    reach = math.hypot(*focus)
    pull = min(1.0, 0.99 * radius / reach) if reach > 0 else 0.0
    return Round(center, (radius, radius), stops, (focus[0] * pull / radius, focus[1] * pull / radius))


def _shade(out: Drawing, path: list[Segment], gradient: Axial | Round, matrix: Matrix, even_odd: bool) -> None:
    """Fills a path with a gradient whose measures go through a matrix."""
    out.save()
    out.clip(path, even_odd)
    out.transform(matrix)
    out.shade_all(gradient)
    out.restore()
