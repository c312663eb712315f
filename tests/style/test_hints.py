"""Attributes that say something about style (HTML §15), as the computed value of a property."""

import pytest

import fleetquill as fq
from fleetquill.style.hints import legacy_color

LEGACY = [
    ("red", "red"), ("#f00", "#f00"), ("ff0000", "#ff0000"), ("#FF0000", "#FF0000"), ("transparent", ""), ("", ""),
    ("f00", "#0f0000"), ("chucknorris", "#c00000"), ("#12345", "#123450"), ("xyz", "#000000"), (" blue ", "blue"),
]  # fmt: skip


@pytest.mark.parametrize(("said", "meant"), LEGACY, ids=[said or "nothing" for said, _ in LEGACY])
def test_a_legacy_colour(said, meant):
    assert legacy_color(said) == meant


CASES = [
    ("<p id=i align=center>x", "text_align", "center"), ("<div id=i align=middle>x", "text_align", "-fq-center"),
    ("<p id=i align=justify>x", "text_align", "justify"), ("<p id=i align=nonsense>x", "text_align", "start"),
    ("<table id=i border>", "border_top_width", 1.0), ("<table id=i border=0>", "border_top_width", 0.0),
    ("<table id=i border=5>", "border_left_width", 5.0), ("<table border=5><td id=i>x", "border_left_width", 1.0),
    ("<table cellpadding=7><td id=i>x", "padding_top", 7.0), ("<table cellpadding='1e9x'><td id=i>", "padding_top", 1.0),
    ("<table cellpadding=7><td><table><td id=i>x", "padding_top", 1.0), ("<table id=i cellspacing=3>", "border_spacing", (3.0, 3.0)),
    ("<table><td id=i nowrap>x", "white_space", "nowrap"), ("<table><tr valign=top><td id=i>x", "vertical_align", "top"),
    ("<table><th id=i>x", "text_align", "center"), ("<table style='text-align:right'><th id=i>x", "text_align", "right"),
    ("<table id=i align=right>", "float", "right"), ("<img id=i align=left>", "float", "left"),
    ("<img id=i hspace=4>", "margin_left", 4.0), ("<img id=i border=2>", "border_top_width", 2.0),
    ("<br id=i clear=all>", "clear", "both"), ("<hr id=i noshade>", "border_top_style", "solid"),
    ("<hr id=i width=50>", "width", 50.0), ("<hr id=i size=8>", "height", 6.0), ("<hr id=i size=1>", "border_bottom_width", 0.0),
    ("<font id=i size=7>x</font>", "font_size", 48.0), ("<font id=i size='+1'>x</font>", "font_size", 18.0),
    ("<font id=i size='-9'>x</font>", "font_size", 10.0), ("<font id=i face='A B, serif'>x</font>", "font_family", ("A B", "serif")),
    ("<ol id=i type=I>", "list_style_type", "upper-roman"), ("<ul id=i type=SQUARE>", "list_style_type", "square"),
    ("<div id=i width=50>x", "width", "auto"), ("<table id=i width='50%x'>", "width", (0.0, 0.5)), ("<table><td id=i width=0>", "width", "auto"),
    ("<div style='text-align:right'><p align=left id=i>x", "text_align", "left"),
    ("<p id=i align=right style='text-align:left'>x", "text_align", "left"),
    ("<style>p{text-align:left}</style><p id=i align=right>x", "text_align", "left"),
    ("<pre id=i>x", "font_size", 13.0), ("<pre><code id=i>x", "font_size", 13.0), ("<code id=i style='font-size:1em'>x", "font_size", 13.0),
    ("<code id=i style='font-family:monospace,serif'>x", "font_size", 16.0), ("<p style='font-size:20px'><code id=i>x", "font_size", 20.0),
    ("<small id=i>x", "font_size", 16 / 1.2),
    ("<ul id=i dir=rtl>", "padding_right", 40.0), ("<ul id=i style='padding:0'>", "padding_left", 0.0),
    ("<ul id=i style='padding-inline-start:9px'>", "padding_left", 9.0), ("<dl><dd><dl id=i>", "margin_top", 0.0),
]  # fmt: skip


@pytest.mark.parametrize(("html", "field", "wanted"), CASES, ids=[f"{html} {field}" for html, field, _ in CASES])
def test_an_attribute_gives_a_property_its_value(html, field, wanted, style_of):
    assert getattr(style_of(html), field) == (pytest.approx(wanted) if isinstance(wanted, float) else wanted)


@pytest.fixture
def style_of():
    """The computed style of the element '#i' of a document."""
    from fleetquill.layout.boxes import build

    def style(html):
        found = {}
        cascade_style = build.Cascade.style

        def noting(self, element, node, parent, siblings):
            computed = cascade_style(self, element, node, parent, siblings)
            if element.get("id") == "i":
                found["i"] = computed
            return computed

        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(build.Cascade, "style", noting)
            fq.compose(fq.Manuscript.from_html(f"<!DOCTYPE html>{html}"))
        return found["i"]

    return style
