"""What strangers and accidents give: it comes out, or is one of our own errors, soon, and nothing is lost silently."""

import io
import os
import random
import time

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image
from rich.cells import cell_len

import fleetquill as fq
from fleetquill.pdf.syntax import Parser

MOST_SECONDS = 10.0
NUMBERS = ["1e400", "-1e400", "1e-400", "nan", "9" * 5000, "-" + "9" * 400, "0", "-0", "²", "1e999999999"]


@pytest.fixture(scope="module")
def press():
    return fq.Press()


def comes_out(press, source, **more):
    """Composes and writes; our own errors are an answer, too."""
    start = time.process_time()
    try:
        edition = press.compose(source, **more)
        assert edition.to_bytes()
    except fq.FleetQuillError as error:
        assert str(error)
        edition = None
    assert time.process_time() - start < MOST_SECONDS
    return edition


def html(text):
    return fq.Manuscript.from_html(text)


DEEP = {
    "empty blocks": "<div>" * 300,
    "empty blocks with margins": "<div style='margin:5px 0'>" * 60,
    "tables": "<table><tr><td>" * 25 + "x",
    "lists": "<ul><li>" * 200 + "x",
    "inlines": "<b>" * 1500 + "x",
    "flex boxes": '<div style="display:flex">' * 40 + "x",
    "grids": '<div style="display:grid">' * 25 + "x",
    "inline blocks": '<span style="display:inline-block">' * 25 + "x",
    "floats": '<div style="float:left">' * 25 + "x",
    "columns": '<div style="columns:2">' * 10 + "x y",
    "tables in flex boxes": '<div style="display:flex"><table><tr><td>' * 10 + "x",
    "functions": f'<p style="width:{"calc(" * 1500}1px{")" * 1500}">x',
    "selectors": f"<style>{':not(' * 1200}a{')' * 1200}{{color:red}}</style>x",
    "conditions": f"<style>@media {'(' * 2000}print{')' * 2000}{{a{{}}}}</style>x",
    "rules": f"<style>{'a{' * 200}color:red{'}' * 200}</style>x",
    "groups of SVG": "<svg>" + "<g>" * 1500 + "</svg>",
    "filters in masks": "<svg><mask id=m mask='url(#m)'><rect mask='url(#m)' width=9 height=9 /></mask><rect mask='url(#m)' width=9 height=9 /></svg>",
}


@pytest.mark.parametrize("source", DEEP.values(), ids=DEEP)
def test_what_is_nested_deep_comes_out(press, source):
    comes_out(press, html(source))


def test_quotations_within_quotations_of_markdown(press):
    comes_out(press, fq.Manuscript.from_markdown(">" * 40 + " x"))


MUCH = {
    "siblings in selectors": "<style>a~b~c~d{color:red}</style>" + "<i></i>" * 1500,
    "descendants in selectors": "<style>a b c d e f{color:red}</style>" + "<div>" * 60 + "<i></i>" * 1000,
    "counted selectors": f"<style>{'p:nth-child(2n+1):nth-last-child(3n) ' * 6}{{color:red}}</style>" + "<p>x" * 800,
    "one long word": '<p style="overflow-wrap:anywhere">' + "x" * 40_000,
    "directions that alternate": "<p>" + "aא" * 8_000,
    "transforms of SVG": f'<svg><rect transform="{"rotate(1) " * 8_000}" width=5 height=5 /></svg>',
    "tracks": '<div style="display:grid;grid-template-columns:repeat(100000,1px)"><i>x</i></div>',
    "a far line": '<div style="display:grid"><i style="grid-column:1/1000000">x</i></div>',
    "tiles": '<p style="height:900px;background:linear-gradient(red,blue) 0 0/.01px .01px">x',
    "tiles of a pattern": "<svg><pattern id=p width=.001 height=.001 patternUnits=userSpaceOnUse><rect width=1 height=1 /></pattern>"
    '<rect width=200 height=100 fill="url(#p)" /></svg>',
    "stops": '<p style="height:90px;background:repeating-linear-gradient(red 0 .0001px,blue 0 .0002px)">x',
    "blur": '<p style="box-shadow:0 0 1e6px red;text-shadow:0 0 1e6px red">x',
    "dashes": '<svg><path d="M0 0H1e6" stroke=red stroke-dasharray=.0001 /></svg>',
    "floats": '<i style="float:left;width:3px;height:3px"></i>' * 1500,
}


@pytest.mark.parametrize("source", MUCH.values(), ids=MUCH)
def test_what_asks_for_much_comes_out(press, source):
    comes_out(press, html(source))


@pytest.mark.parametrize(
    "make", [
        lambda n: "<style>a~b~c{color:red}</style>" + "<i></i>" * (40 * n),
        lambda n: '<p style="overflow-wrap:anywhere">' + "x" * (1500 * n),
        lambda n: "<div>" * (25 * n),
        lambda n: "<p>word " * (60 * n),
    ], ids=["selectors", "a word", "empty blocks", "paragraphs"],
)  # fmt: skip
def test_twice_as_much_takes_not_much_more_than_twice_as_long(press, make):
    def seconds(n):
        found = []
        for _ in range(3):
            start = time.perf_counter()
            press.compose(html(make(n)))
            found.append(time.perf_counter() - start)
        return min(found)

    seconds(1)
    assert seconds(4) < 6.5 * seconds(2) + 0.05


PROPERTIES = (
    "font-size:{}px", "margin:{}em", "line-height:{}", "border:{}px solid", "width:{}%", "opacity:{}", "z-index:{}", "order:{}",
    "columns:{}", "column-width:{}px", "transform:scale({}) rotate({}deg) translate({}px)", "flex:{} {} {}px", "letter-spacing:{}px",
    "letter-spacing:calc(1px + {}%)", "text-indent:{}px", "grid-row:{}", "filter:blur({}px)", "clip-path:circle({}px)", "orphans:{}",
    "background:linear-gradient(red {}px,blue)", "border-radius:{}px", "box-shadow:{}px {}px {}px red", "tab-size:{}", "rotate:{}deg",
    "-webkit-text-stroke:{}px red", "counter-reset:a {}", "aspect-ratio:{}", "word-spacing:max({}px,20%)", "initial-letter:{}",
)  # fmt: skip


@pytest.mark.parametrize("number", NUMBERS, ids=[number[:12] for number in NUMBERS])
def test_numbers_of_css(press, number):
    for declaration in PROPERTIES:
        comes_out(press, html(f'<p style="{declaration.replace("{}", number)}">Heron <b>Teal</b>'))


@pytest.mark.parametrize("number", NUMBERS, ids=[number[:12] for number in NUMBERS])
def test_numbers_of_attributes_and_svg(press, number):
    comes_out(press, html(
        f"<ol start='{number}'><li value='{number}'>x</ol><table border='{number}' cellpadding='{number}'><td colspan='{number}' "
        f"rowspan='{number}' width='{number}'>x</table><font size='{number}'>y</font><hr size='{number}'><img width='{number}' height='{number}'>"
        f"<progress value='{number}' max='{number}'></progress><textarea rows='{number}' cols='{number}'></textarea>"
    ))  # fmt: skip
    comes_out(press, html(
        f'<svg width="{number}" height="{number}" viewBox="0 0 {number} {number}"><circle r="{number}" cx="{number}"/>'
        f'<path d="M{number} {number}L{number} 0A{number} {number} {number} 1 1 {number} {number}" transform="scale({number}) rotate({number})" '
        f'stroke-dasharray="{number}" stroke="red" stroke-width="{number}"/><text x="{number}" textLength="{number}" rotate="{number}">x</text>'
        f'<linearGradient id="g" x1="{number}"><stop offset="{number}"/><stop/></linearGradient><rect width="9" height="9" fill="url(#g)"/></svg>'
    ))  # fmt: skip
    chart = f'[{{"n":"a","v":{number if number.lstrip("-").replace("e", "").isdigit() else 1}}}]'
    comes_out(press, html(f"<fq-chart x=n y=v target='{number}' bins='{number}'>{chart}</fq-chart>"))
    comes_out(
        press, html(f'<fq-spark values="{number} 3"></fq-spark><fq-code kind=qr value="{number[:900]}"></fq-code>')
    )


ODD = {
    "breaks that are boxes": '<br style="position:absolute"><br style="float:left"><br style="display:table"><wbr style="position:fixed">x',
    "breaks as items": '<div style="display:flex">a<br>b<wbr>c</div><div style="display:grid"><br></div>',
    "digits that are none": '<p style="width:²px">x<table><td colspan="²">y</table><ol start="²"><li>z</ol>',
    "NUL and brackets in addresses": '<a href="\x00">x</a><img src="a\x00b"><a href="http://[::1">y</a><a href="%zz">z</a><img src="//[">',
    "control characters in notes": '<p>a<span style="float:footnote">\x01\x02\x0b\ufffe\ud800</span>',
    "lone surrogates": "<p>\ud800 a \udfff</p><title>\ud800</title>",
    "a drawing that shows itself": '<svg id=a><use href="#a"/><g id=b><use href="#b"/></g></svg>',
    "a shadow of no words": '<p style="text-shadow:1px 1px 2px"><a>\u05d0\u05d1 <i style="float:footnote"></i></a>',
    "names of namespaces": '<svg xmlns="x" xmlns:y="z" y:w="v"><y:rect/></svg><a:b xmlns:a="c">d</a:b>',
}


@pytest.mark.parametrize("source", ODD.values(), ids=ODD)
def test_odd_things_come_out(press, source):
    assert comes_out(press, html(source)) is not None


@pytest.mark.parametrize("display", ["flex", "inline-flex", "grid", "block"])
@pytest.mark.parametrize("style", ["", "float:left", "position:absolute", "display:block"])
def test_a_break_breaks_the_line_wherever_it_stands(press, display, style):
    edition = comes_out(press, html(f'<div style="display:{display}">No. 47<br style="{style}">2026</div>'))
    assert edition.pages[0].text == "No. 47\n2026"


def test_what_stands_on_every_page_goes_on_on_none(press):
    fixed = '<div style="position:fixed"><p style="height:150px"><p style="position:absolute;height:40px">note</div>'
    edition = comes_out(
        press, html(f"<style>@page{{size:300px 200px;margin:10px}}</style>{fixed}<p style='break-after:page'>a<p>b")
    )
    assert [page.text.count("note") for page in edition.pages] == [1, 1]


# ---- pictures, files and data ----


@pytest.mark.parametrize("share", [0.02, 0.3, 0.9])
@pytest.mark.parametrize("kind", ["PNG", "JPEG", "GIF", "WEBP", "TIFF", "BMP"])
def test_a_picture_that_was_cut_off_is_a_remark(press, tmp_path, kind, share):
    whole = io.BytesIO()
    Image.effect_noise((120, 80), 80).convert("RGB").save(whole, kind)
    (tmp_path / "cut.bin").write_bytes(whole.getvalue()[: int(len(whole.getvalue()) * share)])
    source = '<img src=cut.bin width=50 height=40><p style="background:url(cut.bin)">after'
    edition = comes_out(press, fq.Manuscript.from_html(source, base=tmp_path))
    assert "after" in edition.pages[0].text
    assert any("is not shown" in remark.message for remark in edition.remarks)


@settings(max_examples=30, derandomize=True, deadline=None, suppress_health_check=list(HealthCheck))
@given(kind=st.sampled_from(["PNG", "JPEG", "GIF", "WEBP", "TIFF", "BMP"]), seed=st.integers(0, 10_000))
def test_a_damaged_picture_never_crashes(press, kind, seed):
    import base64

    chance = random.Random(seed)
    whole = io.BytesIO()
    Image.effect_noise((24, 18), 80).convert("RGB").save(whole, kind)
    content = bytearray(whole.getvalue())
    for _ in range(chance.randint(1, 12)):
        content[chance.randrange(len(content))] = chance.randrange(256)
    address = "data:image/x;base64," + base64.b64encode(bytes(content)).decode()
    comes_out(press, html(f'<img src="{address}"><p style="background:url({address})">x'))


MANY = 4_000
LONG_LINES = {
    "shares": "<p>" + "<span style='padding:0 1%'>a</span> " * MANY,
    "shares over pages": "<p style='line-height:90px'>" + "<span style='padding:0 20%'>a</span> " * MANY,
    "sides from the right": "<p style='direction:rtl;white-space:nowrap;overflow:hidden'>" + "<b>a</b> " * MANY,
    "boxes in boxes from the right": "<p style='direction:rtl;white-space:nowrap;overflow:hidden'>" + ("<b>" * 60 + "a" + "</b>" * 60) * 100,
    "without spaces": "<p>" + "กา" * 10 * MANY,
}  # fmt: skip


@pytest.mark.parametrize("source", LONG_LINES.values(), ids=LONG_LINES)
def test_long_lines_come_out(press, source):
    assert comes_out(press, html(source)) is not None


@pytest.mark.parametrize("word", ["é", "a\u0301", "กา", "漢"])
def test_words_without_end_are_lines_of_plain_text(press, word):
    start, stream = time.process_time(), io.BytesIO()
    press.write(html("<p>" + word * 60_000), stream, kind="txt", wide=40)
    assert time.process_time() - start < MOST_SECONDS
    lines = stream.getvalue().decode().split()
    assert "".join(lines) == word * 60_000 and max(map(cell_len, lines)) == 40


@pytest.mark.parametrize(
    "content",
    [b"1" * 60_000 + b"x ", b"+" * 60_000 + b"x ", b"1" + b" " * 60_000 + b"2 x ", b"1." + b"2" * 60_000 + b"x "],
)
def test_numbers_of_content_streams_that_are_none(content):
    start = time.process_time()
    assert [operator.name[-1] for operator in Parser(content).operators()] == ["x"]
    assert time.process_time() - start < MOST_SECONDS / 10


def test_a_pipe_is_no_file(press, tmp_path):
    os.mkfifo(tmp_path / "pipe")
    edition = comes_out(press, fq.Manuscript.from_html("<link rel=stylesheet href=pipe><img src=pipe>x", base=tmp_path))
    assert any("a pipe or a device" in remark.message for remark in edition.remarks)


@pytest.mark.parametrize("charset", ["idna", "undefined", "punycode", "unicode_escape", "rot13", "base64", "nothing"])
def test_charsets_that_no_page_is_written_in(press, tmp_path, charset):
    (tmp_path / "page.html").write_text(f"<meta charset={charset}><p>caf\u00e9", encoding="utf-8")
    assert comes_out(press, tmp_path / "page.html").pages[0].text == "caf\u00e9"


@pytest.mark.parametrize(
    ("name", "content", "said"),
    [
        ("a.json", '{"a":' + "[" * 20_000 + "]" * 20_000 + "}", "nested too deep"),
        ("a.yaml", "a: " + "[" * 9_000 + "]" * 9_000, "nested too deep"),
        ("a.toml", "a = " + "[" * 5_000 + "]" * 5_000, "nested too deep"),
        ("a.yaml", "a: &a [x,x,x,x,x,x,x,x,x]\n" + "".join(f"{c}: &{c} [*{p},*{p},*{p},*{p},*{p},*{p},*{p},*{p},*{p}]\n"
                                                           for p, c in zip("abcdefgh", "bcdefghi", strict=True)), "too often by aliases"),
        ("a.jsonl", '{"a":1}\n{"a":' + "9" * 5_000 + "}", "line 2|:2|longer than any"),
        ("a.csv", 'a,b\n1,"x\n', ""),
    ],
    ids=["json", "yaml", "toml", "aliases", "digits", "csv"],
)  # fmt: skip
def test_data_that_is_odd_is_an_error_or_data(press, tmp_path, name, content, said):
    (tmp_path / name).write_text(content)
    (tmp_path / "t.html").write_text("<p>x")
    if not said:
        comes_out(press, tmp_path / "t.html", data=tmp_path / name)
        return
    with pytest.raises(fq.DataError, match=said):
        press.compose(tmp_path / "t.html", data=tmp_path / name)


def test_long_fields_of_csv_are_data(press, tmp_path):
    (tmp_path / "a.csv").write_text("a,b\n1," + "x" * 300_000 + "\n")
    (tmp_path / "t.html").write_text("<p>{{ rows[0].b | length }}")
    assert press.compose(tmp_path / "t.html", data=tmp_path / "a.csv").pages[0].text == "300000"


@pytest.mark.parametrize(
    ("source", "said"),
    [(None, "type 'NoneType'"), (b"<p>x", "content.decode"), (3, "type 'int'"), ("a" * 5000 + ".html", "longer than any"),
     ("\x00", "has a NUL"), (["a"], "type 'list'")],
    ids=["None", "bytes", "int", "a long name", "NUL", "list"],
)  # fmt: skip
def test_what_is_no_source_is_an_error_that_says_what_is(press, source, said):
    with pytest.raises(fq.FleetQuillError) as raised:
        press.compose(source)
    assert said in str(raised.value)


# ---- made up ----

TAGS = "div p span b table tr td ul li svg g rect path text use br img h1 a fieldset legend details select input ruby rt math mi".split()
STYLES = (
    "display:flex", "display:grid", "display:table", "display:inline-block", "display:none", "display:contents", "float:left",
    "position:absolute", "position:relative", "position:fixed", "columns:2", "overflow:hidden", "writing-mode:vertical-rl",
    "opacity:.5", "filter:blur(1px)", "mask-image:linear-gradient(red,transparent)", "clip-path:circle()", "transform:rotate(9deg)",
    "break-before:page", "break-inside:avoid", "height:40px", "width:1000px", "margin:-20px", "padding:9px", "border:3px dashed",
    "border-radius:9px", "line-clamp:2", "background:conic-gradient(red,blue)", "background-clip:text", "float:footnote",
    "float:top", "-fq-fit:shrink", "direction:rtl", "white-space:pre", "text-emphasis:dot", "box-decoration-break:clone",
    "initial-letter:2", "mix-blend-mode:multiply", "outline:2px solid", "text-shadow:1px 1px 2px", "border-image:linear-gradient(red,blue) 1",
)  # fmt: skip


@st.composite
def documents(draw):
    def element(depth):
        tag = draw(st.sampled_from(TAGS))
        style = ";".join(draw(st.lists(st.sampled_from(STYLES), max_size=3)))
        inner = "".join(element(depth + 1) for _ in range(draw(st.integers(0, 2)))) if depth < 4 else ""
        text = draw(st.sampled_from(["", "Heron ", "אב ", "word word word ", "\u00ad\u200b"]))
        return f'<{tag} style="{style}" id=i{draw(st.integers(0, 3))} href="#i1">{text}{inner}</{tag}>'

    return "".join(element(0) for _ in range(draw(st.integers(1, 3))))


@settings(max_examples=300, derandomize=True, deadline=None, suppress_health_check=list(HealthCheck))
@given(source=documents())
def test_whatever_is_put_together_comes_out(press, source):
    comes_out(press, html("<style>@page{size:300px 200px;margin:10px}</style>" + source))
