"""Text in drawings, set from a point on without a paragraph around it."""

from __future__ import annotations

from itertools import groupby

from fleetquill.drawing.canvas import Canvas, Look
from fleetquill.drawing.colored_words import set_colored
from fleetquill.drawing.words import has_colors
from fleetquill.text import bidi
from fleetquill.text.shaping import FontSetting


def measured(setting: FontSetting, size: float, text: str) -> float:
    """The width of text in px."""
    return sum(run.exact(part).advance for run, part in _in_view(setting, text)) * size if text else 0.0


def set_text(canvas: Canvas, x: float, baseline: float, look: Look, text: str) -> None:
    """Sets a text as it stands, from a point on, each part of it in the direction that it is read in (UAX #9)."""
    for setting, part in _in_view(look.setting, text) if text else ():
        word = setting.exact(part)
        own = look._replace(setting=setting)
        if setting.colored and has_colors((word,)):
            set_colored(canvas, x, baseline, own, (word,), 0.0, None, lambda _: None)
        else:
            canvas.text(x, baseline, own, (word,))
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
