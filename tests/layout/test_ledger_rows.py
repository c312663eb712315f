"""Rows of ledgers that are more than a line of plain text: several lines, classes. They stand as a table's would."""

from __future__ import annotations

import random
from collections.abc import Iterator

import pypdfium2 as pdfium
import pytest

import fleetquill as fq

WORDS = [
    "barley",
    "Upper",
    "Willow",
    "low-water",
    "W-31400",
    "2026-05-03",
    "and/or",
    "(late)",
    "€3,220.00",
    "Größe",
    "a",
]
STYLES = {
    "top": "", "middle": "td { vertical-align: middle }", "bottom": "td { vertical-align: bottom }",
    "ruled": "td, th { border: 1px solid #555; vertical-align: baseline }",
    "apart": ".fq-table { border-collapse: separate; border-spacing: 3px } td { background: #eee; padding: 5px }",
    "striped": "tbody tr:nth-child(even) td { background: #eef }", "capital": "td { text-transform: uppercase }",
    "unequal": "tbody tr:nth-child(even) td { padding: 9px 2px }", "tight": "table { font-size: 16pt }",
    "large": "td:nth-child(2) { font-size: 15pt; line-height: 1.1 } td { vertical-align: middle }",
    "justified": "td { text-align: justify !important }", "kept": "td { white-space: pre-wrap }", "narrow": "td { word-break: break-all }",
}  # fmt: skip
MARKS = ".late { color: #c00; font-weight: bold } .big { font-size: 14pt } .ground { background: #fd9; padding: 4px }"


def positions(edition: fq.Edition) -> list[tuple[int, str, float, float]]:
    """Page, character and place of all that can be seen."""
    found = []
    for number, page in enumerate(pdfium.PdfDocument(edition.to_bytes())):
        text = page.get_textpage()
        for index, character in enumerate(text.get_text_range()):
            if not character.isspace() and character != "\ufffe":
                left, bottom, _, _ = text.get_charbox(index, loose=True)
                found.append((number, character, left, bottom))
    return sorted(found, key=lambda place: (place[0], -round(place[3], 0), round(place[2], 1)))


def both(rows, columns, style: str) -> list[fq.Edition]:
    editions = []
    for door in ("table", "ledger"):
        m = fq.Manuscript(
            look="plain", page="140mm 140mm", margin="10mm", style=f"html {{ font-size: 9pt }} {style} {MARKS}"
        )
        getattr(m, door)(rows, columns)
        editions.append(fq.compose(m))
    return editions


def assert_alike(table: fq.Edition, ledger: fq.Edition) -> None:
    assert table.page_count == ledger.page_count
    one, other = positions(table), positions(ledger)
    assert sorted(place[:2] for place in one) == sorted(place[:2] for place in other)
    for first, second in zip(one, other, strict=True):
        assert first[:2] == second[:2] and first[2:] == pytest.approx(second[2:], abs=0.6), (first, second)


def text(chance: random.Random, least: int = 0) -> str:
    words = [chance.choice([*WORDS, "\n"]) for _ in range(chance.randint(least, 14))]
    return " ".join(words).replace(" \n ", "\n").strip("\n ")


@pytest.mark.parametrize("style", STYLES.values(), ids=STYLES)
def test_rows_of_several_lines_stand_where_those_of_a_table_do(style):
    columns = [
        fq.Column("a", width="30mm"),
        fq.Column("b", width="25mm", align="right"),
        fq.Column("n"),
        fq.Column("c", align="center"),
    ]
    for seed in range(8):
        chance = random.Random(seed)
        rows = [
            (text(chance), f"{text(chance)} a", chance.randint(0, 9999), text(chance))
            for _ in range(chance.randint(1, 12))
        ]
        assert_alike(*both(rows, columns, style))


@pytest.mark.parametrize("align", ["left", "right", "center"])
def test_a_word_wider_than_its_column_breaks_where_a_table_breaks_it(align):
    columns = [fq.Column("a", width="14mm", align=align), fq.Column("b", width="9mm"), fq.Column("c")]
    rows = [
        ("1234567890123", "overflowing", "x"), ("at 9876543210987 lbs", "W", "aa bb"), ("a-1234567890123-b", "mmmmmmmm no", "y"),
        ("12345678901234567890123456789", "AVAVAVAVAVAV", "z"), ("short", "- mmmmmmmmmm", "9"), ("e\u0301" * 20, "fi" * 9, "10"),
    ]  # fmt: skip
    assert_alike(*both(rows, columns, ""))


def grown(count: int) -> Iterator[tuple[int, str, str, str]]:
    """Rows whose numbers outgrow the first that a stream is measured by, beside texts that wrap in every tenth."""
    for number in range(count):
        text = "carries slate from the quay below the mill to " * 4 if number % 10 == 0 else "slate"
        yield 1_000 + number * number // 4, f"2026-05-{number % 28 + 1:02}", text, f"{number % 900}.50"


@pytest.mark.parametrize("width", ["auto", "100%"])
def test_numbers_that_outgrow_a_sample_take_their_room_from_texts_that_wrap(width):
    m = fq.Manuscript(look="plain", page="A5", style=f"table {{ width: {width} }}")
    m.ledger(grown(6_000), ["No", "Date", "Cargo", "Fee"])
    texts = "\n".join(page.text for page in fq.compose(m).pages).split()
    assert str(1_000 + 5_999 * 5_999 // 4) in texts
    assert {f"{1_000 + number * number // 4}" for number in range(6_000)} <= set(texts)


def test_a_column_whose_width_is_asked_for_keeps_it():
    m = fq.Manuscript(look="plain", page="A5", style="th, td { padding: 0 }")
    m.ledger(grown(3_000), [fq.Column("No", width="14mm"), fq.Column("Date", width="30mm"), "Cargo", "Fee"])
    edition = fq.compose(m)
    [first] = edition.locate("th:nth-child(1)")[:1]
    [second] = edition.locate("th:nth-child(2)")[:1]
    assert (first.width, second.width) == pytest.approx((14 / 25.4 * 72, 30 / 25.4 * 72), abs=0.5)


def test_names_stay_on_one_line_beside_a_long_text():
    m = fq.Manuscript(look="plain", page="A5")
    m.ledger(
        [("Upper Willow", "Nether Mill", "carries slate to the quay below the mill " * 3)] * 3, ["From", "To", "Cargo"]
    )
    names = [word for word in fq.compose(m).pages[0].text.split("\n") if word.startswith(("Upper", "Nether"))]
    assert set(names) == {"Upper Willow", "Nether Mill"}


def mark(value: int) -> str:
    return "" if value % 5 < 2 else ("late", "big", "ground")[value % 3]


@pytest.mark.parametrize("style", [STYLES[name] for name in ("top", "middle", "ruled", "apart", "striped")])
def test_cells_have_the_class_that_a_rule_gives_them(style):
    columns = [
        fq.Column("n", rule=mark, total="sum"),
        fq.Column("t", width="30mm", rule=lambda text: "late" if "(" in text else None),
    ]
    for seed in range(8):
        chance = random.Random(seed)
        rows = [(chance.randint(0, 99), text(chance)) for _ in range(chance.randint(1, 25))]
        assert_alike(*both(rows, columns, style))


def test_a_class_is_seen():
    rows = [(number, "x") for number in range(40)]
    column = fq.Column("n", rule=lambda n: "late" if n == 7 else "ground" if n == 8 else "")
    _, ledger = both(rows, [column, "t"], "")
    shot = pdfium.PdfDocument(ledger.to_bytes())[0].render(scale=2).to_pil().convert("RGB")
    colors = {shot.getpixel((x, y)) for x in range(shot.width) for y in range(shot.height)}
    assert any(red > 190 and green < 20 and blue < 20 for red, green, blue in colors)
    assert (255, 221, 153) in colors


def test_a_class_that_comes_late_in_a_stream_is_remarked():
    m = fq.Manuscript(style=MARKS)
    m.ledger(((number,) for number in range(4000)), [fq.Column("n", rule=lambda n: "late" if n == 3999 else "")])
    edition = fq.compose(m)
    assert ["The class 'late' comes first after the 2,000 rows" in remark.message for remark in edition.remarks] == [
        True
    ]
    whole = fq.Manuscript(style=MARKS)
    whole.ledger([(number,) for number in range(4000)], [fq.Column("n", rule=lambda n: "late" if n == 3999 else "")])
    assert not fq.compose(whole).remarks


def test_a_rule_that_fails_is_told_with_its_row():
    m = fq.Manuscript()
    m.ledger([(1,), ("x",)], [fq.Column("n", rule=lambda n: n > 3 and "late")])
    with pytest.raises(fq.DataError, match=r"Row 2, column 'n': its rule fails \(TypeError: .*\)\."):
        fq.compose(m)
    with pytest.raises(fq.OptionError, match="The rule of the column 'n' is a function, which HTML cannot hold"):
        made = fq.Manuscript()
        made.ledger("rows.csv", [fq.Column("n", rule=str)])
        made.to_html()


@pytest.mark.parametrize(
    ("style", "shown"),
    [("color: rgba(200, 0, 0, 0.5)", 'fill-opacity="0.5"'), ("text-shadow: 1px 1px red", 'fill="#ff0000"'),
     ("-webkit-text-fill-color: #00ff00", 'fill="#00ff00"'), ("-webkit-text-stroke: 1px #0000ff", 'stroke="#0000ff"'),
     ("text-decoration: underline red", 'fill="#ff0000"'), ("text-emphasis: dot red", 'fill="#ff0000"')],
)  # fmt: skip
def test_letters_of_a_ledger_look_as_those_of_a_table(style, shown):
    rows = [{"lock": f"Lock {number}", "toll": number} for number in range(3)]
    table, ledger = (edition.pages[0].to_svg() for edition in both(rows, ["lock", "toll"], f"td {{ {style} }}"))
    assert table.count(shown) == ledger.count(shown) >= 6


@pytest.mark.parametrize("style", ["opacity: 0.5", "position: relative; top: 40px", "transform: translate(3px, 40px)"])
def test_what_is_done_to_a_ledger_is_done_once(style):
    rows = [{"lock": f"Lock {number}", "toll": number} for number in range(30)]
    table, ledger = both(rows, ["lock", "toll"], f"table {{ {style} }}")
    assert_alike(table, ledger)
    assert ledger.pages[0].to_svg().count('opacity="0.5"') == table.pages[0].to_svg().count('opacity="0.5"')


@pytest.mark.parametrize(
    "style", ["table { table-layout: fixed; width: 100% }", "table { table-layout: fixed; width: 8px }", ""]
)
def test_a_column_too_narrow_for_any_text_is_laid_out_as_a_table_lays_it_out(style):
    rows = [{"lock": f"Lock {number}", "toll": number} for number in range(30)]
    columns = [fq.Column("lock", width="1px"), fq.Column("toll")]
    table, ledger = both(rows, columns, f"{style} td {{ padding: 0 }}")
    assert ledger.page_count == table.page_count and len(positions(ledger)) == len(positions(table))
