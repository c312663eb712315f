"""How narrow and how wide plain texts may be, without a paragraph for each (CSS Sizing 3 §4)."""

from __future__ import annotations

from typing import Final, NamedTuple

from fleetquill.layout.contract.context import Context
from fleetquill.layout.inline.lines import narrowed
from fleetquill.layout.inline.paragraph_builder import PLAIN, SPACED_WORDS
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.breaking import pieces
from fleetquill.text.casing import transform
from fleetquill.text.figures import NOUGHTS, figures_of


class Widths(NamedTuple):
    """The min-content and max-content widths of a text, px."""

    least: float
    most: float


EMPTY: Final = Widths(0.0, 0.0)


class TextWidths:
    """The widths of texts in one style, where each is one run of glyphs from left to right."""

    def __init__(self, style: ComputedStyle, context: Context) -> None:
        self.style = style
        self.context = context
        self.setting = context.font(style)
        self.figures = figures_of(self.setting)
        self.space = self.setting.space.advance * style.font_size + style.letter_spacing
        self.wraps = style.white_space == "normal" and style.text_wrap != "nowrap"
        self.transforms = style.text_transform != "none"
        self._patterns: dict[str, Widths] = {}  # of texts of figures, by what they are with noughts in their place

    def of(self, text: str) -> Widths | None:
        """Those of a text without white space around it; None where it needs more care."""
        if not text:
            return EMPTY
        if self.transforms:
            text = transform(text, self.style.text_transform, self.style.language)
        if self.figures.safe.issuperset(text):
            pattern = text.translate(NOUGHTS) if self.figures.alike else text
            return self._patterns.get(pattern) or self._patterns.setdefault(pattern, self._of_figures(pattern))
        if not PLAIN.fullmatch(text) or text != text.strip():
            return None
        words = list(map(self.setting.segment, self._pieces(text)))
        if any(word.face is not self.setting.face or word.missing or word.inner_space for word in words):
            return None
        size, spacing = self.style.font_size, self.style.letter_spacing
        widths = [word.advance * size + word.count * spacing for word in words]
        return self._widths(widths, [word.spaced for word in words])

    def _pieces(self, text: str) -> list[str]:
        return pieces(text) if self.wraps else SPACED_WORDS.findall(text)

    def _of_figures(self, text: str) -> Widths:
        found = self._pieces(text)
        size, spacing = self.style.font_size, self.style.letter_spacing
        bare = [piece.removesuffix(" ") for piece in found]
        widths = [self.figures.advance(piece) * size + len(piece) * spacing for piece in bare]
        return self._widths(widths, [piece.endswith(" ") for piece in found])

    def _widths(self, widths: list[float], spaced: list[bool]) -> Widths:
        most = sum(widths) + self.space * sum(spaced[:-1])
        if not self.wraps:
            return Widths(most, most)
        return Widths(narrowed(max(widths), self.style, self.context), most)
