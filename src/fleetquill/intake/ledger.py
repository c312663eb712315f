"""The ledger door: an fq-ledger element and its rows into a plan and a prototype table."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import lru_cache
from heapq import nlargest
from itertools import islice
from pathlib import Path
from typing import Any, Final

from lxml import etree
from lxml import html as lxml_html

from fleetquill.errors import DataError, Where
from fleetquill.formats import Formats
from fleetquill.intake.rows import csv_head, read_rows
from fleetquill.manuscript.column import Column
from fleetquill.manuscript.ledger import LedgerColumn, LedgerPlan, OpenLedger

Element = etree._Element

SAMPLE: Final = 2_000  # rows that the column widths are taken from
LONGEST: Final = 4  # of the sample's values in each column that are measured
LABELS: Final = {  # by language: brought forward, carried forward, total
    "en": ("Brought forward", "Carried forward", "Total"),
    "de": ("Übertrag", "Übertrag", "Summe"),
    "fr": ("Report", "À reporter", "Total"),
    "ar": ("رصيد مرحل", "يرحل بعده", "المجموع"),
}
WRAPPED: Final = "overflow-wrap:break-word;"  # no value is drawn over its neighbour
CLIPPED: Final = "white-space:nowrap;overflow:hidden;text-overflow:ellipsis;"


def open_ledger(
    element: Element,
    given: tuple[Any, Sequence[Column]] | None,
    find: Callable[[str], Path],
    formats: Formats,
    where: Where,
) -> OpenLedger:
    """Opens the rows of an fq-ledger and puts its prototype table into it.

    `given` are rows and columns from Python; without them the element names a file (`src`), and its
    fq-column elements, if it has any, say which columns are shown and how.
    """
    if given is not None:
        rows, columns = given
        source = "rows"
    else:
        rows, columns, source = _described(element, find, where)
    names = [column.name for column in columns]
    group = element.get("group")
    if group is not None and group not in names:
        raise DataError(f"The ledger is grouped by '{group}', which is none of its columns.", where=where)
    stream = read_rows(rows, columns, source)
    sample = list(islice(stream, SAMPLE))
    plan = LedgerPlan(
        [LedgerColumn(c.name, _shower(c, formats), c.total == "sum") for c in columns],
        stream,
        None if group is None else names.index(group),
        source,
    )
    return OpenLedger(_prototype(element, columns, plan, sample), plan, sample)


def _described(element: Element, find: Callable[[str], Path], where: Where) -> tuple[Path, list[Column], str]:
    src = element.get("src", "")
    if not src:
        raise DataError("The ledger has no 'src' with a file of rows.", where=where)
    path = find(src)
    columns = [
        Column(
            name=part.get("name", ""),
            head=part.get("head"),
            form=part.get("form", ""),
            align=part.get("align", ""),
            width=part.get("width", ""),
            total=part.get("total", ""),
            carry=part.get("carry") is not None,
            overflow=part.get("overflow", "wrap"),
        )
        for part in element.iter("fq-column")
    ]
    return path, columns or [Column(name) for name in csv_head(path)], str(path)


def _shower(column: Column, formats: Formats) -> Callable[[Any], str]:
    """How a column's values become text; `str` itself where nothing is to be done."""
    if not column.form:
        return str

    @lru_cache(maxsize=20_000)
    def show(value: Any) -> str:
        return formats.form(value, column.form) if value != "" else ""

    return show


# ---- the prototype ----


def _prototype(
    element: Element, columns: Sequence[Column], plan: LedgerPlan, sample: Iterable[tuple[Any, ...]]
) -> Element:
    """A table with the ledger's head, feet and rows; it takes the place of what was in the element."""
    for old in element.findall("table"):
        element.remove(old)
    attributes = {k: v for k, v in element.attrib.items() if k not in ("src", "group", "rows", "caption")}
    table: Element = lxml_html.Element("table", {str(k): str(v) for k, v in attributes.items()})
    element.append(table)
    if element.get("caption"):
        etree.SubElement(table, "caption").text = element.get("caption")
    labels = LABELS.get(_language(element), LABELS["en"])
    carries = any(column.carry for column in columns)
    head = etree.SubElement(etree.SubElement(table, "thead"), "tr")
    for column in columns:
        etree.SubElement(head, "th", {"style": _style(column, head=True)}).text = column.title
    if carries:
        _sums(table, "thead", "brought", "continued", columns, labels[0], carried=True)
    body = etree.SubElement(table, "tbody")
    for _ in range(4):  # see ODD and EVEN in layout/ledger.py
        _row(body, columns, ["x"] * len(columns))
    _group_row(etree.SubElement(table, "tbody"), columns)
    _sum_row(etree.SubElement(table, "tbody"), "subtotal", columns, "x", scope="group", carried=False)
    body = etree.SubElement(table, "tbody")
    for texts in _longest([tuple(_texts(plan, row)) for row in sample], len(columns)):
        shown = [text if c.overflow == "wrap" or not c.width else "x" for c, text in zip(columns, texts, strict=True)]
        _row(body, columns, shown)
    if carries:
        _sums(table, "tfoot", "carried", "going-on", columns, labels[1], carried=True)
    if any(column.total for column in columns):
        _sums(table, "tfoot", "total", "last", columns, labels[2], carried=False)
    return table


def _longest(rows: list[tuple[str, ...]], count: int) -> list[tuple[str, ...]]:
    """The rows that have the longest texts of any column."""
    chosen: dict[tuple[str, ...], None] = {}
    for column in range(count):
        chosen.update(dict.fromkeys(nlargest(LONGEST, rows, key=lambda row: len(row[column]))))
    return list(chosen)


def _texts(plan: LedgerPlan, row: Sequence[Any]) -> Iterator[str]:
    for column, value in zip(plan.columns, row, strict=True):
        try:
            yield "" if value is None else column.format(value)
        except ValueError:
            yield ""  # the row itself will say so, with its number


def _language(element: Element) -> str:
    node: Element | None = element
    while node is not None:
        if node.get("lang"):
            return str(node.get("lang")).split("-")[0].lower()
        node = node.getparent()
    return "en"


def _style(column: Column, *, head: bool) -> str:
    align = column.align or ("start" if head else "")  # a head stands over its values
    if align == "decimal":
        align = "end" if head else '"."'
    style = f"text-align:{align};" if align else ""
    if head and column.width:
        style += f"width:{column.width};"
    if column.overflow == "clip" and not head:
        return style + CLIPPED
    return style + (WRAPPED.replace("break-word", "anywhere") if column.width else WRAPPED)


def _row(body: Element, columns: Sequence[Column], texts: Iterable[str]) -> None:
    row = etree.SubElement(body, "tr")
    for column, text in zip(columns, texts, strict=True):
        etree.SubElement(row, "td", {"style": _style(column, head=False)}).text = _clean(text) or "\u200b"


def _clean(text: str) -> str:
    """Text that an element tree can hold."""
    return "".join(c if c >= " " or c in "\t\n\r" else " " for c in text)


def _group_row(body: Element, columns: Sequence[Column]) -> None:
    row = etree.SubElement(body, "tr", {"class": "group"})
    cell = etree.SubElement(row, "th", {"colspan": str(len(columns)), "style": f"text-align:start;{WRAPPED}"})
    cell.text = "x"


def _sums(
    table: Element, tag: str, name: str, show_on: str, columns: Sequence[Column], label: str, *, carried: bool
) -> None:
    group = etree.SubElement(table, tag, {"class": name, "style": f"-fq-show-on:{show_on};"})
    _sum_row(group, name, columns, label, scope="so-far", carried=carried)


def _sum_row(parent: Element, name: str, columns: Sequence[Column], label: str, *, scope: str, carried: bool) -> None:
    """A label over the columns before the first sum, then a sum in each column that has one."""
    row = etree.SubElement(parent, "tr", {"class": name})
    shown = [bool(column.carry if carried else column.total) for column in columns]
    lead = shown.index(True) if True in shown else len(columns)
    if lead:
        etree.SubElement(row, "td", {"colspan": str(lead), "style": f"text-align:start;{WRAPPED}"}).text = label
    for column, has_sum in list(zip(columns, shown, strict=True))[lead:]:
        cell = etree.SubElement(row, "td", {"style": _style(column, head=False)})
        if has_sum:
            etree.SubElement(cell, "fq-tally", {"name": column.name, "scope": scope, "form": column.form})
        else:
            cell.text = "\u200b"
