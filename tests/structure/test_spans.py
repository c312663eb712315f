"""Cells that reach over columns and rows: every kind of file has them at the same places."""

import csv
import io
from typing import NamedTuple

import openpyxl
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.structure.spans import Spans


class Spanning(NamedTuple):
    across: int
    down: int


ROWS = st.lists(st.lists(st.builds(Spanning, st.integers(1, 4), st.integers(1, 4)), max_size=5), max_size=6)


@given(ROWS)
def test_places_have_no_gaps_and_no_two_cells_overlap(rows):
    spans = Spans()
    taken: dict[tuple[int, int], int] = {}  # whose place it is
    for number, cells in enumerate(rows):
        places = list(spans.places(cells))
        assert [place.column for place in places] == [sum(p.across for p in places[:at]) for at in range(len(places))]
        assert [(p.cell.down, p.cell.across >= p.across) for p in places if p.cell] == [(c.down, True) for c in cells]
        for place in places:
            columns = range(place.column, place.column + place.across)
            assert {(number, column) in taken for column in columns} == {place.is_covered}
            if place.is_covered:
                assert len({taken[number, column] for column in columns}) == 1
            if place.cell is not None:
                own = len(taken)
                places_of = [(row, column) for row in range(number, number + place.cell.down) for column in columns]
                assert not taken.keys() & set(places_of)
                taken |= dict.fromkeys(places_of, own)


@given(ROWS, st.integers(1, 5))
def test_each_row_fills_its_columns(rows, count):
    spans = Spans(count)
    for cells in rows:
        shown = cells[:1]  # what a grid of so many columns has room for
        assert sum(place.across for place in spans.places(shown)) >= count


OVERLAPPING = """<table><tr><td>a<td rowspan=3>b<tr><td colspan=3>c<td>d<tr><td>e<td>f</table>"""


def test_all_kinds_have_cells_at_the_same_places():
    def written(kind):
        stream = io.BytesIO()
        fq.write(fq.Manuscript.from_html(OVERLAPPING), stream, kind=kind)
        return stream

    wanted = [["a", "b"], ["c", "", "", "d"], ["e", "", "f"]]
    assert list(csv.reader(io.StringIO(written("csv").getvalue().decode()))) == wanted
    sheet = openpyxl.load_workbook(written("xlsx")).active
    cells = [[cell.value or "" for cell in row] for row in sheet.iter_rows()]
    assert cells == [row + [""] * (4 - len(row)) for row in wanted]
    lines = written("md").getvalue().decode().splitlines()
    assert [[text.strip() for text in line.split("|")[1:-1]] for line in lines[2:]] == wanted
