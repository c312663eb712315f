"""Borders of tables: cell edges in both models, and the collapsed model's conflicts (CSS 2.2 §17.6.2)."""

from __future__ import annotations

from typing import Final, NamedTuple

from fleetquill.layout.boxes.boxes import CellBox
from fleetquill.layout.contract.sizing import Edges, edges, edges_of
from fleetquill.layout.table.grid import Grid, GridCell
from fleetquill.style.lengths import Length, resolve
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import BLACK, Rgba

STYLE_RANK: Final = {
    name: rank
    for rank, name in enumerate(("none", "inset", "groove", "outset", "ridge", "dotted", "dashed", "solid", "double"))
}


class Border(NamedTuple):
    """One border of the collapsed model. Compares by who wins: width, style, then source."""

    width: float
    rank: int
    source: int  # cell 5, row 4, group 3, column 2, column group 1, table 0
    style: str
    color: Rgba


NO_BORDER: Final = Border(0.0, 0, -1, "none", BLACK)
HIDDEN: Final = Border(float("inf"), 0, 9, "hidden", BLACK)


def borders_of(style: ComputedStyle, source: int) -> tuple[Border, Border, Border, Border]:
    """The borders at the top, right, bottom and left; made once for a style."""
    key = ("borders", source)
    kept: tuple[Border, Border, Border, Border] | None = style.kept.get(key)
    if kept is None:
        top, right, bottom, left = (border_of(style, side, source) for side in ("top", "right", "bottom", "left"))
        kept = style.kept[key] = (top, right, bottom, left)
    return kept


def border_of(style: ComputedStyle, side: str, source: int) -> Border:
    kind = getattr(style, f"border_{side}_style")
    if kind == "hidden":
        return HIDDEN
    if kind == "none":
        return NO_BORDER
    width = getattr(style, f"border_{side}_width")
    color = getattr(style, f"border_{side}_color")
    return Border(width, STYLE_RANK[kind], source, kind, color)


def has_borders(style: ComputedStyle) -> bool:
    """Whether a style says anything of borders, if only to hide them; asked once."""
    kept = style.kept.get("bordered")
    if kept is None:
        sides = ("top", "right", "bottom", "left")
        kept = style.kept["bordered"] = any(getattr(style, f"border_{side}_style") != "none" for side in sides)
    return bool(kept)


def cell_edges(box: CellBox) -> Edges:
    """The cell's border and padding; halves of the shared borders where they collapse."""
    return box.edges or edges_of(box.style, 0.0)


def settle_shares(grid: Grid, width: float) -> None:
    """Gives the cells whose paddings are shares of the table's width their edges."""
    shared: dict[ComputedStyle, bool] = {}
    for row in grid.cells_of:
        for cell in row:
            box, style = cell.box, cell.box.style
            if style not in shared:
                shared[style] = not all(isinstance(pad, float) for pad in _paddings(style))
            if shared[style]:
                own = cell_edges(box)
                borders = (own.border_top, own.border_right, own.border_bottom, own.border_left)
                box.edges = edges([resolve(pad, width) for pad in _paddings(style)], borders)
                box.basis = width


def _paddings(style: ComputedStyle) -> tuple[Length, ...]:
    return style.padding_top, style.padding_right, style.padding_bottom, style.padding_left


class Collapsed:
    """The winning borders of a table: `across[r][c]` above row r, `down[r][c]` left of column c."""

    def __init__(self, style: ComputedStyle, grid: Grid) -> None:
        rows, columns = len(grid.rows), grid.column_count
        self.bordered = False
        self.across = [[NO_BORDER] * columns for _ in range(rows + 1)]
        self.down = [[NO_BORDER] * (columns + 1) for _ in range(rows)]
        self._add_cells(grid)
        self._add_rows(grid, columns)
        self._add_columns(grid, rows, columns)
        self._add_table(style, rows, columns)
        for row in grid.cells_of if self.bordered else ():
            for cell in row:
                self._set_cell_edges(cell)

    def one_row(self, row: int, line: list[Border]) -> Collapsed:
        """The borders of one row on its own: those between its cells, and `line` over it."""
        alone = Collapsed.__new__(Collapsed)
        alone.across = [line, [NO_BORDER] * len(line)]
        alone.down = [self.down[row]]
        alone.bordered = self.bordered
        return alone

    def _offer_across(self, row: int, first: int, stop: int, border: Border) -> None:
        if border is NO_BORDER:
            return
        line = self.across[row]
        for column in range(first, stop):
            if _wins(border, line[column]):
                line[column] = border

    def _offer_down(self, first: int, stop: int, column: int, border: Border) -> None:
        if border is NO_BORDER:
            return
        for row in range(first, stop):
            if _wins(border, self.down[row][column]):
                self.down[row][column] = border

    def _add_cells(self, grid: Grid) -> None:
        if not any(map(has_borders, {cell.box.style for row in grid.cells_of for cell in row})):
            return
        for row in grid.cells_of:
            for cell in row:
                self._frame(cell.box.style, cell.row, cell.row + cell.rows, cell.column, cell.column + cell.columns, 5)

    def _frame(self, style: ComputedStyle, top: int, bottom: int, left: int, right: int, source: int) -> None:
        if not has_borders(style):
            return
        self.bordered = True
        above, after, below, before = borders_of(style, source)
        self._offer_across(top, left, right, above)
        self._offer_across(bottom, left, right, below)
        self._offer_down(top, bottom, left, before)
        self._offer_down(top, bottom, right, after)

    def _add_rows(self, grid: Grid, columns: int) -> None:
        for index, row in enumerate(grid.rows):
            self._frame_where_open(grid, row.style, index, index + 1, 0, columns, 4)
        for group, first, stop in grid.groups:
            if stop > first:
                self._frame(group.style, first, stop, 0, columns, 3)

    def _frame_where_open(
        self, grid: Grid, style: ComputedStyle, top: int, bottom: int, left: int, right: int, source: int
    ) -> None:
        """As `_frame`, but not through cells that span over the line."""
        if not (style.border_top_width or style.border_bottom_width or style.border_left_width
                or style.border_right_width):  # fmt: skip
            return
        self.bordered = True
        for line, side in ((top, "top"), (bottom, "bottom")):
            for column in range(left, right):
                if not self._is_spanned(grid, line, column):
                    self._offer_across(line, column, column + 1, border_of(style, side, source))
        self._offer_down(top, bottom, left, border_of(style, "left", source))
        self._offer_down(top, bottom, right, border_of(style, "right", source))

    @staticmethod
    def _is_spanned(grid: Grid, line: int, column: int) -> bool:
        return any(
            cell.row < line < cell.row + cell.rows and cell.column <= column < cell.column + cell.columns
            for row in grid.cells_of[max(0, line - 60) : line]
            for cell in row
            if cell.rows > 1
        )

    def _add_columns(self, grid: Grid, rows: int, columns: int) -> None:
        for index in range(columns):
            box = grid.columns[index]
            if box is not None and rows:
                self._frame(box.style, 0, rows, index, index + 1, 2)

    def _add_table(self, style: ComputedStyle, rows: int, columns: int) -> None:
        if rows and columns:
            self._frame(style, 0, rows, 0, columns, 0)

    def _set_cell_edges(self, cell: GridCell) -> None:
        top, bottom = cell.row, cell.row + cell.rows
        left, right = cell.column, cell.column + cell.columns
        if cell.rows == cell.columns == 1:
            row = self.down[top]
            around = (self.across[top][left], row[right], self.across[bottom][left], row[left])
        else:
            around = (
                max(self.across[top][left:right], key=_width),
                max([row[right] for row in self.down[top:bottom]], key=_width),
                max(self.across[bottom][left:right], key=_width),
                max([row[left] for row in self.down[top:bottom]], key=_width),
            )
        cell.box.edges = _half_edges(cell.box.style, around)

    def outer(self) -> tuple[float, float, float, float]:
        """Half of the widest border at the table's top, right, bottom and left."""
        if not self.down or not self.across[0]:
            return (0.0, 0.0, 0.0, 0.0)
        return (
            max(map(_width, self.across[0])) / 2,
            max(_width(row[-1]) for row in self.down) / 2,
            max(map(_width, self.across[-1])) / 2,
            max(_width(row[0]) for row in self.down) / 2,
        )


def _half_edges(style: ComputedStyle, around: tuple[Border, Border, Border, Border]) -> Edges:
    """Padding and halves of the borders at the top, right, bottom and left; made once for a style."""
    top, right, bottom, left = around
    key = ("half edges", top.width, right.width, bottom.width, left.width)
    kept: Edges | None = style.kept.get(key)
    if kept is None:
        halves = (_width(top) / 2, _width(right) / 2, _width(bottom) / 2, _width(left) / 2)
        kept = style.kept[key] = edges([resolve(pad, 0.0) for pad in _paddings(style)], halves)
    return kept


def _width(border: Border) -> float:
    return 0.0 if border.style == "hidden" else border.width


def _wins(border: Border, other: Border) -> bool:
    """Whether `border` beats `other`; of equals the one that was there first stays."""
    return border[:3] > other[:3]


def drawn_width(border: Border) -> float:
    """The width to draw; 0 for none and hidden."""
    return _width(border)
