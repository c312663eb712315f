"""Where glyphs cross a line below them: an underline that skips ink (CSS Text Decoration 4 §2.9)."""

from __future__ import annotations

from collections.abc import Iterator

from fleetquill.drawing.canvas import Path
from fleetquill.drawing.paths import points_of
from fleetquill.drawing.words import runs_along
from fleetquill.layout.contract.fragments import TextSpan
from fleetquill.text.face import Face
from fleetquill.text.glyph_runs import GlyphRun
from fleetquill.text.outlines import outline_of

Interval = tuple[float, float]

CLEARANCE = 0.8  # of the line's thickness, kept free at both sides of a glyph
NO_INK = "none"
STEPS = 6  # straight pieces that a curve is taken for


def clear_of_ink(span: TextSpan, y: float, thickness: float) -> list[Interval]:
    """The stretches of an underline, in px from the span's start, that no glyph crosses.

    `y` is the line's middle below the baseline.
    """
    run = span.run
    crossed: list[Interval] = []
    margin = thickness * CLEARANCE
    low = round((-y - thickness / 2 - margin / 2) / run.size, 4)
    high = round((-y + thickness / 2 + margin / 2) / run.size, 4)
    for x, glyphs in runs_along(run.look, span.words, span.space, span.spaced):
        for index, a, b in _crossings_of(glyphs, low, high):
            at = x + index * run.letter_spacing
            crossed.append((at + a * run.size - margin, at + b * run.size + margin))
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


def _crossings_of(run: GlyphRun, low: float, high: float) -> list[tuple[int, float, float]]:
    """The glyphs that reach into a band of heights: which, and from where to where, in ems."""
    key = "crossings", run.glyphs, run.adjustments, low, high
    found: list[tuple[int, float, float]] | None = run.face.kept.get(key)
    if found is not None:
        return found
    found = []
    for index, (glyph, x, rise) in enumerate(run.places()):
        ink = _ink(run.face, glyph, low - rise, high - rise)
        if ink is not None:
            found.append((index, x + ink[0], x + ink[1]))
    run.face.kept.put(key, found)
    return found


def _ink(face: Face, glyph: int, low: float, high: float) -> Interval | None:
    """The least and the most x of a glyph's outline within a band of heights, in ems."""
    key = "ink", glyph, low, high
    kept: Interval | str | None = face.kept.get(key)
    if kept is None:
        kept = face.kept.put(key, _measured_ink(face, glyph, low, high) or NO_INK)
    return None if isinstance(kept, str) else kept


def _measured_ink(face: Face, glyph: int, low: float, high: float) -> Interval | None:
    inside: list[float] = []
    for (x0, y0), (x1, y1) in _pieces(outline_of(face, glyph)):
        if max(y0, y1) < low or min(y0, y1) > high:
            continue
        for y in (max(low, min(y0, y1)), min(high, max(y0, y1))):
            share = 0.0 if y1 == y0 else (y - y0) / (y1 - y0)
            inside.append(x0 + (x1 - x0) * share)
        if y0 == y1:
            inside.append(x1)
    return (min(inside), max(inside)) if inside else None


def _pieces(outline: Path) -> Iterator[tuple[Interval, Interval]]:
    """An outline as straight pieces: near enough for an underline."""
    at = start = (0.0, 0.0)
    for verb, *numbers in outline:
        if verb == "m":
            at = start = (numbers[0], numbers[1])
            continue
        for to in [start] if verb == "h" else points_of(at, numbers, STEPS):
            if to != at:
                yield at, to
            at = to
