"""Random boxes on small pages: layout ends, and what is said is there once."""

from __future__ import annotations

from collections import Counter

import pytest
from lxml import html
from tools.compare_boxes import smaller
from tools.random_pages import random_page

import fleetquill as fq

STYLE = "<style>@page{{size:{};margin:0}}body{{margin:0;font:16px/20px sans-serif}}</style>"
PICTURE = "data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' width='40' height='20'/%3E"


def letters(text):
    return Counter(filter(str.isalpha, text))


@pytest.mark.parametrize("size", ["300px 100px", "500px 160px"])
@pytest.mark.parametrize("seed", range(24))
def test_no_word_is_lost_and_layout_ends(press, seed, size):
    source = random_page(seed, 2).replace("PICTURE", PICTURE).replace("hidden", "visible").replace("clip", "visible")
    edition = press.compose(fq.Manuscript.from_html(STYLE.format(size) + source))
    said = letters("".join(html.fromstring(source).itertext()))
    assert said - letters("".join(page.text for page in edition.pages)) == Counter()
    assert not [remark for remark in edition.remarks if "could not go on" in remark.message]


def test_a_page_is_made_smaller_by_one_thing_at_a_time():
    page = '<div style="width:9px;margin:0"><p>two words</p></div>'
    found = smaller(page)
    assert [len(text) for text in found] == sorted(map(len, found))
    assert set(found) == {
        "",
        '<div style="width:9px;margin:0"></div>',
        "<p>two words</p>",
        '<div style="margin:0"><p>two words</p></div>',
        '<div style="width:9px"><p>two words</p></div>',
        '<div style="width:9px;margin:0"><p></p></div>',
        '<div style="width:9px;margin:0"><p>two</p></div>',
        '<div style="width:9px;margin:0">two words</div>',
    }  # fmt: skip
