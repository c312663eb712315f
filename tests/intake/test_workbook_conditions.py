"""Rules of conditional formats, one line each: which cells of a sheet they hold for, and what those look like."""

import io
import re
from datetime import date

import pytest
from openpyxl import Workbook
from openpyxl.formatting.rule import CellIsRule, ColorScaleRule, DataBarRule, IconSetRule, Rule
from openpyxl.styles import Border, Font, PatternFill, Side
from openpyxl.styles.differential import DifferentialStyle

import fleetquill as fq

RED = PatternFill(bgColor="FFFF0000")
TEXTS = ["Saltgate", "Upper Willow", "willow", None, "#N/A", "Weir", "Weir", " "]
NUMBERS = [5, 1, 9, 3, 7, 3, None, "x"]


def sheet(values, rules):
    """A workbook of one column with rules, beside a column of dots."""
    made = Workbook()
    for number, value in enumerate(values, 1):
        made.active.cell(number, 1, value)
        made.active.cell(number, 2, "·")
    for rule in rules:
        made.active.conditional_formatting.add("A1:A8", rule)
    content = io.BytesIO()
    made.save(content)
    return fq.Manuscript.from_workbook(content.getvalue())


def cells(values, *rules):
    """The first cell of each row, as its tag is written."""
    rows = re.findall(r"<tr\b.*?</tr>", sheet(values, rules).to_html(), re.DOTALL)
    return [re.search(r"<td\b[^>]*>", row)[0] for row in rows if "·" in row]


def rule(kind, **facts):
    return Rule(type=kind, dxf=DifferentialStyle(fill=RED), **facts)


@pytest.mark.parametrize(
    ("values", "asked", "rows"),
    [
        (TEXTS, rule("containsText", text="Willow"), [2, 3]),
        (TEXTS, rule("notContainsText", text="Willow"), [1, 4, 5, 6, 7, 8]),
        (TEXTS, rule("beginsWith", text="w"), [3, 6, 7]),
        (TEXTS, rule("endsWith", text="W"), [2, 3]),
        (TEXTS, rule("containsBlanks"), [4, 8]),
        (TEXTS, rule("notContainsBlanks"), [1, 2, 3, 5, 6, 7]),
        (TEXTS, rule("containsErrors"), [5]),
        (TEXTS, rule("notContainsErrors"), [1, 2, 3, 4, 6, 7, 8]),
        (TEXTS, rule("duplicateValues"), [6, 7]),
        (TEXTS, rule("uniqueValues"), [1, 2, 3, 5, 8]),
        (NUMBERS, rule("top10", rank=2), [3, 5]),
        (NUMBERS, rule("top10", rank=2, bottom=True), [2, 4, 6]),
        (NUMBERS, rule("top10", rank=50, percent=True), [1, 3, 5]),
        (NUMBERS, rule("top10", rank=1, percent=True), [3]),
        (NUMBERS, rule("aboveAverage"), [1, 3, 5]),
        (NUMBERS, rule("aboveAverage", aboveAverage=False), [2, 4, 6]),
        ([2, 4, 6], rule("aboveAverage", equalAverage=True), [2, 3]),
        ([2, 4, 6], rule("aboveAverage", aboveAverage=False, equalAverage=True), [1, 2]),
        ([0, 0, 0, 0, 10], rule("aboveAverage", stdDev=1), [5]),
        ([10, 10, 10, 10, 0], rule("aboveAverage", stdDev=1, aboveAverage=False), [5]),
        (NUMBERS, CellIsRule(operator="equal", formula=["3"], fill=RED), [4, 6]),
        (NUMBERS, CellIsRule(operator="notEqual", formula=["3"], fill=RED), [1, 2, 3, 5, 8]),
        (NUMBERS, CellIsRule(operator="greaterThan", formula=["5"], fill=RED), [3, 5]),
        (NUMBERS, CellIsRule(operator="greaterThanOrEqual", formula=["5"], fill=RED), [1, 3, 5]),
        (NUMBERS, CellIsRule(operator="lessThan", formula=["3"], fill=RED), [2]),
        (NUMBERS, CellIsRule(operator="lessThanOrEqual", formula=["3"], fill=RED), [2, 4, 6]),
        (NUMBERS, CellIsRule(operator="between", formula=["3", "5"], fill=RED), [1, 4, 6]),
        (NUMBERS, CellIsRule(operator="notBetween", formula=["3", "5"], fill=RED), [2, 3, 5]),
        (TEXTS, CellIsRule(operator="equal", formula=['"weir"'], fill=RED), [6, 7]),
    ],
    ids=lambda value: getattr(value, "type", None),
)
def test_a_rule_holds_for(values, asked, rows):
    found = cells(values, asked)
    assert [number for number, cell in enumerate(found, 1) if "background-color:#ff0000" in cell] == rows


@pytest.mark.parametrize(
    ("kind", "facts", "said"),
    [
        ("cellIs", {"operator": "containsText", "formula": ["1"]}, "the operator 'containsText'"),
        ("cellIs", {"operator": "equal"}, "the kind 'cellIs'"),
    ],
)
def test_a_rule_that_is_not_worked_out_is_a_remark(kind, facts, said):
    (remark,) = [
        remark
        for remark in fq.compose(sheet(NUMBERS, [rule(kind, **facts)])).remarks
        if "conditional" in remark.message
    ]
    assert said in remark.message and "not carried out" in remark.message


@pytest.mark.parametrize(
    ("look", "wanted"),
    [
        ({"font": Font(b=True)}, "font-weight:bold"), ({"font": Font(i=True)}, "font-style:italic"),
        ({"font": Font(strike=True)}, "text-decoration:line-through"), ({"font": Font(u="single")}, "text-decoration:underline"),
        ({"font": Font(color="FF00FF00")}, "color:#00ff00"), ({"fill": PatternFill(bgColor="FF0000FF")}, "background-color:#0000ff"),
        ({"fill": PatternFill("solid", fgColor="FF0000FF")}, "background-color:#0000ff"),
        ({"border": Border(top=Side("thin", color="FFFF0000"))}, "border-top"),
    ],
)  # fmt: skip
def test_what_a_rule_adds_to_its_cells(look, wanted):
    first, second = cells(["x", "y"], Rule(type="beginsWith", text="x", dxf=DifferentialStyle(**look)))
    assert wanted in first and wanted not in second


def test_what_the_first_of_two_rules_says_holds_and_it_may_be_the_last():
    green = Rule(
        type="notContainsBlanks", dxf=DifferentialStyle(fill=PatternFill(bgColor="FF00FF00"), font=Font(b=True))
    )
    red = rule("containsText", text="x")
    both, one = cells(["x", "y"], red, green)
    assert both.index("#00ff00") < both.index("#ff0000") and "bold" in both and "#ff0000" not in one
    red.stopIfTrue = True
    both, one = cells(["x", "y"], red, green)
    assert "bold" not in both and "bold" in one


SCALES = [  # colours of 0, 25, 50, 100 on a scale from white to black
    ({"start_type": "min", "end_type": "max"}, ["#ffffff", "#bfbfbf", "#808080", "#000000"]),
    ({"start_type": "num", "start_value": 25, "end_type": "num", "end_value": 50}, ["#ffffff", "#ffffff", "#000000", "#000000"]),
    ({"start_type": "percent", "start_value": 25, "end_type": "percent", "end_value": 75}, ["#ffffff", "#ffffff", "#808080", "#000000"]),
    ({"start_type": "percentile", "start_value": 50, "end_type": "max"}, ["#ffffff", "#ffffff", "#cccccc", "#000000"]),
]  # fmt: skip


@pytest.mark.parametrize(("points", "tones"), SCALES, ids=[points["start_type"] for points, _ in SCALES])
def test_colours_of_a_scale(points, tones):
    scale = ColorScaleRule(start_color="FFFFFFFF", end_color="FF000000", **points)
    found = [re.search(r"background-color:(#\w+)", cell)[1] for cell in cells([0, 25, 50, 100], scale)]
    assert found == tones


def test_three_colours_and_values_that_are_all_alike():
    scale = ColorScaleRule(
        start_type="min", start_color="FFFF0000", mid_type="num", mid_value=10, mid_color="FFFFFFFF", end_type="max",
        end_color="FF0000FF",
    )  # fmt: skip
    assert [re.search(r"#\w+", cell)[0] for cell in cells([0, 5, 10, 30], scale)] == [
        "#ff0000",
        "#ff8080",
        "#ffffff",
        "#0000ff",
    ]
    assert [re.search(r"#\w+", cell)[0] for cell in cells([10, 10], scale)] == ["#ff0000", "#ff0000"]
    assert all("background" not in cell for cell in cells(["a", None], scale))


@pytest.mark.parametrize(
    ("values", "facts", "shares"),
    [
        ([0, 5, 10], {"start_type": "min", "end_type": "max"}, ["0.0%", "50.0%", "100.0%"]),
        ([5, 10], {"start_type": "min", "end_type": "max"}, ["50.0%", "100.0%"]),
        ([-5, 0, 5], {"start_type": "min", "end_type": "max"}, ["0.0%", "50.0%", "100.0%"]),
        ([0, 5, 30], {"start_type": "num", "start_value": 0, "end_type": "num", "end_value": 20}, ["0.0%", "25.0%", "100.0%"]),
        ([0, 0], {"start_type": "min", "end_type": "max"}, ["100.0%", "100.0%"]),
    ],
)  # fmt: skip
def test_bars_are_as_long_as_their_values(values, facts, shares):
    found = cells(values, DataBarRule(color="FF0000FF", **facts))
    assert [re.search(r"#0000ff ([\d.]+%)", cell)[1] for cell in found] == shares


def test_signs_go_by_thirds_and_may_stand_alone_or_the_other_way_round():
    def signs(*arguments, **facts):
        text = fq.compose(sheet([0, 40, 100], [IconSetRule(*arguments, **facts)])).pages[0].text
        return re.findall(r"[▼▬▲◢◥●]|\d+", text)

    assert signs("3Arrows", "percent", [0, 33, 67]) == ["▼", "0", "▬", "40", "▲", "100"]
    assert signs("3Arrows", "percent", [0, 33, 67], reverse=True) == ["▲", "0", "▬", "40", "▼", "100"]
    assert signs("3Arrows", "percent", [0, 33, 67], showValue=False) == ["▼", "▬", "▲"]
    assert signs("3TrafficLights1", "num", [0, 50, 90]) == ["●", "0", "●", "40", "●", "100"]
    assert signs("5Arrows", "percent", [0, 20, 40, 60, 80]) == ["▼", "0", "▬", "40", "▲", "100"]


def test_dates_are_no_numbers_of_a_scale():
    found = cells(
        [date(2026, 5, 1), 5, 10], ColorScaleRule("min", None, "FFFFFFFF", end_type="max", end_color="FF000000")
    )
    assert ["background" in cell for cell in found] == [False, True, True]
