"""Table layout: rows over as many pages as they need, head and foot on each (CSS Tables 3)."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Final, NamedTuple

from fleetquill.layout.block import breaks
from fleetquill.layout.boxes.boxes import RowBox, RowGroupBox, TableBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import layout
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.contract.sizing import edges_of, own_height
from fleetquill.layout.contract.space import SLACK, UNBOUNDED, Laid, Resume, Space
from fleetquill.layout.table.cells import CellPiece, cell_baseline, lay_out_cell, move_content
from fleetquill.layout.table.geometry import (
    Geometry,
    TableDetail,
    collapsed_of,
    columns_of,
    contributions_of,
    geometry_of,
    grid_of,
    least_of_captions,
)
from fleetquill.layout.table.grid import Grid, GridCell
from fleetquill.layout.table.widths import preferred_width
from fleetquill.style.values import resolve_auto

BASELINE: Final = frozenset(("baseline", "sub", "super", "text-top", "text-bottom"))


class Caption(NamedTuple):
    """A caption as it was laid out, its upper margin, and its height with both margins."""

    fragment: Fragment
    above: float
    outer: float


class Band(NamedTuple):
    """Rows laid out together: their heights and the pieces of their cells."""

    first: int
    heights: list[float]
    pieces: list[CellPiece]

    @property
    def height(self) -> float:
        return sum(self.heights)


def layout_table(box: TableBox, space: Space, resume: Resume | None) -> Laid:
    """Captions, then rows from `resume.at` on; `resume.inner` goes on inside cells."""
    geometry = geometry_of(box, space)
    if geometry.grid.column_count == 0 and not box.children:
        return _empty_table(box, space, geometry)
    laid = TablePage(box, space, geometry, resume, ends=True).lay_out()
    if laid.resume is not None and last_page_differs(box, geometry.grid):
        laid = TablePage(box, space, geometry, resume, ends=False).lay_out()
    return laid


def last_page_differs(box: TableBox, grid: Grid) -> bool:
    """Whether more or less stands below the last rows of a table than below those of its other pages."""
    return any(caption.style.caption_side == "bottom" for caption in box.children) or any(
        group.style.fq_show_on in ("going-on", "last") for group, _ in grid.ranges("foot")
    )


def _empty_table(box: TableBox, space: Space, geometry: Geometry) -> Laid:
    height = own_height(box.style, space.height, geometry.top + geometry.bottom)
    fragment = Fragment(box, geometry.width, height or geometry.top + geometry.bottom)
    fragment.detail = TableDetail(0.0, fragment.height, geometry, [])
    return Laid(fragment, None)


class TablePage:
    """Lays out the part of a table that stands on one page."""

    def __init__(self, box: TableBox, space: Space, geometry: Geometry, resume: Resume | None, *, ends: bool) -> None:
        self.box = box
        self.ends = ends  # whether the table is expected to end on this page
        self.contributions = contributions_of(box, space.context)
        self.space = space
        self.geometry = geometry
        self.grid = geometry.grid
        self.resume = resume
        self.inner: dict[GridCell, Resume] = dict(resume.inner) if resume and resume.inner else {}
        self.fragment = Fragment(box, geometry.width, 0.0)
        self.fragment.first = resume is None
        self.y = 0.0
        self.rows: list[tuple[int, float, float]] = []
        self.group_fragments: dict[int, Fragment] = {}
        self.forced = ""
        self.baselines: dict[int, float] = {}
        self.head_rows = 0
        self.kept_free = 0.0  # height for what stands below the last rows of the table alone
        self.page_start = 0
        self.at = 0  # the body row that comes next
        self.repeated_at: int | None = None

    def lay_out(self) -> Laid:
        if self.resume is None:
            self._place_captions(self._captions("top"))
        top = self.y
        self.y += self.geometry.top + self.geometry.spacing_down
        start = self.page_start = self.at = self._start()
        for group, rows in self.grid.ranges("head"):
            if self._is_shown(group):
                self.place(self._repeated(rows, start))
        self.head_rows = len(self.rows)
        below = self._captions("bottom") if self.ends else []
        caption_height = sum(caption.outer for caption in below)
        feet = [(group, rows) for group, rows in self.grid.ranges("foot") if self._is_shown(group)]
        heights = [self._repeated(rows, start).height for _, rows in feet]
        of_last = [h for (group, _), h in zip(feet, heights, strict=True) if group.style.fq_show_on == "last"]
        self.kept_free = caption_height + sum(of_last)
        room = self.space.room - self.geometry.bottom - sum(heights) - caption_height + SLACK
        next_row, placed = self._body(start, room)
        if next_row is None and not self.ends:
            stop = self.at
            next_row = self._give_back(stop)
            if next_row == stop and not self.space.at_top:  # its only row goes on with what stands below it
                return Laid(None, self.resume or Resume())
        if not placed and next_row is not None and not self.space.at_top:
            return Laid(None, self.resume or Resume())
        for _, rows in feet:
            self.place(self._repeated(rows, self.at if next_row is None else next_row))
        self.y += self.geometry.bottom
        self._stretch(top, next_row, caption_height)
        detail = TableDetail(top, self.y - top, self.geometry, self.rows)
        if next_row is None:
            self._place_captions(below)
        self.fragment.detail = detail
        self.fragment.height = self.y
        self.fragment.last = next_row is None
        self.fragment.baseline = _first_row_baseline(self.fragment)
        if next_row is None:
            return Laid(self.fragment, None)
        return Laid(self.fragment, Resume(next_row, tuple(self.inner.items()), self.forced))

    def _start(self) -> int:
        """The first body row of this page."""
        return max(self.grid.body.start, self.resume.at) if self.resume else self.grid.body.start

    def last_row(self) -> Fragment:
        """The row that was placed last."""
        group = self.group_fragments[id(self.grid.row_group[self.rows[-1][0]])]
        row = group.children[-1]
        assert isinstance(row, Fragment)
        return row

    def _is_shown(self, group: RowGroupBox) -> bool:
        """Whether a head or foot stands on this page (-fq-show-on)."""
        when = group.style.fq_show_on
        if when == "continued":
            return self.resume is not None
        return when == "every" or (when == "last") == self.ends

    def _give_back(self, stop: int) -> int:
        """All rows fit, but not with the foot of the last page: the last row goes on to that page."""
        body_rows = len(self.rows) - self.head_rows
        if body_rows < 2:
            return stop
        index, _, height = self.rows.pop()
        self._take_back(index)
        self.y -= height + self.geometry.spacing_down
        return index

    def _tell_tallies(self, place: int, row: int) -> None:
        """What tallies say after `place` rows, for cells of `row`."""
        if self.contributions is not None:
            self.space.context.tallies = self.contributions.view(self.page_start, place, self.grid.group_range(row))

    def _captions(self, side: str) -> list[Caption]:
        """The captions on that side, laid out."""
        found: list[Caption] = []
        for caption in self.box.children:
            if caption.style.caption_side != side:
                continue
            inner = Space(self.space.context, self.geometry.width, room=UNBOUNDED, page=self.space.page)
            laid = layout(caption, inner, None).fragment
            if laid is not None:
                above = resolve_auto(caption.style.margin_top, self.geometry.width) or 0.0
                below = resolve_auto(caption.style.margin_bottom, self.geometry.width) or 0.0
                found.append(Caption(laid, above, above + laid.height + below))
        return found

    def _place_captions(self, captions: list[Caption]) -> None:
        for caption in captions:
            caption.fragment.y = self.y + caption.above
            self.fragment.children.append(caption.fragment)
            self.y += caption.outer

    def _repeated(self, rows: range, place: int) -> Band:
        """A head or foot, laid out anew for this page; tallies count the rows before `place`."""
        self.repeated_at = place
        band = self.band(rows.start, rows.stop, UNBOUNDED, {})
        self.repeated_at = None
        return band

    def _body(self, row: int, room: float) -> tuple[int | None, bool]:
        """Places body rows until the room is used up; the row to go on with, or None."""
        body = self.grid.body
        placed = False
        while row < body.stop:
            if placed and not self.inner and room < UNBOUNDED and self._forced_before(row):
                return row, True
            end = min(self.grid.band_end(row), body.stop)
            band = self.band(row, end, UNBOUNDED, self.inner)
            if self.y + band.height <= room:
                self.place(band)
                self.inner = {}
                placed = True
                row = end
                continue
            if (placed or not self.space.at_top) and not self._taller_than_a_page(band):
                return (self._step_back(row) if placed else row), placed
            if self.y + band.height <= room + self.kept_free:  # there is room where the table does not end here
                return row, placed
            started = self._break_band(row, end, room, placed)
            if started is None:
                if placed or not self.space.at_top:
                    return row, placed
                self._overflow(band)
                row = end
                placed = True
                continue
            return started, True
        self.at = row
        return None, placed

    def _forced_before(self, row: int) -> bool:
        """Whether a forced break stands before a row or before the group that it begins."""
        grid = self.grid
        kind = breaks.forced_between(grid.rows[row - 1], grid.rows[row])
        if not kind and grid.row_group[row] is not grid.row_group[row - 1]:
            kind = breaks.forced_between(grid.row_group[row - 1], grid.row_group[row])
        self.forced = kind
        return bool(kind)

    def _step_back(self, row: int) -> int:
        """The row to break before, given that `row` does not fit: `avoid` takes rows along."""
        first = self.rows[self.head_rows][0] if len(self.rows) > self.head_rows else row
        wanted = row
        while wanted > first and self._avoids_break_before(wanted):
            wanted -= 1
        if wanted <= first:
            return row
        while self.rows and self.rows[-1][0] >= wanted:
            index, _, height = self.rows.pop()
            self._take_back(index)
            self.y -= height + self.geometry.spacing_down
        return wanted

    def _avoids_break_before(self, row: int) -> bool:
        grid = self.grid
        previous, following = grid.rows[row - 1], grid.rows[row]
        if breaks.avoided_between(previous, following):
            return True
        same = grid.row_group[row] is grid.row_group[row - 1]
        if same:
            return breaks.avoided_inside(grid.row_group[row])
        return breaks.avoided_between(grid.row_group[row - 1], grid.row_group[row])

    def _take_back(self, row: int) -> None:
        group = self.group_fragments[id(self.grid.row_group[row])]
        taken = group.children.pop()
        assert isinstance(taken, Fragment)
        group.height -= taken.height + (self.geometry.spacing_down if group.children else 0.0)
        if not group.children:
            self.fragment.children.remove(group)
            del self.group_fragments[id(self.grid.row_group[row])]

    def _taller_than_a_page(self, band: Band) -> bool:
        around = self.geometry.top + self.geometry.bottom + 2 * self.geometry.spacing_down
        repeated = sum(height for _, _, height in self.rows[: self.head_rows])
        return band.height + around + repeated > self.space.page

    def _break_band(self, row: int, end: int, room: float, placed: bool) -> int | None:
        """Breaks a band that is taller than a page: between its rows, else inside its cells."""
        rest = room - self.y
        if end - row > 1:
            whole = self.band(row, end, UNBOUNDED, self.inner)
            fit = 0
            while fit < len(whole.heights) and sum(whole.heights[: fit + 1]) <= rest:
                fit += 1
            for count in range(fit, 0, -1):  # cells that go on below may make the last of these rows higher
                band = self.band(row, row + count, sum(whole.heights[:count]), self.inner)
                if band.height <= rest:
                    self.place(band)
                    self.inner = _going_on(band, row + count)
                    return row + count
        band = self.band(row, row + 1, rest, self.inner)
        if all(piece.fragment.height <= 0 or not piece.fragment.children for piece in band.pieces):
            return None
        if not any(piece.resume for piece in band.pieces):
            return None
        if band.height > rest and (placed or not self.space.at_top):  # not so much as a line fits
            return None
        self.place(band)
        self.inner = _going_on(band, row)
        return row

    def _overflow(self, band: Band) -> None:
        over = (self.y + band.height - self.space.room) * 0.75
        self.space.context.remark(
            "overflow",
            f"A table row is {over:.1f} pt taller than its page and cannot be broken.",
            self.grid.rows[band.first].element,
        )
        self.place(band)
        self.inner = {}

    # ---- rows and cells ----

    def band(
        self, first: int, stop: int, room: float = UNBOUNDED, inner: Mapping[GridCell, Resume] = MappingProxyType({})
    ) -> Band:
        """Lays out rows [first, stop) with at most `room` px for what stands in their cells."""
        heights = [self._row_height(self.grid.rows[row]) for row in range(first, stop)]
        pieces: list[CellPiece] = []
        late: list[CellPiece] = []
        for row in range(first, stop):
            self._tell_tallies(row + 1 if self.repeated_at is None else self.repeated_at, row)
            height = heights[row - first]
            on_baseline = False
            for cell in self._cells_on(row, first, inner):
                piece = lay_out_cell(cell, self.geometry, self.space, room, inner.get(cell))
                pieces.append(piece)
                if cell.rows > 1 and min(cell.row + cell.rows, stop) - max(cell.row, first) > 1:
                    late.append(piece)
                else:
                    height = max(height, piece.fragment.height)
                on_baseline = on_baseline or cell.box.style.vertical_align in BASELINE
            heights[row - first] = max(height, self._baseline_height(row, pieces)) if on_baseline else height
        between = self.geometry.spacing_down
        for piece in late:
            begin = max(piece.cell.row, first) - first
            end = min(piece.cell.row + piece.cell.rows, stop) - first
            missing = piece.fragment.height - sum(heights[begin:end]) - between * (end - begin - 1)
            if missing > 0:
                heights[end - 1] += missing
        return Band(first, [height + between for height in heights], pieces)

    def _cells_on(self, row: int, first: int, inner: Mapping[GridCell, Resume]) -> list[GridCell]:
        """The cells that begin in a row, and at the top of a page those that go on into it."""
        cells = self.grid.cells_of[row]
        if row == first and inner:
            return cells + [cell for cell in inner if cell.row < row]
        return cells

    def _row_height(self, row: RowBox) -> float:
        return own_height(row.style, None, 0.0) or 0.0

    def _baseline_height(self, row: int, pieces: list[CellPiece]) -> float:
        """The height that cells aligned on a shared baseline ask for together."""
        above = below = 0.0
        for piece in pieces:
            style = piece.cell.box.style
            if piece.cell.row == row and piece.cell.rows == 1 and style.vertical_align in BASELINE:
                baseline = cell_baseline(piece.fragment)
                above = max(above, baseline)
                below = max(below, piece.fragment.height - baseline)
        return above + below

    def place(self, band: Band) -> None:
        """Puts a band's rows and cells into the fragment at the present height."""
        between = self.geometry.spacing_down
        row_fragments: list[Fragment] = []
        tops: list[float] = []
        for offset, height in enumerate(band.heights):
            index = band.first + offset
            row_fragment = Fragment(self.grid.rows[index], self._row_width(), height - between)
            group = self._group(index)
            row_fragment.x = 0.0
            row_fragment.y = self.y - group.y
            group.height = row_fragment.y + row_fragment.height
            group.children.append(row_fragment)
            row_fragments.append(row_fragment)
            tops.append(self.y)
            self.rows.append((index, self.y, height - between))
            self.y += height
        self.baselines = _shared_baselines(band)
        for piece in band.pieces:
            self._place_cell(piece, band, row_fragments, tops)

    def _row_width(self) -> float:
        return self.geometry.lefts[-1] + self.geometry.widths[-1] - self.geometry.lefts[0]

    def _group(self, row: int) -> Fragment:
        group = self.grid.row_group[row]
        fragment = self.group_fragments.get(id(group))
        if fragment is None:
            fragment = Fragment(group, self._row_width(), 0.0)
            fragment.x = self.geometry.lefts[0]
            fragment.y = self.y
            self.group_fragments[id(group)] = fragment
            self.fragment.children.append(fragment)
        return fragment

    def _place_cell(self, piece: CellPiece, band: Band, rows: list[Fragment], tops: list[float]) -> None:
        cell, fragment, _ = piece
        begin = max(0, cell.row - band.first)
        end = min(len(rows), cell.row + cell.rows - band.first)
        natural = fragment.height
        fragment.height = tops[end - 1] + rows[end - 1].height - tops[begin]
        fragment.x = self.geometry.lefts[cell.column] - self.geometry.lefts[0]
        fragment.y = 0.0
        shift = self._vertical_shift(piece, natural, fragment.height)
        if shift:
            move_content(fragment, shift)
        rows[begin].children.append(fragment)

    def _vertical_shift(self, piece: CellPiece, natural: float, height: float) -> float:
        """How far the content moves down in its cell (CSS 2.2 §17.5.3)."""
        align = piece.cell.box.style.vertical_align
        if piece.resume is not None or not piece.fragment.first:
            return 0.0
        if align == "middle":
            return (height - natural) / 2
        if align == "bottom":
            return height - natural
        if align == "top" or piece.cell.rows > 1:
            return 0.0
        return self.baselines[piece.cell.row] - cell_baseline(piece.fragment)

    def _stretch(self, top: float, next_row: int | None, below: float) -> None:
        """A table with a height of its own: its rows share what is left over and the page has room for (§3.11)."""
        given = own_height(self.box.style, self.space.height, self.geometry.top + self.geometry.bottom)
        if given is None or next_row is not None or self.resume is not None or not self.rows:
            return
        spare = given - (self.y - top)
        room = self.space.room - below - self.y
        if spare > room + SLACK:
            over = (spare - room) * 0.75
            self.space.context.remark(
                "overflow", f"The table asks to be {over:.1f} pt taller than its page has room for.", self.box.element
            )
            spare = room
        if spare <= 0:
            return
        share = spare / len(self.rows)
        for number, (index, y, height) in enumerate(list(self.rows)):
            self.rows[number] = (index, y + share * number, height + share)
        moved = 0.0
        for group in self.fragment.children:
            if isinstance(group, Fragment) and group.box in self.grid.row_group:
                group.y += moved
                for number, row in enumerate(group.children):
                    assert isinstance(row, Fragment)
                    row.y += share * number
                    row.height += share
                    for cell in row.children:
                        assert isinstance(cell, Fragment)
                        self._heighten(cell, share)
                group.height += share * len(group.children)
                moved += share * len(group.children)
        self.y += spare

    def _heighten(self, fragment: Fragment, share: float) -> None:
        """A cell whose rows have each become higher by `share`."""
        cell = self.grid.cell_of[fragment.box]
        more = share * sum(cell.row <= index < cell.row + cell.rows for index, _, _ in self.rows)
        fragment.height += more
        align = cell.box.style.vertical_align
        if align in ("middle", "bottom"):
            move_content(fragment, more / 2 if align == "middle" else more)


def _shared_baselines(band: Band) -> dict[int, float]:
    """By row: the lowest baseline of the cells that share one."""
    found: dict[int, float] = {}
    for piece in band.pieces:
        if piece.cell.rows == 1 and piece.cell.box.style.vertical_align not in ("top", "middle", "bottom"):
            row = piece.cell.row
            found[row] = max(found.get(row, 0.0), cell_baseline(piece.fragment))
    return found


def _going_on(band: Band, row: int) -> dict[GridCell, Resume]:
    """Where the cells that reach into `row` on the next page go on; past their end where all is laid out."""
    return {
        piece.cell: piece.resume or Resume(len(piece.cell.box.children))
        for piece in band.pieces
        if piece.cell.row + piece.cell.rows > row
    }


def _first_row_baseline(fragment: Fragment) -> float | None:
    for group in fragment.children:
        if isinstance(group, Fragment) and group.children:
            row = group.children[0]
            if isinstance(row, Fragment):
                for cell in row.children:
                    if isinstance(cell, Fragment) and cell.baseline is not None:
                        return group.y + row.y + cell.y + cell.baseline
    return None


def table_content_widths(box: TableBox, context: Context) -> tuple[float, float]:
    """Least and most width of the table without its own border and padding."""
    grid = grid_of(box)
    collapsed = collapsed_of(box, grid)
    across = 0.0 if collapsed else box.style.border_spacing[0]
    least, most = preferred_width(columns_of(box, grid, context, across))
    more = across * (grid.column_count + 1)
    own = edges_of(box.style, 0.0).across
    if collapsed is not None:
        _, right, _, left = collapsed.outer()
        more += right + left - own
    captions = least_of_captions(box, context) - own
    return max(least + more, captions), max(most + more, captions)
