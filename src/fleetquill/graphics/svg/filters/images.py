"""Pictures and other elements as a step of a filter: feImage (Filter Effects 1 §9.14)."""

from __future__ import annotations

from fleetquill.graphics.raster import Pixels
from fleetquill.graphics.svg.filters.graph import Graph
from fleetquill.graphics.svg.reading import Element
from fleetquill.graphics.svg.uses import draw_picture_in, draw_use


def image(graph: Graph, step: Element) -> Pixels:
    """The picture in the area of the step, or the element as a use would draw it, where it stands."""
    painter = graph.painter
    style = painter.styles.in_place(step)
    if step.get("href", "").startswith("#"):
        drawing = painter.recorded(lambda: draw_use(painter, step, style, len(painter.busy)))
    else:
        drawing = painter.recorded(lambda: draw_picture_in(painter, step, style, graph.subregion()))
    canvas = graph.canvas()
    drawing.paint(canvas)
    return canvas.pixels
