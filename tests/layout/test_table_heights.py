"""Tables with a height of their own, rows taller than a page, and what stands below the last row."""

from __future__ import annotations

import re
from itertools import count as numbers

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

CELLS = "<style>table{border-spacing:0} td,th,caption{padding:0} tr{line-height:20px} caption{text-align:left}</style>"
BELOW = "<caption style='caption-side:bottom'>below</caption>"


def rows(count: int) -> str:
    return "".join(f"<tr><td>r{number}" for number in range(count))


def lines(edition) -> list[list[str]]:
    return [page.text.split("\n") for page in edition.pages]


def test_a_table_with_a_height_shares_it_among_its_rows(compose, px):
    edition = compose(f"{CELLS}<table style='height:210px'><tr><td>a<tr><td>b<tr><td>c</table><p id=after>x")
    cells = px(edition, "td")
    assert [cell.y for cell in cells] == pytest.approx([0, 70, 140], abs=0.02)
    assert [cell.height for cell in cells] == pytest.approx([70, 70, 70], abs=0.02)
    assert px(edition, "#after")[0].y == pytest.approx(210)


@pytest.mark.parametrize(("align", "y"), [("top", 0), ("middle", 90), ("bottom", 180)])
def test_content_is_aligned_in_the_height_that_its_cell_has_in_the_end(compose, px, align, y):
    edition = compose(f"{CELLS}<table style='height:200px'><tr><td style='vertical-align:{align}'><p>x</p></table>")
    assert px(edition, "p")[0].y == pytest.approx(y, abs=0.02)


def test_a_cell_over_two_rows_grows_with_both(compose, px):
    edition = compose(f"{CELLS}<table style='height:200px'><tr><td>a<td rowspan=2>b<tr><td>c</table>")
    assert [cell.height for cell in px(edition, "td")] == pytest.approx([100, 200, 100])


def test_a_caption_below_goes_on_the_next_page_with_the_last_row(compose, px):
    edition = compose(f"{CELLS}<table>{BELOW}<thead><tr><th>head</thead>{rows(29)}</table>")
    assert lines(edition) == [["head", *(f"r{n}" for n in range(28))], ["head", "r28", "below"]]
    assert px(edition, "caption")[0].y == pytest.approx(40)
    assert len(compose(f"{CELLS}<table>{BELOW}{rows(29)}</table>").pages) == 1


def test_a_lone_row_goes_with_the_caption_below_it(compose, px):
    high = "<tr><td><div style='height:80px'>row</div>"
    edition = compose(f"{CELLS}<div style='height:510px'>x</div><table>{BELOW}{high}</table>")
    assert (px(edition, "td")[0].page, px(edition, "caption")[0].page) == (2, 2)
    edition = compose(f"{CELLS}<table>{BELOW}<tr><td><div style='height:590px'>row</div></table>")
    assert (px(edition, "td")[0].page, px(edition, "caption")[0].page, edition.remarks) == (1, 2, ())


def test_a_table_is_as_wide_as_its_caption_must_be(compose, px):
    edition = compose(f"{CELLS}<table><caption>one_very_long_name</caption><tr><td>r</table>")
    assert px(edition, "td")[0].width == px(edition, "caption")[0].width > 100
    assert not edition.remarks


def test_a_row_taller_than_its_page_goes_on_inside_its_cells(compose):
    words = [f"w{number}" for number in range(300)]
    edition = compose(
        f"{CELLS}<table><thead><tr><th>head<th>x</thead><tr><td style='width:90px'>{' '.join(words)}<td>y<tr><td>z</table>"
    )
    assert edition.page_count > 3 and not edition.remarks
    assert all(page.text.startswith("head") for page in edition.pages)
    said = " ".join(page.text for page in edition.pages).split()
    assert [word for word in said if word in set(words)] == words


def test_rows_tied_together_break_between_them_where_no_page_holds_them(compose):
    tied = "<tr><td rowspan=40>tied<td>r0" + "".join(f"<tr><td>r{number}" for number in range(1, 40))
    edition = compose(f"{CELLS}<table>{tied}</table>")
    assert [page.text.split("\n")[-1] for page in edition.pages] == ["r29", "r39"]


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.integers(0, 45), st.sampled_from([0, 15, 200]), st.booleans(),
    st.sampled_from(["", "<tfoot><tr><td>foot</tfoot>", "<tfoot style='-fq-show-on:last'><tr><td>foot</tfoot>"]),
)  # fmt: skip
def test_what_stands_below_the_last_row_stays_on_the_paper(compose, px, count, above, captioned, foot):
    edition = compose(
        f"{CELLS}<div style='height:{above}px'></div><table>{BELOW * captioned}{rows(count)}{foot}</table><p id=end>end"
    )
    said = [line for page in edition.pages for line in page.text.split("\n")]
    assert [line for line in said if line.startswith("r")] == [f"r{number}" for number in range(count)]
    assert said.count("below") == captioned and said[-1] == "end"
    assert all(part.y + part.height <= 600.02 for part in px(edition, "td, caption, p"))


def test_the_rows_of_a_table_that_is_taller_than_its_page_share_its_height_over_the_pages(compose, px):
    edition = compose(f"{CELLS}<table style='height:900px'>{BELOW}<tr><td>a<tr><td>b</table>")
    assert [(cell.page, round(cell.height)) for cell in px(edition, "td")] == [(1, 450), (2, 450)]
    assert (px(edition, "caption")[0].page, round(px(edition, "caption")[0].y)) == (2, 450)
    assert not edition.remarks


@pytest.mark.parametrize(("cell", "top"), [("middle", 40), ("bottom", 80), ("top", 0), ("baseline", 0)])
def test_what_stands_in_a_cell_with_a_height_is_aligned_in_it(compose, px, cell, top):
    edition = compose(f"{CELLS}<table><tr><td style='height:100px;vertical-align:{cell}'><p>a</p></table>")
    assert round(px(edition, "p")[0].y) == top


def test_a_table_with_a_height_has_room_for_it_beside_the_foot_of_its_last_page(compose, px):
    foot = "<tfoot style='-fq-show-on:last'><tr><td>foot</tfoot>"
    edition = compose(f"{CELLS}<table style='height:590px'><tr><td>a<tr><td>b{foot}</table>")
    assert sum(cell.height for cell in px(edition, "td")) == pytest.approx(590, abs=0.02)
    assert not edition.remarks


def test_rows_begin_on_a_page_that_has_no_room_for_the_caption_below_the_last(compose):
    edition = compose(f"{CELLS}<div style='height:570px'>x</div><table>{BELOW}{rows(4)}</table>")
    assert lines(edition) == [["x", "r0"], ["r1", "r2", "r3", "below"]]


def test_a_tall_row_begins_where_a_line_of_it_fits(compose, px):
    edition = compose(
        f"{CELLS}<div style='height:590px'>x</div><table><tr><td style='width:60px'>{'word ' * 200}</table>"
    )
    assert [cell.page for cell in px(edition, "td")][0] == 2


cells = st.tuples(
    st.sampled_from([1, 1, 1, 1, 2, 3]), st.sampled_from([1, 1, 1, 2]), st.sampled_from([1, 2, 5, 80]),
    st.sampled_from(["", "vertical-align:bottom", "vertical-align:baseline", "height:90px", "padding:9px"]),
)  # fmt: skip
table_rows = st.tuples(
    st.sampled_from(["", "break-inside:avoid", "height:40px", "break-before:avoid"]),
    st.lists(cells, min_size=1, max_size=3),
)


@settings(max_examples=80, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.lists(table_rows, min_size=1, max_size=20),
    st.sampled_from(["", "border-collapse:collapse;border:2px solid", "height:400px", "border-spacing:5px"]),
    st.integers(0, 590),
)
def test_no_word_of_a_table_is_lost_and_no_cell_leaves_the_paper(compose, px, table, style, above):
    numbered = numbers()
    html = ""
    for row_style, row in table:
        html += f"<tr style='{row_style}'>"
        for rows_over, columns_over, words, cell_style in row:
            text = " ".join(f"w{next(numbered)}z" for _ in range(words))
            html += f"<td rowspan={rows_over} colspan={columns_over} style='{cell_style}'>{text}</td>"
    edition = compose(f"{CELLS}<div style='height:{above}px'></div><table style='{style}'>{BELOW}{html}</table>")
    said = re.findall(r"w\d+z", " ".join(page.text for page in edition.pages))
    assert sorted(said) == sorted(f"w{number}z" for number in range(next(numbered)))
    assert edition.remarks or all(part.y + part.height <= 600.02 for part in px(edition, "td, caption"))
