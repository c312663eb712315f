"""Every number of a file is one that ISO 32000-2 §7.3.3 allows: no exponent, no word."""

import re
import zlib
from urllib.parse import quote

import pypdfium2
import pytest
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.output.pdf.operators import factors, num
from fleetquill.pdf.objects import LARGEST, number

REAL = re.compile(r"[+-]?(\d+(\.\d+)?|\.\d+)")


@given(st.floats(allow_nan=True, allow_infinity=True), st.integers(0, 6))
def test_a_number_is_read_back_as_what_it_was(value, places):
    text = number(value, places)
    assert REAL.fullmatch(text)
    if -LARGEST < value < LARGEST:
        assert float(text) == pytest.approx(value, abs=0.51 * 10**-places)
    assert REAL.fullmatch(num(value)) and len(factors([value] * 6).split()) == 6


CASES = [
    "<svg width=100 height=100><g transform='translate(0.00008 0.00003)'><rect width=10 height=10 /></g></svg>",
    "<svg width=100 height=100 viewBox='0 0 1e7 1e7'><path d='M0 0L1e9 1e-9L5e6 5e6' stroke=red /></svg>",
    "<div style='transform:rotate(.003deg) scale(1e-5,1e7);width:50px;height:5px;background:red'>x</div>",
    "<div style='background:linear-gradient(.001deg,red,rgb(0 0 0 / 1e-7));height:9px;opacity:1e-6'>x</div>",
    "<p style='font-size:.0001px;letter-spacing:.00001px;word-spacing:1e6px'>a b</p>",
]  # fmt: skip


@pytest.mark.parametrize("html", CASES)
def test_no_number_in_a_content_stream_has_an_exponent(html):
    content = fq.compose(fq.Manuscript.from_html(html)).to_bytes()
    for match in re.finditer(rb"<<(?P<dict>[^>]*)>>\s*stream\r?\n(?P<data>.*?)\r?\nendstream", content, re.DOTALL):
        data = match["data"]
        if b"FlateDecode" in match["dict"]:
            data = zlib.decompress(data)
        if b"Length1" not in match["dict"] and b"\0" not in data:
            assert not re.search(rb"(?<![\w(])[-+.\d]+e[-+]?\d+\b|\b(nan|inf)\b", data), data[:300]


ENLARGED = [
    ("<g transform='scale(1e5)'><rect x='8e-5' y='1e-5' width='4e-4' height='3e-4' /></g>", (8, 1, 48, 31)),
    ("<path transform='scale(1000)' d='M.0104 .0204h.0402v.0202h-.0402z' />", (10.4, 20.4, 50.6, 40.6)),
    ("<g transform='scale(500)'><g opacity='.5'><rect x='.0214' y='.0214' width='.08' height='.08' /></g></g>",
     (10.7, 10.7, 50.7, 50.7)),
    ("<line transform='scale(2000)' x1='.01' y1='.0203' x2='.04' y2='.0203' stroke='black' stroke-width='.006' />",
     (20, 34.6, 80, 46.6)),
]  # fmt: skip


@pytest.mark.parametrize(("shape", "expected"), ENLARGED)
def test_what_is_made_large_keeps_its_place(shape, expected):
    html = (
        f"<style>@page{{size:100px 100px;margin:0}}svg{{display:block}}</style><svg width=100 height=100>{shape}</svg>"
    )
    document = pypdfium2.PdfDocument(fq.compose(fq.Manuscript.from_html(html)).to_bytes())
    scale = 8 / 0.75
    dark = document[0].render(scale=scale).to_pil().convert("L").point(lambda level: 255 * (level < 192))
    assert [edge / 8 for edge in dark.getbbox()] == pytest.approx(expected, abs=0.2)


def test_letters_of_a_small_unit_have_their_size():
    def widths(svg):
        edition = fq.compose(fq.Manuscript.from_html(f"<svg width=400 height=100 {svg}</svg>"))
        page = pypdfium2.PdfDocument(edition.to_bytes())[0].get_textpage()
        left, _, _, top = page.get_charbox(0)
        _, bottom, right, _ = page.get_charbox(11)
        return right - left, top - bottom

    small = widths(
        "viewBox='0 0 1 .25'><text x='.1234' y='.1' font-size='.03456' letter-spacing='.0012'>Slate, grade</text>"
    )
    plain = widths("><text x='49.36' y='40' font-size='13.824' letter-spacing='.48'>Slate, grade</text>")
    assert small == pytest.approx(plain, abs=0.2)


PLACED = ["<img src='{0}' width=300>", "<img src='{0}' width=20><img src='{0}' width=300>",
          "<div style='background:url({0}) 0 0/300px 300px;height:300px'></div>",
          "<div style='transform:scale(300);transform-origin:0 0'><img src='{0}' width=1></div>"]  # fmt: skip


@pytest.mark.parametrize("html", PLACED)
def test_a_drawing_of_a_small_unit_keeps_its_shapes_wherever_it_is_placed(html):
    shape = "<path d='M.1004 .2004h.7032v.5032h-.7032z'/><path d='M0 .9532H1' stroke='black' stroke-width='.004'/>"
    svg = quote(f"<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 1 1'>{shape}</svg>")
    rules = "<style>@page{size:330px 320px;margin:0}img{display:block;position:absolute;top:0;left:0}"
    rules += "img+img{left:25px}</style>"
    left = 25 if html.count("img") > 1 else 0
    html = rules + html.format(f"data:image/svg+xml,{svg}")
    document = pypdfium2.PdfDocument(fq.compose(fq.Manuscript.from_html(html)).to_bytes())
    dark = document[0].render(scale=4 / 0.75).to_pil().convert("L").point(lambda level: 255 * (level < 128))
    box = dark.crop((4 * (left + 1), 4 * 30, 4 * (left + 299), 4 * 250)).getbbox()
    edges = [box[0] / 4 + 1, box[1] / 4 + 30, box[2] / 4 + 1, box[3] / 4 + 30]
    assert edges == pytest.approx([30.12, 60.12, 241.08, 211.08], abs=0.26)
    line = dark.crop((4 * (left + 150), 4 * 260, 4 * (left + 151), 4 * 310)).getbbox()
    assert [line[1] / 4 + 260, line[3] / 4 + 260] == pytest.approx([285.36, 286.56], abs=0.26)
