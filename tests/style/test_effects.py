"""Values of what is done to a finished box, and of gradients: what a declaration sets, and what is no value."""

import pytest
import tinycss2

import fleetquill as fq
from fleetquill.style.background_values import Hint, Stop
from fleetquill.style.colors import srgb_of
from fleetquill.style.effect_properties import Slices, Times
from fleetquill.style.filter_values import Blur, DropShadow, Recolor, Reference
from fleetquill.style.lengths import Relative
from fleetquill.style.shape_values import Clip, Inset, Oval, Polygon
from fleetquill.style.shorthands import expand
from fleetquill.style.values import Rgba

HALF = Relative(0.0, 0.5)


def declared(name, value):
    return expand(name, tinycss2.parse_component_value_list(value))


@pytest.mark.parametrize(
    ("name", "value", "wanted"),
    [
        # clip-path (CSS Masking 1 §5.1, CSS Shapes 1 §3)
        ("clip-path", "none", {"clip_path": ""}),
        ("clip-path", "url(#a)", {"clip_path": "a"}),
        ("clip-path", "padding-box", {"clip_path": Clip(None, "padding-box")}),
        ("clip-path", "circle()", {"clip_path": Clip(Oval(("closest-side",), (HALF, HALF)), "border-box")}),
        ("clip-path", "circle(10px at 0 50%) content-box", {"clip_path": Clip(Oval((10.0,), (0.0, HALF)), "content-box")}),
        ("clip-path", "ellipse(farthest-side 5px)", {"clip_path": Clip(Oval(("farthest-side", 5.0), (HALF, HALF)), "border-box")}),
        ("clip-path", "inset(1px 2px round 3px / 4px)",
         {"clip_path": Clip(Inset((1.0, 2.0, 1.0, 2.0), (3.0,) * 4 + (4.0,) * 4), "border-box")}),
        ("clip-path", "polygon(evenodd, 0 0, 50% 1px)",
         {"clip_path": Clip(Polygon("evenodd", ((0.0, 0.0), (HALF, 1.0))), "border-box")}),
        ("-webkit-clip-path", "none", {"clip_path": ""}),
        *(("clip-path", wrong, None) for wrong in (
            "circle(1px 2px)", "ellipse(1px)", "polygon(0 0, 1px)", "inset()", "url(a.svg#b)", "path(M0 0)", "square(1px)",
            "circle(1px) inset(1px)", "content-box padding-box",
        )),
        # filter (Filter Effects 1 §5)
        ("filter", "none", {"filter": ()}),
        ("filter", "blur(2px) grayscale(50%)", {"filter": (Blur(2.0), Recolor("grayscale", 0.5))}),
        ("filter", "brightness(3) invert(3)", {"filter": (Recolor("brightness", 3.0), Recolor("invert", 1.0))}),
        ("filter", "hue-rotate(.25turn) sepia()", {"filter": (Recolor("hue-rotate", 90.0), Recolor("sepia", 1.0))}),
        ("filter", "drop-shadow(1px 2px red)", {"filter": (DropShadow(1.0, 2.0, 0.0, Rgba(1, 0, 0, 1)),)}),
        ("filter", "drop-shadow(1px 2px 3px)", {"filter": (DropShadow(1.0, 2.0, 3.0, "currentcolor"),)}),
        ("filter", "url(#a)", {"filter": (Reference("a"),)}),
        ("-webkit-filter", "blur(1px)", {"filter": (Blur(1.0),)}),
        *(("filter", wrong, None) for wrong in (
            "blur(50%)", "grayscale(-1)", "drop-shadow(red)", "drop-shadow(1px 2px 3px 4px)", "hue-rotate(2)", "blurry(1px)", "3px",
        )),
        # transforms one by one (CSS Transforms 2 §5)
        ("translate", "5px", {"translate": (5.0, 0.0)}),
        ("translate", "5px 50% 3px", {"translate": (5.0, HALF)}),
        ("rotate", "z 90deg", {"rotate": 90.0}),
        ("scale", "50%", {"scale": (0.5, 0.5)}),
        ("scale", "2 3", {"scale": (2.0, 3.0)}),
        *((name, wrong, None) for name, wrong in (
            ("translate", "red"), ("translate", "1px 1px 1px 1px"), ("rotate", "x 20deg"), ("rotate", "5px"), ("scale", "2px"),
        )),
        # border-image (Backgrounds 3 §5)
        ("border-image-slice", "10 20% fill", {"border_image_slice": Slices((10.0, Relative(0.0, 0.2), 10.0, Relative(0.0, 0.2)), True)}),
        ("border-image-width", "2 auto 3px", {"border_image_width": (Times(2.0), "auto", 3.0, "auto")}),
        ("border-image-repeat", "round", {"border_image_repeat": ("round", "round")}),
        *((name, wrong, None) for name, wrong in (
            ("border-image-slice", "10px"), ("border-image-slice", "1 2 3 4 5"), ("border-image-width", "-1"),
            ("border-image-repeat", "tile"), ("border-image", "1 / 2 / 3 / 4"),
        )),
        # text
        ("text-emphasis-style", "open dot", {"text_emphasis_style": "\u25e6"}),
        ("text-emphasis-style", "filled", {"text_emphasis_style": "\u25cf"}),
        ("text-emphasis-style", "'xy'", {"text_emphasis_style": "x"}),
        ("text-emphasis-position", "under right", {"text_emphasis_position": "under"}),
        ("text-emphasis", "sesame red", {"text_emphasis_style": "\ufe45", "text_emphasis_color": Rgba(1, 0, 0, 1)}),
        ("-webkit-text-stroke", "2px red", {"webkit_text_stroke_width": 2.0, "webkit_text_stroke_color": Rgba(1, 0, 0, 1)}),
        ("-webkit-text-stroke-width", "thin", {"webkit_text_stroke_width": "thin"}),
        *((name, wrong, None) for name, wrong in (
            ("text-emphasis-style", "dot circle"), ("text-emphasis-position", "left"), ("-webkit-text-stroke-width", "-1px"),
        )),
        # backgrounds and masks
        ("background-attachment", "fixed, scroll", {"background_attachment": ("fixed", "scroll")}),
        ("background-blend-mode", "multiply", {"background_blend_mode": ("multiply",)}),
        ("background-clip", "text", {"background_clip": ("text",)}),
        ("mask-mode", "alpha, luminance", {"mask_mode": ("alpha", "luminance")}),
        ("mask-composite", "intersect", {"mask_composite": ("intersect",)}),
        ("mask-clip", "no-clip", {"mask_clip": ("no-clip",)}),
        ("image-rendering", "pixelated", {"image_rendering": "pixelated"}),
        *((name, wrong, None) for name, wrong in (
            ("background-blend-mode", "plus"), ("mask-mode", "light"), ("mask-composite", "source-in"), ("mask", "red none"),
            ("background-clip", "words"), ("image-rendering", "fast"),
        )),
    ],
)  # fmt: skip
def test_a_declaration_sets_what_the_standard_says(name, value, wanted):
    assert declared(name, value) == wanted


def test_mask_is_a_shorthand_of_layers():
    found = declared("mask", "url(a.png) 5px 0 / cover no-repeat luminance intersect, none")
    assert found["mask_image"][1] == "none" and found["mask_image"][0].url == "a.png"
    assert found["mask_size"] == ("cover", ("auto", "auto")) and found["mask_mode"] == ("luminance", "match-source")
    assert found["mask_composite"] == ("intersect", "add") and found["mask_origin"] == ("border-box", "border-box")


@pytest.mark.parametrize(
    ("value", "stops", "mixing"),
    [
        ("linear-gradient(red, 30%, blue)", [Stop, Hint, Stop], ("srgb", "shorter")),
        ("linear-gradient(in oklch longer hue, red, blue)", [Stop, Stop], ("oklch", "longer")),
        ("linear-gradient(45deg in hsl, red, blue)", [Stop, Stop], ("hsl", "shorter")),
        ("radial-gradient(circle in lab, red 10% 20%, blue)", [Stop, Stop, Stop], ("lab", "shorter")),
        ("conic-gradient(from 5deg in srgb-linear, red, blue)", [Stop, Stop], ("srgb-linear", "shorter")),
        ("linear-gradient(oklch(50% .1 20), blue)", [Stop, Stop], ("oklab", "shorter")),
    ],
)
def test_gradients_know_their_stops_and_how_colours_go_over(value, stops, mixing):
    image = declared("background-image", value)["background_image"][0]
    assert [type(stop) for stop in image.stops] == stops and image.mixing == mixing


@pytest.mark.parametrize(
    "value",
    ["linear-gradient(30%, red)", "linear-gradient(red, 10%, 20%, blue)", "linear-gradient(red, 20%)",
     "linear-gradient(in paint, red, blue)", "linear-gradient(in oklch sideways hue, red, blue)", "linear-gradient(in oklab)"],
)  # fmt: skip
def test_what_is_no_gradient_is_passed_over(value):
    assert declared("background-image", value) is None


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("rgb(from red r g 255)", (1, 0, 1, 1)),
        ("rgb(from red calc(r / 2) g b / 50%)", (0.5, 0, 0, 0.5)),
        ("hsl(from red calc(h + 120) s l)", (0, 1, 0, 1)),
        ("hwb(from blue h 50 b)", (0.5, 0.5, 1, 1)),
        ("rgb(from rgb(0 0 0 / .4) r g b)", (0, 0, 0, 0.4)),
        ("oklch(from white l 0 h / alpha)", (1, 1, 1, 1)),
    ],
)
def test_colours_are_made_of_the_channels_of_others(text, wanted):
    assert srgb_of(tinycss2.parse_one_component_value(text)) == pytest.approx(wanted, abs=0.01)


@pytest.mark.parametrize(
    "text",
    [
        "rgb(from red r g)",
        "rgb(from nothing r g b)",
        "rgb(from red r g b c)",
        "rgb(from red x g b)",
        "rgb(from red calc(r + ) g b)",
    ],
)
def test_what_is_made_of_no_colour_is_none(text):
    assert srgb_of(tinycss2.parse_one_component_value(text)) is None


def test_image_set_takes_the_finest(compose):
    found = declared("background-image", "image-set('a.png' 1x, 'b.png' 300dpi, 'c.png' 2x)")["background_image"][0]
    assert found.url == "b.png"
    assert declared("background-image", "image-set(1x)") is None


@pytest.mark.parametrize("declaration", [
    "clip-path:inset(50% 60%)", "clip-path:circle(0)", "filter:blur(1e9px)", "filter:drop-shadow(1e9px 0 1e9px red)",
    "mask-image:linear-gradient(red,blue);mask-size:0 0", "border:9px solid;border-image:linear-gradient(red,blue) 900%",
    "border-image:url(gone.png) 3 fill;border:3px solid", "rotate:1e30deg", "scale:0", "translate:1e30px",
    "background:linear-gradient(red 1e30px,blue)", "-webkit-text-stroke:1e9px red", "text-emphasis:'\U0001F600'",
    "background:linear-gradient(red,transparent) text", "text-shadow:0 0 1e9px red", "mask:url(#gone)", "filter:url(#gone)",
])  # fmt: skip
def test_odd_values_come_out(compose, check_pdf, declaration):
    check_pdf(compose(f'<div style="width:80px;height:40px;{declaration}">Heron</div>').to_bytes())


def test_single_transforms_come_before_the_transform(press):
    html = "<style>@page{margin:0} body{margin:0}</style>" + "".join(
        f'<div style="position:absolute;left:0;top:0;width:10px;height:10px;{css}" id={name}></div>'
        for name, css in (("a", "translate:20px 10px;scale:2;transform-origin:0 0"),
                          ("b", "transform:translate(20px,10px) scale(2);transform-origin:0 0"))
    )  # fmt: skip
    edition = press.compose(fq.Manuscript.from_html(html))
    first, second = edition.locate("#a")[0], edition.locate("#b")[0]
    assert (first.x, first.y, first.width) == (second.x, second.y, second.width) == (15.0, 7.5, 15.0)
