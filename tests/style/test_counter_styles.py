"""Counter styles against the algorithms and tables of CSS Counter Styles 3."""

from __future__ import annotations

import pypdfium2 as pdfium
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fleetquill.style.counter_styles import CounterStyles
from fleetquill.style.predefined_counters import predefined
from fleetquill.style.sheet import parse_sheet


@pytest.mark.parametrize(
    ("value", "style", "expected"),
    [
        (1994, "upper-roman", "MCMXCIV"), (4, "lower-roman", "iv"), (0, "upper-roman", "0"), (4000, "lower-roman", "4000"),
        (1, "lower-alpha", "a"), (26, "upper-latin", "Z"), (27, "upper-alpha", "AA"), (703, "lower-alpha", "aaa"),
        (0, "lower-alpha", "0"), (-2, "upper-alpha", "-2"), (3, "lower-greek", "γ"), (24, "lower-greek", "ω"),
        (7, "decimal-leading-zero", "07"), (-7, "decimal-leading-zero", "-7"), (123, "decimal-leading-zero", "123"),
        (-7, "decimal", "-7"), (9, "disc", "•"), (-3, "square", "▪"), (9, "none", ""), (2, '"→', "→"),
        (10, "arabic-indic", "١٠"), (47, "devanagari", "४७"), (2048, "thai", "๒๐๔๘"), (305, "khmer", "៣០៥"),
        (12, "cjk-decimal", "一二"), (-1, "cjk-decimal", "-1"), (15, "hebrew", "טו"), (16, "hebrew", "טז"),
        (744, "hebrew", "תשמד"), (5001, "hebrew", "ה׳א"), (19_999, "georgian", "ჵჰშჟთ"), (20_000, "georgian", "20000"),
        (1996, "armenian", "ՌՋՂԶ"), (11, "lower-armenian", "ժա"), (2, "hiragana", "い"), (49, "katakana", "アア"),
        (3, "hiragana-iroha", "は"), (12, "cjk-earthly-branch", "亥"), (13, "cjk-earthly-branch", "13"),
        (1, "cjk-heavenly-stem", "甲"), (11, "japanese-informal", "十一"), (1234, "japanese-formal", "壱阡弐百参拾四"),
        (0, "japanese-informal", "〇"), (10_000, "japanese-informal", "一〇〇〇〇"), (-5, "japanese-formal", "マイナス伍"),
        (21, "korean-hangul-formal", "이십일"), (110, "korean-hanja-informal", "百十"), (300, "korean-hanja-formal", "參百"),
        (10, "simp-chinese-informal", "十"), (11, "simp-chinese-informal", "十一"), (101, "simp-chinese-informal", "一百零一"),
        (1001, "trad-chinese-formal", "壹仟零壹"), (1010, "trad-chinese-informal", "一千零一十"), (-8, "cjk-ideographic", "負八"),
        (100, "simp-chinese-formal", "壹佰"), (1, "ethiopic-numeric", "፩"), (100, "ethiopic-numeric", "፻"),
        (78_010_092, "ethiopic-numeric", "፸፰፻፩፼፺፪"), (780_100_000_092, "ethiopic-numeric", "፸፰፻፩፼፼፺፪"),
        (3, "nobody-knows", "3"), (4, "UPPER-Roman", "IV"),
    ],
)  # fmt: skip
def test_values_in_the_styles_that_every_document_knows(value, style, expected):
    assert CounterStyles({}).represent(value, style) == expected


def test_markers_stand_between_prefix_and_suffix():
    styles = own("@counter-style paren { system: extends decimal; prefix: '('; suffix: ')' }")
    names = ("decimal", "lower-roman", "square", "none", '"–', "cjk-decimal", "paren")
    assert [styles.marker(3, name) for name in names] == ["3.", "iii.", "▪", "", "–", "三、", "(3)"]


@given(st.sampled_from(sorted(predefined())), st.integers(-20_000, 2_000_000))
def test_every_style_writes_every_number_and_no_two_of_its_range_alike(name, value):
    styles = CounterStyles({})
    text = styles.represent(value, name)
    assert text
    if predefined()[name].system not in ("cyclic", "alphabetic"):
        assert text != styles.represent(value + 1, name)


def own(css: str) -> CounterStyles:
    sheet = parse_sheet(css)
    assert not sheet.faults, sheet.faults
    return CounterStyles({name: style for name, style, _ in sheet.counter_styles})


@pytest.mark.parametrize(
    ("body", "values"),
    [
        ("system: cyclic; symbols: A B C", {1: "A", 4: "A", 0: "C", -1: "B"}),
        ("system: fixed; symbols: A B", {1: "A", 2: "B", 3: "3", 0: "0"}),
        ("system: fixed 5; symbols: A B; fallback: lower-roman", {5: "A", 6: "B", 7: "vii", 4: "iv"}),
        ("symbols: '*' '+'", {1: "*", 2: "+", 3: "**", 4: "++", 0: "0"}),
        ("system: alphabetic; symbols: x y", {1: "x", 2: "y", 3: "xx", 5: "yx"}),
        ("system: numeric; symbols: a b c", {0: "a", 3: "ba", -4: "-bb"}),
        ("system: additive; additive-symbols: 10 X, 5 V, 1 I", {18: "XVIII", 0: "0"}),
        ("system: additive; additive-symbols: 6 S, 2 T", {8: "ST", 7: "7"}),
        ("system: extends decimal; negative: '(' ')'; pad: 4 '0'", {-7: "(07)", 7: "0007"}),
        ("system: extends lower-roman; range: 2 3, 5 infinite", {1: "1", 2: "ii", 4: "4", 9: "ix"}),
        ("system: numeric; symbols: '0' '1'; range: infinite 3; fallback: upper-alpha", {3: "11", 4: "D"}),
    ],
)
def test_systems_and_descriptors(body, values):
    styles = own(f"@counter-style mine {{ {body} }}")
    assert {value: styles.represent(value, "mine") for value in values} == values


def test_styles_that_extend_or_fall_back_in_a_circle_end_in_decimals():
    styles = own("@counter-style a { system: extends b } @counter-style b { system: extends a }")
    assert styles.represent(3, "a") == "3"
    styles = own(
        "@counter-style a { system: fixed; symbols: x; fallback: b } @counter-style b { system: fixed; symbols: y; fallback: a }"
    )
    assert (styles.represent(1, "a"), styles.represent(9, "a")) == ("x", "9")


@pytest.mark.parametrize(
    "rule",
    [
        "@counter-style none { symbols: a }", "@counter-style { symbols: a }", "@counter-style a { system: numeric; symbols: a }",
        "@counter-style a { system: additive; symbols: a }", "@counter-style a { system: extends decimal; symbols: a }",
        "@counter-style a { symbols: }", "@counter-style a { symbols: a; range: 3 1 }", "@counter-style a { symbols: a; pad: x }",
        "@counter-style a { system: additive; additive-symbols: 1 a, 5 b }", "@counter-style a { symbols: a; negative: a b c }",
        "@counter-style a { symbols: a; suffix: a b }", "@counter-style a { symbols: a; fallback: 'x' }", "@counter-style a b { symbols: a }",
    ],
)  # fmt: skip
def test_rules_that_cannot_be_used_are_faults(rule):
    sheet = parse_sheet(rule)
    assert len(sheet.faults) == 1 and not sheet.counter_styles and "counter" in sheet.faults[0].message


def texts(compose, html: str) -> str:
    """What a reader finds on the pages, margin boxes first."""
    pages = pdfium.PdfDocument(compose(html).to_bytes())
    return " ".join(" ".join(page.get_textpage().get_text_range() for page in pages).split())


def test_documents_use_their_styles_in_lists_counters_and_margin_boxes(compose):
    html = """<style>@counter-style stars { system: cyclic; symbols: "*" "+"; suffix: " " }
    @media screen { @counter-style stars { symbols: X } } body { counter-reset: n } ol { list-style: inside stars }
    p { counter-increment: n } p::before { content: counter(n, symbols(cyclic "q" "r")) counter(n, Upper-Roman) }
    @page { margin-top: 30px; @top-left { content: counter(page, lower-greek) } }</style>"""
    assert texts(compose, html + "<ol><li>a<li>b<li>c</ol><p>d<p>e") == "* a + b * c qId rIIe α"


def test_a_counter_style_that_is_not_there_is_a_remark(compose):
    edition = compose("<ul style='list-style-type: fancy'><li>a<li>b</ul>")
    assert [r.message for r in edition.remarks] == [
        "The counter style 'fancy' is not known; numbers are written as decimals."
    ]


@pytest.mark.parametrize(
    ("css", "marker"),
    [("none", ""), ("inside none", ""), ("none inside", ""), ("upper-alpha", "B."), ("inside upper-alpha", "B."), ("square none", "▪"),
     ("none square", "▪"), ("'>' inside", ">"), ("symbols('x' 'y') inside", "y")],
)  # fmt: skip
def test_the_list_style_shorthand(compose, css, marker):
    assert texts(compose, f'<ol start=2 style="list-style: {css}"><li>text</ol>') == f"{marker} text".strip()
