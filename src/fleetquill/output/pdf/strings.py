"""Shaped words as PDF strings: what stands in a TJ array for them (ISO 32000-2 §9.4.3)."""

from __future__ import annotations

from collections.abc import Callable
from operator import attrgetter
from struct import pack
from typing import Final, NamedTuple

from fleetquill.caches import Budget, Cache
from fleetquill.pdf.objects import number
from fleetquill.text.figures import Figures
from fleetquill.text.glyph_runs import GlyphRun
from fleetquill.text.shaping import Word

MOST_WORDS: Final = 40_000  # whose strings are kept
MOST_FIGURES: Final = 512


class Piece(NamedTuple):
    """Glyphs at one height: the content of a TJ array, the height above the baseline and the distance from the
    run's start in ems, and how many glyphs stand before."""

    strings: str
    rise: float
    offset: float
    before: int


class WordStrings(Cache[Word, str]):
    """The TJ content of words that stand on one baseline, made once for all documents of a press."""

    def __init__(self, budget: Budget) -> None:
        super().__init__(MOST_WORDS, budget, _weight)
        budget.add(self)

    def __missing__(self, word: Word) -> str:
        return self.put(word, strings_of(word))


class FigureHexes(Cache[Figures, dict[int, str]]):
    """For each character of figures, by its code: the hexadecimal digits of its glyphs."""

    def __init__(self) -> None:
        super().__init__(MOST_FIGURES)

    def __missing__(self, figures: Figures) -> dict[int, str]:
        return self.put(figures, {ord(c): _hex(glyphs) for c, glyphs in figures.glyphs.items()})


def _weight(word: Word, content: str) -> int:
    """What is kept of a word: the content, and the word itself."""
    return 200 + len(content)


Codes = Callable[[GlyphRun], tuple[int, ...]]  # of a run's glyphs, where a file has others than their numbers


def strings_of(word: Word, codes: Codes = attrgetter("glyphs")) -> str:
    """The TJ content of a word; raised glyphs are brought down."""
    return "".join([piece.strings for run in word.runs for piece in pieces_of(run, codes(run))])


def pieces_of(run: GlyphRun, codes: tuple[int, ...] | None = None) -> list[Piece]:
    """The glyphs of a run, by their numbers or by other codes, cut where their height changes.

    A number moves the pen by thousandths of an em to the left. One at the start of a piece has a
    space before it, so that pieces can be set one after another.
    """
    codes = run.glyphs if codes is None else codes
    if not run.adjustments:
        return [Piece(f"<{_hex(codes)}>", 0.0, 0.0, 0)]
    upem = run.face.upem
    found: list[Piece] = []
    strings: list[str] = []
    height = pen = start = count = before = 0
    for adjustment, glyphs in run.pieces():
        if adjustment.rise != height and strings:
            found.append(Piece("".join(strings), height / upem, start / upem, before))
            strings = []
        if not strings:
            start, before = pen, count
        height = adjustment.rise
        if adjustment.across:
            strings.append(f"{'' if strings else ' '}{number(-adjustment.across * 1000 / upem)}")
        if glyphs:
            strings.append(f"<{_hex(codes[count : count + len(glyphs)])}>")
        pen += adjustment.across + sum([run.face.advance(glyph) for glyph in glyphs])
        count += len(glyphs)
    if strings:
        found.append(Piece("".join(strings), height / upem, start / upem, before))
    return found


def _hex(glyphs: tuple[int, ...]) -> str:
    return pack(f">{len(glyphs)}H", *glyphs).hex()
