"""Pages: names, running heads, page counters, references, footnotes, rolls, marks."""

import re

import pytest

import fleetquill as fq

BOX = "@page { size: 400px 300px; margin: 40px; @top-left { content: %s } }"


def heads(read_pdf, edition):
    """What stands in the margins, which are written after the page area's content."""
    return [text.split("\n")[-1].strip() for text in read_pdf(edition.to_bytes())]


def style(head="counter(page)", more=""):
    return f"<style>{BOX % head} {more} p {{ margin: 0 }} html {{ line-height: 20px }}</style>"


def test_named_pages_begin_on_a_page_of_their_own(compose):
    edition = compose(
        style(more="@page wide { size: 600px 200px }") + "<p>a<section style='page:wide'><p>b<p>c</section><p>d",
        plain=False,
    )
    assert [(p.width, p.text.split()) for p in edition.pages] == [(300, ["a"]), (450, ["b", "c"]), (300, ["d"])]


def test_page_selectors_and_blank_pages(compose, read_pdf):
    more = "@page :first{@top-left{content:'first'}} @page :blank{@top-left{content:'blank'}} @page :left{@top-left{content:'left'}}"
    edition = compose(
        style("'right'", more) + "<p>a<p style='break-before:right'>b<p style='break-before:page'>c", plain=False
    )
    assert heads(read_pdf, edition) == ["first", "blank", "right", "left"]


def test_page_counters_are_reset_by_elements_and_pages(compose, read_pdf):
    html = style("counter(page) ' of ' counter(pages)", "section{break-before:page}")
    html += "<p>a<section>b</section><section style='counter-reset:page 1'>c</section><section>d</section>"
    assert heads(read_pdf, compose(html, plain=False)) == ["1 of 4", "2 of 4", "1 of 4", "2 of 4"]
    roman = (
        style("counter(page, lower-roman)", "@page{counter-increment:page 2}") + "<p>a<p style='break-before:page'>b"
    )
    assert heads(read_pdf, compose(roman, plain=False)) == ["ii", "iv"]


def test_the_page_number_can_stand_in_the_text(compose):
    edition = compose(
        style(more=".n::after{content:counter(page) '/' counter(pages)}")
        + "<p class=n>p <p class=n style='break-before:page'>p ",
        plain=False,
    )
    assert [p.text for p in edition.pages] == ["p 1/2", "p 2/2"]


@pytest.mark.parametrize(
    ("which", "expected"),
    [("", ["A", "B", "C", "D"]), ("first", ["A", "B", "C", "D"]), ("last", ["A", "C", "C", "D"]),
     ("start", ["A", "A", "C", "D"]), ("first-except", ["", "", "C", ""])],
)  # fmt: skip
def test_named_strings_follow_the_headings(compose, read_pdf, which, expected):
    head = f"'[' string(t{', ' + which if which else ''}) ']'"
    html = style(head, "h2{string-set:t content();margin:0} .b{break-before:page}")
    html += "<h2>A</h2><p class=b>x<h2>B</h2><h2>C</h2><p class=b>y<h2 class=b>D</h2>"
    assert heads(read_pdf, compose(html, plain=False)) == [f"[{name}]" for name in expected]


def test_running_elements_stand_in_the_margin_with_their_style(compose, read_pdf):
    html = style("element(head)", ".h{position:running(head);color:red} .b{break-before:page}")
    html += "<div class=h>Fleet <b>Report</b></div><p>one<p class=b>two"
    edition = compose(html, plain=False)
    assert heads(read_pdf, edition) == ["Fleet Report"] * 2 and [p.text for p in edition.pages] == ["one", "two"]


def test_other_counters_can_stand_in_the_margin(compose, read_pdf):
    html = style("'Part ' counter(part, upper-roman)", "h2{counter-increment:part;margin:0} .b{break-before:page}")
    html += "<h2>a</h2><p class=b>x<h2>b</h2><p class=b>y"
    assert heads(read_pdf, compose(html, plain=False)) == ["Part I", "Part II", "Part II"]


def test_an_element_without_a_box_of_its_own_still_counts_on_its_page(compose, read_pdf):
    html = style("'Part number ' counter(part)", ".c{display:contents;counter-increment:part} .b{break-before:page}")
    html += "<p>a<div class=c><p>x</p></div><p class=b>y"
    assert heads(read_pdf, compose(html, plain=False)) == ["Part number 1"] * 2


NOTE = ".n{float:footnote} @page{@footnote{border:none;padding:0;margin:0}}"

SAYINGS = {  # what a cell may say to its page, and how the page shows that it was heard
    "a name": ("<b id=there>x</b>", lambda edition, heads: edition.locate("#there") and edition.page_count == 1),
    "a string": ("<b style='string-set:t content()'>said</b>", lambda edition, heads: heads == ["counted 0 said"]),
    "a count": ("<i style='counter-increment:part 3'>x</i>", lambda edition, heads: heads == ["counted 3"]),
    "a bookmark": ("<b style='display:block;bookmark-level:1'>x</b>", lambda edition, heads: len(edition.outline) == 1),
    "a note": ("x<b class=n>noted</b>", lambda edition, heads: edition.pages[0].text.endswith("noted")),
    "a move": (
        "<b style='position:relative;left:9px'>x</b>",
        lambda edition, heads: edition.pages[0].text == "a\nx\nz",
    ),
}


@pytest.mark.parametrize("kind", SAYINGS)
@pytest.mark.parametrize(
    "around",
    ["<table><tr><td>a<td>%s<td>z</table>", "<ul><li>a<li>%s<li>z</ul>", "<div><p>a<div><p>%s</div><p>z</div>"],
    ids=["cell", "item", "block"],
)
def test_what_an_element_says_to_its_page_is_heard_among_elements_that_say_nothing(compose, read_pdf, kind, around):
    content, heard = SAYINGS[kind]
    html = style("'counted ' counter(part) ' ' string(t)", "ul{list-style:none}" + NOTE) + around % content
    edition = compose(html, plain=False)
    assert heard(edition, heads(read_pdf, edition))


TOC = "a::after { content: leader('.') target-counter(attr(href), page) } .q::after { content: target-text(attr(href)) ' ' target-counter(attr(href), sec) }"


def test_a_contents_list_names_the_right_pages(compose, px):
    html = style(more=TOC + "h2 { break-before: page; counter-increment: sec; margin: 0 }")
    html += "<p><a href=#one>One</a><p><a href=#two>Two</a><p class=q><a class=q href=#two>see</a>" + "".join(
        f"<h2 id={name}>Chapter {name}</h2>" + "<p>x" * 25 for name in ("one", "two")
    )
    edition = compose(html, plain=False)
    pages = [p.page for p in px(edition, "h2")]
    numbers = [int(n) for n in re.findall(r"\.(\d+)$", edition.pages[0].text, re.M)]
    assert pages == [2, 5] and numbers == pages
    assert "Chapter two 2" in edition.pages[0].text


def test_leaders_end_at_the_edge_and_line_up(compose):
    edition = compose(style(more="p::after{content: leader('.') 'end'}") + "<p>short<p>a longer text", plain=False)
    lines = edition.pages[0].text.split("\n")
    assert all(re.fullmatch(r"[a-z ]+\.{10,}end", line) for line in lines)


def test_a_reference_to_nothing_is_a_remark(compose):
    edition = compose(
        style(more="a::after{content:target-counter(attr(href),page)}") + "<a href=#gone>x</a>", plain=False
    )
    assert any("#gone" in r.message for r in edition.remarks) and edition.pages[0].text == "x?"


def test_footnotes_stand_at_the_foot_of_the_page_that_calls_them(compose, px):
    html = (
        style(more=NOTE)
        + "<p>a<span class=n id=n1>first</span><p>b<p style='break-before:page'>c<span class=n id=n2>second</span>"
    )
    edition = compose(html, plain=False)
    assert [(p.page, p.bottom) for sel in ("#n1", "#n2") for p in px(edition, sel)] == [(1, 260), (2, 260)]
    assert edition.pages[0].text.split() == ["a1", "b", "1", "first"]


def test_text_makes_room_for_its_footnotes(compose, px):
    html = style(more=NOTE) + "".join(
        f"<p class=t>line {n}{'<span class=n>note<br>note</span>' if n == 8 else ''}" for n in range(20)
    )
    edition = compose(html, plain=False)
    by_page = {p.page: p for p in px(edition, ".n")}
    assert set(by_page) == {1}
    assert all(p.bottom <= by_page[1].y + 0.1 for p in px(edition, ".t") if p.page == 1)


@pytest.mark.parametrize("height", range(150, 260, 7))
def test_a_footnote_of_one_line_is_never_cut_through(compose, height):
    edition = compose(
        f"<style>@page{{size:300px {height}px;margin:30px}} .n{{float:footnote}} h1{{font-size:32px}}</style>"
        "<h1>First</h1><p>Text<span class=n>A note.</span> and more.<p style='break-before:page'>Next"
    )
    texts = [page.text for page in edition.pages]
    assert sum(text.count("A note.") for text in texts) == 1
    assert not [remark for remark in edition.remarks if "slices" in remark.message]


def test_a_footnote_too_long_for_its_page_goes_on_at_the_next(compose, px):
    html = (
        style(more=NOTE) + "<p>a<span class=n id=n>" + "<br>".join(f"n{n}" for n in range(30)) + "</span>" + "<p>x" * 12
    )
    edition = compose(html, plain=False)
    assert len({p.page for p in px(edition, "#n")}) > 1
    assert [int(n) for n in re.findall(r"n(\d+)", " ".join(p.text for p in edition.pages))] == list(range(30))


def test_a_roll_is_as_tall_as_its_content(compose):
    edition = compose(
        "<style>@page{size:80mm auto;margin:4mm} p{margin:0;line-height:20px}</style>" + "<p>x" * 40, plain=False
    )
    page = edition.pages[0]
    assert edition.page_count == 1
    assert (page.width, page.height) == (
        pytest.approx(80 / 25.4 * 72, abs=0.01),
        pytest.approx((40 * 20 + 8 / 25.4 * 96) * 0.75, abs=1),
    )


def test_bleed_and_marks_lie_around_the_trimmed_page(compose):
    import pypdfium2 as pdfium

    edition = compose("<style>@page{size:200px 100px;marks:crop cross;bleed:3mm;background:red}</style>x", plain=False)
    page = pdfium.PdfDocument(edition.to_bytes())[0]
    assert (edition.pages[0].width, page.get_trimbox()) == (150, (0, 0, 150, 75))
    bleed = 3 / 25.4 * 72
    assert page.get_bleedbox() == pytest.approx((-bleed, -bleed, 150 + bleed, 75 + bleed), abs=0.01)
    assert page.get_mediabox()[0] < -bleed - 10


def test_clone_repeats_padding_and_border_at_a_break(compose, px):
    html = (
        "<div style='box-decoration-break:{};padding:20px;border:5px solid' id=d>" + "<p class=i>x</p>" * 40 + "</div>"
    )
    sliced, cloned = compose(html.format("slice")), compose(html.format("clone"))
    assert [p.y for p in px(sliced, ".i") if p.page == 2][0] == 0
    assert [p.y for p in px(cloned, ".i") if p.page == 2][0] == 25
    assert max(p.bottom for p in px(cloned, ".i") if p.page == 1) <= 575


def test_bookmarks_have_labels_and_states_of_their_own(compose):
    html = "<style>h2{bookmark-level:1;bookmark-label:'Part ' content();bookmark-state:closed} h3{bookmark-level:2}</style><h2>A</h2><h3>B</h3>"
    outline = compose(html).outline
    assert [(b.label, b.is_open, [c.label for c in b.children]) for b in outline] == [("Part A", False, ["B"])]


@pytest.mark.parametrize(
    "css",
    ["width:100px;min-width:300px;max-width:50px", "width:3000mm", "height:-5px;width:-10px", "margin:-9999px", "padding:5000px",
     "width:calc(100% - 9999px)", "font-size:0", "line-height:0", "columns:1000", "grid-template-columns:repeat(1000,1fr);display:grid",
     "position:absolute;width:1e9px", "aspect-ratio:0/0", "transform:scale(0)", "border-radius:9999px;border:1px solid", "text-indent:-9999px",
     "z-index:999999999999;position:relative", "grid-column:99999 / span 99999;display:grid"],
)  # fmt: skip
def test_whatever_is_asked_a_page_comes_out(compose, check_pdf, css):
    edition = compose(f"<div style='{css}'><p>text</p><table style='width:3000mm'><tr><td>x</table></div><p>after")
    assert "after" in " ".join(p.text for p in edition.pages)
    check_pdf(edition.to_bytes())


def test_a_page_without_room_still_says_so_and_ends(compose):
    edition = compose("<style>@page{size:100px;margin:60px}</style><p>a<p>b", plain=False)
    assert any("no room" in r.message for r in edition.remarks) and edition.page_count >= 1


def test_a_document_ten_times_as_long_has_ten_times_the_pages(press):
    html = "<style>@page{size:400px 300px} section{break-before:page;columns:2} h2{string-set:t content()}</style>"
    part = "<section><h2>t</h2>" + "<p>some words in a paragraph of the report</p>" * 20 + "</section>"
    short, long = (press.compose(fq.Manuscript.from_html(html + part * n)).page_count for n in (3, 30))
    assert long == short * 10


@pytest.mark.parametrize(
    "source",
    [
        "<p>one</p><span lang=en><br clear=all style='mso-special-character: line-break; page-break-before: always'></span><p>two</p>",
        "<p>one</p><br style='page-break-after: always'><p>two</p>",
        "<p>one<br style='break-before: page'>two</p>",
        "<table><tr><td>one<br style='page-break-before: always'>two</table>",
    ],
)
def test_a_break_of_a_line_may_be_one_of_the_page(source):
    edition = fq.compose(fq.Manuscript.from_html(source))
    assert [page.text for page in edition.pages] == ["one", "two"]
