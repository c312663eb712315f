"""Documents made in Python for the record: a workbook with every look, bound and filled files, a brief, plates, parts."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from datetime import date, datetime, time
from decimal import Decimal

from openpyxl import Workbook
from openpyxl.styles import Alignment, Border, Font, PatternFill, Side

import fleetquill as fq

LINES = (
    "thin", "medium", "thick", "hair", "dashed", "mediumDashed", "dotted", "double", "dashDot", "mediumDashDot", "dashDotDot",
    "mediumDashDotDot", "slantDashDot",
)  # fmt: skip
FILLS = (
    "solid", "gray0625", "gray125", "lightGray", "mediumGray", "darkGray", "lightHorizontal", "darkVertical", "lightDown", "darkUp",
    "lightGrid", "darkTrellis",
)  # fmt: skip
TOLLS = [
    {"lock": "Saltgate", "barge": "Heron", "day": date(2026, 5, 1), "toll": Decimal("12.50"), "late": False},
    {"lock": "Saltgate", "barge": "Teal", "day": date(2026, 5, 2), "toll": Decimal("7.25"), "late": True},
    {"lock": "Stonecross", "barge": "Heron", "day": date(2026, 5, 2), "toll": Decimal("-3.00"), "late": False},
]


def workbook() -> fq.Manuscript:
    """Borders, fills, fonts, alignments, number formats, merged and hidden cells, sizes, print settings."""
    made = Workbook()
    sheet = made.active
    sheet.title = "Looks"
    for row, style in enumerate(LINES, 1):
        sheet.cell(row, 1, style).border = Border(
            top=Side(style, color="FFFF0000"), left=Side(style), bottom=Side("thin")
        )
    for row, fill in enumerate(FILLS, 1):
        sheet.cell(row, 2, fill).fill = PatternFill(fill, fgColor="FF0F4C4A", bgColor="FFB8923A")
    fonts = [
        Font(b=True), Font(i=True), Font(u="single"), Font(u="double"), Font(strike=True), Font(size=20), Font("Courier New"),
        Font(color="FFFF0000"), Font(vertAlign="superscript"), Font(vertAlign="subscript"), Font("Georgia", 9, b=True, i=True),
    ]  # fmt: skip
    for row, font in enumerate(fonts, 1):
        sheet.cell(row, 3, "Heron").font = font
    across = ("left", "right", "center", "centerContinuous", "justify", "distributed", "fill", "general")
    for row, name in enumerate(across, 1):
        sheet.cell(row, 4, "Teal 12").alignment = Alignment(
            name, vertical=("top", "center", "bottom", "justify")[row % 4], indent=row % 3
        )
    turned = sheet.cell(9, 4, "turned")
    turned.alignment = Alignment(textRotation=45)
    sheet.cell(10, 4, "a long text that wraps in its cell").alignment = Alignment(wrapText=True, shrinkToFit=False)
    values = [
        (1234.5, "#,##0.00"), (0.256, "0.0%"), (-5, "0;[Red]-0"), (datetime(2026, 5, 3, 14, 5), "yyyy-mm-dd hh:mm"),
        (time(6, 5), "h:mm"), (1234.5, "[$€-407] #,##0.00"), (True, "General"), ("text", "@"), (12345, "0.00E+00"), (1.75, "# ?/?"),
    ]  # fmt: skip
    for row, (value, code) in enumerate(values, 1):
        sheet.cell(row, 5, value).number_format = code
    sheet.merge_cells("A15:C16")
    sheet["A15"] = "merged"
    sheet.row_dimensions[15].height = 40
    sheet.row_dimensions[17].hidden = True
    sheet["A17"] = "hidden"
    sheet.column_dimensions["A"].width = 20
    sheet.column_dimensions["F"].hidden = True
    sheet["F1"] = "hidden"
    sheet["G1"] = '=HYPERLINK("https://reedwater.example/","link")'
    sheet.page_setup.orientation = "landscape"
    sheet.print_title_rows = "1:1"
    sheet.oddFooter.center.text = "Page &P of &N"
    second = made.create_sheet("Plain")
    for row in range(1, 60):
        second.append([row, f"Barge {row}", row * 1.5])
    content = io.BytesIO()
    made.save(content)
    return fq.Manuscript.from_workbook(content.getvalue())


def parts() -> fq.Manuscript:
    """Every part of the Python door, charts apart."""
    m = fq.Manuscript(title="Tolls", language="en", page="A5", margin="15mm")
    m.header(left="Tolls of May")
    m.footer(center="{page} of {pages}")
    m.contents()
    m.heading("Tolls")
    m.paragraph("Paid ", fq.strong("by weight"), " at ", fq.link("the lock", "https://reedwater.example/"), ".")
    m.bullets(["Heron", ["Teal", "small"]])
    m.numbered(["one", "two"])
    m.definitions([("Barge", "Heron"), ("Lock", "Weir")])
    m.quotation("All locks close at dusk.")
    m.listing("press.write(m)")
    m.table(TOLLS, [
        fq.Column("lock"), fq.Column("day"), fq.Column("toll", form="money:EUR", total="sum"),
        fq.Column("late", rule=lambda late: "late" if late else ""),
    ])  # fmt: skip
    m.ledger(TOLLS, [fq.Column("lock"), fq.Column("toll", form="money:EUR", total="sum", carry=True)], group="lock")
    m.rule()
    m.space("5mm")
    with m.box(style="border:1px solid"):
        m.paragraph("in a box")
    with m.columns(2):
        m.paragraph("in the first column, and then in the second")
    m.code("qr", "https://reedwater.example/")
    m.page_break()
    with m.section(page="A5 landscape"):
        m.heading("Annex", level=2)
    return m


BRIEF = """
brief:
  title: Tolls
  language: en
  currency: EUR
  data:
    tolls: {given: true}
  parts:
    - cards: [{label: Paid, value: "tolls | total('toll')", was: "20"}]
    - paragraph: "{{ tolls | length }} tolls"
    - table:
        rows: tolls
        columns: [lock, barge, {name: toll, form: "money:EUR", total: sum}]
"""


def brief() -> fq.Brief:
    """A card, a text, a table with its sum."""
    return fq.Brief.read(BRIEF.encode())


def bound(press: fq.Press) -> Iterator[tuple[str, Callable[[], bytes]]]:
    """Files that were joined, stamped, folded, filled in."""
    first = press.compose(
        fq.Manuscript.from_html("<html lang=en><title>One</title><h1 id=a>One</h1><p>a<p style='break-before:page'>b")
    )
    second = press.compose(
        fq.Manuscript.from_html("<html lang=en><title>Two</title><style>@page{size:A5 landscape}</style><h1>Two</h1>")
    )
    form = press.compose(
        fq.Manuscript.from_html(
            "<html lang=en><title>F</title><form fq-fillable><input name=a value=x maxlength=9><input type=checkbox name=b></form>"
        )
    )

    def made(*parts: object, **options: object) -> Callable[[], bytes]:
        def bind() -> bytes:
            stream = io.BytesIO()
            fq.bind(parts, stream, **options)
            return stream.getvalue()

        return bind

    def filled(flatten: bool) -> Callable[[], bytes]:
        def fill() -> bytes:
            stream = io.BytesIO()
            fq.fill_fields(form.to_bytes(), {"a": "Maren", "b": True}, stream, flatten=flatten)
            return stream.getvalue()

        return fill

    yield "joined", made(first, second, first)
    yield "under a page", made(first, under=second.to_bytes())
    yield "over a page", made(first, over=second.to_bytes())
    yield "some pages", made(fq.Part(first.to_bytes(), pages="2"), fq.Part(second.to_bytes()))
    yield (
        "stamped",
        made(
            first,
            second,
            stamps=[
                fq.Stamp("{page} of {pages}", at="bottom-right"),
                fq.Stamp("copy", at="top-left", pages="1", under=True),
            ],
        ),
    )
    yield "folded", made(first, second, sheets="booklet")
    yield (
        "numbered anew",
        made(
            first,
            fq.Part(second.to_bytes(), turn=90, title="Turned"),
            numbers="parts",
            title="All",
            language="de",
            even=True,
        ),
    )
    yield "filled", filled(flatten=False)
    yield "flattened", filled(flatten=True)
