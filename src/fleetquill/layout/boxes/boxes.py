"""Boxes: what the element tree becomes before layout (CSS Display 3)."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from typing import TYPE_CHECKING, Final, NamedTuple

from lxml import etree

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.effects import Effect
from fleetquill.drawing.fields import Field
from fleetquill.drawing.pictures import Picture
from fleetquill.drawing.places import Artifact, Place, RowModel
from fleetquill.layout.contract.sizing import Edges
from fleetquill.style.properties import ComputedStyle

if TYPE_CHECKING:
    from fleetquill.style.generated import Counter, Tally, Target

Element = etree._Element


def element_text(element: Element, without: Collection[Element] = ()) -> str:
    """The text content of an element, but for those `without` which it is asked, with its white space folded."""
    if not any(inner in without for inner in element.iter()):
        return " ".join("".join(str(text) for text in element.itertext()).split())
    return " ".join("".join(_texts(element, without)).split())


def _texts(element: Element, without: Collection[Element]) -> Iterator[str]:
    yield element.text or ""
    for child in element:
        if child not in without and isinstance(child.tag, str):
            yield from _texts(child, without)
        yield child.tail or ""


def integer(text: str | None, fallback: int) -> int:
    """The whole number that an attribute gives."""
    if text is None:
        return fallback
    try:
        return int(text)
    except ValueError:
        return fallback


CONTAINERS: Final = frozenset(("flex", "inline-flex", "grid", "inline-grid"))  # values of display


class PageSays:
    """What a box says to the page that it begins on."""

    __slots__ = ("bookmark", "counters", "number", "strings")

    def __init__(self) -> None:
        self.number: int | None = None  # that the page has from here on
        self.strings: list[tuple[str, str]] = []  # named strings, set here
        self.counters: dict[str, int] = {}  # as they are here, where an element moves them
        self.bookmark = ""  # its label, where it is another than the element's text


class Aside(NamedTuple):
    """What a box holds that has nothing in flow."""

    floats: bool = False
    clears: bool = False  # something of no height, below floats
    anchors: bool = False


class Box:
    """A box of the box tree. `element` is None for an anonymous box.

    A box is quiet where neither it nor any box in it stands out of the flow or over others, moves a
    counter, bears a name, or says anything else to its page: what asks for such things passes it by.
    """

    shrinks = False  # whether it is made smaller of itself before it would run off the page
    field: Field | None = None  # where it is a control that is filled in
    leads = False  # whether a break before its first part is one before itself (CSS Fragmentation 3 §3.1)

    __slots__ = (
        "adjoining",
        "aside",
        "basis",
        "children",
        "effects",
        "element",
        "forces",
        "is_item",
        "link",
        "marker",
        "moves",
        "page",
        "part",
        "pictures",
        "quiet",
        "says",
        "style",
        "through",
        "widths",
    )

    def __init__(self, style: ComputedStyle, element: Element | None, children: list[Box]) -> None:
        self.style = style
        self.element = element
        self.children = children
        self.link: Element | None = None  # the inline link that it stands in, where it is not among its text
        self.marker: Box | None = None
        self.quiet = False
        self.is_item = False  # whether it is laid out on its own: an item, or out of the flow
        self.moves = False  # whether text stands in it that hangs on where it, or another element, stands
        self.page = ""  # the name of the page that it wants to stand on
        self.part: Place | RowModel | Artifact | None = None  # of the document, once that is asked for
        self.says: PageSays | None = None
        self.pictures: dict[str, Picture | Drawing] | None = None  # of its backgrounds, by address
        self.effects: dict[str, Effect] | None = None  # that its style names, by id
        self.basis: float | None = None  # what its paddings in percent refer to, once it is laid out
        self.widths: tuple[float, float] | None = None  # min-content and max-content, once they are measured
        self.through: bool | None = None  # whether its margins adjoin, once that is asked
        self.aside: Aside | None = None  # what stands in it where its margins adjoin, once that is asked
        self.adjoining: dict[tuple[str, float, bool], tuple[float, float]] | None = None  # those margins, where they do
        self.forces: bool | None = None  # whether a forced break stands in it, once that is asked

    @property
    def parts(self) -> Sequence[Box]:
        """The boxes in it between which, and in which, a page may end."""
        return self.children

    @property
    def inside(self) -> Sequence[Box]:
        """All boxes that stand in it, wherever they are kept."""
        return self.children

    def forget(self) -> None:
        """Drops what it keeps of its measures: what it holds, or its style, is another from now on."""
        self.widths = None
        self.through = self.aside = None
        self.adjoining = None


class BlockBox(Box):
    """A block container whose children are all block-level."""

    leads = True
    __slots__ = ()


class FieldsetBox(BlockBox):
    """A block whose `legend` stands on its upper border; `plain` is its style before it has made room for that."""

    leads = False
    __slots__ = ("legend", "plain")

    def __init__(self, style: ComputedStyle, element: Element | None, children: list[Box], legend: Box) -> None:
        super().__init__(style, element, children)
        self.legend = legend
        self.plain = style

    @property
    def inside(self) -> Sequence[Box]:
        return [self.legend, *self.children]


class TurnedBox(Box):
    """Content that stands on its side: `inner` as it would stand upright, `mode` a value of writing-mode."""

    __slots__ = ("inner", "mode")

    def __init__(self, style: ComputedStyle, inner: Box, mode: str) -> None:
        super().__init__(style, None, [])
        self.inner = inner
        self.mode = mode

    @property
    def inside(self) -> Sequence[Box]:
        return [self.inner]


class ColumnsBox(Box):
    """A multi-column container; its children are block-level. `spanners` are those that span all columns."""

    __slots__ = ("spanners",)

    def __init__(self, style: ComputedStyle, element: Element | None, children: list[Box]) -> None:
        super().__init__(style, element, children)
        self.spanners: list[int] | None = None


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

    @property
    def inside(self) -> Sequence[Box]:
        return [self.target]


class PlaceBox(AnchorBox):
    """The place of an element that holds nothing but bears a name which links and references lead to."""

    __slots__ = ()

    def __init__(self, style: ComputedStyle, element: Element, target: Box) -> None:
        super().__init__(style, "place", target, inline=True)
        self.element = element


class PictureBox(Box):
    """A replaced element that shows a picture or a drawing; `picture` is None where there is none to show."""

    __slots__ = ("alternative", "picture", "remarked")

    def __init__(
        self, style: ComputedStyle, element: Element | None, picture: Picture | Drawing | None, alternative: str
    ) -> None:
        super().__init__(style, element, [])
        self.picture = picture
        self.alternative = alternative
        self.remarked = False  # whether its coarseness has been pointed out


class MarkBox(PictureBox):
    """A control that is drawn, such as a box to tick: it stands on its lower edge, or `below` px lower. `other` shows
    the other of its two states, where it is filled in."""

    __slots__ = ("below", "field", "other")

    def __init__(
        self, style: ComputedStyle, element: Element | None, picture: Drawing, alternative: str, below: float = 0.0
    ) -> None:
        super().__init__(style, element, picture, alternative)
        self.below = below
        self.field: Field | None = None
        self.other: Drawing | None = None


class FrameBox(PictureBox):
    """What would show something of its own on a screen: it has a size, but no ratio to keep."""

    __slots__ = ()


class ColumnBox(Box):
    """A column or a group of columns: `span` columns share the style. `around` is the style of the group that a column
    is in."""

    __slots__ = ("around", "span")

    def __init__(self, style: ComputedStyle, element: Element | None, span: int) -> None:
        super().__init__(style, element, [])
        self.span = span
        self.around: ComputedStyle | None = None


class RowGroupBox(Box):
    """A row group; `role` is 'head', 'body' or 'foot'. Its children are rows."""

    leads = True
    __slots__ = ("role",)

    def __init__(self, style: ComputedStyle, element: Element | None, role: str) -> None:
        super().__init__(style, element, [])
        self.role = role


class RowBox(Box):
    """A table row. Its children are cells."""

    __slots__ = ()


class CellBox(BlockBox):
    """A table cell around its block-level content. `edges` are its halves of the borders that it shares."""

    leads = False
    __slots__ = ("column_span", "edges", "row_span")

    def __init__(
        self,
        style: ComputedStyle,
        element: Element | None,
        children: list[Box],
        column_span: int,
        row_span: int,
    ) -> None:
        super().__init__(style, element, children)
        self.edges: Edges | None = None
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
    """The number of the page that the text is on, or of all pages: known only where it is laid out.

    So is the number of a footnote where pages count them anew; `place` is which one of all it is.
    """

    __slots__ = ("counter", "place")

    def __init__(self, style: ComputedStyle, element: Element | None, counter: Counter) -> None:
        super().__init__(style, element, "")
        self.counter = counter
        self.place = 0


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
