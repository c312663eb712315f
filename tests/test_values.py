"""Rows of every class, values of every kind, and the forms that they are written in."""

from __future__ import annotations

import enum
import sqlite3
from collections import namedtuple
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from fractions import Fraction
from pathlib import Path
from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.formats import Formats
from fleetquill.tree.column import Column
from fleetquill.tree.rows import read_rows, rows_and_names

Pair = namedtuple("Pair", "name price")
PRICES = ["price", "name"]
SHOWN = ["2.5", "Heron", "3", "Teal"]


@dataclass
class Voyage:
    name: str
    price: float


class Mapped(tuple):
    """A row as SQLAlchemy gives them: a tuple with names beside."""

    @property
    def _mapping(self):
        return dict(zip(("name", "price"), self, strict=True))


def database(factory=None):
    connection = sqlite3.connect(":memory:")
    connection.row_factory = factory
    connection.execute("create table t(name text, price real)")
    connection.execute("insert into t values ('Heron', 2.5), ('Teal', 3)")
    return connection.execute("select name, price from t")


def cells(part: str, rows: object, columns: object = (), locale: str = "en-IE", **options: object) -> list[str]:
    manuscript = fq.Manuscript()
    getattr(manuscript, part)(rows, columns, **options)
    return fq.compose(manuscript, locale=locale).pages[0].text.split("\n")


BOTH = pytest.mark.parametrize("part", ["table", "ledger"])


@BOTH
@pytest.mark.parametrize(
    "rows",
    [
        lambda: database(),
        lambda: database(sqlite3.Row),
        lambda: database(sqlite3.Row).fetchall(),
        lambda: [Pair("Heron", 2.5), Pair("Teal", 3)],
        lambda: [Mapped(("Heron", 2.5)), Mapped(("Teal", 3))],
        lambda: [Voyage("Heron", 2.5), Voyage("Teal", 3)],
        lambda: [{"name": "Heron", "price": 2.5}, Pair("Teal", 3)],
        lambda: iter([Pair("Heron", 2.5), Voyage("Teal", 3)]),
        lambda: [(2.5, "Heron"), [3, "Teal"]],
    ],
)
def test_rows_that_have_names_are_taken_by_name(part, rows):
    assert cells(part, rows(), PRICES) == ["price", "name", *SHOWN]


@pytest.mark.parametrize(
    "rows", [database, lambda: database(sqlite3.Row), lambda: [Pair("Heron", 2.5), Pair("Teal", 3)]]
)
def test_a_table_without_columns_has_those_of_its_rows(rows):
    assert cells("table", rows()) == ["name", "price", "Heron", "2.5", "Teal", "3"]


@BOTH
def test_a_dotted_name_goes_into_what_it_finds(part):
    rows = [{"of": {"name": "X"}}, {"of": Pair("Y", 1)}, {"of": None}, {"of.name": "Z"}]
    assert cells(part, rows, ["of.name"]) == ["of.name", "X", "Y", "Z"]
    with pytest.raises(fq.DataError, match=r"Row 1 has no value for the column 'of.name'. Did you mean 'nam'"):
        cells(part, [{"of": {"nam": 1}}], ["of.name"])


@BOTH
@pytest.mark.parametrize("kind", [list, iter], ids=["again", "once"])
@pytest.mark.parametrize("lacking", [{0}, {1}, {2}, {0, 1}, {1, 2}])
def test_what_a_mapping_leaves_out_is_empty(part, kind, lacking):
    rows = [{"boat": name} | ({} if at in lacking else {"of": {"lock": at}}) for at, name in enumerate("XYZ")]
    shown = [text for at, name in enumerate("XYZ") for text in (name, *([] if at in lacking else [str(at)]))]
    assert cells(part, kind(rows), ["boat", "of.lock"]) == ["boat", "of.lock", *shown]


@BOTH
@pytest.mark.parametrize("kind", [list, iter], ids=["again", "once"])
@pytest.mark.parametrize("count", [1, 3, 2_000])
def test_a_name_that_no_row_has_is_an_error(part, kind, count):
    with pytest.raises(fq.DataError, match=r"Row 1 has no value for the column 'lokc'. Did you mean 'lock'"):
        cells(part, kind([{"lock": 1}] * count), ["lock", "lokc"])


@BOTH
def test_objects_leave_nothing_out(part):
    with pytest.raises(fq.DataError, match="Row 2 has no value for the column 'price'"):
        cells(part, [Pair("Heron", 2.5), namedtuple("Bare", "name")("Teal")], ["name", "price"])


@given(st.lists(st.sets(st.sampled_from("abc")), min_size=1, max_size=6))
def test_a_table_has_every_name_of_its_mappings(named):
    rows = [{name: f"{name}{at}" for name in sorted(names)} for at, names in enumerate(named)]
    heads = list(dict.fromkeys(name for row in rows for name in row))
    table, again = (list(read_rows(kind(rows), [Column(name) for name in heads])) for kind in (list, iter))
    assert rows_and_names(rows)[1] == heads
    assert table == again == [tuple(row.get(name) for name in heads) for row in rows]


def test_a_chart_has_a_gap_where_a_mapping_leaves_something_out():
    m = fq.Manuscript()
    m.chart("line", [{"x": 1, "y": 2}, {"x": 2}, {"x": 3, "y": 5}], x="x", y="y")
    assert fq.compose(m).remarks == ()


def test_the_index_of_a_frame_is_columns_too():
    pandas = pytest.importorskip("pandas")
    frame = pandas.DataFrame({"barge": ["Teal", "Heron", "Teal"], "lock": [1, 1, 2], "toll": [1, 2, 3]})
    assert cells("table", frame.groupby("barge").toll.sum().to_frame()) == ["barge", "toll", "Heron", "2", "Teal", "4"]
    assert cells("table", frame.groupby(["barge", "lock"]).sum(), ["lock", "barge"])[2:4] == ["1", "Heron"]
    assert cells("table", frame)[:3] == ["barge", "lock", "toll"]
    assert cells("table", [[pandas.NA, pandas.NaT, 1]], ["a", "b", "c"]) == ["a", "b", "c", "1"]


class State(enum.Enum):
    LATE = "late"
    TWO = 2


VALUES = [
    (UUID(int=5), "00000000-0000-0000-0000-000000000005"), (State.LATE, "late"), (State.TWO, "2"), (Path("a/b"), "a/b"),
    (timedelta(hours=26, minutes=5), "26:05:00"), (timedelta(seconds=-90), "-0:01:30"), (True, "True"), (7, "7"),
    (datetime(2026, 5, 31, 14, 30), "31 May 2026, 14:30"), (date(2026, 5, 31), "31 May 2026"), (time(9, 5), "09:05"),
    (Decimal("1234567.8910"), "1,234,567.8910"), (1234567.891, "1,234,567.891"), (1234567, "1234567"), (0.1 + 0.2, "0.3"),
    (Decimal("1E+3"), "1,000"), (Fraction(1, 4), "0.25"), (-0.5, "-0.5"), ("as it is", "as it is"),
]  # fmt: skip


@BOTH
@pytest.mark.parametrize(("value", "text"), VALUES, ids=lambda value: str(value)[:30])
def test_every_value_has_one_text_in_tables_and_ledgers(part, value, text):
    assert cells(part, [[value]], ["v"], head=False) == [text]


@BOTH
@pytest.mark.parametrize("value", [None, "", float("nan"), Decimal("NaN"), Decimal("sNaN")])
def test_what_is_missing_is_an_empty_cell(part, value):
    assert cells(part, [[value, "x"]], ["v", "w"], head=False) == ["x"]


@BOTH
def test_a_cell_of_several_lines_has_them(part):
    assert cells(part, [["a\nb", "c"]], ["v", "w"], head=False)[:2] == ["a", "b"]


@BOTH
@pytest.mark.parametrize("value", [{1}, {"a": 1}, b"x", object(), len])
def test_a_value_that_cannot_be_shown_is_an_error_with_row_and_column(part, value):
    with pytest.raises(fq.DataError, match=r"Row 2, column 'v'"):
        cells(part, [["a"], [value]], ["v"])


@pytest.mark.parametrize(
    ("value", "form", "text"),
    [
        (1234.5, "money:EUR", "€1,234.50"), (1234.5, "money", "€1,234.50"), (0.215, "percent", "21.5%"),
        (0.2567, "percent:0.0", "25.7%"), (0.2567, "percent:0", "26%"), (0.2567, "percent:0.0%", "25.7%"), (-0.05, "percent:+0;-0", "-5%"),
        (1234.5, "#,##0.00", "1,234.50"), (1234.5, "number:0.0", "1234.5"), (1500, "bytes", "1.5\u00a0kB"), (12, "bytes", "12\u00a0B"),
        ("2026-05-31T14:30:15", "datetime", "31 May 2026, 14:30:15"), ("2026-05-31T14:30", "datetime:dd.MM.yy HH:mm", "31.05.26 14:30"),
        (date(2026, 5, 31), "date:yyyy-MM-dd", "2026-05-31"), (3661, "duration", "1:01:01"), (Decimal("1.50"), "text", "1.50"),
    ],
)  # fmt: skip
def test_forms(value, form, text):
    for part in ("table", "ledger"):
        assert cells(part, [[value]], [fq.Column("v", form=form)], head=False) == [text], part


@pytest.mark.parametrize(
    ("form", "said"),
    [
        ("EUR", "Did you mean 'money:EUR'?"), ("money:eur", "Did you mean 'EUR'?"), ("money:QQQ", "ISO 4217"),
        ("mony:EUR", "Did you mean 'money'?"), ("precent", "Did you mean 'percent'?"), ("date:%d.%m.%Y", "'dd.MM.yyyy'"),
        ("words", "CLDR pattern"), ("bytes:x", "Write 'bytes'."), ("number:abc", "Did you mean 'number'?"), (3, "is not a form"),
    ],
)  # fmt: skip
def test_a_form_is_checked_where_the_column_is_made(form, said):
    with pytest.raises(fq.OptionError, match=said.replace("?", r"\?").replace("(", r"\(")):
        fq.Column("v", form=form)


@BOTH
def test_a_function_is_a_form_and_its_column_still_sums(part):
    columns = [fq.Column("v", form=lambda value: f"{value} kn", total="sum")]
    assert cells(part, [{"v": 1.5}, {"v": 2}], columns) == ["v", "1.5 kn", "2 kn", "3.5 kn"]


@BOTH
def test_a_column_numbers_the_rows(part):
    columns = [fq.Column("no", counts=True), "v"]
    assert cells(part, [{"v": "a"}, {"v": "b"}], columns) == ["no", "v", "1", "a", "2", "b"]


def test_a_rule_gives_a_cell_a_class_by_its_value():
    manuscript = fq.Manuscript(style=".late { padding-left: 40px }")
    manuscript.table([{"v": -1}, {"v": 2}], [fq.Column("v", rule=lambda value: "late" if value < 0 else "")])
    late = fq.compose(manuscript).locate(".late")
    assert len(late) == 1
    with pytest.raises(fq.DataError, match=r"Row 1, column 'v': its rule fails \(TypeError: "):
        manuscript.table([{"v": "x"}], [fq.Column("v", rule=lambda value: value < 0)])


def test_the_labels_of_sums_are_of_the_language_or_given():
    columns, rows = [fq.Column("n"), fq.Column("v", total="sum")], [{"n": "a", "v": 1}]
    for language, total in (
        ("en", "Total"),
        ("it", "Totale"),
        ("ja", "合計"),
        ("pl", "Razem"),
        ("nl", "Totaal"),
        ("xx", "Total"),
    ):
        manuscript = fq.Manuscript(language=language)
        manuscript.table(rows, columns)
        assert total in fq.compose(manuscript).pages[0].text
    assert "All" in " ".join(cells("table", rows, columns, labels=("In", "Out", "All")))
    with pytest.raises(fq.OptionError, match="three labels"):
        cells("table", rows, columns, labels=("Sum",))


@pytest.mark.parametrize(
    ("locale", "currency", "text"),
    [
        ("en-IE", "", "€1.50"),
        ("de-CH", "", "CHF\u00a01.50"),
        ("ja-JP", "", "￥2"),
        ("en", "USD", "$1.50"),
        ("de", "EUR", "1,50\u00a0€"),
    ],
)
def test_money_that_names_no_currency_has_that_of_the_press_or_of_the_locale(locale, currency, text):
    press = fq.Press(locale=locale, currency=currency)
    shown = press.compose(press.fill_in("<p>{{ a | money }}", {"a": "1.5"})).pages[0].text
    assert shown == text


def test_money_of_no_country_is_an_error_not_a_guess():
    press = fq.Press(locale="de")
    with pytest.raises(fq.TemplateError, match="no currency is named"):
        press.fill_in("<p>{{ a | money }}", {"a": 1})
    with pytest.raises(fq.OptionError, match="Did you mean 'EUR'"):
        fq.Press(currency="eur")


def test_templates_know_the_filters_and_values_of_their_press(tmp_path):
    (tmp_path / "a.html").write_text("<p>{{ org | loud }} {{ 3 | half }}")
    press = fq.Press(filters={"loud": str.upper, "half": lambda n: n / 2}, values={"org": "Reed"})
    assert press.compose(tmp_path / "a.html", data={}).pages[0].text == "REED 1.5"
    with pytest.raises(fq.TemplateError, match="The filter 'half' cannot use 'x'"):
        press.fill_in("{{ 'x' | half }}", {})
    with pytest.raises(fq.OptionError, match="no function"):
        fq.Press(filters={"loud": 3})


@given(st.one_of(st.integers(), st.decimals(allow_nan=False, allow_infinity=False, places=6), st.floats(-1e12, 1e12)))
def test_a_number_without_a_form_keeps_its_digits(value):
    shown = "".join(cells("ledger", [[value]], ["v"], head=False))  # very long ones in several lines
    assert Decimal(shown.replace(",", "")) == pytest.approx(
        Decimal(str(value)), rel=Decimal("1e-14"), abs=Decimal("1e-14")
    )


@given(
    st.decimals(allow_nan=False, allow_infinity=False, min_value=-(10**60), max_value=10**60),
    st.sampled_from(("", "money:EUR", "percent", "#,##0.00", "number", "0.######")),
)
def test_every_form_writes_every_number(value, form):
    (shown,) = cells("ledger", [[value]], [fq.Column("v", form=form)], head=False)
    assert any(letter.isdigit() for letter in shown)


@pytest.mark.parametrize("value", [Decimal("1E+5000"), Decimal("1E-5000"), "9" * 500, 10**500])
def test_a_number_that_no_column_can_hold_is_an_error(value):
    with pytest.raises(fq.DataError, match="too many figures"):
        cells("table", [[value]], [fq.Column("v", form="#,##0.00")])


# ---- ledgers: widths ----


def growing(count):
    return ((number, f"{number % 28 + 1} May", "Fenny Bridge", number * 37) for number in range(1, count + 1))


@pytest.mark.parametrize("kind", [list, iter])
def test_figures_that_grow_long_after_the_first_rows_do_not_break(kind):
    manuscript = fq.Manuscript(style="@page { size: A4 } table { font-size: 9pt }")
    manuscript.ledger(kind(growing(12_000)), ["no", "day", "lock", "toll"])
    edition = fq.compose(manuscript)
    assert "12000" in edition.pages[-1].text.split("\n") and "444000" in edition.pages[-1].text.split("\n")
    rows = [page.text.count("Fenny Bridge") for page in edition.pages[1:-1]]
    assert max(rows) - min(rows) <= 1  # every row is one line high


def test_rows_that_can_be_read_twice_give_their_columns_the_widest_of_all():
    rows = [{"a": "i", "b": 1}] * 3_000 + [{"a": "Widest of them all", "b": 123456.75}] + [{"a": "j", "b": 2}] * 10
    manuscript = fq.Manuscript()
    manuscript.ledger(rows, ["a", "b"])
    assert any("Widest of them all" in page.text.split("\n") for page in fq.compose(manuscript).pages)


@pytest.mark.parametrize(
    ("locale", "money", "number"),
    [
        ("de-CH", "CHF\u00a01’234’567.50", "1’234’567.5"),
        ("fr-CH", "1’234’567,50\u00a0CHF", "1’234’567,5"),
        ("de", "1.234.567,50\u00a0CHF", "1.234.567,5"),
    ],
)
def test_large_amounts_keep_their_groups_where_an_apostrophe_parts_them(locale, money, number):
    formats = Formats(locale)
    assert formats.money(Decimal("1234567.5"), "CHF") == money
    assert formats.number(Decimal("1234567.5")) == number
