"""What is done to finished boxes, by the objects that are written and the pixels that come out."""

import numpy as np
import pypdfium2
import pytest

import fleetquill as fq
from fleetquill.drawing.canvas import Drawing, Look, Stamp, Stroke
from fleetquill.drawing.color_stops import parts_of, placed
from fleetquill.drawing.extents import extent_of, united
from fleetquill.drawing.gradients import Axial
from fleetquill.drawing.paths import length_of, rectangle
from fleetquill.drawing.recoloring import letters_of, recolored
from fleetquill.graphics.blur import blurred
from fleetquill.graphics.color_filters import dyed, matrix_of
from fleetquill.graphics.raster import RasterCanvas, fitting_scale, picture_of
from fleetquill.paint.borders import Side, shades
from fleetquill.paint.strokes import spread, stroke_of
from fleetquill.style.background_values import Stop
from fleetquill.style.filter_values import Recolor
from fleetquill.style.values import BLACK, Rgba

RED, BLUE, CLEAR = Rgba(1, 0, 0), Rgba(0, 0, 1), Rgba(0, 0, 0, 0)
PLAIN = ("srgb", "shorter")


def page(source, scale=1.0):
    html = f"<style>@page{{size:200px 100px;margin:0}}body{{margin:0;font:20px/24px sans-serif}}</style>{source}"
    edition = fq.compose(fq.Manuscript.from_html(html))
    pdf = pypdfium2.PdfDocument(edition.to_bytes())
    return edition, np.asarray(pdf[0].render(scale=scale * 96 / 72).to_pil().convert("RGB")).astype(int)


# ---- dashes ----


@pytest.mark.parametrize("closed", [False, True])
@pytest.mark.parametrize("length", [7.0, 50.0, 123.4, 1000.0])
@pytest.mark.parametrize("dash", [2.0, 9.0])
def test_dashes_fill_a_line_from_end_to_end(length, dash, closed):
    gap = spread(length, dash, dash / 2, closed=closed)
    count = (length if closed else length + gap) / (dash + gap)
    assert gap > 0 and (abs(count - round(count)) < 1e-6 or count < 2)


def test_dots_are_round_and_as_far_apart_as_they_are_wide():
    stroke = stroke_of(Side(4.0, "dotted", BLACK), 100.0)
    assert stroke.cap == 1 and sum(stroke.dash) == pytest.approx(8.0, abs=0.5)


@pytest.mark.parametrize(
    ("style", "index", "parts"), [("groove", 0, 2), ("ridge", 2, 2), ("inset", 1, 1), ("double", 0, 2), ("solid", 3, 1)]
)
def test_carved_sides_have_light_and_shade(style, index, parts):
    found = shades(index, Side(6.0, style, Rgba(0.5, 0.4, 0.3)))
    assert len(found) == parts and found[0][0] == 0.0 and found[-1][1] == 1.0
    if style in ("groove", "ridge"):
        assert (found[0][2].red < found[1][2].red) == ((style == "groove") == (index in (0, 3)))


# ---- gradients ----


def test_a_fade_to_nothing_keeps_its_colour():
    stops = placed((Stop(RED, None), Stop(CLEAR, None)), PLAIN, 100.0, BLACK)
    assert {stop[1][:3] for stop in stops[:-1]} == {RED[:3]} and stops[-2][1].alpha == 0


def test_a_hint_is_where_two_colours_meet():
    from fleetquill.drawing.color_stops import color_at
    from fleetquill.style.background_values import Hint

    stops = placed((Stop(RED, None), Hint(20.0), Stop(BLUE, None)), PLAIN, 100.0, BLACK)
    assert color_at(stops, 0.2) == pytest.approx((0.5, 0, 0.5, 1), abs=0.02)


def test_a_gradient_is_cut_where_its_colours_change_at_once():
    stops = ((0.0, RED), (0.5, RED), (0.5, BLUE), (1.0, BLUE))
    assert [part[0][1] for part in parts_of(stops)] == [RED, BLUE]
    _, pixels = page('<div style="height:100px;background:linear-gradient(90deg,#f00 33%,#00f 33%)"></div>')
    assert tuple(pixels[50, 64]) == (255, 0, 0) and tuple(pixels[50, 68]) == (0, 0, 255)


# ---- masks within masks ----


def test_a_mask_within_a_mask_holds_both():
    source = (
        '<div style="height:100px;mask-image:linear-gradient(90deg,#000 50%,transparent 50%)">'
        '<div style="height:100px;background:red;mask-image:linear-gradient(#000 50%,transparent 50%)"></div></div>'
    )
    _, pixels = page(source)
    assert [tuple(pixels[y, x]) for y, x in ((20, 50), (80, 50), (20, 150))] == [(255, 0, 0), (255,) * 3, (255,) * 3]


def test_text_seen_through_a_background_can_still_be_read():
    source = '<div style="background:linear-gradient(red,blue);background-clip:text;color:transparent">Saltgate</div>'
    edition, pixels = page(source)
    text = pypdfium2.PdfDocument(edition.to_bytes())[0].get_textpage().get_text_bounded()
    assert "Saltgate" in text and pixels.min() < 100


def test_links_within_what_is_filtered_are_links():
    edition, _ = page('<div style="filter:blur(2px)"><a href="https://reedwater.example">toll</a></div>')
    shown = pypdfium2.PdfDocument(edition.to_bytes())[0]
    assert pypdfium2.raw.FPDFPage_GetAnnotCount(shown) == 1


@pytest.mark.parametrize(
    "css", ["opacity:.5", "filter:opacity(.5)", "mask-image:linear-gradient(rgba(0,0,0,.5),rgba(0,0,0,.5))"]
)
def test_an_inline_box_is_drawn_as_one_picture(css):
    _, pixels = page(
        f'<span style="background:#000;{css}">&nbsp;&nbsp;&nbsp;<b style="background:#000">&nbsp;&nbsp;</b></span>'
    )
    assert 110 < pixels[12, 10, 0] < 145


# ---- drawings as data ----


def test_a_drawing_in_other_colours():
    drawing = Drawing(50, 50)
    drawing.fill_rect(0, 0, 10, 10, RED)
    drawing.begin_group()
    drawing.fill_rect(0, 0, 5, 5, RED)
    drawing.end_mask()
    drawing.shade(Axial((0, 0), (1, 0), ((0.0, RED), (1.0, BLUE))), 0, 0, 10, 10)
    drawing.stamps(rectangle(0, 0, 1, 1), [Stamp(1, 1, 1, RED, None)], Stroke(1))
    found = recolored(drawing, dyed(BLUE).color, dyed(BLUE).picture)
    assert found.steps[0].arguments[-1] == BLUE
    assert found.steps[2].arguments[-1] == RED  # what is a mask stays
    assert {color for _, color in found.steps[4].arguments[0].stops} == {BLUE}
    assert found.steps[5].arguments[1][0].fill == BLUE


@pytest.mark.parametrize(
    ("name", "amount", "wanted"),
    [("grayscale", 1, (0.2126,) * 3), ("invert", 1, (0, 1, 1)), ("brightness", 0.5, (0.5, 0, 0)), ("saturate", 0, (0.213,) * 3),
     ("contrast", 0, (0.5,) * 3), ("sepia", 1, (0.393, 0.349, 0.272)), ("hue-rotate", 0, (1, 0, 0)), ("opacity", 0.4, (1, 0, 0))],
)  # fmt: skip
def test_colour_filters_are_those_of_the_standard(name, amount, wanted):
    found = matrix_of(Recolor(name, amount)).color(RED)
    assert found[:3] == pytest.approx(wanted, abs=0.002) and found.alpha == (0.4 if name == "opacity" else 1.0)


def test_the_box_around_a_drawing():
    drawing = Drawing(100, 100)
    assert extent_of(drawing) is None
    drawing.save()
    drawing.transform((2.0, 0.0, 0.0, 2.0, 10.0, 0.0))
    drawing.fill_rect(0, 0, 5, 5, RED)
    drawing.restore()
    inner = Drawing(10, 10)
    inner.stroke_path(rectangle(0, 0, 10, 10), RED, Stroke(1))
    drawing.drawing(inner, 50, 50, 20, 20)
    assert extent_of(drawing) == (10.0, 0.0, 60.0, 70.0)
    assert united((0, 0, 1, 1), extent_of(drawing)) == (0, 0, 70.0, 70.0)


def test_letters_alone_in_white():
    drawing = Drawing(10, 10)
    drawing.fill_rect(0, 0, 5, 5, RED)
    look = Look(None, 10.0, RED, 0.0)
    drawing.text(0, 5, look, ())
    found = letters_of(drawing)
    assert [step.verb for step in found.steps] == ["text"] and found.steps[0].arguments[2].color == (1, 1, 1, 1)


def test_how_long_a_path_is():
    assert length_of(rectangle(0, 0, 3, 4)) == 14.0
    quarter = [("m", 1.0, 0.0), ("c", 1.0, 0.5523, 0.5523, 1.0, 0.0, 1.0)]
    assert length_of(quarter) == pytest.approx(1.5708, rel=0.002)


# ---- pixels ----


def canvas(width=20.0, height=20.0, scale=1.0):
    return RasterCanvas(width, height, scale)


def test_shapes_cover_pixels():
    raster = canvas()
    raster.fill_rect(5, 5, 10, 10, RED)
    assert raster.pixels[10, 10].tolist() == [1, 0, 0, 1] and raster.pixels[2, 2].tolist() == [0, 0, 0, 0]
    raster.fill_path([*rectangle(0, 0, 20, 20), *rectangle(5, 5, 10, 10)], BLUE, even_odd=True)
    assert raster.pixels[2, 2].tolist() == [0, 0, 1, 1] and raster.pixels[10, 10].tolist() == [1, 0, 0, 1]


def test_clips_groups_and_masks_of_pixels():
    raster = canvas()
    raster.save()
    raster.clip(rectangle(0, 0, 10, 20))
    raster.begin_group()
    raster.fill_rect(0, 0, 20, 20, RED)
    raster.end_group(0.5)
    raster.restore()
    assert raster.pixels[5, 5].tolist() == pytest.approx([0.5, 0, 0, 0.5]) and raster.pixels[5, 15, 3] == 0
    raster.save()
    raster.begin_group()
    raster.fill_rect(0, 0, 20, 10, Rgba(1, 1, 1))
    raster.end_mask()
    raster.fill_rect(0, 0, 20, 20, BLUE)
    raster.restore()
    assert raster.pixels[5, 15].tolist() == pytest.approx([0, 0, 1, 1], abs=0.01) and raster.pixels[15, 15, 3] == 0


@pytest.mark.parametrize(("mode", "wanted"), [("multiply", (0, 0, 0)), ("screen", (1, 0, 1)), ("difference", (1, 0, 1)), ("lighten", (1, 0, 1)),
                                              ("darken", (0, 0, 0)), ("normal", (1, 0, 0)), ("exclusion", (1, 0, 1))])  # fmt: skip
def test_groups_of_pixels_blend(mode, wanted):
    raster = canvas()
    raster.fill_rect(0, 0, 20, 20, BLUE)
    raster.begin_group()
    raster.fill_rect(0, 0, 20, 20, RED)
    raster.end_group(1.0, mode)
    assert raster.pixels[10, 10, :3].tolist() == pytest.approx(wanted, abs=0.01)


def test_gradients_strokes_and_transforms_of_pixels():
    raster = canvas(scale=2.0)
    raster.shade(Axial((0, 0), (20, 0), ((0.0, RED), (1.0, BLUE))), 0, 0, 20, 20)
    assert raster.pixels.shape == (40, 40, 4)
    assert raster.pixels[20, 1, 0] > 0.9 and raster.pixels[20, 38, 2] > 0.9
    raster.save()
    raster.transform((1, 0, 0, 1, 10, 0))
    raster.stroke_path([("m", 0.0, 0.0), ("l", 0.0, 20.0)], BLACK, Stroke(4.0))
    raster.restore()
    assert raster.pixels[20, 20].tolist() == [0, 0, 0, 1]


def test_a_blur_spreads_and_keeps_the_whole():
    raster = canvas(60, 60)
    raster.fill_rect(20, 20, 20, 20, BLACK)
    soft = blurred(raster.pixels, 4.0)
    assert soft[..., 3].sum() == pytest.approx(raster.pixels[..., 3].sum(), rel=0.02) and 0.3 < soft[20, 30, 3] < 0.7
    picture = picture_of(soft, 1.0)
    assert (picture.width, picture.height) == (60, 60) and picture.key == picture_of(soft, 1.0).key


def test_pictures_of_pixels_stay_within_bounds():
    scale = fitting_scale(1e6, 1e6, 2.0)
    assert 1e6 * scale * 1e6 * scale < 7e6 and fitting_scale(10, 10, 2.0) == 2.0
