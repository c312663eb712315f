"""Box generation: from the element tree and its styles to the box tree (CSS Display 3 §2)."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Final

from lxml import etree

from fleetquill.deadline import heed
from fleetquill.errors import LimitError
from fleetquill.layout.block.breaks import FORCED_ANYWHERE
from fleetquill.layout.boxes.boxes import (
    CONTAINERS,
    AnchorBox,
    BlockBox,
    Box,
    BreakBox,
    CellBox,
    ColumnBox,
    Element,
    InlineBox,
    PageSays,
    PlaceBox,
    RowBox,
    RowGroupBox,
    TallyBox,
    TextBox,
    integer,
)
from fleetquill.layout.boxes.containers import Containers
from fleetquill.layout.boxes.controls import CONTROLS, Controls
from fleetquill.layout.boxes.fillable import field_of
from fleetquill.layout.boxes.generated_content import GeneratedContent
from fleetquill.layout.boxes.levels import BLANKS, is_blank, is_inline_level
from fleetquill.layout.boxes.markers import Markers, split_first_letter
from fleetquill.layout.boxes.moving_text import mark_moving_text
from fleetquill.layout.boxes.out_of_flow import OutOfFlow
from fleetquill.layout.boxes.rearranged import annotated, centred, lies_on_its_side, turned, turns, with_legend
from fleetquill.layout.boxes.replaced_elements import REPLACED, background_pictures, has_pictures, style_effects
from fleetquill.layout.boxes.styles import ElementStyles
from fleetquill.layout.boxes.table_fixup import TABLE_PARTS, cells_of, fill_table, rows_of, wrap_table_parts
from fleetquill.layout.boxes.text_cells import TextCellBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.findings import Built, Findings, PageBackground, Target
from fleetquill.layout.contract.sizing import edges_of
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.layout.inline.inline_items import edge_widths
from fleetquill.layout.items.boxes import FlexBox, GridBox, ItemsBox
from fleetquill.layout.table.boxes import LedgerBox, TableBox
from fleetquill.layout.table.row_stream import RowStream
from fleetquill.style import generated
from fleetquill.style.cascade import Cascade, MatchNode
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.text_values import COLLAPSING

BLOCKIFIED: Final = {  # CSS Display 3 §2.7
    "inline": "block",
    "inline-block": "block",
    "inline-flex": "flex",
    "inline-grid": "grid",
    "inline-table": "table",
    "table-row-group": "block",
    "table-header-group": "block",
    "table-footer-group": "block",
    "table-row": "block",
    "table-cell": "block",
    "table-column": "block",
    "table-column-group": "block",
    "table-caption": "block",
}
GROUP_ROLES: Final = {
    "table-header-group": "head",
    "table-row-group": "body",
    "table-footer-group": "foot",
}
MAY_BE_QUIET: Final = (BlockBox, LinesBox, InlineBox, RowGroupBox, RowBox, CellBox)


def build(root: Element, cascade: Cascade, context: Context, nesting: int) -> Built:
    """The box tree of a document, and what was found out. The root box is a block container.

    `context` holds what earlier layouts found out for references; what is found now is not put into it.
    """
    return _BoxBuilder(root, cascade, context, nesting).document()


class _BoxBuilder:
    def __init__(self, root: Element, cascade: Cascade, context: Context, nesting: int) -> None:
        self.root = root
        self.context = context
        self.nesting = nesting
        self.found = Findings()
        self.styles = ElementStyles(cascade, root)
        self.containers = Containers(cascade)
        self.content = GeneratedContent(context, self.found, restarts_notes=cascade.restarts_notes)
        self.counters = self.content.counters
        self.markers = Markers(self.styles, self.containers, self.content, context)
        self.out_of_flow = OutOfFlow(self.styles, self.containers, self.content, self.found)
        self.controls = Controls(self.containers, context)
        self.depth = 0
        self.strays: list[Box] = []  # anchors among the parts of a table, on their way out of it

    def document(self) -> Built:
        boxes = self._element(self.root, None, None)
        self._add_target_elements()
        if len(boxes) == 1 and type(boxes[0]) in (BlockBox, LinesBox):
            box = boxes[0]
        else:
            cascade = self.styles.cascade
            style = cascade.style(self.root, cascade.node(None, self.root), None, self.styles.siblings)
            box = self.containers.container(style, self.root, boxes)
        box.is_item = True  # the root's margins do not collapse with its children's
        self._take_canvas(box)
        if self.found.moving_text:
            mark_moving_text(box)
        return Built(box, self.found)

    def _lines_of(self, element: Element, style: ComputedStyle, texts: list[Box]) -> Box:
        """A box of lines for texts that stand out of the flow."""
        for text in texts:
            text.style = self.styles.anonymous(style, "inline")
        return LinesBox(style, element, texts)

    def _take_canvas(self, root: Box) -> None:
        """The background of the root, or else of the body, is that of the whole page (CSS Backgrounds 3 §2.11); what
        the first of them that says so does with content that is too tall, the pages do (CSS Overflow 3 §3.3)."""
        body = next((b for b in root.children if b.element is not None and b.element.tag == "body"), None)
        boxes = [root] if body is None else [root, body]
        clips = next((box for box in boxes if box.style.overflow != "visible"), None)
        if clips is not None:
            clips.style = ComputedStyle(clips.style.parent, {**clips.style.__dict__, "overflow": "visible"})
        painted = next((box for box in boxes if _has_background(box.style)), None)
        if painted is not None:
            self.found.background = PageBackground(painted.style, painted.pictures or {})
            painted.style = _without_background(painted.style)

    # ---- elements ----

    def _element(
        self,
        element: Element,
        parent_node: MatchNode | None,
        parent: ComputedStyle | None,
        *,
        item: bool = False,
    ) -> list[Box]:
        heed()
        cascade = self.styles.cascade
        node = cascade.node(parent_node, element)
        style = cascade.style(element, node, parent, self.styles.siblings)
        tag = element.tag
        if tag in ("br", "wbr") and style.display != "none":  # a break is no box, nor an item
            item = False
            if style.outside or style.float != "none" or style.display != "inline":
                plain = {"position": "static", "float": "none", "display": "inline", "outside": ""}
                style = ComputedStyle(style.parent, {**style.__dict__, **plain})
        display = style.display
        if display == "none":
            return []
        if style.break_before in FORCED_ANYWHERE or style.break_after in FORCED_ANYWHERE:
            self.found.breaks = True
        if (
            display == "table-cell"
            and tag in ("td", "th")
            and style.ordinary
            and style.writing_mode == "horizontal-tb"
            and not (item or node.adds_content or len(element))
        ):
            cell = self._text_cell(element, style)
            if cell is not None:
                return [cell]
        outside = style.outside if parent is not None and display != "contents" else ""
        if item or outside or style.float != "none":
            display = BLOCKIFIED.get(display, display)
        self.depth += 1
        if self.depth > self.nesting:
            where = self.context.services.place_of(element)
            raise LimitError(f"Elements are nested more than {self.nesting} deep.", where=where)
        if style.layered:
            self.found.note_layers(style)
        page_name = self.containers.page_name
        if style.page != "auto":
            self.containers.page_name = style.page
            self.found.named_pages = True
        if outside == "footnote":
            self.counters.increment([("footnote", 1)])
            self.content.notes.add(element)
        counted = None
        if not style.ordinary or display == "list-item":
            self.content.count(element, style)
            counted = self.content.own_counters(style) if style.counter_increment or style.counter_reset else None
        name = element.get("id") or (element.get("name") if tag == "a" else None)
        named = name is not None
        if name is not None:
            self._note_target(element, name)
        boxes = self._boxes(element, node, style, display, item=item)
        if named and len(boxes) == 1 and _is_nothing(boxes[0]):
            boxes = [PlaceBox(self.styles.anonymous(style, "block"), element, boxes[0])]
        if (outside or style.float != "none") and any(isinstance(box, TextBox) for box in boxes):
            boxes = [self._lines_of(element, style, boxes)]
        self.depth -= 1
        if boxes:
            if style.ordinary and not named and tag != "a":
                _quieten(boxes[0], element)
            if self.containers.page_name or not style.ordinary:
                self._note_page_marks(element, style, boxes, counted)
        self.containers.page_name = page_name
        if (item or outside) and display != "contents":
            for box in boxes:
                box.is_item = True
        if outside and parent is not None:
            return self.out_of_flow.anchors(element, node, style, parent, boxes)
        return boxes

    def _load_backgrounds(self, boxes: list[Box], style: ComputedStyle, element: Element) -> None:
        pictures = background_pictures(style, self.context, element)
        effects = style_effects(style, self.context, element)
        for box in boxes:
            box.pictures = pictures
            box.effects = effects

    def _note_page_marks(
        self, element: Element, style: ComputedStyle, boxes: list[Box], counted: dict[str, int] | None
    ) -> None:
        """What the box says to the pages that it stands on: their name, their number, counters, named strings."""
        if self.containers.page_name:
            for box in boxes:
                box.page = self.containers.page_name
        if style.ordinary:
            return
        boxes[0].quiet = False  # it may be a child's box, where this element has none
        if counted:
            says(boxes[0]).counters = counted
            self.found.page_marks = True
        if has_pictures(style):
            self._load_backgrounds(boxes, style, element)
        for name, value in (*style.counter_reset, *style.counter_set):
            if name == "page":
                says(boxes[0]).number = value
                self.found.page_marks = True
        if style.string_set:
            texts = [(name, self.content.string(content, style, element)) for name, content in style.string_set]
            says(boxes[0]).strings = texts
            self.found.page_marks = True
        if style.bookmark_level != "none":
            says(boxes[0]).bookmark = self.content.string(style.bookmark_label, style, element)

    def _note_target(self, element: Element, name: str) -> None:
        """Counters where an element stands that references may lead to."""
        if name not in self.found.targets:
            self.found.targets[name] = Target({}, self.counters.all(), element)

    def _add_target_elements(self) -> None:
        for target in self.found.targets.values():
            target.texts.update(self.content.texts_of(target.element))

    def _boxes(
        self, element: Element, node: MatchNode, style: ComputedStyle, display: str, *, item: bool = False
    ) -> list[Box]:
        maker = REPLACED.get(element.tag)
        if maker is not None:
            boxes = maker(self.context, element, style)
            if boxes is not None:
                return boxes
        if element.tag in CONTROLS:
            return self.controls.boxes(element, style, lambda: self._options(element, node, style))
        if element.tag == "fq-tally":
            return self.tally(element, style)
        if element.tag == "fq-ledger":
            return self._ledger(element, node, style)
        self.counters.enter()
        if display == "contents":
            boxes = self._children(element, node, style, items=item)
        else:
            boxes = self._boxes_of_content(element, node, style, display)
        self.counters.leave()
        return boxes

    def _boxes_of_content(self, element: Element, node: MatchNode, style: ComputedStyle, display: str) -> list[Box]:
        make = INTERNAL_TABLE.get(display)
        if make is not None:
            box = make(self, element, node, style)
            strays, self.strays = self.strays, []
            return [box, *strays]
        if display in CONTAINERS:
            container: ItemsBox = (FlexBox if display.endswith("flex") else GridBox)(style, element, [])
            container.children = self._items(element, node, style, container)
            return [container]
        marker = self.markers.of(element, node, style) if display == "list-item" else None
        children = self._children(element, node, style)
        if element.tag == "button" and display in ("block", "inline-block", "inline"):
            button = centred(self.containers, style, element, children)
            button.field = field_of(element, style, self.context)
            return [button]
        if element.tag == "ruby" and display == "inline":
            return [annotated(self.styles, self.containers, style, element, children)]
        if display == "inline":
            return self.containers.inline(style, element, children)
        if turns(style):
            children = self._turned(element, style, children)
            if style.width == "auto" and display == "block":  # as wide as its lines are high (Writing Modes 4 §7.3)
                style = ComputedStyle(style.parent, {**style.__dict__, "width": "fit-content"})
        if "first-letter" in node.pseudo:
            split_first_letter(self.styles, element, node, children, self.context)
        box = self.containers.container(style, element, children)
        if element.tag == "fieldset" and type(box) is BlockBox:
            box = with_legend(box)
        if "first-line" in node.pseudo and isinstance(box, LinesBox):
            box.first_line = self.styles.pseudo(element, node, "first-line", style)
        if marker is not None:
            self.markers.add(box, marker, element)
        return [box]

    def _options(self, element: Element, node: MatchNode, style: ComputedStyle) -> list[Box]:
        """The options of a list, one below the other."""
        return [box for box in self._children(element, node, style) if not is_inline_level(box)]

    def _children(self, element: Element, node: MatchNode, style: ComputedStyle, *, items: bool = False) -> list[Box]:
        """The boxes of an element's content, with ::before and ::after around it."""
        boxes = self._pseudo(element, node, style, "before", items) if node.adds_content else []
        structure = style.display in TABLE_STRUCTURE and style.white_space in COLLAPSING
        blanks: list[tuple[int, str]] = []  # between the parts of a table, with their places
        closed = element.tag == "details" and "open" not in element.attrib
        if element.text and not closed:
            if structure and not element.text.strip(BLANKS):
                blanks.append((len(boxes), element.text))
            else:
                boxes.append(TextBox(style, element, element.text))
        for child in _shown(element):
            if isinstance(child.tag, str):
                boxes += self._element(child, node, style, item=items)
            elif child.tag is etree.Entity and child.text:
                boxes.append(TextBox(style, element, child.text))
            tail = "" if closed else child.tail
            if tail:
                if structure and not tail.strip(BLANKS):
                    blanks.append((len(boxes), tail))
                else:
                    boxes.append(TextBox(style, element, tail))
        if node.adds_content:
            boxes += self._pseudo(element, node, style, "after", items)
        if style.display in TABLE_STRUCTURE and not all(isinstance(box, TABLE_PARTS) for box in boxes):
            for place, text in reversed(blanks):
                boxes.insert(place, TextBox(style, element, text))
            self.strays += [box for box in boxes if isinstance(box, AnchorBox)]
            boxes = [box for box in boxes if not isinstance(box, AnchorBox)]
        return boxes

    def _items(self, element: Element, node: MatchNode, style: ComputedStyle, container: ItemsBox) -> list[Box]:
        """Flex and grid items: runs of text become anonymous items, white space between them none (§4)."""
        items: list[Box] = []
        run: list[Box] = []
        children = wrap_table_parts(self.containers, self._children(element, node, style, items=True), style)
        anchors = [box for box in children if isinstance(box, AnchorBox)]
        if anchors:
            container.anchors = anchors
            children = [box for box in children if not isinstance(box, AnchorBox)]
        for box in [*children, None]:
            if isinstance(box, (TextBox, InlineBox, BreakBox)):
                run.append(box)
                continue
            if any(not is_blank(text) and not isinstance(text, BreakBox) for text in run):
                anonymous = self.containers.anonymous_lines(style, run)
                anonymous.is_item = True
                items.append(anonymous)
            run = []
            if box is not None:
                items.append(box)
        return items

    # ---- tables ----

    def _table(self, element: Element, node: MatchNode, style: ComputedStyle) -> Box:
        table = TableBox(style, element)
        fill_table(self.containers, table, self._children(element, node, style))
        return table

    def _group(self, element: Element, node: MatchNode, style: ComputedStyle) -> Box:
        group = RowGroupBox(style, element, GROUP_ROLES[style.display])
        group.children = rows_of(self.containers, self._children(element, node, style), style)
        return group

    def _row(self, element: Element, node: MatchNode, style: ComputedStyle) -> Box:
        return RowBox(style, element, cells_of(self.containers, self._children(element, node, style), style))

    def _cell(self, element: Element, node: MatchNode, style: ComputedStyle) -> Box:
        children = self._children(element, node, style)
        if turns(style):
            children = self._turned(element, style, children)
        content = self.containers.cell_content(style, children)
        return CellBox(style, element, content, *_spans(element))

    def _turned(self, element: Element, style: ComputedStyle, children: list[Box]) -> list[Box]:
        self.found.layered = True
        if any(lies_on_its_side(child, element) for child in children):
            message = "Text on its side is turned with all that stands in it: pictures and boxes of a size are, too."
            self.context.remark("style", message, element)
        return [turned(self.containers, style, children)]

    def _text_cell(self, element: Element, style: ComputedStyle) -> CellBox | None:
        """A cell that holds text and nothing else, as most do; None where it needs the long way."""
        text = element.text or ""
        if not text.strip(BLANKS):
            text = ""
        if self.depth >= self.nesting or not (text or style.white_space in COLLAPSING):
            return None
        name, page = element.get("id"), self.containers.page_name
        spans = _spans(element)
        if name is None and spans == (1, 1):
            return TextCellBox(style, element, text, self.styles.anonymous(style, "block"), page)
        content = [self.containers.anonymous_lines(style, [TextBox(style, element, text)])] if text else []
        cell = CellBox(style, element, [*content], *spans)
        cell.page, cell.quiet = page, name is None
        if name is not None:
            self._note_target(element, name)
        return cell

    def _column(self, element: Element, node: MatchNode, style: ComputedStyle) -> Box:
        span = min(max(1, integer(element.get("span"), 1)), 1000)
        column = ColumnBox(style, element, span)
        for inner in self._children(element, node, style):
            if isinstance(inner, ColumnBox):
                inner.around = style
                column.children.append(inner)
        return column

    def _ledger(self, element: Element, node: MatchNode, style: ComputedStyle) -> list[Box]:
        """A ledger: its prototype table is made of elements, its rows come later."""
        opened = self.context.services.open_ledger(element)
        self.styles.take_in(element)
        boxes = self._element(opened.table, node, style)
        prototype = boxes[0] if boxes else None
        if not isinstance(prototype, TableBox):
            return boxes
        return [LedgerBox(prototype, RowStream(opened.plan))]

    def tally(self, element: Element, style: ComputedStyle) -> list[Box]:
        """<fq-tally name scope form>: what -fq-tally() says in generated content, as an element."""
        scope = element.get("scope", "so-far")
        tally = generated.Tally(element.get("name", ""), scope, element.get("form", ""))
        if scope not in generated.TALLY_SCOPES:
            self.context.remark("tally", f"'{scope}' is not a scope of a tally.", element)
            return []
        self.found.moving_text = True
        return [TallyBox(style, element, tally)]

    # ---- generated content ----

    def _pseudo(self, element: Element, node: MatchNode, style: ComputedStyle, name: str, item: bool) -> list[Box]:
        if name not in node.pseudo:
            return []
        own = self.styles.pseudo(element, node, name, style)
        if own is None or own.content in ("normal", "none") or own.display == "none":
            return []
        self.content.count(element, own)
        if own.layered:
            self.found.note_layers(own)
        children = self.content.boxes(own, element)
        if style.string_set or style.bookmark_level != "none" or element.get("id"):
            self.content.said[element, name] = "".join([box.text for box in children if isinstance(box, TextBox)])
        blockified = item or bool(own.outside) or own.float != "none"
        display = BLOCKIFIED.get(own.display, own.display) if blockified else own.display
        if display == "inline":
            inline = InlineBox(own, None, children)
            if has_pictures(own):
                self._load_backgrounds([inline], own, element)
            return [inline]
        box: Box
        if display in CONTAINERS:
            items: list[Box] = [self.containers.anonymous_lines(own, children)] if children else []
            box = (FlexBox if display.endswith("flex") else GridBox)(own, None, items)
        elif display in ("table", "inline-table"):
            box = TableBox(own, None)
            fill_table(self.containers, box, children)
        else:
            box = self.containers.container(own, None, children)
        if has_pictures(own):
            self._load_backgrounds([box], own, element)
        if item or own.outside:
            box.is_item = True
        return self.out_of_flow.anchors(element, node, own, style, [box]) if own.outside else [box]


INTERNAL_TABLE: Final[dict[str, Callable[[_BoxBuilder, Element, MatchNode, ComputedStyle], Box]]] = {
    "table": _BoxBuilder._table,
    "inline-table": _BoxBuilder._table,
    "table-row-group": _BoxBuilder._group,
    "table-header-group": _BoxBuilder._group,
    "table-footer-group": _BoxBuilder._group,
    "table-row": _BoxBuilder._row,
    "table-cell": _BoxBuilder._cell,
    "table-column": _BoxBuilder._column,
    "table-column-group": _BoxBuilder._column,
}


TABLE_STRUCTURE: Final = frozenset(INTERNAL_TABLE) - {"table-cell"}

BACKGROUND_FIELDS: Final = tuple(field for field in dir(ComputedStyle) if field.startswith("background_"))


def _shown(element: Element) -> Iterable[Element]:
    """An element's children; of details that are closed, the first summary (HTML §15.5.6)."""
    if element.tag == "details" and "open" not in element.attrib:
        return [child for child in element if child.tag == "summary"][:1]
    return element


def _has_background(style: ComputedStyle) -> bool:
    return style.background_color.alpha > 0 or style.has_background_pictures


def _without_background(style: ComputedStyle) -> ComputedStyle:
    found = style.kept.get("without background")
    if found is None:
        values = {field: value for field, value in style.__dict__.items() if field not in BACKGROUND_FIELDS}
        found = style.kept["without background"] = ComputedStyle(style.parent, values)
    return found


def _spans(element: Element) -> tuple[int, int]:
    """How many columns and rows a cell takes (HTML §4.9.11)."""
    if not element.keys():
        return 1, 1
    columns, rows = element.get("colspan"), element.get("rowspan")
    if columns is None and rows is None:
        return 1, 1
    return min(max(1, integer(columns, 1)), 1000), min(max(0, integer(rows, 1)), 65534)


def says(box: Box) -> PageSays:
    """What a box says to its page, to be filled in."""
    if box.says is None:
        box.says = PageSays()
    return box.says


def _quieten(box: Box, element: Element) -> None:
    """Notes of an ordinary element's box that it is quiet, where all in it is."""
    if box.element is element and box.__class__ in MAY_BE_QUIET:
        box.quiet = all(child.quiet for child in box.children)


def _is_nothing(box: Box) -> bool:
    """Whether an inline box holds nothing and has no edges to be seen."""
    return (
        isinstance(box, InlineBox) and not box.children and not (edges_of(box.style, 1.0).down or any(edge_widths(box)))
    )
