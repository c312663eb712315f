"""The names of the series: in rows above the axes, or beside the ends of lines."""

from __future__ import annotations

from typing import NamedTuple

from fleetquill.graphics.charts.chart import Chart
from fleetquill.graphics.charts.look import Look, Rect, Sheet
from fleetquill.graphics.charts.palette import color_of, dash_of, mark_of
from fleetquill.graphics.charts.texts import shortened

SWATCH = 1.1  # em
GAP = 0.45  # em between a swatch and its name
BETWEEN = 1.3  # em between entries


class Entry(NamedTuple):
    series: int  # -1 for how many more there are
    name: str
    width: float  # px, with its swatch and what parts it from the next


def legend_rows(chart: Chart, look: Look, room: float, most: int) -> list[list[Entry]]:
    """Entries in rows, at most so many rows; what has no room is counted in the last."""
    own = (SWATCH + GAP + BETWEEN) * look.size
    rows: list[list[Entry]] = [[]]
    used = 0.0
    for index, series in enumerate(chart.series):
        name = shortened(series.name, max(room - own, look.size), look.wide)
        entry = Entry(index, name, look.wide(name) + own)
        if rows[-1] and used + entry.width - BETWEEN * look.size > room:
            if len(rows) == most:
                _count_rest(rows[-1], len(chart.series) - index, look, room)
                return rows
            rows.append([])
            used = 0.0
        rows[-1].append(entry)
        used += entry.width
    return rows


def _count_rest(row: list[Entry], rest: int, look: Look, room: float) -> None:
    """Ends a row with how many more there are."""
    while row:
        text = f"+{rest}"
        if sum(entry.width for entry in row) + look.wide(text) <= room:
            row.append(Entry(-1, text, look.wide(text)))
            return
        row.pop()
        rest += 1


def draw_legend(sheet: Sheet, chart: Chart, rows: list[list[Entry]], x: float, y: float) -> None:
    """Rows of entries from a corner on."""
    look = sheet.look
    for number, row in enumerate(rows):
        at, baseline = x, y + number * look.line + look.size * 0.92
        for entry in row:
            if entry.series >= 0:
                _swatch(sheet, chart, entry.series, at, baseline)
                sheet.text(at + (SWATCH + GAP) * look.size, baseline, entry.name)
            else:
                sheet.text(at, baseline, entry.name)
            at += entry.width


def _swatch(sheet: Sheet, chart: Chart, index: int, x: float, baseline: float) -> None:
    size = sheet.look.size
    color, middle = series_color(chart, index), baseline - size * 0.34
    if chart.kind == "line" or chart.series[index].second:
        sheet.line((x, middle), (x + SWATCH * size, middle), color=color, linewidth=1.5, linestyle=dash_of(index))
    elif chart.kind == "scatter":
        sheet.line(
            (x + SWATCH * size / 2, middle), (x + SWATCH * size / 2, middle), color=color, marker=mark_of(index),
            markersize=size * 0.4, linewidth=0, markeredgewidth=0,
        )  # fmt: skip
    else:
        side = size * 0.72
        sheet.box(Rect(x + (SWATCH * size - side) / 2, middle - side / 2, side, side), color=color, linewidth=0)


def series_color(chart: Chart, index: int) -> str | tuple[float, ...]:
    text = chart.colors[index % len(chart.colors)]
    return color_of(text) or text
