"""Text in SVG: chunks of text, each anchored where it begins (SVG 2 §11)."""

from __future__ import annotations

import re
from typing import Final, NamedTuple

from fleetquill.drawing.canvas import Look
from fleetquill.drawing.paths import rectangle
from fleetquill.drawing.words import measured, set_text
from fleetquill.graphics.svg.gradients import stops_of
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.paths import numbers_of
from fleetquill.graphics.svg.reading import Element
from fleetquill.graphics.svg.servers import plain_color, server_of
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import Rgba
from fleetquill.text.face import Face

NOT_APPLIED: Final = {"textlength": "textLength", "rotate": "rotate"}  # attributes, and how they are written
NOT_DONE: Final[tuple[tuple[str, tuple[str | float, ...]], ...]] = (  # but these
    ("writing-mode", ("horizontal-tb", "lr-tb", "lr")),
    ("baseline-shift", ("baseline", 0.0)),
)
HANGING: Final = 0.8  # of the ascent, where the font has no baseline table


class Piece(NamedTuple):
    """A run of text in one style; x and y where it begins a chunk of its own."""

    text: str
    style: ComputedStyle
    x: float | None
    y: float | None
    dx: float
    dy: float


def draw_text(painter: SvgPainter, element: Element, style: ComputedStyle) -> None:
    """A text element with the spans in it."""
    pieces: list[Piece] = []
    _gather(painter, element, style, pieces)
    preserve = element.get("space") == "preserve"
    x, y = 0.0, 0.0
    chunk: list[tuple[Piece, float]] = []
    for number, piece in enumerate(pieces):
        if piece.x is not None or piece.y is not None:
            x = _set_chunk(painter, chunk, x, y)
            chunk = []
            x = piece.x if piece.x is not None else x
            y = piece.y if piece.y is not None else y
        text = piece.text
        if not preserve:
            text = re.sub(r"[ \t\r\n]+", " ", text)
            if number == 0 or (chunk and chunk[-1][0].text.endswith(" ")) or not chunk:
                text = text.lstrip()
            if number == len(pieces) - 1:
                text = text.rstrip()
        piece = piece._replace(text=text)
        spacing = piece.style.letter_spacing * len(text)
        chunk.append((piece, measured(painter.font_of(piece.style), piece.style.font_size, text) + spacing))
    _set_chunk(painter, chunk, x, y)


def _gather(painter: SvgPainter, element: Element, style: ComputedStyle, pieces: list[Piece]) -> None:
    for name, shown in NOT_APPLIED.items():
        if name in element.attrib:
            painter.out.note(f"What '{shown}' asks of SVG text is not done.")
    for name, usual in NOT_DONE:
        if getattr(style, name.replace("-", "_")) not in usual:
            painter.out.note(f"What '{name}' asks of SVG text is not done.")
    places = [numbers_of(element.get(name, "")) for name in ("x", "y", "dx", "dy")]
    if any(len(numbers) > 1 for numbers in places):
        painter.out.note("Letters of SVG text are not placed one by one.")
    x, y, dx, dy = ((numbers[0] if numbers else None) for numbers in places)
    first = len(pieces)
    if element.text:
        pieces.append(Piece(element.text, style, None, None, 0.0, 0.0))
    for child in element:
        if not isinstance(child.tag, str):
            continue
        if child.tag in ("tspan", "a"):
            inner = painter.styles.below(child, style)
            if inner.display != "none":
                _gather(painter, child, inner, pieces)
        elif child.tag == "textpath":
            painter.out.note("SVG text on a path is set on a straight line.")
            _gather(painter, child, painter.styles.below(child, style), pieces)
        if child.tail:
            pieces.append(Piece(child.tail, style, None, None, 0.0, 0.0))
    if len(pieces) > first:
        piece = pieces[first]
        pieces[first] = piece._replace(
            x=piece.x if x is None else x,
            y=piece.y if y is None else y,
            dx=piece.dx + (dx or 0.0),
            dy=piece.dy + (dy or 0.0),
        )


def _set_chunk(painter: SvgPainter, chunk: list[tuple[Piece, float]], x: float, y: float) -> float:
    if not chunk:
        return x
    total = sum(width + piece.dx for piece, width in chunk)
    anchor = chunk[0][0].style.text_anchor
    x -= total if anchor == "end" else total / 2 if anchor == "middle" else 0.0
    for piece, width in chunk:
        x, y = x + piece.dx, y + piece.dy
        color = _color(painter, piece.style)
        if color.alpha > 0 and piece.text.strip() and piece.style.visibility == "visible":
            _set_piece(painter, piece, width, x, y, color)
        x += width
    return x


def _set_piece(painter: SvgPainter, piece: Piece, width: float, x: float, y: float, color: Rgba) -> None:
    style, out = piece.style, painter.out
    setting, size = painter.font_of(style), style.font_size
    face = setting.face
    baseline = y + _above_baseline(style, face) * size
    set_text(out, x, baseline, Look(setting, size, color, style.letter_spacing), piece.text)
    lines = painter.styles.lines_of(style)
    for name, offset, thick in (
        ("underline", face.underline_offset, face.underline_thickness),
        ("overline", face.ascent, face.underline_thickness),
        ("line-through", face.strikeout_offset, face.strikeout_thickness),
    ):
        if name in lines:
            top, bottom = (baseline - (offset + half) * size for half in (thick / 2, -thick / 2))
            out.fill_path(rectangle(x, top, width, bottom - top), color)


def _above_baseline(style: ComputedStyle, face: Face) -> float:
    """How far above the alphabetic baseline the one lies that stands at the text's place, in em (SVG 2 §11.10.2)."""
    wanted = style.alignment_baseline if style.alignment_baseline != "auto" else style.dominant_baseline
    if wanted == "middle":
        return face.x_height / 2
    if wanted in ("central", "mathematical"):
        return (face.ascent - face.descent) / 2
    if wanted == "hanging":
        return face.ascent * HANGING
    if wanted in ("text-before-edge", "before-edge", "text-top"):
        return face.ascent
    if wanted in ("text-after-edge", "after-edge", "text-bottom", "ideographic"):
        return -face.descent
    return 0.0


def _color(painter: SvgPainter, style: ComputedStyle) -> Rgba:
    """The fill of text; of a gradient its first colour."""
    server = server_of(style.fill, painter)
    stops = stops_of(painter, server, style.fill_opacity) if server is not None else ()
    return stops[0][1] if stops else plain_color(style.fill, style, style.fill_opacity)
