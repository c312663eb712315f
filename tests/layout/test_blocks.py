"""Blocks: the box model, margins that collapse, and where pages break."""

from __future__ import annotations

from time import process_time

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq


def test_padding_border_and_margin_stand_around_the_content(compose, px):
    edition = compose('<div id=a style="margin:10px 20px;border:2px solid;padding:5px 6px"><p id=b>x</p></div>')
    assert px(edition, "#a")[0].rect == (20, 10, 360, 34)
    assert px(edition, "#b")[0].rect == (28, 17, 344, 20)


def test_box_sizing_decides_what_width_means(compose, px):
    boxes = '<p class=a style="width:100px;padding:10px;{}">x</p>'
    edition = compose(boxes.format("") + boxes.format("box-sizing:border-box"))
    assert [p.width for p in px(edition, ".a")] == [120, 100]


@pytest.mark.parametrize(
    ("style", "left"), [("margin:0 auto", 150), ("margin-left:auto", 300), ("margin:0 auto 0 30px", 30)]
)
def test_auto_margins_take_what_is_left(compose, px, style, left):
    assert px(compose(f'<p id=a style="width:100px;{style}">x</p>'), "#a")[0].x == left


@pytest.mark.parametrize(
    ("html", "top"),
    [
        ('<p style="margin-bottom:30px">a</p><p id=x style="margin-top:20px">b</p>', 50),
        ('<p style="margin-bottom:30px">a</p><p id=x style="margin-top:-10px">b</p>', 40),
        ('<p>a</p><div style="margin-top:10px"><p id=x style="margin-top:25px">b</p></div>', 45),
        ('<p>a</p><div style="margin-top:10px;padding-top:1px"><p id=x style="margin-top:25px">b</p></div>', 56),
        ('<p>a</p><div style="margin:15px 0"></div><p id=x style="margin-top:10px">b</p>', 35),
        ('<div><p style="margin-bottom:12px">a</p></div><p id=x style="margin-top:5px">b</p>', 32),
        (
            '<div style="display:flow-root"><p style="margin-bottom:12px">a</p></div><p id=x style="margin-top:5px">b</p>',
            37,
        ),
        ('<div style="height:40px"><p style="margin-bottom:12px">a</p></div><p id=x>b</p>', 40),
    ],
)
def test_margins_collapse_as_css_2_2_8_3_1_says(compose, px, html, top):
    assert px(compose(html), "#x")[0].y == top


def test_percentages_calc_and_limits(compose, px):
    edition = compose(
        '<p style="width:50%">a</p><p style="width:calc(100% - 50px)">a</p><p style="width:min(90%, 10px + 20%)">a</p>'
        '<p style="max-width:80px">a</p><p style="width:10px;min-width:60px">a</p><p style="width:clamp(1px,9in,99px)">a'
    )
    assert [p.width for p in px(edition, "p")] == [200, 350, 90, 80, 60, 99]


def test_lines_break_over_pages_with_two_orphans_and_two_widows(compose, px):
    lines = "<br>".join(f"line {n}" for n in range(31))
    edition = compose(f"<p id=a>{lines}</p>")
    assert [p.height for p in px(edition, "#a")] == [600, 2 * 20]  # a box that goes on reaches to the end of its page
    edition = compose(f"<p id=a>{'<br>'.join('x' * 31)}</p><style>p {{ widows: 5 }}</style>")
    assert [p.height for p in px(edition, "#a")] == [600, 5 * 20]
    assert [edition.pages[0].text.count("x"), edition.pages[1].text.count("x")] == [26, 5]


def test_a_paragraph_that_would_leave_one_line_behind_moves_whole(compose, px):
    filler = '<p style="height:580px"></p>'
    edition = compose(f"{filler}<p id=a>one<br>two<br>three</p>")
    assert [(p.page, p.y) for p in px(edition, "#a")] == [(2, 0)]


def test_a_heading_goes_with_what_follows(compose, px):
    edition = compose('<p style="height:560px"></p><h2 style="font-size:16px">Head</h2><p id=a>one<br>two</p>')
    assert [p.page for p in px(edition, "h2")] == [2]
    assert [p.page for p in px(edition, "#a")] == [2]


def test_two_headings_in_nested_sections_go_along_too(compose, px):
    edition = compose(
        '<p style="height:550px"></p><h1 style="font-size:16px">A</h1>'
        "<section><h2 style='font-size:16px'>B</h2><p id=a>one<br>two</p></section>"
    )
    assert {p.page for p in px(edition, "h1, h2, #a")} == {2}
    assert edition.remarks == ()


def test_break_inside_avoid_is_kept_where_a_page_can_hold_the_box(compose, px):
    rows = "".join(f"<p>row {n}</p>" for n in range(5))
    edition = compose(f'<p style="height:540px"></p><div id=a style="break-inside:avoid">{rows}</div>')
    assert [(p.page, p.height) for p in px(edition, "#a")] == [(2, 100)]


def test_break_inside_avoid_is_given_up_with_a_remark_where_none_can(compose, px):
    rows = "".join(f"<p>row {n}</p>" for n in range(40))
    edition = compose(f'<div id=a style="break-inside:avoid">{rows}</div>')
    assert [p.page for p in px(edition, "#a")] == [1, 2]
    assert [r.kind for r in edition.remarks] == ["break"]


@pytest.mark.parametrize(
    ("style", "pages"), [("break-before:page", 2), ("page-break-before:always", 2), ("break-before:left", 2),
                         ("break-before:right", 3), ("break-before:recto", 3)]
)  # fmt: skip
def test_forced_breaks_and_the_side_that_they_ask_for(compose, px, style, pages):
    edition = compose(f'<p>a</p><div><p id=x style="margin-top:15px;{style}">b</p></div>')
    assert edition.page_count == pages
    assert [(p.page, p.y) for p in px(edition, "#x")] == [(pages, 15)]


def test_no_blank_page_where_a_forced_break_stands_first_or_last(compose):
    assert compose('<p style="break-before:page">a</p><p style="break-after:page">b</p>').page_count == 1


def test_margins_at_an_unforced_break_go(compose, px):
    edition = compose('<p style="height:590px;margin-bottom:40px">a</p><p id=x style="margin-top:40px">b</p>')
    assert [(p.page, p.y) for p in px(edition, "#x")] == [(2, 0)]


def test_padding_and_border_are_not_repeated_where_a_box_is_broken(compose, px):
    rows = "".join(f"<p>{n}</p>" for n in range(40))
    edition = compose(f'<div id=a style="border:10px solid;padding:5px">{rows}</div>')
    first, second = px(edition, "#a")
    assert (first.y, second.y) == (0, 0)
    assert [p.y for p in px(edition, "p") if p.page == 2][0] == 0
    assert px(edition, "p")[0].y == 15


def test_lists_have_markers_and_numbers(compose):
    edition = compose("<ol start=3><li>a<li value=9>b<li>c</ol><ul><li>d</ul><ol type=i><li>e<li>f</ol>")
    assert edition.pages[0].text.split() == "3. a 9. b 10. c • d i. e ii. f".split()


def test_counters_and_quotes_in_generated_content(compose):
    edition = compose(
        "<style>body{counter-reset:h}h2{counter-increment:h}h2::before{content:counter(h, upper-roman) '. '}"
        "p::after{content:' (' attr(class) ')'}</style><h2>A</h2><p class=note>x</p><h2>B</h2><p><q>y <q>z</q></q></p>"
    )
    text = edition.pages[0].text
    assert text.splitlines() == ["I. A", "x (note)", "II. B", "“y ‘z’” ()"]


@pytest.mark.parametrize(
    "html",
    [
        "", "<html></html>", "just text", "<p>", "<table></table>", "<div style='width:-5px;padding:-3px'>x</div>",
        "<style>@page{margin:2000px}</style><p>x</p>", "<p style='height:9000px'>tall</p>",
        "<div style='min-width:300px;max-width:100px;width:50%'>x</div>", "<div style='width:3000mm'>wide</div>",
        "<table><tr><td style='height:5000px'>x</table>", "<div style='font-size:0'>x</div>",
        "<p style='font-size:3000px'>big</p>", "<ul><li></ul>", "<p style='line-height:0'>a<br>b</p>",
        "<p style='orphans:50;widows:50'>" + "x<br>" * 80, "<!-- only a comment -->", "\x00<p>nul",
    ],
)  # fmt: skip
def test_odd_input_still_gives_a_page(compose, html, check_pdf):
    edition = compose(html)
    assert edition.page_count >= 1
    check_pdf(edition.to_bytes())


def test_deep_nesting_is_laid_out_and_bounded(compose, press):
    for depth in (40, 200):
        assert compose("<div style='padding:1px'>" * depth + "x").pages[0].text == "x"
    narrow = fq.Press(policy=fq.Policy(nesting=50))
    with pytest.raises(fq.LimitError, match="nested more than 50 deep"):
        narrow.compose(fq.Manuscript.from_html("<div>" * 100))


def test_endless_documents_stop_at_the_limit_of_pages():
    press = fq.Press(policy=fq.Policy(pages=3))
    with pytest.raises(fq.LimitError, match="more than 3 pages"):
        press.compose(fq.Manuscript.from_html("<p style='break-after:page'>x</p>" * 9))


BLOCKS = st.recursive(
    st.lists(st.sampled_from(["barge", "lock", "toll", "river"]), min_size=1, max_size=60).map(
        lambda words: f"<p>{' '.join(words)}</p>"
    ),
    lambda inner: st.tuples(
        st.sampled_from(
            [
                "margin:9px",
                "padding:7px",
                "break-inside:avoid",
                "break-after:avoid",
                "border:1px solid",
                "break-before:page",
                "width:70px",
                "display:flex",
                "font-size:30px",
            ]
        ),  # fmt: skip
        st.lists(inner, min_size=1, max_size=4),
    ).map(lambda made: f'<div style="{made[0]}">{"".join(made[1])}</div>'),
    max_leaves=25,
)


@settings(max_examples=60, deadline=None)
@given(st.lists(BLOCKS, min_size=1, max_size=5))
def test_no_word_is_lost_or_doubled_whatever_the_blocks(blocks):
    html = "<style>@page{size:200px 150px;margin:5px}</style>" + "".join(blocks)
    manuscript = fq.Manuscript.from_html(html)
    expected = [word for p in manuscript.root.xpath("//p") for word in p.text.split()]
    edition = fq.compose(manuscript)
    found = " ".join(page.text for page in edition.pages).split()
    if "flex" in html:
        assert sorted(found) == sorted(expected)
    else:
        assert found == expected


def test_shares_of_heights_in_one_another_are_asked_once_each():
    """Whether margins within adjoin hangs on all the boxes around: it took 7 s."""
    inside = "<p>a</p>"
    for _ in range(320):
        inside = f"<div style='height:50%'>{inside}</div>"
    begun = process_time()
    fq.compose(fq.Manuscript.from_html(inside))
    assert process_time() - begun < 4
