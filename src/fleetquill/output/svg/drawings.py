"""A vector picture as an SVG file of its own."""

from __future__ import annotations

from itertools import count

from fleetquill.drawing.canvas import Drawing
from fleetquill.output.svg.canvas import Definitions, SvgCanvas
from fleetquill.pdf.objects import number


def svg_of(drawing: Drawing) -> bytes:
    """The drawing at its own size, its letters as outlines."""
    canvas = SvgCanvas(drawing.extent, Definitions(count(1)), None)
    drawing.paint(canvas)
    content = canvas.content()
    wide, high = number(drawing.width), number(drawing.height)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide}" height="{high}" viewBox="0 0 {wide} {high}">'
        f"<defs>{''.join(canvas.definitions.parts)}</defs>\n{content}\n</svg>\n"
    ).encode()
