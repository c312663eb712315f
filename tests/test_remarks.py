"""What remarks gather: one for all things of a kind, where the first of them stands."""

import pytest

import fleetquill as fq
from fleetquill.remarks import Remarks

MESSAGE = "No room for {}."


@pytest.mark.parametrize(
    ("items", "said"),
    [
        (["a"], "No room for a."),
        (["a", "a"], "No room for a. (2 times)"),
        (["a", "b", "a"], "No room for a, b. (3 times)"),
        (list("abcdefghijklm"), "No room for a, b, c, d, e, f, g, h, i, j, k, l and 1 more. (13 times)"),
    ],
)
def test_things_of_one_kind_are_told_together(items, said):
    remarks = Remarks()
    for line, item in enumerate(items, start=3):
        remarks.gather("room", MESSAGE, item, source="a.html", line=line)
    (told,) = remarks.all()
    assert (told.message, told.kind, told.source, told.line) == (said, "room", "a.html", 3)


def test_other_remarks_stand_beside_them():
    remarks = Remarks()
    remarks.add("other", "{} is not filled in.")
    remarks.gather("room", MESSAGE, "a")
    assert [remark.message for remark in remarks.all()] == ["{} is not filled in.", "No room for a."]


def test_what_repeats_is_one_remark_with_a_count():
    css = "p { colr: red } b { colr: blue }\n i { colr: green; colur: red }"
    messages = [r.message for r in fq.compose(fq.Manuscript.from_html(f"<style>{css}</style><p>x")).remarks]
    assert messages[0] == "The property 'colr' is not known. Did you mean 'color'? (column 5) (3 times)"
    assert len(messages) == 2


def test_prefixed_properties_are_one_remark_for_a_document():
    sheet = "<style>p { -moz-x: 1; -webkit-y: 2 } ::-webkit-scrollbar { width: 1px } a:-moz-focusring { color: red }</style>"
    (remark,) = fq.compose(fq.Manuscript.from_html(sheet * 3 + "<p>x")).remarks
    assert "own prefix" in remark.message


@pytest.mark.parametrize(
    ("css", "said"),
    [
        ("list-style: upper-alpha", ""),
        (
            "scrollbar-width: thin; contain: layout; scroll-margin-top: 4px; animation-name: a; view-transition-name: b",
            "",
        ),
        ("perspective: none; zoom: 1; text-justify: auto; clip: auto; backdrop-filter: none", ""),
        ("backdrop-filter: blur(2px)", "The property 'backdrop-filter' is not carried out."),
        ("zoom: 2", "The property 'zoom' is not carried out."),
        (
            "transform: perspective(90px) rotateY(9deg)",
            "'perspective()' is not carried out; nothing looks farther away.",
        ),
        ("transform: rotateY(9deg) scale3d(1, 2, 3)", ""),
        ("contaim: layout", "The property 'contaim' is not known."),
    ],
)
def test_valid_css_is_never_called_wrong(css, said):
    messages = [r.message for r in fq.compose(fq.Manuscript.from_html(f"<p style='{css}'>x")).remarks]
    assert len(messages) == bool(said) and all(said in message for message in messages)


@pytest.mark.parametrize(
    ("html", "told"),
    [
        ("<p style='writing-mode:vertical-rl'>Heron <i>Teal</i><br>Plover", False),
        ("<div style='writing-mode:vertical-rl;width:80px'>Heron<div style='height:60px'></div></div>", True),
        ("<div style='writing-mode:vertical-rl'><div><p style='width:90px'>Heron</div></div>", True),
        ("<div style='writing-mode:sideways-lr'>Heron <svg width=9 height=9></svg></div>", True),
        (
            "<table><tr><th style='writing-mode:vertical-rl;width:30px;height:80px'>Lock <b>Saltgate</b><th>y</table>",
            False,
        ),
        ("<table><tr><td style='writing-mode:vertical-rl'>Lock <svg width=9 height=9></svg></table>", True),
    ],
)
def test_what_would_stand_upright_in_text_on_its_side_is_told(html, told):
    assert [r.kind for r in fq.compose(fq.Manuscript.from_html(html)).remarks] == ["style"] * told


FURNITURE = ["position:absolute;left:-9999px", "position:fixed;transform:translate(-50%,-100%);top:0;left:0", "text-indent:-9999px",
    "position:absolute;top:-100px", "position:absolute;width:1px;height:1px;overflow:hidden;clip-path:inset(50%)",
    "position:absolute;width:1px;height:1px;overflow:hidden;white-space:nowrap"]  # fmt: skip


@pytest.mark.parametrize("style", FURNITURE)
def test_what_is_hidden_on_purpose_for_those_who_listen_is_no_remark(style):
    page = f"<a href='#x' style='{style}'>Skip to main content</a><p id=x>The toll at Saltgate</p>"
    edition = fq.compose(fq.Manuscript.from_html(page))
    assert edition.remarks == () and "Saltgate" in edition.pages[0].text
