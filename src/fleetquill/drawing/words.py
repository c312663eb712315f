"""Text in drawings, set from a point on without a paragraph around it."""

from __future__ import annotations

from fleetquill.drawing.canvas import Canvas, Look
from fleetquill.text.shaping import FontSetting


def measured(setting: FontSetting, size: float, text: str) -> float:
    """The width of text in px."""
    return setting.exact(text).advance * size if text else 0.0


def set_text(canvas: Canvas, x: float, baseline: float, look: Look, text: str) -> None:
    """Sets a text as it stands, from a point on."""
    if text:
        canvas.text(x, baseline, look, (look.setting.exact(text),))
