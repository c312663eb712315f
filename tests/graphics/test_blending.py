"""How boxes meet the colours below them: mix-blend-mode and isolation, by their pixels (CSS Compositing 1)."""

import pypdfium2
import pytest

import fleetquill as fq

BACK, FRONT = (200, 120, 40), (90, 180, 220)
MODES = {  # §6.1, of parts from 0 to 1, below and above
    "normal": lambda b, s: s,
    "multiply": lambda b, s: b * s,
    "screen": lambda b, s: b + s - b * s,
    "darken": min,
    "lighten": max,
    "difference": lambda b, s: abs(b - s),
    "exclusion": lambda b, s: b + s - 2 * b * s,
    "hard-light": lambda b, s: 2 * b * s if s <= 0.5 else b + (2 * s - 1) - b * (2 * s - 1),
    "overlay": lambda b, s: 2 * b * s if b <= 0.5 else s + (2 * b - 1) - s * (2 * b - 1),
    "color-dodge": lambda b, s: min(1.0, b / (1 - s)),
    "color-burn": lambda b, s: 1 - min(1.0, (1 - b) / s),
}
RULES = "<style>@page{size:80px 40px;margin:0}div{height:40px}p{height:40px;margin:0}</style>"


def color(rgb):
    return f"rgb{rgb}"


def middle(html):
    document = pypdfium2.PdfDocument(fq.compose(fq.Manuscript.from_html(RULES + html)).to_bytes())
    return document[0].render(scale=1).to_pil().convert("RGB").getpixel((30, 15))


@pytest.mark.parametrize("mode", MODES)
def test_a_box_is_blended_as_the_formula_says(mode):
    found = middle(
        f"<div style='background:{color(BACK)}'><p style='background:{color(FRONT)};mix-blend-mode:{mode}'></div>"
    )
    wanted = [255 * MODES[mode](b / 255, s / 255) for b, s in zip(BACK, FRONT, strict=True)]
    assert found == pytest.approx(wanted, abs=2)


ISOLATED = ("isolation:isolate", "opacity:.999", "transform:translate(0)", "position:relative;z-index:0")
OPEN = ("isolation:auto", "position:relative", "overflow:hidden", "mix-blend-mode:multiply;background:white")


@pytest.mark.parametrize("between", [*ISOLATED, *OPEN])
def test_a_stacking_context_does_not_blend_with_what_is_below(between):
    inner = f"<p style='background:{color(FRONT)};mix-blend-mode:multiply'>"
    found = middle(f"<div style='background:{color(BACK)}'><div style='{between}'>{inner}</div></div>")
    multiplied = [b * s / 255 for b, s in zip(BACK, FRONT, strict=True)]
    assert found == pytest.approx(FRONT if between in ISOLATED else multiplied, abs=2)


def test_text_in_a_blended_box_is_still_read():
    edition = fq.compose(fq.Manuscript.from_html("<p style='mix-blend-mode:multiply'>Read <b>me</b></p>"))
    assert "Read me" in pypdfium2.PdfDocument(edition.to_bytes())[0].get_textpage().get_text_range()
    assert edition.pages[0].text == "Read me"


def test_a_mode_that_is_none_is_a_remark():
    edition = fq.compose(fq.Manuscript.from_html("<p style='mix-blend-mode:plus'>x</p>"))
    assert ["mix-blend-mode" in remark.message for remark in edition.remarks] == [True]
