"""The base sheet: it is read in parts, and says what a reader of the whole would find."""

from __future__ import annotations

from pathlib import Path

import fleetquill.style.base_sheet
from fleetquill.style.base_sheet import base_sheet
from fleetquill.style.sheet import parse_sheet

FOLDER = Path(fleetquill.style.base_sheet.__file__).parent


def _without_tests(selector):
    """A selector without its functions, which are never equal."""
    steps = tuple(step._replace(compound=step.compound._replace(tests=())) for step in selector.steps)
    return selector._replace(subject=selector.subject._replace(tests=()), steps=steps)


def test_the_base_sheet_read_in_parts_is_the_same_as_read_whole():
    css = "".join((FOLDER / name).read_text(encoding="utf-8") for name in ("base_page.css", "base.css", "parts.css"))
    whole = parse_sheet(css)
    sheet = base_sheet.__wrapped__()
    assert whole.faults == sheet.faults == []
    assert len(sheet.rules) == len(whole.rules) > 60
    for ours, theirs in zip(sheet.rules, whole.rules, strict=True):
        assert [_without_tests(s) for s in ours.selectors] == [_without_tests(s) for s in theirs.selectors]
        assert ours.declarations.normal == theirs.declarations.normal
        assert ours.declarations.important == theirs.declarations.important == {}
        assert (ours.media, ours.layer) == (theirs.media, theirs.layer)
    assert [list(page.boxes) for page in sheet.pages] == [list(page.boxes) for page in whole.pages]


def test_a_rule_is_read_when_an_element_matches_it():
    sheet = base_sheet.__wrapped__()
    rule = sheet.rules[0]
    assert not hasattr(rule, "other")
    assert rule.declarations is rule.declarations
