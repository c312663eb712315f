"""Ledgers: tables laid out from a stream of rows that is never held whole.

A prototype table, with the ledger's head, its feet and a sample of its rows, goes through the whole
table model once: it gives the column widths, the row's height and look, and where text stands in a
cell. Rows whose values fit on one line are then nothing but known strings at known places; any
other row takes the table's own way.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from fleetquill.drawing.rows import Cell
from fleetquill.layout.boxes.boxes import CellBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.sizing import margin_left_right
from fleetquill.layout.contract.space import UNBOUNDED, Laid, Space
from fleetquill.layout.inline.paragraph import EPSILON
from fleetquill.layout.table.bands import Band, Places, RowLayout
from fleetquill.layout.table.boxes import LedgerBox
from fleetquill.layout.table.cells import CellPiece, lay_out_cell, with_text
from fleetquill.layout.table.geometry import columns_of, geometry_of
from fleetquill.layout.table.grid import GridCell
from fleetquill.layout.table.measures import Geometry, Stencil
from fleetquill.layout.table.page import lay_out_table
from fleetquill.layout.table.plan import Ask, Block, BodyPlan
from fleetquill.layout.table.slots import EVEN, ODD, TALL, Stencils, group_places, make_stencils
from fleetquill.layout.table.table import table_content_widths
from fleetquill.layout.table.tallies import TallyView
from fleetquill.tree.values import Marked

MOST_AT_ONCE: Final = 4_096  # rows that are planned together where there is endless room
FIGURES_GROW: Final = 0.7  # of its width, what a column of figures takes of the room that the page has to spare
TEXTS_GROW: Final = 0.2  # and one of words
MOST_ON_A_PAGE: Final = 100_000  # rows that any page holds


def layout_ledger(box: LedgerBox, space: Space, resume: Resume | None) -> Laid:
    """The head, as many rows as fit from `resume.at` on, and the feet of this page."""
    if resume is None:
        space.context.tallies = box.stream.widest()
    geometry = _with_room_to_grow(geometry_of(box.prototype, space), box, space)
    laid = lay_out_table(box, box.prototype, StreamedRows(box, geometry, space), geometry, space, resume)
    if laid.resume is not None and laid.fragment is not None:
        box.stream.forget(0 if resume is None else resume.at)
    return laid


def _with_room_to_grow(geometry: Geometry, box: LedgerBox, space: Space) -> Geometry:
    """What the page has to spare goes to the columns of rows that are read once: those to come may be wider.

    Where that is not enough, columns of figures also take of what is left to texts that have several lines anyway.
    """
    grows, style = box.stream.plan.grows, box.prototype.style
    if not grows or style.table_layout == "fixed":
        return geometry
    spare = max(0.0, space.width - sum(margin_left_right(style, space.width, None)) - geometry.width)
    if style.width != "auto" or space.fixed_width is not None:
        spare = 0.0
    in_view = grows[::-1] if geometry.grid.mirrored else grows
    columns = columns_of(box.prototype, geometry.grid, space.context, geometry.spacing_across)
    asked = [column.given or column.share > 0.0 for column in columns]
    wanted = [
        width * (0.0 if is_asked else FIGURES_GROW if figures else TEXTS_GROW)
        for width, figures, is_asked in zip(geometry.widths, in_view, asked, strict=True)
    ]
    share = min(1.0, spare / sum(wanted)) if sum(wanted) else 0.0
    more = [width * share for width in wanted]
    given = [
        0.0 if figures or is_asked or column.most < width + EPSILON else width - max(column.least, column.enough)
        for column, width, figures, is_asked in zip(columns, geometry.widths, in_view, asked, strict=True)
    ]
    given = [max(0.0, width) for width in given]
    lacking = [width - got if figures else 0.0 for width, got, figures in zip(wanted, more, in_view, strict=True)]
    if sum(given) and sum(lacking):
        moved = min(sum(given), sum(lacking))
        to_come, to_go = moved / sum(lacking), moved / sum(given)
        more = [got + lack * to_come - give * to_go for got, lack, give in zip(more, lacking, given, strict=True)]
    widths = [width + got for width, got in zip(geometry.widths, more, strict=True)]
    lefts = [left + sum(more[:place]) for place, left in enumerate(geometry.lefts)]
    return geometry._replace(width=geometry.width + sum(more), widths=widths, lefts=lefts)


class StreamedRows:
    """The body of a ledger: plain rows in blocks, others each on their own, headings and sums of groups."""

    def __init__(self, box: LedgerBox, geometry: Geometry, space: Space) -> None:
        self.repeats = True
        self.stream = box.stream
        self.geometry = geometry
        self.space = space
        self.grouped = bool(box.stream.plan.groups)
        self.places = group_places(box.stream.plan.groups)
        self.layout = RowLayout(geometry, space)
        kept = box.prototype.measures.stencils
        marks, first = self.stream.plan.marks, self.places.marked
        self.stencils: Stencils = kept.get(geometry.width) or make_stencils(geometry, space, marks, first)
        kept[geometry.width] = self.stencils
        self.page_start = 0

    def first(self) -> int:
        return 0

    def may_end(self, row: int) -> bool:
        """Whether no more rows follow than a page can hold."""
        if self.space.room == UNBOUNDED:
            return True
        lowest = min(kind.height for kind in self.stencils.kinds)
        capacity = min(self.space.page, MOST_ON_A_PAGE) / max(1.0, lowest)
        return self.stream.text(row + int(capacity) + 1) is None

    def tell(self, page_start: int, place: int, row: int) -> None:
        self._tell(page_start, place)

    def _tell(self, page_start: int, place: int) -> None:
        sums = self.stream.sums(place)
        brought = self.stream.sums(page_start)
        self.space.context.tallies = TallyView(brought, sums, {}, sums)

    def plan(self, ask: Ask) -> BodyPlan:
        plan = BodyPlan(ask)
        row, places = ask.start, ask.places
        while True:
            texts = self.stream.text(row)
            if texts is None:
                return plan
            if self.grouped:
                if self._begins_a_page(row) and row > ask.start:
                    return plan.ends_before(row, "page")
                if not self._add_headings(plan, ask, row):
                    return plan.ends_within(row, dict(places))
            if places:
                goes_on = self._add_part(plan, ask, row, texts, places)
                if goes_on:
                    return plan.ends_within(row, goes_on)
                places, taken = {}, 1
            else:
                taken = self._add_block(plan, ask, row)
                if not taken:
                    rest = self._add_one(plan, ask, row, texts)
                    if rest is not None:
                        if plan.has_rows and not rest:
                            plan.back_to(row)  # its heading goes with it
                        return plan.ends_within(row, rest)
                    taken = 1
            row += taken
            if self.grouped:
                for band in self._summaries(row):
                    plan.add_aside(row - 1, band)

    def _add_block(self, plan: BodyPlan, ask: Ask, row: int) -> int:
        """Plain rows in one go; gives how many there are before the first that needs more care."""
        kinds = self.stencils.kinds
        height = kinds[0].height
        if height != kinds[1].height:
            return 0
        room = ask.room - plan.y
        count = MOST_AT_ONCE if room > MOST_AT_ONCE * height else int(room / height)
        if self.grouped:  # the last row of a group waits for its subtotal
            count = min(count, self.stream.group_length(row, count + 1) - 1)
        if count < 1:
            return 0
        texts = self.stream.slice(row, count)
        for kind in kinds:
            kind.trim()
        rows: list[list[Cell]] = []
        grounds: list[Stencil] = []
        known = [[(slot.cells.get, slot.cell) for slot in kind.slots] for kind in kinds]
        for offset, values in enumerate(texts):
            parity = (row + offset) % 2
            cells = [get(text) or make(text) for (get, make), text in zip(known[parity], values, strict=True)]
            ground = kinds[parity].stencil
            if TALL in cells:
                wrapped = kinds[parity].wrapped(values)
                if wrapped is None or (offset + 1) * height + wrapped.by > room:
                    break
                cells, ground = wrapped.cells, wrapped.stencil
                if wrapped.by:
                    room -= wrapped.by
                    count = min(count, int(room / height))
            rows.append(cells)
            grounds.append(ground)
            if offset + 1 >= count:
                break
        if rows:
            plan.add(row, row + len(rows), Block(grounds, self.stencils.closing, rows, texts[: len(rows)]))
        return len(rows)

    def _add_one(self, plan: BodyPlan, ask: Ask, row: int, texts: tuple[str, ...]) -> dict[CellBox, Resume] | None:
        """One row, plain or not, with room for the subtotal that follows it. Where it does not end here, what of it
        goes on: nothing where it does not begin here."""
        following = sum(band.height for band in self._summaries(row + 1)) if self.grouped else 0.0
        fits = not plan.has_rows and ask.at_top
        wrapped = self.stencils.kinds[row % 2].wrapped(texts)
        if wrapped is not None and (wrapped.by == 0.0 or plan.y + wrapped.stencil.height <= ask.room):
            if plan.y + wrapped.stencil.height + following > ask.room and not fits:
                return {}
            plan.add(row, row + 1, Block([wrapped.stencil], self.stencils.closing, [wrapped.cells], [texts]))
            return None
        index = self._index(row)
        filled = [with_text(cell, text) for cell, text in zip(self._cells(row, texts), texts, strict=True)]
        pieces = [lay_out_cell(cell, self.geometry, self.space, UNBOUNDED, None) for cell in filled]
        band = self.layout.of_pieces(index, pieces)
        if plan.y + band.height + following > ask.room:
            return self._add_part(plan, ask, row, texts, {}) or None if fits else {}
        plan.add(row, row + 1, band)
        return None

    def _cells(self, row: int, texts: Sequence[str]) -> list[GridCell]:
        """The cells of the prototype that a row's cells are like: those with classes are cells of other rows."""
        grid, first = self.geometry.grid, self.geometry.grid.body.start
        cells = list(grid.cells_of[self._index(row)])
        marks = self.stream.plan.marks
        for column, text in enumerate(texts):
            if isinstance(text, Marked) and text.mark in marks[column]:
                level = marks[column].index(text.mark)
                marked = grid.cells_of[first + self.places.marked + 2 * level + row % 2][column]
                place = cells[column]
                cells[column] = GridCell(marked.box, place.row, place.column, place.rows, place.columns)
        return cells

    def _add_part(
        self, plan: BodyPlan, ask: Ask, row: int, texts: Sequence[str], places: Places
    ) -> dict[CellBox, Resume]:
        """A row that is taller than its page, as far as there is room; gives where its cells go on."""
        index = self._index(row)
        cells = self.geometry.grid.cells_of[index]
        looks = self._cells(row, texts)
        pieces = [
            lay_out_cell(with_text(look, text), self.geometry, self.space, ask.room - plan.y, places.get(cell.box))
            for cell, look, text in zip(cells, looks, texts, strict=True)
        ]
        plan.add(row, row + 1, self.layout.of_pieces(index, pieces))
        if not any(piece.resume for piece in pieces):
            return {}
        return {cell.box: piece.resume or Resume(1) for cell, piece in zip(cells, pieces, strict=True)}

    def _begins_a_page(self, row: int) -> bool:
        """Whether a group begins with a row that wants a page of its own."""
        if not self.space.hears_breaks:
            return False
        levels = self.stream.plan.groups[self.stream.begins(row) :]
        return any(group.facts.new_page for group in levels)

    def _add_headings(self, plan: BodyPlan, ask: Ask, row: int) -> bool:
        """The headings where groups begin, kept with their first row; repeated where a page goes on."""
        groups = self.stream.plan.groups
        first = 0 if row == ask.start else self.stream.begins(row)
        bands = [
            self._heading(self.places.heading[level], self.stream.heading(row, level))
            for level in range(first, len(groups))
            if groups[level].facts.heads
        ]
        height = sum(band.height for band in bands)
        if bands and plan.y + height + self.stencils.kinds[0].height > ask.room and (plan.has_rows or not ask.at_top):
            return False
        for band in bands:
            plan.add_aside(row, band)
        return True

    def _summaries(self, row: int) -> list[Band]:
        """The rows after groups that end before a row."""
        bands: list[Band] = []
        for summary in self.stream.summaries(row):
            place = self.places.summary[summary.level, summary.kind]
            bands.append(self._special(place, self.stream.cells(summary)))
        return bands

    def _heading(self, place: int, text: str) -> Band:
        """The heading of a group, which is laid out once: pages that go on have it again."""
        kept = self.stencils.headings
        pieces = kept.get((place, text)) or kept.put((place, text), self._pieces(place, [text]))
        return self.layout.of_pieces(self.geometry.grid.body.start + place, [piece.again() for piece in pieces])

    def _special(self, place: int, texts: Sequence[str]) -> Band:
        """A summary: a row of the prototype with other texts in its cells."""
        return self.layout.of_pieces(self.geometry.grid.body.start + place, self._pieces(place, texts))

    def _pieces(self, place: int, texts: Sequence[str]) -> list[CellPiece]:
        models = self.geometry.grid.cells_of[self.geometry.grid.body.start + place]
        cells = [with_text(cell, text) for cell, text in zip(models, texts, strict=True)]
        return [lay_out_cell(cell, self.geometry, self.space, UNBOUNDED, None) for cell in cells]

    def _index(self, row: int) -> int:
        """The row of the prototype that a row is like."""
        return self.geometry.grid.body.start + (EVEN if row % 2 else ODD)


def ledger_content_widths(box: LedgerBox, context: Context) -> tuple[float, float]:
    around, context.tallies = context.tallies, box.stream.widest()
    widths = table_content_widths(box.prototype, context)
    context.tallies = around
    return widths
