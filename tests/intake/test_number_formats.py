"""Number formats of workbooks: a value as its cell shows it."""

from datetime import date, datetime, time, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fleetquill.formats import Formats
from fleetquill.intake.workbooks.number_formats import show

ENGLISH = Formats("en")
MOMENT = datetime(2026, 5, 3, 14, 5, 9, 500_000)
SHOWN = [
    (1234.5, "General", "1234.5"), (0.1 + 0.2, "General", "0.3"), (1e12, "General", "1E+12"), (-3, "General", "-3"),
    (123456789012, "General", "1.23457E+11"), (0.00001, "General", "0.00001"), (44, "", "44"), (True, "General", "TRUE"),
    (1234567.891, "#,##0.00", "1,234,567.89"), (5, "000", "005"), (100, "#,###", "100"), (0, "#,###", ""),
    (1.5, "0.##", "1.5"), (1, "0.##", "1."), (0.5, "#.0", ".5"), (1.005, "0.00", "1.01"), (2.5, "0", "3"),
    (-0.001, "0.00", "0.00"), (0.256, "0.0%", "25.6%"), (1234567, '#,##0,"k"', "1,235k"), (1.2e9, '0.0,,"M"', "1200.0M"),
    (8005551234, "(000) 000-0000", "(800) 555-1234"), (12.5, '0.0 "t"', "12.5 t"), (3, "0 \\k\\g", "3 kg"),
    (-5, "0.00;[Red](0.00)", "(5.00)"), (0, '0;-0;"none"', "none"), (-2.5, "0;0", "3"), (-2.5, "0", "-3"),
    (75, '[<50]"low";[>=50]"high"', "high"), (25, '[<50]"low";[>=50]"high"', "low"), (99, '[<50]"low"', "#####"),
    (-5, "[<0]0;0", "5"), (5, "[<0]0;0.0", "5.0"), (-5, '[>100]"big";0', "-5"), (-5, "[>-9]0;0.0", "-5"), (-5, "[>=0]0;0.0", "-5.0"),
    (3, "[=3]0.0;0", "3.0"), (3, "[<>3]0.0;0", "3"), (3, "[<=3]0.0;0", "3.0"), (3, "[>3]0.0;0", "3"),
    ("Heron", '0;0;0;"<"@">"', "<Heron>"), ("Heron", "0.00", "Heron"), (12, "@", "12"), ("", "0", ""), (None, "0", ""),
    (12345, "0.00E+00", "1.23E+04"), (12345, "##0.0E+0", "12.3E+3"), (0.00012, "0.0E-0", "1.2E-4"), (0, "0.0E+0", "0.0E+0"),
    (1.75, "# ?/?", "1 3/4"), (0.3333, "?/?", "1/3"), (5.125, "# ??/16", "5  2/16"), (2, "# ?/?", "2"), (-0.5, "?/?", "-1/2"),
    (1234.5, "[$€-407] #,##0.00", "€ 1,234.50"), (1234, "#,##0.00 [$kr-41D]", "1,234.00 kr"), (2, '"Q"0', "Q2"),
    (1234.5, "_-* #,##0.00_-", "1,234.50"), (0, '_-* #,##0.00_-;-* #,##0.00_-;_-* "-"??_-;_-@_-', "-"),
    (-1234.5, "_-* #,##0.00_-;-* #,##0.00_-", "-1,234.50"),
    (MOMENT, "yyyy-mm-dd hh:mm:ss", "2026-05-03 14:05:10"), (MOMENT, "d mmm yy h:mm AM/PM", "3 May 26 2:05 PM"),
    (MOMENT, "mm:ss.0", "05:09.5"), (date(2026, 5, 3), "dddd, d. mmmm yyyy", "Sunday, 3. May 2026"), (1, "mmmmm", "J"),
    (date(2026, 5, 3), "[$-407]dddd, d. mmmm yyyy", "Sonntag, 3. Mai 2026"), (time(6, 5), "h:mm", "6:05"),
    (time(18, 5), "h A/P", "6 P"), (1.5, "[h]:mm", "36:00"), (timedelta(hours=26, minutes=5), "[h]:mm:ss", "26:05:00"),
    (0.5, "[m]", "720"), (61, "yyyy-mm-dd", "1900-03-01"), (1, "yyyy-mm-dd", "1900-01-01"), (-1, "yyyy", "#####"),
]  # fmt: skip


@pytest.mark.parametrize(("value", "code", "text"), SHOWN)
def test_a_value_is_shown_as_its_format_says(value, code, text):
    shown = show(value, code, ENGLISH).text.replace("\u2007", " ").replace("\u2005", " ")
    assert shown.strip() == text


def test_a_format_may_give_a_colour_and_a_place_that_is_filled():
    assert show(-5, "0;[Red]-0", ENGLISH).color == "#ff0000"
    assert show(5, "0;[Red]-0", ENGLISH).color == ""
    shown = show(5, '"€"* 0.00', ENGLISH)
    assert (shown.text, shown.fill) == ("€5.00", (1, " "))


def test_separators_are_those_of_the_locale():
    assert show(1234567.5, "#,##0.00", Formats("de")).text == "1.234.567,50"
    assert show(1.5, "General", Formats("fr")).text == "1,5"


@pytest.mark.parametrize(
    ("code", "text"),
    [("d/m/yy", "15/3/23"), ("[h]:mm", "1080000:00"), ("0.00", "45000.00"), ('"day" 0', "day 45000")],
)
def test_formats_of_dates_are_told_from_those_of_numbers(code, text):
    assert show(45000, code, ENGLISH).text == text


@given(st.floats(-1e15, 1e15), st.text('0#?,.;%E+-/ [h]msdy"@_*\\$€a', max_size=12))
def test_no_format_and_no_number_brings_anything_down(number, code):
    assert isinstance(show(number, code, ENGLISH).text, str)


@given(st.decimals(-(10**9), 10**9, places=2))
def test_two_decimals_read_back(amount):
    shown = show(amount, "#,##0.00", ENGLISH).text
    assert float(shown.replace(",", "")) == pytest.approx(float(amount), abs=0.0051)
