"""Text in drawings, set from a point on without a paragraph around it."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

from fleetquill.drawing.canvas import Canvas, Look
from fleetquill.text import bidi
from fleetquill.text.shaping import FontSetting, Word


def measured(setting: FontSetting, size: float, text: str) -> float:
    """The width of text in px."""
    return sum(run.exact(part).advance for run, part in _in_view(setting, text)) * size if text else 0.0


def advance_of(look: Look, words: Sequence[Word], space: float, spaced: Sequence[bool] | None) -> float:
    """The width of words that stand in a line, as a canvas sets them."""
    gaps = len(words) - 1 if spaced is None else sum(spaced)
    return sum(word.advance * look.size + word.count * look.letter_spacing for word in words) + gaps * space


def set_text(canvas: Canvas, x: float, baseline: float, look: Look, text: str) -> None:
    """Sets a text as it stands, from a point on, each part of it in the direction that it is read in (UAX #9)."""
    for setting, part in _in_view(look.setting, text) if text else ():
        word = setting.exact(part)
        canvas.text(x, baseline, look._replace(setting=setting), (word,))
        x += word.advance * look.size + word.count * look.letter_spacing


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
