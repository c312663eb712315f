"""A chart, or small ones side by side, as a figure."""

from __future__ import annotations

import math
from typing import Any, Final

from fleetquill.graphics.charts.axes import Shared, draw_axes
from fleetquill.graphics.charts.chart import Chart, Panel, as_shares
from fleetquill.graphics.charts.legend import draw_legend, legend_rows
from fleetquill.graphics.charts.look import Look, Rect, Sheet
from fleetquill.graphics.charts.marks import values_shown
from fleetquill.graphics.charts.pie import draw_pie, is_whole
from fleetquill.graphics.charts.scales import scale_of

LEAST_TYPE: Final = 4.5  # px; smaller type is none
PANEL_SHAPE: Final = 1.45  # width for a height


def fitted(look: Look) -> Look:
    """The look with type that is not too large for the chart."""
    most = max(LEAST_TYPE, min(look.width / 15, look.height / 6.5))
    return look._replace(size=min(look.size, most))


def chart_figure(chart: Chart, look: Look) -> tuple[Any, list[str]]:
    """The chart as a figure, and what had no room in it."""
    from fleetquill.graphics.figures import new_figure

    look = fitted(look)
    figure = new_figure(look.width, look.height)
    said = _draw(Sheet(figure, look), chart, Rect(0.0, 0.0, look.width, look.height), look, None)
    return figure, [said] if said else []


def panels_figure(panels: list[Panel], title: str, look: Look) -> tuple[Any, list[str]]:
    """Small multiples in one figure: the same scales, one legend."""
    from fleetquill.graphics.figures import new_figure

    count = len(panels)
    columns = max(1, min(count, round(math.sqrt(count * look.width / (look.height * PANEL_SHAPE)))))
    rows = -(-count // columns)
    look = fitted(look)._replace(size=min(look.size, max(LEAST_TYPE, look.width / columns / 14)))
    figure = new_figure(look.width, look.height)
    sheet = Sheet(figure, look)
    lines = look.title(title, look.width, 2)
    sheet.title(lines)
    top = look.under(lines)
    first = panels[0].chart
    if first.legend and len(first.series) > 1 and first.kind not in ("pie", "box"):
        entries = legend_rows(first, look, look.width, 2)
        draw_legend(sheet, first, entries, 0.0, top)
        top += len(entries) * look.line + look.size * 0.45
    charts = [as_shares(panel.chart) if panel.chart.shares else panel.chart for panel in panels]
    values = [value for chart in charts for value in values_shown(chart)] if first.kind != "pie" else []
    second = [value for chart in charts for value in values_shown(chart, second=True)]
    gap = look.size
    height = (look.height - top) / rows
    room = _value_room(charts[0], values, look, height)
    width = (look.width - room - gap * (columns - 1)) / columns
    said: list[str] = []
    for index, (panel, chart) in enumerate(zip(panels, charts, strict=True)):
        column, row = index % columns, index // columns
        left = 0.0 if column == 0 else room + column * (width + gap)
        shared = Shared(values, second, column == 0, room if column == 0 else 0.0)
        rect = Rect(left, top + row * height, width + (room if column == 0 else 0.0), height - look.size * 0.4)
        named = chart._replace(title=panel.name, x_title="", y_title="")
        said.append(_draw(sheet, named, rect, look, shared))
    return figure, [text for text in dict.fromkeys(said) if text]


def _value_room(chart: Chart, values: list[float], look: Look, height: float) -> float:
    """The px that the values' labels take at the left."""
    if chart.kind == "pie" or not values or chart.horizontal:
        return 0.0
    form = (lambda value, _decimals: f"{value:.0%}") if chart.shares else look.form
    most = max(2, min(7, int(height * 0.6 / (2.0 * look.size))))
    grounded = chart.kind in ("bar", "area", "histogram")
    scale = scale_of(values, most, form, grounded=grounded, own_form=look.own_form or chart.shares)
    return max(map(look.wide, scale.labels), default=0.0) + 8.0


def _draw(sheet: Sheet, chart: Chart, rect: Rect, look: Look, shared: Shared | None) -> str:
    if chart.is_empty or (chart.kind == "pie" and not is_whole(chart)):
        _say_nothing(sheet, chart, rect, look)
        return ""
    if chart.kind == "pie":
        lines = look.title(chart.title, rect.width, 3 if rect.height > 8 * look.bold else 1)
        sheet.title(lines, rect.x, rect.y)
        top = look.under(lines)
        return draw_pie(sheet, chart, Rect(rect.x, rect.y + top, rect.width, rect.height - top), look)
    if (chart.shares and not chart.stacked) or (chart.shares and shared is None):
        chart = as_shares(chart)
    return draw_axes(sheet, chart, rect, look, shared if not chart.horizontal else None)


def _say_nothing(sheet: Sheet, chart: Chart, rect: Rect, look: Look) -> None:
    """A frame that says that there is nothing to show."""
    sheet.title(look.title(chart.title, rect.width, 1), rect.x, rect.y)
    middle = rect.y + rect.height / 2
    sheet.text(rect.x + rect.width / 2, middle + look.size * 0.34, look.no_data, ha="center", style="italic")
    quiet = {"color": (*look.ink, 0.35), "linewidth": 0.6}
    sheet.line((rect.x, rect.bottom - 1), (rect.right, rect.bottom - 1), **quiet)
