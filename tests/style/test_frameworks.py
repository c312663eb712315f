"""What style sheets that many pages share ask for, and a page of pixels or a computed value tells."""

import pypdfium2 as pdfium
import pypdfium2.raw as raw
import pytest

import fleetquill as fq
from readers import accepted, pixels

RED, WHITE = (255, 0, 0), (255, 255, 255)


def composed(css, html):
    sheet = "@page { size: 200px 200px; margin: 0 } body { margin: 0 }"
    return fq.compose(fq.Manuscript.from_html(f"<!doctype html><style>{sheet}{css}</style>{html}"))


def shot(css, html):
    return pixels(composed(css, html).to_bytes(), scale=96 / 72)


BOX = "<div style='width:100px;height:100px'></div>"
PICTURE = "url(\"data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' width='10' height='10'%3E%3Crect width='10' height='10' fill='red'/%3E%3C/svg%3E\")"


@pytest.mark.parametrize(
    ("position", "corner"),
    [
        ("right .625rem center", (80, 45)),
        ("center right 10px", (80, 45)),
        ("top right 1rem", (74, 0)),
        ("right 10px top 5px", (80, 5)),
        ("left 1em bottom 1em", (16, 74)),
        ("bottom 20% left 10px", (10, 72)),
        ("right calc(1em + 4px) center", (70, 45)),
        ("center bottom 2px", (45, 88)),
        ("bottom 2px center", (45, 88)),
    ],
)
def test_offsets_from_any_side_in_any_unit(position, corner):
    found = shot(f"div {{ background: {PICTURE} no-repeat {position} }}", BOX)
    dark = [(x, y) for x in range(100) for y in range(100) if found.getpixel((x, y))[1] < 128]
    assert min(dark) == pytest.approx(corner, abs=1)
    assert len(dark) == pytest.approx(100, abs=12)


@pytest.mark.parametrize("position", ["right 3px left 2px", "center 3px top", "left center right", "top 1px bottom"])
def test_positions_that_say_too_much_are_told(position):
    (remark,) = composed(f"div {{ background-position: {position} }}", BOX).remarks
    assert f"'{position}' is not understood" in remark.message


@pytest.mark.parametrize(
    ("css", "color"),
    [
        ("background: var(--own, red)", RED),
        ("--own: blue; background: var(--own, red)", (0, 0, 255)),
        ("--own: initial; background: var(--own, red)", RED),
        ("--handed: initial; background: var(--handed, red)", RED),
        ("background: var(--handed, red)", (0, 255, 0)),
        ("--handed: inherit; background: var(--handed, red)", (0, 255, 0)),
        ("--handed: unset; background: var(--handed, red)", (0, 255, 0)),
        ("--a: initial; --b: var(--a, red); background: var(--b)", RED),
        ("--a: initial; background: red; box-shadow: inset 0 0 0 99px var(--a, var(--handed))", (0, 255, 0)),
    ],
)
def test_custom_properties_that_were_never_set_fall_back(css, color):
    found = shot(f"body {{ --handed: lime }} div {{ {css} }}", BOX)
    assert found.getpixel((50, 50)) == color


@pytest.mark.parametrize(
    ("color", "same"),
    [
        ("hsl(0deg, 100%, calc(40% + 10%))", "red"),
        ("hsl(calc(100deg + 20deg) 100% 50%)", "lime"),
        ("hsl(calc(.25turn + 30deg), 100%, 50%)", "lime"),
        ("rgba(calc(200 + 55), 0, 0, calc(1 / 2))", "rgba(255, 0, 0, .5)"),
        ("rgb(0 0 0 / calc(25% * 2))", "rgba(0, 0, 0, .5)"),
        ("hsl(0 100% max(50%, 20%))", "red"),
        ("hsl(0 100% calc(100% - (2 * 25%)))", "red"),
    ],
)
def test_sums_within_colours(color, same):
    assert shot(f"div {{ background: {color} }}", BOX) == shot(f"div {{ background: {same} }}", BOX)


@pytest.mark.parametrize(
    ("color", "same"),
    [("Canvas", "white"), ("WindowText", "black"), ("windowtext", "black"), ("Mark", "yellow"), ("GrayText", "gray"),
     ("LinkText", "#00e"), ("color-mix(in srgb, Canvas, CanvasText)", "gray"), ("ActiveText", "red")],
)  # fmt: skip
def test_colours_of_screens_have_one_on_paper(color, same):
    edition = composed(f"div {{ background: {color} }}", BOX)
    assert not edition.remarks
    found = pixels(edition.to_bytes(), scale=96 / 72).getpixel((50, 50))
    assert found == pytest.approx(shot(f"div {{ background: {same} }}", BOX).getpixel((50, 50)), abs=1)


def test_every_colour_of_screens_that_the_standard_names_is_known():
    from fleetquill.style.colors import SYSTEM

    now = "AccentColor AccentColorText ActiveText ButtonBorder ButtonFace ButtonText Canvas CanvasText Field FieldText"
    now += " GrayText Highlight HighlightText LinkText Mark MarkText SelectedItem SelectedItemText VisitedText"
    old = "ActiveBorder ActiveCaption AppWorkspace Background ButtonHighlight ButtonShadow CaptionText InactiveBorder"
    old += " InactiveCaption InactiveCaptionText InfoBackground InfoText Menu MenuText Scrollbar ThreeDDarkShadow"
    old += " ThreeDFace ThreeDHighlight ThreeDLightShadow ThreeDShadow Window WindowFrame WindowText"
    assert {name.lower() for name in f"{now} {old}".split()} == set(SYSTEM)


@pytest.mark.parametrize("color", ["hsl(0, 100%, calc(40% + 10deg))", "rgb(calc(1px), 0, 0)", "rgb(attr(x), 0, 0)"])
def test_sums_that_are_none_are_told(color):
    (remark,) = composed(f"div {{ background-color: {color} }}", BOX).remarks
    assert "is not understood" in remark.message


@pytest.mark.parametrize(
    ("selector", "color"),
    [
        (":root, :host", RED), (":host, div", RED), (":host(.dark), div", RED), (":host-context(main) p, div", RED),
        ("div, :host(:not(a)) b", RED), (":host div", (0, 0, 255)), (":host(:not(a)) div", (0, 0, 255)),
    ],
)  # fmt: skip
def test_rules_that_also_name_a_shadow_tree_hold(selector, color):
    edition = composed(f"div {{ background: var(--c, blue) }} {selector} {{ --c: red }}", BOX)
    assert not edition.remarks
    assert pixels(edition.to_bytes(), scale=96 / 72).getpixel((50, 50)) == color


@pytest.mark.parametrize(
    "declaration",
    [
        "display: -ms-flexbox", "width: -webkit-max-content", "position: -webkit-sticky", "filter: alpha(opacity=50)",
        "filter: progid:DXImageTransform.Microsoft.gradient(enabled = false)",
        "background-image: -webkit-linear-gradient(left, red, blue)", "outline: 5px auto -webkit-focus-ring-color",
        "-moz-transition: none", "mso-line-height-rule: exactly",
    ],
)  # fmt: skip
def test_what_one_browser_alone_understands_is_told_once(declaration):
    edition = composed(f"p {{ {declaration} }} i {{ {declaration} }}", "<p>x")
    said = {remark.message.split(" (column")[0] for remark in edition.remarks}
    assert said <= {"Properties, values and selectors with a browser's own prefix are passed over."}


def test_a_value_of_its_own_is_not_taken_for_one():
    (remark,) = composed("p { display: ms-flexbox; }", "<p>x").remarks
    assert "'ms-flexbox' is not understood" in remark.message


@pytest.mark.parametrize(
    ("css", "square"),
    [
        ("border-start-start-radius: 40px", [(99, 0), (99, 99), (0, 99)]),
        ("border-start-end-radius: 40px", [(0, 0), (99, 99), (0, 99)]),
        ("border-end-start-radius: 40px", [(0, 0), (99, 0), (99, 99)]),
        ("border-end-end-radius: 40px", [(0, 0), (99, 0), (0, 99)]),
        ("direction: rtl; border-start-start-radius: 40px", [(0, 0), (99, 99), (0, 99)]),
        ("direction: rtl; border-end-end-radius: 40px", [(0, 0), (99, 0), (99, 99)]),
    ],
)
def test_corners_are_named_by_where_lines_start(css, square):
    found = shot(f"div {{ background: red; {css} }}", BOX)
    corners = [(0, 0), (99, 0), (99, 99), (0, 99)]
    assert [corner for corner in corners if found.getpixel(corner) == RED] == sorted(square, key=corners.index)


@pytest.mark.parametrize("side", ["left", "top", "right", "bottom"])
@pytest.mark.parametrize("kind", ["solid", "double", "dashed", "groove"])
def test_sides_that_are_not_there_leave_no_line(side, kind):
    css = f"div {{ margin: 20px; border: 0 {kind} red; border-{side}-width: 6px; border-radius: 10px }}"
    found = shot(css, BOX)
    red = {(x, y) for x in range(200) for y in range(200) if found.getpixel((x, y))[1] < 250}
    assert red
    ends = {"left": (20, 0), "top": (20, 1), "right": (126, 0), "bottom": (126, 1)}
    at, axis = ends[side]
    nearest = {"left": 30, "top": 30, "right": 116, "bottom": 116}[side]
    beyond = [p for p in red if (p[axis] > nearest + 1 if at == 20 else p[axis] < nearest - 2)]
    assert not beyond


@pytest.mark.parametrize(
    ("css", "seen"),
    [
        ("clip: rect(10px, 50px, 40px, 5px)", (5, 10, 50, 40)),
        ("clip: rect(10px 50px 40px 5px)", (5, 10, 50, 40)),
        ("clip: rect(auto, 50px, auto, auto)", (0, 0, 50, 100)),
        ("clip: rect(0, 0, 0, 0)", None),
        ("clip: auto", (0, 0, 100, 100)),
        ("clip: rect(0, 0, 0, 0); position: static", (0, 0, 100, 100)),
        ("clip: rect(0, 0, 0, 0); clip-path: inset(0)", (0, 0, 100, 100)),
    ],
)
def test_clip_hides_what_is_outside_of_it(css, seen):
    edition = composed(f"div {{ background: red; position: absolute; {css} }}", BOX)
    assert not edition.remarks
    assert pixels(edition.to_bytes(), scale=96 / 72).point(lambda level: 255 - level).getbbox() == seen


def leads_to(document, page):
    """The index of the page that the link at the top left of a page leads to."""
    shown = document[page]
    text = shown.get_textpage()
    left, bottom, right, top = text.get_charbox(0)
    link = raw.FPDFLink_GetLinkAtPoint(shown.raw, (left + right) / 2, (bottom + top) / 2)
    destination = raw.FPDFLink_GetDest(document.raw, link)
    return raw.FPDFDest_GetDestPageIndex(document.raw, destination) if destination else None


@pytest.mark.parametrize("target", ["#", "#top"])
def test_links_to_nowhere_lead_to_the_top(tmp_path, target):
    html = f"<html lang=en><title>t</title><p>first<p style='break-before:page'><a href='{target}'>up</a>"
    edition = composed("", html)
    assert not edition.remarks
    edition.save(tmp_path / "up.pdf")
    accepted(tmp_path / "up.pdf")
    assert leads_to(pdfium.PdfDocument(tmp_path / "up.pdf"), 1) == 0


def test_an_element_called_top_is_where_they_lead(tmp_path):
    edition = composed("", "<a href='#top'>up</a><p style='break-before:page' id=top>here")
    assert not edition.remarks
    assert leads_to(pdfium.PdfDocument(edition.to_bytes()), 0) == 1


@pytest.mark.parametrize("value", ["circle(3px)", "rect(1px, 2px, 3px)", "rect(1px, 2px, 3px, x)", "inset(0)"])
def test_clips_that_are_none_are_told(value):
    (remark,) = composed(f"div {{ clip: {value} }}", BOX).remarks
    assert "is not understood" in remark.message


@pytest.mark.parametrize(
    ("selector", "html", "matches"),
    [
        ("i:dir(rtl)", "<p dir=rtl><i>x</i>", True),
        ("i:dir(ltr)", "<p dir=rtl><i>x</i>", False),
        ("i:dir(ltr)", "<p><i>x</i>", True),
        ("i:dir(rtl)", "<p dir=rtl><b dir=ltr><i>x</i></b>", False),
        ("i:dir(ltr)", "<p dir=rtl><i dir=LTR>x</i>", True),
        ("i:not(:dir(rtl))", "<p><i>x</i>", True),
        ("i:dir(up)", "<p><i>x</i>", False),
    ],
)
def test_elements_by_their_direction(selector, html, matches):
    edition = composed(f"{selector} {{ padding-left: 20px }}", html)
    assert not edition.remarks
    (place,) = edition.locate("i")
    assert (place.width > 15) == matches
