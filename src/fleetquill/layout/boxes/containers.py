"""Block containers: lines where all content is inline, else blocks with anonymous ones between (CSS 2.2 §9.2.1)."""

from __future__ import annotations

from itertools import groupby
from typing import Final

from fleetquill.layout.boxes.boxes import AnchorBox, BlockBox, Box, BreakBox, ColumnsBox, Element, InlineBox, TextBox
from fleetquill.layout.boxes.levels import is_aside, is_blank, is_inline_level, spans_columns
from fleetquill.layout.boxes.table_fixup import wrap_table_parts
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.style.cascade import Cascade
from fleetquill.style.properties import ComputedStyle

WITH_BLOCKS: Final = (  # what an inline box does to the blocks in it, too
    *("position", "top", "right", "bottom", "left", "z_index", "opacity", "filter", "mix_blend_mode"),
)


class Containers:
    """Makes block containers; `page_name` is that of the pages on which what is being built wants to stand."""

    def __init__(self, cascade: Cascade) -> None:
        self.cascade = cascade
        self.page_name = ""

    def container(self, style: ComputedStyle, element: Element | None, children: list[Box]) -> Box:
        """A block container around some content."""
        children = wrap_table_parts(self, children, style)
        if style.column_count != "auto" or style.column_width != "auto":
            return ColumnsBox(style, element, _lifted_spanners(self._blocks(style, children)))
        if all(is_inline_level(child) or is_aside(child) for child in children):
            asides = [child for child in children if is_aside(child)]
            if asides and all(is_aside(child) or is_blank(child) for child in children):
                return BlockBox(style, element, asides)
            return LinesBox(style, element, children)
        return BlockBox(style, element, self._blocks(style, children))

    def inline(self, style: ComputedStyle, element: Element, children: list[Box]) -> list[Box]:
        """An inline box around its content, broken around blocks that stand in it (CSS 2.2 §9.2.1.1)."""
        children = wrap_table_parts(self, children, style)
        if element.tag == "a" and element.get("href"):
            _lead(children, element)
        boxes: list[Box] = []
        for among_lines, group in groupby(children, lambda child: is_inline_level(child) or is_aside(child)):
            part = list(group)
            boxes.append(InlineBox(style, element, part) if among_lines else self._around(style, element, part))
        return boxes or [InlineBox(style, element, [])]

    def _around(self, style: ComputedStyle, element: Element, blocks: list[Box]) -> BlockBox:
        """The piece of an inline box that blocks stand in: they move, and are seen through, with it."""
        own = self.cascade.anonymous(style, "block")
        kept = {name: getattr(style, name) for name in WITH_BLOCKS if getattr(style, name) != getattr(own, name)}
        if kept:
            own = ComputedStyle(style, {**own.__dict__, **kept, "layered": style.layered, "ordinary": style.ordinary})
        around = BlockBox(own, element, blocks)
        around.page = self.page_name
        return around

    def anonymous_lines(self, style: ComputedStyle, children: list[Box]) -> LinesBox:
        """Inline content in a block of its own."""
        lines = LinesBox(self.cascade.anonymous(style, "block"), None, children)
        lines.quiet = all(child.quiet for child in children)
        if self.page_name:
            lines.page = self.page_name
        return lines

    def cell_content(self, style: ComputedStyle, children: list[Box]) -> list[Box]:
        """A cell's children as blocks; lines alone in one anonymous block."""
        if len(children) == 1 and isinstance(children[0], TextBox) and not is_blank(children[0]):
            return [self.anonymous_lines(style, children)]
        children = wrap_table_parts(self, children, style)
        return self._blocks(style, children)

    def prepend(self, box: Box, content: list[Box]) -> None:
        """Puts inline content at the start of a box: into its first line, or into a line of its own."""
        around = box
        while isinstance(box, (BlockBox, ColumnsBox)) and box.children:
            around, box = box, box.children[0]
        if isinstance(box, LinesBox):
            box.children[:0] = content
        elif isinstance(around, (BlockBox, ColumnsBox)):
            around.children.insert(0, self.anonymous_lines(around.style, content))

    def _blocks(self, style: ComputedStyle, children: list[Box]) -> list[Box]:
        blocks: list[Box] = []
        run: list[Box] = []
        for child in [*children, None]:
            if child is not None and (is_inline_level(child) or (is_aside(child) and not all(map(is_blank, run)))):
                run.append(child)
                continue
            if any(not is_blank(box) for box in run):
                blocks.append(self.anonymous_lines(style, run))
            run = []
            if child is not None:
                blocks.append(child)
        return blocks


def _lifted_spanners(boxes: list[Box]) -> list[Box]:
    """Blocks in columns, those that span all of them taken out of the blocks around them (Multi-column 1 §6).

    What they stand in is cut in two, as a page's end would cut it.
    """
    found: list[Box] = []
    for box in boxes:
        found += _split_at_spanners(box) if type(box) is BlockBox and not spans_columns(box) else [box]
    return found


def _split_at_spanners(box: Box) -> list[Box]:
    children = _lifted_spanners(box.children)
    if not any(map(spans_columns, children)):
        return [box]
    parts: list[Box] = []
    run: list[Box] = []
    for child in [*children, None]:
        if child is not None and not spans_columns(child):
            run.append(child)
            continue
        if run or not parts:
            part = BlockBox(box.style, box.element, run)
            part.page, part.pictures, part.quiet = box.page, box.pictures, False
            parts.append(part)
        if child is not None:
            parts.append(child)
        run = []
    pieces = [part for part in parts if part.element is box.element and type(part) is BlockBox]
    pieces[0].says, pieces[0].marker = box.says, box.marker
    for part in pieces[1:]:
        part.style = _without_edge(part.style, "top")
    for part in pieces[:-1]:
        part.style = _without_edge(part.style, "bottom")
    return parts


def _without_edge(style: ComputedStyle, side: str) -> ComputedStyle:
    """The style of a part of a box that has no edge on a side (CSS Fragmentation 3 §5.4.2, slice)."""
    names = (f"margin_{side}", f"padding_{side}", f"border_{side}_width")
    return ComputedStyle(style.parent, {**style.__dict__, **dict.fromkeys(names, 0.0)})


def _lead(boxes: list[Box], link: Element) -> None:
    """What stands in an inline link and is no text leads where that does: pictures, blocks, floats, all out of flow."""
    for box in boxes:
        if isinstance(box, AnchorBox):
            _lead([box.target], link)
        elif isinstance(box, InlineBox) or box.style.anonymous:
            _lead(box.children, link)
        elif not isinstance(box, (TextBox, BreakBox)):
            box.link = link
