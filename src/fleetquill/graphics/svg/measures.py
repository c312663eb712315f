"""Lengths of a drawing's attributes and styles against its viewport (SVG 2 §8.9)."""

from __future__ import annotations

import math
from collections.abc import Callable

from fleetquill.drawing.canvas import Segment
from fleetquill.graphics.svg.paths import bounds, length_of, shape_path
from fleetquill.graphics.svg.reading import Element

Size = tuple[float, float]


def diagonal(size: Size) -> float:
    """What percentages refer to that are neither across nor down."""
    return math.hypot(*size) / math.sqrt(2)


def attribute(element: Element, name: str, axis: int, size: Size) -> float:
    """The length of an attribute in px; `axis` is 0 across, 1 down, 2 neither."""
    return length_of(element.get(name, "0"), size[axis] if axis < 2 else diagonal(size)) or 0.0


def reader(element: Element, size: Size) -> Callable[[str, int], float]:
    """The lengths of an element's attributes."""
    return lambda name, axis: attribute(element, name, axis, size)


def shape_of(element: Element, size: Size) -> list[Segment] | None:
    """The path of a basic shape; None for what is no shape."""
    return shape_path(str(element.tag), reader(element, size), element.attrib)  # type: ignore[arg-type]  # bytes too


def bounds_of(element: Element, size: Size) -> tuple[float, float, float, float]:
    """The box around what an element draws, without its transforms."""
    paths: list[Segment] = []
    for child in [element, *element.iterdescendants()]:
        if isinstance(child.tag, str):
            paths += shape_of(child, size) or []
    return bounds(paths)
