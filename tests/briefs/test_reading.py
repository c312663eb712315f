"""What a brief may say, and how it is told where it says something else."""

import io
import json
from pathlib import Path

import jsonschema
import pytest
import yaml
from briefing import as_brief
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq
from conftest import DEMO
from fleetquill.briefs.nodes import path_of, path_text, places_of
from fleetquill.briefs.schema import brief_schema

TOLLS = """brief:
  title: Tolls
  parameters:
    month: {type: month, default: 2026-05}
  data:
    tolls: {given: true}
  parts:
    - ledger:
        rows: tolls
        columns:
          - lock
          - {name: toll, head: Toll, form: "#,##0.00", total: sum}
"""


def read(text, kind="yaml"):
    return fq.Brief.read(text.encode(), kind=kind)


CHANGES = [
    # what is changed, to what, and what is said of it
    ("brief:", "breif:", r"brief: The file has no 'brief' at its top"),
    ("title:", "titel:", r"line 2, column 3: brief\.titel: A brief has no 'titel'\. Did you mean 'title'"),
    ("type: month", "type: mouth", r"line 4, column 13: brief\.parameters\.month\.type: 'mouth' is not known here\. "
     "Did you mean 'month'"),
    ("default: 2026-05", "default: soon", r"line 4, column 26: .*default: 'soon' is no value of the type 'month'"),
    ("default: 2026-05", "defualt: 2026-05", r"A parameter has no 'defualt'\. Did you mean 'default'"),
    ("given: true", "giben: true", r"line 6, column 13: brief\.data\.tolls\.giben: Data has no 'giben'"),
    ("given: true", "given: true, file: x.csv", r"The data comes from both 'given' and 'file'"),
    ("{given: true}", "{where: a}", r"The data comes from nowhere\. Give one of given, file, sql, from"),
    ("given: true", "from: toll", r"brief\.data\.tolls\.from: 'toll' is not known here\. Did you mean 'tolls'"),
    ("given: true", "from: tolls", r"The data 'tolls' is made of itself"),
    ("given: true", "sql: select 1", r"The query names no connection"),
    ("given: true", "sql: 'select :mnth', connection: x", r"binds ':mnth', which is no parameter .*mean 'month'"),
    ("given: true", "given: true, by: lock", r"'by' and 'figures' go together"),
    ("given: true", "given: true, by: lock, figures: {t: summ}", r"figures\.t: 'summ' is no figure\. Did you mean 'sum'"),
    ("given: true", "given: true, types: {a: dat}", r"types\.a: 'dat' is not known here\. Did you mean 'date'"),
    ("given: true", "given: true, join: {keepers: lock}", r"join\.keepers: There is no data 'keepers'"),
    ("tolls: {", "to-lls: {", r"'to-lls' cannot be the name of data"),
    ("tolls: {", "month: {", r"'month' is a parameter, too"),
    ("ledger:", "leger:", r"line 8, column 7: brief\.parts\[0\]: There is no part 'leger'\. Did you mean 'ledger'"),
    ("rows: tolls", "row: tolls", r"line 9, column 9: brief\.parts\[0\]\.ledger\.row: 'ledger' has no 'row'"),
    ("  title: Tolls", "  locale: xx-Nowhere", r"brief\.locale: The locale 'xx-Nowhere' is not known"),
    ("  title: Tolls", "  currency: EURO", r"brief\.currency: 'EURO' is not a currency"),
    ("  title: Tolls", "  connections: {h: 'postgresql://u:secret@h/d'}", r"connections\.h: .*it may hold a password"),
    ("  parts:", "  partz:", r"brief\.partz: A brief has no 'partz'"),
    ("- ledger:", "- [ledger]", r"The YAML does not parse"),
    ("    - ledger:", "    - each: tolls\n    - ledger:", r"'each' takes names with values"),
]  # fmt: skip


@pytest.mark.parametrize(("old", "new", "said"), CHANGES, ids=[f"{old} to {new}" for old, new, _ in CHANGES])
def test_what_is_wrong_is_told_with_line_column_path_and_what_was_meant(old, new, said):
    assert TOLLS.count(old) == 1
    with pytest.raises(fq.DataError, match=said) as caught:
        read(TOLLS.replace(old, new))
    assert "secret" not in str(caught.value)


def test_what_is_wrong_when_it_is_made_is_told_with_its_place_too():
    rows = [{"lock": "Saltgate", "toll": 3}]
    changed = TOLLS.replace("- lock", "- lokc")
    with pytest.raises(fq.DataError, match=r"line 11, column 13: .*columns\[0\]: The rows have no 'lokc'.*'lock'"):
        fq.compose(read(changed), data=rows)
    changed = TOLLS.replace('"#,##0.00"', "money:EURO")
    with pytest.raises(fq.DataError, match=r"line 12, column 13: .*columns\[1\]: 'EURO' is not a currency"):
        fq.compose(read(changed), data=rows)
    changed = TOLLS.replace("rows: tolls", "rows: toll")
    with pytest.raises(fq.DataError, match=r"ledger\.rows: There is no data 'toll'\. Did you mean 'tolls'"):
        fq.compose(read(changed), data=rows)


TOML = """# of tolls
[brief]
title = "Tolls"

[brief.parameters.month]
type = "mouth"

[[brief.parts]]
heading = '''
[no.table] = 3
'''
[[brief.parts]]
[brief.parts.ledger]
rows = "tolls"
"""


def test_toml_and_json_have_the_same_words_and_places():
    with pytest.raises(fq.DataError, match=r"line 6, column 1: brief\.parameters\.month\.type: 'mouth'"):
        read(TOML, "toml")
    found = places_of(TOML, "toml")
    assert found["brief", "parts", 1, "ledger", "rows"] == (14, 1)
    assert found["brief", "parts", 0] == (8, 1)
    assert not any("no" in path for path in found)
    data = json.dumps(yaml.safe_load(TOLLS.replace("titel", "title")), default=str, indent=2)
    assert fq.Brief.read(data.encode(), kind="json").columns() == {"tolls": ("lock", "toll")}
    with pytest.raises(fq.DataError, match=r"line 3, column 5: brief\.titel"):
        read(data.replace('"title"', '"titel"'), "json")


def test_a_brief_is_read_from_a_path_bytes_or_a_stream(tmp_path):
    path = tmp_path / "tolls.brief.yaml"
    path.write_text(TOLLS)
    found = [fq.Brief.read(path), fq.Brief.read(str(path)), read(TOLLS), fq.Brief.read(io.BytesIO(TOLLS.encode()))]
    assert {brief.title for brief in found} == {"Tolls"}
    assert found[0].files == (path,)
    with pytest.raises(fq.DataError, match="no text in UTF-8"):
        fq.Brief.read(b"\xff\xfe\x00")
    with pytest.raises(fq.DataError, match=r"not written as 'yml2'"):
        fq.Brief.read(b"", kind="yml2")
    with pytest.raises(fq.SourceError, match="does not exist"):
        fq.Brief.read(tmp_path / "gone.yaml")
    (tmp_path / "tolls.csv").write_text("a")
    with pytest.raises(fq.DataError, match=r"not written as '\.csv'"):
        fq.Brief.read(tmp_path / "tolls.csv")


def test_a_brief_that_names_files_wants_a_folder():
    with pytest.raises(fq.DataError, match="The brief has no folder"):
        fq.compose(read(TOLLS.replace("given: true", "file: tolls.csv")))


def test_a_brief_tells_what_it_takes():
    brief = fq.Brief.read(DEMO / "tolls.brief.yaml")
    assert [one.name for one in brief.parameters] == ["since", "until", "late_after"]
    assert [one.kind for one in brief.sources] == ["sql", "from", "from", "from"]
    assert brief.connections == ()
    assert repr(brief) == "<Brief 'Tolls by lock and month': 3 parameters, 4 sources>"


COLUMNS = [
    ({"tolls": {"given": True}}, [{"table": {"rows": "tolls", "columns": ["a", {"name": "b"}]}}], ("a", "b")),
    ({"tolls": {"given": True, "compute": {"c": "a * n"}}}, [{"table": {"rows": "tolls", "columns": ["c"]}}], ("a",)),
    ({"tolls": {"given": True, "where": "a > n and b"}}, [], ("a", "b")),
    ({"tolls": {"given": True}, "sums": {"from": "tolls", "by": "lock", "figures": {"all": "sum toll", "n": "count"}}},
     [{"chart": {"kind": "bar", "rows": "sums", "x": "lock", "y": ["all", "n"]}}], ("lock", "toll")),
    ({"tolls": {"given": True}}, [{"when": {"test": "1", "parts": [{"ledger": {
        "rows": {"from": "tolls", "compute": {"x": "q"}}, "groups": ["g"], "columns": ["x", "y"]}}]}}], ("g", "y", "q")),
]  # fmt: skip


@pytest.mark.parametrize(("data", "parts", "expected"), COLUMNS)
def test_the_columns_that_rows_must_have_are_known_before(data, parts, expected):
    top = {"parameters": {"n": "whole"}, "data": data, "parts": parts}
    assert sorted(as_brief(top).columns()["tolls"]) == sorted(expected)


def test_the_schema_is_kept_and_takes_the_demo():
    kept = json.loads((Path(fq.__file__).parent / "briefs/brief.schema.json").read_text(encoding="utf-8"))
    assert kept == json.loads(json.dumps(brief_schema()))
    jsonschema.Draft202012Validator.check_schema(kept)
    demo = yaml.safe_load((DEMO / "tolls.brief.yaml").read_text(encoding="utf-8"))
    jsonschema.validate(json.loads(json.dumps(demo, default=str)), kept)


@pytest.mark.parametrize(
    ("old", "new"),
    [
        ("title:", "titel:"), ("ledger:", "leger:"), ("rows: tolls", "row: tolls"), ("type: month", "type: mouth"),
        ("given: true", "given: true, file: x"), ("name: toll", "nome: toll"), ("given: true", "sql: select 1"),
    ],
)  # fmt: skip
def test_the_schema_refuses_what_reading_refuses(old, new):
    data = json.loads(json.dumps(yaml.safe_load(TOLLS.replace(old, new)), default=str))
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(data, brief_schema())


steps = st.one_of(st.text("abc_-", min_size=1, max_size=5), st.integers(0, 99))


@given(st.lists(steps, min_size=1, max_size=5).map(lambda path: ["brief", *path]))
def test_paths_are_read_as_they_are_written(path):
    assert path_of(path_text(tuple(path))) == tuple(path)


trees = st.recursive(
    st.one_of(st.text("ab: #'", max_size=8), st.integers(), st.none()),
    lambda inner: st.one_of(
        st.dictionaries(st.text("xyz", min_size=1, max_size=3), inner, max_size=3), st.lists(inner, max_size=3)
    ),
    max_leaves=12,
)


@given(trees, st.booleans())
def test_every_value_of_yaml_has_its_place(tree, flow):
    text = yaml.safe_dump({"brief": tree}, default_flow_style=flow)
    places = places_of(text, "yaml")
    lines = text.splitlines()

    def check(value, path):
        if path:
            line, column = places[path]
            rest = lines[line - 1][column - 1 :]
            if isinstance(path[-1], str):
                assert rest.lstrip("?'\" ").startswith(path[-1]), (text, path)
        if isinstance(value, dict):
            for name, inner in value.items():
                check(inner, (*path, name))
        elif isinstance(value, list):
            for number, inner in enumerate(value):
                check(inner, (*path, number))

    check({"brief": tree}, ())
