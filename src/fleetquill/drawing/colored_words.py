"""Words of faces whose glyphs have colours of their own, such as signs for moods: drawn, with their text below."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from fleetquill.drawing.canvas import Canvas, Look
from fleetquill.drawing.colored_glyphs import ABOVE, BESIDE, EM, glyph_drawing
from fleetquill.drawing.words import MIDDLE, before_gaps, runs_along, turn_back
from fleetquill.style.values import TRANSPARENT
from fleetquill.text.face import BITMAPS_ALONE, NO_EMBEDDING, OUTLINES
from fleetquill.text.glyph_runs import GlyphRun
from fleetquill.text.posture import pieces_of
from fleetquill.text.shaping import Word

Say = Callable[[str | None], None]  # told before what is drawn: the text that it shows, None before what is set as text


def set_colored(
    canvas: Canvas,
    x: float,
    baseline: float,
    look: Look,
    words: Sequence[Word],
    space: float,
    spaced: Sequence[bool] | None,
    say: Say,
) -> None:
    """Words run by run: what has colours is drawn, the rest set as text."""
    own_space = look.setting.space
    ends = before_gaps(words, spaced)
    for along, run in runs_along(look, words, space, spaced):
        goes_on = id(run) in ends
        if not run.face.is_colored:
            say(None)
            _set(canvas, x + along, baseline, look, run, space, spaced=goes_on and own_space.face is run.face)
            continue
        say(run.text + " " * goes_on)
        _draw(canvas, x + along, baseline, look, run)
        if run.face.tables & OUTLINES and not run.face.embedding & (NO_EMBEDDING | BITMAPS_ALONE):
            # copied and found by readers that heed glyphs alone
            unseen = look._replace(color=TRANSPARENT, outline=None)
            _set(canvas, x + along, baseline, unseen, run, space, spaced=False)


def _set(canvas: Canvas, x: float, baseline: float, look: Look, run: GlyphRun, space: float, *, spaced: bool) -> None:
    word = Word(run.text, (run,), len(run.glyphs), "", False)
    canvas.text(x, baseline, look, (word,), space, [True] if spaced else None)


def _draw(canvas: Canvas, x: float, baseline: float, look: Look, run: GlyphRun) -> None:
    """Each glyph at its place; in lines that run downwards the signs that stand upright are turned back."""
    unit = look.size / EM
    posture = look.setting.posture
    upright = {piece.start for piece in pieces_of(run, posture) if piece.middle is not None} if posture else ()
    for index, (glyph, across, rise) in enumerate(run.places()):
        drawing = glyph_drawing(run.face, glyph, look.color)
        left, top = x + across * look.size + index * look.letter_spacing, baseline - rise * look.size
        if index in upright:
            away = run.face.advance(glyph) / run.face.upem / 2 * look.size
            turn_back(canvas, left + away, baseline, look.size)
            left, top = -away, (MIDDLE - rise) * look.size
        wide, high = drawing.width * unit, drawing.height * unit
        canvas.drawing(drawing, left - BESIDE * unit, top - ABOVE * unit, wide, high)
        if index in upright:
            canvas.restore()
