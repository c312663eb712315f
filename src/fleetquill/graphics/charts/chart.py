"""What a chart is to show: names, numbers or times along x, and series of numbers, read from records."""

from __future__ import annotations

import math
from collections.abc import Sequence
from decimal import Decimal
from typing import Any, Final, NamedTuple

from fleetquill.graphics.charts.palette import COLORS
from fleetquill.graphics.charts.times import moment_of

MOST_MARKS: Final = 5_000  # bars and the like: each has a place of its own
MOST_POINTS: Final = 1_000_000
KINDS: Final = ("bar", "line", "area", "scatter", "pie", "histogram", "box")
MOST_HOLE: Final = 0.9
MOST_PANELS: Final = 24  # of small multiples


class Series(NamedTuple):
    name: str
    values: list[float]  # NaN where there is none
    second: bool = False  # measured on the axis at the right


class Mark(NamedTuple):
    """A target, or a band from `low` to `high`, with what is written beside it."""

    low: float
    high: float
    label: str


class Chart(NamedTuple):
    """What is to be shown."""

    kind: str
    x: list[Any]
    series: list[Series]
    title: str = ""
    x_title: str = ""
    y_title: str = ""
    stacked: bool = False
    horizontal: bool = False
    legend: bool = True
    shares: bool = False  # stacked to a hundred per cent
    values: bool = False  # written at the bars
    target: Mark | None = None
    band: Mark | None = None
    colors: tuple[str, ...] = COLORS
    bins: int = 10
    hole: float = 0.0  # of a pie, as a share of its radius
    faults: tuple[str, ...] = ()  # what of the data is not shown

    @property
    def measures(self) -> bool:
        """Whether x holds numbers alone, which have their places along it; as text, too, where points are shown."""
        as_text = self.kind == "scatter"
        return all(number_of(value) is not None and (as_text or not isinstance(value, str)) for value in self.x)

    @property
    def tells_time(self) -> bool:
        """Whether x holds dates or times alone."""
        return bool(self.x) and all(moment_of(value) is not None for value in self.x)

    @property
    def is_empty(self) -> bool:
        return not any(math.isfinite(value) for series in self.series for value in series.values)


class Panel(NamedTuple):
    """One of small multiples: what its rows have in common, and their chart."""

    name: str
    chart: Chart


def read_chart(
    kind: str, rows: Sequence[Any], x: str, y: Sequence[str], second: Sequence[str] = (), **more: Any
) -> Chart | str:
    """A chart of records: mappings with the values of `x`, of each name in `y`, and of those measured at the right.

    What is wrong, else.
    """
    if kind not in KINDS:
        return f"'{kind}' is no kind of chart; it may be {', '.join(KINDS)}."
    if not rows:
        return Chart(kind, [], [], faults=("The chart has no data.",), **more)
    most = MOST_POINTS if kind in ("line", "scatter", "histogram") else MOST_MARKS
    if len(rows) > most:
        return f"A chart of the kind '{kind}' has room for {most} values; there are {len(rows)}."
    first = rows[0]
    names = [*([x] if x else []), *y, *second]
    missing = [name for name in names if name not in first]
    if missing:
        return f"The chart's data has no '{missing[0]}'; it has {', '.join(map(str, list(first)[:8]))}."
    if not y:
        y = [str(name) for name in first if name not in (x, *second) and number_of(first[name]) is not None]
    if not y:
        return "The chart's data has no numbers."
    series = [
        Series(name, [_or_nan(number_of(row.get(name))) for row in rows], name in second) for name in (*y, *second)
    ]
    faults = [fault for name in (*y, *second) if (fault := _fault(name, [row.get(name) for row in rows]))]
    if not any(math.isfinite(value) for one in series for value in one.values):
        faults.append("The chart's data has no finite numbers.")
    places = [row.get(x) for row in rows] if x else list(range(1, len(rows) + 1))
    if kind == "pie" and any(value < 0 for value in series[0].values):
        faults.append(f"Parts of '{series[0].name}' below nought have no place in a pie; the others are shown.")
    return Chart(kind, places, series, faults=tuple(faults), **more)


def read_panels(
    by: str, kind: str, rows: Sequence[Any], x: str, y: Sequence[str], second: Sequence[str] = (), **more: Any
) -> list[Panel] | str:
    """A chart for each value that rows have in the column `by`, in the order in which the values come."""
    if rows and by not in rows[0]:
        return f"The chart's data has no '{by}'; it has {', '.join(map(str, list(rows[0])[:8]))}."
    groups: dict[str, list[Any]] = {}
    for row in rows:
        groups.setdefault(str(row.get(by)), []).append(row)
    if not y and rows:
        y = [str(n) for n in rows[0] if n not in (x, by, *second) and number_of(rows[0][n]) is not None]
    found: list[Panel] = []
    for name, group in list(groups.items())[:MOST_PANELS]:
        chart = read_chart(kind, group, x, y, second, **more)
        if isinstance(chart, str):
            return chart
        found.append(Panel(name, chart))
    if len(groups) > MOST_PANELS:
        said = f"Of {len(groups)} small charts the first {MOST_PANELS} are shown."
        found[0] = found[0]._replace(chart=found[0].chart._replace(faults=(*found[0].chart.faults, said)))
    return found


def _fault(name: str, values: Sequence[Any]) -> str:
    """What of a series is no number, and so not shown; an empty value is none that is missing."""
    lost = [value for value in values if value is not None and value != "" and number_of(value) is None]
    if not lost:
        return ""
    return f"{len(lost)} of the values of '{name}' are no numbers, such as '{lost[0]}'; they are not shown."


def number_of(value: Any) -> float | None:
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


def as_shares(chart: Chart) -> Chart:
    """The same with each value as its share of what stands at its place."""
    totals = [
        sum(abs(series.values[at]) for series in chart.series if math.isfinite(series.values[at]))
        for at in range(len(chart.x))
    ]
    series = [
        one._replace(values=[v / total if total else math.nan for v, total in zip(one.values, totals, strict=True)])
        for one in chart.series
    ]
    return chart._replace(series=series, stacked=True)
