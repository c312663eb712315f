"""The parts of a table's page as they belong to the document: what each page has again belongs to it once."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from fleetquill.drawing.canvas import Canvas
from fleetquill.drawing.places import REPEATED, HeldRow, Place, RowModel
from fleetquill.layout.boxes.boxes import Box, RowGroupBox
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.table.boxes import LedgerBox
from fleetquill.layout.table.measures import HeldRowsFragment, RowsFragment, TableFragment

GOING_ON: Final = ("continued", "going-on")  # values of -fq-show-on: on pages that go on


def table_parts(canvas: Canvas, table: TableFragment) -> Iterator[Fragment]:
    """What stands in a table's page from top to bottom, to be painted one after another."""
    ledger = table.box if isinstance(table.box, LedgerBox) else None
    for part in table.children:
        if not isinstance(part, Fragment):
            continue
        if ledger is not None:
            _begin_ledger_part(ledger, part)
        again = _is_again(table, part.box)
        if again:
            canvas.set_aside(REPEATED)
        yield part
        if again:
            canvas.set_aside(None)


def _is_again(table: TableFragment, part: Box) -> bool:
    """Whether a part of a table stands, in the order of the document, on another page."""
    if part.style.fq_show_on in GOING_ON:
        return True
    if not isinstance(part, RowGroupBox):
        return False
    return (part.role == "head" and not table.first) or (part.role == "foot" and not table.last)


def _begin_ledger_part(ledger: LedgerBox, part: Fragment) -> None:
    """Rows of a ledger are bodies of the table, one for each stretch of them on a page."""
    table = ledger.part
    if not isinstance(table, Place):
        return
    if isinstance(part, RowsFragment):
        part.box.part = next((row.part for row in _body(ledger)), None)
    elif isinstance(part.box, RowGroupBox) and part.box.role == "body":
        Place("TBody", table)


def _body(ledger: LedgerBox) -> list[Box]:
    """The rows of the prototype that others are like."""
    return next((group.children for group in ledger.prototype.groups if group.role == "body"), [])


def begin_row(row: Fragment) -> None:
    """Gives a row that is like others, and its cells, parts of their own."""
    _begin(row.box, [cell.box for cell in row.children if isinstance(cell, Fragment)])


def _begin(row: Box, cells: list[Box]) -> None:
    model = row.part
    assert isinstance(model, RowModel)
    parts = model.parts()
    if isinstance(model, HeldRow):  # it may go on on another page
        row.part = parts[0].parent
    for part, cell in zip(parts, cells, strict=False):
        cell.part = part
        for inner in cell.children:
            inner.part = part


def parts_of_rows(block: RowsFragment) -> tuple[RowModel | None, list[list[Place | None]]]:
    """What plain rows are in the document: the model of all of them, or the parts of their cells, if any."""
    rows: list[Box] = [*block.rows] if isinstance(block, HeldRowsFragment) else [block.box]
    model = rows[0].part
    if isinstance(model, RowModel) and all(row.part is model for row in rows):
        return model, []
    for row in rows:
        if isinstance(row.part, HeldRow):
            _begin(row, row.children)
    places = [[cell.part if isinstance(cell.part, Place) else None for cell in row.children] for row in rows]
    return None, places if any(map(any, places)) else []
