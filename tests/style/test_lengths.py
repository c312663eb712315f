"""Lengths and what is reckoned with them: CSS Values 4, one line a case."""

import math

import pytest
import tinycss2
from hypothesis import given
from hypothesis import strategies as st

from fleetquill.style.lengths import LARGEST, FixedBasis, Relative, compute_length, integer, length_percentage, number

BASIS = FixedBasis()  # 16 px, no page


def px(css, basis=200.0):
    """The px that a declaration's value comes to in a block `basis` px wide; None where it is not understood."""
    (token,) = tinycss2.parse_component_value_list(css, skip_comments=True)
    value = compute_length(length_percentage(token), BASIS)
    return value if value is None or isinstance(value, float) else value.resolve(basis)


VALUES = [
    ("10px", 10), ("1in", 96), ("2.54cm", 96), ("10mm", 37.795), ("40q", 37.795), ("72pt", 96), ("6pc", 96),
    ("2em", 32), ("1.5rem", 24), ("2ex", 16), ("1lh", 19.2), ("50%", 100), ("0", 0), ("1e400px", LARGEST),
    ("-1e400px", -LARGEST), ("1e9%", 1e6),
    # §10.1, sums and products
    ("calc(10px + 5px)", 15), ("calc(50% - 20px)", 80), ("calc((1em + 4px) * 2)", 40), ("calc(100% / 3 + 1px)", 67.667),
    ("calc(2 * 3 * 1px)", 6), ("calc(1px + (2px - 3px))", 0), ("calc(-1 * 5px)", -5), ("calc(10px / (2px / 1px))", 5),
    ("calc(1px/0)", LARGEST), ("calc(1px * infinity)", LARGEST), ("calc(1px * nan)", 0), ("calc(1px * pi)", math.pi),
    # §10.2, comparisons
    ("min(10px, 50%, 3em)", 10), ("max(10px, 50%)", 100), ("clamp(10px, 50%, 60px)", 60), ("clamp(120px, 50%, 90px)", 120),
    # §10.3, steps
    ("round(44px, 10px)", 40), ("round(45px, 10px)", 50), ("round(-45px, 10px)", -40), ("round(up, 41px, 10px)", 50),
    ("round(down, -41px, 10px)", -50), ("round(to-zero, -49px, 10px)", -40), ("round(to-zero, 4px, 10px)", 0), ("round(up, 33%, 20px)", 80),
    ("mod(18px, 5px)", 3), ("mod(-18px, 5px)", 2), ("rem(-18px, 5px)", -3), ("mod(10px, 0px)", 0), ("round(10px, 0px)", 0),
    # §10.4 to §10.7
    ("calc(100px * sin(30deg))", 50), ("calc(100px * cos(0.5turn))", -100), ("calc(10px * tan(50grad))", 10),
    ("calc(1px * atan2(1, 1))", math.pi / 4), ("calc(1px * pow(2, 10))", 1024), ("calc(1px * sqrt(81))", 9),
    ("hypot(3px, 4px)", 5), ("calc(1px * log(8, 2))", 3), ("calc(1px * exp(0))", 1), ("calc(1px * sqrt(-1))", 0),
    ("abs(-20px)", 20), ("abs(10px - 50%)", 90), ("calc(sign(-3px) * 7px)", -7), ("calc(1px * asin(2))", 0),
    # what is none
    ("10", None), ("10kg", None), ("red", None), ("calc()", None), ("calc(1px +)", None), ("calc(1px 2px)", None),
    ("min()", None), ("clamp(1px, 2px)", None), ("round()", None), ("calc(1px * * 2)", None), ("nothing(1px)", None),
    ("calc(1px + 2)", None), ("pow(2px, 2)", None), ("calc(1px * 1px)", None), ("calc(2 / 1px)", None), ("max(1px, 2)", None),
    ("calc(1px + min(1, 2))", None), ("clamp(0, 1px, 2px)", None), ("calc(1% * 2px)", None),
]  # fmt: skip


@pytest.mark.parametrize(("css", "wanted"), VALUES, ids=[css for css, _ in VALUES])
def test_a_length_comes_to(css, wanted):
    found = px(css)
    assert found is wanted if wanted is None else found == pytest.approx(wanted, abs=0.01)


@pytest.mark.parametrize(
    ("css", "as_number", "as_integer"),
    [("3", 3, 3), ("2.5", 2.5, None), ("calc(1 + 1)", 2, 2), ("calc(5 / 2)", 2.5, 3), ("1e400", LARGEST, None),
     ("max(1, 2)", 2, 2), ("calc(1px)", None, None), ("calc(1em / 2em)", None, None), ("3px", None, None), ("x", None, None),
     ("calc(10px / 5px)", 2, 2)],
)  # fmt: skip
def test_a_number_comes_to(css, as_number, as_integer):
    (token,) = tinycss2.parse_component_value_list(css)
    assert (number(token), integer(token)) == (as_number, as_integer)


numbers = st.floats(allow_nan=True, allow_infinity=True)


@given(numbers, numbers, numbers, st.floats(0, 1e6))
def test_a_share_always_comes_to_a_length_that_layout_can_reckon_with(offset, ratio, factor, basis):
    css = f"calc(({offset!r}px + {ratio!r} * 1%) * {factor!r})".replace("inf", "infinity")
    (token,) = tinycss2.parse_component_value_list(css)
    value = compute_length(length_percentage(token), BASIS)
    resolved = value if isinstance(value, float) or value is None else value.resolve(basis)
    assert resolved is None or (math.isfinite(resolved) and abs(resolved) <= max(LARGEST, basis))


def test_a_percentage_stays_one_until_its_basis_is_known():
    (token,) = tinycss2.parse_component_value_list("calc(25% + 3px)")
    assert compute_length(length_percentage(token), BASIS) == Relative(3.0, 0.25)
