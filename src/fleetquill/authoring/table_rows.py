"""Rows of values in a table that is written in Python."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from lxml import etree

from fleetquill.authoring.inline import Inline, fill, value_attributes
from fleetquill.errors import DataError
from fleetquill.formats import as_decimal
from fleetquill.tree.column import Column
from fleetquill.tree.tables import cell_style
from fleetquill.tree.texts import clean

Element = etree._Element


def value_row(body: Element, columns: Sequence[Column], values: Sequence[Any], number: int) -> None:
    """A row of values that stay values: the press writes them by its locale.

    Raises DataError with the row's number and the column where a value does not suit its column.
    """
    row = etree.SubElement(body, "tr")
    for column, value in zip(columns, values, strict=True):
        style = cell_style(column, head=False)
        if column.total:
            style += f"-fq-tally:{column.name};"
        cell = etree.SubElement(row, "td", {"style": style})
        if value is None or value == "":
            continue
        if isinstance(value, (Inline, list, tuple)):
            fill(cell, [value])
            continue
        if column.is_number:
            try:
                cell.set("data-value", str(as_decimal(value)))
            except ValueError as error:
                raise DataError(f"Row {number}, column '{column.name}': {error}.") from error
        if isinstance(value, (str, bool, int)) and not column.form:
            cell.text = clean(str(value))
        else:
            etree.SubElement(cell, "fq-value", value_attributes(value, column.form))
