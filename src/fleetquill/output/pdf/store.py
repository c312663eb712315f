"""What the PDF room keeps for all documents of a press: subsets of fonts, strings of words, operators of drawings."""

from __future__ import annotations

from typing import Final

from fleetquill.caches import Budget, Cache
from fleetquill.drawing.canvas import Drawing
from fleetquill.output.pdf.fonts import SubsetStore
from fleetquill.output.pdf.strings import FigureHexes, WordStrings

MOST_DRAWINGS: Final = 64  # whose operators are kept, deflated


class PdfStore:
    """Made once for a press."""

    def __init__(self, budget: Budget | None = None) -> None:
        budget = budget or Budget()
        self.subsets = SubsetStore(budget)
        self.words = WordStrings(budget)
        self.figures = FigureHexes()
        self.drawings: Cache[tuple[Drawing, float], bytes] = budget.cache(MOST_DRAWINGS, _weight)


def _weight(key: tuple[Drawing, float], content: bytes) -> int:
    return key[0].weight + len(content)
