"""Filter elements where tests/paintings holds no picture of a browser's: what is bad, what is missing, how much."""

import numpy as np
import pypdfium2
import pytest
from PIL import Image

import fleetquill as fq

PAGE = "<style>@page{size:200px 120px;margin:0}body{margin:0}</style>"
FLOOD = "<feFlood flood-color=red />"


@pytest.fixture(scope="module")
def press():
    return fq.Press()


@pytest.fixture
def made(press):
    """The page with a rectangle drawn through those steps, as it comes out, and its remarks."""

    def run(steps, more=""):
        edition = press.compose(
            fq.Manuscript.from_html(
                f"{PAGE}<svg width=200 height=120 style=display:block>{more}"
                f"<filter id=f x=0 y=0 width=1 height=1 color-interpolation-filters=sRGB>{steps}</filter>"
                "<rect id=r x=50 y=30 width=100 height=60 fill=teal filter=url(#f) /></svg>"
            )
        )
        page = pypdfium2.PdfDocument(edition.to_bytes())[0]
        return np.asarray(page.render(scale=96 / 72).to_pil().convert("RGB")), [r.message for r in edition.remarks]

    return run


@pytest.mark.parametrize(
    ("steps", "color"),
    [
        ("<feTurbulence baseFrequency=0 />", (255, 255, 255)),  # nothing, everywhere
        ("<feTurbulence baseFrequency=-1 />", (255, 255, 255)),
        ("<feTurbulence type=fractalNoise baseFrequency=0 />", (192, 192, 192)),  # half of everything: grey, half seen
        ("<feTurbulence type=fractalNoise numOctaves=0 />", (192, 192, 192)),
        ("<feDiffuseLighting lighting-color=red />", (0, 0, 0)),  # without a lamp
        ("<feDiffuseLighting><feDistantLight elevation=90 /></feDiffuseLighting>", (255, 255, 255)),
        ("<feDiffuseLighting lighting-color=lime diffuseConstant=.5><feDistantLight elevation=90 /></feDiffuseLighting>",
         (0, 128, 0)),
        ("<feDiffuseLighting lighting-color=red><feDistantLight elevation=30 /></feDiffuseLighting>", (128, 0, 0)),
        ("<feDiffuseLighting><feDistantLight elevation=-40 /></feDiffuseLighting>", (0, 0, 0)),  # from below
        ("<feSpecularLighting lighting-color=blue><feDistantLight elevation=90 /></feSpecularLighting>", (0, 0, 255)),
        ("<feSpecularLighting specularConstant=0><feDistantLight elevation=90 /></feSpecularLighting>",
         (255, 255, 255)),
        ("<feSpecularLighting specularExponent=wrong><fePointLight x=100 y=60 z=1e30 /></feSpecularLighting>",
         (255, 255, 255)),
        (f"{FLOOD}<feTile />", (255, 0, 0)),
        (f"{FLOOD}<feOffset x=0 y=0 width=0 height=0 />", (255, 255, 255)),  # a step that fills nothing
        ("<feFlood x=-50 y=-50 width=400 height=400 flood-color=red /><feTile />", (255, 0, 0)),
    ],
)  # fmt: skip
def test_the_middle_of_a_flat_shape(made, steps, color):
    pixels, remarks = made(steps)
    assert remarks == []
    assert np.abs(pixels[60, 100].astype(int) - color).max() <= 2


@pytest.mark.parametrize(
    ("steps", "remark"),
    [
        ("<feNothing />" + FLOOD, "'fenothing' is passed over"),
        (FLOOD * 61, "has 61 steps; the first 60 are taken"),
        ("<feImage href=#absent />", "'#absent', which it does not have"),
        ("<feImage href=absent.png />", "A picture in the SVG is not shown"),
    ],
)
def test_what_a_filter_does_not_get_is_told(made, steps, remark):
    assert any(remark in message for message in made(steps)[1])


@pytest.mark.parametrize("seed", ["0", "-5", "1.4", "2147483646", "2147483647", "1e12", "-1e300", "x"])
@pytest.mark.parametrize("octaves", ["1", "1e9", "-3", "nan"])
def test_noise_of_any_seed_and_depth_ends(made, seed, octaves):
    pixels, remarks = made(f"<feTurbulence baseFrequency=.05 seed={seed} numOctaves={octaves} />")
    assert remarks == []
    assert (pixels[:, :50] == 255).all()


def test_an_element_may_not_come_into_its_own_filter_for_ever(made):
    pixels, remarks = made("<feImage href=#r />")
    assert any("in itself" in message for message in remarks)
    assert pixels.shape == (120, 200, 3)


def test_noise_is_stitched_at_the_edges_of_its_area(made):
    pixels, _ = made(
        "<feTurbulence type=fractalNoise baseFrequency=.07 stitchTiles=stitch x=50 y=30 width=50 height=30 /><feTile />"
    )
    tile = pixels[30:60, 50:100].astype(int)
    assert np.abs(tile - pixels[60:90, 100:150]).max() <= 3
    steps = np.abs(np.diff(pixels[30:90, 50:150].astype(int), axis=1)).max(axis=(0, 2))
    assert steps[49] <= steps.max() * 1.01  # where tiles meet the colour changes no quicker than within them
    assert len(np.unique(tile.reshape(-1, 3), axis=0)) > 300


def test_a_picture_fills_the_area_of_its_step_by_its_ratio(made, tmp_path):
    Image.new("RGB", (20, 10), "red").save(tmp_path / "red.png")
    pixels, _ = made(f"<feImage href='{(tmp_path / 'red.png').as_uri()}' x=60 y=30 width=40 height=40 />")
    red = (pixels == (255, 0, 0)).all(axis=-1)
    assert np.argwhere(red).min(axis=0).tolist() == [40, 60]
    assert np.argwhere(red).max(axis=0).tolist() == [59, 99]


# ---- on boxes of the document ----


def box(press, css, filters="<filter id=f><feFlood flood-color=red /></filter>"):
    return press.compose(
        fq.Manuscript.from_html(
            f"{PAGE}<svg width=0 height=0 style=position:absolute>{filters}<clipPath id=c></clipPath></svg>"
            f"<p id=b style='margin:30px 50px;width:100px;height:60px;background:teal;{css}'>Heron</p>"
        )
    )


@pytest.mark.parametrize(
    ("css", "remark"),
    [
        ("filter:url(#absent)", "'#absent' leads to no filter of the document"),
        ("filter:url(#c)", "'#c' leads to no filter of the document"),
        ("filter:url(#odd)", "'feodd' is passed over"),
        ("filter:url(#odd)", "'#gone', which it does not have"),
        ("filter:url(#odd)", "A picture in the SVG is not shown"),
    ],
)
def test_a_box_whose_filter_is_none_is_told_of_and_shown(press, css, remark):
    edition = box(
        press,
        css,
        "<filter id=odd><feOdd /><feImage href=#gone /><feImage href=gone.png /><feMerge><feMergeNode in=SourceGraphic /></feMerge></filter>",
    )
    assert [r.kind for r in edition.remarks if remark in r.message] != []
    page = pypdfium2.PdfDocument(edition.to_bytes())[0]
    assert page.render(scale=96 / 72).to_pil().convert("RGB").getpixel((140, 80)) == (0, 128, 128)


@pytest.mark.parametrize("place", ["p::before", "p::first-letter", "td", "th", "@page{@top-left"])
def test_a_filter_is_heard_on_every_sort_of_box(press, place):
    css = f"{place}{{content:'x';filter:url(#f);background:teal}}"
    edition = press.compose(
        fq.Manuscript.from_html(
            f"<style>{css}</style><svg width=0 height=0><filter id=f><feFlood flood-color=red /></filter></svg>"
            "<p>Heron</p><table><tr><th>Lock</th><td>Saltgate</td></tr></table>"
        )
    )
    assert [r.message for r in edition.remarks if "no filter" in r.message] == []
    edition.to_bytes()


def test_text_of_a_filtered_box_is_still_read(press):
    edition = box(press, "filter:url(#f)")
    assert edition.pages[0].text.strip() == "Heron"
    assert edition.remarks == ()
