"""Comparing documents: what came, went and moved."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.testing import assert_same_pages

STYLE = "<style>@page{size:300pt 400pt;margin:20pt} p{margin:0 0 10pt}</style>"


def made(html):
    return fq.compose(fq.Manuscript.from_html(STYLE + html))


def told(old, new, **options):
    return [(change.what, change.kind, change.text) for change in fq.compare(made(old), made(new), **options).changes]


@pytest.mark.parametrize(
    ("old", "new", "expected"),
    [
        ("<p>one two", "<p>one two", []),
        ("<p>one two", "<p>one two three", [("came", "word", "three")]),
        ("<p>one two three", "<p>one three", [("moved", "word", "three"), ("went", "word", "two")]),
        ("<p>total 12.00", "<p>total 13.00", [("came", "word", "13.00"), ("went", "word", "12.00")]),
        ("<p>one", "<p style='margin-left:5pt'>one", [("moved", "word", "one")]),
        ("<p>one", "<p style='margin-left:0.3pt'>one", []),
        ("<p>x", "<p style='border-bottom:1pt solid red'>x", [("came", "shape", "")]),
        ("<p style='background:#eee'>x", "<p style='background:#e0e0e0'>x", [("came", "shape", ""), ("went", "shape", "")]),
        ("<p style='background:#eee;width:50pt'>x", "<p style='background:#eee;width:60pt'>x", [("came", "shape", ""), ("went", "shape", "")]),
        ("<p>a<div style='background:red;height:9pt'></div>", "<p>a<div style='background:red;height:9pt;margin-top:30pt'></div>", [("moved", "shape", "")]),
        ("<p>a", "<p>a<p style='break-before:page'>b", [("came", "page", "")]),
        ("<p>a<p style='break-before:page'>b", "<p>a", [("went", "page", "")]),
    ],
)  # fmt: skip
def test_changes_are_told(old, new, expected):
    assert sorted(told(old, new)) == sorted(expected)


def test_how_far_something_moved_is_told():
    (change,) = fq.compare(made("<p>one"), made("<p style='margin:3pt 0 0 5pt'>one")).changes
    assert change.by == pytest.approx((5, 3), abs=0.01)
    assert str(change) == "page 1: 'one' is moved by +5.0, +3.0 pt, at 25 pt, 23 pt" or "moved by +5.0, +3.0 pt" in str(
        change
    )


def test_near_is_how_far_something_may_have_moved():
    assert told("<p>one", "<p style='margin-left:5pt'>one", near=6) == []


def test_a_page_that_was_put_in_is_one_change():
    pages = [f"<h1 style='break-before:page'>Part {n}</h1><p>{'words ' * n} of {n}" for n in range(1, 6)]
    old, new = (
        "".join(pages),
        "".join([*pages[:2], "<h1 style='break-before:page'>New</h1><p>altogether different", *pages[2:]]),
    )
    found = fq.compare(made(old), made(new))
    assert [(change.what, change.kind, change.page) for change in found.changes] == [("came", "page", 3)]
    assert found.pages == ((1, 1), (2, 2), (None, 3), (3, 4), (4, 5), (5, 6))
    back = fq.compare(made(new), made(old))
    assert [(change.what, change.kind, change.page) for change in back.changes] == [("went", "page", 3)]


def test_pictures_are_told_by_what_they_show(tmp_path):
    from PIL import Image

    for name, color in (("a.png", "red"), ("b.png", "blue")):
        Image.new("RGB", (9, 9), color).save(tmp_path / name)
    editions = [
        fq.compose(fq.Manuscript.from_html(f"{STYLE}<img src={name} style='width:40pt'>", base=tmp_path))
        for name in ("a.png", "b.png")
    ]
    assert [(c.what, c.kind) for c in fq.compare(*editions).changes] == [("came", "picture"), ("went", "picture")]


def test_files_and_editions_are_compared(tolls, barges, tmp_path):
    assert fq.compare(tolls, tolls.read_bytes()).same
    assert not fq.compare(tolls, barges).same
    locked = tmp_path / "locked.pdf"
    fq.bind([tolls], locked, password="a", title="Toll")
    assert fq.compare(tolls, locked, new_password="a").same


def test_fields_are_compared_too(form, tmp_path):
    filled = tmp_path / "filled.pdf"
    fq.fill_fields(form, {"skipper": "Ilse Oldwater"}, filled)
    texts = {(change.what, change.text) for change in fq.compare(form, filled).changes}
    assert texts >= {("came", "Ilse"), ("went", "Maren")}


def test_the_picture_shows_what_differs(tmp_path):
    from PIL import Image

    found = fq.compare(made("<p>one two"), made("<p>one three"))
    shot = Image.open(found.save_picture(tmp_path / "a.png", dpi=72))
    assert shot.size == (300 * 2 + 12, 400 + 12)
    colors = {color for _, color in shot.getcolors(100_000)}
    assert (29, 122, 72) in colors and (192, 57, 43) in colors
    with pytest.raises(fq.OptionError, match="the same"):
        fq.compare(made("<p>x"), made("<p>x")).save_picture(tmp_path / "b.png")


def test_the_helper_for_tests_says_what_differs(tmp_path):
    kept = tmp_path / "kept.pdf"
    made("<p>one two").save(kept)
    assert_same_pages(made("<p>one two"), kept)
    with pytest.raises(pytest.fail.Exception, match="'three' is new"):
        assert_same_pages(made("<p>one three"), kept)


@settings(max_examples=30)
@given(st.lists(st.sampled_from(["heron", "teal", "42.00", "toll"]), max_size=12), st.data())
def test_a_document_is_the_same_as_itself_and_changes_turn_around(texts, data):
    other = data.draw(st.permutations(texts))
    one, two = made(f"<p>{' '.join(texts)}"), made(f"<p>{' '.join(other)}")
    assert fq.compare(one, made(f"<p>{' '.join(texts)}")).same
    there, back = fq.compare(one, two).changes, fq.compare(two, one).changes
    turned = {"came": "went", "went": "came", "moved": "moved"}
    assert sorted((turned[c.what], c.text) for c in there if c.what != "moved") == sorted(
        (c.what, c.text) for c in back if c.what != "moved"
    )
