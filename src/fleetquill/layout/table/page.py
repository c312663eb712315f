"""The part of a table that stands on one page: captions, heads, as many rows as fit, feet (CSS Tables 3 §3.1)."""

from __future__ import annotations

from functools import partial
from typing import NamedTuple

from fleetquill.layout.block.block import flow_children
from fleetquill.layout.boxes.boxes import Box, RowGroupBox
from fleetquill.layout.contract.dispatch import layout
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.contract.resume import BrokenCells, Resume
from fleetquill.layout.contract.space import SLACK, UNBOUNDED, Laid, Space
from fleetquill.layout.table.bands import BASELINE, FROM_THE_START, Band, Places, RowLayout, row_fragments
from fleetquill.layout.table.boxes import RowsBox, TableBox
from fleetquill.layout.table.grid import Grid
from fleetquill.layout.table.measures import (
    CellFragment,
    Geometry,
    HeldRowsFragment,
    RowsFragment,
    TableDetail,
    TableFragment,
)
from fleetquill.layout.table.plan import Ask, Block, BodyPlan, BodyRows, Held
from fleetquill.style.lengths import resolve_auto


class Caption(NamedTuple):
    """A caption as it was laid out, its upper margin, and its height with both margins."""

    fragment: Fragment
    above: float
    outer: float


def lay_out_table(
    box: Box, table: TableBox, body: BodyRows, geometry: Geometry, space: Space, resume: Resume | None
) -> Laid:
    """This page's part of a table; `box` is what its fragment is of, `table` where its heads and feet are."""
    laid = _tall_captions(box, table, body.first(), geometry, space, resume)
    if laid is not None:
        return laid
    ends = not last_page_differs(table, geometry.grid) or body.may_end(body.first() if resume is None else resume.at)
    laid = TablePage(box, table, body, geometry, space, resume, ends=ends).lay_out()
    if ends and laid.resume is not None and last_page_differs(table, geometry.grid):
        laid = TablePage(box, table, body, geometry, space, resume, ends=False).lay_out()
    return laid


def _tall_captions(
    box: Box, table: TableBox, first_row: int, geometry: Geometry, space: Space, resume: Resume | None
) -> Laid | None:
    """This page's part of captions above a table that no page can hold; None where they stand with the table.

    The table begins on the page after them.
    """
    tops = [caption for caption in table.children if caption.style.caption_side == "top"]
    place = resume.inner if resume is not None else None
    if not tops or space.page == UNBOUNDED or not (resume is None or isinstance(place, Resume)):
        return None
    around = Space(space.context, geometry.width, None, UNBOUNDED, space.page)
    if resume is None:
        whole = flow_children(tops, around, None, joined=False)
        if whole is None or whole.height <= space.page - SLACK:
            return None
    start = place if isinstance(place, Resume) else None
    flow = flow_children(tops, around._replace(room=space.room, at_top=space.at_top), start, joined=False)
    if flow is None:
        return Laid(None, resume or Resume())
    fragment = TableFragment(box, geometry.width, TableDetail(0.0, 0.0, geometry, []))
    for placed in flow.placed:
        placed.fragment.y = placed.y
        fragment.children.append(placed.fragment)
    fragment.first, fragment.last, fragment.height = resume is None, False, flow.height
    return Laid(fragment, Resume(first_row, flow.resume))


def last_page_differs(table: TableBox, grid: Grid) -> bool:
    """Whether more or less stands below the last rows of a table than below those of its other pages."""
    return any(caption.style.caption_side == "bottom" for caption in table.children) or any(
        group.style.fq_show_on in ("going-on", "last") for group, _ in grid.ranges("foot")
    )


class TablePage:
    """Lays out one page of a table, which is expected to end there or not."""

    def __init__(
        self,
        box: Box,
        table: TableBox,
        body: BodyRows,
        geometry: Geometry,
        space: Space,
        resume: Resume | None,
        *,
        ends: bool,
    ) -> None:
        self.table = table
        self.body = body
        self.geometry = geometry
        self.grid = geometry.grid
        self.space = space
        self.resume = resume
        self.ends = ends
        self.start = body.first() if resume is None else max(body.first(), resume.at)
        self.rows: list[tuple[int, float, float]] = []
        self.fragment = TableFragment(box, geometry.width, TableDetail(0.0, 0.0, geometry, self.rows))
        self.fragment.first = resume is None
        self.groups: dict[RowGroupBox, Fragment] = {}  # those that rows are still added to
        self.layout = RowLayout(geometry, space)
        self.y = 0.0

    def lay_out(self) -> Laid:
        self._place_captions(self._captions("top"))
        top = self.y
        self.y += self.geometry.top + self.geometry.spacing_down
        for group, rows in self.grid.ranges("head"):
            if self._is_shown(group):
                self._place(self._repeated(rows, self.start))
        repeated = sum(height for _, _, height in self.rows)
        below = self._captions("bottom") if self.ends else []
        feet = [(group, rows) for group, rows in self.grid.ranges("foot") if self._is_shown(group)]
        plan = self._plan(feet, sum(caption.outer for caption in below), repeated)
        next_row = plan.next_row
        if next_row is None and not self.ends:
            next_row = plan.give_back(self.start)
            if next_row == plan.stop and not self.space.at_top:
                return Laid(None, self.resume or Resume())
        if not plan.has_rows and next_row is not None and not self.space.at_top:
            return Laid(None, self.resume or Resume())
        self._place_body(plan)
        for _, rows in feet:
            self._place(self._repeated(rows, plan.stop if next_row is None else next_row))
        self.y += self.geometry.bottom
        self.fragment.detail = TableDetail(top, self.y - top, self.geometry, self.rows)
        if next_row is None:
            self._place_captions(below)
        self.fragment.height = self.y
        self.fragment.last = next_row is None
        self.fragment.baseline = _first_row_baseline(self.fragment)
        if next_row is None:
            return Laid(self.fragment, None)
        inner = BrokenCells(tuple(plan.places.items()), self.geometry.width) if plan.places else None
        return Laid(self.fragment, Resume(next_row, inner, plan.forced))

    def _plan(self, feet: list[tuple[RowGroupBox, range]], captions: float, repeated: float) -> BodyPlan:
        """The body above the feet and the captions below it."""
        heights = [self._repeated(rows, self.start).height for _, rows in feet]
        of_last = [h for (group, _), h in zip(feet, heights, strict=True) if group.style.fq_show_on == "last"]
        room = self.space.room - self.geometry.bottom - sum(heights) - captions + SLACK
        inner = self.resume.inner if self.resume is not None else None
        places: Places = dict(inner.cells) if isinstance(inner, BrokenCells) else FROM_THE_START
        kept_free = captions + sum(of_last)
        return self.body.plan(Ask(self.start, places, self.y, room, kept_free, repeated, self.space.at_top))

    def _is_shown(self, group: RowGroupBox) -> bool:
        """Whether a head or foot stands on this page (-fq-show-on)."""
        if not self.body.repeats:
            return False
        when = group.style.fq_show_on
        if when == "continued":
            return self.resume is not None
        return when == "every" or (when == "last") == self.ends

    def _repeated(self, rows: range, place: int) -> Band:
        """A head or foot, laid out anew for this page; tallies count the rows before `place`."""
        return self.layout.band(rows.start, rows.stop, lambda row: self.body.tell(self.start, place, row))

    # ---- captions ----

    def _captions(self, side: str) -> list[Caption]:
        """The captions on that side, laid out."""
        found: list[Caption] = []
        for caption in self.table.children:
            if caption.style.caption_side != side or not self._names(caption):
                continue
            inner = Space(self.space.context, self.geometry.width, room=UNBOUNDED, page=self.space.page)
            laid = layout(caption, inner, None).fragment
            if laid is not None:
                above = resolve_auto(caption.style.margin_top, self.geometry.width) or 0.0
                below = resolve_auto(caption.style.margin_bottom, self.geometry.width) or 0.0
                found.append(Caption(laid, above, above + laid.height + below))
        return found

    def _names(self, caption: Box) -> bool:
        """Whether a caption stands here: once, or where -fq-show-on says so on the pages after the first."""
        if caption.style.caption_side == "bottom":
            return True
        return (caption.style.fq_show_on in ("continued", "going-on")) == (self.resume is not None)

    def _place_captions(self, captions: list[Caption]) -> None:
        for caption in captions:
            caption.fragment.y = self.y + caption.above
            self.fragment.children.append(caption.fragment)
            self.y += caption.outer

    # ---- rows ----

    def _place_body(self, plan: BodyPlan) -> None:
        for row, _, part in plan.entries:
            if isinstance(part, Band):
                self._place(part)
            elif part.held is None:
                self._place_streamed(part)
            else:
                self._place_held(part, part.held, row)

    def _place(self, band: Band) -> None:
        """Puts a band's rows into their groups at the present height."""
        for index, row in enumerate(row_fragments(band, self.geometry), band.first):
            group = self._group(self.grid.row_group[index], self.y + row.y)
            self.rows.append((index, self.y + row.y, row.height))
            row.y += self.y - group.y
            group.height = row.y + row.height
            group.children.append(row)
        self.y += band.height

    def _group(self, box: RowGroupBox, y: float) -> Fragment:
        fragment = self.groups.get(box)
        if fragment is None:
            fragment = self.groups[box] = Fragment(box, self.geometry.row_width, 0.0)
            fragment.x, fragment.y = self.geometry.lefts[0], y
            self.fragment.children.append(fragment)
        return fragment

    def _place_held(self, block: Block, held: Held, first: int) -> None:
        """Puts plain rows into their group."""
        stop = first + len(block.cells)
        rows = HeldRowsFragment(RowsBox(), self.geometry.width, block.stencils, block.closing, block.cells, block.texts)
        rows.hold(self.grid.rows[first:stop], partial(held.fragments, first, stop))
        group = self._group(held.group, self.y)
        rows.x, rows.y = -group.x, self.y - group.y
        for index, stencil in enumerate(block.stencils, first):
            self.rows.append((index, self.y, stencil.row.height))
            self.y += stencil.height
        group.height = rows.y + rows.height - self.geometry.spacing_down
        group.children.append(rows)

    def _place_streamed(self, block: Block) -> None:
        """Puts plain rows in; what follows them begins a group anew, so that reading order is the rows' order."""
        rows = RowsFragment(RowsBox(), self.geometry.width, block.stencils, block.closing, block.cells, block.texts)
        rows.y = self.y
        self.fragment.children.append(rows)
        self.y += rows.height
        self.groups.clear()


def _first_row_baseline(fragment: Fragment) -> float | None:
    """The baseline of the first row: that of its cells which are on one, else where the content of the lowest ends
    (CSS Tables 3 §3.8.3)."""
    for group in fragment.children:
        if isinstance(group, Fragment) and group.children and isinstance(group.children[0], Fragment):
            row = group.children[0]
            cells = [cell for cell in row.children if isinstance(cell, CellFragment)]
            on_baseline = [
                cell.y + cell.baseline
                for cell in cells
                if cell.baseline is not None and cell.box.style.vertical_align in BASELINE
            ]
            lowest = max((cell.y + cell.height - cell.edges.bottom for cell in cells), default=0.0)
            return group.y + row.y + (on_baseline[0] if on_baseline else lowest)
    return None
