"""Rules of conditional formats that ask for formulas: which cells they hold for."""

import io
import re
import zipfile
from datetime import date

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from openpyxl import Workbook
from openpyxl.formatting.rule import CellIsRule, FormulaRule, Rule
from openpyxl.styles import PatternFill
from openpyxl.styles.differential import DifferentialStyle

import fleetquill as fq

RED = PatternFill(bgColor="FFFF0000")
ROWS = (  # A1:D4
    ["Saltgate", 12, date(2026, 5, 1), True],
    ["Stonecross", -3.5, date(2026, 5, 20), False],
    ["saltgate", 12, None, "#N/A"],
    ["Weir", "12", date(2026, 4, 30), None],
)


def sheet_of(*rows):
    made = Workbook()
    made.active.title = "Tolls"
    for row in rows:
        made.active.append(row)
    return made, made.active


def composed(made) -> fq.Edition:
    saved, content = io.BytesIO(), io.BytesIO()
    made.save(saved)
    with zipfile.ZipFile(saved) as package, zipfile.ZipFile(content, "w") as dated:
        for name in package.namelist():
            part = package.read(name)
            if name == "docProps/core.xml":  # kept on a day that is known
                part = re.sub(rb"(<dcterms:modified[^>]*>)[^<]*", rb"\g<1>2026-05-20T12:00:00Z", part)
            dated.writestr(name, part)
    return fq.compose(fq.Manuscript.from_workbook(content.getvalue(), sheets="Tolls"))


def reds(edition) -> set[tuple[int, int]]:
    """Row and column of the cells that a rule has coloured."""
    return {
        (row, column)
        for row in range(1, 1 + len(edition.locate("tr")))
        for column in range(1, 8)
        if edition.locate(f'tr:nth-child({row}) td:nth-child({column})[style*="#ff0000"]')
    }


def held(formulas: list[str]) -> list[str]:
    """Those of some formulas that hold, each written for a cell of its own."""
    made, sheet = sheet_of(*ROWS)
    made.create_sheet("Other's").append([7, "seven"])
    for number, formula in enumerate(formulas, 10):
        sheet.cell(number, 1).value = "x"
        sheet.conditional_formatting.add(f"A{number}", FormulaRule(formula=[formula], fill=RED))
    edition = composed(made)
    assert [remark.message for remark in edition.remarks if remark.kind == "workbook"] == []
    found = reds(edition)
    return [formula for number, formula in enumerate(formulas, 10) if (number, 1) in found]


HOLD = [
    "B1=12", "12=B1", "B1>B2", "B2<=-3.5", "B1<>B2", "A1=A3", "NOT(EXACT(A1,A3))", "1+2*3=7", "(1+2)*3=9",
    "2^3^2=64", "-2^2=4", "10%=0.1", "200*5%=10", '"a"&"b"="AB"', 'B1&"t"="12t"', "TRUE", "1", '"TRUE"',
    "AND(B1>10,$D$1)", "OR(FALSE,B1=12)", "XOR(TRUE,FALSE,FALSE)", "IF(B1>10,B2<0,FALSE)", "NOT(IF(B1<10,TRUE))",
    "ISBLANK(C3)", "C3=0", 'C3=""', "ISERROR(D3)", "ISNA(D3)", "ISERROR(1/0)", "NOT(ISNA(1/0))", "IFERROR(1/0,TRUE)",
    "ISNUMBER(B1)", "ISTEXT(B4)", "ISNUMBER(C1)", "ISLOGICAL(D1)", "ISNONTEXT(C3)", "ISEVEN(B1)", "ISODD(3)",
    "SUM(B1:B4)=20.5", "SUM(B:B)=20.5", "SUM(1:1)=46155", "AVERAGE(B1:B3)>6.8", "MAX(B1:B4)=12", "MIN($B$1:$B$4)=-3.5",
    "MEDIAN(B1:B3)=12", "PRODUCT(2,3)=6", "LARGE(B1:B3,2)=12", "SMALL(B1:B3,1)=B2", "STDEV(1,3)=SQRT(2)",
    "COUNT(A1:C4)=6", "COUNTA(A1:A4)=4", "COUNTBLANK(A1:C4)=1", 'COUNTIF(A1:A4,"salt*")=2', "COUNTIF(B1:B4,12)=2",
    'COUNTIF(B1:B4,">0")=2', 'COUNTIF(A1:A4,"<>Weir")=3', "COUNTIF(A:A,A1)=2", 'COUNTIFS(A1:A4,"salt*",B1:B4,12)=2',
    'MATCH("weir",A1:A4,0)=4', "ABS(B2)=3.5", "SIGN(B2)=-1", "INT(B2)=-4", "ROUND(2.5,0)=3", "ROUND(-2.5,0)=-3",
    "ROUNDUP(2.1,0)=3", "ROUNDDOWN(-2.9,0)=-2", "TRUNC(2.99,1)=2.9", "FLOOR(7,5)=5", "CEILING(7,5)=10", "MOD(-1,3)=2",
    "LEN(A2)=10", 'LOWER(A1)="saltgate"', 'UPPER("a")="A"', 'TRIM(" a ")="a"', 'LEFT(A1,4)="Salt"', 'RIGHT(A1)="e"',
    'MID(A1,5,4)="gate"', 'FIND("gate",A1)=5', 'SEARCH("GATE",A1)=5', 'ISERROR(FIND("GATE",A1))', 'VALUE("12")=12',
    'CONCATENATE(A1,"-",B1)="Saltgate-12"', "DATE(2026,5,1)=C1", "DATE(2026,14,1)=DATE(2027,2,1)", "YEAR(C1)=2026",
    "MONTH(C1)=5", "DAY(C2)=20", "WEEKDAY(C1)=6", "WEEKDAY(C1,2)=5", "WEEKDAY(DATE(2026,5,4),3)=0", "EDATE(C1,1)=DATE(2026,6,1)",
    "EDATE(DATE(2026,1,31),1)=DATE(2026,2,28)", "EOMONTH(C1,0)=DATE(2026,5,31)", "ISOWEEKNUM(C1)=18", "TODAY()=C2",
    "TODAY()-C1=19", "ROW()=109", "COLUMN()=1", "ROW($A$3)=3", "COLUMN(C1)=3", "'Other''s'!A1=7", "N(A1)=0", "1<A1", "A1<TRUE",
]  # fmt: skip
FAIL = [
    "B1=11", "B1=B4", "FALSE", "0", "A1", '""', "1/0", "D3", "D3=1", "B1/C3=1", "A1+1=2", "AND(TRUE,FALSE)", "LARGE(B1:B3,9)=1",
    "MOD(1,0)=0", "(-8)^0.5=1", "VALUE(A1)=0", "EDATE(-5,1)=1", "MATCH(99,B1:B4,0)=1", "LEFT(A1,-1)=A1", "WEEKDAY(C1,9)=1",
    "9^9^9^9=1", "STDEV(1)=0", "B1:B4=12", 'COUNTIF(A1:A4,"[a-z]*")=1', "DATE(99999,1,1)=1", 'VALUE("nan")=0',
]  # fmt: skip


def test_formulas_hold_or_do_not_as_the_standard_has_it():
    row = 10 + HOLD.index("ROW()=109")
    formulas = [f"ROW()={row}" if formula == "ROW()=109" else formula for formula in HOLD]
    found = held([*formulas, *FAIL])
    assert [formula for formula in formulas if formula not in found] == []
    assert [formula for formula in FAIL if formula in found] == []


def test_references_move_with_the_cell_unless_they_are_fixed():
    made, sheet = sheet_of(*([n, n % 3] for n in range(1, 7)))
    sheet.conditional_formatting.add("A1:A6", FormulaRule(formula=["$B1=$B$3"], fill=RED))
    sheet.conditional_formatting.add("B2:B6", FormulaRule(formula=["B1>B2"], fill=RED))
    assert reds(composed(made)) == {(3, 1), (6, 1), (3, 2), (6, 2)}


def test_every_other_row_is_coloured_its_empty_cells_too():
    made, sheet = sheet_of([1, None, 1], [2, None, 2], [3, None, 3], [4, None, 4])
    sheet.conditional_formatting.add("A1:C4", FormulaRule(formula=["MOD(ROW(),2)=0"], fill=RED))
    assert reds(composed(made)) == {(row, column) for row in (2, 4) for column in (1, 2, 3)}


def test_a_sheet_of_some_length_keeps_its_rules():
    made, sheet = sheet_of(*([number, *"abcdefghi"] for number in range(2100)))
    sheet.conditional_formatting.add("A1:A2100", FormulaRule(formula=["$A1=2099"], fill=RED))
    edition = composed(made)
    assert [remark for remark in edition.remarks if remark.kind == "workbook"] == []
    assert len(edition.locate('td[style*="#ff0000"]')) == 1
    assert edition.pages[-1].text.split("\n")[-10] == "2099"


def test_values_are_compared_with_other_cells():
    made, sheet = sheet_of([1, 3, 2], [4, 3, 5], [3, 3, 3])
    sheet.conditional_formatting.add("A1:A3", CellIsRule(operator="greaterThanOrEqual", formula=["B1"], fill=RED))
    sheet.conditional_formatting.add("C1:C3", CellIsRule(operator="between", formula=["MIN(A:A)+2", "B1+1"], fill=RED))
    assert reds(composed(made)) == {(2, 1), (3, 1), (3, 3)}


def test_days_are_those_before_the_workbook_was_kept():
    made, sheet = sheet_of([date(2026, 5, 19)], [date(2026, 5, 12)], [date(2026, 5, 20)])
    formula = ["AND(TODAY()-FLOOR(A1,1)<=6,FLOOR(A1,1)<=TODAY())"]
    rule = Rule(type="timePeriod", timePeriod="last7Days", formula=formula, dxf=DifferentialStyle(fill=RED))
    sheet.conditional_formatting.add("A1:A3", rule)
    assert reds(composed(made)) == {(1, 1), (3, 1)}


@pytest.mark.parametrize(
    ("formula", "said"),
    [
        ("VLOOKUP(A1,A:B,2)", "the function 'VLOOKUP'"),
        ("Tariff>1", "'Tariff'"),
        ("Gone!A1=1", "the sheet 'Gone'"),
        ("(A1", "a bracket that is not closed"),
        ("A1=", "a formula that ends too early"),
        ('"x', "a formula that cannot be read"),
        ("{1,2}=1", "'{'"),
        ("(" * 80 + "1" + ")" * 80, "very many parts"),
        ("+".join(["1"] * 500), "very many parts"),
    ],
)
def test_what_is_not_worked_out_is_said(formula, said):
    made, sheet = sheet_of([1])
    sheet.conditional_formatting.add("A1", FormulaRule(formula=[formula], fill=RED))
    edition = composed(made)
    messages = [remark.message for remark in edition.remarks if remark.kind == "workbook"]
    assert len(messages) == 1 and said in messages[0] and "not worked out here" in messages[0]
    assert reds(edition) == set()


PARTS = st.sampled_from(["A1", "B$2", "$A$1:B3", "1", '"a"', "TRUE", "(", ")", "+", "-", "/", "^", "%", "&", "<=", ",",
                         "SUM(", "IF(", "LEFT(", "DATE(", "COUNTIF(", "EDATE(", "MID(", "ROW(", "{", "}", "#REF!", " ", "1E308"])  # fmt: skip


@settings(deadline=None)
@given(st.lists(PARTS, min_size=1, max_size=14).map("".join))
def test_any_formula_holds_or_does_not_or_is_said(formula):
    made, sheet = sheet_of(["a", 1], [2, "#N/A"], [date(2026, 5, 1), True])
    sheet.conditional_formatting.add("A1:B3", FormulaRule(formula=[formula], fill=RED))
    assert composed(made).page_count == 1
