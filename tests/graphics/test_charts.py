"""Charts as a reader sees them: nothing cut off, scales that are true, and each way of drawing them."""

import datetime
import json
import math
from itertools import combinations, product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.drawing.extents import extent_of
from fleetquill.graphics.charts.palette import COLORS, ON_DARK, color_of, dash_of, lightness, mark_of
from fleetquill.layout.contract.fragments import walk

MONTHS = [f"2026-{month:02d}" for month in range(1, 13)]
CARGO = ["Barley", "Brick", "Clay", "Gravel", "Paper reels", "Reed bundles", "Roof slate, grade A", "Sawn oak"]
PRESS = {locale: fq.Press(locale=locale) for locale in ("en-IE", "de", "fr")}


def composed(kind, rows, locale="en-IE", **more):
    m = fq.Manuscript(page="A4")
    m.chart(kind, rows, **{"width": "300px", "height": "200px", "style": "font-size:9px", **more})
    return PRESS[locale].compose(m)


def picture(edition):
    for page in edition._fragments:
        for part in page.parts:
            for placed in walk(part):
                if placed.box.element is not None and placed.box.element.tag == "fq-chart":
                    return placed.box.picture
    return None


def drawn(kind, rows, **more):
    return picture(composed(kind, rows, **more))


def words(drawing):
    """Each text with the place where it begins, in px of the chart; turned ones by their matrix."""
    found, saved, matrix = [], [], (1, 0, 0, 1, 0, 0)
    for verb, arguments in drawing.steps:
        if verb == "save":
            saved.append(matrix)
        elif verb == "restore":
            matrix = saved.pop()
        elif verb == "transform":
            matrix = arguments[0]
        elif verb == "text":
            x, y, _, shown, *_ = arguments
            a, b, c, d, e, f = matrix
            found.append((" ".join(word.text for word in shown), a * x + c * y + e, b * x + d * y + f))
    return found


def texts(drawing):
    return [text for text, _, _ in words(drawing)]


def fills(drawing, color):
    """The boxes of what is filled in a colour."""
    wanted = color_of(color)[:3]
    found = []
    for verb, arguments in drawing.steps:
        if verb == "fill_path" and arguments[1][:3] == pytest.approx(wanted, abs=0.01):
            xs = [x for segment in arguments[0] for x in segment[1::2]]
            ys = [y for segment in arguments[0] for y in segment[2::2]]
            found.append((min(xs), min(ys), max(xs), max(ys)))
    return found


def largest(drawing, color):
    """The largest thing of a colour: a bar, not its swatch."""
    return max(fills(drawing, color), key=lambda box: (box[2] - box[0]) * (box[3] - box[1]))


def rows_of(values, names=CARGO, **more):
    return [{"n": names[at % len(names)], "v": value, **more} for at, value in enumerate(values)]


NAMES = st.lists(st.text("abcdefgh ijklmn", min_size=1, max_size=40), min_size=1, max_size=25)


@settings(max_examples=60, deadline=None)
@given(
    kind=st.sampled_from(["bar", "line", "area", "scatter", "pie", "histogram"]),
    names=NAMES,
    across=st.booleans(),
    width=st.integers(100, 700),
    height=st.integers(68, 500),
    title=st.sampled_from(
        ["", "Tonnes", "A title that goes on and on for longer than any chart is wide, or should be"]
    ),
    scale=st.sampled_from([1e-5, 1.0, 123456.0, 1e12]),
)
def test_nothing_of_a_chart_is_cut_off(kind, names, across, width, height, title, scale):
    rows = [{"n": name, "a": (at * 7 % 11 - 2) * scale, "b": at * scale} for at, name in enumerate(names)]
    drawing = drawn(
        kind, rows, x="n", y=["a", "b"], title=title, horizontal=across and kind == "bar", x_title="kind", y_title="tonnes",
        width=f"{width}px", height=f"{height}px",
    )  # fmt: skip
    x, y, wide, high = extent_of(drawing)
    assert x > -3 and y > -3 and x + wide < width + 3 and y + high < height + 3


@pytest.mark.parametrize("kind", ["bar", "line", "area", "scatter"])
@pytest.mark.parametrize("names", [["a" * 15], ["a" * 26], ["a" * 40], ["a" * 26, "b"], ["b", "a" * 26]])
def test_turned_labels_of_few_values_have_their_room_at_the_left(kind, names):
    rows = [{"n": name, "a": at, "b": 2} for at, name in enumerate(names)]
    for width, height in product((100, 110, 120, 150, 200), (68, 100, 161, 300)):
        style = {"width": f"{width}px", "height": f"{height}px"}
        x, y, wide, high = extent_of(drawn(kind, rows, x="n", y=["a", "b"], x_title="kind", y_title="tonnes", **style))
        assert x > -3 and y > -3 and x + wide < width + 3 and y + high < height + 3, (width, height)


@pytest.mark.parametrize("scale", [1e-5, 123456.0, 1e12])
def test_long_numbers_under_bars_that_lie_have_their_room(scale):
    for width, height in product((100, 110, 120, 150, 200, 300), (68, 100, 300)):
        drawing = drawn(
            "bar", [{"n": "a", "a": -2 * scale, "b": 0}], x="n", y=["a", "b"], horizontal=True, width=f"{width}px",
            height=f"{height}px",
        )  # fmt: skip
        x, _, wide, _ = extent_of(drawing)
        assert x > -3 and x + wide < width + 3, (width, height)


def test_a_long_turned_label_has_its_room():
    drawing = drawn("bar", rows_of(range(1, 9)), x="n", y="v")
    assert "Roof slate, grade A" in " ".join(texts(drawing))
    turned = drawn("bar", rows_of(range(1, 15)), x="n", y="v", style="font-size:10px")
    assert "Roof slate, grade A" in texts(turned)
    assert all(x >= -1 for _, x, _ in words(turned))


def test_names_across_are_whole_where_there_is_room_and_shortened_where_not():
    long = "The Cooperative of Independent Bargemen and Lock Keepers of the Upper River Alder"
    rows = [{"n": long, "v": 3}, {"n": "Teal", "v": 5}]
    shown = texts(drawn("bar", rows, x="n", y="v", horizontal=True))
    assert "Teal" in shown and " ".join(text for text in shown if text in long) == long  # in lines
    rows = [{"n": f"{long} {at}", "v": at} for at in range(12)]
    shown = texts(drawn("bar", rows, x="n", y="v", horizontal=True))
    assert sum(text.endswith("…") for text in shown) == 12


def test_names_that_would_overlap_are_thinned_evenly():
    drawing = drawn("bar", [{"n": f"lock {at}", "v": at} for at in range(90)], x="n", y="v")
    shown = [int(text.removeprefix("lock ")) for text in texts(drawing) if text.startswith("lock")]
    steps = {b - a for a, b in zip(shown, shown[1:], strict=False)}
    assert len(steps) == 1 and 3 <= len(shown) <= 12


def test_time_is_a_scale():
    days = ["2026-01-01", "2026-01-11", "2026-04-11"]
    drawing = drawn("line", [{"d": day, "v": 3} for day in days], x="d", y="v")
    path = next(a[0] for verb, a in drawing.steps if verb == "stroke_path" and len(a[0]) == 3)
    first, second, third = (segment[1] for segment in path)
    assert (third - second) / (second - first) == pytest.approx(9.0, rel=0.01)


@pytest.mark.parametrize(
    ("locale", "wanted"), [("en-IE", ["Jan 2026", "Jul"]), ("de", ["Jan 2026", "Mai"]), ("fr", ["janv. 2026", "juil."])]
)
def test_months_are_in_the_words_of_the_locale(locale, wanted):
    edition = composed(
        "line", [{"d": m, "v": at} for at, m in enumerate(MONTHS)], locale=locale, x="d", y="v", width="500px"
    )
    assert set(wanted) <= set(texts(picture(edition)))


@pytest.mark.parametrize(
    ("first", "step", "count", "wanted"),
    [
        (datetime.datetime(2026, 5, 4, 6), datetime.timedelta(minutes=20), 36, "12:00"),
        (datetime.datetime(2026, 5, 4), datetime.timedelta(days=1), 14, "5"),
        (datetime.datetime(2026, 1, 30), datetime.timedelta(days=7), 12, "Mar"),
        (datetime.datetime(2019, 1, 1), datetime.timedelta(days=365), 8, "2022"),
    ],
)
def test_the_steps_of_a_scale_of_time_follow_its_span(first, step, count, wanted):
    rows = [{"d": (first + at * step).isoformat(), "v": at % 5} for at in range(count)]
    assert any(wanted in text.split() or wanted == text for text in texts(drawn("line", rows, x="d", y="v")))


def test_bars_of_dates_are_named_in_the_words_of_the_locale():
    shown = texts(drawn("bar", [{"d": f"{m}-01", "v": 3} for m in MONTHS[:4]], x="d", y="v"))
    assert shown[-4:] == ["Jan", "Feb", "Mar", "Apr"] or {"Jan", "Feb", "Mar", "Apr"} <= set(shown)


@pytest.mark.parametrize(
    ("values", "wanted"),
    [
        ([0.00012, 0.0004], "0.0004"),
        ([2, 3, 1], "3"),
        ([1.2e9, 3.4e9], "3,000,000,000"),
        ([2e18, 4e18], "4·10¹⁸"),
        ([3e-9, 6e-9], "6·10⁻⁹"),
        ([1000000, 1000050], "1,000,000"),
    ],
)
def test_tick_labels_are_true_and_no_two_alike(values, wanted):
    kind = "line" if values[0] == 1000000 else "bar"
    labels = [text for text in texts(drawn(kind, rows_of(values), x="n", y="v")) if text[:1].isdigit()]
    assert wanted in labels and len(set(labels)) == len(labels)


def test_whole_numbers_have_no_ticks_between():
    labels = [
        text for text in texts(drawn("bar", rows_of([1, 2, 1]), x="n", y="v", height="400px")) if text[:1].isdigit()
    ]
    assert labels == ["0", "1", "2"]


def test_a_form_too_rough_for_its_ticks_gives_fewer_ticks():
    drawing = drawn("bar", rows_of([0.2, 0.9]), x="n", y="v", form="#,##0", height="400px")
    labels = [text for text in texts(drawing) if text.isdigit()]
    assert labels == ["0"] or labels == ["0", "1"]


def test_a_line_has_gaps_where_values_are_missing():
    values = [3, 4, None, 5, 6, None, 2]
    drawing = drawn("line", [{"x": at, "v": value} for at, value in enumerate(values)], x="x", y="v", colors=["#c00"])
    path = next(
        a[0] for verb, a in drawing.steps if verb == "stroke_path" and a[1][:3] == pytest.approx((0.8, 0, 0), abs=0.01)
    )
    assert [segment[0] for segment in path] == ["m", "l", "m", "l"] or sum(s[0] == "m" for s in path) >= 2
    stamps = [a for verb, a in drawing.steps if verb == "stamps"]
    assert (
        sum(place.fill is not None and place.fill.red > 0.7 for _, places, _ in stamps for place in places) == 5
    )  # every value has its mark, the lonely one too


@pytest.mark.parametrize("kind", ["bar", "line", "area", "scatter", "histogram", "box"])
@pytest.mark.parametrize("values", [[0, 0, 0], [7], [-3, -5], [None, 4]])
def test_odd_data_come_out(kind, values):
    edition = composed(kind, rows_of(values), x="n", y="v")
    assert edition.remarks == () and picture(edition) is not None


@pytest.mark.parametrize(("language", "said"), [("en", "No data"), ("de", "Keine Daten"), ("xx", "No data")])
def test_a_chart_of_nothing_says_so(language, said):
    m = fq.Manuscript(language=language)
    m.chart("bar", [], title="Tolls")
    edition = PRESS["en-IE"].compose(m)
    assert said in edition.pages[0].text and "Tolls" in edition.pages[0].text
    assert [remark.message for remark in edition.remarks] == ["The chart has no data."]


# ---- what can be asked for ----


def test_values_stand_at_their_bars():
    drawing = drawn("bar", rows_of([30, 80, 55]), x="n", y="v", values=True, colors=["#c00"])
    placed = {text: (x, y) for text, x, y in words(drawing)}
    for (left, top, right, _), text in zip(sorted(fills(drawing, "#c00")), ("30", "80", "55"), strict=True):
        x, y = placed[text]
        assert left - 10 < x < right and top - 14 < y <= top


def test_values_in_stacked_bars_are_left_out_where_they_do_not_fit():
    shown = texts(drawn("bar", [{"n": "May", "a": 1, "b": 900}], x="n", y=["a", "b"], stacked=True, values=True))
    assert "900" in shown and "1" not in shown


def test_shares_fill_a_hundred_per_cent():
    rows = [{"n": "May", "a": 1, "b": 3}, {"n": "June", "a": 5, "b": 5}]
    drawing = drawn("bar", rows, x="n", y=["a", "b"], shares=True, values=True, colors=["#c00", "#00c"])
    assert {"25%", "75%", "50%", "100%"} <= set(texts(drawing))
    tops = [box[1] for box in fills(drawing, "#00c") if box[3] - box[1] > 12]
    assert max(tops) - min(tops) < 0.5


def test_bars_below_nought_grow_downwards_from_the_ones_before():
    rows = [{"n": "May", "a": 3, "b": -2, "c": 4, "d": -1}]
    drawing = drawn("bar", rows, x="n", y=["a", "b", "c", "d"], stacked=True, colors=["#c00", "#0c0", "#00c", "#cc0"])
    (_, top_a, _, nought), (_, nought_b, _, bottom_b) = largest(drawing, "#c00"), largest(drawing, "#0c0")
    assert nought == pytest.approx(nought_b, abs=0.1)
    assert largest(drawing, "#00c")[3] == pytest.approx(top_a, abs=0.1)
    assert largest(drawing, "#cc0")[1] == pytest.approx(bottom_b, abs=0.1)


def test_a_target_and_a_band_stand_at_their_numbers():
    drawing = drawn(
        "bar", rows_of([100, 50]), x="n", y="v", colors=["#c00"], target=(50, "planned"), band=(0, 100, "usual")
    )
    placed = {text: y for text, _, y in words(drawing)}
    (_, full, _, ground), (_, half, _, _) = sorted(fills(drawing, "#c00"))
    assert placed["planned"] == pytest.approx(half + 4, abs=2)
    assert placed["usual"] == pytest.approx((full + ground) / 2 + 4, abs=2)
    assert half == pytest.approx((full + ground) / 2, abs=0.5)


def test_a_second_axis_has_its_own_scale_at_the_right():
    rows = [{"n": m, "t": 40 + at, "eur": 4000 + 1000 * at} for at, m in enumerate(MONTHS[:5])]
    drawing = drawn("bar", rows, x="n", y="t", y2="eur")
    right = [text for text, x, _ in words(drawing) if x > 240 and text[:1].isdigit()]
    left = [text for text, x, _ in words(drawing) if x < 40 and text[:1].isdigit()]
    assert "6,000" in right and "0" in left
    assert {"t", "eur"} <= set(texts(drawing))


def test_small_multiples_share_their_scales():
    rows = [
        {"m": m, "v": at * factor, "lock": lock}
        for lock, factor in (("Stonecross", 1), ("Saltgate", 9))
        for at, m in enumerate(MONTHS)
    ]
    edition = composed("line", rows, x="m", y="v", by="lock", title="Passages", colors=["#c00"])
    drawing = picture(edition)
    assert {"Passages", "Stonecross", "Saltgate"} <= set(texts(drawing)) and texts(drawing).count("80") <= 1
    heights = []
    for verb, arguments in drawing.steps:
        if verb == "stroke_path" and len(arguments[0]) == 12:
            ys = [segment[2] for segment in arguments[0]]
            heights.append(max(ys) - min(ys))
    assert heights[1] / heights[0] == pytest.approx(9.0, rel=0.02)
    assert edition.remarks == ()


def test_more_small_charts_than_have_room_are_a_remark():
    rows = [{"n": "a", "v": 1, "by": f"group {at}"} for at in range(30)]
    assert [remark.message for remark in composed("bar", rows, x="n", y="v", by="by").remarks] == [
        "Of 30 small charts the first 24 are shown."
    ]


def test_lines_are_named_at_their_ends_where_that_fits_and_in_a_legend_where_not():
    rows = [{"m": m, "Heron": 20 + at, "Teal": 60 - at} for at, m in enumerate(MONTHS)]
    beside = {text: (x, y) for text, x, y in words(drawn("line", rows, x="m", y=["Heron", "Teal"]))}
    assert beside["Heron"][0] > 240 and beside["Teal"][0] > 240 and abs(beside["Heron"][1] - beside["Teal"][1]) > 9
    same = [{"m": m, **{f"barge {n}": 50 for n in range(7)}} for m in MONTHS]
    above = {
        text: y for text, _, y in words(drawn("line", same, x="m", y=[f"barge {n}" for n in range(7)], height="80px"))
    }
    assert all(y < 40 for text, y in above.items() if text.startswith("barge"))


def test_a_legend_gives_way():
    names = [f"series number {at}" for at in range(12)]
    rows = [{"n": "May", **{name: at for at, name in enumerate(names)}}]
    drawing = drawn("bar", rows, x="n", y=names, width="200px", height="110px")
    assert any(text.startswith("+") for text in texts(drawing))
    assert max(box[3] - box[1] for verb, a in drawing.steps if verb == "fill_path" for box in [_box(a[0])]) > 25


def _box(path):
    xs = [x for segment in path for x in segment[1::2]]
    ys = [y for segment in path for y in segment[2::2]]
    return min(xs), min(ys), max(xs), max(ys)


@pytest.mark.parametrize(("width", "height"), [("35mm", "30mm"), ("60mm", "18mm"), ("18mm", "18mm")])
@pytest.mark.parametrize("kind", ["bar", "line", "pie"])
def test_a_small_chart_is_still_one(kind, width, height):
    edition = composed(kind, rows_of([3, 5, 2]), x="n", y="v", title="Tonnes", width=width, height=height)
    drawing = picture(edition)
    _, _, wide, high = extent_of(drawing)
    assert wide <= drawing.width + 4 and high <= drawing.height + 4
    assert any(verb in ("fill_path", "stroke_path") for verb, _ in drawing.steps)


def test_what_has_no_room_is_a_remark():
    edition = composed(
        "bar", rows_of(range(8)), x="n", y="v", width="90px", height="50px", title="Tonnes", x_title="kind"
    )
    assert ["too small" in remark.message for remark in edition.remarks] == [True]


# ---- colours ----


def test_colours_are_those_of_css():
    drawing = drawn("bar", rows_of([3]), x="n", y="v", colors=["oklch(60% .2 30)"])
    assert fills(drawing, "oklch(60% .2 30)")
    messages = [remark.message for remark in composed("bar", rows_of([3]), x="n", y="v", colors=["reed"]).remarks]
    assert messages == ["'reed' is no colour of CSS."]


def test_a_chart_has_no_ground_of_its_own_and_takes_the_ink_of_its_element():
    drawing = drawn("line", rows_of([3, 4]), x="n", y="v", style="color:#eef3f1")
    inks = [arguments[2].color[:3] for verb, arguments in drawing.steps if verb == "text"]
    assert inks and all(ink == pytest.approx(color_of("#eef3f1")[:3], abs=0.01) for ink in inks)
    grounds = [a for verb, a in drawing.steps if verb == "fill_path" and _box(a[0])[2] - _box(a[0])[0] > 250]
    assert not grounds
    lines = [a[1] for verb, a in drawing.steps if verb == "stroke_path" and a[1].alpha == 1]
    assert all(lightness(line) > 0.45 for line in lines)


REDUCED = {  # what eyes without one kind of cone see (Viénot, Brettel and Mollon 1999, of linear light)
    "protan": ((0.11238, 0.88762, 0.0), (0.11238, 0.88762, 0.0), (0.00401, -0.00401, 1.0)),
    "deutan": ((0.29275, 0.70725, 0.0), (0.29275, 0.70725, 0.0), (-0.02234, 0.02234, 1.0)),
    "whole": ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)),
}


def seen(color, eyes):
    linear = [part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in color[:3]]
    mixed = [max(0.0, sum(a * b for a, b in zip(row, linear, strict=True))) for row in REDUCED[eyes]]
    return [12.92 * part if part <= 0.0031308 else 1.055 * part ** (1 / 2.4) - 0.055 for part in mixed]


@pytest.mark.parametrize("eyes", REDUCED)
@pytest.mark.parametrize("palette", [COLORS, ON_DARK], ids=["on light", "on dark"])
def test_series_are_told_apart_by_all_eyes(palette, eyes):
    known = [seen(color_of(text), eyes) for text in palette]
    for (i, first), (j, second) in combinations(enumerate(known), 2):
        distance = math.dist(first, second)
        alike = dash_of(i) == dash_of(j) and mark_of(i) == mark_of(j)
        assert distance > 0.13 or not alike, (palette[i], palette[j], distance)
    assert all(math.dist(a, b) > 0.14 for a, b in zip(known[:4], known[1:4], strict=False))


# ---- words ----


@pytest.mark.parametrize(
    ("kind", "rows", "more", "wanted"),
    [
        ("line", [{"m": m, "v": at + 1} for at, m in enumerate(MONTHS)], {"x": "m", "y": "v"},
         "Line chart. v: 12 values from 1 to 12; the highest is 2026-12; from 2026-01 to 2026-12 it rises from 1 to 12."),
        ("bar", rows_of([3, 5]), {"x": "n", "y": "v", "target": (4, "planned")}, "Bar chart. v: Barley 3, Brick 5. planned: 4."),
        ("bar", [], {}, "Bar chart. No data."),
        ("bar", [{"n": "a", **dict.fromkeys("pqrst", 1)}], {"x": "n", "y": list("pqrst")},
         "Bar chart. p: a 1. q: a 1. r: a 1. 2 more series: s, t."),
        ("bar", [{"n": "a", "v": 1, "by": "May"}], {"x": "n", "y": "v", "by": "by"},
         "1 charts side by side. May: Bar chart. v: a 1."),
    ],
)  # fmt: skip
def test_the_alternative_text_says_what_is_seen(kind, rows, more, wanted):
    for page in composed(kind, rows, **more)._fragments:
        boxes = [p.box for part in page.parts for p in walk(part)]
        assert [b.alternative for b in boxes if b.element is not None and b.element.tag == "fq-chart"] == [wanted]


@pytest.mark.parametrize(
    ("attributes", "words_"),
    [
        ("target=x", "target of a chart is a number"),
        ("band=3", "band of a chart is two numbers"),
        ("by=q", "has no 'q'"),
    ],
)
def test_what_is_asked_for_wrongly_is_a_remark(attributes, words_):
    edition = PRESS["en-IE"].compose(
        fq.Manuscript.from_html(f"<fq-chart x=n y=v {attributes}>" + '[{"n":"a","v":1}]</fq-chart>')
    )
    assert words_ in edition.remarks[0].message


def test_a_small_chart_of_noughts_is_seen():
    edition = fq.compose(fq.Manuscript.from_html('<p><fq-spark kind=bar values="0 0 0"></fq-spark>'))
    drawing = next(
        p.box.picture
        for page in edition._fragments
        for part in page.parts
        for p in walk(part)
        if getattr(p.box, "picture", None)
    )
    _, _, wide, high = extent_of(drawing)
    assert wide > 40 and 0.3 < high < 3


@pytest.mark.parametrize(
    ("size", "said"),
    [("width:150px;height:60px", "5 of 10 names"), ("width:60px;height:60px", "The chart is too small for the legend"),
     ("width:500px;height:300px", "")],
    ids=["some names", "none", "all"],
)  # fmt: skip
def test_a_pie_says_which_names_have_no_room(size, said):
    rows = json.dumps([{"n": f"Harbour {at}", "v": 20 - at} for at in range(10)])
    edition = fq.compose(fq.Manuscript.from_html(f'<fq-chart kind=pie x=n y=v style="{size}">{rows}</fq-chart>'))
    messages = " ".join(remark.message for remark in edition.remarks)
    assert (said in messages) if said else not messages
