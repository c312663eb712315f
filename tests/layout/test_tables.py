"""Tables: column widths, spans, borders, and rows over pages."""

from __future__ import annotations

import re
from datetime import date, time

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq

CELLS = "<style>table{border-spacing:0} td,th{padding:0} tr{line-height:20px}</style>"


def test_columns_take_their_widths_from_their_content(compose, px):
    edition = compose(f"{CELLS}<table><tr><td>iiii<td>MMMMMMMM<tr><td>i<td>M</table>")
    first, second, *_ = px(edition, "td")
    assert second.x == pytest.approx(first.right, abs=0.02)
    assert second.width > 3 * first.width


def test_width_is_shared_in_the_measure_of_the_content(compose, px):
    edition = compose(f"{CELLS}<table style='width:100%'><tr><td>aa<td>aaaa</table>")
    first, second = px(edition, "td")
    assert first.width + second.width == pytest.approx(400, abs=0.02)
    assert second.width == pytest.approx(2 * first.width, rel=0.02)


def test_given_widths_and_percentages_are_kept(compose, px):
    edition = compose(
        f"{CELLS}<table style='width:400px'><col style='width:25%'><col style='width:60px'><tr><td>a<td>b<td>c</table>"
    )
    assert [p.width for p in px(edition, "td")] == [100, 60, 240]


def test_a_given_width_stands_in_for_the_content_s(compose, px):
    edition = compose(
        f"{CELLS}<table style='width:400px'><tr><th style='width:80px'>a<th>b<tr><td>a long line of text that wraps<td>b</table>"
    )
    assert px(edition, "th")[0].width == 80


def test_numbers_align_on_their_separator(compose, px):
    values = ["1.5", "1234.25", "17", ".125 t"]
    edition = compose(
        f"{CELLS}<style>td{{text-align:'.'}}</style><table style='width:300px'>{''.join(f'<tr><td>{v}' for v in values)}</table>"
    )
    import pypdfium2 as pdfium

    page = pdfium.PdfDocument(edition.to_bytes())[0].get_textpage()
    text = page.get_text_range()
    points = [round(page.get_charbox(i)[0], 1) for i, c in enumerate(text) if c == "."]
    assert len(points) == 3 and len(set(points)) == 1


def test_fixed_layout_asks_the_first_row_alone(compose, px):
    edition = compose(
        f"{CELLS}<table style='width:300px;table-layout:fixed'><tr><td style='width:50px'>a<td>b<tr><td>mmmmmmmmmmmm<td>c</table>"
    )
    assert [p.width for p in px(edition, "td")] == [50, 250, 50, 250]


def test_spans_cover_their_slots(compose, px):
    edition = compose(
        f"{CELLS}<table style='width:300px;table-layout:fixed'><tr><td rowspan=2>a<td colspan=2>b<tr><td>c<td>d</table>"
    )
    a, b, c, d = px(edition, "td")
    assert (a.height, b.height) == (40, 20)
    assert (b.x, b.width) == (100, 200)
    assert (c.x, d.x, c.y) == (100, 200, 20)


def test_border_spacing_stands_between_and_around(compose, px):
    edition = compose(
        "<style>td{padding:0;width:50px}table{border-spacing:10px 4px}</style><table><tr><td>a<td>b<tr><td>c"
    )
    a, b, c = px(edition, "td")
    assert (a.x, a.y, b.x, c.y) == (10, 4, 70, 28)
    assert px(edition, "table")[0].width == 130


def test_collapsed_borders_are_shared_in_halves(compose, px):
    edition = compose(
        "<style>table{border-collapse:collapse}td{padding:0;border:2px solid;width:50px}td.w{border-left:6px solid}</style>"
        "<table><tr><td>a<td class=w>b</table>"
    )
    a, b = px(edition, "td")
    table = px(edition, "table")[0]
    assert a.x == 1 and table.width == a.width + b.width + 2
    assert (a.width, b.width) == (50 + 1 + 3, 50 + 3 + 1)


def test_shared_borders_are_drawn_once_and_by_the_winner(compose):
    edition = compose(
        "<style>table{border-collapse:collapse;margin:10px}td{border:2px solid #00f;padding:0;width:60px;height:40px}"
        "td.w{border:8px solid #f00}tr{border-bottom:2px dashed #0f0}</style><table><tr><td>&nbsp;<td class=w>&nbsp;<tr><td>&nbsp;<td>&nbsp;</table>"
    )
    import pypdfium2 as pdfium

    shot = pdfium.PdfDocument(edition.to_bytes())[0].render(scale=4 * 96 / 72).to_pil().convert("RGB")

    def colours(y: float) -> list[str]:
        names = {(255, 0, 0): "red", (0, 0, 255): "blue", (255, 255, 255): "white", (0, 255, 0): "green"}
        row = [names.get(shot.getpixel((x, round(y * 4))), "") for x in range(shot.width)]
        runs = [c for i, c in enumerate(row) if c and (i == 0 or row[i - 1] != c)]
        return [c for i, c in enumerate(runs) if i == 0 or runs[i - 1] != c]

    assert colours(30) == ["white", "blue", "white", "red", "white", "red", "white"]
    assert colours(80) == ["white", "blue", "white", "blue", "white", "blue", "white"]
    (cell,) = edition.locate("td.w")
    red = [x for x in range(shot.width) if shot.getpixel((x, 120)) == (255, 0, 0)]
    assert len(red) == pytest.approx(2 * 8 * 4, abs=4) and cell.width == 51.0


def test_cells_align_on_their_baselines_unless_told_otherwise(compose, px):
    edition = compose(
        f"{CELLS}<style>td{{vertical-align:baseline}}</style><table><tr><td><span id=a>small</span>"
        "<td style='font-size:40px;line-height:60px'><span id=b>Big</span><td style='vertical-align:bottom'><p id=c>low</p>"
        "<td style='vertical-align:middle'><p id=d>mid</p></table>"
    )
    row = px(edition, "tr")[0]
    assert px(edition, "#c")[0].bottom == row.bottom
    assert px(edition, "#d")[0].y - row.y == pytest.approx((row.height - 20) / 2, abs=0.02)
    small, big = px(edition, "#a")[0], px(edition, "#b")[0]
    ascent = 0.984  # of the default face
    assert small.y + ascent * 16 == pytest.approx(big.y + ascent * 40, abs=0.05)


def test_head_and_foot_stand_on_every_page(compose, px):
    rows = "".join(f"<tr><td>{n}" for n in range(70))
    edition = compose(f"{CELLS}<table><thead><tr><th>H<tbody>{rows}<tfoot><tr><td>F</table>")
    assert [p.page for p in px(edition, "thead")] == [1, 2, 3]
    assert [p.page for p in px(edition, "tfoot")] == [1, 2, 3]
    assert [page.text.split()[0] for page in edition.pages] == ["H"] * 3
    assert [page.text.split()[-1] for page in edition.pages] == ["F"] * 3


def test_a_row_that_fits_on_a_page_is_never_cut(compose, px):
    rows = "".join(f"<tr><td>{n}<br>{n}<br>{n}" for n in range(25))
    edition = compose(f"{CELLS}<table>{rows}</table>")
    assert [p.height for p in px(edition, "tr")] == [60] * 25


def test_a_row_taller_than_a_page_goes_on_inside_its_cells(compose, px):
    tall = "<br>".join(f"w{n}" for n in range(70))
    edition = compose(f"{CELLS}<table><thead><tr><th>H<th>H<tbody><tr><td>{tall}<td>short<tr><td>next<td>row</table>")
    words = " ".join(page.text for page in edition.pages).split()
    assert [w for w in words if w.startswith("w")] == [f"w{n}" for n in range(70)]
    assert words.count("short") == words.count("next") == 1
    assert edition.remarks == ()


def test_rows_tied_by_a_span_stay_together(compose, px):
    rows = "".join(f"<tr><td>{n}<td>x" for n in range(28))
    edition = compose(f"{CELLS}<table>{rows}<tr><td rowspan=3>span<td>a<tr><td>b<tr><td>c</table>")
    last = px(edition, "tr")[-3:]
    assert {p.page for p in last} == {2}


def test_avoided_breaks_between_rows_take_rows_along(compose, px):
    rows = "".join(f"<tr><td>{n}" for n in range(29))
    edition = compose(
        f"{CELLS}<table>{rows}<tr class=k><td>a<tr class=k><td>b</table><style>.k{{break-before:avoid}}</style>"
    )
    assert [p.page for p in px(edition, "tr")] == [1] * 28 + [2] * 3


def test_a_forced_break_before_a_row_or_a_group(compose, px):
    edition = compose(
        f"{CELLS}<table><tr><td>a<tr style='break-before:page'><td>b<tbody style='break-before:page'><tr><td>c"
    )
    assert [p.page for p in px(edition, "tr")] == [1, 2, 3]


def test_zebra_rows_stay_right_over_the_break(compose, px):
    rows = "".join(f"<tr><td>{n}" for n in range(40))
    edition = compose(f"{CELLS}<style>tr:nth-child(even) td{{padding-left:9px}}</style><table>{rows}</table>")
    inner = [round(p.x, 1) for p in px(edition, "td")]
    assert len(inner) == 40


def test_captions_stand_above_or_below(compose, px):
    edition = compose(f"{CELLS}<table><caption>C</caption><tr><td>a</table>")
    assert px(edition, "caption")[0].y == 0 and px(edition, "td")[0].y == 20
    edition = compose(f"{CELLS}<table><caption style='caption-side:bottom'>C</caption><tr><td>a</table>")
    assert px(edition, "caption")[0].y == 20 and px(edition, "td")[0].y == 0


def test_a_caption_is_shown_though_there_are_no_rows(compose):
    assert compose("<table><caption>Nothing was carried</caption></table>").pages[0].text == "Nothing was carried"


def test_rows_that_the_parser_put_into_the_head_are_shown(press):
    edition = press.compose(fq.Manuscript.from_html("<style>p{}</style><tr>row</tr><p>text</p>"))
    assert edition.pages[0].text.split() == ["row", "text"]


def test_table_parts_are_blocks_among_flex_items_and_floats(compose, px):
    edition = compose(
        "<style>.a, .b { display: table-cell } .c { display: table-row }</style>"
        "<div style='display:flex'><i class=a>one</i><br><i class=c>two</i></div><i class=b style='float:right'>three</i>"
    )
    assert sorted(edition.pages[0].text.split()) == ["one", "three", "two"]
    assert px(edition, ".b")[0].right == pytest.approx(400, abs=0.02)


ROW = "<tr><td>a<td>b</table>"


@pytest.mark.parametrize(
    ("table", "widths"),
    [
        (f"<table><col style='width:120px'><col style='width:50px'>{ROW}", [120, 50]),
        (f"<table><colgroup span=2 style='width:90px'></colgroup>{ROW}", [90, 90]),
        (f"<table><colgroup><col style='width:70px'><col style='width:30px'></colgroup>{ROW}", [70, 30]),
        (
            "<div style='display:table'><div style='display:table-column-group;width:80px'></div>"
            "<div style='display:table-row'><p style='display:table-cell'>a</div></div>",
            [80],
        ),
    ],
    ids=["columns", "group", "columns in a group", "display"],
)
def test_columns_and_their_groups_give_widths(compose, px, table, widths):
    edition = compose(f"{CELLS}{table}")
    assert not edition.remarks
    assert [cell.width for cell in px(edition, "td, p")] == pytest.approx(widths, abs=0.02)


def test_a_table_wider_than_its_page_is_a_remark(compose):
    cells = "".join(f"<td>columnnumber{n}" for n in range(20))
    remarks = compose(f"{CELLS}<table><tr>{cells}</table>").remarks
    assert [r.kind for r in remarks] == ["overflow"] and "pt wider than" in remarks[0].message


@pytest.mark.parametrize(
    "html",
    ["<table><tr></table>", "<table><tr><td rowspan=0>a<td>b<tr><td>c</table>", "<td>loose", "<tr><td>row</tr>",
     "<table><td>a</td>text<p>block</p></table>", "<table><colgroup span=3><tr><td colspan=9>a</table>",
     "<table><tr><td rowspan=99999>a<tr><td>b</table>", "<table><caption>only</caption></table>"],
)  # fmt: skip
def test_odd_tables_still_give_a_page(compose, html, check_pdf):
    check_pdf(compose(html).to_bytes())


@settings(max_examples=40, deadline=None)
@given(
    st.lists(st.lists(st.integers(0, 6), min_size=1, max_size=5), min_size=1, max_size=40),
    st.sampled_from(["separate", "collapse"]),
    st.booleans(),
)
def test_no_row_is_lost_and_none_overlaps_another(sizes, model, head):
    number = iter(range(10_000))
    rows = "".join(
        "<tr>" + "".join(f"<td>c{next(number)}{'<br>x' * size}" for size in cells) + "</tr>" for cells in sizes
    )
    start = "<thead><tr><th>Head</thead>" if head else ""
    html = f"<style>@page{{size:300px 200px;margin:10px}}table{{border-collapse:{model}}}td{{border:1px solid}}</style>"
    edition = fq.compose(fq.Manuscript.from_html(f"{html}<table>{start}{rows}</table>"))
    words = " ".join(page.text for page in edition.pages).split()
    found = [word for word in words if word.startswith("c")]
    assert sorted(found) == sorted(f"c{n}" for n in range(next(number)))
    for page in range(1, edition.page_count + 1):
        placed = [p for p in edition.locate("tr") if p.page == page]
        for above, below in zip(placed, placed[1:], strict=False):
            assert below.y >= above.y + above.height - 0.02


def test_a_code_may_be_shown_as_a_cell(compose):
    edition = compose("<div style='display:table'><fq-code style='display:table-cell;width:80px'>HERON</fq-code></div>")
    assert edition.pages[0].text == "" and not edition.remarks


@pytest.mark.parametrize("make", ["table", "ledger"])
@pytest.mark.parametrize(
    ("form", "value", "shown"),
    [
        ("date", date(2026, 12, 30), "Dec 30, 2026"),
        ("date:medium", date(2026, 12, 30), "Dec 30, 2026"),
        ("time", time(13, 5, 59), "1:05.PM"),
        ("bytes", 12_345_678, "12.3.MB"),
    ],
)
def test_dates_and_times_stay_on_one_line_where_the_table_is_full(make, form, value, shown):
    words = "words that wrap as often as they are asked to"
    manuscript = fq.Manuscript(page="A5", margin="10mm")
    rows = [{"when": value, **{f"text {n}": words for n in range(7)}} for _ in range(3)]
    getattr(manuscript, make)(rows, [fq.Column("when", form=form), *(f"text {n}" for n in range(7))])
    assert re.search(shown, fq.compose(manuscript).pages[0].text)
