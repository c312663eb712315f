"""Crate labels: plates with a code to scan, and a lock toll receipt drawn by coordinates."""

from __future__ import annotations

from decimal import Decimal
from pathlib import Path
from typing import Any

import fleetquill as fq
from fleetquill.tree.data import read_data

STYLE = 'html { font: 9pt/1.25 "Source Sans Pro", sans-serif; color: #1d2a2f }'
ACROSS, DOWN = 2, 4  # labels on a sheet
WIDE, HIGH = 99.0, 67.0  # mm
GREEN, GOLD = "#0f4c4a", "#b8923a"


def crate_labels(folder: Path) -> fq.Manuscript:
    """Labels for the crates of an invoice, eight to a sheet."""
    invoice = read_data(folder / "invoice-short.json")
    m = fq.Manuscript(
        title="Crate labels",
        author="Reedwater Barge Cooperative",
        language="en",
        look="plain",
        style=STYLE,
        base=folder,
    )
    lines = invoice["lines"]
    for start in range(0, len(lines), ACROSS * DOWN):
        with m.plate(page="A4") as sheet:
            for place, line in enumerate(lines[start : start + ACROSS * DOWN]):
                left = 6.0 + place % ACROSS * WIDE
                top = 14.0 + place // ACROSS * HIGH
                _label(sheet, line, invoice, left, top)
    return m


def _label(sheet: fq.Plate, line: dict[str, Any], invoice: dict[str, Any], left: float, top: float) -> None:
    """One label with its corner at (left, top), in millimetres."""

    def mm(x: float) -> str:
        return f"{left + x:g}mm"

    def down(y: float) -> str:
        return f"{top + y:g}mm"

    sheet.rectangle(mm(2), down(2), f"{WIDE - 4}mm", f"{HIGH - 4}mm", radius="2mm", stroke=GREEN, line="0.4mm")
    sheet.rectangle(mm(2), down(2), f"{WIDE - 4}mm", "11mm", radius="2mm", color=GREEN, stroke="none")
    sheet.picture("mark.svg", x=mm(4), y=down(3), width="9mm")
    sheet.text("Reedwater Barge Cooperative", x=mm(15), y=down(7.5), anchor="left middle", color="white", size=9)
    sheet.text(
        line["waybill"],
        x=mm(WIDE - 5),
        y=down(7.5),
        anchor="right middle",
        color="white",
        size=12,
        style="font-weight:600",
    )
    sheet.text("to", x=mm(6), y=down(20), anchor="left baseline", color="#5b6b6d")
    sheet.text(
        line["to"],
        x=mm(12),
        y=down(20),
        anchor="left baseline",
        size=20,
        style="font-weight:600",
        width="52mm",
        height="9mm",
    )
    sheet.text("from ", line["from"], " by ", fq.strong(line["barge"]), x=mm(6), y=down(27), anchor="left baseline")
    sheet.text(invoice["customer"]["name"], x=mm(6), y=down(31), width="58mm", height="7mm", size=14, shrink=True)
    sheet.line(mm(6), down(41), mm(64), down(41), color=GOLD, line="0.3mm")
    sheet.text(line["cargo"].capitalize(), x=mm(6), y=down(47.5), anchor="left baseline", size=12)
    sheet.text(fq.value(line["tonnes"], "#,##0.0"), " t", x=mm(64), y=down(47.5), anchor="right baseline", size=12)
    sheet.code("code128", line["waybill"], x=mm(6), y=down(51), width="58mm", height="9mm")
    sheet.code("qr", f"https://reedwater.example/w/{line['waybill']}", x=mm(66), y=down(31), width="29mm")


def toll_receipt() -> fq.Manuscript:
    """A lock toll receipt on a till roll, placed by coordinates."""
    m = fq.Manuscript(title="Lock toll receipt", language="en", look="plain", style="html { font: 9pt/1.2 monospace }")
    tolls = [
        ("Hull, 24 m", Decimal("18.00")),
        ("Cargo, 96.4 t barley", Decimal("28.92")),
        ("Night passage", Decimal("6.50")),
    ]
    height = 112
    with m.plate(page=f"80mm {height}mm") as roll:
        middle = roll.width / 2
        roll.text("STONECROSS LOCK", x=middle, y="9mm", anchor="center baseline", size=13, style="font-weight:bold")
        roll.text("Reedwater Barge Cooperative", x=middle, y="14mm", anchor="center baseline", size=8)
        roll.line("5mm", "18mm", "75mm", "18mm", dash="2 2")
        roll.text("Barge Heron", x="5mm", y="24mm", anchor="left baseline")
        roll.text("3 June 2026 21:47", x="75mm", y="24mm", anchor="right baseline")
        y = 32.0
        for what, amount in tolls:
            roll.text(what, x="5mm", y=f"{y}mm", anchor="left baseline")
            roll.text(fq.value(amount, "#,##0.00"), x="75mm", y=f"{y}mm", anchor="right baseline")
            y += 5
        roll.line("5mm", f"{y - 2}mm", "75mm", f"{y - 2}mm")
        total = sum((amount for _, amount in tolls), Decimal(0))
        roll.text("Total EUR", x="5mm", y=f"{y + 3.5}mm", anchor="left baseline", size=13, style="font-weight:bold")
        roll.text(
            fq.value(total, "#,##0.00"),
            x="75mm",
            y=f"{y + 3.5}mm",
            anchor="right baseline",
            size=13,
            style="font-weight:bold",
        )
        roll.code("qr", "https://reedwater.example/toll/88213", x="26mm", y=f"{y + 8}mm", width="28mm")
        roll.text("Receipt 88213", x=middle, y=f"{y + 40}mm", anchor="center baseline")
        roll.text("Keep to the left bank when leaving.", x=middle, y=f"{y + 45}mm", anchor="center baseline", size=7.5)
    return m
