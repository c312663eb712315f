"""What a page is painted as, call by call: every rectangle, path, clip and group, in its order."""

from typing import Any

import pytest

import fleetquill as fq
from fleetquill.drawing.canvas import Drawing
from fleetquill.paint.painter import paint_page
from fleetquill.style.values import Rgba

STYLE = (
    "<!DOCTYPE html><style>@page{size:300px 200px;margin:0} body,p,hr{margin:0} div{width:100px;height:20px} p{height:10px}"
    " td{width:20px;height:10px;padding:0}</style>"
)
FAR = "m-10000,-10000 l10100,-10000 l10100,10020 l-10000,10020 h"  # as far as paper goes


def told(value: Any) -> str:
    """An argument of a call as text, to a hundredth of a px."""
    if isinstance(value, Rgba):
        shown = "#" + "".join(f"{round(255 * channel):02x}" for channel in value[:3])
        return shown if value.alpha == 1 else f"{shown}/{value.alpha:g}"
    if isinstance(value, bool):
        return "even-odd" if value else ""
    if isinstance(value, (float, int)):
        return f"{value:.2f}".rstrip("0").rstrip(".").replace("-0", "0" if abs(value) < 0.005 else "-0")
    if isinstance(value, list) and value and isinstance(value[0][0], str):
        return " ".join(verb + ",".join(map(told, places)) for verb, *places in value)
    if isinstance(value, (list, tuple)):
        return "[" + " ".join(map(told, value)) + "]"
    return str(value)


def painted(html: str) -> list[str]:
    """The calls that paint a page."""
    recorder = Drawing(300, 200)
    paint_page(recorder, fq.compose(fq.Manuscript.from_html(STYLE + html))._fragments[0].content, layered=True)
    return [" ".join([step.verb, *map(told, step.arguments)]).strip() for step in recorder.steps]


PAINTED = {
    "a ground": (
        "<div style='background:red'>",
        [
            "fill_rect 0 0 100 20 #ff0000",
        ],
    ),
    "a ground within its padding": (
        "<div style='background:red;background-clip:padding-box;border:5px dashed blue'>",
        [
            "fill_path m5,5 l105,5 l105,25 l5,25 h #ff0000",
            "stroke_path m0,2.5 l110,2.5 #0000ff [5 [10 4.29] 0 0 0 10]",
            "stroke_path m107.5,0 l107.5,30 #0000ff [5 [10 10] 0 0 0 10]",
            "stroke_path m0,27.5 l110,27.5 #0000ff [5 [10 4.29] 0 0 0 10]",
            "stroke_path m2.5,0 l2.5,30 #0000ff [5 [10 10] 0 0 0 10]",
        ],
    ),
    "a ground within its content": (
        "<div style='background:red;background-clip:content-box;padding:5px 10px'>",
        [
            "fill_path m10,5 l110,5 l110,25 l10,25 h #ff0000",
        ],
    ),
    "a ground with round corners": (
        "<div style='background:red;border-radius:10px'>",
        [
            "fill_path m10,0 l90,0 c95.52,0,100,4.48,100,10 l100,10 c100,15.52,95.52,20,90,20 l10,20 "
            "c4.48,20,0,15.52,0,10 l0,10 c0,4.48,4.48,0,10,0 h #ff0000",
        ],
    ),
    "round corners that meet": (
        "<div style='background:red;border-radius:40px'>",
        [
            "fill_path m10,0 l90,0 c95.52,0,100,4.48,100,10 l100,10 c100,15.52,95.52,20,90,20 l10,20 "
            "c4.48,20,0,15.52,0,10 l0,10 c0,4.48,4.48,0,10,0 h #ff0000",
        ],
    ),
    "round corners of two radii": (
        "<div style='background:red;border-radius:10px 0 0 0 / 5px 0 0 0'>",
        [
            "fill_path m10,0 l100,0 c100,0,100,0,100,0 l100,20 c100,20,100,20,100,20 l0,20 c0,20,0,20,0,20 l0,5 "
            "c0,2.24,4.48,0,10,0 h #ff0000",
        ],
    ),
    "four alike sides": (
        "<div style='border:4px solid red'>",
        [
            "fill_path m0,0 l108,0 l108,28 l0,28 h m4,4 l104,4 l104,24 l4,24 h #ff0000 even-odd",
        ],
    ),
    "four alike sides with round corners": (
        "<div style='border:4px solid red;border-radius:8px'>",
        [
            "fill_path m8,0 l100,0 c104.42,0,108,3.58,108,8 l108,20 c108,24.42,104.42,28,100,28 l8,28 "
            "c3.58,28,0,24.42,0,20 l0,8 c0,3.58,3.58,0,8,0 h m8,4 l100,4 c102.21,4,104,5.79,104,8 l104,20 "
            "c104,22.21,102.21,24,100,24 l8,24 c5.79,24,4,22.21,4,20 l4,8 c4,5.79,5.79,4,8,4 h #ff0000 even-odd",
        ],
    ),
    "one side": (
        "<div style='border-top:4px solid red'>",
        [
            "fill_path m0,0 l100,0 l100,4 l0,4 h #ff0000",
        ],
    ),
    "one side at the left": (
        "<div style='border-left:4px solid red'>",
        [
            "fill_path m0,20 l0,0 l4,0 l4,20 h #ff0000",
        ],
    ),
    "two sides that meet": (
        "<div style='border-top:4px solid red;border-left:6px solid blue'>",
        [
            "fill_path m0,0 l106,0 l106,4 l6,4 h #ff0000",
            "fill_path m0,24 l0,0 l6,4 l6,24 h #0000ff",
        ],
    ),
    "four unlike sides": (
        "<div style='border-style:solid;border-width:1px 2px 3px 4px;border-color:red blue lime black'>",
        [
            "fill_path m0,0 l106,0 l104,1 l4,1 h #ff0000",
            "fill_path m106,0 l106,24 l104,21 l104,1 h #0000ff",
            "fill_path m106,24 l0,24 l4,21 l104,21 h #00ff00",
            "fill_path m0,24 l0,0 l4,1 l4,21 h #000000",
        ],
    ),
    "double sides": (
        "<div style='border:6px double red'>",
        [
            "fill_path m0,0 l112,0 l112,32 l0,32 h m2,2 l110,2 l110,30 l2,30 h #ff0000 even-odd",
            "fill_path m4,4 l108,4 l108,28 l4,28 h m6,6 l106,6 l106,26 l6,26 h #ff0000 even-odd",
        ],
    ),
    "thin double sides": (
        "<div style='border:2px double red'>",
        [
            "fill_path m0,0 l104,0 l104,24 l0,24 h m2,2 l102,2 l102,22 l2,22 h #ff0000 even-odd",
        ],
    ),
    "dashed sides": (
        "<div style='border:2px dashed red'>",
        [
            "stroke_path m0,1 l104,1 #ff0000 [2 [6 3.8] 0 0 0 10]",
            "stroke_path m103,0 l103,24 #ff0000 [2 [6 3] 0 0 0 10]",
            "stroke_path m0,23 l104,23 #ff0000 [2 [6 3.8] 0 0 0 10]",
            "stroke_path m1,0 l1,24 #ff0000 [2 [6 3] 0 0 0 10]",
        ],
    ),
    "dotted sides": (
        "<div style='border:4px dotted red'>",
        [
            "stroke_path m2,2 l106,2 #ff0000 [4 [0.02 7.98] 0 1 0 10]",
            "stroke_path m106,2 l106,26 #ff0000 [4 [0.02 7.98] 0 1 0 10]",
            "stroke_path m2,26 l106,26 #ff0000 [4 [0.02 7.98] 0 1 0 10]",
            "stroke_path m2,2 l2,26 #ff0000 [4 [0.02 7.98] 0 1 0 10]",
        ],
    ),
    "one dashed side": (
        "<div style='border-bottom:2px dashed red'>",
        [
            "stroke_path m0,21 l100,21 #ff0000 [2 [6 4.44] 0 0 0 10]",
        ],
    ),
    "groove": (
        "<div style='border:4px groove #808080'>",
        [
            "fill_path m0,0 l108,0 l106,2 l2,2 h #2c2c2c",
            "fill_path m2,2 l106,2 l104,4 l4,4 h #d4d4d4",
            "fill_path m108,0 l108,28 l106,26 l106,2 h #d4d4d4",
            "fill_path m106,2 l106,26 l104,24 l104,4 h #2c2c2c",
            "fill_path m108,28 l0,28 l2,26 l106,26 h #d4d4d4",
            "fill_path m106,26 l2,26 l4,24 l104,24 h #2c2c2c",
            "fill_path m0,28 l0,0 l2,2 l2,26 h #2c2c2c",
            "fill_path m2,26 l2,2 l4,4 l4,24 h #d4d4d4",
        ],
    ),
    "ridge": (
        "<div style='border:4px ridge #808080'>",
        [
            "fill_path m0,0 l108,0 l106,2 l2,2 h #d4d4d4",
            "fill_path m2,2 l106,2 l104,4 l4,4 h #2c2c2c",
            "fill_path m108,0 l108,28 l106,26 l106,2 h #2c2c2c",
            "fill_path m106,2 l106,26 l104,24 l104,4 h #d4d4d4",
            "fill_path m108,28 l0,28 l2,26 l106,26 h #2c2c2c",
            "fill_path m106,26 l2,26 l4,24 l104,24 h #d4d4d4",
            "fill_path m0,28 l0,0 l2,2 l2,26 h #d4d4d4",
            "fill_path m2,26 l2,2 l4,4 l4,24 h #2c2c2c",
        ],
    ),
    "inset": (
        "<div style='border:4px inset #808080'>",
        [
            "fill_path m0,0 l108,0 l104,4 l4,4 h #2c2c2c",
            "fill_path m108,0 l108,28 l104,24 l104,4 h #d4d4d4",
            "fill_path m108,28 l0,28 l4,24 l104,24 h #d4d4d4",
            "fill_path m0,28 l0,0 l4,4 l4,24 h #2c2c2c",
        ],
    ),
    "outset": (
        "<div style='border:4px outset #808080'>",
        [
            "fill_path m0,0 l108,0 l104,4 l4,4 h #d4d4d4",
            "fill_path m108,0 l108,28 l104,24 l104,4 h #2c2c2c",
            "fill_path m108,28 l0,28 l4,24 l104,24 h #2c2c2c",
            "fill_path m0,28 l0,0 l4,4 l4,24 h #d4d4d4",
        ],
    ),
    "no width": (
        "<div style='border:0 solid red'>",
        [],
    ),
    "no style": (
        "<div style='border:5px none red'>",
        [],
    ),
    "an outline": (
        "<div style='outline:2px solid red'>",
        [
            "fill_path m-2,-2 l102,-2 l102,22 l-2,22 h m0,0 l100,0 l100,20 l0,20 h #ff0000 even-odd",
        ],
    ),
    "an outline away": (
        "<div style='outline:2px solid red;outline-offset:5px'>",
        [
            "fill_path m-7,-7 l107,-7 l107,27 l-7,27 h m-5,-5 l105,-5 l105,25 l-5,25 h #ff0000 even-odd",
        ],
    ),
    "an outline within": (
        "<div style='outline:2px solid red;outline-offset:-5px'>",
        [
            "fill_path m3,3 l97,3 l97,17 l3,17 h m5,5 l95,5 l95,15 l5,15 h #ff0000 even-odd",
        ],
    ),
    "a shadow": (
        "<div style='box-shadow:3px 4px red'>",
        [
            "save",
            f"clip {FAR} m0,0 l100,0 l100,20 l0,20 h even-odd",
            "fill_path m3,4 l103,4 l103,24 l3,24 h #ff0000",
            "restore",
        ],
    ),
    "a larger shadow": (
        "<div style='box-shadow:0 0 0 5px red'>",
        [
            "save",
            f"clip {FAR} m0,0 l100,0 l100,20 l0,20 h even-odd",
            "fill_path m-5,-5 l105,-5 l105,25 l-5,25 h #ff0000",
            "restore",
        ],
    ),
    "a shadow within": (
        "<div style='box-shadow:inset 3px 4px red'>",
        [
            "save",
            "clip m0,0 l100,0 l100,20 l0,20 h",
            f"fill_path {FAR} m3,4 l103,4 l103,24 l3,24 h #ff0000 even-odd",
            "restore",
        ],
    ),
    "two shadows, the first on top": (
        "<div style='box-shadow:1px 1px red,2px 2px blue'>",
        [
            "save",
            f"clip {FAR} m0,0 l100,0 l100,20 l0,20 h even-odd",
            "fill_path m2,2 l102,2 l102,22 l2,22 h #0000ff",
            "restore",
            "save",
            f"clip {FAR} m0,0 l100,0 l100,20 l0,20 h even-odd",
            "fill_path m1,1 l101,1 l101,21 l1,21 h #ff0000",
            "restore",
        ],
    ),
    "half let through": (
        "<div style='opacity:.5;background:red'>",
        [
            "begin_group",
            "fill_rect 0 0 100 20 #ff0000",
            "end_group 0.5 normal",
        ],
    ),
    "cut off": (
        "<div style='overflow:hidden'><p style='background:red;width:200px'>",
        [
            "save",
            "clip m0,0 l100,0 l100,20 l0,20 h",
            "fill_rect 0 0 200 10 #ff0000",
            "restore",
        ],
    ),
    "cut off at round corners": (
        "<div style='overflow:hidden;border-radius:5px'><p style='background:red'>",
        [
            "save",
            "clip m5,0 l95,0 c97.76,0,100,2.24,100,5 l100,15 c100,17.76,97.76,20,95,20 l5,20 "
            "c2.24,20,0,17.76,0,15 l0,5 c0,2.24,2.24,0,5,0 h",
            "fill_rect 0 0 100 10 #ff0000",
            "restore",
        ],
    ),
    "moved": (
        "<div style='transform:translate(5px,10px);background:red'>",
        [
            "save",
            "transform [1 0 0 1 5 10]",
            "fill_rect 0 0 100 20 #ff0000",
            "restore",
        ],
    ),
    "turned": (
        "<div style='transform:rotate(90deg);background:red'>",
        [
            "save",
            "transform [0 1 -1 0 60 -40]",
            "fill_rect 0 0 100 20 #ff0000",
            "restore",
        ],
    ),
    "twice as large from its corner": (
        "<div style='transform:scale(2);transform-origin:0 0;background:red'>",
        [
            "save",
            "transform [2 0 0 2 0 0]",
            "fill_rect 0 0 100 20 #ff0000",
            "restore",
        ],
    ),
    "a rule": (
        "<hr style='margin:0;width:100px'>",
        [
            "fill_path m0,0 l102,0 l101,1 l1,1 h #9a9a9a",
            "fill_path m102,0 l102,2 l101,1 l101,1 h #ffffff",
            "fill_path m102,2 l0,2 l1,1 l101,1 h #ffffff",
            "fill_path m0,2 l0,0 l1,1 l1,1 h #9a9a9a",
            "save",
            "clip m1,1 l101,1 l101,1 l1,1 h",
            "restore",
        ],
    ),
    "layers by their number": (
        "<div style='position:relative;z-index:2;background:red'></div><div style='position:relative;z-index:1;background:blue;margin-top:-20px'>",
        [
            "fill_rect 0 0 100 20 #0000ff",
            "fill_rect 0 0 100 20 #ff0000",
        ],
    ),
    "negative layers lie below": (
        "<div style='background:red'><p style='position:relative;z-index:-1;background:blue'>",
        [
            "fill_rect 0 0 100 10 #0000ff",
            "fill_rect 0 0 100 20 #ff0000",
        ],
    ),
    "floats lie over blocks": (
        "<div style='height:20px'><p style='float:left;width:10px;height:10px;background:red'></p><p style='background:blue'></p></div>",
        [
            "fill_rect 0 0 100 10 #0000ff",
            "fill_rect 0 0 10 10 #ff0000",
        ],
    ),
    "shared borders": (
        "<table style='border-collapse:collapse'><tr><td style='border:2px solid red'><td style='border:4px solid blue'></table>",
        [
            "fill_path m0,1 l24,1 l24,3 l0,3 h #ff0000",
            "fill_path m0,15 l24,15 l24,17 l0,17 h #ff0000",
            "fill_path m0,1 l0,17 l2,17 l2,1 h #ff0000",
            "fill_path m22,0 l50,0 l50,4 l22,4 h #0000ff",
            "fill_path m22,14 l50,14 l50,18 l22,18 h #0000ff",
            "fill_path m22,0 l22,18 l26,18 l26,0 h #0000ff",
            "fill_path m46,0 l46,18 l50,18 l50,0 h #0000ff",
        ],
    ),
    "a shared border that is hidden": (
        "<table style='border-collapse:collapse'><tr><td style='border:2px solid red;border-right:hidden'><td style='border:4px solid blue'></table>",
        [
            "fill_path m0,1 l22,1 l22,3 l0,3 h #ff0000",
            "fill_path m0,15 l22,15 l22,17 l0,17 h #ff0000",
            "fill_path m0,1 l0,17 l2,17 l2,1 h #ff0000",
            "fill_path m22,0 l46,0 l46,4 l22,4 h #0000ff",
            "fill_path m22,14 l46,14 l46,18 l22,18 h #0000ff",
            "fill_path m42,0 l42,18 l46,18 l46,0 h #0000ff",
        ],
    ),
    "borders apart": (
        "<table style='border-spacing:3px'><tr><td style='border:1px solid red'><td style='background:blue'></table>",
        [
            "fill_path m3,3 l25,3 l25,15 l3,15 h m4,4 l24,4 l24,14 l4,14 h #ff0000 even-odd",
            "fill_rect 28 3 20 12 #0000ff",
        ],
    ),
    "an empty cell that is hidden": (
        "<table style='empty-cells:hide'><tr><td style='background:red'><td style='background:blue'></table>",
        [],
    ),
    "a rule between columns": (
        "<div style='columns:2;column-gap:20px;column-rule:2px solid red'><p style='height:20px'></p><p style='height:20px'></p></div>",
        [
            "fill_path m49,0 l49,20 l51,20 l51,0 h #ff0000",
        ],
    ),
    "a gradient": (
        "<div style='background:linear-gradient(red,blue)'>",
        [
            "save",
            "clip m0,0 l100,0 l100,20 l0,20 h",
            "shade [[50 0] [50 20] [[0 #ff0000] [1 #0000ff]]] 0 0 100 20",
            "restore",
        ],
    ),
    "tiles of a gradient": (
        "<div style='background:linear-gradient(red,red) 10px 5px/20px 10px no-repeat'>",
        [
            "save",
            "clip m0,0 l100,0 l100,20 l0,20 h",
            "shade [[10 0] [10 10] [[0 #ff0000] [1 #ff0000]]] 10 5 20 10",
            "restore",
        ],
    ),
    "two grounds, the first on top": (
        "<div style='background:linear-gradient(red,red) 0 0/10px 10px no-repeat,blue'>",
        [
            "fill_path m0,0 l100,0 l100,20 l0,20 h #0000ff",
            "save",
            "clip m0,0 l100,0 l100,20 l0,20 h",
            "shade [[5 0] [5 10] [[0 #ff0000] [1 #ff0000]]] 0 0 10 10",
            "restore",
        ],
    ),
    "a line that is cut": (
        "<span style='background:red;padding:0 3px;border:1px solid blue'>",
        [
            "fill_rect 0 -1 8 22.11 #ff0000",
            "fill_path m0,-1 l8,-1 l8,21.11 l0,21.11 h m1,0 l7,0 l7,20.11 l1,20.11 h #0000ff even-odd",
        ],
    ),
}


@pytest.mark.parametrize("name", PAINTED)
def test_a_page_is_painted_as(name):
    html, calls = PAINTED[name]
    assert painted(html) == calls
