"""A month of invoices and the members' letters: fleets, one document for each record."""

from __future__ import annotations

import random
from collections.abc import Iterator
from datetime import date, timedelta
from decimal import Decimal
from pathlib import Path
from typing import Any, Final

from fleetquill.fleet.records import records_of

SEED: Final = 2026
ORDERS: Final = 200
FIRST: Final = date(2026, 6, 1)
LOCKS: Final = ("Upper Willow", "Nether Mill", "Stonecross", "Fenny Bridge", "Saltgate")
CARGO: Final = ("barley", "brick", "clay", "gravel", "paper reels", "reed bundles", "roof slate", "sawn oak")
CUSTOMERS: Final = (
    ("Marrow & Finch Grain", "Wharf 2, Upper Willow"), ("Tallow Yard Bricks", "Wharf 4, Stonecross"),
    ("Osier Paper Works", "Wharf 7, Nether Mill"), ("Quoin & Daughters Slate", "Wharf 1, Fenny Bridge"),
    ("Pike Street Joinery", "Wharf 9, Saltgate"),
)  # fmt: skip


def orders(count: int = ORDERS) -> Iterator[dict[str, Any]]:
    """The orders of June 2026, as the demo's shelf takes them; the same on every machine."""
    chance = random.Random(SEED)
    for number in range(count):
        name, wharf = chance.choice(CUSTOMERS)
        day = FIRST + timedelta(days=number * 30 // count)
        yield {
            "number": f"F-{3000 + number}",
            "date": day.isoformat(),
            "due": (day + timedelta(days=30)).isoformat(),
            "customer": {"name": name, "wharf": wharf},
            "lines": [_line(chance) for _ in range(chance.randint(1, 6))],
        }


def _line(chance: random.Random) -> dict[str, Any]:
    here, there = sorted(chance.sample(range(len(LOCKS)), 2))
    tonnes = Decimal(chance.randint(200, 950)) / 10
    return {
        "voyage": f"{LOCKS[here]} – {LOCKS[there]}",
        "cargo": chance.choice(CARGO),
        "tonnes": tonnes,
        "amount": (tonnes * (there - here) * Decimal("1.45")).quantize(Decimal("0.01")),
    }


def letters(members: Path) -> Iterator[dict[str, Any]]:
    """A record for each member, as the shelf's letter takes it."""
    for member in records_of(members):
        yield {
            "date": "2026-07-06",
            "member": {**member, "shares": int(member["shares"]), "dividend": Decimal(member["dividend"])},
        }
