"""Cells that hold text and nothing else, as most do."""

from __future__ import annotations

from fleetquill.drawing.places import Place
from fleetquill.layout.boxes.boxes import Box, CellBox, Element, TextBox
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.style.properties import ComputedStyle


class TextCellBox(CellBox):
    """A cell that takes one row and one column and holds one piece of `text`, if any. What it consists of is made where
    it is asked for: where rows are laid out together, it is not."""

    __slots__ = ("_content", "_lines", "text")

    def __init__(self, style: ComputedStyle, element: Element, text: str, lines: ComputedStyle, page: str) -> None:
        super().__init__(style, element, [], 1, 1)
        self.text = text
        self.page = page
        self.quiet = True
        self._lines = lines  # the style of the box around the text
        self._content: list[Box] | None = None if text else []

    def belong_to(self, place: Place) -> None:
        """It, and its text, is a part of the document."""
        self.part = place
        for lines in self._content or ():
            lines.part = place

    @property
    def children(self) -> list[Box]:
        if self._content is None:
            lines = LinesBox(self._lines, None, [TextBox(self.style, self.element, self.text)])
            lines.page, lines.part, lines.quiet = self.page, self.part, True
            self._content = [lines]
        return self._content

    @children.setter
    def children(self, boxes: list[Box]) -> None:
        self._content = boxes
