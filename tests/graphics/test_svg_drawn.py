"""SVG by the pixels that come out: shapes, inks, clips, masks, filters and letters, one line a case.

Each case: an SVG of 40 × 40 px, and places in it with the colour that they have there.
"""

import io

import pypdfium2
import pytest

import fleetquill as fq

W, K, R, G, B, T = (255, 255, 255), (0, 0, 0), (255, 0, 0), (0, 255, 0), (0, 0, 255), (0, 128, 128)
RB = '<linearGradient id="g"><stop stop-color="#f00"/><stop offset="1" stop-color="#00f"/></linearGradient>'
HARD = (
    '<linearGradient id="g"><stop offset=".5" stop-color="#f00"/><stop offset=".5" stop-color="#00f"/></linearGradient>'
)
FULL = '<rect width="40" height="40"'
STRIPES = '<pattern id="p" width="10" height="10" patternUnits="userSpaceOnUse"><rect width="5" height="10" fill="#f00"/></pattern>'


def filtered(steps, shape='<rect x="10" y="10" width="20" height="20" fill="#f00"', more=""):
    return f'<filter id="f" color-interpolation-filters="sRGB" {more}>{steps}</filter>{shape} filter="url(#f)"/>'


CASES = [
    # shapes (SVG 2 §10) and fill rules (§13.3)
    ("a rectangle with an edge", '<rect x="10" y="10" width="20" height="20" fill="#f00" stroke="#00f" stroke-width="4"/>', {(20, 20): R, (10, 20): B, (4, 4): W}),
    ("a circle", '<circle cx="20" cy="20" r="15" fill="#f00"/>', {(20, 20): R, (7, 7): W, (20, 7): R}),
    ("evenodd", '<path fill-rule="evenodd" d="M0 0h40v40h-40zM10 10h20v20h-20z"/>', {(5, 5): K, (20, 20): W}),
    ("nonzero", '<path d="M0 0h40v40h-40zM10 10h20v20h-20z"/>', {(20, 20): K}),
    ("nonzero, the other way", '<path d="M0 0h40v40h-40zM10 10v20h20v-20z"/>', {(20, 20): W}),
    ("geometry in a style", '<style>rect{x:10px;y:50%;width:20px;height:10px}</style><rect fill="red"/>', {(20, 25): R, (20, 10): W}),
    ("caps", '<path d="M20 20h0" stroke="#f00" stroke-width="20" stroke-linecap="square"/>', {(12, 12): R, (20, 20): R}),
    ("dashes", '<path d="M0 20H40" stroke="#f00" stroke-width="40" stroke-dasharray="10"/>', {(5, 20): R, (15, 20): W, (25, 20): R}),
    ("dashes with an offset", '<path d="M0 20H40" stroke="#f00" stroke-width="40" stroke-dasharray="10" stroke-dashoffset="10"/>', {(5, 20): W, (15, 20): R}),
    ("a path's own units", '<path d="M0 20H40" pathLength="4" stroke="#f00" stroke-width="40" stroke-dasharray="1"/>', {(5, 20): R, (15, 20): W}),
    ("a stroke that does not scale", '<g transform="scale(10)"><path d="M0 2H4" stroke="#f00" stroke-width="8" vector-effect="non-scaling-stroke"/></g>', {(20, 20): R, (20, 27): W}),
    # inks (§13.2, §14)
    ("a gradient", f'{RB}{FULL} fill="url(#g)"/>', {(1, 20): (252, 0, 3), (38, 20): (8, 0, 247)}),
    ("a gradient that changes at once", f'{HARD}{FULL} fill="url(#g)"/>', {(18, 20): R, (22, 20): B}),
    ("a gradient on an outline", f'{HARD}<path d="M0 10H40V11" fill="none" stroke="url(#g)" stroke-width="12"/>', {(10, 10): R, (30, 10): B, (20, 30): W}),
    ("a gradient on a line without height", f'{HARD}<path d="M0 20H40" stroke="url(#g)" stroke-width="20"/>', {(10, 20): W}),
    ("a gradient with a transform", f'<linearGradient id="g" href="#h" gradientTransform="rotate(90)"/>{HARD.replace(chr(34) + "g", chr(34) + "h")}{FULL} fill="url(#g)"/>', {(20, 5): R, (20, 35): B}),
    ("a gradient that is repeated", f'{HARD.replace("<linearGradient", "<linearGradient x2=" + chr(34) + ".5" + chr(34) + " spreadMethod=" + chr(34) + "repeat" + chr(34))}{FULL} fill="url(#g)"/>', {(5, 20): R, (15, 20): B, (25, 20): R, (35, 20): B}),
    ("a gradient that is reflected", f'{HARD.replace("<linearGradient", "<linearGradient x2=" + chr(34) + ".5" + chr(34) + " spreadMethod=" + chr(34) + "reflect" + chr(34))}{FULL} fill="url(#g)"/>', {(5, 20): R, (15, 20): B, (25, 20): B, (35, 20): R}),
    ("a round gradient with a hole", '<radialGradient id="g" fr=".5"><stop stop-color="#f00"/><stop offset="1" stop-color="#00f"/></radialGradient>' + f'{FULL} fill="url(#g)"/>', {(20, 20): R, (1, 1): B}),
    ("a gradient of one stop", f'<linearGradient id="g"><stop stop-color="#f00"/></linearGradient>{FULL} fill="url(#g)"/>', {(20, 20): R}),
    ("a gradient of none", f'<linearGradient id="g"/>{FULL} fill="url(#g)"/>', {(20, 20): W}),
    ("a server that is not there", f'{FULL} fill="url(#gone) #f00"/>', {(20, 20): R}),
    ("a pattern", f'{STRIPES}{FULL} fill="url(#p)"/>', {(2, 20): R, (7, 20): W, (12, 20): R}),
    ("a pattern on an outline", f'{STRIPES}<path d="M0 20H40" stroke="url(#p)" stroke-width="20"/>', {(2, 20): R, (7, 20): W, (2, 5): W}),
    ("a pattern, let through", f'{STRIPES}{FULL} fill="url(#p)" fill-opacity=".5"/>', {(2, 20): (255, 127, 127), (7, 20): W}),
    ("a pattern in the box", '<pattern id="p" width=".5" height="1" patternContentUnits="objectBoundingBox"><rect width=".25" height="1" fill="#f00"/></pattern>' + f'{FULL} fill="url(#p)"/>', {(5, 20): R, (15, 20): W, (25, 20): R}),
    ("inks of what a marker stands on", '<marker id="m" markerWidth="4" markerHeight="4" refX="2" refY="2"><rect width="4" height="4" fill="context-stroke"/></marker><path d="M20 20H39" stroke="#f00" stroke-width="4" marker-start="url(#m)"/>', {(14, 20): R, (14, 14): R}),
    # clips (CSS Masking 1 §5)
    ("a clip", f'<clipPath id="c"><rect width="20" height="40"/></clipPath>{FULL} fill="#f00" clip-path="url(#c)"/>', {(10, 20): R, (30, 20): W}),
    ("a clip of two shapes", f'<clipPath id="c"><rect width="10" height="40"/><path d="M5 0v20h35v-20z"/></clipPath>{FULL} fill="#f00" clip-path="url(#c)"/>', {(7, 10): R, (30, 10): R, (30, 30): W, (5, 30): R}),
    ("a clip in the box", f'<clipPath id="c" clipPathUnits="objectBoundingBox"><rect width=".5" height=".5"/></clipPath>{FULL} fill="#f00" clip-path="url(#c)"/>', {(10, 10): R, (30, 10): W}),
    ("a clip that is clipped", f'<clipPath id="a"><rect width="40" height="10"/></clipPath><clipPath id="c" clip-path="url(#a)"><rect width="20" height="40"/></clipPath>{FULL} fill="#f00" clip-path="url(#c)"/>', {(10, 5): R, (10, 30): W}),
    ("a clip by a use", f'<defs><rect id="r" width="10" height="40"/></defs><clipPath id="c"><use href="#r" x="10"/></clipPath>{FULL} fill="#f00" clip-path="url(#c)"/>', {(5, 20): W, (15, 20): R}),
    ("a clip with a hidden shape", f'<clipPath id="c"><rect width="40" height="40" visibility="hidden"/><rect width="10" height="40"/></clipPath>{FULL} fill="#f00" clip-path="url(#c)"/>', {(5, 20): R, (30, 20): W}),
    ("an empty clip", f'<clipPath id="c"/>{FULL} fill="#f00" clip-path="url(#c)"/>', {(20, 20): W}),
    ("a clip that is not there", f'{FULL} fill="#f00" clip-path="url(#gone)"/>', {(20, 20): R}),
    ("a clip of CSS", f'{FULL} fill="#f00" style="clip-path:circle(10px)"/>', {(20, 20): R, (5, 5): W}),
    ("a clip in itself", f'<clipPath id="c" clip-path="url(#c)"><rect width="20" height="40"/></clipPath>{FULL} fill="#f00" clip-path="url(#c)"/>', {(10, 20): R}),
    # masks (§6)
    ("a mask", f'<mask id="m"><rect width="20" height="40" fill="#fff"/></mask>{FULL} fill="#f00" mask="url(#m)"/>', {(10, 20): R, (30, 20): W}),
    ("a mask of grey", f'<mask id="m"><rect width="40" height="40" fill="#808080"/></mask>{FULL} fill="#f00" mask="url(#m)"/>', {(20, 20): (255, 127, 127)}),
    ("a mask by opacity", f'<mask id="m" style="mask-type:alpha"><rect width="20" height="40" fill="#000"/></mask>{FULL} fill="#f00" mask="url(#m)"/>', {(10, 20): R, (30, 20): W}),
    ("a mask's area", f'<mask id="m" maskUnits="userSpaceOnUse" x="0" y="0" width="40" height="10">{FULL} fill="#fff"/></mask>{FULL} fill="#f00" mask="url(#m)"/>', {(20, 5): R, (20, 30): W}),
    ("a mask in the box", f'<mask id="m" maskContentUnits="objectBoundingBox"><rect width=".5" height="1" fill="#fff"/></mask>{FULL} fill="#f00" mask="url(#m)"/>', {(10, 20): R, (30, 20): W}),
    ("a mask over what lets through", f'<mask id="m"><rect width="20" height="40" fill="#fff"/></mask><g mask="url(#m)">{FULL} fill="#f00" opacity=".5"/></g>', {(10, 20): (255, 127, 127), (30, 20): W}),
    # filters (Filter Effects 1 §9)
    ("offset", filtered('<feOffset dx="8"/>'), {(12, 20): W, (20, 20): R}),
    ("flood", filtered('<feFlood flood-color="#00f"/>'), {(20, 20): B, (9, 9): B, (3, 3): W}),
    ("flood that lets through", filtered('<feFlood flood-color="#f80" flood-opacity=".5"/>'), {(20, 20): (255, 195, 128)}),
    ("flood within a part", filtered('<feFlood flood-color="#00f" x="10" y="10" width="5" height="20"/>'), {(12, 20): B, (20, 20): W}),
    ("merge", filtered('<feFlood flood-color="#00f"/><feMerge><feMergeNode/><feMergeNode in="SourceGraphic"/></feMerge>'), {(9, 9): B, (20, 20): R}),
    ("composite in", filtered('<feFlood flood-color="#00f"/><feComposite in2="SourceGraphic" operator="in"/>'), {(20, 20): B, (9, 9): W}),
    ("composite out", filtered('<feFlood flood-color="#00f"/><feComposite in2="SourceGraphic" operator="out"/>'), {(20, 20): W, (9, 9): B}),
    ("composite xor", filtered('<feFlood flood-color="#00f"/><feComposite in2="SourceGraphic" operator="xor"/>'), {(20, 20): W, (9, 9): B}),
    ("composite atop", filtered('<feFlood flood-color="#00f"/><feComposite in2="SourceGraphic" operator="atop"/>'), {(20, 20): B, (9, 9): W}),
    ("composite by arithmetic", filtered('<feFlood flood-color="#00f"/><feComposite in2="SourceGraphic" operator="arithmetic" k2=".5" k3=".5"/>'), {(20, 20): (127, 0, 127)}),
    ("blend", filtered('<feFlood flood-color="#0ff"/><feBlend in2="SourceGraphic" mode="multiply"/>'), {(20, 20): K, (9, 9): (0, 255, 255)}),
    ("matrix", filtered('<feColorMatrix values="0 0 0 0 0 1 0 0 0 0 0 0 0 0 0 0 0 0 1 0"/>'), {(20, 20): G}),
    ("saturate", filtered('<feColorMatrix type="saturate" values="0"/>'), {(20, 20): (54, 54, 54)}),
    ("turned hue", filtered('<feColorMatrix type="hueRotate" values="0"/>'), {(20, 20): R}),
    ("luminance as opacity", filtered('<feColorMatrix type="luminanceToAlpha"/>'), {(20, 20): (201, 201, 201)}),
    ("transfer", filtered('<feComponentTransfer><feFuncR type="linear" slope=".5"/><feFuncB type="linear" intercept="1"/></feComponentTransfer>'), {(20, 20): (127, 0, 255)}),
    ("transfer by a table", filtered('<feComponentTransfer><feFuncR type="discrete" tableValues="1 0"/></feComponentTransfer>'), {(20, 20): K}),
    ("transfer by a power", filtered('<feComponentTransfer><feFuncG type="gamma" amplitude="0" offset="1"/></feComponentTransfer>'), {(20, 20): (255, 255, 0)}),
    ("dilate", filtered('<feMorphology operator="dilate" radius="2"/>'), {(9, 20): R, (6, 20): W}),
    ("erode", filtered('<feMorphology radius="4"/>'), {(20, 20): R, (12, 20): W}),
    ("tile", filtered('<feFlood flood-color="#00f" x="8" y="8" width="4" height="40"/><feOffset x="8" y="8" width="8" height="24"/><feTile/>'), {(9, 20): B, (14, 20): W, (17, 20): B}),
    ("drop shadow", filtered('<feDropShadow dx="4" dy="4" stdDeviation="0" flood-color="#00f"/>', more='width="2" height="2"'), {(20, 20): R, (32, 32): B}),
    ("displaced by nothing", filtered('<feDisplacementMap in2="SourceGraphic" scale="0"/>'), {(20, 20): R}),
    ("a kernel of one", filtered('<feConvolveMatrix order="1" kernelMatrix="1"/>'), {(20, 20): R}),
    ("a blur leaves the middle", filtered('<feGaussianBlur stdDeviation="1"/>'), {(20, 20): R, (4, 4): W}),
    ("steps by their name", filtered('<feFlood flood-color="#0f0" result="a"/><feFlood flood-color="#00f"/><feMerge><feMergeNode in="a"/></feMerge>'), {(20, 20): G}),
    ("the source's opacity", filtered('<feOffset in="SourceAlpha" dx="0"/>'), {(20, 20): K}),
    ("a filter's region", filtered('<feFlood flood-color="#00f"/>', more='filterUnits="userSpaceOnUse" x="0" y="0" width="40" height="10"'), {(20, 5): B, (20, 20): W}),
    ("a filter that is not there", f'{FULL} fill="#f00" filter="url(#gone)"/>', {(20, 20): R}),
    ("functions of CSS", f'{FULL} fill="#f00" style="filter:invert(1)"/>', {(20, 20): (0, 255, 255)}),
    # groups, uses, viewports
    ("opacity of a group", f'<g opacity=".5">{FULL} fill="#f00"/>{FULL} fill="#00f"/></g>', {(20, 20): (127, 127, 255)}),
    ("a blend", f'{FULL} fill="#ff0"/>{FULL} fill="#0ff" style="mix-blend-mode:multiply"/>', {(20, 20): G}),
    ("a symbol in its size", '<symbol id="s" viewBox="0 0 10 10"><rect width="10" height="10" fill="#f00"/></symbol><use href="#s" width="20" height="20"/>', {(10, 10): R, (30, 10): W}),
    ("a nested viewport", '<svg width="20" height="20"><rect width="40" height="40" fill="#f00"/></svg>', {(10, 10): R, (30, 10): W}),
    ("a language", f'<switch>{FULL} fill="#f00" systemLanguage="xx"/>{FULL} fill="#00f"/></switch>', {(20, 20): B}),
    ("a transform about its own middle", '<rect x="10" y="10" width="20" height="2" fill="#f00" style="transform:rotate(90deg);transform-box:fill-box;transform-origin:center"/>', {(20, 4): R, (12, 11): W}),
]  # fmt: skip


@pytest.fixture(scope="module")
def press():
    return fq.Press()


def picture(press, content):
    html = (
        "<style>@page{size:40px 40px;margin:0}body{margin:0}svg{display:block}</style>"
        f'<svg xmlns="http://www.w3.org/2000/svg" width="40" height="40">{content}</svg>'
    )
    edition = press.compose(fq.Manuscript.from_html(html))
    return pypdfium2.PdfDocument(io.BytesIO(edition.to_bytes()))[0].render(scale=2 * 96 / 72).to_pil().convert("RGB")


@pytest.mark.parametrize(("content", "wanted"), [case[1:] for case in CASES], ids=[case[0] for case in CASES])
def test_svg_is_drawn_as_the_standard_says(press, content, wanted):
    shown = picture(press, content)
    found = {place: shown.getpixel((2 * place[0], 2 * place[1])) for place in wanted}
    assert {
        place: max(map(abs, (a - b for a, b in zip(found[place], wanted[place], strict=True)))) < 9 for place in wanted
    } == dict.fromkeys(wanted, True), found


# ---- letters ----

LETTERS = [
    ("placed one by one", '<text font-size="20" x="10 40 80" y="30 50">abc</text>', [("a", 10, 30), ("b", 40, 50), ("c", 80, 50)]),
    ("by an inner element first", '<text font-size="20" x="10 20"><tspan x="50">ab</tspan></text>', [("a", 50, 0), ("b", 20, 0)]),
    ("moved", '<text font-size="20" x="10" y="30" dy="0 5 -2">abc</text>', [("a", 10, 30), ("b", None, 35), ("c", None, 33)]),
    ("lines by x and dy", '<text y="20"><tspan x="5">one</tspan><tspan x="5" dy="20">two</tspan></text>', [("one", 5, 20), ("two", 5, 40)]),
    ("ended", '<text x="100" y="20" text-anchor="end" textLength="60">abc</text>', [("abc", 40, 20)]),
    ("in the middle", '<text x="100" y="20" text-anchor="middle" textLength="60">abc</text>', [("abc", 70, 20)]),
    ("from the right", '<text x="100" y="20" direction="rtl" textLength="60">abc</text>', [("abc", 40, 20)]),
    ("raised", '<text y="50" font-size="20">a<tspan baseline-shift="super">b</tspan></text>', [("a", 0, 50), ("b", None, 42)]),
    ("raised by a length", '<text y="50" font-size="20">a<tspan baseline-shift="5">b</tspan></text>', [("a", 0, 50), ("b", None, 45)]),
    ("white space", '<text y="20">  a \n  b  </text>', [("a b", 0, 20)]),
    ("white space that is kept", '<text y="20" xml:space="preserve"> a</text>', [(" a", 0, 20)]),
]  # fmt: skip


def letters(press, content):
    from fleetquill.layout.contract.fragments import walk

    edition = press.compose(fq.Manuscript.from_html(f'<svg width="200" height="100">{content}</svg>'))
    placed = [p for page in edition._fragments for part in page.parts for p in walk(part)]
    drawing = next(p.box.picture for p in placed if p.box.element is not None and p.box.element.tag == "svg")
    found, saved, at = [], [], (0.0, 0.0)
    for verb, arguments in drawing.steps:
        if verb == "save":
            saved.append(at)
        elif verb == "restore":
            at = saved.pop()
        elif verb == "transform":
            at = (at[0] + arguments[0][4], at[1] + arguments[0][5])
        elif verb == "text":
            found.append((arguments[3][0].text, arguments[0] + at[0], arguments[1] + at[1]))
    return found


@pytest.mark.parametrize(("content", "wanted"), [case[1:] for case in LETTERS], ids=[case[0] for case in LETTERS])
def test_letters_stand_where_their_text_says(press, content, wanted):
    found = letters(press, content)
    assert [text for text, _, _ in found] == [text for text, _, _ in wanted]
    for (_, x, y), (_, wanted_x, wanted_y) in zip(found, wanted, strict=True):
        assert wanted_x is None or x == pytest.approx(wanted_x, abs=0.5)
        assert y == pytest.approx(wanted_y, abs=0.5)


def test_letters_along_a_path_are_turned_with_it(press):
    content = '<path id="p" d="M20 90V10"/><text font-size="16"><textPath href="#p">abc</textPath></text>'
    found = letters(press, content)
    assert [text for text, _, _ in found] == ["a", "b", "c"]
    heights = [y for _, _, y in found]
    assert heights == sorted(heights, reverse=True) and all(abs(x - 20) < 14 for _, x, _ in found)
    beyond = letters(press, content.replace("abc", "abcdefghijklmnop"))
    assert 5 < len(beyond) < 16  # what has no path is not set


@pytest.mark.parametrize(
    ("content", "said"),
    [('<text><textPath href="#gone">a</textPath></text>', "a path that is not there"),
     ("<filter id='f'><feNothing/></filter><rect width='9' height='9' filter='url(#f)'/>", "'fenothing' is passed over"),
     ("<filter id='f'>" + "<feOffset/>" * 99 + "</filter><rect width='9' height='9' filter='url(#f)'/>", "has 99 steps")],
)  # fmt: skip
def test_what_is_not_drawn_is_a_remark(press, content, said):
    edition = press.compose(fq.Manuscript.from_html(f"<svg>{content}</svg>"))
    assert [said in remark.message for remark in edition.remarks] == [True]


def test_a_drawing_finds_the_parts_of_others_on_the_page(press):
    html = '<svg width="0" height="0"><symbol id="s" viewBox="0 0 9 9"><rect width="9" height="9" fill="#f00"/></symbol></svg><svg width="30" height="30"><use xlink:href="#s"/></svg>'
    edition = press.compose(
        fq.Manuscript.from_html(f"<style>@page{{margin:0}}body{{margin:0}}svg{{display:block}}</style>{html}")
    )
    page = pypdfium2.PdfDocument(edition.to_bytes())[0].render(scale=96 / 72).to_pil().convert("RGB")
    assert page.getpixel((15, 15)) == R and edition.remarks == ()


def test_a_drawing_without_a_view_box_is_as_large_as_its_box(press):
    html = '<style>@page{size:400px 100px;margin:0}body{margin:0}svg{display:block}</style><svg width="100%" height="50"><rect x="50%" width="50%" height="50" fill="#f00"/><circle cx="20" cy="25" r="20" fill="#00f"/></svg>'
    page = (
        pypdfium2.PdfDocument(press.compose(fq.Manuscript.from_html(html)).to_bytes())[0]
        .render(scale=96 / 72)
        .to_pil()
        .convert("RGB")
    )
    assert [page.getpixel(place) for place in ((190, 25), (210, 25), (390, 25), (20, 25), (45, 25))] == [W, R, R, B, W]
