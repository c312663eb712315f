"""Small pages are painted as a browser paints them: tests/paintings holds what one did, as facts."""

import importlib.util
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
from PIL import Image

import fleetquill as fq

FOLDER = Path(__file__).parent.parent / "paintings"
_spec = importlib.util.spec_from_file_location("paintings_cases", FOLDER / "cases.py")
paintings = importlib.util.module_from_spec(_spec)
_spec.loader.exec_module(paintings)

DIFFERENCE = 40  # of 255, that is seen
MOST = 0.03  # of the pixels; edges between flat colours are softer with us than with the browser
CASES = [
    (path, number, name, source)
    for path in sorted(FOLDER.glob("*.html"))
    for number, (name, source) in enumerate(paintings.cases_of(path))
]


@pytest.fixture(scope="module")
def press():
    return fq.Press()


@pytest.fixture(scope="module")
def sheets():
    return {path: Image.open(path.with_suffix(".webp")).convert("RGB") for path in FOLDER.glob("*.html")}


def painted(press, source):
    edition = press.compose(fq.Manuscript.from_html(paintings.page(source)))
    page = pypdfium2.PdfDocument(edition.to_bytes())[0]
    return np.asarray(page.render(scale=paintings.SCALE * 96 / 72).to_pil().convert("RGB"), np.int16)


def unlike(first, second):
    """Pixels of the first that are like none of the second's at their place or beside it."""
    found = np.abs(first - second).max(axis=2) > DIFFERENCE
    down, across = found.nonzero()
    around = np.pad(second, ((1, 1), (1, 1), (0, 0)), mode="edge")
    near = np.stack([around[down + y, across + x] for y in range(3) for x in range(3)])
    found[down, across] = (np.abs(near - first[down, across]).max(axis=2) > DIFFERENCE).all(axis=0)
    return found


def part_of(sheet, number):
    wide, high = paintings.WIDE * paintings.SCALE, paintings.HIGH * paintings.SCALE
    x, y = number % paintings.COLUMNS * wide, number // paintings.COLUMNS * high
    return np.asarray(sheet.crop((x, y, x + wide, y + high)), np.int16)


@pytest.mark.parametrize(
    ("path", "number", "source"),
    [(path, number, source) for path, number, _, source in CASES],
    ids=[f"{path.stem}: {name}" for path, _, name, _ in CASES],
)
def test_a_page_is_painted_as_a_browser_paints_it(press, sheets, path, number, source):
    theirs, ours = part_of(sheets[path], number), painted(press, source)
    assert ours.shape == theirs.shape
    assert (unlike(ours, theirs) | unlike(theirs, ours)).mean() <= MOST


def test_every_case_has_its_picture(sheets):
    for path, sheet in sheets.items():
        rows = -(-len(paintings.cases_of(path)) // paintings.COLUMNS)
        wide, high = paintings.WIDE * paintings.SCALE, paintings.HIGH * paintings.SCALE
        assert sheet.size == (paintings.COLUMNS * wide, rows * high)
    assert len(CASES) > 250


def test_a_picture_that_differs_is_noticed():
    white = np.full((20, 20, 3), 255, np.int16)
    marked = white.copy()
    marked[5:9, 5:9] = 0
    assert (unlike(marked, white) | unlike(white, marked)).mean() == 16 / 400
