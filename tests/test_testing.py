"""The helpers for tests of documents, in tests of their own."""

from __future__ import annotations

import pytest

import fleetquill as fq
from fleetquill.testing import assert_no_remarks, assert_page_count, assert_page_text, assert_placed, assert_remark

pytest_plugins = ["pytester"]
BODY = """<style>@page { size: 300pt 200pt; margin: 20pt } p { margin: 0 } .new { break-before: page }</style>
<p id=a style='width:100pt;height:30pt'>Barley for  Saltgate</p><p class=new>Total €3,220.00</p><p>paid</p>"""


@pytest.fixture(scope="module")
def edition() -> fq.Edition:
    return fq.compose(fq.Manuscript.from_html(BODY))


def test_what_holds_passes(edition):
    assert_page_text(edition, "Barley for Saltgate", page=1)
    assert_page_text(edition, "Total €3,220.00")
    assert_page_text(edition, "Total €3,220.00 paid", page=-1, times=1)
    assert_page_text(edition, "gravel", times=0)
    assert_page_count(edition, 2)
    assert assert_placed(edition, "#a", page=1, x=20, y=20, width=100, height=30, right=120, bottom=50.4).page == 1
    assert_no_remarks(edition)
    remarked = fq.compose(fq.Manuscript.from_html("<p style='colr: red'>a"))
    assert_remark(remarked, "style", "colr")
    assert_no_remarks(remarked, but=["style"])


@pytest.mark.parametrize(
    ("check", "message"),
    [
        (lambda e: assert_page_text(e, "Total €3,220.00", page=1), "'Total €3,220.00' does not stand on page 1 of 2. It stands on page 2."),
        (lambda e: assert_page_text(e, "Total €3,22.00"), "'Total €3,22.00' does not stand on any page. The nearest is 'Total €3,220.00'."),
        (lambda e: assert_page_text(e, "gravel"), "'gravel' does not stand on any page. What stands there: Barley for Saltgate / Total €3,220.00 / paid"),
        (lambda e: assert_page_text(e, "a", times=0), "'a' stands 5 times on any page, not 0."),
        (lambda e: assert_page_text(e, "a", page=3), "There is no page 3: the edition has 2."),
        (lambda e: assert_page_count(e, 3), "There are 2 pages, not 3. The last one says: Total €3,220.00 paid"),
        (lambda e: assert_placed(e, "#a", x=21, width=100, bottom=49), "'#a' on page 1: x is 20, not 21; bottom is 50, not 49 (points)."),
        (lambda e: assert_placed(e, "#a", page=2), "'#a' stands on page 1, not 2."),
        (lambda e: assert_placed(e, "#b"), "No element '#b' is on any page."),
        (lambda e: assert_remark(e, "font"), "There is no remark of the kind 'font'. The remarks are:\n  (none)"),
        (lambda e: assert_no_remarks(fq.compose(fq.Manuscript.from_html("<p style='colr: red'>a"))), "There is a remark:\n  style: line 1: "),
    ],
)  # fmt: skip
def test_what_does_not_hold_fails_with_what_there_is(edition, check, message):
    with pytest.raises(pytest.fail.Exception) as failed:
        check(edition)
    assert str(failed.value).startswith(message)


def test_a_side_that_is_none_is_an_error(edition):
    with pytest.raises(TypeError, match="'top' is no side of a placement"):
        assert_placed(edition, "#a", top=3)


SUITE = """
import fleetquill as fq
def test_pages(kept_pages):
    html = "<style>@page { size: 100pt 60pt; margin: 5pt }</style><p style='color: %s'>Saltgate<p style='break-before:page'>b"
    kept_pages(fq.compose(fq.Manuscript.from_html(html)), "lock"%s)
"""


def test_pages_are_compared_with_kept_pictures(pytester):
    def run(color: str, *options: str, more: str = "") -> pytest.RunResult:
        pytester.makepyfile(SUITE % (color, more))
        return pytester.runpytest_inprocess(*options, "-p", "no:cacheprovider")

    result = run("black")
    result.assert_outcomes(failed=1)
    result.stdout.fnmatch_lines(
        ["*Page 1 is not kept yet as lock-1.png: look at *lock-1-now.png.", "*Run pytest with --keep-pages*"]
    )
    run("black", "--keep-pages").assert_outcomes(passed=1)
    assert sorted(path.name for path in (pytester.path / "kept_pages").iterdir()) == ["lock-1.png", "lock-2.png"]
    run("black").assert_outcomes(passed=1)
    result = run("red")
    result.assert_outcomes(failed=1)
    result.stdout.fnmatch_lines(["*Page 1 differs from lock-1.png in *% of its pixels, around (*"])
    assert "Page 2" not in result.stdout.str() and "Traceback" not in result.stdout.str()
    run("red", more=", pages=[2]").assert_outcomes(passed=1)
    run("red", more=", share=0.5").assert_outcomes(passed=1)
