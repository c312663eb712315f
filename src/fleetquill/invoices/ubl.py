"""Invoices as UBL 2.1 (ISO/IEC 19845): the other syntax of EN 16931 (CEN/TS 16931-3-2)."""

from __future__ import annotations

from decimal import Decimal
from typing import Final

from fleetquill.invoices.model import (
    CREDIT_NOTES,
    Address,
    Allowance,
    Identifier,
    InvoiceData,
    Line,
    Party,
    Payment,
    Period,
)
from fleetquill.invoices.profiles import Profile
from fleetquill.invoices.trees import Branch, document, money, root

COMMON: Final = "urn:oasis:names:specification:ubl:schema:xsd:"
SHARED: Final = {"cac": f"{COMMON}CommonAggregateComponents-2", "cbc": f"{COMMON}CommonBasicComponents-2"}


class _Kind:
    """An invoice, or a credit note: the same under other names."""

    def __init__(self, *, credit: bool) -> None:
        self.root = "CreditNote" if credit else "Invoice"
        self.type_code = f"{self.root}TypeCode"
        self.line = f"{self.root}Line"
        self.quantity = "CreditedQuantity" if credit else "InvoicedQuantity"
        self.is_credit = credit


def ubl(invoice: InvoiceData, profile: Profile) -> bytes:
    """The XML of an invoice. Profiles without lines have no form of this syntax: it holds what there is."""
    kind = _Kind(credit=invoice.kind in CREDIT_NOTES)
    tree = root(f"ubl:{kind.root}", {"ubl": f"{COMMON}{kind.root}-2", **SHARED}, plain="ubl")
    tree.add("cbc:CustomizationID", profile.identifier)
    tree.add("cbc:ProfileID", invoice.process)
    tree.add("cbc:ID", invoice.number)
    tree.add("cbc:IssueDate", invoice.date)
    if not kind.is_credit:
        tree.add("cbc:DueDate", invoice.due)
    tree.add(f"cbc:{kind.type_code}", invoice.kind)
    for note in invoice.notes:
        tree.add("cbc:Note", f"#{note.subject}#{note.text}" if note.subject else note.text)
    tree.add("cbc:TaxPointDate", invoice.tax_point)
    tree.add("cbc:DocumentCurrencyCode", invoice.currency)
    tree.add("cbc:TaxCurrencyCode", invoice.tax_currency)
    tree.add("cbc:AccountingCost", invoice.buyer_account)
    tree.add("cbc:BuyerReference", invoice.buyer_reference)
    _period(tree, invoice.period, invoice.tax_point_code)
    order = tree.branch("cac:OrderReference")
    order.add("cbc:ID", invoice.order)
    order.add("cbc:SalesOrderID", invoice.sales_order)
    for earlier in invoice.preceding:
        reference = tree.branch("cac:BillingReference").branch("cac:InvoiceDocumentReference")
        reference.add("cbc:ID", earlier.number)
        reference.add("cbc:IssueDate", earlier.date)
    tree.add("cac:DespatchDocumentReference/cbc:ID", invoice.despatch_advice)
    tree.add("cac:ReceiptDocumentReference/cbc:ID", invoice.receiving_advice)
    tree.add("cac:OriginatorDocumentReference/cbc:ID", invoice.tender)
    tree.add("cac:ContractDocumentReference/cbc:ID", invoice.contract)
    _object(tree, "cac:AdditionalDocumentReference", invoice.object)
    for one in invoice.supporting:
        reference = tree.branch("cac:AdditionalDocumentReference")
        reference.add("cbc:ID", one.reference)
        reference.add("cbc:DocumentDescription", one.description)
        reference.add("cac:Attachment/cac:ExternalReference/cbc:URI", one.address)
    tree.add("cac:ProjectReference/cbc:ID", invoice.project)
    _party(tree.branch("cac:AccountingSupplierParty"), invoice.seller, sells=True)
    _party(tree.branch("cac:AccountingCustomerParty"), invoice.buyer)
    _payee(tree, invoice.payee)
    _representative(tree, invoice.tax_representative)
    _delivery(tree, invoice)
    _payment(tree, invoice)
    tree.add("cac:PaymentTerms/cbc:Note", invoice.terms)
    for charge in invoice.charges:
        _allowance(tree, charge, invoice.currency, added=True, taxed=True)
    for allowance in invoice.allowances:
        _allowance(tree, allowance, invoice.currency, added=False, taxed=True)
    _taxes(tree, invoice)
    _totals(tree, invoice)
    for line in invoice.lines:
        _line(tree.branch(f"cac:{kind.line}"), line, invoice.currency, kind)
    return document(tree)


def _amount(around: Branch, name: str, amount: Decimal | None, currency: str) -> None:
    around.add(name, money(amount), currencyID=currency)


def _identifier(around: Branch, name: str, given: Identifier | None) -> None:
    if given is not None:
        around.add(name, given.value, schemeID=given.scheme)


def _object(around: Branch, name: str, given: Identifier | None) -> None:
    """What is invoiced, by its own number (UNTDID 1001: 130)."""
    if given is not None:
        own = around.branch(name)
        own.add("cbc:ID", given.value, schemeID=given.scheme)
        own.add("cbc:DocumentTypeCode", "130")


def _period(around: Branch, period: Period | None, code: str = "") -> None:
    own = around.branch("cac:InvoicePeriod")
    if period is not None:
        own.add("cbc:StartDate", period.start)
        own.add("cbc:EndDate", period.end)
    own.add("cbc:DescriptionCode", code)


# ---- parties ----


def _party(around: Branch, party: Party | None, *, sells: bool = False) -> None:
    if party is None:
        return
    own = around.branch("cac:Party")
    _identifier(own, "cbc:EndpointID", party.electronic_address)
    for identifier in party.identifiers:
        _identifier(own.branch("cac:PartyIdentification"), "cbc:ID", identifier)
    own.add("cac:PartyName/cbc:Name", party.trading_name)
    if party.address is not None:
        _address(own.branch("cac:PostalAddress"), party.address)
    _tax_scheme(own, party.vat_identifier, "VAT")
    if sells:
        _tax_scheme(own, party.tax_registration, "TAX")
    legal = own.branch("cac:PartyLegalEntity")
    legal.add("cbc:RegistrationName", party.name)
    _identifier(legal, "cbc:CompanyID", party.registration)
    if sells:
        legal.add("cbc:CompanyLegalForm", party.legal_information)
    if party.contact is not None:
        contact = own.branch("cac:Contact")
        contact.add("cbc:Name", party.contact.name)
        contact.add("cbc:Telephone", party.contact.phone)
        contact.add("cbc:ElectronicMail", party.contact.email)


def _tax_scheme(around: Branch, number: str, scheme: str) -> None:
    if number:
        own = around.branch("cac:PartyTaxScheme")
        own.add("cbc:CompanyID", number)
        own.add("cac:TaxScheme/cbc:ID", scheme)


def _address(own: Branch, address: Address) -> None:
    lines = [*address.lines, "", "", ""]
    own.add("cbc:StreetName", lines[0])
    own.add("cbc:AdditionalStreetName", lines[1])
    own.add("cbc:CityName", address.city)
    own.add("cbc:PostalZone", address.post_code)
    own.add("cbc:CountrySubentity", address.region)
    own.add("cac:AddressLine/cbc:Line", lines[2])
    own.add("cac:Country/cbc:IdentificationCode", address.country)


def _payee(tree: Branch, payee: Party | None) -> None:
    if payee is not None:
        own = tree.branch("cac:PayeeParty")
        for identifier in payee.identifiers:
            _identifier(own.branch("cac:PartyIdentification"), "cbc:ID", identifier)
        own.add("cac:PartyName/cbc:Name", payee.name)
        _identifier(own.branch("cac:PartyLegalEntity"), "cbc:CompanyID", payee.registration)


def _representative(tree: Branch, party: Party | None) -> None:
    if party is not None:
        own = tree.branch("cac:TaxRepresentativeParty")
        own.add("cac:PartyName/cbc:Name", party.name)
        if party.address is not None:
            _address(own.branch("cac:PostalAddress"), party.address)
        _tax_scheme(own, party.vat_identifier, "VAT")


def _delivery(tree: Branch, invoice: InvoiceData) -> None:
    given = invoice.delivery
    if given is None:
        return
    own = tree.branch("cac:Delivery")
    own.add("cbc:ActualDeliveryDate", given.date)
    location = own.branch("cac:DeliveryLocation")
    _identifier(location, "cbc:ID", given.location)
    if given.address is not None:
        _address(location.branch("cac:Address"), given.address)
    own.add("cac:DeliveryParty/cac:PartyName/cbc:Name", given.name)


# ---- payment ----


def _payment(tree: Branch, invoice: InvoiceData) -> None:
    payment = invoice.payment
    if payment is None:
        return
    for account in payment.accounts or (None,):
        own = tree.branch("cac:PaymentMeans")
        own.add("cbc:PaymentMeansCode", payment.means, name=payment.means_text)
        if invoice.kind in CREDIT_NOTES:
            own.add("cbc:PaymentDueDate", invoice.due)
        own.add("cbc:PaymentID", payment.reference)
        _card(own, payment)
        if account is not None:
            to = own.branch("cac:PayeeFinancialAccount")
            to.add("cbc:ID", account.identifier.replace(" ", ""))
            to.add("cbc:Name", account.name)
            to.add("cac:FinancialInstitutionBranch/cbc:ID", account.bank)
        mandate = own.branch("cac:PaymentMandate")
        mandate.add("cbc:ID", payment.mandate)
        mandate.add("cac:PayerFinancialAccount/cbc:ID", payment.debited_account)


def _card(own: Branch, payment: Payment) -> None:
    if payment.card_number:
        card = own.branch("cac:CardAccount")
        card.add("cbc:PrimaryAccountNumberID", payment.card_number)
        card.add("cbc:NetworkID", "unknown")  # which the schema asks for and the model does not have
        card.add("cbc:HolderName", payment.card_holder)


def _allowance(around: Branch, given: Allowance, currency: str, *, added: bool, taxed: bool) -> None:
    own = around.branch("cac:AllowanceCharge")
    own.add("cbc:ChargeIndicator", "true" if added else "false")
    own.add("cbc:AllowanceChargeReasonCode", given.reason_code)
    own.add("cbc:AllowanceChargeReason", given.reason)
    own.add("cbc:MultiplierFactorNumeric", given.percent)
    _amount(own, "cbc:Amount", given.amount, currency)
    _amount(own, "cbc:BaseAmount", given.base, currency)
    if taxed:
        _category(own.branch("cac:TaxCategory"), given.vat_category, given.vat_rate)


def _category(own: Branch, category: str, rate: Decimal | None, reason: str = "", code: str = "") -> None:
    own.add("cbc:ID", category)
    own.add("cbc:Percent", rate)
    own.add("cbc:TaxExemptionReasonCode", code)
    own.add("cbc:TaxExemptionReason", reason)
    own.add("cac:TaxScheme/cbc:ID", "VAT" if category else "")


def _taxes(tree: Branch, invoice: InvoiceData) -> None:
    totals = invoice.totals
    own = tree.branch("cac:TaxTotal")
    _amount(own, "cbc:TaxAmount", totals.vat if totals is not None else None, invoice.currency)
    for row in invoice.vat:
        part = own.branch("cac:TaxSubtotal")
        _amount(part, "cbc:TaxableAmount", row.basis, invoice.currency)
        _amount(part, "cbc:TaxAmount", row.tax, invoice.currency)
        _category(part.branch("cac:TaxCategory"), row.category, row.rate, row.reason, row.reason_code)
    if totals is not None and totals.vat_in_tax_currency is not None:
        other = tree.branch("cac:TaxTotal")
        _amount(other, "cbc:TaxAmount", totals.vat_in_tax_currency, invoice.tax_currency)


def _totals(tree: Branch, invoice: InvoiceData) -> None:
    totals = invoice.totals
    if totals is None:
        return
    own = tree.branch("cac:LegalMonetaryTotal")
    for name, given in (
        ("LineExtensionAmount", totals.lines),
        ("TaxExclusiveAmount", totals.without_vat),
        ("TaxInclusiveAmount", totals.with_vat),
        ("AllowanceTotalAmount", totals.allowances),
        ("ChargeTotalAmount", totals.charges),
        ("PrepaidAmount", totals.paid),
        ("PayableRoundingAmount", totals.rounding),
        ("PayableAmount", totals.due),
    ):
        _amount(own, f"cbc:{name}", given, invoice.currency)


# ---- lines ----


def _line(own: Branch, line: Line, currency: str, kind: _Kind) -> None:
    own.add("cbc:ID", line.identifier)
    own.add("cbc:Note", line.note)
    own.add(f"cbc:{kind.quantity}", line.quantity, unitCode=line.unit)
    _amount(own, "cbc:LineExtensionAmount", line.net_amount, currency)
    own.add("cbc:AccountingCost", line.buyer_account)
    _period(own, line.period)
    own.add("cac:OrderLineReference/cbc:LineID", line.order_line)
    _object(own, "cac:DocumentReference", line.object)
    for charge in line.charges:
        _allowance(own, charge, currency, added=True, taxed=False)
    for allowance in line.allowances:
        _allowance(own, allowance, currency, added=False, taxed=False)
    item = own.branch("cac:Item")
    item.add("cbc:Description", line.description)
    item.add("cbc:Name", line.name)
    item.add("cac:BuyersItemIdentification/cbc:ID", line.buyer_item)
    item.add("cac:SellersItemIdentification/cbc:ID", line.seller_item)
    if line.standard_item is not None:
        _identifier(item.branch("cac:StandardItemIdentification"), "cbc:ID", line.standard_item)
    item.add("cac:OriginCountry/cbc:IdentificationCode", line.origin)
    for one in line.classifications:
        item.add("cac:CommodityClassification/cbc:ItemClassificationCode", one.code, listID=one.scheme,
                 listVersionID=one.version)  # fmt: skip
    _category(item.branch("cac:ClassifiedTaxCategory"), line.vat_category, line.vat_rate)
    for attribute in line.attributes:
        pair = item.branch("cac:AdditionalItemProperty")
        pair.add("cbc:Name", attribute.name)
        pair.add("cbc:Value", attribute.value)
    price = own.branch("cac:Price")
    price.add("cbc:PriceAmount", line.price, currencyID=currency)
    price.add("cbc:BaseQuantity", line.base_quantity, unitCode=line.base_unit or line.unit)
    if line.gross_price is not None and line.price_discount is not None:
        discount = price.branch("cac:AllowanceCharge")
        discount.add("cbc:ChargeIndicator", "false")
        discount.add("cbc:Amount", line.price_discount, currencyID=currency)
        discount.add("cbc:BaseAmount", line.gross_price, currencyID=currency)
