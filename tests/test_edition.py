"""The edition: pages, placements, remarks, and the ways out."""

from __future__ import annotations

import io
import os
from concurrent.futures import ThreadPoolExecutor

import pytest

import fleetquill as fq
from fleetquill.process import making
from fleetquill.remarks import Remarks


def test_pages_know_their_number_size_and_text(compose):
    edition = compose("<p>one</p><p style='break-before:page'>two</p>")
    assert [(p.number, p.width, p.height, p.text) for p in edition.pages] == [
        (1, 300, 450, "one"),
        (2, 300, 450, "two"),
    ]
    assert repr(edition.pages[0]) == "<Page 1: 300 × 450 pt>"
    assert edition.page_count == len(edition.pages) == 2


def test_locate_gives_a_placement_for_each_fragment(compose):
    edition = compose(f"<p id=a>{'<br>'.join('x' * 40)}</p><p class=b>y</p>")
    first, second = edition.locate("#a")
    assert (first.page, second.page) == (1, 2)
    assert first.width == 300 and first.height + second.height == 40 * 15
    assert edition.locate(".none") == []
    assert [p.page for p in edition.locate("#a, .b")] == [1, 2, 2]


def test_locate_finds_inline_elements_line_by_line(compose):
    edition = compose("<p style='width:100px'><b>several words that wrap over lines</b></p>")
    parts = edition.locate("b")
    assert len(parts) > 1 and len({p.y for p in parts}) == len(parts)


@pytest.mark.parametrize("selector", ["", "p >", "::", "p:unknown"])
def test_a_selector_that_is_not_understood_is_an_error(compose, selector):
    with pytest.raises(fq.OptionError, match="is not understood"):
        compose("<p>x").locate(selector)


def test_saved_written_and_as_bytes_are_the_same(compose, tmp_path):
    edition = compose("<p>x")
    stream = io.BytesIO()
    edition.write_to(stream)
    path = edition.save(tmp_path / "a.pdf")
    assert path == tmp_path / "a.pdf"
    assert path.read_bytes() == stream.getvalue() == edition.to_bytes()


def test_an_output_that_is_no_ordinary_file_is_written_to_and_not_replaced(compose, tmp_path):
    edition = compose("<p>Heron")
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)
    with ThreadPoolExecutor() as pool:
        read = pool.submit(pipe.read_bytes)
        edition.save(pipe)
        assert read.result(timeout=20) == edition.to_bytes()
    assert pipe.is_fifo()


def test_a_link_goes_on_pointing_where_it_did(compose, tmp_path):
    kept = tmp_path / "kept"
    kept.mkdir()
    (kept / "first.pdf").write_bytes(b"old")
    (tmp_path / "latest.pdf").symlink_to(kept / "first.pdf")
    edition = compose("<p>Heron")
    edition.save(tmp_path / "latest.pdf")
    assert (tmp_path / "latest.pdf").is_symlink()
    assert (kept / "first.pdf").read_bytes() == edition.to_bytes()


def test_a_link_to_itself_gives_way_to_the_file(compose, tmp_path):
    (tmp_path / "loop.pdf").symlink_to(tmp_path / "loop.pdf")
    edition = compose("<p>Heron")
    edition.save(tmp_path / "loop.pdf")
    assert (tmp_path / "loop.pdf").read_bytes() == edition.to_bytes()


def test_saving_where_one_cannot_is_a_clear_error(compose, tmp_path):
    edition = compose("<p>x")
    with pytest.raises(fq.OutputError, match=r"The folder '.*none' does not exist"):
        edition.save(tmp_path / "none" / "a.pdf")
    with pytest.raises(fq.OutputError, match="The output is a folder"):
        edition.save(tmp_path)
    assert list(tmp_path.iterdir()) == []


def test_remarks_come_once_in_order_and_up_to_a_bound():
    remarks = Remarks()
    for number in range(300):
        remarks.add("glyph", f"number {number % 250}", source="a.html", line=number % 250)
    found = remarks.all()
    assert len(found) == 201 and found[0].message == "number 0"
    assert found[-1].message == "50 more remarks of this kind were left out."


@pytest.mark.parametrize(
    ("remark", "text"),
    [
        (fq.Remark("style", "Wrong.", "a.css", 3), "a.css, line 3: Wrong."),
        (fq.Remark("glyph", "Missing.", "a.html", 3, 2), "a.html, line 3, page 2: Missing."),
        (fq.Remark("page", "No room.", page=2), "page 2: No room."),
        (fq.Remark("x", "Plain."), "Plain."),
    ],
)
def test_a_remark_says_where(remark, text):
    assert str(remark) == text


def test_a_manuscript_knows_its_metadata():
    html = (
        "<html lang=de><title> Fracht\n brief </title><meta name=author content=A><meta name=Keywords content='b, c'>"
        "<meta name=description content=d><meta name=dcterms.created content=nonsense><p>x"
    )
    metadata = fq.Manuscript.from_html(html).metadata
    assert metadata == ("Fracht brief", "A", "d", "b, c", "de", None, "", "")


def test_further_style_sheets_come_last():
    manuscript = fq.Manuscript.from_html("<style>p{width:10px}</style><p>x", base=".")
    manuscript.add_style("p{width:40px;colour:red}", "extra.css")
    edition = fq.compose(manuscript)
    assert edition.locate("p")[0].width == 30
    assert [(r.source, r.line) for r in edition.remarks] == [("extra.css", 1)]


def test_a_press_keeps_what_it_learnt_and_the_result_does_not_change(press):
    source = "<style>@page{size:300px 200px}</style><h1>Heron</h1><p>carries slate"
    first = press.compose(fq.Manuscript.from_html(source)).to_bytes()
    for _ in range(3):
        assert press.compose(fq.Manuscript.from_html(source)).to_bytes() == first
    assert fq.Press(locale="en-IE").compose(fq.Manuscript.from_html(source)).to_bytes() == first


def test_the_process_is_as_it_was_once_a_document_is_made(press):
    import gc
    import sys

    press.compose(fq.Manuscript.from_html("<p>x"))
    before = gc.get_threshold(), sys.getrecursionlimit()
    press.compose(fq.Manuscript.from_html("<p>x")).to_bytes()
    with pytest.raises(fq.LimitError):
        fq.Press(policy=fq.Policy(nesting=3)).compose(fq.Manuscript.from_html("<div>" * 9))
    assert (gc.get_threshold(), sys.getrecursionlimit()) == before


def test_a_document_as_deep_as_the_policy_lets_it_be_can_be_asked(press):
    edition = press.compose(fq.Manuscript.from_html("<div>" * 490 + "<p id=deep>heron"))
    assert edition.pages[0].text == "heron" and len(edition.locate("#deep")) == 1
    assert edition.outline == () and edition.to_bytes()


def test_thresholds_of_the_collector_that_are_set_meanwhile_stay(press):
    import gc

    gc.collect()
    before = gc.get_threshold()
    try:
        with making():
            gc.set_threshold(900, 9, 9)
        assert gc.get_threshold() == (900, 9, 9)
    finally:
        gc.set_threshold(*before)


def test_a_missing_document_is_an_error_that_says_so(tmp_path):
    with pytest.raises(fq.SourceError, match=r"none\.html: The document does not exist"):
        fq.compose(tmp_path / "none.html")
    with pytest.raises(fq.SourceError, match="The folder has no pictures"):
        fq.compose(tmp_path)


def test_documents_that_share_texts_keep_remarks_of_their_own(press):
    html = "<p>\U00012345 heron</p><div style='width:20px'>Kittiwake</div>"
    for start in (1, 4):
        manuscript = fq.Manuscript.from_html("\n" * (start - 1) + html)
        remarks = press.compose(manuscript).remarks
        assert [(remark.kind, remark.line) for remark in remarks] == [("glyph", start), ("overflow", start)]


EVERY_MODEL = """<style>.n{float:footnote} a::after{content:target-counter(attr(href),page)}</style>
<table><tr><td>Whimbrel <td>42.0</table><p>at <b>Saltgate</b><span class=n>a note</span> <a href=#x>see</a>
<div style="display:flex"><p>one<p>two</div><div style="display:grid"><p>one<p>two</div>
<div style="columns:2"><p>one<p>two</div><div style="position:absolute"><p>there</div>
<div style="float:left">aside</div><svg width=10 height=10><rect width=5 height=5 /></svg>
<p id=x style="break-before:page;string-set:t content()">end"""


def test_a_document_that_nobody_holds_is_gone_at_once(press):
    import gc
    import weakref

    def made() -> weakref.ref[fq.Manuscript]:
        manuscript = fq.Manuscript.from_html(EVERY_MODEL)
        edition = press.compose(manuscript)
        assert edition.to_bytes() and edition.page_count == 2
        return weakref.ref(manuscript)

    made()
    gc.collect()
    gc.disable()
    try:
        assert made()() is None
        assert gc.collect() == 0
    finally:
        gc.enable()


def test_documents_leave_nothing_on_the_styles_of_the_press(press):
    import gc

    from fleetquill.layout.inline.inline_items import TextRun

    def runs() -> int:
        press.compose(fq.Manuscript.from_html("<body style='background:#eef3f1'>Dunlin at Stonecross")).to_bytes()
        return sum(isinstance(kept, TextRun) for kept in gc.get_objects())

    runs()
    before = runs()
    assert [runs() for _ in range(3)] == [before] * 3


def test_columns_of_a_page_are_told(compose):
    edition = compose(
        "<style>@page{size:400px 300px;margin:50px}body{margin:0}.c{columns:3;column-gap:30px;padding:10px 15px}</style>"
        "<div class=c><p style='margin:0;height:90px'>x</p></div>"
    )
    columns = edition.pages[0].columns
    wide = (300 - 30 - 60) / 3 * 0.75
    assert [column.x for column in columns] == pytest.approx([65 * 0.75 + n * (wide + 22.5) for n in range(3)])
    assert {(column.page, column.y, round(column.width, 2)) for column in columns} == {(1, 60 * 0.75, round(wide, 2))}
    assert compose("<p>x").pages[0].columns == ()
