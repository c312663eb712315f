"""Whatever a document is made of: all that is drawn is told, parts and marks lead to one another, nothing is lost."""

import io
import re

from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.bindery.check import check
from structured import outline, subject_of, words_by_mark

WORDS = st.sampled_from(["alder", "barge", "lock", "office", "e\u0301tat", "שלום", "reed"])
STYLES = st.sampled_from([
    "", "float:left", "position:absolute;top:0", "position:relative;z-index:-1", "opacity:.5", "display:flex",
    "display:grid", "columns:2", "overflow:hidden", "transform:rotate(3deg)", "background:#eee;border:1px solid",
    "break-before:page", "display:inline-block", "text-shadow:1px 1px red", "mix-blend-mode:multiply", "display:none",
    "filter:blur(1px)", "mask-image:linear-gradient(red,transparent)", "text-decoration:underline",
])  # fmt: skip
INLINE = ["span", "b", "code", "q", "a href=#x", "a href=https://reedwater.example", "span lang=fr", "abbr title=x"]
BLOCK = ["div", "p", "section", "aside", "blockquote", "h1", "h2", "figure", "ul", "ol", "fieldset", "pre", "article"]


@st.composite
def documents(draw, depth=3):
    parts = []
    for _ in range(draw(st.integers(1, 3))):
        kind = draw(st.sampled_from(["text", "inline", "block", "list", "table", "note", "code", "picture", "field"]))
        style = draw(STYLES)
        if kind == "text" or depth == 0:
            parts.append(draw(WORDS) + " ")
        elif kind == "inline":
            tag = draw(st.sampled_from(INLINE))
            parts.append(f"<{tag} style='{style}'>{draw(WORDS)} </{tag.split()[0]}> ")
        elif kind == "block":
            tag = draw(st.sampled_from(BLOCK))
            parts.append(f"<{tag} style='{style}'>{draw(documents(depth=depth - 1))}</{tag}>")
        elif kind == "list":
            items = "".join(f"<li style='{style}'>{draw(documents(depth=depth - 1))}" for _ in range(2))
            parts.append(f"<ol>{items}</ol>")
        elif kind == "table":
            cells = "".join(f"<td>{draw(documents(depth=depth - 1))}" for _ in range(2))
            parts.append(f"<table style='{style}'><thead><tr><th>x<th>y</thead><tr>{cells}<tr>{cells}</table>")
        elif kind == "note":
            parts.append(f"{draw(WORDS)}<span style='float:footnote'>{draw(WORDS)} note</span> ")
        elif kind == "code":
            parts.append("<fq-code kind=qr value=x></fq-code>")
        elif kind == "picture":
            parts.append("<svg width=9 height=9 aria-label=dot><circle r=4 cx=4 cy=4 /></svg>")
        else:
            parts.append(f"<input value={draw(WORDS)}><input type=checkbox>")
    return "".join(parts)


LOOKED_AT = {
    "All that is drawn is a part of the document or an artifact",
    "Marks and structure lead to one another",
    "Types are standard ones, or mapped to those",
    "Annotations are parts of the document",
    "Content streams have known operators, and resources for what they name",
    "Glyphs are there, and as wide as the file says",
    "Each glyph says its text",
}


@settings(max_examples=50)
@given(documents())
def test_every_mark_leads_to_a_part_and_back(html):
    stream = io.BytesIO()
    page = "<style>@page { size: 300px 200px; margin: 10px; @bottom-right { content: counter(page) } }</style>"
    fq.write(fq.Manuscript.from_html(f"<html lang=en><title>t</title>{page}{html}<p id=x>end"), stream, kind="pdf")
    content = stream.getvalue()
    report = check(content, ["PDF/A-2a", "PDF/UA-1"])
    faults = {finding.title: finding.faults for finding in report.findings if finding.faults}
    assert {title: told for title, told in faults.items() if title in LOOKED_AT} == {}
    nested = faults.get("Parts stand in those that they belong in", ())
    assert [fault for fault in nested if "TR" in fault or "TD" in fault or "LBody" in fault] == []


@settings(max_examples=30)
@given(documents(depth=2))
def test_every_word_is_told_once(html):
    html = re.sub(r"text-shadow[^;']*|filter:[^;']*|display:none|overflow:hidden", "", html)
    stream = io.BytesIO()
    fq.write(fq.Manuscript.from_html(f"<html lang=en><title>t</title>{html}"), stream, kind="pdf")
    subject = subject_of(stream.getvalue())
    told = " ".join(words_by_mark(subject).values())
    for word in ("alder", "barge", "lock", "office", "reed"):
        text = re.sub(r"<[^>]*>", " ", re.sub(r"<input value=(\w+)>", r" \1 ", html))
        assert len(re.findall(rf"\b{word}\b", told)) == len(re.findall(rf"\b{word}\b", text))
    assert len(outline(subject)) >= 1
