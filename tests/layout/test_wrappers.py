"""What web pages wrap their content in, over several pages: nothing is lost in it and no page stays empty."""

from __future__ import annotations

import re
from time import process_time

import pytest

import fleetquill as fq

STYLE = (
    "<!DOCTYPE html><style>@page{size:300px 200px;margin:20px} body{margin:0} p{margin:0;line-height:20px} a{color:red}"
    ".dot::after{content:'.';display:block;height:0;clear:both;visibility:hidden}"
    ".none::after{content:'';display:block;clear:both}</style>"
)


def lines(count: int) -> str:
    return "".join(f"<p>line {number}</p>" for number in range(count))


def pages(html: str) -> tuple[list[list[int]], list[str]]:
    """The numbers of the lines on each page, and the remarks."""
    edition = fq.compose(fq.Manuscript.from_html(STYLE + html))
    return [[int(n) for n in re.findall(r"line (\d+)", page.text)] for page in edition.pages], [
        remark.message for remark in edition.remarks
    ]


@pytest.mark.parametrize(
    "wrapper",
    [
        "<div style='position:absolute;width:100%'>{}</div>",
        "<div style='position:absolute;width:100%;height:100%'>{}</div>",
        "<div style='position:absolute;height:60px'>{}</div>",
        "<div style='position:absolute;top:0;bottom:0'>{}</div>",
        "<div style='position:absolute;inset:0'>{}</div>",
        "<div style='position:absolute;inset:0'><div style='height:100%'>{}</div></div>",
        "<div style='position:absolute;height:100%'><div style='overflow:hidden'>{}</div></div>",
        "<html style='height:100%;overflow:hidden'><body style='height:100%'>{}",
        "<html style='height:100%;overflow-y:scroll'><body>{}",
        "<body style='height:100px;overflow:auto'>{}",
        "<div style='height:60px'>{}</div>",
        "<div style='display:flex;height:60px'><div>{}</div></div>",
        "<div class=dot><div style='float:left'>{}</div></div>",
        "<div class=none><div style='float:left'>{}</div></div>",
        "<div><div><div style='float:left'>{}</div></div></div>",
        "<span><div>{}</div></span>",
    ],
)
def test_no_line_of_a_long_text_is_lost_or_moved(wrapper):
    found, remarks = pages(wrapper.format(lines(30)))
    assert found == [list(range(start, min(start + 8, 30))) for start in range(0, 30, 8)]
    assert remarks == []


@pytest.mark.parametrize("clearing", ["dot", "none"])
@pytest.mark.parametrize("after", ["", "<p>line 99</p>"])
def test_floats_that_are_cleared_begin_beside_what_stands_above_them(clearing, after):
    columns = (
        f"<div style='float:left;width:60%'>{lines(20)}</div><div style='float:right;width:30%'><p>line 50</p></div>"
    )
    found, remarks = pages(f"<p>head</p><div class={clearing}>{columns}</div>{after}")
    assert found == [[*range(7), 50], [*range(7, 15)], [*range(15, 20), *([99] if after else [])]]
    assert remarks == []


def test_text_that_a_box_in_a_positioned_one_cuts_off_makes_no_page():
    clipped = "<div style='position:absolute;height:100px'><div style='height:60px;overflow:hidden'>{}</div></div>"
    found, remarks = pages(clipped.format(lines(30)))
    assert len(found) == 1 and remarks == ["What stands in this box is taller than it: text is cut off."]


def test_a_box_with_the_overflow_of_its_own_cuts_off_and_says_so():
    found, remarks = pages(f"<html style='overflow:hidden'><body style='height:100px;overflow:hidden'>{lines(30)}")
    assert len(found) == 1 and remarks == ["What stands in this box is taller than it: text is cut off."]


def test_text_that_is_hidden_lies_over_nothing():
    _, remarks = pages("<div style='height:0;visibility:hidden'><p>x</p></div><p>line 1</p>")
    assert remarks == []
    _, remarks = pages("<div style='height:0'><p>x</p></div><p>line 1</p>")
    assert len(remarks) == 1 and "lies over what follows" in remarks[0]


@pytest.mark.parametrize(
    "inner",
    [
        "<div style='clear:both'></div>",
        "<div style='float:left'>{}</div>",
        "<a style='float:right'>x</a>",
        "<br clear=all>",
    ],
    ids=["what clears", "a float that goes on", "a float in a line", "a break"],
)
@pytest.mark.parametrize("margin", ["0", "3px 0 7px"])
def test_wrappers_in_one_another_are_not_laid_out_twice_each(inner, margin):
    def seconds(depth: int) -> float:
        wrapped = f"<div style='margin:{margin}'>" * depth + inner.format(lines(30)) + "</div>" * depth
        manuscript = fq.Manuscript.from_html(
            f"{STYLE}<div style='float:left;height:50px;width:9px'></div>{wrapped}<p>x"
        )
        begun = process_time()
        fq.compose(manuscript)
        return process_time() - begun

    seconds(5)
    assert seconds(120) < 0.5 + 60 * seconds(20)
