"""The box of an inline formatting context."""

from __future__ import annotations

from collections.abc import Sequence

from fleetquill.layout.boxes.boxes import Box, Element, PageCounterBox, TallyBox, TargetBox
from fleetquill.layout.inline.paragraph import Paragraph
from fleetquill.style.properties import ComputedStyle

MovingText = TallyBox | PageCounterBox | TargetBox  # text that hangs on where it, or another element, stands


class LinesBox(Box):
    """A block container whose children are all inline-level: it establishes an inline context."""

    __slots__ = ("first_line", "moving", "paragraph")

    def __init__(self, style: ComputedStyle, element: Element | None, children: list[Box]) -> None:
        super().__init__(style, element, children)
        self.paragraph: Paragraph | None = None
        self.first_line: ComputedStyle | None = None  # the style of ::first-line
        self.moving: list[MovingText] = []

    @property
    def parts(self) -> Sequence[Box]:
        return ()

    def forget(self) -> None:
        super().forget()
        self.paragraph = None
