"""Linear and radial gradients of SVG (SVG 2 §14.2)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Final, NamedTuple

from fleetquill.drawing.canvas import Area, Drawing, Matrix
from fleetquill.drawing.color_stops import ColorStop
from fleetquill.drawing.gradients import Axial, Round
from fleetquill.drawing.matrices import inverse_bounds
from fleetquill.graphics.svg.measures import diagonal
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.paths import length_of
from fleetquill.graphics.svg.servers import Server
from fleetquill.graphics.svg.transforms import transform_of
from fleetquill.style.box_values import multiply
from fleetquill.style.values import Rgba

MOST_TURNS: Final = 200  # of a gradient that repeats


class PlacedGradient(NamedTuple):
    """A gradient, and the matrix that its measures go through."""

    gradient: Axial | Round
    matrix: Matrix

    def paint(self, out: Drawing) -> None:
        """Fills all that is not clipped."""
        out.save()
        out.transform(self.matrix)
        out.shade_all(self.gradient)
        out.restore()


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


def gradient_of(painter: SvgPainter, server: Server, box: Area, opacity: float) -> PlacedGradient | Rgba | None:
    """The gradient for a shape in that box; a colour where it comes to one, None where nothing is painted."""
    stops = stops_of(painter, server, opacity)
    if not stops:
        return None
    if len(stops) < 2:
        return stops[0][1]
    boxed = server.is_boxed("gradientunits")
    matrix = transform_of(server.get("gradienttransform") or "")
    if boxed:
        x, y, width, height = box
        if width <= 0 or height <= 0:
            return None
        matrix = multiply((width, 0.0, 0.0, height, x, y), matrix)
    size = (1.0, 1.0) if boxed else painter.size
    linear = server.element.tag == "lineargradient"
    gradient = _axial(server, stops, size) if linear else _round(server, stops, size)
    if gradient is None:
        return stops[-1][1]
    spread = (server.get("spreadmethod") or "pad").lower()
    if spread in ("reflect", "repeat"):
        gradient = _over_and_over(gradient, inverse_bounds(matrix, _widened(box)), spread == "reflect")
    return PlacedGradient(gradient, matrix)


def _widened(box: Area) -> Area:
    """With room for an outline."""
    by = max(box[2], box[3]) / 2
    return box[0] - by, box[1] - by, box[2] + 2 * by, box[3] + 2 * by


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
    inner = min(1.0, max(0.0, _measure(server, "fr", "0%", 2, size) / radius))
    if inner:  # the colours begin at the focal circle
        stops = ((0.0, stops[0][1]), *((inner + place * (1 - inner), color) for place, color in stops))
    focus = (
        _measure(server, "fx", server.get("cx") or "50%", 0, size) - center[0],
        _measure(server, "fy", server.get("cy") or "50%", 1, size) - center[1],
    )
    reach = math.hypot(*focus)
    pull = min(1.0, 0.99 * radius / reach) if reach > 0 else 0.0
    return Round(center, (radius, radius), stops, (focus[0] * pull / radius, focus[1] * pull / radius))


def _over_and_over(gradient: Axial | Round, box: Area, mirrored: bool) -> Axial | Round:
    """spreadMethod (§14.2.2.1): as many turns as the box has room for."""
    corners = [(box[0] + across, box[1] + down) for across in (0.0, box[2]) for down in (0.0, box[3])]
    if isinstance(gradient, Axial):
        (x0, y0), (x1, y1) = gradient.start, gradient.end
        dx, dy = x1 - x0, y1 - y0
        along = [((x - x0) * dx + (y - y0) * dy) / (dx * dx + dy * dy) for x, y in corners]
        first, last = _turns(min(along), max(along))
        start, end = (x0 + dx * first, y0 + dy * first), (x0 + dx * last, y0 + dy * last)
        return Axial(start, end, _turned(gradient.stops, first, last, mirrored))
    reach = max(_place_of(gradient, corner) for corner in corners)
    _, last = _turns(0.0, reach)
    radii = (gradient.radii[0] * last, gradient.radii[1] * last)
    center = (  # circles grow away from the focus
        gradient.center[0] - gradient.focus[0] * (last - 1) * gradient.radii[0],
        gradient.center[1] - gradient.focus[1] * (last - 1) * gradient.radii[1],
    )
    return Round(center, radii, _turned(gradient.stops, 0, last, mirrored), gradient.focus)


def _place_of(gradient: Round, point: tuple[float, float]) -> float:
    """How many turns from its focus on a circle of the gradient goes through a point."""
    x, y = ((point[axis] - gradient.center[axis]) / gradient.radii[axis] - gradient.focus[axis] for axis in (0, 1))
    fx, fy = gradient.focus
    inward, short = x * fx + y * fy, 1 - fx * fx - fy * fy
    return (inward + math.sqrt(inward * inward + short * (x * x + y * y))) / short


def _turns(start: float, end: float) -> tuple[int, int]:
    first, last = min(0, math.floor(start)), max(1, math.ceil(end))
    return max(first, -MOST_TURNS), min(last, MOST_TURNS)


def _turned(stops: Sequence[ColorStop], first: int, last: int, mirrored: bool) -> tuple[ColorStop, ...]:
    found: list[ColorStop] = []
    whole = [(0.0, stops[0][1]), *stops, (1.0, stops[-1][1])]
    for turn in range(first, last):
        back = mirrored and turn % 2
        for place, color in reversed(whole) if back else whole:
            at = turn + (1 - place if back else place)
            found.append(((at - first) / (last - first), color))
    return tuple(found)
