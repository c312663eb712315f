"""A document written in Python: headings, a table with sums, a chart, a footnote, page numbers.

Usage: python examples/statement.py [FOLDER]
"""

from __future__ import annotations

import sys
from datetime import date
from decimal import Decimal
from pathlib import Path

import fleetquill as fq

CROSSINGS = [
    {"day": date(2026, 5, 4), "lock": "Upper Willow", "tonnes": Decimal("118.4"), "fee": Decimal("412.50")},
    {"day": date(2026, 5, 9), "lock": "Stonecross", "tonnes": Decimal("97.2"), "fee": Decimal("318.00")},
    {"day": date(2026, 5, 21), "lock": "Saltgate", "tonnes": Decimal("131.0"), "fee": Decimal("466.20")},
]


def manuscript() -> fq.Manuscript:
    m = fq.Manuscript(
        title="Freight statement", language="en", page="A5", margin="15mm",
        style='html { font: 9.5pt/1.4 "Source Sans Pro" } h1 { color: #0f4c4a; margin: 0 0 4mm }',
    )  # fmt: skip
    m.footer(left="Reedwater Barge Cooperative", right="Page {page} of {pages}", style="font-size: 7.5pt")
    m.heading("Freight statement")
    m.paragraph("Three crossings in May", fq.footnote("Counted where the cargo was weighed."), ", see ",
                fq.link("the tariff", "https://reedwater.example/tariff"), ".")  # fmt: skip
    m.table(
        CROSSINGS,
        columns=[
            fq.Column("day", head="Day", form="date:d MMM"),
            fq.Column("lock", head="Lock"),
            fq.Column("tonnes", head="Tonnes", form="#,##0.0", align="right"),
            fq.Column("fee", head="Fee", form="money:EUR", align="right", total="sum", carry=True),
        ],
        stripes=True,
    )
    m.chart(
        "bar",
        CROSSINGS,
        x="lock",
        y="tonnes",
        title="Tonnes by lock",
        width="118mm",
        height="60mm",
        style="font-size: 8pt; margin-top: 5mm",
    )
    return m


def main(folder: Path) -> fq.Edition:
    edition = fq.compose(manuscript(), locale="en-IE")
    print(edition.save(folder / "statement.pdf"))
    return edition


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "."))
