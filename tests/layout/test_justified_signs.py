"""Justified lines of Chinese and Japanese, which have no spaces to open (CSS Text 3 §7.3)."""

import base64

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq
from made_fonts import numbered_font

SIGNS = "永和九年漢字。「」あー"
PER_LINE = 5


def composed(html, width=480):
    """Signs of 90 px each: five a line of 480 px, with 30 px to spare."""
    address = base64.b64encode(numbered_font(SIGNS + "ab")).decode()
    sheet = (
        "@page { size: 700px 900px; margin: 0 } body { margin: 0 }"
        f"@font-face {{ font-family: Numbered; src: url(data:font/otf;base64,{address}) }}"
        f"div {{ font: 100px/100px Numbered; width: {width}px; text-align: justify }}"
    )
    return fq.compose(fq.Manuscript.from_html(f"<!doctype html><style>{sheet}</style><div>{html}</div>"))


def lefts(edition, mark="i"):
    return [round(place.x / 0.75) for place in edition.locate(mark)]


def test_signs_are_spread_over_the_whole_line():
    edition = composed("永和九年<i>漢</i>" + "永和九")
    (place,) = edition.locate("i")
    assert (place.x + place.width) / 0.75 == pytest.approx(480, abs=0.1)


def test_the_last_line_stays_as_it_is():
    edition = composed("永和九年漢永和<i>九</i>年")
    assert lefts(edition) == [180]


@pytest.mark.parametrize(
    ("text", "gaps"),
    [
        ("永和九年漢", 4),
        ("永和。九年", 3),  # a full stop stays with what it ends
        ("永「和」九", 2),  # brackets with what they hold
        ("永ab九年", 3),  # on both sides of a word that is not theirs
    ],
)
def test_room_is_shared_among_the_places_where_a_line_might_break(text, gaps):
    first = text[0]
    edition = composed(f"{first}<i>{text[1]}</i>{text[2:]}" + "漢字" * 20, 90 * len(text) + 60)
    assert lefts(edition) == [90 + round(60 / gaps)]
    assert edition.pages[0].text.startswith(f"{text}\n")


def test_text_is_copied_without_spaces():
    edition = composed("永和九年漢字永和九年漢字")
    assert "".join(edition.pages[0].text.split()) == "永和九年漢字永和九年漢字"
    assert " " not in edition.pages[0].text


def test_lines_to_the_left_are_not_opened():
    edition = composed("<p style='text-align:left;margin:0'>永<i>和</i>九年漢永和九</p>")
    assert lefts(edition) == [90]


@given(
    st.lists(
        st.sampled_from(["永", "和。", "「九」", "年", "ab", " ", "\u00ad", "\u200b", "<b>漢</b>", "<i></i>", "<br>"])
    )
)
@settings(max_examples=60, deadline=None)
def test_whatever_stands_between_signs_no_sign_is_lost_and_none_leaves_the_box(parts):
    edition = composed("永" + "".join(parts) + "字")
    shown = "".join(edition.pages[0].text.split())
    wanted = (
        "".join(part for part in parts if part not in (" ", "<i></i>", "<br>")).replace("<b>", "").replace("</b>", "")
    )
    for hidden in "\u00ad\u200b":
        wanted, shown = wanted.replace(hidden, ""), shown.replace(hidden, "")
    assert shown.replace("-", "").replace("‐", "") == f"永{wanted}字"
    assert all((place.x + place.width) / 0.75 <= 480.1 for place in edition.locate("b"))
