"""The content of table cells: laid out at the width of their columns, moved to where it is aligned."""

from __future__ import annotations

from copy import copy
from typing import Final, NamedTuple

from fleetquill.layout.block.block import Flow, flow_children
from fleetquill.layout.block.ends import LEAST_PART
from fleetquill.layout.block.margins import NONE
from fleetquill.layout.boxes.boxes import Box, BreakBox, CellBox, TextBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.contract.resume import Resume, unforced
from fleetquill.layout.contract.sizing import own_height
from fleetquill.layout.contract.space import UNBOUNDED, Space
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.layout.inline.lines import paragraph_of, single_line
from fleetquill.layout.table.borders import cell_edges
from fleetquill.layout.table.decimals import halves
from fleetquill.layout.table.grid import GridCell
from fleetquill.layout.table.measures import CellFragment, Geometry

NOTHING: Final = Flow([], 0.0, NONE, None)  # what flows in an empty cell


class CellPiece(NamedTuple):
    """A cell as far as it was laid out: its fragment, where it goes on, and the height that its content asks for."""

    cell: GridCell
    fragment: CellFragment
    resume: Resume | None
    natural: float

    def again(self) -> CellPiece:
        """The same cell to be placed on another page."""
        fragment = self.fragment.twin()
        fragment.children = [copy(child) for child in fragment.children]
        return self._replace(fragment=fragment)


def lay_out_cell(
    cell: GridCell,
    geometry: Geometry,
    space: Space,
    room: float,
    resume: Resume | None,
    row_height: float = 0.0,
    containing: float | None = None,
) -> CellPiece:
    """A cell's content at its column's width: the fragment is as tall as the content asks for, or its row.

    `containing` is the cell's height where that is known beforehand and shares of it are asked for.
    """
    box: CellBox = cell.box
    width = geometry.span_width(cell)
    if width < 0.0:  # in a column that is collapsed
        fragment = CellFragment(box, 0.0, cell_edges(box))
        return CellPiece(cell, fragment, None, 0.0)
    edges = cell_edges(box)
    inner_width = max(0.0, width - edges.across)
    inner_room = max(0.0, room - edges.down)
    fragment = CellFragment(box, width, edges)
    fragment.first = resume is None
    after = geometry.after[cell.column]
    if resume is None and _lay_out_line(fragment, inner_width, inner_room, after, space.context):
        if box.style.height == "auto" and row_height <= room:
            return CellPiece(cell, fragment, None, fragment.height)
        return _end_cell(cell, fragment, None, room, None, row_height)
    page = max(0.0, space.page - edges.down)
    at_top = space.at_top or room == UNBOUNDED
    height = None if containing is None else max(0.0, containing - edges.down)
    inner = Space(
        space.context, inner_width, height, inner_room, page, at_top, in_columns=space.in_columns, pages=space.pages
    )
    flow = flow_children(box.children, inner, resume, joined=False) if box.children else NOTHING
    if flow is None:
        fragment.height = edges.down
        return CellPiece(cell, fragment, unforced(resume) or Resume(), fragment.height)
    for placed in flow.placed:
        placed.fragment.x += edges.left
        placed.fragment.y = placed.y + edges.top
        fragment.children.append(placed.fragment)
        if fragment.baseline is None and placed.fragment.baseline is not None:
            fragment.baseline = placed.fragment.y + placed.fragment.baseline
    content = flow.height + (flow.margins.size if flow.resume is None else 0.0)
    fragment.height = edges.down + max(0.0, content)
    return _end_cell(cell, fragment, flow.resume, room, resume, row_height)


def with_text(cell: GridCell, text: str) -> GridCell:
    """A cell of text with other text; it shares all else, its collapsed edges too."""
    old = cell.box
    child = old.children[0]
    inner = child.children[0] if child.children else child
    lines: list[Box] = []
    for line in str.__str__(text).split("\n"):
        lines += [BreakBox(inner.style, old.element, [])] * bool(lines) + [TextBox(inner.style, old.element, line)]
    content = LinesBox(child.style, None, lines)
    box = CellBox(old.style, old.element, [content], old.column_span, old.row_span)
    box.edges = old.edges
    return GridCell(box, cell.row, cell.column, cell.rows, cell.columns)


def _end_cell(
    cell: GridCell,
    fragment: CellFragment,
    goes_on: Resume | None,
    room: float,
    resume: Resume | None,
    row_height: float,
) -> CellPiece:
    """Settles the height of this part of a cell, which goes on where it or its row asks for more than there is."""
    box = fragment.box
    taken = resume.taken if resume is not None else 0.0
    natural = fragment.height
    rest = max(own_height(box.style, None, fragment.edges.down) or 0.0, row_height) - taken
    if goes_on is None and fragment.height < rest:
        if rest > room + LEAST_PART:  # its height goes on on the next page
            goes_on = Resume(len(box.children))
        fragment.height = min(rest, max(room, fragment.height))
    fragment.last = goes_on is None
    if goes_on is not None and room != UNBOUNDED:
        goes_on = goes_on._replace(taken=taken + room)
    return CellPiece(cell, fragment, goes_on, natural)


def _lay_out_line(fragment: CellFragment, width: float, room: float, after: float, context: Context) -> bool:
    """The short way for a cell that holds one line of text; False where it does not."""
    box, edges = fragment.box, fragment.edges
    child = box.children[0] if len(box.children) == 1 else None
    if not isinstance(child, LinesBox) or child.element is not None:
        return False
    line = single_line(child, width, context)
    if line is None or line.height > room:
        return False
    line.x, line.y = edges.left, edges.top
    align = box.style.text_align
    if align[0] == '"':
        line.x -= max(0.0, after - halves(paragraph_of(child, context), align[1:]).after)
    fragment.children.append(line)
    fragment.baseline = edges.top + line.baseline
    fragment.height = line.height + edges.down
    return True


def cell_baseline(fragment: CellFragment) -> float:
    """The baseline of a cell; the bottom of its content where it has no line (§3.8.3)."""
    if fragment.baseline is not None:
        return fragment.baseline
    return fragment.height - fragment.edges.bottom


def move_content(fragment: Fragment, shift: float) -> None:
    """Moves what is in a cell down."""
    for child in fragment.children:
        child.y += shift
    if fragment.baseline is not None:
        fragment.baseline += shift
