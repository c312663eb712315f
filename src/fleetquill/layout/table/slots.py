"""Where the values of plain rows stand: the cells of a ledger's empty rows, for one width of the table."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Final, NamedTuple

from fleetquill.caches import Cache
from fleetquill.drawing.canvas import Look
from fleetquill.drawing.rows import Cell
from fleetquill.layout.boxes.boxes import CellBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.fragments import Fragment, TextSpan, lines_of
from fleetquill.layout.contract.sizing import edges_of
from fleetquill.layout.contract.space import Space
from fleetquill.layout.inline.inline_items import TextRun, last_alignment
from fleetquill.layout.inline.paragraph import EPSILON
from fleetquill.layout.inline.paragraph_builder import PLAIN
from fleetquill.layout.table.bands import Band, RowLayout, row_fragments
from fleetquill.layout.table.borders import cell_edges
from fleetquill.layout.table.cells import CellPiece
from fleetquill.layout.table.measures import Geometry, Stencil, TableDetail
from fleetquill.layout.table.row_stream import MEASURED, LedgerGroup
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.bidi import may_run_from_right
from fleetquill.text.breaking import pieces
from fleetquill.text.casing import transform
from fleetquill.text.figures import Figures, figures_of
from fleetquill.text.shaping import Word, clusters
from fleetquill.tree.values import Marked

MOST_CELLS: Final = 2_000  # kept for one column
# Rows of the prototype's body: plain ones with an odd and an even number, which stand between others of their
# kind, so that shared borders are those of the middle of a table; then the headings and sums of groups.
ODD, EVEN, GROUPS = 2, 1, 4
MOST_WRAPPED: Final = 500  # texts of several lines kept for one column
MOST_HEADINGS: Final = 100
MOST_HEIGHTS: Final = 100  # of rows with several lines, whose grounds are kept
GROUND: Final = (  # what a cell's ground and edges are made of
    "background_color", "background_image", "padding_top", "padding_right", "padding_bottom", "padding_left",
    *(f"border_{side}_{what}" for side in ("top", "right", "bottom", "left") for what in ("width", "style", "color")),
)  # fmt: skip


class Wrapped(NamedTuple):
    """How many lines a text has, and what stands in them."""

    line_count: int
    cells: tuple[Cell, ...]


NO_LINES: Final = Wrapped(0, ())


class Maker(NamedTuple):
    """What the slots of a table share."""

    context: Context
    left: float  # of its first column
    spacing: float  # below each row
    looks: dict[Look, Look]
    measured: bool = False  # whether texts have been measured word by word, as lines have them


class Slot:
    """One column of plain rows: where its text stands, and the cells made so far.

    `marked` are the slots of cells with a class, by its name; None where a row with such a cell is not plain.
    """

    def __init__(self, cell: Fragment, column: int, natural: float, row: Fragment, after: float, maker: Maker) -> None:
        self.column = column
        context = maker.context
        box = cell.box
        self.context = context
        self.element = box.element
        self.marked: dict[str, Slot | None] = {}
        self.after = after
        self.character = box.style.text_align[1:] if box.style.text_align.startswith('"') else ""
        child = box.children[0]
        style = child.style
        edges = cell_edges(box) if isinstance(box, CellBox) else edges_of(box.style, 0.0)
        line = next(lines_of(cell))
        fits = cell.children[0] is line  # else the column is too narrow for any text
        self.style: ComputedStyle = style
        self.setting = context.font(style)
        self.figures = figures_of(self.setting)
        self.left = maker.left + cell.x + edges.left
        self.width = max(0.0, cell.width - edges.across)
        self.baseline = line.y + line.baseline
        self.align = last_alignment(style, style.direction == "rtl")
        run = next(item.run for item in line.items if isinstance(item, TextSpan))
        self.look = maker.looks.setdefault(run.look, run.look)
        self.plain = fits and takes_plain_text(run) and style.text_indent == 0.0
        self.measured = maker.measured
        self.space = self.setting.space.advance * style.font_size + style.letter_spacing
        self.transforms = style.text_transform != "none"
        self.cells: Cache[str, Cell] = Cache(MOST_CELLS)
        self.line_height = line.height
        self.level = box.style.vertical_align
        stands = 0.0 if self.level in LOW else line.y - edges.top
        self.asks = natural + stands + maker.spacing  # height of a row for one line
        self.wraps = _wraps(style) and not self.character and box.style.height == row.box.style.height == "auto"
        self.wrapped: Cache[str, Wrapped] = Cache(MOST_WRAPPED)

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

    def lines(self, text: str) -> Wrapped:
        """The lines of a text, the first where a single one stands; NO_LINES where it needs more care."""
        found = self.wrapped.get(text)
        return self.wrapped.put(text, self._lines(text)) if found is None else found

    def _lines(self, text: str) -> Wrapped:
        slot, text = self._of(text)
        if slot is None:
            return NO_LINES
        single = slot.cell(text)
        if single is not TALL:
            return Wrapped(1, (single,))
        if not slot.plain or not slot.wraps or may_run_from_right(text):
            return NO_LINES
        figures = slot._broken_figures(text.strip())
        if figures:
            return Wrapped(len(figures), figures)
        lines = slot._filled(text)
        cells = [cell for number, words in enumerate(lines) for cell in slot._line(words, number)]
        return Wrapped(len(lines), tuple(cells))

    def _of(self, text: str) -> tuple[Slot | None, str]:
        """The slot for a text that may have a class, and the text alone."""
        if not isinstance(text, Marked):
            return self, text
        own = str.__str__(text)
        if text.mark in self.marked:
            return self.marked[text.mark], own
        self.context.remark_once(
            "table",
            f"The class '{text.mark}' comes first after the {MEASURED:,} rows that are measured; "
            "its cells look like others. Rows that can be read twice are measured whole.",
            self.element,
        )
        return self, own

    def _filled(self, text: str) -> list[list[Word]]:
        """The words of each line, first-fit; nothing where one is to be set in another face."""
        size, spacing, limit = self.look.size, self.look.letter_spacing, self.width + EPSILON
        lines: list[list[Word]] = []
        for part in text.split("\n"):
            shown = part.strip()
            if self.transforms:
                shown = transform(shown, self.style.text_transform, self.style.language)
            if not PLAIN.fullmatch(shown) or "  " in shown or "\t" in shown:
                return []
            lines.append([])
            x = 0.0
            for word in map(self._piece, pieces(shown)):
                if word.face is not self.setting.face or word.inner_space:
                    return []
                own = [word]
                if word.advance * size + word.count * spacing > limit:
                    own = self._broken(word)
                    if not own:
                        return []
                for piece in own:
                    width = piece.advance * size + piece.count * spacing
                    if x + width > limit or (x and piece is own[0] is not word):
                        lines.append([])
                        x = 0.0
                    lines[-1].append(piece)
                    x += width + (self.space if piece.spaced else 0.0)
        return lines

    def _broken_figures(self, text: str) -> tuple[Cell, ...]:
        """The lines of a number that is wider than its column (overflow-wrap); nothing where it needs more care."""
        if not self.figures.safe.issuperset(text) or self.style.overflow_wrap == "normal" or len(pieces(text)) > 1:
            return ()
        size, spacing, advances = self.look.size, self.look.letter_spacing, self.figures.advances
        lines = self._cut((character, advances[character] * size + spacing) for character in text)
        return tuple([self._figure_line(line, number) for number, line in enumerate(lines)])

    def _figure_line(self, text: str, number: int) -> Cell:
        width = self.figures.advance(text) * self.look.size + self.look.letter_spacing * len(text)
        baseline = self.baseline + number * self.line_height
        return Cell(self._start(width), baseline, self.look, self.figures.words, self.figures, text, self.column)

    def _cut(self, clusters: Iterable[tuple[str, float]]) -> list[str]:
        """Clusters and their widths as texts that are each no wider than the column, or one cluster."""
        limit = self.width + EPSILON
        texts = [""]
        x = 0.0
        for cluster, width in clusters:
            if x + width > limit and texts[-1]:
                texts.append("")
                x = 0.0
            texts[-1] += cluster
            x += width
        return texts

    def _broken(self, word: Word) -> list[Word]:
        """The parts of a word that is wider than a line (overflow-wrap); nothing where it needs more care."""
        if self.style.overflow_wrap == "normal":
            return []
        size, spacing = self.look.size, self.look.letter_spacing
        shaped = [(cluster, self.setting.segment(cluster)) for cluster in clusters(word.text)]
        texts = self._cut((cluster, own.advance * size + own.count * spacing) for cluster, own in shaped)
        texts[-1] += " " * word.spaced
        return list(map(self._piece, texts)) if len(texts) > 1 else []

    def _line(self, words: list[Word], number: int) -> Iterator[Cell]:
        """The cells of one line of several: words between which no space stands begin another."""
        size, spacing = self.look.size, self.look.letter_spacing
        baseline = self.baseline + number * self.line_height
        widths = [word.advance * size + word.count * spacing for word in words]
        gaps = [self.space if word.spaced else 0.0 for word in words[:-1]]
        x = self._start(sum(widths) + sum(gaps))
        first = 0
        for index, word in enumerate(words, 1):
            if index == len(words) or not word.spaced:
                part = words[first:index]
                shown = " ".join([inner.text for inner in part])
                apart = len(part) > 1 or part[-1].spaced
                set_words = (*part, self.setting.space) if apart else tuple(part)
                yield Cell(x, baseline, self.look, set_words, None, shown, self.column)
                x += sum(widths[first:index]) + sum(gaps[first:index])
                first = index

    def lowered(self, lines: Wrapped, by: float) -> tuple[Cell, ...]:
        """The lines in a row that is `by` px higher than one for single lines."""
        spare = by - self.more(lines)
        down = spare / 2 if self.level == "middle" else spare if self.level == "bottom" else 0.0
        if abs(down) < EPSILON:
            return lines.cells
        return tuple(Cell(c.x, c.baseline + down, c.look, c.words, c.figures, c.text, c.column) for c in lines.cells)

    def more(self, lines: Wrapped) -> float:
        """How much higher than a single line they are."""
        return (lines.line_count - 1) * self.line_height

    def _start(self, width: float) -> float:
        spare = self.width - width
        return self.left + (0.0 if self.align == "left" else spare if self.align == "right" else spare / 2)

    def _make(self, text: str) -> Cell:
        if isinstance(text, Marked):
            slot, own = self._of(text)
            return TALL if slot is None else slot.cell(own)
        shown = text.strip()
        if not self.plain or "\n" in text or "  " in text:
            return TALL
        if self.transforms:
            shown = transform(shown, self.style.text_transform, self.style.language)
        if self.figures.safe.issuperset(shown):
            width = self.figures.advance(shown) * self.look.size + self.look.letter_spacing * len(shown)
            return self._placed(shown, width, self.figures.words, self.figures)
        if may_run_from_right(text):
            return TALL
        if self.measured and len(pieces(shown)) > shown.count(" ") + 1:
            return TALL  # words side by side are set each on its own
        size, spacing = self.look.size, self.look.letter_spacing
        words = tuple([self._word(part) for part in shown.split(" ")])
        if any(word.face is not self.setting.face for word in words):
            return TALL
        width = sum([w.advance * size + w.count * spacing for w in words]) + self.space * (len(words) - 1)
        return self._placed(shown, width, (*words, self.setting.space) if len(words) > 1 else words, None)

    def _placed(self, shown: str, width: float, words: tuple[Word, ...], figures: Figures | None) -> Cell:
        """The cell of a text that is so wide; TALL where it does not fit on one line."""
        if width > self.width + EPSILON:
            return TALL
        x = self._start(width)
        if self.character:
            x -= max(0.0, self.after - self._after(shown))
        return Cell(x, self.baseline, self.look if shown else None, words, figures, shown, self.column)

    def _after(self, text: str) -> float:
        """The width of a text from its last character to align on."""
        place = text.rfind(self.character)
        if place < 0:
            return 0.0
        word = self.setting.exact(text[place:])
        return word.advance * self.look.size + word.count * self.look.letter_spacing

    def _piece(self, text: str) -> Word:
        """A word of a line that may be broken, with the space after it set apart."""
        return self.setting.once(text) if any(map(str.isdigit, text)) else self.setting.segment(text)

    def _word(self, text: str) -> Word:
        """Words with figures in them are as a rule not met again: they are not kept."""
        once = not self.measured and any(map(str.isdigit, text))
        return self.setting.exact(text) if once else self.setting.segment(text)


TALL: Final = Cell(0.0, 0.0, None, (), None, "", 0)
LOW: Final = frozenset(("middle", "bottom"))  # where a cell's content may stand further down in a higher row


def takes_plain_text(run: TextRun) -> bool:
    """Whether its text is glyphs in one opaque colour and nothing else, from left to right."""
    style = run.style
    return (
        style.direction == "ltr"
        and not (style.word_spacing or run.decorations or style.text_shadow or style.text_emphasis_style)
        and not (
            run.shift or run.setting.face.is_colored or run.setting.face in run.setting.synthesis or run.look.outline
        )
        and run.look.color.alpha == 1.0
    )


def _wraps(style: ComputedStyle) -> bool:
    """Whether lines are filled first-fit at the places that the text itself has."""
    return (
        style.white_space == "normal"
        and style.text_wrap == "wrap"
        and style.text_align != "justify"
        and style.word_break == "normal"
        and style.line_break == "auto"
        and style.hyphens != "auto"
        and style.text_indent == 0.0
    )


def _only_text_differs(cell: Fragment, other: Fragment) -> bool:
    """Whether two cells stand on the same ground, so that the text of one may stand on that of the other."""
    one, two = cell.box.style, other.box.style
    return cell.height == other.height and all(getattr(one, name) == getattr(two, name) for name in GROUND)


class WrappedRow(NamedTuple):
    """The cells of a row whose texts have several lines, how much higher it is than one for single lines, and the
    empty row that it stands on."""

    cells: list[Cell]
    by: float
    stencil: Stencil


class RowKind:
    """Rows that are alike but for their texts: the empty row that those with single lines stand on, and where the texts
    stand in it."""

    __slots__ = ("_higher", "slots", "stencil")

    def __init__(self, stencil: Stencil, slots: list[Slot]) -> None:
        self.stencil = stencil
        self.slots = slots
        self._higher: Cache[float, Stencil] = Cache(MOST_HEIGHTS)  # for rows with several lines

    @property
    def height(self) -> float:
        return self.stencil.height

    def trim(self) -> None:
        """Lets go of cells that are too many to be kept."""
        for slot in self.slots:
            slot.cells.trim()

    def wrapped(self, texts: Sequence[str]) -> WrappedRow | None:
        """A row with texts of several lines; None where one of them needs more care."""
        lines = [slot.lines(text) for slot, text in zip(self.slots, texts, strict=True)]
        if any(found.line_count == 0 for found in lines):
            return None
        asked = [slot.asks + slot.more(found) - self.height for slot, found in zip(self.slots, lines, strict=True)]
        by = max(0.0, *asked)
        cells = [cell for slot, found in zip(self.slots, lines, strict=True) for cell in slot.lowered(found, by)]
        return WrappedRow(cells, by, self._raised(by) if by else self.stencil)

    def _raised(self, by: float) -> Stencil:
        return self._higher.get(by) or self._higher.put(by, _grown(self.stencil, by))


class Stencils(NamedTuple):
    """The empty rows of a ledger and what stands in them."""

    kinds: tuple[RowKind, RowKind]  # rows with an even and an odd number
    closing: Stencil  # the line under the last row
    headings: Cache[tuple[int, str], list[CellPiece]]  # of groups, by their row of the prototype and their text


class GroupPlaces(NamedTuple):
    """Which rows of the prototype's body are headings of groups, by their level, and summaries, by level and kind;
    `marked` is the first of those whose cells have classes, one with an odd and one with an even number for each."""

    heading: Sequence[int]
    summary: Mapping[tuple[int, str], int]
    marked: int


def group_places(groups: Sequence[LedgerGroup]) -> GroupPlaces:
    """Where the rows of groups stand: of each level the heading, then its summaries."""
    headings: list[int] = []
    summaries: dict[tuple[int, str], int] = {}
    place = GROUPS
    for level, group in enumerate(groups):
        headings.append(place)
        for kind, _ in group.facts.rows:
            place += 1
            summaries[level, kind] = place
        place += 1
    return GroupPlaces(headings, summaries, place)


def make_stencils(geometry: Geometry, space: Space, marks: Sequence[Sequence[str]], first_marked: int) -> Stencils:
    """Lays out the plain rows of the prototype and takes their text away; `marks` are the classes of each column,
    which the rows from `first_marked` on have."""
    maker = Maker(space.context, geometry.lefts[0], geometry.spacing_down, {})
    layout = RowLayout(geometry, space)
    kinds: list[RowKind] = []
    closing = None
    for parity, offset in enumerate((ODD, EVEN)):
        index = geometry.grid.body.start + offset
        band, row, own = _laid_row(layout, index, geometry, maker)
        cells = [child for child in row.children if isinstance(child, Fragment)]
        for level in range(max(map(len, marks), default=0)):
            marked_row = geometry.grid.body.start + first_marked + 2 * level + parity
            _, other, marked = _laid_row(layout, marked_row, geometry, maker)
            for slot, cell, names, slot_of_mark, beside in zip(own, cells, marks, marked, other.children, strict=True):
                if level < len(names):
                    assert isinstance(beside, Fragment)
                    slot.marked[names[level]] = slot_of_mark if _only_text_differs(cell, beside) else None
        for cell in cells:
            cell.children = []
        row.x, row.y = geometry.lefts[0], 0.0
        lines = None
        if geometry.collapsed is not None:  # rows are ruled off as these two are from one another
            ruled = geometry.collapsed.one_row(index, geometry.collapsed.across[geometry.grid.body.start + ODD])
            alone = geometry._replace(collapsed=ruled)
            lines = TableDetail(0.0, row.height, alone, [(0, 0.0, row.height)])
        kinds.append(RowKind(Stencil(row, band.height, lines), own))
        if closing is None:
            under = None if lines is None else lines._replace(height=0.0, rows=[(0, 0.0, 0.0)])
            closing = Stencil(Fragment(row.box, row.width, 0.0), 0.0, under)
    even, odd = kinds
    for first, second in zip(even.slots, odd.slots, strict=True):
        if first.key == second.key and not first.marked:
            second.cells = first.cells
    assert closing is not None
    return Stencils((even, odd), closing, Cache(MOST_HEADINGS))


def _laid_row(layout: RowLayout, index: int, geometry: Geometry, maker: Maker) -> tuple[Band, Fragment, list[Slot]]:
    """A row of the prototype, and the slots of its cells."""
    band = layout.band(index, index + 1, lambda _row: None)
    row = row_fragments(band, geometry)[0]
    cells = [child for child in row.children if isinstance(child, Fragment)]
    slots = [
        Slot(cell, number, piece.natural, row, geometry.after[number], maker)
        for number, (cell, piece) in enumerate(zip(cells, band.pieces, strict=True))
    ]
    return band, row, slots


def _grown(stencil: Stencil, by: float) -> Stencil:
    """An empty row that is so much higher."""
    row = stencil.row.twin()
    row.height += by
    row.children = [child.twin() if isinstance(child, Fragment) else child for child in row.children]
    for child in row.children:
        child.height += by
    lines = stencil.lines
    if lines is not None:
        lines = lines._replace(height=row.height, rows=[(0, 0.0, row.height)])
    return Stencil(row, stencil.height + by, lines)
