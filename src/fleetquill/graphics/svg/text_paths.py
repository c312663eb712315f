"""Paths that text runs along (SVG 2 §11.8)."""

from __future__ import annotations

from typing import NamedTuple

from fleetquill.drawing.matrices import moved
from fleetquill.drawing.paths import length_of as measured
from fleetquill.graphics.svg.measures import shape_of
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.paths import Points, length_of, path_data, path_length, straight_points
from fleetquill.graphics.svg.reading import Element
from fleetquill.graphics.svg.transforms import transform_of


class Track(NamedTuple):
    """The points of a path, and how far along it its text begins."""

    points: Points
    offset: float


def track_of(painter: SvgPainter, element: Element) -> Track | None:
    """What a textPath element leads to; None where there is no such path."""
    target = painter.styles.ids.led_to(element)
    if element.get("path"):
        path = path_data(element.get("path", ""))
        share = 1.0
    elif target is not None:
        shape = shape_of(target, painter.size, painter.styles.in_place(target))
        matrix = transform_of(target.get("transform", ""))
        path = [moved(segment, matrix) for segment in shape or []]
        share = path_length(target.get("pathlength", ""), path)
    else:
        return None
    if not path:
        return None
    if element.get("side") == "right":
        points = straight_points(path)[::-1]
    else:
        points = straight_points(path)
    offset = length_of(element.get("startoffset", "0"), measured(path) / share) or 0.0
    return Track(tuple(points), offset * share)
