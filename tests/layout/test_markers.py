"""Numbers and marks of lists, told by the text of the page."""

import pytest

import fleetquill as fq

MARKED = {
    "a list within an item": ("<ol><li>a<li>b<ul><li>x</ul><li>c</ol>", "1. a 2. b ◦ x 3. c"),
    "numbers within numbers": ("<ol><li>a<ol><li>x<li>y<ol><li>z</ol></ol><li>b</ol>", "1. a 1. x 2. y 1. z 2. b"),
    "another style": ("<ol type=a><li>a<li>b<ol type=i><li>x<li>y</ol><li>c</ol>", "a. a b. b i. x ii. y c. c"),
    "inside": ("<ol style='list-style-position: inside'><li><p>a<ol><li>x</ol><li>b</ol>", "1. a 1. x 2. b"),
    "backwards": ("<ol reversed><li>a<ol><li>x<li>y</ol><li>b</ol>", "2. a 1. x 2. y 1. b"),
    "from a number on": ("<ol start=5><li>a<ol start=3><li>x</ol><li value=9>b<li>c</ol>", "5. a 3. x 9. b 10. c"),
    "of all levels": (
        "<style>li::marker { content: counters(list-item, '.') ' ' }</style><ol><li>a<ol><li>x<li>y</ol><li>b</ol>",
        "1 a 1.1 x 1.2 y 2 b",
    ),
    "before what comes before it": (
        "<style>li::before { counter-increment: list-item 5; content: counter(list-item) ' ' }</style><ol><li>a<li>b</ol>",
        "1. 6 a 7. 12 b",
    ),
    "a picture's place": ("<ol><li>a<li><details open><summary>s</summary></details><li>c</ol>", "1. a 2. ▾ s 3. c"),
}


@pytest.mark.parametrize("case", MARKED)
def test_items_are_marked(case):
    source, marked = MARKED[case]
    assert fq.compose(fq.Manuscript.from_html(source)).pages[0].text.split() == marked.split()


QUOTED = [
    ("en", "“a ‘b’ c”"),
    ("de-AT", "„a ‚b‘ c“"),
    ("fr", "«\u00a0a “b” c\u00a0»"),
    ("fr-CH", "«a ‹b› c»"),
    ("sv", "”a ’b’ c”"),
    ("pl", "„a «b» c”"),
    ("ja", "「a 『b』 c」"),
    ("zh-Hant", "「a 『b』 c」"),
    ("zh", "“a ‘b’ c”"),
    ("nb", "«a ‘b’ c»"),
    ("", "“a ‘b’ c”"),
    ("qq", "“a ‘b’ c”"),
]


@pytest.mark.parametrize(("language", "quoted"), QUOTED)
def test_quotation_marks_are_those_of_the_language(language, quoted):
    m = fq.Manuscript.from_html(f"<html lang='{language}'><p><q>a <q>b</q> c</q>")
    assert fq.compose(m).pages[0].text == quoted


def test_marks_are_of_the_text_that_the_words_stand_in():
    text = fq.compose(fq.Manuscript.from_html("<html lang=en><p>He said <q lang=de>ja <q>nein</q></q>.")).pages[0].text
    assert text == "He said “ja ‚nein‘”."
