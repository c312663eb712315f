"""Gradients in a box: where they start and end, and their stops in order (CSS Images 3 §3, 4 §3)."""

from __future__ import annotations

import math
from typing import Final, NamedTuple

from fleetquill.drawing.color_stops import ColorStop, placed, repeated
from fleetquill.style.background_values import Conic, Linear, Radial
from fleetquill.style.lengths import resolve
from fleetquill.style.values import Rgba

TAIL: Final = 1 / 128  # of the length


class Axial(NamedTuple):
    """From one point to another, px in the box."""

    start: tuple[float, float]
    end: tuple[float, float]
    stops: tuple[ColorStop, ...]


class Round(NamedTuple):
    """From a centre to an ellipse around it."""

    center: tuple[float, float]
    radii: tuple[float, float]
    stops: tuple[ColorStop, ...]
    focus: tuple[float, float] = (0.0, 0.0)  # from the centre, in radii


class Sweep(NamedTuple):
    """Around a centre, clockwise from `angle` degrees after up; stops are shares of the turn."""

    center: tuple[float, float]
    angle: float
    stops: tuple[ColorStop, ...]


Shade = Axial | Round | Sweep


def shade(gradient: Linear | Radial | Conic, width: float, height: float, current: Rgba) -> Shade:
    """The gradient in a box of that size; `current` is what currentcolor means."""
    if isinstance(gradient, Linear):
        return _axial(gradient, width, height, current)
    if isinstance(gradient, Radial):
        return _round(gradient, width, height, current)
    center = (resolve(gradient.center[0], width), resolve(gradient.center[1], height))
    stops = placed(gradient.stops, gradient.mixing, 360.0, current)
    return Sweep(center, gradient.angle, repeated(stops, 1.0) if gradient.repeats else stops)


def _axial(gradient: Linear, width: float, height: float, current: Rgba) -> Axial:
    """§3.1.1: the gradient line reaches so far that the corners get the pure end colours."""
    if isinstance(gradient.angle, str):
        down, across = gradient.angle.split(" ")
        dx, dy = height * (1 if across == "right" else -1), width * (1 if down == "bottom" else -1)
        size = math.hypot(dx, dy) or 1.0
        dx, dy = dx / size, dy / size
    else:
        turn = math.radians(gradient.angle)
        dx, dy = math.sin(turn), -math.cos(turn)
    half = (abs(width * dx) + abs(height * dy)) / 2
    length = 2 * half or 1.0
    stops = placed(gradient.stops, gradient.mixing, length, current)
    if gradient.repeats:
        stops = repeated(stops, 1.0)
    x, y = width / 2, height / 2
    return Axial((x - dx * half, y - dy * half), (x + dx * half, y + dy * half), stops)


def _round(gradient: Radial, width: float, height: float, current: Rgba) -> Round:
    x, y = resolve(gradient.center[0], width), resolve(gradient.center[1], height)
    radii = _radii(gradient, width, height, x, y)
    radii = (max(radii[0], 0.01), max(radii[1], 0.01))
    stops = placed(gradient.stops, gradient.mixing, radii[0], current)
    if gradient.repeats:
        corners = [(cx - x, cy - y) for cx in (0.0, width) for cy in (0.0, height)]
        reach = max(math.hypot(cx / radii[0], cy / radii[1]) for cx, cy in corners)
        stops = repeated(stops, reach)
        scale = max(1.0, stops[-1][0])
        radii = (radii[0] * scale, radii[1] * scale)
        stops = tuple((place / scale, color) for place, color in stops)
    return Round((x, y), radii, stops)


def _radii(gradient: Radial, width: float, height: float, x: float, y: float) -> tuple[float, float]:
    """§3.2.2."""
    extent = gradient.extent
    if isinstance(extent, tuple):
        radius = resolve(extent[0], width)
        return (radius, radius) if len(extent) == 1 else (radius, resolve(extent[1], height))
    across, down = (abs(x), abs(width - x)), (abs(y), abs(height - y))
    near = extent.startswith("closest")
    pick = min if near else max
    rx, ry = pick(across), pick(down)
    if gradient.circle:
        if extent.endswith("side"):
            radius = pick(rx, ry)
        else:
            radius = pick(math.hypot(a, d) for a in across for d in down)
        return radius, radius
    if extent.endswith("side"):
        return rx, ry
    return rx * math.sqrt(2), ry * math.sqrt(2)


def round_matrix(gradient: Round) -> tuple[float, float, float, float, float, float]:
    """The unit circle onto the gradient's ellipse."""
    (x, y), (rx, ry) = gradient.center, gradient.radii
    return (rx, 0.0, 0.0, ry, x, y)


def within(gradient: Axial | Round) -> Axial | Round:
    """The same gradient, its line a hair longer than its stops reach, so that they stand from 0 to 1.

    Readers that take samples take none at the very end.
    """
    first, last = gradient.stops[0][0], gradient.stops[-1][0]
    last += (last if isinstance(gradient, Round) else last - first) * TAIL
    length = last - first
    if isinstance(gradient, Round):
        first, length = 0.0, last
    if length <= 0:
        return gradient._replace(stops=((0.0, gradient.stops[-1][1]), (1.0, gradient.stops[-1][1])))
    stops = tuple(((place - first) / length, color) for place, color in gradient.stops)
    stops = (*stops, (1.0, stops[-1][1]))
    if isinstance(gradient, Round):
        rx, ry = gradient.radii
        focus = (gradient.focus[0] / length, gradient.focus[1] / length)
        return Round(gradient.center, (rx * length, ry * length), stops, focus)
    (x0, y0), (x1, y1) = gradient.start, gradient.end
    dx, dy = x1 - x0, y1 - y0
    return Axial((x0 + dx * first, y0 + dy * first), (x0 + dx * last, y0 + dy * last), stops)
