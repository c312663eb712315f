"""A page of every kind of chart and code, from the demo's own figures."""

from __future__ import annotations

import csv
from pathlib import Path
from typing import Any

import fleetquill as fq
from fleetquill.tree.data import read_data

STYLE = """
html { font: 8.5pt/1.3 "Source Sans Pro", sans-serif; color: #1d2a2f }
h1 { font: 600 18pt/1.1 "Source Serif Pro", serif; color: #0f4c4a; margin: 0 0 3mm }
.board { display: grid; grid-template-columns: 1fr 1fr; gap: 3mm 6mm }
.codes { display: flex; gap: 10mm; align-items: flex-end; margin-top: 4mm }
.codes p { margin: 0; text-align: center }
fq-chart { font-size: 7.5pt; margin: 0 }
"""
SIZE: dict[str, Any] = {"width": "88mm", "height": "53mm"}


def gallery(folder: Path) -> fq.Manuscript:
    report = read_data(folder / "report.json")
    with (folder / "voyages.csv").open(encoding="utf-8", newline="") as file:
        voyages = [row for number, row in enumerate(csv.DictReader(file)) if number % 25 == 0]
    months = report["months"]
    cargo: list[dict[str, Any]] = [
        {"cargo": row["cargo"], **dict(zip(months, row["months"], strict=True)), "freight": row["revenue"]}
        for row in report["cargo"]
    ]
    locks = [
        {"month": month, **{row["lock"]: row["months"][i] for row in report["locks"]}} for i, month in enumerate(months)
    ]
    names = [row["lock"] for row in report["locks"]]
    m = fq.Manuscript(title="Charts and codes", language="en", style=STYLE, page="A4", margin="13mm 14mm", base=folder)
    m.heading("Charts and codes")
    with m.section(class_="board"):
        m.chart(
            "bar", cargo[:5], x="cargo", y=months, title="Bars side by side", y_title="tonnes", form="#,##0", **SIZE
        )
        m.chart(
            "bar",
            cargo[:5],
            x="cargo",
            y=months,
            stacked=True,
            title="Bars stacked",
            y_title="tonnes",
            form="#,##0",
            **SIZE,
        )
        m.chart(
            "bar",
            cargo,
            x="cargo",
            y="freight",
            horizontal=True,
            title="Bars across, with their values",
            form="#,##0",
            values=True,
            **SIZE,
        )
        m.chart("line", locks, x="month", y=names, title="Lines", y_title="passages", **SIZE)
        m.chart("area", locks, x="month", y=names[:3], stacked=True, title="Areas", y_title="passages", **SIZE)
        m.chart(
            "scatter", voyages, x="tonnes", y="toll", title="Points", x_title="tonnes", y_title="toll, euro", **SIZE
        )
        m.chart("pie", cargo[:6], x="cargo", y="freight", title="Parts of a whole", form="#,##0", **SIZE)
        m.chart(
            "histogram", voyages, y="tonnes", bins=14, title="Distribution", x_title="tonnes", y_title="voyages", **SIZE
        )
    m.paragraph(
        "In a line of text: passages at Saltgate ", fq.spark(report["locks"][4]["months"], style="color:#0f4c4a"),
        ", the same as bars ", fq.spark(report["locks"][4]["months"], "bar", style="color:#b8923a"),
        ", and the dry dock’s fund at 62 % ", fq.spark([0.62], "progress", style="color:#0f4c4a"), ".",
        style="margin:3mm 0 0",
    )  # fmt: skip
    with m.section(class_="codes"):
        for kind, text in (
            ("qr", "https://reedwater.example"),
            ("code128", "W-31400"),
            ("code39", "HERON"),
            ("ean13", "2000000020419"),
        ):
            with m.box():
                m.code(kind, text, height="17mm" if kind == "qr" else "12mm", style="display:block;margin:0 auto")
                m.paragraph(kind)
    return m
