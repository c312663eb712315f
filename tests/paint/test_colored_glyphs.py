"""Glyphs with colours of their own are drawn, and say their text; what their makers allow is heard."""

import pypdfium2 as pdfium
import pytest

import fleetquill as fq
from fleetquill.bindery.typefaces import typefaces
from made_fonts import STAR, as_rule, star_font
from structured import outline, said_of, subject_of


def page(kind, text=f"a{STAR}{STAR} b", style="", allowed=0, **options):
    html = (
        f"<html lang=en><title>t</title><style>@page {{ size: 200px 100px; margin: 0 }} body {{ margin: 0 }} "
        f"{as_rule(star_font(kind, allowed))} p {{ margin: 0; font: 40px/50px serif, Stars; {style} }}</style><p>{text}"
    )
    return fq.compose(fq.Manuscript.from_html(html), **options)


def shown(edition):
    return pdfium.PdfDocument(edition.to_bytes())[0].render(scale=96 / 72).to_pil().convert("RGB")


@pytest.mark.parametrize(
    ("kind", "colors"),
    [
        ("layers", [(255, 0, 0), (0, 128, 0)]),
        ("gradient", [(230, 0, 25), (25, 0, 230)]),
        ("bitmap", [(0, 160, 0)]),
    ],
)
def test_colours_of_glyphs_are_seen(kind, colors):
    edition = page(kind, text=STAR, style="color: green")
    image = shown(edition)
    found = [image.getpixel((x, y)) for x in range(1, 36) for y in range(10, 44)]
    for color in colors:
        assert any(all(abs(a - b) < 30 for a, b in zip(pixel, color, strict=True)) for pixel in found)
    assert edition.remarks == ()


@pytest.mark.parametrize("kind", ["layers", "gradient", "bitmap"])
def test_they_stand_where_their_letters_would(kind):
    assert page(kind).locate("p") == page("plain").locate("p")
    image = shown(page(kind, text=STAR))
    dark = [x for x in range(200) if any(image.getpixel((x, y)) != (255, 255, 255) for y in range(5, 60))]
    assert min(dark) <= 1
    assert max(dark) == pytest.approx(32 if kind != "bitmap" else 36, abs=3)


@pytest.mark.parametrize("kind", ["layers", "gradient", "bitmap"])
def test_they_say_their_text(kind):
    content = page(kind, conform=["PDF/A-3a", "PDF/UA-1"]).to_bytes()
    assert fq.check(content).faults == ()
    subject = subject_of(content)
    assert said_of(subject, "Span", "ActualText") == [f"{STAR}{STAR} "]  # with the space after the word
    assert [line.strip() for line in outline(subject)] == ["Document", "P ab", f"Span {STAR}{STAR}"]


@pytest.mark.parametrize("kind", ["layers", "gradient", "plain"])
def test_they_are_copied_by_readers_that_know_glyphs_alone(kind):
    content = page(kind, tagged=False).to_bytes()
    text = pdfium.PdfDocument(content)[0].get_textpage().get_text_range()
    assert text.strip() == f"a{STAR}{STAR} b"


RED, BLUE, NOTHING = (255, 0, 0), (0, 0, 255), (255, 255, 255)
COMPOSED = {  # what is seen where the red half is alone, where both are, and where the blue one is alone
    "CLEAR": (NOTHING, NOTHING, NOTHING),
    "SRC": (NOTHING, BLUE, BLUE),
    "DEST": (RED, RED, NOTHING),
    "SRC_OVER": (RED, BLUE, BLUE),
    "DEST_OVER": (RED, RED, BLUE),
    "SRC_IN": (NOTHING, BLUE, NOTHING),
    "DEST_IN": (NOTHING, RED, NOTHING),
    "SRC_OUT": (NOTHING, NOTHING, BLUE),
    "DEST_OUT": (RED, NOTHING, NOTHING),
    "SRC_ATOP": (RED, BLUE, NOTHING),
    "DEST_ATOP": (NOTHING, RED, BLUE),
    "XOR": (RED, NOTHING, BLUE),
    "SCREEN": (RED, (255, 0, 255), BLUE),
    "MULTIPLY": (RED, (0, 0, 0), BLUE),
    "LIGHTEN": (RED, (255, 0, 255), BLUE),
    "DIFFERENCE": (RED, (255, 0, 255), BLUE),
}


@pytest.mark.parametrize("mode", COMPOSED)
def test_layers_are_composed_as_their_font_says(mode):
    image = shown(page(mode, text=STAR, style="color: #123456"))
    assert tuple(image.getpixel((x, 30)) for x in (6, 16, 26)) == COMPOSED[mode]


def test_svg_shows_them_too():
    svg = page("layers").pages[0].to_svg()
    assert "rgb(255" in svg or "#f00" in svg or "#ff0000" in svg or "255,0,0" in svg


def test_a_face_without_anything_to_see_is_passed_by():
    edition = page("empty")
    assert edition.remarks == ()  # another face has the sign
    assert shown(page("empty", text=STAR)).getextrema() != ((255, 255),) * 3
    assert all("Stars" not in face.name for face in typefaces(subject_of(edition.to_bytes())))


@pytest.mark.parametrize(("allowed", "said"), [(0, False), (2, True), (4, False), (8, False), (0x200, True)])
def test_a_face_that_may_not_go_along_is_a_remark_and_an_error_of_standards(allowed, said):
    edition = page("plain", text=STAR, style="font-family: Stars", allowed=allowed)
    assert [remark.kind for remark in edition.remarks] == ["embedding"] * said
    if said:
        assert "'Stars'" in edition.remarks[0].message
        with pytest.raises(fq.ConformanceError, match="'Stars' does not let it go along"):
            page("plain", text=STAR, style="font-family: Stars", allowed=allowed, conform=["PDF/A-2b"]).to_bytes()


def test_a_face_that_is_to_be_whole_is():
    from io import BytesIO

    from fontTools.ttLib import TTFont

    def glyphs(allowed):
        content = page("plain", text=STAR, style="font-family: Stars", allowed=allowed).to_bytes()
        (face,) = (one for one in typefaces(subject_of(content)) if "Stars" in one.name)
        return TTFont(BytesIO(face.program.content))["maxp"].numGlyphs

    assert glyphs(0) == 2
    assert glyphs(0x100) == 6
