"""The business rules of EN 16931-1 (§6.4): what breaks each, at which field, and what would be right.

Rules of the form BR-CO-5 to 8 (a reason and its code mean the same) cannot be told by a program, nor whether codes are
in their lists beyond those of countries, currencies and categories.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from decimal import Decimal
from typing import Final, NamedTuple

from fleetquill.invoices.model import TRANSFERS, Allowance, InvoiceData, Line, Party, Period, VatRow
from fleetquill.invoices.profiles import Profile
from fleetquill.invoices.totals import NOTHING, bases, rounded, total

CARD: Final = re.compile(r"\D*\d{4,6}\D*$|.*[^\d]\d{4,6}$|^\d{4,6}$")
VAT_PREFIX: Final = re.compile(r"[A-Z]{2}")
ALL, LINES, HEAD = 3, 2, 1  # levels of profiles, from which on those are carried


class RuleFault(NamedTuple):
    """A rule that is broken: its number, the field, what is wrong, and what would be right."""

    rule: str
    field: str
    what: str
    right: str

    def __str__(self) -> str:
        return f"{self.rule}: {self.field}: {self.what} {self.right}".rstrip()


def broken_rules(invoice: InvoiceData, profile: Profile) -> list[RuleFault]:
    """The rules that an invoice breaks, as far as a profile carries what they are about, in their order."""
    found: list[RuleFault] = []
    for check in (_head, _parties, _totals, _decimals):
        found += check(invoice, profile)
    if profile.level >= HEAD:
        for further in (_documents, _payment, _vat, _categories):
            found += further(invoice, profile)
    if profile.level >= LINES:
        found += _lines(invoice)
    return found


def _missing(rule: str, field: str, term: str) -> RuleFault:
    return RuleFault(rule, field, f"it is missing ({term}).", "")


# ---- the head ----


def _head(invoice: InvoiceData, profile: Profile) -> Iterator[RuleFault]:
    if not invoice.number:
        yield _missing("BR-2", "number", "BT-1")
    if invoice.date is None:
        yield _missing("BR-3", "date", "BT-2")
    if not invoice.kind:
        yield _missing("BR-4", "kind", "BT-3")
    if not invoice.currency:
        yield _missing("BR-5", "currency", "BT-5")
    if profile.level < HEAD:
        return
    if invoice.tax_point is not None and invoice.tax_point_code:
        yield RuleFault("BR-CO-3", "tax_point_code", "the day of the tax is given, too.", "Give one of both.")
    yield from _period(invoice.period, "period", "BR-29", "BR-CO-19")
    due = invoice.totals.due if invoice.totals is not None else None
    if due is not None and due > 0 and invoice.due is None and not invoice.terms:
        yield RuleFault("BR-CO-25", "due", "neither a day (BT-9) nor terms (BT-20) are given.", "Give one of both.")
    if invoice.tax_currency and (invoice.totals is None or invoice.totals.vat_in_tax_currency is None):
        yield RuleFault("BR-53", "totals.vat_in_tax_currency", "it is missing (BT-111).", "Or leave out tax_currency.")


def _period(period: Period | None, field: str, order: str, filled: str) -> Iterator[RuleFault]:
    if period is None:
        return
    if period.start is None and period.end is None:
        yield RuleFault(filled, field, "it has neither a start nor an end.", "Give one of both.")
    elif period.start is not None and period.end is not None and period.end < period.start:
        yield RuleFault(order, f"{field}.end", f"{period.end} is before {period.start}.", "")


# ---- parties ----


def _parties(invoice: InvoiceData, profile: Profile) -> Iterator[RuleFault]:
    yield from _party(invoice.seller, "seller", ("BR-6", "BR-8", "BR-9"), address=True)
    yield from _party(invoice.buyer, "buyer", ("BR-7", "BR-10", "BR-11"), address=profile.level >= HEAD)
    for party, field, rule in ((invoice.seller, "seller", "BR-62"), (invoice.buyer, "buyer", "BR-63")):
        address = party.electronic_address if party is not None else None
        if address is not None and not address.scheme:
            yield RuleFault(
                rule, f"{field}.electronic_address.scheme", "it is missing.", "For an e-mail address it is EM."
            )
    seller = invoice.seller
    if seller is not None and not (seller.identifiers or seller.registration or seller.vat_identifier):
        yield RuleFault(
            "BR-CO-26", "seller", "nothing identifies it.", "Give identifiers, registration or vat_identifier."
        )
    representative = invoice.tax_representative
    for party, field in ((seller, "seller"), (invoice.buyer, "buyer"), (representative, "tax_representative")):
        identifier = party.vat_identifier if party is not None else ""
        if identifier and not _begins_with_country(identifier):
            yield RuleFault(
                "BR-CO-9", f"{field}.vat_identifier", f"'{identifier}' does not begin with the code of a country.",
                "Begin it with two letters of ISO 3166-1, or EL.",
            )  # fmt: skip
    if profile.level < HEAD:
        return
    if invoice.payee is not None and not invoice.payee.name:
        yield _missing("BR-17", "payee.name", "BT-59")
    if representative is not None:
        yield from _party(representative, "tax_representative", ("BR-18", "BR-19", "BR-20"), address=True)
        if not representative.vat_identifier:
            yield _missing("BR-56", "tax_representative.vat_identifier", "BT-63")
    place = invoice.delivery.address if invoice.delivery is not None else None
    if place is not None and not place.country:
        yield _missing("BR-57", "delivery.address.country", "BT-80")


def _party(party: Party | None, field: str, rules: tuple[str, str, str], *, address: bool) -> Iterator[RuleFault]:
    named, placed, in_country = rules
    if party is None or not party.name:
        yield RuleFault(named, f"{field}.name", "it is missing.", "")
    if not address:
        return
    if party is None or party.address is None:
        yield RuleFault(placed, f"{field}.address", "it is missing.", "")
    elif not party.address.country:
        yield RuleFault(in_country, f"{field}.address.country", "it is missing.", "Give two letters of ISO 3166-1.")


def _begins_with_country(identifier: str) -> bool:
    from babel import Locale

    code = identifier[:2]
    known = Locale("en").territories
    return bool(VAT_PREFIX.fullmatch(code)) and (code in known or code == "EL" or code[0] == "X")  # X: for users


# ---- totals ----


def _totals(invoice: InvoiceData, profile: Profile) -> Iterator[RuleFault]:
    totals = invoice.totals
    if totals is None:
        yield RuleFault("BR-13", "totals", "they are missing (BG-22).", "")
        return
    for rule, name, term, given in (
        ("BR-12", "lines", "BT-106", totals.lines if profile.level >= HEAD else NOTHING),
        ("BR-13", "without_vat", "BT-109", totals.without_vat),
        ("BR-14", "with_vat", "BT-112", totals.with_vat),
        ("BR-15", "due", "BT-115", totals.due),
    ):
        if given is None:
            yield _missing(rule, f"totals.{name}", term)
    taken, added = totals.allowances or NOTHING, totals.charges or NOTHING
    if profile.level >= LINES:
        net = sum((one.net_amount or NOTHING for one in invoice.lines), NOTHING)
        yield from _equal("BR-CO-10", "lines", totals.lines, net, "the sum of the net amounts of the lines")
    if profile.level >= HEAD:
        yield from _equal("BR-CO-11", "allowances", taken, total(invoice.allowances), "the sum of the allowances")
        yield from _equal("BR-CO-12", "charges", added, total(invoice.charges), "the sum of the charges")
        if totals.lines is not None:
            own = totals.lines - taken + added
            yield from _equal("BR-CO-13", "without_vat", totals.without_vat, own, "lines less allowances and charges")
        tax = sum((row.tax or NOTHING for row in invoice.vat), NOTHING)
        yield from _equal("BR-CO-14", "vat", totals.vat or NOTHING, tax, "the sum of the taxes of the breakdown")
    if totals.without_vat is not None:
        whole = totals.without_vat + (totals.vat or NOTHING)
        yield from _equal("BR-CO-15", "with_vat", totals.with_vat, whole, "the total without VAT and the VAT")
    if totals.with_vat is not None and profile.level >= HEAD:
        if totals.rounding and profile.level < ALL:
            what = f"the profile {profile.name} does not carry it."
            yield RuleFault("BR-CO-16", "totals.rounding", what, "Use EN 16931.")
        left = totals.with_vat - (totals.paid or NOTHING) + (totals.rounding or NOTHING)
        yield from _equal("BR-CO-16", "due", totals.due, left, "the total less what is paid, and the rounding")


def _equal(rule: str, name: str, given: Decimal | None, right: Decimal, words: str) -> Iterator[RuleFault]:
    if given is not None and given != right:
        yield RuleFault(rule, f"totals.{name}", f"it is {given}.", f"Right would be {right}: {words}.")


# ---- other documents, payment ----


def _documents(invoice: InvoiceData, profile: Profile) -> Iterator[RuleFault]:
    for number, one in enumerate(invoice.supporting, 1):
        if not one.reference:
            yield _missing("BR-52", f"supporting[{number}].reference", "BT-122")
    for number, earlier in enumerate(invoice.preceding, 1):
        if not earlier.number:
            yield _missing("BR-55", f"preceding[{number}].number", "BT-25")
    for kind, given, amount, category, reason in (
        ("allowances", invoice.allowances, "BR-31", "BR-32", "BR-33"),
        ("charges", invoice.charges, "BR-36", "BR-37", "BR-38"),
    ):
        for number, own in enumerate(given, 1):
            field = f"{kind}[{number}]"
            yield from _allowance(own, field, amount, reason)
            if not own.vat_category:
                yield RuleFault(category, f"{field}.vat_category", "it is missing.", "Give S, Z, E, AE, K, G or O.")


def _allowance(own: Allowance, field: str, amount: str, reason: str) -> Iterator[RuleFault]:
    if own.amount is None:
        yield RuleFault(amount, f"{field}.amount", "it is missing.", "")
    if not own.reason and not own.reason_code:
        yield RuleFault(reason, field, "it has neither a reason nor the code of one.", "Give one of both.")


def _payment(invoice: InvoiceData, profile: Profile) -> Iterator[RuleFault]:
    payment = invoice.payment
    if payment is None:
        return
    if not payment.means:
        yield RuleFault("BR-49", "payment.means", "it is missing (BT-81).", "58 is a SEPA transfer, 30 another.")
    if payment.means in TRANSFERS and not payment.accounts:
        yield RuleFault("BR-61", "payment.accounts", "there are none, and it is paid by transfer.", "Give an IBAN.")
    for number, account in enumerate(payment.accounts, 1):
        if not account.identifier:
            yield _missing("BR-50", f"payment.accounts[{number}].identifier", "BT-84")
    if payment.card_number and not CARD.match(payment.card_number):
        yield RuleFault(
            "BR-51", "payment.card_number", "it has more than the last digits.", "Give the last 4 to 6 of them."
        )


# ---- lines ----


def _lines(invoice: InvoiceData) -> Iterator[RuleFault]:
    if not invoice.lines:
        yield RuleFault("BR-16", "lines", "there is none.", "An invoice has at least one.")
    for number, line in enumerate(invoice.lines, 1):
        yield from _line(line, f"lines[{number}]")


def _line(line: Line, field: str) -> Iterator[RuleFault]:
    for rule, name, term, given in (
        ("BR-21", "identifier", "BT-126", line.identifier),
        ("BR-22", "quantity", "BT-129", line.quantity),
        ("BR-23", "unit", "BT-130", line.unit),
        ("BR-24", "net_amount", "BT-131", line.net_amount),
        ("BR-25", "name", "BT-153", line.name),
        ("BR-26", "price", "BT-146", line.price),
        ("BR-CO-4", "vat_category", "BT-151", line.vat_category),
    ):
        if given in (None, ""):
            yield _missing(rule, f"{field}.{name}", term)
    if line.price is not None and line.price < 0:
        yield RuleFault("BR-27", f"{field}.price", f"{line.price} is below nought.", "Make the quantity negative.")
    if line.gross_price is not None and line.gross_price < 0:
        yield RuleFault("BR-28", f"{field}.gross_price", f"{line.gross_price} is below nought.", "")
    yield from _period(line.period, f"{field}.period", "BR-30", "BR-CO-20")
    for kind, parts, amount, reason in (
        ("allowances", line.allowances, "BR-41", "BR-42"),
        ("charges", line.charges, "BR-43", "BR-44"),
    ):
        for number, own in enumerate(parts, 1):
            yield from _allowance(own, f"{field}.{kind}[{number}]", amount, reason)
    for number, attribute in enumerate(line.attributes, 1):
        if not attribute.name or not attribute.value:
            yield RuleFault("BR-54", f"{field}.attributes[{number}]", "it has not both a name and a value.", "")
    if line.standard_item is not None and not line.standard_item.scheme:
        yield RuleFault("BR-64", f"{field}.standard_item.scheme", "it is missing.", "For a GTIN it is 0160.")
    for number, kind_of_item in enumerate(line.classifications, 1):
        if not kind_of_item.scheme:
            yield RuleFault("BR-65", f"{field}.classifications[{number}].scheme", "it is missing.", "")


# ---- the tax ----


def _vat(invoice: InvoiceData, profile: Profile) -> Iterator[RuleFault]:
    if not invoice.vat:
        yield RuleFault("BR-CO-18", "vat", "there is no breakdown of the tax (BG-23).", "")
    for number, row in enumerate(invoice.vat, 1):
        field = f"vat[{number}]"
        for rule, name, given in (
            ("BR-45", "basis", row.basis), ("BR-46", "tax", row.tax), ("BR-47", "category", row.category),
        ):  # fmt: skip
            if given in (None, ""):
                yield RuleFault(rule, f"{field}.{name}", "it is missing.", "")
        if row.rate is None and row.category != "O":
            yield RuleFault("BR-48", f"{field}.rate", "it is missing (BT-119).", "")
        if row.basis is not None and row.tax is not None:
            right = rounded(row.basis * (row.rate or NOTHING) / 100)
            if row.tax != right:
                yield RuleFault("BR-CO-17", f"{field}.tax", f"it is {row.tax}.", f"Right would be {right}.")


class Category(NamedTuple):
    """A category of VAT (UNTDID 5305): how its rules are numbered, its name, and what it asks for."""

    code: str
    rules: str
    name: str
    taxed: bool = False
    reason: bool = False  # whether a reason must be given for the tax that is not charged
    buyer: bool = False  # whether the buyer must be identified, too


CATEGORIES: Final = (
    Category("S", "BR-S", "the standard rate", taxed=True),
    Category("Z", "BR-Z", "a rate of nought"),
    Category("E", "BR-E", "exempt", reason=True),
    Category("AE", "BR-AE", "reverse charge", reason=True, buyer=True),
    Category("K", "BR-IC", "supply within the Community", reason=True, buyer=True),
    Category("G", "BR-G", "export", reason=True),
    Category("O", "BR-O", "outside of the scope of VAT", reason=True),
)


def _categories(invoice: InvoiceData, profile: Profile) -> Iterator[RuleFault]:
    known = {category.code: category for category in CATEGORIES}
    used = bases(invoice)
    for category in CATEGORIES:
        rows = [(f"vat[{number}]", row) for number, row in enumerate(invoice.vat, 1) if row.category == category.code]
        rates = {rate for code, rate in used if code == category.code}
        if rates or rows:
            yield from _category(invoice, category, rows, rates, used, lines=profile.level >= LINES)
    for field, code in _asked(invoice):
        if code and code not in known:
            what = f"'{code}' is no category of VAT that is known here."
            yield RuleFault("BR-CL-17", field, what, f"It may be {', '.join(known)}.")


def _asked(invoice: InvoiceData) -> Iterator[tuple[str, str]]:
    """The fields with a category."""
    for number, line in enumerate(invoice.lines, 1):
        yield f"lines[{number}].vat_category", line.vat_category
    for kind, given in (("allowances", invoice.allowances), ("charges", invoice.charges)):
        for number, own in enumerate(given, 1):
            yield f"{kind}[{number}].vat_category", own.vat_category
    for number, row in enumerate(invoice.vat, 1):
        yield f"vat[{number}].category", row.category


def _category(
    invoice: InvoiceData,
    category: Category,
    rows: Sequence[tuple[str, VatRow]],
    rates: set[Decimal | None],
    used: dict[tuple[str, Decimal | None], Decimal],
    *,
    lines: bool,
) -> Iterator[RuleFault]:
    rule, code = category.rules, category.code
    if rates and not rows:
        yield RuleFault(f"{rule}-1", "vat", f"no row is of the category {code} ({category.name}).", "Add one.")
    elif len(rows) > 1 and not category.taxed:
        yield RuleFault(f"{rule}-1", "vat", f"{len(rows)} rows are of the category {code}.", "There is one of them.")
    yield from _identified(invoice, category)
    yield from _rates(invoice, category)
    for field, row in rows:
        if lines or code != "S":
            right = used.get((code, _rate_of(row)), NOTHING)
            if lines and row.basis is not None and row.basis != right:
                yield RuleFault(f"{rule}-8", f"{field}.basis", f"it is {row.basis}.", f"Right would be {right}.")
        tax = rounded((row.basis or NOTHING) * (row.rate or NOTHING) / 100) if category.taxed else NOTHING
        if row.tax is not None and row.tax != tax:
            yield RuleFault(f"{rule}-9", f"{field}.tax", f"it is {row.tax}.", f"Right would be {tax}.")
        has_reason = bool(row.reason or row.reason_code)
        if category.reason and not has_reason:
            yield RuleFault(
                f"{rule}-10",
                f"{field}.reason",
                "nothing says why no tax is charged.",
                f"Say it, such as '{category.name}'.",
            )
        elif has_reason and not category.reason:
            yield RuleFault(f"{rule}-10", f"{field}.reason", f"the category {code} has none.", "Leave it out.")
    if code == "K":
        yield from _within_community(invoice)
    if code == "O" and rows and len(invoice.vat) > len(rows):
        yield RuleFault("BR-O-11", "vat", "a category O stands with others.", "Make an invoice of its own of it.")
        for number, (field, own) in zip((12, 13, 14), _kinds_of(invoice), strict=True):
            if any(one.vat_category not in ("", "O") for one in own):
                yield RuleFault(f"BR-O-{number}", field, "some are of another category than O.", "")


def _rate_of(row: VatRow) -> Decimal | None:
    return None if row.category == "O" else (row.rate or NOTHING).normalize()


def _kinds_of(invoice: InvoiceData) -> tuple[tuple[str, Sequence[Line | Allowance]], ...]:
    """What has a category, in the order in which rules are numbered."""
    return (("lines", invoice.lines), ("allowances", invoice.allowances), ("charges", invoice.charges))


def _identified(invoice: InvoiceData, category: Category) -> Iterator[RuleFault]:
    """BR-*-2 to 4: who sells, and where asked who buys, has a number for the tax; with O nobody has."""
    seller, buyer, representative = invoice.seller, invoice.buyer, invoice.tax_representative
    own = seller.vat_identifier if seller is not None else ""
    local = seller.tax_registration if seller is not None else ""
    other = representative.vat_identifier if representative is not None else ""
    bought = buyer.vat_identifier if buyer is not None else ""
    registered = buyer is not None and buyer.registration is not None
    for number, (field, given) in zip((2, 3, 4), _kinds_of(invoice), strict=True):
        if not any(one.vat_category == category.code for one in given):
            continue
        rule = f"{category.rules}-{number}"
        if category.code == "O":
            if own or other or bought:
                what = f"{field} are outside of the scope of VAT."
                yield RuleFault(rule, "seller.vat_identifier", what, "Leave out the identifiers for VAT.")
            continue
        strict = category.code in ("K", "G")
        what = f"it is missing, and {field} are of the category {category.code}."
        if not (own or other or (local and not strict)):
            more = "" if strict else " or tax_registration"
            right = f"Give it{more}, or that of a tax_representative."
            yield RuleFault(rule, "seller.vat_identifier", what, right)
        if category.buyer and not (bought or (registered and category.code == "AE")):
            yield RuleFault(rule, "buyer.vat_identifier", what, "Give it.")


def _rates(invoice: InvoiceData, category: Category) -> Iterator[RuleFault]:
    """BR-*-5 to 7: the rates of lines, allowances and charges."""
    for number, (kind, given) in zip((5, 6, 7), _kinds_of(invoice), strict=True):
        for place, one in enumerate(given, 1):
            if one.vat_category != category.code:
                continue
            field, rate = f"{kind}[{place}].vat_rate", one.vat_rate
            rule = f"{category.rules}-{number}"
            if category.taxed and (rate is None or rate <= 0):
                yield RuleFault(rule, field, f"it is {rate}.", "Give a rate above nought, such as 21.")
            elif category.code == "O" and rate is not None:
                yield RuleFault(rule, field, f"it is {rate}.", "Leave it out.")
            elif not category.taxed and category.code != "O" and rate != 0:
                yield RuleFault(rule, field, f"it is {rate}.", "Give 0.")


def _within_community(invoice: InvoiceData) -> Iterator[RuleFault]:
    delivery = invoice.delivery
    if (delivery is None or delivery.date is None) and invoice.period is None:
        yield RuleFault("BR-IC-11", "delivery.date", "neither that nor a period is given.", "Give one of both.")
    if delivery is None or delivery.address is None or not delivery.address.country:
        yield RuleFault("BR-IC-12", "delivery.address.country", "it is missing (BT-80).", "")


# ---- decimals ----


def _decimals(invoice: InvoiceData, profile: Profile) -> Iterator[RuleFault]:
    """BR-DEC-*: amounts have two decimal places at most."""
    for rule, field, amount in _amounts(invoice):
        exponent = amount.normalize().as_tuple().exponent if amount is not None else 0
        if isinstance(exponent, int) and exponent < -2:
            what, right = f"{amount} has more than two decimal places.", rounded(amount or NOTHING)
            yield RuleFault(f"BR-DEC-{rule:02}", field, what, f"Right would be {right}.")


def _amounts(invoice: InvoiceData) -> Iterator[tuple[int, str, Decimal | None]]:
    for kind, given, first in (("allowances", invoice.allowances, 1), ("charges", invoice.charges, 5)):
        for number, own in enumerate(given, 1):
            yield first, f"{kind}[{number}].amount", own.amount
            yield first + 1, f"{kind}[{number}].base", own.base
    totals = invoice.totals
    if totals is not None:
        for rule, name in (
            (9, "lines"), (10, "allowances"), (11, "charges"), (12, "without_vat"), (13, "vat"), (14, "with_vat"),
            (15, "vat_in_tax_currency"), (16, "paid"), (17, "rounding"), (18, "due"),
        ):  # fmt: skip
            yield rule, f"totals.{name}", getattr(totals, name)
    for number, row in enumerate(invoice.vat, 1):
        yield 19, f"vat[{number}].basis", row.basis
        yield 20, f"vat[{number}].tax", row.tax
    for number, line in enumerate(invoice.lines, 1):
        field = f"lines[{number}]"
        yield 23, f"{field}.net_amount", line.net_amount
        for kind, given, first in (("allowances", line.allowances, 24), ("charges", line.charges, 27)):
            for place, own in enumerate(given, 1):
                yield first, f"{field}.{kind}[{place}].amount", own.amount
                yield first + 1, f"{field}.{kind}[{place}].base", own.base
