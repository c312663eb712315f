"""Patterns: a tile drawn again and again under a path (SVG 2 §14.3)."""

from __future__ import annotations

import math
from typing import Final, NamedTuple

from fleetquill.drawing.canvas import Area, Drawing, Matrix
from fleetquill.drawing.matrices import inverse_bounds
from fleetquill.drawing.paths import rectangle
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.paths import length_of
from fleetquill.graphics.svg.reading import view_box
from fleetquill.graphics.svg.servers import Server
from fleetquill.graphics.svg.transforms import fit_view, transform_of
from fleetquill.style.box_values import translation

MOST_TILES: Final = 2_000


class Tile(NamedTuple):
    """The first tile of a pattern."""

    x: float
    y: float
    width: float
    height: float


def paint_pattern(painter: SvgPainter, server: Server, box: Area, area: Area, depth: int) -> None:
    """Fills an area with a pattern that is measured in a box."""
    if server.element in painter.busy:
        return
    tile = _tile(server, box, painter.size)
    if tile.width <= 0 or tile.height <= 0:
        return
    matrix = transform_of(server.get("patterntransform") or "")
    x, y, width, height = inverse_bounds(matrix, area)
    columns = range(math.floor((x - tile.x) / tile.width), math.ceil((x + width - tile.x) / tile.width))
    rows = range(math.floor((y - tile.y) / tile.height), math.ceil((y + height - tile.y) / tile.height))
    if len(rows) * len(columns) > MOST_TILES:
        painter.out.note("An SVG pattern has too many tiles; it is not drawn.")
        return
    drawn = _drawn(painter, server, depth)
    inner = _inner(server, tile, box)
    out = painter.out
    out.save()
    out.transform(matrix)
    for row in rows:
        for column in columns:
            out.save()
            out.transform(translation(tile.x + column * tile.width, tile.y + row * tile.height))
            out.clip(rectangle(0.0, 0.0, tile.width, tile.height))
            out.transform(inner)
            out.add(drawn)
            out.restore()
    out.restore()
    for fault in drawn.faults:
        out.note(fault)


def _tile(server: Server, box: Area, viewport: tuple[float, float]) -> Tile:
    boxed = server.is_boxed("patternunits")
    size = (1.0, 1.0) if boxed else viewport
    x, y, width, height = (
        length_of(server.get(name) or "0", size[axis]) or 0.0
        for name, axis in (("x", 0), ("y", 1), ("width", 0), ("height", 1))
    )
    if boxed:
        return Tile(box[0] + x * box[2], box[1] + y * box[3], width * box[2], height * box[3])
    return Tile(x, y, width, height)


def _inner(server: Server, tile: Tile, box: Area) -> Matrix:
    """From the pattern's content to its tile."""
    view = view_box(server.get("viewbox"))
    if view is not None:
        return fit_view(view, (0.0, 0.0, tile.width, tile.height), server.get("preserveaspectratio") or "")
    if (server.get("patterncontentunits") or "").lower() == "objectboundingbox":
        return (box[2], 0.0, 0.0, box[3], 0.0, 0.0)
    return translation(-tile.x, -tile.y)


def _drawn(painter: SvgPainter, server: Server, depth: int) -> Drawing:
    """What stands in one tile."""
    content = server.content()
    painter.busy.append(server.element)
    whole, painter.out = painter.out, Drawing(1.0, 1.0)
    painter.children(content, painter.styles.in_place(content), depth + 1)
    drawn, painter.out = painter.out, whole
    painter.busy.pop()
    return drawn
