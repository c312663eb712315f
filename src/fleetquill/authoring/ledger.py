"""A ledger as it goes from its door to layout."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from typing import TYPE_CHECKING, Any, NamedTuple

from lxml import etree

if TYPE_CHECKING:
    from fleetquill.tree.column import Column

Element = etree._Element


class LedgerColumn(NamedTuple):
    """What the ledger needs to know of a column."""

    name: str
    format: Callable[[Any], str]
    totalled: bool


class LedgerPlan(NamedTuple):
    """A ledger as its author wants it."""

    columns: Sequence[LedgerColumn]
    rows: Iterator[tuple[Any, ...]]
    group: int | None  # the column by whose value rows are grouped
    source: str


class OpenLedger(NamedTuple):
    """A ledger ready to be laid out: its prototype stands in the tree, its first rows are read."""

    table: Element
    plan: LedgerPlan
    sample: list[tuple[Any, ...]]


def write_ledger(element: Element, path: str | os.PathLike[str], columns: Sequence[Column]) -> None:
    """Puts a ledger's file and columns into its element, as HTML describes them."""
    del element.attrib["rows"]
    element.set("src", os.fspath(path))
    for old in list(element):
        element.remove(old)
    for column in columns:
        attributes = {"name": column.name, "head": column.title, "overflow": column.overflow}
        for name in ("form", "align", "width", "total"):
            if getattr(column, name):
                attributes[name] = getattr(column, name)
        if column.carry:
            attributes["carry"] = "carry"
        etree.SubElement(element, "fq-column", attributes)
