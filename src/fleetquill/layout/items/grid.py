"""Grid layout (CSS Grid 2): items placed on tracks, tracks sized by what is in them."""

from __future__ import annotations

import math

from fleetquill.layout.block.ends import full_height
from fleetquill.layout.block.replaced import used_size
from fleetquill.layout.boxes.boxes import PictureBox
from fleetquill.layout.contract.box_edges import box_edges
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import WORDS, content_widths, fit_content, within_words
from fleetquill.layout.contract.fragments import AnchorFragment, Fragment
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.sizing import (
    clamp_height,
    clamp_width,
    edges_of,
    length_or_zero,
    limits,
    margin_left_right,
    own_width,
)
from fleetquill.layout.contract.space import Laid, Lent, Space
from fleetquill.layout.inline.lines import border_box_width
from fleetquill.layout.items.boxes import GridBox, Whole
from fleetquill.layout.items.grid_placement import Item, explicit_grid, is_subgrid, line_number, place_items
from fleetquill.layout.items.grid_tracks import Sized, Span, at_its_least, size_tracks
from fleetquill.layout.items.items import (
    asks_for_shares,
    container_baseline,
    distribute,
    lay_out_item,
    layout_container,
    stand_anchors,
    whole_of,
)
from fleetquill.style.grid_values import Line
from fleetquill.style.lengths import Auto, resolve_auto


def layout_grid(box: GridBox, space: Space, resume: Resume | None) -> Laid:
    """A grid container; it breaks between its rows and inside its items."""
    return layout_container(_Grid, box, space, resume)


class _Grid:
    def __init__(self, box: GridBox, space: Space) -> None:
        self.box = box
        self.space = space
        self.context = space.context
        self.style = style = box.style
        self.edges = box_edges(box, space.width)
        self.width = border_box_width(box, space) if space.fixed_width is None else space.fixed_width
        self.inner_width = max(0.0, self.width - self.edges.across)
        given = space.known_height(style, self.width, self.edges)
        self.inner_height = None if given is None else max(0.0, given - self.edges.down)
        self.column_gap = length_or_zero(style.column_gap, self.inner_width)
        self.row_gap = length_or_zero(style.row_gap, self.inner_height or 0.0)
        lent = space.lent
        self.lent: tuple[tuple[float, ...] | None, tuple[float, ...] | None] = (None, None)
        if lent is not None:
            if lent.columns is not None and style.column_gap == "normal":
                self.column_gap = lent.column_gap
            if lent.rows is not None and style.row_gap == "normal":
                self.row_gap = lent.row_gap
            edges = self.edges
            self.lent = (
                taken_over(lent.columns, lent.column_gap, self.column_gap, (edges.left, edges.right)),
                taken_over(lent.rows, lent.row_gap, self.row_gap, (edges.top, edges.bottom)),
            )

    def lay_out(self) -> Whole:
        style = self.style
        items, columns, rows = self._placed()
        spans = [span for item in items for span in self._spans_across(item)]
        stretch = style.justify_content in ("normal", "stretch")
        size_tracks(columns, spans, self.inner_width, self.column_gap, stretch=stretch)
        column_starts = _starts(columns, self.column_gap, self.inner_width, style.justify_content)
        for item in items:
            self._lay_out_in_column(item, column_starts, columns)
        above = self._above_baselines(items)
        row_spans = [span for item in items for span in self._spans_down(item, above)]
        stretch = style.align_content in ("normal", "stretch")
        shared = self.inner_height is None and any(row.has_share for row in rows)
        size_tracks(rows, row_spans, self.inner_height, self.row_gap, stretch=stretch, limits=self._limits_down())
        total = _extent(rows, self.row_gap)
        fragment = Fragment(self.box, self.width, 0.0)
        fragment.height = full_height(fragment, self.space, total + self.edges.down)
        height = fragment.height - self.edges.down
        if shared:  # of the height that the rows have made (§7.2.1)
            rows = self._placed()[2]
            size_tracks(rows, row_spans, height, self.row_gap, stretch=stretch)
        elif self.inner_height is None and height > total + 0.01 and stretch:
            _stretch_to(rows, height - total)
        row_starts = _starts(rows, self.row_gap, height, style.align_content)
        spaces = []
        for item in items:
            spaces.append(self._place(item, column_starts, columns, row_starts, rows, fragment, above))
        fragment.baseline = self._baseline(items)
        self._stand_anchors(fragment, spaces, (column_starts, columns), (row_starts, rows))
        return whole_of(fragment, spaces, self.edges, self.row_gap, context=self.context)

    def _limits_down(self) -> tuple[float, float]:
        """The least and most that the content box may be high."""
        down = self.edges.down
        low, high = (clamp_height(self.style, limit, self.space.height, down) - down for limit in (down, math.inf))
        return low, high

    def _baseline(self, items: list[Item]) -> float | None:
        """That of the first row: of an item that stands on its baseline, else of the first one (§10.6)."""
        top = min((item.row for item in items), default=0)
        row = sorted((item for item in items if item.row == top), key=lambda item: item.column)
        on_it = (item.fragment for item in row if self._on_baseline(item))
        return container_baseline(on_it, (item.fragment for item in row))

    def _placed(self) -> tuple[list[Item], list[Sized], list[Sized]]:
        return place_items(
            self.box, self.inner_width, self.inner_height, self.column_gap, self.row_gap, self.lent
        )  # fmt: skip

    # ---- items ----

    def _spans_across(self, item: Item) -> list[Span]:
        """What an item asks of columns; of a subgrid, what its own items do, with its edges at both ends (§9)."""
        if not (isinstance(item.box, GridBox) and is_subgrid(item.box.style.grid_template_columns)):
            return [self._across(item)]
        edges = edges_of(item.box.style, self.inner_width)
        left, right = margin_left_right(item.box.style, self.inner_width, None)
        inner = _Grid(item.box, self.space._replace(fixed_width=None, lent=_unsized(item, self)))
        found: list[Span] = []
        for child in inner._placed()[0]:
            for span in inner._spans_across(child):
                more = (left + edges.left) * (span.first == 0)
                more += (right + edges.right) * (span.first + span.tracks >= item.columns)
                tracks = min(span.tracks, item.columns - span.first) or 1
                found.append(span.more(more)._replace(first=item.column + span.first, tracks=tracks))
        return [span for span in found if span.first < item.column + item.columns]

    def _spans_down(self, item: Item, above: dict[int, float]) -> list[Span]:
        """What an item asks of rows, moved down to its row's baseline where it is on one."""
        if not (isinstance(item.box, GridBox) and is_subgrid(item.box.style.grid_template_rows)):
            span = self._down(item)
            more = max(0.0, above.get(item.row, 0.0) - self._to_baseline(item)) if self._on_baseline(item) else 0.0
            return [span.more(more)]
        assert item.space is not None
        inner = _Grid(item.box, item.space)
        edges = inner.edges
        found: list[Span] = []
        items, columns, _ = inner._placed()
        size_tracks(columns, [s for i in items for s in inner._spans_across(i)], inner.inner_width, inner.column_gap,
                    stretch=True)  # fmt: skip
        starts = _starts(columns, inner.column_gap, inner.inner_width, "normal")
        for child in items:
            inner._lay_out_in_column(child, starts, columns)
            for span in inner._spans_down(child, {}):
                more = edges.top * (span.first == 0) + edges.bottom * (span.first + span.tracks >= item.rows)
                if span.first < item.rows:
                    tracks = min(span.tracks, item.rows - span.first)
                    found.append(span.more(more)._replace(first=item.row + span.first, tracks=tracks))
        return found

    def _on_baseline(self, item: Item) -> bool:
        return self._align(item, across=False) == "baseline"

    def _to_baseline(self, item: Item) -> float:
        """From the top of an item's margin box to its first baseline."""
        assert item.fragment is not None and item.space is not None
        top = length_or_zero(item.box.style.margin_top, item.space.width)
        return top + (item.fragment.height if item.fragment.baseline is None else item.fragment.baseline)

    def _above_baselines(self, items: list[Item]) -> dict[int, float]:
        """By row: how far the items that share its baseline reach above it (§10.6)."""
        found: dict[int, float] = {}
        for item in items:
            if self._on_baseline(item):
                found[item.row] = max(found.get(item.row, 0.0), self._to_baseline(item))
        return found

    def _stand_anchors(
        self,
        fragment: Fragment,
        spaces: list[Space],
        columns: tuple[list[float], list[Sized]],
        rows: tuple[list[float], list[Sized]],
    ) -> None:
        """The anchors of positioned children, and the areas that are their containing blocks (§11)."""
        stand_anchors(self.box, fragment, self.space, spaces, self.inner_width, self.edges)
        if self.style.position == "static" or not self.box.anchors:
            return
        across, down = explicit_grid(
            self.box, self.inner_width, self.inner_height, self.column_gap, self.row_gap, self.lent
        )
        border = (self.style.border_left_width, self.style.border_top_width)
        padding = (
            fragment.width - border[0] - self.style.border_right_width,
            fragment.height - border[1] - self.style.border_bottom_width,
        )
        for anchor in fragment.children[-len(self.box.anchors) :]:
            assert isinstance(anchor, AnchorFragment)
            style = anchor.box.target.style
            beside, above = self.edges.left - border[0], self.edges.top - border[1]
            wanted = (style.grid_column_start, style.grid_column_end)
            left, right = _between(wanted, across.names, columns, beside, padding[0])
            wanted = (style.grid_row_start, style.grid_row_end)
            top, bottom = _between(wanted, down.names, rows, above, padding[1])
            if (left, right, top, bottom) != (0.0, padding[0], 0.0, padding[1]):
                anchor.containing = (left + border[0], top + border[1], right - left, bottom - top)

    def _across(self, item: Item) -> Span:
        """Width contributions of an item (§11.5, §6.6 for the automatic minimum)."""
        style = item.box.style
        narrow, wide = content_widths(item.box, self.context)
        margins = sum(margin_left_right(style, 0.0, None))
        across = edges_of(style, 0.0).across
        if style.min_width == "auto":
            least = across if style.overflow not in ("visible", "clip") else narrow
        else:
            least = narrow if style.min_width in WORDS else limits(style, 0.0, across)[0]
        if not isinstance(style.width, str):
            least = max(least, min(narrow, wide)) if isinstance(style.width, float) else least
        floor = across if style.width == style.min_width == "auto" else least
        return Span(item.column, item.columns, least, narrow, wide, floor).more(margins)

    def _align(self, item: Item, *, across: bool) -> str:
        style = item.box.style
        own = style.justify_self if across else style.align_self
        align = (self.style.justify_items if across else self.style.align_items) if own == "auto" else own
        if align == "normal":
            keeps = isinstance(item.box, PictureBox) or (style.aspect_ratio[1] and not across)
            return "start" if keeps else "stretch"
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
            stretches = self._align(item, across=True) == "stretch" and left is not None and right is not None
            if stretches and style.width == "auto":
                width = clamp_width(style, max(edges.across, free), area, edges.across)
            else:
                width = fit_content(item.box, free, area, self.context)
        width = within_words(item.box, width, free, self.context)
        item.space = Space(
            self.context, area, None, page=self.space.page, fixed_width=width, lent=self._lent_to(item, columns, None)
        )
        item.fragment = lay_out_item(item.box, item.space)

    def _lent_to(self, item: Item, columns: list[Sized], rows: list[Sized] | None) -> Lent | None:
        """The tracks that an item stands on, where it is a subgrid."""
        style = item.box.style
        if not isinstance(item.box, GridBox):
            return None
        across = down = None
        if is_subgrid(style.grid_template_columns):
            across = tuple(track.base for track in columns[item.column : item.column + item.columns])
        if rows is not None and is_subgrid(style.grid_template_rows):
            down = tuple(track.base for track in rows[item.row : item.row + item.rows])
        return None if across is None and down is None else Lent(across, down, self.column_gap, self.row_gap)

    def _down(self, item: Item) -> Span:
        assert item.fragment is not None and item.space is not None
        style = item.box.style
        margins = length_or_zero(style.margin_top, item.space.width) + length_or_zero(
            style.margin_bottom, item.space.width
        )
        height = floor = item.fragment.height
        if style.height == "auto" and not isinstance(item.box, PictureBox):
            down = edges_of(style, item.space.width).down
            floor = clamp_height(style, down, None, down)
        is_automatic = style.min_height == "auto" and style.overflow in ("visible", "clip")  # the minimum (§6.6)
        return Span(item.row, item.rows, height if is_automatic else floor, height, height, floor).more(margins)

    def _place(
        self, item: Item, column_starts: list[float], columns: list[Sized], row_starts: list[float],
        rows: list[Sized], fragment: Fragment, above: dict[int, float],
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
        space = item.space._replace(height=area_height, lent=self._lent_to(item, columns, rows))
        if space.lent is not None and space.lent.rows is not None:
            laid = lay_out_item(item.box, space)
        if stretches and not isinstance(item.box, PictureBox):
            height = clamp_height(style, max(edges.down, free), area_height, edges.down)
            if abs(height - laid.height) > 0.01 or asks_for_shares(item.box):
                space = space._replace(fixed_height=height)
                laid = lay_out_item(item.box, space)
        elif not isinstance(style.height, (float, str)):
            laid = lay_out_item(item.box, space)
        y = _aligned(align, top, bottom, area_height - laid.height)
        if self._on_baseline(item):
            y += above[item.row] - self._to_baseline(item)
        x = _aligned(self._align(item, across=True), left, right, area_width - laid.width)
        if self.style.direction == "rtl":
            x = area_width - laid.width - _aligned(self._align(item, across=True), right, left, area_width - laid.width)
            start = self.inner_width - column_starts[item.column] - area_width
        else:
            start = column_starts[item.column]
        laid.x = self.edges.left + start + x
        laid.y = self.edges.top + row_starts[item.row] + y
        fragment.children.append(laid)
        item.fragment = laid
        return space


def _unsized(item: Item, grid: _Grid) -> Lent:
    """Tracks for a subgrid while those of the grid around it are not sized yet."""
    return Lent((0.0,) * item.columns, None, grid.column_gap, grid.row_gap)


def taken_over(
    sizes: tuple[float, ...] | None, gap: float, own_gap: float, edges: tuple[float, float]
) -> tuple[float, ...] | None:
    """Tracks as a subgrid has them within its edges, where its gaps are others than those around it (§9)."""
    if not sizes:
        return sizes
    found = [size + (gap - own_gap) for size in sizes]
    found[0] -= (gap - own_gap) / 2 + edges[0]
    found[-1] -= (gap - own_gap) / 2 + edges[1]
    return tuple(max(0.0, size) for size in found)


def _between(
    wanted: tuple[Line | Auto, Line | Auto],
    names: list[tuple[str, ...]],
    placed: tuple[list[float], list[Sized]],
    before: float,
    whole: float,
) -> tuple[float, float]:
    """Where an area starts and ends in the padding box; 'auto' is that box's own edge."""
    starts, tracks = placed
    first, last = (line_number(value, names, len(names) - 1, start=at == 0) for at, value in enumerate(wanted))
    begin, end = 0.0, whole
    if first is not None and 0 <= first < len(starts):
        begin = before + starts[first]
    if last is not None and 0 < last <= len(starts):
        end = before + starts[last - 1] + tracks[last - 1].base
    return begin, max(begin, end)


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
    for grows in (False, True):
        items, columns, _ = place_items(box, None, None, gap, 0.0)
        if not grows:  # no room is left that a track could grow into
            for column in columns:
                column.track = at_its_least(column.track)
        spans = []
        for item in items:
            narrow, wide = content_widths(item.box, context)
            margins = sum(margin_left_right(item.box.style, 0.0, None))
            spans.append(Span(item.column, item.columns, narrow, narrow, wide, narrow).more(margins))
        size_tracks(columns, spans, None, gap, stretch=False)
        sizes.append(_extent(columns, gap))
    return sizes[0], max(sizes)
