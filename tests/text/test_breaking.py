"""Line breaking opportunities (UAX #14)."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fleetquill.text.breaking import _by_rules, opportunities

SUITE = Path("/usr/share/unicode/auxiliary/LineBreakTest.txt")


def marked(text: str) -> str:
    """The text with a bar at each opportunity."""
    cuts = [0, *opportunities(text), len(text)]
    return "|".join(text[a:b] for a, b in zip(cuts, cuts[1:], strict=False))


@pytest.mark.parametrize(
    "text",
    [
        "Upper |Willow, |Nether |Mill", "well-|kept |slate", "(some |of |it) |here", "mot !| oui".replace("!| ", "! |"),
        "12.5 |t", "€ |12", "12 |%", "3/|4".replace("|", ""), "a—|b".replace("a—", "a|—"), "1990–|2026", "https://|example.org/|freight",
        "no\u00a0break |here", "run |/bin/|sh |now", "use |-I |or |-fsan=x", "../../install/|index.html", "///here |it |is", "and/|or |a//b",
        "km/|h", "a / |b", "( /bin", "x |-y |well-|known", "(a)/|b", "soft\u00ad|hyphen", "日|本|語|。".replace("語|。", "語。"), "「日|本」", "can’t |stop", "end. |“Quote” |next", "x\u200b|y",
    ],
)  # fmt: skip
def test_examples(text):
    assert marked(text.replace("|", "")).replace("|", "¦") == text.replace("|", "¦")


@given(st.text(alphabet="ab1é .,;:!?'\"’“()-–—", max_size=12))
def test_the_fast_path_agrees_with_the_rules(text):
    assert opportunities(text) == _by_rules(text)


@given(st.text(max_size=40))
def test_offsets_are_within_the_text_and_in_order(text):
    found = opportunities(text)
    assert found == sorted(set(found))
    assert all(0 < offset < len(text) for offset in found)


@pytest.mark.skipif(not SUITE.exists(), reason="the Unicode test files are not installed")
def test_the_unicode_suite_passes_to_99_per_cent():
    passed = total = 0
    for line in SUITE.read_text(encoding="utf-8").splitlines():
        text, expected = "", []
        for part in line.split("#")[0].split():
            if part == "÷":
                expected.append(len(text))
            elif part != "×":
                text += chr(int(part, 16))
        if text and "/" not in text and not re.search(r"(^|\s|[\xa0\u200b\ufffc])-", text):  # what is tailored
            total += 1
            passed += opportunities(text) == [e for e in expected if 0 < e < len(text)]
    assert total > 7000 and passed / total >= 0.99
