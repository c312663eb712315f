"""Where the values of plain rows stand: the cells of a ledger's empty rows, for one width of the table."""

from __future__ import annotations

from typing import Final, NamedTuple

from fleetquill.caches import Cache
from fleetquill.drawing.canvas import Look
from fleetquill.drawing.rows import Cell
from fleetquill.layout.boxes.boxes import CellBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.fragments import Fragment, LineFragment
from fleetquill.layout.contract.sizing import edges_of
from fleetquill.layout.contract.space import Space
from fleetquill.layout.inline.inline_items import last_alignment
from fleetquill.layout.inline.paragraph import EPSILON
from fleetquill.layout.table.bands import RowLayout, row_fragments
from fleetquill.layout.table.borders import cell_edges
from fleetquill.layout.table.measures import Geometry, Stencil, TableDetail
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.bidi import may_run_from_right
from fleetquill.text.casing import transform
from fleetquill.text.figures import Figures
from fleetquill.text.shaping import FontSetting, Word

MOST_CELLS: Final = 2_000  # kept for one column
# Rows of the prototype's body: plain ones with an odd and an even number, which stand between others of their
# kind, so that shared borders are those of the middle of a table; then the headings and sums of groups.
ODD, EVEN, GROUP, SUBTOTAL = 2, 1, 4, 5

FigureSets = dict[FontSetting, Figures]


class Slot:
    """One column of plain rows: where its text stands, and the cells made so far."""

    def __init__(
        self, cell: Fragment, context: Context, left: float, after: float, figures: FigureSets, looks: dict[Look, Look]
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
        look = Look(self.setting, style.font_size, style.color, style.letter_spacing)
        self.look = looks.setdefault(look, look)
        self.plain = style.direction == "ltr" and not style.word_spacing and not style.text_decoration_line
        self.space = self.setting.space.advance * style.font_size + style.letter_spacing
        self.transforms = style.text_transform != "none"
        self.cells: Cache[str, Cell] = Cache(MOST_CELLS)

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
            found = self.cells[text] = self._make(text)
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
    """The empty rows of a ledger and what stands in them, for rows with an even and an odd number."""

    rows: tuple[Stencil, Stencil, Stencil]  # even, odd, and the line under the last row
    heights: tuple[float, float]
    slots: tuple[list[Slot], list[Slot]]


def make_stencils(geometry: Geometry, space: Space) -> Stencils:
    """Lays out the two plain rows of the prototype and takes their text away."""
    layout = RowLayout(geometry, space)
    figures: FigureSets = {}
    looks: dict[Look, Look] = {}
    rows: list[Stencil] = []
    heights: list[float] = []
    slots: list[list[Slot]] = []
    closing = None
    for offset in (ODD, EVEN):
        index = geometry.grid.body.start + offset
        band = layout.band(index, index + 1, lambda _row: None)
        row = row_fragments(band, geometry)[0]
        heights.append(band.height)
        cells = [child for child in row.children if isinstance(child, Fragment)]
        slots.append(
            [
                Slot(cell, space.context, geometry.lefts[0], geometry.after[number], figures, looks)
                for number, cell in enumerate(cells)
            ]
        )
        for cell in cells:
            cell.children = []
        row.x, row.y = geometry.lefts[0], 0.0
        lines = None
        if geometry.collapsed is not None:  # rows are ruled off as these two are from one another
            ruled = geometry.collapsed.one_row(index, geometry.collapsed.across[geometry.grid.body.start + ODD])
            alone = geometry._replace(collapsed=ruled)
            lines = TableDetail(0.0, row.height, alone, [(0, 0.0, row.height)])
        rows.append(Stencil(row, lines))
        if closing is None:
            under = None if lines is None else lines._replace(height=0.0, rows=[(0, 0.0, 0.0)])
            closing = Stencil(Fragment(row.box, row.width, 0.0), under)
    for first, second in zip(*slots, strict=True):
        if first.key == second.key:
            second.cells = first.cells
    assert closing is not None
    return Stencils((rows[0], rows[1], closing), (heights[0], heights[1]), (slots[0], slots[1]))
