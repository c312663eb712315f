"""A scale of 'fit': all on the pages as much smaller as the widest of it needs, and no smaller."""

import pytest

import fleetquill as fq
from command_line import command

SHEET = "@page { size: 600px 400px; margin: 50px } body { margin: 0 }"
CASES = [
    # what stands on a page of 500 px between its margins, and how large it is
    ("<div id=x style='width:1000px'>wide</div>", 0.5),
    ("<div id=x style='width:501px'>wide</div>", 500 / 501),
    ("<div id=x>as wide as the page</div>", 1.0),
    ("<div id=x style='width:520px'>into the margin</div>", 500 / 520),
    ("<div id=x style='width:150%'>parts of the page are never narrower than it</div>", 1.0),
    ("<div style='width:120%'>part</div><div id=x style='width:1000px'>wide</div>", 0.5),
    ("<div id=x style='margin:0 -50px'>to the paper's edge</div>", 1.0),
    ("<div id=x style='margin:0 -50px'>edge</div><div style='width:1000px'>wide</div>", 0.5),
    ("<div id=x style='position:absolute;left:500px;width:40px'>in the margin</div>", 1.0),
    ("<div id=x style='position:absolute;left:960px;width:40px'>x</div>", 0.5),
    ("<div id=x style='position:absolute;left:-9999px'>hidden</div>", 1.0),
    ("<div id=x style='position:absolute;left:9999px'>hidden</div>", 1.0),
    ("<div id=x style='overflow:hidden'><div style='width:1000px'>cut off</div></div>", 1.0),
    ("<div id=x style='transform:scale(3)'>moved on purpose</div>", 1.0),
    ("<div id=x style='white-space:nowrap;-fq-overrun:run'><i style='padding-left:984px'>nnn</i></div>", None),
    ("<p id=x><span style='display:inline-block;width:1000px'>wide</span></p>", 0.5),
    ("<div style='display:flex'><div id=x style='flex:none;width:1000px'>wide</div></div>", 0.5),
    ("<div style='float:left;width:625px' id=x>wide</div>", 0.8),
    ("<div dir=rtl style='direction:rtl'><div id=x style='width:1000px'>wide</div></div>", 1.0),
    ("<style>html { direction: rtl }</style><div id=x style='width:1000px'>wide</div>", 0.5),
    ("<p>first<p style='break-before:page'>second<div id=x style='width:1000px'>on the second page</div>", 0.5),
    ("<style>@page :first { margin: 150px }</style><div id=x style='width:500px'>a narrower first page</div>", 0.6),
]  # fmt: skip


def composed(html, **options):
    return fq.compose(fq.Manuscript.from_html(f"<!doctype html><style>{SHEET}</style>{html}"), **options)


def size_of_text(edition):
    """Points between the two lines of a probe, as part of what they are at the usual scale."""
    first, second = edition.locate("#one")[0], edition.locate("#two")[0]
    return (second.y - first.y) / 75


@pytest.mark.parametrize(("html", "scale"), CASES, ids=[html for html, _ in CASES])
def test_all_is_as_much_smaller_as_the_widest_needs(html, scale):
    probe = "<div style='position:absolute;top:0' id=one></div><div style='position:absolute;top:100px' id=two></div>"
    edition = composed(f"{probe}{html}", scale="fit")
    found = size_of_text(edition)
    if scale is None:  # text: as wide as its letters are
        assert 0.45 < found < 0.5
        assert all(line.x + line.width <= 412.6 for line in edition.locate("i"))
    else:
        assert found == pytest.approx(scale, abs=0.002)
    assert edition.pages[0].width == 450


def test_what_is_wider_than_the_paper_is_told_with_its_remedy():
    wide = "<div style='width:900px;text-align:right'>end</div>"
    (remark,) = composed(wide).remarks
    assert remark.message.endswith(
        "over the side of the page. A scale of 'fit' makes all of it as much smaller as that takes."
    )
    assert composed(wide, scale="fit").remarks == ()
    (remark,) = composed("<div style='width:180%;text-align:right'>end</div>", scale="fit").remarks
    assert remark.message.endswith("over the side of the page.")  # nobody is told to do what was done


def test_lines_of_a_box_wider_than_the_page_break_where_the_box_ends():
    words = "some words that are many " * 12
    edition = composed(f"<div style='width:900px'>{words}</div>", scale="fit")
    assert "↩" not in edition.pages[0].text
    assert " ".join(edition.pages[0].text.split()) == words.strip()


def test_rows_that_are_read_once_are_all_there():
    manuscript = fq.Manuscript(title="Locks")
    manuscript.ledger(({"lock": f"L{n}", "toll": n} for n in range(500)), ["lock", "toll"])
    manuscript.html("<div style='width:1400px;text-align:right'>far</div>")
    edition = fq.compose(manuscript, scale="fit")
    text = "".join(page.text for page in edition.pages)
    assert "L0" in text and "L499" in text and "far" in text
    assert not edition.remarks


def test_files_of_every_kind_take_it(tmp_path):
    source = tmp_path / "wide.html"
    source.write_text(
        f"<!doctype html><style>{SHEET}</style><div style='width:1000px;text-align:right'>end<table><td>a</table></div>"
    )
    for kind in ("pdf", "svg", "png", "docx", "txt", "html"):
        summary = fq.Press().write(source, tmp_path / f"wide.{kind}", scale="fit")
        assert summary.bytes_written and not summary.remarks, kind


@pytest.mark.parametrize("scale", ["Fit", "", "50%", 0.05, 11, None])
def test_scales_that_are_none_say_what_may_be(scale):
    with pytest.raises(fq.OptionError, match="'fit' makes them smaller where they are wider than the page"):
        composed("x", scale=scale)


def test_the_command_line_takes_it(tmp_path):
    source = tmp_path / "wide.html"
    source.write_text("<!doctype html><div style='width:1400px;text-align:right'>end</div>")
    found = command("press", source, "--scale", "fit", "--strict", "-o", tmp_path / "a.pdf")
    assert found.returncode == 0, found.stderr
    found = command("press", source, "--scale", "ft", "-o", tmp_path / "b.pdf")
    assert found.returncode == 2 and "'ft' is neither a number nor 'fit'" in found.stderr
