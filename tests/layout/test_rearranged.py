"""Parts that stand elsewhere than they are written: legends, annotations, fractions, what closed details keep."""

import pypdfium2
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq

RULES = """<style>@page{size:300px 200px;margin:10px}body,p{margin:0}html{font:10px/20px serif}
fieldset{margin:0;border:4px solid red;padding:6px}legend{padding:0;line-height:20px}</style>"""


def made(html):
    return fq.compose(fq.Manuscript.from_html(RULES + html))


def box(edition, selector):
    return [[part / 0.75 for part in (p.x, p.y, p.width, p.height)] for p in edition.locate(selector)]


@pytest.mark.parametrize(
    ("style", "left"),
    [("", 20), ("margin-left:auto;margin-right:auto", 125), ("justify-self:center", 125), ("justify-self:right", 230),
     ("margin-left:15px", 35), ("width:100%", 20)],
)  # fmt: skip
def test_a_legend_stands_in_the_middle_of_the_border(style, left):
    edition = made(f"<fieldset><legend style='width:50px;{style}'>L</legend><p>x</fieldset>")
    (legend,), (text,) = box(edition, "legend"), box(edition, "p")
    assert legend[:2] == pytest.approx([left, 10], abs=0.02)
    assert legend[2] == pytest.approx(260 if "100%" in style else 50, abs=0.02)
    assert text[1] == pytest.approx(10 + 20 + 6, abs=0.02)


def test_the_border_leaves_its_legend_out():
    edition = made("<fieldset><legend style='width:50px'>&nbsp;</legend><p>x</fieldset>")
    picture = pypdfium2.PdfDocument(edition.to_bytes())[0].render(scale=1 / 0.75).to_pil().convert("RGB")
    assert [picture.getpixel((x, 20)) for x in (15, 40, 200)] == [(255, 0, 0), (255, 255, 255), (255, 0, 0)]
    assert picture.getpixel((200, 14)) == (255, 255, 255)


@given(st.integers(1, 40), st.integers(1, 3))
@settings(max_examples=15, deadline=None)
def test_a_fieldset_goes_on_over_pages(count, rows):
    words = [f"w{n}" for n in range(count)]
    legend = "<br>".join(f"l{n}" for n in range(rows))
    edition = made(
        f"<p>before<fieldset><legend>{legend}</legend>{''.join(f'<p>{w}' for w in words)}</fieldset><p>after"
    )
    text = " ".join(page.text for page in edition.pages).split()
    assert text == ["before", *(f"l{n}" for n in range(rows)), *words, "after"]
    for page in edition.pages:
        lines = [p.y for p in edition.locate("p, legend") if p.page == page.number]
        assert lines == sorted(lines) and all(7.5 <= y < 142.5 for y in lines)


def test_an_annotation_stands_over_the_middle_of_its_base():
    edition = made("<p>x <ruby><b id=b>wide base</b><rt id=t>note</rt></ruby> <i id=i>y</i>")
    (base,), (note,), (after,) = box(edition, "#b"), box(edition, "#t"), box(edition, "#i")
    assert note[0] + note[2] / 2 == pytest.approx(base[0] + base[2] / 2, abs=0.1)
    assert note[1] + note[3] <= base[1] + base[3] / 2 and after[1] == pytest.approx(base[1], abs=0.1)
    assert after[0] >= base[0] + base[2]


def test_each_annotation_has_its_own_base_and_what_has_none_stays():
    edition = made("<p><ruby>a<rt>1</rt>b<rp>(</rp><rt>2</rt><rp>)</rp>c</ruby>")
    assert "".join(edition.pages[0].text.split()) == "a1b2c"
    (one, two) = box(edition, "rt")
    assert one[0] < two[0]


def test_a_fraction_has_its_parts_over_one_another():
    edition = made("<p><math><mi id=x>x</mi><mo>=</mo><mfrac id=f><mn id=n>12345</mn><mn id=d>6</mn></mfrac></math>")
    (above,), (below,), (line,) = box(edition, "#n"), box(edition, "#d"), box(edition, "#x")
    assert above[1] + above[3] <= below[1] + 1
    assert above[0] + above[2] / 2 == pytest.approx(below[0] + below[2] / 2, abs=0.1)
    middle = line[1] + line[3] / 2
    assert above[1] < middle < below[1] + below[3]


@pytest.mark.parametrize(
    ("html", "text"),
    [
        ("<details><summary>s</summary>hidden<p>too</p></details>after", "s after"),
        ("<details open><summary>s</summary>shown<p>too</p></details>after", "s shown too after"),
        ("<details><p>hidden</p></details>after", "after"),
        ("<details><summary>s</summary><summary>second</summary></details>", "s"),
        ("<dialog>hidden</dialog>a<dialog open>b</dialog>", "a b"),
        ("a<template>hidden<p>x</p></template>", "a"),
        ("<button>press<br>me</button>", "press me"),
    ],
)
def test_the_text_that_is_shown(html, text):
    shown = made(html).pages[0].text
    assert shown.replace("▸", "").replace("▾", "").split() == text.split()


@pytest.mark.parametrize(
    "style", ["height:80px", "height:80px;padding-top:10px;padding-bottom:10px", "min-height:60px"]
)
def test_what_a_button_says_stands_in_its_middle(style):
    edition = made(f"<button id=b style='{style}'><span id=s>press</span></button>")
    (button,), (text,) = box(edition, "#b"), box(edition, "#s")
    assert text[1] + text[3] / 2 == pytest.approx(button[1] + button[3] / 2, abs=0.6)
    assert text[0] + text[2] / 2 == pytest.approx(button[0] + button[2] / 2, abs=0.6)
