"""Manuscripts as plain data: in, out, and what is said of mistakes."""

import contextlib
import copy
import io
import json
import sys
from datetime import date
from decimal import Decimal
from pathlib import Path

import jsonschema
import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.authoring.schema import manuscript_schema

sys.path.insert(0, str(Path(__file__).parent.parent / "tools"))
from make_schema import TARGET, written

DATA = yaml.safe_load("""
title: Tolls of May
author: R. Marsh
page: A5
margin: 15mm
header: {left: Reedwater, right: "Page {page} of {pages}"}
footer: {first: true, parts: [{paragraph: a foot of parts}]}
parts:
  - heading: Tolls
  - paragraph: ["Paid by ", {strong: Heron}, " on ", {value: {amount: 2026-05-02, form: "date:long"}}, {footnote: Full.}]
  - heading: {content: Locks, level: 2, id: locks, class: quiet}
  - table:
      caption: By lock
      rows:
        - {lock: Saltgate, boats: 12, toll: 104.50, note: {link: [more, "https://reedwater.example"]}}
        - {lock: Stonecross, boats: 7, toll: 66, note: {emphasis: late}}
      columns: [lock, boats, {name: toll, form: "money:EUR", total: sum}, note]
  - row: {gap: 5mm, parts: [{box: [{paragraph: left}]}, {box: {width: 40mm, parts: [{paragraph: right}]}}]}
  - bullets: [barley, [two-row, six-row], {strong: clay}]
  - definitions: {pairs: {lock: a gate, weir: a wall}}
  - chart: {kind: bar, data: [{lock: A, boats: 3}], x: lock, y: boats, height: 30mm}
  - rule
  - code: {kind: qr, text: W-31400}
  - section: {page: A6, margin: 15mm, parts: [{paragraph: [{span: {content: upon, style: "color:red"}}, " its own page"]}]}
  - plate: {page: A6, parts: [{text: {content: drawn, x: 10mm, y: 10mm}}, {line: {x1: 0, y1: 0, x2: 50, y2: 50}},
      {area: {x: 5mm, y: 30mm, width: 40mm, parts: [{paragraph: flows}]}}]}
  - ledger: {rows: [[1, a], [2, b]], columns: [n, {name: letter, align: right}], caption: Two rows}
""")


def text_of(manuscript: fq.Manuscript) -> str:
    return " ".join(" ".join(page.text.split()) for page in fq.compose(manuscript).pages)


def test_every_kind_of_part_can_be_written_as_data():
    edition = fq.compose(fq.Manuscript.from_data(DATA))
    text = " ".join(" ".join(page.text.split()) for page in edition.pages)
    for said in ("Tolls", "Paid by Heron on May 2, 2026", "€104.50", "€170.50", "two-row", "a wall", "drawn", "flows",
                 "upon its own page", "Two rows", "1 Full."):  # fmt: skip
        assert said in text, said
    assert edition.pages[0].margins["top-right"].startswith("Page 1 of ")
    assert not {remark.kind for remark in edition.remarks} & {"style", "link", "picture", "text", "chart"}
    assert {round(page.width, 3) for page in edition.pages} == {419.528, 297.638}


def test_what_is_built_of_parts_gives_its_data_back():
    manuscript = fq.Manuscript.from_data(DATA)
    data = manuscript.to_data()
    json.dumps(data, default=str)
    again = fq.Manuscript.from_data(data)
    assert fq.compose(again).to_bytes() == fq.compose(manuscript).to_bytes()
    assert again.to_data() == data


def test_python_and_data_are_the_same_document():
    m = fq.Manuscript(title="Order", page=(105, 148), look="quay")
    m.header(left="Order", right="{page}")
    m.heading("Order", level=2, style={"color": "red"})
    m.paragraph("Due ", fq.value(date(2026, 5, 2)), fq.link("terms", "#terms"), fq.page_of("terms"), style="margin:0")
    with m.columns(2, gap="4mm"), m.section(id="terms"):
        m.numbered(["one", ["two", fq.strong("three")]], start=4)
    with m.layer(first_page_only=True) as sheet:
        sheet.circle(x=20, y=20, radius=5)
    m.table([(1, Decimal("2.50"))], [fq.Column("n"), fq.Column("fee", form="money:EUR", carry=True, total="sum")])
    data = m.to_data()
    assert data["parts"][0] == {"heading": {"content": ["Order"], "level": 2, "style": {"color": "red"}}}
    assert fq.compose(fq.Manuscript.from_data(data)).to_bytes() == fq.compose(m).to_bytes()


@pytest.mark.parametrize("ending", ["json", "yaml", "toml"])
def test_a_file_of_data_is_a_source_like_any_other(tmp_path, ending):
    (tmp_path / "rows.csv").write_text("lock,boats\nSaltgate,12\n")
    data = {
        "manuscript": {
            "title": "T",
            "parts": [{"heading": "Tolls"}, {"ledger": {"rows": "rows.csv", "columns": ["lock"]}}],
        }
    }
    path = tmp_path / f"doc.{ending}"
    data["manuscript"]["parts"][1] = {"html": "<fq-ledger src='rows.csv'></fq-ledger>"}
    if ending == "json":
        path.write_text(json.dumps(data))
    elif ending == "yaml":
        path.write_text(yaml.safe_dump(data))
    else:
        path.write_text("[manuscript]\ntitle='T'\n[[manuscript.parts]]\nheading='Tolls'\n"
                        "[[manuscript.parts]]\nhtml=\"<fq-ledger src='rows.csv'></fq-ledger>\"\n")  # fmt: skip
    text = " ".join(fq.compose(path).pages[0].text.split())
    assert text == "Tolls lock boats Saltgate 12"
    stream = io.BytesIO()
    assert fq.write(path, stream, kind="csv").row_count == 2


def changed(change) -> dict:
    data = copy.deepcopy(DATA)
    change(data)
    return data


MISTAKES = [
    (lambda d: d["parts"][3]["table"]["columns"][2].update(form="mony:EUR"),
     r"^parts\[3\]\.table\.columns\[2\]\.form: 'mony:EUR' is not a form of a value\. Did you mean 'money'\?"),
    (lambda d: d["parts"][3]["table"]["columns"][2].update(wide=3), r"^parts\[3\]\.table\.columns\[2\]\.wide: "),
    (lambda d: d["parts"][3]["table"]["columns"].__setitem__(0, "lokc"), r"^parts\[3\]\.table: Row 1 has no value"),
    (lambda d: d["parts"].insert(0, {"headin": "x"}), r"^parts\[0\]: There is no part 'headin'\. Did you mean 'heading'"),
    (lambda d: d["parts"].insert(0, {"heading": {"content": "x", "levl": 2}}), r"^parts\[0\]\.heading\.levl: .*'level'"),
    (lambda d: d["parts"].insert(0, {"heading": {"content": "x", "level": 9}}), r"^parts\[0\]\.heading: .* from 1 to 6"),
    (lambda d: d["parts"].insert(0, {"heading": "x", "level": 2}), r"^parts\[0\]: This part has more names than one"),
    (lambda d: d["parts"].insert(0, {"rule": "x"}), r"^parts\[0\]\.rule: 'rule' takes names with values"),
    (lambda d: d["parts"].insert(0, {"figure": 3}), r"^parts\[0\]: There is no part 'figure'"),
    (lambda d: d["parts"].insert(0, 3), r"^parts\[0\]: This part is not a mapping"),
    (lambda d: d["parts"][1]["paragraph"].append({"stron": "x"}), r"^parts\[1\]\.paragraph\[5\]: .* Did you mean 'strong'"),
    (lambda d: d["parts"][1]["paragraph"].append({"link": "x"}), r"^parts\[1\]\.paragraph\[5\]\.link: A link needs"),
    (lambda d: d["parts"][4]["row"]["parts"][0]["box"].append({"x": 1}), r"^parts\[4\]\.row\.parts\[0\]\.box\.parts\[1\]: "),
    (lambda d: d["parts"][11]["plate"]["parts"].append({"tex": 1}), r"^parts\[11\]\.plate\.parts\[3\]: .* 'text'"),
    (lambda d: d.update(titel="x"), r"^titel: .* Did you mean 'title'"),
    (lambda d: d.update(title=3), r"^title: 3 is not text"),
    (lambda d: d.update(page="A77"), r"^manuscript: 'A77' is not a page"),
    (lambda d: d.update(parts="abc"), r"^parts: 'abc' is not a list of parts"),
    (lambda d: d.update(header="x"), r"^header: 'x' is not names with values"),
    (lambda d: d.update(header={"middle": "x"}), r"^header\.middle: "),
    (lambda d: d.update(fonts=[{"family": "x"}]), r"^fonts\[0\]: A font has a family and a source"),
    (lambda d: d.update(fonts=[{"family": "x", "source": "y", "bold": 1}]), r"^fonts\[0\]\.bold: "),
]  # fmt: skip


@pytest.mark.parametrize(("change", "said"), MISTAKES)
def test_a_mistake_is_told_with_its_place(change, said):
    with pytest.raises(fq.DataError, match=said):
        fq.Manuscript.from_data(changed(change))


def test_a_mistake_in_a_file_names_the_file(tmp_path):
    path = tmp_path / "doc.yaml"
    path.write_text("manuscript: {parts: [{headin: x}]}")
    with pytest.raises(fq.DataError, match=r"doc\.yaml: parts\[0\]: There is no part"):
        fq.compose(path)
    path.write_text("title: x")
    with pytest.raises(fq.DataError, match="no 'manuscript'"):
        fq.compose(path)
    path.write_text("manuscript: {parts: []}\nrows: []")
    with pytest.raises(fq.DataError, match="'rows', which is not used"):
        fq.compose(path)


@pytest.mark.parametrize(
    ("make", "said"),
    [
        (lambda: fq.Manuscript.from_html("<p>x"), "read, not built"),
        (lambda: with_parts(lambda m: m.table([(object(),)], [fq.Column("a", form=str)])), "no data holds"),
        (lambda: with_parts(lambda m: (m.header(left="a"), m.header(left="b", first=True))), "second header"),
    ],
)
def test_what_no_data_holds_is_told(make, said):
    with pytest.raises(fq.OptionError, match=said):
        make().to_data()


def with_parts(add) -> fq.Manuscript:
    m = fq.Manuscript()
    add(m)
    return m


def test_a_part_that_failed_is_in_no_data():
    m = fq.Manuscript()
    with pytest.raises(fq.OptionError):
        m.heading("x", level=9)
    m.heading("y")
    assert m.to_data() == {"parts": [{"heading": "y"}]}


def test_the_schema_is_that_of_the_signatures_and_takes_what_is_taken():
    assert TARGET.read_text(encoding="utf-8") == written()
    schema = manuscript_schema()
    jsonschema.Draft202012Validator.check_schema(schema)
    validator = jsonschema.Draft202012Validator(schema)
    plain = json.loads(json.dumps(DATA, default=str))
    assert [error.message for error in validator.iter_errors({"manuscript": plain})] == []


@pytest.mark.parametrize("number", [3, 4, 7, 14, 17, 19, 21])
def test_the_schema_refuses_what_is_refused(number):
    validator = jsonschema.Draft202012Validator(manuscript_schema())
    data = json.loads(json.dumps(changed(MISTAKES[number][0]), default=str))
    assert list(validator.iter_errors({"manuscript": data}))


VALUES = st.recursive(
    st.none() | st.booleans() | st.integers(-5, 5) | st.text(max_size=4) | st.sampled_from(["heading", "parts", "rule"]),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(
        st.sampled_from(["heading", "table", "rows", "columns", "content", "parts", "strong", "row", "level", "plate"]), inner,
        max_size=2,
    ),
    max_leaves=8,
)  # fmt: skip


@given(st.lists(VALUES, max_size=3))
def test_any_data_is_a_document_or_an_error_of_ours(parts):
    with contextlib.suppress(fq.DataError):
        fq.Manuscript.from_data({"parts": parts})
