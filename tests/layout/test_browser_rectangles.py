"""Boxes stand where a browser puts them: the cases of tests/rectangles, within 1 px."""

from __future__ import annotations

import json
import sys
from pathlib import Path

import pytest

import fleetquill as fq
from fleetquill.units import POINTS_PER_PX

FOLDER = Path(__file__).parent.parent / "rectangles"
sys.path.insert(0, str(FOLDER))
from cases import PASSED_BY, cases_of, page  # noqa: E402

CASES = [(path, name, source) for path in sorted(FOLDER.glob("*.html")) for name, source in cases_of(path)]
FACTS = {path: json.loads(path.with_suffix(".json").read_text(encoding="utf-8")) for path in FOLDER.glob("*.html")}


def rectangles(press, source):
    """The tag of each element in the body, and the px of the rectangle around all its boxes where it has any."""
    manuscript = fq.Manuscript.from_html(page(source))
    elements = [
        e for e in manuscript.root.iter() if isinstance(e.tag, str) and e.tag not in PASSED_BY and is_in_body(e)
    ]
    for number, element in enumerate(elements):
        element.set("data-number", str(number))
    edition = press.compose(manuscript)
    found = []
    for number, element in enumerate(elements):
        placed = edition.locate(f"[data-number='{number}']")
        if not placed:
            found.append([element.tag])
            continue
        left, top = min(p.x for p in placed), min(p.y for p in placed)
        right, bottom = max(p.x + p.width for p in placed), max(p.y + p.height for p in placed)
        found.append([element.tag, *(side / POINTS_PER_PX for side in (left, top, right - left, bottom - top))])
    return found


def is_in_body(element):
    return any(around.tag == "body" for around in element.iterancestors())


def is_empty(rectangle):
    return len(rectangle) == 1 or not rectangle[3] * rectangle[4]


@pytest.mark.parametrize(("path", "name", "source"), CASES, ids=[f"{path.stem}: {name}" for path, name, _ in CASES])
def test_boxes_stand_where_a_browser_puts_them(press, path, name, source):
    wanted, found = FACTS[path][name], rectangles(press, source)
    assert [tag for tag, *_ in found] == [tag for tag, *_ in wanted]
    for ours, theirs in zip(found, wanted, strict=True):
        if not (is_empty(ours) and is_empty(theirs)):
            assert ours[1:] == pytest.approx(theirs[1:], abs=1.05), (ours, theirs)


def test_every_case_has_its_facts():
    assert {path: [name for name, _ in cases_of(path)] for path in FACTS} == {
        path: list(facts) for path, facts in FACTS.items()
    }
    assert len(CASES) > 300
