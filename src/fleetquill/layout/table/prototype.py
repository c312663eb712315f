"""An fq-ledger element and its rows as a plan and a prototype table: a sample of all that stands in a ledger."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from contextlib import suppress
from functools import lru_cache
from itertools import islice, zip_longest
from pathlib import Path
from typing import Any, Final, NamedTuple

from lxml import etree

from fleetquill.errors import Where
from fleetquill.formats import Formats
from fleetquill.layout.table.row_stream import MEASURED, LedgerColumn, LedgerGroup, LedgerPlan
from fleetquill.layout.table.widest import holds_figures, widest_texts
from fleetquill.tree.column import Column
from fleetquill.tree.document import GivenRows
from fleetquill.tree.forms import kind_of_form
from fleetquill.tree.groups import COUNT_FORM, SHARE_FORM, TOTAL
from fleetquill.tree.ledgers import Ledger, described_ledger
from fleetquill.tree.rows import CHUNK, HeldRows, Row
from fleetquill.tree.tables import WRAPPED, add_head, add_sums, labels_of, summary_labels_of, summary_row, text_row

Element = etree._Element

MOST_SHOWN: Final = 20_000  # texts of a column that are kept
SAMPLE: Final = MEASURED  # rows of a stream that the column widths are taken from


class OpenLedger(NamedTuple):
    """A ledger ready to be laid out: its prototype stands in the tree."""

    table: Element
    plan: LedgerPlan


def open_ledger(
    element: Element,
    given: GivenRows | None,
    find: Callable[[str], Path],
    formats: Formats,
    where: Where,
) -> OpenLedger:
    """Opens the rows of an fq-ledger and puts its prototype table into it; see `described_ledger`."""
    ledger = described_ledger(element, given, find, where)
    columns, opened = ledger.columns, ledger.rows
    plan = _plan(ledger, formats)
    plan = plan._replace(labels=summary_labels_of(element))
    most = None if isinstance(opened, HeldRows) else SAMPLE // CHUNK
    widest = widest_texts(plan.columns, islice(opened.chunks(), most))
    if most is not None:
        plan = plan._replace(grows=tuple(map(holds_figures, zip(*widest, strict=True))))
    plan = plan._replace(marks=_marks(columns, islice(opened.chunks(), most)))
    return OpenLedger(_prototype(element, ledger, widest, plan.marks), plan)


def _plan(ledger: Ledger, formats: Formats) -> LedgerPlan:
    columns = [_ledger_column(column, formats) for column in ledger.columns]
    own = {column.name: column for column in ledger.columns}
    groups = []
    for group, place in zip(ledger.groups, ledger.keys, strict=True):
        form = group.form or (own[group.name].form if group.name in own and group.heading is None else "")
        groups.append(LedgerGroup(place, shower(form, formats), group))
    forms = {form: shower(form, formats) for form in (SHARE_FORM, COUNT_FORM)}
    return LedgerPlan(columns, ledger.rows, ledger.source, groups, forms=forms)


def _ledger_column(column: Column, formats: Formats) -> LedgerColumn:
    mark = column.class_of if column.rule is not None else None
    show = shower(column.form, formats)
    return LedgerColumn(column.name, show, not column.form, column.total, mark)


def _marks(columns: Sequence[Column], chunks: Iterable[Sequence[Row]]) -> tuple[tuple[str, ...], ...]:
    """For each column the classes that its rule gives, in the order in which they are met."""
    found: list[dict[str, None]] = [{} for _ in columns]
    ruled = [(index, column) for index, column in enumerate(columns) if column.rule is not None]
    if ruled:
        for chunk in chunks:
            for index, column in ruled:
                with suppress(ValueError):  # the row itself will say so, with its number
                    found[index].update(dict.fromkeys(column.class_of(row[index]) for row in chunk))
    return tuple(tuple(filter(None, names)) for names in found)


def shower(form: str | Callable[[Any], Any], formats: Formats) -> Callable[[Any], str]:
    """How values of a form become text."""
    if not form:
        return formats.text

    if not callable(form):
        write = formats.writer(form)
        return write if kind_of_form(form)[0] in ("money", "number") else lru_cache(maxsize=MOST_SHOWN)(write)

    @lru_cache(maxsize=MOST_SHOWN)
    def show(value: Any) -> str:
        return "" if value == "" else formats.text(form(value))

    return show


# ---- the prototype ----


def _prototype(
    element: Element,
    ledger: Ledger,
    widest: Iterable[tuple[str, ...]],
    marks: Sequence[Sequence[str]],
) -> Element:
    """A table with the ledger's head, feet and rows; it takes the place of what was in the element."""
    for old in element.findall("table"):
        element.remove(old)
    attributes = {k: v for k, v in element.attrib.items() if k not in ("src", "group", "rows", "caption", "head")}
    table: Element = etree.Element("table", {str(k): str(v) for k, v in attributes.items()})
    element.append(table)
    if element.get("caption"):
        etree.SubElement(table, "caption").text = element.get("caption")
    labels = labels_of(element)
    columns, forms = ledger.columns, ledger.forms
    carries = any(column.carry for column in columns)
    if element.get("head") != "none":
        add_head(table, columns)
    if carries:
        add_sums(table, "thead", "brought", "continued", columns, labels[0], carried=True, forms=forms)
    body = etree.SubElement(table, "tbody")
    for _ in range(4):  # see ODD and EVEN in slots.py
        text_row(body, columns, ["x"] * len(columns))
    for level, group in enumerate(ledger.groups):
        _group_row(etree.SubElement(table, "tbody"), columns, level)
        for kind, _ in group.rows:
            named = " ".join(filter(None, ["subtotal", "" if kind == TOTAL else kind, _level_class(level)]))
            summary_row(etree.SubElement(table, "tbody"), named, columns)
    body = etree.SubElement(table, "tbody")
    levels = [*zip_longest(*marks, fillvalue="")]
    for classes in levels:  # see GroupPlaces in slots.py
        for _ in range(2):
            text_row(body, columns, ["x"] * len(columns), classes)
    body = etree.SubElement(table, "tbody")
    for texts in widest:
        shown = [text if c.overflow == "wrap" or not c.width else "x" for c, text in zip(columns, texts, strict=True)]
        for classes in ((), *levels):
            text_row(body, columns, shown, classes)
    if carries:
        add_sums(table, "tfoot", "carried", "going-on", columns, labels[1], carried=True, forms=forms)
    if any(column.total for column in columns):
        add_sums(table, "tfoot", "total", "last", columns, labels[2], carried=False, forms=forms)
    return table


def _level_class(level: int) -> str:
    """What groups within groups are known by."""
    return f"level-{level + 1}" if level else ""


def _group_row(body: Element, columns: Sequence[Column], level: int) -> None:
    row = etree.SubElement(body, "tr", {"class": f"group {_level_class(level)}".strip()})
    cell = etree.SubElement(row, "th", {"colspan": str(len(columns)), "style": f"text-align:start;{WRAPPED}"})
    cell.text = "x"
