"""Writes the demo workbook, a cargo manifest in two sheets, into src/fleetquill/demo/. The same on every machine.

Usage: python tools/make_demo_workbook.py
"""

from __future__ import annotations

import io
import random
from datetime import date, datetime, timedelta
from pathlib import Path
from typing import Any

import xlsxwriter

from fleetquill import compose
from fleetquill.authoring.manuscript import Manuscript

TARGET = Path(__file__).parent.parent / "src/fleetquill/demo"
GREEN, GOLD, INK, MIST = "#0f4c4a", "#b8923a", "#1d2a2f", "#eef3f1"
CARGO = (
    ("barley", "Marrow & Finch Grain", 120, 48.5, 102.5),
    ("brick", "Tallow Yard Bricks", 44, 31.25, 61.0),
    ("clay", "Tallow Yard Bricks", 18, 22.4, 18.75),
    ("paper reels", "Osier Paper Works", 8, 22.0, 640.0),
    ("reed bundles", "Osier Paper Works", 310, 9.1, 88.0),
    ("roof slate", "Quoin & Daughters Slate", 12, 40.75, 210.4),
    ("sawn oak", "Pike Street Joinery", 30, 18.4, 395.0),
)
FONT = {"font_name": "Source Sans Pro", "font_size": 10, "font_color": INK, "valign": "vcenter"}


def mark() -> bytes:
    """The cooperative's mark as pixels."""
    m = Manuscript(page="20mm 20mm", margin=0, base=TARGET, look="plain")
    m.picture("mark.svg", width="20mm", alt="The mark of the cooperative")
    return compose(m).pages[0].to_png(dpi=200)


def main() -> None:
    book = xlsxwriter.Workbook(TARGET / "cargo.xlsx", {"default_format_properties": FONT})
    book.set_properties(
        {
            "title": "Cargo manifest of the Heron",
            "author": "Reedwater Barge Cooperative",
            "created": datetime(2026, 5, 4),
        }
    )
    manifest(book)
    stowage(book)
    book.close()


def manifest(book: Any) -> None:
    """What the barge carries: a table with sums, formats, conditions, a picture and a chart."""
    sheet = book.add_worksheet("Cargo manifest")
    looks: dict[str, dict[str, Any]] = {
        "title": {
            "font_name": "Source Serif Pro",
            "font_size": 20,
            "bold": True,
            "font_color": GREEN,
            "align": "center",
        },
        "note": {"italic": True, "font_color": "#5b6b6d"},
        "head": {
            "bold": True,
            "font_color": "#ffffff",
            "bg_color": GREEN,
            "text_wrap": True,
            "align": "center",
            "bottom": 2,
            "bottom_color": GOLD,
        },
        "text": {"bottom": 4, "bottom_color": GOLD, "indent": 1},
        "count": {"bottom": 4, "bottom_color": GOLD, "num_format": "#,##0"},
        "tonnes": {"bottom": 4, "bottom_color": GOLD, "num_format": '#,##0.00" t"'},
        "share": {"bottom": 4, "bottom_color": GOLD, "num_format": "0.0%"},
        "value": {"bottom": 4, "bottom_color": GOLD, "num_format": "#,##0.00 [$€-407];[Red]-#,##0.00 [$€-407]"},
        "day": {"bottom": 4, "bottom_color": GOLD, "num_format": "ddd d mmm", "align": "right"},
        "total": {"bold": True, "top": 6, "num_format": '#,##0.00" t"'},
        "sum": {"bold": True, "top": 6, "num_format": "#,##0.00 [$€-407]"},
        "label": {"bold": True, "top": 6, "indent": 1},
        "side": {"bold": True, "rotation": 90, "align": "center", "bg_color": MIST, "font_color": GREEN},
        "strong": {"bold": True, "font_color": "#c0392b"},
        "link": {"font_color": "#0563c1", "underline": 1},
    }
    look = {name: book.add_format({**FONT, **facts}) for name, facts in looks.items()}
    for columns, width in (
        ("A:A", 5),
        ("B:B", 17),
        ("C:C", 26),
        ("D:D", 10),
        ("E:E", 12),
        ("F:F", 9),
        ("G:G", 14),
        ("H:H", 12),
    ):
        sheet.set_column(columns, width)
    sheet.set_row(0, 48)
    sheet.merge_range("B1:H1", "Cargo manifest", look["title"])
    sheet.insert_image(
        "A1",
        "mark.png",
        {
            "image_data": io.BytesIO(mark()),
            "x_scale": 0.55,
            "y_scale": 0.55,
            "x_offset": 8,
            "y_offset": 4,
            "description": "The mark of the cooperative",
            "object_position": 2,
        },
    )
    sheet.write("B2", "Barge Heron, voyage 31, from Upper Willow to Saltgate, 4 May 2026", look["note"])
    sheet.set_row(3, 30)
    for column, title in enumerate(
        ["Cargo", "Customer", "Pack-\nages", "Weight", "Share", "Value", "Due at\nSaltgate"], 1
    ):
        sheet.write(3, column, title, look["head"])
    total = sum(row[3] for row in CARGO)
    last = 3 + len(CARGO)
    for number, (cargo, customer, packages, tonnes, price) in enumerate(CARGO, 4):
        value = round(tonnes * price, 2) * (-1 if cargo == "clay" else 1)
        sheet.write(number, 1, cargo, look["text"])
        sheet.write(number, 2, customer, look["text"])
        sheet.write(number, 3, packages, look["count"])
        sheet.write(number, 4, tonnes, look["tonnes"])
        sheet.write_formula(number, 5, f"=E{number + 1}/E{last + 2}", look["share"], tonnes / total)
        sheet.write(number, 6, value, look["value"])
        sheet.write(number, 7, date(2026, 5, 6) + timedelta(days=number % 3), look["day"])
    sheet.merge_range(4, 0, last, 0, "Hold", look["side"])
    amount = sum(round(r[3] * r[4], 2) * (-1 if r[0] == "clay" else 1) for r in CARGO)
    sheet.merge_range(last + 1, 1, last + 1, 3, "Total", look["label"])
    sheet.write_formula(last + 1, 4, f"=SUM(E5:E{last + 1})", look["total"], total)
    sheet.write(last + 1, 5, "", look["label"])
    sheet.write_formula(last + 1, 6, f"=SUM(G5:G{last + 1})", look["sum"], amount)
    sheet.write(last + 1, 7, "", look["label"])
    cells = f"E5:E{last + 1}"
    sheet.conditional_format(cells, {"type": "data_bar", "bar_color": "#dcc89a", "data_bar_2010": False})
    sheet.conditional_format(
        f"D5:D{last + 1}", {"type": "2_color_scale", "min_color": "#ffffff", "max_color": "#9cc4bd"}
    )
    sheet.conditional_format(f"F5:F{last + 1}", {"type": "icon_set", "icon_style": "3_arrows"})
    sheet.write_rich_string(
        last + 3,
        1,
        "Stow the ",
        look["strong"],
        "slate",
        " lowest, and the reeds where they stay dry.",
    )
    sheet.write_url(last + 4, 1, "https://reedwater.example/tariff", look["link"], "The tariff of the cooperative")
    sheet.write(last + 4, 6, 31.5 / 24, book.add_format({**FONT, "num_format": '"under way" [h]:mm'}))
    chart = book.add_chart({"type": "column"})
    chart.add_series(
        {
            "name": "Weight in tonnes",
            "categories": ["Cargo manifest", 4, 1, last, 1],
            "values": ["Cargo manifest", 4, 4, last, 4],
            "fill": {"color": GREEN},
            "categories_data": [row[0] for row in CARGO],
            "values_data": [row[3] for row in CARGO],
        }
    )
    chart.set_title({"name": "Weight by cargo, in tonnes"})
    chart.set_legend({"none": True})
    chart.set_size({"width": 700, "height": 260})
    sheet.insert_chart(last + 6, 1, chart)
    _pages(sheet, "Cargo manifest")
    sheet.repeat_rows(3)


def stowage(book: Any) -> None:
    """Where each package lies: a table with the bands of its style, longer than a page."""
    sheet = book.add_worksheet("Stowage")
    chance = random.Random(31)
    rows = []
    number = 0
    for cargo, _, packages, tonnes, _ in CARGO:
        for part in range(min(9, packages)):
            number += 1
            rows.append(
                [
                    f"P-{3100 + number}",
                    cargo,
                    "ABCD"[part % 4],
                    1 + part // 4,
                    round(tonnes / min(9, packages), 3),
                    date(2026, 5, 4) + timedelta(minutes=chance.randrange(400)),
                ]
            )
    day = book.add_format({**FONT, "num_format": "d mmm yyyy"})
    weight = book.add_format({**FONT, "num_format": "0.000"})
    sheet.add_table(
        0,
        0,
        len(rows),
        5,
        {
            "data": rows,
            "style": "Table Style Medium 2",
            "name": "Stowage",
            "columns": [
                {"header": name, "format": form}
                for name, form in zip(
                    ("Package", "Cargo", "Bay", "Layer", "Tonnes", "Loaded"),
                    (None, None, None, None, weight, day),
                    strict=True,
                )
            ],
        },
    )
    for columns, width in (("A:A", 12), ("B:B", 18), ("C:D", 8), ("E:E", 11), ("F:F", 14)):
        sheet.set_column(columns, width)
    sheet.conditional_format(
        1,
        4,
        len(rows),
        4,
        {
            "type": "top",
            "value": 5,
            "format": book.add_format({"bold": True, "font_color": "#c0392b"}),
        },
    )
    _pages(sheet, "Stowage")
    sheet.repeat_rows(0)


def _pages(sheet: Any, name: str) -> None:
    sheet.set_paper(9)
    sheet.set_margins(left=0.6, right=0.6, top=0.9, bottom=0.8)
    sheet.center_horizontally()
    sheet.fit_to_pages(1, 0)
    sheet.set_header('&L&"Source Sans Pro,Bold"&9Reedwater Barge Cooperative&R&9&A')
    sheet.set_footer("&C&9Page &P of &N")


if __name__ == "__main__":
    main()
