"""The box of an inline formatting context."""

from __future__ import annotations

from collections.abc import Sequence

from fleetquill.drawing.fields import Field
from fleetquill.layout.boxes.boxes import Box, Element, PageCounterBox, PictureBox, TallyBox, TargetBox
from fleetquill.layout.inline.paragraph import Paragraph
from fleetquill.style.properties import ComputedStyle

MovingText = TallyBox | PageCounterBox | TargetBox  # text that hangs on where it, or another element, stands


class ControlBox(Box):
    """A form control around what it shows.

    `columns` and `rows` are the characters and lines that it asks room for, `frame` is 'field', 'area', 'menu' or
    'list'; `widest` holds what a menu could show, `mark` is drawn at its end.
    """

    __slots__ = ("columns", "content", "field", "frame", "mark", "rows", "widest")

    def __init__(
        self, style: ComputedStyle, element: Element | None, content: Box, *, columns: int, rows: int, frame: str
    ) -> None:
        super().__init__(style, element, [])
        self.content = content
        self.columns = columns
        self.rows = rows
        self.frame = frame
        self.widest: Box | None = None
        self.mark: PictureBox | None = None
        self.field: Field | None = None

    @property
    def inside(self) -> Sequence[Box]:
        return [self.content]

    def forget(self) -> None:
        super().forget()
        if self.widest is not None:
            self.widest.forget()


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
