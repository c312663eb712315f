"""Charts from records, in the document's type and colours: bars, lines, areas, points, pies, histograms, boxes."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from decimal import Decimal
from typing import Any, Final, NamedTuple

from fleetquill.style.values import Rgba

KINDS: Final = ("bar", "line", "area", "scatter", "pie", "histogram", "box")
COLORS: Final = ("#0f4c4a", "#b8923a", "#6fa39e", "#7a4b2a", "#a9b8b4", "#33506b", "#d9bf82", "#4d4d4d")
MOST_LABELS: Final = 24  # on one axis; of more, every second, third, … is written
LETTER: Final = 0.55  # em that a letter or digit takes, on the whole
MOST_PARTS: Final = 12  # of a pie: the smallest are put together
MOST_SAID: Final = 6  # values that the alternative text names


class Series(NamedTuple):
    name: str
    values: list[float]  # NaN where there is none


class Chart(NamedTuple):
    """What is to be shown: names or numbers along x, and series of numbers."""

    kind: str
    x: list[Any]
    series: list[Series]
    title: str = ""
    x_title: str = ""
    y_title: str = ""
    stacked: bool = False
    horizontal: bool = False
    legend: bool = True
    colors: tuple[str, ...] = COLORS
    bins: int = 10
    faults: tuple[str, ...] = ()  # what of the data is not shown

    @property
    def measures(self) -> bool:
        """Whether x holds numbers alone, which have their places along it; as text, too, where points are shown."""
        as_text = self.kind == "scatter"
        return all(_number(value) is not None and (as_text or not isinstance(value, str)) for value in self.x)


class Look(NamedTuple):
    """The document's: px of width, height and text, the text's colour, how numbers are written."""

    width: float
    height: float
    size: float
    color: Rgba
    form: Callable[[float], str]


def read_chart(kind: str, rows: Sequence[Any], x: str, y: Sequence[str], **more: Any) -> Chart | str:
    """A chart of records: mappings with the values of `x` and of each name in `y`. What is wrong, else."""
    if kind not in KINDS:
        return f"'{kind}' is no kind of chart; it may be {', '.join(KINDS)}."
    if not rows:
        return "The chart has no data."
    first = rows[0]
    names = [*([x] if x else []), *y]
    missing = [name for name in names if name not in first]
    if missing:
        return f"The chart's data has no '{missing[0]}'; it has {', '.join(map(str, list(first)[:8]))}."
    if not y:
        y = [str(name) for name in first if name != x and _number(first[name]) is not None]
    if not y:
        return "The chart's data has no numbers."
    series = [Series(name, [_or_nan(_number(row.get(name))) for row in rows]) for name in y]
    if not any(math.isfinite(value) for one in series for value in one.values):
        return "The chart's data has no finite numbers."
    places = [row.get(x) for row in rows] if x else list(range(1, len(rows) + 1))
    faults = [fault for name in y if (fault := _fault(name, [row.get(name) for row in rows]))]
    if kind == "pie" and any(value < 0 for value in series[0].values):
        faults.append(f"Parts of '{series[0].name}' below nought have no place in a pie; the others are shown.")
    return Chart(kind, places, series, faults=tuple(faults), **more)


def _fault(name: str, values: Sequence[Any]) -> str:
    """What of a series is no number, and so not shown; an empty value is none that is missing."""
    lost = [value for value in values if value is not None and value != "" and _number(value) is None]
    if not lost:
        return ""
    return f"{len(lost)} of the values of '{name}' are no numbers, such as '{lost[0]}'; they are not shown."


def _number(value: Any) -> float | None:
    if isinstance(value, bool) or value is None:
        return None
    if isinstance(value, (int, float, Decimal)):
        return float(value)
    try:
        return float(str(value))
    except ValueError:
        return None


def _or_nan(value: float | None) -> float:
    return math.nan if value is None or not math.isfinite(value) else value


def chart_figure(chart: Chart, look: Look) -> Any:
    """The chart as a figure."""
    from fleetquill.graphics.figures import new_figure

    written = look.form
    chart, look = _as_text(chart), look._replace(form=lambda value: _literal(written(value)))

    figure = new_figure(look.width, look.height)
    axes = figure.add_subplot()
    _DRAW[chart.kind](axes, chart, look)
    if chart.kind != "pie":
        _frame(axes, chart, look)
    rows = (
        _legend(axes, chart, look) if chart.legend and len(chart.series) > 1 and chart.kind not in ("pie", "box") else 0
    )
    if chart.title or rows:  # the title's line reserves the room of the legend below it
        axes.set_title(
            chart.title or " ", size=_points(look.size * 1.15), weight="bold", color=look.color[:3], loc="left",
            pad=6.0 + rows * _points(look.size) * 1.55,
        )  # fmt: skip
    return figure


def _literal(text: str) -> str:
    """A text in which a dollar sign begins no formula."""
    return text.replace("$", r"\$")


def _as_text(chart: Chart) -> Chart:
    names = [value if _number(value) is not None and not isinstance(value, str) else _literal(str(value))
             for value in chart.x]  # fmt: skip
    return chart._replace(
        x=names, series=[series._replace(name=_literal(series.name)) for series in chart.series],
        title=_literal(chart.title), x_title=_literal(chart.x_title), y_title=_literal(chart.y_title),
    )  # fmt: skip


def _legend(axes: Any, chart: Chart, look: Look) -> int:
    """The names of the series above the axes; gives how many rows they take."""
    widest = max(len(series.name) for series in chart.series) + 5
    columns = max(1, min(len(chart.series), int(look.width * 0.8 / (widest * LETTER * look.size))))
    legend = axes.legend(
        loc="lower left", bbox_to_anchor=(0.0, 1.0), ncols=columns, frameon=False, borderaxespad=0.2, columnspacing=1.2,
        prop={"size": _points(look.size)}, labelcolor=look.color[:3], handlelength=1.2, borderpad=0.1,
        labelspacing=0.35,
    )  # fmt: skip
    legend.set_in_layout(False)
    return math.ceil(len(chart.series) / columns)


def _points(px: float) -> float:
    return px * 0.75


def _color(chart: Chart, index: int) -> str:
    return chart.colors[index % len(chart.colors)]


def _frame(axes: Any, chart: Chart, look: Look) -> None:
    """Axes, grid and titles, quiet and in the document's colour."""
    ink = look.color[:3]
    quiet = (*ink, 0.35)
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)
    for side in ("left", "bottom"):
        axes.spines[side].set_color(quiet)
        axes.spines[side].set_linewidth(0.6)
    axes.tick_params(labelsize=_points(look.size), labelcolor=ink, color=quiet, width=0.6, length=3)
    values, names = (axes.xaxis, axes.yaxis) if chart.horizontal else (axes.yaxis, axes.xaxis)
    values.grid(True, color=(*ink, 0.14), linewidth=0.5)
    axes.set_axisbelow(True)
    values.set_major_formatter(lambda value, _: look.form(value))
    longest = max(len(look.form(value)) for value in _extremes(chart))
    room, need = (look.width, (longest + 2) * LETTER) if chart.horizontal else (look.height, 2.6)
    values.get_major_locator().set_params(nbins=max(2, min(7, int(room * 0.8 / (need * look.size)))))
    if chart.kind == "histogram" or (chart.kind == "scatter" and chart.measures):
        names.set_major_formatter(lambda value, _: look.form(value))
    x_title, y_title = (chart.y_title, chart.x_title) if chart.horizontal else (chart.x_title, chart.y_title)
    if x_title:
        axes.set_xlabel(x_title, size=_points(look.size), color=ink)
    if y_title:
        axes.set_ylabel(y_title, size=_points(look.size), color=ink)


def _extremes(chart: Chart) -> list[float]:
    """The numbers that are likely to have the longest labels."""
    finite = [value for series in chart.series for value in series.values if math.isfinite(value)]
    return [min(finite, default=0.0), max(finite, default=0.0)]


def _named(axes: Any, chart: Chart, look: Look, places: Sequence[float]) -> None:
    """Names under their places; where there are many, not each of them."""
    step = max(1, math.ceil(len(chart.x) / MOST_LABELS))
    shown = [(place, str(name)) for place, name in list(zip(places, chart.x, strict=True))[::step]]
    letters = sum(len(name) for _, name in shown) + 1.5 * len(shown)
    ticks, labels = [place for place, _ in shown], [name for _, name in shown]
    if chart.horizontal:
        axes.set_yticks(ticks, labels)
        axes.invert_yaxis()
    else:
        turned = letters * LETTER * look.size > look.width * 0.84
        axes.set_xticks(ticks, labels, rotation=40 if turned else 0, ha="right" if turned else "center")


def _bars(axes: Any, chart: Chart, look: Look) -> None:
    count = len(chart.series)
    places = list(range(len(chart.x)))
    width = 0.7 if chart.stacked else 0.76 / count
    above, below = [0.0] * len(places), [0.0] * len(places)
    for index, series in enumerate(chart.series):
        values = [0.0 if math.isnan(value) else value for value in series.values]
        if chart.stacked:
            starts = [above[i] if value >= 0 else below[i] for i, value in enumerate(values)]
            for i, value in enumerate(values):
                if value >= 0:
                    above[i] += value
                else:
                    below[i] += value
            at: list[float] = [float(place) for place in places]
        else:
            starts = [0.0] * len(values)
            at = [place + (index - (count - 1) / 2) * width for place in places]
        thick = width if chart.stacked else width * 0.92
        if chart.horizontal:
            axes.barh(at, values, thick, left=starts, color=_color(chart, index), label=series.name)
        else:
            axes.bar(at, values, thick, bottom=starts, color=_color(chart, index), label=series.name)
    _named(axes, chart, look, places)


def _places(axes: Any, chart: Chart, look: Look) -> list[float]:
    """Numbers along x where all are numbers, else names in their order."""
    if chart.measures:
        return [_or_nan(_number(value)) for value in chart.x]
    places = [float(place) for place in range(len(chart.x))]
    _named(axes, chart, look, places)
    return places


def _lines(axes: Any, chart: Chart, look: Look) -> None:
    places = _places(axes, chart, look)
    few = len(places) <= 30
    for index, series in enumerate(chart.series):
        axes.plot(
            places, series.values, color=_color(chart, index), linewidth=1.6, label=series.name,
            marker="o" if few else "", markersize=3.2, solid_joinstyle="round",
            linestyle=("-", "--", "-.", ":")[index // 2 % 4],
        )  # fmt: skip


def _areas(axes: Any, chart: Chart, look: Look) -> None:
    places = _places(axes, chart, look)
    floor = [0.0] * len(places)
    for index, series in enumerate(chart.series):
        values = [0.0 if math.isnan(value) else value for value in series.values]
        tops = [a + b for a, b in zip(floor, values, strict=True)] if chart.stacked else values
        color = _color(chart, index)
        alpha = 0.85 if chart.stacked else 0.35
        axes.fill_between(
            places, tops, floor if chart.stacked else 0.0, color=color, alpha=alpha, linewidth=0, label=series.name
        )
        axes.plot(places, tops, color=color, linewidth=1.2)
        floor = tops if chart.stacked else floor
    axes.margins(x=0.0)


def _points_of(axes: Any, chart: Chart, look: Look) -> None:
    places = _places(axes, chart, look)
    for index, series in enumerate(chart.series):
        mark = "osD^v"[index % 5]
        color = _color(chart, index)
        axes.scatter(places, series.values, s=16, color=color, alpha=0.8, linewidths=0, label=series.name, marker=mark)


def _pie(axes: Any, chart: Chart, look: Look) -> None:
    pairs = [(name, value) for name, value in zip(chart.x, chart.series[0].values, strict=True) if value > 0]
    if len(pairs) > MOST_PARTS:
        pairs.sort(key=lambda pair: -pair[1])
        rest = pairs[MOST_PARTS - 1 :]
        pairs = [*pairs[: MOST_PARTS - 1], (f"{len(rest)} more", sum(value for _, value in rest))]
    total = sum(value for _, value in pairs)
    if not pairs:
        return
    colors = [_color(chart, index) for index in range(len(pairs))]
    labels = [f"{name}  {look.form(value)} ({value / total:.0%})" for name, value in pairs]
    wedges, _ = axes.pie(
        [value for _, value in pairs], colors=colors, startangle=90, counterclock=False,
        wedgeprops={"linewidth": 0.8, "edgecolor": "white"},
    )  # fmt: skip
    axes.legend(
        wedges, labels, loc="center left", bbox_to_anchor=(1.0, 0.5), frameon=False,
        prop={"size": _points(look.size)}, labelcolor=look.color[:3], handlelength=1.0,
    )  # fmt: skip
    axes.set_aspect("equal")


def _histogram(axes: Any, chart: Chart, look: Look) -> None:
    values = [[value for value in series.values if not math.isnan(value)] for series in chart.series]
    colors = [_color(chart, index) for index in range(len(values))]
    axes.hist(values, bins=chart.bins, color=colors, label=[series.name for series in chart.series], rwidth=0.94)


def _boxes(axes: Any, chart: Chart, look: Look) -> None:
    values = [[value for value in series.values if not math.isnan(value)] for series in chart.series]
    ink = look.color[:3]
    made = axes.boxplot(
        values, patch_artist=True, orientation="horizontal" if chart.horizontal else "vertical", widths=0.5
    )
    for index, box in enumerate(made["boxes"]):
        box.set(facecolor=_color(chart, index), alpha=0.8, edgecolor=ink, linewidth=0.7)
    for part in ("whiskers", "caps", "medians"):
        for line in made[part]:
            line.set(color="white" if part == "medians" else ink, linewidth=1.2 if part == "medians" else 0.7)
    for flier in made["fliers"]:
        flier.set(marker="o", markersize=2.5, markerfacecolor=ink, markeredgewidth=0, alpha=0.6)
    names = [series.name for series in chart.series]
    ticks = list(range(1, len(names) + 1))
    if chart.horizontal:
        axes.set_yticks(ticks, names)
    else:
        axes.set_xticks(ticks, names)


_DRAW: Final[dict[str, Callable[[Any, Chart, Look], None]]] = {
    "bar": _bars,
    "line": _lines,
    "area": _areas,
    "scatter": _points_of,
    "pie": _pie,
    "histogram": _histogram,
    "box": _boxes,
}


def alternative(chart: Chart, form: Callable[[float], str]) -> str:
    """What the chart shows, in words: for those who cannot see it."""
    parts: list[str] = []
    for series in chart.series[:3]:
        pairs = [(name, value) for name, value in zip(chart.x, series.values, strict=True) if not math.isnan(value)]
        if not pairs:
            continue
        if len(pairs) <= MOST_SAID and chart.kind not in ("histogram", "box", "scatter"):
            said = ", ".join(f"{name} {form(value)}" for name, value in pairs)
        else:
            low, high = min(pairs, key=lambda pair: pair[1]), max(pairs, key=lambda pair: pair[1])
            said = f"{len(pairs)} values from {form(low[1])} to {form(high[1])}"
            if chart.kind not in ("histogram", "box", "scatter"):
                said += f"; the highest is {high[0]}"
        parts.append(f"{series.name}: {said}")
    lead = f"{chart.title}. " if chart.title else ""
    kind = {"bar": "Bar", "line": "Line", "area": "Area", "scatter": "Scatter", "pie": "Pie", "histogram": "Histogram",
            "box": "Box"}[chart.kind]  # fmt: skip
    name = kind if kind == "Histogram" else f"{kind} chart"
    return f"{lead}{name}. {'. '.join(parts)}."
