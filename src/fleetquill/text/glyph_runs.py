"""Glyphs as shaping gives them: by number, with sparse adjustments, and what text they stand for."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from fleetquill.text.face import Face


class Adjustment(NamedTuple):
    """Before the glyph at index `at` (or at the end) the pen moves on by `across`; from there on it stands `rise`
    above the baseline. Both are font units."""

    at: int
    across: int
    rise: int


class Cluster(NamedTuple):
    """Glyphs of a run from the index `start` on, before `stop`, and the text that they stand for together."""

    start: int
    stop: int
    text: str


class GlyphRun:
    """Glyphs of one face, by number, in visual order.

    The pen moves on by each glyph's own advance; where shaping wants more or less, or a glyph off
    the baseline, an adjustment says so. `advance` is that of the whole, in ems. `meanings` says of each glyph
    what text it stands for, '' where that is told by another; `unclear` are the clusters whose glyphs do not give
    their text back in the order of reading.
    """

    __slots__ = ("adjustments", "advance", "face", "glyphs", "meanings", "text", "unclear")

    def __init__(
        self,
        face: Face,
        glyphs: tuple[int, ...],
        adjustments: tuple[Adjustment, ...],
        advance: float,
        meanings: tuple[tuple[int, str], ...],
        text: str,
        unclear: tuple[Cluster, ...] = (),
    ) -> None:
        self.face = face
        self.glyphs = glyphs
        self.adjustments = adjustments
        self.advance = advance
        self.meanings = meanings
        self.text = text
        self.unclear = unclear

    @property
    def level(self) -> bool:
        """Whether every glyph stands on the baseline."""
        return not any(adjustment.rise for adjustment in self.adjustments)

    def pieces(self) -> Iterator[tuple[Adjustment, tuple[int, ...]]]:
        """The glyphs in pieces, each with the adjustment before it; the last piece may be empty."""
        adjustment, start = Adjustment(0, 0, 0), 0
        for following in self.adjustments:
            if following.at > start or adjustment.across:
                yield adjustment, self.glyphs[start : following.at]
            adjustment, start = following, following.at
        yield adjustment, self.glyphs[start:]

    def parts(self) -> Iterator[tuple[GlyphRun, int, str | None]]:
        """The run cut at its unclear clusters: each part, how many glyphs stand before it, and of such a cluster its
        text."""
        start = 0
        for first, stop, text in self.unclear:
            if first > start:
                yield self.part(start, first), start, None
            yield self.part(first, stop), first, text
            start = stop
        if start < len(self.glyphs):
            yield self.part(start, len(self.glyphs)), start, None

    def part(self, start: int, stop: int) -> GlyphRun:
        """Some of the glyphs; the first stands where it does in the whole."""
        within = [a for a in self.adjustments if start < a.at < stop or (a.at == stop == len(self.glyphs))]
        before = [a for a in self.adjustments if a.at <= start]
        across = sum(a.across for a in before) + sum(map(self.face.advance, self.glyphs[:start]))
        first = [Adjustment(0, across, before[-1].rise if before else 0)]
        moved = [Adjustment(a.at - start, a.across, a.rise) for a in within]
        glyphs, meanings = self.glyphs[start:stop], self.meanings[start:stop]
        return GlyphRun(self.face, glyphs, (*first, *moved), self.advance, meanings, self.text)

    def places(self) -> Iterator[tuple[int, float, float]]:
        """Each glyph with the place of its origin, right of the run's start and above the baseline, in ems."""
        upem, pen = self.face.upem, 0
        for adjustment, glyphs in self.pieces():
            pen += adjustment.across
            for glyph in glyphs:
                yield glyph, pen / upem, adjustment.rise / upem
                pen += self.face.advance(glyph)
