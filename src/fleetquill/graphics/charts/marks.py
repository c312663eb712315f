"""Bars, lines, areas, points, histograms and boxes in their axes."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import Any, Final, NamedTuple

from fleetquill.graphics.charts.chart import Chart
from fleetquill.graphics.charts.legend import series_color
from fleetquill.graphics.charts.look import Look
from fleetquill.graphics.charts.names import Places
from fleetquill.graphics.charts.palette import dash_of, mark_of

FEW: Final = 30  # points of a line that are marked each
MARKED: Final = 10  # points of a longer line that are marked


class Bar(NamedTuple):
    """One bar: the middle and thickness along the axis of names, and from where to where it goes in values."""

    series: int
    place: float
    thick: float
    start: float
    end: float


def bars_of(chart: Chart) -> Iterator[Bar]:
    """The bars of all series, side by side or upon one another; those below nought grow downwards."""
    own = [index for index, series in enumerate(chart.series) if not series.second]
    count = len(own)
    width = 0.7 if chart.stacked else 0.8 / max(1, count)
    above, below = [0.0] * len(chart.x), [0.0] * len(chart.x)
    for number, index in enumerate(own):
        for at, value in enumerate(chart.series[index].values):
            if math.isnan(value):
                continue
            if chart.stacked:
                floor = above if value >= 0 else below
                yield Bar(index, float(at), width, floor[at], floor[at] + value)
                floor[at] += value
            else:
                place = at + (number - (count - 1) / 2) * width
                yield Bar(index, place, width * 0.9, 0.0, value)


def values_shown(chart: Chart, *, second: bool = False) -> list[float]:
    """All numbers that the axis of values has to hold."""
    series = [one for one in chart.series if one.second is second]
    marks = [mark for mark in (chart.target, chart.band) if mark is not None and not second]
    found = [value for mark in marks for value in (mark.low, mark.high)]
    if chart.kind == "histogram":
        return [*found, 0.0, *(float(count) for counts in _histogram(chart)[1] for count in counts)]
    if chart.kind == "bar" and not second:
        return [*found, *(end for bar in bars_of(chart) for end in (bar.start, bar.end))]
    if chart.kind == "area" and chart.stacked and not second:
        return [*found, *(top for tops in area_tops(chart) for top in tops)]
    return [*found, *(value for one in series for value in one.values)]


def area_tops(chart: Chart) -> list[list[float]]:
    """The upper edges of areas that stand upon one another."""
    floor = [0.0] * len(chart.x)
    found: list[list[float]] = []
    for series in chart.series:
        floor = [a + (0.0 if math.isnan(b) else b) for a, b in zip(floor, series.values, strict=True)]
        found.append(floor)
    return found


def _histogram(chart: Chart) -> tuple[Any, list[Any]]:
    """The edges of the bins, and how many values of each series are in each."""
    import numpy

    values = [[value for value in series.values if math.isfinite(value)] for series in chart.series]
    everything = [value for one in values for value in one]
    edges = numpy.histogram_bin_edges(everything or [0.0, 1.0], chart.bins)
    return edges, [numpy.histogram(one, edges)[0] for one in values]


def draw_marks(axes: Any, chart: Chart, places: Places, look: Look) -> None:
    """What the kind of chart shows; series that are measured at the right have axes of their own."""
    _DRAW[chart.kind](axes, chart, places, look)


def _bars(axes: Any, chart: Chart, places: Places, look: Look) -> None:
    for index in range(len(chart.series)):
        bars = [bar for bar in bars_of(chart) if bar.series == index]
        at, thick = [bar.place for bar in bars], [bar.thick for bar in bars]
        starts, lengths = [bar.start for bar in bars], [bar.end - bar.start for bar in bars]
        color = series_color(chart, index)
        if chart.horizontal:
            axes.barh(at, lengths, thick, left=starts, color=color, linewidth=0)
        else:
            axes.bar(at, lengths, thick, bottom=starts, color=color, linewidth=0)


def _lines(axes: Any, chart: Chart, places: Places, look: Look) -> None:
    for index, series in enumerate(chart.series):
        if not series.second:
            plot_line(axes, chart, index, places, look)


def plot_line(axes: Any, chart: Chart, index: int, places: Places, look: Look) -> None:
    """One series as a line; it has gaps where values are missing, and single values are dots."""
    values = chart.series[index].values
    count = len(values)
    lonely = [
        not math.isnan(value)
        and (at == 0 or math.isnan(values[at - 1]))
        and (at == count - 1 or math.isnan(values[at + 1]))
        for at, value in enumerate(values)
    ]
    marked = list(range(count)) if count <= FEW else [at for at in range(count) if lonely[at]]
    if len(chart.series) > 4 and count > FEW:
        step = max(1, count // MARKED)
        marked = sorted({*marked, *range(index % step, count, step)})
    thin = 1.6 if look.size > 7 else 1.1
    axes.plot(
        places.at, values, color=series_color(chart, index), linewidth=thin, solid_joinstyle="round",
        linestyle=dash_of(index), marker=mark_of(index) if marked else "", markersize=thin * 2.1,
        markevery=marked or None, markeredgewidth=0, clip_on=False, zorder=3,
    )  # fmt: skip


def _areas(axes: Any, chart: Chart, places: Places, look: Look) -> None:
    if chart.stacked:
        floor = [0.0] * len(places.at)
        for index, tops in enumerate(area_tops(chart)):
            axes.fill_between(places.at, tops, floor, color=series_color(chart, index), alpha=0.9, linewidth=0)
            floor = tops
    else:
        for index, series in enumerate(chart.series):
            color = series_color(chart, index)
            axes.fill_between(places.at, series.values, 0.0, color=color, alpha=0.3, linewidth=0)
            plot_line(axes, chart, index, places, look)
    if len(places.at) == 1:  # an area of one value has no width
        for index, series in enumerate(chart.series):
            axes.plot(places.at, series.values, color=series_color(chart, index), marker="o", linewidth=0)


def _points(axes: Any, chart: Chart, places: Places, look: Look) -> None:
    many = len(places.at) > 400
    for index, series in enumerate(chart.series):
        axes.scatter(
            places.at, series.values, s=(6 if many else 16) if look.size > 7 else 5, color=series_color(chart, index),
            alpha=0.55 if many else 0.8, linewidths=0, marker=mark_of(index), clip_on=False, zorder=3,
        )  # fmt: skip


def _histograms(axes: Any, chart: Chart, places: Places, look: Look) -> None:
    edges, counts = _histogram(chart)
    share = 0.94 / len(counts)
    for index, one in enumerate(counts):
        width = (edges[1] - edges[0]) * share
        lefts = edges[:-1] + (edges[1] - edges[0]) * 0.03 + index * width
        axes.bar(lefts + width / 2, one, width, color=series_color(chart, index), linewidth=0)


def _boxes(axes: Any, chart: Chart, places: Places, look: Look) -> None:
    values = [[value for value in series.values if not math.isnan(value)] for series in chart.series]
    ink = look.ink
    made = axes.boxplot(
        values, positions=range(len(values)), patch_artist=True, widths=0.5, manage_ticks=False,
        orientation="horizontal" if chart.horizontal else "vertical",
    )  # fmt: skip
    for index, box in enumerate(made["boxes"]):
        color = series_color(chart, index)
        box.set(facecolor=color, alpha=0.45, edgecolor=color, linewidth=0.9)
    for part in ("whiskers", "caps", "medians"):
        for line in made[part]:
            line.set(color=ink, linewidth=1.4 if part == "medians" else 0.7)
    for flier in made["fliers"]:
        flier.set(marker="o", markersize=2.5, markerfacecolor=ink, markeredgewidth=0, alpha=0.6)


_DRAW: Final[dict[str, Callable[[Any, Chart, Places, Look], None]]] = {
    "bar": _bars,
    "line": _lines,
    "area": _areas,
    "scatter": _points,
    "histogram": _histograms,
    "box": _boxes,
}
