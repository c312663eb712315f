"""Pseudo-classes of forms, @property and layers: which elements they reach, and what they leave."""

import re

import pytest

import fleetquill as fq

FORM = """<input id=text><input id=typed value=x placeholder=p><input id=hint placeholder=p><input id=off disabled>
<input id=must required><input id=fixed readonly><input id=ticked type=checkbox checked><input id=blank type=checkbox>
<select id=list size=2><option id=one selected>a<option id=two disabled>b</select><textarea id=area placeholder=p>t</textarea>
<button id=press disabled>b</button><fieldset id=set><details id=more open><summary>s</summary>d</details></fieldset>"""
NAMED = re.findall(r"id=(\w+)", FORM)
REACHED = [
    (":checked", "ticked one"), ("input:checked", "ticked"), (":disabled", "off two press"), (":required", "must"),
    ("input:optional", "text typed hint off fixed ticked blank"), (":placeholder-shown", "hint"),
    ("textarea:placeholder-shown", ""), (":read-write", "text typed hint must ticked blank area"),
    ("input:read-only", "off fixed"), ("button:enabled", ""), ("fieldset:enabled", "set"), (":open", "more"),
    ("details:not(:open)", ""), ("input:focus", ""), ("input:not(:checked, :disabled, [placeholder])", "text must fixed blank"),
    ("input:hover", ""),
]  # fmt: skip


@pytest.mark.parametrize(("selector", "ids"), REACHED)
def test_a_selector_of_forms_reaches(selector, ids):
    edition = fq.compose(fq.Manuscript.from_html(FORM))
    assert [name for name in NAMED if edition.locate(f"#{name}:is({selector})")] == ids.split()


def width(css):
    html = f"<style>@page{{size:500px 500px;margin:0}}body{{margin:0}}{css}</style><div id=o><p id=p>x</p></div>"
    edition = fq.compose(fq.Manuscript.from_html(html))
    return edition.locate("#p")[0].width / 0.75, [remark.message for remark in edition.remarks]


REGISTERED = "@property --w{syntax:'<length>';inherits:%s;initial-value:70px}"
WIDTHS = [
    (REGISTERED % "true" + "p{width:var(--w)}", 70),
    (REGISTERED % "true" + "div{--w:90px}p{width:var(--w)}", 90),
    (REGISTERED % "false" + "div{--w:90px}p{width:var(--w)}", 70),
    (REGISTERED % "false" + "p{--w:30px;width:var(--w)}", 30),
    ("@media screen{" + REGISTERED % "true" + "}p{width:var(--w,40px)}", 40),
    ("@property --v{syntax:'*';inherits:false}div{--v:9px}p{width:var(--v,55px)}", 55),
    ("@layer a,b;@layer a{p{width:60px}}@layer b{p{width:revert-layer}}", 60),
    ("@layer a{p{width:60px}}p{width:revert-layer}", 60),
    ("p{width:revert-layer}", 500),
    ("@layer a,b,c;@layer a{p{width:60px}}@layer b{p{width:revert-layer}}@layer c{p{width:revert-layer}}", 60),
]


@pytest.mark.parametrize(("css", "wanted"), WIDTHS)
def test_a_property_that_is_registered_or_reverted_comes_to(css, wanted):
    found, remarks = width(css)
    assert found == pytest.approx(wanted, abs=0.01)
    assert remarks == []


@pytest.mark.parametrize(
    ("css", "said"),
    [
        ("@property w{syntax:'*';inherits:true}", "An '@property' needs a name that begins with '--', 'syntax' and"),
        ("@property --w{inherits:true;initial-value:1px}", "An '@property' needs a name"),
        ("@property --w{syntax:'*';inherits:maybe}", "An '@property' needs a name"),
        ("@property --w{syntax:'<length>';inherits:true}", "The '@property' of '--w' needs an 'initial-value'."),
    ],
)
def test_a_registration_that_is_none_is_a_remark(css, said):
    _, remarks = width(css)
    assert len(remarks) == 1 and remarks[0].startswith(said)
