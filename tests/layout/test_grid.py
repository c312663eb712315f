"""Grids and columns: tracks, placement, balance, and how both go over pages."""

import re

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st


def grid(css, *items):
    cells = "".join(
        f"<div class=i>{item}</div>"
        if item and (":" not in item or "<" in item)
        else f"<div class=i style='{item}'></div>"
        for item in items
    )
    return f'<div id=g style="display:grid;{css}">{cells}</div>'


@pytest.mark.parametrize(
    ("css", "items", "rects"),
    [
        ("grid-template-columns:100px 1fr 2fr;gap:10px", ["height:20px"] * 4,
         [(0, 0, 100, 20), (110, 0, 93.33, 20), (213.33, 0, 186.67, 20), (0, 30, 100, 20)]),
        ("grid-template-columns:repeat(3,50px);grid-auto-rows:20px;grid-auto-flow:dense",
         ["grid-column:span 2", "grid-column:span 2", ""], [(0, 0, 100, 20), (0, 20, 100, 20), (100, 0, 50, 20)]),
        ("grid-template-columns:repeat(3,50px);grid-auto-rows:20px",
         ["grid-column:span 2", "grid-column:span 2", ""], [(0, 0, 100, 20), (0, 20, 100, 20), (100, 20, 50, 20)]),
        ("grid-template-columns:repeat(4,50px);grid-auto-rows:20px",
         ["grid-column:1/-1", "grid-column:-2/-1", "grid-row:1;grid-column:5"],
         [(0, 0, 200, 20), (150, 20, 50, 20), (200, 0, 200, 20)]),
        ("grid-template:'h h' 30px 'n m' 40px / 100px 200px", ["grid-area:m", "grid-area:h", "grid-area:n"],
         [(100, 30, 200, 40), (0, 0, 300, 30), (0, 30, 100, 40)]),
        ("grid-template-columns:[a] 50px [b] 60px [c];grid-auto-rows:10px", ["grid-column:b / c", "grid-column:a / c"],
         [(50, 0, 60, 10), (0, 10, 110, 10)]),
        ("grid-auto-flow:column;grid-template-rows:20px 30px;grid-auto-columns:40px", [""] * 3,
         [(0, 0, 40, 20), (0, 20, 40, 30), (40, 0, 40, 20)]),
        ("grid-template-columns:repeat(auto-fill,minmax(120px,1fr));grid-auto-rows:10px", [""] * 4,
         [(0, 0, 133.33, 10), (133.33, 0, 133.33, 10), (266.67, 0, 133.33, 10), (0, 10, 133.33, 10)]),
        ("grid-template-columns:repeat(auto-fit,minmax(100px,1fr));grid-auto-rows:10px", ["", ""],
         [(0, 0, 200, 10), (200, 0, 200, 10)]),
        ("width:300px;height:200px;grid-template:50px 50px / 100px 100px;justify-content:space-between;align-content:center",
         ["justify-self:end;align-self:center;width:20px;height:20px", "", ""],
         [(80, 65, 20, 20), (200, 50, 100, 50), (0, 100, 100, 50)]),
        ("grid-template-columns:100px 100px;grid-auto-rows:60px;place-items:center", ["width:20px;height:10px"] * 2,
         [(40, 25, 20, 10), (140, 25, 20, 10)]),
        ("grid-template-columns:100px;grid-auto-rows:60px", ["margin:auto;width:20px;height:10px"], [(40, 25, 20, 10)]),
        ("width:200px;grid-template-columns:1fr 1fr", ["min-width:150px;height:5px", "height:5px"], [(0, 0, 150, 5), (150, 0, 50, 5)]),
        ("width:200px;grid-template-columns:minmax(0,1fr) minmax(0,1fr)", ["min-width:150px;height:5px", "height:5px"],
         [(0, 0, 150, 5), (100, 0, 100, 5)]),
        ("width:200px;grid-template-columns:fit-content(50px) 1fr;grid-auto-rows:5px", ["", ""], [(0, 0, 0, 5), (0, 0, 200, 5)]),
        ("height:100px;grid-template-columns:50px", ["", ""], [(0, 0, 50, 50), (0, 50, 50, 50)]),
        ("grid-template-columns:50px 50px;grid-auto-rows:10px", ["order:1", "height:5px"], [(0, 0, 50, 5), (50, 0, 50, 10)]),
    ],
)  # fmt: skip
def test_items_land_on_their_tracks(compose, px, css, items, rects):
    found = [p.rect for p in px(compose(grid(css, *items)), ".i")]
    assert found == [pytest.approx(rect, abs=0.02) for rect in rects]


def test_rows_are_as_tall_as_what_is_in_them_and_items_stretch(compose, px):
    found = px(compose(grid("grid-template-columns:1fr 1fr", "a", "b<br>b", "c")), ".i")
    assert [p.rect for p in found] == [(0, 0, 200, 40), (200, 0, 200, 40), (0, 40, 200, 20)]


def test_content_sized_tracks_take_the_widest_item(compose, px):
    edition = compose(
        grid("grid-template-columns:min-content max-content auto;font-family:monospace", "aa bbb", "aa bbb", "x")
    )
    a, b, c = px(edition, ".i")
    assert a.width == pytest.approx(b.width / 2, abs=0.1) and a.height == 40 and c.right == 400


def test_grids_break_between_rows_and_inside_items(compose, px):
    lines = "<br>".join("x" * 3 for _ in range(20))
    edition = compose(grid("grid-template-columns:1fr 1fr", "<br>" * 15, "short", lines, "y", "last"))
    third = [p for p in px(edition, ".i") if p.x == 0]
    assert [(p.page, p.height) for p in third] == [(1, 300), (1, 300), (2, 100), (2, 20)]


def test_break_inside_avoid_moves_a_grid_item_whole(compose, px):
    edition = compose(grid("", "<br>" * 20, "<p style='break-inside:avoid' class=k>" + "z<br>" * 15 + "</p>"))
    assert [p.page for p in px(edition, ".k")] == [2]


def columns(css, *items):
    return f"<div id=m style='{css}'>" + "".join(f"<p class=i style='{item}'></p>" for item in items) + "</div>"


@pytest.mark.parametrize(
    ("css", "items", "outer", "rects"),
    [
        ("columns:2;column-gap:20px;width:220px", ["height:40px"] * 4, (0, 0, 220, 80),
         [(0, 0, 100, 40), (0, 40, 100, 40), (120, 0, 100, 40), (120, 40, 100, 40)]),
        ("columns:3;column-gap:0;height:50px;column-fill:auto;width:300px", ["height:40px"] * 2, (0, 0, 300, 50),
         [(0, 0, 100, 40), (0, 40, 100, 10), (100, 0, 100, 30)]),
        ("columns:3;column-gap:0;height:50px;column-fill:auto;width:300px", ["height:40px;break-inside:avoid"] * 2, (0, 0, 300, 50),
         [(0, 0, 100, 40), (100, 0, 100, 40)]),
        ("columns:120px;column-gap:50px", ["height:10px"] * 2, (0, 0, 400, 10), [(0, 0, 175, 10), (225, 0, 175, 10)]),
        ("columns:2;column-gap:0;width:300px", ["height:40px"], (0, 0, 300, 20), [(0, 0, 150, 20), (150, 0, 150, 20)]),
        ("columns:2;column-gap:0;width:300px", ["height:40px;break-inside:avoid", "column-span:all;margin:5px 0;height:10px", "height:20px", "height:20px"],
         (0, 0, 300, 80), [(0, 0, 150, 40), (0, 45, 300, 10), (0, 60, 150, 20), (150, 60, 150, 20)]),
        ("columns:2;column-gap:0;width:200px", ["height:10px", "height:10px;break-before:column", "height:10px"], (0, 0, 200, 20),
         [(0, 0, 100, 10), (100, 0, 100, 10), (100, 10, 100, 10)]),
        ("columns:2;column-gap:0;direction:rtl", ["height:10px"] * 2, (0, 0, 400, 10), [(200, 0, 200, 10), (0, 0, 200, 10)]),
    ],
)  # fmt: skip
def test_columns_are_evened_out(compose, px, css, items, outer, rects):
    edition = compose(columns(css, *items))
    assert px(edition, "#m")[0].rect == outer
    assert [p.rect for p in px(edition, ".i")] == rects


def test_columns_fill_a_page_before_they_are_evened_out_on_the_last(compose, px):
    edition = compose("<div id=m style='columns:2'>" + "<br>".join(f"l{n}" for n in range(80)) + "</div><p id=after>x")
    assert [(p.page, p.height) for p in px(edition, "#m")] == [(1, 600), (2, 200)]
    assert [(p.page, p.y) for p in px(edition, "#after")] == [(2, 200)]
    assert [int(n) for n in re.findall(r"l(\d+)", " ".join(p.text for p in edition.pages))] == list(range(80))


def test_columns_in_columns_are_as_tall_as_what_is_in_them(compose, px):
    inner = "<div id=i style='columns:2'><div>w0</div></div><div class=k>w1</div><div class=k>w2</div>"
    edition = compose(f"<div style='columns:2'>{inner}</div>")
    assert px(edition, "#i")[0].height == 20 and sorted(p.y for p in px(edition, ".k")) == [0, 20]
    flexed = compose(f"<div style='display:flex;flex-direction:column'><div style='columns:2'>{inner}</div></div>")
    assert flexed.pages[0].text.split() == ["w0", "w1", "w2"]


def test_columns_of_a_given_height_run_over_to_the_side(compose, px):
    edition = compose(columns("columns:2;column-gap:0;width:200px;height:10px", *["height:10px"] * 3))
    assert [p.rect for p in px(edition, ".i")] == [(0, 0, 100, 10), (100, 0, 100, 10), (200, 0, 100, 10)]


def test_columns_deep_in_columns_end(compose):
    html = "<div style='columns:2'>" * 12 + "word " * 100 + "</div>" * 12
    edition = compose(html)
    assert " ".join(p.text for p in edition.pages).count("word") == 100
    assert any(r.kind == "columns" for r in edition.remarks)


@pytest.mark.parametrize(
    "display", ["flex", "grid", "flex;flex-direction:column", "inline-block", "table", "flow-root", "inline-grid"]
)
def test_forty_levels_do_not_explode(compose, display):
    edition = compose(f"<div style='display:{display}'>" * 40 + "core" + "</div>" * 40)
    assert edition.pages[0].text == "core"


KINDS = st.sampled_from(
    [
        "flex",
        "grid",
        "flex;flex-wrap:wrap",
        "flex;flex-direction:column",
        "grid;grid-template-columns:1fr 1fr",
        "block;columns:2",
        "block;float:left",
        "table",
        "block",
    ]
)


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(KINDS, st.integers(1, 60)), min_size=1, max_size=4), st.booleans())
def test_no_word_is_lost_or_doubled_over_pages(compose, parts, nested):
    count, html = 0, ""
    for kind, words in parts:
        items = "".join(f"<div>w{count + n} {'<br>' * (n % 3)}</div>" for n in range(words))
        count += words
        html = f"<div style='display:{kind}'>{html if nested else ''}{items}</div>" + ("" if nested else html)
    text = " ".join(page.text for page in compose(html).pages)
    assert sorted(int(n) for n in re.findall(r"w(\d+)", text)) == list(range(count))
