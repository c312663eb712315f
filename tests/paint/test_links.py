"""Where links lead: all that stands in one is covered, whatever it is."""

from __future__ import annotations

import pytest

import fleetquill as fq
from fleetquill.drawing.canvas import Drawing
from fleetquill.paint.painter import paint_page

STYLE = (
    "<!DOCTYPE html><style>@page{size:300px 200px;margin:0} body,p,h2{margin:0} html{font:16px/20px sans-serif}</style>"
)
PICTURE = "<img alt='the mark' style='STYLE' src=\"data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' width='40' height='90'/%3E\">"


def links(html: str) -> list[tuple[float, ...]]:
    """The rectangles that lead somewhere, by the px of their sides."""
    recorder = Drawing(300, 200)
    paint_page(recorder, fq.compose(fq.Manuscript.from_html(STYLE + html))._fragments[0].content, layered=True)
    found = [step.arguments for step in recorder.steps if step.verb == "link"]
    assert all(target == "https://a.example/" for *_, target, _ in found)
    return [tuple(round(float(side)) for side in rect) for *rect, _, _ in found]


def picture(style: str = "") -> str:
    return PICTURE.replace("STYLE", style)


@pytest.mark.parametrize(
    ("content", "rectangles"),
    [
        ("<div style='width:100px'>a card</div>", [(0, 0, 100, 20)]),
        ("<div style='width:100px;height:40px'></div>", [(0, 0, 100, 40)]),
        ("<h2 style='line-height:30px'>Card</h2><p>its text</p>", [(0, 0, 300, 30), (0, 30, 300, 20)]),
        ("<b><div style='width:100px'>a card</div></b>", [(0, 0, 100, 20)]),
        ("<table style='border-spacing:0'><td style='padding:0;width:50px'>a", [(0, 0, 50, 20)]),
        (picture(), [(0, 0, 40, 90)]),
        (picture("display:block"), [(0, 0, 40, 90)]),
        (picture("float:right"), [(260, 0, 40, 90)]),
        (picture("position:absolute;left:50px;top:60px"), [(50, 60, 40, 90)]),
        (f"<b>{picture('vertical-align:top')}</b>", [(0, 0, 40, 90)]),
        ("<span style='display:inline-block;width:60px;height:30px'>button</span>", [(0, 0, 60, 30)]),
        ("<svg width=30 height=35></svg>", [(0, 0, 30, 35)]),
        (" <b> </b>", []),
        ("", []),
    ],
)
def test_what_stands_in_a_link_leads_where_it_does(content, rectangles):
    assert links(f"<a href='https://a.example/'>{content}</a>") == rectangles


def test_text_beside_a_picture_in_a_link_leads_there_too():
    text, image = links(f"<a href='https://a.example/'>text {picture('vertical-align:top')}</a>")
    assert image[2:] == (40, 90) and text[0] == 0 and text[2] > 40 and text[3] < 30


@pytest.mark.parametrize("style", ["display:block", "display:inline-block", "display:flex", "float:left"])
def test_a_link_with_a_box_of_its_own_is_one_rectangle(style):
    ((*_, width, height),) = links(f"<a style='{style};width:80px' href='https://a.example/'>{picture()}</a>")
    assert (width, height) == (80, 90 if style in ("display:flex",) else height) and height >= 90


def test_an_empty_link_that_is_spread_over_a_card_is_one():
    card = "<div style='position:relative;width:90px;height:50px'><a style='position:absolute;inset:0' href='https://a.example/'></a></div>"
    assert links(card) == [(0, 0, 90, 50)]


def test_a_link_around_a_picture_says_what_that_shows():
    recorder = Drawing(300, 200)
    edition = fq.compose(fq.Manuscript.from_html(f"<a href=x>{picture()}</a><a href=y title='More'>{picture()}</a>"))
    paint_page(recorder, edition._fragments[0].content, layered=True)
    assert [step.arguments[-1] for step in recorder.steps if step.verb == "link"] == ["the mark", "More"]


def test_an_element_is_found_where_its_blocks_stand():
    edition = fq.compose(fq.Manuscript.from_html(f"{STYLE}<a id=card><div style='width:100px'>x</div></a><p>y</p>"))
    (placed,) = edition.locate("#card")
    assert (placed.x, placed.y, placed.width, placed.height) == (0, 0, 225, 15)


def test_blocks_in_an_inline_box_are_seen_through_with_it():
    source = STYLE + "<span style='opacity:.5'><div style='background:#000;height:20px;width:50px'></div></span>"
    page = fq.compose(fq.Manuscript.from_html(source)).pages[0].to_png(dpi=72)
    from io import BytesIO

    from PIL import Image

    assert Image.open(BytesIO(page)).convert("L").getpixel((10, 5)) == pytest.approx(127, abs=2)


def test_the_outline_of_a_table_is_drawn():
    recorder = Drawing(300, 200)
    source = STYLE + "<table style='outline:3px solid #f00;border-spacing:0'><td style='padding:0;width:50px'>a</table>"
    paint_page(recorder, fq.compose(fq.Manuscript.from_html(source))._fragments[0].content, layered=False)
    assert [step.verb for step in recorder.steps].count("fill_path") == 1
