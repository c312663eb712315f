"""The grid of a table: which cell covers which slots (CSS Tables 3 §3.3, HTML §4.9.12)."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property

from fleetquill.layout.boxes.boxes import Box, CellBox, ColumnBox, RowBox, RowGroupBox
from fleetquill.style.properties import ComputedStyle

MOST_COLUMNS = 10_000


class GridCell:
    """A cell at its place: first row and column, and how many of each it covers."""

    __slots__ = ("box", "column", "columns", "row", "rows")

    def __init__(self, box: CellBox, row: int, column: int, rows: int, columns: int) -> None:
        self.box = box
        self.row = row
        self.column = column
        self.rows = rows
        self.columns = columns


class Grid:
    """Rows and columns of a table, head rows first, foot rows last, columns from left to right.

    A table that is read from right to left is `mirrored`: its first column is the last here.
    """

    def __init__(self, groups: list[RowGroupBox], columns: list[ColumnBox], *, mirrored: bool = False) -> None:
        self.mirrored = mirrored
        self.rows: list[RowBox] = []
        self.groups: list[tuple[RowGroupBox, int, int]] = []  # group, first row, row after the last
        self.row_group: list[RowGroupBox] = []
        self.cells_of: list[list[GridCell]] = []  # cells by the row that they start in
        self.column_count = 0
        for group in _in_visual_order(groups):
            self._add_group(group)
        spans = min(sum(column.span for column in columns), MOST_COLUMNS)
        self.column_count = max(self.column_count, spans)
        for row in self.cells_of:  # columns that only spanning cells reach into are none (CSS Tables 3 §3.3)
            for cell in row:
                cell.columns = min(cell.columns, self.column_count - cell.column)
        self.columns: list[ColumnBox | None] = _columns(columns, self.column_count)
        if mirrored:
            self.columns.reverse()
            for row in self.cells_of:
                for cell in row:
                    cell.column = self.column_count - cell.column - cell.columns

    def _add_group(self, group: RowGroupBox) -> None:
        first = len(self.rows)
        count = len(group.children)
        filled: dict[int, set[int]] = {}  # columns by row that cells above reach into
        for index, row in enumerate(group.children):
            assert isinstance(row, RowBox)
            column = 0
            taken = filled.get(index, ())
            cells: list[GridCell] = []
            for box in row.children:
                assert isinstance(box, CellBox)
                while column in taken:
                    column += 1
                rows = min(box.row_span or count, count - index)
                if rows > 1:
                    for below in range(index + 1, index + rows):
                        filled.setdefault(below, set()).update(range(column, column + box.column_span))
                cells.append(GridCell(box, first + index, column, rows, box.column_span))
                column += box.column_span
            if cells:
                self.column_count = max(self.column_count, cells[-1].column + 1)
            self.rows.append(row)
            self.row_group.append(group)
            self.cells_of.append(cells)
        self.groups.append((group, first, len(self.rows)))

    def number_of(self, cell: GridCell) -> int:
        """The number of a cell's first column as it is read, from 1."""
        return self.column_count - cell.column - cell.columns + 1 if self.mirrored else cell.column + 1

    @cached_property
    def cell_of(self) -> dict[Box, GridCell]:
        """The cells by their boxes."""
        return {cell.box: cell for row in self.cells_of for cell in row}

    def band_end(self, row: int, going_on: Iterable[Box] = ()) -> int:
        """The row after the last of those that spanning cells tie to `row`, with those that go on into it."""
        end = row + 1
        for cell in map(self.cell_of.__getitem__, going_on):
            end = max(end, cell.row + cell.rows)
        index = row
        while index < end:
            for cell in self.cells_of[index]:
                end = max(end, cell.row + cell.rows)
            index += 1
        return end

    def ranges(self, role: str) -> list[tuple[RowGroupBox, range]]:
        """The groups of a role ('head', 'foot') with their rows."""
        return [(group, range(first, stop)) for group, first, stop in self.groups if group.role == role]

    @property
    def body(self) -> range:
        """The rows that are neither of a head nor of a foot."""
        heads = [stop for group, _, stop in self.groups if group.role == "head"]
        feet = [first for group, first, _ in self.groups if group.role == "foot"]
        return range(max(heads, default=0), min(feet, default=len(self.rows)))

    def group_range(self, row: int) -> tuple[int, int]:
        """The rows of the group that a row is in."""
        for _, first, stop in self.groups:
            if first <= row < stop:
                return first, stop
        return row, row


def _in_visual_order(groups: list[RowGroupBox]) -> list[RowGroupBox]:
    """Heads first and feet last (CSS 2.2 §17.2).

    Of heads and feet that every page shows the first alone is one; the others stay bodies.
    """
    found: dict[str, list[RowGroupBox]] = {"head": [], "body": [], "foot": []}
    for group in groups:
        usual = group.style.fq_show_on == "every"
        if group.role != "body" and usual and any(g.style.fq_show_on == "every" for g in found[group.role]):
            group.role = "body"
        found[group.role].append(group)
    return [*found["head"], *found["body"], *found["foot"]]


def _columns(boxes: list[ColumnBox], count: int) -> list[ColumnBox | None]:
    columns: list[ColumnBox | None] = [box for box in boxes for _ in range(box.span)]
    return (columns + [None] * count)[:count]


def column_style(grid: Grid, index: int) -> ComputedStyle | None:
    box = grid.columns[index]
    return box.style if box else None
