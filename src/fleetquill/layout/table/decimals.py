"""Alignment on a character, such as the decimal separator, down a column (CSS Text 4 §7.1)."""

from __future__ import annotations

from typing import NamedTuple

from fleetquill.layout.boxes.boxes import CellBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.layout.inline.lines import paragraph_of
from fleetquill.layout.inline.paragraph import Paragraph
from fleetquill.text.shaping import Word


class Halves(NamedTuple):
    """The widths of a text before the character it is aligned on, and from it on, in px."""

    before: float
    after: float


def halves_of(box: CellBox, context: Context) -> Halves | None:
    """The halves of a cell's text; None where the cell is not aligned on a character."""
    align = box.style.text_align
    child = box.children[0] if len(box.children) == 1 else None
    if not align.startswith('"') or not isinstance(child, LinesBox):
        return None
    paragraph = paragraph_of(child, context)
    return halves(paragraph, align[1:]) if paragraph.simple else None


def halves(paragraph: Paragraph, character: str) -> Halves:
    """A text without the character stands wholly before it."""
    run = paragraph.runs[0]
    whole = paragraph.ends[-1]
    for index in range(len(paragraph.items) - 1, -1, -1):
        item = paragraph.items[index]
        assert isinstance(item, Word)
        place = item.text.rfind(character)
        if place >= 0:
            before = paragraph.starts[index] + run.width(run.setting.segment(item.text[:place]))
            return Halves(before, whole - before)
    return Halves(whole, 0.0)
