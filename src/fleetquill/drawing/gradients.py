"""Gradients in a box: where they start and end, and their stops in order (CSS Images 3 §3, 4 §3)."""

from __future__ import annotations

import math
from typing import NamedTuple

from fleetquill.drawing.color_stops import ColorStop, placed, repeated
from fleetquill.style.background_values import Conic, Linear, Radial
from fleetquill.style.lengths import resolve
from fleetquill.style.values import Rgba


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
