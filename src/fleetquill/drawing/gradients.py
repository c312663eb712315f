"""Gradients in a box: where they start and end, and their stops in order (CSS Images 3 §3, 4 §3)."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Final, NamedTuple

from fleetquill.style.background_values import Conic, Linear, Radial, Stop
from fleetquill.style.lengths import resolve
from fleetquill.style.values import Rgba

ColorStop = tuple[float, Rgba]  # from 0 to 1 along the gradient
MOST_STOPS: Final = 400  # of a gradient that repeats


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
    stops = _placed(gradient.stops, 360.0, current)
    return Sweep(center, gradient.angle, _repeated(stops, 1.0) if gradient.repeats else stops)


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
    stops = _placed(gradient.stops, length, current)
    if gradient.repeats:
        stops = _repeated(stops, 1.0)
    x, y = width / 2, height / 2
    return Axial((x - dx * half, y - dy * half), (x + dx * half, y + dy * half), stops)


def _round(gradient: Radial, width: float, height: float, current: Rgba) -> Round:
    x, y = resolve(gradient.center[0], width), resolve(gradient.center[1], height)
    radii = _radii(gradient, width, height, x, y)
    radii = (max(radii[0], 0.01), max(radii[1], 0.01))
    stops = _placed(gradient.stops, radii[0], current)
    if gradient.repeats:
        corners = [(cx - x, cy - y) for cx in (0.0, width) for cy in (0.0, height)]
        reach = max(math.hypot(cx / radii[0], cy / radii[1]) for cx, cy in corners)
        stops = _repeated(stops, reach)
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


def _placed(stops: tuple[Stop, ...], length: float, current: Rgba) -> tuple[ColorStop, ...]:
    """Stops with all their places: never going back, and spread evenly where they were left out (§3.4.3)."""
    places: list[float | None] = [None if s.place is None else resolve(s.place, length) / length for s in stops]
    if places[0] is None:
        places[0] = 0.0
    if places[-1] is None:
        places[-1] = max([1.0, *(p for p in places if p is not None)])
    highest = 0.0 if places[0] is None else places[0]
    for index, place in enumerate(places):
        if place is not None:
            highest = max(highest, place)
            places[index] = highest
    index = 0
    while index < len(places):
        if places[index] is None:
            stop = next(i for i in range(index, len(places)) if places[i] is not None)
            before, after = places[index - 1] or 0.0, places[stop] or 0.0
            for step in range(index, stop):
                places[step] = before + (after - before) * (step - index + 1) / (stop - index + 1)
            index = stop
        index += 1
    return tuple((place or 0.0, s.color or current) for place, s in zip(places, stops, strict=True))


def _repeated(stops: tuple[ColorStop, ...], reach: float) -> tuple[ColorStop, ...]:
    """The stops over and over from 0 to `reach`."""
    first, last = stops[0][0], stops[-1][0]
    length = last - first
    if length <= 0.0005:
        return ((0.0, stops[-1][1]), (1.0, stops[-1][1]))
    found: list[ColorStop] = []
    turn = -math.ceil(first / length) if first > 0 else 0
    while first + turn * length < reach and len(found) < MOST_STOPS:
        found += [(place + turn * length, color) for place, color in stops]
        turn += 1
    return tuple(found)


def color_at(stops: tuple[ColorStop, ...], place: float) -> Rgba:
    """The colour at a place along a gradient."""
    if place <= stops[0][0]:
        return stops[0][1]
    for (start, first), (end, second) in pairwise(stops):
        if place <= end:
            share = (place - start) / (end - start) if end > start else 1.0
            return Rgba(*(a + (b - a) * share for a, b in zip(first, second, strict=True)))
    return stops[-1][1]


def is_opaque(stops: tuple[ColorStop, ...]) -> bool:
    return all(color.alpha >= 1.0 for _, color in stops)
