"""Gradients as PDF shadings: axial and radial, with stitched functions (ISO 32000-2 §8.7.4.5, §7.10)."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

from fleetquill.drawing.canvas import Path
from fleetquill.drawing.color_stops import ColorStop
from fleetquill.drawing.gradients import Axial, Round
from fleetquill.drawing.paths import ellipse, polygon
from fleetquill.pdf.objects import Name
from fleetquill.style.values import Rgba


def band_of(gradient: Axial | Round, place: float, far: float) -> Path:
    """What lies beyond a place along an axial gradient, as far as that, or within it in a round one."""
    if isinstance(gradient, Axial):
        (x0, y0), (x1, y1) = gradient.start, gradient.end
        dx, dy = x1 - x0, y1 - y0
        x, y = x0 + dx * place, y0 + dy * place
        size = math.hypot(dx, dy)
        far_x, far_y = dx / size * far, dy / size * far
        return polygon(
            (x - far_y, y + far_x), (x + far_y, y - far_x), (x + far_x + far_y, y + far_y - far_x),
            (x + far_x - far_y, y + far_y + far_x),
        )  # fmt: skip
    rx, ry = gradient.radii
    return ellipse(*gradient.center, rx * place, ry * place)


def shading(gradient: Axial | Round) -> dict[str, Any]:
    """The shading dictionary of a gradient whose stops stand from 0 to 1."""
    if isinstance(gradient, Axial):
        coords = [*gradient.start, *gradient.end]
    else:
        coords = [*gradient.focus, 0.0, 0.0, 0.0, 1.0]
    return {
        "ShadingType": 2 if isinstance(gradient, Axial) else 3,
        "ColorSpace": Name("DeviceRGB"),
        "Coords": [round(value, 4) for value in coords],
        "Extend": [True, True],
        "Function": _function(_apart(gradient.stops)),
    }


def _apart(stops: tuple[ColorStop, ...]) -> list[ColorStop]:
    """Stops from 0 to 1, no two of them at one place."""
    found: list[ColorStop] = [(0.0, stops[0][1])]
    for place, color in stops:
        if place > found[-1][0]:
            found.append((place, color))
        elif color != found[-1][1]:
            found.append((math.nextafter(found[-1][0], 2.0) + 1e-6, color))
    if found[-1][0] != 1.0:
        found = [stop for stop in found if stop[0] < 1.0]
        found.append((1.0, stops[-1][1]))
    return found


def _function(stops: list[ColorStop]) -> dict[str, Any]:
    parts = [
        {
            "FunctionType": 2,
            "Domain": [0, 1],
            "C0": _color(first),
            "C1": _color(second),
            "N": 1,
        }
        for (_, first), (_, second) in pairwise(stops)
    ]
    if len(parts) == 1:
        return parts[0]
    return {
        "FunctionType": 3,
        "Domain": [0, 1],
        "Functions": parts,
        "Bounds": [round(place, 6) for place, _ in stops[1:-1]],
        "Encode": [0, 1] * len(parts),
    }


def _color(color: Rgba) -> list[float]:
    return [round(part, 4) for part in color[:3]]
