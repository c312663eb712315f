"""Gradients as PDF shadings: axial and radial, with stitched functions (ISO 32000-2 §8.7.4.5, §7.10)."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

from fleetquill.drawing.gradients import Axial, ColorStop, Round, color_at
from fleetquill.output.pdf.objects import Name


def round_matrix(gradient: Round) -> tuple[float, float, float, float, float, float]:
    """The unit circle onto the gradient's ellipse."""
    (x, y), (rx, ry) = gradient.center, gradient.radii
    return (rx, 0.0, 0.0, ry, x, y)


def shading(gradient: Axial | Round, *, alpha: bool) -> dict[str, Any]:
    """The shading dictionary; with `alpha` it shows the stops' opacity in grey."""
    stops = _within(gradient.stops)
    if isinstance(gradient, Axial):
        coords = [*gradient.start, *gradient.end]
    else:
        coords = [*gradient.focus, 0.0, 0.0, 0.0, 1.0]
    return {
        "ShadingType": 2 if isinstance(gradient, Axial) else 3,
        "ColorSpace": Name("DeviceGray" if alpha else "DeviceRGB"),
        "Coords": [round(value, 4) for value in coords],
        "Extend": [True, True],
        "Function": _function(stops, alpha),
    }


def _within(stops: tuple[ColorStop, ...]) -> list[ColorStop]:
    """Stops from 0 to 1: what lies outside is cut off where it crosses."""
    inner = [stop for stop in stops if 0.0 < stop[0] < 1.0]
    first = color_at(stops, 0.0) if stops[0][0] <= 0.0 else stops[0][1]
    at_start = [stop for stop in stops if stop[0] == 0.0]
    return [(0.0, at_start[-1][1] if at_start else first), *inner, (1.0, color_at(stops, 1.0))]


def _function(stops: list[ColorStop], alpha: bool) -> dict[str, Any]:
    parts = [
        {
            "FunctionType": 2,
            "Domain": [0, 1],
            "C0": _color(first, alpha),
            "C1": _color(second, alpha),
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


def _color(color: Any, alpha: bool) -> list[float]:
    return [round(color.alpha, 4)] if alpha else [round(part, 4) for part in color[:3]]
