"""Spans whose words are drawn in colours, with their text said."""

from __future__ import annotations

from fleetquill.drawing.canvas import Canvas
from fleetquill.drawing.colored_words import set_colored
from fleetquill.drawing.places import Facts, Place
from fleetquill.layout.contract.fragments import TextSpan


def paint_colored(canvas: Canvas, span: TextSpan, x: float, baseline: float, place: Place | None) -> None:
    """The words of a span, run by run: those of other faces are set as text."""

    def say(text: str | None) -> None:
        if place is None or text is None:
            canvas.mark(place)
        else:
            canvas.mark(Place("Span", place, Facts(text=text), inline=True))

    set_colored(canvas, x, baseline, span.run.look, span.words, span.space, span.spaced, say)
