"""Column widths (CSS Tables 3 §3.9 and §3.10)."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Final

from fleetquill.layout.boxes.boxes import CellBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import content_widths
from fleetquill.layout.contract.sizing import limits
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.layout.inline.lines import lines_content_widths
from fleetquill.layout.table.borders import cell_edges
from fleetquill.layout.table.decimals import halves_of
from fleetquill.layout.table.grid import Grid, GridCell, column_style
from fleetquill.layout.table.plain_rows import PlainBody
from fleetquill.style.lengths import Relative
from fleetquill.style.properties import ComputedStyle

SHORT: Final = 14  # times the font size: what is no wider is a short cell
WIDEST: Final = 1e6  # px of a table that asks for more than there can be, as browsers have it
ENOUGH: Final = 10  # times the font size: what texts keep where short cells ask for room


class Column:
    """What a column asks for: least and most px, a share of the table, whether a width was given."""

    __slots__ = ("after", "asked", "before", "enough", "given", "least", "most", "share", "short")

    def __init__(self) -> None:
        self.least = 0.0
        self.most = 0.0
        self.short = 0.0  # what short cells that wrap late ask for on one line
        self.enough = 0.0  # what its other cells keep for themselves
        self.share = 0.0
        self.given = False
        self.asked = 0.0  # the width that was given
        self.before = 0.0  # widest text before the character that cells are aligned on
        self.after = 0.0  # and from it on


def measure_columns(grid: Grid, plain: PlainBody, context: Context, spacing: float) -> list[Column]:
    """The wishes of each column from its cells (§3.9.2), narrow spans before wide ones."""
    columns = [Column() for _ in range(grid.column_count)]
    for index in range(grid.column_count):
        style = column_style(grid, index)
        if style is not None:
            _take_width(columns[index], style, 0.0)
    for kind in plain.kinds:
        for cell, widths in zip(kind.cells, kind.widths, strict=True):
            across = cell_edges(cell.box).across
            for least, most in widths:
                _take_cell(columns[cell.column], cell.box.style, least + across, most + across)
            _take_width(columns[cell.column], cell.box.style, across)
    spanning: list[GridCell] = []
    for index, row in enumerate(grid.cells_of):
        for cell in row if index not in plain.rows else ():
            if cell.columns > 1:
                spanning.append(cell)
                continue
            column = columns[cell.column]
            least, most = cell_widths(cell.box, context)
            style = cell.box.style
            halves = halves_of(cell.box, context) if style.text_align[0] == '"' else None
            if halves is not None:
                column.before = max(column.before, halves.before)
                column.after = max(column.after, halves.after)
                least = max(least, column.before + column.after + cell_edges(cell.box).across)
            _take_cell(column, style, least, most)
            _take_width(column, style, cell_edges(cell.box).across)
    for column in columns:
        if column.given:  # a width that was asked for stands in for the content's (§3.9.2)
            column.most = max(column.least, column.asked)
    for cell in sorted(spanning, key=lambda c: c.columns):
        _spread_span(columns[cell.column : cell.column + cell.columns], cell, context, spacing)
    for column in columns:
        column.most = max(column.most, column.least)
    _cap_shares(columns)
    return columns


def _take_cell(column: Column, style: ComputedStyle, least: float, most: float) -> None:
    """What a cell asks for that stands in one column."""
    column.least = max(column.least, least)
    column.most = max(column.most, most, least)
    if style.fq_wrap == "late" and most <= SHORT * style.font_size:
        column.short = max(column.short, most)
    else:
        column.enough = max(column.enough, min(most, ENOUGH * style.font_size))


def cell_widths(box: CellBox, context: Context) -> tuple[float, float]:
    """Min-content and max-content widths of a cell's border box, before its own `width`."""
    across = cell_edges(box).across
    least = most = 0.0
    for child in box.children:
        if isinstance(child, LinesBox) and child.element is None:  # anonymous: no edges, no limits
            narrow, wide = lines_content_widths(child, context)
            least, most = max(least, narrow), max(most, wide)
            continue
        narrow, wide = content_widths(child, context)
        margin = sum(m for m in (child.style.margin_left, child.style.margin_right) if isinstance(m, float))
        least, most = max(least, narrow + margin), max(most, wide + margin)
    if box.style.max_width == "none" and box.style.min_width == "auto":
        return least + across, most + across
    low, high = limits(box.style, 0.0, across)
    if not isinstance(box.style.max_width, (float, str)):
        high = math.inf  # a share of nothing
    least, most = min(least + across, high), min(most + across, high)
    return max(least, low), max(most, low)


def _take_width(column: Column, style: ComputedStyle, across: float) -> None:
    width = style.width
    if isinstance(width, Relative) and width.px == 0:
        column.share = max(column.share, width.ratio)
    elif isinstance(width, float):
        size = max(width, across) if style.box_sizing == "border-box" else width + across
        column.asked = max(column.asked, size)
        column.given = True


def _spread_span(columns: list[Column], cell: GridCell, context: Context, spacing: float) -> None:
    """What a spanning cell asks for beyond its columns, spread over them (§3.9.3)."""
    least, most = cell_widths(cell.box, context)
    if isinstance(cell.box.style.width, float):
        most = max(least, cell.box.style.width + cell_edges(cell.box).across)
    between = spacing * (cell.columns - 1)
    least, most = least - between, max(most, least) - between
    _share_out(columns, cell.box.style)
    more_least = least - sum(max(c.least, c.share * least) for c in columns)
    more_most = most - sum(max(c.most, c.share * most) for c in columns)
    flexible = [c for c in columns if not c.given and not c.share] or columns
    weight = sum(c.most for c in flexible)
    slack = sum(c.most - c.least for c in flexible)  # in which the least grows first
    within, beyond = min(slack, max(0.0, more_least)), max(0.0, more_least - slack)
    for column in flexible:
        part = column.most / weight if weight else 1 / len(flexible)
        column.least += beyond * part + (within * (column.most - column.least) / slack if slack else 0.0)
        column.most += max(0.0, more_most) * part
    for column in columns:
        column.most = max(column.most, column.least)


def _share_out(columns: list[Column], style: ComputedStyle) -> None:
    """What a spanning cell asks for in percent beyond its columns, for those that ask for none (§3.9.3)."""
    width = style.width
    if not isinstance(width, Relative) or width.px:
        return
    without = [column for column in columns if not column.share]
    more = width.ratio - sum(column.share for column in columns)
    weight = sum(column.most for column in without)
    for column in without if more > 0 else ():
        column.share = more * (column.most / weight if weight else 1 / len(without))


def _cap_shares(columns: list[Column]) -> None:
    """Percentages stop at 100 in all."""
    left = 1.0
    for column in columns:
        column.share = min(column.share, left)
        left -= column.share


def preferred_width(columns: list[Column]) -> tuple[float, float]:
    """The least and the most that the columns ask for in all, percentages counted in."""
    least = sum(c.least for c in columns)
    most = sum(c.most for c in columns)
    for column in columns:
        if column.share:
            most = max(most, column.most / column.share)
    shares = sum(c.share for c in columns)
    rest = sum(c.most for c in columns if not c.share)
    if shares and rest:
        most = max(most, rest / (1 - shares) if shares < 1 else WIDEST)
    return least, most


def distribute(columns: list[Column], width: float) -> list[float]:
    """The used widths of the columns when they have `width` px between them (§3.10)."""
    least = [c.least for c in columns]
    with_shares = [max(c.least, c.share * width) if c.share else c.least for c in columns]
    with_given = [s if c.share else (c.most if c.given else c.least) for c, s in zip(columns, with_shares, strict=True)]
    most = [s if c.share else c.most for c, s in zip(columns, with_shares, strict=True)]
    guesses = [least, with_shares, with_given, _with_short(columns, with_given, most, width), most]
    if width <= sum(least):
        return least
    for low, high in pairwise(guesses):
        total_low, total_high = sum(low), sum(high)
        if total_low <= width < total_high:
            part = (width - total_low) / (total_high - total_low)
            return [a + (b - a) * part for a, b in zip(low, high, strict=True)]
    return _widen(columns, most, width - sum(most))


def _with_short(columns: list[Column], widths: list[float], most: list[float], width: float) -> list[float]:
    """Room for cells that wrap late, before texts share the rest: to those first that lack the least (-fq-wrap)."""
    found = list(widths)
    asked = list(zip(columns, widths, most, strict=True))
    room = width - sum(max(low, min(column.enough, high)) for column, low, high in asked)
    lacking = [(min(column.short, high) - low, index) for index, (column, low, high) in enumerate(asked)]
    for lack, index in sorted(lacking):
        if 0.0 < lack <= room:
            found[index] += lack
            room -= lack
    return found


def _widen(columns: list[Column], widths: list[float], excess: float) -> list[float]:
    """Width beyond what all ask for: to free columns first, in the measure of their content."""
    for chosen in (
        [i for i, c in enumerate(columns) if not c.given and not c.share and c.most > 0],
        [i for i, c in enumerate(columns) if c.given and not c.share],
        [i for i, c in enumerate(columns) if c.share],
        list(range(len(columns))),
    ):
        if chosen:
            weight = sum(widths[i] for i in chosen)
            result = list(widths)
            for i in chosen:
                result[i] += excess * (widths[i] / weight if weight else 1 / len(chosen))
            return result
    return widths


def fixed_columns(grid: Grid, width: float, spacing: float) -> list[float]:
    """table-layout: fixed (§3.9.1): the first row and the columns decide."""
    sizes: list[float | None] = [None] * grid.column_count
    for index in range(grid.column_count):
        style = column_style(grid, index)
        if style is not None:
            sizes[index] = _fixed(style, width, 0.0)
    for cell in grid.cells_of[0] if grid.cells_of else []:
        size = _fixed(cell.box.style, width, cell_edges(cell.box).across)
        if size is None:
            continue
        free = [i for i in range(cell.column, cell.column + cell.columns) if sizes[i] is None]
        for index in free:
            sizes[index] = max(0.0, (size - spacing * (cell.columns - 1)) / cell.columns)
    rest = width - sum(s for s in sizes if s is not None)
    free_count = sizes.count(None)
    if free_count:
        return [max(0.0, rest / free_count) if s is None else s for s in sizes]
    known = [s or 0.0 for s in sizes]
    total = sum(known)
    return [s + rest * s / total for s in known] if rest > 0 and total else known


def _fixed(style: ComputedStyle, width: float, across: float) -> float | None:
    if isinstance(style.width, float):
        return max(style.width, across) if style.box_sizing == "border-box" else style.width + across
    if not isinstance(style.width, Relative):
        return None
    size = style.width.resolve(width)
    return size if style.box_sizing == "border-box" else size + across  # as browsers have it
