"""Blurred shadows of text, as pictures (CSS Text Decoration 3 §4)."""

from __future__ import annotations

from functools import lru_cache
from typing import Final

from fleetquill.drawing.canvas import Canvas, Look
from fleetquill.drawing.pictures import Picture
from fleetquill.layout.contract.fragments import TextSpan
from fleetquill.style.values import Rgba
from fleetquill.text.shaping import Word

REACH: Final = 1.5  # of a blur, which is two deviations


def paint_soft(canvas: Canvas, span: TextSpan, x: float, baseline: float, blur: float, color: Rgba) -> None:
    """The words of a span as a blurred shadow."""
    look = span.run.look._replace(color=color, outline=None)
    spaced = None if span.spaced is None else tuple(span.spaced)
    picture = _shadow(look, tuple(span.words), span.space, spaced, round(span.width, 2), blur)
    margin, rise = _room(look, blur)
    canvas.picture(picture, x - margin, baseline - rise, picture.width, picture.height)


def _room(look: Look, blur: float) -> tuple[float, float]:
    """What a shadow has at its sides, and above the baseline."""
    margin = REACH * blur + look.size / 4
    return margin, margin + look.setting.face.ascent * look.size


@lru_cache(maxsize=32)
def _shadow(
    look: Look, words: tuple[Word, ...], space: float, spaced: tuple[bool, ...] | None, width: float, blur: float
) -> Picture:
    from fleetquill.graphics.blur import blurred
    from fleetquill.graphics.raster import RasterCanvas, picture_of, soft_scale

    margin, rise = _room(look, blur)
    wide, high = width + 2 * margin, rise + look.setting.face.descent * look.size + margin
    scale = soft_scale(wide, high, blur / 2)
    canvas = RasterCanvas(wide, high, scale)
    canvas.text(margin, rise, look, words, space, spaced)
    return picture_of(blurred(canvas.pixels, blur / 2 * scale), scale)
