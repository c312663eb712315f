"""Text in drawings, set from a point on without a paragraph around it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from itertools import groupby
from typing import Final

from fleetquill.drawing.canvas import Canvas, Look
from fleetquill.text import bidi
from fleetquill.text.glyph_runs import GlyphRun
from fleetquill.text.shaping import FontSetting, Word

SLOPE: Final = 0.2126  # tangent of 12 degrees, for a slope that the face does not have
MIDDLE: Final = 0.38  # of an em, from the baseline up to the middle of the square that signs of East Asia fill
THICKENING: Final = 0.03  # of the size, for strokes made heavier where a family has no bold face


def measured(setting: FontSetting, size: float, text: str) -> float:
    """The width of text in px."""
    return sum(run.exact(part).advance for run, part in _in_view(setting, text)) * size if text else 0.0


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


def set_text(canvas: Canvas, x: float, baseline: float, look: Look, text: str) -> None:
    """Sets a text as it stands, from a point on, each part of it in the direction that it is read in (UAX #9)."""
    for setting, part in _in_view(look.setting, text) if text else ():
        word = setting.exact(part)
        own = look._replace(setting=setting)
        if setting.colored and has_colors((word,)):
            from fleetquill.drawing.colored_words import set_colored  # which few documents have

            set_colored(canvas, x, baseline, own, (word,), 0.0, None, lambda _: None)
        else:
            canvas.text(x, baseline, own, (word,))
        x += word.advance * look.size + word.count * look.letter_spacing


def has_colors(words: Iterable[Word]) -> bool:
    """Whether any glyph of words has colours of its own."""
    return any(run.face.is_colored for word in words for run in word.runs)


def _in_view(setting: FontSetting, text: str) -> list[tuple[FontSetting, str]]:
    """The parts of one direction, from left to right."""
    if not bidi.may_run_from_right(text):
        return [(setting, text)]
    _, levels = bidi.levels(text, None)
    runs = [
        (level, "".join(character for _, character in group))
        for level, group in groupby(zip(levels, text, strict=True), key=lambda pair: pair[0])
    ]
    order = bidi.visual_order([level for level, _ in runs])
    return [(setting.from_right if runs[at][0] % 2 else setting, runs[at][1]) for at in order]
