"""Words that stand in a line: how far they reach, and where their runs of glyphs are."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Final

from fleetquill.drawing.canvas import Canvas, Look
from fleetquill.text.glyph_runs import GlyphRun
from fleetquill.text.shaping import Word

SLOPE: Final = 0.2126  # tangent of 12 degrees, for a slope that the face does not have
MIDDLE: Final = 0.38  # of an em, from the baseline up to the middle of the square that signs of East Asia fill
THICKENING: Final = 0.03  # of the size, for strokes made heavier where a family has no bold face


def advance_of(look: Look, words: Sequence[Word], space: float, spaced: Sequence[bool] | None) -> float:
    """The width of words that stand in a line, as a canvas sets them."""
    gaps = sum(gaps_after(words, spaced))
    return sum(word.advance * look.size + word.count * look.letter_spacing for word in words) + gaps * space


def gaps_after(words: Sequence[Word], spaced: Sequence[bool] | None) -> Sequence[bool]:
    """For each word whether a space follows it: after each but the last where nothing is said."""
    return [True] * (len(words) - 1) + [False] * bool(words) if spaced is None else spaced


def before_gaps(words: Sequence[Word], spaced: Sequence[bool] | None) -> set[int]:
    """The identities of the runs of glyphs that a space follows: the last of each such word."""
    gaps = zip(words, gaps_after(words, spaced), strict=True)
    return {id(word.runs[-1]) for word, gap in gaps if gap and word.runs}


def runs_along(
    look: Look, words: Sequence[Word], space: float, spaced: Sequence[bool] | None
) -> Iterator[tuple[float, GlyphRun]]:
    """The runs of glyphs of words that stand in a line, each with the px from its start."""
    x = 0.0
    for word, has_space in zip(words, gaps_after(words, spaced), strict=True):
        for run in word.runs:
            yield x, run
            x += run.advance * look.size + len(run.glyphs) * look.letter_spacing
        x += space if has_space else 0.0


def turn_back(canvas: Canvas, x: float, baseline: float, size: float) -> None:
    """In a line that runs downwards: what follows until `restore` stands upright, its origin at the middle of the
    sign whose middle is at `x`."""
    canvas.save()
    canvas.transform((0.0, -1.0, 1.0, 0.0, x, baseline - MIDDLE * size))


def has_colors(words: Iterable[Word]) -> bool:
    """Whether any glyph of words has colours of its own."""
    return any(run.face.is_colored for word in words for run in word.runs)
