"""Floats and clearance (CSS 2.2 §9.5)."""

from __future__ import annotations

from time import process_time

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq

BOX = '<div class=f style="float:{};width:{}px;height:{}px"></div>'


def test_floats_stand_side_by_side_and_then_below(compose, px):
    edition = compose("".join(BOX.format("left", 150, 30) for _ in range(3)))
    assert [p.rect[:2] for p in px(edition, ".f")] == [(0, 0), (150, 0), (0, 30)]


def test_left_and_right_meet_in_the_middle(compose, px):
    edition = compose(BOX.format("left", 150, 30) + BOX.format("right", 100, 50) + BOX.format("right", 200, 20))
    assert [p.rect[:2] for p in px(edition, ".f")] == [(0, 0), (300, 0), (100, 30)]


def test_a_float_is_never_higher_than_an_earlier_one(compose, px):
    edition = compose(BOX.format("left", 300, 30) + BOX.format("left", 300, 20) + BOX.format("right", 50, 10))
    assert [p.y for p in px(edition, ".f")] == [0, 30, 30]


@pytest.mark.parametrize(("clear", "top"), [("left", 30), ("right", 50), ("both", 50), ("none", 0)])
def test_clearance(compose, px, clear, top):
    html = BOX.format("left", 50, 30) + BOX.format("right", 50, 50)
    assert px(compose(f"{html}<p id=a style='clear:{clear}'>x"), "#a")[0].y == top


def test_a_context_of_its_own_stands_beside_and_is_as_tall_as_its_floats(compose, px):
    edition = compose(
        BOX.format("left", 100, 60)
        + "<div id=a style='overflow:hidden'>x</div><div id=b style='display:flow-root'>"
        + BOX.format("right", 10, 90)
        + "</div>"
    )
    a, b = px(edition, "#a")[0], px(edition, "#b")[0]
    assert (a.x, a.width) == (100, 300)
    assert b.height == 90


def test_a_plain_block_ignores_floats_but_its_lines_do_not(compose, px):
    edition = compose(BOX.format("left", 100, 30) + "<p id=a><span id=b>word</span></p>")
    assert px(edition, "#a")[0].x == 0 and px(edition, "#b")[0].x == 100


def test_nested_blocks_know_the_floats_around_them(compose, px):
    edition = compose(
        BOX.format("left", 100, 30) + "<div style='padding:0 0 0 40px'><p><span id=b>word</span></p></div>"
    )
    assert px(edition, "#b")[0].x == 100


def test_a_line_too_wide_for_the_room_beside_goes_below(compose, px):
    edition = compose(BOX.format("left", 350, 30) + "<p><span id=b>incomprehensibilities</span>")
    assert px(edition, "#b")[0].rect[0] == 0 and px(edition, "#b")[0].y >= 29.9


def test_floats_that_do_not_fit_wait_for_the_next_page(compose, px):
    edition = compose("<p style='height:580px'></p>" + BOX.format("left", 50, 100))
    assert [p.page for p in px(edition, ".f")] == [2]


@pytest.mark.parametrize("columns", [1, 2])
@pytest.mark.parametrize("float_", [
    '<span style="float:left;width:150px;height:{}px">f</span>', '<span style="float:left;width:150px">f<br>f<br>f</span>',
    '<svg width=150 height={} style="float:right"><rect width="9" height="9"/></svg>',
])  # fmt: skip
@pytest.mark.parametrize("height", [10, 60, 79, 81, 99, 101, 300])
def test_a_float_that_has_no_room_below_its_line_loses_nothing(columns, float_, height):
    """Beside the words before it it has none either, and on the next page the same line stands before it."""
    style = f"<style>@page{{size:{200 * columns}px 100px;margin:0}}body{{margin:0;font:16px/20px sans-serif;columns:{columns}}}</style>"
    edition = fq.compose(fq.Manuscript.from_html(f"{style}<p>some words before {float_.format(height)} and after it"))
    words = " ".join(page.text for page in edition.pages).split()
    assert [word for word in words if word != "f"] == ["some", "words", "before", "and", "after", "it"]
    assert edition.page_count <= 7 and not [r for r in edition.remarks if "could not go on" in r.message]


def test_floats_in_floats_at_the_foot_of_a_page_are_not_tried_twice_each():
    inside = "x<br>" * 8
    for _ in range(14):
        inside = f"words before <span style='float:left;width:95%'>{inside}</span> after"
    style = "<style>@page{size:300px 100px;margin:0}body{margin:0;font:16px/20px sans-serif}</style>"
    begun = process_time()
    fq.compose(fq.Manuscript.from_html(f"{style}a<br>b<br>c<br>{inside}"))
    assert process_time() - begun < 5  # 30 s, where each level took twice as long as the one within it


@settings(max_examples=60, deadline=None)
@given(
    st.lists(
        st.tuples(st.sampled_from(["left", "right"]), st.integers(10, 220), st.integers(5, 60)), min_size=1, max_size=9
    )
)
def test_no_two_floats_overlap_and_none_leaves_its_container(boxes):
    html = "<style>@page{size:220px 1000px;margin:0}</style>" + "".join(BOX.format(*box) for box in boxes)
    placed = fq.compose(fq.Manuscript.from_html(html)).locate(".f")
    assert len(placed) == len(boxes)
    for number, one in enumerate(placed):
        assert one.x >= -0.01 and one.x + one.width <= 220 * 0.75 + 0.01
        for other in placed[number + 1 :]:
            apart = (
                one.x + one.width <= other.x + 0.01
                or other.x + other.width <= one.x + 0.01
                or one.y + one.height <= other.y + 0.01
                or other.y + other.height <= one.y + 0.01
            )
            assert apart
