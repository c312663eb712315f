"""Pictures and other elements as a step of a filter: feImage (Filter Effects 1 §9.14)."""

from __future__ import annotations

from fleetquill.drawing.canvas import Area, Drawing
from fleetquill.graphics.raster import Pixels
from fleetquill.graphics.svg.filters.graph import Graph
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.reading import Element
from fleetquill.graphics.svg.uses import draw_picture_in, draw_use


def image(graph: Graph, step: Element) -> Pixels:
    """The picture in the area of the step, or the element as a use would draw it, where it stands."""
    canvas = graph.canvas()
    drawing_of(graph.painter, step, graph.subregion()).paint(canvas)
    return canvas.pixels


def drawing_of(painter: SvgPainter, step: Element, area: Area) -> Drawing:
    """What the step shows in an area; what is missing is noted."""
    style = painter.styles.in_place(step)
    if step.get("href", "").startswith("#"):
        return painter.recorded(lambda: draw_use(painter, step, style, len(painter.busy)))
    return painter.recorded(lambda: draw_picture_in(painter, step, style, area))
