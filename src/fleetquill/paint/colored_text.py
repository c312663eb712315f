"""Words of faces whose glyphs have colours of their own, such as signs for moods: drawn, with their text said."""

from __future__ import annotations

from fleetquill.drawing.canvas import Canvas
from fleetquill.drawing.places import Facts, Place
from fleetquill.drawing.words import before_gaps, runs_along
from fleetquill.graphics.colored_glyphs import ABOVE, BESIDE, EM, glyph_drawing
from fleetquill.layout.contract.fragments import TextSpan
from fleetquill.text.glyph_runs import GlyphRun
from fleetquill.text.shaping import Word


def paint_colored(canvas: Canvas, span: TextSpan, x: float, baseline: float, place: Place | None) -> None:
    """The words of a span, run by run: those of other faces are set as text."""
    look, space = span.run.look, span.run.setting.space
    ends = before_gaps(span.words, span.spaced)
    for along, run in runs_along(look, span.words, span.space, span.spaced):
        if run.face.is_colored:
            _draw(canvas, span, run, x + along, baseline, place, run.text + " " * (id(run) in ends))
            continue
        word = Word(run.text, (run,), len(run.glyphs), "", False)
        goes_on = id(run) in ends and space.face is run.face
        canvas.mark(place)
        canvas.text(x + along, baseline, look, (word,), span.space, [True] if goes_on else None)


def _draw(
    canvas: Canvas, span: TextSpan, run: GlyphRun, x: float, baseline: float, place: Place | None, text: str
) -> None:
    look = span.run.look
    own = None if place is None else Place("Span", place, Facts(text=text), inline=True)
    canvas.mark(own)
    unit = look.size / EM
    for index, (glyph, across, rise) in enumerate(run.places()):
        drawing = glyph_drawing(run.face, glyph, look.color)
        left = x + across * look.size + index * look.letter_spacing - BESIDE * unit
        top = baseline - rise * look.size - ABOVE * unit
        canvas.drawing(drawing, left, top, drawing.width * unit, drawing.height * unit)
