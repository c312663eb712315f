"""The business rules of EN 16931: a valid invoice keeps them all, and each change breaks the one that it should."""

import pytest
from sample import FULL, PLAIN, changed

import fleetquill as fq


def broken(data, **options):
    try:
        fq.Invoice(data, **options)
    except fq.InvoiceError as error:
        return {fault.rule for fault in error.faults}
    return set()


@pytest.mark.parametrize("data", [PLAIN, FULL], ids=["plain", "full"])
@pytest.mark.parametrize("profile", ["MINIMUM", "BASIC WL", "BASIC", "EN 16931", "EXTENDED"])
def test_invoices_that_are_right_break_nothing(data, profile):
    if profile in ("BASIC WL", "BASIC"):  # which carry no rounding
        assert broken(data, profile=profile) == ({"BR-CO-16"} if data is FULL else set())
        data = changed(data, ("totals.rounding", ...)) if data is FULL else data
    assert broken(data, profile=profile) == set()


ZERO = [("lines.0.vat_category", "Z"), ("lines.0.vat_rate", 0)]
CHARGE = {"amount": 1, "reason": "x", "vat_category": "S", "vat_rate": 21}


def of(category, rate=0):
    return [("lines.0.vat_category", category), ("lines.0.vat_rate", rate)]


def reasoned(category, basis=20):
    return [*of(category), ("vat", [{"basis": basis, "tax": 0, "category": category, "rate": 0, "reason": "said"}])]


ABROAD = [("delivery", {"date": "2026-06-01", "address": {"country": "DE"}})]


@pytest.mark.parametrize(
    ("rule", "changes"),
    [
        ("BR-2", [("number", ...)]),
        ("BR-3", [("date", ...)]),
        ("BR-4", [("kind", "")]),
        ("BR-5", [("currency", ...)]),
        ("BR-6", [("seller.name", ...)]),
        ("BR-6", [("seller", ...)]),
        ("BR-7", [("buyer.name", ...)]),
        ("BR-8", [("seller.address", ...)]),
        ("BR-9", [("seller.address.country", ...)]),
        ("BR-10", [("buyer.address", ...)]),
        ("BR-11", [("buyer.address.country", ...)]),
        ("BR-16", [("lines", []), ("totals", {"lines": 0, "without_vat": 0, "vat": 0, "with_vat": 0, "due": 0})]),
        ("BR-12", [("lines", [])]),
        ("BR-13", [("lines", [])]),
        ("BR-14", [("lines", [])]),
        ("BR-15", [("lines", [])]),
        ("BR-17", [("payee", {"identifiers": "x"})]),
        ("BR-18", [("tax_representative", {"vat_identifier": "XR1", "address": {"country": "XR"}})]),
        ("BR-19", [("tax_representative", {"name": "T", "vat_identifier": "XR1"})]),
        ("BR-20", [("tax_representative", {"name": "T", "vat_identifier": "XR1", "address": {"city": "x"}})]),
        ("BR-22", [("lines.0.quantity", ...)]),
        ("BR-23", [("lines.0.unit", ...)]),
        ("BR-24", [("lines.0.price", ...)]),
        ("BR-25", [("lines.0.name", ...)]),
        ("BR-26", [("lines.0.price", ...)]),
        ("BR-27", [("lines.0.price", -1)]),
        ("BR-28", [("lines.0.gross_price", -1)]),
        ("BR-29", [("period", {"start": "2026-05-02", "end": "2026-05-01"})]),
        ("BR-30", [("lines.0.period", {"start": "2026-05-02", "end": "2026-05-01"})]),
        ("BR-31", [("allowances", {"reason": "x", "vat_category": "S", "vat_rate": 21})]),
        ("BR-32", [("allowances", {"amount": 1, "reason": "x"})]),
        ("BR-33", [("allowances", {"amount": 1, "vat_category": "S", "vat_rate": 21})]),
        ("BR-36", [("charges", {"reason": "x", "vat_category": "S", "vat_rate": 21})]),
        ("BR-37", [("charges", {"amount": 1, "reason": "x"})]),
        ("BR-38", [("charges", {"amount": 1, "vat_category": "S", "vat_rate": 21})]),
        ("BR-41", [("lines.0.allowances", {"reason": "x"})]),
        ("BR-42", [("lines.0.allowances", {"amount": 1})]),
        ("BR-43", [("lines.0.charges", {"reason": "x"})]),
        ("BR-44", [("lines.0.charges", {"amount": 1})]),
        ("BR-45", [("vat", {"tax": "4.20", "category": "S", "rate": 21})]),
        ("BR-46", [("vat", {"category": "S", "rate": 21})]),
        ("BR-47", [("vat", {"basis": 20, "tax": "4.20", "rate": 21})]),
        ("BR-48", [("vat", {"basis": 20, "tax": "4.20", "category": "S"})]),
        ("BR-49", [("payment", {"reference": "x"})]),
        ("BR-50", [("payment", {"means": "30", "accounts": {"name": "x"}})]),
        ("BR-51", [("payment", {"means": "48", "card_number": "4111111111111111"})]),
        ("BR-52", [("supporting", {"description": "x"})]),
        ("BR-53", [("tax_currency", "SEK")]),
        ("BR-54", [("lines.0.attributes", {"name": "x"})]),
        ("BR-55", [("preceding", {"date": "2026-01-01"})]),
        ("BR-56", [("tax_representative", {"name": "T", "address": {"country": "XR"}})]),
        ("BR-57", [("delivery", {"address": {"city": "x"}})]),
        ("BR-61", [("payment", {"means": "58"})]),
        ("BR-62", [("seller.electronic_address", "x")]),
        ("BR-63", [("buyer.electronic_address", "x")]),
        ("BR-64", [("lines.0.standard_item", "x")]),
        ("BR-65", [("lines.0.classifications", {"code": "x"})]),
        ("BR-CO-3", [("tax_point", "2026-01-01"), ("tax_point_code", "35")]),
        ("BR-CO-4", [("lines.0.vat_category", ...)]),
        ("BR-CO-9", [("seller.vat_identifier", "12345")]),
        ("BR-CO-9", [("buyer.vat_identifier", "RA 1")]),
        ("BR-CO-10", [("totals", {"lines": 19})]),
        ("BR-CO-11", [("totals", {"allowances": 1})]),
        ("BR-CO-12", [("totals", {"charges": 1})]),
        ("BR-CO-13", [("totals", {"without_vat": 19})]),
        ("BR-CO-14", [("totals", {"vat": 4})]),
        ("BR-CO-15", [("totals", {"with_vat": 24})]),
        ("BR-CO-16", [("totals", {"due": 24})]),
        ("BR-CO-17", [("vat", {"basis": 20, "tax": "4.21", "category": "S", "rate": 21})]),
        ("BR-CO-18", [("lines.0.vat_category", ...)]),
        ("BR-CO-19", [("period", {})]),
        ("BR-CO-20", [("lines.0.period", {})]),
        ("BR-CO-25", [("due", ...)]),
        ("BR-CO-26", [("seller.vat_identifier", ...), ("seller.tax_registration", "1")]),
        ("BR-CL-17", [("lines.0.vat_category", "Q")]),
        ("BR-S-1", [("vat", {"basis": 20, "tax": 0, "category": "Z", "rate": 0})]),
        ("BR-S-2", [("seller.vat_identifier", ...), ("seller.registration", "x")]),
        ("BR-S-3", [("seller.vat_identifier", ...), ("seller.registration", "x"), ("allowances", CHARGE)]),
        ("BR-S-4", [("seller.vat_identifier", ...), ("seller.registration", "x"), ("charges", CHARGE)]),
        ("BR-S-5", [("lines.0.vat_rate", 0)]),
        ("BR-S-6", [("allowances", {**CHARGE, "vat_rate": 0})]),
        ("BR-S-7", [("charges", {**CHARGE, "vat_rate": 0})]),
        ("BR-S-8", [("vat", {"basis": 10, "tax": "2.10", "category": "S", "rate": 21})]),
        ("BR-S-9", [("vat", {"basis": 20, "tax": "4.21", "category": "S", "rate": 21})]),
        ("BR-S-10", [("vat", {"basis": 20, "tax": "4.20", "category": "S", "rate": 21, "reason": "x"})]),
        ("BR-Z-1", [*ZERO, ("vat", {"basis": 20, "tax": "4.20", "category": "S", "rate": 21})]),
        ("BR-Z-1", [*ZERO, ("vat", [{"basis": 10, "tax": 0, "category": "Z", "rate": 0}] * 2)]),
        ("BR-Z-2", [*ZERO, ("seller.vat_identifier", ...), ("seller.registration", "x")]),
        ("BR-Z-5", of("Z", 21)),
        ("BR-Z-8", [*ZERO, ("vat", {"basis": 10, "tax": 0, "category": "Z", "rate": 0})]),
        ("BR-Z-9", [*ZERO, ("vat", {"basis": 20, "tax": 1, "category": "Z", "rate": 0})]),
        ("BR-Z-10", [*ZERO, ("vat", {"basis": 20, "tax": 0, "category": "Z", "rate": 0, "reason": "x"})]),
        ("BR-E-5", of("E", 21)),
        ("BR-E-8", reasoned("E", 10)),
        ("BR-E-10", of("E")),
        ("BR-AE-2", [*reasoned("AE"), ("buyer.vat_identifier", ...)]),
        ("BR-AE-6", [*reasoned("AE"), ("allowances", {**CHARGE, "vat_category": "AE"})]),
        ("BR-AE-10", of("AE")),
        ("BR-IC-2", [*reasoned("K"), *ABROAD, ("buyer.vat_identifier", ...)]),
        ("BR-IC-10", [*of("K"), *ABROAD]),
        ("BR-IC-11", [*reasoned("K"), ("delivery", {"address": {"country": "DE"}})]),
        ("BR-IC-12", [*reasoned("K"), ("delivery", {"date": "2026-06-01"})]),
        ("BR-G-2", [*reasoned("G"), ("seller.vat_identifier", ...), ("seller.tax_registration", "x")]),
        ("BR-G-7", [*reasoned("G"), ("charges", {**CHARGE, "vat_category": "G"})]),
        ("BR-G-10", of("G")),
        ("BR-O-2", [("lines.0.vat_category", "O"), ("lines.0.vat_rate", ...)]),
        ("BR-O-5", of("O")),
        ("BR-O-10", [("lines.0.vat_category", "O"), ("lines.0.vat_rate", ...)]),
        ("BR-O-11", [("lines.0.vat_category", "O"), ("lines.0.vat_rate", ...), ("charges", CHARGE)]),
        ("BR-O-14", [("lines.0.vat_category", "O"), ("lines.0.vat_rate", ...), ("charges", CHARGE)]),
        ("BR-DEC-01", [("allowances", {**CHARGE, "amount": "1.005"})]),
        ("BR-DEC-02", [("allowances", {**CHARGE, "base": "1.005"})]),
        ("BR-DEC-05", [("charges", {**CHARGE, "amount": "1.005"})]),
        ("BR-DEC-09", [("totals", {"lines": "20.001"})]),
        ("BR-DEC-14", [("totals", {"with_vat": "24.201"})]),
        ("BR-DEC-16", [("totals", {"paid": "0.001"})]),
        ("BR-DEC-19", [("vat", {"basis": "20.001", "tax": "4.20", "category": "S", "rate": 21})]),
        ("BR-DEC-23", [("lines.0.net_amount", "20.001")]),
        ("BR-DEC-24", [("lines.0.allowances", {"amount": "1.005", "reason": "x"})]),
        ("BR-DEC-28", [("lines.0.charges", {"amount": 1, "base": "1.005", "reason": "x"})]),
    ],
)  # fmt: skip
def test_what_breaks_a_rule_is_told(rule, changes):
    assert rule in broken(changed(PLAIN, *changes))


@pytest.mark.parametrize("category", ["E", "AE", "G"])
def test_categories_without_tax_are_right_where_they_say_why(category):
    assert broken(changed(PLAIN, *reasoned(category))) == set()


def test_supplies_within_the_community_are_right():
    assert broken(changed(PLAIN, *reasoned("K"), *ABROAD)) == set()


def test_what_is_outside_of_the_tax_has_no_identifiers_and_no_rate():
    data = changed(
        PLAIN, ("lines.0.vat_category", "O"), ("lines.0.vat_rate", ...), ("seller.vat_identifier", ...),
        ("seller.registration", "x"), ("buyer.vat_identifier", ...),
        ("vat", {"basis": 20, "tax": 0, "category": "O", "reason": "Not taxed"}),
    )  # fmt: skip
    assert broken(data) == set()


def test_profiles_without_lines_do_not_ask_for_them():
    data = changed(
        PLAIN, ("lines", []), ("totals", {"lines": 20, "without_vat": 20, "vat": "4.20", "with_vat": "24.20"}),
        ("vat", {"basis": 20, "category": "S", "rate": 21}),
    )  # fmt: skip
    assert broken(data, profile="MINIMUM") == broken(data, profile="BASIC WL") == set()
    assert "BR-16" in broken(data, profile="BASIC")


def test_what_is_wrong_is_told_with_its_field_and_what_would_be_right():
    with pytest.raises(fq.InvoiceError) as caught:
        fq.Invoice(changed(PLAIN, ("totals", {"with_vat": 25}), ("lines.0.unit", ...)), source="f.json")
    told = str(caught.value)
    assert told.startswith("f.json: The invoice breaks 2 rules of EN 16931:")
    assert "BR-CO-15: totals.with_vat: it is 25. Right would be 24.20: the total without VAT and the VAT." in told
    assert "BR-23: lines[1].unit: it is missing (BT-130)." in told


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ([("nmber", "x")], "In the invoice: 'nmber' is not known. Did you mean 'number'?"),
        ([("seller.adress", {})], "In the invoice's seller: 'adress' is not known. Did you mean 'address'?"),
        ([("lines.0.prise", 1)], r"In the invoice's lines\[1\]: 'prise' is not known. Did you mean 'price'?"),
        ([("date", "2.6.2026")], "In the invoice's date: '2.6.2026' is no date. Write it as 2026-05-31."),
        ([("lines.0.price", "ten")], r"lines\[1\].price: 'ten' is no number"),
        ([("lines.0.price", float("nan"))], "is no number"),
        ([("seller", "Reedwater")], "In the invoice's seller: 'Reedwater' is no mapping"),
        ([("number", ["x"])], r"In the invoice's number: \['x'\] is no text"),
        ([("lines", 5)], "In the invoice's lines: 5 is no list"),
    ],
)
def test_names_and_values_that_are_not_understood(changes, said):
    with pytest.raises(fq.DataError, match=said):
        fq.Invoice(changed(PLAIN, *changes))


def test_an_unknown_profile_is_told():
    with pytest.raises(fq.OptionError, match="Did you mean 'EXTENDED'"):
        fq.Invoice(PLAIN, profile="EXTENDET")
