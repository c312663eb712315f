"""Made-up and damaged inputs of every kind, the same ones on every run; `tools/fuzz.py` goes on where these end."""

import time

import pytest

import fleetquill as fq
from hostile.making import MAKERS, run

SEEDS = {
    "document": 500,
    "drawing": 250,
    "picture": 300,
    "font": 60,
    "data": 300,
    "template": 250,
    "markdown": 250,
    "parts": 200,
}
PART = 50  # seeds of one test
MOST_SECONDS = 10.0


@pytest.fixture(scope="module")
def presses():
    return [fq.Press(), fq.Press(policy=fq.Policy(strangers=True))]


def test_every_kind_has_its_share():
    assert set(SEEDS) == set(MAKERS) and sum(SEEDS.values()) >= 2_000


@pytest.mark.parametrize(
    ("kind", "first"), [(kind, first) for kind, count in SEEDS.items() for first in range(0, count, PART)]
)
def test_what_is_made_up_comes_out_or_is_an_error_of_ours(presses, tmp_path, kind, first):
    for seed in range(first, min(first + PART, SEEDS[kind])):
        start = time.process_time()
        run(presses[seed % 2], kind, seed, tmp_path)
        assert time.process_time() - start < MOST_SECONDS, seed


FOUND = [  # by tools/fuzz.py, before they were mended
    ("markdown", 100043), ("document", 100113), ("document", 102331), ("font", 101062), ("font", 100153), ("font", 100317),
    ("document", 102054),
]  # fmt: skip


@pytest.mark.parametrize(("kind", "seed"), FOUND)
def test_what_was_found_stays_mended(presses, tmp_path, kind, seed):
    run(presses[0], kind, seed, tmp_path)


OUTSIDE = ["position:absolute", "position:fixed", "float:left", "float:footnote", "float:top", "position:running(a)"]


@pytest.mark.parametrize("style", OUTSIDE)
@pytest.mark.parametrize(
    "tag", ["fq-spark", "fq-tally", "img", "svg", "math", "input", "fq-code", "fq-chart", "br", "ruby"]
)
def test_every_element_may_stand_out_of_the_flow(tag, style):
    edition = fq.compose(fq.Manuscript.from_html(f"<p>a<{tag} style='{style}' name=n values=1,2>x</{tag}>b"))
    assert "a" in edition.pages[0].text and edition.to_bytes()


def test_the_same_damaged_font_gives_the_same_bytes_in_a_used_and_a_fresh_press(tmp_path):
    import random

    used = fq.Press()
    for seed in range(40):
        source, _ = MAKERS["font"](random.Random(f"font {seed}"), tmp_path)
        first, again, fresh = (press.compose(source).to_bytes() for press in (used, used, fq.Press()))
        assert first == again == fresh, seed
