"""Where `locate` says that boxes stand once transforms have moved them."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq

RULES = (
    "<style>@page{size:400px 400px;margin:0}body{margin:0}#a{position:absolute;left:100px;top:50px;width:80px;height:40px}"
    "#b{position:absolute;left:10px;top:10px;width:20px;height:10px}</style>"
)


def placed(style, selector="#a", around=""):
    html = f"{RULES}<div style='{around}'><div id=a style='{style}'><div id=b></div></div></div>"
    (found,) = fq.compose(fq.Manuscript.from_html(html)).locate(selector)
    return [part / 0.75 for part in (found.x, found.y, found.width, found.height)]


@pytest.mark.parametrize(
    ("transform", "outer", "inner"),
    [
        ("none", (100, 50, 80, 40), (110, 60, 20, 10)),
        ("translate(10px, 50%)", (110, 70, 80, 40), (120, 80, 20, 10)),
        ("rotate(90deg)", (120, 30, 40, 80), (140, 40, 10, 20)),
        ("rotate(180deg)", (100, 50, 80, 40), (150, 70, 20, 10)),
        ("scale(2)", (60, 30, 160, 80), (80, 50, 40, 20)),
        ("scale(2, .5)", (60, 60, 160, 20), (80, 65, 40, 5)),
        ("scale(0)", (140, 70, 0, 0), (140, 70, 0, 0)),
        ("scaleX(-1)", (100, 50, 80, 40), (150, 60, 20, 10)),
        ("matrix(1, 0, 0, 1, 5, 6)", (105, 56, 80, 40), (115, 66, 20, 10)),
        ("skewX(45deg)", (80, 50, 120, 40), (100, 60, 30, 10)),
        ("translate(10px) rotate(90deg)", (130, 30, 40, 80), (150, 40, 10, 20)),
    ],
)
def test_a_box_and_its_child_are_where_they_are_drawn(transform, outer, inner):
    assert placed(f"transform:{transform}") == pytest.approx(outer, abs=0.01)
    assert placed(f"transform:{transform}", "#b") == pytest.approx(inner, abs=0.01)


def test_transforms_in_one_another_are_joined():
    around = "position:absolute;left:0;top:0;width:400px;height:400px;transform-origin:0 0;transform:scale(.5)"
    assert placed("transform-origin:0 0;transform:scale(4)", around=around) == pytest.approx(
        (50, 25, 160, 80), abs=0.01
    )


@given(st.floats(0, 360), st.floats(0.1, 2))
def test_a_turned_box_covers_its_corners(angle, scale):
    x, y, width, height = placed(f"transform:rotate({angle:.4f}deg) scale({scale:.4f})")
    sine, cosine = abs(math.sin(math.radians(angle))) * scale, abs(math.cos(math.radians(angle))) * scale
    assert width == pytest.approx(80 * cosine + 40 * sine, abs=0.05)
    assert height == pytest.approx(80 * sine + 40 * cosine, abs=0.05)
    assert (x + width / 2, y + height / 2) == pytest.approx((140, 70), abs=0.05)
