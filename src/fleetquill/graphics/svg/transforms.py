"""Transforms of SVG: those of attributes and styles, and the ones that fit a view box (SVG 2 §8)."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from typing import Final

from fleetquill.drawing.canvas import Matrix
from fleetquill.graphics.svg.paths import numbers_of
from fleetquill.graphics.svg.reading import Element, ViewBox
from fleetquill.style.box_values import IDENTITY, multiply, transform_matrix, translation
from fleetquill.style.properties import ComputedStyle

TRANSFORM: Final = re.compile(r"(\w+)\s*\(([^)]*)\)")


def element_transform(
    element: Element, style: ComputedStyle, size: tuple[float, float], box_of: Callable[[], tuple[float, ...]]
) -> Matrix:
    """The matrix of an element: what its style says, else its attribute (SVG 2 §8.5); `box_of` gives its own box."""
    if style.transform:
        if style.transform_box in ("fill-box", "stroke-box", "content-box", "border-box"):
            x, y, width, height = box_of()
            own = transform_matrix(style.transform, style.transform_origin, width, height)
            return multiply(multiply(translation(x, y), own), translation(-x, -y))
        return transform_matrix(style.transform, style.transform_origin, *size)
    return transform_of(element.get("transform", ""))


def transform_of(text: str) -> Matrix:
    """The matrix of a transform attribute."""
    matrix = IDENTITY
    for name, arguments in TRANSFORM.findall(text):
        numbers = numbers_of(arguments)
        if numbers:
            matrix = multiply(matrix, _step(name.lower(), numbers))
    return matrix


def _step(name: str, n: list[float]) -> Matrix:
    if name == "matrix" and len(n) >= 6:
        return (n[0], n[1], n[2], n[3], n[4], n[5])
    if name == "translate":
        return translation(n[0], n[1] if len(n) > 1 else 0.0)
    if name == "scale":
        return (n[0], 0.0, 0.0, n[1] if len(n) > 1 else n[0], 0.0, 0.0)
    if name == "rotate":
        turn = math.radians(n[0])
        cos, sin = math.cos(turn), math.sin(turn)
        turned = (cos, sin, -sin, cos, 0.0, 0.0)
        return multiply(multiply(translation(n[1], n[2]), turned), translation(-n[1], -n[2])) if len(n) >= 3 else turned
    if name == "skewx":
        return (1.0, 0.0, math.tan(math.radians(n[0])), 1.0, 0.0, 0.0)
    if name == "skewy":
        return (1.0, math.tan(math.radians(n[0])), 0.0, 1.0, 0.0, 0.0)
    return IDENTITY


def fit_view(view: ViewBox, area: tuple[float, float, float, float], aspect: str) -> Matrix:
    """The matrix that puts a view box into an area (SVG 2 §8.6)."""
    x, y, width, height = area
    sx, sy = width / view[2], height / view[3]
    words = aspect.split()
    align = words[0] if words else "xMidYMid"
    if align.lower() == "none":
        return (sx, 0.0, 0.0, sy, x - view[0] * sx, y - view[1] * sy)
    scale = max(sx, sy) if "slice" in words else min(sx, sy)
    shares = {"min": 0.0, "mid": 0.5, "max": 1.0}
    across, down = shares.get(align[1:4].lower(), 0.5), shares.get(align[5:8].lower(), 0.5)
    left = x + (width - view[2] * scale) * across - view[0] * scale
    top = y + (height - view[3] * scale) * down - view[1] * scale
    return (scale, 0.0, 0.0, scale, left, top)
