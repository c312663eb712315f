"""Filter elements at work: on what is drawn in an SVG, and on boxes of a document (Filter Effects 1 §5, §8)."""

from __future__ import annotations

from fleetquill.drawing.canvas import Area, Drawing
from fleetquill.graphics.filters import filtered, grown, room_of
from fleetquill.graphics.svg.filters.graph import MOST_STEPS, Graph, steps_of
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
                for fault in faults_of(server):
                    painter.out.note(fault)
                drawing = filtered_by(painter, server, box, drawing)
        else:
            drawing = filtered(drawing, (step,), style, grown(box, room_of((step,))))
    painter.out.add(drawing)


def filtered_by(painter: SvgPainter, server: Element, box: Area, drawing: Drawing) -> Drawing:
    """What a drawing of something with that box becomes by a filter element."""
    return Graph(painter, server, box, drawing).drawn(STEPS)


def faults_of(server: Element) -> list[str]:
    """What a filter has that does nothing."""
    steps = steps_of(server)
    faults = [f"The SVG filter step '{step.tag}' is passed over." for step in steps if step.tag not in STEPS]
    if len(steps) > MOST_STEPS:
        faults.append(f"An SVG filter has {len(steps)} steps; the first {MOST_STEPS} are taken.")
    return faults
