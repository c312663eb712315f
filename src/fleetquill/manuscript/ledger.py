"""A ledger as it goes from its door to layout."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any, NamedTuple

from lxml import etree

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
