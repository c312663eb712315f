"""From the box tree to a document as it flows."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Final, NamedTuple

from fleetquill.deadline import heed
from fleetquill.layout.block.breaks import FORCED_ANYWHERE
from fleetquill.layout.block.replaced import used_size
from fleetquill.layout.boxes.boxes import (
    AnchorBox,
    Box,
    BreakBox,
    CellBox,
    ColumnsBox,
    Element,
    FieldsetBox,
    InlineBox,
    LeaderBox,
    PageCounterBox,
    PictureBox,
    PlaceBox,
    RowBox,
    RowGroupBox,
    TallyBox,
    TargetBox,
    TextBox,
    TurnedBox,
    integer,
)
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.sizing import edges_of, own_width
from fleetquill.layout.contract.space import Space
from fleetquill.layout.inline.boxes import ControlBox, LinesBox
from fleetquill.layout.items.boxes import FlexBox, GridBox, ItemsBox
from fleetquill.layout.table.boxes import LedgerBox, TableBox
from fleetquill.layout.table.geometry import contributions_of, geometry_of
from fleetquill.layout.table.slots import group_places
from fleetquill.layout.table.tallies import TallyView
from fleetquill.structure.flow import (
    Beside,
    Block,
    Columns,
    Contents,
    FlowCell,
    FlowRow,
    Frame,
    Inset,
    Leader,
    LineBreak,
    Marker,
    NoteCall,
    PageBreak,
    PageField,
    PageReference,
    Paragraph,
    Piece,
    Place,
    Rule,
    Sheet,
    Table,
    Text,
)
from fleetquill.style import generated
from fleetquill.style.lengths import resolve_auto
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.text_values import COLLAPSING
from fleetquill.text.casing import transform

MOST_ROWS: Final = 1 << 20
SPACE: Final = re.compile(r"[ \t\n\r\f]+")
HEADINGS: Final = {f"h{level}": level for level in range(1, 7)}
SHOWN: Final = ("every", "last")  # rows that are in a table as such, and not only where pages break
UNSEEN: Final = str.maketrans("", "", "\u200b\ufeff\u2060")  # where lines may break or not: none of it is text
LEDGER_ROWS: Final = (2, 1)  # of a prototype: how odd rows look, and even ones


class Around(NamedTuple):
    """What the elements around a piece of text give it."""

    link: str = ""
    rise: str = ""
    lines: tuple[str, ...] = ()


NOTHING: Final = Around()


class FlowBuilder:
    """Goes through a box tree once."""

    def __init__(self, context: Context) -> None:
        self._context = context
        self._places: list[str] = []  # names that wait for the next paragraph
        self._depth = 0  # of lists
        self._ordinals: dict[int, int] = {}  # of the last item, by that depth
        self._sheet = ""
        self._left = self._right = 0.0  # px that the elements around take at either side
        self._around = NOTHING  # what links around blocks say of the text in them

    def blocks(self, box: Box, width: float) -> Iterator[Block]:
        """The blocks of a box that has `width` px, with the breaks around it."""
        heed()
        style = box.style
        if style.visibility == "hidden" or box.__class__ is AnchorBox:
            if isinstance(box, AnchorBox):
                yield from self._anchored(box, width)
            return
        if box.page != self._sheet and box.element is not None and not isinstance(box, (RowGroupBox, RowBox)):
            self._sheet = box.page
            yield Sheet(box.page)
        elif style.break_before in FORCED_ANYWHERE:
            yield _break(style.break_before)
        self._name(box)
        around, self._around = self._around, self._around._replace(link=_link_of(box.element) or self._around.link)
        yield from self._block(box, width)
        self._around = around
        if style.break_after in FORCED_ANYWHERE:
            yield _break(style.break_after)

    def _name(self, box: Box) -> None:
        element = box.element
        if element is not None and element.get("id"):
            self._places.append(element.get("id", ""))

    def _anchored(self, box: AnchorBox, width: float) -> Iterator[Block]:
        """What was taken out of the flow stands where it was written; running elements are the margins'."""
        if box.kind in ("absolute", "area float"):
            yield from self.blocks(box.target, width)

    def _block(self, box: Box, width: float) -> Iterator[Block]:
        if box.element is not None and box.element.tag == "hr":
            yield Rule(box.style)
        elif isinstance(box, LinesBox):
            yield from self._paragraph(box, width)
        elif isinstance(box, LedgerBox):
            yield self._ledger(box, width)
        elif isinstance(box, TableBox):
            yield self._table(box, width)
        elif isinstance(box, PictureBox):
            yield self._framed_paragraph(box, [self._inset(box, width, self._around)], width)
        elif isinstance(box, ControlBox):
            yield from self.blocks(box.content, width)
        elif isinstance(box, TurnedBox):
            yield from self.blocks(box.inner, width)
        elif isinstance(box, ItemsBox):
            yield from self._framed(box, self._items(box, self._inner(box, width)), width)
        elif isinstance(box, ColumnsBox):
            yield from self._columns(box, width)
        elif box.element is not None and box.element.tag == "fq-contents":
            levels = box.element.get("levels", "2")
            yield Contents(int(levels) if levels.isdecimal() else 2, list(self._children(box, self._inner(box, width))))
        else:
            yield from self._framed(box, self._children(box, self._inner(box, width)), width)

    @contextmanager
    def _apart(self) -> Iterator[None]:
        """What is gone through meanwhile stands in a room of its own: what is around takes nothing of it."""
        left, right = self._left, self._right
        self._left = self._right = 0.0
        yield
        self._left, self._right = left, right

    def _inner(self, box: Box, width: float) -> float:
        """The width of what stands in a box."""
        style = box.style
        edges = edges_of(style, width)
        own = own_width(style, width, edges.across)
        margins = sum(resolve_auto(m, width) or 0.0 for m in (style.margin_left, style.margin_right))
        return max(1.0, (width - margins if own is None else own) - edges.across)

    def _children(self, box: Box, width: float) -> Iterator[Block]:
        is_list = box.element is not None and box.element.tag in ("ul", "ol", "menu")
        self._depth += is_list
        if isinstance(box, FieldsetBox):
            yield from self.blocks(box.legend, width)
        starts = True
        for child in box.children:
            if child.marker is not None:
                yield from self._marked(child, width, starts=starts)
                starts = False
            else:
                yield from self.blocks(child, width)
        self._depth -= is_list

    def _marked(self, box: Box, width: float, *, starts: bool) -> Iterator[Block]:
        """A list's item: its first paragraph has the marker."""
        assert box.marker is not None
        text = "".join(piece.text for piece in self._pieces(box.marker, width) if isinstance(piece, Text)).strip()
        marker = Marker(
            text,
            max(0, self._depth - 1),
            self._ordinal(box.element, starts=starts),
            str(box.style.list_style_type),
            starts,
        )
        waiting: Marker | None = marker
        for block in self.blocks(box, width):
            if waiting is not None and isinstance(block, Paragraph) and block.marker is None:
                block.marker, waiting = marker, None
            yield block
        if waiting is not None:
            yield Paragraph(box.style, [], "li", marker=marker)

    def _ordinal(self, element: Element | None, *, starts: bool) -> int | None:
        """What number an item of an ordered list has (HTML §4.4.5); None in other lists."""
        parent = element.getparent() if element is not None else None
        if element is None or parent is None or parent.tag != "ol":
            return None
        first = integer(parent.get("start"), 1)
        number = first if starts else self._ordinals.get(self._depth, first - 1) + 1
        self._ordinals[self._depth] = integer(element.get("value"), number)
        return self._ordinals[self._depth]

    def _framed(self, box: Box, blocks: Iterator[Block], width: float) -> Iterator[Block]:
        """The blocks of a box, in a frame where it has a ground or a border."""
        style = box.style
        element = box.element
        edges = edges_of(style, width)
        if element is not None and element.tag not in ("html", "body") and _is_framed(style):
            with self._apart():
                inner = list(blocks)
            yield Frame(style, edges, self._inner(box, width) + edges.across, inner, element.tag)
            return
        left = edges.left + (resolve_auto(style.margin_left, width) or 0.0)
        right = edges.right + (resolve_auto(style.margin_right, width) or 0.0)
        if element is not None and element.tag in ("html", "body"):
            left = right = 0.0
        self._left, self._right = self._left + left, self._right + right
        yield from blocks
        self._left, self._right = self._left - left, self._right - right

    def _columns(self, box: ColumnsBox, width: float) -> Iterator[Block]:
        style = box.style
        count = style.column_count if isinstance(style.column_count, int) else 2
        gap = resolve_auto(style.column_gap, width)
        yield Columns(count, style.font_size if gap is None else gap)
        yield from self._children(box, width)
        yield Columns(1, 0.0)

    def _items(self, box: ItemsBox, width: float) -> Iterator[Block]:
        """Items beside one another, or one below the other."""
        items = sorted(box.children, key=lambda child: child.style.order)
        across = _columns_of(box, width, len(items))
        if across == 1:
            for item in items:
                yield from self.blocks(item, width)
        else:
            for start in range(0, len(items), across):
                row = items[start : start + across]
                shares = self._shares(row, width)
                with self._apart():
                    found = [(share, list(self.blocks(item, share))) for item, share in zip(row, shares, strict=True)]
                if any(blocks for _, blocks in found):
                    yield Beside(box.style, found)
        for anchor in box.anchors:
            yield from self._anchored(anchor, width)

    def _shares(self, items: Sequence[Box], width: float) -> list[float]:
        """How wide items are beside one another: as they ask, and what is left in equal parts."""
        asked = [resolve_auto(item.style.width, width) for item in items]
        left = max(0.0, width - sum(filter(None, asked)))
        free = asked.count(None)
        shares = [left / free if own is None else own for own in asked]
        total = sum(shares)
        return [share * width / total for share in shares] if total > width else shares

    # ---- lines ----

    def _paragraph(self, box: LinesBox, width: float) -> Iterator[Block]:
        pieces = _folded(list(self._pieces(box, width, self._around)), box.style)
        if not pieces:
            return
        yield self._framed_paragraph(box, pieces, width)

    def _framed_paragraph(self, box: Box, pieces: list[Piece], width: float) -> Paragraph:
        names, self._places = self._places, []
        tag = str(box.element.tag) if box.element is not None else ""
        left, right = (resolve_auto(m, width) or 0.0 for m in (box.style.margin_left, box.style.margin_right))
        if not _is_framed(box.style):
            edges = edges_of(box.style, width)
            left, right = left + edges.left, right + edges.right
        left, right = self._left + left, self._right + right
        return Paragraph(box.style, [*map(Place, names), *pieces], tag, HEADINGS.get(tag, 0), None, left, right)

    def _pieces(self, box: Box, width: float, around: Around = NOTHING) -> Iterator[Piece]:
        """The pieces of the children of a box."""
        children = list(box.children)
        index = 0
        while index < len(children):
            child = children[index]
            after = children[index + 1] if index + 1 < len(children) else None
            if isinstance(after, AnchorBox) and after.kind == "footnote" and isinstance(child, InlineBox):
                yield self._note(child, after, width)
                index += 2
                continue
            yield from self._piece(child, width, around)
            index += 1

    def _note(self, call: InlineBox, anchor: AnchorBox, width: float) -> NoteCall:
        mark = "".join(piece.text for piece in self._pieces(call, width) if isinstance(piece, Text))
        with self._apart():
            note = list(self.blocks(anchor.target, width))
        first = note[0] if note else None
        if isinstance(first, Paragraph) and first.pieces and isinstance(first.pieces[0], Text):
            opening = first.pieces[0]
            if opening.text.strip() == mark.strip() and opening.style is not first.style:
                own = [
                    piece for piece in first.pieces if not (isinstance(piece, Text) and piece.style is opening.style)
                ]
                first.pieces = _folded(own, first.style)
        return NoteCall(mark, call.style, note)

    def _piece(self, box: Box, width: float, around: Around) -> Iterator[Piece]:
        style = box.style
        if style.visibility == "hidden":
            return
        if isinstance(box, PageCounterBox) and box.counter.name in ("page", "pages"):
            yield PageField(box.counter.name, style)
        elif isinstance(box, LeaderBox):
            yield Leader(box.text, style)
        elif isinstance(box, TargetBox):
            yield self._reference(box, around)
        elif isinstance(box, (PageCounterBox, TallyBox)):
            yield Text(self._context.moving_text(box), style, *_of(around, style))
        elif isinstance(box, TextBox):
            text = transform(box.text, style.text_transform, style.language).translate(UNSEEN)
            if text:
                yield Text(text, style, *_of(around, style))
        elif isinstance(box, BreakBox):
            yield LineBreak()
        elif isinstance(box, PlaceBox):
            yield from self._named(box)
        elif isinstance(box, AnchorBox):
            if box.kind in ("absolute", "area float"):
                yield from self._flattened(self.blocks(box.target, width))
        elif isinstance(box, PictureBox):
            yield self._inset(box, width, around)
        elif isinstance(box, InlineBox):
            yield from self._named(box)
            yield from self._pieces(box, width, _inside(box, around))
        else:
            yield from self._flattened(self.blocks(box, width))

    def _named(self, box: Box) -> Iterator[Piece]:
        element = box.element
        name = "" if element is None else element.get("id") or (element.get("name") if element.tag == "a" else None)
        if name:
            yield Place(name)

    def _reference(self, box: TargetBox, around: Around) -> Piece:
        target = box.target
        text = self._context.moving_text(box)
        if target.part != "counter" or target.name != "page":
            return Text(text, box.style, *_of(around, box.style))
        address = target.address
        if isinstance(address, generated.Attribute):
            address = box.element.get(address.name, "") if box.element is not None else ""
        return PageReference(address.strip().removeprefix("#"), text, box.style, around.link)

    def _inset(self, box: PictureBox, width: float, around: Around) -> Inset:
        wide, high = used_size(box, width, None, edges_of(box.style, width))
        return Inset(box.picture, wide, high, box.alternative, box.style, around.link)

    def _flattened(self, blocks: Iterator[Block]) -> Iterator[Piece]:
        """Blocks that stand in a line, as pieces of it."""
        is_first = True
        for block in blocks:
            for paragraph in _paragraphs(block):
                if not is_first:
                    yield LineBreak()
                is_first = False
                yield from paragraph.pieces

    # ---- tables ----

    def _table(self, box: TableBox, width: float) -> Table:
        space = Space(self._context, width, None)
        geometry = geometry_of(box, space)
        caption = [block for child in box.children for block in self.blocks(child, width)]
        name = "".join(block.text for block in caption if isinstance(block, Paragraph))
        names, self._places = self._places, []
        table = Table(box.style, list(geometry.widths), list(self._rows(box, geometry.widths)), caption, name)
        if names:
            table.caption = [Paragraph(box.style, [*map(Place, names)]), *caption]
        return table

    def _rows(self, box: TableBox, widths: Sequence[float]) -> Iterator[FlowRow]:
        contributions = contributions_of(box, self._context)
        number = 0
        groups = sorted(box.groups, key=lambda group: ("head", "body", "foot").index(group.role))
        grid = box.grid
        for group in groups:
            count = len(group.children)
            if group.style.fq_show_on in SHOWN and group.style.display != "none":
                for index, row in enumerate(group.children):
                    if row.style.fq_show_on in SHOWN:
                        heed()
                        if contributions.any and grid is not None:
                            span = grid.group_range(number + index)
                            self._context.tallies = contributions.view(0, number + index + 1, span)
                        yield self._row(row, group.role, widths, count - index)
            number += count

    def _row(self, row: Box, role: str, widths: Sequence[float], left: int = MOST_ROWS) -> FlowRow:
        """A row; no cell of it reaches beyond the `left` rows of its group."""
        cells = [self._cell(cell, widths, left) for cell in row.children if isinstance(cell, CellBox)]
        return FlowRow(role, cells, row.style)

    def _cell(self, cell: CellBox, widths: Sequence[float], left: int) -> FlowCell:
        width = sum(widths[: cell.column_span]) if widths else 100.0  # what shares in it are of
        edges = edges_of(cell.style, width)
        inner = max(1.0, width - edges.across)
        self._name(cell)
        with self._apart():
            blocks = list(self._children(cell, inner))
        is_head = cell.element is not None and cell.element.tag == "th"
        down = min(cell.row_span or left, left)
        return FlowCell(cell.style, blocks, edges, cell.column_span, down, is_head)

    def _ledger(self, box: LedgerBox, width: float) -> Table:
        prototype = box.prototype
        self._context.tallies = box.stream.widest()
        geometry = geometry_of(prototype, Space(self._context, width, None))
        caption = [block for child in prototype.children for block in self.blocks(child, width)]
        return Table(prototype.style, list(geometry.widths), self._ledger_rows(box, geometry.widths), caption)

    def _ledger_rows(self, box: LedgerBox, widths: Sequence[float]) -> Iterator[FlowRow]:
        """The rows of a ledger: its prototype says how each kind looks."""
        groups, stream = box.prototype.groups, box.stream
        bodies = [row for group in groups if group.role == "body" for row in group.children]
        for group in groups:
            if group.role == "head" and group.style.fq_show_on in SHOWN:
                yield from (self._row(row, "head", widths) for row in group.children)
        levels, places = stream.plan.groups, group_places(stream.plan.groups)
        number = 0
        while (texts := stream.text(number)) is not None:
            if levels:
                yield from self._summaries(box, bodies, number)
                for level in range(stream.begins(number), len(levels)):
                    if levels[level].facts.heads:
                        yield self._filled(bodies[places.heading[level]], [stream.heading(number, level)])
            model = bodies[LEDGER_ROWS[number % 2]]
            cells = [_text_cell(cell, text) for cell, text in zip(model.children, texts, strict=True)]
            yield FlowRow("body", cells, model.style)
            number += 1
            stream.forget(number)
        yield from self._summaries(box, bodies, number)
        for group in groups:
            if group.role == "foot" and group.style.fq_show_on in SHOWN:
                for row in group.children:
                    sums = stream.sums(number)
                    self._context.tallies = TallyView({}, sums, {}, sums)
                    yield self._row(row, "foot", widths)

    def _summaries(self, box: LedgerBox, bodies: Sequence[Box], number: int) -> Iterator[FlowRow]:
        """The rows after the groups that end before a row."""
        stream = box.stream
        places = group_places(stream.plan.groups).summary
        for summary in stream.summaries(number):
            yield self._filled(bodies[places[summary.level, summary.kind]], stream.cells(summary))

    def _filled(self, row: Box, texts: Sequence[str]) -> FlowRow:
        cells = [_text_cell(cell, text) for cell, text in zip(row.children, texts, strict=True)]
        return FlowRow("body", cells, row.style)


def _text_cell(box: Box, text: str) -> FlowCell:
    """A cell that looks like a prototype's and says something else."""
    assert isinstance(box, CellBox)
    style = box.children[0].style if box.children else box.style
    pieces: list[Piece] = []
    for number, line in enumerate(text.split("\n")):
        pieces += [LineBreak()] * bool(number) + ([Text(line, style)] if line else [])
    is_head = box.element is not None and box.element.tag == "th"
    blocks = [Paragraph(style, pieces)] if pieces else []
    return FlowCell(box.style, blocks, edges_of(box.style, 0.0), box.column_span, box.row_span, is_head)


def _is_framed(style: ComputedStyle) -> bool:
    """Whether a box has a ground or a border of its own."""
    borders = (style.border_top_width, style.border_right_width, style.border_bottom_width, style.border_left_width)
    return style.background_color.alpha > 0 or style.has_background_pictures or any(borders)


def _break(value: str) -> PageBreak:
    return PageBreak(value if value in ("left", "right") else "")


def _columns_of(box: ItemsBox, width: float, items: int) -> int:
    """How many items of a container stand beside one another."""
    style = box.style
    if isinstance(box, FlexBox):
        if style.flex_direction.startswith("column"):
            return 1
        if style.flex_wrap == "nowrap":
            return max(1, items)
        asked = [resolve_auto(child.style.width, width) or 0.0 for child in box.children]
        widest = max(asked, default=0.0)
        return max(1, min(items, int(width / widest))) if widest else max(1, items)
    assert isinstance(box, GridBox)
    tracks = style.grid_template_columns
    return max(1, len(tracks)) if tracks else 1


def _inside(box: InlineBox, around: Around) -> Around:
    """What an inline element adds to what is around it."""
    style, element = box.style, box.element
    rise = around.rise
    if style.vertical_align in ("super", "sub"):
        rise = str(style.vertical_align)
    lines = tuple(dict.fromkeys((*around.lines, *style.text_decoration_line)))
    return Around(_link_of(element) or around.link, rise, lines)


def _link_of(element: Element | None) -> str:
    """Where a link leads; '' where an element is none."""
    return element.get("href", "").strip() if element is not None and element.tag == "a" else ""


def _of(around: Around, style: ComputedStyle) -> tuple[str, str, tuple[str, ...]]:
    return around.link, around.rise, tuple(dict.fromkeys((*around.lines, *style.text_decoration_line)))


def _paragraphs(block: Block) -> Iterator[Paragraph]:
    """All paragraphs in a block, in order."""
    if isinstance(block, Paragraph):
        yield block
    elif isinstance(block, Frame):
        for inner in block.blocks:
            yield from _paragraphs(inner)
    elif isinstance(block, Beside):
        for _, blocks in block.items:
            for inner in blocks:
                yield from _paragraphs(inner)
    elif isinstance(block, Table):
        for row in block.rows:
            for cell in row.cells:
                for inner in cell.blocks:
                    yield from _paragraphs(inner)


def _folded(pieces: list[Piece], style: ComputedStyle) -> list[Piece]:
    """White space as lines show it (CSS Text 3 §4.1): folded, and none at a line's ends, where it does not stay."""
    found: list[Piece] = []
    at_start = True
    for piece in pieces:
        if isinstance(piece, Text) and piece.style.white_space in COLLAPSING:
            text = piece.text
            if piece.style.white_space == "pre-line":
                found += _lines(piece)
                at_start = False
                continue
            text = SPACE.sub(" ", text)
            if at_start:
                text = text.lstrip(" ")
            if text:
                found.append(piece._replace(text=text))
                at_start = text.endswith(" ")
        elif isinstance(piece, Text):
            found += _lines(piece)
            at_start = False
        else:
            found.append(piece)
            if not isinstance(piece, Place):
                at_start = isinstance(piece, LineBreak)
            if isinstance(piece, LineBreak):
                _strip_end(found, len(found) - 1)
    _strip_end(found, len(found))
    if found and isinstance(found[-1], LineBreak):  # the last break of a block ends its line and no more
        found.pop()
    return found if any(not isinstance(piece, Place) for piece in found) else []


def _lines(piece: Text) -> list[Piece]:
    """Text whose line feeds are kept."""
    found: list[Piece] = []
    for number, line in enumerate(piece.text.replace("\r\n", "\n").split("\n")):
        if number:
            found.append(LineBreak())
        if piece.style.white_space == "pre-line":
            line = SPACE.sub(" ", line).strip(" ")
        if line:
            found.append(piece._replace(text=line))
    return found


def _strip_end(pieces: list[Piece], end: int) -> None:
    """Takes the space off the end of the line that ends before `end`."""
    if end and isinstance(last := pieces[end - 1], Text) and last.style.white_space in COLLAPSING:
        text = last.text.rstrip(" ")
        pieces[end - 1 : end] = [last._replace(text=text)] if text else []
