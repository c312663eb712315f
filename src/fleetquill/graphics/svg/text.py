"""Text in SVG: chunks of text, each anchored where it begins, and letters that are placed one by one (SVG 2 §11)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import groupby
from typing import Final

from fleetquill.drawing.canvas import Look, Outline
from fleetquill.drawing.paths import rectangle
from fleetquill.drawing.plain_text import measured, set_text
from fleetquill.graphics.svg.inks import Ink, stroke_of, stroke_width_of, through
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.paths import first_number, length_of, numbers_of, place_along
from fleetquill.graphics.svg.reading import Element
from fleetquill.graphics.svg.text_paths import Track, track_of
from fleetquill.style.box_values import IDENTITY, Matrix, multiply, translation
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import TRANSPARENT, WHITE, Rgba
from fleetquill.text.face import Face

HANGING: Final = 0.8  # of the ascent, where the font has no baseline table
SUB: Final = -0.2  # em, and of superscripts
SUPER: Final = 0.4
SPACE: Final = " \t\r\n"
MOST_LETTERS: Final = 100_000  # of one text: more than fit on any page


class Letter:
    """One character: its style, and where its text says that it stands or how it is moved."""

    __slots__ = ("character", "dx", "dy", "first", "rotate", "spread", "stretch", "style", "track", "x", "y")

    def __init__(self, character: str, style: ComputedStyle, track: Track | None) -> None:
        self.character = character
        self.style = style
        self.track = track
        self.first = False  # of a path that text runs along
        self.x: float | None = None
        self.y: float | None = None
        self.dx = 0.0
        self.dy = 0.0
        self.rotate: float | None = None  # degrees
        self.spread = 0.0  # px after it, for the length that its text is to have
        self.stretch = 1.0


class Piece:
    """Letters of one style that stand side by side."""

    __slots__ = ("first", "style", "text", "width")

    def __init__(self, painter: SvgPainter, letters: Sequence[Letter]) -> None:
        self.first = letters[0]
        self.style = self.first.style
        self.text = "".join(letter.character for letter in letters)
        natural = measured(painter.font_of(self.style), self.style.font_size, self.text)
        spacing = (self.style.letter_spacing + self.first.spread) * len(self.text)
        self.width = (natural + spacing) * self.first.stretch


def draw_text(painter: SvgPainter, element: Element, style: ComputedStyle, depth: int = 0) -> None:
    """A text element with the spans in it."""
    letters: list[Letter] = []
    _gather(painter, element, style, letters, None)
    while letters and letters[-1].character == " " and not _is_kept(element):
        letters.pop()
    x, y = 0.0, 0.0
    down = style.writing_mode.startswith(("vertical", "sideways", "tb"))
    for chunk in _chunks(_pieces(painter, letters)):
        first = chunk[0].first
        x = x if first.x is None else first.x
        y = y if first.y is None else first.y
        if down:  # the line turned about its start, and its middle where the baseline would be
            painter.out.save()
            painter.out.transform(multiply(translation(x, y), _turn(math.pi / 2)))
            face = painter.font_of(style).face
            middle = (face.ascent - face.descent) / 2 * style.font_size
            along, aside = _set_chunk(painter, chunk, 0.0, middle, style, depth)
            painter.out.restore()
            x, y = x - (aside - middle), y + along
        else:
            x, y = _set_chunk(painter, chunk, x, y, style, depth)


def _is_kept(element: Element) -> bool:
    return element.get("xml-space") == "preserve"


# ---- letters ----


def _gather(
    painter: SvgPainter, element: Element, style: ComputedStyle, letters: list[Letter], track: Track | None
) -> None:
    """The letters of an element, with what it and those in it say of them (§11.4)."""
    start = len(letters)
    if element.tag == "textpath":
        track = track_of(painter, element)
        if track is None:
            painter.out.note("SVG text runs along a path that is not there.")
            return
    keep = _is_kept(element) or style.white_space in ("pre", "pre-wrap", "break-spaces")
    _add(painter, element.text, style, letters, track, keep)
    for child in element:
        if not isinstance(child.tag, str):
            _add(painter, child.tail, style, letters, track, keep)
            continue
        if child.tag in ("tspan", "a", "textpath"):
            inner = painter.styles.below(child, style)
            if inner.display != "none":
                _gather(painter, child, inner, letters, track)
        _add(painter, child.tail, style, letters, track, keep)
    own = letters[start:]
    if element.tag == "textpath" and own:
        own[0].first = True
    _place(painter, element, own)
    _fit(painter, element, own)


def _add(
    painter: SvgPainter, text: str | None, style: ComputedStyle, letters: list[Letter], track: Track | None, keep: bool
) -> None:
    """Text with its white space collapsed (§11.7.3)."""
    if len(text or "") + len(letters) > MOST_LETTERS:
        painter.out.note(f"SVG text of more than {MOST_LETTERS} letters is cut off.")
        text = (text or "")[: MOST_LETTERS - len(letters)]
    for character in text or "":
        if character in SPACE:
            if not keep and (not letters or letters[-1].character == " "):
                continue
            character = " "
        letter = Letter(character, style, track)
        if letters and letters[-1].character == " ":
            letter.dx = style.word_spacing
        letters.append(letter)


def _place(painter: SvgPainter, element: Element, letters: list[Letter]) -> None:
    """x, y, dx, dy and rotate: what an inner element says counts before what an outer one does."""
    em = letters[0].style.font_size if letters else 16.0
    for name, axis in (("x", 0), ("y", 1), ("dx", 0), ("dy", 1)):
        values = element.get(name, "").replace(",", " ").split()
        for letter, value in zip(letters, values, strict=False):
            length = length_of(value, painter.size[axis], em)
            if length is None:
                continue
            if name in ("x", "y"):
                if getattr(letter, name) is None:
                    setattr(letter, name, length)
            elif not getattr(letter, name):
                setattr(letter, name, length)
    turns = numbers_of(element.get("rotate", ""))
    for index, letter in enumerate(letters if turns else ()):
        if letter.rotate is None:
            letter.rotate = turns[min(index, len(turns) - 1)]


def _fit(painter: SvgPainter, element: Element, letters: list[Letter]) -> None:
    """textLength: letters further apart, or wider (§11.4.3)."""
    wanted = length_of(element.get("textlength", ""), painter.size[0])
    if wanted is None or wanted <= 0 or not letters:
        return
    natural = sum(piece.width + piece.first.dx for piece in _pieces(painter, letters))
    if element.get("lengthadjust", "spacing").lower() == "spacingandglyphs":
        for letter in letters:
            letter.stretch = wanted / natural if natural > 0 else 1.0
        return
    gaps = max(1, len(letters) - 1)
    for letter in letters:
        letter.spread = (wanted - natural) / gaps


# ---- pieces and chunks ----


def _pieces(painter: SvgPainter, letters: Sequence[Letter]) -> list[Piece]:
    found: list[list[Letter]] = []
    for letter in letters:
        alone = letter.track is not None or letter.rotate is not None
        placed = letter.x is not None or letter.y is not None or letter.dx or letter.dy or letter.first
        before = found[-1][-1] if found else None
        if (
            before is None or alone or placed or before.style is not letter.style or before.rotate is not None
            or before.track is not None or before.spread != letter.spread
        ):  # fmt: skip
            found.append([])
        found[-1].append(letter)
    return [Piece(painter, part) for part in found]


def _chunks(pieces: list[Piece]) -> list[list[Piece]]:
    """Pieces from one place that is said to the next (§11.4.2)."""
    found: list[list[Piece]] = []
    for piece in pieces:
        if not found or piece.first.x is not None or piece.first.y is not None or piece.first.first:
            found.append([])
        found[-1].append(piece)
    return found


def _set_chunk(
    painter: SvgPainter, chunk: list[Piece], x: float, y: float, around: ComputedStyle, depth: int
) -> tuple[float, float]:
    total = sum(piece.width + piece.first.dx for piece in chunk) - chunk[-1].first.spread
    anchor = chunk[0].style.text_anchor
    if chunk[0].style.direction == "rtl":
        anchor = {"start": "end", "end": "start"}.get(anchor, anchor)
    back = total if anchor == "end" else total / 2 if anchor == "middle" else 0.0
    for track, part in groupby(chunk, key=lambda piece: piece.first.track):
        if track is not None:
            _set_along(painter, list(part), track, back, around, depth)
            continue
        x -= back
        back = 0.0
        for piece in part:
            x, y = x + piece.first.dx, y + piece.first.dy
            matrix = translation(x, y - _shift(piece.style, around))
            if piece.first.rotate:
                matrix = multiply(matrix, _turn(math.radians(piece.first.rotate)))
            _set_piece(painter, piece, matrix, depth)
            x += piece.width
    return x, y


def _turn(angle: float) -> Matrix:
    return (math.cos(angle), math.sin(angle), -math.sin(angle), math.cos(angle), 0.0, 0.0)


def _set_along(
    painter: SvgPainter, pieces: list[Piece], track: Track, back: float, around: ComputedStyle, depth: int
) -> None:
    """Letters along a path, each turned as the path is in its middle (§11.8.3)."""
    at, aside = track.offset - back, 0.0
    for piece in pieces:
        at += piece.first.dx
        aside += piece.first.dy
        place = place_along(track.points, at + piece.width / 2)
        if place is not None:
            px, py, angle = place
            matrix = multiply(translation(px, py), _turn(angle + math.radians(piece.first.rotate or 0.0)))
            moved = translation(-piece.width / 2, aside - _shift(piece.style, around))
            _set_piece(painter, piece, multiply(matrix, moved), depth)
        at += piece.width


def _set_piece(painter: SvgPainter, piece: Piece, matrix: Matrix, depth: int) -> None:
    """Letters from the origin of a matrix on, filled and outlined."""
    style, out = piece.style, painter.out
    if not piece.text.strip() or style.visibility != "visible":
        return
    setting, size, face = painter.font_of(style), style.font_size, painter.font_of(style).face
    baseline = _above_baseline(style, face) * size
    box = (0.0, baseline - face.ascent * size, piece.width, (face.ascent + face.descent) * size)
    fill, stroke = (
        Ink(style.fill, style.fill_opacity, style, depth),
        Ink(style.stroke, style.stroke_opacity, style, depth),
    )
    width = stroke_width_of(style, painter.size)
    plain = matrix[:4] == IDENTITY[:4] and piece.first.stretch == 1.0
    dx, dy = (matrix[4], matrix[5]) if plain else (0.0, 0.0)
    box = (box[0] + dx, box[1] + dy, box[2], box[3])
    if not plain:
        out.save()
        out.transform(multiply(matrix, (piece.first.stretch, 0.0, 0.0, 1.0, 0.0, 0.0)))
    look = Look(setting, size, WHITE, style.letter_spacing + piece.first.spread)

    def letters(color: Rgba) -> None:
        set_text(out, dx, baseline + dy, look._replace(color=color), piece.text)

    def outline(color: Rgba) -> None:
        lined = Outline(stroke_of(style, painter.size), color, below=False)
        set_text(out, dx, baseline + dy, look._replace(color=TRANSPARENT, outline=lined), piece.text)

    def draw_outline() -> None:
        if width > 0 and stroke.is_seen(painter):
            through(painter, stroke, box, width, outline)

    if style.paint_order == "stroke":
        draw_outline()
    through(painter, fill, box, size, letters)
    _decorate(painter, piece, fill, box, (dx, baseline + dy))
    if style.paint_order != "stroke":
        draw_outline()
    if not plain:
        out.restore()


def _decorate(painter: SvgPainter, piece: Piece, ink: Ink, box: tuple[float, ...], start: tuple[float, float]) -> None:
    style, face = piece.style, painter.font_of(piece.style).face
    size, (x, baseline) = style.font_size, start
    lines = painter.styles.lines_of(style)
    for name, offset, thick in (
        ("underline", face.underline_offset, face.underline_thickness),
        ("overline", face.ascent, face.underline_thickness),
        ("line-through", face.strikeout_offset, face.strikeout_thickness),
    ):
        if name in lines:
            top = baseline - (offset + thick / 2) * size
            line = rectangle(x, top, piece.width, thick * size)
            through(painter, ink, (box[0], box[1], box[2], box[3]), size, lambda c, p=line: painter.out.fill_path(p, c))  # type: ignore[misc]


def _shift(style: ComputedStyle, around: ComputedStyle) -> float:
    """How far up a span is moved by baseline-shift, with those that it stands in (§11.10.2)."""
    total = 0.0
    node: ComputedStyle | None = style
    while node is not None and node is not around:
        shift = node.baseline_shift
        parent = node.parent.font_size if node.parent is not None else node.font_size
        if isinstance(shift, str):
            total += {"sub": SUB, "super": SUPER}.get(shift, 0.0) * parent
        else:
            total += first_number(str(shift), 0.0) if isinstance(shift, float) else shift.resolve(node.font_size)
        node = node.parent
    return total


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
