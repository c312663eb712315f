"""An fq-chart element with its data, or a figure from Python, as a drawing."""

from __future__ import annotations

import json
import math
from collections.abc import Callable
from decimal import Decimal
from functools import cache
from pathlib import Path
from typing import Any, Final, NamedTuple

from lxml import etree

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.plain_text import measured
from fleetquill.errors import DataError, FleetQuillError
from fleetquill.formats import Formats
from fleetquill.graphics.charts.chart import MOST_HOLE, Mark, number_of, read_chart, read_panels
from fleetquill.graphics.charts.figure import chart_figure, panels_figure
from fleetquill.graphics.charts.look import Look
from fleetquill.graphics.charts.palette import COLORS, ON_DARK, color_of, lightness
from fleetquill.graphics.charts.words import alternative, alternative_of
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
    look = _look(element, style, around, family, width, height)
    try:
        rows = _rows(element, around.find)
    except FleetQuillError as error:
        return f"The chart is not drawn. {error}", given
    options = _options(element, look)
    if isinstance(options, str):
        return options, given
    names = {key: [n.strip() for n in element.get(key, "").split(",") if n.strip()] for key in ("y", "y2")}
    kind, x, by = element.get("kind", "bar"), element.get("x", ""), element.get("by", "")

    def say(value: float) -> str:
        return look.form(value, None)

    from fleetquill.graphics.figures import draw_figure

    try:
        if by and rows:
            panels = read_panels(by, kind, rows, x, names["y"], names["y2"], **options)
            if isinstance(panels, str):
                return panels, given
            figure, lost = panels_figure(panels, options["title"], look)
            faults = [fault for panel in panels for fault in panel.chart.faults]
            told = alternative_of(panels, options["title"], say)
        else:
            chart = read_chart(kind, rows, x, names["y"], names["y2"], **options)
            if isinstance(chart, str):
                return chart, given
            figure, lost = chart_figure(chart, look)
            faults, told = [*chart.faults], alternative(chart, say)
        drawing = draw_figure(figure, around.font, family)
    except (ValueError, TypeError, ArithmeticError) as error:
        return f"The chart is not drawn. {error}.", given
    drawing.faults += [*dict.fromkeys(faults), *lost]
    return drawing, given or told


def _look(element: Element, style: ComputedStyle, around: ChartRoom, family: str, width: float, height: float) -> Look:
    formats, form = around.formats, element.get("form", "")

    def show(value: float, decimals: int | None) -> str:
        if not math.isfinite(value):
            return ""
        if decimals is not None and not form:
            return formats.number(Decimal(f"{value:.{decimals}f}"))
        rounded = round(value, 10)
        return formats.form(int(rounded) if rounded == int(rounded) else rounded, form or "number")

    @cache
    def measure(text: str, size: float, bold: bool) -> float:
        return measured(around.font(family, "700" if bold else "400", "normal"), size, text)

    language = (style.language or str(formats.locale)).replace("_", "-").partition("-")[0].lower()
    return Look(
        width, height, style.font_size, style.color, show, bool(form), formats.datetime, measure,
        NO_DATA.get(language, NO_DATA["en"]),
    )  # fmt: skip


NO_DATA: Final = {  # what a chart of nothing says, by language
    "en": "No data", "de": "Keine Daten", "fr": "Aucune donnée", "es": "Sin datos", "it": "Nessun dato",
    "nl": "Geen gegevens", "pt": "Sem dados", "pl": "Brak danych", "cs": "Žádná data", "sv": "Inga data",
    "da": "Ingen data", "nb": "Ingen data", "fi": "Ei tietoja", "tr": "Veri yok", "ru": "Нет данных",
    "uk": "Немає даних", "ar": "لا توجد بيانات", "he": "אין נתונים",
    "ja": "データなし", "zh": "无数据", "ko": "데이터 없음",
}  # fmt: skip


def _options(element: Element, look: Look) -> dict[str, Any] | str:
    """How the chart is to look, by the names of Chart; what is wrong, else."""
    colors = tuple(color.strip() for color in element.get("colors", "").split(";") if color.strip())
    colors = colors or (COLORS if lightness((*look.ink, 1.0)) < 0.5 else ON_DARK)
    wrong = next((color for color in colors if color_of(color) is None), None)
    if wrong is not None:
        return f"'{wrong}' is no colour of CSS."
    bins = element.get("bins", "10")
    hole = number_of(element.get("hole", "0"))
    if hole is None or not 0 <= hole <= MOST_HOLE:
        return f"The hole of a chart is a share of its radius from 0 to {MOST_HOLE}, not '{element.get('hole')}'."
    marks: dict[str, Mark | None] = {}
    for name, count in (("target", 1), ("band", 2)):
        text = element.get(name)
        numbers = [number_of(part) for part in (text or "").replace(",", " ").split()]
        if text is not None and (len(numbers) != count or None in numbers):
            return f"The {name} of a chart is {'a number' if count == 1 else 'two numbers'}, not '{text}'."
        known = sorted(number for number in numbers if number is not None)
        label = element.get(f"{name}-label", "")
        if name == "target" and known and not label:
            label = look.form(known[0], None)
        marks[name] = Mark(known[0], known[-1], label) if known else None
    return {
        "title": element.get("title", ""), "x_title": element.get("x-title", ""), "y_title": element.get("y-title", ""),
        "stacked": element.get("stacked") is not None, "horizontal": element.get("horizontal") is not None,
        "shares": element.get("shares") is not None, "values": element.get("values") is not None,
        "legend": element.get("legend", "") != "none", "colors": colors, **marks,
        "bins": min(500, int(bins)) if bins.isdigit() and int(bins) else 10, "hole": hole,
    }  # fmt: skip


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
