"""Boxes: what the element tree becomes before layout (CSS Display 3)."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from lxml import etree

from fleetquill.style.properties import ComputedStyle

if TYPE_CHECKING:
    from fleetquill.drawing.canvas import Drawing
    from fleetquill.drawing.pictures import Picture
    from fleetquill.layout.inline.paragraph import Paragraph
    from fleetquill.layout.table.grid import Grid
    from fleetquill.style.generated import Counter, Tally, Target

Element = etree._Element


def element_text(element: Element) -> str:
    """The text content of an element with its white space folded."""
    return " ".join("".join(str(text) for text in element.itertext()).split())


class Box:
    """A box of the box tree. `element` is None for an anonymous box; `kept` is for layout's own notes.

    A box is quiet where neither it nor any box in it stands out of the flow or over others, moves a
    counter, bears a name, or says anything else to its page: what asks for such things passes it by.
    """

    __slots__ = ("children", "element", "kept", "marker", "quiet", "style")

    def __init__(self, style: ComputedStyle, element: Element | None, children: list[Box]) -> None:
        self.style = style
        self.element = element
        self.children = children
        self.marker: LinesBox | None = None
        self.quiet = False
        self.kept: dict[Any, Any] = {}


class BlockBox(Box):
    """A block container whose children are all block-level."""

    __slots__ = ()


class LinesBox(Box):
    """A block container whose children are all inline-level: it establishes an inline context."""

    __slots__ = ("first_line", "paragraph")

    def __init__(self, style: ComputedStyle, element: Element | None, children: list[Box]) -> None:
        super().__init__(style, element, children)
        self.paragraph: Paragraph | None = None
        self.first_line: ComputedStyle | None = None  # the style of ::first-line


class FlexBox(Box):
    """A flex container; its children are its items, blockified."""

    __slots__ = ()


class GridBox(Box):
    """A grid container; its children are its items, blockified."""

    __slots__ = ()


class ColumnsBox(Box):
    """A multi-column container; its children are block-level."""

    __slots__ = ()


class AnchorBox(Box):
    """Where a box that was taken out of the flow stood: `target` is laid out elsewhere.

    `kind` is 'absolute', 'running' or 'footnote'; `inline` says that it stood in a line.
    """

    __slots__ = ("inline", "kind", "target")

    def __init__(self, style: ComputedStyle, kind: str, target: Box, inline: bool) -> None:
        super().__init__(style, None, [])
        self.kind = kind
        self.target = target
        self.inline = inline


class PictureBox(Box):
    """A replaced element that shows a picture or a drawing; `picture` is None where there is none to show."""

    __slots__ = ("alternative", "picture")

    def __init__(
        self, style: ComputedStyle, element: Element | None, picture: Picture | Drawing | None, alternative: str
    ) -> None:
        super().__init__(style, element, [])
        self.picture = picture
        self.alternative = alternative


class TableBox(Box):
    """A table; `children` are the captions, `groups` the row groups in visual order."""

    __slots__ = ("columns", "grid", "groups")

    def __init__(self, style: ComputedStyle, element: Element | None) -> None:
        super().__init__(style, element, [])
        self.groups: list[RowGroupBox] = []
        self.columns: list[ColumnBox] = []
        self.grid: Grid | None = None


class ColumnBox(Box):
    """A column or a group of columns: `span` columns share the style. `group` is the one that a column is in."""

    __slots__ = ("group", "span")

    def __init__(self, style: ComputedStyle, element: Element | None, span: int) -> None:
        super().__init__(style, element, [])
        self.span = span
        self.group: ColumnBox | None = None


class RowGroupBox(Box):
    """A row group; `role` is 'head', 'body' or 'foot'. Its children are rows."""

    __slots__ = ("role",)

    def __init__(self, style: ComputedStyle, element: Element | None, role: str) -> None:
        super().__init__(style, element, [])
        self.role = role


class RowBox(Box):
    """A table row. Its children are cells."""

    __slots__ = ()


class CellBox(BlockBox):
    """A table cell around its block-level content."""

    __slots__ = ("column_span", "row_span")

    def __init__(
        self,
        style: ComputedStyle,
        element: Element | None,
        children: list[Box],
        column_span: int,
        row_span: int,
    ) -> None:
        super().__init__(style, element, children)
        self.column_span = column_span
        self.row_span = row_span


class InlineBox(Box):
    """An inline element: its children flow in the lines around it."""

    __slots__ = ()


class TextBox(Box):
    """A run of text in one style, as it stands in the source."""

    __slots__ = ("text",)

    def __init__(self, style: ComputedStyle, element: Element | None, text: str) -> None:
        super().__init__(style, element, [])
        self.quiet = self.__class__ is TextBox
        self.text = text


class LeaderBox(TextBox):
    """A pattern that is repeated until its line is full."""

    __slots__ = ()


class PageCounterBox(TextBox):
    """The number of the page that the text is on, or of all pages: known only where it is laid out."""

    __slots__ = ("counter",)

    def __init__(self, style: ComputedStyle, element: Element | None, counter: Counter) -> None:
        super().__init__(style, element, "")
        self.counter = counter


class TargetBox(TextBox):
    """Text that another element gives: its page, its counters or its own text."""

    __slots__ = ("target",)

    def __init__(self, style: ComputedStyle, element: Element | None, target: Target) -> None:
        super().__init__(style, element, "")
        self.target = target


class TallyBox(TextBox):
    """Text that a tally gives: it is known only where it is laid out."""

    __slots__ = ("tally",)

    def __init__(self, style: ComputedStyle, element: Element | None, tally: Tally) -> None:
        super().__init__(style, element, "")
        self.tally = tally


class BreakBox(Box):
    """A forced line break."""

    __slots__ = ()
