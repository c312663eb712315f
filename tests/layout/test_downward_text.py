"""Lines that run downwards: signs of East Asia stand upright in them (CSS Writing Modes 4 §5.1, UAX #50)."""

import base64

import numpy as np
import pypdfium2 as pdfium
import pytest
from openpyxl import Workbook
from openpyxl.styles import Alignment

import fleetquill as fq
from fleetquill.text.posture import transformed, upright
from made_fonts import numbered_font

SIGNS = "永和九年漢字"
SIZE = 100  # px; a sign is 90 wide, and the square that is drawn of it up to 60


def composed(html, css=""):
    address = base64.b64encode(numbered_font(SIGNS)).decode()
    sheet = (
        "@page { size: 700px 700px; margin: 0 } body { margin: 0 }"
        f"@font-face {{ font-family: Numbered; src: url(data:font/otf;base64,{address}) }}"
        f"div {{ font: {SIZE}px/{SIZE}px Numbered; writing-mode: vertical-rl; display: inline-block }} {css}"
    )
    return fq.compose(fq.Manuscript.from_html(f"<!doctype html><style>{sheet}</style>{html}"))


def inked(edition):
    """The px of the page that are dark: left, top, right, bottom."""
    shot = pdfium.PdfDocument(edition.to_bytes())[0].render(scale=96 / 72).to_pil().convert("L")
    rows, columns = np.nonzero(np.asarray(shot) < 128)
    return int(columns.min()), int(rows.min()), int(columns.max()) + 1, int(rows.max()) + 1


def squares(edition):
    """How high the ink in each stretch of a sign's advance is, from above."""
    shot = np.asarray(pdfium.PdfDocument(edition.to_bytes())[0].render(scale=96 / 72).to_pil().convert("L")) < 128
    return [int(shot[top : top + 90].any(axis=1).sum()) for top in range(0, 540, 90)]


def test_a_sign_stands_upright_and_lies_where_it_is_asked_to():
    # its line is 100 px wide, and its baseline 90 px right of where the line begins, as the font has 80 and 20 of 100
    left, top, right, bottom = inked(composed("<div>字</div>"))
    assert (right - left, bottom - top) == pytest.approx((60, 60), abs=1)
    middle = 20 + 38, 45  # of the square that the sign fills: 38 above the baseline, in the middle of its advance
    assert (left, bottom) == pytest.approx((middle[0] - 45, middle[1] + 38), abs=1)
    left, top, right, bottom = inked(composed("<div style='text-orientation:sideways'>字</div>"))
    assert (left, top, right, bottom) == pytest.approx((20, 0, 80, 60), abs=1)


@pytest.mark.parametrize("text", ["永字", "字九永漢", "和和年"])
def test_signs_follow_one_another_downwards(text):
    edition = composed(f"<div>{text}</div>")
    assert squares(edition)[: len(text)] == pytest.approx([10 * (SIGNS.index(sign) + 1) for sign in text], abs=1)
    assert edition.pages[0].text.strip() == text


@pytest.mark.parametrize(
    ("css", "wide", "high"),
    [
        ("height:180px", 300, 180),  # two signs a line, six in all
        ("height:300px", 200, 300),
        ("height:540px", 100, 540),
        ("max-height:200px", 300, 200),
        ("max-height:900px", 100, 540),
        ("height:300px;box-sizing:border-box;padding:0 0 50px", 300, 300),
        ("min-height:600px", 100, 600),
    ],
)
def test_a_box_is_as_wide_as_its_lines_need_at_its_height(css, wide, high):
    (box,) = composed(f"<div style='{css}'>{SIGNS}</div>").locate("div")
    assert (box.width / 0.75, box.height / 0.75) == pytest.approx((wide, high), abs=0.1)


@pytest.mark.parametrize("orientation", ["mixed", "sideways"])
def test_letters_are_turned_with_their_line(orientation):
    html = f"<p style='margin:0;font:40px/50px serif;writing-mode:vertical-rl;text-orientation:{orientation}'>llll</p>"
    left, top, right, bottom = inked(composed(html))
    assert right - left > 25 and bottom - top > 20  # as high as they are long, side by side downwards
    assert bottom - top < 60


def test_letters_stand_one_below_the_other_where_all_is_upright():
    html = "<p style='margin:0;font:40px/50px serif;writing-mode:vertical-rl;text-orientation:upright'>lill</p>"
    left, top, right, bottom = inked(composed(html))
    assert right - left < 20
    assert 3 * 40 + 25 < bottom - top < 4 * 40
    with_marks = inked(composed(html.replace("lill", "e\u0301e\u0301e\u0301e\u0301")))
    assert with_marks[2] - with_marks[0] < 25


def test_letters_of_a_cell_stand_one_below_the_other(tmp_path):
    book = Workbook()
    book.active["A1"] = "Toll"
    book.active["A1"].alignment = Alignment(textRotation=255)
    book.active.row_dimensions[1].height = 90
    book.save(tmp_path / "stacked.xlsx")
    left, top, right, bottom = inked(fq.compose(tmp_path / "stacked.xlsx"))
    assert right - left < 15 and bottom - top > 50


@pytest.mark.parametrize("sign", [*list("漢あア가①☃©％！。、㊤Ⅳ∞"), "😀", "𠀀"])
def test_signs_that_stand_upright(sign):
    assert upright().match(sign) and not transformed().match(sign)


@pytest.mark.parametrize("sign", list("ー「」（）：～【〜…—"))
def test_signs_that_stand_where_the_font_has_a_form_for_it(sign):
    assert transformed().match(sign) and not upright().match(sign)


@pytest.mark.parametrize("sign", [*list("Aä1(→-ЖΩعｱ"), " "])
def test_signs_that_are_turned(sign):
    assert not upright().match(sign) and not transformed().match(sign)
