"""Invoices as UN/CEFACT Cross Industry Invoices, D16B: the syntax that hybrid PDFs carry (CEN/TS 16931-3-3)."""

from __future__ import annotations

from datetime import date
from typing import Final

from fleetquill.invoices.model import Address, Allowance, Identifier, InvoiceData, Line, Party, Period, VatRow
from fleetquill.invoices.profiles import Profile
from fleetquill.invoices.trees import Branch, document, money, root

SPACES: Final = {
    "rsm": "urn:un:unece:uncefact:data:standard:CrossIndustryInvoice:100",
    "ram": "urn:un:unece:uncefact:data:standard:ReusableAggregateBusinessInformationEntity:100",
    "qdt": "urn:un:unece:uncefact:data:standard:QualifiedDataType:100",
    "udt": "urn:un:unece:uncefact:data:standard:UnqualifiedDataType:100",
}
DAY: Final = "102"  # the format of dates: YYYYMMDD (UNTDID 2379)
HEAD, LINES, ALL = 1, 2, 3  # levels of profiles
SUPPORTING, TENDER, OBJECT = "916", "50", "130"  # kinds of referenced documents (UNTDID 1001)


def cii(invoice: InvoiceData, profile: Profile) -> bytes:
    """The XML of an invoice, with as much of it as a profile carries."""
    tree = root("rsm:CrossIndustryInvoice", SPACES)
    context = tree.branch("rsm:ExchangedDocumentContext")
    context.add("ram:BusinessProcessSpecifiedDocumentContextParameter/ram:ID", invoice.process)
    context.add("ram:GuidelineSpecifiedDocumentContextParameter/ram:ID", profile.identifier)
    head = tree.branch("rsm:ExchangedDocument")
    head.add("ram:ID", invoice.number)
    head.add("ram:TypeCode", invoice.kind)
    _day(head, "ram:IssueDateTime", invoice.date)
    for note in invoice.notes if profile.level >= HEAD else ():
        own = head.branch("ram:IncludedNote")
        own.add("ram:Content", note.text)
        own.add("ram:SubjectCode", note.subject)
    trade = tree.branch("rsm:SupplyChainTradeTransaction")
    for line in invoice.lines if profile.level >= LINES else ():
        _line(trade.branch("ram:IncludedSupplyChainTradeLineItem"), line, profile.level)
    _agreement(trade.branch("ram:ApplicableHeaderTradeAgreement"), invoice, profile.level)
    delivery = trade.branch("ram:ApplicableHeaderTradeDelivery")
    if profile.level >= HEAD:
        _delivery(delivery, invoice, profile.level)
    _settlement(trade.branch("ram:ApplicableHeaderTradeSettlement"), invoice, profile.level)
    return document(tree, keep="ApplicableHeaderTradeDelivery")  # which has to be there, if empty


def _day(around: Branch, name: str, day: date | None, kind: str = "udt:DateTimeString") -> None:
    if day is not None:
        around.add(f"{name}/{kind}", day.strftime("%Y%m%d"), format=DAY)


def _identifier(around: Branch, name: str, given: Identifier | None) -> None:
    if given is not None:
        around.add(name, given.value, schemeID=given.scheme)


def _period(around: Branch, given: Period | None) -> None:
    if given is not None:
        own = around.branch("ram:BillingSpecifiedPeriod")
        _day(own, "ram:StartDateTime", given.start)
        _day(own, "ram:EndDateTime", given.end)


# ---- lines ----


def _line(item: Branch, line: Line, level: int) -> None:
    head = item.branch("ram:AssociatedDocumentLineDocument")
    head.add("ram:LineID", line.identifier)
    head.add("ram:IncludedNote/ram:Content", line.note)
    product = item.branch("ram:SpecifiedTradeProduct")
    _identifier(product, "ram:GlobalID", line.standard_item)
    if level >= ALL:
        product.add("ram:SellerAssignedID", line.seller_item)
        product.add("ram:BuyerAssignedID", line.buyer_item)
    product.add("ram:Name", line.name)
    if level >= ALL:
        product.add("ram:Description", line.description)
        for attribute in line.attributes:
            own = product.branch("ram:ApplicableProductCharacteristic")
            own.add("ram:Description", attribute.name)
            own.add("ram:Value", attribute.value)
        for kind in line.classifications:
            product.add("ram:DesignatedProductClassification/ram:ClassCode", kind.code, listID=kind.scheme,
                        listVersionID=kind.version)  # fmt: skip
        product.add("ram:OriginTradeCountry/ram:ID", line.origin)
    agreement = item.branch("ram:SpecifiedLineTradeAgreement")
    if level >= ALL:
        agreement.add("ram:BuyerOrderReferencedDocument/ram:LineID", line.order_line)
    if line.gross_price is not None:
        _price(agreement.branch("ram:GrossPriceProductTradePrice"), line, gross=True)
    _price(agreement.branch("ram:NetPriceProductTradePrice"), line, gross=False)
    item.add("ram:SpecifiedLineTradeDelivery/ram:BilledQuantity", line.quantity, unitCode=line.unit)
    settlement = item.branch("ram:SpecifiedLineTradeSettlement")
    tax = settlement.branch("ram:ApplicableTradeTax")
    tax.add("ram:TypeCode", "VAT")
    tax.add("ram:CategoryCode", line.vat_category)
    tax.add("ram:RateApplicablePercent", line.vat_rate)
    _period(settlement, line.period)
    for allowance in line.allowances:
        _allowance(settlement, allowance, added=False, taxed=False)
    for charge in line.charges:
        _allowance(settlement, charge, added=True, taxed=False)
    settlement.add("ram:SpecifiedTradeSettlementLineMonetarySummation/ram:LineTotalAmount", money(line.net_amount))
    if level >= ALL:
        if line.object is not None:
            own = settlement.branch("ram:AdditionalReferencedDocument")
            own.add("ram:IssuerAssignedID", line.object.value)
            own.add("ram:TypeCode", OBJECT)
            own.add("ram:ReferenceTypeCode", line.object.scheme)
        settlement.add("ram:ReceivableSpecifiedTradeAccountingAccount/ram:ID", line.buyer_account)


def _price(place: Branch, line: Line, *, gross: bool) -> None:
    place.add("ram:ChargeAmount", line.gross_price if gross else line.price)
    place.add("ram:BasisQuantity", line.base_quantity, unitCode=line.base_unit or line.unit)
    if gross and line.price_discount is not None:
        own = place.branch("ram:AppliedTradeAllowanceCharge")
        own.add("ram:ChargeIndicator/udt:Indicator", "false")
        own.add("ram:ActualAmount", line.price_discount)


def _allowance(around: Branch, given: Allowance, *, added: bool, taxed: bool) -> None:
    own = around.branch("ram:SpecifiedTradeAllowanceCharge")
    own.add("ram:ChargeIndicator/udt:Indicator", "true" if added else "false")
    own.add("ram:CalculationPercent", given.percent)
    own.add("ram:BasisAmount", money(given.base))
    own.add("ram:ActualAmount", money(given.amount))
    own.add("ram:ReasonCode", given.reason_code)
    own.add("ram:Reason", given.reason)
    if taxed:
        tax = own.branch("ram:CategoryTradeTax")
        tax.add("ram:TypeCode", "VAT")
        tax.add("ram:CategoryCode", given.vat_category)
        tax.add("ram:RateApplicablePercent", given.vat_rate)


# ---- the head ----


def _agreement(agreement: Branch, invoice: InvoiceData, level: int) -> None:
    agreement.add("ram:BuyerReference", invoice.buyer_reference)
    _party(agreement, "ram:SellerTradeParty", invoice.seller, level, sells=True)
    _party(agreement, "ram:BuyerTradeParty", invoice.buyer, level)
    if level >= HEAD:
        _party(agreement, "ram:SellerTaxRepresentativeTradeParty", invoice.tax_representative, level)
    if level >= ALL:
        agreement.add("ram:SellerOrderReferencedDocument/ram:IssuerAssignedID", invoice.sales_order)
    agreement.add("ram:BuyerOrderReferencedDocument/ram:IssuerAssignedID", invoice.order)
    if level >= HEAD:
        agreement.add("ram:ContractReferencedDocument/ram:IssuerAssignedID", invoice.contract)
    if level < ALL:
        return
    for one in invoice.supporting:
        own = agreement.branch("ram:AdditionalReferencedDocument")
        own.add("ram:IssuerAssignedID", one.reference)
        own.add("ram:URIID", one.address)
        own.add("ram:TypeCode", SUPPORTING)
        own.add("ram:Name", one.description)
    if invoice.tender:
        own = agreement.branch("ram:AdditionalReferencedDocument")
        own.add("ram:IssuerAssignedID", invoice.tender)
        own.add("ram:TypeCode", TENDER)
    if invoice.object is not None:
        own = agreement.branch("ram:AdditionalReferencedDocument")
        own.add("ram:IssuerAssignedID", invoice.object.value)
        own.add("ram:TypeCode", OBJECT)
        own.add("ram:ReferenceTypeCode", invoice.object.scheme)
    if invoice.project:
        project = agreement.branch("ram:SpecifiedProcuringProject")
        project.add("ram:ID", invoice.project)
        project.add("ram:Name", "Project reference")


def _party(around: Branch, name: str, party: Party | None, level: int, *, sells: bool = False) -> None:
    if party is None:
        return
    own = around.branch(name)
    if level >= HEAD:
        for identifier in party.identifiers:
            _identifier(own, "ram:GlobalID" if identifier.scheme else "ram:ID", identifier)
        own.element[:] = sorted(own.element, key=lambda one: str(one.tag).endswith("GlobalID"))
    own.add("ram:Name", party.name)
    if sells and level >= ALL:
        own.add("ram:Description", party.legal_information)
    organization = own.branch("ram:SpecifiedLegalOrganization")
    _identifier(organization, "ram:ID", party.registration)
    if level >= HEAD:
        organization.add("ram:TradingBusinessName", party.trading_name)
    if party.contact is not None and level >= ALL:
        contact = own.branch("ram:DefinedTradeContact")
        contact.add("ram:PersonName", party.contact.name)
        contact.add("ram:TelephoneUniversalCommunication/ram:CompleteNumber", party.contact.phone)
        contact.add("ram:EmailURIUniversalCommunication/ram:URIID", party.contact.email)
    if party.address is not None and (level >= HEAD or sells):
        _address(own.branch("ram:PostalTradeAddress"), party.address, level)
    if level >= HEAD:
        _identifier(own, "ram:URIUniversalCommunication/ram:URIID", party.electronic_address)
    if sells or level >= HEAD:
        own.add("ram:SpecifiedTaxRegistration/ram:ID", party.vat_identifier, schemeID="VA")
        if sells:
            own.add("ram:SpecifiedTaxRegistration/ram:ID", party.tax_registration, schemeID="FC")


def _address(place: Branch, address: Address, level: int) -> None:
    if level >= HEAD:
        place.add("ram:PostcodeCode", address.post_code)
        for name, line in zip(("ram:LineOne", "ram:LineTwo", "ram:LineThree"), address.lines, strict=False):
            place.add(name, line)
        place.add("ram:CityName", address.city)
    place.add("ram:CountryID", address.country)
    if level >= HEAD:
        place.add("ram:CountrySubDivisionName", address.region)


def _delivery(place: Branch, invoice: InvoiceData, level: int) -> None:
    given = invoice.delivery
    if given is not None:
        own = place.branch("ram:ShipToTradeParty")
        location = given.location
        if location is not None:
            _identifier(own, "ram:GlobalID" if location.scheme else "ram:ID", location)
        own.add("ram:Name", given.name)
        if given.address is not None:
            _address(own.branch("ram:PostalTradeAddress"), given.address, level)
        _day(place.branch("ram:ActualDeliverySupplyChainEvent"), "ram:OccurrenceDateTime", given.date)
    place.add("ram:DespatchAdviceReferencedDocument/ram:IssuerAssignedID", invoice.despatch_advice)
    if level >= ALL:
        place.add("ram:ReceivingAdviceReferencedDocument/ram:IssuerAssignedID", invoice.receiving_advice)


def _settlement(place: Branch, invoice: InvoiceData, level: int) -> None:
    payment = invoice.payment
    if level >= HEAD:
        if payment is not None:
            place.add("ram:CreditorReferenceID", payment.creditor)
            place.add("ram:PaymentReference", payment.reference)
        place.add("ram:TaxCurrencyCode", invoice.tax_currency)
    place.add("ram:InvoiceCurrencyCode", invoice.currency)
    if level >= HEAD:
        _party(place, "ram:PayeeTradeParty", invoice.payee, level)
        _means(place, invoice, level)
        for row in invoice.vat:
            _tax(place.branch("ram:ApplicableTradeTax"), row, invoice)
        _period(place, invoice.period)
        for allowance in invoice.allowances:
            _allowance(place, allowance, added=False, taxed=True)
        for charge in invoice.charges:
            _allowance(place, charge, added=True, taxed=True)
        terms = place.branch("ram:SpecifiedTradePaymentTerms")
        terms.add("ram:Description", invoice.terms)
        _day(terms, "ram:DueDateDateTime", invoice.due)
        if payment is not None:
            terms.add("ram:DirectDebitMandateID", payment.mandate)
    _summation(place.branch("ram:SpecifiedTradeSettlementHeaderMonetarySummation"), invoice, level)
    if level >= HEAD:
        for earlier in invoice.preceding:
            own = place.branch("ram:InvoiceReferencedDocument")
            own.add("ram:IssuerAssignedID", earlier.number)
            _day(own, "ram:FormattedIssueDateTime", earlier.date, "qdt:DateTimeString")
        place.add("ram:ReceivableSpecifiedTradeAccountingAccount/ram:ID", invoice.buyer_account)


def _means(place: Branch, invoice: InvoiceData, level: int) -> None:
    payment = invoice.payment
    if payment is None:
        return
    for account in payment.accounts or (None,):
        own = place.branch("ram:SpecifiedTradeSettlementPaymentMeans")
        own.add("ram:TypeCode", payment.means)
        if level >= ALL:
            own.add("ram:Information", payment.means_text)
            card = own.branch("ram:ApplicableTradeSettlementFinancialCard")
            card.add("ram:ID", payment.card_number)
            card.add("ram:CardholderName", payment.card_holder)
        own.add("ram:PayerPartyDebtorFinancialAccount/ram:IBANID", payment.debited_account)
        if account is not None:
            to = own.branch("ram:PayeePartyCreditorFinancialAccount")
            is_iban = account.identifier[:2].isalpha()
            to.add("ram:IBANID", account.identifier.replace(" ", "") if is_iban else "")
            if level >= ALL:
                to.add("ram:AccountName", account.name)
            to.add("ram:ProprietaryID", "" if is_iban else account.identifier)
            if level >= ALL:
                own.add("ram:PayeeSpecifiedCreditorFinancialInstitution/ram:BICID", account.bank)


def _tax(own: Branch, row: VatRow, invoice: InvoiceData) -> None:
    own.add("ram:CalculatedAmount", money(row.tax))
    own.add("ram:TypeCode", "VAT")
    own.add("ram:ExemptionReason", row.reason)
    own.add("ram:BasisAmount", money(row.basis))
    own.add("ram:CategoryCode", row.category)
    own.add("ram:ExemptionReasonCode", row.reason_code)
    _day(own, "ram:TaxPointDate", invoice.tax_point, "udt:DateString")
    own.add("ram:DueDateTypeCode", invoice.tax_point_code)
    own.add("ram:RateApplicablePercent", row.rate)


def _summation(own: Branch, invoice: InvoiceData, level: int) -> None:
    totals = invoice.totals
    if totals is None:
        return
    if level >= HEAD:
        own.add("ram:LineTotalAmount", money(totals.lines))
        own.add("ram:ChargeTotalAmount", money(totals.charges))
        own.add("ram:AllowanceTotalAmount", money(totals.allowances))
    own.add("ram:TaxBasisTotalAmount", money(totals.without_vat))
    own.add("ram:TaxTotalAmount", money(totals.vat), currencyID=invoice.currency)
    if level >= HEAD:
        own.add("ram:TaxTotalAmount", money(totals.vat_in_tax_currency), currencyID=invoice.tax_currency)
        if level >= ALL:
            own.add("ram:RoundingAmount", money(totals.rounding))
    own.add("ram:GrandTotalAmount", money(totals.with_vat))
    if level >= HEAD:
        own.add("ram:TotalPrepaidAmount", money(totals.paid))
    own.add("ram:DuePayableAmount", money(totals.due))
