"""Ledgers as the tree describes them: their columns and rows, from Python or from a file."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Final, NamedTuple

from lxml import etree

from fleetquill.errors import DataError, Where
from fleetquill.tree.column import Column, settled
from fleetquill.tree.document import GivenRows
from fleetquill.tree.groups import Group, as_groups, read_columns
from fleetquill.tree.rows import Row, RowLacks, Rows, csv_head, open_rows

Element = etree._Element


PYTHON: Final = "rows"  # what those are called that Python gave


class Ledger(NamedTuple):
    """The columns and rows of an fq-ledger. Rows have values for the columns, then those that only groups need;
    `keys` are the places of the groups' values in them."""

    columns: list[Column]
    rows: Rows
    source: str
    groups: tuple[Group, ...]
    keys: tuple[int, ...]
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
        columns, source, opened, forms, groups = given.columns, PYTHON, given.rows, given.forms, given.groups
        read = read_columns(columns, groups)
    else:
        path = _file(element, find, where)
        columns, source, forms = _columns(element, path), str(path), {}
        groups = _groups(element)
        read = read_columns(columns, groups)
        opened = open_rows(path, read, source)
    places = {column.name: place for place, column in enumerate(read)}
    columns = settled(read, _first_rows(opened, read[len(columns) :], where))[: len(columns)]
    keys = tuple([places[group.name] for group in groups])
    return Ledger(columns, opened, source, groups, keys, forms)


def _first_rows(opened: Rows, unseen: Sequence[Column], where: Where) -> list[Row]:
    """The first rows; raises DataError where they do not have what only groups need of them."""
    try:
        return next(iter(opened.chunks()), [])
    except RowLacks as error:
        name = error.column or (unseen[0].name if unseen else "")
        if name not in {column.name for column in unseen}:
            raise
        what = f"The ledger is grouped by '{name}', which is none of its columns and no value of its rows."
        raise DataError(what, where=where, remedy=error.remedy) from error


def _file(element: Element, find: Callable[[str], Path], where: Where) -> Path:
    src = element.get("src", "")
    if not src:
        raise DataError("The ledger has no 'src' with a file of rows.", where=where)
    return find(src)


def _groups(element: Element) -> tuple[Group, ...]:
    """Groups as HTML describes them: the one that `group` names, or a level for each fq-group element."""
    levels = [
        Group(
            name=part.get("name", ""), form=part.get("form", ""), heads=part.get("heads") != "none",
            summaries=part.get("summaries", "total").split(), new_page=part.get("new-page") is not None,
        )
        for part in element.iter("fq-group")
    ]  # fmt: skip
    return tuple(levels) or as_groups(element.get("group", ""))


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
