"""fleetquill invoice-data: what an invoice for machines says."""

from __future__ import annotations

import json
import sys
from datetime import date
from decimal import Decimal
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

if TYPE_CHECKING:
    from fleetquill.invoices.invoice import Invoice
    from fleetquill.invoices.model import Party


@click.command("invoice-data")
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--xml", "as_xml", is_flag=True, help="Write the XML as it is in the file.")
@click.option("--json", "as_json", is_flag=True, help="Write it as JSON, in the words of the semantic model.")
@click.option("--ubl", "as_ubl", is_flag=True, help="Write it in the syntax of UBL 2.1.")
def invoice_data(file: Path, *, as_xml: bool, as_json: bool, as_ubl: bool) -> None:
    """Show the data of the invoice in FILE: a hybrid PDF, or its XML.

    It is checked by the rules of EN 16931; the exit code is 1 where it breaks one.
    """
    from fleetquill.bindery.invoice_data import invoice_xml, read_invoice

    if as_xml:
        sys.stdout.buffer.write(invoice_xml(file))
        return
    invoice = read_invoice(file)
    if as_ubl:
        sys.stdout.buffer.write(invoice.to_bytes("ubl"))
    elif as_json:
        click.echo(json.dumps(invoice.values(), default=_json, ensure_ascii=False, indent=1))
    else:
        _show(invoice)


def _json(value: Any) -> str:
    if isinstance(value, Decimal):
        return f"{value:f}"
    assert isinstance(value, date)  # there is nothing else in the model
    return value.isoformat()


def _show(invoice: Invoice) -> None:
    from rich.console import Console
    from rich.table import Table

    data = invoice.data
    console = Console(width=None if sys.stdout.isatty() else 120, highlight=False)
    head = Table(box=None, show_header=False, pad_edge=False)
    for name, value in (
        ("Invoice", data.number), ("Kind", data.kind), ("Date", _text(data.date)), ("Due", _text(data.due)),
        ("Profile", invoice.profile.name), ("Seller", _party(data.seller)), ("Buyer", _party(data.buyer)),
        ("Reference", data.buyer_reference), ("Order", data.order),
    ):  # fmt: skip
        if value:
            head.add_row(name, value)
    console.print(head)
    if data.lines:
        lines = Table(box=None, pad_edge=False, header_style="bold")
        for name, align in (("Line", "left"), ("What", "left"), ("Quantity", "right"), ("Unit", "left"),
                            ("Price", "right"), ("VAT", "right"), ("Net", "right")):  # fmt: skip
            lines.add_column(name, justify="right" if align == "right" else "left")
        for line in data.lines:
            rate = f"{line.vat_category} {_text(line.vat_rate)}".strip()
            lines.add_row(line.identifier, line.name, _text(line.quantity), line.unit, _text(line.price), rate,
                          _text(line.net_amount))  # fmt: skip
        console.print()
        console.print(lines)
    totals = Table(box=None, show_header=False, pad_edge=False)
    totals.add_column()
    totals.add_column(justify="right")
    own = data.totals
    rows = [("Net", own.without_vat if own else None)]
    rows += [(f"VAT {row.category} {_text(row.rate)} on {_text(row.basis)}", row.tax) for row in data.vat]
    rows += [("Total", own.with_vat if own else None), ("Paid", own.paid if own else None)]
    for name, amount in (*rows, (f"To pay, {data.currency}", own.due if own else None)):
        if amount is not None:
            totals.add_row(name, _text(amount))
    console.print()
    console.print(totals)
    console.print()
    console.print("Every rule of EN 16931 that is known here is kept.")


def _text(value: Any) -> str:
    if value is None:
        return ""
    return f"{value:f}" if isinstance(value, Decimal) else str(value)


def _party(party: Party | None) -> str:
    if party is None:
        return ""
    return ", ".join(part for part in (party.name, party.vat_identifier) if part)
