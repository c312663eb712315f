"""Small charts for a line of text or a table cell: a trend line, bars, a progress bar. Drawn natively."""

from __future__ import annotations

import math
import re
from typing import Any, Final

from fleetquill.drawing.canvas import Drawing, Stroke
from fleetquill.drawing.paths import rectangle
from fleetquill.drawing.thin_lines import THIN
from fleetquill.style.values import Rgba

KINDS: Final = ("line", "bar", "progress")
LENGTH: Final = 5.0  # em
HEIGHT: Final = 0.9  # em
PALE: Final = 0.22  # opacity of what is not filled
LEAST: Final = 0.06  # of the height, for a bar of nought
MOST: Final = 2_000  # values of one chart


def spark_drawing(kind: str, values: str, size: float, color: Rgba, most: str = "") -> Drawing | str:
    """A small chart of numbers separated by spaces or commas, for text of that size in px.

    A progress bar shows its one value as a share of `most` (1 where it is not given). What is wrong,
    where something is.
    """
    if kind not in KINDS:
        return f"'{kind}' is no kind of small chart; it may be {', '.join(KINDS)}."
    numbers = _numbers(values)
    if not numbers:
        return "A small chart has no numbers to show."
    return _drawn(kind, numbers, LENGTH * size, HEIGHT * size, color, most)


def _drawn(kind: str, numbers: list[float], width: float, height: float, color: Rgba, most: str) -> Drawing:
    """The chart in a place of that size; for another it is drawn anew, so that lines and dots are not stretched."""
    drawing = Drawing(width, height, inline=True)
    drawing.redraw = lambda wide, high: _drawn(kind, numbers, wide, high, color, most)
    if kind == "progress":
        top = _numbers(most)
        _progress(drawing, numbers[0] / (top[0] if top and top[0] > 0 else 1.0), color)
    elif kind == "bar":
        _bars(drawing, numbers, color)
    else:
        _line(drawing, numbers, color)
    return drawing


def _numbers(text: str) -> list[float]:
    found: list[float] = []
    for part in re.split(r"[\s,;]+", text.strip())[:MOST]:
        try:
            value = float(part)
        except ValueError:
            continue
        if math.isfinite(value):
            found.append(value)
    return found


def _line(drawing: Drawing, numbers: list[float], color: Rgba) -> None:
    thick = max(THIN, drawing.height * 0.09)  # no thinner than readers draw a line as it is
    width, height = drawing.width - 2 * thick, drawing.height - 2 * thick
    low, high = min(numbers), max(numbers)
    spread = high - low or 1.0
    step = width / max(1, len(numbers) - 1)
    points = [
        (round(thick + index * step, 2), round(thick + height * (1 - (value - low) / spread), 2))
        for index, value in enumerate(numbers)
    ]
    if high == low:
        points = [(x, drawing.height / 2) for x, _ in points]
    if len(points) == 1:
        points.append((drawing.width - thick, points[0][1]))
    path: list[Any] = [("m", *points[0]), *(("l", *point) for point in points[1:])]
    drawing.stroke_path(path, color, Stroke(round(thick, 2), (), 0.0, 1, 1))
    x, y = points[-1]
    dot = round(thick * 1.5, 2)
    drawing.fill_path(
        rectangle(x - dot, y - dot, 2 * dot, 2 * dot),
        color,
    )


def _bars(drawing: Drawing, numbers: list[float], color: Rgba) -> None:
    low, high = min(0.0, *numbers), max(0.0, *numbers)
    high = high if high > low else 1.0
    spread = high - low
    step = drawing.width / len(numbers)
    zero = drawing.height * high / spread
    path: list[Any] = []
    for index, value in enumerate(numbers):
        left, right = index * step + step * 0.1, (index + 1) * step - step * 0.1
        tall = drawing.height * value / spread
        if abs(tall) < LEAST * drawing.height:  # nought is seen, too
            tall = LEAST * drawing.height * (1 if value >= 0 and zero > 0.5 * drawing.height else -1)
        path += rectangle(left, zero, right - left, -tall)
    drawing.fill_path(path, color)


def _progress(drawing: Drawing, share: float, color: Rgba) -> None:
    share = min(1.0, max(0.0, share))
    top, bottom = drawing.height * 0.2, drawing.height * 0.8
    for end, shown in ((drawing.width, color._replace(alpha=color.alpha * PALE)), (drawing.width * share, color)):
        if end > 0:
            drawing.fill_path(rectangle(0.0, top, end, bottom - top), shown)
