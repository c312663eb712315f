"""The text of a page of a finished PDF: words with their places, and lines in the order in which they are painted."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator, Sequence
from typing import Final, NamedTuple

from fleetquill.bindery.page_marks import Glyph

GAP: Final = 0.14  # ems between letters that are a space
BACK: Final = 0.6  # ems by which letters go back within a line: accents that are set one by one
APART: Final = 0.45  # ems between the baselines of letters of two lines
ASCENT: Final = 0.8  # ems of a letter above its baseline, as a rule
LIGATURES: Final = re.compile("[\ufb00-\ufb06]")
DROPPED: Final = ("\0", "\N{SOFT HYPHEN}", "\N{ZERO WIDTH SPACE}")


class PageWord(NamedTuple):
    """A word, and the box around it in points from the page's top-left corner."""

    text: str
    x: float
    y: float
    width: float
    height: float


def lines_of(glyphs: Sequence[Glyph]) -> Iterator[list[Glyph]]:
    """The letters, line by line; a letter ' ' stands where the space between two is one."""
    line: list[Glyph] = []
    before: Glyph | None = None
    for glyph in glyphs:
        if not glyph.text and glyph.x == glyph.end_x:
            continue
        if before is not None:
            gap, off = _distance(before, glyph)
            size = max(before.size, glyph.size, 0.01)
            if abs(off) > APART * size or gap < -BACK * size - abs(before.end_x - before.x):
                yield line
                line = []
            elif gap > GAP * size and line and not line[-1].text.isspace() and not glyph.text.isspace():
                line.append(Glyph(" ", before.end_x, before.end_y, glyph.x, glyph.y, size))
        line.append(glyph)
        before = glyph
    if line:
        yield line


def _distance(before: Glyph, glyph: Glyph) -> tuple[float, float]:
    """How far a letter stands from the end of the one before: along its baseline, and across it."""
    along_x, along_y = before.end_x - before.x, before.end_y - before.y
    length = (along_x**2 + along_y**2) ** 0.5
    if not length:
        along_x, length = 1.0, 1.0
    away_x, away_y = glyph.x - before.end_x, glyph.y - before.end_y
    return (away_x * along_x + away_y * along_y) / length, (away_y * along_x - away_x * along_y) / length


def text_of_page(glyphs: Sequence[Glyph]) -> str:
    """The text, a line for each line on the page."""
    lines = ["".join(_clean(glyph.text) for glyph in in_reading_order(line)).strip() for line in lines_of(glyphs)]
    return "\n".join(line for line in lines if line)


def words_of_page(glyphs: Sequence[Glyph]) -> list[PageWord]:
    """The words, in the order in which they are painted."""
    found: list[PageWord] = []
    for line in lines_of(glyphs):
        word: list[Glyph] = []
        for glyph in [*line, Glyph(" ", 0.0, 0.0, 0.0, 0.0, 0.0)]:
            if glyph.text.isspace():
                found += _word(word)
                word = []
            else:
                word.append(glyph)
    return found


def _word(letters: list[Glyph]) -> list[PageWord]:
    text = "".join(_clean(glyph.text) for glyph in in_reading_order(letters))
    if not text.strip():
        return []
    size = max(glyph.size for glyph in letters)
    up_x, up_y = _up(letters)
    corners = [
        (x + up_x * size * share, y + up_y * size * share)
        for glyph in letters
        for x, y in ((glyph.x, glyph.y), (glyph.end_x, glyph.end_y))
        for share in (ASCENT, ASCENT - 1)
    ]
    across, down = [x for x, _ in corners], [y for _, y in corners]
    left, top = min(across), min(down)
    return [PageWord(text, left, top, max(across) - left, max(down) - top)]


def _up(letters: Sequence[Glyph]) -> tuple[float, float]:
    """The way that is up for letters: across their baseline."""
    first, last = letters[0], letters[-1]
    along_x, along_y = last.end_x - first.x, last.end_y - first.y
    length = (along_x**2 + along_y**2) ** 0.5
    return (along_y / length, -along_x / length) if length else (0.0, -1.0)


def in_reading_order(line: list[Glyph]) -> list[Glyph]:
    """Letters that were painted from left to right, as they are read: those of scripts that run the other way turned
    around, and the line too where most of it is of those."""
    ways = [_way(glyph.text) for glyph in line]
    if -1 not in ways:
        return line
    ends = [way for way in ways if way]
    mixed = ends[0] != ends[-1]
    backward = ways.count(-1) > ways.count(1) if mixed else ends[0] < 0
    runs: list[tuple[int, list[Glyph]]] = []
    for way, glyph in zip(_settled(ways, -1 if backward else 1), line, strict=True):
        if not runs or runs[-1][0] != way:
            runs.append((way, []))
        runs[-1][1].append(glyph)
    ordered = [list(reversed(run)) if way < 0 else run for way, run in runs]
    if backward:
        ordered.reverse()
    return [glyph for run in ordered for glyph in run]


def _way(text: str) -> int:
    """1 for letters that run from left to right, -1 for the other way, 0 for what follows what is around it."""
    for character in text:
        kind = unicodedata.bidirectional(character)
        if kind in ("R", "AL", "NSM"):
            return -1 if kind != "NSM" else 0
        if kind in ("L", "EN", "AN"):
            return 1
    return 0


def _settled(ways: list[int], usual: int) -> list[int]:
    """What stands between two of one direction has that; else the line's."""
    found, before = list(ways), usual
    for at, way in enumerate(ways):
        if way:
            before = way
            continue
        after = next((other for other in ways[at:] if other), usual)
        found[at] = before if before == after else usual
    return found


def _clean(text: str) -> str:
    for character in DROPPED:
        text = text.replace(character, "")
    return LIGATURES.sub(lambda found: unicodedata.normalize("NFKC", found[0]), text)
