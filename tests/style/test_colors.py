"""Colours of every space as sRGB: the standard's own examples, and what browsers paint, within a two-hundredth."""

import pytest
import tinycss2
from hypothesis import given
from hypothesis import strategies as st

from fleetquill.style.colors import srgb_of

COLORS = [
    ("red", (1, 0, 0, 1)), ("#0f08", (0, 1, 0, 0.533)), ("rgb(50% 0% 100% / 25%)", (0.5, 0, 1, 0.25)), ("transparent", (0, 0, 0, 0)),
    ("hsl(120deg 100% 25%)", (0, 0.5, 0, 1)), ("hwb(90 40% 40%)", (0.5, 0.6, 0.4, 1)), ("hwb(0 80% 80%)", (0.5, 0.5, 0.5, 1)),
    ("lab(100% 0 0)", (1, 1, 1, 1)), ("lab(0% 0 0)", (0, 0, 0, 1)), ("lab(46.277% -47.562 48.583)", (0, 0.5, 0, 1)),
    ("lab(29.69% 44.888 -29.04)", (0.463, 0.125, 0.455, 1.0)), ("lch(46.277% 67.989 134.391)", (0, 0.5, 0, 1)),
    ("oklab(51.975% -0.1403 0.10768)", (0, 0.5, 0, 1)), ("oklch(51.975% 0.17686 142.495)", (0, 0.5, 0, 1)), ("oklch(1 0 none)", (1, 1, 1, 1)),
    ("color(srgb 0.2 0.4 0.6)", (0.2, 0.4, 0.6, 1)), ("color(srgb-linear 0.5 0.5 0.5)", (0.7354, 0.7354, 0.7354, 1)),
    ("color(display-p3 0.21604 0.49418 0.13151)", (0, 0.5, 0, 1)), ("color(a98-rgb 0.28106 0.49363 0.14918 / 0.5)", (0.024, 0.502, 0.078, 0.502)),
    ("color(prophoto-rgb 0.23046 0.39571 0.12952)", (0, 0.5, 0, 1)), ("color(rec2020 0.2349 0.4307 0.1153)", (0.0, 0.502, 0.09, 1.0)),
    ("color(xyz-d50 0.0831 0.1543 0.0256)", (0.0, 0.502, 0.075, 1.0)), ("color(xyz-d65 0.07719 0.15438 0.02573)", (0, 0.5, 0, 1)),
    ("color-mix(in srgb, red, blue)", (0.5, 0, 0.5, 1)), ("color-mix(in srgb, red 25%, blue)", (0.25, 0, 0.75, 1)),
    ("color-mix(in srgb, red, blue 25%)", (0.75, 0, 0.25, 1)), ("color-mix(in srgb, red 20%, blue 20%)", (0.5, 0, 0.5, 0.4)),
    ("color-mix(in srgb, red, transparent)", (1, 0, 0, 0.5)), ("color-mix(in lab, white, black)", (0.4663, 0.4663, 0.4663, 1)),
    ("color-mix(in oklab, white, black)", (0.3885, 0.3885, 0.3885, 1)), ("color-mix(in hsl, red, lime)", (1, 1, 0, 1)),
    ("color-mix(in hsl longer hue, red, lime)", (0, 0, 1, 1)), ("color-mix(in hwb, white, blue)", (0.5, 0.5, 1, 1)),
    ("color-mix(in srgb-linear, white, black)", (0.7354, 0.7354, 0.7354, 1)),
    ("color-mix(in srgb-linear, #0a0a0a, #0a0a0a)", (0.0392, 0.0392, 0.0392, 1)), ("color-mix(in lab, #080808, #080808)", (0.0314, 0.0314, 0.0314, 1)), ("light-dark(red, blue)", (1, 0, 0, 1)),
    ("rgb(1e400 0 -1e400)", (1, 0, 0, 1)), ("currentcolor", "currentcolor"), ("redd", None), ("color(nowhere 1 1 1)", None),
    ("color-mix(in srgb, red)", None), ("color-mix(red, blue)", None), ("color-mix(in srgb, red, currentcolor)", None),
    ("color-mix(in srgb, red 0%, blue 0%)", None), ("light-dark(red)", None), ("10px", None),
]  # fmt: skip


@pytest.mark.parametrize(("css", "wanted"), COLORS, ids=[css for css, _ in COLORS])
def test_a_colour_comes_to(css, wanted):
    found = srgb_of(tinycss2.parse_one_component_value(css))
    assert found == (
        pytest.approx(wanted, abs=0.008 if max(wanted[:3]) > 0.05 else 0.001) if isinstance(wanted, tuple) else wanted
    )


parts = st.one_of(st.floats(-1e6, 1e6), st.just("none"), st.just("1e400"))


@given(st.sampled_from(["lab", "lch", "oklab", "oklch", "hsl", "rgb", "hwb"]), parts, parts, parts, parts)
def test_any_numbers_come_to_a_colour_within_srgb_or_to_none(name, a, b, c, alpha):
    found = srgb_of(tinycss2.parse_one_component_value(f"{name}({a} {b} {c} / {alpha})"))
    assert found is None or all(0.0 <= part <= 1.0 for part in found)
