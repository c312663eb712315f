"""Flex boxes: sizes along the main axis and alignment across it."""

from __future__ import annotations

import pytest


def row(style: str, *items: str) -> str:
    return f'<div id=f style="display:flex;{style}">{"".join(f"<div class=i style={chr(34)}{i}{chr(34)}>x</div>" for i in items)}</div>'


@pytest.mark.parametrize(
    ("style", "lefts"),
    [
        ("", [0, 50, 100]),
        ("justify-content:flex-end", [250, 300, 350]),
        ("justify-content:center", [125, 175, 225]),
        ("justify-content:space-between", [0, 175, 350]),
        ("justify-content:space-around", [41.67, 175, 308.33]),
        ("justify-content:space-evenly", [62.5, 175, 287.5]),
        ("gap:10px", [0, 60, 120]),
        ("flex-direction:row-reverse", [350, 300, 250]),
    ],
)
def test_items_along_a_row(compose, px, style, lefts):
    edition = compose(row(style, *["width:50px"] * 3))
    assert [p.x for p in px(edition, ".i")] == pytest.approx(lefts, abs=0.02)


def test_growing_and_shrinking_share_what_is_left(compose, px):
    edition = compose(row("", "flex:1", "flex:3", "width:100px"))
    assert [p.width for p in px(edition, ".i")] == [75, 225, 100]
    edition = compose(row("", "width:300px", "width:300px;flex-shrink:3", "width:100px;flex-shrink:0"))
    assert [p.width for p in px(edition, ".i")] == pytest.approx([225, 75, 100], abs=0.02)


def test_an_item_never_shrinks_below_its_longest_word(compose, px):
    edition = compose('<div style="display:flex;width:60px"><p class=i>incomprehensibilities</p><p>a</p></div>')
    assert px(edition, ".i")[0].width > 100


def test_limits_freeze_items_and_the_others_take_the_rest(compose, px):
    edition = compose(row("", "flex:1;max-width:50px", "flex:1", "flex:1;min-width:200px"))
    assert [p.width for p in px(edition, ".i")] == [50, 150, 200]


def test_items_stretch_unless_they_are_aligned(compose, px):
    edition = compose(row("height:100px", "", "align-self:center", "align-self:flex-end", "height:30px"))
    assert [(p.y, p.height) for p in px(edition, ".i")] == [(0, 100), (40, 20), (80, 20), (0, 30)]


def test_items_align_on_their_baselines(compose, px):
    edition = compose(row("align-items:baseline", "padding-top:30px", "", ""))
    assert [p.y for p in px(edition, ".i")] == [0, 30, 30]


def test_auto_margins_come_before_justification(compose, px):
    edition = compose(row("justify-content:center", "width:50px", "width:50px;margin-left:auto"))
    assert [p.x for p in px(edition, ".i")] == [0, 350]


def test_lines_wrap_and_order_decides(compose, px):
    edition = compose(row("flex-wrap:wrap;row-gap:5px", "width:250px", "width:250px;order:-1", "width:100px"))
    assert [p.rect[:2] for p in px(edition, ".i")] == [(0, 0), (0, 25), (250, 25)]


def test_a_column_grows_to_its_height(compose, px):
    edition = compose(row("flex-direction:column;height:200px", "", "flex:1", "margin-top:10px"))
    assert [(p.y, p.height) for p in px(edition, ".i")] == [(0, 20), (20, 150), (180, 20)]
    assert {p.width for p in px(edition, ".i")} == {400}


def test_runs_of_text_become_items(compose, px):
    edition = compose('<div style="display:flex;justify-content:space-between">left<span id=a>right</span></div>')
    assert px(edition, "#a")[0].right == pytest.approx(400, abs=0.02)


def test_a_container_that_does_not_fit_moves_whole_or_breaks_between_lines(compose, px):
    edition = compose(f'<p style="height:590px"></p>{row("", "height:50px;break-inside:avoid")}')
    assert [p.page for p in px(edition, "#f")] == [2]
    edition = compose(row("flex-wrap:wrap", *["width:300px;height:250px;break-inside:avoid"] * 5))
    assert [p.page for p in px(edition, ".i")] == [1, 1, 2, 2, 3]
