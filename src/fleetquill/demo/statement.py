"""A customer's freight statement, written in Python."""

from __future__ import annotations

from decimal import Decimal
from pathlib import Path

import fleetquill as fq
from fleetquill.tree.data import read_data

STYLE = """
html { font: 10pt/1.45 "Source Sans Pro", sans-serif; color: #1d2a2f }
h1 { font: 600 22pt/1.1 "Source Serif Pro", serif; color: #0f4c4a; margin: 0 0 4mm }
h2 { font-size: 12pt; color: #0f4c4a; margin: 6mm 0 2mm }
.fq-table { font-size: 9pt; font-variant-numeric: tabular-nums lining-nums }
.fq-table thead th { background: #0f4c4a; color: #fff }
.fq-table tfoot td { border-top: 0.4mm solid #0f4c4a }
.facts { background: #eef3f1; padding: 3mm 4mm; border-radius: 1.5mm }
.facts p { margin: 0 }
"""


def statement(folder: Path) -> fq.Manuscript:
    """The statement of the data in a folder."""
    invoice = read_data(folder / "invoice-long.json")
    lines = invoice["lines"]
    m = fq.Manuscript(
        title="Freight statement", author="Reedwater Barge Cooperative", language="en", style=STYLE, page="A4",
        margin="20mm 18mm 22mm", base=folder,
    )  # fmt: skip
    m.footer(left="Reedwater Barge Cooperative", right="Page {page} of {pages}", style="font-size:8pt; color:#5b6b6d")
    with m.layer(first_page_only=True) as sheet:
        sheet.picture("mark.svg", x=sheet.width - 98, y="10mm", width="16mm", alt="The mark of the cooperative")
    m.heading("Freight statement")
    with m.row(gap="6mm"):
        with m.box(width="70mm", class_="facts"):
            m.paragraph(fq.strong(invoice["customer"]["name"]))
            for line in invoice["customer"]["lines"]:
                m.paragraph(line)
        with m.box(class_="facts"):
            m.paragraph("Invoice ", fq.strong(invoice["number"]), " of ", fq.value(invoice["date"], "date:long"))
            m.paragraph("Waybills: ", len(lines))
            m.paragraph("Freight before tax: ", fq.strong(fq.value(invoice["net"], "money:EUR")))
    m.heading("What was carried", level=2)
    tonnes: dict[str, Decimal] = {}
    for line in lines:
        tonnes[line["cargo"]] = tonnes.get(line["cargo"], Decimal(0)) + line["tonnes"]
    m.chart("bar", [{"cargo": name, "tonnes": value} for name, value in sorted(tonnes.items())], x="cargo", y="tonnes",
            form="#,##0", y_title="tonnes", width="174mm", height="52mm", style="font-size:8pt")  # fmt: skip
    m.paragraph(
        "Tonnes are as weighed at the first lock", fq.footnote("The scale at Upper Willow is tested each spring."),
        "; the fee is by the tonne and the stretch. Questions are answered at the ",
        fq.link("freight office", "https://reedwater.example/freight"), ".",
    )  # fmt: skip
    m.heading("Every waybill", level=2)
    m.table(
        lines,
        columns=[
            fq.Column("date", head="Date", form="date:d MMM"),
            fq.Column("waybill", head="Waybill"),
            fq.Column("barge", head="Barge"),
            fq.Column("cargo", head="Cargo"),
            fq.Column("tonnes", head="Tonnes", form="#,##0.0", align="right"),
            fq.Column("amount", head="Fee", form="money:EUR", align="right", total="sum", carry=True),
        ],
        stripes=True,
    )
    return m
