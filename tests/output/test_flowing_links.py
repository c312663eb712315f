"""Links in files that flow: around blocks, pictures and tables, and in the cells of plain text."""

from __future__ import annotations

import re
import zipfile

import pytest

import fleetquill as fq

PIXEL = "data:image/gif;base64,R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7"
LINK = "<a href='https://a.example/x'>{}</a>"
BLOCKS = {
    "a block": "<div>the shop</div>",
    "a block in emphasis": "<b><div>the shop</div></b>",
    "a heading and a text": "<h2>the shop</h2><p>the shop</p>",
    "a picture that is a block": f"<img style='display:block' alt='the shop' src='{PIXEL}'>",
    "a table": "<table><tr><td>the shop</table>",
    "a list": "<ul><li>the shop</ul>",
    "words": "the shop",
}


def written(html, path):
    fq.Press().write(fq.Manuscript.from_html(html), path)
    return path


@pytest.mark.parametrize("content", BLOCKS.values(), ids=BLOCKS)
@pytest.mark.parametrize("style", ["", " style='display:block'"])
def test_what_stands_in_a_link_leads_there_in_every_kind(tmp_path, content, style):
    html = LINK.replace("<a", f"<a{style}").format(content) + "<p>and no more</p>"
    markdown = written(html, tmp_path / "x.md").read_text()
    assert markdown.count("](https://a.example/x)") == content.count("the shop") and "[and no more" not in markdown
    assert written(html, tmp_path / "x.txt").read_text().count("https://a.example/x") >= 1
    with zipfile.ZipFile(written(html, tmp_path / "x.docx")) as docx:
        linked = re.findall(r"<w:hyperlink.*?</w:hyperlink>", docx.read("word/document.xml").decode(), re.DOTALL)
        assert "https://a.example/x" in docx.read("word/_rels/document.xml.rels").decode()
    assert len(linked) == content.count("the shop") and not any("no more" in link for link in linked)


def test_links_in_a_table_of_plain_text_are_numbered_and_stand_below_it(tmp_path):
    rows = "".join(
        f"<tr><td><a href='https://reedwater.example/{barge}'>{barge}</a><td>{n}"
        for n, barge in enumerate(("heron", "teal", "heron"))
    )
    html = f"<p>{LINK.format('Before')}<table><tr><th>Barge<th>n{rows}</table><p>{LINK.format('After')}"
    assert written(html, tmp_path / "x.txt").read_text().splitlines() == [
        "Before <https://a.example/x>",
        "",
        "  Barge    n",
        "heron <1>  0",
        "teal <2>   1",
        "heron <1>  2",
        "",
        "<1> https://reedwater.example/heron",
        "<2> https://reedwater.example/teal",
        "",
        "After <https://a.example/x>",
    ]


def test_links_of_inner_tables_stand_below_the_outer_one(tmp_path):
    inner = f"<table><tr><td>{LINK.format('inner')}</table>"
    html = f"<table><tr><td>{inner}<td>{LINK.format('outer').replace('/x', '/y')}</table>"
    assert written(html, tmp_path / "x.txt").read_text().splitlines()[-2:] == [
        "<1> https://a.example/x",
        "<2> https://a.example/y",
    ]


def test_a_cell_that_names_its_place_itself_has_no_number(tmp_path):
    html = "<table><tr><td><a href='https://a.example/x'>a.example/x</a><td><a href='#p'>below</a></table><p id=p>x"
    assert written(html, tmp_path / "x.txt").read_text() == "a.example/x  below\n\nx\n"
