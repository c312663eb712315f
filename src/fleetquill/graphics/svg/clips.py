"""Clips and masks of SVG (CSS Masking 1 §5, §6)."""

from __future__ import annotations

from fleetquill.drawing.canvas import Segment
from fleetquill.graphics.svg.measures import attribute, bounds_of, shape_of
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.reading import Element
from fleetquill.graphics.svg.transforms import moved, transform_of
from fleetquill.style.box_values import multiply, translation


def clip_to(painter: SvgPainter, name: str, element: Element) -> None:
    """Clips what an element draws to the shapes of a clipPath."""
    ids, size = painter.styles.ids, painter.size
    server = ids.get(name)
    if server is None or server.tag != "clippath":
        return
    matrix = transform_of(server.get("transform", ""))
    if (server.get("clippathunits") or "").lower() == "objectboundingbox":
        x, y, width, height = bounds_of(element, size)
        matrix = multiply((width, 0.0, 0.0, height, x, y), matrix)
    path: list[Segment] = []
    even_odd = False
    for child in server.iterdescendants():
        if not isinstance(child.tag, str):
            continue
        shape: Element | None = child
        own = transform_of(child.get("transform", ""))
        if child.tag == "use":
            shape = ids.get(child.get("href", "").removeprefix("#"))
            own = multiply(own, translation(attribute(child, "x", 0, size), attribute(child, "y", 1, size)))
        if shape is None:
            continue
        even_odd = even_odd or painter.styles.in_place(shape).clip_rule == "evenodd"
        path += [moved(segment, multiply(matrix, own)) for segment in shape_of(shape, size) or []]
    nothing: list[Segment] = [("m", 0.0, 0.0), ("h",)]
    painter.out.clip(path or nothing, even_odd)


def mask_with(painter: SvgPainter, name: str, element: Element) -> None:
    """Masks what an element draws with the lightness of what a mask draws."""
    server = painter.styles.ids.get(name)
    if server is None or server.tag != "mask" or server in painter.busy:
        return
    painter.busy.append(server)
    painter.out.begin_group()
    if (server.get("maskcontentunits") or "").lower() == "objectboundingbox":
        x, y, width, height = bounds_of(element, painter.size)
        painter.out.transform((width, 0.0, 0.0, height, x, y))
    painter.children(server, painter.styles.in_place(server), len(painter.busy))
    painter.out.end_mask()
    painter.busy.pop()
