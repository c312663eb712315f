"""Rows of a brief: where they come from, and what is made of them."""

import sqlite3
from collections import namedtuple
from datetime import date
from decimal import Decimal
from itertools import accumulate

import openpyxl
import pandas as pd
import pytest
from briefing import as_brief, text_of
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq

ROWS = [
    {"lock": "Saltgate", "barge": "Teal", "toll": Decimal("3.5"), "day": "2026-05-01"},
    {"lock": "Saltgate", "barge": "Heron", "toll": Decimal("1.25"), "day": "2026-04-30"},
    {"lock": "Stonecross", "barge": "Teal", "toll": None, "day": "2026-05-02"},
    {"lock": "Stonecross", "barge": "Grebe", "toll": Decimal("8"), "day": "2026-05-03"},
]


SHAPES = [
    ({"where": "toll and toll > 2"}, ["barge", "toll"], [["Teal", "3.5"], ["Grebe", "8"]]),
    ({"where": ["lock == 'Saltgate'", "toll > least"]}, ["barge"], [["Teal"], ["Heron"]]),
    ({"compute": {"double": "(toll or 0) * 2", "more": "double + 1"}}, ["barge", "more"],
     [["Teal", "8.0"], ["Heron", "3.50"], ["Teal", "1"], ["Grebe", "17"]]),
    ({"compute": {"barge": "barge | upper"}, "top": 2}, ["barge"], [["TEAL"], ["HERON"]]),
    ({"sort": "-toll"}, ["barge"], [["Grebe"], ["Teal"], ["Heron"], ["Teal"]]),
    ({"sort": ["barge", "-day"]}, ["barge", "lock"],
     [["Grebe", "Stonecross"], ["Heron", "Saltgate"], ["Teal", "Stonecross"], ["Teal", "Saltgate"]]),
    ({"distinct": "lock"}, ["lock", "barge"], [["Saltgate", "Teal"], ["Stonecross", "Teal"]]),
    ({"keep": ["lock", "barge"], "top": 1}, ["barge"], [["Teal"]]),
    ({"by": "lock", "figures": {"all": "sum toll", "rows": "count", "known": "count toll", "mean": "average toll",
                                "least_toll": "least toll", "toll": "most"}},
     ["lock", "all", "rows", "known", "mean", "least_toll", "toll"],
     [["Saltgate", "4.75", "2", "2", "2.375", "1.25", "3.5"], ["Stonecross", "8", "2", "1", "8", "8", "8"]]),
    ({"by": ["lock", "barge"], "figures": {"toll": "sum"}, "top": 1}, ["lock", "barge", "toll"],
     [["Saltgate", "Teal", "3.5"]]),
    ({"running": {"so_far": "toll"}}, ["so_far"], [["3.5"], ["4.75"], ["4.75"], ["12.75"]]),
    ({"running": {"so_far": {"of": "toll", "within": "lock"}}}, ["so_far"], [["3.5"], ["4.75"], ["0"], ["8"]]),
    ({"where": "toll", "share": {"part": {"of": "toll", "within": "lock"}}, "top": 1},
     [{"name": "part", "form": "percent:0%"}], [["74%"]]),
    ({"share": {"part": "toll"}, "sort": "toll"}, [{"name": "part", "form": "percent:0.0%"}],
     [["9.8%"], ["27.5%"], ["62.7%"], ["0.0%"]]),
    ({"types": {"day": "date"}, "compute": {"month": "day.month"}, "top": 2}, ["month"], [["5"], ["4"]]),
    ({"types": {"day": "month"}, "top": 2}, [{"name": "day", "form": "date:MMM y"}], [["May 2026"], ["Apr 2026"]]),
    ({"join": {"keepers": "lock"}, "top": 3}, ["barge", {"name": "keeper", "form": "text"}],
     [["Teal", "Bram"], ["Teal", "Odile"], ["Heron", "Bram"]]),
    ({"join": {"keepers": {"barge": "lock"}}, "where": "not keeper", "top": 1}, ["barge"], [["Teal"]]),
]  # fmt: skip


@pytest.mark.parametrize(("shaping", "columns", "expected"), SHAPES)
def test_what_is_made_of_rows(shaping, columns, expected):
    keepers = [{"lock": "Saltgate", "keeper": "Bram"}, {"lock": "Saltgate", "keeper": "Odile"}]
    top = {
        "language": "en",
        "data": {"keepers": {"given": True}, "tolls": {"given": True, **shaping}},
        "parameters": {"least": "number"},
        "parts": [{"table": {"rows": "tolls", "columns": columns, "head": False}}],
    }
    edition = fq.compose(as_brief(top), data={"tolls": ROWS, "keepers": keepers}, parameters={"least": "1"})
    texts = [line for page in edition.pages for line in page.text.split("\n") if line]
    assert texts == [text for row in expected for text in row]


FAULTS = [
    ({"where": "tol > 2"}, r"tolls\.where: 'tol > 2' asks for 'tol', which there is not\. Did you mean 'toll'"),
    ({"where": "toll > "}, r"tolls\.where: 'toll > ' does not parse"),
    ({"where": "toll > 2 then"}, r"does not parse: there is more after its end"),
    ({"where": "toll > 2"}, r"tolls\.where: row 3, 'toll > 2' fails"),
    ({"compute": {"x": "1 / (toll - 3.5)"}}, r"tolls\.compute\.x: row 1, '.*' divides by nothing"),
    ({"compute": {"x": "toll | munny"}}, r"compute\.x: There is no filter 'munny'\. Did you mean 'money'"),
    ({"compute": {"x": "barge.size"}}, r"compute\.x: row 1, 'barge\.size' asks for 'size', which there is not"),
    ({"sort": "tol"}, r"tolls\.sort: The rows have no 'tol'\. Did you mean 'toll'"),
    ({"compute": {"x": "toll or barge"}, "sort": "x"}, r"tolls\.sort: 'x' cannot be sorted: its values are of several"),
    ({"keep": ["lock", "brage"]}, r"tolls\.keep: The rows have no 'brage'"),
    ({"types": {"barge": "number"}}, r"types\.barge: row 1, 'barge': 'Teal' is no value of the type 'number', such as"),
    ({"running": {"x": "barge"}}, r"running\.x: row 1, 'barge': 'Teal' is not a number"),
    ({"running": {"x": {"within": "lock"}}}, r"running\.x: This says nothing of what is added up"),
    ({"by": "lock", "figures": {"x": "sum barge"}}, r"figures\.x: row 1, 'barge': 'Teal' is not a number"),
    ({"join": {"others": "lock"}}, r"join\.others: Both sides have a 'barge'"),
    ({"join": {"others": {"lock": "lok"}}}, r"join\.others: The rows have no 'lok'"),
    ({"top": 0}, r"tolls\.top: 0 is not how many rows are wanted"),
    ({"compute": {"x": "''.__class__.__mro__"}}, r"compute\.x: row 1, .* (unsafe|asks for)"),
    ({"compute": {"x": "toll.__init__.__globals__"}}, r"compute\.x: row 1, .* (unsafe|asks for)"),
]  # fmt: skip


@pytest.mark.parametrize(("shaping", "said"), FAULTS)
def test_what_cannot_be_made_of_rows_is_told_with_its_row(shaping, said):
    top = {
        "data": {"others": {"given": True}, "tolls": {"given": True, **shaping}},
        "parts": [{"ledger": {"rows": "tolls", "columns": ["lock"]}}],
    }
    with pytest.raises(fq.DataError, match=said):
        fq.compose(as_brief(top), data={"tolls": ROWS, "others": [{"lock": "Saltgate", "barge": "x"}]})


amounts = st.lists(st.tuples(st.sampled_from("abc"), st.integers(-999, 999)), min_size=1, max_size=30)


@given(amounts)
def test_running_sums_shares_and_groups_agree_with_one_another(rows):
    given_rows = [{"name": name, "n": n} for name, n in rows]
    top = {
        "data": {
            "given": {"given": True, "running": {"so_far": "n"}},
            "sums": {"from": "given", "by": "name", "figures": {"n": "sum"}},
        },
        "parts": [
            {"table": {"rows": "given", "columns": ["so_far"], "head": False}},
            {"table": {"rows": "sums", "columns": ["name", "n"], "head": False}},
            {"paragraph": "{{ given | total('n') }}"},
        ],
    }
    texts = text_of(top, data=given_rows).split()
    sums = {}
    for name, n in rows:
        sums[name] = sums.get(name, 0) + n
    expected = [*accumulate(n for _, n in rows), *(part for pair in sums.items() for part in pair), sum(sums.values())]
    assert [text.replace(",", "") for text in texts] == [str(part) for part in expected]


Row = namedtuple("Row", "lock toll")


class Toll:
    def __init__(self, lock, toll):
        self.lock, self.toll = lock, toll


def cursor():
    database = sqlite3.connect(":memory:")
    return database.execute("select 'Saltgate' as lock, 2 as toll union all select 'Stonecross', 3")


PAIRS = [("Saltgate", 2), ("Stonecross", 3)]


@pytest.mark.parametrize(
    "make",
    [
        lambda: [{"lock": lock, "toll": toll} for lock, toll in PAIRS],
        lambda: iter([{"lock": lock, "toll": toll} for lock, toll in PAIRS]),
        lambda: [Row(*pair) for pair in PAIRS],
        lambda: (Row(*pair) for pair in PAIRS),
        lambda: [Toll(*pair) for pair in PAIRS],
        lambda: pd.DataFrame(PAIRS, columns=["lock", "toll"]),
        cursor,
    ],
    ids=["mappings", "iterator", "named tuples", "generator", "objects", "frame", "cursor"],
)
def test_rows_may_be_given_in_many_shapes(make):
    top = {"data": {"tolls": {"given": True}}, "parts": [{"ledger": {"rows": "tolls", "columns": ["toll", "lock"]}}]}
    assert text_of(top, data=make()) == "toll lock 2 Saltgate 3 Stonecross"
    assert text_of(top, data={"tolls": make()}) == "toll lock 2 Saltgate 3 Stonecross"


def write_files(folder):
    (folder / "tolls.csv").write_text("lock;toll\nSaltgate;2\nStonecross;3\n")
    (folder / "tolls.tsv").write_text("lock\ttoll\nSaltgate\t2\nStonecross\t3\n")
    (folder / "tolls.jsonl").write_text('{"lock": "Saltgate", "toll": 2}\n\n{"lock": "Stonecross", "toll": 3}\n')
    (folder / "tolls.json").write_text(
        '{"tolls": [{"lock": "Saltgate", "toll": 2}, {"lock": "Stonecross", "toll": 3}]}'
    )
    book = openpyxl.Workbook()
    book.active.append(["other"])
    sheet = book.create_sheet("tolls")
    for row in [["lock", None, "toll"], ["Saltgate", None, 2], [None, None, None], ["Stonecross", None, 3]]:
        sheet.append(row)
    book.save(folder / "tolls.xlsx")


@pytest.mark.parametrize("ending", ["csv", "tsv", "jsonl", "json", "xlsx"])
def test_rows_come_from_files_beside_the_brief(ending, tmp_path):
    write_files(tmp_path)
    data = {"tolls": {"file": f"tolls.{ending}", **({"sheet": "tolls"} if ending == "xlsx" else {})}}
    top = {"data": data, "parts": [{"ledger": {"rows": "tolls", "columns": ["lock", "toll"]}}]}
    assert text_of(top, tmp_path) == "lock toll Saltgate 2 Stonecross 3"
    given_top = {**top, "data": {"tolls": {"given": True}}}
    if ending != "xlsx":
        assert text_of(given_top, data=tmp_path / f"tolls.{ending}") == "lock toll Saltgate 2 Stonecross 3"


def test_parquet_is_read_where_it_can_be(tmp_path):
    pytest.importorskip("pyarrow")
    pd.DataFrame(PAIRS, columns=["lock", "toll"]).to_parquet(tmp_path / "tolls.parquet")
    top = {"data": {"tolls": {"file": "tolls.parquet"}}, "parts": [{"ledger": {"rows": "tolls", "columns": ["toll"]}}]}
    assert text_of(top, tmp_path) == "toll 2 3"


@pytest.mark.parametrize(
    ("name", "content", "said"),
    [
        ("gone.csv", None, r"tolls\.file: The file of rows '.*gone\.csv' does not exist"),
        ("short.csv", "a,b\n1,2\n3\n", r"short\.csv, line 3: The row has 1 values, and the head has 2"),
        ("bad.jsonl", '{"a": 1}\n{"a": \n', r"bad\.jsonl, line 2: The JSON does not parse"),
        ("no.xlsx", "text", r"tolls\.file: '.*no\.xlsx' cannot be read as a workbook"),
        ("one.json", "3", r"'?3'? is not rows|single int"),
        ("tolls.pdf", "%PDF", r"tolls\.file: 'tolls\.pdf' is no file of rows"),
    ],
)
def test_files_that_cannot_be_read_are_told(name, content, said, tmp_path):
    if content is not None:
        (tmp_path / name).write_text(content)
    column = {"name": "a"}
    top = {"data": {"tolls": {"file": name}}, "parts": [{"ledger": {"rows": "tolls", "columns": [column]}}]}
    with pytest.raises(fq.DataError, match=said):
        fq.compose(as_brief(top, tmp_path))


def test_briefs_of_strangers_read_no_file_outside_of_their_folder_and_ask_no_database(tmp_path):
    folder = tmp_path / "briefs"
    folder.mkdir()
    (tmp_path / "out.csv").write_text("a\n1\n")
    press = fq.Press(policy=fq.Policy(strangers=True))
    top = {"parts": [{"ledger": {"rows": "tolls", "columns": ["a"]}}]}
    with pytest.raises(fq.DataError, match=r"tolls\.file: The file '\.\./out\.csv' lies outside"):
        press.compose(as_brief({**top, "data": {"tolls": {"file": "../out.csv"}}}, folder))
    write_files(folder)
    small = fq.Press(policy=fq.Policy(strangers=True, file_size=300))
    with pytest.raises(fq.LimitError):
        small.compose(as_brief({**top, "data": {"tolls": {"file": "tolls.xlsx"}}}, folder))
    packed = fq.Press(
        policy=fq.Policy(strangers=True, file_size=(folder / "tolls.xlsx").stat().st_size // 15 * 15 + 15)
    )
    assert packed.compose(
        as_brief({"data": {"t": {"file": "tolls.xlsx", "sheet": 2}}, "parts": [{"table": {"rows": "t"}}]}, folder)
    )
    asking = {"data": {"tolls": {"sql": "select 1 as a", "connection": "h"}}}
    with pytest.raises(fq.DataError, match="A brief of strangers asks a database"):
        press.compose(as_brief({**top, **asking}, folder), connections={"h": "sqlite://"})
    with pytest.raises(fq.LimitError):
        press.compose(as_brief({"title": "{{ 'a' * 999999999 }}"}, folder))
    with pytest.raises((fq.LimitError, fq.DataError)):
        press.compose(
            as_brief({"title": "{% for x in range(9999999) %}{% for y in range(99999) %}a{% endfor %}{% endfor %}"})
        )


def test_data_that_is_not_asked_for_or_not_given_is_told():
    top = {"data": {"tolls": {"given": True}}, "parts": [{"ledger": {"rows": "tolls", "columns": ["a"]}}]}
    with pytest.raises(fq.DataError, match=r"no data 'tols' that is given\. Did you mean 'tolls'"):
        fq.compose(as_brief(top), data={"tols": []})
    with pytest.raises(fq.DataError, match=r"The rows of 'tolls' are not given\. Give them with data="):
        fq.compose(as_brief(top))
    two = {**top, "data": {"tolls": {"given": True}, "locks": {"given": True}}}
    with pytest.raises(fq.DataError, match="takes data under several names: tolls, locks"):
        fq.compose(as_brief(two), data=[])
    with pytest.raises(fq.DataError, match="takes no data"):
        fq.compose(as_brief({"title": "x"}), data=[])


def test_rows_are_read_once_where_they_are_asked_for_once_and_are_there_again_where_more_often():
    read = []

    def rows(count):
        for number in range(count):
            read.append(number)
            yield {"n": number}

    once = {"data": {"r": {"given": True}}, "parts": [{"ledger": {"rows": "r", "columns": ["n"]}}]}
    assert text_of(once, data=rows(3)) == "n 0 1 2"
    more = {**once, "parts": [*once["parts"], {"paragraph": "{{ r | total('n') }} of {{ r | length }}"}]}
    assert text_of(more, data=rows(3)) == "n 0 1 2 3 of 3"
    assert read == [0, 1, 2, 0, 1, 2]


def test_a_report_stops_reading_where_it_has_enough():
    read = []

    def rows():
        for number in range(100_000):
            read.append(number)
            yield {"n": number}

    top = {
        "data": {"r": {"given": True, "top": 3}},
        "parts": [{"ledger": {"rows": "r", "columns": ["n"]}}],
    }
    assert text_of(top, data=rows()) == "n 0 1 2"
    assert len(read) < 10


def test_a_generator_that_dies_is_told_and_leaves_no_file(tmp_path):
    def rows():
        yield {"day": date(2026, 5, 1)}
        raise fq.DataError("The lock's book is wet.")

    top = {"data": {"r": {"given": True}}, "parts": [{"ledger": {"rows": "r", "columns": ["day"]}}]}
    with pytest.raises(fq.DataError, match="The lock's book is wet"):
        fq.write(as_brief(top), tmp_path / "r.pdf", data=rows())
    assert list(tmp_path.iterdir()) == []
