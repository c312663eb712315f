"""Underlines go on from the first letter to the last, whatever inline boxes stand between."""

import pypdfium2
import pytest

import fleetquill as fq

RULES = (
    "<style>@page{size:400px 90px;margin:20px}p{margin:0;font:20px/30px serif;width:max-content;color:transparent;"
    "text-decoration:underline 2px red;text-decoration-skip-ink:none}</style>"
)
HEBREW = "\u05e9\u05dc\u05d5\u05dd"


@pytest.mark.parametrize(
    "html",
    [
        "<p>ab cd ef",
        "<p>ab <b>cd</b> ef",
        "<p>ab <b>cd </b>ef <i>gh</i>",
        "<p style='letter-spacing:6px'>ab <b>cd</b> ef",
        "<p style='word-spacing:9px'>ab <b>cd</b> ef",
        "<p style='font-variant:small-caps;font-family:DejaVu Sans'>Ab Cd Ef",
        f"<p dir=rtl style='font-family:DejaVu Sans'>{HEBREW} <b>{HEBREW}</b> {HEBREW}",
        f"<p style='font-family:DejaVu Sans'>ab {HEBREW} <b>{HEBREW}</b> cd",
        "<p style='text-align:justify;width:300px;text-align-last:justify'>ab <b>cd</b> ef",
    ],
)
def test_an_underline_has_no_gaps(html):
    edition = fq.compose(fq.Manuscript.from_html(RULES + html))
    (line,) = edition.locate("p")
    picture = pypdfium2.PdfDocument(edition.to_bytes())[0].render(scale=4 / 0.75).to_pil().convert("RGB")
    rows = [y for y in range(picture.height) if picture.getpixel((4 * 20 + 20, y))[1] < 60]
    assert rows, "there is no line"
    y = rows[len(rows) // 2]
    begin, end = round(line.x / 0.75 * 4) + 2, round((line.x + line.width) / 0.75 * 4) - 2
    assert [x for x in range(begin, end) if picture.getpixel((x, y))[1] > 128] == []
