"""What building the boxes of a document finds out: a value, and no more work for the pages than it asks for."""

from __future__ import annotations

import pytest

import fleetquill as fq
from fleetquill.job import Job
from fleetquill.layout.boxes.boxes import Box
from fleetquill.layout.boxes.build import build
from fleetquill.layout.contract.findings import Findings

FLAGS = (
    "layered", "positioned", "named_pages", "page_marks", "footnotes", "moving_text", "wants_targets", "builds_with_targets",
)  # fmt: skip


@pytest.fixture
def job(press):
    def run(html):
        document = fq.Manuscript.from_html(html).document
        return Job(document, press._stock, press._reader(), press.policy, ())

    return run


@pytest.mark.parametrize(
    ("html", "flags"),
    [
        ("<p>x", ""),
        ("<p style='float:left'>x", "layered"),
        ("<p style='opacity:.5'>x", "layered"),
        ("<p style='position:relative'>x", "layered positioned"),
        ("<p style='page:wide'>x", "named_pages"),
        ("<p style='string-set:a content()'>x", "page_marks"),
        ("<p style='counter-reset:page 3'>x", "page_marks"),
        ("<p style='position:running(a)'>x", "layered positioned page_marks"),
        ("<p>x<span style='float:footnote'>y</span>", "layered footnotes"),
        ("<style>p::after{content:counter(page)}</style><p>x", "moving_text"),
        ("<style>p::after{content:counter(pages)}</style><p>x", "moving_text wants_targets"),
        ("<style>a::after{content:target-counter(attr(href),page)}</style><p id=a>x<a href=#a>y</a>", "moving_text wants_targets"),
        ("<style>p{string-set:s target-text(url(#a))}</style><p id=a>x", "page_marks wants_targets builds_with_targets"),
        ("<style>p::before{content:'a';position:absolute}</style><p>x", "layered positioned"),
        ("<p style='display:none;page:wide;position:fixed'>x", ""),
    ],
)  # fmt: skip
def test_what_is_found_out(job, html, flags):
    found = job(html).context.found
    assert {name for name in FLAGS if getattr(found, name)} == set(flags.split())


def test_fixed_boxes_targets_and_the_background_of_pages_are_found(job):
    found = job(
        "<body style='background:red'><p id=a style='counter-reset:n 4'>one two<p id=a>again<p style='position:fixed'>x"
    ).context.found
    assert len(found.fixed) == 1 and isinstance(found.fixed[0], Box)
    assert found.targets.keys() == {"a"} and found.targets["a"].counters["n"] == [4]  # the first of that name
    assert found.targets["a"].texts == {"content": "one two", "first-letter": "o", "before": "", "after": ""}
    assert tuple(found.background.style.background_color) == (1, 0, 0, 1)
    assert Findings().background is None and Findings().fixed == []


def test_building_twice_finds_the_same_and_leaves_the_context_what_it_knew(job):
    made = job("<style>h1{string-set:s target-text(url(#a))}</style><h1 id=a>x</h1><p style='position:fixed'>y")
    context = made.context
    found, known = context.found, (dict(context.known.page_of), context.known.pages)
    first, again = (build(made.document.root, made.cascade, context, 100) for _ in range(2))
    assert context.found is found and (context.known.page_of, context.known.pages) == known
    assert first.found is not again.found
    assert {name for name in FLAGS if getattr(first.found, name) != getattr(again.found, name)} == set()
    assert len(first.found.fixed) == len(again.found.fixed) == 1


@pytest.mark.parametrize(
    ("css", "text"),
    [
        ("li{list-style:upper-roman inside}", "I. a II. b"),
        ("li{list-style-position:inside} li::marker{content:counter(list-item) ') '}", "1) a 2) b"),
        ("li{list-style:none} li::before{content:open-quote} li::after{content:close-quote}", "“a” “b”"),
        ("li{list-style:none} li::first-letter{text-transform:uppercase}", "A B"),
        ("ul{counter-reset:n 6} li{list-style:none;counter-increment:n 2} li::before{content:counters(n,'.') ' '}", "8 a 10 b"),
        ("li{list-style:none} li::before{content:attr(data-x) attr(gone,'-')}", "-a -b"),
        ("li::marker{content:none} li::after{content:leader('.') 'z';display:block}", None),
    ],
)  # fmt: skip
def test_markers_and_generated_content(compose, css, text):
    shown = " ".join(compose(f"<style>{css}</style><ul><li>a<li>b</ul>").pages[0].text.split())
    assert shown == text if text else shown.count("z") == 2
