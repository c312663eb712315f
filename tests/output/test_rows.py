"""Tables as workbooks and as data files, from every door."""

import csv
import io
from datetime import date, datetime, time, timedelta
from decimal import Decimal

import openpyxl
import pytest

import fleetquill as fq
from fleetquill.output.counted import CountedStream

COLUMNS = [
    fq.Column("barge", head="Barge"),
    fq.Column("day", head="Day", form="date:d MMM yyyy"),
    fq.Column("tonnes", head="Tonnes", form="#,##0.0"),
    fq.Column("toll", head="Toll", form="money:EUR", total="sum"),
]
ROWS = [
    {"barge": "Heron", "day": date(2026, 5, 2), "tonnes": Decimal("1033.9"), "toll": Decimal("210.18")},
    {"barge": "=Teal", "day": date(2026, 5, 3), "tonnes": 46, "toll": Decimal("104.61")},
    {"barge": "Heron", "day": None, "tonnes": 2.5, "toll": Decimal(-4)},
]


def made(part, **options) -> fq.Manuscript:
    m = fq.Manuscript(title="Tolls", author="Reedwater Barge Cooperative")
    m.heading("Tolls of May")
    getattr(m, part)(ROWS, COLUMNS, **options)
    return m


def book_of(source, **options):
    stream = io.BytesIO()
    fq.write(source, stream, kind="xlsx", **options)
    return openpyxl.load_workbook(stream)


def lines_of(source, **options) -> list[list[str]]:
    stream = io.BytesIO()
    fq.write(source, stream, kind="csv", **options)
    delimiter = options.get("delimiter", ",")
    return list(csv.reader(io.StringIO(stream.getvalue().decode(), newline=""), delimiter=delimiter))


@pytest.mark.parametrize("part", ["table", "ledger"])
class TestWorkbook:
    def test_values_are_values_with_the_forms_of_their_columns(self, part):
        (sheet,) = book_of(made(part))
        assert sheet.title == "Tolls of May"
        assert [cell.value for cell in sheet[1]] == ["Barge", "Day", "Tonnes", "Toll"]
        assert [cell.value for cell in sheet[2]] == ["Heron", datetime(2026, 5, 2), 1033.9, 210.18]
        assert [cell.number_format for cell in sheet[2]] == ["General", "d mmm yyyy", "#,##0.0", '"€"#,##0.00']
        assert [cell.value for cell in sheet[4]] == ["Heron", None, 2.5, -4]

    @pytest.mark.parametrize(
        ("form", "code"),
        [("percent:0.0", "0.0%"), ("percent:0%", "0%"), ("percent:+0;-0", "+0%;-0%"), ("percent", "0.00%")],
    )
    def test_shares_have_their_sign(self, part, form, code):
        m = fq.Manuscript(title="Shares")
        getattr(m, part)([{"share": Decimal("0.2567")}], [fq.Column("share", form=form)])
        (sheet,) = book_of(m)
        assert (sheet["A2"].value, sheet["A2"].number_format) == (0.2567, code)

    def test_text_that_looks_like_a_formula_stays_text(self, part):
        (sheet,) = book_of(made(part))
        assert (sheet["A3"].value, sheet["A3"].data_type) == ("=Teal", "s")

    def test_sums_are_formulas_with_kept_values(self, part):
        (sheet,) = book_of(made(part))
        assert [cell.value for cell in sheet[5]] == ["Total", None, None, "=SUM(D2:D4)"]
        stream = io.BytesIO()
        fq.write(made(part), stream, kind="xlsx")
        kept = openpyxl.load_workbook(stream, data_only=True).active
        assert kept["D5"].value == pytest.approx(310.79)

    def test_the_head_stays_repeats_and_filters(self, part):
        (sheet,) = book_of(made(part))
        assert (sheet.freeze_panes, sheet.auto_filter.ref, sheet.print_title_rows) == ("A2", "A1:D4", "$1:$1")
        assert sheet["A1"].font.bold and not sheet["A2"].font.bold
        assert sheet["C2"].alignment.horizontal == "right"

    def test_the_same_input_gives_the_same_bytes(self, part):
        first, second = io.BytesIO(), io.BytesIO()
        fq.write(made(part), first, kind="xlsx")
        fq.write(made(part), second, kind="xlsx")
        assert first.getvalue() == second.getvalue()

    def test_data_files_hold_values_for_programs(self, part):
        assert lines_of(made(part)) == [
            ["Barge", "Day", "Tonnes", "Toll"],
            ["Heron", "2026-05-02", "1033.9", "210.18"],
            ["=Teal", "2026-05-03", "46", "104.61"],
            ["Heron", "", "2.5", "-4"],
        ]

    def test_data_files_hold_what_pages_show_on_request(self, part):
        lines = lines_of(made(part), values="shown", delimiter=";")
        assert lines[1] == ["Heron", "2 May 2026", "1,033.9", "€210.18"]
        assert lines[-1] == ["Total", "", "", "€310.79"]


def test_groups_have_headings_and_subtotals_that_the_total_leaves_out():
    (sheet,) = book_of(made("ledger", group="barge"))
    firsts = [row[0].value for row in sheet.iter_rows()]
    assert firsts == ["Barge", "Heron", "Heron", "Heron", "=Teal", "=Teal", "=Teal", "Heron", "Heron", "Heron", "Total"]
    sums = [row[3].value for row in sheet.iter_rows() if str(row[3].value).startswith("=")]
    assert sums == ["=SUBTOTAL(9,D3)", "=SUBTOTAL(9,D6)", "=SUBTOTAL(9,D9)", "=SUBTOTAL(9,D3:D9)"]
    assert len(lines_of(made("ledger", group="barge"))) == 1 + len(ROWS)


HTML = """
<style>.gone { display: none } .brought { -fq-show-on: continued } td.n { -fq-tally: n }</style>
<p>Before the table.</p>
<table id="one"><caption>Locks: by [year]</caption>
<thead><tr><th rowspan="2">Lock</th><th colspan="2">Boats</th></tr><tr><th>laden</th><th>empty</th></tr></thead>
<thead class="brought"><tr><td>Brought<td><td></tr></thead>
<tfoot><tr><td>All<td><fq-tally name="n" scope="all"></fq-tally><td></tr></tfoot>
<tr><td><a href="https://reedwater.example/willow">Upper Willow</a><td class="n" data-value="1118">1 118<td>40</tr>
<tr class="gone"><td>Nowhere<td>1<td>1</tr>
<tr><td>Nether<br>Mill<td class="n">126<td>0040</tr>
</table>
<table id="two"><tr><td>Saltgate<td>€1,234.50</tr></table>
"""


def test_a_table_of_html_keeps_spans_links_and_lines_and_leaves_out_what_is_hidden():
    first, second = book_of(fq.Manuscript.from_html(HTML))
    assert (first.title, second.title) == ("Locks  by  year", "2")
    assert sorted(map(str, first.merged_cells.ranges)) == ["A1:A2", "B1:C1"]
    rows = [[cell.value for cell in row] for row in first.iter_rows(min_row=2)]
    assert rows == [
        [None, "laden", "empty"],
        ["Upper Willow", 1118, 40],
        ["Nether\nMill", 126, "0040"],
        ["All", "=SUM(B3:B4)", None],
    ]
    assert first["A3"].hyperlink.target == "https://reedwater.example/willow"
    assert (second["B1"].value, second["B1"].number_format) == (1234.5, '"€"#,##0.00')


def test_cells_that_overlap_make_a_workbook_all_the_same():
    html = "<table><tr><td rowspan=3>a<td>b<td rowspan=2>c<tr><td colspan=2>d<tr><td colspan=4>e</table>"
    (sheet,) = book_of(fq.Manuscript.from_html(html))
    values = [cell.value for row in sheet.iter_rows() for cell in row if cell.value]
    assert values == ["a", "b", "c", "d", "e"]


def test_a_link_that_no_cell_holds_is_text():
    link = "https://reedwater.example/" + "x" * 3000
    (sheet,) = book_of(fq.Manuscript.from_html(f"<table><tr><td><a href='{link}'>far</a></table>"))
    assert (sheet["A1"].value, sheet["A1"].hyperlink) == ("far", None)


def test_what_is_no_table_is_remarked_once():
    summary = fq.write(fq.Manuscript.from_html(HTML), io.BytesIO(), kind="xlsx")
    assert [remark.kind for remark in summary.remarks] == ["kind"]
    summary = fq.write(made("table"), io.BytesIO(), kind="xlsx")
    assert summary.remarks == ()


def test_several_tables_are_no_csv_but_the_one_that_is_named():
    m = fq.Manuscript.from_html(HTML)
    with pytest.raises(fq.OptionError, match="2 tables"):
        lines_of(m)
    assert lines_of(m, only="#two") == [["Saltgate", "1234.50"]]
    assert lines_of(m, only="#two", values="shown") == [["Saltgate", "€1,234.50"]]
    lines = lines_of(m, only="#one")
    assert lines[:2] == [["Lock", "Boats", ""], ["", "laden", "empty"]]
    assert lines[3] == ["Nether\nMill", "126", "0040"]


@pytest.mark.parametrize("kind", ["xlsx", "csv"])
def test_a_document_without_a_table_says_so(kind):
    with pytest.raises(fq.OptionError, match="no table"):
        fq.write(fq.Manuscript.from_html("<p>Only text"), io.BytesIO(), kind=kind)


def test_times_durations_truth_and_large_numbers_lose_nothing():
    columns = [fq.Column(name) for name in ("at", "time", "long", "true", "big", "old", "share")]
    row = (
        datetime(2026, 5, 2, 14, 30),
        time(6, 5),
        timedelta(hours=26),
        True,
        12345678901234567890,
        date(1850, 1, 1),
        0.5,
    )
    m = fq.Manuscript()
    m.ledger([row], columns)
    stream = io.BytesIO()
    summary = fq.write(m, stream, kind="xlsx")
    cells = openpyxl.load_workbook(stream).active[2]
    assert [cell.value for cell in cells][:4] == [datetime(2026, 5, 2, 14, 30), time(6, 5), timedelta(hours=26), True]
    assert [cell.value for cell in cells][4:] == ["12345678901234567890", "Jan 1, 1850", 0.5]
    assert any("15 digits" in remark.message for remark in summary.remarks)
    assert lines_of(m)[1] == ["2026-05-02T14:30:00", "06:05:00", "93600.0", "true", str(row[4]), "1850-01-01", "0.5"]


def test_a_ledger_of_a_file_has_its_numbers_and_dates(tmp_path):
    (tmp_path / "rows.csv").write_text("lock,day,boats,code\nSaltgate,2026-05-02,1204,007\n", "utf-8")
    m = fq.Manuscript.from_html("<fq-ledger src='rows.csv'></fq-ledger>", base=tmp_path)
    assert [cell.value for cell in book_of(m).active[2]] == ["Saltgate", datetime(2026, 5, 2), 1204, "007"]


def test_a_value_that_does_not_fit_names_its_row_and_column():
    m = fq.Manuscript()
    m.ledger([{"toll": 1}, {"toll": "much"}], [fq.Column("toll", form="money:EUR")])
    with pytest.raises(fq.DataError, match="Row 2, column 'toll'"):
        fq.write(m, io.BytesIO(), kind="csv")


def test_more_rows_than_a_sheet_holds_go_on_in_the_next_one(monkeypatch):
    monkeypatch.setattr("fleetquill.output.xlsx.document.MOST_ROWS", 100)
    m = fq.Manuscript()
    m.ledger(((number,) for number in range(250)), [fq.Column("n")], caption="Many")
    book = book_of(m)
    assert book.sheetnames == ["Many", "Many (2)", "Many (3)"]
    assert [sheet["A1"].value for sheet in book] == ["n"] * 3
    values = [row[0] for sheet in book for row in sheet.iter_rows(min_row=2, values_only=True)]
    assert values == list(range(250))


@pytest.mark.parametrize(
    ("options", "message"),
    [
        ({"kind": "csv", "values": "row"}, "Did you mean 'raw'"),
        ({"kind": "csv", "delimiter": ";;"}, "one character"),
        ({"kind": "xslx"}, "Did you mean 'xlsx'"),
    ],
)
def test_a_wrong_way_to_write_is_told(options, message):
    with pytest.raises(fq.OptionError, match=message):
        fq.write(made("table"), io.BytesIO(), **options)


def test_a_summary_has_the_headers_of_a_download():
    stream = io.BytesIO()
    summary = fq.write(made("table"), stream, kind="csv")
    headers = summary.headers("tolls.csv", inline=False)
    assert headers["Content-Type"] == "text/csv; charset=utf-8"
    assert headers["Content-Disposition"] == 'attachment; filename="tolls.csv"'
    assert headers["Content-Length"] == str(len(stream.getvalue()))
    assert summary.row_count == 4


class Dripping(io.RawIOBase):
    """Takes only a few bytes of each write."""

    def __init__(self):
        self.content = b""

    def writable(self):
        return True

    def write(self, content):
        self.content += bytes(content[:7])
        return min(7, len(content))


@pytest.mark.parametrize("kind", ["xlsx", "csv"])
def test_a_stream_that_takes_a_part_gets_the_rest(kind):
    whole, slow = io.BytesIO(), Dripping()
    fq.write(made("ledger"), whole, kind=kind)
    fq.write(made("ledger"), slow, kind=kind)
    if kind == "csv":
        assert slow.content == whole.getvalue()
    else:
        first, second = (openpyxl.load_workbook(io.BytesIO(c)).active for c in (whole.getvalue(), slow.content))
        assert list(first.values) == list(second.values)


def test_a_stream_that_its_owner_closes_first_is_left_in_peace():
    stream = io.BytesIO()
    counted = CountedStream(stream)
    counted.write(b"Saltgate")
    stream.close()
    counted.close()
    assert counted.closed and counted.length == 8
