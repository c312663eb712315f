"""A document as it flows: headings, paragraphs, lists, tables and pictures, for files that no page holds.

Styles are the computed ones; lengths are px.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Literal, NamedTuple

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.pictures import Picture
from fleetquill.layout.contract.sizing import Edges
from fleetquill.style.properties import ComputedStyle

# ---- pieces of a line ----


class Text(NamedTuple):
    """Text in one style; `rise` is 'super', 'sub' or '', `lines` those that are drawn along it."""

    text: str
    style: ComputedStyle
    link: str = ""
    rise: str = ""
    lines: tuple[str, ...] = ()


class LineBreak(NamedTuple):
    """A forced line break."""


class Inset(NamedTuple):
    """A picture in a line, of that size; None where it could not be shown."""

    picture: Picture | Drawing | None
    width: float
    height: float
    alternative: str
    style: ComputedStyle
    link: str = ""


class PageField(NamedTuple):
    """The number of the page that it stands on, or of all pages ('pages')."""

    name: str
    style: ComputedStyle


class PageReference(NamedTuple):
    """The number of the page on which a place stands, and what it was when the document was laid out."""

    place: str
    text: str
    style: ComputedStyle
    link: str = ""


class Leader(NamedTuple):
    """A pattern up to the line's end, or up to what stands there."""

    pattern: str
    style: ComputedStyle


class NoteCall(NamedTuple):
    """Where a footnote is called: the mark that pages show, and the note."""

    mark: str
    style: ComputedStyle
    note: Sequence[Block]


class Place(NamedTuple):
    """A name that links lead to."""

    name: str


Piece = Text | LineBreak | Inset | PageField | PageReference | Leader | NoteCall | Place


# ---- blocks ----


class Marker(NamedTuple):
    """What stands before a list's item; `level` counts the lists around it from 0, `number` is None for a bullet."""

    text: str
    level: int
    number: int | None
    style: str  # a value of list-style-type
    starts: bool  # whether the item is its list's first


@dataclass(slots=True)
class Paragraph:
    """Lines of text. `level` is that of a heading from 1, else 0; `tag` is the element's, '' for none."""

    style: ComputedStyle
    pieces: list[Piece]
    tag: str = ""
    level: int = 0
    marker: Marker | None = None
    left: float = 0.0  # px from the left edge of what is around, and from the right one
    right: float = 0.0

    @property
    def text(self) -> str:
        """What it says, without its notes."""
        return "".join(
            piece.text if isinstance(piece, (Text, PageReference)) else "\n" if isinstance(piece, LineBreak) else ""
            for piece in self.pieces
        )


def begins_list(before: Paragraph, after: Paragraph) -> bool:
    """Whether a list begins with a paragraph that is no part of the one before."""
    if after.marker is None or not after.marker.starts:
        return False
    return before.marker is None or after.marker.level <= before.marker.level


class FlowCell(NamedTuple):
    """A cell of a table; `edges` are its paddings and borders, None where it has none."""

    style: ComputedStyle
    blocks: Sequence[Block]
    edges: Edges | None = None
    across: int = 1
    down: int = 1
    is_head: bool = False


class FlowRow(NamedTuple):
    role: str  # 'head', 'body' or 'foot'
    cells: Sequence[FlowCell]
    style: ComputedStyle


@dataclass(slots=True)
class Table:
    """A table; its rows may come in a stream. `columns` are widths in px."""

    style: ComputedStyle
    columns: Sequence[float]
    rows: Iterable[FlowRow]
    caption: Sequence[Block] = ()
    name: str = ""


@dataclass(slots=True)
class Beside:
    """Things that stand side by side, each with its share of the width in px."""

    style: ComputedStyle
    items: Sequence[tuple[float, Sequence[Block]]]


@dataclass(slots=True)
class Frame:
    """Blocks with a ground or a border around them."""

    style: ComputedStyle
    edges: Edges
    width: float
    blocks: Sequence[Block]
    tag: str = ""


@dataclass(slots=True)
class Contents:
    """A list of the headings down to a level, with the pages that they are on."""

    levels: int
    blocks: Sequence[Block]


@dataclass(slots=True)
class Rule:
    """A line across."""

    style: ComputedStyle


class PageBreak(NamedTuple):
    """What follows begins on a new page; `side` is 'left', 'right' or ''."""

    side: str = ""


class Sheet(NamedTuple):
    """What follows stands on pages of that name; '' for those that have none."""

    name: str


class Columns(NamedTuple):
    """What follows stands in so many columns, one for none."""

    number: int
    gap: float


Block = Paragraph | Table | Beside | Frame | Contents | Rule | PageBreak | Sheet | Columns


class PageSides(NamedTuple):
    """What stands in the margins above or below a page: at the left, in the middle, at the right."""

    left: Sequence[Piece] = ()
    center: Sequence[Piece] = ()
    right: Sequence[Piece] = ()
    blocks: Sequence[Block] = ()  # running elements

    def __bool__(self) -> bool:
        return bool(self.left or self.center or self.right or self.blocks)


Which = Literal["first", "left", "right"]


class SheetKind(NamedTuple):
    """A kind of page: its size and margins in px, and what stands in them on the first, left and right ones."""

    width: float
    height: float
    top: float
    right: float
    bottom: float
    left: float
    heads: dict[Which, PageSides]
    feet: dict[Which, PageSides]

    @property
    def inner_width(self) -> float:
        return max(1.0, self.width - self.left - self.right)


@dataclass(slots=True)
class Flow:
    """A document from beginning to end, to be gone through once."""

    blocks: Iterator[Block]
    base: ComputedStyle  # of the body
    sheets: dict[str, SheetKind] = field(default_factory=dict)  # by the pages' name; '' is always there
    language: str = ""
    rtl: bool = False
