"""What an invoice says that can be worked out: net amounts, the breakdown of the tax, totals (EN 16931-1 §6.4)."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable
from decimal import ROUND_HALF_UP, Decimal
from typing import Final

from fleetquill.invoices.model import Allowance, InvoiceData, Line, Totals, VatRow

CENT: Final = Decimal("0.01")
HUNDRED: Final = Decimal(100)
NOTHING: Final = Decimal(0)
UNTAXED: Final = "O"  # the category of what is outside of the scope of VAT: it has no rate


def rounded(amount: Decimal) -> Decimal:
    """An amount to two places; halves go away from nought."""
    return amount.quantize(CENT, ROUND_HALF_UP)


def worked_out(invoice: InvoiceData) -> InvoiceData:
    """The invoice with what was left out; what is given stays as it is."""
    lines = tuple(_line(line, number) for number, line in enumerate(invoice.lines, 1))
    allowances, charges = (tuple(map(_allowance, given)) for given in (invoice.allowances, invoice.charges))
    made = dataclasses.replace(invoice, lines=lines, allowances=allowances, charges=charges)
    if not made.vat:
        made = dataclasses.replace(made, vat=_breakdown(made))
    else:
        made = dataclasses.replace(made, vat=tuple(map(_row, made.vat)))
    return dataclasses.replace(made, totals=_totals(made))


def _line(line: Line, number: int) -> Line:
    identifier = line.identifier or str(number)
    price = line.price
    if price is None and line.gross_price is not None:
        price = line.gross_price - (line.price_discount or NOTHING)
    allowances, charges = (tuple(map(_allowance, given)) for given in (line.allowances, line.charges))
    net = line.net_amount
    if net is None and price is not None and line.quantity is not None:
        base = line.base_quantity or Decimal(1)
        net = rounded(line.quantity * price / base) - total(allowances) + total(charges)
    return dataclasses.replace(
        line, identifier=identifier, price=price, net_amount=net, allowances=allowances, charges=charges
    )


def _allowance(given: Allowance) -> Allowance:
    if given.amount is None and given.base is not None and given.percent is not None:
        return dataclasses.replace(given, amount=rounded(given.base * given.percent / HUNDRED))
    return given


def total(amounts: Iterable[Allowance]) -> Decimal:
    return sum((one.amount or NOTHING for one in amounts), NOTHING)


def bases(invoice: InvoiceData) -> dict[tuple[str, Decimal | None], Decimal]:
    """What each category and rate of VAT is charged on, in the order in which they come."""
    found: dict[tuple[str, Decimal | None], Decimal] = {}
    for line in invoice.lines:
        _add(found, line.vat_category, line.vat_rate, line.net_amount or NOTHING)
    for charge in invoice.charges:
        _add(found, charge.vat_category, charge.vat_rate, charge.amount or NOTHING)
    for allowance in invoice.allowances:
        _add(found, allowance.vat_category, allowance.vat_rate, -(allowance.amount or NOTHING))
    return found


def _add(
    found: dict[tuple[str, Decimal | None], Decimal], category: str, rate: Decimal | None, amount: Decimal
) -> None:
    if category:
        key = category, None if category == UNTAXED else (rate or NOTHING).normalize()
        found[key] = found.get(key, NOTHING) + amount


def _breakdown(invoice: InvoiceData) -> tuple[VatRow, ...]:
    rows = [VatRow(basis=basis, category=category, rate=rate) for (category, rate), basis in bases(invoice).items()]
    return tuple(map(_row, rows))


def _row(row: VatRow) -> VatRow:
    if row.tax is None and row.basis is not None:
        return dataclasses.replace(row, tax=rounded(row.basis * (row.rate or NOTHING) / HUNDRED))
    return row


def _totals(invoice: InvoiceData) -> Totals:
    given = invoice.totals or Totals()
    lines = given.lines
    if lines is None and invoice.lines:
        lines = sum((line.net_amount or NOTHING for line in invoice.lines), NOTHING)
    allowances = (
        given.allowances if given.allowances is not None or not invoice.allowances else total(invoice.allowances)
    )
    charges = given.charges if given.charges is not None or not invoice.charges else total(invoice.charges)
    without = given.without_vat
    if without is None and lines is not None:
        without = lines - (allowances or NOTHING) + (charges or NOTHING)
    vat = given.vat
    if vat is None and invoice.vat:
        vat = sum((row.tax or NOTHING for row in invoice.vat), NOTHING)
    whole = given.with_vat
    if whole is None and without is not None:
        whole = without + (vat or NOTHING)
    due = given.due
    if due is None and whole is not None:
        due = whole - (given.paid or NOTHING) + (given.rounding or NOTHING)
    return dataclasses.replace(
        given,
        lines=lines,
        allowances=allowances,
        charges=charges,
        without_vat=without,
        vat=vat,
        with_vat=whole,
        due=due,
    )
