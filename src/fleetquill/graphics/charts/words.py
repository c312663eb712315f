"""What a chart shows, in words: for those who cannot see it."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Final

from fleetquill.graphics.charts.chart import Chart, Panel

MOST_SAID: Final = 6  # values that the alternative text names
NAMES: Final = {"bar": "Bar chart", "line": "Line chart", "area": "Area chart", "scatter": "Scatter chart",
                "pie": "Pie chart", "histogram": "Histogram", "box": "Box chart"}  # fmt: skip


def alternative(chart: Chart, form: Callable[[float], str]) -> str:
    """The kind, the title, and of each of the first series its values or their range."""
    parts = [_series(chart, index, form) for index in range(min(3, len(chart.series)))]
    if len(chart.series) > 3:
        parts.append(f"{len(chart.series) - 3} more series: {', '.join(one.name for one in chart.series[3:])}")
    if chart.target is not None:
        parts.append(f"{chart.target.label or 'Target'}: {form(chart.target.low)}")
    if chart.band is not None:
        parts.append(f"{chart.band.label or 'Band'}: {form(chart.band.low)} to {form(chart.band.high)}")
    said = ". ".join(part for part in parts if part) or "No data"
    lead = f"{chart.title}. " if chart.title else ""
    return f"{lead}{NAMES[chart.kind]}. {said}."


def _series(chart: Chart, index: int, form: Callable[[float], str]) -> str:
    series = chart.series[index]
    pairs = [(name, value) for name, value in zip(chart.x, series.values, strict=True) if not math.isnan(value)]
    if not pairs:
        return ""
    if len(pairs) <= MOST_SAID and chart.kind not in ("histogram", "box", "scatter"):
        return f"{series.name}: {', '.join(f'{name} {form(value)}' for name, value in pairs)}"
    low, high = min(pairs, key=lambda pair: pair[1]), max(pairs, key=lambda pair: pair[1])
    said = f"{series.name}: {len(pairs)} values from {form(low[1])} to {form(high[1])}"
    if chart.kind in ("histogram", "box", "scatter"):
        return said
    said += f"; the highest is {high[0]}"
    if chart.kind == "line" and len(pairs) > 1:
        first, last = pairs[0], pairs[-1]
        way = "rises" if last[1] > first[1] else "falls" if last[1] < first[1] else "ends as it began"
        said += f"; from {first[0]} to {last[0]} it {way}"
        said += f" from {form(first[1])} to {form(last[1])}" if way in ("rises", "falls") else ""
    return said


def alternative_of(panels: list[Panel], title: str, form: Callable[[float], str]) -> str:
    """Small multiples: each by its name."""
    said = " ".join(
        f"{panel.name}: {alternative(panel.chart._replace(title=''), form)}" for panel in panels[:MOST_SAID]
    )
    more = f" And {len(panels) - MOST_SAID} more." if len(panels) > MOST_SAID else ""
    return f"{title + '. ' if title else ''}{len(panels)} charts side by side. {said}{more}"
