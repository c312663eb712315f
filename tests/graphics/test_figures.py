"""Figures and charts: which way up pictures are, text as it is read, nothing of the data lost without a word."""

from __future__ import annotations

import io

import numpy
import pypdfium2 as pdfium
import pytest
from PIL import Image

import fleetquill as fq
from fleetquill.layout.contract.fragments import walk

plt = pytest.importorskip("matplotlib.figure")
collections = pytest.importorskip("matplotlib.collections")


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
    colors = pixels(fq.compose(m)).getcolors(1 << 24)
    assert sum(count for count, (red, green, blue) in colors if red > 200 and green < 120 and blue < 120) > 20


# ---- what is drawn once, and what is drawn as pixels ----


def steps_of(draw, size=(4, 3)):
    figure = plt.Figure(figsize=size)
    draw(figure.add_subplot())
    m = fq.Manuscript()
    m.figure(figure)
    placed = [p for page in fq.compose(m)._fragments for part in page.parts for p in walk(part)]
    return next(p.box.picture.steps for p in placed if p.box.element is not None and p.box.element.tag == "fq-figure")


def test_points_stand_in_one_step_each_with_its_place_and_ink():
    rng = numpy.random.default_rng(1)
    steps = steps_of(lambda axes: axes.scatter(rng.random(50), rng.random(50), c=rng.random(50), s=rng.random(50) * 90))
    places = [a[1] for verb, a in steps if verb == "stamps" and len(a[1]) == 50]
    assert len(places) == 1 and len({place.fill for place in places[0]}) > 40 and len({p.scale for p in places[0]}) > 40


def test_markers_of_a_line_are_one_shape():
    steps = steps_of(lambda axes: axes.plot(range(30), "o"))
    assert [len(a[1]) for verb, a in steps if verb == "stamps" and len(a[1]) == 30] == [30]
    steps = steps_of(lambda axes: axes.plot([1, float("nan"), 3], marker="x", color="r"))
    crosses = [a[1] for verb, a in steps if verb == "stamps" and a[1][0].line is not None and a[1][0].line.red == 1.0]
    assert [len(places) for places in crosses] == [2]  # what has no place is not drawn


def test_a_file_of_many_points_is_smaller_than_matplotlibs_own():
    rng = numpy.random.default_rng(1)
    figure = plt.Figure(figsize=(5, 4))
    figure.add_subplot().scatter(rng.random(3000), rng.random(3000), c=rng.random(3000))
    theirs = io.BytesIO()
    figure.savefig(theirs, format="pdf")
    m = fq.Manuscript()
    m.figure(figure)
    assert len(fq.compose(m).to_bytes()) < 1.5 * len(theirs.getvalue())


def test_a_hatch_is_an_inch_wide_and_filled():
    steps = steps_of(lambda axes: axes.bar(1, 3, hatch="*", facecolor="w", edgecolor="k"))
    tiles = [a[0] for verb, a in steps if verb == "drawing"]
    assert tiles and all((tile.width, tile.height) == (96.0, 96.0) for tile in tiles)
    assert {"fill_path", "stroke_path"} <= {step.verb for step in tiles[0].steps}


def test_hatches_begin_at_the_top_left_of_their_figure():
    steps = steps_of(lambda axes: axes.bar([1, 2], [3, 4], hatch="//"), size=(3, 2.3))
    places = [step.arguments[1:3] for step in steps if step.verb == "drawing"]
    assert places and all((x % 96, y % 96) == (0.0, 0.0) for x, y in places)


def test_nothing_shows_between_areas_that_touch():
    def draw(figure):
        axes = figure.add_axes((0, 0, 1, 1))
        axes.set_axis_off()
        corners = [[(0, 0), (1, 0), (0.3, 1), (0, 1)], [(1, 0), (1, 1), (0.3, 1)]]
        axes.add_collection(collections.PolyCollection(corners, facecolor="black", linewidth=0, antialiased=False))

    page = pixels(figure_page(draw), scale=1.3)
    inside = page.crop((page.width // 4, page.height // 4, page.width * 3 // 4, page.height * 3 // 4))
    assert max(high for _, high in inside.getextrema()) < 45


def test_what_is_to_be_rasterized_is_a_picture():
    verbs = [verb for verb, _ in steps_of(lambda axes: axes.plot([1, 3, 2], rasterized=True))]
    assert verbs.count("picture") == 1
    assert "picture" not in [verb for verb, _ in steps_of(lambda axes: axes.plot([1, 3, 2]))]


def test_a_figure_asks_for_families_of_its_own():
    steps = steps_of(lambda axes: (axes.set_title("title", family="serif"), axes.set_xlabel("below", family="Source Serif Pro"),
                                   axes.set_ylabel("usual")))  # fmt: skip
    faces = {a[3][0].text: a[2].setting.face for verb, a in steps if verb == "text"}
    assert faces["title"] is faces["below"] is not faces["usual"]


def test_a_transparent_figure_has_no_ground():
    def grounds(**more):
        figure = plt.Figure(figsize=(1, 1), **more)
        m = fq.Manuscript(page=(50, 50), margin=0, style="body{background:#00ff00}")
        m.figure(figure)
        return pixels(fq.compose(m)).convert("RGB").getpixel((20, 20))

    assert grounds(facecolor="none") == (0, 255, 0) and grounds() == (255, 255, 255)


def test_sketched_lines_are_not_straight():
    def line(axes):
        axes.plot([0, 1], [0, 1], color="r")[0].set_sketch_params(3, 50, 10)

    paths = [a[0] for verb, a in steps_of(line) if verb == "stroke_path" and a[1].red == 1.0]
    assert len(paths[0]) > 50


KINDS = {
    "errorbar": lambda ax: ax.errorbar(range(4), range(4), yerr=0.5),
    "violin": lambda ax: ax.violinplot([[1, 2, 2, 3], [2, 3, 4]]),
    "fill": lambda ax: ax.fill_between(range(4), [1, 2, 1, 2]),
    "quiver": lambda ax: ax.quiver([0, 1], [0, 1], [1, 2], [2, 1], scale=4, width=0.02),
    "stem": lambda ax: ax.stem(range(4), [1, 3, 2, 4]),
    "contours": lambda ax: ax.contour(numpy.add.outer(numpy.arange(6) ** 2, numpy.arange(6) ** 2)),
    "filled contours": lambda ax: ax.contourf(numpy.add.outer(numpy.arange(6) ** 2, numpy.arange(6) ** 2)),
    "stream": lambda ax: ax.streamplot(numpy.arange(4), numpy.arange(4), numpy.ones((4, 4)), numpy.eye(4)),
    "stack": lambda ax: ax.stackplot(range(4), [[1, 2, 1, 2], [2, 1, 2, 1]]),
    "mesh": lambda ax: ax.pcolormesh(numpy.arange(12).reshape(3, 4)),
    "triangles": lambda ax: ax.tripcolor([0, 1, 0, 1], [0, 0, 1, 1.1], [1, 2, 3, 4]),
    "many points": lambda ax: ax.scatter(range(40), range(40), s=range(10, 50), c=range(40)),
    "of two sizes": lambda ax: ax.scatter([1, 2, 3], [1, 2, 3], linewidths=[1, 2, 3], edgecolors="k"),
}


@pytest.mark.parametrize("draw", KINDS.values(), ids=KINDS)
def test_collections_of_every_kind_look_as_the_figure_does(draw):
    figure = plt.Figure(figsize=(4, 3), dpi=100)
    axes = figure.add_subplot()
    draw(axes)
    axes.set_axis_off()
    whole = io.BytesIO()
    figure.savefig(whole, format="png")
    theirs = numpy.asarray(Image.open(whole).convert("L"), int)
    manuscript = fq.Manuscript()
    manuscript.add_style("@page{size:4in 3in;margin:0}body,figure,fq-figure{margin:0;display:block;line-height:0}")
    manuscript.figure(figure)
    page = pdfium.PdfDocument(fq.compose(manuscript).to_bytes())[0].render(scale=100 / 72).to_pil()
    ours = numpy.asarray(page.convert("L").resize(theirs.shape[::-1]), int)
    assert (numpy.abs(ours - theirs) > 60).mean() < 0.02
    assert (theirs < 250).mean() > 0.002
