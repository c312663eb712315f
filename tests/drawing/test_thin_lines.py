"""Thin lines are areas as wide as they are, wherever they turn."""

import math

import numpy as np
import pypdfium2
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.drawing.canvas import Stroke
from fleetquill.drawing.paths import bounds, ellipse, encloses, length_of, points_of, rectangle
from fleetquill.drawing.thin_lines import area_of
from fleetquill.graphics.raster import RasterCanvas
from fleetquill.style.values import BLACK

CURVE = [("m", 10, 10), ("c", 30, 90, 60, -40, 90, 60)]


def covered(path):
    """How much of the plane a path fills, in px²."""
    canvas = RasterCanvas(100, 100, 8)
    canvas.fill_path(path, BLACK)
    return float(canvas.pixels[..., 3].sum()) / 64


@pytest.mark.parametrize(
    ("path", "cap", "length"),
    [
        ([("m", 10, 50), ("l", 90, 50)], 0, 80),
        ([("m", 10, 50), ("l", 90, 50)], 2, 80.8),
        ([("m", 10, 50), ("l", 90, 50)], 1, 80 + 0.2 * math.pi),
        ([("m", 10, 10), ("l", 70, 90)], 0, 100),
        ([("m", 10, 50), ("l", 50, 50), ("l", 50, 90)], 0, 80),
        ([("m", 10, 10), ("l", 40, 10), ("m", 10, 30), ("l", 40, 30)], 0, 60),
        (rectangle(10, 10, 50, 30), 0, 160),
        (ellipse(50, 50, 40, 40), 0, 80 * math.pi),
        ([("m", 10, 10), ("l", 10, 10), ("l", 40, 10), ("l", 40, 10)], 0, 30),  # pieces of no length
        ([("m", 10, 10), ("l", 90, 10), ("l", 10, 10)], 0, 80),  # back on itself
        (CURVE, 0, length_of(CURVE)),
        ([("m", 10, 10)], 0, 0),
        ([("m", 10, 10), ("h",)], 1, 0),
        ([], 0, 0),
    ],
)
def test_what_is_filled_is_as_long_as_the_line_and_as_wide(path, cap, length):
    assert covered(area_of(path, Stroke(0.8, cap=cap))) == pytest.approx(
        length * 0.8, rel=0.05, abs=0.3
    )  # the pixels' own edges


def test_a_closed_line_goes_over_its_beginning_without_a_gap():
    open_ended = covered(area_of(rectangle(10, 10, 50, 30)[:-1], Stroke(0.8)))
    assert covered(area_of(rectangle(10, 10, 50, 30), Stroke(0.8))) == pytest.approx(open_ended + 24, abs=0.5)


numbers = st.floats(5, 95).map(lambda value: round(value, 1))
points = st.tuples(numbers, numbers)


@settings(max_examples=60)
@given(points, st.lists(st.tuples(points, points, points), min_size=1, max_size=3))
def test_every_point_of_a_curve_lies_in_its_area(start, legs):
    path = [("m", *start), *(("c", *first, *second, *end) for first, second, end in legs)]
    assume(all(len({*leg, before}) > 1 for before, leg in zip([start, *(leg[2] for leg in legs)], legs, strict=False)))
    canvas = RasterCanvas(100, 100, 4)
    canvas.fill_path(area_of(path, Stroke(2.0)), BLACK)
    at = start
    for first, second, end in legs:
        for x, y in points_of(at, [*first, *second, *end], 24):
            row, column = (min(399, max(0, int(4 * place))) for place in (y, x))
            around = canvas.pixels[max(0, row - 3) : row + 4, max(0, column - 3) : column + 4, 3]
            assert around.max() > 0.2, (x, y)
        at = end


@settings(max_examples=100)
@given(points, st.tuples(points, points, points))
def test_the_box_of_a_curve_is_as_large_as_the_curve(start, leg):
    x, y, width, height = bounds([("m", *start), ("c", *leg[0], *leg[1], *leg[2])])
    drawn = [start, *points_of(start, [number for point in leg for number in point], 400)]
    xs, ys = [point[0] for point in drawn], [point[1] for point in drawn]
    assert (x, y) == pytest.approx((min(xs), min(ys)), abs=0.01)
    assert (x + width, y + height) == pytest.approx((max(xs), max(ys)), abs=0.01)


# ---- in files ----


def shade(svg, size):
    """How dark the darkest row is in the middle of a page with a picture of that size, from 0 to 1."""
    style = "@page{size:200px 200px;margin:0}body{margin:0}svg{display:block}"
    edition = fq.compose(
        fq.Manuscript.from_html(
            f"<style>{style}</style><svg width={size} height={size} viewBox='0 0 100 100'>{svg}</svg>"
        )
    )
    page = pypdfium2.PdfDocument(edition.to_bytes())[0].render(scale=96 / 72).to_pil().convert("L")
    column = np.asarray(page)[:, size // 4]
    return 1 - column.min() / 255


@pytest.mark.parametrize("svg", ["<path d='M0 52h100' stroke=black />", "<g stroke=black><path d='M0 10L100 94'/></g>"])
def test_a_line_that_is_made_small_is_light_and_a_large_one_is_not(svg):
    assert shade(svg, 20) < 0.35
    assert shade(svg, 200) > 0.8


def test_a_drawing_at_two_sizes_has_the_lines_of_each(tmp_path):
    (tmp_path / "mark.svg").write_text(
        "<svg xmlns='http://www.w3.org/2000/svg' width='100' height='100'>"
        "<path d='M0 50L100 58' stroke='black' fill='none'/></svg>"
    )

    def forms(*sizes):
        html = "<style>@page{size:300px 300px;margin:0}</style>" + "".join(
            f"<img src=mark.svg width={w}>" for w in sizes
        )
        content = fq.compose(fq.Manuscript.from_html(html, base=tmp_path)).to_bytes()
        return content.count(b"/Subtype/Form")

    assert forms(100, 100) == 1
    assert forms(100, 120) == 1  # the same lines, once
    assert forms(100, 20) == 2


def test_a_straight_line_is_not_filled():
    assert not encloses([("m", 0, 0), ("l", 9, 9)])
    assert not encloses([("m", 0, 0), ("l", 9, 9), ("h",), ("m", 5, 0), ("l", 5, 9), ("l", 5, 0)])
    assert encloses([("m", 0, 0), ("l", 9, 9), ("m", 5, 0), ("l", 5, 9), ("l", 8, 0)])
    assert encloses([("m", 0, 0), ("c", 1, 1, 2, 2, 3, 3)])
    assert shade("<path d='M0 10L100 94'/>", 200) == 0
