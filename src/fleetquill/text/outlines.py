"""The outlines of glyphs, as paths in ems, y up."""

from __future__ import annotations

from typing import Any

import uharfbuzz as hb

from fleetquill.text.face import Face

Point = tuple[float, float]
GlyphSegment = tuple[str, *tuple[float, ...]]  # as those of a path: m, l, c, h


def outline_of(face: Face, glyph: int) -> tuple[GlyphSegment, ...]:
    """Lines and curves of one glyph."""
    key = "outline", glyph
    kept: tuple[GlyphSegment, ...] | None = face.kept.get(key)
    if kept is None:
        pen = _Pen(face.upem)
        face.hb_font.draw_glyph(glyph, pen.functions, pen)
        kept = face.kept.put(key, tuple(pen.segments))
    return kept


class _Pen:
    """Collects an outline."""

    def __init__(self, upem: int) -> None:
        self.upem = upem
        self.at = (0.0, 0.0)
        self.segments: list[GlyphSegment] = []
        self.functions: Any = hb.DrawFuncs()
        self.functions.set_move_to_func(lambda x, y, pen: pen.go("m", x, y))
        self.functions.set_line_to_func(lambda x, y, pen: pen.go("l", x, y))
        self.functions.set_quadratic_to_func(lambda cx, cy, x, y, pen: pen.quadratic(cx, cy, x, y))
        self.functions.set_cubic_to_func(lambda *numbers: numbers[-1].go("c", *numbers[:-1]))
        self.functions.set_close_path_func(lambda pen: pen.segments.append(("h",)))

    def go(self, verb: str, *numbers: float) -> None:
        self.segments.append((verb, *(number / self.upem for number in numbers)))
        self.at = (numbers[-2], numbers[-1])

    def quadratic(self, cx: float, cy: float, x: float, y: float) -> None:
        """The same curve by two control points."""
        ax, ay = self.at
        self.go("c", ax + 2 / 3 * (cx - ax), ay + 2 / 3 * (cy - ay), x + 2 / 3 * (cx - x), y + 2 / 3 * (cy - y), x, y)
