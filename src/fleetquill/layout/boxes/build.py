"""Box generation: from the element tree and its styles to the box tree (CSS Display 3 §2)."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Final

from lxml import etree

from fleetquill.errors import LimitError
from fleetquill.layout.boxes.boxes import (
    AnchorBox,
    BlockBox,
    Box,
    BreakBox,
    CellBox,
    ColumnBox,
    ColumnsBox,
    Element,
    InlineBox,
    LeaderBox,
    PageCounterBox,
    PageSays,
    RowBox,
    RowGroupBox,
    TallyBox,
    TargetBox,
    TextBox,
    element_text,
)
from fleetquill.layout.boxes.counters import Counters, marker_text, represent
from fleetquill.layout.boxes.levels import BLANKS, COLLAPSING, is_aside, is_blank, is_inline_level
from fleetquill.layout.boxes.moving_text import mark_moving_text
from fleetquill.layout.boxes.replaced_elements import REPLACED, background_pictures, picture_box
from fleetquill.layout.boxes.table_fixup import TABLE_PARTS, cells_of, fill_table, rows_of, wrap_table_parts
from fleetquill.layout.contract.context import Context, Target, Targets
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.layout.items.boxes import FlexBox, GridBox, ItemsBox
from fleetquill.layout.table.boxes import LedgerBox, TableBox
from fleetquill.layout.table.row_stream import RowStream
from fleetquill.style import generated
from fleetquill.style.background_values import Url
from fleetquill.style.cascade import Cascade, MatchNode
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.selectors import Siblings

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
QUOTES: Final = {  # the quotation marks of 'quotes: auto', by language
    "de": ("„", "“", "‚", "‘"),
    "fr": ("« ", " »", "“", "”"),
    "ar": ("«", "»", "“", "”"),
}
ENGLISH_QUOTES: Final = ("“", "”", "‘", "’")


def build(root: Element, cascade: Cascade, context: Context, nesting: int) -> Box:
    """The box tree of a document. The root box is a block container."""
    return _BoxBuilder(root, cascade, context, nesting).document()


class _BoxBuilder:
    def __init__(self, root: Element, cascade: Cascade, context: Context, nesting: int) -> None:
        self.root = root
        self.cascade = cascade
        self.context = context
        self.nesting = nesting
        self.siblings = Siblings()
        self.alive = list(root.iter())  # so that each element stays one object while it is compared
        self.counters = Counters()
        self.quote_depth = 0
        self.has_moving_text = False
        self.depth = 0
        self.page_name = ""
        self.strays: list[Box] = []  # anchors among the parts of a table, on their way out of it
        self.targets = Targets()

    def document(self) -> Box:
        context = self.context
        context.fixed = []
        self.counters.reset([("footnote", 0)])
        boxes = self._element(self.root, None, None)
        self._add_target_elements()
        if len(boxes) == 1 and type(boxes[0]) in (BlockBox, LinesBox):
            box = boxes[0]
        else:
            style = self.cascade.style(self.root, self.cascade.node(None, self.root), None, self.siblings)
            box = self._container(style, self.root, boxes)
        box.is_item = True  # the root's margins do not collapse with its children's
        self._take_canvas(box)
        if self.has_moving_text:
            mark_moving_text(box)
        self.targets.page_of, self.targets.pages = context.targets.page_of, context.targets.pages
        context.targets = self.targets
        return box

    def _take_canvas(self, root: Box) -> None:
        """The background of the root, or else of the body, is that of the whole page (CSS Backgrounds 3 §2.11)."""
        self.context.canvas_style = None
        body = next((b for b in root.children if b.element is not None and b.element.tag == "body"), None)
        for box in (root, body):
            if box is not None and _has_background(box.style):
                self.context.canvas_style = box.style
                self.context.canvas_pictures = box.pictures or {}
                box.style = _without_background(box.style)
                return

    # ---- elements ----

    def _element(
        self,
        element: Element,
        parent_node: MatchNode | None,
        parent: ComputedStyle | None,
        *,
        item: bool = False,
    ) -> list[Box]:
        node = self.cascade.node(parent_node, element)
        style = self.cascade.style(element, node, parent, self.siblings)
        display = style.display
        if display == "none":
            return []
        if (
            display == "table-cell"
            and element.tag in ("td", "th")
            and style.ordinary
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
            self.context.layered = True
            self.context.positioned = self.context.positioned or style.position != "static"
        page_name = self.page_name
        if style.page != "auto":
            self.page_name = style.page
            self.context.named_pages = True
        if outside == "footnote":
            self.counters.increment([("footnote", 1)])
        counted = None
        if not style.ordinary or display == "list-item":
            self._count(element, style)
            counted = self._own_counters(style) if style.counter_increment or style.counter_reset else None
        named = element.get("id") is not None
        if named:
            self._note_target(element)
        maker = REPLACED.get(element.tag)
        if element.tag == "fq-tally":
            boxes = self.tally(element, style)
        elif element.tag == "fq-ledger":
            boxes = self._ledger(element, node, style)
        elif maker is not None:
            boxes = maker(self.context, element, style)
        else:
            self.counters.enter()
            boxes = self._boxes(element, node, style, display)
            self.counters.leave()
        self.depth -= 1
        if boxes:
            if style.ordinary and not named and element.tag != "a":
                _quieten(boxes[0], element)
            if self.page_name or not style.ordinary:
                self._note_page_marks(element, style, boxes)
            if not style.ordinary:
                boxes[0].quiet = False  # it may be a child's box, where this element has none
            if counted:
                says(boxes[0]).counters = counted
                self.context.has_page_marks = True
            if style.background_image:
                self._load_backgrounds(boxes, style, element)
        self.page_name = page_name
        if (item or outside) and display != "contents":
            for box in boxes:
                box.is_item = True
        return self._taken_out(element, node, style, parent, boxes) if outside and parent is not None else boxes

    def _load_backgrounds(self, boxes: list[Box], style: ComputedStyle, element: Element) -> None:
        pictures = background_pictures(style, self.context, element)
        for box in boxes:
            box.pictures = pictures

    def _own_counters(self, style: ComputedStyle) -> dict[str, int]:
        """The counters that an element sets or moves, as they are at its start: margin boxes may show them."""
        names = {name for name, _ in (*style.counter_reset, *style.counter_set, *style.counter_increment)}
        return {name: self.counters.value(name) for name in names - BUILT_IN_COUNTERS}

    def _note_page_marks(self, element: Element, style: ComputedStyle, boxes: list[Box]) -> None:
        """What the box says to the pages that it stands on: their name, their number, named strings."""
        if self.page_name:
            for box in boxes:
                box.page = self.page_name
        for name, value in (*style.counter_reset, *style.counter_set):
            if name == "page":
                says(boxes[0]).number = value
                self.context.has_page_marks = True
        if style.string_set:
            texts = [(name, self._content_string(content, style, element)) for name, content in style.string_set]
            says(boxes[0]).strings = texts
            self.context.has_page_marks = True
        if style.bookmark_level != "none" and style.bookmark_label != ComputedStyle.bookmark_label:
            says(boxes[0]).bookmark = self._content_string(style.bookmark_label, style, element)

    def _taken_out(
        self, element: Element, node: MatchNode, style: ComputedStyle, parent: ComputedStyle, boxes: list[Box]
    ) -> list[Box]:
        """Boxes out of the flow: each leaves an anchor where it stood (CSS Positioned Layout 3 §3)."""
        kind = style.outside
        anchors: list[Box] = []
        for box in boxes:
            if kind == "fixed":
                self.context.fixed.append(box)
                continue
            inline = style.display.startswith("inline") or kind == "footnote"
            anchor = AnchorBox(self.cascade.anonymous(parent, "block"), kind, box, inline)
            if kind == "footnote":
                self.context.has_footnotes = True
                self._add_footnote_marker(box, element, node)
                anchors.append(self._footnote_call(element, node, style, parent))
            elif kind == "running":
                self.context.has_page_marks = True
            anchors.append(anchor)
        return anchors

    def _footnote_call(
        self, element: Element, node: MatchNode, style: ComputedStyle, parent: ComputedStyle
    ) -> InlineBox:
        """What refers to a footnote from the text (CSS GCPM 3 §2.4)."""
        call = self.cascade.pseudo_style(element, node, "footnote-call", parent, self.siblings)
        call = call or self.cascade.anonymous(parent, "inline")
        return InlineBox(call, None, self._content(call, element))

    def _add_footnote_marker(self, box: Box, element: Element, node: MatchNode) -> None:
        marker = self.cascade.pseudo_style(element, node, "footnote-marker", box.style, self.siblings)
        if marker is not None and isinstance(marker.content, tuple):
            self._prepend(box, [InlineBox(marker, None, self._content(marker, element))])

    def _note_target(self, element: Element) -> None:
        """Counters where an element stands that references may lead to."""
        name = element.get("id", "")
        if name not in self.targets.elements:
            self.targets.elements[name] = Target({}, self.counters.all(), element)

    def _add_target_elements(self) -> None:
        for target in self.targets.elements.values():
            text = element_text(target.element)
            target.texts.update(content=text, **{"first-letter": text[:1]})

    def _count(self, element: Element, style: ComputedStyle) -> None:
        """counter-reset, -increment and -set, with what lists count by themselves."""
        if style.counter_reset:
            resets = style.counter_reset
            if element.tag == "ol" and element.get("start"):
                start = _integer(element.get("start"), 1) - 1
                resets = tuple((name, start if name == "list-item" else value) for name, value in resets)
            self.counters.reset(resets)
        if style.display == "list-item":
            if element.get("value"):
                self.counters.set([("list-item", _integer(element.get("value"), 1))])
            elif all(name != "list-item" for name, _ in style.counter_increment):
                self.counters.increment([("list-item", 1)])
        if style.counter_increment:
            self.counters.increment(style.counter_increment)
        if style.counter_set:
            self.counters.set(style.counter_set)

    def _boxes(self, element: Element, node: MatchNode, style: ComputedStyle, display: str) -> list[Box]:
        make = INTERNAL_TABLE.get(display)
        if make is not None:
            box = make(self, element, node, style)
            strays, self.strays = self.strays, []
            return [box, *strays]
        if display in ("flex", "inline-flex", "grid", "inline-grid"):
            container: ItemsBox = (FlexBox if display.endswith("flex") else GridBox)(style, element, [])
            container.children = self._items(element, node, style, container)
            return [container]
        children = self._children(element, node, style)
        if display == "contents":
            return children
        if display == "inline":
            return _split_at_blocks(style, element, children)
        if "first-letter" in node.pseudo:
            self._first_letter(element, node, children)
        box = self._container(style, element, children)
        if "first-line" in node.pseudo and isinstance(box, LinesBox):
            box.first_line = self.cascade.pseudo_style(element, node, "first-line", style, self.siblings)
        if display == "list-item":
            self._add_marker(box, element, node)
        return [box]

    def _children(self, element: Element, node: MatchNode, style: ComputedStyle, *, items: bool = False) -> list[Box]:
        """The boxes of an element's content, with ::before and ::after around it."""
        boxes = self._pseudo(element, node, style, "before", items) if node.adds_content else []
        structure = style.display in TABLE_STRUCTURE and style.white_space in COLLAPSING
        blanks: list[tuple[int, str]] = []  # between the parts of a table, with their places
        if element.text:
            if structure and not element.text.strip(BLANKS):
                blanks.append((len(boxes), element.text))
            else:
                boxes.append(TextBox(style, element, element.text))
        for child in element:
            if isinstance(child.tag, str):
                boxes += self._element(child, node, style, item=items)
            elif child.tag is etree.Entity and child.text:
                boxes.append(TextBox(style, element, child.text))
            tail = child.tail
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

    def _first_letter(self, element: Element, node: MatchNode, children: list[Box]) -> None:
        """Takes the first letter, with punctuation around it, into a box of its own (Pseudo-elements 4 §2.2)."""
        place = _first_text(children)
        if place is None:
            return
        siblings, index = place
        text = siblings[index]
        assert isinstance(text, TextBox)
        match = FIRST_LETTER.match(text.text)
        style = self.cascade.pseudo_style(element, node, "first-letter", text.style, self.siblings)
        if match is None or style is None:
            return
        letter = TextBox(style, element, match[1])
        rest = TextBox(text.style, text.element, text.text[match.end() :])
        box: Box
        if style.float != "none":
            box = LinesBox(style, None, [letter])
        else:
            box = InlineBox(style, None, [letter])
        siblings[index : index + 1] = [box, rest]

    def _items(self, element: Element, node: MatchNode, style: ComputedStyle, container: ItemsBox) -> list[Box]:
        """Flex and grid items: runs of text become anonymous items, white space between them none (§4)."""
        items: list[Box] = []
        run: list[Box] = []
        children = wrap_table_parts(self, self._children(element, node, style, items=True), style)
        anchors = [box for box in children if isinstance(box, AnchorBox)]
        if anchors:
            container.anchors = anchors
            children = [box for box in children if not isinstance(box, AnchorBox)]
        for box in [*children, None]:
            if isinstance(box, (TextBox, InlineBox, BreakBox)):
                run.append(box)
                continue
            if any(not is_blank(text) and not isinstance(text, BreakBox) for text in run):
                anonymous = self._anonymous_lines(style, run)
                anonymous.is_item = True
                items.append(anonymous)
            run = []
            if box is not None:
                items.append(box)
        return items

    # ---- block containers ----

    def _container(self, style: ComputedStyle, element: Element | None, children: list[Box]) -> Box:
        """A block container: lines where all is inline, else blocks with anonymous ones between."""
        children = wrap_table_parts(self, children, style)
        if style.column_count != "auto" or style.column_width != "auto":
            return ColumnsBox(style, element, self._blocks(style, children))
        if all(is_inline_level(child) or is_aside(child) for child in children):
            asides = [child for child in children if is_aside(child)]
            if asides and all(is_aside(child) or is_blank(child) for child in children):
                return BlockBox(style, element, asides)
            return LinesBox(style, element, children)
        return BlockBox(style, element, self._blocks(style, children))

    def _anonymous_lines(self, style: ComputedStyle, children: list[Box]) -> LinesBox:
        lines = LinesBox(self.cascade.anonymous(style, "block"), None, children)
        lines.quiet = all(child.quiet for child in children)
        if self.page_name:
            lines.page = self.page_name
        return lines

    def _blocks(self, style: ComputedStyle, children: list[Box]) -> list[Box]:
        blocks: list[Box] = []
        run: list[Box] = []
        for child in [*children, None]:
            if child is not None and (is_inline_level(child) or (is_aside(child) and not all(map(is_blank, run)))):
                run.append(child)
                continue
            if any(not is_blank(box) for box in run):
                blocks.append(self._anonymous_lines(style, run))
            run = []
            if child is not None:
                blocks.append(child)
        return blocks

    # ---- tables ----

    def _table(self, element: Element, node: MatchNode, style: ComputedStyle) -> Box:
        table = TableBox(style, element)
        fill_table(self, table, self._children(element, node, style))
        return table

    def _group(self, element: Element, node: MatchNode, style: ComputedStyle) -> Box:
        group = RowGroupBox(style, element, GROUP_ROLES[style.display])
        group.children = rows_of(self, self._children(element, node, style), style)
        return group

    def _row(self, element: Element, node: MatchNode, style: ComputedStyle) -> Box:
        return RowBox(style, element, cells_of(self, self._children(element, node, style), style))

    def _cell(self, element: Element, node: MatchNode, style: ComputedStyle) -> Box:
        content = self.cell_content(style, self._children(element, node, style))
        return CellBox(style, element, content, *_spans(element))

    def _text_cell(self, element: Element, style: ComputedStyle) -> CellBox | None:
        """A cell that holds text and nothing else, as most do; None where it needs the long way."""
        text = element.text
        if not text or not text.strip(BLANKS) or self.depth >= self.nesting:
            return None
        lines = self._anonymous_lines(style, [TextBox(style, element, text)])
        cell = CellBox(style, element, [lines], *_spans(element))
        cell.quiet = element.get("id") is None
        if not cell.quiet:
            self._note_target(element)
        if self.page_name:
            cell.page = self.page_name
        return cell

    def cell_content(self, style: ComputedStyle, children: list[Box]) -> list[Box]:
        """A cell's children as blocks; lines alone in one anonymous block."""
        if len(children) == 1 and isinstance(children[0], TextBox) and not is_blank(children[0]):
            return [self._anonymous_lines(style, children)]
        children = wrap_table_parts(self, children, style)
        return self._blocks(style, children)

    def _column(self, element: Element, node: MatchNode, style: ComputedStyle) -> Box:
        span = min(max(1, _integer(element.get("span"), 1)), 1000)
        column = ColumnBox(style, element, span)
        for inner in self._children(element, node, style):
            if isinstance(inner, ColumnBox):
                inner.group = column
                column.children.append(inner)
        return column

    def _ledger(self, element: Element, node: MatchNode, style: ComputedStyle) -> list[Box]:
        """A ledger: its prototype table is made of elements, its rows come later."""
        opened = self.context.services.open_ledger(element)
        self.alive += list(element.iter())
        self.siblings = Siblings()
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
        self.has_moving_text = True
        return [TallyBox(style, element, tally)]

    # ---- generated content ----

    def _pseudo(self, element: Element, node: MatchNode, style: ComputedStyle, name: str, item: bool) -> list[Box]:
        if name not in node.pseudo:
            return []
        own = self.cascade.pseudo_style(element, node, name, style, self.siblings)
        if own is None or own.content in ("normal", "none") or own.display == "none":
            return []
        self._count(element, own)
        if own.layered:
            self.context.layered = True
            self.context.positioned = self.context.positioned or own.position != "static"
        children = self._content(own, element)
        blockified = item or bool(own.outside) or own.float != "none"
        display = BLOCKIFIED.get(own.display, own.display) if blockified else own.display
        if display == "inline":
            inline = InlineBox(own, None, children)
            if own.background_image:
                self._load_backgrounds([inline], own, element)
            return [inline]
        box: Box
        if display in ("flex", "inline-flex"):
            box = FlexBox(own, None, [self._anonymous_lines(own, children)] if children else [])
        else:
            box = self._container(own, None, children)
        if own.background_image:
            self._load_backgrounds([box], own, element)
        if item or own.outside:
            box.is_item = True
        return self._taken_out(element, node, own, style, [box]) if own.outside else [box]

    def _content(self, style: ComputedStyle, element: Element) -> list[Box]:
        boxes: list[Box] = []
        for part in style.content if isinstance(style.content, tuple) else ():
            if isinstance(part, generated.Tally):
                boxes.append(TallyBox(style, element, part))
                self.has_moving_text = True
            elif isinstance(part, generated.Counter) and part.name in ("page", "pages"):
                boxes.append(PageCounterBox(style, element, part))
                self.has_moving_text = True
                self.context.wants_targets = self.context.wants_targets or part.name == "pages"
            elif isinstance(part, generated.Target):
                boxes.append(TargetBox(style, element, part))
                self.has_moving_text = self.context.wants_targets = True
            elif isinstance(part, generated.Leader):
                boxes.append(LeaderBox(style, element, part.pattern))
            elif isinstance(part, generated.Picture):
                boxes.append(picture_box(self.context, style, element, part.url, ""))
            else:
                boxes.append(TextBox(style, element, self._content_text(part, style, element)))
        return boxes

    def _content_text(self, part: generated.ContentPart, style: ComputedStyle, element: Element) -> str:
        if isinstance(part, generated.Text):
            return part.text
        if isinstance(part, generated.Attribute):
            return element.get(part.name, part.fallback)
        if isinstance(part, generated.Counter):
            return represent(self.counters.value(part.name), part.style)
        if isinstance(part, generated.Counters):
            return part.separator.join(represent(v, part.style) for v in self.counters.values(part.name))
        if isinstance(part, generated.Quote):
            return self._quote(part, style)
        if isinstance(part, generated.Target):
            self.context.wants_targets = self.context.builds_with_targets = True
            return self.context.target_text(part, element) if self.context.targets.elements else "0"
        if isinstance(part, generated.ContentOf):
            text = element_text(element)
            return text[:1] if part.part == "first-letter" else text if part.part == "text" else ""
        return ""

    def _content_string(self, content: generated.Content, style: ComputedStyle, element: Element) -> str:
        """Generated content as plain text: for string-set and bookmark-label."""
        parts = content if isinstance(content, tuple) else ()
        return "".join(self._content_text(part, style, element) for part in parts)

    def _quote(self, part: generated.Quote, style: ComputedStyle) -> str:
        marks = style.quotes
        if marks == "auto":
            marks = QUOTES.get(style.language.split("-")[0].lower(), ENGLISH_QUOTES)
        if not part.opens:
            self.quote_depth = max(0, self.quote_depth - 1)
        level = self.quote_depth
        if part.opens:
            self.quote_depth += 1
        if not part.shown or isinstance(marks, str):
            return ""
        pair = min(level, len(marks) // 2 - 1) * 2
        return marks[pair] if part.opens else marks[pair + 1]

    def _add_marker(self, box: Box, element: Element, node: MatchNode) -> None:
        style = box.style
        marker_style = self.cascade.pseudo_style(element, node, "marker", style, self.siblings)
        marker_style = marker_style or self.cascade.anonymous(style, "block")
        if isinstance(marker_style.content, tuple):
            content = self._content(marker_style, element)
        elif isinstance(style.list_style_image, Url):
            content = [picture_box(self.context, marker_style, element, style.list_style_image.url, "")]
        else:
            text = marker_text(self.counters.value("list-item"), style.list_style_type)
            if not text or marker_style.content == "none":
                return
            content = [TextBox(marker_style, element, text)]
        if style.list_style_position == "outside":
            box.marker = LinesBox(marker_style, None, content)
        else:
            content.append(TextBox(style, element, " "))
            self._prepend(box, content)

    def _prepend(self, box: Box, content: list[Box]) -> None:
        """Puts inline content at the start of a box: into its first line, or into a line of its own."""
        around = box
        while isinstance(box, (BlockBox, ColumnsBox)) and box.children:
            around, box = box, box.children[0]
        if isinstance(box, LinesBox):
            box.children[:0] = content
        elif isinstance(around, (BlockBox, ColumnsBox)):
            around.children.insert(0, self._anonymous_lines(around.style, content))


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


BUILT_IN_COUNTERS: Final = frozenset(("page", "pages", "list-item", "footnote"))

TABLE_STRUCTURE: Final = frozenset(INTERNAL_TABLE) - {"table-cell"}

FIRST_LETTER: Final = re.compile(r"\s*([^\w\s]*\w[^\w\s]?)")


def _first_text(children: list[Box]) -> tuple[list[Box], int] | None:
    """The list and the place of the first text that is not white space."""
    for index, child in enumerate(children):
        if isinstance(child, TextBox):
            if child.text.strip():
                return children, index
        elif isinstance(child, InlineBox) or type(child) in (BlockBox, LinesBox):
            found = _first_text(child.children)
            if found is not None:
                return found
        else:
            return None
    return None


BACKGROUND_FIELDS: Final = tuple(field for field in vars(ComputedStyle) if field.startswith("background_"))


def _has_background(style: ComputedStyle) -> bool:
    color = style.background_color
    return color is None or color.alpha > 0 or any(image != "none" for image in style.background_image)


def _without_background(style: ComputedStyle) -> ComputedStyle:
    values = {field: value for field, value in style.__dict__.items() if field not in BACKGROUND_FIELDS}
    return ComputedStyle(style.parent, values)


def _spans(element: Element) -> tuple[int, int]:
    """How many columns and rows a cell takes (HTML §4.9.11)."""
    columns, rows = element.get("colspan"), element.get("rowspan")
    if columns is None and rows is None:
        return 1, 1
    return min(max(1, _integer(columns, 1)), 1000), min(max(0, _integer(rows, 1)), 65534)


def _integer(text: str | None, fallback: int) -> int:
    if text is None:
        return fallback
    try:
        return int(text)
    except ValueError:
        return fallback


def says(box: Box) -> PageSays:
    """What a box says to its page, to be filled in."""
    if box.says is None:
        box.says = PageSays()
    return box.says


def _quieten(box: Box, element: Element) -> None:
    """Notes of an ordinary element's box that it is quiet, where all in it is."""
    if box.element is element and box.__class__ in MAY_BE_QUIET:
        box.quiet = all(child.quiet for child in box.children)


def _split_at_blocks(style: ComputedStyle, element: Element, children: list[Box]) -> list[Box]:
    """An inline box around its content, broken around blocks that stand in it (CSS 2.2 §9.2.1.1)."""
    if all(is_inline_level(child) or is_aside(child) for child in children):
        return [InlineBox(style, element, children)]
    boxes: list[Box] = []
    run: list[Box] = []
    for child in [*children, None]:
        if child is not None and is_inline_level(child):
            run.append(child)
            continue
        if run:
            boxes.append(InlineBox(style, element, run))
        run = []
        if child is not None:
            boxes.append(child)
    return boxes
