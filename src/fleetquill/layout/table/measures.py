"""The measures of a table that all its pages share, and what its fragments hold besides their children."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.rows import Cell
from fleetquill.layout.boxes.boxes import Box, RowBox
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.contract.sizing import Edges
from fleetquill.layout.table.borders import Collapsed
from fleetquill.layout.table.grid import Grid, GridCell


class Geometry(NamedTuple):
    """The measures of a table that every page shares, in px."""

    grid: Grid
    collapsed: Collapsed | None
    width: float  # of the table's border box
    lefts: list[float]  # left edge of each column, from the border box
    widths: list[float]
    spacing_across: float
    spacing_down: float
    top: float  # the table's own border and padding
    bottom: float
    after: list[float]  # for each column the widest text from the character on that cells are aligned on

    def span_width(self, cell: GridCell) -> float:
        last = cell.column + cell.columns - 1
        return self.lefts[last] + self.widths[last] - self.lefts[cell.column]

    @property
    def row_width(self) -> float:
        return self.lefts[-1] + self.widths[-1] - self.lefts[0]


class TableDetail(NamedTuple):
    """What is painted for the table itself: where its grid stands, and its shared borders."""

    top: float
    height: float
    geometry: Geometry
    rows: list[tuple[int, float, float]]  # (row index, y, height) on this page


class TableFragment(Fragment):
    """A table's part on one page."""

    __slots__ = ("detail",)

    def __init__(self, box: Box, width: float, detail: TableDetail) -> None:
        super().__init__(box, width, 0.0)
        self.detail = detail


class CellFragment(Fragment):
    """A cell, or a part of one."""

    __slots__ = ("edges",)

    def __init__(self, box: Box, width: float, edges: Edges) -> None:
        super().__init__(box, width, 0.0)
        self.edges = edges


class Stencil:
    """An empty row that plain rows stand on, how far it is to the next one, px, and its shared borders; `ground` is
    what paint makes of it."""

    __slots__ = ("ground", "height", "lines", "row")

    def __init__(self, row: Fragment, height: float, lines: TableDetail | None) -> None:
        self.row = row
        self.height = height
        self.lines = lines
        self.ground: Drawing | None = None


class RowsFragment(Fragment):
    """Plain rows one below the other, each on an empty one of the `stencils`. `closing` is the line under the last row:
    each row draws the one over it."""

    __slots__ = ("cells", "closing", "stencils", "texts")

    def __init__(
        self,
        box: Box,
        width: float,
        stencils: list[Stencil],
        closing: Stencil,
        cells: list[list[Cell]],
        texts: list[tuple[str, ...]],
    ) -> None:
        super().__init__(box, width, sum([stencil.height for stencil in stencils]))
        self.stencils = stencils
        self.closing = closing
        self.cells = cells
        self.texts = texts


class HeldRowsFragment(RowsFragment):
    """Plain rows that a table holds: those of the boxes `rows`. Fragments of them are made where they are asked for."""

    __slots__ = ("_made", "make", "rows")

    def hold(self, rows: list[RowBox], make: Callable[[], list[Fragment]]) -> None:
        """Says which they are, and how their fragments are made."""
        self.rows = rows
        self.make = make
        self._made: list[Fragment] | None = None

    def inside(self) -> Sequence[Fragment]:
        if self._made is None:
            self._made = self.make()
        return self._made
