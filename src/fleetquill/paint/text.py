"""Text on the canvas: words of a line joined into as few operations as can be, and their decorations."""

from __future__ import annotations

from collections.abc import Sequence

from fleetquill.drawing.canvas import Canvas
from fleetquill.layout.contract.fragments import TextSpan
from fleetquill.layout.inline.inline_items import TextRun
from fleetquill.paint.borders import Side, stroke_line
from fleetquill.paint.ink import clear_of_ink
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import Rgba, resolve
from fleetquill.text.shaping import GlyphRun, Word


def paint_span(canvas: Canvas, span: TextSpan, x: float, y: float) -> None:
    """A span whose line has its top-left corner at (x, y)."""
    run = span.run
    style = run.style
    x += span.x
    baseline = y + span.baseline
    decorations = run.decorations
    for shadow in reversed(style.text_shadow) if style.text_shadow else ():
        _paint_words(canvas, span, run, x + shadow.x, baseline + shadow.y, shadow.color or style.color)
    if decorations:
        paint_lines(canvas, span, decorations, x, baseline, over=False)
    if style.color.alpha > 0 and span.words:
        _paint_words(canvas, span, run, x, baseline, style.color)
    if decorations:
        paint_lines(canvas, span, decorations, x, baseline, over=True)


def _paint_words(canvas: Canvas, span: TextSpan, run: TextRun, x: float, baseline: float, color: Rgba) -> None:
    words = span.words
    setting = run.setting
    face = setting.face
    contested = canvas.use_words(words)
    if len(words) == 1 and words[0].face is face and not contested and span.spaced is None:
        synthesis = setting.synthesis.get(face) if setting.synthesis else None
        canvas.text(x, baseline, face, run.size, color, words[0].strings, run.letter_spacing, synthesis)
        return
    alike = (len(words) > 1 and setting.alike) or {word.face for word in words} == {face}
    if alike and setting.space.face is face and not contested:
        space = _space_strings(span, run)
        if span.spaced is None:
            strings = space.join([word.strings for word in words])
        else:
            strings = "".join([w.strings + space * s for w, s in zip(words, span.spaced, strict=True)])
        if len(words) > 1 or span.spaced:
            canvas.use_words((setting.space,))
        synthesis = setting.synthesis.get(face) if setting.synthesis else None
        canvas.text(x, baseline, face, run.size, color, strings, run.letter_spacing, synthesis)
        return
    _paint_word_by_word(canvas, span, run, x, baseline, color)


def _space_strings(span: TextSpan, run: TextRun) -> str:
    """A space as a TJ string with what it is wider than the font's own."""
    space = run.setting.space
    more = span.space - space.advance * run.size - run.letter_spacing
    if abs(more) < 0.001 or not run.size:
        return space.strings
    return f"{space.strings}{round(-more * 1000 / run.size, 2):g}"


def _paint_word_by_word(canvas: Canvas, span: TextSpan, run: TextRun, x: float, baseline: float, color: Rgba) -> None:
    """Words of several faces, with raised marks, or whose glyphs do not tell their text."""
    spaced = span.spaced or [True] * (len(span.words) - 1) + [False]
    for word, has_space in zip(span.words, spaced, strict=True):
        x = _paint_word(canvas, word, run, x, baseline, color)
        if has_space:
            space = run.setting.space
            if space.face is not None:
                canvas.use_words((space,))
                canvas.text(x, baseline, space.face, run.size, color, space.strings, run.letter_spacing)
            x += span.space


def _paint_word(canvas: Canvas, word: Word, run: TextRun, x: float, baseline: float, color: Rgba) -> float:
    contested = canvas.use_words((word,))
    for glyphs in word.runs:
        said = contested or not glyphs.exact
        if said:
            canvas.replaced_text(glyphs.text)
        _paint_glyphs(canvas, glyphs, run, x, baseline, color)
        if said:
            canvas.end_replaced_text()
        x += glyphs.advance * run.size
    return x + word.count * run.letter_spacing


def _paint_glyphs(canvas: Canvas, glyphs: GlyphRun, run: TextRun, x: float, baseline: float, color: Rgba) -> None:
    synthesis = run.setting.synthesis.get(glyphs.face)
    face, size, spacing = glyphs.face, run.size, run.letter_spacing
    if not glyphs.rises:
        canvas.text(x, baseline, face, size, color, glyphs.strings, spacing, synthesis)
        return
    for strings, rise, offset in glyphs.rises:
        canvas.text(x + offset * size, baseline - rise * size, face, size, color, strings, spacing, synthesis)


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
        color = style.text_decoration_color or style.color
        thickness = _thickness(style, face.underline_thickness * size)
        for line in style.text_decoration_line:
            if (line == "line-through") != over:
                continue
            if line == "underline":
                offset = style.text_underline_offset
                y = -face.underline_offset * size if isinstance(offset, str) else resolve(offset, size)
            elif line == "overline":
                y = -face.ascent * size
            else:
                y = -face.strikeout_offset * size
            kind = style.text_decoration_style
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
        canvas.fill_rect(x, y + thickness * 1.5, width, thickness, color)
    elif kind in ("dotted", "dashed"):
        stroke_line(canvas, (x, y), (x + width, y), Side(thickness, kind, color))
    elif kind == "wavy":
        _paint_wave(canvas, x, y, width, thickness, color)
    else:
        canvas.fill_rect(x, y - thickness / 2, width, thickness, color)


def _paint_wave(canvas: Canvas, x: float, y: float, width: float, thickness: float, color: Rgba) -> None:
    half = max(2.0, thickness * 2)
    path: list[tuple[str, *tuple[float, ...]]] = [("m", x, y)]
    at, up = x, True
    while at < x + width:
        end = min(at + 2 * half, x + width)
        bend = -half if up else half
        path.append(("c", at + half * 0.7, y + bend, end - half * 0.7, y + bend, end, y))
        at, up = end, not up
    canvas.stroke_path(path, thickness, color)
