"""Flex layout (CSS Flexbox 1 §9): items on lines along a main axis, stretched and aligned."""

from __future__ import annotations

from typing import Final

from fleetquill.layout.block.ends import full_height
from fleetquill.layout.block.replaced import ratio_of
from fleetquill.layout.boxes.boxes import Box, PictureBox
from fleetquill.layout.contract.box_edges import box_edges
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import content_widths, natural_widths, within_words
from fleetquill.layout.contract.fragments import Fragment, last_baseline
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.sizing import (
    clamp_height,
    clamp_width,
    edges_of,
    length_or_zero,
    limits,
    margin_left_right,
    own_height,
    own_width,
    to_border_box,
)
from fleetquill.layout.contract.space import SLACK, UNBOUNDED, Laid, Space
from fleetquill.layout.inline.lines import border_box_width, width_by_word
from fleetquill.layout.items.boxes import FlexBox, Whole
from fleetquill.layout.items.items import (
    asks_for_shares,
    container_baseline,
    distribute,
    lay_out_item,
    layout_container,
    stand_anchors,
    whole_of,
)
from fleetquill.style.lengths import resolve_auto

BASELINES: Final = ("baseline", "last baseline")
WRITTEN: Final = ("start", "end", "self-start", "self-end")  # by the direction of writing, not of the axis


class Item:
    """A flex item. Sizes are of its border box; margins are along the axes."""

    def __init__(self, box: Box) -> None:
        self.box = box
        self.margin_before = 0.0
        self.margin_after = 0.0
        self.cross_before = 0.0
        self.cross_after = 0.0
        self.base = 0.0
        self.hypothetical = 0.0
        self.least = 0.0
        self.most = float("inf")
        self.main = 0.0
        self.edges = 0.0  # border and padding along the main axis
        self.cross = 0.0
        self.fragment: Fragment | None = None
        self.space: Space | None = None
        self.frozen = False
        self.auto_margins: list[str] = []

    @property
    def margins(self) -> float:
        return self.margin_before + self.margin_after

    @property
    def cross_margins(self) -> float:
        return self.cross_before + self.cross_after


class FlexLine:
    def __init__(self, items: list[Item]) -> None:
        self.items = items
        self.cross = 0.0
        self.position = 0.0


def layout_flex(box: FlexBox, space: Space, resume: Resume | None) -> Laid:
    """Lines of items; a break may fall between lines, between the items of a column, and inside items."""
    return layout_container(_Flex, box, space, resume)


class _Flex:
    def __init__(self, box: FlexBox, space: Space) -> None:
        self.box = box
        self.space = space
        self.spaces: list[Space] = []
        self.style = box.style
        self.edges = box_edges(box, space.width)
        self.row = box.style.flex_direction.startswith("row")
        rtl = box.style.direction == "rtl"
        self.reverse = box.style.flex_direction.endswith("reverse")
        self.backward = box.style.flex_wrap == "wrap-reverse"
        self.main_flipped = self.reverse != (rtl and self.row)  # whether the main axis runs to the left or up
        self.cross_flipped = self.backward != (rtl and not self.row)
        beside, below = ("left", "right"), ("top", "bottom")
        main, cross = (beside, below) if self.row else (below, beside)
        self.main_sides = main[::-1] if self.main_flipped else main  # where it starts, and where it ends
        self.cross_sides = cross[::-1] if self.cross_flipped else cross
        self.width = border_box_width(box, space) if space.fixed_width is None else space.fixed_width
        self.inner_width = max(0.0, self.width - self.edges.across)
        self.inner_height = self._inner_height()
        across = length_or_zero(self.style.column_gap, self.inner_width)
        down = length_or_zero(self.style.row_gap, self.inner_height or 0.0)
        self.main_gap, self.cross_gap = (across, down) if self.row else (down, across)

    def _inner_height(self) -> float | None:
        given = self.space.known_height(self.style, self.width, self.edges)
        return None if given is None else max(0.0, given - self.edges.down)

    def lay_out(self) -> Whole:
        items = [self._item(child) for child in sorted(self.box.children, key=lambda b: b.style.order)]
        main = self.inner_width if self.row else self.inner_height
        lines = self._lines(items, main)
        main_size = main if main is not None else max((self._line_length(line) for line in lines), default=0.0)
        if not self.row and main is None:
            down = self.edges.down
            clamped = clamp_height(self.style, main_size + down, self.space.height, down) - down
            main_size = clamped
        for line in lines:
            self._flex_lengths(line, main_size)
            self._cross_sizes(line)
        self._stretch_lines(lines)
        self._align_lines(lines)
        fragment = Fragment(self.box, self.width, 0.0)
        cross = self._cross_extent(lines)
        given_cross = self._definite_cross()
        for line in lines:
            self._place_line(line, main_size, cross if given_cross is None else given_cross, fragment)
        height = max(0.0, cross if self.row else main_size)
        fragment.height = full_height(fragment, self.space, height + self.edges.down)
        fragment.baseline = self._baseline(lines)
        stand_anchors(self.box, fragment, self.space, self.spaces, self.inner_width, self.edges)
        return whole_of(fragment, self.spaces, self.edges, UNBOUNDED, context=self.space.context)

    # ---- items (§9.2) ----

    def _item(self, box: Box) -> Item:
        item = Item(box)
        style = box.style
        basis = self.inner_width
        sides = {
            side: resolve_auto(getattr(style, f"margin_{side}"), basis) for side in ("top", "right", "bottom", "left")
        }
        item.auto_margins = [side for side, value in sides.items() if value is None]
        item.margin_before, item.margin_after = (sides[side] or 0.0 for side in self.main_sides)
        item.cross_before, item.cross_after = (sides[side] or 0.0 for side in self.cross_sides)
        edges = edges_of(style, basis)
        item.edges = edges.across if self.row else edges.down
        self._limit(item)
        item.base = self._base(item)
        item.hypothetical = max(item.least, min(item.base, item.most))
        return item

    def _least_of_content(self, box: Box) -> float:
        """The content size suggestion (§4.5). A picture that gives way to what it stands in has its own width here."""
        least, most = natural_widths(box, self.space.context, self.inner_width)
        shared = not all(isinstance(size, (float, str)) for size in (box.style.width, box.style.max_width))
        return most if shared and isinstance(box, PictureBox) else least

    def _limit(self, item: Item) -> None:
        """Least and most main size; the automatic minimum is the content's (§4.5)."""
        style = item.box.style
        edges = edges_of(style, self.inner_width)
        if self.row:
            item.least, item.most = limits(style, self.inner_width, edges.across)
            context = self.space.context
            item.least = within_words(item.box, item.least, self.inner_width, context)
            item.most = within_words(item.box, item.most, self.inner_width, context)
            if style.min_width == "auto":
                content = self._least_of_content(item.box)
                by_ratio = self._ratio_width(item)
                if by_ratio is not None:
                    content = by_ratio if isinstance(item.box, PictureBox) else max(content, by_ratio)
                given = own_width(style, self.inner_width, edges.across)
                item.least = max(edges.across, min(content, item.most if given is None else given))
                item.least = edges.across if style.overflow not in ("visible", "clip") else item.least
        else:
            item.most = clamp_height(style, float("inf"), self.inner_height, edges.down)
            item.least = clamp_height(style, 0.0, self.inner_height, edges.down)
            if style.min_height == "auto":
                item.least = max(edges.down, min(self._least_height(item), item.most))
                item.least = edges.down if style.overflow not in ("visible", "clip") else item.least

    def _least_height(self, item: Item) -> float:
        """The automatic minimum in a column: the height that is asked for, or that of the content if it is less."""
        style = item.box.style
        given = own_height(style, self.inner_height, edges_of(style, self.inner_width).down)
        if given is None:
            return self._natural_height(item)
        return given if isinstance(item.box, PictureBox) else min(given, self._natural_height(item, by_content=True))

    def _base(self, item: Item) -> float:
        """The flex base size (§9.2, step 3)."""
        style = item.box.style
        edges = edges_of(style, self.inner_width)
        along = edges.across if self.row else edges.down
        basis_size = self.inner_width if self.row else self.inner_height
        basis = style.flex_basis
        if not isinstance(basis, str):
            if isinstance(basis, float):
                return to_border_box(style, basis, along)
            if basis_size is not None:
                return to_border_box(style, basis.resolve(basis_size), along)
            basis = "content"
        if basis == "auto":
            given = (
                own_width(style, self.inner_width, edges.across)
                if self.row
                else own_height(style, self.inner_height, edges.down)
            )
            if given is not None:
                return given
        if self.row:
            by_ratio = self._ratio_width(item)
            if by_ratio is not None and basis in ("auto", "content"):
                return by_ratio
            word = basis if basis not in ("auto", "content") else style.width if basis == "auto" else ""
            narrow, wide = natural_widths(item.box, self.space.context, self.inner_width)
            return narrow if word == "min-content" else wide
        return self._natural_height(item, by_content=basis == "content")

    def _ratio_width(self, item: Item) -> float | None:
        """The width that an item's ratio gives for the height to which it is stretched (§9.2, step 3 B)."""
        style = item.box.style
        ratio = ratio_of(item.box)
        if not ratio or not isinstance(style.width, str):
            return None
        edges = edges_of(style, self.inner_width)
        height = own_height(style, self.inner_height, edges.down)
        if (
            height is None
            and self._stretches(item)
            and self.inner_height is not None
            and self.style.flex_wrap == "nowrap"
        ):
            height = self.inner_height - item.cross_margins
        if height is None:
            return None
        height = clamp_height(style, height, self.inner_height, edges.down)
        return max(0.0, height - edges.down) * ratio + edges.across

    def _cross_of_picture(self, item: Item) -> float | None:
        """The width that a picture's ratio gives for its height in a column, where it is not stretched."""
        style = item.box.style
        if not isinstance(item.box, PictureBox) or self._stretches(item) or style.width != "auto":
            return None
        edges = edges_of(style, self.inner_width)
        width = (item.main - edges.down) * ratio_of(item.box) + edges.across
        return clamp_width(style, width, self.inner_width, edges.across) if width > edges.across else None

    def _natural_height(self, item: Item, *, by_content: bool = False) -> float:
        return self._lay_out_item(item, self._cross_width(item), None, by_content=by_content).height

    def _cross_width(self, item: Item) -> float:
        """The width of an item in a column container."""
        style = item.box.style
        edges = edges_of(style, self.inner_width)
        width = own_width(style, self.inner_width, edges.across)
        free = self.inner_width - item.cross_margins
        if width is None:
            if self._stretches(item) and style.width == "auto" and self.style.flex_wrap == "nowrap":
                width = free
            else:
                word = style.width if isinstance(style.width, str) and style.width != "auto" else "fit-content"
                width = width_by_word(item.box, word, free, self.space.context)
            width = clamp_width(style, width, self.inner_width, edges.across)
        return within_words(item.box, width, free, self.space.context)

    def _lay_out_item(self, item: Item, width: float, height: float | None, *, by_content: bool = False) -> Fragment:
        item.space = Space(
            self.space.context,
            self.inner_width,
            self.inner_height,
            page=self.space.page,
            fixed_width=width,
            fixed_height=height,
            by_content=by_content,
        )
        return lay_out_item(item.box, item.space)

    # ---- lines and main sizes (§9.3, §9.7) ----

    def _lines(self, items: list[Item], main: float | None) -> list[FlexLine]:
        if self.style.flex_wrap == "nowrap" or main is None:
            return [FlexLine(items)] if items else []
        lines: list[FlexLine] = []
        used = 0.0
        for item in items:
            size = item.hypothetical + item.margins
            if lines and used + self.main_gap + size <= main + SLACK:
                lines[-1].items.append(item)
                used += self.main_gap + size
            else:
                lines.append(FlexLine([item]))
                used = size
        return lines

    def _line_length(self, line: FlexLine) -> float:
        gaps = self.main_gap * (len(line.items) - 1)
        return sum(item.hypothetical + item.margins for item in line.items) + gaps

    def _flex_lengths(self, line: FlexLine, main: float) -> None:
        """§9.7, resolving flexible lengths."""
        free_gaps = main - self.main_gap * (len(line.items) - 1)
        grows = self._line_length(line) < main
        for item in line.items:
            factor = item.box.style.flex_grow if grows else item.box.style.flex_shrink
            over = item.base > item.hypothetical if grows else item.base < item.hypothetical
            item.frozen = factor == 0 or over
            item.main = item.hypothetical if item.frozen else item.base
        initial = free_gaps - sum(i.main + i.margins for i in line.items)
        while not all(item.frozen for item in line.items):
            open_items = [item for item in line.items if not item.frozen]
            free = free_gaps - sum((i.main if i.frozen else i.base) + i.margins for i in line.items)
            factors = sum(i.box.style.flex_grow if grows else i.box.style.flex_shrink for i in open_items)
            if factors < 1 and abs(initial * factors) < abs(free):
                free = initial * factors
            self._share(open_items, free, grows, factors)
            violation = 0.0
            clamped = {}
            for item in open_items:
                clamped[item] = max(item.least, min(item.main, item.most))
                violation += clamped[item] - item.main
            for item in open_items:
                low, high = clamped[item] > item.main, clamped[item] < item.main
                if violation == 0 or (violation > 0 and low) or (violation < 0 and high):
                    item.frozen = True
                item.main = clamped[item] if item.frozen else item.main

    @staticmethod
    def _share(items: list[Item], free: float, grows: bool, factors: float) -> None:
        if grows:
            for item in items:
                item.main = item.base + (free * item.box.style.flex_grow / factors if free > 0 else 0.0)
            return
        weights = sum((item.base - item.edges) * item.box.style.flex_shrink for item in items)
        for item in items:
            part = (item.base - item.edges) * item.box.style.flex_shrink / weights if weights else 0.0
            item.main = item.base + (free * part if free < 0 else 0.0)

    # ---- cross sizes (§9.4) ----

    def _cross_sizes(self, line: FlexLine) -> None:
        for item in line.items:
            if self.row:
                item.fragment = self._lay_out_item(item, item.main, None)
                item.cross = item.fragment.height
            else:
                by_ratio = self._cross_of_picture(item)
                item.cross = self._cross_width(item) if by_ratio is None else by_ratio
                item.fragment = self._lay_out_item(item, item.cross, item.main)
        tallest = max((item.cross + item.cross_margins for item in line.items), default=0.0)
        line.cross = max(tallest, *(sum(self._baselines(line, word)) for word in BASELINES))

    def _baselines(self, line: FlexLine, word: str) -> tuple[float, float]:
        """How far items that share a baseline reach above and below it."""
        on_it = [item for item in line.items if self.row and self._align_of(item) == word]
        reaches = [self._to_baseline(item, word) for item in on_it]
        below = [item.cross + item.cross_margins - reach for item, reach in zip(on_it, reaches, strict=True)]
        return max(reaches, default=0.0), max(below, default=0.0)

    def _to_baseline(self, item: Item, word: str) -> float:
        """From the top of an item's margin box to its first or last baseline."""
        assert item.fragment is not None
        top = item.cross_after if self.cross_flipped else item.cross_before
        found = item.fragment.baseline if word == "baseline" else last_baseline(item.fragment)
        return top + (item.fragment.height if found is None else found)

    def _stretch_lines(self, lines: list[FlexLine]) -> None:
        """Definite cross sizes, and `align-content: stretch` (§9.4, steps 8 and 9)."""
        given = self._definite_cross()
        if self.style.flex_wrap == "nowrap":
            for line in lines:  # a single line is as tall as the container's limits make it
                size = line.cross if given is None else given
                down = self.edges.down
                line.cross = clamp_height(self.style, size + down, self.space.height, down) - down if self.row else size
            return
        if given is None:
            return
        spare = given - sum(line.cross for line in lines) - self.cross_gap * (len(lines) - 1)
        if self.style.align_content in ("normal", "stretch") and spare > 0:
            for line in lines:
                line.cross += spare / len(lines)

    def _definite_cross(self) -> float | None:
        return self.inner_height if self.row else self.inner_width

    def _cross_extent(self, lines: list[FlexLine]) -> float:
        return sum(line.cross for line in lines) + self.cross_gap * max(0, len(lines) - 1)

    def _align_lines(self, lines: list[FlexLine]) -> None:
        """align-content (§9.6, step 16)."""
        given = self._definite_cross()
        extent = self._cross_extent(lines)
        spare = 0.0 if given is None else given - extent
        align = self.style.align_content
        if align in ("start", "end") and self.backward:
            align = "end" if align == "start" else "start"
        start, between = distribute(align, spare, len(lines), self.cross_gap)
        position = start
        for line in lines:
            line.position = position
            position += line.cross + between

    # ---- placing (§9.5, §9.6) ----

    def _align_of(self, item: Item) -> str:
        align = item.box.style.align_self
        align = self.style.align_items if align == "auto" else align
        return "stretch" if align == "normal" else align

    def _stretches(self, item: Item) -> bool:
        """Whether an item of automatic size is as large across as its line."""
        return self._align_of(item) == "stretch" and not set(self.cross_sides) & set(item.auto_margins)

    def _along(self) -> str:
        """justify-content as it is meant along the main axis: 'flex-start' where that begins."""
        align = self.style.justify_content
        if align in ("left", "right") and self.row:
            return "flex-start" if self.main_sides[0] == align else "flex-end"
        if align in ("start", "left", "right"):
            return "flex-end" if self.reverse else "flex-start"
        if align == "end":
            return "flex-start" if self.reverse else "flex-end"
        return "flex-start" if align == "normal" else align

    def _place_line(self, line: FlexLine, main: float, cross: float, fragment: Fragment) -> None:
        spare = main - sum(item.main + item.margins for item in line.items)
        spare -= self.main_gap * (len(line.items) - 1)
        if spare < -1.0:
            self.space.context.overflows = True
        spare = self._give_auto_margins(line, spare)
        start, between = distribute(self._along(), spare, len(line.items), self.main_gap)
        baselines = {word: self._baselines(line, word) for word in BASELINES}
        position = start
        for item in line.items:
            along = position + item.margin_before
            position += item.main + item.margins + between
            if self.main_flipped:
                along = main - along - item.main
            across = self._across(item, line, baselines)
            if self.cross_flipped:
                across = cross - across - item.cross
            self._place_item(item, *((along, across) if self.row else (across, along)), fragment)

    def _give_auto_margins(self, line: FlexLine, spare: float) -> float:
        """Auto margins take positive free space first (§8.1)."""
        before, after = self.main_sides
        count = sum((before in i.auto_margins) + (after in i.auto_margins) for i in line.items)
        if not count or spare <= 0:
            return spare
        for item in line.items:
            if before in item.auto_margins:
                item.margin_before += spare / count
            if after in item.auto_margins:
                item.margin_after += spare / count
        return 0.0

    def _across(self, item: Item, line: FlexLine, baselines: dict[str, tuple[float, float]]) -> float:
        """Where an item starts on the cross axis, stretched where it is to be (§9.4 step 11, §9.6)."""
        align = self._align_of(item)
        autos = [side for side in self.cross_sides if side in item.auto_margins]
        if self._stretches(item):
            self._stretch(item, line)
        spare = line.cross - item.cross - item.cross_margins
        across = line.position + item.cross_before
        if autos:
            share = max(0.0, spare) / len(autos)
            return across + (share if self.cross_sides[0] in autos else 0.0)
        if align in BASELINES and self.row:
            above, below = baselines[align]
            top = above if align == "baseline" else line.cross - below
            top -= self._to_baseline(item, align)
            if self.cross_flipped:  # counted from the other side
                top = line.cross - top - item.cross - item.cross_margins
            return across + top
        if align == "center":
            return across + spare / 2
        at_end = align == "flex-end" or (align in ("end", "self-end")) != (self.backward and align in WRITTEN)
        return across + spare if at_end else across

    def _stretch(self, item: Item, line: FlexLine) -> None:
        style = item.box.style
        edges = edges_of(style, self.inner_width)
        size = line.cross - item.cross_margins
        if self.row and style.height == "auto":
            size = max(edges.down, clamp_height(style, size, self.inner_height, edges.down))
            if abs(size - item.cross) > SLACK or asks_for_shares(item.box):
                item.fragment = self._lay_out_item(item, item.main, size)
                item.cross = size
        elif not self.row and style.width == "auto" and self.style.flex_wrap != "nowrap":
            size = clamp_width(style, size, self.inner_width, edges.across)
            if abs(size - item.cross) > SLACK:
                item.fragment = self._lay_out_item(item, size, item.main)
                item.cross = size

    def _place_item(self, item: Item, x: float, y: float, fragment: Fragment) -> None:
        assert item.fragment is not None and item.space is not None
        item.fragment.x = self.edges.left + x
        item.fragment.y = self.edges.top + y
        fragment.children.append(item.fragment)
        self.spaces.append(item.space)

    def _baseline(self, lines: list[FlexLine]) -> float | None:
        """That of the first line: of an item that stands on its baseline, else of the first one (§8.5)."""
        items = lines[-1 if self.backward else 0].items if lines else []
        if self.reverse and self.row:
            items = items[::-1]
        on_it = (item.fragment for item in items if self.row and self._align_of(item) == "baseline")
        return container_baseline(on_it, (item.fragment for item in items))


def flex_content_widths(box: FlexBox, context: Context) -> tuple[float, float]:
    """Sum of the items along a row, the widest in a column (§9.9.1, without the flex fractions)."""
    narrow: list[float] = []
    wide: list[float] = []
    for child in box.children:
        least, most = content_widths(child, context)
        margins = sum(margin_left_right(child.style, 0.0, None))
        narrow.append(least + margins)
        wide.append(most + margins)
    if not narrow:
        return 0.0, 0.0
    if box.style.flex_direction.startswith("column"):
        return max(narrow), max(wide)
    gaps = length_or_zero(box.style.column_gap, 0.0) * (len(narrow) - 1)
    least = max(narrow) if box.style.flex_wrap != "nowrap" else sum(narrow) + gaps
    return least, sum(wide) + gaps
