"""Figures and charts: which way up pictures are, text as it is read, nothing of the data lost without a word."""

from __future__ import annotations

import pypdfium2 as pdfium
import pytest

import fleetquill as fq

plt = pytest.importorskip("matplotlib.figure")


def pixels(edition, scale=2.0):
    return pdfium.PdfDocument(edition.to_bytes())[0].render(scale=scale).to_pil().convert("RGB")


def figure_page(draw, size=(2, 2)):
    figure = plt.Figure(figsize=size)
    draw(figure)
    m = fq.Manuscript(page=(size[0] * 25.4, size[1] * 25.4), margin=0)
    m.figure(figure)
    return fq.compose(m)


RASTERS = {
    "imshow": lambda axes: axes.imshow([[0, 0], [1, 1]], cmap="gray", aspect="auto"),
    "imshow, from below": lambda axes: axes.imshow([[1, 1], [0, 0]], cmap="gray", aspect="auto", origin="lower"),
    "pcolormesh": lambda axes: axes.pcolormesh([[1, 1], [0, 0]], cmap="gray", rasterized=True),
    "gouraud": lambda axes: axes.pcolormesh([[1, 1], [0, 0]], cmap="gray", shading="gouraud"),
}


@pytest.mark.parametrize("name", RASTERS)
def test_a_raster_stands_the_right_way_up(name):
    def draw(figure):
        axes = figure.add_axes((0, 0, 1, 1))
        axes.axis("off")
        RASTERS[name](axes)

    picture = pixels(figure_page(draw))
    assert picture.getpixel((picture.width // 2, picture.height // 10))[0] < 90  # the dark half is above
    assert picture.getpixel((picture.width // 2, picture.height * 9 // 10))[0] > 165


def test_an_image_of_the_figure_itself_is_drawn():
    picture = pixels(figure_page(lambda figure: figure.figimage([[0.0, 0.0], [1.0, 1.0]], 10, 10, cmap="gray")))
    assert any(color[0] < 20 for _, color in picture.getcolors(100_000))


@pytest.mark.parametrize("text", ["שלום", "שלום world", "العربية", "abc (שלום) def"])
def test_text_that_runs_from_right_to_left_reads_as_it_does_in_html(text):
    def words(edition):
        text_page = pdfium.PdfDocument(edition.to_bytes())[0].get_textpage()
        found = [(text_page.get_charbox(i)[0], c) for i, c in enumerate(text_page.get_text_range()) if not c.isspace()]
        return [character for _, character in sorted(found)]

    drawn = figure_page(lambda figure: figure.text(0.1, 0.5, text, size=14), (4, 1))
    svg = fq.compose(fq.Manuscript.from_html(f"<svg width=300 height=50><text x=10 y=30>{text}</text></svg>"))
    base = "rtl" if text[0] > "z" else "ltr"
    html = fq.compose(fq.Manuscript.from_html(f"<p dir={base}>{text}</p>"))
    assert words(drawn) == words(svg) == words(html)


ROWS = [{"d": "2026-01-01", "v": 3}, {"d": "2026-02-01", "v": 5}]
CHARTS = [
    ("scatter", ROWS, "", []),
    ("bar", ROWS, "$5 and $6", []),
    ("bar", [{"d": "a", "v": "1,234"}, {"d": "b", "v": "n/a"}, {"d": "c", "v": 2}, {"d": "d", "v": ""}], "",
     ["2 of the values of 'v' are no numbers, such as '1,234'; they are not shown."]),
    ("pie", [{"d": "a", "v": 2}, {"d": "b", "v": -1}], "",
     ["Parts of 'v' below nought have no place in a pie; the others are shown."]),
    ("line", ROWS, "漢", ["No font has a glyph for '漢' (U+6F22); a box stands in its place."]),
]  # fmt: skip


@pytest.mark.parametrize(("kind", "rows", "title", "said"), CHARTS)
def test_a_chart_shows_all_its_data_or_says_what_is_missing(kind, rows, title, said):
    m = fq.Manuscript()
    m.chart(kind, rows, x="d", y="v", title=title)
    edition = fq.compose(m)
    assert [r.message for r in edition.remarks] == said
    text = edition.pages[0].text
    assert title in text
    shown = {"2026-01-01": "Jan", "2026-02-01": "Feb"}
    assert kind == "pie" or all(shown.get(row["d"], row["d"]) in text for row in rows)


def test_points_have_their_places_by_numbers_that_are_text():
    m = fq.Manuscript()
    m.chart("scatter", [{"d": str(x), "v": x} for x in (1, 2, 50)], x="d", y="v")
    text = fq.compose(m).pages[0].text
    assert "10" in text and "40" in text  # the ticks of a scale, not the names


def test_points_have_their_places_by_names_too():
    m = fq.Manuscript(page=(100, 100), margin=0)
    m.chart("scatter", ROWS, x="d", y="v", colors=["#ff0000"])
    red = [c for c in pixels(fq.compose(m)).getdata() if c[0] > 200 and c[1] < 120 and c[2] < 120]
    assert len(red) > 20
