"""The parts of a brief, as they stand on the page."""

import re
from datetime import date
from decimal import Decimal

import pytest
from briefing import as_brief, text_of, words

import fleetquill as fq

ROWS = [
    {"lock": "Saltgate", "barge": "Teal", "toll": Decimal("30.50"), "month": date(2026, 4, 1), "late": 2},
    {"lock": "Saltgate", "barge": "Heron", "toll": Decimal("12.25"), "month": date(2026, 5, 1), "late": 40},
    {"lock": "Stonecross", "barge": "Teal", "toll": Decimal("8.00"), "month": date(2026, 5, 1), "late": -3},
]
TOLLS = {"tolls": {"given": True}}


def of(*parts, rows=ROWS, **more):
    return text_of({"data": TOLLS, "parts": list(parts), **more}, data=rows)


def test_texts_have_values_in_them_as_the_locale_writes_them():
    found = of(
        {"heading": "{{ tolls | length }} tolls"},
        {"paragraph": ["In all ", {"strong": "{{ tolls | total('toll') | money }}"}, "; {{ 1.5 + 1 }} in each"]},
        {"paragraph": {"content": {"value": {"amount": "{{ tolls | average('toll') }}", "form": "money:EUR"}}}},
        {"html": "<p>{{ name }}</p>"},
        locale="de-DE", currency="EUR", parameters={"name": {"type": "text", "default": "<b>Tove</b>"}},
    )  # fmt: skip
    assert found == "3 tolls In all 50,75 €; 2,5 in each 16,92 € <b>Tove</b>"


def test_title_subtitle_heads_and_feet_are_filled_in():
    top = {
        "title": "Tolls of {{ month | date('MMMM y') }}", "subtitle": "as of {{ as_of | date }}", "author": "Keeper",
        "parameters": {"month": {"type": "month", "default": "2026-05"}, "as_of": {"type": "date"}},
        "footer": {"left": "{{ month | date('MM/y') }}", "right": "Page {page} of {pages}"},
        "header": {"parts": [{"paragraph": "For {{ month | date('MMM') }}"}]},
    }  # fmt: skip
    edition = fq.compose(as_brief(top), locale="en-IE", parameters={"as_of": date(2026, 6, 1)})
    assert words(edition) == "Tolls of May 2026 as of 1 Jun 2026"
    assert edition.pages[0].margins["bottom-left"] == "05/2026"
    assert edition.pages[0].margins["bottom-right"] == "Page 1 of 1"
    assert "For May" in " ".join(edition.pages[0].margins.values())
    hidden = fq.compose(
        as_brief({**top, "show_title": False, "parts": [{"paragraph": "x"}]}), parameters={"as_of": "2026-06-01"}
    )
    assert words(hidden) == "x"


def test_a_table_without_columns_has_all():
    assert of({"table": {"rows": {"from": "tolls", "keep": ["lock", "late"]}}}) == (
        "lock late Saltgate 2 Saltgate 40 Stonecross -3"
    )


def test_columns_have_forms_totals_and_rules():
    column = {"name": "late", "head": "Days", "total": "most", "rules": [
        {"when": "value > limit", "style": "color: red; font-weight: bold"}, {"when": "value < 0", "style": "color: blue"},
    ]}  # fmt: skip
    top = {"data": TOLLS, "parameters": {"limit": {"type": "whole", "default": 30}},
           "parts": [{kind: {"rows": "tolls", "columns": [{"name": "no", "counts": True}, "barge", column]}}
                     for kind in ("table", "ledger")]}  # fmt: skip
    edition = fq.compose(as_brief(top), data=ROWS)
    assert words(edition) == (
        "no barge Days 1 Teal 2 2 Heron 40 3 Teal -3 Total 40 no barge Days 1 Teal 2 2 Heron 40 3 Teal -3 Total 40"
    )
    assert len(edition.locate("td.rule-1")) >= 1
    svg = (
        edition.pages[0].to_svg().decode()
        if isinstance(edition.pages[0].to_svg(), bytes)
        else edition.pages[0].to_svg()
    )
    assert svg.count("#ff0000") >= 2
    assert svg.count("#0000ff") >= 2


def test_groups_have_headings_labels_and_summaries():
    groups = [
        {"by": "lock", "heading": "Lock {{ value | upper }}", "label": "{{ value }}, {{ count }} tolls",
         "summaries": ["total", {"average": "Mean"}, "share"]},
        {"by": "month", "form": "date:MMM y", "heads": False},
    ]  # fmt: skip
    columns = ["barge", {"name": "toll", "form": "#,##0.00", "total": "sum"}]
    assert of({"ledger": {"rows": "tolls", "columns": columns, "groups": groups}}) == (
        "barge toll Lock SALTGATE Teal 30.50 Apr 2026 30.50 Heron 12.25 May 2026 12.25 "
        "Saltgate, 2 tolls 42.75 Mean 21.38 Share 84.2% Lock STONECROSS Teal 8.00 May 2026 8.00 "
        "Stonecross, 1 tolls 8.00 Mean 8.00 Share 15.8% Total 50.75"
    )


CROSSES = [
    ({"figure": "sum"}, "lock Apr May Total Saltgate 30.5 12.2 42.8 Stonecross 8.0 8.0 Total 30.5 20.2 50.8"),
    ({"figure": "average"}, "lock Apr May Total Saltgate 30.5 12.2 21.4 Stonecross 8.0 8.0 Total 30.5 10.1 16.9"),
    ({"figure": "most", "totals": False}, "lock Apr May Saltgate 30.5 12.2 Stonecross 8.0"),
    ({"figure": "count", "form": "0", "heads": ["Lock", "All"]},
     "Lock Apr May All Saltgate 1 1 2 Stonecross 1 1 Total 1 2 3"),
    ({"down": ["lock", "barge"], "heads": ["Lock", "Barge"]},
     "Lock Barge Apr May Total Saltgate Teal 30.5 30.5 Saltgate Heron 12.2 12.2 Stonecross Teal 8.0 8.0 "
     "Total 30.5 20.2 50.8"),
]  # fmt: skip


@pytest.mark.parametrize(("options", "expected"), CROSSES)
def test_a_cross_table_has_figures_by_two_names_and_their_totals(options, expected):
    cross = {"rows": "tolls", "down": "lock", "across": "month", "across_form": "date:MMM", "of": "toll",
             "form": "0.0", **options}  # fmt: skip
    assert of({"cross": cross}) == expected


def test_a_cross_table_of_too_many_columns_is_an_error():
    rows = [{"lock": "x", "n": number} for number in range(300)]
    with pytest.raises(fq.DataError, match=r"cross\.across: There are more than 200 values across"):
        of({"cross": {"rows": "tolls", "down": "lock", "across": "n", "figure": "count"}}, rows=rows)


@pytest.mark.parametrize(
    ("value", "was", "said", "name"),
    [("150", "100", "▲ +50.0%", "fq-up"), ("300", "100", "▲ +200.0%", "fq-up"), ("75", "100", "▼ -25.0%", "fq-down"),
     ("100", "100", "+0.0%", "fq-same"), ("1", "-2", "▲ +150.0%", "fq-up"), ("100.4", "100", "▲ +0.4%", "fq-up")],
)  # fmt: skip
def test_a_card_says_which_way_its_number_went(value, was, said, name):
    edition = fq.compose(
        as_brief({"language": "en", "parts": [{"cards": [{"label": "Late", "value": value, "was": was}]}]})
    )
    assert edition.pages[0].text.split("\n")[-1] == said and len(edition.locate(f".{name}")) == 1


def test_cards_show_big_numbers_and_how_they_have_changed():
    cards = [
        {"label": "Tolls", "value": "tolls | total('toll')", "form": "money:EUR", "was": "60"},
        {"label": "Late", "value": "tolls | total('late')", "was": "20", "change_form": "percent:+0%;-0%"},
        {"label": "None", "value": "none", "note": "{{ tolls | length }} rows"},
    ]
    edition = fq.compose(
        as_brief({"language": "en", "data": TOLLS, "parts": [{"cards": cards}]}), data=ROWS, locale="en-IE"
    )
    assert words(edition) == "Tolls €50.75 ▼ -15.4% Late 39 ▲ +95% None – 3 rows"
    big, small = edition.locate(".fq-card-value")[0], edition.locate(".fq-card-label")[0]
    assert big.height > 1.5 * small.height


def test_trends_have_a_small_chart_for_each_value():
    rows = [{"barge": name, "toll": n} for name in ("Teal", "Heron") for n in (1, 4, 2)]
    edition = fq.compose(
        as_brief({"data": TOLLS, "parts": [{"trends": {"rows": "tolls", "by": "barge", "y": "toll", "head": "Barge",
                                                       "value_head": "Last", "form": "0.0"}}]}), data=rows,
    )  # fmt: skip
    assert "Barge Last Teal" in words(edition)
    assert words(edition).endswith("Heron 2.0") or "Heron" in words(edition)
    assert len(edition.locate("fq-spark")) == 2


def test_a_chart_takes_rows_and_series():
    chart = {"kind": "bar", "rows": "tolls", "x": "month", "y": "toll", "series": "lock", "stacked": True}
    found = of({"chart": chart})
    assert "Saltgate" in found
    assert "Stonecross" in found
    with pytest.raises(fq.DataError, match=r"chart\.y: The rows have no 'tol'"):
        of({"chart": {**chart, "y": "tol"}})
    with pytest.raises(fq.DataError, match=r"chart: The chart has no kind"):
        of({"chart": {"rows": "tolls", "x": "month", "y": "toll"}})


def test_parts_are_repeated_for_each_value_with_its_rows():
    parts = [
        {"heading": {"content": "{{ number }}. {{ boat }}: {{ tolls | total('toll') }}", "level": 2}},
        {"table": {"rows": "tolls", "columns": ["lock"], "head": False}},
    ]
    each = {"each": {"rows": "tolls", "by": "barge", "as": "boat", "parts": parts}}
    assert of(each, {"paragraph": "{{ tolls | length }}"}) == (
        "1. Teal: 38.50 Saltgate Stonecross 2. Heron: 12.25 Saltgate 3"
    )


def test_parts_are_repeated_for_each_row_and_have_their_details():
    top = {
        "data": {"orders": {"given": True}, "lines": {"given": True}},
        "parts": [{"each": {"rows": "orders", "as": "order", "new_page": True, "parts": [
            {"heading": "Order {{ order.no }}"},
            {"ledger": {"rows": {"from": "lines", "where": "no == order.no"}, "columns": ["cargo"],
                        "empty": "Nothing ordered."}},
        ]}}],
    }  # fmt: skip
    data = {"orders": [{"no": 1}, {"no": 2}, {"no": 3}],
            "lines": iter([{"no": 1, "cargo": "clay"}, {"no": 3, "cargo": "brick"}, {"no": 1, "cargo": "oak"}])}  # fmt: skip
    edition = fq.compose(as_brief(top), data=data)
    assert [" ".join(page.text.split()) for page in edition.pages] == [
        "Order 1 cargo clay oak", "Order 2 Nothing ordered.", "Order 3 cargo brick",
    ]  # fmt: skip


def test_parts_stand_where_their_condition_holds():
    when = {"when": {"test": "tolls | total('toll') > limit", "parts": [{"paragraph": "much"}],
                     "otherwise": [{"paragraph": "little"}]}}  # fmt: skip
    for limit, expected in ((50, "much"), (51, "little")):
        top = {"data": TOLLS, "parameters": {"limit": "whole"}, "parts": [when]}
        assert text_of(top, data=ROWS, parameters={"limit": limit}) == expected


@pytest.mark.parametrize("kind", ["table", "ledger", "chart", "cross", "trends", "each"])
def test_where_there_are_no_rows_something_else_is_said(kind):
    part = {
        "table": {"columns": ["lock"]}, "ledger": {"columns": ["lock"]}, "chart": {"kind": "bar", "x": "a", "y": "b"},
        "cross": {"down": "a", "across": "b", "of": "c"}, "trends": {"by": "a", "y": "b"}, "each": {"parts": []},
    }[kind]  # fmt: skip
    found = of({kind: {"rows": "tolls", "empty": "No tolls in {{ 2026 }}.", **part}}, rows=[])
    assert found == "No tolls in 2026."


def test_parts_of_manuscripts_hold_parts_of_briefs():
    box = {"box": {"parts": [{"table": {"rows": "tolls", "columns": ["lock"], "head": False}}]}}
    assert of({"row": [box, box]}).count("Saltgate") == 4
    assert of({"section": {"page": "A5", "parts": [{"cards": {"label": "n", "value": "tolls | length"}}]}}) == "n 3"
    assert of({"code": {"kind": "qr", "text": "W-{{ tolls | length }}"}}, {"contents": None}, "rule") is not None


def test_plates_have_values_in_them():
    plate = {"plate": {"page": "A6", "parts": [{"text": {"content": "No {{ tolls | length }}", "x": 20, "y": 30}}]}}
    assert "No 3" in of(plate)


FAULTS = [
    ({"ledger": {"rows": "tolls", "group": "lock"}}, r"ledger\.group: A ledger of a brief has 'groups'|has no 'group'"),
    ({"ledger": {"columns": ["lock"]}}, r"ledger: The part has no rows"),
    ({"ledger": {"rows": "tolls", "columns": [{"head": "x"}]}}, r"columns\[0\]: The column has no name"),
    ({"ledger": {"rows": "tolls", "columns": [{"name": "lock", "tatol": "sum"}]}}, r"columns\[0\]\.tatol: .*'total'"),
    ({"ledger": {"rows": "tolls", "columns": ["lock"], "groups": [{"heading": "x"}]}}, r"groups\[0\]: .*no 'by'"),
    ({"ledger": {"rows": "tolls", "columns": ["lock"], "groups": [{"by": "lok"}]}}, r"ledger: The rows have no 'lok'"),
    ({"ledger": {"rows": "tolls", "columns": ["lock"], "groups": [{"by": "lock", "summaries": "averag"}]}},
     r"groups\[0\]: 'averag' is no summary of a group\. Did you mean 'average'"),
    ({"ledger": {"rows": "tolls", "columns": [{"name": "toll", "rules": [{"when": "value >", "style": "x"}]}]}},
     r"rules\[0\]\.when: 'value >' does not parse"),
    ({"ledger": {"rows": "tolls", "columns": [{"name": "lock", "rules": [{"when": "value > 2", "style": "x"}]}]}},
     r"column 'lock': its rule fails"),
    ({"table": {"rows": {"where": "1"}}}, r"table\.rows: These rows come from nowhere"),
    ({"cards": [{"value": "1"}]}, r"cards\[0\]: The card has no 'label'"),
    ({"cards": [{"label": "x", "value": "1 / 0"}]}, r"cards\[0\]\.value: '1 / 0' divides by nothing"),
    ({"paragraph": "{{ tolls | total('tol') }}"}, r"paragraph: .* fails"),
    ({"paragraph": "{{ toll }}"}, r"paragraph: 'toll' asks for 'toll', which there is not\. Did you mean 'tolls'"),
    ({"paragraph": "{% if %}"}, r"paragraph: '\{% if %\}' does not parse"),
    ({"heading": {"content": "x", "level": 9}}, r"heading: A heading has a level from 1 to 6, not 9"),
    ({"each": {"rows": "tolls"}}, r"each: There are no parts to repeat"),
    ({"when": {"parts": []}}, r"when: The condition has no 'test'"),
    ({"cross": {"rows": "tolls", "down": "lock"}}, r"cross: The cross table has no 'across'"),
    ({"cross": {"rows": "tolls", "down": "lock", "across": "month", "of": "barge"}}, r"cross\.of: row 1: 'Teal' is not"),
    ({"trends": {"rows": "tolls", "by": "barge"}}, r"trends: The small charts have no 'y'"),
    ({"picture": {"source": "x.png", "widht": "3cm"}}, r"picture\.widht: 'picture' has no 'widht'\. .*'width'"),
]  # fmt: skip


@pytest.mark.parametrize(("part", "said"), FAULTS)
def test_what_is_wrong_with_a_part_is_told_with_its_place(part, said):
    with pytest.raises(fq.DataError, match=said) as caught:
        of(part)
    assert re.search(r"brief\.parts\[0\]|Row \d", str(caught.value))


def test_a_house_style_is_a_file_or_a_text(tmp_path):
    (tmp_path / "house.css").write_text("p { color: #010203 }")
    top = {"style": ["house.css", "p { font-size: 30pt }"], "parts": [{"paragraph": "x"}]}
    edition = fq.compose(as_brief(top, tmp_path))
    assert edition.locate("p")[0].height > 30
    svg = edition.pages[0].to_svg()
    assert "#010203" in (svg.decode() if isinstance(svg, bytes) else svg)
    with pytest.raises(fq.SourceError, match="does not exist"):
        fq.compose(as_brief({**top, "style": "gone.css"}, tmp_path))


def test_a_look_page_and_margin_are_taken():
    edition = fq.compose(
        as_brief({"look": "lock", "page": "A5 landscape", "margin": "1cm", "parts": [{"paragraph": "x"}]})
    )
    assert round(edition.pages[0].width) == 595
    assert edition.locate("p")[0].x == pytest.approx(28.35, abs=0.1)
    with pytest.raises(fq.DataError, match=r"brief: .*look.*'lok'|'lok'"):
        fq.compose(as_brief({"look": "lok"}))


HOLDERS = [
    lambda parts: {"section": parts}, lambda parts: {"section": {"parts": parts}}, lambda parts: {"box": parts},
    lambda parts: {"row": [{"box": {"parts": parts}}]}, lambda parts: {"row": [{"box": parts}]},
    lambda parts: {"columns": {"count": 2, "parts": parts}},
    lambda parts: {"when": {"test": "1", "parts": [{"section": parts}]}},
    lambda parts: {"each": {"rows": "tolls", "by": "lock", "parts": [{"box": parts}]}},
]  # fmt: skip


@pytest.mark.parametrize("holder", HOLDERS)
def test_a_value_is_filled_in_once_and_never_taken_for_a_template(holder):
    rows = [{"lock": "{{ 6 * 7 }}"}]
    part = holder(
        [{"paragraph": "{{ (tolls | first).lock }}"}, {"paragraph": {"content": ["{{ (tolls | first).lock }}"]}}]
    )
    top = {"data": TOLLS, "parts": [part], "header": {"parts": [{"paragraph": "{{ (tolls | first).lock }}"}]},
           "footer": {"left": "{{ (tolls | first).lock }}"}}  # fmt: skip
    edition = fq.compose(as_brief(top), data=rows)
    assert words(edition) == "{{ 6 * 7 }} {{ 6 * 7 }}"
    assert set(edition.pages[0].margins.values()) == {"{{ 6 * 7 }}"}


def test_braces_in_heads_and_feet_are_told_with_their_place():
    with pytest.raises(fq.DataError, match=r"line 1, column \d+: brief\.footer: '\{pag\}' is not known .*'\{page\}'"):
        of(footer={"left": "{pag}"})
    edition = fq.compose(as_brief({"parts": [{"paragraph": "x"}], "footer": {"left": "{{ '{a}' }} {page}"}}))
    assert edition.pages[0].margins["bottom-left"] == "{a} 1"
