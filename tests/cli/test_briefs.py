"""Briefs on the command line."""

import shutil
from pathlib import Path

import pytest
import yaml
from click.testing import CliRunner

import fleetquill as fq
from conftest import DEMO
from fleetquill.cli.main import main

LEDGER = """brief:
  title: Tolls of {{ month | date('MMM y') }}
  language: en
  parameters:
    month: {type: month, prompt: Which month}
    locks: {type: text, several: true, default: [Saltgate], choices: [Saltgate, Stonecross]}
    note: {type: text, needed: false}
  data:
    tolls: {given: true, where: lock in locks}
  parts:
    - ledger: {rows: tolls, columns: [lock, toll]}
"""


@pytest.fixture
def folder(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    Path("tolls.brief.yaml").write_text(LEDGER)
    Path("tolls.csv").write_text("lock,toll\nSaltgate,2\nStonecross,3\n")
    return tmp_path


def run(*arguments, **more):
    result = CliRunner().invoke(main, list(map(str, arguments)), **more)
    return result.exit_code, result.output


def press(*arguments, **more):
    return run("press", "tolls.brief.yaml", *arguments, **more)


def test_a_brief_is_pressed_with_data_and_parameters(folder):
    code, said = press("--data", "tolls.csv", "--set", "month=2026-05", "-o", "tolls.txt")
    assert (code, said.split(":")[0]) == (0, "tolls.txt")
    assert (
        Path("tolls.txt").read_text().split()
        == "Tolls of May 2026 ================= lock toll -------- ---- Saltgate 2".split()
    )
    code, _ = press("--data", "tolls=tolls.csv", "--set", "month=2026-05", "--set", "locks=Saltgate,Stonecross")
    assert code == 0
    assert Path("tolls.pdf").read_bytes().startswith(b"%PDF")  # without '.brief' in its name


@pytest.mark.parametrize(
    ("options", "said"),
    [
        ([], "needs a parameter that is not given: month (Which month)"),
        (["--set", "month=May"], "'May' is no value of the type 'month', such as 2026-05"),
        (["--set", "month=2026-05"], "The rows of 'tolls' are not given"),
        (["--set", "month=2026-05", "--set", "lock=x"], "no parameter 'lock'. Did you mean 'locks'"),
        (
            ["--set", "month=2026-05", "--set", "locks=Saltgat"],
            "'Saltgat' is none of the choices; did you mean 'Saltgate'",
        ),
        (["--set", "month=2026-05", "--data", "gone.csv"], "'gone.csv' does not exist"),
        (["--set", "month=2026-05", "--data", "tolls.csv", "-o", "tolls.brief.yaml"], "is no kind of file"),
    ],
)
def test_what_is_missing_or_wrong_is_one_line(folder, options, said):
    code, output = press(*options)
    assert code in (1, 2)
    assert said in output
    assert "Traceback" not in output
    assert not Path("tolls.pdf").exists()


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["tolls.brief.yaml", "--set", "month"], "--set takes KEY=VALUE"),
        (["tolls.brief.yaml", "--connection", "harbour"], "--connection takes NAME=ADDRESS"),
        (["tolls.brief.yaml", "--data", "tolls.csv", "--data", "tolls=tolls.csv"], "--data gives 'tolls' twice"),
        (["x.html", "--describe"], "--connection, --ask and --describe are for briefs"),
        (["x.html", "--data", "a.json", "--data", "b.json"], "A template is filled in with one file of data"),
    ],
)
def test_options_that_make_no_sense_are_told(folder, arguments, said):
    Path("x.html").write_text("<p>x")
    code, output = run("press", *arguments, *(["--set", "month=2026-05"] if "yaml" in arguments[0] else []))
    assert (code, said in output) == (2, True), output


def test_describe_tells_parameters_and_data(folder):
    code, said = press("--describe")
    assert code == 0
    assert said.splitlines() == [
        "Tolls of {{ month | date('MMM y') }}", "",
        "Parameters (--set NAME=VALUE)",
        "  month  month                                  needed           Which month",
        "  locks  several of text: Saltgate, Stonecross  else Saltgate",
        "  note   text                                   may be left out",
        "", "Data", "  tolls  is given (--data tolls=FILE), with lock, toll",
    ]  # fmt: skip
    assert not Path("tolls.pdf").exists()
    code, said = run("press", DEMO / "tolls.brief.yaml", "--describe")
    assert "a query of harbour: select t.day" in said
    assert "since       month  else 2026-01" in said


def test_ask_asks_for_what_is_not_set(folder):
    code, said = press("--data", "tolls.csv", "--ask", "-o", "tolls.txt", input="May\n2026-05\nStonecross\n\n")
    assert code == 0, said
    assert "Which month: " in said
    assert "no value of the type 'month'" in said
    assert "locks [Saltgate]: " in said
    assert "Stonecross 3" in " ".join(Path("tolls.txt").read_text().split())


def test_connections_are_addresses_or_stand_in_the_environment(folder, lite, monkeypatch):
    top = {"data": {"tolls": {"sql": "select count(*) as n from tolls", "connection": "harbour"}},
           "parts": [{"paragraph": "{{ (tolls | first).n }} tolls"}]}  # fmt: skip
    Path("db.brief.yaml").write_text(yaml.safe_dump({"brief": top}))
    code, said = run("press", "db.brief.yaml", "-o", "db.txt", "--connection", f"harbour={lite}")
    assert (code, Path("db.txt").read_text().strip()) == (0, "120 tolls"), said
    monkeypatch.setenv("HARBOUR", lite)
    assert run("press", "db.brief.yaml", "-o", "db.txt", "--connection", "harbour=env:HARBOUR")[0] == 0
    code, said = run("press", "db.brief.yaml", "-o", "db.txt", "--connection", "harbour=env:HARBOR")
    assert (code, "there is no variable 'HARBOR' in the environment" in said) == (1, True)
    code, said = run("press", "db.brief.yaml", "--describe")
    assert said.splitlines()[-1] == "  harbour"


def test_a_brief_in_any_file_of_data_is_found(folder):
    Path("tolls.yaml").write_text(LEDGER.replace("title: Tolls", "title: All tolls"))
    assert run("press", "tolls.yaml", "--data", "tolls.csv", "--set", "month=2026-05", "-o", "x.txt")[0] == 0
    Path("m.yaml").write_text("manuscript: {parts: [{paragraph: x}]}")
    code, said = run("press", "m.yaml", "--data", "tolls.csv")
    assert (code, "A manuscript takes no data" in said) == (1, True)


def test_press_takes_a_brief_by_its_path(folder):
    given = {"data": "tolls.csv", "parameters": {"month": "2026-05"}}
    assert fq.compose("tolls.brief.yaml", **given).pages[0].text.startswith("Tolls of May 2026")
    assert fq.write("tolls.brief.yaml", "t.pdf", **given).files[0].name == "tolls.brief.yaml"


def test_the_files_that_a_brief_was_made_from_are_known_and_watched(folder):
    Path("house.css").write_text("p { color: red }")
    Path("more.csv").write_text("lock,keeper\nSaltgate,Bram\n")
    shutil.copy(DEMO / "tolls.sqlite", "tolls.sqlite")
    Path("all.brief.yaml").write_text(yaml.safe_dump({"brief": {
        "style": "house.css", "connections": {"h": "tolls.sqlite"},
        "data": {"tolls": {"given": True}, "more": {"file": "more.csv"},
                 "days": {"sql": "select day from tolls limit 1", "connection": "h"}},
        "parts": [{"table": {"rows": name}} for name in ("tolls", "more", "days")],
    }}))  # fmt: skip
    files = fq.write("all.brief.yaml", "all.pdf", data="tolls.csv").files
    names = {path.name for path in files}
    assert names == {"all.brief.yaml", "house.css", "more.csv", "tolls.csv", "tolls.sqlite"}


# ---- sketch ----


def test_sketch_writes_a_brief_that_works(folder):
    shutil.copy(DEMO / "voyages.csv", "voyages.csv")
    code, said = run("sketch", "voyages.csv")
    assert (code, said) == (
        0, "voyages.brief.yaml: a first draft; 'fleetquill press voyages.brief.yaml --data voyages.csv' makes it.\n",
    )  # fmt: skip
    brief = fq.Brief.read("voyages.brief.yaml")
    assert set(brief.columns()["voyages"]) == {"date", "from", "to", "cargo", "tonnes", "toll", "barge"}
    text = Path("voyages.brief.yaml").read_text()
    assert "types: {date: date, tonnes: number, toll: number}" in text
    assert "- {name: tonnes, head: Tonnes, form: '#,##0.0', total: sum}" in text
    assert "- {by: barge}" in text
    code, said = run("press", "voyages.brief.yaml", "--data", "voyages.csv", "-o", "voyages.txt")
    assert code == 0
    code, said = run("sketch", "voyages.csv")
    assert (code, "The file is there already" in said) == (1, True)
    assert run("sketch", "voyages.csv", "-o", "-")[1] == text


SKETCHED = [
    # values of a column named so; type, form and total that are guessed
    ("net_amount", ["1.5", "2.25"], "number", "#,##0.00", "sum"),
    ("id", ["7", "3", "9"], "whole", None, None),
    ("line", ["1", "2", "3", "4"], "whole", "#,##0", None),
    ("boats", ["4", "2", "3", "2"], "whole", "#,##0", "sum"),
    ("vat_rate", ["0.21", "0.09"], "number", "percent", None),
    ("code", ["007", "012"], None, None, None),
    ("paid", ["2026-05-01", "2026-04-30"], "date", "date", None),
    ("month", ["2026-05", "2026-04"], "month", "date:MMMM y", None),
    ("at", ["2026-05-01T10:30", "2026-05-01T11:30"], "datetime", "datetime", None),
    ("name", ["Teal", "3"], None, None, None),
    ("nothing", ["", ""], None, None, None),
]


@pytest.mark.parametrize(("name", "values", "kind", "form", "total"), SKETCHED)
def test_sketch_guesses_types_forms_and_totals(folder, name, values, kind, form, total):
    Path("rows.csv").write_text("\n".join([f"other,{name}", *(f"{n % 2}x,{value}" for n, value in enumerate(values))]))
    top = yaml.safe_load(run("sketch", "rows.csv", "-o", "-")[1])["brief"]
    assert top["data"]["rows"].get("types", {}).get(name) == kind
    column = next(c for c in top["parts"][1]["ledger"]["columns"] if c["name"] == name)
    assert (column.get("form"), column.get("total")) == (form, total)


@pytest.mark.parametrize("name", ["gone.csv", "x.pdf"])
def test_sketch_says_what_it_cannot_read(folder, name):
    Path("x.pdf").write_bytes(b"%PDF-1.7")
    code, said = run("sketch", name)
    assert (code, "fleetquill: " in said) == (1, True)
    assert "Traceback" not in said


def test_sketch_takes_odd_names(folder):
    Path("2026 tolls.csv").write_text("Lock's name,net amount\nSaltgate,2.5\n")
    assert run("sketch", "2026 tolls.csv")[0] == 0
    code, said = run("press", "2026 tolls.brief.yaml", "--data", "2026 tolls.csv", "-o", "x.txt")
    assert code == 0, said
    assert "Net amount" in Path("x.txt").read_text()


@pytest.mark.parametrize(
    ("columns", "page"), [(8, None), (9, "A4 landscape"), (16, "A4 landscape"), (17, "A3 landscape")]
)
def test_a_sketch_of_many_columns_lies_on_its_side(folder, columns, page):
    names = [f"lock_{number}" for number in range(columns)]
    Path("locks.csv").write_text(",".join(names) + "\n" + ",".join("12345" for _ in names) + "\n")
    assert run("sketch", "locks.csv")[0] == 0
    assert yaml.safe_load(Path("locks.brief.yaml").read_text())["brief"].get("page") == page
    code, said = run("press", "locks.brief.yaml", "--data", "locks.csv", "-o", "locks.pdf")
    assert code == 0 and "wider than" not in said
