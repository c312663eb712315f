"""Ledgers: tables laid out from a stream of rows that is never held whole.

A prototype table, with the ledger's head, its feet and a sample of its rows, goes through the whole
table model once: it gives the column widths, the row's height and look, and where text stands in a
cell. Rows whose values fit on one line are then nothing but known strings at known places; any
other row takes the table's own way.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final, NamedTuple

from fleetquill.drawing.canvas import Look
from fleetquill.drawing.rows import Cell
from fleetquill.layout.boxes.boxes import CellBox, LinesBox, TextBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.fragments import Fragment, LineFragment
from fleetquill.layout.contract.sizing import edges_of
from fleetquill.layout.contract.space import UNBOUNDED, Laid, Resume, Space
from fleetquill.layout.inline.inline_items import last_alignment
from fleetquill.layout.inline.paragraph import EPSILON
from fleetquill.layout.table.borders import cell_edges
from fleetquill.layout.table.cells import CellPiece, lay_out_cell
from fleetquill.layout.table.geometry import Geometry, TableDetail, geometry_of
from fleetquill.layout.table.grid import GridCell
from fleetquill.layout.table.ledger_rows import LedgerBox, LedgerRows, RowsBox, Stencil
from fleetquill.layout.table.table import Band, TablePage, last_page_differs, table_content_widths
from fleetquill.layout.table.tallies import TallyView
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.bidi import may_run_from_right
from fleetquill.text.casing import transform
from fleetquill.text.figures import Figures
from fleetquill.text.shaping import FontSetting, Word

MOST_CELLS: Final = 2_000  # kept for one column
# Rows of the prototype's body: plain ones with an odd and an even number, which stand between others of their
# kind, so that shared borders are those of the middle of a table; then the headings and sums of groups.
ODD, EVEN, GROUP, SUBTOTAL = 2, 1, 4, 5


class Slot:
    """One column of plain rows: where its text stands, and the cells made so far."""

    def __init__(
        self, cell: Fragment, context: Context, left: float, figures: dict[FontSetting, Figures], after: float
    ) -> None:
        box = cell.box
        self.after = after
        self.character = box.style.text_align[1:] if box.style.text_align.startswith('"') else ""
        child = box.children[0]
        style = child.style
        edges = cell_edges(box) if isinstance(box, CellBox) else edges_of(box.style, 0.0)
        line = cell.children[0]
        assert isinstance(line, LineFragment)
        self.style: ComputedStyle = style
        self.setting = context.font(style)
        if self.setting not in figures:
            figures[self.setting] = Figures(self.setting)
        self.figures = figures[self.setting]
        self.left = left + cell.x + edges.left
        self.width = max(0.0, cell.width - edges.across)
        self.baseline = line.y + line.baseline
        self.align = last_alignment(style, style.direction == "rtl")
        self.look = Look(self.setting, style.font_size, style.color, style.letter_spacing)
        self.plain = style.direction == "ltr" and not style.word_spacing and not style.text_decoration_line
        self.space = self.setting.space.advance * style.font_size + style.letter_spacing
        self.transforms = style.text_transform != "none"
        self.cells: dict[str, Cell] = {}

    @property
    def key(self) -> tuple[object, ...]:
        """Slots with the same key make the same cells."""
        return (
            *(self.left, self.width, self.baseline, self.align, self.look),
            *(self.plain, self.character, self.after),
        )

    def cell(self, text: str) -> Cell:
        """The cell of a text; TALL where it does not fit on one line or needs more care."""
        found = self.cells.get(text)
        if found is None:
            found = self._make(text)
            if len(self.cells) >= MOST_CELLS:
                self.cells.clear()
            self.cells[text] = found
        return found

    def _make(self, text: str) -> Cell:
        size, spacing = self.look.size, self.look.letter_spacing
        if not self.plain or "\n" in text or "  " in text or may_run_from_right(text):
            return TALL
        shown = text.strip()
        if self.transforms:
            shown = transform(shown, self.style.text_transform, self.style.language)
        words: tuple[Word, ...]
        if self.figures.safe.issuperset(shown):
            figures: Figures | None = self.figures
            width = self.figures.advance(shown) * size + spacing * len(shown)
            words = self.figures.words
        else:
            words = tuple([self._word(part) for part in shown.split(" ")])
            if any(word.face is not self.setting.face for word in words):
                return TALL
            figures = None
            width = sum([w.advance * size + w.count * spacing for w in words]) + self.space * (len(words) - 1)
            if len(words) > 1:
                words = (*words, self.setting.space)
        spare = self.width - width
        if spare < -EPSILON:
            return TALL
        x = self.left + (0.0 if self.align == "left" else spare if self.align == "right" else spare / 2)
        if self.character:
            x -= max(0.0, self.after - self._after(shown))
        return Cell(x, self.baseline, self.look if shown else None, words, figures, shown)

    def _after(self, text: str) -> float:
        """The width of a text from its last character to align on."""
        place = text.rfind(self.character)
        if place < 0:
            return 0.0
        word = self.setting.exact(text[place:])
        return word.advance * self.look.size + word.count * self.look.letter_spacing

    def _word(self, text: str) -> Word:
        """Words with figures in them are as a rule not met again: they are not kept."""
        return self.setting.exact(text) if any(map(str.isdigit, text)) else self.setting.segment(text)


TALL: Final = Cell(0.0, 0.0, None, (), None, "")


class Stencils(NamedTuple):
    """The empty rows and the slots of a ledger for one geometry."""

    rows: tuple[Stencil, Stencil]
    closing: Stencil
    heights: tuple[float, float]
    slots: tuple[list[Slot], list[Slot]]


def layout_ledger(box: LedgerBox, space: Space, resume: Resume | None) -> Laid:
    """The head, as many rows as fit from `resume.at` on, and the feet of this page."""
    if resume is None:
        space.context.tallies = box.stream.widest()
    geometry = geometry_of(box.prototype, space)
    number = resume.at if resume else 0
    differ = last_page_differs(box.prototype, geometry.grid)
    ends = not differ or box.stream.text(number + _capacity(box, space, geometry)) is None
    laid = _LedgerPage(box, space, geometry, resume, ends=ends).lay_out()
    if differ and ends and laid.resume is not None:
        laid = _LedgerPage(box, space, geometry, resume, ends=False).lay_out()
    if laid.resume is not None and laid.fragment is not None:
        box.stream.forget(number)
    return laid


def _capacity(box: LedgerBox, space: Space, geometry: Geometry) -> int:
    """More rows than any page holds."""
    heights = stencils_of(box, space, geometry).heights
    return int(min(space.page, 1e5) / max(1.0, min(heights))) + 1


def stencils_of(box: LedgerBox, space: Space, geometry: Geometry) -> Stencils:
    kept = box.kept.get(geometry.width)
    if kept is None:
        kept = box.kept[geometry.width] = _make_stencils(box, space, geometry)
    return kept


def _make_stencils(box: LedgerBox, space: Space, geometry: Geometry) -> Stencils:
    """Lays out the two empty rows of the prototype and takes their text away."""
    page = _LedgerPage(box, space, geometry, None, ends=True)
    figures: dict[FontSetting, Figures] = {}
    rows: list[Fragment] = []
    heights: list[float] = []
    slots: list[list[Slot]] = []
    for offset in (ODD, EVEN):
        index = geometry.grid.body.start + offset
        band = page.band(index, index + 1)
        page.place(band)
        row = page.last_row()
        rows.append(row)
        heights.append(band.height)
        cells = [child for child in row.children if isinstance(child, Fragment)]
        slots.append(
            [
                Slot(cell, space.context, geometry.lefts[0], figures, geometry.after[number])
                for number, cell in enumerate(cells)
            ]
        )
        for cell in cells:
            cell.children = []
        row.x, row.y = geometry.lefts[0], 0.0
        if geometry.collapsed is not None:  # rows are ruled off as these two are from one another
            ruled = geometry.collapsed.one_row(index, geometry.collapsed.across[geometry.grid.body.start + ODD])
            alone = geometry._replace(collapsed=ruled)
            row.detail = TableDetail(0.0, row.height, alone, [(0, 0.0, row.height)])
    for first, second in zip(*slots, strict=True):
        if first.key == second.key:
            second.cells = first.cells
    closing = Fragment(rows[0].box, rows[0].width, 0.0)
    if isinstance(rows[0].detail, TableDetail):
        closing.detail = rows[0].detail._replace(height=0.0, rows=[(0, 0.0, 0.0)])
    return Stencils(
        (Stencil(rows[0]), Stencil(rows[1])), Stencil(closing), (heights[0], heights[1]), (slots[0], slots[1])
    )


class _LedgerPage(TablePage):
    """The part of a ledger that stands on one page."""

    def __init__(self, box: LedgerBox, space: Space, geometry: Geometry, resume: Resume | None, *, ends: bool) -> None:
        super().__init__(box.prototype, space, geometry, resume, ends=ends)
        self.ledger = box
        self.stream = box.stream
        self.contributions = None
        self.placed_rows: list[tuple[int, float]] = []  # number of each plain row, and its height

    def place(self, band: Band) -> None:
        """As in a table; after plain rows in a new fragment, so that reading order is the rows' order."""
        last = self.fragment.children[-1] if self.fragment.children else None
        if isinstance(last, Fragment) and isinstance(last.box, RowsBox):
            self.group_fragments.clear()
        super().place(band)

    def _start(self) -> int:
        return self.resume.at if self.resume else 0

    def _tell_tallies(self, place: int, row: int) -> None:
        """Heads and feet say what the rows before `place` add up to; the prototype's own rows nothing."""
        self._view(self.page_start if self.repeated_at is None else place)

    def _view(self, place: int) -> None:
        sums = self.stream.sums(place)
        brought = self.stream.sums(self.page_start)
        self.space.context.tallies = TallyView(brought, sums, self.stream.group_sums(place), sums)

    def _give_back(self, last: int) -> int:
        """All rows fit, but the last foot does not: the last block's last row goes on."""
        block = self.fragment.children[-1] if self.fragment.children else None
        if isinstance(block, Fragment) and isinstance(block.box, RowsBox):
            rows: LedgerRows = block.detail
            if len(rows.rows) > 1:
                rows.rows.pop()
                rows.texts.pop()
                block.height -= rows.height
                self.y -= rows.height
                self.at -= 1
        return self.at

    def _body(self, row: int, room: float) -> tuple[int | None, bool]:
        """Rows from number `row` on until the room is used up."""
        stencils = stencils_of(self.ledger, self.space, self.geometry)
        placed = False
        while True:
            texts = self.stream.text(row)
            if texts is None:
                self.at = row
                return None, placed
            if self.stream.plan.group is not None and not self._group_heading(row, room, placed):
                self.at = row
                return row, placed
            if self.inner:
                taken = self._broken_row(row, texts, room)
            else:
                taken = self._block(row, stencils, room) or self._one(row, texts, stencils, room, placed)
            if not taken:
                self.at = row
                return row, placed or bool(self.inner)
            placed = True
            row += taken
            if self.stream.plan.group is not None and self.stream.group(row) != self.stream.group(row - 1):
                self._special(SUBTOTAL, row, self.stream.group(row - 1) or "")

    def _block(self, row: int, stencils: Stencils, room: float) -> int:
        """Plain rows in one go; gives how many there are before the first that needs more care."""
        height = stencils.heights[0]
        if stencils.heights[1] != height:
            return 0
        count = int((room - self.y) / height)
        if self.stream.plan.group is not None:  # the last row of a group waits for its subtotal
            count = min(count, self.stream.group_length(row, count + 1) - 1)
        if count < 1:
            return 0
        texts = self.stream.slice(row, count)
        rows: list[list[Cell]] = []
        known = [[(slot.cells.get, slot.cell) for slot in slots] for slots in stencils.slots]
        for offset, values in enumerate(texts):
            parity = (row + offset) % 2
            cells = [get(text) or make(text) for (get, make), text in zip(known[parity], values, strict=True)]
            if TALL in cells:
                break
            rows.append(cells)
        if rows:
            self._add_rows(rows, texts[: len(rows)], row, stencils)
        return len(rows)

    def _add_rows(self, rows: list[list[Cell]], texts: list[tuple[str, ...]], row: int, stencils: Stencils) -> None:
        height = stencils.heights[row % 2]
        last = self.fragment.children[-1] if self.fragment.children else None
        if isinstance(last, Fragment) and isinstance(last.box, RowsBox):
            block: LedgerRows = last.detail
            if block.first + len(block.rows) == row and block.height == height:
                block.rows.extend(rows)
                block.texts.extend(texts)
                last.height += height * len(rows)
                self.y += height * len(rows)
                return
        fragment = Fragment(RowsBox(self.box.style, None, []), self.geometry.width, height * len(rows))
        fragment.y = self.y
        fragment.detail = LedgerRows(rows, height, row, stencils.rows, stencils.closing, texts)
        self.fragment.children.append(fragment)
        self.y += fragment.height

    def _one(self, row: int, texts: tuple[str, ...], stencils: Stencils, room: float, placed: bool) -> int:
        """One row, plain or not, with room for the subtotal that follows it."""
        following = 0.0
        if self.stream.plan.group is not None and self.stream.group(row + 1) != self.stream.group(row):
            following = self._special_band(SUBTOTAL, row + 1, "").height
        parity = row % 2
        cells = [slot.cell(text) for slot, text in zip(stencils.slots[parity], texts, strict=True)]
        if TALL not in cells:
            if self.y + stencils.heights[parity] + following > room and (placed or not self.space.at_top):
                return 0
            self._add_rows([cells], [texts], row, stencils)
            return 1
        band = self._text_band(self.geometry.grid.body.start + (EVEN if parity else ODD), texts)
        if self.y + band.height + following > room:
            if placed or not self.space.at_top:
                return 0
            return self._broken_row(row, texts, room)
        self.place(band)
        return 1

    def _broken_row(self, row: int, texts: Sequence[str], room: float) -> int:
        """A row that is taller than its page goes on inside its cells; 1 where it ends here."""
        index = self.geometry.grid.body.start + (EVEN if row % 2 else ODD)
        cells = self.geometry.grid.cells_of[index]
        pieces = [
            lay_out_cell(self._with_text(cell, text), self.geometry, self.space, room - self.y, self.inner.get(cell))
            for cell, text in zip(cells, texts, strict=True)
        ]
        self.place(self._banded(index, pieces))
        if not any(piece.resume for piece in pieces):
            self.inner = {}
            return 1
        self.inner = {cell: piece.resume or Resume(1) for cell, piece in zip(cells, pieces, strict=True)}
        return 0

    def _group_heading(self, row: int, room: float, placed: bool) -> bool:
        """The heading where a group begins, kept with its first row; repeated where a page goes on."""
        name = self.stream.group(row) or ""
        if row > self.page_start and self.stream.group(row - 1) == name:
            return True
        band = self._special_band(GROUP, row, name)
        needed = band.height + stencils_of(self.ledger, self.space, self.geometry).heights[0]
        if self.y + needed > room and (placed or not self.space.at_top):
            return False
        self.place(band)
        return True

    def _special(self, kind: int, row: int, name: str) -> None:
        self.place(self._special_band(kind, row, name))

    def _special_band(self, kind: int, row: int, name: str) -> Band:
        """A group heading or subtotal: the prototype's row with the group's name in its first cell."""
        self._view(row)
        index = self.geometry.grid.body.start + kind
        pieces: list[CellPiece] = []
        for number, cell in enumerate(self.geometry.grid.cells_of[index]):
            if number == 0 and name:
                cell = self._with_text(cell, name)
            pieces.append(lay_out_cell(cell, self.geometry, self.space, UNBOUNDED, None))
        return self._banded(index, pieces)

    def _text_band(self, index: int, texts: Sequence[str]) -> Band:
        """A row of the prototype with other texts, through the table's own layout."""
        cells = self.geometry.grid.cells_of[index]
        filled = [self._with_text(cell, text) for cell, text in zip(cells, texts, strict=True)]
        pieces = [lay_out_cell(cell, self.geometry, self.space, UNBOUNDED, None) for cell in filled]
        return self._banded(index, pieces)

    def _banded(self, index: int, pieces: list[CellPiece]) -> Band:
        height = max((piece.fragment.height for piece in pieces), default=0.0)
        height = max(height, self._baseline_height(index, pieces))
        return Band(index, [height + self.geometry.spacing_down], pieces)

    @staticmethod
    def _with_text(cell: GridCell, text: str) -> GridCell:
        """The cell with other text; it shares all else, its collapsed edges too."""
        old = cell.box
        child = old.children[0]
        inner = child.children[0] if child.children else child
        content = LinesBox(child.style, None, [TextBox(inner.style, old.element, text)])
        box = CellBox(old.style, old.element, [content], old.column_span, old.row_span)
        box.kept = {key: value for key, value in old.kept.items() if key == "edges"}
        return GridCell(box, cell.row, cell.column, cell.rows, cell.columns)


def ledger_content_widths(box: LedgerBox, context: Context) -> tuple[float, float]:
    return table_content_widths(box.prototype, context)
