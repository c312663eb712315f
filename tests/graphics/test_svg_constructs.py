"""SVG construct by construct: what each draws, as a canvas sees it, and that nothing broken breaks the rest."""

from __future__ import annotations

import math
from types import SimpleNamespace

import pypdfium2 as pdfium
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.matrices import inverse_bounds, moved
from fleetquill.graphics.svg.reading import natural_size, parse_svg, view_box
from fleetquill.graphics.svg.svg import SvgRoom, draw_svg
from fleetquill.graphics.svg.transforms import fit_view, transform_of
from fleetquill.job import Drawer
from fleetquill.style.box_values import IDENTITY, multiply
from fleetquill.style.cascade import Cascade
from fleetquill.style.media import Medium

PRESS = fq.Press()
NUMBER = st.floats(-1000, 1000, allow_nan=False).map(lambda value: round(value, 3))


def drawn(body: str, more: str = 'viewBox="0 0 100 100"') -> Drawing:
    """The drawing of an SVG file of 100 × 100 px."""
    root = parse_svg(f'<svg xmlns="http://www.w3.org/2000/svg" width="100" height="100" {more}>{body}</svg>'.encode())
    assert not isinstance(root, str), root
    stock = PRESS._stock
    drawer = Drawer(stock, stock.font_settings(), (), lambda css, _: css)
    pictures = SimpleNamespace(get=lambda url: f"No picture '{url}'.")
    return draw_svg(root, drawer._room(pictures, ()))


def placed(drawing: Drawing, verb: str) -> list[tuple[tuple[float, ...], tuple]]:
    """The calls of a verb, each with the matrix that was in force."""
    stack, matrix, found = [], IDENTITY, []
    for name, arguments in drawing.steps:
        if name == "save":
            stack.append(matrix)
        elif name == "restore":
            matrix = stack.pop()
        elif name == "transform":
            matrix = multiply(matrix, arguments[0])
        elif name == verb:
            found.append((matrix, tuple(arguments)))
    assert not stack, "every save has its restore"
    return found


def boxes(drawing: Drawing) -> list[tuple[float, float, float, float]]:
    """The boxes around what is filled: left, top, right, bottom."""
    found = []
    for matrix, (path, *_) in placed(drawing, "fill_path"):
        points = [moved(segment, matrix) for segment in path]
        xs = [x for _, *numbers in points for x in numbers[::2]]
        ys = [y for _, *numbers in points for y in numbers[1::2]]
        found.append(tuple(round(value, 2) for value in (min(xs), min(ys), max(xs), max(ys))))
    return found


SQUARE = '<rect id="s" width="10" height="10"/>'


@pytest.mark.parametrize(
    ("body", "expected"),
    [
        (f'<g transform="translate(20,30) scale(2)">{SQUARE}</g>', [(20, 30, 40, 50)]),
        (f'<defs>{SQUARE}</defs><use href="#s" x="5" y="6"/>', [(5, 6, 15, 16)]),
        ('<defs><symbol id="y" viewBox="0 0 5 5"><rect width="5" height="5"/></symbol></defs>'
         '<use href="#y" x="10" width="50" height="40"/>', [(15, 0, 55, 40)]),
        (f'<svg x="50" y="40" width="20" height="20" viewBox="0 0 10 10">{SQUARE}</svg>', [(50, 40, 70, 60)]),
        (f'<svg x="50%" width="50%" height="20">{SQUARE}</svg>', [(50, 0, 60, 10)]),
        (f"<switch><foreignObject/>{SQUARE}<circle r='50'/></switch>", [(0, 0, 10, 10)]),
        ('<circle cx="50%" cy="50%" r="10"/>', [(40, 40, 60, 60)]),
        ('<polygon points="1,2 3,4 5,0"/>', [(1, 0, 5, 4)]),
        (f'<a href="#x">{SQUARE}</a><defs>{SQUARE}</defs><g display="none">{SQUARE}</g>', [(0, 0, 10, 10)]),
        ('<line x2="50" stroke="none"/><rect width="-1" height="5"/><path d=""/>', []),
        ('<marker id="m" markerWidth="4" markerHeight="4" viewBox="0 0 4 4" refX="2" refY="2" markerUnits="userSpaceOnUse">'
         '<rect width="4" height="4"/></marker><path d="M10 10H30V30" fill="none" marker-end="url(#m)" marker-start="url(#m)"/>',
         [(8, 8, 12, 12), (28, 28, 32, 32)]),
        ('<marker id="m" markerWidth="2" markerHeight="2"><rect width="2" height="2"/></marker>'
         '<path d="M10 10H30V50" fill="none" stroke-width="3" style="marker:url(#m)"/>',
         [(10, 10, 16, 16), (30, 10, 36, 16), (30, 50, 36, 56)]),
        ('<pattern id="p" width="5" height="5" patternUnits="userSpaceOnUse"><rect width="2" height="2"/></pattern>'
         '<rect width="10" height="5" fill="url(#p)"/>', [(0, 0, 2, 2), (5, 0, 7, 2)]),
        ('<pattern id="q" href="#p" height="1"/><pattern id="p" width="50%"><rect width="2" height="2"/></pattern>'
         '<rect width="10" height="4" fill="url(#q)"/>', [(0, 0, 2, 2), (5, 0, 7, 2)]),
    ],
)  # fmt: skip
def test_where_shapes_come_to_stand(body, expected):
    assert boxes(drawn(body)) == expected


@pytest.mark.parametrize(
    ("overflow", "clips"), [("", 1), ('overflow="hidden"', 1), ('overflow="visible"', 0), ('style="overflow:auto"', 0)]
)
def test_inner_viewports_are_clipped_unless_they_say_otherwise(overflow, clips):
    assert len(placed(drawn(f'<svg width="5" height="5" {overflow}>{SQUARE}</svg>'), "clip")) == clips
    marker = f'<marker id="m" {overflow}>{SQUARE}</marker><path d="M0 0H9" fill="none" marker-end="url(#m)"/>'
    assert len(placed(drawn(marker), "clip")) == clips


def test_a_style_sheet_may_open_all_viewports():
    body = f"<style>svg{{overflow:visible}}</style><svg width='5' height='5'>{SQUARE}</svg>"
    assert placed(drawn(body), "clip") == []


@pytest.mark.parametrize(
    ("css", "box"),
    [
        ("transform:translate(10px,20%)", (10, 20, 20, 30)),
        ("transform:scale(2);transform-origin:10px 10px", (-10, -10, 10, 10)),
        ("transform:scale(3)", (0, 0, 30, 30)),
        ("transform:none", (5, 0, 15, 10)),  # what the style does not transform, the attribute does
    ],
)
def test_transforms_of_the_style_go_before_those_of_the_attribute(css, box):
    body = f'<g transform="translate(5 0)" style="{css}">{SQUARE}</g>'
    assert boxes(drawn(body)) == [box]


def test_outlines_have_their_measures_from_the_cascade():
    css = "path{stroke:#f00;stroke-width:10%;stroke-dasharray:1em,2 3%;stroke-linecap:round;stroke-miterlimit:7}"
    body = f"<style>{css}</style><g font-size='5'><path d='M0 0H9' fill='none' stroke-linejoin='bevel'/></g>"
    ((_, (_, color, stroke)),) = placed(drawn(body), "stroke_path")
    assert tuple(color) == (1, 0, 0, 1)
    assert stroke.width == pytest.approx(10) and stroke.dash == pytest.approx((5, 2, 3))
    assert (stroke.cap, stroke.join, stroke.miter) == (1, 2, 7)


@pytest.mark.parametrize(
    ("paint", "alpha"),
    [
        ("red", 0.5),
        ("none", None),
        ("url(#gone) red", 0.5),
        ("url(#gone)", None),
        ("transparent", None),
        ("nonsense", 0.5),
    ],
)
def test_what_fills_a_shape(paint, alpha):
    filled = placed(drawn(f'<rect width="9" height="9" fill="{paint}" fill-opacity=".5"/>'), "fill_path")
    assert [round(color.alpha, 2) for _, (_, color, *_) in filled] == ([] if alpha is None else [alpha])


def test_the_stops_of_a_gradient_are_in_order_and_translucent():
    body = (
        '<linearGradient id="g" gradientUnits="userSpaceOnUse" x2="100%"><stop offset="60%" stop-color="red"/>'
        '<stop offset=".2" stop-color="blue" stop-opacity=".5"/><stop offset="7"/></linearGradient>'
        '<rect width="50" height="9" fill="url(#g)" fill-opacity=".5"/>'
    )
    ((_, (gradient,)),) = placed(drawn(body), "shade_all")
    assert gradient.end == (100, 0)
    assert [(place, round(color.alpha, 3)) for place, color in gradient.stops] == [(0.6, 0.5), (0.6, 0.25), (1, 0.5)]


@pytest.mark.parametrize(
    ("units", "inner", "box"),
    [("", "M20 20h10v10z", (20, 20, 30, 30)), ("objectBoundingBox", "M0 0h1v.5z", (50, 50, 70, 60))],
)
def test_clips_are_paths_in_the_users_space_or_in_the_box(units, inner, box):
    more = f'clipPathUnits="{units}"' if units else ""
    body = f'<clipPath id="c" {more}><path d="{inner}"/></clipPath><rect x="50" y="50" width="20" height="20" clip-path="url(#c)"/>'
    ((_, (path, *_)),) = placed(drawn(body), "clip")
    xs, ys = ([value for _, *numbers in path for value in numbers[start::2]] for start in (0, 1))
    assert (min(xs), min(ys), max(xs), max(ys)) == box


def test_an_empty_clip_shows_nothing_and_one_that_is_gone_all():
    assert len(placed(drawn(f'<clipPath id="c"/><g clip-path="url(#c)">{SQUARE}</g>'), "clip")) == 1
    assert placed(drawn(f'<g clip-path="url(#c)">{SQUARE}</g>'), "clip") == []


@pytest.mark.parametrize(
    ("content", "size"),
    [
        (b'<svg width="20" height="10"/>', (20, 10)), (b'<svg viewBox="0 0 4 2" width="20"/>', (20, 10)),
        (b'<svg viewBox="0 0 4 2" height="1in"/>', (192, 96)), (b'<svg viewBox="0 0 4 2"/>', (4, 2)), (b"<svg/>", (300, 150)),
        (b'<s:svg xmlns:s="http://www.w3.org/2000/svg" width="1cm" height="0"/>', (96 / 2.54, 0.01)),
    ],
)  # fmt: skip
def test_natural_sizes(content, size):
    assert natural_size(parse_svg(content)) == pytest.approx(size)


@pytest.mark.parametrize("content", [b"", b"<html/>", b"not xml", b"\xff\xfe", b"<svg"])
def test_what_is_no_svg_is_a_message(content):
    root = parse_svg(content)
    assert isinstance(root, str) or root.tag == "svg"
    assert isinstance(parse_svg(b"<html/>"), str)


@pytest.mark.parametrize("text", ["", "1 2 3", "0 0 0 5", "a b c d", "0 0 -1 1"])
def test_view_boxes_without_a_size_are_none(text):
    assert view_box(text) is None


@given(
    st.tuples(NUMBER, NUMBER, st.floats(0.1, 500), st.floats(0.1, 500)),
    st.tuples(NUMBER, NUMBER, st.floats(0.1, 500), st.floats(0.1, 500)),
)
def test_a_view_box_comes_to_stand_in_its_area(view, area):
    a, _, _, d, e, f = fit_view(view, area, "")
    left, top = a * view[0] + e, d * view[1] + f
    right, bottom = a * (view[0] + view[2]) + e, d * (view[1] + view[3]) + f
    slack = 1e-6 * (1 + max(map(abs, (*view, *area))) * max(a, 1))
    assert a == pytest.approx(d) and left >= area[0] - slack and top >= area[1] - slack
    assert right <= area[0] + area[2] + slack and bottom <= area[1] + area[3] + slack
    assert min(abs(right - left - area[2]), abs(bottom - top - area[3])) <= slack  # it fills one side


@given(st.floats(-360, 360), NUMBER, NUMBER)
def test_a_turn_about_a_point_leaves_it_where_it_is(angle, x, y):
    matrix = transform_of(f"rotate({angle} {x} {y})")
    assert moved(("l", x, y), matrix)[1:] == pytest.approx((x, y), abs=1e-6)
    assert matrix[0] * matrix[3] - matrix[1] * matrix[2] == pytest.approx(1)


@given(st.floats(0.1, 9), st.floats(-180, 180), NUMBER, NUMBER)
def test_the_box_before_a_transform_holds_what_comes_to_stand_in_it(scale, angle, x, y):
    matrix = transform_of(f"translate({x},{y}) rotate({angle}) scale({scale})")
    left, top, width, height = inverse_bounds(matrix, (0.0, 0.0, 10.0, 10.0))
    corners = [moved(("l", px, py), matrix)[1:] for px in (left, left + width) for py in (top, top + height)]
    xs, ys = zip(*corners, strict=True)
    slack = 1e-6 * (1 + abs(x) + abs(y))
    assert min(xs) <= slack and max(xs) >= 10 - slack and min(ys) <= slack and max(ys) >= 10 - slack
    assert all(math.isfinite(value) for value in (*xs, *ys))


# ---- what is broken ----

TAGS = (
    "g path rect circle line polyline text tspan use image svg symbol switch marker pattern clipPath mask linearGradient "
    "radialGradient stop defs a foreignObject style"
).split()
PROPERTIES = (
    "fill fill-opacity fill-rule stroke stroke-width stroke-dasharray stroke-miterlimit opacity clip-path mask filter marker "
    "font-size font-family letter-spacing text-anchor dominant-baseline baseline-shift display overflow transform "
    "transform-origin stop-color paint-order color text-decoration"
).split()
ATTRIBUTES = (
    "x y width height rx r cx d points viewBox preserveAspectRatio transform href offset gradientUnits patternUnits "
    "patternTransform markerWidth orient refX clipPathUnits id x1"
).split()
VALUES = [
    "red", "none", "url(#a)", "url(#b) blue", "url(x.png)", "currentColor", "inherit", "1", "0", "-3", "50%", "1e40", "nan",
    "2em", "calc(1px + 2em)", "", "3,4", "rotate(45)", "rotate(45deg)", "matrix(0,0,0,0,0,0)", "scale(1e200)", "var(--x)",
    "'x'", "]", "}", "--", "50% 50%", "bold 12px serif", "unset", "#a", "a", "b", "M0 0L5 5z", "0 0 10 10", "auto",
]  # fmt: skip
pair = st.tuples(st.sampled_from(ATTRIBUTES + PROPERTIES), st.sampled_from(VALUES))
declaration = st.tuples(st.sampled_from(PROPERTIES), st.sampled_from(VALUES)).map(":".join)


def _element(children):
    def make(tag, pairs, style, inner):
        text = f".a{{{style}}}" if tag == "style" else "word " if tag in ("text", "tspan") else ""
        attributes = " ".join(f'{name}="{value}"' for name, value in dict(pairs).items())
        return f'<{tag} {attributes} style="{style}">{text}{"".join(inner)}</{tag}>'

    pairs = st.lists(pair, max_size=4)
    return st.builds(make, st.sampled_from(TAGS), pairs, declaration, st.lists(children, max_size=3))


@settings(max_examples=150, deadline=None)
@given(st.recursive(_element(st.just("")), _element, max_leaves=8), declaration)
def test_nothing_broken_in_an_svg_raises_or_takes_the_rest_along(body, declaration):
    html = f"<style>svg,.a{{{declaration}}}</style><svg viewBox='0 0 9 9' width=90 height=90>{body}</svg><p>after"
    edition = PRESS.compose(fq.Manuscript.from_html(html))
    assert "after" in edition.pages[0].text and edition.to_bytes().startswith(b"%PDF")


def test_a_room_can_be_of_another_make():
    """What a drawing needs of its document is three functions."""
    room = SvgRoom(lambda sheets: Cascade([], Medium(0.0, 0.0)), lambda style: None, lambda url: "none")  # type: ignore[arg-type, return-value]
    root = parse_svg(b'<svg><rect width="1" height="1"/><image href="a.png"/></svg>')
    drawing = draw_svg(root, room)
    assert len(placed(drawing, "fill_path")) == 1 and "none" in drawing.faults[0]


def foreign(content, style="", width=100):
    """What a reader sees of the words in a foreignObject: each line's left, right and middle, in px."""
    body = f"<div xmlns='http://www.w3.org/1999/xhtml' style='font:10px/20px monospace;{style}'>{content}</div>"
    svg = f"<svg width='200' height='200'><foreignObject x='20' y='10' width='{width}' height='100'>{body}</foreignObject></svg>"
    html = f"<!doctype html><style>@page{{size:200px 200px;margin:0}}body{{margin:0}}svg{{display:block}}</style>{svg}"
    edition = fq.compose(fq.Manuscript.from_html(html))
    page = pdfium.PdfDocument(edition.to_bytes())[0]
    words = page.get_textpage().get_text_range().split()
    shot = page.render(scale=96 / 72).to_pil().convert("L").point(lambda level: 255 * (level < 160))
    rows = [shot.crop((0, top, 200, top + 20)).getbbox() for top in range(10, 110, 20)]
    return words, [(row[0], row[2]) for row in rows if row is not None], edition


@pytest.mark.parametrize(
    ("content", "style", "lines"),
    [
        ("Heron", "", [(20, 50)]),
        ("Heron", "text-align:center", [(55, 85)]),
        ("Heron", "text-align:right", [(90, 120)]),
        ("Heron<br>Teal", "", [(20, 50), (20, 44)]),
        ("<p>Heron</p><p>Teal</p>", "", [(20, 50), (20, 44)]),
        ("Heron and Teal and Grebe", "", [(20, 104), (20, 74)]),
        ("Heron and Teal and Grebe", "white-space:nowrap", [(20, 164)]),
        ("Heron <b>and</b> Teal", "", [(20, 104)]),
        ("Her<i>on</i>", "", [(20, 50)]),
        ("<script>alert()</script>Heron<span style='display:none'>Teal</span>", "", [(20, 50)]),
    ],
)
def test_text_of_html_in_a_drawing_stands_in_its_area(content, style, lines):
    words, found, edition = foreign(content, style)
    assert words[0].startswith("Her") and "alert()" not in words
    assert len(found) == len(lines)
    for (left, right), (expected_left, expected_right) in zip(found, lines, strict=True):
        assert (left, right) == pytest.approx((expected_left, expected_right), abs=3)
    assert sum("plain text" in remark.message for remark in edition.remarks) == 1


def test_an_empty_foreign_object_is_nothing_to_tell():
    assert foreign("")[2].remarks == ()


def test_files_have_it_too(tmp_path):
    body = "<foreignObject width='90' height='20'><p xmlns='http://www.w3.org/1999/xhtml'>Heron</p></foreignObject>"
    (tmp_path / "a.svg").write_text(f"<svg xmlns='http://www.w3.org/2000/svg' width='90' height='20'>{body}</svg>")
    edition = fq.compose(fq.Manuscript.from_html("<img src=a.svg alt=a>", base=tmp_path))
    page = pdfium.PdfDocument(edition.to_bytes())[0]
    assert page.get_textpage().get_text_range().strip() == "Heron"
