"""Where glyphs cross a line below them: an underline that skips ink (CSS Text Decoration 4 §2.9)."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import uharfbuzz as hb

from fleetquill.layout.contract.fragments import TextSpan
from fleetquill.text.face import Face
from fleetquill.text.shaping import GlyphRun

Interval = tuple[float, float]

CLEARANCE = 0.8  # of the line's thickness, kept free at both sides of a glyph
STEPS = 6  # straight pieces that a curve is taken for


def clear_of_ink(span: TextSpan, y: float, thickness: float) -> list[Interval]:
    """The stretches of an underline, in px from the span's start, that no glyph crosses.

    `y` is the line's middle below the baseline.
    """
    run = span.run
    crossed: list[Interval] = []
    x = 0.0
    margin = thickness * CLEARANCE
    spaced = span.spaced or [True] * len(span.words)
    for word, has_space in zip(span.words, spaced, strict=True):
        for glyphs in word.runs:
            low = round((-y - thickness / 2 - margin / 2) / run.size, 4)
            high = round((-y + thickness / 2 + margin / 2) / run.size, 4)
            for index, a, b in _crossings_of(glyphs, low, high):
                at = x + index * run.letter_spacing
                crossed.append((at + a * run.size - margin, at + b * run.size + margin))
            x += glyphs.advance * run.size + len(glyphs.glyphs) * run.letter_spacing
        x += span.space if has_space else 0.0
    return _gaps(sorted(crossed), span.width)


def _gaps(crossed: list[Interval], width: float) -> list[Interval]:
    """What the crossings leave of a line."""
    found: list[Interval] = []
    at = 0.0
    for start, end in crossed:
        if start > at:
            found.append((at, min(start, width)))
        at = max(at, end)
    if at < width:
        found.append((at, width))
    return found


@lru_cache(maxsize=4_000)
def _crossings_of(run: GlyphRun, low: float, high: float) -> tuple[tuple[int, float, float], ...]:
    """The glyphs that reach into a band of heights: which, and from where to where, in ems."""
    found: list[tuple[int, float, float]] = []
    for index, (glyph, x, rise) in enumerate(run.places()):
        ink = _ink(run.face, glyph, low - rise, high - rise)
        if ink is not None:
            found.append((index, x + ink[0], x + ink[1]))
    return tuple(found)


@lru_cache(maxsize=8_000)
def _ink(face: Face, glyph: int, low: float, high: float) -> Interval | None:
    """The least and the most x of a glyph's outline within a band of heights, in ems."""
    outline = _Outline(face.upem)
    face.hb_font.draw_glyph(glyph, outline.functions, outline)
    inside: list[float] = []
    for (x0, y0), (x1, y1) in outline.pieces:
        if max(y0, y1) < low or min(y0, y1) > high:
            continue
        for y in (max(low, min(y0, y1)), min(high, max(y0, y1))):
            share = 0.0 if y1 == y0 else (y - y0) / (y1 - y0)
            inside.append(x0 + (x1 - x0) * share)
        if y0 == y1:
            inside.append(x1)
    return (min(inside), max(inside)) if inside else None


class _Outline:
    """Collects an outline as straight pieces, in ems."""

    def __init__(self, upem: int) -> None:
        self.upem = upem
        self.at = (0.0, 0.0)
        self.start = (0.0, 0.0)
        self.pieces: list[tuple[Interval, Interval]] = []
        self.functions: Any = hb.DrawFuncs()
        self.functions.set_move_to_func(lambda x, y, outline: outline.move(x, y))
        self.functions.set_line_to_func(lambda x, y, outline: outline.line(x, y))
        self.functions.set_quadratic_to_func(lambda *p: p[-1].curve((p[0], p[1]), (p[0], p[1]), (p[2], p[3])))
        self.functions.set_cubic_to_func(lambda *p: p[-1].curve((p[0], p[1]), (p[2], p[3]), (p[4], p[5])))
        self.functions.set_close_path_func(lambda outline: outline.close())

    def move(self, x: float, y: float) -> None:
        self.at = self.start = (x / self.upem, y / self.upem)

    def line(self, x: float, y: float) -> None:
        to = (x / self.upem, y / self.upem)
        self.pieces.append((self.at, to))
        self.at = to

    def close(self) -> None:
        if self.at != self.start:
            self.pieces.append((self.at, self.start))
        self.at = self.start

    def curve(self, first: Interval, second: Interval, end: Interval) -> None:
        """A Bézier curve in a few straight pieces: near enough for an underline."""
        from_x, from_y = self.at[0] * self.upem, self.at[1] * self.upem
        for step in range(1, STEPS + 1):
            t = step / STEPS
            a, b, c, d = (1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3
            x = a * from_x + b * first[0] + c * second[0] + d * end[0]
            y = a * from_y + b * first[1] + c * second[1] + d * end[1]
            self.line(x, y)
