"""How signs stand in text whose lines run downwards: upright, or turned with their line (CSS Writing Modes 4 §5.1)."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import cache
from typing import Final, NamedTuple

from fleetquill.text.face import Face
from fleetquill.text.glyph_runs import Adjustment, GlyphRun

# UAX #50, Vertical_Orientation U and Tu: by blocks where nearly all of a block is
UPRIGHT: Final = (
    "[\u00a7\u00a9\u00ae\u00b1\u00bc-\u00be\u00d7\u00f7\u1100-\u11ff\u2016\u2020\u2021\u2030\u2031\u203b\u203c\u2042"
    "\u2047-\u2049\u2051\u2100\u2101\u2103-\u2109\u2113\u2114\u2116\u2117\u2120-\u2123\u2160-\u2188\u221e\u2234\u2235"
    "\u2460-\u24ff\u25a0-\u2767\u2776-\u2793\u2e80-\u3007\u3012\u3013\u3020-\u302f\u3031-\u309f\u30a1-\u30fb\u30fd-\ua4cf"
    "\ua960-\ua97f\uac00-\ud7ff\uf900-\ufaff\ufe10-\ufe1f\ufe30-\ufe57\uff01-\uff07\uff0a-\uff0c\uff0e-\uff19\uff1f-\uff3a"
    "\uff3c\uff3e\uff40-\uff5a\uffe0-\uffe2\uffe4-\uffe7\U0001f000-\U0001faff\U00020000-\U0003ffff]"
)
# Tr, and what is turned with its line: upright where the font has a form of it for lines that run downwards
TRANSFORMED: Final = (
    "[\u2014\u2015\u2018\u2019\u201c\u201d\u2025\u2026\u2329\u232a\u3008-\u3011\u3014-\u301f\u3030\u30a0\u30fc"
    "\ufe58-\ufe5e\uff08\uff09\uff0d\uff1a\uff1b\uff1d\uff3b\uff3d\uff3f\uff5b-\uff60\uffe3]"
)


@cache
def upright() -> re.Pattern[str]:
    """Finds signs that stand upright; made when lines first run downwards, for it takes long."""
    return re.compile(UPRIGHT)


@cache
def transformed() -> re.Pattern[str]:
    """Finds signs that have a form of their own in such lines, or are turned with them."""
    return re.compile(TRANSFORMED)


class Piece(NamedTuple):
    """Glyphs of a run that stand alike, from the index `start` on. `middle` is where an upright sign has its middle, in
    ems from the run's start; None for glyphs that are turned with their line."""

    start: int
    stop: int
    middle: float | None


def pieces_of(run: GlyphRun, posture: str) -> Iterator[Piece]:
    """A run cut into signs that stand upright, and what stands between them."""
    places = list(run.places())
    since = 0
    for start, stop in _clusters(run):
        glyph, across, _ = places[start]
        if not _stands(run.face, glyph, run.meanings[start][1], posture):
            continue
        if since < start:
            yield Piece(since, start, None)
        yield Piece(start, stop, across + run.face.advance(glyph) / run.face.upem / 2)
        since = stop
    if since < len(places):
        yield Piece(since, len(places), None)


def stacked(run: GlyphRun) -> GlyphRun:
    """The run with every sign in the middle of a square of its own: lines of upright signs run on from one to the
    next, however wide they are."""
    face, upem = run.face, run.face.upem
    places = list(run.places())
    adjustments: list[Adjustment] = []
    pen = own = 0
    for number, (start, stop) in enumerate(_clusters(run)):
        left = number * upem + (upem - face.advance(places[start][0])) // 2
        first = round(places[start][1] * upem)
        for index in range(start, stop):
            glyph, across, rise = places[index]
            target = left + round(across * upem) - first
            adjustments.append(Adjustment(index, target - pen, round(rise * upem)))
            pen = target + face.advance(glyph)
        own = (number + 1) * upem
    adjustments.append(Adjustment(len(places), own - pen, 0))
    return GlyphRun(face, run.glyphs, tuple(adjustments), own / upem, run.meanings, run.text, run.unclear)


def _clusters(run: GlyphRun) -> Iterator[tuple[int, int]]:
    """The glyphs of each sign: one, and those after it whose text it tells."""
    start = 0
    for index in range(1, len(run.glyphs) + 1):
        if index == len(run.glyphs) or run.meanings[index][1]:
            yield start, index
            start = index


def _stands(face: Face, glyph: int, text: str, posture: str) -> bool:
    if not text or text.isspace():
        return False
    if upright().match(text):
        return True
    if transformed().match(text):
        return bool(glyph != face.hb_font.get_nominal_glyph(ord(text[0])))
    return posture == "upright"
