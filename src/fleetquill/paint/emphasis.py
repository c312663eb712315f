"""Emphasis marks: one over or under each letter (CSS Text Decoration 4 §3)."""

from __future__ import annotations

import unicodedata
from typing import Final

from fleetquill.drawing.canvas import Canvas
from fleetquill.drawing.words import runs_along
from fleetquill.layout.contract.fragments import TextSpan

SHARE: Final = 0.5  # of the letters' size (§3.3)
BARE: Final = ("Z", "C", "P")  # kinds of characters that bear no mark (§3.1)
MARKED_SIGNS: Final = "#%&@§¶‰‱"


def paint_emphasis(canvas: Canvas, span: TextSpan, x: float, baseline: float) -> None:
    """The marks of a span's letters; its own place is (x, baseline)."""
    run = span.run
    style, size, face = run.style, run.size, run.setting.face
    mark = run.setting.exact(style.text_emphasis_style)
    small = size * SHARE
    if style.text_emphasis_position == "under":
        y = baseline + face.descent * size + face.ascent * small
    else:
        y = baseline - face.ascent * size + face.descent * small
    look = run.look._replace(size=small, color=style.text_emphasis_color, letter_spacing=0.0, outline=None)
    canvas.mark(None)
    for middle in _middles(span):
        canvas.text(x + middle - mark.advance * small / 2, y, look, (mark,))


def _middles(span: TextSpan) -> list[float]:
    """Where the letters have their middle, from the span's start."""
    run = span.run
    found: list[float] = []
    for x, glyphs in runs_along(run.look, span.words, span.space, span.spaced):
        meant = dict(glyphs.meanings)
        for index, (glyph, across, _) in enumerate(glyphs.places()):
            advance = glyphs.face.advance(glyph) / glyphs.face.upem
            if advance > 0 and _bears(meant.get(glyph, "x")):
                found.append(x + (across + advance / 2) * run.size + index * run.letter_spacing)
    return found


def _bears(text: str) -> bool:
    return any(unicodedata.category(c)[0] not in BARE or c in MARKED_SIGNS for c in text)
