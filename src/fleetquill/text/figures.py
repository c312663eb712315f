"""Figures without shaping: texts of characters whose glyphs never change beside one another.

Digits, points and the like are the bulk of a big table. Where shaping every pair of them gives the
same glyphs and advances as shaping each alone, a text of them is a translation and a sum.
"""

from __future__ import annotations

from fleetquill.caches import Cache
from fleetquill.text.glyph_runs import GlyphRun
from fleetquill.text.shaping import FontSetting, Word

NOUGHTS = str.maketrans("123456789", "000000000")
MOST_PATTERNS = 1_000
CANDIDATES = "0123456789.,-:/ "


class Figures:
    """The safe characters of one font setting: glyphs and advances, one lookup a character."""

    def __init__(self, setting: FontSetting) -> None:
        self.face = setting.face
        alone = {c: run for c in CANDIDATES if (run := _run(setting, c)) is not None}
        unsafe = {c for a in alone for b in alone for c in (a, b) if not _stands_alone(setting, a, b, alone)}
        self.runs: tuple[GlyphRun, ...] = tuple(run for c, run in alone.items() if c not in unsafe)
        self.advances = {c: run.advance for c, run in alone.items() if c not in unsafe}
        self.word = Word("", self.runs, 0, "", False)  # stands for all of them where glyphs are noted
        self.words = (self.word,)
        digits = {self.advances.get(digit) for digit in "0123456789"}
        self.alike = len(digits) == 1 and None not in digits
        self._widths: Cache[str, float] = Cache(MOST_PATTERNS)  # by pattern: the text with a nought for each digit
        self.glyphs = {c: run.glyphs for c, run in alone.items() if c not in unsafe}
        self.safe = frozenset(self.advances)

    def advance(self, text: str) -> float:
        """Its width in ems."""
        if not self.alike:
            return sum(map(self.advances.__getitem__, text))
        pattern = text.translate(NOUGHTS)
        width = self._widths.get(pattern)
        if width is None:
            width = self._widths.put(pattern, sum(map(self.advances.__getitem__, pattern)))
        return width


def figures_of(setting: FontSetting) -> Figures:
    """Those of a font setting, found out once."""
    found = setting.figures
    if not isinstance(found, Figures):
        found = setting.figures = Figures(setting)
    return found


def _run(setting: FontSetting, text: str) -> GlyphRun | None:
    """The one plain run of a text; None where it is not that simple."""
    word = setting.exact(text)
    plain = word.face is setting.face and len(word.runs) == 1 and not word.runs[0].adjustments
    return word.runs[0] if plain and not word.missing else None


def _stands_alone(setting: FontSetting, first: str, second: str, alone: dict[str, GlyphRun]) -> bool:
    together = _run(setting, first + second)
    return together is not None and together.glyphs == alone[first].glyphs + alone[second].glyphs
