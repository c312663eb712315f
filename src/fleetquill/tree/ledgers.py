"""Ledgers as the tree describes them: their columns and rows, from Python or from a file."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Final, NamedTuple

from lxml import etree

from fleetquill.errors import DataError, Where
from fleetquill.tree.column import Column, settled
from fleetquill.tree.document import GivenRows
from fleetquill.tree.rows import Rows, csv_head, open_rows

Element = etree._Element


PYTHON: Final = "rows"  # what those are called that Python gave


class Ledger(NamedTuple):
    """The columns and rows of an fq-ledger; `group` is the place of the column by which rows are grouped."""

    columns: list[Column]
    rows: Rows
    source: str
    group: int | None
    forms: Mapping[str, str]  # the names of forms that are functions, by the column

    @property
    def is_file(self) -> bool:
        """Whether the rows are those of a file, which holds nothing but texts."""
        return self.source != PYTHON


def described_ledger(element: Element, given: GivenRows | None, find: Callable[[str], Path], where: Where) -> Ledger:
    """The ledger of an element.

    `given` are rows and columns from Python; without them the element names a file (`src`), and its
    fq-column elements, if it has any, say which columns are shown and how.
    """
    if given is not None:
        columns, source, opened, forms = given.columns, PYTHON, given.rows, given.forms
    else:
        path = _file(element, find, where)
        columns, source, forms = _columns(element, path), str(path), {}
        opened = open_rows(path, columns, source)
    columns = settled(columns, next(iter(opened.chunks()), []))
    names = [column.name for column in columns]
    group = element.get("group")
    if group is not None and group not in names:
        raise DataError(f"The ledger is grouped by '{group}', which is none of its columns.", where=where)
    return Ledger(columns, opened, source, None if group is None else names.index(group), forms)


def _file(element: Element, find: Callable[[str], Path], where: Where) -> Path:
    src = element.get("src", "")
    if not src:
        raise DataError("The ledger has no 'src' with a file of rows.", where=where)
    return find(src)


def _columns(element: Element, path: Path) -> list[Column]:
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
    return columns or [Column(name) for name in csv_head(path)]
