"""The body of a table whose rows are held in its grid."""

from __future__ import annotations

from fleetquill.drawing.rows import Cell
from fleetquill.layout.block import breaks
from fleetquill.layout.boxes.boxes import CellBox
from fleetquill.layout.contract.fragments import Fragment, reach
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.space import UNBOUNDED, Space
from fleetquill.layout.table.bands import Band, Places, RowLayout, row_fragments
from fleetquill.layout.table.boxes import TableBox
from fleetquill.layout.table.geometry import contributions_of, plain_of
from fleetquill.layout.table.heights import settled_heights
from fleetquill.layout.table.measures import Geometry, Stencil
from fleetquill.layout.table.plain_rows import NO_LINE, PlainKind, row_kind
from fleetquill.layout.table.plan import Ask, Block, BodyPlan, Held
from fleetquill.layout.table.slots import TALL, RowKind


class HeldRows:
    """Rows that spanning cells tie together stay together where a page can hold them."""

    def __init__(self, box: TableBox, geometry: Geometry, space: Space, *, repeats: bool) -> None:
        self.geometry = geometry
        self.grid = geometry.grid
        self.repeats = repeats
        self.body = self.grid.body if repeats else range(len(self.grid.rows))
        self.space = space
        self.rows = RowLayout(geometry, space, settled_heights(box, geometry, space))
        self.contributions = contributions_of(box, space.context)
        settled = self.contributions.any or self.rows.heights
        self.plain = {} if settled else plain_of(box, self.grid, space.context).rows
        self.kinds = box.measures.kinds.setdefault(geometry.width, {})

    def first(self) -> int:
        return self.body.start

    def may_end(self, row: int) -> bool:
        return True

    def tell(self, page_start: int, place: int, row: int) -> None:
        if self.contributions.any:
            self.space.context.tallies = self.contributions.view(page_start, place, self.grid.group_range(row))

    def plan(self, ask: Ask) -> BodyPlan:
        plan = BodyPlan(ask)
        body, row, places = self.body, ask.start, dict(ask.places)
        found = self.space.context.found
        forcing = self.space.hears_breaks and (found.breaks or found.named_pages)
        while row < body.stop:
            kind = self._forced_before(row) if plan.has_rows and forcing else ""
            if kind:
                return plan.ends_before(row, kind)
            taken = self._add_plain(plan, ask, row) if row in self.plain and not places else 0
            if taken:
                row += taken
                continue
            end = min(self.grid.band_end(row, places), body.stop)
            if forcing and self._ends_in_cells(plan, row, end, ask, places):
                return plan
            band = self._band(ask, row, end, UNBOUNDED, places)
            over = self._overflow(band)
            if plan.y + band.height + over > ask.room:
                if (plan.has_rows or not ask.at_top) and not self._taller_than_a_page(band, over, ask):
                    return plan.ends_within(self._step_back(plan, row, ask) if plan.has_rows else row, places)
                if plan.y + band.height + over <= ask.room + ask.kept_free:  # there is where it does not end here
                    return plan.ends_within(row, places)
                part = self._part(band, plan, ask, places)
                if part is not None:
                    following, rows = part
                    plan.add(row, rows.stop, rows)
                    return plan.ends_within(following, _going_on(rows, following))
                if plan.has_rows or not ask.at_top:
                    return plan.ends_within(row, places)
                self._remark_too_tall(band, plan.y)
            plan.add(row, end, band)
            row, places = end, {}
        return plan

    def _add_plain(self, plan: BodyPlan, ask: Ask, row: int) -> int:
        """Plain rows of one group in one go; gives how many stand here before one that does not, or needs more care."""
        group = self.grid.row_group[row]
        room = ask.room - plan.y
        rows: list[list[Cell]] = []
        grounds: list[Stencil] = []
        texts: list[tuple[str, ...]] = []
        for known in filter(None, self.kinds.values()):
            known.trim()
        while row in self.plain and self.grid.row_group[row] is group:
            kind = self._kind(self.plain[row].kind)
            if kind is None:
                break
            values = self.plain[row].texts
            cells = [slot.cells.get(text) or slot.cell(text) for slot, text in zip(kind.slots, values, strict=True)]
            ground = kind.stencil
            if TALL in cells:
                wrapped = kind.wrapped(values)
                if wrapped is None:
                    break
                cells, ground = wrapped.cells, wrapped.stencil
            if ground.height > room:
                break
            room -= ground.height
            rows.append(cells)
            grounds.append(ground)
            texts.append(values)
            row += 1
        if rows:
            plan.add(row - len(rows), row, Block(grounds, NO_LINE, rows, texts, Held(group, self.fragments)))
        return len(rows)

    def _kind(self, kind: PlainKind) -> RowKind | None:
        if kind not in self.kinds:
            self.kinds[kind] = row_kind(kind, self.rows, self.geometry, self.space)
        return self.kinds[kind]

    def fragments(self, first: int, stop: int) -> list[Fragment]:
        """Plain rows as the table model lays them out, for those who look into them."""
        context = self.space.context
        context.quiet += 1
        found: list[Fragment] = []
        y = 0.0
        for index in range(first, stop):
            band = self.rows.band(index, index + 1, lambda _: None)
            for row in row_fragments(band, self.geometry):
                row.x, row.y = self.geometry.lefts[0], y
                found.append(row)
            y += band.height
        context.quiet -= 1
        return found

    def _band(self, ask: Ask, first: int, stop: int, room: float, places: Places) -> Band:
        return self.rows.band(first, stop, lambda row: self.tell(ask.start, row + 1, row), room, places)

    def _ends_in_cells(self, plan: BodyPlan, row: int, end: int, ask: Ask, places: Places) -> bool:
        """Whether a forced break in a cell of rows [row, end) ends the page; they are added as far as it."""
        for last in range(row, end):
            cells = [*self.grid.rows[last].children, *(places if last == row else ())]
            if not any(map(breaks.forces_inside, cells)):
                continue
            band = self._band(ask, row, last + 1, max(0.0, ask.room - plan.y), places)
            kind = next(filter(None, (breaks.forced_kind(piece.resume) for piece in band.pieces)), "")
            if kind and plan.y + band.height <= ask.room:
                plan.add(row, last + 1, band)
                plan.forced = kind
                plan.ends_within(last, _going_on(band, last))
                return True
        return False

    def _forced_before(self, row: int) -> str:
        """The kind of a forced break before a row or before the group that it begins; '' for none."""
        grid = self.grid
        kind = breaks.forced_between(grid.rows[row - 1], grid.rows[row], self.space)
        if not kind and grid.row_group[row] is not grid.row_group[row - 1]:
            kind = breaks.forced_between(grid.row_group[row - 1], grid.row_group[row], self.space)
        return kind

    def _step_back(self, plan: BodyPlan, row: int, ask: Ask) -> int:
        """The row to break before, given that `row` does not fit: `avoid` takes rows along."""
        starts = plan.starts()
        wanted = row
        while self._avoids_break_before(wanted):
            wanted = next(starts, ask.start)
            if wanted <= ask.start:
                return row
        plan.back_to(wanted)
        return wanted

    def _avoids_break_before(self, row: int) -> bool:
        grid = self.grid
        previous, following = grid.rows[row - 1], grid.rows[row]
        if breaks.avoided_between(previous, following):
            return True
        if grid.row_group[row] is grid.row_group[row - 1]:
            return breaks.avoided_inside(grid.row_group[row])
        return breaks.avoided_between(grid.row_group[row - 1], grid.row_group[row])

    def _overflow(self, band: Band) -> float:
        """How far what stands in the cells of a band reaches below it."""
        if not self.space.context.overflows:
            return 0.0
        deepest = 0.0
        for piece in band.pieces:
            top = sum(band.heights[: max(0, piece.cell.row - band.first)])
            deepest = max(deepest, top + reach(piece.fragment))
        return max(0.0, deepest - band.height)

    def _taller_than_a_page(self, band: Band, over: float, ask: Ask) -> bool:
        around = self.geometry.top + self.geometry.bottom + 2 * self.geometry.spacing_down
        return band.height + over + around + ask.repeated > self.space.page

    def _part(self, whole: Band, plan: BodyPlan, ask: Ask, places: Places) -> tuple[int, Band] | None:
        """What of a band stands here that is taller than a page, after the row to go on with: some of its rows, else
        a part of the first one's cells."""
        rest = ask.room - plan.y
        row = whole.first
        if len(whole.heights) > 1:
            fit = 0
            while fit < len(whole.heights) and sum(whole.heights[: fit + 1]) <= rest:
                fit += 1
            for count in range(fit, 0, -1):  # cells that go on below may make the last of these rows higher
                band = self._band(ask, row, row + count, rest, places)
                ends = all(p.resume is None or p.cell.row + p.cell.rows > row + count for p in band.pieces)
                if band.height <= rest and ends:
                    return row + count, band
        band = self._band(ask, row, row + 1, rest, places)
        if not any(piece.resume for piece in band.pieces):
            return None
        if plan.has_rows or not ask.at_top:  # not so much as a line fits
            stands = any(piece.fragment.height > 0 and piece.fragment.children for piece in band.pieces)
            if not stands or band.height > rest:
                return None
        return row, band

    def _remark_too_tall(self, band: Band, y: float) -> None:
        over = (y + band.height - self.space.room) * 0.75
        self.space.context.remark(
            "overflow",
            f"A table row is {over:.1f} pt taller than its page and cannot be broken.",
            self.grid.rows[band.first].element,
        )


def _going_on(band: Band, row: int) -> dict[CellBox, Resume]:
    """Where the cells that reach into `row` on the next page go on; past their end where all is laid out."""
    return {
        piece.cell.box: piece.resume or Resume(len(piece.cell.box.children), taken=UNBOUNDED)
        for piece in band.pieces
        if piece.cell.row + piece.cell.rows > row
    }
