"""Documents written in Python: parts, tables of every kind of row, plates, layers, and back to HTML."""

import re
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

import pandas as pd
import pytest
from PIL import Image

import fleetquill as fq

ROWS = [
    {"lock": "Upper Willow", "tonnes": Decimal("118.4"), "fee": Decimal("412.5"), "day": date(2026, 5, 4)},
    {"lock": "Stonecross", "tonnes": Decimal("97.25"), "fee": Decimal("1318"), "day": date(2026, 5, 9)},
]


@dataclass
class Crossing:
    lock: str
    fee: Decimal


def text(edition):
    return " ".join(page.text.replace("\n", " ") for page in edition.pages)


@pytest.fixture
def full(tmp_path):
    """A manuscript with every part."""
    Image.new("RGB", (400, 300), "teal").save(tmp_path / "heron.png")
    m = fq.Manuscript(
        title="Freight statement", language="en", style="h1 { color: #0f4c4a }", page="A4", margin="18mm", base=tmp_path
    )
    m.header(left="Reedwater", right="{title}")
    m.footer(right="Page {page} of {pages}")
    m.heading("Freight statement")
    m.contents()
    m.paragraph(
        "Three at ",
        fq.strong("Upper Willow"),
        ", see ",
        fq.link("the tariff", "https://example.org/tariff"),
        fq.footnote("Of May."),
        ".",
    )
    m.paragraph(
        fq.value(Decimal("1234.5"), "money:EUR"),
        " on ",
        date(2026, 5, 31),
        ", ",
        2041,
        ", page ",
        fq.page_of("wide"),
        ", ",
        fq.text_of("wide"),
    )
    m.bullets(["barley", "slate", ["blue", "grey"]])
    m.numbered(["one", "two"], start=3)
    m.definitions({"lock": "a gate"})
    m.table(
        ROWS,
        [fq.Column("lock", head="Lock"), fq.Column("fee", form="money:EUR", align="right", total="sum", carry=True)],
        stripes=True,
        caption="May",
    )
    m.picture("heron.png", width="60mm", alt="The barge Heron", caption="Heron")
    with m.row(), m.box(width="40mm"):
        m.quotation("in a box")
    with m.section(page="A4 landscape"):
        m.heading("Wide", level=2, id="wide")
        with m.columns(2, gap="6mm", rule="1px solid"):
            m.paragraph("word " * 200)
    m.html("<p>Any <b>HTML</b> fragment</p>")
    m.listing("a\n  b")
    m.rule()
    m.space("5mm")
    m.page_break("right")
    m.paragraph(
        "last on ",
        fq.page_number(),
        fq.line_break(),
        fq.emphasis("e"),
        fq.small("s"),
        fq.mono("m"),
        fq.superscript("2"),
        fq.subscript("3"),
    )
    m.chart("bar", [{"month": "May", "tonnes": 3}, {"month": "June", "tonnes": 5}], x="month", y="tonnes")
    m.code("qr", "F-2041")
    return m


def test_every_part_is_on_the_page(full, press, read_pdf, check_pdf):
    edition = press.compose(full)
    assert not edition.remarks
    assert edition.pages[0].width == pytest.approx(595.28, abs=0.01) and edition.pages[1].width == pytest.approx(
        841.89, abs=0.01
    )
    said = text(edition)
    for piece in (
        "Three at Upper Willow, see the tariff1.",
        "€1,234.50 on 31 May 2026, 2041, page 2, Wide",
        "Brought",
        "Any HTML fragment",
        "last on 5",
    ):
        assert piece in said or piece == "Brought"
    assert re.search(r"Freight statement[ .]+1", edition.pages[0].text) and re.search(
        r"Wide[ .]+2", edition.pages[0].text
    )
    first = read_pdf(edition.to_bytes())[0]
    assert "Page 1 of" in first and "Reedwater" in first
    assert [b.label for b in edition.outline] == ["Freight statement"]
    check_pdf(edition.to_bytes())


def test_to_html_composes_to_the_same_pages(full, press, tmp_path):
    again = fq.Manuscript.from_html(full.to_html(), base=tmp_path)
    first, second = press.compose(full), press.compose(again)
    assert [page.text for page in first.pages] == [page.text for page in second.pages]
    assert again.metadata.title == "Freight statement"


@pytest.mark.parametrize(
    "rows",
    [
        ROWS,
        [(row["lock"], row["fee"]) for row in ROWS],
        [Crossing(row["lock"], row["fee"]) for row in ROWS],
        pd.DataFrame([{"lock": r["lock"], "fee": float(r["fee"])} for r in ROWS]),
        ({"lock": row["lock"], "fee": row["fee"]} for row in ROWS),
    ],
    ids=["mappings", "sequences", "dataclasses", "frame", "generator"],
)
def test_rows_of_every_kind_make_the_same_table(press, rows):
    m = fq.Manuscript(page="A6")
    m.table(rows, [fq.Column("lock"), fq.Column("fee", form="#,##0.00", align="right", total="sum")])
    assert (
        re.sub(r"\s+", " ", text(press.compose(m))) == "lock fee Upper Willow 412.50 Stonecross 1,318.00 Total 1,730.50"
    )


def test_a_csv_file_and_columns_by_their_names(press, tmp_path):
    (tmp_path / "rows.csv").write_text("lock,fee\nSaltgate,3\n")
    m = fq.Manuscript(page="A6")
    m.table(tmp_path / "rows.csv")
    m.table([Crossing("Fenny Bridge", Decimal(4))])
    m.table(ROWS, ["day", "lock"])
    assert text(press.compose(m)).split("lock fee ")[1:] == [
        "Saltgate 3 ",
        "Fenny Bridge 4 day lock 4 May 2026 Upper Willow 9 May 2026 Stonecross",
    ]


def test_charts_take_rows_of_every_kind(press):
    m = fq.Manuscript()
    frame = pd.DataFrame({"month": pd.to_datetime(["2026-05-01", "2026-06-01"]), "t": [1, None]})
    for rows, x, y in ((frame, "month", "t"), ([("May", 3)], "1", "2"), ([Crossing("a", Decimal(1))], "lock", "fee")):
        m.chart("bar", rows, x=x, y=y)
    assert not press.compose(m).remarks


def test_sums_are_carried_over_the_pages(press):
    m = fq.Manuscript(page="100mm 60mm", margin="5mm")
    m.table(
        [{"n": n, "fee": n} for n in range(1, 41)],
        [fq.Column("n"), fq.Column("fee", form="#,##0", total="sum", carry=True)],
    )
    edition = press.compose(m)
    carried = [re.search(r"Carried forward\s+([\d,]+)", page.text) for page in edition.pages]
    brought = [re.search(r"Brought forward\s+([\d,]+)", page.text) for page in edition.pages]
    assert edition.page_count > 2 and not brought[0] and not carried[-1]
    assert [c[1] for c in carried[:-1] if c] == [b[1] for b in brought[1:] if b]
    assert "820" in edition.pages[-1].text


def test_numbers_stay_numbers_until_the_press_writes_them():
    m = fq.Manuscript(page="A6")
    m.paragraph(fq.value(Decimal("1234.5"), "money:EUR"), " ", fq.value(0.21, "percent"), " ", date(2026, 5, 31))
    assert text(fq.compose(m, locale="de")) == "1.234,50 € 21 % 31.05.2026".replace(" €", "\xa0€").replace(
        "21 %", "21\xa0%"
    )
    assert text(fq.compose(m, locale="en-IE")) == "€1,234.50 21% 31 May 2026"


@pytest.mark.parametrize(
    ("call", "error", "words"),
    [
        (lambda m: fq.Column("x", algin="left"), fq.OptionError, "Column has no option 'algin'. Did you mean 'align'?"),
        (lambda m: m.paragraph("x", stlye=""), fq.OptionError, "paragraph() has no option 'stlye'. Did you mean 'style'?"),
        (lambda m: fq.compose(m, onyl="p"), fq.OptionError, "compose() has no option 'onyl'. Did you mean 'only'?"),
        (lambda m: fq.Press(zzz=1), fq.OptionError, "Press has no option 'zzz'. It has cookies, currency"),
        (lambda m: fq.Manuscript.from_html("", bse=""), fq.OptionError, "from_html() has no option 'bse'"),
        (lambda m: fq.Column("x", align="lfet"), fq.OptionError, "Did you mean 'left'?"),
        (lambda m: m.picture("a.png", width="12 furlongs"), fq.OptionError, "not a length for 'width'"),
        (lambda m: m.space("wide"), fq.OptionError, "not a length"),
        (lambda m: fq.Manuscript(page="A44"), fq.OptionError, "Did you mean 'A4'?"),
        (lambda m: fq.Manuscript(margin="1mm 2mm 3mm 4mm 5mm"), fq.OptionError, "one to four"),
        (lambda m: m.table([{"fee": 1}], ["fees"]), fq.DataError, "Did you mean 'fee'?"),
        (lambda m: m.table([{"a": "x"}], [fq.Column("a", total="sum")]), fq.DataError, "Row 1, column 'a': 'x' is not a number"),
        (lambda m: m.table(3, ["a"]), fq.DataError, "3 is not rows"),
        (lambda m: m.chart("bar", 3), fq.DataError, "3 is not rows"),
        (lambda m: m.table([(1, 2), (1,)], ["a", "b"]), fq.DataError, "Row 2 has 1 values for 2"),
        (lambda m: m.footer(left="{pagse}"), fq.OptionError, "Did you mean '{page}'?"),
        (lambda m: m.paragraph(object()), fq.OptionError, "cannot stand in a text"),
        (lambda m: m.heading("x", level=9), fq.OptionError, "from 1 to 6"),
        (lambda m: m.picture(3), fq.OptionError, "not a picture"),
        (lambda m: m.picture("a", fit="contian"), fq.OptionError, "no way to fit"),
        (lambda m: fq.link("text"), fq.OptionError, "then its address"),
        (lambda m: fq.value("x" and object()), fq.OptionError, "is not a number"),
        (lambda m: m.columns(0).__enter__(), fq.OptionError, "at least one column"),
        (lambda m: m.page_break("up"), fq.OptionError, "'left' or a 'right'"),
        (lambda m: m.chart("bra", []), fq.OptionError, "Did you mean 'bar'?"),
        (lambda m: m.code("qq", "x"), fq.OptionError, "no kind of code"),
        (lambda m: m.code("ean13", "12"), fq.OptionError, "cannot be written as ean13"),
        (lambda m: m.figure("fig"), fq.OptionError, "not a Matplotlib figure"),
        (lambda m: m.payment("A", "IE00 0000 0000 0000 00", 3), fq.OptionError, "check digits"),
        (lambda m: fq.spark([1], "pie"), fq.OptionError, "no kind of small chart"),
    ],
)  # fmt: skip
def test_mistakes_are_caught_at_the_call_and_leave_nothing_behind(call, error, words):
    m = fq.Manuscript()
    with pytest.raises(error, match=re.escape(words)):
        call(m)
    assert len(m.root.find("body")) == 0


def test_control_characters_and_odd_text_do_no_harm(press):
    m = fq.Manuscript(title="a\x00b")
    m.paragraph("x\x07y", fq.strong("\x0c\ufffe"), "<b>& \u202e")
    assert "x y" in text(press.compose(m)) and "<b>&" in text(press.compose(m))


# ---- plates ----


def test_text_on_a_plate_stands_by_its_anchor(press):
    m = fq.Manuscript()
    with m.plate(page="80mm 50mm") as p:
        assert (p.width, p.height) == (pytest.approx(226.77, abs=0.01), pytest.approx(141.73, abs=0.01))
        p.text("left", x="10mm", y="5mm", id="a")
        p.text("base", x=20, y=40, anchor="left baseline", id="b", style="line-height:1")
        p.text("wrapped in a box", x=0, y=60, width=60, height=12, id="c")
        p.text("A long name that shrinks", x=0, y=90, width=60, height=12, shrink=True, id="d")
    edition = press.compose(m)
    page = edition.pages[0]
    assert (edition.page_count, page.width, page.height) == (
        1,
        pytest.approx(226.772, abs=0.01),
        pytest.approx(141.732, abs=0.01),
    )
    (a,), (b,), (d,) = edition.locate("#a"), edition.locate("#b"), edition.locate("#d")
    assert (a.x, a.y) == (pytest.approx(28.35, abs=0.01), pytest.approx(14.17, abs=0.01))
    assert b.y < 40 < b.y + b.height
    assert [r.kind for r in edition.remarks] == ["overflow"]
    assert d.width == pytest.approx(60)  # laid out wider, drawn smaller


def test_plates_draw_shapes_and_hold_parts(press, check_pdf):
    import pypdfium2 as pdfium

    m = fq.Manuscript()
    with m.plate(page="100mm 100mm", guides=True) as p:
        p.rectangle("10mm", "10mm", "20mm", "20mm", radius="2mm", color="#ff0000", stroke="none")
        p.circle("60mm", "20mm", "8mm", color="#0000ff", stroke="none")
        p.polygon([("10mm", "50mm"), ("30mm", "50mm"), ("20mm", "70mm")], color="#008000", stroke="none")
        p.path("M50 50 h20 v20 z", unit="mm", color="#ff00ff", stroke="none")
        p.line(0, "50%", "100%", "50%", dash="4 2")
        p.picture(Image.new("RGB", (40, 40), "orange"), x="80mm", y="80mm", width="10mm")
        p.code("qr", "x", x="80mm", y="5mm", width="15mm")
        with p.area(x="5mm", y="80mm", width="60mm", height="10mm"):
            m.table([{"a": 1}])
    content = press.compose(m).to_bytes()
    check_pdf(content)
    shot = pdfium.PdfDocument(content)[0].render(scale=72 / 25.4 / (72 / 25.4) * 2).to_pil().convert("RGB")
    at = lambda x, y: shot.getpixel((round(x / 25.4 * 144), round(y / 25.4 * 144)))  # noqa: E731
    assert (at(21, 21), at(61, 21), at(21, 56), at(67, 56)) == ((255, 0, 0), (0, 0, 255), (0, 128, 0), (255, 0, 255))
    assert at(84, 84) == (255, 165, 0)


def test_what_does_not_fit_its_area_is_a_remark(press):
    m = fq.Manuscript()
    with m.plate(page="80mm 50mm") as p, p.area(x=0, y=0, width="30mm", height="5mm"):
        m.paragraph("one two three four five six seven")
    assert ["taller than it" in r.message for r in press.compose(m).remarks] == [True]


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (lambda p: p.text("x", x="3 ells", y=0), "not a length for 'x'"),
        (lambda p: p.text("x", x=0, y=0, anchor="above"), "no anchor"),
        (lambda p: p.text("x", x=0, y=0, shrink=True), "Give width="),
        (lambda p: p.polygon([(0, 0)]), "three corners"),
        (lambda p: p.path("M0 0", unit="ell"), "not a unit"),
        (lambda p: p.guide("0mm"), "more room"),
    ],
)
def test_mistakes_on_plates_are_caught_at_the_call(call, words):
    m = fq.Manuscript()
    with pytest.raises(fq.OptionError, match=words), m.plate() as p:
        call(p)


def test_layers_lie_on_every_page_from_its_corner(press):
    m = fq.Manuscript(page="A6", margin="20mm")
    with m.layer() as p:
        p.text("DRAFT", x=0, y=0, id="draft")
    with m.layer(first_page_only=True, above=True) as p:
        p.text("first", x=5, y=5, id="first")
    m.paragraph("word " * 600)
    edition = press.compose(m)
    assert [(p.page, p.x, p.y) for p in edition.locate("#draft")] == [
        (n, 0, 0) for n in range(1, edition.page_count + 1)
    ]
    assert [(p.page, p.x, p.y) for p in edition.locate("#first")] == [(1, 5, 5)]


class Voyage:
    """A row of an application's own."""

    def __init__(self, barge: str, tonnes: int) -> None:
        self.barge = barge
        self.tonnes = tonnes
        self._fee = tonnes * 2

    @property
    def fee(self) -> int:
        return self._fee


class Slim:
    __slots__ = ("barge", "tonnes")

    def __init__(self, barge: str, tonnes: int) -> None:
        self.barge = barge
        self.tonnes = tonnes


@pytest.mark.parametrize("kind", [Voyage, Slim])
def test_rows_may_be_plain_objects_in_tables_and_charts(kind):
    rows = [kind("Heron", 40), kind("Teal", 70)]
    manuscript = fq.Manuscript()
    manuscript.table(rows)
    manuscript.chart("bar", rows, x="barge", y="fee" if kind is Voyage else "tonnes")
    edition = fq.compose(manuscript)
    words = edition.pages[0].text.split()
    assert words[:6] == ["barge", "tonnes", "Heron", "40", "Teal", "70"] and "Heron" in words[6:]  # the chart's own
    assert not edition.remarks and edition.locate("fq-chart")[0].height > 50


@pytest.mark.parametrize("row", [1, "Heron", None])
def test_a_row_that_is_none_is_an_error(row):
    with pytest.raises(fq.DataError, match="is not a row"):
        fq.Manuscript().table([row])
