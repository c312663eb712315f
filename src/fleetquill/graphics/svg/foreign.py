"""Text of HTML in a drawing: what stands in a foreignObject, as plain lines in its area (SVG 2 §12.4)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, NamedTuple

from fleetquill.drawing.canvas import Look
from fleetquill.drawing.plain_text import measured, set_text
from fleetquill.graphics.svg.measures import attribute
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.reading import Element
from fleetquill.style.lengths import Factor
from fleetquill.style.properties import ComputedStyle

BLOCKS: Final = frozenset(  # by name: drawings have no style sheet of HTML that would say so
    "address article aside blockquote body dd div dl dt figure footer h1 h2 h3 h4 h5 h6 header hr html li "
    "main ol p pre section table tbody td th thead tr ul".split()
)
WITHOUT_TEXT: Final = frozenset(("script", "style", "template", "title"))
PICTURES: Final = ("img", "svg", "canvas", "video", "iframe", "input", "object")
NOTE: Final = "What stands in a foreignObject is shown as plain text, without boxes and pictures."


class Word(NamedTuple):
    """A word in a style, with the space before it where there is one."""

    text: str
    style: ComputedStyle


def draw_foreign(painter: SvgPainter, element: Element, style: ComputedStyle) -> None:
    """The text of an element's content, wrapped where its styles let it."""
    x, y = attribute(element, "x", 0, painter.size), attribute(element, "y", 1, painter.size)
    width = attribute(element, "width", 0, painter.size)
    lines = [line for block in _blocks(painter, element, style) for line in _wrapped(painter, block, width)]
    if lines or next(element.iter(*PICTURES), None) is not None:
        painter.out.note(NOTE)
    for line in lines:
        y = _set_line(painter, line, x, y, width)


def _blocks(painter: SvgPainter, element: Element, style: ComputedStyle) -> Iterator[list[Word]]:
    """The words between the beginnings and ends of blocks, and between breaks."""
    words: list[Word] = []
    space = False
    for text, own in _texts(painter, element, style):
        if text is None:
            if words:
                yield words
            words, space = [], False
            continue
        space = space or text[:1].isspace()
        for part in text.split():
            words.append(Word(f" {part}" if space and words else part, own))
            space = True
        space = text[-1:].isspace()
    if words:
        yield words


def _texts(painter: SvgPainter, element: Element, style: ComputedStyle) -> Iterator[tuple[str | None, ComputedStyle]]:
    """The texts within an element, each with its style; None where a line ends."""
    if element.text:
        yield element.text, style
    for child in element:
        if isinstance(child.tag, str) and child.tag not in WITHOUT_TEXT:
            own = painter.styles.below(child, style)
            ends = child.tag == "br" or child.tag in BLOCKS
            if own.display != "none":
                if ends:
                    yield None, own
                yield from _texts(painter, child, own)
                if ends:
                    yield None, own
        if child.tail:
            yield child.tail, style


def _wrapped(painter: SvgPainter, words: list[Word], width: float) -> Iterator[list[Word]]:
    line: list[Word] = []
    used = 0.0
    for word in words:
        wide = _width(painter, word)
        wraps = word.text.startswith(" ") and word.style.white_space not in ("nowrap", "pre")
        if line and wraps and used + wide > width + 0.5:
            yield line
            line, used = [], 0.0
            word = word._replace(text=word.text.lstrip())
            wide = _width(painter, word)
        line.append(word)
        used += wide
    yield line


def _width(painter: SvgPainter, word: Word) -> float:
    return measured(painter.font_of(word.style), word.style.font_size, word.text)


def _set_line(painter: SvgPainter, line: list[Word], x: float, y: float, width: float) -> float:
    """Sets a line and gives where it ends."""
    wide = sum(_width(painter, word) for word in line)
    first = line[0].style
    x += {"center": 0.5, "right": 1.0, "end": 1.0}.get(str(first.text_align), 0.0) * (width - wide)
    above, high = 0.0, 0.0
    for word in line:
        face, size = painter.font_of(word.style).face, word.style.font_size
        tall = (face.ascent + face.descent) * size
        leading = word.style.line_height
        own = leading.value * size if isinstance(leading, Factor) else leading if isinstance(leading, float) else tall
        above, high = max(above, face.ascent * size + (own - tall) / 2), max(high, own)
    for word in line:
        style = word.style
        look = Look(painter.font_of(style), style.font_size, style.used_color(style.color), style.letter_spacing)
        set_text(painter.out, x, y + above, look, word.text)
        x += _width(painter, word)
    return y + high
