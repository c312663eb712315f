"""Invoices as XML: what is written is read back, in the order of the schemas; amounts are worked out."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree
from sample import FULL, PLAIN, changed

import fleetquill as fq
from fleetquill.invoices.cii import SPACES


@pytest.mark.parametrize("data", [PLAIN, FULL], ids=["plain", "full"])
def test_what_is_written_is_read_back(data):
    invoice = fq.Invoice(data)
    again = fq.Invoice.from_xml(invoice.to_bytes())
    before, after = invoice.values(), again.values()
    for line in before["lines"]:
        if "base_quantity" in line:
            line.setdefault("base_unit", line["unit"])
    assert sorted(map(str, after["seller"].get("identifiers", []))) == sorted(
        map(str, before["seller"].get("identifiers", []))
    )
    for side in (before, after):
        side["seller"].pop("identifiers", None)
    assert after == before
    assert again.profile == invoice.profile


@pytest.mark.parametrize(
    ("profile", "there", "missing"),
    [
        ("MINIMUM", ["ram:SellerTradeParty", "ram:GrandTotalAmount"], ["ram:IncludedNote", "ram:ApplicableTradeTax"]),
        ("BASIC WL", ["ram:IncludedNote", "ram:PayeeTradeParty"], ["ram:IncludedSupplyChainTradeLineItem"]),
        (
            "BASIC",
            ["ram:IncludedSupplyChainTradeLineItem"],
            ["ram:ApplicableProductCharacteristic", "ram:SellerAssignedID"],
        ),
        ("EN 16931", ["ram:SellerAssignedID", "ram:ApplicableProductCharacteristic"], []),
        ("EXTENDED", ["ram:SellerAssignedID"], []),
    ],
)
def test_profiles_carry_what_they_carry(profile, there, missing):
    data = changed(FULL, ("totals.rounding", ...))
    root = etree.fromstring(fq.Invoice(data, profile=profile).to_bytes())
    assert all(root.find(f".//{name}", SPACES) is not None for name in there)
    assert all(not root.xpath(f".//{name}", namespaces=SPACES) for name in missing)
    if profile != "MINIMUM":  # whose parties have no addresses
        assert fq.Invoice.from_xml(etree.tostring(root)).profile.name == profile


def order_of(root, parent, names):
    found = [etree.QName(child).localname for child in root.find(f".//{parent}", SPACES)]
    places = [names.index(name) for name in found]
    return places == sorted(places)


@pytest.mark.parametrize(
    ("parent", "names"),
    [
        ("ram:SellerTradeParty", "ID GlobalID Name Description SpecifiedLegalOrganization DefinedTradeContact "
         "PostalTradeAddress URIUniversalCommunication SpecifiedTaxRegistration"),
        ("ram:SellerTradeParty/ram:PostalTradeAddress", "PostcodeCode LineOne LineTwo LineThree CityName CountryID "
         "CountrySubDivisionName"),
        ("ram:ApplicableHeaderTradeAgreement", "BuyerReference SellerTradeParty BuyerTradeParty "
         "SellerTaxRepresentativeTradeParty SellerOrderReferencedDocument BuyerOrderReferencedDocument "
         "ContractReferencedDocument AdditionalReferencedDocument SpecifiedProcuringProject"),
        ("ram:ApplicableHeaderTradeDelivery", "ShipToTradeParty ActualDeliverySupplyChainEvent "
         "DespatchAdviceReferencedDocument ReceivingAdviceReferencedDocument"),
        ("ram:ApplicableHeaderTradeSettlement", "CreditorReferenceID PaymentReference TaxCurrencyCode "
         "InvoiceCurrencyCode PayeeTradeParty SpecifiedTradeSettlementPaymentMeans ApplicableTradeTax "
         "BillingSpecifiedPeriod SpecifiedTradeAllowanceCharge SpecifiedTradePaymentTerms "
         "SpecifiedTradeSettlementHeaderMonetarySummation InvoiceReferencedDocument "
         "ReceivableSpecifiedTradeAccountingAccount"),
        ("ram:SpecifiedTradeSettlementHeaderMonetarySummation", "LineTotalAmount ChargeTotalAmount "
         "AllowanceTotalAmount TaxBasisTotalAmount TaxTotalAmount RoundingAmount GrandTotalAmount TotalPrepaidAmount "
         "DuePayableAmount"),
        ("ram:SpecifiedTradeProduct", "GlobalID SellerAssignedID BuyerAssignedID Name Description "
         "ApplicableProductCharacteristic DesignatedProductClassification OriginTradeCountry"),
        ("ram:SpecifiedLineTradeSettlement", "ApplicableTradeTax BillingSpecifiedPeriod SpecifiedTradeAllowanceCharge "
         "SpecifiedTradeSettlementLineMonetarySummation AdditionalReferencedDocument "
         "ReceivableSpecifiedTradeAccountingAccount"),
        ("ram:ApplicableHeaderTradeSettlement/ram:ApplicableTradeTax", "CalculatedAmount TypeCode ExemptionReason "
         "BasisAmount CategoryCode ExemptionReasonCode TaxPointDate DueDateTypeCode RateApplicablePercent"),
    ],
)  # fmt: skip
def test_elements_come_in_the_order_of_the_schema(parent, names):
    assert order_of(etree.fromstring(fq.Invoice(FULL).to_bytes()), parent, names.split())


def test_an_empty_delivery_stays():
    root = etree.fromstring(fq.Invoice(PLAIN).to_bytes())
    assert root.find(".//ram:ApplicableHeaderTradeDelivery", SPACES) is not None
    assert [etree.QName(one).localname for one in root.find("rsm:SupplyChainTradeTransaction", SPACES)][-2:] == [
        "ApplicableHeaderTradeDelivery", "ApplicableHeaderTradeSettlement",
    ]  # fmt: skip


def test_ubl_holds_the_same():
    tree = etree.fromstring(fq.Invoice(FULL).to_bytes("ubl"))
    said = {
        "{*}ID": "F-2041",
        "{*}DueDate": "2026-07-02",
        "{*}InvoiceLine/{*}Item/{*}Name": "Paper reels",
        "{*}InvoiceLine/{*}Item/{*}Description": "Nether Mill – Stonecross",
        "{*}InvoiceLine/{*}InvoicedQuantity": "42",
        "{*}PaymentMeans/{*}PayeeFinancialAccount/{*}ID": "IE22REED00000012345678",
        "{*}AccountingSupplierParty/{*}Party/{*}PartyTaxScheme/{*}CompanyID": "XR4402001",
        "{*}AllowanceCharge/{*}AllowanceChargeReason": "Night passage",
        "{*}InvoiceLine/{*}Price/{*}AllowanceCharge/{*}BaseAmount": "2.70",
    }
    due = fq.Invoice(FULL).data.totals.due
    said["{*}LegalMonetaryTotal/{*}PayableAmount"] = f"{due}"
    assert {path: tree.findtext(path) for path in said} == said
    assert tree.find("{*}LegalMonetaryTotal/{*}PayableAmount").get("currencyID") == "EUR"


def test_credit_notes_have_a_root_of_their_own():
    tree = etree.fromstring(fq.Invoice(changed(PLAIN, ("kind", "381"))).to_bytes("ubl"))
    assert etree.QName(tree).localname == "CreditNote"
    assert tree.findtext("{*}CreditNoteTypeCode") == "381"
    assert tree.findtext("{*}CreditNoteLine/{*}CreditedQuantity") == "2"


def test_another_syntax_is_not_known():
    with pytest.raises(fq.OptionError, match="Did you mean 'ubl'"):
        fq.Invoice(PLAIN).to_bytes("ubll")


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"<a>", "no XML"),
        (b"<a/>", "no Cross Industry Invoice, but 'a'"),
        (fq.Invoice(PLAIN).to_bytes().replace(b">20260602<", b">2026-06-02<"), "no date of the form YYYYMMDD"),
        (fq.Invoice(PLAIN).to_bytes().replace(b">24.20<", b">much<"), "'much' at ram:"),
        (fq.Invoice(PLAIN).to_bytes().replace(b">24.20<", b">25.20<"), "BR-CO-14|BR-CO-15"),
    ],
)
def test_data_that_is_damaged_is_told(content, said):
    with pytest.raises(fq.DataError, match=said):
        fq.Invoice.from_xml(content)


def test_entities_are_not_followed(tmp_path):
    (tmp_path / "secret").write_text("secret")
    content = b'<!DOCTYPE a [<!ENTITY x SYSTEM "file://%s">]>' % str(tmp_path / "secret").encode()
    head, body = fq.Invoice(PLAIN).to_bytes().split(b"\n", 1)
    content = head + content + body.replace(b">F-1<", b">&x;<")
    with pytest.raises(fq.DataError):
        fq.Invoice.from_xml(content)


AMOUNTS = st.decimals("0.01", "9999", places=2)


@given(st.lists(st.tuples(AMOUNTS, st.decimals("0.001", "500", places=3), st.sampled_from([0, 9, 21])), min_size=1,
                max_size=6), st.lists(AMOUNTS, max_size=2))  # fmt: skip
def test_what_is_worked_out_keeps_every_rule(lines, charges):
    data = changed(PLAIN)
    data["lines"] = [
        {"name": "x", "quantity": str(quantity), "unit": "C62", "price": str(price), "vat_rate": rate,
         "vat_category": "S" if rate else "Z"}
        for price, quantity, rate in lines
    ]  # fmt: skip
    data["charges"] = [
        {"amount": str(amount), "reason": "x", "vat_category": "S", "vat_rate": 21} for amount in charges
    ]
    invoice = fq.Invoice(data)
    totals = invoice.data.totals
    assert totals.due == totals.with_vat == totals.without_vat + totals.vat
    assert sum((row.basis for row in invoice.data.vat), Decimal(0)) == totals.without_vat
    assert fq.Invoice.from_xml(invoice.to_bytes()).data.totals == totals


def test_half_a_cent_goes_up():
    data = changed(PLAIN, ("lines.0.price", "0.005"), ("lines.0.quantity", 1))
    assert fq.Invoice(data).data.lines[0].net_amount == Decimal("0.01")
