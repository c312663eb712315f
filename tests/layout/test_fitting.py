"""Boxes in flow that are made smaller until they fit (-fq-fit: shrink)."""

from __future__ import annotations

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import fleetquill as fq

NAMES = ["Kittiwake", "Upper Willow", "Saltgate", "Stonecross", "Fenny-Bridge", "Marrowby", "Osierworks", "Slateworks"]
PAGE = "<style>@page { size: 300pt 400pt; margin: 20pt } p { margin: 0 } body { font: 12pt/16pt sans-serif }</style>"


def table(door: str, columns: int, **options) -> fq.Edition:
    m = fq.Manuscript(page="300pt 400pt", margin="20pt")
    names = [f"{NAMES[n % len(NAMES)]}{n}" for n in range(columns)]
    getattr(m, door)([dict.fromkeys(names, "Sandpiper")] * 30, names, **options)
    return fq.compose(m)


@pytest.mark.parametrize("door", ["table", "ledger"])
@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.integers(1, 9))
def test_a_table_that_fits_its_page_is_no_wider_and_loses_nothing(door, columns):
    plain, fitted = table(door, columns, style="-fq-fit:none"), table(door, columns, fit="page")
    assert table(door, columns).locate("td") == fitted.locate("td")  # of itself, too
    wide = [p for p in plain.locate("table") if p.width > 260.1]
    assert bool(wide) == any('fit="page"' in remark.message for remark in plain.remarks)
    assert not fitted.remarks or columns > 7
    assert all(p.width <= 260.1 for p in fitted.locate("table")) or fitted.remarks
    if not wide:
        assert fitted.locate("td") == plain.locate("td")
    text = "".join(page.text for page in fitted.pages)
    assert text.count("Sandpiper") == 30 * columns


def test_type_padding_and_space_shrink_together():
    m = fq.Manuscript.from_html(
        PAGE
        + "<div style='-fq-fit:shrink;padding:30pt' id=d><p id=p>"
        + "x" * 50
        + "</p><p style='margin-top:40pt' id=q>y</p></div>"
    )
    box, first, second = (fq.compose(m).locate(selector)[0] for selector in ("#d", "#p", "#q"))
    scale = first.height / 16
    assert 0.6 < scale < 0.95
    assert first.x - box.x == pytest.approx(30 * scale, abs=0.05)
    assert second.y - first.y - first.height == pytest.approx(40 * scale, abs=0.05)
    assert first.y - box.y == pytest.approx(30 * scale, abs=0.05)


def test_a_box_with_a_height_keeps_it_and_its_content_shrinks_into_it():
    content = "".join(f"<p>word {number}</p>" for number in range(6))
    edition = fq.compose(
        fq.Manuscript.from_html(f"{PAGE}<div style='height:64pt;-fq-fit:shrink' id=d>{content}</div><p id=k>k</p>")
    )
    assert edition.locate("#d")[0].height == pytest.approx(64, abs=0.05)
    assert edition.locate("#k")[0][:3] == (1, 20, pytest.approx(84, abs=0.05)) and edition.locate("#k")[0].height == 16
    lines = edition.locate("#d p")
    assert 9 < lines[0].height < 10.8 and lines[-1].y + lines[-1].height <= 84.05


def test_what_no_shrinking_helps_is_as_small_as_it_may_be_and_says_so():
    wide = "".join(f"<td>{'W' * 30}" for _ in range(4))
    edition = fq.compose(fq.Manuscript.from_html(f"{PAGE}<table style='-fq-fit:shrink'><tr>{wide}</table>"))
    assert [remark.kind for remark in edition.remarks] == ["overflow"]
    assert edition.remarks[0].message.endswith("It is as small as it may be made.")
    assert edition.locate("td")[0].height < 10


def test_two_layouts_shrink_a_box_once():
    row = "<tr>" + "".join(f"<td>{'n' * 12}" for _ in range(5))
    body = f"<p><a href='#t' style='content:target-counter(attr(href), page)'>x</a></p><table style='-fq-fit:shrink' id=t>{row}</table>"
    style = "<style>a::after { content: target-counter(attr(href), page) }</style>"
    plain = fq.compose(fq.Manuscript.from_html(PAGE + body)).locate("#t")
    assert fq.compose(fq.Manuscript.from_html(PAGE + style + body)).locate("#t") == plain and plain[0].width <= 260.05


def test_a_fit_that_is_none_is_told():
    with pytest.raises(fq.OptionError, match="A table can fit its 'page', not 'paper'"):
        fq.Manuscript().table([{"a": 1}], fit="paper")
