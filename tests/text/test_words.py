"""Small things of text: casing, counters, clusters, scripts, shaped words."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fleetquill.layout.boxes.counters import Counters
from fleetquill.text.casing import transform
from fleetquill.text.figures import Figures
from fleetquill.text.fonts import FontLibrary, default_faces
from fleetquill.text.scripts import script_runs
from fleetquill.text.shaping import UNSAID, FontSetting, clusters
from fleetquill.tree.texts import clean


@pytest.fixture(scope="module")
def setting() -> FontSetting:
    library = FontLibrary(default_faces())
    return FontSetting(tuple(library.match(("sans-serif",), 400, "normal", 100.0)), (), "en", "ltr")


@pytest.mark.parametrize(
    ("text", "kind", "language", "expected"),
    [
        ("Straße", "uppercase", "de", "STRASSE"), ("istanbul", "uppercase", "tr", "İSTANBUL"),
        ("IĞDIR", "lowercase", "tr", "ığdır"), ("ΜΆΪΟΣ", "lowercase", "el", "μάϊος"), ("Μάιος", "uppercase", "el", "ΜΑΙΟΣ"),
        ("upper willow’s lock", "capitalize", "en", "Upper Willow’s Lock"),
        ("3rd x-y 'quay' o'neil a_b (reed)", "capitalize", "en", "3rd X-Y 'Quay' O'neil A_b (Reed)"), ("a1 b", "full-width", "ja", "ａ１\u3000ｂ"),
        ("Heron", "none", "", "Heron"),
    ],
)  # fmt: skip
def test_text_transform_by_language(text, kind, language, expected):
    assert transform(text, kind, language) == expected


def test_counters_nest_and_end_with_their_scope():
    counters = Counters()
    counters.reset([("a", 0)])
    counters.increment([("a", 2), ("b", 1)])
    counters.enter()
    counters.reset([("a", 5)])
    counters.increment([("a", 1)])
    assert (counters.value("a"), counters.values("a"), counters.value("b")) == (6, [2, 6], 1)
    counters.leave()
    assert (counters.value("a"), counters.value("none"), counters.values("none")) == (2, 0, [0])
    counters.set([("a", 9)])
    assert counters.value("a") == 9


@pytest.mark.parametrize(
    ("text", "count"),
    [("abc", 3), ("e\u0301a", 2), ("👩\u200d🚀x", 2), ("👍🏽", 1), ("\u0301a", 2), ("", 0), ("क\u094d", 1)],
)
def test_clusters(text, count):
    assert len(clusters(text)) == count and "".join(clusters(text)) == text


def test_scripts_are_told_apart_and_common_characters_go_along():
    assert script_runs("Heronλόγος12") == ["Heron", "λόγος12"]
    assert script_runs("12 Река") == ["12 Река"]


def test_words_carry_the_numbers_of_their_glyphs(setting):
    word = setting.segment("office ")
    assert word.text == "office" and word.spaced and word.face is setting.face
    assert word.count == len(word.runs[0].glyphs) < len("office") and word.runs[0].adjustments == ((4, -21, 0),)
    assert setting.segment("office ") is word and setting.segment("office") is not word


def test_characters_that_no_face_has_are_named(setting):
    assert setting.segment("a\U00013000b").missing == "\U00013000"
    assert setting.segment("a\u200db\u2066").missing == ""


def test_the_hyphen_of_a_line_end_stands_for_a_soft_hyphen(setting):
    hyphen = setting.hyphen("auto")
    assert hyphen.text == "\u00ad" and hyphen.runs[0].text == "\u00ad" and hyphen.advance > 0
    assert setting.hyphen("=").advance != hyphen.advance


@settings(max_examples=150, deadline=None)
@given(st.text("0123456789.,-:/ ", min_size=1, max_size=14))
def test_figures_are_set_as_shaping_would_set_them(text):
    setting = _setting()
    figures = _figures()
    if figures.safe.issuperset(text):
        word = setting.exact(text)
        assert sum((figures.glyphs[character] for character in text), ()) == word.runs[0].glyphs
        assert figures.advance(text) == pytest.approx(word.advance)


def _setting(kept: list[FontSetting] = []) -> FontSetting:  # noqa: B006
    if not kept:
        library = FontLibrary(default_faces())
        kept.append(FontSetting(tuple(library.match(("serif",), 400, "normal", 100.0)), (), "en", "ltr"))
    return kept[0]


def _figures(kept: list[Figures] = []) -> Figures:  # noqa: B006
    if not kept:
        kept.append(Figures(_setting()))
    return kept[0]


@settings(max_examples=80, deadline=None)
@given(st.text(min_size=1, max_size=12))
def test_any_text_is_shaped_without_loss(text):
    word = _setting().exact(text)
    assert "".join(run.text for run in word.runs) == clean(text)  # but for what is no character
    assert word.advance == pytest.approx(sum(run.advance for run in word.runs))
    for run in word.runs:
        places = list(run.places())
        assert [glyph for glyph, _, _ in places] == list(run.glyphs)
        said = "".join(meaning for _, meaning in run.meanings)
        assert sorted(said) == sorted(run.text.translate(UNSAID) if run.glyphs else "")
