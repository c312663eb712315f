"""An invoice that has everything that the semantic model has, and ways to change it."""

import copy

FULL = {
    "number": "F-2041",
    "date": "2026-06-02",
    "kind": "380",
    "currency": "EUR",
    "tax_currency": "SEK",
    "due": "2026-07-02",
    "tax_point": "2026-05-31",
    "buyer_reference": "04011000-12345-03",
    "project": "Weir 3",
    "contract": "C-77",
    "order": "O-1",
    "sales_order": "S-1",
    "receiving_advice": "R-1",
    "despatch_advice": "D-1",
    "tender": "T-1",
    "object": {"value": "gauge 7", "scheme": "ABK"},
    "buyer_account": "6100",
    "terms": "Within 30 days",
    "process": "urn:process",
    "notes": [{"text": "Freight & tolls", "subject": "AAI"}, "As agreed"],
    "preceding": {"number": "F-2000", "date": "2026-05-02"},
    "seller": {
        "name": "Reedwater Barge Cooperative",
        "trading_name": "Reedwater",
        "identifiers": [{"value": "4000000000014", "scheme": "0088"}, "own-1"],
        "registration": {"value": "RB 77", "scheme": "0002"},
        "vat_identifier": "XR4402001",
        "tax_registration": "44/020",
        "legal_information": "Registered at Stonecross",
        "electronic_address": {"value": "office@reedwater.example", "scheme": "EM"},
        "address": {
            "lines": ["Lock House", "Second door", "Third floor"], "city": "Stonecross", "post_code": "SX2 1RB",
            "region": "Alder", "country": "XR",
        },
        "contact": {"name": "Freight office", "phone": "+000 1", "email": "office@reedwater.example"},
    },
    "buyer": {
        "name": "Osier Paper Works",
        "registration": "RB 99",
        "vat_identifier": "XR4402118",
        "address": {"lines": "Wharf 7", "city": "Nether Mill", "country": "XR"},
        "electronic_address": {"value": "osier@example", "scheme": "EM"},
    },
    "payee": {"name": "Alder Bank", "identifiers": "P-1", "registration": "RB 5"},
    "tax_representative": {
        "name": "Tally & Sons", "vat_identifier": "XR4409999", "address": {"lines": "Quay 1", "country": "XR"},
    },
    "delivery": {
        "name": "Yard", "location": {"value": "4000000000021", "scheme": "0088"}, "date": "2026-05-30",
        "address": {"lines": "Quay 9", "city": "Saltgate", "country": "XR"},
    },
    "period": {"start": "2026-05-02", "end": "2026-05-31"},
    "payment": {
        "means": "58", "means_text": "Transfer", "reference": "F-2041", "mandate": "M-1", "creditor": "CR-1",
        "debited_account": "XR22", "card_number": "1234", "card_holder": "A. Pike",
        "accounts": {"identifier": "IE22REED00000012345678", "name": "Reedwater", "bank": "REEDIE22"},
    },
    "allowances": [
        {"base": "100.00", "percent": 5, "vat_category": "S", "vat_rate": 21, "reason": "Member", "reason_code": "95"}
    ],
    "charges": [{"amount": "3.00", "vat_category": "S", "vat_rate": 21, "reason": "Night passage", "reason_code": "FC"}],
    "supporting": {"reference": "W-1", "description": "Waybills", "address": "https://reedwater.example/w-1"},
    "totals": {"vat_in_tax_currency": "251.60", "paid": "10.00", "rounding": "0.02"},
    "lines": [
        {
            "name": "Paper reels", "description": "Nether Mill – Stonecross", "quantity": 42, "unit": "TNE",
            "gross_price": "2.70", "price_discount": "0.05", "vat_category": "S", "vat_rate": 21, "note": "Waybill 1",
            "object": {"value": "reel 1", "scheme": "ABK"}, "order_line": "1", "buyer_account": "6101",
            "period": {"start": "2026-05-03", "end": "2026-05-03"}, "seller_item": "PR", "buyer_item": "B-PR",
            "standard_item": {"value": "4000000000038", "scheme": "0160"}, "origin": "XR",
            "classifications": {"code": "60.20", "scheme": "STI", "version": "1"},
            "attributes": {"name": "Colour", "value": "white"},
            "allowances": {"amount": "1.00", "reason": "Damp"}, "charges": {"amount": "0.50", "reason_code": "FC"},
        },
        {"name": "Reed bundles", "quantity": "10", "unit": "H87", "price": "3.000", "base_quantity": 1,
         "vat_category": "S", "vat_rate": "21"},
    ],
}  # fmt: skip

PLAIN = {
    "number": "F-1",
    "date": "2026-06-02",
    "due": "2026-07-02",
    "currency": "EUR",
    "seller": {"name": "A", "vat_identifier": "XR1", "address": {"country": "XR"}},
    "buyer": {"name": "B", "vat_identifier": "XR2", "address": {"country": "XR"}},
    "lines": [{"name": "x", "quantity": 2, "unit": "C62", "price": "10", "vat_category": "S", "vat_rate": 21}],
}


def changed(base, *changes):
    """The invoice with changes: a path such as 'lines.0.price' and a value; without one where it is `...`."""
    made = copy.deepcopy(base)
    for path, value in changes:
        *around, name = path.split(".")
        place = made
        for step in around:
            if isinstance(place, list):
                place = place[int(step)]
            else:
                place = place.setdefault(step, {})
        if value is ...:
            place.pop(name) if isinstance(place, dict) else place.pop(int(name))
        elif isinstance(place, list):
            place[int(name)] = value
        else:
            place[name] = value
    return made
