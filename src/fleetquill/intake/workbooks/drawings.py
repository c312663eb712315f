"""Pictures and charts of a sheet: where they are anchored, and what they show."""

from __future__ import annotations

import base64
import json
from typing import Any, Final, NamedTuple

from lxml import etree

from fleetquill.intake.workbooks.area import EMUS, Area, Sizes, areas_of
from fleetquill.intake.workbooks.colors import Palette

Element = etree._Element

MOST_POINTS: Final = 10_000  # of one series
USUAL_HOLE: Final = 50  # per cent of the radius
LARGEST_HOLE: Final = 90
KINDS: Final = {
    "barChart": "bar", "bar3DChart": "bar", "lineChart": "line", "line3DChart": "line", "areaChart": "area",
    "area3DChart": "area", "pieChart": "pie", "pie3DChart": "pie", "doughnutChart": "pie", "scatterChart": "scatter",
}  # fmt: skip


class Drawn(NamedTuple):
    """Something that lies over a sheet: at which cell, how far from its corner and how large in px."""

    row: int
    column: int
    x: float
    y: float
    width: float
    height: float
    element: Element


def drawn_on(sheet: Any, sizes: Sizes, palette: Palette, scale: float, faults: list[str]) -> list[Drawn]:
    """The pictures and charts of a sheet."""
    found: list[Drawn] = []
    for image in sheet._images:
        place = _place(image.anchor, sizes, (image.width, image.height))
        try:
            content = image._data()
        except Exception:  # whatever a damaged picture brings about
            faults.append("A picture cannot be read and is not shown.")
            continue
        address = f"data:;base64,{base64.b64encode(content).decode('ascii')}"
        found.append(Drawn(*place, etree.Element("img", {"src": address, "alt": _described(image)})))
    for chart in sheet._charts:
        place = _place(chart.anchor, sizes, (chart.width * 96 / 2.54, chart.height * 96 / 2.54))
        element = _chart(chart, palette, scale, sheet.parent, faults)
        if element is None:
            faults.append(f"A chart of the kind '{chart.tagname}' is not drawn.")
        else:
            found.append(Drawn(*place, element))
    return found


def _described(image: Any) -> str:
    pictures = getattr(image.anchor, "pic", None)
    facts = getattr(getattr(pictures, "nvPicPr", None), "cNvPr", None)
    return str(getattr(facts, "descr", "") or getattr(facts, "name", "") or "picture")


def _place(anchor: Any, sizes: Sizes, natural: tuple[float, float]) -> tuple[int, int, float, float, float, float]:
    """The cell, the offset in it, and the size in px."""
    start = getattr(anchor, "_from", None)
    if start is None:  # a place on the sheet, not at a cell
        at = anchor.pos
        extent = anchor.ext
        return 1, 1, at.x / EMUS, at.y / EMUS, extent.width / EMUS, extent.height / EMUS
    row, column = start.row + 1, start.col + 1
    x, y = start.colOff / EMUS, start.rowOff / EMUS
    end = getattr(anchor, "to", None)
    if end is not None:
        width = sum(sizes.column(n) for n in range(column, end.col + 1)) + end.colOff / EMUS - x
        height = sum(sizes.row(n) for n in range(row, end.row + 1)) + end.rowOff / EMUS - y
    else:
        extent = getattr(anchor, "ext", None)
        width, height = (extent.width / EMUS, extent.height / EMUS) if extent is not None else natural
    return row, column, x, y, max(1.0, width), max(1.0, height)


# ---- charts ----


def _chart(chart: Any, palette: Palette, scale: float, book: Any, faults: list[str]) -> Element | None:
    """A chart of our own from the values that the file keeps of it; None for a kind that there is none of."""
    kind = KINDS.get(chart.tagname)
    if kind is None:
        return None
    names: list[str] = []
    records: list[dict[str, Any]] = []
    colors: list[str] = []
    for number, series in enumerate(chart.ser):
        name = _title(series, book) or f"{number + 1}"
        name = name if name not in names else f"{name} ({number + 1})"
        names.append(name)
        values = _points(series.yVal if kind == "scatter" else series.val, book)
        labels = _points(series.xVal if kind == "scatter" else series.cat, book)
        tone = _color(series, palette)
        colors.append(tone or palette.theme(4 + number % 6))
        for at, value in values.items():
            while len(records) <= at:
                records.append({"label": ""})
            records[at]["label"] = labels.get(at, str(at + 1))
            records[at][name] = value
    records = [record for record in records if len(record) > 1]
    if not records:
        return None
    if kind == "pie" and len(names) > 1:
        faults.append(f"A round chart shows '{names[0]}' and not {len(names) - 1} more of its series.")
        names = names[:1]
    facts = {
        "kind": kind, "x": "label", "y": ",".join(n.replace(",", " ") for n in names), "title": _text(chart.title),
        "x-title": _text(getattr(getattr(chart, "x_axis", None), "title", None)),
        "y-title": _text(getattr(getattr(chart, "y_axis", None), "title", None)),
    }  # fmt: skip
    if chart.tagname == "doughnutChart":
        facts["hole"] = f"{min(LARGEST_HOLE, chart.holeSize or USUAL_HOLE) / 100:g}"
    if kind != "pie":
        facts["colors"] = ";".join(colors)
    attributes = {name: fact for name, fact in facts.items() if fact}
    if kind == "bar" and getattr(chart, "barDir", "col") == "bar":
        attributes["horizontal"] = "horizontal"
    if getattr(chart, "grouping", "") in ("stacked", "percentStacked"):
        attributes["stacked"] = "stacked"
    if getattr(chart, "grouping", "") == "percentStacked":
        attributes["shares"] = "shares"
    if chart.legend is None:
        attributes["legend"] = "none"
    element = etree.Element("fq-chart", attributes)
    element.set("style", f"font-size:{12 * scale:g}px")
    cleaned = [{key.replace(",", " "): value for key, value in record.items()} for record in records]
    element.text = json.dumps(cleaned)
    return element


def _points(source: Any, book: Any) -> dict[int, Any]:
    """The values that are kept of a reference, by their place; where none are kept, those that it leads to."""
    if source is None:
        return {}
    reference = getattr(source, "numRef", None) or getattr(source, "strRef", None)
    kept = _kept_points(source)
    return kept or (_values(str(reference.f or ""), book) if reference is not None else {})


def _values(reference: str, book: Any) -> dict[int, Any]:
    """The values of the cells that a reference names, in their order."""
    name, _, cells = reference.rpartition("!")
    name = name.strip("'").replace("''", "'")
    if name not in book.sheetnames:
        return {}
    found: list[Any] = []
    for area in areas_of(cells, Area(1, 1, MOST_POINTS, 1)):
        for row in range(area.top, min(area.bottom, area.top + MOST_POINTS) + 1):
            for column in range(area.left, area.right + 1):
                cell = book[name]._cells.get((row, column))
                found.append(cell.value if cell is not None else None)
    return {at: value if _is_number(value) else str(value) for at, value in enumerate(found) if value is not None}


def _kept_points(source: Any) -> dict[int, Any]:
    numbers = getattr(source, "numRef", None)
    cache = getattr(numbers, "numCache", None) or getattr(source, "numLit", None)
    if cache is not None:
        return {point.idx: float(point.v) for point in cache.pt if point.v is not None and _is_number(point.v)}
    texts = getattr(getattr(source, "strRef", None), "strCache", None) or getattr(source, "strLit", None)
    return {point.idx: str(point.v) for point in texts.pt} if texts is not None else {}


def _is_number(text: Any) -> bool:
    try:
        float(text)
    except (TypeError, ValueError):
        return False
    return True


def _title(series: Any, book: Any) -> str:
    title = getattr(series, "tx", None)
    if title is None:
        return ""
    cache = getattr(getattr(title, "strRef", None), "strCache", None)
    if cache is not None and cache.pt:
        return str(cache.pt[0].v)
    reference = getattr(title, "strRef", None)
    found = _values(str(reference.f or ""), book) if reference is not None else {}
    return str(title.v or next(iter(found.values()), ""))


def _text(title: Any) -> str:
    """The text of a title."""
    rich = getattr(getattr(title, "tx", None), "rich", None)
    if rich is None:
        return ""
    return " ".join("".join(run.t or "" for run in part.r or ()) for part in rich.p).strip()


def _color(series: Any, palette: Palette) -> str:
    shape = getattr(series, "graphicalProperties", None)
    fill = getattr(shape, "solidFill", None) or getattr(getattr(shape, "ln", None), "solidFill", None)
    if fill is None:
        return ""
    plain = getattr(fill, "srgbClr", None)
    value = getattr(plain, "val", plain)
    return f"#{value}".lower() if isinstance(value, str) and len(value) == 6 else ""
