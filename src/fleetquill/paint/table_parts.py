"""The parts of a table's page as they belong to the document: what each page has again belongs to it once."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from fleetquill.drawing.canvas import Canvas
from fleetquill.drawing.places import REPEATED, LedgerRow, Place
from fleetquill.layout.boxes.boxes import Box, RowGroupBox
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.table.boxes import LedgerBox
from fleetquill.layout.table.measures import RowsFragment, TableFragment

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


def begin_ledger_row(row: Fragment) -> None:
    """Gives a row of a ledger, and its cells, parts of their own in the body that was begun last."""
    model = row.box.part
    if not isinstance(model, LedgerRow):
        return
    own = Place("TR", model.table.kids[-1])
    cells = [child for child in row.children if isinstance(child, Fragment)]
    for (role, facts), cell in zip(model.cells, cells, strict=False):
        place = cell.box.part = Place(role, own, facts)
        for inner in cell.box.children:
            inner.part = place
