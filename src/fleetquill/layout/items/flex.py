"""Flex layout (CSS Flexbox 1 §9): items on lines along a main axis, stretched and aligned."""

from __future__ import annotations

from fleetquill.layout.boxes.boxes import Box
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import content_widths, least_content_width
from fleetquill.layout.contract.fragments import Fragment
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
from fleetquill.layout.inline.lines import border_box_width
from fleetquill.layout.items.boxes import FlexBox, Whole
from fleetquill.layout.items.items import distribute, lay_out_item, layout_container, stand_anchors, whole_of
from fleetquill.style.lengths import resolve_auto


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
        self.edges = edges_of(box.style, space.width)
        self.row = box.style.flex_direction.startswith("row")
        self.reverse = box.style.flex_direction.endswith("reverse")
        self.width = border_box_width(box, space) if space.fixed_width is None else space.fixed_width
        self.inner_width = max(0.0, self.width - self.edges.across)
        self.inner_height = self._inner_height()
        self.main_gap = length_or_zero(self.style.column_gap if self.row else self.style.row_gap, self.inner_width)
        self.cross_gap = length_or_zero(self.style.row_gap if self.row else self.style.column_gap, self.inner_width)

    def _inner_height(self) -> float | None:
        if self.space.fixed_height is not None:
            return max(0.0, self.space.fixed_height - self.edges.down)
        given = own_height(self.style, self.space.height, self.edges.down)
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
        if self.style.flex_wrap == "wrap-reverse":
            self._reverse_lines(lines)
        for line in lines:
            self._place_line(line, main_size, fragment)
        cross = self._cross_extent(lines)
        height = cross if self.row else main_size
        natural = height + self.edges.down
        given = self.space.fixed_height
        if given is None:
            own = own_height(self.style, self.space.height, self.edges.down)
            given = clamp_height(self.style, natural if own is None else own, self.space.height, self.edges.down)
        fragment.height = given
        fragment.baseline = self._baseline(fragment)
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
        top, right, bottom, left = (sides[s] or 0.0 for s in ("top", "right", "bottom", "left"))
        if self.row:
            item.margin_before, item.margin_after, item.cross_before, item.cross_after = (
                left,
                right,
                top,
                bottom,
            )
        else:
            item.margin_before, item.margin_after, item.cross_before, item.cross_after = (
                top,
                bottom,
                left,
                right,
            )
        self._limit(item)
        item.base = self._base(item)
        item.hypothetical = max(item.least, min(item.base, item.most))
        return item

    def _limit(self, item: Item) -> None:
        """Least and most main size; the automatic minimum is the content's (§4.5)."""
        style = item.box.style
        edges = edges_of(style, self.inner_width)
        if self.row:
            item.least, item.most = limits(style, self.inner_width, edges.across)
            if style.min_width == "auto":
                content = least_content_width(item.box, self.space.context)
                given = own_width(style, self.inner_width, edges.across)
                item.least = max(edges.across, min(content, item.most if given is None else given))
        else:
            item.most = clamp_height(style, float("inf"), self.inner_height, edges.down)
            item.least = clamp_height(style, 0.0, self.inner_height, edges.down)
            if style.min_height == "auto":
                given_height = own_height(style, self.inner_height, edges.down)
                content = self._natural_height(item) if given_height is None else given_height
                item.least = max(edges.down, min(content, item.most))

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
            narrow, wide = content_widths(item.box, self.space.context)
            return narrow if "min-content" in (basis, style.width) else wide
        return self._natural_height(item)

    def _natural_height(self, item: Item) -> float:
        return self._lay_out_item(item, self._cross_width(item), None).height

    def _cross_width(self, item: Item) -> float:
        """The width of an item in a column container."""
        style = item.box.style
        edges = edges_of(style, self.inner_width)
        given = own_width(style, self.inner_width, edges.across)
        if given is not None:
            return given
        free = self.inner_width - item.cross_margins
        if self._align_of(item) == "stretch" and not {"left", "right"} & set(item.auto_margins):
            return clamp_width(style, free, self.inner_width, edges.across)
        narrow, wide = content_widths(item.box, self.space.context)
        return max(narrow, min(wide, free))

    def _lay_out_item(self, item: Item, width: float, height: float | None) -> Fragment:
        item.space = Space(
            self.space.context,
            self.inner_width,
            self.inner_height,
            page=self.space.page,
            fixed_width=width,
            fixed_height=height,
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
        weights = sum(item.base * item.box.style.flex_shrink for item in items)
        for item in items:
            part = item.base * item.box.style.flex_shrink / weights if weights else 0.0
            item.main = item.base + (free * part if free < 0 else 0.0)

    # ---- cross sizes (§9.4) ----

    def _cross_sizes(self, line: FlexLine) -> None:
        above = below = 0.0
        for item in line.items:
            if self.row:
                item.fragment = self._lay_out_item(item, item.main, None)
                item.cross = item.fragment.height
            else:
                item.cross = self._cross_width(item)
                item.fragment = self._lay_out_item(item, item.cross, item.main)
            if self.row and self._align_of(item) == "baseline":
                reach = item.cross_before + _baseline_of(item.fragment)
                above = max(above, reach)
                below = max(below, item.cross + item.cross_margins - reach)
        tallest = max((item.cross + item.cross_margins for item in line.items), default=0.0)
        line.cross = max(tallest, above + below)

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
        if not self.row:
            return self.inner_width
        if self.inner_height is not None:
            return (
                clamp_height(self.style, self.inner_height + self.edges.down, self.space.height, self.edges.down)
                - self.edges.down
            )
        return None

    def _cross_extent(self, lines: list[FlexLine]) -> float:
        return sum(line.cross for line in lines) + self.cross_gap * max(0, len(lines) - 1)

    def _align_lines(self, lines: list[FlexLine]) -> None:
        """align-content (§9.6, step 16)."""
        given = self._definite_cross()
        extent = self._cross_extent(lines)
        spare = 0.0 if given is None else given - extent
        start, between = distribute(self.style.align_content, spare, len(lines), self.cross_gap)
        position = start
        for line in lines:
            line.position = position
            position += line.cross + between

    def _reverse_lines(self, lines: list[FlexLine]) -> None:
        total = self._definite_cross()
        total = self._cross_extent(lines) if total is None else total
        for line in lines:
            line.position = total - line.position - line.cross

    # ---- placing (§9.5, §9.6) ----

    def _align_of(self, item: Item) -> str:
        align = item.box.style.align_self
        align = self.style.align_items if align == "auto" else align
        return "stretch" if align == "normal" else align

    def _place_line(self, line: FlexLine, main: float, fragment: Fragment) -> None:
        spare = main - sum(item.main + item.margins for item in line.items)
        spare -= self.main_gap * (len(line.items) - 1)
        spare = self._give_auto_margins(line, spare)
        align = self.style.justify_content
        start, between = distribute("flex-start" if align == "normal" else align, spare, len(line.items), self.main_gap)
        baseline = max(
            (
                item.cross_before + _baseline_of(item.fragment)
                for item in line.items
                if item.fragment and self._align_of(item) == "baseline"
            ),
            default=0.0,
        )
        position = start
        for item in line.items:
            along = position + item.margin_before
            position += item.main + item.margins + between
            if self.reverse:
                along = main - along - item.main
            self._place_item(item, line, along, baseline, fragment)

    def _give_auto_margins(self, line: FlexLine, spare: float) -> float:
        """Auto margins take positive free space first (§8.1)."""
        before, after = ("left", "right") if self.row else ("top", "bottom")
        count = sum((before in i.auto_margins) + (after in i.auto_margins) for i in line.items)
        if not count or spare <= 0:
            return spare
        for item in line.items:
            if before in item.auto_margins:
                item.margin_before += spare / count
            if after in item.auto_margins:
                item.margin_after += spare / count
        return 0.0

    def _place_item(self, item: Item, line: FlexLine, along: float, baseline: float, fragment: Fragment) -> None:
        align = self._align_of(item)
        style = item.box.style
        sides = ("top", "bottom") if self.row else ("left", "right")
        autos = [side for side in sides if side in item.auto_margins]
        stretches = align == "stretch" and not autos
        if self.row and stretches and style.height == "auto":
            edges = edges_of(style, self.inner_width)
            height = clamp_height(style, line.cross - item.cross_margins, self.inner_height, edges.down)
            if abs(height - item.cross) > SLACK:
                item.fragment = self._lay_out_item(item, item.main, height)
                item.cross = height
        assert item.fragment is not None
        spare = line.cross - item.cross - item.cross_margins
        across = line.position + item.cross_before
        if autos and spare > 0:
            across += spare / len(autos) if sides[0] in autos else 0.0
        elif align in ("center",):
            across += spare / 2
        elif align in ("flex-end", "end", "self-end", "right"):
            across += spare
        elif align == "baseline" and self.row:
            across = line.position + baseline - _baseline_of(item.fragment)
        x, y = (along, across) if self.row else (across, along)
        item.fragment.x = self.edges.left + x
        item.fragment.y = self.edges.top + y
        fragment.children.append(item.fragment)
        assert item.space is not None
        self.spaces.append(item.space)

    def _baseline(self, fragment: Fragment) -> float | None:
        for child in fragment.children:
            if isinstance(child, Fragment) and child.baseline is not None:
                return child.y + child.baseline
        return None


def _baseline_of(fragment: Fragment | None) -> float:
    if fragment is None:
        return 0.0
    return fragment.height if fragment.baseline is None else fragment.baseline


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
