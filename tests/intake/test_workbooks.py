"""Workbooks as pages: what a sheet says is what they show."""

import io
import random
import zipfile
from datetime import date

import openpyxl
import pypdfium2
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from openpyxl.cell.rich_text import CellRichText, TextBlock
from openpyxl.cell.text import InlineFont
from openpyxl.chart import BarChart, BubbleChart, DoughnutChart, LineChart, PieChart, Reference
from openpyxl.comments import Comment
from openpyxl.drawing.image import Image as Drawn
from openpyxl.formatting.rule import CellIsRule, ColorScaleRule, DataBarRule, IconSetRule
from openpyxl.styles import Alignment, Border, Color, Font, PatternFill, Side
from openpyxl.worksheet.pagebreak import Break
from openpyxl.worksheet.table import Table, TableStyleInfo
from PIL import Image

import fleetquill as fq
from command_line import command
from fleetquill.intake.workbooks.area import Area, areas_of, column_letters, column_number
from fleetquill.intake.workbooks.colors import mixed, tinted

A4 = (pytest.approx(595.276, abs=0.01), pytest.approx(841.89, abs=0.01))


def book(*rows, title="Tolls"):
    made = openpyxl.Workbook()
    sheet = made.active
    sheet.title = title
    for row in rows:
        sheet.append(row)
    return made, sheet


def content_of(made) -> bytes:
    stream = io.BytesIO()
    made.save(stream)
    return stream.getvalue()


def manuscript(made, **options) -> fq.Manuscript:
    return fq.Manuscript.from_workbook(content_of(made), **options)


def composed(made, **options) -> fq.Edition:
    return fq.compose(manuscript(made, **options))


def cells(edition, page=0) -> list[str]:
    return edition.pages[page].text.split("\n")


def pixel(edition, selector, at=(0.5, 0.5), page=0):
    """The colour of a page at a place in an element."""
    placed = edition.locate(selector)[0]
    image = pypdfium2.PdfDocument(edition.to_bytes())[page].render(scale=2).to_pil().convert("RGB")
    return image.getpixel((int((placed.x + placed.width * at[0]) * 2), int((placed.y + placed.height * at[1]) * 2)))


# ---- sizes and values ----


def test_columns_and_rows_are_as_large_as_the_sheet_says():
    made, sheet = book(["a", "b", "c"], ["d", "e", "f"])
    sheet.column_dimensions["B"].width = 20
    sheet.row_dimensions[2].height = 40
    edition = composed(made)
    first, second, third = (edition.locate(f"tr:first-child td:nth-child({number})")[0] for number in (1, 2, 3))
    assert (first.width, second.width, third.width) == (48, 105, 48)  # 64, 140 and 64 px
    assert edition.locate("tr:nth-child(2)")[0].height == pytest.approx(40, abs=0.5)


def test_values_are_shown_by_their_formats_and_stand_at_their_side():
    made, sheet = book(["Heron", 1234.5, date(2026, 5, 3), True])
    sheet["B1"].number_format, sheet["C1"].number_format = '#,##0.00" t"', "d mmm yyyy"
    for column in "ABCD":
        sheet.column_dimensions[column].width = 20
    edition = composed(made)
    assert cells(edition) == ["Heron", "1,234.50 t", "3 May 2026", "TRUE"]
    html = manuscript(made).to_html()
    assert html.count("text-align:right") == 2 and html.count("text-align:center") == 1


def test_a_number_is_never_cut():
    made, sheet = book([1234567.89, date(2026, 5, 1), 2 / 3, 123456789012, 5e-9], ["Stonecross lock", 1])
    sheet["A1"].number_format = "#,##0.00"
    for letter in "ABCDE":
        sheet.column_dimensions[letter].width = 6
    sheet["A2"].alignment = Alignment(shrink_to_fit=True)
    edition = composed(made)
    assert [remark for remark in edition.remarks if remark.kind == "overflow"] == []
    assert cells(edition)[:5] == ["1,234,567.89", "2026-05-01", "0.667", "1.23457E+11", "0.000000005"]
    assert "Stonecross lock" in cells(edition)


@pytest.mark.parametrize("bold", [False, True])
@example(number=100.0, form="0.00%")
@example(number=99.99, form="0.00%")
@settings(deadline=None, max_examples=40)
@given(
    number=st.floats(-1e15, 1e15), form=st.sampled_from(["General", "#,##0.00", "0.00%", "[$€-2] #,##0.00", "0.00E+00"])
)
def test_any_number_has_room_in_any_column(bold, number, form):
    made, sheet = book([number])
    sheet["A1"].number_format, sheet["A1"].font = form, Font(bold=bold)
    sheet.column_dimensions["A"].width = 9
    assert [remark for remark in composed(made).remarks if remark.kind == "overflow"] == []


def test_what_is_hidden_stays_so():
    made, sheet = book(["a", "b", "c"], ["d", "e", "f"], ["g", "h", "i"])
    sheet.column_dimensions["B"].hidden = True
    sheet.row_dimensions[2].hidden = True
    made.create_sheet("Secret")["A1"] = "nobody"
    made["Secret"].sheet_state = "hidden"
    edition = composed(made)
    assert cells(edition) == ["a", "c", "g", "i"]
    assert edition.page_count == 1
    assert cells(composed(made, sheets=["Secret"])) == ["nobody"]


def test_joined_cells_are_one():
    made, sheet = book(["wide", None, "x"], ["tall", "y", "z"], [None, "u", "v"])
    sheet.merge_cells("A1:B1")
    sheet.merge_cells("A2:A3")
    edition = composed(made)
    spans = [(e.get("colspan"), e.get("rowspan")) for e in manuscript(made).root.iter("td")]
    assert spans[0] == ("2", None) and spans[2] == (None, "2")
    assert cells(edition) == ["wide", "x", "tall", "y", "z", "u", "v"]


def test_text_flows_over_empty_neighbours_and_no_others():
    made, _ = book(
        ["a text that is wider than its column", None, None, "stop"], ["another that is far too wide", "stop"]
    )
    spans = [e.get("colspan") for e in manuscript(made).root.iter("td")]
    assert spans[0] == "3" and spans[2] is None
    assert any("cut off" in remark.message for remark in composed(made).remarks)


def test_formulas_show_the_value_that_was_kept_or_are_remarked(tmp_path):
    made, _ = book([1, 2, "=A1+B1"])
    edition = composed(made)
    (remark,) = [remark for remark in edition.remarks if remark.kind == "workbook"]
    assert "C1" in remark.message and "Tolls" in remark.message
    kept = io.BytesIO()
    m = fq.Manuscript()
    m.table([(1,), (2,)], [fq.Column("n", total="sum")])
    fq.write(m, kept, kind="xlsx")
    edition = fq.compose(fq.Manuscript.from_workbook(kept.getvalue()))
    assert cells(edition) == ["n", "1", "2", "3"] and edition.remarks == ()


# ---- looks ----


def test_fonts_fills_borders_and_alignment_are_those_of_the_cells():
    made, sheet = book(["bold", "filled", "framed", "wrapped text in two lines", "in"])
    sheet["A1"].font = Font(
        name="Source Serif Pro", size=20, bold=True, italic=True, color="FFB8923A", underline="single"
    )
    sheet["B1"].fill = PatternFill("solid", fgColor="FF0F4C4A")
    sheet["C1"].border = Border(*(Side(style="thick", color="FFFF0000"),) * 4)
    sheet["D1"].alignment = Alignment(wrap_text=True, vertical="top", horizontal="right")
    sheet["E1"].alignment = Alignment(indent=2)
    edition = composed(made)
    html = manuscript(made).to_html()
    for css in ("font-size:26.667px", "Source Serif Pro", "font-weight:bold", "font-style:italic", "color:#b8923a",
                "text-decoration:underline", "border-top:3px solid #ff0000", "white-space:pre-wrap", "padding-left:20px",
                "vertical-align:top", "text-align:right"):  # fmt: skip
        assert css in html, css
    assert pixel(edition, "td:nth-child(2)", (0.5, 0.2)) == (0x0F, 0x4C, 0x4A)


@pytest.mark.parametrize("pattern", ["lightUp", "darkTrellis", "gray125", "lightHorizontal", "mediumGray"])
def test_patterns_cover_a_part_of_the_ground(pattern):
    made, sheet = book([None, "x"])
    sheet["A1"].fill = PatternFill(pattern, fgColor="FF000000", bgColor="FFFFFFFF")
    edition = composed(made)
    placed = edition.locate("td")[0]
    image = pypdfium2.PdfDocument(edition.to_bytes())[0].render(scale=4).to_pil().convert("L")
    box = [
        int(4 * side)
        for side in (placed.x + 1, placed.y + 1, placed.x + placed.width - 1, placed.y + placed.height - 1)
    ]
    shades = list(image.crop(box).tobytes())
    assert 10 < sum(shades) / len(shades) < 250


def test_colours_of_the_theme_have_their_tints():
    made, sheet = book(["x"])
    sheet["A1"].fill = PatternFill("solid", fgColor=Color(theme=4, tint=0.6))
    assert pixel(composed(made), "td", (0.9, 0.2)) == (185, 205, 229)
    assert tinted("000000", 0.5) == "808080" and tinted("FFFFFF", -0.5) == "808080"
    assert mixed("#000000", "#ffffff", 0.5) == "#808080"


def test_text_of_several_looks_and_links_are_kept():
    made, sheet = book([None], [None])
    sheet["A1"] = CellRichText("Stow ", TextBlock(InlineFont(b=True, color="FFFF0000"), "slate"), " below.")
    sheet["A2"] = "The tariff"
    sheet["A2"].hyperlink = "https://reedwater.example/tariff"
    m = manuscript(made)
    (span,) = m.root.iter("span")
    assert span.text == "slate" and "font-weight:bold" in span.get("style") and "#ff0000" in span.get("style")
    assert [a.get("href") for a in m.root.iter("a")] == ["https://reedwater.example/tariff"]
    assert cells(fq.compose(m)) == ["Stow slate below.", "The tariff"]


def test_turned_text_takes_a_line_of_its_own_direction():
    made, sheet = book(["turned upwards", "x"])
    sheet["A1"].alignment = Alignment(textRotation=90)
    edition = composed(made)
    assert edition.locate("td")[0].height > 60


def test_tables_have_the_bands_of_their_style():
    made, sheet = book(["Lock", "Boats"], ["Saltgate", 3], ["Stonecross", 4], ["Total", 7])
    table = Table(displayName="T", ref="A1:B4", totalsRowCount=1)
    table.tableStyleInfo = TableStyleInfo(name="TableStyleMedium2", showRowStripes=True)
    sheet.add_table(table)
    edition = composed(made)
    grounds = [pixel(edition, f"tr:nth-child({row}) td:nth-child(2)", (0.1, 0.2)) for row in (1, 2, 3)]
    assert (
        grounds[0] != (255, 255, 255)
        and grounds[1] not in ((255, 255, 255), grounds[0])
        and grounds[2] == (255, 255, 255)
    )


# ---- conditional formats ----


def test_conditional_formats_colour_what_they_hold_for():
    made, sheet = book(*([n, n, n, n] for n in (1, 5, 9)))
    red = PatternFill(bgColor="FFFF0000")
    sheet.conditional_formatting.add("A1:A3", CellIsRule(operator="greaterThan", formula=["4"], fill=red))
    sheet.conditional_formatting.add(
        "B1:B3", ColorScaleRule(start_type="min", start_color="FFFFFF", end_type="max", end_color="00FF00")
    )
    sheet.conditional_formatting.add(
        "C1:C3", DataBarRule(start_type="num", start_value=0, end_type="max", color="FF0000FF")
    )
    sheet.conditional_formatting.add("D1:D3", IconSetRule("3Arrows", "percent", [0, 33, 67]))
    edition = composed(made)
    firsts = [pixel(edition, f"tr:nth-child({row}) td:nth-child(1)", (0.1, 0.2)) for row in (1, 2, 3)]
    assert firsts == [(255, 255, 255), (255, 0, 0), (255, 0, 0)]
    assert [pixel(edition, f"tr:nth-child({row}) td:nth-child(2)", (0.1, 0.2)) for row in (1, 3)] == [
        (255, 255, 255),
        (0, 255, 0),
    ]
    bars = [
        [pixel(edition, f"tr:nth-child({row}) td:nth-child(3)", (x, 0.15)) == (0, 0, 255) for x in (0.3, 0.7)]
        for row in (1, 2, 3)
    ]
    assert bars == [[False, False], [True, False], [True, True]]
    signs = [text[0] for text in cells(edition) if text[0] in "▼▬▲"]
    assert signs == ["▼", "▬", "▲"]


# ---- what lies over a sheet ----


def test_pictures_stand_where_they_are_anchored(tmp_path):
    made, sheet = book(["x"])
    Image.new("RGB", (120, 60), "#b8923a").save(tmp_path / "p.png")
    sheet.add_image(Drawn(str(tmp_path / "p.png")), "C4")
    edition = composed(made)
    placed = edition.locate("img")[0]
    cell = edition.locate("tr:nth-child(4) td:nth-child(3)")[0]
    assert (placed.x, placed.y) == (pytest.approx(cell.x, abs=1), pytest.approx(cell.y, abs=1))
    assert (placed.width, placed.height) == (pytest.approx(90, abs=0.5), pytest.approx(45, abs=0.5))


@pytest.mark.parametrize("kind", [BarChart, LineChart, PieChart])
def test_charts_are_drawn_from_the_values_of_the_file(kind):
    made, sheet = book(["Lock", "Boats"], ["Saltgate", 3], ["Stonecross", 4])
    chart = kind()
    chart.title = "By lock"
    chart.add_data(Reference(sheet, min_col=2, min_row=1, max_row=3), titles_from_data=True)
    chart.set_categories(Reference(sheet, min_col=1, min_row=2, max_row=3))
    sheet.add_chart(chart, "A6")
    edition = composed(made)
    text = edition.pages[0].text
    assert "By lock" in text and text.count("Saltgate") == 2
    assert edition.locate("fq-chart")[0].width > 300
    assert [r for r in edition.remarks if r.kind in ("workbook", "chart")] == []


def test_a_ring_has_a_hole_and_its_first_series():
    made, sheet = book(["Lock", "Boats", "Barges"], ["Saltgate", 3, 1], ["Stonecross", 4, 1])
    chart = DoughnutChart(holeSize=60)
    chart.add_data(Reference(sheet, min_col=2, max_col=3, min_row=1, max_row=3), titles_from_data=True)
    chart.set_categories(Reference(sheet, min_col=1, min_row=2, max_row=3))
    chart.legend = None
    sheet.add_chart(chart, "A6")
    edition = composed(made)
    assert any("'Boats' and not 1 more" in remark.message for remark in edition.remarks)
    assert pixel(edition, "fq-chart", (0.5, 0.5)) == (255, 255, 255)
    across = [pixel(edition, "fq-chart", (0.5 + at / 200, 0.5)) for at in range(100)]
    coloured = sum(color != (255, 255, 255) for color in across)
    free = next(at for at, color in enumerate(across) if color != (255, 255, 255))
    assert free / (free + coloured) == pytest.approx(0.6, abs=0.05)


def test_a_chart_of_another_kind_is_a_remark():
    made, sheet = book([1, 2, 3])
    chart = BubbleChart()
    sheet.add_chart(chart, "A3")
    assert any("bubbleChart" in remark.message for remark in composed(made).remarks)


def test_comments_stand_at_the_end_on_request():
    made, sheet = book(["x"])
    sheet["A1"].comment = Comment("By the skipper.", "R. Marsh")
    assert composed(made).page_count == 1
    edition = composed(made, notes=True)
    assert cells(edition, 1) == ["Tolls, A1 (R. Marsh)", "By the skipper."]


# ---- pages ----


def test_paper_margins_heads_and_feet_are_those_of_the_set_up():
    made, sheet = book(["x"])
    sheet.page_setup.paperSize, sheet.page_setup.orientation = 11, "landscape"
    sheet.page_margins.left = 1
    sheet.oddHeader.left.text = "&A of &F && more"
    sheet.oddHeader.right.text = '&"Source Serif Pro,Bold"&14Reedwater'
    sheet.oddFooter.center.text = "Page &P of &N"
    edition = composed(made)
    page = edition.pages[0]
    assert (page.width, page.height) == (pytest.approx(595.276, abs=0.01), pytest.approx(419.528, abs=0.01))
    assert edition.locate("table")[0].x == pytest.approx(72, abs=0.5)
    assert page.margins == {"top-left": "Tolls of  & more", "top-right": "Reedwater", "bottom-center": "Page 1 of 1"}


def test_first_and_even_pages_have_their_own_heads():
    made, sheet = book(*([n] for n in range(120)))
    sheet.HeaderFooter.differentFirst = sheet.HeaderFooter.differentOddEven = True
    sheet.oddHeader.center.text, sheet.evenHeader.center.text, sheet.firstHeader.center.text = "odd", "even", "first"
    edition = composed(made)
    assert [page.margins.get("top-center") for page in edition.pages] == ["first", "even", "odd"]


def test_rows_and_columns_are_repeated_where_the_set_up_says():
    made, sheet = book(["No", "Lock"], *([n, f"lock {n}"] for n in range(1, 101)))
    sheet.print_title_rows = "1:1"
    edition = composed(made)
    assert edition.page_count > 1
    assert all(cells(edition, page)[:2] == ["No", "Lock"] for page in range(edition.page_count))
    assert sum(cells(edition, page).count("No") for page in range(edition.page_count)) == edition.page_count


def test_repeated_rows_that_stand_further_down_come_on_later_pages():
    made, sheet = book(["Title"], ["No"], *([n] for n in range(1, 101)))
    sheet.print_title_rows = "2:2"
    edition = composed(made)
    assert cells(edition)[:3] == ["Title", "No", "1"]
    assert [cells(edition, page)[0] for page in range(1, edition.page_count)] == ["No"] * (edition.page_count - 1)


def test_the_print_area_and_breaks_by_hand_are_kept():
    made, sheet = book(*([f"{n}{c}" for c in "abc"] for n in range(1, 9)))
    sheet.print_area = "B2:C7"
    sheet.row_breaks.append(Break(id=4))
    edition = composed(made)
    assert [" ".join(cells(edition, page)) for page in range(2)] == ["2b 2c 3b 3c 4b 4c", "5b 5c 6b 6c 7b 7c"]


@pytest.mark.parametrize(
    ("fit", "pages", "scale"), [("width", 1, None), ("page", 1, None), ("none", 2, 1.0), ("50%", 1, 0.5)]
)
def test_a_wide_sheet_is_brought_to_its_pages(fit, pages, scale):
    made, _ = book([f"column {number}" for number in range(1, 21)])
    edition = composed(made, fit=fit)
    assert edition.page_count == pages
    width = edition.locate("td")[0].width
    assert width == pytest.approx(48 * scale) if scale else width < 48
    words = " ".join(" ".join(cells(edition, page)) for page in range(pages)).split()
    assert words.count("column") == 20


def test_the_set_up_may_say_how_a_sheet_fits():
    made, sheet = book([f"column {number}" for number in range(1, 41)])
    sheet.sheet_properties.pageSetUpPr = openpyxl.worksheet.properties.PageSetupProperties(fitToPage=True)
    sheet.page_setup.fitToWidth, sheet.page_setup.fitToHeight = 1, 0
    assert composed(made).page_count == 1
    sheet.sheet_properties.pageSetUpPr.fitToPage = False
    sheet.page_setup.scale = 50
    edition = composed(made)
    assert edition.locate("td")[0].width == pytest.approx(24)


def test_gridlines_headings_and_centring_where_printing_asks_for_them():
    made, sheet = book(["x", "y"])
    sheet.print_options.headings = sheet.print_options.horizontalCentered = sheet.print_options.gridLines = True
    edition = composed(made)
    assert cells(edition) == ["A", "B", "1", "x", "y"]
    table = edition.locate("table")[0]
    assert table.x + table.width / 2 == pytest.approx(edition.pages[0].width / 2, abs=1)
    dark = [pixel(edition, "td:nth-child(2)", (at, 0.5)) for at in (0.0, 0.01, 0.02, 0.5)]
    assert dark[-1] == (255, 255, 255) and min(map(sum, dark)) < 700


def test_a_sheet_may_stand_in_the_middle_between_top_and_bottom():
    made, sheet = book(["x"], ["y"])
    sheet.print_options.verticalCentered = True
    table = composed(made).locate("table")[0]
    page = composed(made).pages[0]
    assert table.y + table.height / 2 == pytest.approx(page.height / 2, abs=1)
    for number in range(200):
        sheet.append([number])
    edition = composed(made)
    assert edition.locate("table")[0].y == pytest.approx(72, abs=1)
    assert any("takes several pages" in remark.message for remark in edition.remarks)


def test_each_sheet_has_its_pages_and_a_bookmark():
    made, _ = book(["one"])
    made.create_sheet('With "quotes"')["A1"] = "two"
    edition = composed(made)
    assert [cells(edition, page) for page in range(2)] == [["one"], ["two"]]
    assert [(mark.label, mark.page) for mark in edition.outline] == [("Tolls", 1), ('With "quotes"', 2)]
    assert cells(composed(made, sheets=[2])) == ["two"]


# ---- doors, long sheets, mistakes ----


def test_a_path_a_stream_and_the_command_line_take_a_workbook(tmp_path):
    made, _ = book(["Lock", "Boats"], ["Saltgate", 3])
    made.save(tmp_path / "tolls.xlsx")
    assert cells(fq.compose(tmp_path / "tolls.xlsx")) == ["Lock", "Boats", "Saltgate", "3"]
    with (tmp_path / "tolls.xlsx").open("rb") as stream:
        assert cells(fq.compose(fq.Manuscript.from_workbook(stream)))[0] == "Lock"
    out = io.BytesIO()
    fq.write(tmp_path / "tolls.xlsx", out, kind="csv")
    assert out.getvalue().split() == [b"Lock,Boats", b"Saltgate,3"]


@pytest.mark.parametrize(
    ("options", "code", "said"),
    [
        (["--sheet", "2"], 0, "1 page"),
        (["--sheet", "Locks", "--fit", "page"], 0, "1 page"),
        (["--notes"], 0, "3 pages"),
        (["--sheet", "Lock"], 1, "Did you mean 'Locks'"),
        (["--fit", "wide"], 1, "no way to fit"),
    ],
)
def test_the_command_line_chooses_sheets_and_how_they_fit(tmp_path, options, code, said):
    made, sheet = book(["x"])
    sheet["A1"].comment = Comment("a note", "R. Marsh")
    made.create_sheet("Locks")["A1"] = "y"
    made.save(tmp_path / "tolls.xlsx")
    result = command("press", "tolls.xlsx", *options, folder=tmp_path)
    assert (result.returncode, said in result.stdout + result.stderr) == (code, True), result.stderr


def test_a_long_sheet_is_whole_and_looks_as_its_columns_do():
    rows = [[n, f"lock {n % 7}", n / 4, date(2026, 1, 1 + n % 28)] for n in range(6000)]
    made, sheet = book(["No", "Lock", "Tonnes", "Day"], *rows)
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    for (row, column), cell in sheet._cells.items():
        if row > 1 and column == 3:
            cell.number_format = "#,##0.00"
    sheet["B100"].font = Font(color="FFFF0000")
    sheet.column_dimensions["B"].width, sheet.column_dimensions["D"].width = 20, 6  # dates are made smaller
    edition = composed(made)
    assert [remark for remark in edition.remarks if remark.kind == "overflow"] == []
    texts = [text for page in range(edition.page_count) for text in cells(edition, page)]
    assert texts[:8] == ["No", "Lock", "Tonnes", "Day", "0", "lock 0", "0.00", "2026-01-01"]
    assert texts.count("No") == edition.page_count
    numbers = [int(text) for text in texts if text.isdigit()]
    assert numbers == list(range(6000))
    assert "1,499.75" in texts


@pytest.mark.parametrize(
    ("options", "said"),
    [
        ({"sheets": ["Tols"]}, "Did you mean 'Tolls'"),
        ({"sheets": [3]}, "no sheet 3"),
        ({"fit": "widht"}, "Did you mean 'width'"),
        ({"fit": "5%"}, "10% to 400%"),
    ],
)
def test_what_is_not_there_is_told(options, said):
    with pytest.raises(fq.OptionError, match=said):
        manuscript(book(["x"])[0], **options)


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"", "no workbook"),
        (b"PK\x03\x04 cut", "no workbook"),
        (b"\xd0\xcf\x11\xe0 old", "before 2007, or has a password"),
        (b"Lock,Boats\n", "no workbook"),
    ],
)
def test_what_is_no_workbook_is_told(content, said, tmp_path):
    with pytest.raises(fq.SourceError, match=said):
        fq.Manuscript.from_workbook(content)
    (tmp_path / "x.xlsx").write_bytes(content)
    with pytest.raises(fq.SourceError, match=said):
        fq.compose(tmp_path / "x.xlsx")


def test_a_workbook_that_unpacks_to_too_much_is_refused(tmp_path):
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as package:
        package.writestr("xl/workbook.xml", b" " * 3_000_000)
    (tmp_path / "bomb.xlsx").write_bytes(stream.getvalue())
    press = fq.Press(policy=fq.Policy(file_size=100_000))
    with pytest.raises(fq.LimitError, match="unpacks to more"):
        press.compose(tmp_path / "bomb.xlsx")


def test_macros_are_not_run_and_said(tmp_path):
    content = content_of(book(["x"])[0])
    stream = io.BytesIO(content)
    with zipfile.ZipFile(stream, "a") as package:
        package.writestr("xl/vbaProject.bin", b"macro")
    (tmp_path / "x.xlsm").write_bytes(stream.getvalue())
    edition = fq.compose(tmp_path / "x.xlsm")
    assert any("macros" in remark.message for remark in edition.remarks)


def damaged(content: bytes, seed: int) -> bytes:
    """A workbook in which something of one part is changed, so that it is still a package."""
    source = random.Random(seed)
    parts = {}
    with zipfile.ZipFile(io.BytesIO(content)) as package:
        parts = {name: package.read(name) for name in package.namelist()}
    name = source.choice([name for name in parts if name.startswith("xl/") and name.endswith(".xml")])
    text = bytearray(parts[name])
    for _ in range(source.randint(1, 4)):
        at = source.randrange(len(text))
        how = source.choice(("digit", "cut", "twice", "number", "name"))
        if how == "digit":
            text[at : at + 1] = source.choice((b"9", b"0", b"-", b"x", b'"', b"<"))
        elif how == "cut":
            del text[at : at + source.randint(1, 30)]
        elif how == "twice":
            text[at:at] = text[at : at + 40]
        else:
            number = source.choice((b'"99999999999"', b'"-1"', b'"1e400"', b'"NaN"', b'""', b'"16385"'))
            start = text.find(b'="', at)
            if start > 0:
                end = text.find(b'"', start + 2)
                text[start + 1 : end + 1] = number
    parts[name] = bytes(text)
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as package:
        for part, data in parts.items():
            package.writestr(part, data)
    return stream.getvalue()


@pytest.fixture(scope="module")
def full_workbook() -> bytes:
    made, sheet = book(["Lock", "Boats", "Share"], ["Saltgate", 3, 0.5], ["Stonecross", 4, 0.25])
    sheet.merge_cells("A5:B6")
    sheet["C2"].number_format = "0.0%"
    sheet["A1"].font = Font(bold=True)
    sheet["B1"].fill = PatternFill("lightUp", fgColor="FF0F4C4A")
    sheet["C3"].border = Border(bottom=Side(style="double"))
    sheet["A1"].alignment = Alignment(textRotation=45)
    sheet.conditional_formatting.add("B2:B3", DataBarRule(start_type="min", end_type="max", color="FF0000FF"))
    sheet.oddFooter.center.text = "&P of &N"
    sheet.print_title_rows = "1:1"
    sheet.column_dimensions["A"].width = 14
    chart = BarChart()
    chart.add_data(Reference(sheet, min_col=2, min_row=1, max_row=3), titles_from_data=True)
    sheet.add_chart(chart, "E2")
    return content_of(made)


@pytest.mark.parametrize("first", range(0, 80, 10))
def test_a_damaged_workbook_is_pages_or_an_error_of_ours(full_workbook, first):
    press = fq.Press(policy=fq.Policy(time=8.0))
    for seed in range(first, first + 10):
        try:
            m = fq.Manuscript.from_workbook(damaged(full_workbook, seed))
            press.compose(m)
        except fq.FaultError:
            raise
        except fq.FleetQuillError:
            pass


# ---- references ----


def test_letters_and_numbers_of_columns():
    for number, letters in ((1, "A"), (26, "Z"), (27, "AA"), (702, "ZZ"), (703, "AAA"), (16384, "XFD")):
        assert column_letters(number) == letters and column_number(letters) == number


def test_references_to_areas_are_read():
    used = Area(1, 1, 50, 9)
    assert areas_of("'It''s, a sheet'!$B$2:$D$9,$F$1", used) == [Area(2, 2, 9, 4), Area(1, 6, 1, 6)]
    assert areas_of("$1:$2", used) == [Area(1, 1, 2, 9)]
    assert areas_of("$A:$B", used) == [Area(1, 1, 50, 2)]
    assert areas_of("#REF!", used) == []
