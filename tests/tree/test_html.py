"""HTML as the standard reads it (HTML §13.2): the trees that browsers build, and the lines of their elements."""

from __future__ import annotations

import copy
import time
from concurrent.futures import ThreadPoolExecutor

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.tree import html as reading
from fleetquill.tree.html import parse_html


def shown(element) -> str:
    """A tree in one line: p[before b[x] after]."""
    inner = element.text or ""
    for child in element:
        inner += shown(child) + (child.tail or "")
    return f"{element.tag}[{inner}]"


TREES = {
    "a word break": ("<p>before <wbr> after</p>", "p[before wbr[] after]"),
    "a picture": ("<picture><source srcset=a><img src=b></picture>x", "picture[source[]img[]]x"),
    "void elements": ("<p>a<embed>b<track>c<param>d<keygen>e", "p[aembed[]btrack[]cparam[]dkeygen[]e]"),
    "the first newline of pre": ("<pre>\n\na</pre><textarea>\nb</textarea>", "pre[\na]textarea[b]"),
    "p is closed": ("<p>a<section>b</section><p>c<main>d</main><p>e<figure>f</figure><p>g<details>h</details>",
                    "p[a]section[b]p[c]main[d]p[e]figure[f]p[g]details[h]"),
    "stray text in a table": ("<div><table>stray<tr><td>1</table></div>", "div[straytable[tbody[tr[td[1]]]]]"),
    "a stray element in a table": ("<table><b>x</b><tr><td>1</table>", "b[x]table[tbody[tr[td[1]]]]"),
    "misnested": ("<p>1<b>2<i>3</b>4</i>5", "p[1b[2i[3]]i[4]5]"),
    "formatting goes on": ("<p>a<b>c<p>d</b>x", "p[ab[c]]p[b[d]x]"),
    "links do not nest": ("<a>1<a>2", "a[1]a[2]"),
    "after the end": ("<p>x</p></body></html>after", "p[x]after"),
    "ruby": ("<ruby>a<rt>b<rp>c<rt>d</ruby>", "ruby[art[b]rp[c]rt[d]]"),
    "names with colons": ("<p>a<o:p></o:p></p><p>b<v:p>c</v:p>", "p[ao:p[]]p[bv:p[c]]"),
    "names of other vocabularies": (
        "<html xmlns:o='urn:o' xmlns='http://www.w3.org/TR/REC-html40'><p>a<o:p></o:p></p><p>b<span><o:p>c</o:p></span>",
        "p[ao:p[]]p[bspan[o:p[c]]]",
    ),
    "items": ("<ul><li>a<li>b<ul><li>c</ul></ul>", "ul[li[a]li[bul[li[c]]]]"),
    "rows": ("<table><td>a<td>b<tr><td>c</table>", "table[tbody[tr[td[a]td[b]]tr[td[c]]]]"),
    "columns": ("<table><col><tr><th>a</table>", "table[colgroup[col[]]tbody[tr[th[a]]]]"),
    "image": ("<image src=x>", "img[]"),
    "comments": ("a<!-- <b>x</b> -->c<?pi?>d", "acd"),
    "names that XML does not have": ("<p @click=x :y=1>a<o:p>b</o:p>", "p[ao:p[b]]"),
    "entities": ("&nbsp;&lt;&amp;&eacute;&notit;", "\xa0<&é¬it;"),
    "raw text": ("<style>a < b & c</style><script>if (a<b) {}</script>x", "x"),
    "svg": ("<svg viewBox='0 0 1 1'><linearGradient xlink:href='#a'/></svg>x", "svg[lineargradient[]]x"),
    "nothing": ("", ""), "a comment alone": ("<!-- a -->", ""), "controls": ("a\x01b\x0bc\x00d", "a b c\ufffdd"),
    "template": ("a<template><p>x</p></template>b", "atemplate[]b"), "noscript": ("<p>a<noscript><b>x</b></noscript>", "p[anoscript[b[x]]]"),
    "select": ("<select><option>a<option>b<div>c</select>", "select[option[a]option[bdiv[c]]]"),
    "headings": ("<h1>a<h2>b", "h1[a]h2[b]"), "button": ("<button>a<button>b", "button[a]button[b]"),
    "quirks: a table in a paragraph": ("<p>a<table><tr><td>b</table>", "p[atable[tbody[tr[td[b]]]]]"),
    "standards: a table ends a paragraph": ("<!doctype html><p>a<table><tr><td>b</table>", "p[a]table[tbody[tr[td[b]]]]"),
}  # fmt: skip


@pytest.mark.parametrize(("html", "tree"), TREES.values(), ids=TREES)
def test_the_tree_is_that_of_the_standard(html, tree):
    assert shown(parse_html(html).find("body")) == f"body[{tree}]"


def test_the_quick_way_and_the_slow_way_build_the_same_tree(monkeypatch):
    quick = [
        [(shown(root), [e.sourceline for e in root.iter()]) for root in [parse_html(html)]]
        for html, _ in TREES.values()
    ]
    monkeypatch.setattr(reading, "_read_as_xml", lambda mended: None)
    slow = [
        [(shown(root), [e.sourceline for e in root.iter()]) for root in [parse_html(html)]]
        for html, _ in TREES.values()
    ]
    assert slow == quick


@settings(max_examples=150, deadline=None)
@given(st.lists(st.sampled_from([
    "<p>", "</p>", "<b>", "</b>", "<table>", "<tr>", "<td>", "</table>", "<a href=x>", "</a>", "word ", "&amp;", "\n", "<!--", "-->",
    "<svg>", "</svg>", "<select>", "<option>", "</select>", "<li>", "<ul>", "</ul>", "<br>", "<pre>\n", "</pre>", "<h1>", "<form>",
    "<template>", "</template>", "<style>", "</style>", "<x:y>", "<math>", "\x00", "<p @=1>", "<", "'\"", "<title>", "</title>",
]), max_size=30))  # fmt: skip
def test_any_markup_becomes_a_tree_with_lines_in_its_text(pieces):
    text = "".join(pieces)
    root, lines = reading.parse_with_lines(text)
    assert root.tag == "html" and root.find("head") is not None
    most = text.count("\n") + 1
    assert all(1 <= lines.of(e.tag, e.sourceline or 1) <= most for e in root.iter() if isinstance(e.tag, str))


def test_elements_know_the_lines_of_their_text_whatever_is_mended():
    text = "<!doctype html>\n\n<html>\n<body\n  class=a>\n<p>\n<b>x\n<p>y</b><img\nsrc=a\nalt=b><i>z</i>\n<table><tr>\n<td>1</table>\n<!-- <u> -->\n<u>q"
    document = fq.Manuscript.from_html(text).document
    found = {
        tag: [document.place_of(element).line for element in document.root.iter(tag)]
        for tag in ("p", "img", "i", "td", "u")
    }
    assert found == {"p": [6, 8], "img": [8], "i": [10], "td": [12], "u": [14]}
    assert fq.compose(fq.Manuscript.from_html("<p>a\n\n<p style='colr: red'>b<table>x</table>")).remarks[0].line == 3


def test_a_manuscript_is_copied_and_composed_by_several_threads_at_once():
    faults = "".join(f"<p style='colr{number}: red'>{number}\n" for number in range(200))
    manuscript = fq.Manuscript.from_html(faults)
    alone = fq.compose(fq.Manuscript.from_html(faults)).remarks
    assert [remark.line for remark in alone] == list(range(1, 201))
    with ThreadPoolExecutor(8) as pool:
        for edition in pool.map(fq.compose, [manuscript] * 16):
            assert edition.remarks == alone
    assert fq.compose(copy.deepcopy(manuscript)).remarks == alone


def test_forty_thousand_cells_are_read_within_half_a_second():
    text = "<table>" + ("<tr>" + "<td class=c>12 barley</td>" * 8 + "</tr>\n") * 5000 + "</table>"
    start = time.process_time()
    root = parse_html(text)
    assert time.process_time() - start < 0.5 and len(list(root.iter("td"))) == 40_000


# ---- encodings and bases ----


@pytest.mark.parametrize(
    ("head", "codec"),
    [
        ("", "utf-8"), ("", "utf-8-sig"), ("", "utf-16"), ("<meta charset=iso-8859-1>", "cp1252"), ("<META charset = 'windows-1251'>", "cp1251"),
        ("<meta http-equiv=Content-Type content='text/html; charset=shift_jis'>", "cp932"), ("<!-- <meta charset=cp1251> --><meta charset=utf-8>", "utf-8"),
        ("<meta charset=utf-16>", "utf-8"), ("<meta charset=nonsense>", "utf-8"), ("<meta charset=iso-8859-1>", "utf-8-sig"),
    ],
)  # fmt: skip
def test_a_file_says_its_encoding(tmp_path, head, codec):
    words = {"cp1251": "Барка", "cp932": "はしけ"}.get(codec, "Grüße €")
    (tmp_path / "a.html").write_bytes(f"{head}<p>{words}".encode(codec))
    assert fq.Manuscript.of(fq.Press().read(tmp_path / "a.html").document).root.find(".//p").text == words


def test_a_base_counts_for_files_and_strings(tmp_path):
    (tmp_path / "in" / "deep").mkdir(parents=True)
    (tmp_path / "in" / "deep" / "s.css").write_text("p { width: 50pt }", encoding="utf-8")
    for base in ("in/deep/", "in/deep/page.html", "./in/x/../deep/"):
        html = f"<base href='{base}'><link rel=stylesheet href=s.css><p>x"
        edition = fq.compose(fq.Manuscript.from_html(html, base=tmp_path))
        assert edition.locate("p")[0].width == 50 and not edition.remarks
    (tmp_path / "a.html").write_text("<base href='../'><p>x", encoding="utf-8")
    assert "lies outside the document's folder" in fq.compose(tmp_path / "a.html").remarks[0].message


@pytest.mark.parametrize(
    "html",
    [
        '<p>a<svg xmlns="http://www.w3.org/2000/svg" width="20" height="10"><rect width="9" height="9"/></svg>',
        '<html xmlns="http://www.w3.org/1999/xhtml"><head><title>t</title></head><body><p>a'
        '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="20" height="10">'
        '<use xlink:href="#r"/></svg></p></body></html>',
    ],
)
def test_names_of_namespaces_change_nothing(html):
    edition = fq.compose(fq.Manuscript.from_html(html))
    assert edition.pages[0].text == "a" and edition.locate("svg")[0].width == 15.0


@pytest.mark.parametrize("character", ["\x01", "\x00", "\ud800", "\udfff", "\ufffe", "\ufffd"])
def test_characters_that_no_text_can_hold_are_replaced_with_a_remark(character):
    edition = fq.compose(fq.Manuscript.from_html(f"<p>a\n{character}b<p>{character}"))
    (remark,) = edition.remarks
    assert (remark.kind, remark.line) == ("text", 2) and "were replaced" in remark.message
    assert edition.pages[0].text.startswith("a") and "b" in edition.pages[0].text
