"""Rows laid out together: what their cells ask for, and where cells stand in them (CSS Tables 3 §3.8)."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from types import MappingProxyType
from typing import Final, NamedTuple

from fleetquill.layout.boxes.boxes import CellBox, RowBox
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.sizing import own_height
from fleetquill.layout.contract.space import UNBOUNDED, Space
from fleetquill.layout.table.cells import CellPiece, cell_baseline, lay_out_cell, move_content
from fleetquill.layout.table.grid import Grid, GridCell
from fleetquill.layout.table.measures import Geometry
from fleetquill.style.lengths import Relative

BASELINE: Final = frozenset(("baseline", "sub", "super", "text-top", "text-bottom"))
NOT_ON_BASELINE: Final = frozenset(("top", "middle", "bottom"))

Places = Mapping[CellBox, Resume]  # where cells go on that a page has cut through
FROM_THE_START: Final[Places] = MappingProxyType({})


class Band(NamedTuple):
    """Rows laid out together: their heights, each with the space below it, and the pieces of their cells."""

    first: int
    heights: list[float]
    pieces: list[CellPiece]

    @property
    def height(self) -> float:
        return sum(self.heights)

    @property
    def stop(self) -> int:
        return self.first + len(self.heights)


class RowLayout:
    """Lays out rows of a table's grid."""

    def __init__(self, geometry: Geometry, space: Space, heights: Sequence[float] = ()) -> None:
        self.geometry = geometry
        self.grid = geometry.grid
        self.space = space
        self.heights = heights  # that rows of a table with a height of its own are to have

    def band(
        self,
        first: int,
        stop: int,
        tell: Callable[[int], None],
        room: float = UNBOUNDED,
        places: Places = FROM_THE_START,
    ) -> Band:
        """Rows [first, stop) with at most `room` px for what stands in their cells; `tell` is called before each."""
        whole = list(self.heights[first:stop]) or [_row_height(self.grid.rows[row]) for row in range(first, stop)]
        heights = whole if room == UNBOUNDED and not places else [0.0, *whole[1:]]
        pieces: list[CellPiece] = []
        late: list[CellPiece] = []
        given = bool(self.heights)  # whether a table or a cell has a height that shares may refer to
        for row in range(first, stop):
            tell(row)
            height = heights[row - first]
            on_baseline = False
            for cell in self._cells_on(row, first, places):
                tall = whole[row - first] if cell.rows == 1 else 0.0
                piece = lay_out_cell(cell, self.geometry, self.space, room, places.get(cell.box), tall)
                pieces.append(piece)
                given = given or cell.box.style.height != "auto"
                if cell.rows > 1 and min(cell.row + cell.rows, stop) - max(cell.row, first) > 1:
                    late.append(piece)
                else:
                    height = max(height, piece.fragment.height)
                on_baseline = on_baseline or cell.box.style.vertical_align in BASELINE
            heights[row - first] = max(height, _baseline_height(row, pieces)) if on_baseline else height
        between = self.geometry.spacing_down
        entire = room == UNBOUNDED and not places
        for piece in late:
            begin = max(piece.cell.row, first) - first
            end = min(piece.cell.row + piece.cell.rows, stop) - first
            missing = piece.fragment.height - sum(heights[begin:end]) - between * (end - begin - 1)
            if missing > 0 and entire:
                share_out(self.grid, first, heights, range(begin, end), missing)
            elif missing > 0:
                heights[end - 1] += missing
        heights = [height + between for height in heights]
        for row in range(first, stop):
            if self.grid.rows[row].style.visibility == "collapse":
                heights[row - first] = 0.0
        if entire and given:
            pieces = [self._with_height(piece, first, heights) for piece in pieces]
        return Band(first, heights, pieces)

    def _with_height(self, piece: CellPiece, first: int, heights: list[float]) -> CellPiece:
        """A cell whose content asks for a share of its height, once that is known (CSS Tables 3 §3.8.4)."""
        cell = piece.cell
        for child in cell.box.children:
            if isinstance(child.style.height, Relative):
                break
        else:
            return piece
        rows = range(cell.row, min(cell.row + cell.rows, first + len(heights)))
        height = sum(heights[row - first] for row in rows) - self.geometry.spacing_down
        return lay_out_cell(cell, self.geometry, self.space, UNBOUNDED, None, height, height)

    def _cells_on(self, row: int, first: int, places: Places) -> list[GridCell]:
        """The cells that begin in a row, and at the top of a page those that go on into it."""
        cells = self.grid.cells_of[row]
        if row == first and places:
            return cells + [cell for cell in map(self.grid.cell_of.__getitem__, places) if cell.row < row]
        return cells

    def of_pieces(self, row: int, pieces: list[CellPiece]) -> Band:
        """One row of cells that have been laid out."""
        height = max((piece.fragment.height for piece in pieces), default=0.0)
        return Band(row, [max(height, _baseline_height(row, pieces)) + self.geometry.spacing_down], pieces)


def share_out(grid: Grid, first: int, heights: list[float], rows: range, more: float) -> None:
    """Adds to the heights of some rows, from row `first` of the grid on, in the measure that they have: to those that
    are given no height, else to all (CSS Tables 3 §3.8.5)."""
    free = [row for row in rows if not _is_given_height(grid, first + row)] or list(rows)
    weight = sum(heights[row] for row in free)
    for row in free:
        heights[row] += more * (heights[row] / weight if weight else 1 / len(free))


def _is_given_height(grid: Grid, row: int) -> bool:
    return isinstance(grid.rows[row].style.height, float) or any(
        cell.rows == 1 and isinstance(cell.box.style.height, float) for cell in grid.cells_of[row]
    )


def _row_height(row: RowBox) -> float:
    return own_height(row.style, None, 0.0) or 0.0


def _baseline_height(row: int, pieces: list[CellPiece]) -> float:
    """The height that cells aligned on a shared baseline ask for together."""
    above = below = 0.0
    for piece in pieces:
        style = piece.cell.box.style
        if piece.fragment.first and piece.cell.row == row and piece.cell.rows == 1 and style.vertical_align in BASELINE:
            baseline = cell_baseline(piece.fragment)
            above = max(above, baseline)
            below = max(below, piece.fragment.height - baseline)
    return above + below


def row_fragments(band: Band, geometry: Geometry) -> list[Fragment]:
    """The rows of a band one below the other from 0 on, with their cells in them."""
    rows: list[Fragment] = []
    y = 0.0
    for offset, height in enumerate(band.heights):
        inner = max(0.0, height - geometry.spacing_down)
        row = Fragment(geometry.grid.rows[band.first + offset], geometry.row_width, inner)
        row.y = y
        y += height
        rows.append(row)
    baselines = _shared_baselines(band)
    for piece in band.pieces:
        _place_cell(piece, band.first, rows, geometry, baselines)
    return rows


def _shared_baselines(band: Band) -> dict[int, float]:
    """By row: the lowest baseline of the cells that share one."""
    found: dict[int, float] = {}
    for piece in band.pieces:
        if piece.cell.rows == 1 and piece.cell.box.style.vertical_align not in NOT_ON_BASELINE:
            row = piece.cell.row
            found[row] = max(found.get(row, 0.0), cell_baseline(piece.fragment))
    return found


def _place_cell(
    piece: CellPiece, first: int, rows: list[Fragment], geometry: Geometry, baselines: Mapping[int, float]
) -> None:
    cell, fragment = piece.cell, piece.fragment
    begin, end = max(0, cell.row - first), min(len(rows), cell.row + cell.rows - first)
    fragment.height = rows[end - 1].y + rows[end - 1].height - rows[begin].y
    fragment.x = geometry.lefts[cell.column] - geometry.lefts[0]
    fragment.y = 0.0
    shift = _vertical_shift(piece, baselines)
    if shift:
        move_content(fragment, shift)
    rows[begin].children.append(fragment)


def _vertical_shift(piece: CellPiece, baselines: Mapping[int, float]) -> float:
    """How far the content moves down in its cell (CSS 2.2 §17.5.3)."""
    align = piece.cell.box.style.vertical_align
    if piece.resume is not None or not piece.fragment.first:
        return 0.0
    if align == "middle":
        return (piece.fragment.height - piece.natural) / 2
    if align == "bottom":
        return piece.fragment.height - piece.natural
    if align == "top" or piece.cell.rows > 1:
        return 0.0
    return baselines[piece.cell.row] - cell_baseline(piece.fragment)
