"""The text of what was laid out, in reading order."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import groupby
from typing import Final

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.words import gaps_after
from fleetquill.layout.boxes.boxes import Box, PictureBox
from fleetquill.layout.contract.fragments import Fragment, LineFragment, PictureFragment, TextSpan
from fleetquill.layout.table.measures import HeldRowsFragment, RowsFragment

ZERO_WIDTH_SPACE: Final = "\u200b"  # where a line may break, or for the height of an empty one: no text


def text_of(fragment: Fragment) -> str:
    """The text of a fragment: a line of text for each line on the page."""
    return "\n".join(_texts(fragment))


def _texts(fragment: Fragment) -> Iterator[str]:
    """The text of each line, and of each cell of a ledger's rows."""
    if isinstance(fragment, PictureFragment):
        yield from _drawn(fragment.box)
    if isinstance(fragment, HeldRowsFragment):
        for cells in fragment.cells:
            for _, line in groupby(cells, lambda cell: (cell.column, cell.baseline)):
                yield "".join([cell.text for cell in line])
    elif isinstance(fragment, RowsFragment):
        for row in fragment.texts:
            yield from filter(None, row)
    for child in fragment.children:
        if isinstance(child, LineFragment):
            text = line_text(child)
            if text:
                yield text
        else:
            yield from _texts(child)


def _drawn(box: Box) -> Iterator[str]:
    """What is written in a drawing: a chart, an SVG picture, a code with its text."""
    drawing = box.picture if isinstance(box, PictureBox) else None
    for verb, arguments in drawing.steps if isinstance(drawing, Drawing) else ():
        if verb == "text":
            _, _, _, words, _, spaced = arguments
            gaps = gaps_after(words, spaced)
            text = "".join(word.text + " " * gap for word, gap in zip(words, gaps, strict=True)).strip()
            if text:
                yield text


def line_text(line: LineFragment) -> str:
    """The words of a line, with one space where there is any gap between spans."""
    parts: list[str] = []
    for item in line.items:
        if isinstance(item, TextSpan):
            parts.append(item.text)
        elif isinstance(item, Fragment):
            parts.append(text_of(item))
    return "".join(parts).replace(ZERO_WIDTH_SPACE, "").strip()
