"""The one bounded cache, and that nothing a press keeps grows without end."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill import api
from fleetquill.caches import Budget, Cache
from fleetquill.text.fonts import FontLibrary, default_faces
from fleetquill.units import byte_count


@given(st.integers(1, 9), st.lists(st.integers(0, 30), max_size=80))
def test_a_cache_never_holds_more_than_it_may_and_what_it_holds_is_true(most, keys):
    cache: Cache[int, str] = Cache(most)
    for key in keys:
        assert cache.get(key) in (None, str(key))
        assert cache.put(key, str(key)) == str(key)
        assert key in cache and len(cache) <= most


def test_a_cache_that_was_filled_in_bulk_is_trimmed():
    cache: Cache[int, int] = Cache(3)
    cache.update({number: number for number in range(9)})
    cache.trim()
    assert len(cache) == 0


@given(st.integers(1, 50), st.lists(st.tuples(st.booleans(), st.integers(0, 9), st.integers(0, 30)), max_size=60))
def test_caches_of_one_budget_never_weigh_more_together_than_it_has(most, steps):
    budget = Budget(most)
    caches = [budget.cache(1_000, lambda key, value: value) for _ in range(2)]
    for second, key, weight in steps:
        if key not in caches[second]:
            caches[second].put(key, weight)
        held = sum(sum(cache.values()) for cache in caches)
        assert held == budget.spent <= most


def test_what_a_cache_lets_go_by_itself_counts_no_more():
    budget = Budget(100)
    small, other = budget.cache(3, lambda key, value: 10), budget.cache(50, lambda key, value: 10)
    other.put("stays", "here")
    for number in range(60):
        small.put(number, "x")
        assert budget.spent == 10 * (len(small) + len(other)) <= 40
    assert other == {"stays": "here"}


def test_a_cache_that_nobody_holds_is_forgotten_by_its_budget():
    budget = Budget(10)
    budget.cache(5, lambda key, value: 1)
    stays = budget.cache(5, lambda key, value: 6)
    stays.put("a", "b")
    assert stays
    stays.put("c", "d")
    assert not stays and not budget.spent


@pytest.mark.parametrize(
    ("given", "count"),
    [(0, 0), (5, 5), ("0B", 0), ("12 B", 12), ("1.5kB", 1_500), ("64mb", 64_000_000), ("2 GB", 2 * 10**9)],
)
def test_numbers_of_bytes(given, count):
    assert byte_count(given) == count


@pytest.mark.parametrize("given", ["", "64", "MB", "-3MB", "64 MiB", -1, True, 1.5, None])
def test_what_is_no_number_of_bytes_is_an_error(given):
    with pytest.raises(fq.OptionError, match="is no number of bytes") as caught:
        fq.Press(keep=given)
    assert "'64MB'" in str(caught.value)


@pytest.mark.parametrize("locale", ["klingon", "xx-Nowhere", "", "de_XX_YY_ZZ", "12"])
def test_a_locale_that_is_none_is_an_error_where_the_press_is_made(locale):
    with pytest.raises(fq.OptionError, match="is not known"):
        fq.Press(locale=locale)


def test_presses_by_locale_are_bounded(monkeypatch):
    monkeypatch.setattr(api, "_presses", Cache(2))
    for locale in ("de", "fr", "en-IE", "de"):
        assert fq.compose(fq.Manuscript.from_html("<p>x"), locale=locale).page_count == 1
        assert len(api._presses) <= 2


def test_faces_of_documents_are_let_go_with_their_library():
    base = FontLibrary(default_faces())
    entry = default_faces()[0]._replace(family="Own")
    own = FontLibrary([entry], base)
    found = own.match(("Own", "serif"), 400, "normal", 100.0)
    assert next(iter(found.values())).family == "Own" and len(own._faces) == 1
    assert not any("Own" in entry.family for face_of in base._matches.values() for entry in face_of.values())
    assert own.match(("serif",), 400, "normal", 100.0).keys() == base.match(("serif",), 400, "normal", 100.0).keys()
