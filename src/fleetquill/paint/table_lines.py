"""The shared borders of a table in the collapsed model, each drawn once and joined crisply."""

from __future__ import annotations

from fleetquill.layout.table import TableDetail
from fleetquill.layout.table_borders import NO_BORDER, Border, Collapsed, drawn_width
from fleetquill.paint.borders import Side, stroke_line
from fleetquill.paint.canvas import Canvas


def paint_collapsed(canvas: Canvas, detail: TableDetail, x: float, y: float) -> None:
    """Lines along the edges of the rows on this page; equal neighbours become one line."""
    collapsed = detail.geometry.collapsed
    if collapsed is None or not detail.rows:
        return
    lefts = [x + left for left in detail.geometry.lefts]
    stops = [*lefts, lefts[-1] + detail.geometry.widths[-1]]
    lines = _lines_across(collapsed, detail)
    for number, (line, at) in enumerate(lines):
        _paint_across(canvas, line, at + y, stops, _thickness_beside(collapsed, detail, number))
    _paint_down(canvas, collapsed, detail, stops, y)


def _lines_across(collapsed: Collapsed, detail: TableDetail) -> list[tuple[list[Border], float]]:
    """The horizontal lines of this page with their heights; where rows meet over a break, the stronger wins."""
    lines: list[tuple[list[Border], float]] = []
    rows = detail.rows
    for place, (row, top, height) in enumerate(rows):
        line = collapsed.across[row]
        if place:
            above = collapsed.across[rows[place - 1][0] + 1]
            if rows[place - 1][0] + 1 != row:
                line = [max(a, b, key=lambda border: border[:3]) for a, b in zip(line, above, strict=True)]
        lines.append((line, top))
        if place == len(rows) - 1:
            lines.append((collapsed.across[row + 1], top + height))
    return lines


def _thickness_beside(collapsed: Collapsed, detail: TableDetail, number: int) -> list[float]:
    """For each vertical line, how thick it is where it meets the horizontal line `number`."""
    rows = [row for row, _, _ in detail.rows]
    above = collapsed.down[rows[number - 1]] if number > 0 else []
    below = collapsed.down[rows[number]] if number < len(rows) else []
    count = max(len(above), len(below))
    return [max(drawn_width(above[i]) if above else 0.0, drawn_width(below[i]) if below else 0.0) for i in range(count)]


def _paint_across(canvas: Canvas, line: list[Border], y: float, stops: list[float], beside: list[float]) -> None:
    column = 0
    while column < len(line):
        border = line[column]
        end = column + 1
        while end < len(line) and line[end] == border:
            end += 1
        width = drawn_width(border)
        if width:
            left = stops[column] - beside[column] / 2
            right = stops[end] + beside[end] / 2
            _stroke(canvas, (left, y), (right, y), border)
        column = end


def _paint_down(canvas: Canvas, collapsed: Collapsed, detail: TableDetail, stops: list[float], y: float) -> None:
    for column in range(len(stops)):
        start = 0.0
        current = NO_BORDER
        for place, (row, top, height) in enumerate(detail.rows):
            border = collapsed.down[row][column]
            if border != current:
                current = border
                start = y + top
            end = y + top + height
            if drawn_width(border) and _ends_here(collapsed, detail, place, column, border):
                _stroke(canvas, (stops[column], start), (stops[column], end), border)
                current = NO_BORDER


def _ends_here(collapsed: Collapsed, detail: TableDetail, place: int, column: int, border: Border) -> bool:
    """Whether the line does not go on in the next row of this page."""
    return place + 1 == len(detail.rows) or collapsed.down[detail.rows[place + 1][0]][column] != border


def _stroke(canvas: Canvas, start: tuple[float, float], end: tuple[float, float], border: Border) -> None:
    if border.style == "double" and border.width >= 3:
        third = border.width / 3
        for shift in (-third, third):
            dx, dy = (0.0, shift) if start[1] == end[1] else (shift, 0.0)
            stroke_line(canvas, (start[0] + dx, start[1] + dy), (end[0] + dx, end[1] + dy),
                        Side(third, "solid", border.color))  # fmt: skip
        return
    stroke_line(canvas, start, end, Side(border.width, border.style, border.color))
