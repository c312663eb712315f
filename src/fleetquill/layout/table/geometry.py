"""How the measures of a table are found: its grid, its borders, the widths of its columns."""

from __future__ import annotations

from decimal import Decimal

from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import content_widths
from fleetquill.layout.contract.sizing import clamp_width, edges_of, margin_left_right, own_width
from fleetquill.layout.contract.space import Space
from fleetquill.layout.table.borders import Collapsed, settle_shares
from fleetquill.layout.table.boxes import TableBox
from fleetquill.layout.table.grid import Grid, column_style
from fleetquill.layout.table.measures import Geometry
from fleetquill.layout.table.plain_rows import PlainBody, find_plain
from fleetquill.layout.table.tallies import ZERO, Contributions, value_of
from fleetquill.layout.table.widths import Column, distribute, fixed_columns, measure_columns, preferred_width
from fleetquill.style.properties import ComputedStyle


def contributions_of(box: TableBox, context: Context) -> Contributions:
    """What the table's rows add to tallies."""
    if box.contributions is None:
        grid = grid_of(box)
        box.contributions = Contributions([_contribution(grid, row, context) for row in range(len(grid.rows))])
        if box.contributions.any:
            context.tallies = box.contributions.widest()
    return box.contributions


def _contribution(grid: Grid, row: int, context: Context) -> dict[str, Decimal]:
    found: dict[str, Decimal] = {}
    for cell in grid.cells_of[row]:
        name = cell.box.style.fq_tally
        if name != "none":
            element = cell.box.element
            number = row - grid.body.start + 1
            value = value_of(element, name, number, grid.number_of(cell), context.services.place_of)
            found[name] = found.get(name, ZERO) + value
    return found


def grid_of(box: TableBox) -> Grid:
    if box.grid is None:
        box.grid = Grid(box.groups, box.columns, mirrored=box.style.direction == "rtl")
    return box.grid


def collapsed_of(box: TableBox, grid: Grid) -> Collapsed | None:
    if box.style.border_collapse != "collapse":
        return None
    if box.collapsed is None:
        box.collapsed = Collapsed(box.style, grid)
    return box.collapsed


def geometry_of(box: TableBox, space: Space) -> Geometry:
    """Column widths and edges for a containing block of this width, worked out once."""
    geometries = box.measures.geometries
    key = (space.width, space.fixed_width)
    kept = geometries.get(key)
    if kept is None:
        kept = geometries[key] = _geometry(box, space)
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
    if not grid.rows:
        across = down = 0.0
    columns = columns_of(box, grid, space.context, across)
    fixed_parts = left + right + (across * (grid.column_count + 1) if grid.column_count else 0.0)
    least, most = preferred_width(columns)
    margins = margin_left_right(style, space.width, None)
    available = space.width - sum(margins)
    width = own_width(style, space.width, left + right) if space.fixed_width is None else space.fixed_width
    if width is None:
        words = {"min-content": least, "max-content": most}
        width = words.get(str(style.width), max(least, min(most, available - fixed_parts))) + fixed_parts
        width = clamp_width(style, width, space.width, left + right)
    width = max(width, least_of_captions(box, space.context))
    inner = max(0.0, width - fixed_parts)
    if style.table_layout == "fixed" and style.width != "auto":
        widths = fixed_columns(grid, inner, across)
    else:
        widths = distribute(columns, inner)
    if grid.column_count:
        width = max(width, sum(widths) + fixed_parts)
        width -= _leave_out_collapsed(grid, widths, across)
    elif box.children:  # captions alone
        width = max(width, min(available, max(content_widths(c, space.context)[1] for c in box.children)))
    if style.fq_fit == "auto" and width > space.context.paper + 1 and box.element not in space.context.overwide:
        space.context.overwide.add(box.element)
    elif width > available + 1:
        space.context.told_wide.add(box.element)
        space.context.remark_once(
            "overflow",
            f"The table is {(width - available) * 0.75:.0f} pt wider than the {available * 0.75:.0f} pt "
            f"that it has; it runs over the edge. {_remedy(style)}",
            box.element,
        )
    lefts = []
    x = left + across
    for size in widths:
        lefts.append(x)
        x += size + across
    if not lefts:  # rows without cells
        lefts, widths = [left], [0.0]
    settle_shares(grid, width)
    after = [column.after for column in columns]
    return Geometry(grid, collapsed, width, lefts, widths, across, down, top, bottom, after)


def _leave_out_collapsed(grid: Grid, widths: list[float], across: float) -> float:
    """Takes columns of `visibility: collapse` out of the widths; gives what that saves (CSS Tables 3 §5.1.2)."""
    saved = 0.0
    for index, style in enumerate(column_style(grid, at) for at in range(grid.column_count)):
        if style is not None and style.visibility == "collapse":
            saved += widths[index] + across
            widths[index] = -across
    return saved


def _remedy(style: ComputedStyle) -> str:
    if style.fq_fit in ("auto", "shrink"):
        return "It is as small as it may be made."
    return 'fit="page", or -fq-fit: shrink, makes it smaller.'


def least_of_captions(box: TableBox, context: Context) -> float:
    """A table is as wide as its captions must be (CSS 2.2 §17.5.2.2)."""
    return max([content_widths(caption, context)[0] for caption in box.children], default=0.0)


def columns_of(box: TableBox, grid: Grid, context: Context, spacing: float) -> list[Column]:
    """What the columns of a table ask for, measured once."""
    columns = box.measures.columns
    kept = columns.get(spacing)
    if kept is None:
        kept = columns[spacing] = measure_columns(grid, plain_of(box, grid, context), context, spacing)
    return kept


def plain_of(box: TableBox, grid: Grid, context: Context) -> PlainBody:
    """The plain rows of a table, found once its shared borders are known."""
    if box.measures.plain is None:
        box.measures.plain = find_plain(grid, context)
    return box.measures.plain
