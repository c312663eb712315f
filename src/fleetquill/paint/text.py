"""Text on the canvas: the words of a line, and their decorations."""

from __future__ import annotations

import math
from collections.abc import Sequence

from fleetquill.drawing.canvas import Canvas, Look, Segment, Stroke
from fleetquill.drawing.paths import rectangle
from fleetquill.drawing.places import Place
from fleetquill.drawing.words import has_colors
from fleetquill.layout.contract.fragments import TextSpan
from fleetquill.paint.borders import Side
from fleetquill.paint.emphasis import paint_emphasis
from fleetquill.paint.ink import clear_of_ink
from fleetquill.paint.soft_text import paint_soft
from fleetquill.paint.strokes import stroke_line
from fleetquill.style.lengths import resolve
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import Rgba


def paint_span(canvas: Canvas, span: TextSpan, x: float, y: float, place: Place | None = None) -> None:
    """A span whose line has its top-left corner at (x, y), and the part of the document that it belongs to."""
    run = span.run
    style, look = run.style, run.look
    x += span.x
    baseline = y + span.baseline
    decorations = run.decorations
    if style.text_shadow:
        canvas.mark(None)
    for shadow in reversed(style.text_shadow) if style.text_shadow else ():
        color = style.used_color(shadow.color)
        if shadow.blur > 0 and span.words:
            paint_soft(canvas, span, x + shadow.x, baseline + shadow.y, shadow.blur, color)
            continue
        _set(canvas, span, look._replace(color=color, outline=None), x + shadow.x, baseline + shadow.y)
    canvas.mark(place)
    if decorations:
        paint_lines(canvas, span, decorations, x, baseline, over=False)
    if run.setting.colored and has_colors(span.words):
        from fleetquill.paint.colored_text import paint_colored  # which few documents have

        paint_colored(canvas, span, x, baseline, place)
    elif span.words:
        _set(canvas, span, look, x, baseline)
    if decorations:
        paint_lines(canvas, span, decorations, x, baseline, over=True)
    if style.text_emphasis_style and span.words:
        paint_emphasis(canvas, span, x, baseline)


def _set(canvas: Canvas, span: TextSpan, look: Look, x: float, baseline: float) -> None:
    if span.run.setting.posture:
        from fleetquill.paint.upright_text import paint_upright  # which few documents have

        paint_upright(canvas, span, look, x, baseline)
    else:
        canvas.text(x, baseline, look, span.words, span.space, span.spaced)


def paint_lines(
    canvas: Canvas,
    span: TextSpan,
    decorations: Sequence[ComputedStyle],
    x: float,
    baseline: float,
    *,
    over: bool,
) -> None:
    """Underlines and overlines below the text, lines through it above (CSS Text Decoration 3 §2.1)."""
    face = span.run.setting.face
    for style in decorations:
        size = style.font_size
        color = style.text_decoration_color
        thickness = _thickness(style, face.underline_thickness * size)
        for line in style.text_decoration_line:
            if (line == "line-through") != over:
                continue
            if line == "underline":
                offset = style.text_underline_offset
                if isinstance(offset, str):  # a thick line begins below the letters
                    y = max(-face.underline_offset * size, thickness)
                else:  # it grows away from them (CSS Text Decoration 4 §2.7.2)
                    y = resolve(offset, size) + thickness / 2
            elif line == "overline":
                y = -face.ascent * size - thickness / 2
            else:
                y = -face.strikeout_offset * size
            kind = style.text_decoration_style
            if kind == "double" and line == "line-through":  # the middle of both is where one would be
                y -= (thickness + 1) / 2
            if line == "underline" and kind in ("solid", "double") and style.text_decoration_skip_ink != "none":
                for start, end in clear_of_ink(span, y, thickness):
                    _paint_line(canvas, x + start, baseline + y, end - start, thickness, kind, color)
            else:
                _paint_line(canvas, x, baseline + y, span.width, thickness, kind, color)


def _thickness(style: ComputedStyle, from_font: float) -> float:
    value = style.text_decoration_thickness
    if isinstance(value, str):
        return max(0.5, from_font)
    return resolve(value, style.font_size)


def _paint_line(canvas: Canvas, x: float, y: float, width: float, thickness: float, kind: str, color: Rgba) -> None:
    if kind == "double":
        canvas.fill_rect(x, y - thickness / 2, width, thickness, color)
        canvas.fill_rect(x, y + thickness / 2 + 1, width, thickness, color)
    elif kind in ("dotted", "dashed"):
        stroke_line(canvas, (x, y), (x + width, y), Side(thickness, kind, color))
    elif kind == "wavy":
        _paint_wave(canvas, x, y, width, thickness, color)
    else:
        canvas.fill_rect(x, y - thickness / 2, width, thickness, color)


def _paint_wave(canvas: Canvas, x: float, y: float, width: float, thickness: float, color: Rgba) -> None:
    step, bend = (0.5 + math.floor(times * max(1.0, thickness) + 0.5) for times in (2, 3))
    y += thickness / 2 + 0.5  # the wave hangs below where a line would be
    path: list[Segment] = [("m", x, y)]
    at = x
    while at < x + width:
        path.append(("c", at + step, y + bend, at + step, y - bend, at + 2 * step, y))
        at += 2 * step
    canvas.save()
    canvas.clip(rectangle(x, y - bend - thickness, width, 2 * (bend + thickness)))
    canvas.stroke_path(path, color, Stroke(thickness))
    canvas.restore()
