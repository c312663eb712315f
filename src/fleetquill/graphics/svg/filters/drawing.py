"""Filter elements at work: on what is drawn in an SVG, and on boxes of a document (Filter Effects 1 §5, §8)."""

from __future__ import annotations

from fleetquill.drawing.canvas import Area, Drawing
from fleetquill.graphics.filters import filtered, grown, room_of
from fleetquill.graphics.svg.filters.graph import MOST_STEPS, Graph, steps_of
from fleetquill.graphics.svg.filters.images import drawing_of
from fleetquill.graphics.svg.filters.steps import STEPS
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.reading import Element
from fleetquill.style.filter_values import Reference
from fleetquill.style.properties import ComputedStyle


def draw_filtered(painter: SvgPainter, style: ComputedStyle, box: Area, drawing: Drawing) -> None:
    """What an element draws, through the filters of its style; `box` is that of its shapes."""
    for step in style.filter:
        if isinstance(step, Reference):
            server = painter.styles.ids.get(step.id)
            if server is not None and server.tag == "filter":
                note_faults(painter, server)
                drawing = filtered_by(painter, server, box, drawing)
        else:
            drawing = filtered(drawing, (step,), style, grown(box, room_of((step,))))
    painter.out.add(drawing)


def filtered_by(painter: SvgPainter, server: Element, box: Area, drawing: Drawing) -> Drawing:
    """What a drawing of something with that box becomes by a filter element."""
    return Graph(painter, server, box, drawing).drawn(STEPS)


def note_faults(painter: SvgPainter, server: Element) -> None:
    """Notes what a filter asks for and does not get, in the drawing that is made."""
    steps = steps_of(server)
    for step in steps[:MOST_STEPS]:
        if step.tag not in STEPS:
            painter.out.note(f"The SVG filter step '{step.tag}' is passed over.")
        elif step.tag == "feimage":
            drawing_of(painter, step, (0.0, 0.0, *painter.out.extent))
    if len(steps) > MOST_STEPS:
        painter.out.note(f"An SVG filter has {len(steps)} steps; the first {MOST_STEPS} are taken.")
