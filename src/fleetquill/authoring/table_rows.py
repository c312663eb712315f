"""Rows of values in a table that is written in Python."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, time, timedelta
from decimal import Decimal
from typing import Any, Final

from lxml import etree
from tinycss2 import serialize_identifier

from fleetquill.authoring.inline import Inline, fill, value_attributes
from fleetquill.errors import DataError, OptionError
from fleetquill.formats import as_amount, as_decimal
from fleetquill.tree.column import Column
from fleetquill.tree.groups import Account
from fleetquill.tree.tables import add_lines, cell_style
from fleetquill.tree.values import own_text, plain_value

Element = etree._Element


def value_row(body: Element, columns: Sequence[Column], values: Sequence[Any], number: int) -> None:
    """A row of values that stay values: the press writes them by its locale.

    Raises DataError with the row's number and the column where a value does not suit its column.
    """
    row = etree.SubElement(body, "tr")
    for column, value in zip(columns, values, strict=True):
        style = cell_style(column, head=False)
        if column.total:
            style += f"-fq-tally:{serialize_identifier(column.name)};"
        cell = etree.SubElement(row, "td", {"style": style})
        try:
            _fill_cell(cell, column, value)
        except (ValueError, OptionError) as error:
            message = str(error).rstrip(".")
            raise DataError(f"Row {number}, column '{column.name}': {message}.") from error


def _fill_cell(cell: Element, column: Column, given: Any) -> None:
    """A value in its cell: text stands there, numbers, dates and times wait for the press's locale."""
    mark = column.class_of(given)
    if mark:
        cell.set("class", mark)
    if isinstance(given, (Inline, list, tuple)):
        fill(cell, [given])
        return
    value = plain_value(given)
    if value is None or value == "":
        return
    if column.is_number:
        cell.set("data-value", str(as_decimal(value)))
    if callable(column.form):
        add_lines(cell, str(column.form(given)))
    elif column.form == "text" or (not column.form and not isinstance(value, WRITTEN_BY_LOCALE)):
        add_lines(cell, own_text(value))
    elif isinstance(value, (*WRITTEN_BY_LOCALE, int, str)):
        etree.SubElement(cell, "fq-value", value_attributes(value, column.form))
    else:
        raise ValueError(f"a value of the type '{type(value).__name__}' cannot be shown as '{column.form}'")


def figures_of(columns: Sequence[Column], rows: Sequence[Sequence[Any]]) -> dict[str, Decimal | None]:
    """What columns come to that are not added up, by their names."""
    found: dict[str, Decimal | None] = {}
    for place, column in enumerate(columns):
        if column.total in ("", "sum"):
            continue
        account = Account(1)
        for row in rows:
            account.add([as_amount(plain_value(row[place]), column.total)])
        found[column.name] = account.figure(column.total, 0)
    return found


WRITTEN_BY_LOCALE: Final = (float, Decimal, date, time, timedelta)
