"""Which element stands at a point, and which declarations make it look as it does."""

import pytest

import fleetquill as fq

PAGE = "@page { size: 300pt 300pt; margin: 20pt }"


def composed(html, css="", tmp_path=None, **options):
    return fq.compose(
        fq.Manuscript.from_html(f"<html lang=en><title>T</title><style>\n{PAGE}\n{css}\n</style>{html}"), **options
    )


def at(edition, selector):
    """The element in the middle of what a selector matches."""
    place = edition.locate(selector)[0]
    return edition.element_at(place.page, place.x + place.width / 2, place.y + place.height / 2)


def counting(found, owner=""):
    return {one.property: one.value for one in found.style if one.counts and one.owner == owner}


def test_the_innermost_element_is_found_with_its_boxes():
    edition = composed(
        "<div class='a b' id=c style='margin:1pt 2pt 3pt 4pt;border:5pt solid;padding:6pt 7pt'><p>x</p></div>"
    )
    found = at(edition, "p")
    assert (found.name, found.path, found.text) == ("p", "html > body > div#c.a.b > p", "x")
    place = edition.locate("div")[0]
    around = edition.element_at(1, place.x + 2, place.y + 2)
    assert around.name == "div#c.a.b" and around.placement == place
    assert (around.margin, around.border, around.padding) == ((1, 2, 3, 4), (5, 5, 5, 5), (6, 7, 6, 7))


def test_margins_in_shares_are_those_of_the_element_around():
    edition = composed("<section style='width:200pt'><div style='margin-left:10%;padding:0 5%'>x</div></section>")
    found = at(edition, "div")
    assert found.margin[3] == pytest.approx(20, abs=0.01)
    assert (found.padding[1], found.padding[3]) == pytest.approx((10, 10), abs=0.01)


def test_where_nothing_stands_is_nothing():
    edition = composed("<p>x")
    assert edition.element_at(1, 299, 299) is None
    with pytest.raises(fq.OptionError, match="no page 2"):
        edition.element_at(2, 1, 1)


def test_text_in_a_line_belongs_to_its_inline_element():
    assert at(composed("<p>one <b>two</b> three"), "b").name == "b"


def test_what_is_weaker_does_not_count():
    css = "p { color: red; margin: 0 }\n.x { color: green }\n#y { padding: 1pt }"
    found = at(composed("<p class=x id=y style='padding-top: 2pt'>t", css), "p")
    said = {(one.property, one.value): one for one in found.style if not one.owner}
    assert said["color", "green"].counts and not said["color", "red"].counts
    assert said["padding-top", "2pt"].counts and said["padding", "1pt"].counts, "three of its sides are left"
    assert said["margin", "0"].counts and not said["display", "block"].owner
    strongest = found.style[0]
    assert (strongest.property, strongest.selector) == ("padding-top", "")


@pytest.mark.parametrize(
    ("css", "value"),
    [
        ("p { color: red !important } #y { color: green }", "red"),
        ("p { color: red; color: green }", "green"),
        ("#y { color: green } p { color: red }", "green"),
        ("@layer a { p { color: red } } p { color: green }", "green"),
        ("@layer a, b; @layer b { p { color: green } } @layer a { #y { color: red } }", "green"),
        ("@layer a { p { color: green !important } } p { color: red !important }", "green"),
        ("@media print { p { color: green } } @media screen { #y { color: red } }", "green"),
        ("body { & p { color: green } }", "green"),
        ("p { color: green; @media print { color: blue } }", "blue"),
        (":root { --ink: green } p { color: var(--ink) }", "var(--ink)"),
    ],
)
def test_it_agrees_with_the_cascade(css, value):
    found = at(composed("<p id=y>t", css), "p")
    assert counting(found)["color"] == value
    assert sum(one.property == "color" and one.counts for one in found.style) == 1


def test_what_is_inherited_follows_with_its_owner():
    edition = composed("<main style='color: teal; border: 1pt solid'><p>x", "body { font-size: 9pt; color: red }")
    found = at(edition, "p")
    assert counting(found, "main") == {"color": "teal"}, "borders are not inherited, and red is another's"
    assert counting(found, "body")["font-size"] == "9pt"
    assert [one.owner for one in found.style if one.owner] == sorted(
        (one.owner for one in found.style if one.owner), key=["main", "body", "html"].index
    ), "the nearest first"


def test_attributes_of_html_are_said_to_be():
    found = at(composed("<table><tr><td align=right>x</table>"), "td")
    said = next(one for one in found.style if one.property == "text-align")
    assert said.source == "HTML attributes" and said.counts


def test_rules_are_named_with_file_and_line(tmp_path):
    (tmp_path / "more.css").write_text("\n\np b { color: green }\n")
    (tmp_path / "house.css").write_text("@import 'more.css' print;\n/* a */ p {\n  margin: 0;\n\n  color: teal }\n")
    (tmp_path / "a.html").write_text(
        "<html lang=en><head><title>T</title>\n<link rel=stylesheet href=house.css>\n<style>\n"
        "/* b */\nb { font-weight: 900 }</style></head>\n<body>\n<p>\n<b style='padding: 0'>x</b>\n"
    )
    found = at(fq.compose(tmp_path / "a.html"), "b")
    lines = {one.property: (one.source.rpartition("/")[2], one.line, one.selector) for one in found.style[::-1]}
    assert lines["padding"] == ("a.html", 8, "")
    assert (found.source.rpartition("/")[2], found.line) == ("a.html", 8)
    assert lines["font-weight"] == ("a.html", 5, "b")
    colors = [(one.source.rpartition("/")[2], one.line, one.counts) for one in found.style if one.property == "color"]
    assert ("more.css", 3, True) in colors and ("house.css", 5, True) not in colors


def test_boxes_of_margins_and_running_elements_are_found():
    css = "@page { @top-left { content: element(head) } } header { position: running(head) }"
    edition = composed("<header><b>Reedwater</b></header><p>x", css)
    assert edition.element_at(1, 24, 10).name in ("b", "header")


def test_the_page_area_lies_within_the_margins():
    page = composed("<p>x").pages[0]
    assert page.page_area == fq.Placement(1, 20, 20, 260, 260)
