"""A chart with axes: how much room each text has, and everything in its place."""

from __future__ import annotations

import math
from typing import Any, Final, NamedTuple

from fleetquill.graphics.charts.chart import Chart
from fleetquill.graphics.charts.legend import Entry, draw_legend, legend_rows, series_color
from fleetquill.graphics.charts.look import Look, Rect, Sheet, literal, points
from fleetquill.graphics.charts.marks import bars_of, draw_marks, plot_line, values_shown
from fleetquill.graphics.charts.names import TURN, Labels, Places, labels_below, labels_beside, places_of
from fleetquill.graphics.charts.palette import Color, lightness
from fleetquill.graphics.charts.scales import Scale, scale_of
from fleetquill.graphics.charts.texts import apart, shortened

LEAST: Final = (0.4, 0.3)  # of the chart's width and height, for the marks themselves
PAD: Final = 4.0  # px between an axis and its labels
LINES_A_TICK: Final = 2.0  # of text, that a tick of the values wants
END_SHARE: Final = 0.3  # of the width, that names at the ends of lines may take
MOST_ENDS: Final = 8  # lines that are named at their ends
LABELLED: Final = 0.14  # of the span, left for numbers at bars


class Shared(NamedTuple):
    """What small multiples have in common: the values of all, and which of them says so."""

    values: list[float]
    second: list[float]
    labelled: bool  # whether the values' labels are written here
    room: float  # px at the left, the same in all


class _Plan(NamedTuple):
    """One way to divide the room."""

    plot: Rect
    values: Scale
    second: Scale | None
    places: Places
    names: Labels
    title: list[str]
    legend: list[list[Entry]]
    ends: list[tuple[int, str, float]]  # series, name and y in px, where lines are named at their ends
    titled: bool  # whether the axes have their titles


def draw_axes(sheet: Sheet, chart: Chart, rect: Rect, look: Look, shared: Shared | None = None) -> str:
    """Draws a chart in a rectangle; gives what had no room, '' for nothing."""
    left_out = ""
    plan = _plan(chart, rect, look, 0, shared)
    for level in range(1, 5):
        if plan.plot.width >= LEAST[0] * rect.width and plan.plot.height >= LEAST[1] * rect.height:
            break
        plan = _plan(chart, rect, look, level, shared)
        left_out = _left_out(chart, plan)
    plot = plan.plot._replace(width=max(4.0, plan.plot.width), height=max(4.0, plan.plot.height))
    plan = plan._replace(plot=plot)
    axes = sheet.axes(plot)
    _frame(axes, chart, plan, look, shared)
    _grounds(axes, sheet, chart, plan, look)
    draw_marks(axes, chart, plan.places, look)
    _limits(axes, chart, plan)
    if plan.second is not None:
        _second_axis(sheet, chart, plan, look)
    _write(sheet, chart, plan, rect, look)
    if chart.values and chart.kind == "bar":
        _bar_labels(sheet, chart, plan, look)
    return left_out


def _left_out(chart: Chart, plan: _Plan) -> str:
    lost = []
    if (chart.x_title or chart.y_title) and not plan.titled:
        lost.append("the axes' titles")
    if chart.legend and len(chart.series) > 1 and not plan.legend and not plan.ends and chart.kind != "box":
        lost.append("the legend")
    if chart.title and not plan.title:
        lost.append("the title")
    return f"The chart is too small for {' and '.join(lost)}." if lost else ""


# ---- room ----


def _plan(chart: Chart, rect: Rect, look: Look, level: int, shared: Shared | None) -> _Plan:
    """Divides the room; each level leaves out more."""
    title = look.title(chart.title, rect.width, 3 if level < 2 else 1) if level < 4 else []
    top = rect.y + look.under(title)
    named = chart.legend and len(chart.series) > 1 and chart.kind != "box" and shared is None
    titled = level < 1
    ends = _ends(chart, rect, look) if named and level < 3 else []
    rows = legend_rows(chart, look, rect.width, 4 if level < 2 else 1) if named and not ends and level < 3 else []
    below = top + len(rows) * look.line + (look.size * 0.45 if rows else 0.0)
    for _ in range(2):  # the room for labels hangs on the scale, whose ticks hang on the room
        plan = _divided(chart, Rect(rect.x, below, rect.width, rect.bottom - below), look, titled, ends, shared)
    placed = _placed_ends(chart, plan, ends, look)
    if ends and placed is None:  # they would stand too far from their lines: a legend it is
        rows = legend_rows(chart, look, rect.width, 4 if level < 2 else 1)
        below = top + len(rows) * look.line + look.size * 0.45
        plan = _divided(chart, Rect(rect.x, below, rect.width, rect.bottom - below), look, titled, [], shared)
    return plan._replace(title=title, legend=rows, ends=placed or [])


def _ends(chart: Chart, rect: Rect, look: Look) -> list[tuple[int, str]]:
    """The names of lines where they may stand at their ends."""
    if chart.kind != "line" or not 2 <= len(chart.series) <= MOST_ENDS or any(one.second for one in chart.series):
        return []
    if any(not one.values or math.isnan(one.values[-1]) for one in chart.series):
        return []
    names = [(index, one.name) for index, one in enumerate(chart.series)]
    widest = max(look.wide(name) for _, name in names) + look.size * 0.6
    return names if widest <= rect.width * END_SHARE else []


def _placed_ends(
    chart: Chart, plan: _Plan, ends: list[tuple[int, str]], look: Look
) -> list[tuple[int, str, float]] | None:
    if not ends:
        return []
    wanted = [_value_px(chart.series[index].values[-1], plan) for index, _ in ends]
    moved = apart(wanted, look.line * 0.95, plan.plot.y, plan.plot.bottom)
    if moved is None or max(abs(a - b) for a, b in zip(wanted, moved, strict=True)) > look.line * 1.6:
        return None
    return [(index, name, y) for (index, name), y in zip(ends, moved, strict=True)]


def _value_px(value: float, plan: _Plan) -> float:
    """Where a value stands down the sheet, in a chart whose values go up."""
    scale = plan.values
    return plan.plot.bottom - plan.plot.height * (value - scale.low) / (scale.high - scale.low)


def _divided(
    chart: Chart, rect: Rect, look: Look, titled: bool, ends: list[tuple[int, str]], shared: Shared | None
) -> _Plan:
    """The axes in a rectangle that holds them with their labels and titles."""
    x_title, y_title = (chart.y_title, chart.x_title) if chart.horizontal else (chart.x_title, chart.y_title)
    under = (look.line + 1 if x_title and titled else 0.0) + 1.0
    aside = look.line if y_title and titled else 0.0
    places = _name_places(chart)
    inner = Rect(rect.x + aside, rect.y + look.size * 0.5, rect.width - aside, rect.height - under - look.size * 0.5)
    if chart.horizontal:
        return _across(chart, inner, look, places)
    bottom = look.line + PAD
    beside = [*(name for _, name in ends), *_mark_labels(chart, rect, look)]
    right = max(map(look.wide, beside), default=0.0) + look.size * (0.6 if beside else 0.3)
    plot, before = inner, 0.0
    for _ in range(12):  # the room of the labels hangs on their number, and that on the room
        scales = _scales(chart, look, inner.height - bottom, LINES_A_TICK, shared)
        left = max(map(look.wide, scales[0].labels), default=0.0) + PAD + 3
        if shared is not None:
            left = shared.room
        if scales[1] is not None:
            right = right * bool(beside) + max(map(look.wide, scales[1].labels), default=0.0) + PAD + 3
        left = left if shared is not None else max(left, before)
        names = labels_below(chart, places, look, max(8.0, inner.width - left - right))
        before, bottom = names.before + 2 - aside, names.room + PAD + 3
        right = max(right, names.after + 1)
        settled, plot = plot, Rect(inner.x + left, inner.y, inner.width - left - right, max(8.0, inner.height - bottom))
        if before <= left + 1 and settled == plot:
            break
    return _Plan(plot, scales[0], scales[1], places, names, [], [], [], titled)


def _mark_labels(chart: Chart, rect: Rect, look: Look) -> list[str]:
    """What is written at the right of a target and a band."""
    marks = [mark.label for mark in (chart.target, chart.band) if mark is not None and mark.label]
    return [shortened(label, rect.width * END_SHARE, look.wide) for label in marks]


def _across(chart: Chart, inner: Rect, look: Look, places: Places) -> _Plan:
    """Bars that lie: names at the left, values below."""
    height = inner.height - look.line - PAD - 3
    names = labels_beside(chart, look, height)
    left, right = names.room + PAD + 4, look.size * 0.5
    for _ in range(8):  # the room of the numbers hangs on the scale, and that on the room
        width = max(8.0, inner.width - left - right)
        values, _ = _scales(chart, look, width, 0.0, None)
        ends = [_reach(tick, label, values, width, look) for tick, label in values.ticks]
        before, after = max((end[0] for end in ends), default=0.0), max((end[1] for end in ends), default=0.0)
        if before <= left + 0.5 and after <= right + 0.5:
            break
        left, right = max(left, before), max(right, after)
    plot = Rect(inner.x + left, inner.y, inner.width - left - right, height)
    return _Plan(plot, values, None, places, names, [], [], [], False)


def _reach(tick: float, label: str, scale: Scale, width: float, look: Look) -> tuple[float, float]:
    """How far a label below an axis of that width reaches beyond its left and its right end."""
    place, half = width * (tick - scale.low) / (scale.high - scale.low), look.wide(label) / 2
    return half - place, half - (width - place)


def _name_places(chart: Chart) -> Places:
    if chart.kind == "box":
        count = len(chart.series)
        return Places([float(at) for at in range(count)], -0.5, count - 0.5, "names")
    if chart.kind == "histogram":
        values = [value for one in chart.series for value in one.values if math.isfinite(value)]
        low, high = min(values), max(values)
        return Places(values, *((low, high) if low < high else (low - 0.5, high + 0.5)), "numbers")
    return places_of(chart)


def _scales(chart: Chart, look: Look, room: float, lines: float, shared: Shared | None) -> tuple[Scale, Scale | None]:
    """The scales of values; `lines` of text that a tick wants down the sheet, 0 for labels that stand side by side."""
    values = shared.values if shared is not None else values_shown(chart)
    grounded = chart.kind in ("bar", "area", "histogram")
    if chart.values and chart.kind == "bar":
        span = max([0.0, *values]) - min([0.0, *values])
        values = [
            *values,
            max([0.0, *values]) + span * LABELLED,
            min([0.0, *values]) - span * LABELLED * any(v < 0 for v in values),
        ]
    form = look.form
    own = look.own_form
    if chart.shares:
        form, own = (lambda value, _decimals: f"{value:.0%}"), True
    if lines:
        most = max(2, min(7, int(room / (lines * look.size))))
    else:
        extremes = [value for value in values if math.isfinite(value)]
        widest = max((look.wide(form(value, None)) for value in (min(extremes), max(extremes))), default=look.size)
        most = max(2, min(7, int(room / (min(widest, look.size * 8) + look.size * 1.6))))
    first = scale_of(values, most, form, grounded=grounded, own_form=own)
    if chart.shares:
        first = first._replace(low=min(0.0, first.low), high=1.0 if max(values) <= 1.0 + 1e-9 else first.high)
    right = shared.second if shared is not None else values_shown(chart, second=True)
    if not any(one.second for one in chart.series):
        return first, None
    return first, scale_of(right, most, look.form, grounded=False, own_form=look.own_form)


# ---- drawing ----


def _frame(axes: Any, chart: Chart, plan: _Plan, look: Look, shared: Shared | None) -> None:
    """Axes and grid, quiet and in the document's colour; the ground is the document's own."""
    ink = look.ink
    axes.patch.set_alpha(0.0)
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)
    grounded = chart.kind in ("bar", "area", "histogram")
    for side in ("left", "bottom"):
        axes.spines[side].set_color((*ink, 0.4))
        axes.spines[side].set_linewidth(0.6)
    axes.spines["bottom" if chart.horizontal else "left"].set_visible(not grounded)
    axes.tick_params(
        labelsize=points(look.size), labelcolor=ink, color=(*ink, 0.4), width=0.6, length=points(3.0), pad=points(PAD)
    )
    axes.tick_params(axis="x" if chart.horizontal else "y", length=0)
    names = plan.names
    ticks = [tick for tick, _ in plan.values.ticks]
    labels = [literal(label) for label in plan.values.labels]
    if shared is not None and not shared.labelled:
        labels = [""] * len(labels)
    place, text = [tick for tick, _ in names.ticks], [literal(label) for _, label in names.ticks]
    if chart.horizontal:
        axes.set_xticks(ticks, labels)
        axes.set_yticks(place, text)
    else:
        axes.set_yticks(ticks, labels)
        turn = {"rotation": TURN, "ha": "right", "rotation_mode": "anchor"} if names.turned else {}
        axes.set_xticks(place, text, **turn)
    (axes.xaxis if chart.horizontal else axes.yaxis).grid(True, color=(*ink, 0.13), linewidth=0.5)
    if grounded:  # the line that bars stand on
        (axes.axvline if chart.horizontal else axes.axhline)(0.0, color=(*ink, 0.5), linewidth=0.7, zorder=2.5)
    axes.set_axisbelow(True)


def _limits(axes: Any, chart: Chart, plan: _Plan) -> None:
    values, places = (plan.values.low, plan.values.high), (plan.places.low, plan.places.high)
    if chart.horizontal:
        axes.set_xlim(*values)
        axes.set_ylim(places[1], places[0])  # the first at the top
    else:
        axes.set_ylim(*values)
        axes.set_xlim(*places)


def _grounds(axes: Any, sheet: Sheet, chart: Chart, plan: _Plan, look: Look) -> None:
    """A band behind the marks, and a target line over them."""
    ink = look.ink
    if chart.band is not None:
        span = axes.axvspan if chart.horizontal else axes.axhspan
        span(chart.band.low, chart.band.high, color=(*ink, 0.09), linewidth=0, zorder=0.4)
    if chart.target is not None:
        line = axes.axvline if chart.horizontal else axes.axhline
        line(chart.target.low, color=(*ink, 0.85), linewidth=1.0, linestyle=(0, (4, 2)), zorder=3.5)
    for mark in (chart.band, chart.target):
        if mark is not None and mark.label and not chart.horizontal:
            text = shortened(mark.label, sheet.look.width * END_SHARE, look.wide)
            y = _value_px((mark.low + mark.high) / 2, plan) + look.size * 0.34
            aside = max(map(look.wide, plan.second.labels), default=0.0) + PAD + 3 if plan.second is not None else 0.0
            sheet.text(plan.plot.right + look.size * 0.4 + aside, y, text, style="italic")
        elif mark is not None and mark.label:
            share = (mark.high - plan.values.low) / (plan.values.high - plan.values.low)
            x = plan.plot.x + plan.plot.width * share
            sheet.text(x, plan.plot.y - 1.5, mark.label, ha="right" if share > 0.6 else "left", style="italic")


def _second_axis(sheet: Sheet, chart: Chart, plan: _Plan, look: Look) -> None:
    """The series that are measured at the right, as lines over the others."""
    scale = plan.second
    assert scale is not None
    axes = sheet.axes(plan.plot)
    axes.patch.set_alpha(0.0)
    for side in ("top", "left", "bottom", "right"):
        axes.spines[side].set_visible(False)
    axes.yaxis.tick_right()
    own = [index for index, one in enumerate(chart.series) if one.second]
    color = series_color(chart, own[0]) if len(own) == 1 else look.ink
    axes.tick_params(labelsize=points(look.size), labelcolor=color, length=0, pad=points(PAD))
    axes.set_yticks([tick for tick, _ in scale.ticks], [literal(label) for label in scale.labels])
    axes.set_xticks([])
    for index in own:
        plot_line(axes, chart, index, plan.places, look)
    axes.set_ylim(scale.low, scale.high)
    axes.set_xlim(plan.places.low, plan.places.high)


def _write(sheet: Sheet, chart: Chart, plan: _Plan, rect: Rect, look: Look) -> None:
    """Title, legend, names at the ends of lines, titles of the axes."""
    sheet.title(plan.title, rect.x, rect.y)
    if plan.legend:
        draw_legend(sheet, chart, plan.legend, rect.x, rect.y + look.under(plan.title))
    for index, name, y in plan.ends:
        color = readable(series_color(chart, index), look)
        sheet.text(plan.plot.right + look.size * 0.45, y + look.size * 0.34, name, color=color)
    if not plan.titled:
        return
    x_title, y_title = (chart.y_title, chart.x_title) if chart.horizontal else (chart.x_title, chart.y_title)
    if x_title:
        text = shortened(x_title, plan.plot.width, look.wide)
        sheet.text(plan.plot.x + plan.plot.width / 2, rect.bottom - look.size * 0.32, text, ha="center")
    if y_title:
        text = shortened(y_title, plan.plot.height, look.wide)
        middle = plan.plot.y + plan.plot.height / 2
        sheet.text(rect.x + look.size * 0.95, middle, text, rotation=90, ha="center", rotation_mode="anchor")


def readable(color: Any, look: Look) -> Any:
    """The colour of a series for a text: its own where it stands out from the ground as the ink does."""
    if isinstance(color, str):
        return look.ink
    dark_ink = lightness((*look.ink, 1.0)) < 0.5
    light = lightness(color)
    return color if (light < 0.58 if dark_ink else light > 0.42) else look.ink


def _bar_labels(sheet: Sheet, chart: Chart, plan: _Plan, look: Look) -> None:
    """The number of each bar at its end, or within it where bars stand upon one another."""

    def form(value: float) -> str:
        return f"{value:.0%}" if chart.shares else look.form(value, None)

    plot, scale = plan.plot, plan.values
    slot = (plot.height if chart.horizontal else plot.width) / max(1e-9, plan.places.high - plan.places.low)
    for bar in bars_of(chart):
        text = form(bar.end - bar.start)
        along = (bar.end - scale.low) / (scale.high - scale.low)
        length = abs(bar.end - bar.start) / (scale.high - scale.low)
        middle = ((bar.start + bar.end) / 2 - scale.low) / (scale.high - scale.low)
        place, thick = (bar.place - plan.places.low) * slot, bar.thick * slot
        wide = look.wide(text)
        color = on_color(series_color(chart, bar.series)) if chart.stacked else look.ink
        if chart.horizontal:
            y = plot.y + place + look.size * 0.34
            if thick < look.size * 0.9 or (chart.stacked and wide + 4 > length * plot.width):
                continue
            if chart.stacked:
                sheet.text(plot.x + middle * plot.width, y, text, ha="center", color=color)
            else:
                left = bar.end < bar.start
                sheet.text(plot.x + along * plot.width + (-3 if left else 3), y, text, ha="right" if left else "left")
            continue
        x = plot.x + place
        if chart.stacked:
            if wide <= thick + 2 and look.size * 1.1 <= length * plot.height:
                sheet.text(x, plot.bottom - middle * plot.height + look.size * 0.34, text, ha="center", color=color)
        elif wide <= max(thick * 1.15, slot * 0.95 if len(chart.series) == 1 else 0.0):
            below = bar.end < bar.start
            y = plot.bottom - along * plot.height + (look.size if below else -3)
            sheet.text(x, y, text, ha="center")
        elif thick >= look.size * 0.8:  # turned, where it is too wide
            y = plot.bottom - along * plot.height - 3
            sheet.text(x + look.size * 0.34, y, text, rotation=90, ha="left", rotation_mode="anchor")


def on_color(color: str | Color | tuple[float, ...]) -> str:
    """Black or white, whichever is read better on a colour."""
    if isinstance(color, str):
        return "white"
    return "white" if lightness((color[0], color[1], color[2], 1.0)) < 0.55 else "#1d2a2f"
