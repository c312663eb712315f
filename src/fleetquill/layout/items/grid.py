"""Grid layout (CSS Grid 2): items placed on tracks, tracks sized by what is in them."""

from __future__ import annotations

from collections.abc import Callable

from fleetquill.layout.block.replaced import used_size
from fleetquill.layout.boxes.boxes import PictureBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import content_widths
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
)
from fleetquill.layout.contract.space import Laid, Space
from fleetquill.layout.inline.lines import border_box_width
from fleetquill.layout.items.boxes import GridBox, Whole
from fleetquill.layout.items.grid_placement import Item, place_items
from fleetquill.layout.items.grid_tracks import Sized, Span, size_tracks
from fleetquill.layout.items.items import distribute, lay_out_item, layout_container, stand_anchors, whole_of
from fleetquill.style.lengths import resolve_auto


def layout_grid(box: GridBox, space: Space, resume: Resume | None) -> Laid:
    """A grid container; it breaks between its rows and inside its items."""
    return layout_container(_Grid, box, space, resume)


class _Grid:
    def __init__(self, box: GridBox, space: Space) -> None:
        self.box = box
        self.space = space
        self.context = space.context
        self.style = style = box.style
        self.edges = edges_of(style, space.width)
        self.width = border_box_width(box, space) if space.fixed_width is None else space.fixed_width
        self.inner_width = max(0.0, self.width - self.edges.across)
        given = own_height(style, space.height, self.edges.down) if space.fixed_height is None else space.fixed_height
        if given is not None and space.fixed_height is None:
            given = clamp_height(style, given, space.height, self.edges.down)
        self.inner_height = None if given is None else max(0.0, given - self.edges.down)
        self.column_gap = length_or_zero(style.column_gap, self.inner_width)
        self.row_gap = length_or_zero(style.row_gap, self.inner_height or 0.0)

    def lay_out(self) -> Whole:
        style = self.style
        items, columns, rows = place_items(self.box, self.inner_width, self.inner_height, self.column_gap, self.row_gap)
        spans = [self._across(item) for item in items]
        stretch = style.justify_content in ("normal", "stretch")
        size_tracks(columns, spans, self.inner_width, self.column_gap, stretch=stretch)
        column_starts = _starts(columns, self.column_gap, self.inner_width, style.justify_content)
        for item in items:
            self._lay_out_in_column(item, column_starts, columns)
        row_spans = [self._down(item) for item in items]
        stretch = style.align_content in ("normal", "stretch")
        low = clamp_height(style, self.edges.down, self.space.height, self.edges.down) - self.edges.down
        size_tracks(rows, row_spans, self.inner_height, self.row_gap, stretch=stretch, floor=low)
        total = _extent(rows, self.row_gap)
        height = self.inner_height
        if height is None:
            down = self.edges.down
            height = clamp_height(style, total + down, self.space.height, down) - down
            if height > total + 0.01 and stretch:
                _stretch_to(rows, height - total)
        row_starts = _starts(rows, self.row_gap, height, style.align_content)
        fragment = Fragment(self.box, self.width, height + self.edges.down)
        spaces = []
        for item in items:
            spaces.append(self._place(item, column_starts, columns, row_starts, rows, fragment))
        fragment.baseline = next(
            (c.y + c.baseline for c in fragment.children if isinstance(c, Fragment) and c.baseline is not None), None
        )
        stand_anchors(self.box, fragment, self.space, spaces, self.inner_width, self.edges)
        return whole_of(fragment, spaces, self.edges, self.row_gap, context=self.context)

    # ---- items ----

    def _across(self, item: Item) -> Span:
        """Width contributions of an item (§11.5, §6.6 for the automatic minimum)."""
        style = item.box.style
        narrow, wide = content_widths(item.box, self.context)
        margins = sum(margin_left_right(style, self.inner_width, None))
        across = edges_of(style, self.inner_width).across
        low, high = limits(style, self.inner_width, across)
        narrow, wide = max(low, min(narrow, high)), max(low, min(wide, high))
        if style.min_width == "auto":
            least = across if style.overflow != "visible" else narrow
        else:
            least = low
        if not isinstance(style.width, str):
            least = max(least, min(narrow, wide)) if isinstance(style.width, float) else least
        return Span(item.column, item.columns, least + margins, narrow + margins, wide + margins)

    def _align(self, item: Item, *, across: bool) -> str:
        style = item.box.style
        own = style.justify_self if across else style.align_self
        align = (self.style.justify_items if across else self.style.align_items) if own == "auto" else own
        if align == "normal":
            return "start" if isinstance(item.box, PictureBox) or style.aspect_ratio[1] else "stretch"
        return align

    def _area_width(self, item: Item, starts: list[float], columns: list[Sized]) -> float:
        last = item.column + item.columns - 1
        return starts[last] + columns[last].base - starts[item.column]

    def _lay_out_in_column(self, item: Item, starts: list[float], columns: list[Sized]) -> None:
        area = self._area_width(item, starts, columns)
        style = item.box.style
        edges = edges_of(style, area)
        left, right = resolve_auto(style.margin_left, area), resolve_auto(style.margin_right, area)
        free = max(0.0, area - (left or 0.0) - (right or 0.0))
        width = own_width(style, area, edges.across)
        if isinstance(item.box, PictureBox):
            width = used_size(item.box, area, self.inner_height, edges)[0] if width is None else width
        elif width is None:
            least, most = content_widths(item.box, self.context)
            stretches = self._align(item, across=True) == "stretch" and left is not None and right is not None
            if stretches and style.width == "auto":
                width = max(edges.across, free)
            else:
                width = {"min-content": least, "max-content": most}.get(str(style.width), max(least, min(most, free)))
            width = clamp_width(style, width, area, edges.across)
        item.space = Space(self.context, area, None, page=self.space.page, fixed_width=width)
        item.fragment = lay_out_item(item.box, item.space)

    def _down(self, item: Item) -> Span:
        assert item.fragment is not None and item.space is not None
        style = item.box.style
        margins = length_or_zero(style.margin_top, item.space.width) + length_or_zero(
            style.margin_bottom, item.space.width
        )
        height = item.fragment.height + margins
        return Span(item.row, item.rows, height, height, height)

    def _place(
        self, item: Item, column_starts: list[float], columns: list[Sized], row_starts: list[float],
        rows: list[Sized], fragment: Fragment,
    ) -> Space:  # fmt: skip
        assert item.space is not None and item.fragment is not None
        style = item.box.style
        area_width = self._area_width(item, column_starts, columns)
        last = item.row + item.rows - 1
        area_height = row_starts[last] + rows[last].base - row_starts[item.row]
        top, bottom = resolve_auto(style.margin_top, area_width), resolve_auto(style.margin_bottom, area_width)
        left, right = resolve_auto(style.margin_left, area_width), resolve_auto(style.margin_right, area_width)
        free = max(0.0, area_height - (top or 0.0) - (bottom or 0.0))
        align = self._align(item, across=False)
        laid = item.fragment
        edges = edges_of(style, area_width)
        stretches = align == "stretch" and style.height == "auto" and None not in (top, bottom)
        space = item.space._replace(height=area_height)
        if stretches and not isinstance(item.box, PictureBox):
            height = clamp_height(style, max(edges.down, free), area_height, edges.down)
            if abs(height - laid.height) > 0.01:
                space = space._replace(fixed_height=height)
                laid = lay_out_item(item.box, space)
        elif not isinstance(style.height, (float, str)):
            laid = lay_out_item(item.box, space)
        y = _aligned(align, top, bottom, area_height - laid.height)
        x = _aligned(self._align(item, across=True), left, right, area_width - laid.width)
        if self.style.direction == "rtl":
            x = area_width - laid.width - _aligned(self._align(item, across=True), right, left, area_width - laid.width)
            start = self.inner_width - column_starts[item.column] - area_width
        else:
            start = column_starts[item.column]
        laid.x = self.edges.left + start + x
        laid.y = self.edges.top + row_starts[item.row] + y
        fragment.children.append(laid)
        return space


def _aligned(align: str, before: float | None, after: float | None, spare: float) -> float:
    """Where the border box starts in its area; `spare` is the area without it."""
    rest = spare - (before or 0.0) - (after or 0.0)
    if before is None and after is None:
        return max(0.0, rest / 2)
    if before is None:
        return max(0.0, rest)
    if after is None or align in ("stretch", "start", "flex-start", "self-start", "left", "baseline", "normal"):
        return before
    return before + (rest / 2 if align == "center" else rest)


def _extent(tracks: list[Sized], gap: float) -> float:
    return sum(t.base for t in tracks) + gap * max(0, sum(not t.collapsed for t in tracks) - 1)


def _stretch_to(rows: list[Sized], spare: float) -> None:
    autos = [row for row in rows if row.track.most == "auto"]
    for row in autos:
        row.base += spare / len(autos)


def _starts(tracks: list[Sized], gap: float, available: float, align: str) -> list[float]:
    """Where each track starts, with what justify-content or align-content makes of spare room (§10.5)."""
    spare = available - _extent(tracks, gap)
    position, between = distribute(align, spare, sum(not t.collapsed for t in tracks), gap)
    starts = []
    for track in tracks:
        starts.append(position)
        if not track.collapsed:
            position += track.base + between
    return starts


def grid_content_widths(box: GridBox, context: Context) -> tuple[float, float]:
    """Sums of the tracks under a min-content and a max-content constraint (§5.2)."""
    gap = length_or_zero(box.style.column_gap, 0.0)
    sizes: list[float] = []
    measure: tuple[Callable[[Span], Span], ...] = (
        lambda s: Span(s.first, s.tracks, s.least, s.narrow, s.narrow),
        lambda s: s,
    )
    for shape in measure:
        items, columns, _ = place_items(box, None, None, gap, 0.0)
        spans = []
        for item in items:
            narrow, wide = content_widths(item.box, context)
            margins = sum(margin_left_right(item.box.style, 0.0, None))
            spans.append(shape(Span(item.column, item.columns, narrow + margins, narrow + margins, wide + margins)))
        size_tracks(columns, spans, None, gap, stretch=False)
        sizes.append(_extent(columns, gap))
    return sizes[0], max(sizes)
