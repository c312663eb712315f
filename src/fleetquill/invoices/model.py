"""An invoice in the words of the semantic model of EN 16931-1: its terms (BT) and groups of terms (BG).

Amounts are Decimal, dates are date. What can be worked out, such as totals, may be left out: see `totals`.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date as Day
from decimal import Decimal
from typing import Final


@dataclass(frozen=True, slots=True, kw_only=True)
class Identifier:
    """An identifier, and the scheme that it is of (ISO/IEC 6523 or the electronic address scheme)."""

    value: str = ""
    scheme: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Address:
    """A postal address."""

    lines: tuple[str, ...] = ()  # BT-35
    city: str = ""  # BT-37
    post_code: str = ""  # BT-38
    region: str = ""  # BT-39
    country: str = ""  # BT-40: ISO 3166-1, two letters


@dataclass(frozen=True, slots=True, kw_only=True)
class Contact:
    """Whom to ask."""

    name: str = ""  # BT-41
    phone: str = ""  # BT-42
    email: str = ""  # BT-43


@dataclass(frozen=True, slots=True, kw_only=True)
class Party:
    """The seller (BG-4), the buyer (BG-7), the payee (BG-10) or the seller's tax representative (BG-11)."""

    name: str = ""  # BT-27
    trading_name: str = ""  # BT-28
    identifiers: tuple[Identifier, ...] = ()  # BT-29
    registration: Identifier | None = None  # BT-30
    vat_identifier: str = ""  # BT-31
    tax_registration: str = ""  # BT-32
    legal_information: str = ""  # BT-33
    electronic_address: Identifier | None = None  # BT-34
    address: Address | None = None  # BG-5
    contact: Contact | None = None  # BG-6


@dataclass(frozen=True, slots=True, kw_only=True)
class Period:
    """From one day to another, both of them in it."""

    start: Day | None = None  # BT-73
    end: Day | None = None  # BT-74


@dataclass(frozen=True, slots=True, kw_only=True)
class Allowance:
    """What is taken off (an allowance) or added (a charge), of the whole invoice or of a line."""

    amount: Decimal | None = None  # BT-92
    base: Decimal | None = None  # BT-93
    percent: Decimal | None = None  # BT-94
    vat_category: str = ""  # BT-95
    vat_rate: Decimal | None = None  # BT-96
    reason: str = ""  # BT-97
    reason_code: str = ""  # BT-98


@dataclass(frozen=True, slots=True, kw_only=True)
class Attribute:
    """A property of what is sold."""

    name: str = ""  # BT-160
    value: str = ""  # BT-161


@dataclass(frozen=True, slots=True, kw_only=True)
class Classification:
    """What kind of thing is sold, by a list of codes."""

    code: str = ""  # BT-158
    scheme: str = ""  # BT-158-1
    version: str = ""  # BT-158-2


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """A line of the invoice (BG-25)."""

    identifier: str = ""  # BT-126
    note: str = ""  # BT-127
    object: Identifier | None = None  # BT-128
    quantity: Decimal | None = None  # BT-129
    unit: str = ""  # BT-130: UN/ECE Recommendation 20 and 21
    net_amount: Decimal | None = None  # BT-131
    order_line: str = ""  # BT-132
    buyer_account: str = ""  # BT-133
    period: Period | None = None  # BG-26
    allowances: tuple[Allowance, ...] = ()  # BG-27
    charges: tuple[Allowance, ...] = ()  # BG-28
    price: Decimal | None = None  # BT-146: net, of one unit or of the base quantity
    price_discount: Decimal | None = None  # BT-147
    gross_price: Decimal | None = None  # BT-148
    base_quantity: Decimal | None = None  # BT-149
    base_unit: str = ""  # BT-150
    vat_category: str = ""  # BT-151
    vat_rate: Decimal | None = None  # BT-152
    name: str = ""  # BT-153
    description: str = ""  # BT-154
    seller_item: str = ""  # BT-155
    buyer_item: str = ""  # BT-156
    standard_item: Identifier | None = None  # BT-157
    classifications: tuple[Classification, ...] = ()  # BT-158
    origin: str = ""  # BT-159
    attributes: tuple[Attribute, ...] = ()  # BG-32


@dataclass(frozen=True, slots=True, kw_only=True)
class VatRow:
    """The tax of one category and rate (BG-23)."""

    basis: Decimal | None = None  # BT-116
    tax: Decimal | None = None  # BT-117
    category: str = ""  # BT-118
    rate: Decimal | None = None  # BT-119
    reason: str = ""  # BT-120
    reason_code: str = ""  # BT-121


@dataclass(frozen=True, slots=True, kw_only=True)
class Account:
    """Where a transfer goes (BG-17)."""

    identifier: str = ""  # BT-84: an IBAN, or a national account number
    name: str = ""  # BT-85
    bank: str = ""  # BT-86: BIC


@dataclass(frozen=True, slots=True, kw_only=True)
class Payment:
    """How it is paid (BG-16): by transfer, card (BG-18) or direct debit (BG-19)."""

    means: str = ""  # BT-81: UNTDID 4461
    means_text: str = ""  # BT-82
    reference: str = ""  # BT-83
    accounts: tuple[Account, ...] = ()  # BG-17
    card_number: str = ""  # BT-87
    card_holder: str = ""  # BT-88
    mandate: str = ""  # BT-89
    creditor: str = ""  # BT-90
    debited_account: str = ""  # BT-91


@dataclass(frozen=True, slots=True, kw_only=True)
class Delivery:
    """Where and when it was delivered (BG-13)."""

    name: str = ""  # BT-70
    location: Identifier | None = None  # BT-71
    date: Day | None = None  # BT-72
    address: Address | None = None  # BG-15


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """Something that is said of the whole invoice (BG-1)."""

    text: str = ""  # BT-22
    subject: str = ""  # BT-21: UNTDID 4451


@dataclass(frozen=True, slots=True, kw_only=True)
class Preceding:
    """An earlier invoice (BG-3)."""

    number: str = ""  # BT-25
    date: Day | None = None  # BT-26


@dataclass(frozen=True, slots=True, kw_only=True)
class Supporting:
    """A document that supports the invoice (BG-24), at an address."""

    reference: str = ""  # BT-122
    description: str = ""  # BT-123
    address: str = ""  # BT-124


@dataclass(frozen=True, slots=True, kw_only=True)
class Totals:
    """The totals of the whole invoice (BG-22)."""

    lines: Decimal | None = None  # BT-106
    allowances: Decimal | None = None  # BT-107
    charges: Decimal | None = None  # BT-108
    without_vat: Decimal | None = None  # BT-109
    vat: Decimal | None = None  # BT-110
    vat_in_tax_currency: Decimal | None = None  # BT-111
    with_vat: Decimal | None = None  # BT-112
    paid: Decimal | None = None  # BT-113
    rounding: Decimal | None = None  # BT-114
    due: Decimal | None = None  # BT-115


@dataclass(frozen=True, slots=True, kw_only=True)
class InvoiceData:
    """What an invoice says."""

    number: str = ""  # BT-1
    date: Day | None = None  # BT-2
    kind: str = "380"  # BT-3: UNTDID 1001: 380 is a commercial invoice, 381 a credit note
    currency: str = ""  # BT-5
    tax_currency: str = ""  # BT-6
    tax_point: Day | None = None  # BT-7
    tax_point_code: str = ""  # BT-8
    due: Day | None = None  # BT-9
    buyer_reference: str = ""  # BT-10
    project: str = ""  # BT-11
    contract: str = ""  # BT-12
    order: str = ""  # BT-13
    sales_order: str = ""  # BT-14
    receiving_advice: str = ""  # BT-15
    despatch_advice: str = ""  # BT-16
    tender: str = ""  # BT-17
    object: Identifier | None = None  # BT-18
    buyer_account: str = ""  # BT-19
    terms: str = ""  # BT-20
    process: str = ""  # BT-23
    notes: tuple[Note, ...] = ()  # BG-1
    preceding: tuple[Preceding, ...] = ()  # BG-3
    seller: Party | None = None  # BG-4
    buyer: Party | None = None  # BG-7
    payee: Party | None = None  # BG-10
    tax_representative: Party | None = None  # BG-11
    delivery: Delivery | None = None  # BG-13
    period: Period | None = None  # BG-14
    payment: Payment | None = None  # BG-16
    allowances: tuple[Allowance, ...] = ()  # BG-20
    charges: tuple[Allowance, ...] = ()  # BG-21
    totals: Totals | None = None  # BG-22
    vat: tuple[VatRow, ...] = ()  # BG-23
    supporting: tuple[Supporting, ...] = ()  # BG-24
    lines: tuple[Line, ...] = ()  # BG-25


TRANSFERS: Final = ("30", "58")  # means of payment that are credit transfers (UNTDID 4461)
CREDIT_NOTES: Final = ("81", "83", "381", "396", "532")  # kinds of invoices whose amounts are owed to the buyer
