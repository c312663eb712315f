"""The labels along x: names under bars, numbers or times along a scale."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Final, NamedTuple

from fleetquill.graphics.charts.chart import Chart, number_of
from fleetquill.graphics.charts.look import Look
from fleetquill.graphics.charts.scales import scale_of
from fleetquill.graphics.charts.texts import shortened, thinned, wrapped
from fleetquill.graphics.charts.times import days_of, label_of, moment_of, time_ticks

TURN: Final = 40.0  # degrees of labels that are too long to lie flat
MOST_LINES: Final = 3
MOST_MEASURED: Final = 2_000
MOST_WRAPPED: Final = 40  # names; of more only some are shown
TURNED_SHARE: Final = 0.38  # of the chart's height, that turned labels may take
TURNED_REACH: Final = 0.55  # of its width, that each may reach to the left
NAMES_SHARE: Final = 0.42  # of the chart's width, that names at the left may take


class Labels(NamedTuple):
    """Ticks and what is written at them; `room` is what they need across the axis in px.

    `before` and `after` are how far the first and the last reach beyond its ends.
    """

    ticks: list[tuple[float, str]]
    room: float
    turned: bool = False
    before: float = 0.0
    after: float = 0.0


class Places(NamedTuple):
    """Where the values of a chart stand along x, and from where to where that goes."""

    at: list[float]
    low: float
    high: float
    scale: str  # 'names', 'numbers' or 'time'


def places_of(chart: Chart) -> Places:
    """Times and numbers have their places on a scale where points or lines stand; bars stand side by side."""
    count = len(chart.x)
    if chart.kind != "bar" and count and chart.tells_time:
        days = [days_of(moment) for value in chart.x if (moment := moment_of(value)) is not None]
        return Places(days, *_with_room(days, chart), "time")
    if chart.kind != "bar" and chart.measures and count:
        numbers = [number if (number := number_of(value)) is not None else math.nan for value in chart.x]
        return Places(numbers, *_with_room(numbers, chart), "numbers")
    edge = 0.0 if chart.kind == "area" and count > 1 else 0.5
    return Places([float(at) for at in range(count)], -edge, max(count - 1, 0) + edge, "names")


def _with_room(numbers: list[float], chart: Chart) -> tuple[float, float]:
    finite = [number for number in numbers if math.isfinite(number)]
    low, high = min(finite, default=0.0), max(finite, default=1.0)
    if low == high:
        return low - 0.5, high + 0.5
    room = 0.0 if chart.kind == "area" else (high - low) * 0.03
    return low - room, high + room


def names_of(chart: Chart, look: Look) -> list[str]:
    """What is written under each value: numbers and times as the locale has them; boxes are of series."""
    if chart.kind == "box":
        return [series.name for series in chart.series]
    if chart.tells_time:
        return label_of([moment for value in chart.x if (moment := moment_of(value)) is not None], look.write)
    return [
        look.form(float(value), None) if isinstance(value, float) else "" if value is None else str(value)
        for value in chart.x
    ]


def labels_below(chart: Chart, places: Places, look: Look, room: float) -> Labels:
    """Labels under an axis that is so wide."""
    labels = _below(chart, places, look, room)
    if not labels.ticks:
        return labels
    scale = room / (places.high - places.low)
    (first, first_text), (last, last_text) = labels.ticks[0], labels.ticks[-1]
    after = (look.size * 0.65 if labels.turned else _half(last_text, look)) - (places.high - last) * scale
    before = labels.before if labels.turned else _half(first_text, look) - (first - places.low) * scale
    return labels._replace(before=max(0.0, before), after=max(0.0, after))


def _half(text: str, look: Look) -> float:
    """Half of a label's width."""
    return max(map(look.wide, text.split("\n"))) / 2


def _below(chart: Chart, places: Places, look: Look, room: float) -> Labels:
    if places.scale != "names":
        return _scale_labels(places, look, room)
    names = names_of(chart, look)
    slot = room / max(1.0, places.high - places.low)
    fits = slot - look.size * 0.5
    if all(look.wide(name) <= fits for name in names):
        return Labels(list(zip(places.at, names, strict=True)), look.line)
    lines = [wrapped(name, fits, look.wide, MOST_LINES) for name in names[: MOST_WRAPPED + 1]]
    whole = all(
        "".join(part).replace(" ", "") == name.replace(" ", "") for part, name in zip(lines, names, strict=False)
    )
    if whole and len(names) <= MOST_WRAPPED:
        deepest = max(map(len, lines))
        return Labels([(at, "\n".join(part)) for at, part in zip(places.at, lines, strict=True)], deepest * look.line)
    if slot >= look.size * 1.5 and not chart.tells_time:
        return _turned(places, names, look, slot)
    widest = max(map(look.wide, names[:MOST_MEASURED]), default=0.0) + look.size
    shown = thinned(len(names), int(room // min(widest, room / 2)))
    texts = [shortened(names[index], slot * len(names) / len(shown), look.wide) for index in shown]
    return Labels([(places.at[index], text) for index, text in zip(shown, texts, strict=True)], look.line)


def _turned(places: Places, names: list[str], look: Look, slot: float) -> Labels:
    sin, cos = math.sin(math.radians(TURN)), math.cos(math.radians(TURN))
    deepest, furthest = (look.height * TURNED_SHARE - look.size * cos) / sin, look.width * TURNED_REACH / cos
    longest = max(look.size * 3, min(deepest, furthest))
    texts = [shortened(name, longest, look.wide) for name in names]
    widths = [look.wide(text) for text in texts]
    before = max(width * cos - (at - places.low) * slot for width, at in zip(widths, places.at, strict=True))
    room = max(widths) * sin + look.size * cos
    return Labels(list(zip(places.at, texts, strict=True)), room, turned=True, before=max(0.0, before))


def _scale_labels(places: Places, look: Look, room: float) -> Labels:
    """As many labels as have room between them."""
    most = max(2, int(room // (look.size * 2)))
    while True:
        ticks = _scale_ticks(places, look, most)
        if most <= 2 or _are_apart(ticks, places, look, room):
            break
        most -= 1
    lines = max((text.count("\n") + 1 for _, text in ticks), default=1)
    return Labels(ticks, lines * look.line)


def _are_apart(ticks: list[tuple[float, str]], places: Places, look: Look, room: float) -> bool:
    """Whether no label comes too near to the next."""
    scale = room / (places.high - places.low)
    ends = [(at * scale, _half(text, look)) for at, text in ticks]
    return all(b[0] - a[0] >= a[1] + b[1] + look.size * 0.7 for a, b in pairwise(ends))


def _scale_ticks(places: Places, look: Look, most: int) -> list[tuple[float, str]]:
    if places.scale == "time":
        return time_ticks(places.low, places.high, most, look.write)
    finite = [place for place in places.at if math.isfinite(place)]
    scale = scale_of([*finite, places.low, places.high], most, look.form, grounded=False, own_form=look.own_form)
    return [(place, label) for place, label in scale.ticks if places.low <= place <= places.high]


def labels_beside(chart: Chart, look: Look, height: float) -> Labels:
    """Names at the left of bars that lie across, in lines where their rows have room."""
    names = names_of(chart, look)
    row = height / max(1, len(names))
    most_wide = look.width * NAMES_SHARE
    lines = max(1, int(row // look.line))
    shown = thinned(len(names), int(height // look.line) or 1)
    texts = ["\n".join(wrapped(names[index], most_wide, look.wide, lines)) for index in shown]
    widest = max((look.wide(line) for text in texts for line in text.split("\n")), default=0.0)
    return Labels([(float(index), text) for index, text in zip(shown, texts, strict=True)], widest)
