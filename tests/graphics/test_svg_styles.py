"""SVG on the cascade of CSS: what styles a drawing in a file, and one that stands in a document."""

import ctypes

import pypdfium2 as pdfium
import pypdfium2.raw as raw
import pytest

RED, GREEN, BLUE, WHITE = (255, 0, 0), (0, 128, 0), (0, 0, 255), (255, 255, 255)
SQUARE = "<rect class=a width=100 height=100 />"


def svg(body, more=""):
    return f'<svg width="100" height="100" viewBox="0 0 100 100" style="display:block" {more}>{body}</svg>'


@pytest.mark.parametrize(
    ("css", "body", "more", "color"),
    [
        ("svg .a{fill:red}", SQUARE, "", RED),
        (".icon{fill:red}", SQUARE, "class=icon", RED),
        (".icon{color:red}", SQUARE, "class=icon fill=currentColor", RED),
        ("body{color:red}", "<rect width=100 height=100 fill=none stroke=currentColor stroke-width=99 />", "", RED),
        (":root{--ink:blue} rect{fill:var(--ink)}", SQUARE, "", BLUE),
        ("rect{fill:red}", "<rect width=100 height=100 fill=blue />", "", RED),
        ("rect{fill:red!important}", "<rect width=100 height=100 style='fill:blue' />", "", RED),
        ("", "<style>rect{fill:red}rect:nth-child(3){fill:blue}</style>" + SQUARE * 2, "", BLUE),
        ("@media screen{rect{fill:blue}} @media print{rect{fill:red}}", SQUARE, "", RED),
        ("", "<g fill=red><g style='fill:inherit'>" + SQUARE + "</g></g>", "", RED),
        ("g{fill:red} rect{fill:unset}", "<g>" + SQUARE + "</g>", "", RED),
        ("rect{fill:initial;fill-opacity:50%}", SQUARE, "fill=red", (127, 127, 127)),
        ("", "<rect width=100 height=100 fill=red opacity=50% />", "", (255, 127, 127)),
        ("svg{opacity:.5}", SQUARE, "fill=red", (255, 127, 127)),
        ("rect{transform:translate(-50px,0) scale(3)}", "<rect width=50 height=50 fill=red />", "", RED),
        ("rect{transform:rotate(180deg);transform-origin:50% 50%}", "<rect y=50 x=50 width=50 height=50 fill=red />", "", WHITE),
        ("use{fill:red}", "<defs><g fill=blue><rect id=r width=100 height=100 /></g></defs><use href=#r />", "", RED),
        ("#g{color:red} stop{stop-color:currentcolor}",
         "<defs id=g><linearGradient id=l><stop/><stop offset=1 /></linearGradient></defs>"
         "<rect width=100 height=100 fill='url(#l)' />", "", RED),
        ("", "<rect width=100 height=100 fill='url(#gone) red' />", "", RED),
        ("", "<rect width=100 height=100 fill='url(#gone)' />", "", WHITE),
        ("", "<rect width=100 height=100 fill='no such colour' />", "fill=red", RED),
        ("rect{display:none}", SQUARE, "", WHITE),
        ("rect{visibility:hidden}", SQUARE, "", WHITE),
        ("rect{stroke:red;stroke-width:100%;fill:none}", SQUARE, "", RED),
    ],
)  # fmt: skip
def test_a_drawing_in_a_document_is_styled_by_it(shot, css, body, more, color):
    page = shot(f"<style>{css}</style>" + svg(body, more))
    assert page.getpixel((50, 40)) == pytest.approx(color, abs=2)


def test_a_drawing_in_a_file_is_styled_by_itself_alone(shot, tmp_path):
    picture = (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 2 1"><style>.b{fill:blue}</style>'
        '<rect width="1" height="1"/><rect class="b" x="1" width="1" height="1"/></svg>'
    )
    (tmp_path / "a.svg").write_text(picture)
    page = shot("<style>rect{fill:red} body{color:red}</style><img src=a.svg style='width:100px;display:block'>")
    assert page.getpixel((20, 20)) == (0, 0, 0) and page.getpixel((80, 20)) == BLUE


def test_the_styles_of_a_drawing_stay_in_it(shot):
    page = shot(svg("<style>p,rect{fill:red;color:blue}</style>" + SQUARE) + "<p style='font-size:80px'>MM</p>")
    colors = {page.getpixel((x, y)) for x in range(0, 100, 3) for y in range(0, 250, 3)}
    assert RED in colors and BLUE not in colors


def test_text_in_a_drawing_inherits_the_documents_font_and_its_own_sizes(compose):
    words = "<text y=20>one</text><g class=big><text y=60>two</text></g><text y=90 style='font:10px serif'>six</text>"
    css = "svg{font-family:monospace;font-size:20px} .big{font-size:2em} text{font:inherit}"
    page = pdfium.PdfDocument(compose(f"<style>{css}</style>" + svg(words)).to_bytes())[0]
    text = page.get_textpage()
    found = {}
    for word in ("one", "two", "six"):
        start, _ = text.search(word).get_next()
        name = ctypes.create_string_buffer(100)
        raw.FPDFText_GetFontInfo(text, start, name, 100, None)
        found[word] = (name.value.decode().split("+")[-1], round(raw.FPDFText_GetFontSize(text, start)))
    assert [size for _, size in found.values()] == [20, 40, 10]
    assert "Mono" in found["two"][0] and "Serif" in found["six"][0]


@pytest.mark.parametrize("declaration", ["clip-path:url(#a)", "mask:url(#a)"])
def test_a_clip_path_or_mask_that_is_not_there_is_a_remark(compose, declaration):
    messages = [r.message for r in compose(f"<p style='{declaration}'>x</p>").remarks]
    assert any("'#a' leads to no mask or clipPath" in message for message in messages)
    assert compose("<style>.unused{filter:blur(2px)} svg{fill:red}</style><p>x").remarks == ()


@pytest.mark.parametrize(
    ("css", "words"),
    [("rect{fill:url(a.png)}", "fill"), ("rect{stroke-linecap:fancy}", "stroke-linecap"), ("rect{fil:red}", "'fill'")],
)
def test_what_a_sheet_says_wrongly_of_drawings_is_a_remark(compose, css, words):
    assert any(words in r.message for r in compose(f"<style>{css}</style>" + svg(SQUARE)).remarks)
