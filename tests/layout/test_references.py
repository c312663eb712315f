"""Documents whose references name pages: they are laid out twice, and the second time only in part."""

import re

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.layout.pages.kept_pages import KeptPages
from fleetquill.layout.pages.pages import PageFragment

SHEET = """<style>
@page { size: 300px 240px; margin: 20px; @top-left { content: string(t) } @bottom-left { content: counter(page) } }
@page wide { size: 400px 240px }
body { font-size: 14px; margin: 0 } h2 { string-set: t content(); font-size: 16px }
a::after { content: target-counter(attr(href), page) } .pages::after { content: counter(pages) }
</style>"""
REFERENCES = "<style>a::after{content:target-counter(attr(href),page)}</style>"

WORDS = st.integers(1, 90).map(lambda count: " ".join(f"reed{n}" for n in range(count)))
PIECES = st.one_of(
    WORDS.map(lambda text: f"<p style='text-align:justify'>{text}"),
    WORDS.map(lambda text: f"<div style='columns:2'>{text}</div>"),
    WORDS.map(lambda text: f"<div style='display:flex'><div style='position:relative;left:3px'>{text}</div></div>"),
    st.integers(1, 14).map(lambda rows: "<table>" + "<tr><td>barge<td>lock</tr>" * rows + "</table>"),
    st.integers(1, 14).map(lambda rows: "<table>" + "<tr><td>to<td><a href=#s3></a></tr>" * rows + "</table>"),
    st.just("<p style='page:wide'>wide<p class=pages>of "),
    st.just("<p>see <a href=#s1></a>, enormouslylongwordthatnolineofthispagecanhold"),
)
CHAPTERS = st.lists(st.tuples(st.sampled_from(["auto", "page", "right"]), st.lists(PIECES, max_size=3)), min_size=4)


@settings(max_examples=16, deadline=None)
@given(CHAPTERS)
def test_pages_that_stand_again_are_those_that_a_new_layout_would_make(chapters):
    body = "".join(
        f"<h2 id=s{number} style='break-before:{kind}'>Reach {number}</h2>{''.join(pieces)}"
        for number, (kind, pieces) in enumerate(chapters)
    )
    contents = "".join(f"<li><a href=#s{number}>reach</a>" for number in range(len(chapters)))
    press = fq.Press()

    def made() -> tuple[bytes, object]:
        edition = press.compose(fq.Manuscript.from_html(f"{SHEET}<ul>{contents}</ul>{body}"))
        return edition.to_bytes(), edition.remarks

    quick = made()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(KeptPages, "again", lambda *_: None)
        assert made() == quick


def test_only_pages_with_references_are_laid_out_a_second_time(press, monkeypatch):
    made = []
    new = PageFragment.__init__
    monkeypatch.setattr(
        PageFragment, "__init__", lambda page, kind, *rest: (made.append(kind), new(page, kind, *rest))[1]
    )
    chapters = "".join(f"<h2 id=c{n} style='break-before:page'>C</h2><p>text" for n in range(5))
    press.compose(fq.Manuscript.from_html(REFERENCES + "<a href=#c4></a>" + chapters))
    assert [kind.number for kind in made] == [1, 2, 3, 4, 5, 6, 1]


def test_a_blank_page_shows_the_string_of_the_page_before(compose, read_pdf):
    html = SHEET + "<h2>Heron</h2><p>x<h2 style='break-before:right'>Teal</h2>"
    assert [page.split("\r\n")[0] for page in read_pdf(compose(html, plain=False).to_bytes())] == [
        "Heron",
        "Heron",
        "Teal",
    ]


@pytest.mark.parametrize(
    "around",
    ["<table><td>x<td>{}</table>", "<div style='float:left'>{}</div>", "<div style='display:inline-block'>{}</div>",
     "<div style='display:grid;grid-template-columns:auto 1fr'><div>{}</div><p>x</div>"],
)  # fmt: skip
def test_boxes_around_references_are_as_wide_as_what_they_say_in_the_end(compose, px, around):
    chapters = "".join(f"<h2 id=c{n} style='break-before:page'>C</h2>" for n in range(12))
    edition = compose(REFERENCES + around.format("<a href=#c11></a>") + chapters)
    assert re.search("^13$", edition.pages[0].text, re.M) and not edition.remarks


def test_remarks_of_what_is_measured_once_outlive_the_second_layout(compose, tmp_path):
    from PIL import Image

    Image.new("RGB", (60, 60)).save(tmp_path / "coarse.png")
    faults = "<p>\U00012345<img src=coarse.png style='width:300px'><table><td style='min-width:900px'>wide</table>"
    once = compose(faults).remarks
    twice = compose(REFERENCES + "<p><a href=#x></a>" + faults + "<p id=x>here").remarks
    assert {remark.kind for remark in once} == {"picture", "glyph", "overflow"}
    assert sorted(remark.kind for remark in twice) == sorted(remark.kind for remark in once)


def test_a_missing_glyph_in_columns_is_a_remark(compose):
    assert [r.kind for r in compose("<div style='columns:2'>a \U00012345</div>").remarks] == ["glyph"]


def test_relative_items_of_a_page_with_references_stand_where_they_do_without(compose, px):
    item = "<div style='display:flex'><div id=i style='position:relative;left:7px'>x</div></div>"
    assert px(compose(item), "#i")[0].x == 7
    assert px(compose(REFERENCES + item + "<a href=#c></a><p id=c>c"), "#i")[0].x == 7
