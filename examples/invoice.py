"""A freight invoice from a template and a dict: saved, and as bytes for a web response.

Usage: python examples/invoice.py [FOLDER]
"""

from __future__ import annotations

import sys
from decimal import Decimal
from pathlib import Path

import fleetquill as fq

TEMPLATE = """
<html lang="en">
<title>Freight {{ number }}</title>
<style>
  @page { size: A5; margin: 15mm; @bottom-right { content: "Page " counter(page) " of " counter(pages) } }
  html { font: 10pt/1.4 "Source Sans Pro" }
  h1 { font: 600 18pt "Source Serif Pro"; color: #0f4c4a; margin: 0 0 6mm }
  table { width: 100%; border-collapse: collapse }
  td, th { padding: 1mm 2mm; border-bottom: 0.2mm solid #cfdad7; text-align: left }
  .sum { text-align: right }
</style>
<h1>Freight {{ number }}</h1>
<table>
  <thead><tr><th>Voyage</th><th class="sum">Fee</th></tr></thead>
  {% for voyage in voyages %}
  <tr><td>{{ voyage.route }}</td><td class="sum">{{ voyage.fee | money }}</td></tr>
  {% endfor %}
</table>
"""

DATA = {
    "number": "F-2050",
    "voyages": [
        {"route": "Upper Willow – Stonecross", "fee": Decimal("412.50")},
        {"route": "Stonecross – Saltgate", "fee": Decimal("1208.00")},
    ],
}


def main(folder: Path) -> fq.Edition:
    manuscript = fq.Manuscript.from_template(TEMPLATE, DATA, locale="en-IE")
    edition = fq.compose(manuscript)
    print(edition.save(folder / "freight.pdf"), f"{edition.page_count} page, {len(edition.to_bytes())} bytes")
    for remark in edition.remarks:
        print(remark)
    return edition


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "."))
