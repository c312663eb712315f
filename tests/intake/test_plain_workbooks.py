"""Workbooks as other programs write them: cells without a style of their own, parts that are named and not there."""

from __future__ import annotations

import re
import zipfile

import openpyxl
import pytest
from openpyxl.styles import Font

import fleetquill as fq
from fleetquill.drawing.canvas import Drawing
from fleetquill.paint.painter import paint_page

COLUMNS, ROWS = 22, 12


@pytest.fixture
def plain(tmp_path):
    """A book of unstyled numbers, wider than its page."""
    book = openpyxl.Workbook()
    for row in range(1, ROWS + 1):
        for column in range(1, COLUMNS + 1):
            book.active.cell(row, column, row * 1000 + column / 100)
    book.active.cell(1, 1, "Heron")
    path = tmp_path / "plain.xlsx"
    book.save(path)
    return path


def sizes(edition):
    """The sizes of the letters on the pages, in px."""
    return {float(size) for page in edition.pages for size in re.findall(r'font-size="([\d.]+)', page.to_svg())}


@pytest.mark.parametrize("fit", ["width", "page", "none", "40%"])
def test_cells_without_a_style_are_as_small_as_their_sheet(plain, fit):
    edition = fq.compose(fq.Manuscript.from_workbook(plain, fit=fit))
    assert edition.remarks == ()
    found = " ".join(page.text for page in edition.pages).split()
    assert len([text for text in found if re.fullmatch(r"\d+\.\d+", text)]) == COLUMNS * ROWS - 1
    across = 0.4 if fit == "40%" else 1.0 if fit == "none" else 659.3 / (64 * COLUMNS)
    widths = [placed.width / 0.75 for placed in edition.locate("td")]
    assert widths == pytest.approx([64 * across] * len(widths), rel=0.03)


def test_text_is_scaled_as_its_columns_are(plain):
    whole, half = (fq.compose(fq.Manuscript.from_workbook(plain, fit=fit)) for fit in ("none", "50%"))
    heights = [edition.locate("tr")[0].height for edition in (whole, half)]
    assert heights[1] == pytest.approx(heights[0] / 2, rel=0.02)


@pytest.mark.parametrize(("name", "size"), [("Calibri", 11), ("Arial", 10), ("Courier New", 8)])
def test_cells_without_a_style_have_the_first_font_of_the_workbook(tmp_path, name, size):
    book = openpyxl.Workbook()
    book._named_styles["Normal"].font = Font(name=name, sz=size)
    book._fonts[0] = Font(name=name, sz=size)
    book.active["A1"] = "Heron"
    book.save(tmp_path / "font.xlsx")
    html = fq.Manuscript.from_workbook(tmp_path / "font.xlsx").to_html()
    (style,) = re.findall(r'<table style="([^"]*)"', html)
    assert f"font-size:{size * 4 / 3:.6g}"[:14] in style and f"font-family:'{name}'" in style


def test_the_style_of_a_table_is_seen_in_cells_with_the_first_font(tmp_path):
    from openpyxl.styles import Alignment
    from openpyxl.worksheet.table import Table, TableStyleInfo

    book = openpyxl.Workbook()
    book._fonts[0] = Font(name="Calibri", sz=11, color="FF1D2A2F")
    for row in (("Barge", "t"), ("Heron", 1), ("Teal", 2)):
        book.active.append(row)
    book.active["A1"].alignment = Alignment(horizontal="center")
    book.active["B1"].font = Font(color="FF0F4C4A")
    style = TableStyleInfo(name="TableStyleMedium2", showRowStripes=True)
    book.active.add_table(Table(displayName="Tolls", ref="A1:B3", tableStyleInfo=style))
    book.save(tmp_path / "table.xlsx")
    recorder = Drawing(800, 1200)
    paint_page(
        recorder, fq.compose(fq.Manuscript.from_workbook(tmp_path / "table.xlsx"))._fragments[0].content, layered=False
    )
    inks = {
        step.arguments[3][0].text: [round(255 * share) for share in step.arguments[2].color[:3]]
        for step in recorder.steps
        if step.verb == "text"
    }
    assert inks["Barge"] == [255, 255, 255] and inks["t"] == [15, 76, 74] and inks["Heron"] == [29, 42, 47]


def without(path, *lost):
    """The file without some of its parts, which are still named in it."""
    with zipfile.ZipFile(path) as package:
        parts = {name: package.read(name) for name in package.namelist()}
    with zipfile.ZipFile(path, "w") as package:
        for name, part in parts.items():
            if name not in lost:
                package.writestr(name, part)


def test_parts_that_are_named_and_not_there_are_remarked_and_the_rest_is_shown(tmp_path):
    from openpyxl.chart import BarChart, Reference

    book = openpyxl.Workbook()
    for row in ((1, 2), (3, 4)):
        book.active.append(row)
    chart = BarChart()
    chart.add_data(Reference(book.active, min_col=1, min_row=1, max_row=2))
    book.active.add_chart(chart, "D2")
    path = tmp_path / "lost.xlsx"
    book.save(path)
    without(path, "xl/drawings/drawing1.xml")
    edition = fq.compose(fq.Manuscript.from_workbook(path))
    assert [remark.message for remark in edition.remarks] == [
        "Parts that the workbook names are not in it: xl/drawings/drawing1.xml."
    ]
    assert edition.pages[0].text.split() == ["1", "2", "3", "4"]


def test_a_file_without_its_sheet_is_an_error_that_says_so(plain):
    without(plain, "xl/worksheets/sheet1.xml")
    with pytest.raises(fq.SourceError, match=r"names sheets that are not in it: xl/worksheets/sheet1\.xml"):
        fq.compose(fq.Manuscript.from_workbook(plain))
