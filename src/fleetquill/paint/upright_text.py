"""Words in lines that run downwards, whose signs stand upright (CSS Writing Modes 4 §5.1)."""

from __future__ import annotations

from fleetquill.drawing.canvas import Canvas, Look
from fleetquill.drawing.words import MIDDLE, before_gaps, runs_along, turn_back
from fleetquill.layout.contract.fragments import TextSpan
from fleetquill.text.posture import pieces_of
from fleetquill.text.shaping import Word


def paint_upright(canvas: Canvas, span: TextSpan, look: Look, x: float, baseline: float) -> None:
    """The words of a span, as the canvas is turned with their line: signs that stand upright are turned back."""
    setting = span.run.setting
    ends = before_gaps(span.words, span.spaced)
    for along, run in runs_along(look, span.words, span.space, span.spaced):
        spaced = id(run) in ends and setting.space.face is run.face
        for start, stop, middle in pieces_of(run, setting.posture):
            word = Word(run.text, (run.part(start, stop),), stop - start, "", False)
            goes_on = [True] if spaced and stop == len(run.glyphs) else None
            left = x + along + start * look.letter_spacing
            if middle is None:
                canvas.text(left, baseline, look, (word,), span.space, goes_on)
                continue
            away = middle * look.size
            turn_back(canvas, left + away, baseline, look.size)
            canvas.text(-away, MIDDLE * look.size, look, (word,), span.space, goes_on)
            canvas.restore()
