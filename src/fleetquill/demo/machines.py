"""The freight invoice for machines: an order of the cooperative in the words of EN 16931."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any, Final

from fleetquill.invoices.invoice import Invoice

RIVER: Final = "XR"  # the country of the River Alder, which no other list has
TONNE: Final = "TNE"  # UN/ECE Recommendation 20
TRANSFER: Final = "58"  # UNTDID 4461: a SEPA credit transfer
COOPERATIVE: Final = {
    "name": "Reedwater Barge Cooperative",
    "vat_identifier": "XR4402001",
    "address": {"lines": "Lock House", "city": "Stonecross", "post_code": "SX2 1RB", "country": RIVER},
    "contact": {"name": "Freight office", "email": "office@reedwater.example"},
    "electronic_address": {"value": "office@reedwater.example", "scheme": "EM"},
}


def freight_invoice(order: Mapping[str, Any]) -> Invoice:
    """The invoice of an order: each waybill is a line, priced by the tonne."""
    customer = order["customer"]
    street, town = customer["lines"]
    iban = {"identifier": order["iban"], "name": COOPERATIVE["name"]}
    return Invoice(
        {
            "number": order["number"],
            "date": order["date"],
            "due": order["due"],
            "currency": "EUR",
            "period": {"start": order["period"]["from"], "end": order["period"]["to"]},
            "seller": COOPERATIVE,
            "buyer": {
                "name": customer["name"],
                "identifiers": customer["account"],
                "vat_identifier": customer["vat_number"].replace(" ", ""),
                "address": {"lines": street, "city": town, "country": RIVER},
            },
            "payment": {"means": TRANSFER, "reference": order["number"], "accounts": iban},
            "lines": [
                {
                    "name": f"{line['cargo'].capitalize()}, {line['from']} – {line['to']}",
                    "note": f"Waybill {line['waybill']}, barge {line['barge']}",
                    "quantity": line["tonnes"],
                    "unit": TONNE,
                    "price": line["rate"],
                    "net_amount": line["amount"],
                    "vat_category": "S",
                    "vat_rate": (Decimal(str(line["vat"])) * 100).normalize(),
                }
                for line in order["lines"]
            ],
        }
    )
