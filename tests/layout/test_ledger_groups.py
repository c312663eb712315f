"""Ledgers in groups, one within another, in every kind of file."""

import csv
import io
import re
import zipfile
from datetime import date
from decimal import Decimal
from itertools import groupby

import openpyxl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq

LOCKS = ("Saltgate", "Stonecross")
ROWS = [
    {
        "lock": lock,
        "month": date(2026, month, 1),
        "barge": f"{lock[:2]}{month}{number}",
        "toll": Decimal(number * month),
    }
    for lock in LOCKS
    for month in (4, 5)
    for number in range(1, 4)
]
LABELLED = fq.Group("lock", summaries=["total", "average", "share"], label="{}: {} tolls".format)
BY_MONTH = fq.Group("month", form="date:MMMM y")


def tolls(rows=ROWS, group=(LABELLED, BY_MONTH), page="A5", **options):
    m = fq.Manuscript(title="Tolls", language="en", page=page)
    columns = [
        fq.Column("barge", head="Barge"),
        fq.Column("toll", head="Toll", form="#,##0.00", total="sum", **options),
    ]
    m.ledger(rows, columns, group=group)
    return m


def written(manuscript, kind, **options):
    stream = io.BytesIO()
    fq.write(manuscript, stream, kind=kind, **options)
    stream.seek(0)
    return stream


def words(edition):
    return " ".join(word for page in edition.pages for word in page.text.split())


def test_headings_and_summaries_stand_where_groups_begin_and_end():
    assert words(fq.compose(tolls(page="A4"))) == (
        "Barge Toll Saltgate April 2026 Sa41 4.00 Sa42 8.00 Sa43 12.00 April 2026 24.00 "
        "May 2026 Sa51 5.00 Sa52 10.00 Sa53 15.00 May 2026 30.00 Saltgate: 6 tolls 54.00 Average 9.00 Share 50% "
        "Stonecross April 2026 St41 4.00 St42 8.00 St43 12.00 April 2026 24.00 "
        "May 2026 St51 5.00 St52 10.00 St53 15.00 May 2026 30.00 Stonecross: 6 tolls 54.00 Average 9.00 Share 50% "
        "Total 108.00"
    )


@pytest.mark.parametrize("kind", ["txt", "html", "docx"])
def test_other_kinds_have_the_same_rows(kind):
    content = written(tolls(), kind).getvalue()
    if kind == "docx":
        content = re.sub(rb"</w:p>", b" ", zipfile.ZipFile(io.BytesIO(content)).read("word/document.xml"))
    text = re.sub(r"<style.*?</style>|<title>.*?</title>|-{3,}", "", content.decode(), flags=re.DOTALL)
    found = " ".join(re.sub(r"<[^>]*>", " ", text).split())
    if kind == "txt":  # its columns are as narrow as they can be
        found = found.replace("Saltgate: 54.00 6 tolls", "Saltgate: 6 tolls 54.00")
        found = found.replace("Stonecross: 54.00 6 tolls", "Stonecross: 6 tolls 54.00")
    assert found == words(fq.compose(tolls(page="A4")))


def test_groups_are_known_to_data_files():
    rows = list(csv.reader(io.TextIOWrapper(written(tolls(), "csv"), encoding="utf-8")))
    assert rows[0] == ["lock", "month", "Barge", "Toll"]
    assert rows[1] == ["Saltgate", "2026-04-01", "Sa41", "4"]
    assert len(rows) == len(ROWS) + 1


FORMULA = re.compile(r"=SUBTOTAL\((\d+),([A-Z]+)(\d+):[A-Z]+(\d+)\)(?:/([\d.]+))?")


def value_of(sheet, cell):
    """What a formula comes to: those within its range are left out, as ISO/IEC 29500 has it of SUBTOTAL."""
    number, column, first, last, whole = FORMULA.fullmatch(cell.value).groups()
    inner = [sheet[f"{column}{row}"].value for row in range(int(first), int(last) + 1)]
    numbers = [value for value in inner if isinstance(value, (int, float))]
    return (sum(numbers) if number == "9" else sum(numbers) / len(numbers)) / float(whole or 1)


def test_a_workbook_has_formulas_for_each_group_and_an_outline():
    stream = written(tolls(), "xlsx")
    formulas, values = openpyxl.load_workbook(stream).active, openpyxl.load_workbook(stream, data_only=True).active
    found = {row: cell for row, cell in enumerate(formulas["B"], 1) if str(cell.value).startswith("=")}
    assert len(found) == 4 + 2 * 3 + 1
    for row, cell in found.items():
        assert value_of(formulas, cell) == pytest.approx(values.cell(row, 2).value), row
    levels = [formulas.row_dimensions[row].outline_level for row in range(1, 17)]
    assert levels == [0, 0, 1, 2, 2, 2, 1, 1, 2, 2, 2, 1, 0, 0, 0, 0]


def test_headings_are_repeated_where_a_page_goes_on():
    many = [row | {"barge": f"{row['barge']}-{n}"} for row in ROWS for n in range(30)]
    edition = fq.compose(tolls(many))
    assert edition.page_count > 3
    for page in edition.pages:
        found = page.text.split()
        assert found[2] in LOCKS or found[2] in ("Average", "Share", "Total"), page.number
    assert re.findall(r"\w+-\d+", words(edition)) == [row["barge"] for row in many]


def test_a_group_may_have_pages_of_its_own():
    group = [fq.Group("lock", new_page=True, heads=False), BY_MONTH]
    edition = fq.compose(tolls(group=group))
    assert edition.page_count == 2
    assert "Stonecross" not in edition.pages[0].text
    assert edition.pages[1].text.split()[:2] == ["Barge", "Toll"]
    assert "May 2026 30.00 Saltgate 54.00" in words(edition)  # the summary stays without its heading


def test_a_heading_is_what_a_function_makes_of_the_value():
    found = words(fq.compose(tolls(group=fq.Group("lock", heading="Lock {}".format, summaries=()))))
    assert found.startswith("Barge Toll Lock Saltgate Sa41")
    assert "Sa53 15.00 Lock Stonecross" in found


@pytest.mark.parametrize(
    ("total", "expected"), [("average", "9.00"), ("least", "4.00"), ("most", "15.00"), ("count", "12")]
)
def test_a_column_comes_to_other_figures_than_its_sum(total, expected):
    m = fq.Manuscript(language="en")
    column = fq.Column("toll", form="#,##0.00", total=total)
    m.table(ROWS, ["barge", column])
    m.ledger(ROWS, ["barge", column])
    assert re.findall(r"Total ([\d.]+)", words(fq.compose(m))) == [expected] * 2


def test_only_sums_are_carried():
    with pytest.raises(fq.OptionError, match="carried forward but not added up"):
        fq.Column("toll", total="average", carry=True)


def test_groups_in_html_are_those_in_python(tmp_path):
    path = tmp_path / "tolls.csv"
    path.write_text("lock,barge,toll\n" + "".join(f"{r['lock']},{r['barge']},{r['toll']}\n" for r in ROWS))
    group = [fq.Group("lock", summaries=["total", "count"], new_page=True)]
    m = fq.Manuscript(base=tmp_path)
    m.ledger(path, [fq.Column("barge"), fq.Column("toll", total="sum")], group=group)
    back = fq.Manuscript.from_html(m.to_html(), base=tmp_path)
    assert words(fq.compose(back)) == words(fq.compose(m))
    m.ledger(path, ["barge"], group=fq.Group("lock", heading=str.upper))
    with pytest.raises(fq.OptionError, match="a function, which HTML cannot hold"):
        m.to_html()


def test_a_group_that_rows_lack_is_an_error():
    with pytest.raises(fq.DataError, match=r"grouped by 'lok', which is none .*Did you mean 'lock'"):
        fq.compose(tolls(group="lok"))


@settings(max_examples=40)
@given(
    st.lists(st.tuples(st.sampled_from("AB"), st.sampled_from("xyz"), st.integers(-9, 99)), max_size=120),
    st.sampled_from(["A6", "80mm 60mm"]),
    st.booleans(),
)
def test_no_row_or_sum_is_lost_whatever_the_groups(rows, page, new_page):
    m = fq.Manuscript(language="en", page=page, margin="8mm", look="lock")
    columns = [fq.Column("b", head="B"), fq.Column("n", head="N", total="sum")]
    named = [{"a": a, "b": f"{b}{number}", "n": n} for number, (a, b, n) in enumerate(rows)]
    m.ledger(
        named, columns, group=[fq.Group("a", heading="Group {}".format, label="All {} {}".format, new_page=new_page)]
    )
    found = words(fq.compose(m))
    assert re.findall(r"([xyz]\d+) (-?\d+)", found) == [(row["b"], str(row["n"])) for row in named]
    groups = [(key, list(part)) for key, part in groupby(rows, key=lambda row: row[0])]
    expected = [(key, str(len(part)), str(sum(row[2] for row in part))) for key, part in groups]
    assert re.findall(r"All ([AB]) (\d+) (-?\d+)", found) == expected
