"""Values that stand in tables as text."""

from datetime import date
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fleetquill.formats import Formats
from fleetquill.structure.read_values import read_value

READ = [
    ("en", "1,234.50", Decimal("1234.50"), "#,##0.00"),
    ("en", "33.9", Decimal("33.9"), "0.0"),
    ("en", "-3", Decimal(-3), ""),
    ("en", "−3.5 %", Decimal("-0.035"), "percent:0.0%"),
    ("en", "21%", Decimal("0.21"), "percent:0%"),
    ("en", "(3.50)", Decimal("-3.50"), "0.00"),
    ("en", "€1,234.50", Decimal("1234.50"), "money:EUR"),
    ("en", "-€4", Decimal(-4), "money:EUR"),
    ("en", "EUR 5", Decimal(5), "money:EUR"),
    ("en", "2026-05-03", date(2026, 5, 3), "date:yyyy-MM-dd"),
    ("de", "1.234,50 €", Decimal("1234.50"), "money:EUR"),
    ("de", "1.234", Decimal(1234), "#,##0"),
    ("de", "12.5", Decimal("12.5"), "0.0"),
    ("fr", "1\u202f234,50\xa0€", Decimal("1234.50"), "money:EUR"),
    ("fr", "1 234", Decimal(1234), "#,##0"),
    ("de-CH", "1’234.50", Decimal("1234.50"), "#,##0.00"),
    ("de-CH", "CHF 5.00", Decimal("5.00"), "money:CHF"),
]
TEXTS = [
    *("", "Heron", "W-31400", "A4", "5kg", "3 t", "0012", "+353 1 555", "1,23", "12/5", "2026-13-40", "1 234", "C-104"),
    *("12 345 678 901 234 567", "1234567890123456", "€", "5 €/t", "(3", "1.2.3", "٣", "½", "1e5", "NaN", "X 5"),
]


@pytest.mark.parametrize(("locale", "text", "value", "form"), READ)
def test_a_value_is_read_as_its_locale_writes_it(locale, text, value, form):
    assert read_value(text, Formats(locale)) == (value, form)


@pytest.mark.parametrize("text", TEXTS)
def test_what_is_a_name_stays_text(text):
    assert read_value(text, Formats("en")) is None


@pytest.mark.parametrize("locale", ["en-IE", "de", "fr", "de-CH", "es", "pl", "sv", "pt-BR"])
@given(st.decimals(-(10**9), 10**9, places=2))
def test_money_that_a_locale_writes_is_read_back(locale, amount):
    formats = Formats(locale)
    found = read_value(formats.money(amount, "EUR"), formats)
    assert found is not None
    assert (found.value, found.form) == (amount, "money:EUR")


@given(st.text(max_size=30))
def test_any_text_is_read_or_left(text):
    read_value(text, Formats("en"))
