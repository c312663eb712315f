"""What a face lacks is made of what it has, and letters that belong together stay together."""

import pypdfium2
import pytest

import fleetquill as fq

FACE = "font:20px/30px DejaVu Sans"


def boxes(html):
    """By character: its box in px from the page's left and lower edge; several of one character, in order."""
    edition = fq.compose(fq.Manuscript.from_html(f"<style>@page{{margin:10px}}p{{margin:0;{FACE}}}</style>{html}"))
    page = pypdfium2.PdfDocument(edition.to_bytes())[0].get_textpage()
    text = page.get_text_range()
    return [(text[at], [part / 0.75 for part in page.get_charbox(at, loose=False)]) for at in range(page.count_chars())]


def height(box):
    return box[3] - box[1]


@pytest.mark.parametrize(
    ("variant", "written", "small"),
    [("small-caps", "Ab C d", "Bd"), ("all-small-caps", "Ab C d", "ABCD"), ("normal", "Ab C d", "")],
)
def test_small_capitals_are_capitals_of_a_smaller_size(variant, written, small):
    found = [(c, box) for c, box in boxes(f"<p style='font-variant-caps:{variant}'>{written}</p>") if c.strip()]
    capital = height(boxes("<p>X</p>")[0][1])
    if variant == "normal":
        assert "".join(c for c, _ in found) == "AbCd"
        return
    assert "".join(c for c, _ in found) == "ABCD"
    for character, box in found:
        is_small = variant == "all-small-caps" or character in "BD"
        assert height(box) == pytest.approx(capital * (0.8 if is_small else 1.0), rel=0.06), character


@pytest.mark.parametrize(("place", "higher"), [("super", True), ("sub", False)])
def test_raised_and_lowered_figures_are_smaller_and_off_the_line(place, higher):
    raised = f"<p>x<b style='font-weight:400;font-variant-position:{place}'>2</b></p>"
    plain, made = (next(box for c, box in boxes(html) if c == "2") for html in ("<p>x2</p>", raised))
    assert height(made) == pytest.approx(height(plain) * 0.66, rel=0.06)
    assert (made[1] > plain[1]) is higher


def widths(word, spacing):
    """How much wider a word gets, in steps of `spacing`."""
    rules = f"<style>span{{{FACE};letter-spacing:0}}#b{{letter-spacing:{spacing}px}}</style>"
    edition = fq.compose(fq.Manuscript.from_html(f"{rules}<span id=a>{word}</span><br><span id=b>{word}</span>"))
    a, b = edition.locate("#a")[0], edition.locate("#b")[0]
    return (b.width - a.width) / 0.75 / spacing


@pytest.mark.parametrize(
    ("word", "steps"),
    [
        ("river", 5),
        ("e\u0301te\u0301", 3),
        ("a\u0323b\u0323c", 3),
        ("\u0645\u0631\u0633\u0649", 0),
        ("ab \u0645\u0631 cd", 6),
    ],
)
def test_letter_spacing_parts_no_mark_and_no_joined_letters(word, steps):
    assert widths(word, 4) == pytest.approx(steps, abs=0.05)
