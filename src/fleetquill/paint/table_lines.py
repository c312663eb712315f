"""The shared borders of a table in the collapsed model, each drawn once and joined crisply."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from fleetquill.drawing.canvas import Canvas
from fleetquill.layout.table.borders import NO_BORDER, Border, Collapsed, borders_of, drawn_width
from fleetquill.layout.table.measures import TableDetail
from fleetquill.paint.borders import Side
from fleetquill.paint.strokes import stroke_line

Row = tuple[int, float, float]  # index, top and height


class Segment(NamedTuple):
    """A stretch of one border, from (x0, y0) to (x1, y1)."""

    border: Border
    x0: float
    y0: float
    x1: float
    y1: float


def paint_collapsed(canvas: Canvas, detail: TableDetail, x: float, y: float) -> None:
    """Lines along the edges of the rows on this page; equal neighbours become one line.

    Where lines meet, the strongest runs through and the others end beneath it: they are drawn from
    the weakest to the strongest.
    """
    collapsed = detail.geometry.collapsed
    if collapsed is None or not detail.rows or not collapsed.bordered:
        return
    lefts = [x + left for left in detail.geometry.lefts]
    stops = [*lefts, lefts[-1] + detail.geometry.widths[-1]]
    segments: list[Segment] = []
    for run in _runs(detail.rows):
        part = detail._replace(rows=run)
        lines = _lines_across(collapsed, part)
        segments += _across(collapsed, part, lines, stops, y)
        segments += _down(collapsed, part, lines, stops, y)
    for segment in sorted(segments, key=lambda s: s.border[:3]):
        _stroke(canvas, (segment.x0, segment.y0), (segment.x1, segment.y1), segment.border)


def _runs(rows: list[Row]) -> list[list[Row]]:
    """Rows in stretches that stand one right below the other; a ledger's plain rows lie between."""
    runs: list[list[Row]] = []
    for row in rows:
        if runs and _touch(runs[-1][-1], row):
            runs[-1].append(row)
        else:
            runs.append([row])
    return runs


def _lines_across(collapsed: Collapsed, detail: TableDetail) -> list[tuple[list[Border], float]]:
    """The horizontal lines of this page with their heights; where rows meet over a break, the stronger wins."""
    lines: list[tuple[list[Border], float]] = []
    rows = detail.rows
    for place, (row, top, height) in enumerate(rows):
        line = collapsed.across[row] if place else _first_line(collapsed, detail, row)
        if place:
            above = collapsed.across[rows[place - 1][0] + 1]
            if rows[place - 1][0] + 1 != row:
                line = [max(a, b, key=lambda border: border[:3]) for a, b in zip(line, above, strict=True)]
        lines.append((line, top))
        if place == len(rows) - 1:
            lines.append((collapsed.across[row + 1], top + height))
    return lines


def _first_line(collapsed: Collapsed, detail: TableDetail, row: int) -> list[Border]:
    """The line over the first row of a page: where a head that only other pages show would stand above it, its own."""
    line, grid = collapsed.across[row], detail.geometry.grid
    if not row or grid.row_group[row - 1].style.fq_show_on == "every" or grid.row_group[row - 1].role == "body":
        return line
    own = [NO_BORDER] * len(line)
    for cell in grid.cells_of[row]:
        own[cell.column : cell.column + cell.columns] = [borders_of(cell.box.style, 0)[0]] * cell.columns
    return own


def _reach(border: Border, crossing: list[Border]) -> float:
    """How far a line runs on past the middle of a joint: half of what it crosses, if it is as strong."""
    strongest = max(crossing, key=lambda b: (drawn_width(b), b.rank, b.source), default=NO_BORDER)
    width = drawn_width(strongest)
    return width / 2 if (drawn_width(border), border.rank) >= (width, strongest.rank) else 0.0


def _across(
    collapsed: Collapsed, detail: TableDetail, lines: list[tuple[list[Border], float]], stops: list[float], y: float
) -> Iterator[Segment]:
    """Horizontal stretches."""
    rows = [row for row, _, _ in detail.rows]
    for number, (line, at) in enumerate(lines):
        beside = [collapsed.down[row] for row in rows[max(0, number - 1) : number + 1]]
        column = 0
        while column < len(line):
            border = line[column]
            end = column + 1
            while end < len(line) and line[end] == border:
                end += 1
            if drawn_width(border):
                left = stops[column] - _reach(border, [down[column] for down in beside])
                right = stops[end] + _reach(border, [down[end] for down in beside])
                yield Segment(border, left, y + at, right, y + at)
            column = end


def _down(
    collapsed: Collapsed, detail: TableDetail, lines: list[tuple[list[Border], float]], stops: list[float], y: float
) -> Iterator[Segment]:
    """Vertical stretches."""
    rows = detail.rows
    for column in range(len(stops)):
        start = 0
        while start < len(rows):
            border = collapsed.down[rows[start][0]][column]
            end = start + 1
            while (
                end < len(rows) and collapsed.down[rows[end][0]][column] == border and _touch(rows[end - 1], rows[end])
            ):
                end += 1
            if drawn_width(border):
                top = y + rows[start][1] - _reach(border, _beside(lines[start][0], column))
                bottom = y + rows[end - 1][1] + rows[end - 1][2] + _reach(border, _beside(lines[end][0], column))
                yield Segment(border, stops[column], top, stops[column], bottom)
            start = end


def _touch(above: Row, below: Row) -> bool:
    """Whether two rows of a page stand one right below the other."""
    return abs(above[1] + above[2] - below[1]) < 0.01


def _beside(line: list[Border], column: int) -> list[Border]:
    """The borders of a horizontal line at the left and the right of a vertical one."""
    return line[max(0, column - 1) : column + 1]


def _stroke(canvas: Canvas, start: tuple[float, float], end: tuple[float, float], border: Border) -> None:
    stroke_line(canvas, start, end, Side(border.width, border.style, border.color))
