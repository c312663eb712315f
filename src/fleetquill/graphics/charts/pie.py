"""Parts of a whole as a round chart, their names beside or below it."""

from __future__ import annotations

import math
from typing import Final

from fleetquill.graphics.charts.chart import Chart
from fleetquill.graphics.charts.legend import series_color
from fleetquill.graphics.charts.look import Look, Rect, Sheet
from fleetquill.graphics.charts.texts import shortened

MOST_PARTS: Final = 12  # the smallest are put together
SWATCH: Final = 1.2  # em, with what parts it from the name
CLOSE: Final = 1.6  # width for a height, from which on names stand beside the round in little room
LEAST_ROUND: Final = 0.35  # of the shorter side, for the round itself


def parts_of(chart: Chart) -> list[tuple[str, float]]:
    """Names and values above nought; where there are many, the smallest together."""
    pairs = [(str(n), value) for n, value in zip(chart.x, chart.series[0].values, strict=True) if value > 0]
    if len(pairs) > MOST_PARTS:
        pairs.sort(key=lambda pair: -pair[1])
        rest = pairs[MOST_PARTS - 1 :]
        pairs = [*pairs[: MOST_PARTS - 1], (f"{len(rest)} more", sum(value for _, value in rest))]
    return pairs


def draw_pie(sheet: Sheet, chart: Chart, rect: Rect, look: Look) -> str:
    """The round and the legend, in a rectangle; gives what had no room, '' for nothing."""
    parts = parts_of(chart)
    total = sum(value for _, value in parts)
    said = [f"{look.form(value, None)} ({value / total:.0%})" for _, value in parts]
    wide = max(look.wide(f"{name}  {text}") for (name, _), text in zip(parts, said, strict=True)) + SWATCH * look.size
    high = len(parts) * look.line
    beside = min(rect.height, rect.width - wide - look.size)
    below = min(rect.width, rect.height - high - look.size * 0.6)
    least = LEAST_ROUND * min(rect.width, rect.height)
    if chart.legend and beside >= max(below, least) and high <= rect.height:
        side = beside
        left = rect.x + (rect.width - side - look.size - wide) / 2
        _round(sheet, chart, parts, Rect(left, rect.y + (rect.height - side) / 2, side, side))
        _legend(sheet, chart, parts, said, left + side + look.size, rect.y + (rect.height - high) / 2, wide)
    elif chart.legend and below >= least:
        _round(sheet, chart, parts, Rect(rect.x + (rect.width - below) / 2, rect.y, below, below))
        left = rect.x + max(0.0, (rect.width - wide) / 2)
        _legend(sheet, chart, parts, said, left, rect.y + below + look.size * 0.6, min(wide, rect.width))
    else:
        return _draw_close(sheet, chart, rect, parts, said, wide)
    return ""


def _draw_close(
    sheet: Sheet, chart: Chart, rect: Rect, parts: list[tuple[str, float]], said: list[str], wide: float
) -> str:
    """The round where there is little room, with as many names as fit beside it; gives what is left out.

    `wide` is what names with their values would take.
    """
    look = sheet.look
    named = chart.legend and rect.width > rect.height * CLOSE
    side = min(rect.height, rect.width * (0.5 if named else 1.0))
    left = rect.x if named else rect.x + (rect.width - side) / 2
    _round(sheet, chart, parts, Rect(left, rect.y + (rect.height - side) / 2, side, side))
    if not named:
        return "The chart is too small for the legend." if chart.legend else ""
    most = max(1, int(rect.height // look.line))
    top = rect.y + (rect.height - min(most, len(parts)) * look.line) / 2
    room = rect.width - side - look.size
    texts = said if wide <= room else [""] * len(said)
    _legend(sheet, chart, parts[:most], texts[:most], left + side + look.size, top, room)
    lost = f"The chart has room for {most} of {len(parts)} names." if len(parts) > most else ""
    return lost or ("" if texts == said else "The chart is too small for its values.")


def _round(sheet: Sheet, chart: Chart, parts: list[tuple[str, float]], rect: Rect) -> None:
    from matplotlib.patches import Wedge

    axes = sheet.axes(rect)
    axes.set_axis_off()
    axes.set_xlim(-1.0, 1.0)
    axes.set_ylim(-1.0, 1.0)
    total = sum(value for _, value in parts)
    gap = min(1.2, 90.0 / rect.width) if len(parts) > 1 else 0.0  # degrees between parts
    at = 90.0
    for index, (_, value) in enumerate(parts):
        turn = 360.0 * value / total
        cut = min(gap, turn / 3)
        color = series_color(chart, index)
        ends = at - turn + cut / 2, at - cut / 2
        band = 1.0 - chart.hole if chart.hole else None
        axes.add_patch(Wedge((0.0, 0.0), 1.0, *ends, width=band, facecolor=color, linewidth=0))
        at -= turn


def _legend(
    sheet: Sheet, chart: Chart, parts: list[tuple[str, float]], said: list[str], x: float, y: float, room: float
) -> None:
    look = sheet.look
    for index, ((name, _), text) in enumerate(zip(parts, said, strict=True)):
        baseline = y + index * look.line + look.size * 0.92
        side = look.size * 0.72
        sheet.box(
            Rect(x, baseline - look.size * 0.34 - side / 2, side, side), color=series_color(chart, index), linewidth=0
        )
        left = room - SWATCH * look.size + 1.0
        rest = look.wide(f"  {text}") if text else 0.0
        shown = shortened(name, max(left - rest, look.size * 2), look.wide)
        sheet.text(x + SWATCH * look.size, baseline, f"{shown}  {text}" if text else shown)


def is_whole(chart: Chart) -> bool:
    """Whether there is anything to divide."""
    return any(value > 0 and math.isfinite(value) for value in chart.series[0].values)
