"""Backgrounds of a table's columns and of their groups (CSS 2.2 §17.5.1)."""

from __future__ import annotations

from collections.abc import Iterator

from fleetquill.drawing.canvas import Canvas
from fleetquill.layout.boxes.boxes import ColumnBox
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.table.grid import Grid
from fleetquill.layout.table.measures import HeldRowsFragment
from fleetquill.paint.borders import decoration_of
from fleetquill.style.values import Rgba

Patch = tuple[float, float, float, float]  # x, y, width, height


def paint_columns(canvas: Canvas, fragment: Fragment, grid: Grid, x: float, y: float) -> None:
    """A table's columns, under the cells that begin in them; the table's corner is at (x, y)."""
    colors = [_colors(box) for box in grid.columns]
    if not any(colors):
        return
    for column, patches in _patches(fragment, grid, x, y).items():
        for color in colors[column]:
            for patch in patches:
                canvas.fill_rect(*patch, color)


def _colors(column: ColumnBox | None) -> list[Rgba]:
    """What lies under a column, the lowest first: its group's colour and its own."""
    styles = () if column is None else (column.around, column.style)
    shown = [decoration_of(style) for style in styles if style is not None and style.visibility == "visible"]
    return [decoration.background for decoration in shown if decoration is not None and decoration.background]


def _patches(fragment: Fragment, grid: Grid, x: float, y: float) -> dict[int, list[Patch]]:
    """By column: where its cells stand, those that touch as one."""
    found: dict[int, list[Patch]] = {}
    for group in fragment.children:
        for row, row_x, row_y in _rows(group) if isinstance(group, Fragment) and group.box in grid.row_group else ():
            for cell in row.children:
                assert isinstance(cell, Fragment)
                left, top = x + group.x + row_x + cell.x, y + group.y + row_y + cell.y
                bottom = top + cell.height
                patches = found.setdefault(grid.cell_of[cell.box].column, [])
                if patches and patches[-1][::2] == (left, cell.width) and abs(sum(patches[-1][1::2]) - top) < 0.01:
                    top = patches.pop()[1]
                patches.append((left, top, cell.width, bottom - top))
    return found


def _rows(group: Fragment) -> Iterator[tuple[Fragment, float, float]]:
    """The rows in a group, and where they stand in it."""
    for part in group.children:
        if isinstance(part, HeldRowsFragment):
            yield from ((row, part.x + row.x, part.y + row.y) for row in part.inside())
        elif isinstance(part, Fragment):
            yield part, part.x, part.y
