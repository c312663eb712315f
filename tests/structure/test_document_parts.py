"""The parts of a document in its PDF: roles, order, what is said of them, what is no part."""

import io
import re

import pytest

import fleetquill as fq
from structured import outline, roles, said_of, tagged, words_by_mark

PIXEL = (
    "data:image/svg+xml,<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'>"
    "<rect width='9' height='9' fill='red'/></svg>"
)


@pytest.mark.parametrize(
    ("html", "expected"),
    [
        ("<p>one", ["P one"]),
        ("one", ["P one"]),
        ("<div>one</div><div><div>two</div></div>", ["P one", "P two"]),
        ("<div>one<p>two</p>three</div>", ["P one", "P two", "P three"]),
        ("<h1>a</h1><h2>b</h2><h6>c</h6>", ["H1 a", "H2 b", "H6 c"]),
        ("<section><h1>a</h1></section>", ["Sect", "  H1 a"]),
        ("<article><p>a</article>", ["Art", "  P a"]),
        ("<aside><p>a</aside>", ["Div", "  P a"]),
        ("<blockquote>a</blockquote>", ["BlockQuote", "  P a"]),
        ("<p>a <code>b</code> c", ["P a  c", "  Code b"]),
        ("<p><q>b</q>", ["P", "  Quote “b”"]),
        ("<ul><li>a<li>b</ul>", ["L", "  LI", "    Lbl •", "    LBody a", "  LI", "    Lbl •", "    LBody b"]),
        ("<ol><li>a</ol>", ["L", "  LI", "    Lbl 1.", "    LBody a"]),
        (
            "<ul><li>a<ul><li>b</ul></ul>",
            ["L", "  LI", "    Lbl •", "    LBody", "      P a", "      L", "        LI", "          Lbl ◦",
             "          LBody b"],
        ),
        ("<ul style='list-style:none'><li>a</ul>", ["L", "  LI", "    LBody a"]),
        ("<dl><dt>a<dd>b<dt>c<dd>d</dl>", ["L", "  LI", "    Lbl a", "    LBody b", "  LI", "    Lbl c", "    LBody d"]),
        (
            "<table><caption>c</caption><thead><tr><th>a</thead><tbody><tr><td>b</table>",
            ["Table", "  Caption c", "  THead", "    TR", "      TH a", "  TBody", "    TR", "      TD b"],
        ),
        ("<table><tr><td><p>a<td>b</table>", ["Table", "  TBody", "    TR", "      TD", "        P a", "      TD b"]),
        ("<table><tr><td>a<tr><tr><td>b<td></table>",
         ["Table", "  TBody", "    TR", "      TD a", "    TR", "    TR", "      TD b", "      TD"]),
        ("<table><tr><td>a<tr><td lang=fr>b<tr><td>c</table>",
         ["Table", "  TBody", "    TR", "      TD a", "    TR", "      TD b", "    TR", "      TD c"]),
        ("<table style='opacity:.5'>" + "<tr><td>a" * 12 + "</table>", ["Table", "  TBody"] + ["    TR", "      TD a"] * 12),
        ("<table><tr><td><p>a<p>b</table>", ["Table", "  TBody", "    TR", "      TD", "        P a", "        P b"]),
        ("<table role=presentation><tr><td>a<td>b</table>", ["P a", "P b"]),
        ("<div style='display:table'><div style='display:table-cell'>a</div></div>", ["P a"]),
        ("<table><tfoot><tr><td>f</tfoot><tbody><tr><td>b</table>",
         ["Table", "  TBody", "    TR", "      TD b", "  TFoot", "    TR", "      TD f"]),
        ("<p>a<a href='#x'>b</a><p id=x>c", ["P a", "  Link b", "P c"]),
        ("<p>a<a name=x>b</a>", ["P ab"]),
        (f"<p>a<img src=\"{PIXEL}\" alt=red>", ["P a", "  Figure"]),
        (f"<img src=\"{PIXEL}\" alt=''>", []),
        (f"<figure><img src=\"{PIXEL}\" alt=red><figcaption>c</figcaption></figure>",
         ["Div", "  P", "    Figure", "  Caption c"]),
        ("<div role=heading aria-level=3>a</div>", ["H3 a"]),
        ("<div role=list><div role=listitem>a</div></div>", ["L", "  LI", "    LBody a"]),
        ("<p>a<span aria-hidden=true>b</span>", ["P a"]),
        ("<p hidden>a</p><p>b", ["P b"]),
        ("<hr><p>a", ["P a"]),
        ("<p>a <span lang=fr>b</span>", ["P a", "  Span b"]),
        ("<p lang=fr>b", ["P b"]),
        ("<p>a <abbr title='Value added tax'>VAT</abbr>", ["P a", "  Span VAT"]),
        ("<p style='display:flex'><span style='order:2'>a</span><span>b</span>", ["P", "  Span a", "  Span b"]),
        ("<div style='display:flex'><p style='order:2'>a</p><p>b</p></div>", ["P a", "P b"]),
        ("<div style='position:relative;z-index:1'><p>a</div><p>b", ["P a", "P b"]),
        ("<p style='opacity:.5'>a<p>b", ["P a", "P b"]),
        ("<p style='position:absolute'>a</p><p>b", ["P a", "P b"]),
        ("<li>stray", ["P stray"]),
    ],
)  # fmt: skip
def test_parts_have_roles_and_order(html, expected):
    subject = tagged(f"<html lang=en><title>t</title><body>{html}")
    assert outline(subject) == ["Document", *(f"  {line}" for line in expected)]


def test_notes_stand_where_they_are_called():
    subject = tagged("<p>one<span style='float:footnote'>said below</span> two</p><p>three")
    assert [" ".join(line.split()) for line in outline(subject)] == [
        "Document", "P one two", "Reference 1", "Note 1 said below", "P three"
    ]  # fmt: skip
    assert said_of(subject, "Note", "ID") == ["note-1"]


def test_contents_lists_are_tables_of_contents():
    subject = tagged("<fq-contents></fq-contents><h1>One</h1><h1>Two</h1>")
    assert outline(subject)[1:] == [
        "  TOC", "    TOCI", "      Reference", "        Link One 1", "    TOCI", "      Reference", "        Link Two 1",
        "  H1 One", "  H1 Two",
    ]  # fmt: skip


def test_a_part_on_three_pages_is_one():
    subject = tagged("<style>@page { size: 200px 100px; margin: 0 }</style><p>" + "word " * 150)
    assert len(subject.pages) > 2
    assert roles(subject) == ["Document", "P"]
    text = outline(subject)[1]
    assert text.count("word") == 150
    assert "wordword" not in text  # the space at the end of each line is there


def test_a_head_that_is_repeated_is_one():
    rows = "".join(f"<tr><td>{n}" for n in range(30))
    html = f"<style>@page {{ size: 200px 200px }}</style><table><thead><tr><th>n</thead><tfoot><tr><td>f</tfoot>{rows}"
    subject = tagged(html + "</table>")
    assert len(subject.pages) > 3
    assert roles(subject).count("TH") == 1
    assert roles(subject).count("Table") == roles(subject).count("TFoot") == 1
    assert roles(subject).count("TD") == 31


def test_margins_leaders_grounds_and_what_is_fixed_are_no_parts():
    subject = tagged(
        "<style>@page { @bottom-center { content: 'foot ' counter(page) } } .l::after { content: leader('.') 'end' }"
        ".f { position: fixed; top: 0 } p { background: #eee }</style>"
        "<div class=f>fixed</div><p class=l>a<p style='break-before: page'>b"
    )
    words = "".join(words_by_mark(subject).values())
    assert "foot" not in words
    assert ". ." not in words
    assert words.count("fixed") == 1
    kinds = {
        str(operands[1].get("Subtype", operands[1]["Type"]))
        for content in subject.contents
        for name, operands in content.operators
        if name == "BDC" and operands[0] == "Artifact"
    }
    assert kinds == {"Footer", "Layout"}


@pytest.mark.parametrize(
    ("html", "role", "key", "said"),
    [
        (f"<img src=\"{PIXEL}\" alt='a red square'>", "Figure", "Alt", "a red square"),
        (f"<img src=\"{PIXEL}\">", "Figure", "Alt", ""),
        ("<svg width=9 height=9 aria-label='a line'><path d='M0 0L9 9'/></svg>", "Figure", "Alt", "a line"),
        ("<svg width=9 height=9><title>a line</title><path d='M0 0L9 9' stroke=red /></svg>", "Figure", "Alt", "a line"),
        ("<fq-code kind=qr value=F-2041></fq-code>", "Figure", "Alt", "F-2041"),
        ("<p lang=fr>b", "P", "Lang", "fr"),
        ("<p><abbr title='Value added tax'>VAT</abbr>", "Span", "E", "Value added tax"),
        ("<p><a href='https://a.example' aria-label='The shop'>b</a>", "Link", "Alt", "The shop"),
    ],
)  # fmt: skip
def test_what_is_said_of_a_part(html, role, key, said):
    assert said_of(tagged(f"<html lang=en><body>{html}"), role, key) == [said]


@pytest.mark.parametrize(
    ("html", "role", "owner", "said"),
    [
        ("<table><thead><tr><th>a</thead><tr><td>b</table>", "TH", "Table", {"Scope": "Column"}),
        ("<table><tr><th>a<td>b</table>", "TH", "Table", {"Scope": "Row"}),
        ("<table><tr><th scope=col>a<td>b</table>", "TH", "Table", {"Scope": "Column"}),
        ("<table><tr><td colspan=2 rowspan=2>b<td>c<tr><td>d</table>", "TD", "Table", {"ColSpan": 2, "RowSpan": 2}),
        ("<table><tr><th id=h>a<td headers=h>b</table>", "TD", "Table", {"Headers": [b"h"]}),
        ("<ol type=I><li>a</ol>", "L", "List", {"ListNumbering": "UpperRoman"}),
        ("<ul><li>a</ul>", "L", "List", {"ListNumbering": "Disc"}),
        ("<input type=checkbox checked name=ok>", "Form", "PrintField", {"Role": "cb", "Checked": "on"}),
        ("<input value=x name=ok>", "Form", "PrintField", {"Role": "tv"}),
    ],
)
def test_attributes(html, role, owner, said):
    subject = tagged(f"<html lang=en><body>{html}")
    element = next(element for element in subject.elements if element.role == role)
    found = subject.attributes(element, owner)
    assert said.items() <= found.items()


def test_a_picture_says_where_it_stands():
    subject = tagged(
        f"<style>@page {{ size: 400px 400px; margin: 0 }} body {{ margin: 0 }} img {{ display: block }}</style>"
        f"<img src=\"{PIXEL}\" alt=x style='width: 100px; height: 40px; margin: 20px'>"
    )
    figure = next(element for element in subject.elements if element.role == "Figure")
    assert subject.attributes(figure, "Layout")["BBox"] == [15, 255, 90, 285]


def test_links_are_parts_and_say_what_they_are():
    subject = tagged("<p>See <a href='https://a.example/x'>the shop</a> and <a href='#p'>below</a>.<p id=p>x")
    said = [subject.reader.text(entries["Contents"]) for _, entries, _ in subject.annotations]
    assert said == ["the shop", "below"]
    held = [kid["Obj"] for e in subject.elements if e.role == "Link" for kid in e.kids if isinstance(kid, dict)]
    assert held == [ref for _, _, ref in subject.annotations]
    assert all(page.entries["Tabs"] == "S" for page in subject.pages)


@pytest.mark.parametrize("within", ["<div>the shop</div>", f'<img style="display:block" src="{PIXEL}" alt="the shop">'])
def test_links_around_blocks_hold_them_and_their_rectangles(within):
    subject = tagged(f"<p>See</p><a href='https://a.example/x'>{within}</a>")
    assert [subject.reader.text(entries["Contents"]) for _, entries, _ in subject.annotations] == ["the shop"]
    (link,) = [element for element in subject.elements if element.role == "Link"]
    assert [kid["Obj"] for kid in link.kids if isinstance(kid, dict)] == [ref for _, _, ref in subject.annotations]


def test_rows_of_a_ledger_are_rows_of_a_table():
    manuscript = fq.Manuscript(title="t", language="en")
    rows = [{"n": n, "what": f"thing {n}" if n % 3 else ""} for n in range(100)]
    manuscript.ledger(rows, [fq.Column("n", total="sum"), fq.Column("what")])
    subject = tagged(manuscript)
    assert len(subject.pages) > 1
    found = outline(subject)
    assert found[:5] == ["Document", "  Table", "    THead", "      TR", "        TH n"]
    assert roles(subject).count("TR") == 102
    assert roles(subject).count("THead") == roles(subject).count("TFoot") == roles(subject).count("Table") == 1
    assert [line.strip() for line in found if line.strip().startswith("TD")][:4] == ["TD 0", "TD", "TD 1", "TD thing 1"]
    assert found[-4].strip() == "TFoot"


def test_rows_of_a_ledger_that_need_more_care_are_rows_too():
    manuscript = fq.Manuscript(title="t", language="en")
    rows = [{"n": n, "what": "מילה" if n % 5 == 0 else f"long words {n} " * 9} for n in range(40)]
    manuscript.ledger(rows, [fq.Column("n"), fq.Column("what", width="6cm")])
    subject = tagged(manuscript)
    assert roles(subject).count("TR") == 41
    assert roles(subject).count("TD") == 80
    numbers = [int(m[1]) for line in outline(subject) if (m := re.fullmatch(r"\s*TD (\d+)", line))]
    assert numbers == list(range(40))


def test_a_file_without_tags_has_none():
    subject = tagged("<h1>x", tagged=False)
    assert subject.elements == []
    assert all(name not in ("BDC", "BMC") for content in subject.contents for name, _ in content.operators)
    with pytest.raises(fq.OptionError, match="without tags cannot be PDF/UA-1"):
        tagged("<h1>x", tagged=False, conform=["PDF/UA-1"])


def test_the_same_edition_is_tagged_the_same_again():
    edition = fq.compose(fq.Manuscript.from_html("<h1>a</h1><ul><li>b</ul><p style='position:fixed'>c"))
    first, again = [], []
    for found in (first, again):
        stream = io.BytesIO()
        edition.write_to(stream)
        found.append(stream.getvalue())
    assert first == again


def test_a_ledger_is_tagged_the_same_after_it_was_drawn_in_other_ways():
    manuscript = fq.Manuscript(title="t", language="en")
    rows = [{"n": n, "what": "מילה" if n % 5 == 0 else f"word {n}"} for n in range(60)]
    manuscript.ledger(rows, [fq.Column("n", total="sum"), fq.Column("what")])
    edition = fq.compose(manuscript)
    first = io.BytesIO()
    edition.write_to(first)
    for page in edition.pages:
        page.to_svg()
        page.to_png()
    again = io.BytesIO()
    edition.write_to(again)
    assert again.getvalue() == first.getvalue()
