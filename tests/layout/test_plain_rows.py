"""Rows of a table that hold short texts alone are laid out together: the pages are those of the table model."""

from collections.abc import Iterator
from contextlib import contextmanager
from unittest.mock import patch

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.bindery.check import check
from fleetquill.drawing.canvas import Drawing
from fleetquill.layout.table import plain_rows
from fleetquill.layout.table.measures import HeldRowsFragment
from fleetquill.paint.painter import paint_page
from structured import outline

PAGE = "<!DOCTYPE html><style>@page{size:360px 300px;margin:10px} body{margin:0;font-size:12px}%s</style>%s"


TOLD = ("All that is drawn is a part of the document or an artifact", "Marks and structure lead to one another")


@contextmanager
def the_long_way() -> Iterator[None]:
    with patch.object(plain_rows, "LEAST_ROWS", 10**9):
        yield


class Seen(Drawing):
    """A canvas that notes where what is drawn stands on the page: rectangles, and each word."""

    def __init__(self) -> None:
        super().__init__(400, 400)
        self.at = [(0.0, 0.0)]
        self.seen: list[tuple] = []

    def save(self):
        self.at.append(self.at[-1])

    def restore(self):
        self.at.pop()

    def transform(self, matrix):
        x, y = self.at[-1]
        self.at[-1] = x + matrix[4], y + matrix[5]

    def fill_rect(self, x, y, width, height, color):
        dx, dy = self.at[-1]
        self.seen.append(("rectangle", color, x + dx, y + dy, width, height))

    def stroke_path(self, path, color, stroke):
        dx, dy = self.at[-1]
        places = [place + (dx, dy)[index % 2] for _, *step in path for index, place in enumerate(step)]
        self.seen.append(("line", color, stroke, *places))

    def text(self, x, baseline, look, words, space, spaced=None):
        dx, dy = self.at[-1]
        gaps = [True] * len(words) if spaced is None else [*spaced, False]
        for word, gap in zip(words, gaps, strict=False):
            begun = 0
            for part in word.text.split(" "):
                if part:
                    self.word(part, look, x + self.wide(look, word.text[:begun]) + dx, baseline + dy)
                begun += len(part) + 1
            x += word.advance * look.size + word.count * look.letter_spacing + (space if gap else 0.0)

    def word(self, text, look, x, baseline):
        """A word; what stands right beside the last one belongs to it."""
        last = self.seen[-1] if self.seen else (None,) * 4
        if last[1] is look and last[3] == baseline and abs(last[2] + self.wide(look, last[0]) - x) < 0.05:
            self.seen[-1] = (last[0] + text, *last[1:])
        else:
            self.seen.append((text, look, x, baseline))

    @staticmethod
    def wide(look, text):
        word = look.setting.exact(text)
        return word.advance * look.size + word.count * look.letter_spacing


def seen(edition: fq.Edition) -> list[list[tuple]]:
    """By page what is drawn, in its order; parts of a word that no space divides are one."""
    found = []
    for fragment in edition._fragments:
        canvas = Seen()
        paint_page(canvas, fragment.content, layered=True)
        found.append(canvas.seen)
    return found


def held_rows(edition: fq.Edition) -> int:
    """How many rows were laid out together."""

    def count(fragment) -> int:
        if isinstance(fragment, HeldRowsFragment):
            return len(fragment.cells)
        return sum(count(child) for child in fragment.children if hasattr(child, "children"))

    return sum(count(fragment.content) for fragment in edition._fragments)


def assert_alike(css: str, html: str) -> fq.Edition:
    source = PAGE % (css, html)
    edition = fq.compose(fq.Manuscript.from_html(source))
    with the_long_way():
        other = fq.compose(fq.Manuscript.from_html(source))
        drawn = seen(other)
    assert held_rows(other) == 0
    shown = seen(edition)
    assert len(shown) == len(drawn)
    for one, two in zip(shown, drawn, strict=True):
        assert [call[:2] for call in one] == [call[:2] for call in two]
        for call, wanted in zip(one, two, strict=True):
            numbers = [[n for n in found[2:] if isinstance(n, float)] for found in (call, wanted)]
            assert numbers[0] == pytest.approx(numbers[1], abs=0.02), (call, wanted)
    assert [page.text for page in edition.pages] == [page.text for page in other.pages]
    assert edition.remarks == other.remarks
    for selector in ("table", "tbody", "tr", "td:nth-child(2)"):
        for place, wanted in zip(edition.locate(selector), other.locate(selector), strict=True):
            assert place == pytest.approx(wanted, abs=0.02)
    assert outline(edition.to_bytes()) == outline(other.to_bytes())
    findings = check(edition.to_bytes(), ["PDF/UA-1"]).findings
    assert not [finding for finding in findings if finding.title in TOLD and finding.faults]
    return edition


def table(rows: int, *, columns: int = 4, attributes: str = "", each=None, before: str = "") -> str:
    names = ["Heron", "Kittiwake and Dunlin", "2026-05-03", "1,204.50", "sawn oak", "W-31400", "12", "and/or (late)"]
    cell = each or (lambda row, column: f"<td>{names[(row * 3 + column) % len(names)]} {row if column else ''}</td>")
    body = "".join(f"<tr>{''.join(cell(row, column) for column in range(columns))}</tr>\n" for row in range(rows))
    head = "".join(f"<th>Column {column}</th>" for column in range(columns))
    return f"<table {attributes}>{before}<thead><tr>{head}</tr></thead><tbody>{body}</tbody></table>"


LOOKS = {
    "nothing": "", "as wide as the page": "table{width:100%}", "fixed": "table{width:100%;table-layout:fixed}",
    "stripes": "tr:nth-child(even){background:#eee}", "cells striped": "tr:nth-child(even) td{background:#eee}",
    "stripes of unlike height": "tr:nth-child(even) td{padding:6px}", "thirds": "tr:nth-child(3n) td{padding:6px;color:red}",
    "ruled": "table{border-collapse:collapse} td{border:1px solid #888}",
    "ruled below": "table{border-collapse:collapse} td{border-bottom:2px dotted #888}",
    "rows ruled": "table{border-collapse:collapse} tr{border-top:1px solid blue}",
    "thick at odd rows": "table{border-collapse:collapse} tr:nth-child(odd) td{border:3px solid red}",
    "apart": "table{border-spacing:5px 2px} td{border:1px solid;background:#efe}", "framed": "table{border:3px double;padding:4px}",
    "figures at the right": "td:nth-child(3){text-align:right} td:last-child{text-align:center}",
    "justified": "td{text-align:justify}", "large": "td:nth-child(2){font-size:20px;vertical-align:middle}",
    "at the bottom": "td{vertical-align:bottom} td:first-child{font-size:8px}", "at the top": "td{vertical-align:top} .x{font-size:30px}",
    "on the baseline": "td{vertical-align:baseline} td:nth-child(2){font-size:17px}",
    "capitals": "td{text-transform:uppercase;letter-spacing:1px}", "no wrapping": "td{white-space:nowrap}",
    "broken anywhere": "td{overflow-wrap:anywhere;width:30px}", "words broken": "td{overflow-wrap:break-word;max-width:30px}",
    "widths": "td:first-child{width:120px} td:nth-child(2){width:30%}", "narrow": "table{width:150px}",
    "kept together": "tr{break-inside:avoid}", "one after another": "tr:nth-child(7){break-after:avoid}",
    "pages": "tr:nth-child(9){break-before:page}", "columns": "body{columns:2;column-gap:8px}",
    "in colour": "td{color:rgba(200,0,0,.4)}", "shadows": "td:first-child{text-shadow:1px 1px red}",
    "underlined": "td:first-child{text-decoration:underline}", "small capitals": "td{font-variant-caps:small-caps}",
    "heights": "tr{height:30px}", "heights of cells": "td{height:25px}", "a high table": "table{height:900px}",
    "outlines": "td{outline:1px solid red}", "hidden": "tr:nth-child(4) td{visibility:hidden}", "gone": "tr:nth-child(5){visibility:collapse}",
    "moved": "table{position:relative;left:9px}", "through": "table{opacity:.5}", "moved rows": "tr:nth-child(2){position:relative;top:3px}",
    "columns shown": "tbody{background:#eef} col{background:#fee}", "groups framed": "table{border-collapse:collapse} tbody{border:2px solid}",
    "from the right": "table{direction:rtl}", "indented": "td{text-indent:10px}", "by the point": "td:nth-child(4){text-align:'.'}",
    "shares": "td{padding:2%}", "lines": "td{line-height:30px}", "wide spaces": "td{word-spacing:5px}", "kept spaces": "td{white-space:pre}",
    "bold": "td:first-child{font-weight:bold;font-style:italic}", "other letters": "td{font-family:serif;font-feature-settings:'smcp'}",
    "late": "td{-fq-wrap:late}", "all in a narrow table": "table{table-layout:fixed;width:60px}", "large letters": "td:first-child{font-size:90px}",
    "a page of its own": "table{page:wide} @page wide{size:500px 200px}", "far apart": "table{border-spacing:40px}", "grounds of rows": "tr:nth-child(4n){outline:2px solid}",
    "balanced": "td{text-wrap:balance}", "hyphens": "td{hyphens:auto}", "shrunk": "table{-fq-fit:shrink;width:500px}",
    "groups kept": "tbody{break-inside:avoid}", "the table kept": "table{break-inside:avoid}", "heads that are long": "th{padding:60px 0}",
    "row by row": "tr{break-after:avoid}", "a foot of pages": "thead{display:table-footer-group}", "no heads": "thead{display:table-row-group}",
    "floating": "table{float:right;width:200px}", "flexible": "body{display:flex}", "before": "td:first-child::before{content:'» '}",
}  # fmt: skip


@pytest.mark.parametrize("css", LOOKS.values(), ids=LOOKS)
def test_rows_that_are_laid_out_together_stand_as_those_that_are_not(css):
    assert_alike(css, table(45))


@pytest.mark.parametrize(
    "column",
    [
        "visibility:collapse",
        "width:2px",
        "width:0",
        "width:90%",
        "background:#fee",
        "border:3px solid red",
        "width:200px",
    ],
)
@pytest.mark.parametrize(
    "css",
    ["", "table{table-layout:fixed;width:100%}", "table{table-layout:fixed;width:30px;border-collapse:collapse}"],
)
def test_columns_say_what_they_say(css, column):
    assert_alike(css, table(30, before=f"<col><col style='{column}'>"))


@pytest.mark.parametrize(
    "css", ["", "tr:nth-child(even){background:#eee}", "td{border:1px solid}", "td{text-align:right}"]
)
def test_most_rows_of_usual_tables_are_laid_out_together(css):
    assert held_rows(assert_alike(css, table(45))) >= 40


@pytest.mark.parametrize(
    "around", ["<div aria-hidden=true>", "<div style='opacity:.5'>", "<div style='position:running(x)'>", "<div role=presentation>",
               "<div lang=fr>", "<div style='columns:2'>", "<table><tr><td>", "<div style='transform:rotate(3deg)'>"],
)  # fmt: skip
@pytest.mark.parametrize("attributes", ["", "role=presentation", "aria-hidden=true", "aria-label=tolls"])
def test_wherever_a_table_stands_its_rows_are_told_as_they_are_without(around, attributes):
    assert_alike("@page{@top-left{content:element(x)}}", f"{around}{table(14, columns=2, attributes=attributes)}")


ODD = [
    "<td>plain</td>", "<td></td>", "<td> \n </td>", "<td>two\n  lines of source</td>", "<td>שלום</td>", "<td>日本 語</td>", "<td>so&shy;ft</td>",
    "<td><b>bold</b> text</td>", "<td>a<br>b</td>", "<td id='x'>named</td>", "<td><a href='#x'>link</a></td>", "<td lang=de>Straße</td>",
    "<td style='color:red'>red</td>", "<td>unbreakablewordthatisverylongindeedandmore</td>", "<td>&nbsp;</td>", "<td>1&nbsp;234,50&nbsp;€</td>",
    "<td>f&#x301;i</td>", "<td>Zoë’s “ffi”</td>", "<td>\u2028</td>", "<td>😀</td>", "<td>12345678901234567890123456789012345678901234567890</td>",
    "<td>a b c d e f g h i j k l m n o p q r s t u v w x y z and so on and on</td>", "<td>2026-05-03 12:30</td>", "<td>-5 %</td>", "<td>\ue000</td>",
    "<td><img></td>", "<td>x<!-- a note -->y</td>", "<td>&amp; &lt;</td>", "<th>head</th>", "<td aria-label=said>seen</td>", "<td hidden>gone</td><td>seen</td>",
]  # fmt: skip


@pytest.mark.parametrize("odd", ODD)
@pytest.mark.parametrize("at", [0, 20])
def test_a_cell_unlike_the_others_among_them(odd, at):
    assert_alike(
        "td{border:1px solid}",
        table(40, each=lambda row, column: odd if (row, column) == (at, 1) else f"<td>{row * column} brick</td>"),
    )


@pytest.mark.parametrize("odd", ODD)
def test_a_column_of_cells_unlike_the_others(odd):
    assert_alike("", table(30, columns=3, each=lambda row, column: odd if column == 1 else f"<td>{row}.50</td>"))


@st.composite
def tables(draw) -> tuple[str, str]:
    css = " ".join(draw(st.lists(st.sampled_from([*LOOKS.values()]), max_size=3)))
    columns = draw(st.integers(1, 5))
    groups = []
    for _ in range(draw(st.integers(1, 3))):
        rows = []
        for row in range(draw(st.integers(0, 40))):
            cells = [
                f"<td>{draw(st.sampled_from(['Heron', 'clay 7', '12', '', 'Upper Willow lock', '1,204.50', 'Fenny-Bridge/east']))}"
                for _ in range(columns)
            ]
            change = draw(st.integers(0, 30))
            if change == 0:
                cells[draw(st.integers(0, columns - 1))] = draw(st.sampled_from(ODD))
            elif change == 1:
                cells[0] = f"<td rowspan={draw(st.integers(1, 4))} colspan={draw(st.integers(1, 2))}>spans {row}"
            elif change == 2:
                cells.pop()
            name = draw(st.sampled_from(["", "", "", " class=x", " style='background:#ff8'", f" id=r{row}"]))
            rows.append(f"<tr{name}>{''.join(cells)}")
        groups.append(f"<tbody>{''.join(rows)}</tbody>")
    head = f"<thead><tr>{'<th>Head' * columns}</thead>" if draw(st.booleans()) else ""
    foot = f"<tfoot><tr>{'<td>Foot' * columns}</tfoot>" if draw(st.booleans()) else ""
    columned = [
        "",
        "",
        "<col style='width:9px'>",
        "<col><col style='visibility:collapse'>",
        "<colgroup span=2 style='background:#efe'>",
    ]
    before = draw(st.sampled_from(columned))
    caption = draw(
        st.sampled_from(["", "<caption>Tolls</caption>", "<caption style='caption-side:bottom'>Tolls</caption>"])
    )
    return (
        css,
        f"{draw(st.sampled_from(['', '<p>Before</p>']))}<table>{caption}{before}{head}{''.join(groups)}{foot}</table><p>After</p>",
    )


@settings(max_examples=25, deadline=None)
@given(tables())
def test_whatever_a_table_holds_the_pages_are_those_of_the_table_model(made):
    assert_alike(*made)
