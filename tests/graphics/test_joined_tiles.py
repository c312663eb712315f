"""Tiles of a background without seams: side by side they stand in one picture."""

from __future__ import annotations

import base64
from io import BytesIO

import numpy
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

import fleetquill as fq
from fleetquill.drawing.pictures import Picture, pixels_of, png_picture
from fleetquill.graphics.joined_tiles import MOST_PIXELS, Patch, joined


def tile(wide: int, high: int, mode: str = "RGB") -> Picture:
    """A picture in which no two pixels beside one another are alike."""
    pixels = numpy.arange(wide * high, dtype=numpy.uint8).reshape(high, wide) * 37
    image = Image.fromarray(pixels, "L")
    return png_picture(image.convert(mode), wide / 2, high / 2)


def address(image: Image.Image, kind: str = "PNG") -> str:
    out = BytesIO()
    image.save(out, kind)
    return f"data:image/{kind.lower()};base64,{base64.b64encode(out.getvalue()).decode()}"


@settings(deadline=None, max_examples=40)
@given(st.integers(1, 40), st.integers(1, 30), st.integers(1, 9), st.integers(1, 9), st.sampled_from(["L", "RGB", "P"]))
def test_the_pictures_show_what_the_tiles_did(wide, high, columns, rows, mode):
    picture = tile(wide, high, mode)
    patch = Patch(picture, [7 + wide * n for n in range(columns)], [3 + high * n for n in range(rows)], wide, high)
    whole = Image.new("RGB", (7 + wide * columns, 3 + high * rows), "red")
    for part in joined(patch):
        with pixels_of(part.picture) as shown:
            assert (round(part.width), round(part.height)) == shown.size
            for x in part.columns:
                for y in part.rows:
                    whole.paste(shown.convert("RGB"), (round(x), round(y)))
    with pixels_of(picture) as single:
        expected = numpy.tile(numpy.asarray(single.convert("RGB")), (rows, columns, 1))
    assert (numpy.asarray(whole)[3:, 7:] == expected).all()


def test_no_joined_picture_is_large_and_what_is_left_is_drawn_too():
    picture = tile(100, 100)
    parts = list(joined(Patch(picture, [100.0 * n for n in range(40)], [0.0, 100.0], 100, 100)))
    assert all(part.picture.pixels[0] * part.picture.pixels[1] <= MOST_PIXELS for part in parts)
    assert sum(len(part.columns) * len(part.rows) * part.width * part.height for part in parts) == 80 * 100 * 100
    assert len(parts) == 2


@pytest.mark.parametrize(
    "patch",
    [
        Patch(tile(4, 4), [0.0, 6.0, 12.0], [0.0], 4, 4),
        Patch(tile(4, 4), [0.0], [0.0], 4, 4),
        Patch(tile(600, 600), [0.0, 600.0], [0.0], 600, 600),
        Patch(tile(4, 4)._replace(format="JPEG"), [0.0, 4.0], [0.0], 4, 4),
        Patch(tile(4, 4)._replace(orientation=6), [0.0, 4.0], [0.0], 4, 4),
    ],
    ids=["apart", "alone", "large", "a photograph", "turned"],
)
def test_other_tiles_stay_as_they_are(patch):
    assert list(joined(patch)) == [patch]


@pytest.mark.parametrize("scale", [1.0, 1.37, 2.1])
def test_a_narrow_tile_that_is_repeated_gives_an_even_ground(scale):
    image = Image.new("RGB", (1, 40))
    for y in range(40):
        image.putpixel((0, y), (40 + 5 * y, 100, 200))
    html = (
        '<style>@page{size:200px 60px;margin:0} body{margin:0}</style><div style="height:40px;margin:0 .3px;'
        f'background:url({address(image)}) repeat-x"></div>'
    )
    shown = fq.compose(fq.Manuscript.from_html(html)).pages[0].to_png(dpi=96 * scale)
    pixels = numpy.asarray(Image.open(BytesIO(shown)).convert("RGB")).astype(int)
    row = pixels[int(20 * scale), 3:-3]
    assert numpy.abs(row - row[0]).max() <= 1


def test_a_tile_is_one_picture_in_the_file_however_many_boxes_have_it():
    image = address(Image.new("RGB", (3, 3), "red"))
    box = f'<div style="height:9px;width:90px;background:url({image})"></div>'
    once, often = (len(fq.compose(fq.Manuscript.from_html(box * count)).to_bytes()) for count in (1, 20))
    assert often < once + 20 * 60


@pytest.mark.parametrize(("mode", "key"), [("RGB", (255, 0, 0)), ("L", 7)])
def test_a_colour_that_lets_through_does_so_in_every_tile(mode, key):
    out = BytesIO()
    image = Image.new(mode, (4, 4), key)
    image.putpixel((0, 0), 200 if mode == "L" else (0, 0, 200))
    image.save(out, "PNG", transparency=key)
    picture = tile(4, 4)._replace(key=mode, content=out.getvalue(), pixels=(4, 4))
    (part,) = joined(Patch(picture, [0.0, 4.0], [0.0], 4, 4))
    with pixels_of(part.picture) as shown:
        alpha = numpy.asarray(shown.convert("RGBA"))[..., 3]
    assert alpha.shape == (4, 8) and (alpha == 255).sum() == 2 and (alpha == 0).sum() == 30


@pytest.mark.parametrize("kept", [60, 100, 300])
def test_a_tile_that_ends_too_early_is_no_fault_of_the_engine(kept):
    out = BytesIO()
    noise = numpy.random.default_rng(1).integers(0, 255, (20, 20, 3), dtype=numpy.uint8)
    Image.fromarray(noise).save(out, "PNG")
    url = f"data:image/png;base64,{base64.b64encode(out.getvalue()[:kept]).decode()}"
    html = f'<div style="width:90px;height:90px;background:url({url})">x</div>'
    edition = fq.compose(fq.Manuscript.from_html(html))
    assert "x" in edition.pages[0].text and edition.to_bytes().startswith(b"%PDF")
