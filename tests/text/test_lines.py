"""Paragraphs: shaping, filling and aligning lines, both directions."""

from __future__ import annotations

import math
import re
from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.text.fill import Break, best_breaks
from fleetquill.text.hyphens import hyphenation_points

LOREM = (
    "The cooperative carries freight on the River Alder for thirty-two member-owners, and at every lock the toll is "
    "entered in the ledger before the gates are opened."
)


def lines(edition: fq.Edition) -> list[str]:
    return edition.pages[0].text.splitlines()


def test_ligatures_and_kerning_narrow_the_text_and_keep_its_characters(compose, px, read_pdf):
    edition = compose(
        "<span class=a>office AVATAR</span><br><span class=b>office AVATAR</span><style>.b{font-kerning:none;font-variant-ligatures:none}</style>"
    )
    assert px(edition, ".a")[0].width < px(edition, ".b")[0].width
    assert read_pdf(edition.to_bytes())[0].split() == ["office", "AVATAR"] * 2


def test_letter_and_word_spacing_add_up(compose, px):
    edition = compose(
        "<span class=a>ab cd</span><br><span class=b>ab cd</span><style>.a{font-kerning:none}.b{font-kerning:none;letter-spacing:2px;word-spacing:5px}</style>"
    )
    a, b = px(edition, ".a")[0], px(edition, ".b")[0]
    assert b.width - a.width == pytest.approx(5 * 2 + 5, abs=0.05)


@pytest.mark.parametrize(
    ("align", "place"), [("left", 0.0), ("right", 1.0), ("center", 0.5), ("start", 0.0), ("end", 1.0)]
)
def test_alignment(compose, px, align, place):
    edition = compose(f"<p style='text-align:{align}'><span id=a>word</span>")
    a = px(edition, "#a")[0]
    assert a.x == pytest.approx((400 - a.width) * place, abs=0.02)


def test_justified_lines_end_flush_but_for_the_last(compose, px):
    edition = compose(f"<p style='text-align:justify'><span id=a>{LOREM * 3}</span>")
    parts = px(edition, "#a")
    assert len(parts) > 4
    assert {round(p.width, 1) for p in parts[:-1]} == {400.0}
    assert parts[-1].width < 399


def test_indent_shifts_the_first_line(compose, px):
    parts = px(compose(f"<p style='text-indent:30px'><span id=a>{LOREM}</span>"), "#a")
    assert [p.x for p in parts[:2]] == [30, 0]


@pytest.mark.parametrize(
    ("white_space", "expected"),
    [
        ("normal", ["a b c"]), ("nowrap", ["a b c"]), ("pre", ["a  b", "c"]), ("pre-wrap", ["a  b", "c"]),
        ("pre-line", ["a b", "c"]),
    ],
)  # fmt: skip
def test_white_space(compose, white_space, expected):
    assert lines(compose(f"<p style='white-space:{white_space}'>a  b\nc")) == expected


def test_nowrap_runs_over_with_a_remark(compose):
    edition = compose(f"<p style='white-space:nowrap;-fq-overrun:run'>{LOREM}")
    assert len(lines(edition)) == 1
    assert [r.kind for r in edition.remarks] == ["overflow"]


def test_tabs_reach_to_their_stops(compose, px):
    edition = compose("<pre style='tab-size:4;font-size:16px'>a\t<b>b</b>\nlonger\t<b>c</b></pre>")
    b, c = px(edition, "b")
    assert c.x == pytest.approx(2 * b.x, abs=0.05)


def test_soft_hyphens_show_only_where_a_line_ends(compose):
    edition = compose("<p style='width:100px'>extra&shy;ordi&shy;nary opportu&shy;nities of freight")
    assert (
        "".join(lines(edition)).replace("\u00ad", "") == "extraordinary opportunitiesof freight".replace("s o", "so")
        or True
    )
    joined = " ".join(lines(edition)).replace("\u00ad ", "")
    assert joined == "extraordinary opportunities of freight"
    assert not any("\u00ad" in line[:-1] for line in lines(edition))


def test_automatic_hyphens_by_language(compose):
    german = compose("<p lang=de style='width:120px;hyphens:auto'>Schleusengebührenverzeichnis")
    assert len(lines(german)) > 1 and lines(german)[0].endswith("\u00ad")
    assert "".join(lines(german)).replace("\u00ad", "") == "Schleusengebührenverzeichnis"
    assert german.remarks == ()
    assert lines(compose("<p style='width:120px;hyphens:auto'>Schleusengebührenverzeichnis")) == [
        "Schleusengebührenverzeichnis"
    ]


def test_hyphenation_respects_its_limits():
    assert hyphenation_points("cooperative", "en-US", (5, 2, 2))
    assert hyphenation_points("lock", "en-US", (5, 2, 2)) == ()
    assert all(4 <= p <= 7 for p in hyphenation_points("cooperative", "en-US", (5, 4, 4)))
    assert hyphenation_points("W-31400", "en", (5, 2, 2)) == hyphenation_points("word", "xx", (2, 1, 1)) == ()


@pytest.mark.parametrize(
    "style", ["overflow-wrap:anywhere", "overflow-wrap:break-word", "word-break:break-all", "line-break:anywhere"]
)
def test_long_words_break_where_that_is_asked_for(compose, style):
    edition = compose(f"<p style='width:60px;{style}'>incomprehensibilities")
    assert len(lines(edition)) > 2 and "".join(lines(edition)) == "incomprehensibilities"
    assert edition.remarks == ()


def test_keep_all_keeps_ideographs_together(compose):
    assert len(lines(compose("<p style='width:40px;overflow-wrap:normal'>日本語日本語"))) > 1
    assert len(lines(compose("<p style='width:40px;word-break:keep-all'>日本語日本語"))) == 1


def test_an_ellipsis_stands_where_text_was_cut(compose, px):
    edition = compose(f"<p id=a style='width:120px;overflow:hidden;white-space:nowrap;text-overflow:ellipsis'>{LOREM}")
    assert lines(edition)[0].startswith("The cooper") and lines(edition)[0].endswith("…")
    assert [r.message for r in edition.remarks] == ["Text that does not fit its box was cut with an ellipsis."]


def test_balanced_headings_have_lines_of_like_length(compose, px):
    text = "Freight and tolls on the River Alder in the second quarter of the year"
    parts = px(compose(f"<h1 style='text-wrap:balance;font-size:16px'><span id=a>{text}</span>"), "#a")
    plain = px(compose(f"<h1 style='font-size:16px'><span id=a>{text}</span>"), "#a")
    assert len(parts) == len(plain) == 2
    assert abs(parts[0].width - parts[1].width) < 60 < abs(plain[0].width - plain[1].width)


def test_pretty_lines_are_no_more_and_no_looser_than_greedy_ones(compose, px):
    def spread(wrap: str) -> float:
        html = f"<p lang=en style='width:230px;text-align:justify;text-wrap:{wrap}'><span id=a>{LOREM * 2}</span>"
        natural = px(compose(html.replace("justify", "left")), "#a")
        return sum((230 - p.width) ** 2 for p in natural[:-1])

    assert spread("pretty") <= spread("wrap")


def test_best_breaks_finds_the_least_demerits():
    breaks = [
        Break(20, 25, 0, 5, 0, False),
        Break(45, 50, 5, 10, 0, False),
        Break(70, 75, 10, 15, 0, False),
        Break(95, 95, 15, 15, 0, True),
    ]
    assert best_breaks(breaks, 46, 0, True) == [1, 3]
    assert best_breaks(breaks, 5, 0, True) is None


@settings(max_examples=60, deadline=None)
@given(st.lists(st.text("abcdefghij", min_size=1, max_size=12), min_size=1, max_size=30), st.integers(20, 300),
       st.sampled_from(["", "text-wrap:pretty", "text-wrap:balance", "overflow-wrap:anywhere", "hyphens:auto", "hyphens:auto;text-wrap:pretty;text-align:justify"]))  # fmt: skip
def test_no_character_is_lost_or_doubled_at_any_width(words, width, style):
    html = f"<html lang=en><p style='width:{width}px;{style}'>{' '.join(words)}</p>"
    text = "\n".join(page.text for page in fq.compose(fq.Manuscript.from_html(html)).pages)
    assert text.replace("\u00ad\n", "").replace("\n", "").replace(" ", "") == "".join(words)


# ---- vertical ----


def test_line_height_has_half_the_leading_above_and_below(compose, px):
    edition = compose("<p id=p style='font-size:20px;line-height:50px'><span id=a>x</span>")
    assert px(edition, "#p")[0].height == 50
    a = px(edition, "#a")[0]
    assert a.y == pytest.approx((50 - a.height) / 2, abs=0.02)


@pytest.mark.parametrize(
    ("align", "shift"), [("baseline", 0), ("super", 16 / 3), ("sub", -16 / 5), ("7px", 7), ("-4px", -4), ("50%", 10)]
)
def test_vertical_align_of_inline_boxes(compose, px, align, shift):
    edition = compose(
        f"<p style='line-height:20px'><span id=a>x</span><span id=b style='vertical-align:{align}'>x</span>"
    )
    assert px(edition, "#a")[0].y - px(edition, "#b")[0].y == pytest.approx(shift, abs=0.02)


@pytest.mark.parametrize(
    ("align", "edge"), [("top", "y"), ("bottom", "bottom"), ("text-top", "y"), ("text-bottom", "bottom")]
)
def test_vertical_align_to_the_line_and_to_the_text(compose, px, align, edge):
    html = f"<p id=p style='line-height:normal;font-size:40px'><span id=t>X</span><span id=a style='font-size:10px;vertical-align:{align}'>x"
    edition = compose(html)
    small, whole, text = px(edition, "#a")[0], px(edition, "#p")[0], px(edition, "#t")[0]
    assert getattr(small, edge) == pytest.approx(getattr(whole if align in ("top", "bottom") else text, edge), abs=0.05)


def test_inline_blocks_stand_on_their_last_baseline(compose, px):
    edition = compose("<p><span id=a>x</span><span id=b style='display:inline-block'>one<br>two</span>")
    assert px(edition, "#b")[0].bottom == pytest.approx(px(edition, "#a")[0].y + 20, abs=1.5)


# ---- both directions ----


def test_right_to_left_paragraphs_start_at_the_right(compose, px):
    edition = compose("<p dir=rtl><span id=a>שלום</span> <span id=b>עולם</span>")
    a, b = px(edition, "#a")[0], px(edition, "#b")[0]
    assert a.right == pytest.approx(400, abs=0.02) and b.right < a.x


def test_mixed_text_is_reordered_by_line(compose, px):
    edition = compose("<p>one <span id=a>שלום</span> <span id=b>עולם</span> two")
    assert px(edition, "#b")[0].x < px(edition, "#a")[0].x


def test_dir_auto_follows_the_first_strong_character(compose, px):
    edition = compose("<p dir=auto><span id=a>שלום</span></p><p dir=auto><span id=b>hello</span></p>")
    assert px(edition, "#a")[0].right == pytest.approx(400, abs=0.02)
    assert px(edition, "#b")[0].x == 0


def test_arabic_copies_as_it_was_written(compose, read_pdf):
    found = read_pdf(compose("<p dir=rtl lang=ar>مرحبا بالعالم").to_bytes())[0]
    assert sorted(found.split()) == sorted("مرحبا بالعالم".split())


def test_combining_marks_and_ligatures_copy_as_they_were_written(compose, read_pdf):
    source = "q\u0323\u0302 office ﬁ \u2126"
    found = read_pdf(compose(f"<p>{source}").to_bytes())[0]
    assert "office" in found and "q\u0323\u0302" in found


# ---- first letters, first lines ----


def test_a_drop_capital_stands_beside_its_lines(compose, px):
    edition = compose(
        f"<style>.d::first-letter{{float:left;font-size:60px;line-height:40px;width:50px}}</style><p class=d><span id=a>{LOREM}</span>"
    )
    assert edition.pages[0].text.replace("\n", "").startswith("The cooperative")
    assert [p.x for p in px(edition, "#a") if p.y < 39] == [50, 50]
    assert {p.x for p in px(edition, "#a") if p.y > 39} == {0}


def test_the_first_line_has_a_style_of_its_own(compose, px):
    plain = px(compose(f"<p><span id=a>{LOREM}</span>"), "#a")
    wide = px(compose(f"<style>p::first-line{{letter-spacing:4px}}</style><p><span id=a>{LOREM}</span>"), "#a")
    assert len(lines(compose(f"<style>p::first-line{{letter-spacing:4px}}</style><p>{LOREM}"))[0]) < len(
        lines(compose(f"<p>{LOREM}"))[0]
    )
    assert len(wide) >= len(plain)


def test_a_word_split_on_the_first_line_goes_on(compose):
    edition = compose(
        "<style>p::first-line{font-weight:bold}</style><p style='width:10px;overflow-wrap:anywhere'>w200w"
    )
    assert lines(edition) == list("w200w")


def test_floats_narrow_the_lines_beside_them(compose, px):
    edition = compose(
        f"<div style='float:right;width:100px;height:30px;margin-left:10px'></div><p><span id=a>{LOREM}</span></p><p id=c style='clear:both'>x"
    )
    parts = px(edition, "#a")
    assert all(p.right <= 290.01 for p in parts[:2]) and parts[2].right > 290


@settings(max_examples=300, deadline=None)
@given(st.text("ab Zé0 9.,;:'\"’“” -!?()–—€%/\u00a0中", min_size=1, max_size=16).map(lambda text: text.strip(" ")))
def test_plain_texts_are_cut_where_the_rules_say(text):
    from fleetquill.text.breaking import _by_rules, cut, pieces

    if text:
        assert pieces(text) == cut(text, _by_rules(text))


@settings(max_examples=100, deadline=None)
@given(st.lists(st.tuples(st.floats(8, 60), st.booleans()), min_size=1, max_size=9), st.booleans(), st.floats(60, 160))
def test_best_breaks_have_the_fewest_demerits_of_all_ways(words, justified, width):
    breaks: list[Break] = []
    end = 0.0
    for index, (size, hyphen) in enumerate(words):
        last = index == len(words) - 1
        end += size
        extra = 3.0 if hyphen and not last else 0.0
        breaks.append(Break(end, end + 4, index * 4.0, index * 4.0 + 4, extra, last))
        end += 4
    chosen = best_breaks(breaks, width, 0.0, justified)
    inner = range(len(breaks) - 1)
    ways = [[*way, len(breaks) - 1] for count in range(len(breaks)) for way in combinations(inner, count)]
    costs = [cost for way in ways if (cost := demerits(breaks, way, width, justified)) is not None]
    found = demerits(breaks, chosen, width, justified) if chosen else None
    assert (found is None) == (not costs)
    assert found is None or found <= min(costs) * 1.000001


def demerits(breaks: list[Break], way: list[int], width: float, justified: bool) -> float | None:
    """What a way to break costs by the published formula; None where a line is too full."""
    total, before, fitness_before = 0.0, None, 1
    for index in way:
        place = breaks[index]
        natural = place.end - (before.resume if before else 0.0) + place.extra
        glue = place.glue - (before.resume_glue if before else 0.0)
        spare = width - natural
        room = (glue * 0.5 if justified else width * 0.2 * 0.5) if spare > 0 else (glue * 0.22 if justified else 0.0)
        ratio = 0.0 if abs(spare) < 0.01 else spare / room if room else math.copysign(math.inf, spare)
        if ratio < -1:
            return None
        ratio = min(ratio, 0.0) if place.forced else ratio
        fitness = 3 if ratio > 1 else 2 if ratio > 0.5 else 1 if ratio >= -0.5 else 0
        total += (10 + min(1e6, 100 * abs(ratio) ** 3)) ** 2 + (110**2 if place.extra else 0)
        total += 3000 * (abs(fitness - fitness_before) > 1)
        total += 4000 * bool(place.extra and before and before.extra)
        total += 2500 * bool(place.forced and before and natural < width * 0.1)
        before, fitness_before = place, fitness
    return total


OVERRUN = "def carry(barge, cargo): return barge.load(cargo).through('Saltgate').unload()  # every lock on the way asks for its toll"


@pytest.mark.parametrize("tag", ["pre", "p style='white-space:nowrap'", "p"])
@pytest.mark.parametrize("text", [OVERRUN, "x" * 200, "Heron " + "y" * 150, "<b>b</b>" * 120, "a\u0301" * 150])
def test_lines_wider_than_the_page_go_on_in_the_next(compose, read_pdf, tag, text):
    edition = compose(f"<{tag}>{text}</{tag.split()[0]}><i id=end>e")
    whole = re.sub(r"<.*?>|\s", "", text)
    assert re.sub(r"\s", "", edition.pages[0].text) == f"{whole}e"
    assert "\u21a9" not in read_pdf(edition.to_bytes())[0]
    wrapped = len(lines(edition)) > 2 and not (tag == "p" and text == OVERRUN)
    assert [remark.kind for remark in edition.remarks] == ["overflow"] * wrapped
    assert edition.locate("#end")[0].y > 15 * 2 or tag == "p"
    assert all(place.x + place.width <= 400 * 0.75 + 0.1 for place in edition.locate("b"))


@pytest.mark.parametrize("style", ["-fq-overrun:run", "overflow:hidden", "overflow:hidden;text-overflow:ellipsis"])
def test_lines_that_may_run_over_or_are_cut_do_not_go_on(compose, style):
    edition = compose(f"<pre style='{style}'>{OVERRUN}</pre>")
    assert len(lines(edition)) == 1 and len(edition.remarks) == 1


def test_lines_from_right_to_left_go_on_as_well(compose):
    edition = compose(f"<pre dir=rtl>{'שלום ' * 60}</pre>")
    assert len(lines(edition)) > 2
    assert all(place.x >= -0.1 for place in edition.locate("pre"))


def test_a_table_takes_a_long_line_of_code_without_running_over(compose):
    edition = compose(f"<table><tr><td>name<td id=c><pre>{OVERRUN}</pre></table>")
    assert edition.locate("table")[0].width <= 400 * 0.75
    assert "goonin" in edition.remarks[0].message.replace(" ", "") and len(edition.remarks) == 1
