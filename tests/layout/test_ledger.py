"""Ledgers: rows from a stream, in the table's own look, every row once and in order."""

from __future__ import annotations

import dataclasses
import io
import re
import threading
from decimal import Decimal

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill import Column
from fleetquill.layout.table.row_stream import LedgerColumn, LedgerGroup, LedgerPlan, RowStream
from fleetquill.tree.groups import Group
from fleetquill.tree.rows import CHUNK, HeldRows, SpooledRows, read_rows

STYLE = (
    "<html lang=en><style>@page{size:400px 300px;margin:20px;@bottom-right{content:counter(page) '/' counter(pages)}}"
    "table{width:100%;border-spacing:0;font-size:12px} td,th{padding:2px 4px}</style>"
)
COLUMNS = [Column("no"), Column("lock"), Column("fee", align="right")]


def ledger(rows: object, columns: list[Column] = COLUMNS, **options: object) -> fq.Manuscript:
    manuscript = fq.Manuscript.from_html(options.pop("html", STYLE))
    manuscript.ledger(rows, columns, **options)
    return manuscript


def rows(count: int) -> list[tuple[str, str, str]]:
    return [(f"n{number}", "Saltgate", f"{number}.50") for number in range(count)]


def words(edition: fq.Edition) -> list[str]:
    return [word for page in edition.pages for word in page.text.split()]


@pytest.mark.parametrize("count", [0, 1, 2, 15, 16, 17, 300])
def test_every_row_is_there_once_and_in_order(count, read_pdf, check_pdf):
    edition = fq.compose(ledger(rows(count)))
    assert [w for w in words(edition) if w[0] == "n" and w[1:].isdigit()] == [f"n{n}" for n in range(count)]
    content = edition.to_bytes()
    check_pdf(content)
    found = "\n".join(read_pdf(content))
    assert re.findall(r"n\d+", found) == [f"n{n}" for n in range(count)]
    assert found.count("lock") == edition.page_count


@pytest.mark.parametrize(
    "ruled",
    ["", "table{border-collapse:collapse}td{border-bottom:1px solid #999}th{border-bottom:3px solid}",
     "table{border-collapse:collapse}td,th{border:1px solid #555}", "table{border-collapse:separate}td{border-top:2px solid red}"],
)  # fmt: skip
def test_it_stands_where_an_ordinary_table_would(ruled):
    data = [(f"n{n}", "Upper Willow" if n % 3 else "x", f"{n}.25") for n in range(40)]
    css = STYLE.replace(
        "</style>", "tr:nth-child(even) td{background:#eef} td:last-child{text-align:right}" + ruled + "</style>"
    )
    body = "".join(f"<tr>{''.join(f'<td>{value}</td>' for value in row)}</tr>" for row in data)
    head = "<thead><tr><th style='text-align:start'>no<th style='text-align:start'>lock<th style='text-align:right'>fee</thead>"
    plain = fq.compose(fq.Manuscript.from_html(f"{css}<table class=fq-table>{head}<tbody>{body}</tbody></table>"))
    streamed = fq.compose(ledger(data, html=css))
    assert plain.page_count == streamed.page_count
    assert [p.text for p in plain.pages] == [p.text for p in streamed.pages]
    shots = [_shots(edition.to_bytes()) for edition in (plain, streamed)]
    for one, other in zip(*shots, strict=True):
        if (
            "border-collapse:collapse" not in ruled
        ):  # there the row under the head shares its thicker border: a pixel less
            assert _difference(one, other) < 0.002
        assert abs(_ink(one) - _ink(other)) < 0.004


def _shots(content: bytes) -> list:
    import pypdfium2 as pdfium

    return [page.render(scale=1.5).to_pil().convert("L") for page in pdfium.PdfDocument(content)]


def _ink(shot) -> float:
    """How dark a page is on the whole, from 0 to 1."""
    darkness = sum(count * (255 - value) for value, count in enumerate(shot.histogram()))
    return darkness / 255 / (shot.width * shot.height)


def _difference(one, other) -> float:
    from PIL import ImageChops

    difference = ImageChops.difference(one, other).point(lambda v: 255 if v > 96 else 0)
    return difference.histogram()[255] / (one.width * one.height)


def test_write_and_compose_write_the_same_bytes():
    stream = io.BytesIO()
    summary = fq.write(ledger(iter(rows(200))), stream)
    assert stream.getvalue() == fq.compose(ledger(rows(200))).to_bytes()
    assert summary.page_count > 10


@dataclasses.dataclass
class Crossing:
    no: str
    lock: str
    fee: Decimal


@pytest.mark.parametrize("kind", ["mappings", "lists", "objects", "frame", "csv", "generator"])
def test_rows_of_every_kind(kind, tmp_path):
    plain = [("n1", "Saltgate", "1.50"), ("n2", "Fenny Bridge", "2.50")]
    if kind == "mappings":
        given = [dict(zip(("fee", "lock", "no"), row[::-1], strict=True)) for row in plain]
    elif kind == "lists":
        given = [list(row) for row in plain]
    elif kind == "objects":
        given = [Crossing(a, b, Decimal(c)) for a, b, c in plain]
    elif kind == "frame":
        pandas = pytest.importorskip("pandas")
        given = pandas.DataFrame(plain, columns=["no", "lock", "fee"])
    elif kind == "csv":
        (tmp_path / "r.csv").write_text("fee,no,lock\n" + "".join(f"{c},{a},{b}\n" for a, b, c in plain))
        given = tmp_path / "r.csv"
    else:
        given = (row for row in plain)
    assert words(fq.compose(ledger(given))) == "no lock fee n1 Saltgate 1.50 n2 Fenny Bridge 2.50".split()


def test_an_element_in_html_reads_its_file(tmp_path):
    (tmp_path / "r.csv").write_text("no,lock,fee\nn1,Saltgate,1234.5\n")
    html = '<fq-ledger src="r.csv"><fq-column name="fee" head="Toll" form="money:EUR" align="right"></fq-column><fq-column name="no"></fq-column></fq-ledger>'
    edition = fq.Press(locale="en-IE").compose(fq.Manuscript.from_html(html, base=tmp_path))
    assert words(edition) == ["Toll", "no", "€1,234.50", "n1"]
    every = fq.compose(fq.Manuscript.from_html('<fq-ledger src="r.csv"></fq-ledger>', base=tmp_path))
    assert words(every) == ["no", "lock", "fee", "n1", "Saltgate", "1234.5"]


def test_sums_are_carried_brought_and_totalled():
    columns = [Column("no"), Column("lock"), Column("fee", form="0.00", total="sum", carry=True)]
    edition = fq.compose(ledger(rows(50), columns))
    texts = [page.text.split("\n") for page in edition.pages]
    carried = [text[text.index("Carried forward") + 1] for text in texts[:-1]]
    brought = [text[text.index("Brought forward") + 1] for text in texts[1:]]
    assert carried == brought
    assert texts[-1][-2:] == ["Total", "1250.00"]
    assert "Total" not in texts[0] and "Brought forward" not in texts[0] and "Carried forward" not in texts[-1]


def test_groups_have_headings_and_subtotals():
    data = [(f"n{n}", ["Heron", "Teal", "Dunlin"][n // 15], "1.00") for n in range(45)]
    columns = [Column("no"), Column("lock"), Column("fee", form="0.00", total="sum")]
    edition = fq.compose(ledger(data, columns, group="lock"))
    lines = [line for page in edition.pages for line in page.text.split("\n")]
    assert [w for w in lines if w[0] == "n" and w[1:].isdigit()] == [f"n{n}" for n in range(45)]
    assert lines.count("15.00") == 3 and lines[-2:] == ["Total", "45.00"]
    for page in edition.pages:  # no heading is left alone at the foot, no subtotal at the head
        text = page.text.split("\n")
        assert text[-1] not in ("Heron", "Teal", "Dunlin") and text[3] in ("Heron", "Teal", "Dunlin")


def test_a_value_that_does_not_fit_is_wrapped_or_clipped_with_a_remark():
    data = rows(120)
    data[110] = ("n110", "a name that is far wider than what the sample let the column be", "9")
    columns = [Column("no"), Column("lock", width="70px"), Column("fee")]
    wrapped = fq.compose(ledger(data, columns))
    assert "sample let" in " ".join(words(wrapped))
    clipped = fq.compose(ledger(data, [Column("no"), Column("lock", width="70px", overflow="clip"), Column("fee")]))
    assert "…" in "".join(words(clipped)) and "sample let" not in " ".join(words(clipped))
    assert {r.kind for r in clipped.remarks} == {"overflow"}


def test_a_caption_stands_on_the_first_page():
    edition = fq.compose(ledger(rows(40), caption="Crossings in May"))
    assert edition.pages[0].text.startswith("Crossings in May") and "Crossings" not in edition.pages[1].text


@pytest.mark.parametrize(
    ("given", "columns", "said"),
    [
        ([("a", "b")], COLUMNS, "Row 1 has 2 values for 3 columns."),
        ([{"no": 1, "lock": 2, "fe": 3}], COLUMNS, "Row 1 has no value for the column 'fee'. Did you mean 'fe'?"),
        ([("1", "b", "x")], [*COLUMNS[:2], Column("fee", total="sum")], "Row 1, column 'fee': 'x' is not a number"),
        ([("1", "b", "1"), ("1", "b", float("nan"))], [*COLUMNS[:2], Column("fee", total="sum")], "Row 2, column 'fee': nan is not a number"),
        ([("1", "b", "1"), ("1", "b", "zwei")], [*COLUMNS[:2], Column("fee", form="0.00")], "Row 2, column 'fee': 'zwei' is not a number"),
        ("gone.csv", COLUMNS, "The file of rows does not exist."),
    ],
)  # fmt: skip
def test_bad_rows_are_errors_with_their_number(given, columns, said):
    with pytest.raises(fq.DataError) as caught:
        fq.compose(ledger(given, columns))
    assert said in str(caught.value)


def test_bad_files_and_columns_are_clear_errors(tmp_path):
    (tmp_path / "r.csv").write_text("no,lock\n1,2\n1\n")
    with pytest.raises(fq.DataError, match=r"r\.csv, line 1: There is no column 'fee'"):
        fq.compose(ledger(tmp_path / "r.csv"))
    with pytest.raises(fq.DataError, match=r"r\.csv, line 3: This row has 1 values, the head has 2"):
        fq.compose(ledger(tmp_path / "r.csv", [Column("no")]))
    with pytest.raises(fq.DataError, match="grouped by 'lok'"):
        fq.compose(ledger(rows(1), group="lok"))
    with pytest.raises(fq.OptionError, match=r"'rigth' is not a value of 'align'.*Did you mean 'right'"):
        Column("a", align="rigth")
    with pytest.raises(fq.OptionError, match="carried forward but not added up"):
        Column("a", carry=True)
    with pytest.raises(fq.OptionError, match="Did you mean 'align'"):
        Column("a", algin="right")  # type: ignore[call-arg]
    with pytest.raises(fq.OptionError, match="needs columns"):
        fq.Manuscript.from_html("x").ledger([], [])


def test_none_is_an_empty_cell_and_adds_nothing():
    columns = [Column("no"), Column("lock"), Column("fee", total="sum", form="0.00")]
    assert words(fq.compose(ledger([("a", None, None), ("b", "x", 2)], columns)))[-4:] == ["x", "2.00", "Total", "2.00"]


def test_a_generator_that_fails_halfway_leaves_no_file(tmp_path):
    def failing():
        yield from rows(500)
        raise RuntimeError("the database went away")

    with pytest.raises(RuntimeError, match="went away"):
        fq.write(ledger(failing()), tmp_path / "a.pdf")
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize("count", [3, 512, 513, 4_000])
def test_an_iterator_is_kept_for_the_second_time(count):
    manuscript = ledger(iter(rows(count)))
    first, second = (fq.compose(manuscript) for _ in range(2))
    assert first.to_bytes() == second.to_bytes() and first.page_count > count / 60


def test_an_iterator_that_fails_fails_again_and_loses_nothing():
    def failing():
        yield from rows(700)
        raise RuntimeError("the database went away")

    manuscript = ledger(failing())
    for _ in range(2):
        with pytest.raises(RuntimeError, match="went away"):
            fq.compose(manuscript)


@pytest.mark.parametrize("kind", [iter, list])
@pytest.mark.parametrize(
    "reference",
    ["contents", "<p class=pages>", "<p>see <a class=page href='#end'></a></p>"],
)
def test_long_ledgers_stand_in_documents_with_references(kind, reference):
    style = ".pages::before{content:counter(pages)} .page::before{content:target-counter(attr(href),page)}"
    manuscript = fq.Manuscript(page="A5", style=style)
    if reference == "contents":
        manuscript.contents()
    else:
        manuscript.html(reference)
    manuscript.heading("Log")
    manuscript.ledger(kind([(f"w{number:05d}", number) for number in range(3000)]), COLUMNS_OF_TWO)
    manuscript.html("<p id=end>end")
    edition = fq.compose(manuscript)
    text = "\n".join(page.text for page in edition.pages)
    assert re.findall(r"w\d{5}", text) == [f"w{number:05d}" for number in range(3000)]
    assert text.count("4,498,500") == 1
    number = str(edition.page_count)
    assert reference == "contents" or number in edition.pages[0].text


COLUMNS_OF_TWO = [Column("word"), Column("sum", form="#,##0", align="right", total="sum", carry=True)]


class Unwritable:
    """A value that cannot go to a file."""

    def __init__(self, number):
        self.number = number
        self.lock = threading.Lock()

    def __str__(self):
        return f"w{self.number:05d}"


def test_rows_that_cannot_be_written_to_a_file_are_held():
    source = SpooledRows(read_rows(((Unwritable(number),) for number in range(12_000)), [Column("x")]))
    for first in (0, 9, 23, 24):
        found = [str(value) for chunk in source.chunks(first) for (value,) in chunk]
        assert found == [f"w{number:05d}" for number in range(first * CHUNK, 12_000)]


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 9_000), st.lists(st.integers(0, 19), min_size=1, max_size=6), st.sampled_from((int, Decimal)))
def test_spooled_rows_can_be_opened_anywhere_and_again(count, places, kind):
    source = SpooledRows(read_rows(((kind(number),) for number in range(count)), [Column("x")]))
    opened = [source.chunks(place) for place in places]
    for later in range(3):  # side by side
        for place, chunks in zip(places, opened, strict=True):
            assert next(chunks, [None])[0] in (None, ((place + later) * CHUNK,))
    for place in places:
        found = [row for chunk in source.chunks(place) for row in chunk]
        assert found == [(number,) for number in range(place * CHUNK, count)]


@settings(max_examples=80, deadline=None)
@given(st.lists(st.integers(0, 3_000), min_size=1, max_size=12), st.booleans())
def test_a_stream_goes_back_and_knows_its_sums(places, grouped):
    """Groups of 7 rows in groups of 35."""
    values = [(f"g{number // 7}", Decimal(number), number // 35) for number in range(2_500)]
    columns = [LedgerColumn("name", str), LedgerColumn("sum", str, figure="sum")]
    source = HeldRows(values, [Column("name"), Column("sum"), Column("outer")], "rows")
    groups = [LedgerGroup(2, str, Group("outer")), LedgerGroup(0, str, Group("name"))] if grouped else []
    stream = RowStream(LedgerPlan(columns, source, "rows", groups))
    for place in places:
        text = stream.text(place)
        assert text == ((f"g{place // 7}", str(place)) if place < 2_500 else None)
        below = min(place, 2_500)
        assert stream.sums(below) == {"sum": Decimal(below * (below - 1) // 2)}
        if grouped:
            ends = [size for size in (7, 35) if below and (below % size == 0 or below == 2_500)]
            starts = [(below - 1) // size * size for size in ends]
            expected = [((Decimal(sum(range(start, below))), ""),) for start in starts]
            assert [row.values for row in stream.summaries(below)] == expected
            outermost = 0 if below in (0, 2_500) or below % 35 == 0 else 1 if below % 7 == 0 else 2
            assert stream.begins(below) == outermost
        stream.forget(below)


def test_thousands_of_columns_are_a_remark_and_not_a_hang():
    columns = [Column(f"c{n}") for n in range(1500)]
    edition = fq.compose(ledger([tuple("x" for _ in columns)], columns))
    assert "overflow" in {remark.kind for remark in edition.remarks}


def test_the_rows_are_asked_for_as_they_are_needed():
    taken = []

    def counting():
        for row in rows(20_000):
            taken.append(row)
            yield row

    fq.compose(ledger(counting()))
    assert len(taken) == 20_000
    press = fq.Press(policy=fq.Policy(pages=3))
    taken.clear()
    with pytest.raises(fq.LimitError):
        press.compose(ledger(counting()))
    assert len(taken) < 5_000


@settings(max_examples=25, deadline=None)
@given(
    st.lists(st.tuples(st.text("ab 1.5é", max_size=14), st.sampled_from("ABC"), st.integers(-999, 999)), max_size=60),
    st.booleans(),
    st.sampled_from(["collapse", "separate"]),
)
def test_no_row_is_lost_whatever_its_values(values, grouped, model):
    data = [(f"r{n}", a, b, c) for n, (a, b, c) in enumerate(values)]
    columns = [Column("n"), Column("a", width="50px"), Column("b"), Column("c", total="sum", carry=True)]
    html = STYLE.replace("table{", f"table{{border-collapse:{model};")
    edition = fq.compose(ledger(data, columns, html=html, group="b" if grouped else ""))
    assert [w for w in words(edition) if re.fullmatch(r"r\d+", w)] == [f"r{n}" for n in range(len(values))]
    total = sum(c for _, _, c in values)
    assert edition.pages[-1].text.split("\n")[-1].replace(",", "") == str(total)


def test_a_row_taller_than_its_page_goes_on_inside_its_cells(read_pdf):
    said = [f"w{number}" for number in range(250)]
    columns = [Column("no", width="40px"), Column("text", width="80px")]
    edition = fq.compose(ledger([("n0", "x"), ("n1", " ".join(said)), ("n2", "y")], columns))
    assert edition.page_count > 3 and not edition.remarks
    assert [word for word in words(edition) if word in set(said)] == said
    assert [word for word in words(edition) if word in ("n0", "n1", "n2")] == ["n0", "n1", "n2"]
    assert sum(text.count("text") for text in read_pdf(edition.to_bytes())) == edition.page_count


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 60), st.booleans(), st.booleans())
def test_a_caption_below_stays_on_the_paper_with_what_it_is_below(count, carried, summed):
    html = STYLE.replace("</style>", "caption{caption-side:bottom}</style>")
    columns = [Column("no"), Column("fee", total="sum" if carried or summed else "", carry=carried)]
    edition = fq.compose(ledger([(f"n{n}", n) for n in range(count)], columns, caption="below", html=html))
    assert [word for word in words(edition) if re.fullmatch(r"n\d+", word)] == [f"n{n}" for n in range(count)]
    (caption,) = edition.locate("caption")
    assert caption.page == edition.page_count and caption.y + caption.height <= 210.02
    assert count == 0 or re.search(r"n\d+", edition.pages[-1].text)


@given(st.lists(st.sampled_from(["Heron", "Teal", "Dunlin"]), min_size=1, max_size=60))
@settings(max_examples=30, deadline=None)
def test_groups_have_a_heading_on_each_of_their_pages_and_a_sum_at_their_end(barges):
    columns = [Column("barge"), Column("fee", total="sum")]
    edition = fq.compose(ledger([(barge, 1) for barge in barges], columns, group="barge"))
    pages = [page.text.split("\n") for page in edition.pages]
    assert all(lines[:2] == ["barge", "fee"] for lines in pages)
    assert all(lines[2] in ("Heron", "Teal", "Dunlin", "Total") for lines in pages)
    said = [int(line) for lines in pages for line in lines if line.isdigit()]
    assert sum(said) == len(barges) * 3  # each row, the sum of its group, and of all
