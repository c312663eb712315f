"""Plain rows of a table that is held: those whose cells hold a short text each, and that are like many others.

They are measured by their texts, and laid out once for each kind; what stands in them are known strings at known
places, as in a ledger. The pages are those that the table model makes of them.
"""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from typing import Final, NamedTuple, cast

from fleetquill.layout.boxes.boxes import Box, RowBox
from fleetquill.layout.boxes.text_cells import TextCellBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.fragments import Fragment, LineFragment
from fleetquill.layout.contract.space import UNBOUNDED, Space
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.layout.inline.lines import paragraph_of
from fleetquill.layout.inline.paragraph_builder import folded
from fleetquill.layout.table.bands import RowLayout, row_fragments
from fleetquill.layout.table.cells import lay_out_cell, with_text
from fleetquill.layout.table.grid import Grid, GridCell
from fleetquill.layout.table.measures import Geometry, Stencil
from fleetquill.layout.table.slots import Maker, RowKind, Slot, takes_plain_text
from fleetquill.layout.table.text_widths import TextWidths, Widths
from fleetquill.style.properties import INITIAL_STYLE, ComputedStyle

LEAST_ROWS: Final = 12  # that are alike, for them to be laid out together
MODEL: Final = "x"  # what stands in the row that the others are like


class PlainKind:
    """Rows that are alike but for their texts: the cells of the first of them, and what the texts of each column ask
    for. Which cells are empty is alike, too."""

    __slots__ = ("cells", "widths")

    def __init__(self, cells: list[GridCell]) -> None:
        self.cells = cells
        self.widths: list[set[Widths]] = []


class PlainRow(NamedTuple):
    """A row of a kind, and the texts of its cells, the empty ones apart."""

    kind: PlainKind
    texts: tuple[str, ...]


class PlainBody(NamedTuple):
    """The kinds of a table's plain rows, and by its number in the grid each row that is one of them."""

    kinds: list[PlainKind]
    rows: dict[int, PlainRow]


NONE_PLAIN: Final = PlainBody([], {})
NO_LINE: Final = Stencil(Fragment(RowBox(INITIAL_STYLE, None, []), 0.0, 0.0), 0.0, None)  # lines are the table's own


def find_plain(grid: Grid, context: Context) -> PlainBody:
    """The plain rows of a table."""
    if len(grid.body) < LEAST_ROWS or grid.mirrored or context.found.named_pages:
        return NONE_PLAIN
    found: dict[Hashable, list[int]] = {}
    for index in grid.body:
        row = grid.rows[index]
        cells = row.children
        if row.quiet and len(cells) == grid.column_count and {*map(type, cells)} == {TextCellBox}:
            found.setdefault(_likeness(row), []).append(index)
    body = PlainBody([], {})
    for indices in found.values():
        if len(indices) >= LEAST_ROWS and _is_plain(grid, indices[0], context):
            _add_kind(body, grid, indices, context)
    return body


def _likeness(row: RowBox) -> Hashable:
    """What rows of one kind have in common."""
    cells = _cells(row)
    styles = [cell.style for cell in cells]
    edges = () if cells[0].edges is None else tuple([cell.edges for cell in cells])
    return row.style, *styles, edges, tuple([not cell.text for cell in cells])


def _cells(row: RowBox) -> Sequence[TextCellBox]:
    """The cells of a row that holds text alone."""
    return cast(Sequence[TextCellBox], row.children)


def _is_plain(grid: Grid, index: int, context: Context) -> bool:
    row = grid.rows[index]
    style = row.style
    full = [cell for cell in grid.cells_of[index] if cell.box.children]
    return (
        style.height == "auto"
        and style.visibility == "visible"
        and style.break_before == style.break_after == "auto"
        and not style.outline_width
        and bool(full)
        and all(_is_plain_cell(cell.style) for cell in row.children)
        and all(_holds_plain_text(with_text(cell, MODEL).box.children[0], context) for cell in full)
    )


def _is_plain_cell(style: ComputedStyle) -> bool:
    return (
        style.height == style.min_width == style.min_height == "auto"
        and style.max_width == style.max_height == "none"
        and style.overflow == style.visibility == "visible"
        and style.break_before == style.break_after == "auto"
        and style.empty_cells == "show"
        and not style.outline_width
        and style.text_align[0] != '"'
    )


def _holds_plain_text(box: Box, context: Context) -> bool:
    """Whether texts like this one are words side by side, and no more."""
    assert isinstance(box, LinesBox)
    paragraph = paragraph_of(box, context)
    style = box.style
    return (
        style.white_space in ("normal", "nowrap")
        and style.word_break == style.unicode_bidi == "normal"
        and style.overflow_wrap != "anywhere"
        and style.line_break == "auto"
        and style.font_variant_caps == style.font_variant_position == "normal"
        and paragraph.simple
        and takes_plain_text(paragraph.runs[0])
    )


def _add_kind(body: PlainBody, grid: Grid, indices: list[int], context: Context) -> None:
    """Measures rows that are alike; those with a text that needs more care are left out."""
    kind = PlainKind(grid.cells_of[indices[0]])
    rows = [[folded(cell.text).strip(" ") for cell in _cells(grid.rows[index])] for index in indices]
    odd: list[set[str]] = []
    for cell, texts in zip(kind.cells, zip(*rows, strict=True), strict=True):
        style = cell.box.children[0].style if cell.box.children else cell.box.style
        measure = TextWidths(style, context).of
        widths = {text: measure(text) for text in set(texts)}
        odd.append({text for text, width in widths.items() if width is None})
        kind.widths.append({width for width in widths.values() if width is not None})
    body.kinds.append(kind)
    careful = any(odd)
    for index, texts_of_row in zip(indices, rows, strict=True):
        if not (careful and any(text in among for text, among in zip(texts_of_row, odd, strict=True))):
            body.rows[index] = PlainRow(kind, tuple(filter(None, texts_of_row)))


def row_kind(kind: PlainKind, layout: RowLayout, geometry: Geometry, space: Space) -> RowKind | None:
    """The empty row that rows of a kind stand on, and where their texts stand, at the widths of the columns; None where
    one of these is too narrow for any text."""
    maker = Maker(space.context, geometry.lefts[0], geometry.spacing_down, {}, measured=True)
    models = [with_text(cell, MODEL) if cell.box.children else cell for cell in kind.cells]
    pieces = [lay_out_cell(cell, geometry, space, UNBOUNDED, None) for cell in models]
    band = layout.of_pieces(kind.cells[0].row, pieces)
    row = row_fragments(band, geometry)[0]
    cells = [child for child in row.children if isinstance(child, Fragment)]
    full = [cell for cell, model in zip(cells, models, strict=True) if model.box.children]
    if not all(cell.children and isinstance(cell.children[0], LineFragment) for cell in full):
        return None
    slots = [
        Slot(cell, number, piece.natural, row, 0.0, maker)
        for number, (cell, piece) in enumerate(zip(cells, band.pieces, strict=True))
        if cell.children
    ]
    for cell in cells:
        cell.children = []
    row.x, row.y = geometry.lefts[0], 0.0
    return RowKind(Stencil(row, band.height, None), slots)
