"""The bidirectional algorithm (UAX #9)."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fleetquill.text.bidi import levels, visual_order

SUITE = Path("/usr/share/unicode/BidiCharacterTest.txt")


@pytest.mark.parametrize(
    ("text", "base", "expected"),
    [
        ("abc", None, (0, [0, 0, 0])),
        ("אבג", None, (1, [1, 1, 1])),
        ("abc אב", 0, (0, [0, 0, 0, 0, 1, 1])),
        ("א 12 ב", None, (1, [1, 1, 2, 2, 1, 1])),
        ("ا 12", 0, (0, [1, 1, 2, 2])),
        ("a(ב)c", 0, (0, [0, 0, 1, 0, 0])),
        ("", None, (0, [])),
    ],
)
def test_levels(text, base, expected):
    assert levels(text, base) == expected


def test_visual_order_reverses_right_to_left_runs():
    assert visual_order([0, 0, 1, 1, 2, 2, 1]) == [0, 1, 6, 4, 5, 3, 2]
    assert visual_order([]) == []


@given(
    st.text(alphabet="ab אבا12()\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069", max_size=30),
    st.sampled_from([0, 1, None]),
)
def test_order_is_a_permutation_and_levels_are_bounded(text, base):
    paragraph, found = levels(text, base)
    assert len(found) == len(text) and paragraph in (0, 1)
    assert all(0 <= level <= 127 for level in found)
    assert sorted(visual_order(found)) == list(range(len(text)))


@pytest.mark.skipif(not SUITE.exists(), reason="the Unicode test files are not installed")
def test_a_part_of_the_unicode_suite_passes_whole():
    rows = [row for row in SUITE.read_text(encoding="utf-8").splitlines() if row and row[0] != "#"]
    for row in [*rows[:400], *rows[400::23]]:
        points, direction, paragraph, wanted, order = row.split(";")
        text = "".join(chr(int(point, 16)) for point in points.split())
        base, found = levels(text, {"0": 0, "1": 1, "2": None}[direction])
        assert base == int(paragraph)
        kept = [(i, level) for i, level in enumerate(wanted.split()) if level != "x"]
        assert [found[i] for i, _ in kept] == [int(level) for _, level in kept]
        places = visual_order([found[i] for i, _ in kept])
        assert [kept[place][0] for place in places] == [int(i) for i in order.split()]
