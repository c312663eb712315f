"""The measures of a table that all its pages share: its grid, its borders, the widths of its columns."""

from __future__ import annotations

from decimal import Decimal
from typing import NamedTuple

from fleetquill.layout.boxes.boxes import TableBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import content_widths
from fleetquill.layout.contract.sizing import clamp_width, edges_of, margin_left_right, own_width
from fleetquill.layout.contract.space import Space
from fleetquill.layout.table.borders import Collapsed
from fleetquill.layout.table.grid import Grid, GridCell
from fleetquill.layout.table.tallies import ZERO, Contributions, value_of
from fleetquill.layout.table.widths import Column, distribute, fixed_columns, measure_columns, preferred_width


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


class TableDetail(NamedTuple):
    """What is painted for the table itself: where its grid stands, and its shared borders."""

    top: float
    height: float
    geometry: Geometry
    rows: list[tuple[int, float, float]]  # (row index, y, height) on this page


def contributions_of(box: TableBox, context: Context) -> Contributions | None:
    """What the table's rows add to tallies; None where no cell does."""
    if "contributions" not in box.kept:
        grid = grid_of(box)
        rows = [_contribution(grid, row, context) for row in range(len(grid.rows))]
        box.kept["contributions"] = Contributions(rows) if any(rows) else None
        if any(rows):
            context.tallies = box.kept["contributions"].widest()
    return box.kept["contributions"]  # type: ignore[no-any-return]


def _contribution(grid: Grid, row: int, context: Context) -> dict[str, Decimal]:
    found: dict[str, Decimal] = {}
    for cell in grid.cells_of[row]:
        name = cell.box.style.fq_tally
        if name != "none":
            element = cell.box.element
            number = row - grid.body.start + 1
            value = value_of(element, name, number, cell.column + 1, context.place_of(element))
            found[name] = found.get(name, ZERO) + value
    return found


def grid_of(box: TableBox) -> Grid:
    if box.grid is None:
        box.grid = Grid(box)
    return box.grid


def collapsed_of(box: TableBox, grid: Grid) -> Collapsed | None:
    if box.style.border_collapse != "collapse":
        return None
    kept = box.kept.get("collapsed")
    if kept is None:
        kept = box.kept["collapsed"] = Collapsed(box, grid)
    return kept


def geometry_of(box: TableBox, space: Space) -> Geometry:
    """Column widths and edges for a containing block of this width, worked out once."""
    key = ("geometry", space.width, space.fixed_width)
    kept = box.kept.get(key)
    if kept is None:
        kept = box.kept[key] = _geometry(box, space)
    return kept


def _geometry(box: TableBox, space: Space) -> Geometry:
    style = box.style
    grid = grid_of(box)
    contributions_of(box, space.context)
    collapsed = collapsed_of(box, grid)
    edges = edges_of(style, space.width)
    top, right, bottom, left = (edges.top, edges.right, edges.bottom, edges.left)
    across, down = style.border_spacing
    if collapsed is not None:
        top, right, bottom, left = collapsed.outer()
        across = down = 0.0
    columns = columns_of(box, grid, space.context, across)
    fixed_parts = left + right + across * (grid.column_count + 1)
    least, most = preferred_width(columns)
    margins = margin_left_right(style, space.width, None)
    available = space.width - sum(margins)
    width = own_width(style, space.width, left + right) if space.fixed_width is None else space.fixed_width
    if width is None:
        width = max(least + fixed_parts, min(most + fixed_parts, available))
        width = clamp_width(style, width, space.width, left + right)
    width = max(width, least_of_captions(box, space.context))
    inner = max(0.0, width - fixed_parts)
    if style.table_layout == "fixed" and style.width != "auto":
        widths = fixed_columns(grid, inner, across)
    else:
        widths = distribute(columns, inner)
    if grid.column_count:
        width = max(width, sum(widths) + fixed_parts)
    elif box.children:  # captions alone
        width = max(width, min(available, max(content_widths(c, space.context)[1] for c in box.children)))
    if width > available + 1:
        space.context.remark_once(
            "overflow",
            f"The table is {(width - available) * 0.75:.0f} pt wider than the {available * 0.75:.0f} pt "
            "that it has; it runs over the edge.",
            box.element,
        )
    lefts = []
    x = left + across
    for size in widths:
        lefts.append(x)
        x += size + across
    after = [column.after for column in columns]
    return Geometry(grid, collapsed, width, lefts, widths, across, down, top, bottom, after)


def least_of_captions(box: TableBox, context: Context) -> float:
    """A table is as wide as its captions must be (CSS 2.2 §17.5.2.2)."""
    return max([content_widths(caption, context)[0] for caption in box.children], default=0.0)


def columns_of(box: TableBox, grid: Grid, context: Context, spacing: float) -> list[Column]:
    """What the columns of a table ask for, measured once."""
    key = ("columns", spacing)
    kept: list[Column] | None = box.kept.get(key)
    if kept is None:
        kept = box.kept[key] = measure_columns(grid, context, spacing)
    return kept
