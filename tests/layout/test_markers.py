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
