"""Style: selectors, the cascade, values and what is not understood, through the public interface."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import html as lxml_html

import fleetquill as fq
from fleetquill.style.cascade import AUTHOR, Cascade
from fleetquill.style.media import Medium
from fleetquill.style.selectors import SelectorError, Siblings, parse_selectors
from fleetquill.style.sheet import parse_sheet

DOCUMENT = lxml_html.document_fromstring(
    "<body><div id=a class='x y' lang=de-AT><p class=one>1</p><p title='A b' data-n=5>2</p><p class='one two'>3</p>"
    "<ul><li>a<li class=z>b<li>c<li>d</ul></div><div id=b><p></p><a href=#>l</a><span>s</span></div></body>"
)


def matched(selector: str) -> list[str]:
    import tinycss2

    selectors = parse_selectors(tinycss2.parse_component_value_list(selector))
    siblings = Siblings()
    keep = list(DOCUMENT.iter())
    return [e.text or e.tag for e in keep if any(s.matches(e, siblings) for s in selectors)]


@pytest.mark.parametrize(
    ("selector", "found"),
    [
        ("p.one", ["1", "3"]), ("p.one.two", ["3"]), ("#a > p", ["1", "2", "3"]), ("div ul li.z", ["b"]),
        ("li + li", ["b", "c", "d"]), ("li.z ~ li", ["c", "d"]), ("li:first-child", ["a"]), ("li:last-child", ["d"]),
        ("li:nth-child(2n+1)", ["a", "c"]), ("li:nth-child(even)", ["b", "d"]), ("li:nth-last-child(2)", ["c"]),
        ("li:nth-child(-n+2)", ["a", "b"]), ("p:nth-child(1 of .two)", ["3"]), ("p:first-of-type", ["1", "p"]),
        ("p:not(.one)", ["2", "p"]), ("p:is(.one, [title])", ["1", "2", "3"]), (":where(li).z", ["b"]),
        ("div:has(> ul) > p", ["1", "2", "3"]), ("p:has(+ ul)", ["3"]), ("[title]", ["2"]), ("[title='A b']", ["2"]),
        ("[title='a B' i]", ["2"]), ("[title~=b]", ["2"]), ("[class^=one]", ["1", "3"]), ("[class$=two]", ["3"]),
        ("[class*=ne]", ["1", "3"]), ("li:lang(de)", ["a", "b", "c", "d"]), ("p:empty", ["p"]), ("a:any-link", ["l"]),
        (":is()", []), ("p:where(.two, :nothing, >)", ["3"]), ("p:is(.two, p::before)", ["3"]), ("li:not(:is())", ["a", "b", "c", "d"]),
        ("div:has(body p)", []), ("div:has(> ul li.z) > p", ["1", "2", "3"]), ("div:has(> li)", []), ("ul:has(> li.z + li)", ["ul"]),
        ("ul:has(> ul li)", []), ("p:has(~ ul li.z)", ["1", "2", "3"]), ("p:has(+ ul > .z)", ["3"]),
        ("li:hover", []), ("span:only-of-type", ["s"]), ("*:root > body", ["body"]), ("li, span", ["a", "b", "c", "d", "s"]),
    ],
)  # fmt: skip
def test_selectors(selector, found):
    assert matched(selector) == found


@pytest.mark.parametrize(
    "selector",
    [
        "",
        "p >",
        "> p",
        "p::nothing",
        ":nothing",
        ".",
        "p:nth-child(x)",
        "[=a]",
        "p::before a",
        ",",
        ":not()",
        ":not(p::before)",
        ":has()",
        ":has(p::before)",
    ],
)
def test_wrong_selectors_are_errors(selector):
    with pytest.raises(SelectorError):
        matched(selector)


SPECIFICITIES = [  # Selectors 4 §17
    ('*', (0, 0, 0)), ('p', (0, 0, 1)), ('.a', (0, 1, 0)), ('#a', (1, 0, 0)), ('p.a', (0, 1, 1)),
    ('p.a.b', (0, 2, 1)), ('[x]', (0, 1, 0)), ('p[x="y"]', (0, 1, 1)), (':first-child', (0, 1, 0)),
    (':nth-child(2)', (0, 1, 0)), (':nth-child(2 of .a, #b)', (1, 1, 0)), (':nth-last-child(odd of p)', (0, 1, 1)),
    (':nth-of-type(2n)', (0, 1, 0)), ('::before', (0, 0, 1)), ('p::first-line', (0, 0, 2)),
    (':not(.a, #b)', (1, 0, 0)), (':is(p, .a)', (0, 1, 0)), (':where(#a) p', (0, 0, 1)), (':has(> .a)', (0, 1, 0)),
    ('p > .a + #b ~ i', (1, 1, 2)), (':root', (0, 1, 0)), (':empty', (0, 1, 0)), ('a:link', (0, 1, 1)),
    (':lang(en)', (0, 1, 0)), (':hover', (0, 1, 0)), ('p::after', (0, 0, 2)), ('li::marker', (0, 0, 2)),
    (':only-child', (0, 1, 0)), (':checked', (0, 1, 0)),
]  # fmt: skip


@pytest.mark.parametrize(("selector", "weight"), SPECIFICITIES, ids=[selector for selector, _ in SPECIFICITIES])
def test_the_specificity_of(selector, weight):
    import tinycss2

    assert parse_selectors(tinycss2.parse_component_value_list(selector))[0].specificity == weight


def computed(css: str, body: str = "<p id=t class=c>x</p>", inline: str = ""):
    """The computed style of #t."""
    root = lxml_html.document_fromstring(f"<body>{body}</body>")
    target = root.get_element_by_id("t")
    if inline:
        target.set("style", inline)
    cascade = Cascade([(AUTHOR, parse_sheet(css))], Medium(600.0, 800.0))
    siblings = Siblings()
    chain = [*reversed(list(target.iterancestors())), target]
    node = style = None
    for element in chain:
        node = cascade.node(node, element)
        style = cascade.style(element, node, style, siblings)
    return style


@pytest.mark.parametrize(
    ("css", "inline", "size"),
    [
        ("p{font-size:1px} p{font-size:2px}", "", 2), ("#t{font-size:1px} p.c{font-size:2px}", "", 1),
        ("p{font-size:1px !important} #t{font-size:2px}", "", 1), ("#t{font-size:1px}", "font-size:3px", 3),
        ("#t{font-size:1px!important}", "font-size:3px", 1), ("body{font-size:40px} p{font-size:50%}", "", 20),
        ("body{font-size:10px} p{font-size:2em}", "", 20), ("html{font-size:12px} p{font-size:1.5rem}", "", 18),
        ("p{font-size:larger}", "", 19.2), ("p{font-size:x-large}", "", 24), ("p{font-size:5vw}", "", 30),
        ("p{font-size:calc(2 * (3px + 1pt) - 10% / 4)}", "", 2 * (3 + 4 / 3) - 0.4),
        ("p{font-size:max(10px, 2em, 5vh)}", "", 40), ("p{--s:7px;font-size:var(--s)}", "", 7),
        ("body{--s:9px} p{font-size:var(--s, 1px)}", "", 9), ("p{font-size:var(--none, 11px)}", "", 11),
        ("p{--a:var(--b);--b:var(--a);font-size:var(--a, 5px)}", "", 5), ("body{font-size:30px} p{font-size:var(--none)}", "", 30),
        ("body{font-size:30px} p{font-size:initial}", "", 16), ("@media print{p{font-size:4px}}", "", 4),
        ("@media screen{p{font-size:4px}}", "", 16), ("@media (min-width:500px) and (orientation:portrait){p{font-size:4px}}", "", 4),
        ("@media not print{p{font-size:4px}}", "", 16), ("p{font:italic 700 12pt/1.5 'A B', serif}", "", 16),
        ("p{font-size:1e9px}", "", 1e5), ("body{font-size:9e4px} p{font-size:larger}", "", 1e5), ("body{font-size:9e4px} p{font-size:9em}", "", 1e5),
    ],
)  # fmt: skip
def test_the_cascade_and_lengths(css, inline, size):
    assert computed(css, inline=inline).font_size == pytest.approx(size)


ORDER = [  # Cascade 5 §6: which of two wins
    ("@layer a{p{font-size:1px}} p{font-size:2px}", 2), ("p{font-size:2px} @layer a{p{font-size:1px}}", 2),
    ("@layer a,b; @layer b{p{font-size:1px}} @layer a{p{font-size:2px}}", 1), ("@layer a{#t{font-size:1px}} @layer b{p{font-size:2px}}", 2),
    ("@layer a{p{font-size:1px!important}} p{font-size:2px!important}", 1),
    ("@layer a,b; @layer b{p{font-size:1px!important}} @layer a{p{font-size:2px!important}}", 2),
    ("@layer a{p{font-size:3px}} @layer b{p{font-size:revert-layer}}", 3), ("@layer a{@layer b{p{font-size:1px}} p{font-size:2px}}", 2),
    ("@layer a.b{p{font-size:1px}} @layer a{p{font-size:2px}}", 2), ("@layer a{p{font-size:1px}} @layer{p{font-size:2px}}", 2),
    ("body{font-size:30px} p{font-size:5px} #t{font-size:inherit}", 30), ("body{font-size:30px} p{font-size:unset}", 30),
    ("body{font-size:30px} p{font-size:5px} #t{font-size:revert}", 30), ("p{font-size:4px;font-size:nonsense}", 4),
    ("p:nth-child(1){font-size:1px} p.c{font-size:2px}", 2), (".c:nth-child(1){font-size:1px} p.c{font-size:2px}", 1),
    ("@supports (display:grid){p{font-size:4px}}", 4), ("@supports not (display:grid){p{font-size:4px}}", 16),
    ("@supports (display:none) and (nothing:1){p{font-size:4px}}", 16), ("@supports (nothing:1) or (color:red){p{font-size:4px}}", 4),
    ("body{p{font-size:4px}}", 4), ("body{& p{font-size:4px}}", 4), (".c{&#t{font-size:4px}} #t{font-size:5px}", 4),
    ("p{font-size:1px} *{font-size:2px}", 1), (":where(#t){font-size:2px} p{font-size:1px}", 1), (":is(#t){font-size:2px} p.c{font-size:1px}", 2),
]  # fmt: skip


@pytest.mark.parametrize(("css", "size"), ORDER, ids=[css for css, _ in ORDER])
def test_of_several_declarations_this_one_counts(css, size):
    assert computed(css).font_size == size


def test_shorthands_set_all_their_longhands():
    style = computed(
        "p{font:italic 700 12pt/1.5 'A B', serif;margin:1px 2px 3px;border:2px dashed red;border-radius:3px / 4px;flex:2}"
    )
    assert (style.font_style, style.font_weight, style.font_family, style.line_height.value) == (
        "italic",
        700,
        ("A B", "serif"),
        1.5,
    )
    assert (style.margin_top, style.margin_right, style.margin_bottom, style.margin_left) == (1, 2, 3, 2)
    assert (style.border_left_width, style.border_left_style, style.border_left_color[:3]) == (2, "dashed", (1, 0, 0))
    assert style.border_top_left_radius == (3, 4)
    assert (style.flex_grow, style.flex_shrink, style.flex_basis) == (2, 1, 0)


def test_inheritance_and_css_wide_keywords():
    style = computed(
        "body{color:red;margin-top:9px} p{margin-top:inherit;color:unset;padding-top:4px;padding-top:initial}"
    )
    assert (style.color[:3], style.margin_top, style.padding_top) == ((1, 0, 0), 9, 0)


def test_like_elements_share_their_style():
    css = "p{color:red} .c{margin:2px}"
    root = lxml_html.document_fromstring("<body><p class=c>1<p class=c>2<p>3</body>")
    cascade = Cascade([(AUTHOR, parse_sheet(css))], Medium(600.0, 800.0))
    siblings = Siblings()
    body_node = cascade.node(cascade.node(None, root), root.find("body"))
    styles = [cascade.style(p, cascade.node(body_node, p), None, siblings) for p in root.iter("p")]
    assert styles[0] is styles[1] is not styles[2]


@pytest.mark.parametrize(
    ("css", "message", "line", "column"),
    [
        ("p {\n  colr: red }", "The property 'colr' is not known. Did you mean 'color'?", 2, 3),
        ("p { color: reddish }", "The value 'reddish' is not understood for the property 'color'.", 1, 5),
        ("\n\n@nothing { }", "The rule '@nothing' is not known.", 3, 1),
        (
            "p::nothing { color: red }",
            "The selector 'p::nothing' is not understood: the pseudo-element '::nothing' is not known.",
            1,
            1,
        ),
        (
            "@page { @top-centre { content: 'x' } }",
            "The page has no margin box '@top-centre'. Did you mean 'top-center'?",
            1,
            9,
        ),
        ("@page :odd { margin: 0 }", "The page selector ':odd' is not understood.", 1, 1),
        (
            "@font-face { font-family: X }",
            "An '@font-face' needs a 'font-family' and a 'src' with a url() or a local().",
            1,
            1,
        ),
    ],
)
def test_what_is_not_understood_is_said_with_its_place(css, message, line, column):
    (fault,) = parse_sheet(css).faults
    assert fault == (message, line, column)


def test_properties_of_the_screen_are_passed_over():
    assert parse_sheet("p { cursor: pointer; transition: all 1s } @charset 'utf-8';").faults == []


def test_faults_in_a_template_name_the_template_s_lines(tmp_path):
    (tmp_path / "t.html").write_text(
        "{% for n in [1, 2, 3] %}\n<p>{{ n }}\n{% endfor %}\n<style>\np { colr: red }\n</style>"
    )
    (remark,) = fq.compose(tmp_path / "t.html", data={}).remarks
    assert (remark.line, remark.source) == (5, str(tmp_path / "t.html"))


def test_linked_and_imported_sheets_are_used_and_missing_ones_remarked(compose, px, tmp_path):
    (tmp_path / "css").mkdir()
    (tmp_path / "css" / "a.css").write_text("@import 'b.css'; @import url(gone.css) print; p { width: 100px }")
    (tmp_path / "css" / "b.css").write_text("@import 'a.css'; p { height: 70px; width: 1px }")
    edition = compose("<link rel=stylesheet href=css/a.css><link rel=stylesheet href=none.css><p id=a>x")
    assert px(edition, "#a")[0].rect[2:] == (100, 70)
    kinds = {(r.kind, r.message.split("'")[1]) for r in edition.remarks if "'" in r.message}
    assert ("style", "gone.css") in kinds and ("style", "none.css") in kinds


@settings(max_examples=80, deadline=None)
@given(st.text(alphabet="ab{}:;()[]'\"@#.,!/*\\ 1%-\n>+~", max_size=60))
def test_any_text_is_a_style_sheet_without_an_exception(css):
    parse_sheet(css)


def test_page_rules_by_first_left_right_and_nth(compose):
    edition = compose(
        "<style>@page{size:100px 100px;margin:10px}@page:first{size:200px 100px}@page:left{margin-left:30px}"
        "@page:nth(3){size:100px 300px}</style>" + "<p style='break-after:page'>x" * 3 + "<p>x",
        plain=False,
    )
    assert [(round(p.width / 0.75), round(p.height / 0.75)) for p in edition.pages] == [
        (200, 100),
        (100, 100),
        (100, 300),
        (100, 100),
    ]


@pytest.mark.parametrize(
    ("size", "expected"),
    [
        ("A4", (595.3, 841.9)),
        ("A5 landscape", (595.3, 419.5)),
        ("letter", (612, 792)),
        ("100mm", (283.5, 283.5)),
        ("4in 6in", (288, 432)),
        ("landscape", (841.9, 595.3)),
    ],
)
def test_page_sizes(compose, size, expected):
    page = compose(f"<style>@page{{size:{size}}}</style>x", plain=False).pages[0]
    assert (page.width, page.height) == pytest.approx(expected, abs=0.1)


def test_the_sixteen_margin_boxes_stand_around_the_page_area(compose, read_pdf):
    names = [f"{a}-{b}" for a in ("top", "bottom") for b in ("left-corner", "left", "center", "right", "right-corner")]
    names += [f"{a}-{b}" for a in ("left", "right") for b in ("top", "middle", "bottom")]
    boxes = "".join(f"@{name} {{ content: '{name.upper()}'; font-size: 6px }}" for name in names)
    edition = compose(f"<style>@page {{ size: 600px 400px; margin: 90px; {boxes} }}</style><p>x", plain=False)
    assert edition.remarks == ()
    found = "".join(read_pdf(edition.to_bytes())[0].split())
    assert sorted(found) == sorted("x" + "".join(name.upper() for name in names))


@pytest.mark.parametrize(
    ("css", "width"),
    [
        ("@layer a, b; @layer b {p{width:1px}} @layer a {#a{width:2px}}", 1),
        ("@layer a {#a{width:2px}} p{width:3px}", 3),
        ("@layer a {p{width:4px !important}} @layer b {p{width:5px !important}} p{width:6px !important}", 4),
        ("@layer a.b {p{width:7px}} @layer a {p{width:8px}}", 8),
        ("@supports (display:grid) {p{width:9px}}", 9),
        ("p{width:1px} @supports not (display:grid) {p{width:2px}}", 1),
        ("@supports (display:grid) and (foo:bar) {p{width:2px}} @supports (foo:bar) or (color:red) {p{width:3px}}", 3),
        ("@supports selector(p > a) {p{width:4px}}", 4),
        ("body{& p{width:5px} width:300px}", 5),
        ("body{p{width:6px;&#a{width:7px}}}", 7),
        (".x, p{@media print{width:8px} &.y{width:1px}}", 8),
        ("p{width:9px} html{body > &{width:1px}}", 9),
        ("p{width:1px} #a{all:unset;display:block;width:12px}", 12),
        ("p{width:11px} #a{width:1px;width:revert-layer}", 400),
    ],
)
def test_layers_conditions_and_nesting(compose, px, css, width):
    edition = compose(f"<style>{css}</style><p id=a>x")
    assert px(edition, "#a")[0].width == width
    assert all(r.kind == "overflow" for r in edition.remarks)


def test_imports_keep_their_layer_and_conditions(compose, px, tmp_path):
    (tmp_path / "a.css").write_text("p{width:50px}")
    for rule, width in [("layer(x)", 70), ("print", 70), ("screen", 70), ("supports(foo:bar)", 70)]:
        edition = compose(f"<style>@import url(a.css) {rule}; p{{width:70px}}</style><p id=a>x")
        assert px(edition, "#a")[0].width == width
    assert px(compose("<style>@import 'a.css' screen;</style><p id=a>x"), "#a")[0].width == 400


def test_addresses_in_a_sheet_are_relative_to_the_sheet(compose, tmp_path):
    from PIL import Image

    (tmp_path / "css").mkdir()
    Image.new("RGB", (4, 4), "red").save(tmp_path / "css" / "r.png")
    (tmp_path / "css" / "a.css").write_text("p{background:url(r.png)} i{background:url('gone.png')}")
    remarks = compose("<link rel=stylesheet href=css/a.css><p>x<i>y</i>").remarks
    assert len(remarks) == 1 and "gone.png" in remarks[0].message


@pytest.mark.parametrize(
    "declaration",
    ["background:url(a.png) 0 0 / cover no-repeat fixed, linear-gradient(red, blue) #fff", "grid-area:1 / span 2 / b",
     "grid:auto-flow dense 10px / 1fr 2fr", "grid:'a b' 10px 'a c' / 1fr 2fr", "columns:2 10em", "inset:0 auto", "outline:1px dashed red",
     "transform:translate(50%,1em) rotate(.25turn) skewX(5deg) scale(2) matrix(1,0,0,1,0,0)", "aspect-ratio:auto 16 / 9",
     "background-position:right 10px bottom 20%", "border-inline:1px solid", "place-items:center stretch", "string-set:a content() ' x', b 'y'",
     "box-shadow:inset 0 0 3px red, 1px 1px", "margin-block:1px 2px", "overflow-x:hidden", "mask-type:none"],
)  # fmt: skip
def test_declarations_are_understood(compose, declaration):
    remarks = [
        r.message
        for r in compose(f'<div><p style="{declaration}">x</div>').remarks
        if "not known" in r.message or "understood" in r.message
    ]
    assert bool(remarks) == declaration.startswith("mask")


def test_currentcolor_stays_a_word_until_it_is_used():
    style = computed(
        "div{color:red;border:1px solid;column-rule:1px solid} p{color:blue;border:inherit;outline:1px solid invert;"
        "background:currentcolor;text-decoration:underline;box-shadow:1px 1px}",
        "<div><p id=t>x</p></div>",
    )
    blue = (0.0, 0.0, 1.0, 1.0)
    used = (style.border_top_color, style.outline_color, style.background_color, style.text_decoration_color)
    assert [tuple(color) for color in (*used, style.used_color(style.box_shadow[0].color))] == [blue] * 5
    assert tuple(style.parent.column_rule_color) == (1.0, 0.0, 0.0, 1.0)
