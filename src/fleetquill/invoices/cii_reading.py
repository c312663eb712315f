"""Invoices from Cross Industry Invoices: what a hybrid PDF holds, in the words of the model."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from decimal import Decimal, InvalidOperation
from typing import Final, TypeVar

from lxml import etree

from fleetquill.errors import DataError
from fleetquill.invoices.cii import DAY, OBJECT, SPACES, SUPPORTING, TENDER
from fleetquill.invoices.model import (
    Account,
    Address,
    Allowance,
    Attribute,
    Classification,
    Contact,
    Delivery,
    Identifier,
    InvoiceData,
    Line,
    Note,
    Party,
    Payment,
    Period,
    Preceding,
    Supporting,
    Totals,
    VatRow,
)

Element = etree._Element
Part = TypeVar("Part")
CONTEXT: Final = "rsm:ExchangedDocumentContext"
PARSER: Final = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)


def read_cii(content: bytes) -> tuple[InvoiceData, str]:
    """The invoice of an XML file, and the identifier of its profile (BT-24). Raises DataError where it is none."""
    try:
        root = etree.fromstring(content, PARSER)
    except (etree.XMLSyntaxError, ValueError) as error:
        raise DataError(f"The data of the invoice is no XML: {error}.") from error
    if root.tag != f"{{{SPACES['rsm']}}}CrossIndustryInvoice":
        raise DataError(f"The data is no Cross Industry Invoice, but '{etree.QName(root).localname}'.")
    return _Reading(root).invoice(), text(root, f"{CONTEXT}/ram:GuidelineSpecifiedDocumentContextParameter/ram:ID")


def text(element: Element, path: str) -> str:
    found = element.find(path, SPACES)
    return " ".join((found.text or "").split()) if found is not None else ""


def amount(element: Element, path: str) -> Decimal | None:
    found = text(element, path)
    try:
        return Decimal(found) if found else None
    except InvalidOperation as error:
        raise DataError(f"'{found}' at {path} is no number.") from error


def _filled(element: Element, path: str) -> tuple[Element, str] | None:
    """The element there and its text; None where there is none, or nothing in it."""
    found = element.find(path, SPACES)
    given = "" if found is None else (found.text or "").strip()
    return None if found is None or not given else (found, given)


def day(element: Element, path: str) -> date | None:
    filled = _filled(element, path)
    if filled is None:
        return None
    found, given = filled
    try:
        if found.get("format", DAY) != DAY:
            raise ValueError
        return date(int(given[:4]), int(given[4:6]), int(given[6:8]))
    except ValueError as error:
        raise DataError(f"'{given}' at {path} is no date of the form YYYYMMDD.") from error


def identifier(element: Element, path: str) -> Identifier | None:
    filled = _filled(element, path)
    return None if filled is None else Identifier(value=filled[1], scheme=filled[0].get("schemeID", ""))


class _Reading:
    def __init__(self, root: Element) -> None:
        self.head = _part(root, "rsm:ExchangedDocument")
        trade = self.trade = _part(root, "rsm:SupplyChainTradeTransaction")
        self.root = root
        self.agreement = _part(trade, "ram:ApplicableHeaderTradeAgreement")
        self.delivery = _part(trade, "ram:ApplicableHeaderTradeDelivery")
        self.settlement = _part(trade, "ram:ApplicableHeaderTradeSettlement")

    def invoice(self) -> InvoiceData:
        head, agreement, delivery, settlement = self.head, self.agreement, self.delivery, self.settlement
        taxes = settlement.findall("ram:ApplicableTradeTax", SPACES)
        first = taxes[0] if taxes else settlement
        others = agreement.findall("ram:AdditionalReferencedDocument", SPACES)
        process = f"{CONTEXT}/ram:BusinessProcessSpecifiedDocumentContextParameter/ram:ID"
        return InvoiceData(
            number=text(head, "ram:ID"),
            date=day(head, "ram:IssueDateTime/udt:DateTimeString"),
            kind=text(head, "ram:TypeCode"),
            currency=text(settlement, "ram:InvoiceCurrencyCode"),
            tax_currency=text(settlement, "ram:TaxCurrencyCode"),
            tax_point=day(first, "ram:TaxPointDate/udt:DateString"),
            tax_point_code=text(first, "ram:DueDateTypeCode"),
            due=day(settlement, "ram:SpecifiedTradePaymentTerms/ram:DueDateDateTime/udt:DateTimeString"),
            buyer_reference=text(agreement, "ram:BuyerReference"),
            project=text(agreement, "ram:SpecifiedProcuringProject/ram:ID"),
            contract=text(agreement, "ram:ContractReferencedDocument/ram:IssuerAssignedID"),
            order=text(agreement, "ram:BuyerOrderReferencedDocument/ram:IssuerAssignedID"),
            sales_order=text(agreement, "ram:SellerOrderReferencedDocument/ram:IssuerAssignedID"),
            receiving_advice=text(delivery, "ram:ReceivingAdviceReferencedDocument/ram:IssuerAssignedID"),
            despatch_advice=text(delivery, "ram:DespatchAdviceReferencedDocument/ram:IssuerAssignedID"),
            tender=next((text(one, "ram:IssuerAssignedID") for one in others if _kind(one) == TENDER), ""),
            object=next((_object(one) for one in others if _kind(one) == OBJECT), None),
            buyer_account=text(settlement, "ram:ReceivableSpecifiedTradeAccountingAccount/ram:ID"),
            terms=text(settlement, "ram:SpecifiedTradePaymentTerms/ram:Description"),
            process=text(self.root, process),
            notes=tuple(
                Note(text=text(one, "ram:Content"), subject=text(one, "ram:SubjectCode"))
                for one in head.findall("ram:IncludedNote", SPACES)
            ),
            preceding=tuple(
                Preceding(
                    number=text(one, "ram:IssuerAssignedID"),
                    date=day(one, "ram:FormattedIssueDateTime/qdt:DateTimeString"),
                )
                for one in settlement.findall("ram:InvoiceReferencedDocument", SPACES)
            ),
            seller=_found(agreement, "ram:SellerTradeParty", _party),
            buyer=_found(agreement, "ram:BuyerTradeParty", _party),
            payee=_found(settlement, "ram:PayeeTradeParty", _party),
            tax_representative=_found(agreement, "ram:SellerTaxRepresentativeTradeParty", _party),
            delivery=self._delivery(),
            period=_found(settlement, "ram:BillingSpecifiedPeriod", _period),
            payment=self._payment(),
            allowances=_allowances(settlement, "false"),
            charges=_allowances(settlement, "true"),
            totals=self._totals(),
            vat=tuple(map(_row, taxes)),
            supporting=tuple(
                Supporting(
                    reference=text(one, "ram:IssuerAssignedID"),
                    description=text(one, "ram:Name"),
                    address=text(one, "ram:URIID"),
                )
                for one in others
                if _kind(one) == SUPPORTING
            ),
            lines=tuple(map(_line, self.trade.findall("ram:IncludedSupplyChainTradeLineItem", SPACES))),
        )

    def _delivery(self) -> Delivery | None:
        place = self.delivery.find("ram:ShipToTradeParty", SPACES)
        when = day(self.delivery, "ram:ActualDeliverySupplyChainEvent/ram:OccurrenceDateTime/udt:DateTimeString")
        if place is None and when is None:
            return None
        if place is None:
            return Delivery(date=when)
        location = identifier(place, "ram:GlobalID") or identifier(place, "ram:ID")
        address = _found(place, "ram:PostalTradeAddress", _address)
        return Delivery(name=text(place, "ram:Name"), location=location, date=when, address=address)

    def _payment(self) -> Payment | None:
        settlement = self.settlement
        means = settlement.findall("ram:SpecifiedTradeSettlementPaymentMeans", SPACES)
        reference, creditor = text(settlement, "ram:PaymentReference"), text(settlement, "ram:CreditorReferenceID")
        mandate = text(settlement, "ram:SpecifiedTradePaymentTerms/ram:DirectDebitMandateID")
        if not means and not (reference or creditor or mandate):
            return None
        first = means[0] if means else settlement
        return Payment(
            means=text(first, "ram:TypeCode") if means else "",
            means_text=text(first, "ram:Information"),
            reference=reference,
            accounts=tuple(account for one in means if (account := _account(one)) is not None),
            card_number=text(first, "ram:ApplicableTradeSettlementFinancialCard/ram:ID"),
            card_holder=text(first, "ram:ApplicableTradeSettlementFinancialCard/ram:CardholderName"),
            mandate=mandate,
            creditor=creditor,
            debited_account=text(first, "ram:PayerPartyDebtorFinancialAccount/ram:IBANID"),
        )

    def _totals(self) -> Totals | None:
        own = self.settlement.find("ram:SpecifiedTradeSettlementHeaderMonetarySummation", SPACES)
        if own is None:
            return None
        currency = text(self.settlement, "ram:InvoiceCurrencyCode")
        taxes = own.findall("ram:TaxTotalAmount", SPACES)
        mine = [one for one in taxes if one.get("currencyID", currency) == currency][:1]
        other = [one for one in taxes if one not in mine][:1]
        return Totals(
            lines=amount(own, "ram:LineTotalAmount"),
            allowances=amount(own, "ram:AllowanceTotalAmount"),
            charges=amount(own, "ram:ChargeTotalAmount"),
            without_vat=amount(own, "ram:TaxBasisTotalAmount"),
            vat=amount(mine[0], ".") if mine else None,
            vat_in_tax_currency=amount(other[0], ".") if other else None,
            with_vat=amount(own, "ram:GrandTotalAmount"),
            paid=amount(own, "ram:TotalPrepaidAmount"),
            rounding=amount(own, "ram:RoundingAmount"),
            due=amount(own, "ram:DuePayableAmount"),
        )


def _part(element: Element, path: str) -> Element:
    """A part of the tree; an empty one where it is not there."""
    found = element.find(path, SPACES)
    return etree.Element("nothing") if found is None else found


def _found(element: Element, path: str, read: Callable[[Element], Part]) -> Part | None:
    found = element.find(path, SPACES)
    return None if found is None else read(found)


def _kind(element: Element) -> str:
    return text(element, "ram:TypeCode")


def _object(element: Element) -> Identifier:
    return Identifier(value=text(element, "ram:IssuerAssignedID"), scheme=text(element, "ram:ReferenceTypeCode"))


def _account(means: Element) -> Account | None:
    own = means.find("ram:PayeePartyCreditorFinancialAccount", SPACES)
    if own is None:
        return None
    number = text(own, "ram:IBANID") or text(own, "ram:ProprietaryID")
    bank = text(means, "ram:PayeeSpecifiedCreditorFinancialInstitution/ram:BICID")
    return Account(identifier=number, name=text(own, "ram:AccountName"), bank=bank)


def _party(own: Element) -> Party:
    identifiers = [*own.findall("ram:ID", SPACES), *own.findall("ram:GlobalID", SPACES)]
    taxes = own.findall("ram:SpecifiedTaxRegistration/ram:ID", SPACES)
    numbers = {one.get("schemeID", ""): (one.text or "").strip() for one in taxes}
    contact = own.find("ram:DefinedTradeContact", SPACES)
    return Party(
        name=text(own, "ram:Name"),
        trading_name=text(own, "ram:SpecifiedLegalOrganization/ram:TradingBusinessName"),
        identifiers=tuple(
            Identifier(value=(one.text or "").strip(), scheme=one.get("schemeID", "")) for one in identifiers
        ),
        registration=identifier(own, "ram:SpecifiedLegalOrganization/ram:ID"),
        vat_identifier=numbers.get("VA", ""),
        tax_registration=numbers.get("FC", ""),
        legal_information=text(own, "ram:Description"),
        electronic_address=identifier(own, "ram:URIUniversalCommunication/ram:URIID"),
        address=_found(own, "ram:PostalTradeAddress", _address),
        contact=None
        if contact is None
        else Contact(
            name=text(contact, "ram:PersonName"),
            phone=text(contact, "ram:TelephoneUniversalCommunication/ram:CompleteNumber"),
            email=text(contact, "ram:EmailURIUniversalCommunication/ram:URIID"),
        ),
    )


def _address(own: Element) -> Address:
    lines = (text(own, f"ram:{name}") for name in ("LineOne", "LineTwo", "LineThree"))
    return Address(
        lines=tuple(line for line in lines if line),
        city=text(own, "ram:CityName"),
        post_code=text(own, "ram:PostcodeCode"),
        region=text(own, "ram:CountrySubDivisionName"),
        country=text(own, "ram:CountryID"),
    )


def _period(own: Element) -> Period:
    return Period(
        start=day(own, "ram:StartDateTime/udt:DateTimeString"), end=day(own, "ram:EndDateTime/udt:DateTimeString")
    )


def _allowances(around: Element, added: str) -> tuple[Allowance, ...]:
    found = around.findall("ram:SpecifiedTradeAllowanceCharge", SPACES)
    return tuple(
        Allowance(
            amount=amount(one, "ram:ActualAmount"),
            base=amount(one, "ram:BasisAmount"),
            percent=amount(one, "ram:CalculationPercent"),
            vat_category=text(one, "ram:CategoryTradeTax/ram:CategoryCode"),
            vat_rate=amount(one, "ram:CategoryTradeTax/ram:RateApplicablePercent"),
            reason=text(one, "ram:Reason"),
            reason_code=text(one, "ram:ReasonCode"),
        )
        for one in found
        if text(one, "ram:ChargeIndicator/udt:Indicator") == added
    )


def _row(own: Element) -> VatRow:
    return VatRow(
        basis=amount(own, "ram:BasisAmount"),
        tax=amount(own, "ram:CalculatedAmount"),
        category=text(own, "ram:CategoryCode"),
        rate=amount(own, "ram:RateApplicablePercent"),
        reason=text(own, "ram:ExemptionReason"),
        reason_code=text(own, "ram:ExemptionReasonCode"),
    )


def _line(item: Element) -> Line:
    product, settlement = _part(item, "ram:SpecifiedTradeProduct"), _part(item, "ram:SpecifiedLineTradeSettlement")
    agreement = _part(item, "ram:SpecifiedLineTradeAgreement")
    gross, net = "ram:GrossPriceProductTradePrice", "ram:NetPriceProductTradePrice"
    quantity = item.find("ram:SpecifiedLineTradeDelivery/ram:BilledQuantity", SPACES)
    base = agreement.find(f"{net}/ram:BasisQuantity", SPACES)
    return Line(
        identifier=text(item, "ram:AssociatedDocumentLineDocument/ram:LineID"),
        note=text(item, "ram:AssociatedDocumentLineDocument/ram:IncludedNote/ram:Content"),
        object=_found(settlement, "ram:AdditionalReferencedDocument", _object),
        quantity=amount(item, "ram:SpecifiedLineTradeDelivery/ram:BilledQuantity"),
        unit=quantity.get("unitCode", "") if quantity is not None else "",
        net_amount=amount(settlement, "ram:SpecifiedTradeSettlementLineMonetarySummation/ram:LineTotalAmount"),
        order_line=text(agreement, "ram:BuyerOrderReferencedDocument/ram:LineID"),
        buyer_account=text(settlement, "ram:ReceivableSpecifiedTradeAccountingAccount/ram:ID"),
        period=_found(settlement, "ram:BillingSpecifiedPeriod", _period),
        allowances=_allowances(settlement, "false"),
        charges=_allowances(settlement, "true"),
        price=amount(agreement, f"{net}/ram:ChargeAmount"),
        price_discount=amount(agreement, f"{gross}/ram:AppliedTradeAllowanceCharge/ram:ActualAmount"),
        gross_price=amount(agreement, f"{gross}/ram:ChargeAmount"),
        base_quantity=amount(agreement, f"{net}/ram:BasisQuantity"),
        base_unit=base.get("unitCode", "") if base is not None else "",
        vat_category=text(settlement, "ram:ApplicableTradeTax/ram:CategoryCode"),
        vat_rate=amount(settlement, "ram:ApplicableTradeTax/ram:RateApplicablePercent"),
        name=text(product, "ram:Name"),
        description=text(product, "ram:Description"),
        seller_item=text(product, "ram:SellerAssignedID"),
        buyer_item=text(product, "ram:BuyerAssignedID"),
        standard_item=identifier(product, "ram:GlobalID"),
        classifications=tuple(
            Classification(
                code=(one.text or "").strip(), scheme=one.get("listID", ""), version=one.get("listVersionID", "")
            )
            for one in product.findall("ram:DesignatedProductClassification/ram:ClassCode", SPACES)
        ),
        origin=text(product, "ram:OriginTradeCountry/ram:ID"),
        attributes=tuple(
            Attribute(name=text(one, "ram:Description"), value=text(one, "ram:Value"))
            for one in product.findall("ram:ApplicableProductCharacteristic", SPACES)
        ),
    )
