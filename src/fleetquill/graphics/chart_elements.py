"""An fq-chart element with its data, or a figure from Python, as a drawing."""

from __future__ import annotations

import json
import math
from collections.abc import Callable
from pathlib import Path
from typing import Any, Final, NamedTuple

from lxml import etree

from fleetquill.drawing.canvas import Drawing
from fleetquill.errors import DataError, FleetQuillError
from fleetquill.formats import Formats
from fleetquill.graphics.charts import COLORS, Look, alternative, chart_figure, read_chart
from fleetquill.style.lengths import Relative
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.shaping import FindFont

Element = etree._Element
USUAL_WIDTH: Final = 600.0  # px
SHAPE: Final = 0.52  # height for a width


class ChartRoom(NamedTuple):
    """What a document gives its charts: fonts, the locale's formats, the files that they may name, and px of width."""

    font: FindFont
    formats: Formats
    find: Callable[[str], Path]
    width: float


def draw_chart(element: Element, style: ComputedStyle, figure: Any, around: ChartRoom) -> tuple[Drawing | str, str]:
    """The drawing of a chart or figure and its alternative text; what is wrong in place of the drawing."""
    family = ", ".join(f"'{name}'" if " " in name else name for name in style.font_family)
    given = element.get("alt", "")
    if element.tag == "fq-figure":
        from fleetquill.graphics.figures import draw_figure

        if figure is None:
            return "The figure stands in Python and was not given with this document.", given
        return draw_figure(figure, around.font, family), given
    room = around.width
    width = _side(style.width, room) or min(USUAL_WIDTH, room or USUAL_WIDTH)
    height = _side(style.height, room) or width * ((style.aspect_ratio[1] and 1 / style.aspect_ratio[1]) or SHAPE)
    form = element.get("form", "")

    def show(value: float) -> str:
        if not math.isfinite(value):
            return ""
        rounded = round(value, 10)
        return around.formats.form(int(rounded) if rounded == int(rounded) else rounded, form or "number")

    try:
        rows = _rows(element, around.find)
    except FleetQuillError as error:
        return f"The chart is not drawn. {error}", given
    y = [name.strip() for name in element.get("y", "").split(",") if name.strip()]
    colors = tuple(color.strip() for color in element.get("colors", "").split(";") if color.strip()) or COLORS
    bins = element.get("bins", "10")
    chart = read_chart(
        element.get("kind", "bar"), rows, element.get("x", ""), y,
        title=element.get("title", ""), x_title=element.get("x-title", ""), y_title=element.get("y-title", ""),
        stacked=element.get("stacked") is not None, horizontal=element.get("horizontal") is not None,
        legend=element.get("legend", "") != "none", colors=colors,
        bins=min(500, int(bins)) if bins.isdigit() and int(bins) else 10,
    )  # fmt: skip
    if isinstance(chart, str):
        return chart, given
    from fleetquill.graphics.figures import draw_figure

    look = Look(width, height, style.font_size, style.color, show)
    try:
        drawing = draw_figure(chart_figure(chart, look), around.font, family)
    except (ValueError, TypeError) as error:
        return f"The chart is not drawn. {error}.", given
    drawing.faults += chart.faults
    return drawing, given or alternative(chart, show)


def _side(value: Any, room: float) -> float | None:
    if isinstance(value, float):
        return value if value > 0 else None
    return value.resolve(room) if isinstance(value, Relative) and room else None


def _rows(element: Element, find: Callable[[str], Path]) -> list[dict[str, Any]]:
    """Records from the element's text (JSON), or from the file that it names."""
    from fleetquill.tree.data import parse_json, read_data

    if element.get("src"):
        data: Any = read_data(find(element.get("src", "")))
        data = data.get("rows", data)
    else:
        text = "".join(str(part) for part in element.itertext()).strip()
        data = parse_json(text, "chart") if text else []
    if isinstance(data, dict):
        data = [{"name": name, "value": value} for name, value in data.items()]
    if not isinstance(data, list) or not all(isinstance(row, dict) for row in data):
        raise DataError("The data of a chart is a list of records.", remedy='As in [{"month": "May", "tonnes": 3}].')
    return data


def chart_json(rows: list[dict[str, Any]]) -> str:
    """Records as the text of an fq-chart element."""
    return json.dumps(rows, default=str, ensure_ascii=False)
