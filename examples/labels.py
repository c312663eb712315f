"""Drawn pages: crate labels placed by coordinates, each named for its record.

Usage: python examples/labels.py [FOLDER]
"""

from __future__ import annotations

import sys
from pathlib import Path

import fleetquill as fq

CRATES = [
    {"waybill": "W-31400", "to": "Stonecross", "cargo": "paper reels"},
    {"waybill": "W-31403", "to": "Fenny Bridge", "cargo": "roof slate"},
]


def label(crate: dict[str, str]) -> fq.Manuscript:
    m = fq.Manuscript(title=crate["waybill"], language="en", style='html { font-family: "Source Sans Pro" }')
    with m.plate(page="80mm 50mm") as p:
        p.rectangle("2mm", "2mm", "76mm", "46mm", radius="2mm", stroke="#0f4c4a", line="0.4mm")
        p.text(
            crate["to"], x="6mm", y="6mm", width="46mm", height="11mm", size=28, shrink=True, style="font-weight: 600"
        )
        p.text(crate["cargo"], x="6mm", y="19mm", size=11)
        p.text(crate["waybill"], x=p.width - 17, y="8mm", anchor="right top", size=11, color="#b8923a")
        p.code("code128", crate["waybill"], x="4mm", y="30mm", width="48mm", height="12mm")
        p.code("qr", f"https://reedwater.example/w/{crate['waybill']}", x="54mm", y="22mm", width="21mm")
    return m


def main(folder: Path) -> list[fq.Edition]:
    editions = []
    for crate in CRATES:
        edition = fq.compose(label(crate))
        print(edition.save(folder / fq.safe_name("label {waybill} {to}", crate)))
        editions.append(edition)
    return editions


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "."))
