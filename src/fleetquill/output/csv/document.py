"""A table as lines of text with commas between its values (RFC 4180), in UTF-8."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from datetime import date, time, timedelta
from decimal import Decimal
from typing import BinaryIO, Final

from fleetquill.errors import OptionError
from fleetquill.formats import Formats
from fleetquill.output.how import How, RowsWritten
from fleetquill.structure.sheets import Cell, Sheet, Sheets
from fleetquill.structure.spans import Spans
from fleetquill.tree.metadata import Metadata

DATA: Final = ("head", "body")  # rows that are data: sums and headings of groups are made of them


def write_rows(sheets: Sheets, metadata: Metadata, formats: Formats, how: How, stream: BinaryIO) -> RowsWritten:
    """Writes the one table that there is. Raises OptionError where there are more.

    Values are written so that programs read them: numbers with a point, dates by ISO 8601, and neither sums nor
    headings of groups, whose values stand in each row instead; with `how.values` of 'shown' everything stands as it
    does on a page.
    """
    if len(sheets.tables) > 1:
        names = ", ".join(f"'{sheet.name}'" for sheet in sheets.tables[:6])
        raise OptionError(
            f"The document has {len(sheets.tables)} tables, and a CSV file holds one: {names}.",
            remedy="Name one with 'only', by its selector, such as 'table:nth-of-type(2)' or '#tolls'.",
        )
    (sheet,) = sheets.tables
    out = io.TextIOWrapper(stream, encoding="utf-8", newline="", write_through=False)
    writer = csv.writer(out, delimiter=how.delimiter)
    count = 0
    for texts in _texts(sheet, formats, shown=how.values == "shown"):
        writer.writerow(texts)
        count += 1
    out.flush()
    out.detach()
    return RowsWritten(count, [])


def _texts(sheet: Sheet, formats: Formats, *, shown: bool) -> Iterator[list[str]]:
    """The texts of each row; places that a cell covers besides its own are empty."""
    spans = Spans()
    for row in sheet.rows:
        texts: list[str] = [] if shown else [_raw(cell) for cell in row.unseen]
        for _, across, cell, _ in spans.places(row.cells):
            text = "" if cell is None else cell.text(formats) if shown else _raw(cell)
            texts += [text, *[""] * (across - 1)]
        if shown or row.kind in DATA:
            yield texts


def _raw(cell: Cell) -> str:
    value = cell.value
    if value is None:
        return ""
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, Decimal):
        return format(value, "f")
    if isinstance(value, float):
        return repr(value)
    if isinstance(value, timedelta):
        return format(Decimal(str(value.total_seconds())), "f")
    if isinstance(value, (date, time)):
        return value.isoformat()
    return str(value)
