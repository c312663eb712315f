"""Fonts whose glyphs have numbers in place of names, as those of China, Japan and Korea do (ISO 32000-2 §9.7.4.2)."""

import base64
import re

import numpy as np
import pypdfium2 as pdfium
import pytest

import fleetquill as fq
from fleetquill.bindery.check import check
from made_fonts import numbered_font
from readers import words

SIGNS = "永和九年漢字"


def composed(html, font=None, **options):
    address = base64.b64encode(font or numbered_font(SIGNS)).decode()
    sheet = (
        "@page { size: 700px 300px; margin: 0 } body { margin: 0 }"
        f"@font-face {{ font-family: Numbered; src: url(data:font/otf;base64,{address}) }}"
        "p { margin: 0; font: 100px/120px Numbered }"
    )
    manuscript = fq.Manuscript.from_html(f"<html lang=ja><title>Sign</title><style>{sheet}</style>{html}")
    return fq.compose(manuscript, **options)


def squares(shot, pitch=90):
    """How wide the sign in each place of a line is, in px."""
    dark = (np.asarray(shot.convert("L")) < 128).any(axis=0)
    return [int(dark[left : left + pitch].sum()) for left in range(0, len(dark) - pitch, pitch)]


def of_pdf(content, page=0):
    return squares(pdfium.PdfDocument(content)[page].render(scale=96 / 72).to_pil())


@pytest.mark.parametrize("text", ["永", "字", "永和九年漢字", "字漢年", "漢漢永"])
def test_every_sign_is_its_own(text):
    edition = composed(f"<p>{text}</p>")
    wide = [10 * (SIGNS.index(sign) + 1) for sign in text]
    assert of_pdf(edition.to_bytes())[: len(wide)] == pytest.approx(wide, abs=1)
    assert edition.pages[0].text.strip() == text


def test_a_font_that_stays_whole_shows_its_own_too():
    from io import BytesIO

    from fontTools.ttLib import TTFont

    font = TTFont(BytesIO(numbered_font(SIGNS)))
    font["OS/2"].fsType = 0x0100  # no subsets
    out = BytesIO()
    font.save(out)
    content = composed("<p>字永</p>", out.getvalue()).to_bytes()
    assert of_pdf(content)[:2] == pytest.approx([60, 10], abs=1)


def test_other_readers_copy_it_and_the_standards_are_kept(tmp_path):
    edition = composed("<p>九年永字</p>", conform=("PDF/A-3a", "PDF/UA-1"))
    target = tmp_path / "sign.pdf"
    edition.save(target)
    assert words(target) == ["九年永字"]
    assert not check(target, ("PDF/A-3a", "PDF/UA-1")).faults


@pytest.mark.parametrize("kind", ["svg", "png"])
def test_other_kinds_show_the_same(kind, tmp_path):
    edition = composed("<p>漢永年</p>")
    if kind == "png":
        from io import BytesIO

        from PIL import Image

        assert squares(Image.open(BytesIO(edition.pages[0].to_png(dpi=96))))[:3] == pytest.approx([50, 10, 40], abs=1)
    else:
        assert "<path" in edition.pages[0].to_svg()


def test_two_documents_of_one_press_have_subsets_of_their_own(tmp_path):
    press = fq.Press()
    (tmp_path / "numbered.otf").write_bytes(numbered_font(SIGNS))
    sheet = (
        "<style>@page { size: 700px 300px; margin: 0 } body { margin: 0 }"
        "@font-face { font-family: N; src: url(numbered.otf) } p { margin: 0; font: 100px/120px N }</style>"
    )
    for text, wide in (("永字", [10, 60]), ("字永", [60, 10]), ("九", [30])):
        manuscript = fq.Manuscript.from_html(f"{sheet}<p>{text}</p>", base=tmp_path)
        assert of_pdf(press.compose(manuscript).to_bytes())[: len(wide)] == pytest.approx(wide, abs=1)


@pytest.mark.parametrize("text", ["\u200b", "永\u200b字", "\u00ad", "永\u00ad字", "\u200d", "永\u2060字", "永 字"])
def test_characters_without_a_glyph_need_no_space_to_stand_for_them(text):
    edition = composed(f"<p>{text}</p>")
    seen, written = (re.sub("[\\s\u200b\u00ad\u200d\u2060]", "", each) for each in (edition.pages[0].text, text))
    assert seen == written
    if "字" in text:
        assert of_pdf(edition.to_bytes())[0] == pytest.approx(10, abs=1)
