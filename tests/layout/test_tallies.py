"""Sums that follow the rows over page breaks."""

from __future__ import annotations

import re
from decimal import Decimal

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq

STYLE = """<style>
@page { size: 300px 200px; margin: 10px }
table { border-spacing: 0; width: 100% } td, th { padding: 0; text-align: right; font-weight: 400 } tr { line-height: 20px }
.v { -fq-tally: sum }
.brought { -fq-show-on: continued } .carried { -fq-show-on: going-on } .last { -fq-show-on: last }
.so-far::before { content: -fq-tally(sum, so-far, "0.00") }
.page::before { content: -fq-tally(sum, page, "0.00") }
.group::before { content: -fq-tally(sum, group, "0.00") }
.all::before { content: -fq-tally(sum, all, "money:EUR") }
.before::before { content: "b" -fq-tally(sum, brought, "0.00") }
</style>"""
FRAME = (
    "<table><thead><tr><th>Head</thead><thead class=brought><tr><th class=so-far></thead>{}"
    "<tfoot class=carried><tr><td>C<span class=so-far></span></tfoot><tfoot class=last><tr><td>T<span class=so-far></span></tfoot></table>"
)


def compose(values: list[str], frame: str = FRAME) -> fq.Edition:
    rows = "".join(f"<tr><td class=v data-value={v}>r{n}" for n, v in enumerate(values))
    return fq.compose(fq.Manuscript.from_html(STYLE + frame.format(f"<tbody>{rows}</tbody>"), source="t.html"))


def test_amounts_are_carried_and_brought_forward():
    edition = compose(["1.10"] * 20)
    pages = [page.text.split() for page in edition.pages]
    carried = [page[-1] for page in pages]
    brought = [page[1] for page in pages[1:]]
    assert [c[0] for c in carried] == ["C"] * (len(pages) - 1) + ["T"]
    assert brought == [c[1:] for c in carried[:-1]]
    assert carried[-1] == "T22.00"
    assert pages[0][1] == "r0"


def test_a_table_of_one_page_shows_neither():
    assert compose(["1", "2"]).pages[0].text.split() == ["Head", "r0", "r1", "T3.00"]


def test_sums_of_a_page_a_group_and_all():
    body = (
        "<tbody><tr><td class=v>1<tr><td class=v>2<tr><td>g<span class=group></span></tbody>"
        "<tbody><tr><td class=v><data value=3.5>3,5</data><tr><td>g<span class=group></span><tr><td>s<span class=so-far></span></tbody>"
    )
    foot = "<tfoot><tr><td>p<span class=page></span><span class=before></span><span class=all></span></tfoot>"
    edition = fq.Press(locale="de").compose(fq.Manuscript.from_html(f"{STYLE}<table>{body}{foot}</table>"))
    assert edition.pages[0].text.replace("\u00a0", "").split() == [
        "1",
        "2",
        "g3,00",
        "3,5",
        "g3,50",
        "s6,50",
        "p6,50b0,006,50€",
    ]


def test_text_in_a_summed_cell_is_an_error_with_row_and_column():
    with pytest.raises(
        fq.DataError, match=r"t\.html, line \d+: Row 2, column 1: 'ten' is not a number, and the tally 'sum'"
    ):
        compose(["1", "ten", "3"])
    assert compose(["1", "", "3"]).pages[0].text.split()[-1] == "T4.00"


def test_a_tally_outside_of_a_table_is_a_remark():
    edition = fq.compose(fq.Manuscript.from_html(f"{STYLE}<p>x<span class=so-far></span>"))
    assert [r.kind for r in edition.remarks] == ["tally"]


@settings(max_examples=50, deadline=None)
@given(st.lists(st.decimals(-1000, 1000, places=2), min_size=1, max_size=60))
def test_cents_never_drift_and_no_row_is_lost(values):
    edition = compose([str(value) for value in values])
    words = [word for page in edition.pages for word in page.text.split()]
    assert [w for w in words if w[0] == "r"] == [f"r{n}" for n in range(len(values))]
    total = Decimal(words[-1][1:].replace("−", "-"))
    assert words[-1][0] == "T" and total == sum(values)
    sums, done = [], 0
    for page in edition.pages[:-1]:
        done += len(re.findall(r"r\d+", page.text))
        sums.append(sum(values[:done], Decimal(0)))
        assert Decimal(page.text.split()[-1][1:].replace("−", "-")) == sums[-1]
