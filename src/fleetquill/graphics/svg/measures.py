"""Lengths of a drawing's attributes and styles against its viewport (SVG 2 §8.9)."""

from __future__ import annotations

import math

from fleetquill.drawing.canvas import Segment
from fleetquill.graphics.svg.paths import length_of, shape_path
from fleetquill.graphics.svg.reading import Element
from fleetquill.style.drawn_properties import GEOMETRY
from fleetquill.style.lengths import resolve, resolve_auto
from fleetquill.style.properties import ComputedStyle

Size = tuple[float, float]


def diagonal(size: Size) -> float:
    """What percentages refer to that are neither across nor down."""
    return math.hypot(*size) / math.sqrt(2)


def attribute(element: Element, name: str, axis: int, size: Size) -> float:
    """The length of an attribute in px; `axis` is 0 across, 1 down, 2 neither."""
    return length_of(element.get(name, "0"), size[axis] if axis < 2 else diagonal(size)) or 0.0


def shape_of(element: Element, size: Size, style: ComputedStyle | None = None) -> list[Segment] | None:
    """The path of a basic shape, whose geometry its style may say (SVG 2 §7); None for what is no shape."""
    said = _said(style, size) if style is not None else {}

    def get(name: str, axis: int) -> float:
        return said[name] if name in said else attribute(element, name, axis, size)

    given = {str(name) for name in element.attrib} | said.keys()
    return shape_path(str(element.tag), get, given, lambda name: element.get(name, ""))


def _said(style: ComputedStyle, size: Size) -> dict[str, float]:
    """The lengths that a style gives a shape."""
    values = style.__dict__
    found = {}
    for name in (
        *(GEOMETRY & values.keys()),
        *(("width", "height") if "width" in values or "height" in values else ()),
    ):
        value = values.get(name, "auto")
        axis = 0 if name in ("x", "cx", "rx", "width") else 1 if name in ("y", "cy", "ry", "height") else 2
        basis = size[axis] if axis < 2 else diagonal(size)
        length = resolve_auto(value, basis) if isinstance(value, str) else resolve(value, basis)
        if length is not None:
            found[name] = length
    return found
