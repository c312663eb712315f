"""Documents as they flow: plain text, Markdown and word-processor files, all from the same source."""

import io
import re
import zipfile
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree
from markdown_it import MarkdownIt
from PIL import Image
from rich.cells import cell_len

import fleetquill as fq
from fleetquill.output.txt.columns import Measure, shared_widths

W = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"
R = "{http://schemas.openxmlformats.org/officeDocument/2006/relationships}"
HTML = """
<html lang="en"><head><title>Spring report</title><meta name="author" content="R. Marsh">
<style>@page { size: A5; margin: 20mm; @bottom-right { content: "Page " counter(page) " of " counter(pages) }
  @top-left { content: string(part) } } @page :first { @top-left { content: none } }
  h1 { string-set: part content(); color: #0f4c4a; font-size: 20pt } .gone { display: none }
  table { border-collapse: collapse } td, th { border: 1px solid #333; padding: 2px 6px } .n { text-align: right }
</style></head><body>
<h1 id="top">Tolls &amp; locks</h1>
<p>The <b>Heron</b> went   <i>down</i> to <a href="https://reedwater.example/saltgate">Saltgate</a>,
H<sub>2</sub>O, <s>never</s><fq-note>As the <b>keeper</b> wrote.</fq-note>.<br>A second line.</p>
<p class="gone">Nobody sees this.</p>
<ul><li>barley<ul><li>brewers</li></ul></li><li>clay</li></ul>
<ol start="3" type="a"><li>first</li><li>second</li></ol>
<pre>  kept
     as it is</pre>
<blockquote><p>Said the keeper.</p></blockquote>
<table><caption>Boats</caption><thead><tr><th>Lock</th><th class="n">Boats</th></tr></thead>
<tr><td rowspan="2">Upper Willow</td><td class="n">1,204</td></tr><tr><td class="n">7</td></tr>
<tr><td colspan="2">both directions</td></tr></table>
<hr><h2>After the line</h2><p>See <a href="#top">the start</a>.</p>
</body></html>
"""


def written(source, kind, **options):
    stream = io.BytesIO()
    summary = fq.write(source, stream, kind=kind, **options)
    return stream.getvalue(), summary


def text_of(source, kind="txt", **options) -> str:
    return written(source, kind, **options)[0].decode()


def page(html: str) -> fq.Manuscript:
    return fq.Manuscript.from_html(html)


# ---- plain text ----


def test_plain_text_has_every_kind_of_part():
    assert text_of(page(HTML), wide=40) == "\n".join([
        "Tolls & locks",
        "=============",
        "",
        "The Heron went down to Saltgate",
        "<https://reedwater.example/saltgate>,",
        "H2O, never[1].",
        "A second line.",
        "",
        "• barley",
        "  ◦ brewers",
        "• clay",
        "",
        "c. first",
        "d. second",
        "",
        "  kept",
        "     as it is",
        "",
        "    Said the keeper.",
        "",
        "Boats",
        "    Lock      Boats",
        "------------  -----",
        "Upper Willow  1,204",
        "                  7",
        "both directions",
        "",
        "-" * 40,
        "",
        "After the line",
        "--------------",
        "",
        "See the start.",
        "",
        "--------------------",
        "1 As the keeper wrote.",
        "",
    ])  # fmt: skip


@pytest.mark.parametrize("wide", [20, 33, 60, 120])
def test_no_line_of_plain_text_is_wider_than_was_asked(wide):
    m = page(HTML + "<p>" + "Lorem Schifffahrtsgesellschaftskapitän 日本語 " * 9)
    assert all(cell_len(line) <= wide or line.startswith("     as") for line in text_of(m, wide=wide).split("\n"))


def test_what_stands_side_by_side_stands_so_in_text_too():
    m = fq.Manuscript()
    with m.row():
        with m.box():
            m.paragraph("Marrow & Finch Grain")
        with m.box():
            m.paragraph("Invoice F-2041")
    assert text_of(m, wide=60).rstrip() == "Marrow & Finch Grain          Invoice F-2041"


def test_forced_breaks_are_form_feeds_on_request():
    m = page("<p>one<p style='break-before:page'>two")
    assert text_of(m, form_feeds=True) == "one\n\f\ntwo\n"
    assert "\f" not in text_of(m)


@pytest.mark.parametrize("group", ["", "barge"])
def test_a_ledger_in_text_has_its_sums(group):
    rows = ({"barge": b, "toll": Decimal(n)} for b, n in (("Heron", 5), ("Heron", 7), ("Teal", 1)))
    m = fq.Manuscript()
    m.ledger(rows, [fq.Column("barge"), fq.Column("toll", form="money:EUR", total="sum")], group=group)
    lines = text_of(m).split("\n")
    assert [line.split() for line in lines if line.startswith("Total")] == [["Total", "€13.00"]]
    assert [line.split() for line in lines if "€12.00" in line] == ([["Heron", "€12.00"]] if group else [])


@given(st.lists(st.tuples(st.integers(1, 30), st.integers(0, 60)), min_size=1, max_size=9), st.integers(10, 200))
def test_columns_share_the_room(measures, room):
    measures = [Measure(1 + least // 2, least, least + more) for least, more in measures]
    widths = shared_widths(measures, room)
    assert all(width >= one.figure for width, one in zip(widths, measures, strict=True))
    floors = [max(one.figure, min(one.least, 6)) for one in measures]
    assert sum(widths) <= max(room, sum(floors))
    if sum(one.least for one in measures) <= room:
        assert all(one.least <= width <= one.most for width, one in zip(widths, measures, strict=True))
        assert sum(widths) == min(room, sum(one.most for one in measures))


@pytest.mark.parametrize("wide", [30, 44, 80])
def test_numbers_in_plain_text_are_never_broken_however_narrow_it_is(wide):
    rows = [{"cargo": "Reed bundles from Upper Willow", **{f"month{n}": Decimal("12345.67") for n in range(6)}}]
    m = fq.Manuscript()
    columns = ["cargo", *(fq.Column(f"month{n}", head="Thousandths", form="#,##0.00") for n in range(6))]
    m.ledger(rows, columns)
    stream = io.BytesIO()
    remarks = fq.write(m, stream, kind="txt", wide=wide).remarks
    text = stream.getvalue().decode()
    assert text.count("12,345.67") == 6
    words = set("".join(text.split()))
    assert set("Reedbundles") <= words
    assert bool(remarks) == (max(map(len, text.splitlines())) > wide)


# ---- Markdown ----


def test_markdown_reads_back_as_the_same_parts():
    text = text_of(page(HTML), "md")
    assert "# Tolls & locks\n" in text
    assert "The **Heron** went *down* to [Saltgate](https://reedwater.example/saltgate)," in text
    assert "H<sub>2</sub>O, ~~never~~[^1].\\\nA second line." in text
    assert "- barley\n    - brewers\n- clay\n" in text
    assert "```\n  kept\n     as it is\n```" in text
    assert "| Lock | Boats |\n| --- | ---: |\n| Upper Willow | 1,204 |\n|  | 7 |\n| both directions |  |" in text
    assert "[^1]: As the **keeper** wrote." in text
    html = MarkdownIt("gfm-like", {"linkify": False}).render(text)
    assert "<li>brewers</li>" in html and "<td>Upper Willow</td>" in html and "<h2>After the line</h2>" in html


@given(st.text(alphabet="ab*_`[]<>|#-+1.\\~ ", min_size=1, max_size=24))
def test_markdown_keeps_what_looks_like_marks(text):
    wanted = " ".join(text.split())
    found = MarkdownIt().render(text_of(page(f"<p>{text.replace('&', '&amp;').replace('<', '&lt;')}</p>"), "md"))
    shown = etree.HTML(f"<div>{found}</div>")
    got = " ".join("".join(shown.itertext()).split()) if shown is not None else ""
    assert got == wanted


# ---- word-processor files ----


class Docx:
    """What an independent reader finds in a file: its parts as trees."""

    def __init__(self, source, **options):
        content, self.summary = written(source, "docx", **options)
        self.zip = zipfile.ZipFile(io.BytesIO(content))
        assert self.zip.testzip() is None
        self.names = self.zip.namelist()
        self.body = self.part("word/document.xml")[0]

    def part(self, name):
        return etree.fromstring(self.zip.read(name))

    @property
    def paragraphs(self):
        """The style and the text of each paragraph that says anything, in order."""
        found = []
        for paragraph in self.body.iter(f"{W}p"):
            text = "".join({f"{W}t": e.text, f"{W}br": "\n", f"{W}tab": "\t"}.get(e.tag) or "" for e in paragraph.iter()
                           if e.getparent().tag == f"{W}r")  # fmt: skip
            style = paragraph.find(f"{W}pPr/{W}pStyle")
            if text:
                found.append((style.get(f"{W}val") if style is not None else "", text))
        return found

    def styles(self):
        return {
            style.get(f"{W}styleId"): style.find(f"{W}name").get(f"{W}val")
            for style in self.part("word/styles.xml").iter(f"{W}style")
        }


def test_a_word_processor_file_has_real_headings_lists_tables_and_notes():
    docx = Docx(page(HTML))
    assert docx.paragraphs == [
        ("Heading1", "Tolls & locks"),
        ("BodyText", "The Heron went down to Saltgate, H2O, never.\nA second line."),
        ("ListParagraph", "barley"),
        ("ListParagraph", "brewers"),
        ("ListParagraph", "clay"),
        ("ListParagraph", "first"),
        ("ListParagraph", "second"),
        ("HTMLPreformatted", "  kept\n     as it is"),
        ("BodyText", "Said the keeper."),
        ("Caption", "Boats"),
        ("TableHead", "Lock"),
        ("TableHead", "Boats"),
        ("TableText", "Upper Willow"),
        ("TableText", "1,204"),
        ("TableText", "7"),
        ("TableText", "both directions"),
        ("Heading2", "After the line"),
        ("BodyText", "See the start."),
    ]
    assert docx.styles()["Heading1"] == "heading 1"
    levels = [
        (e.find(f"{W}ilvl").get(f"{W}val"), e.find(f"{W}numId").get(f"{W}val")) for e in docx.body.iter(f"{W}numPr")
    ]
    assert levels == [("0", "1"), ("1", "2"), ("0", "1"), ("0", "3"), ("0", "3")]
    numbering = docx.part("word/numbering.xml")
    starts = [e.get(f"{W}val") for e in numbering.iter(f"{W}startOverride")]
    kinds = [e.get(f"{W}val") for e in numbering.iter(f"{W}numFmt")]
    assert (starts, kinds) == (["3"], ["bullet", "bullet", "lowerLetter"])
    (note,) = [e for e in docx.part("word/footnotes.xml") if e.get(f"{W}id") == "1"]
    assert "".join(note.itertext()).strip() == "As the keeper wrote."


def test_a_table_keeps_its_head_spans_and_lines():
    docx = Docx(page(HTML))
    (table,) = docx.body.iter(f"{W}tbl")
    rows = table.findall(f"{W}tr")
    assert rows[0].find(f"{W}trPr/{W}tblHeader") is not None
    assert [e.get(f"{W}val") for e in table.iter(f"{W}vMerge")] == ["restart", None]
    assert [e.get(f"{W}val") for e in rows[-1].iter(f"{W}gridSpan")] == ["2"]
    widths = [int(e.get(f"{W}w")) for e in table.iter(f"{W}gridCol")]
    assert len(widths) == 2 and widths[0] > widths[1] > 300
    assert {e.get(f"{W}val") for e in rows[1].findall(f".//{W}tcBorders/{W}top")} == {"single"}
    assert [e.get(f"{W}val") for e in rows[1].iter(f"{W}jc")] == ["right"]


@pytest.mark.parametrize(
    "nothing", ["background: none", "background: transparent", "border: 0 solid", "border: 2px none"]
)
def test_a_box_of_which_nothing_is_seen_is_no_frame(nothing):
    box = "<div style='{}; padding: 9px; margin: 9px'><p>Weighed.<table><tr><td>5 t</table></div>"
    bare, same, seen = (
        etree.tostring(Docx(page(box.format(style))).body)
        for style in ("color: red", f"color: red; {nothing}", "color: red; background: #ffe")
    )
    assert bare == same != seen


def test_pages_heads_and_feet_are_those_of_the_page_rules():
    docx = Docx(page(HTML))
    section = docx.body.find(f"{W}sectPr")
    size, margins = section.find(f"{W}pgSz"), section.find(f"{W}pgMar")
    assert (size.get(f"{W}w"), size.get(f"{W}h"), margins.get(f"{W}left")) == ("8391", "11906", "1134")
    assert section.find(f"{W}titlePg") is not None
    parts = {docx.part(name).tag.removeprefix(W): name for name in docx.names if re.match("word/(head|foot)er", name)}
    foot = docx.part(parts["ftr"])
    assert "".join(foot.itertext()) == "Page 1 of 1"
    assert [e.get(f"{W}instr").strip() for e in foot.iter(f"{W}fldSimple")] == ["PAGE", "NUMPAGES"]
    heads = ["".join(docx.part(name).itertext()) for name in docx.names if "word/header" in name]
    assert sorted(heads) == ["", "Tolls & locks"]


def test_links_lead_out_and_to_places():
    docx = Docx(page(HTML))
    inner, outer = docx.body.findall(f".//{W}hyperlink[@{W}anchor]"), docx.body.findall(f".//{W}hyperlink[@{R}id]")
    assert [e.get(f"{W}anchor") for e in inner] == ["top"]
    assert [e.get(f"{W}name") for e in docx.body.iter(f"{W}bookmarkStart")] == ["top"]
    targets = {e.get("Id"): e.get("Target") for e in docx.part("word/_rels/document.xml.rels")}
    assert [targets[e.get(f"{R}id")] for e in outer] == ["https://reedwater.example/saltgate"]


def test_every_part_is_declared_and_every_relationship_leads_somewhere():
    docx = Docx(page(HTML))
    types = docx.part("[Content_Types].xml")
    declared = {e.get("PartName", "").lstrip("/") for e in types} | {e.get("Extension") for e in types}
    assert all(name in declared or name.rpartition(".")[2] in declared for name in docx.names)
    for name in (name for name in docx.names if name.endswith(".rels")):
        folder = name.replace("_rels/", "").rpartition("/")[0]
        for relationship in docx.part(name):
            if relationship.get("TargetMode") != "External":
                assert f"{folder}/{relationship.get('Target')}".lstrip("/") in docx.names
    core = docx.part("docProps/core.xml")
    assert [e.text for e in core][:2] == ["Spring report", "R. Marsh"]


def test_pictures_and_drawings_go_along(tmp_path):
    Image.new("RGB", (40, 20), "#0f4c4a").save(tmp_path / "barge.png")
    html = "<p><img src=barge.png alt='A barge' width=80><svg width=30 height=30><circle cx=15 cy=15 r=9 /></svg>"
    docx = Docx(fq.Manuscript.from_html(html, base=tmp_path))
    kinds = sorted(name.rpartition(".")[2] for name in docx.names if "media" in name)
    assert kinds == ["png", "png", "svg"]
    extents = [
        (int(e.get("cx")) // 9525, int(e.get("cy")) // 9525) for e in docx.body.iter() if e.tag.endswith("}extent")
    ]
    assert extents == [(80, 40), (30, 30)]
    assert [e.get("descr") for e in docx.body.iter() if e.tag.endswith("}docPr")][0] == "A barge"
    svg = next(docx.zip.read(name) for name in docx.names if name.endswith(".svg"))
    assert etree.fromstring(svg).tag.endswith("svg")


def test_named_pages_and_columns_are_sections():
    html = """<style>@page wide { size: A4 landscape } .w { page: wide } .c { columns: 2 }</style>
    <p>before</p><div class=w><p>wide</p></div><p>after</p><div class=c><p>in two</p></div><p>end</p>"""
    docx = Docx(page(html))
    sections = list(docx.body.iter(f"{W}sectPr"))
    assert [s.find(f"{W}pgSz").get(f"{W}orient") for s in sections] == [None, "landscape", None, None, None]
    assert [(s.find(f"{W}cols").get(f"{W}num") if s.find(f"{W}cols") is not None else None) for s in sections] == [
        None, None, None, "2", None,
    ]  # fmt: skip
    assert [s.find(f"{W}type").get(f"{W}val") for s in sections] == [
        "nextPage", "nextPage", "nextPage", "continuous", "continuous",
    ]  # fmt: skip
    assert [text for _, text in docx.paragraphs] == ["before", "wide", "after", "in two", "end"]


def test_contents_are_a_field_with_their_pages_kept():
    m = fq.Manuscript()
    m.contents()
    m.page_break()
    m.heading("One")
    m.page_break()
    m.heading("Two")
    docx = Docx(m)
    asked = [e.text.strip() for e in docx.body.iter(f"{W}instrText")]
    assert asked == ['TOC \\o "1-2" \\h \\z \\u']
    kinds = [e.get(f"{W}fldCharType") for e in docx.body.iter(f"{W}fldChar")]
    assert kinds == ["begin", "separate", "end"]
    assert [text for style, text in docx.paragraphs if style == "TOC1"] == ["One\t2", "Two\t3"]


def test_text_from_right_to_left_says_so():
    docx = Docx(page("<html lang=ar dir=rtl><p>وصلت السفينة Heron</p>"))
    (paragraph,) = [p for p in docx.body.iter(f"{W}p") if "".join(p.itertext())]
    normal = next(s for s in docx.part("word/styles.xml").iter(f"{W}style") if s.get(f"{W}default"))
    bidi = normal.find(f"{W}pPr/{W}bidi")
    assert bidi is not None and bidi.get(f"{W}val") != "0"
    assert paragraph.find(f"{W}r/{W}rPr/{W}rtl") is not None


def test_what_a_package_cannot_hold_is_mended():
    deep = "<ul><li>x" * 12
    html = f"""<p id=a>one<p id=a>two<p><a href="https://reedwater.example/a b?ü">spaced</a> <a href="http://[">odd</a>
    <p lang="no language" style="font-family:{"A very long name of a face that nobody has"}">x</p>{deep}"""
    docx = Docx(page(html))
    assert [e.get(f"{W}name") for e in docx.body.iter(f"{W}bookmarkStart")] == ["a"]
    targets = [e.get("Target") for e in docx.part("word/_rels/document.xml.rels") if e.get("TargetMode")]
    assert targets == ["https://reedwater.example/a%20b?%C3%BC"]
    assert max(int(e.get(f"{W}val")) for e in docx.body.iter(f"{W}ilvl")) == 8
    assert all(len(e.get(f"{W}ascii")) <= 31 for e in docx.body.iter(f"{W}rFonts"))
    assert all(" " not in e.get(f"{W}val", "") for e in docx.body.iter(f"{W}lang"))
    assert any("leads nowhere" in remark.message for remark in docx.summary.remarks)


def test_what_a_word_processor_has_no_word_for_is_a_remark_once():
    ground = "<div style='background:linear-gradient(red,gold)'><p>x</div>"
    remarks = Docx(page(ground + ground)).summary.remarks
    assert [(remark.kind, "gradients" in remark.message) for remark in remarks] == [("kind", True)]
    plain = "<div style='background: #eee; padding: 5px'><p>One</p><p>Two</p></div>"
    assert not Docx(page(plain + plain)).summary.remarks


def test_a_long_ledger_goes_out_row_by_row():
    m = fq.Manuscript()
    m.ledger(((n, f"lock {n % 5}") for n in range(3000)), [fq.Column("n"), fq.Column("lock")])
    docx = Docx(m)
    rows = docx.body.findall(f".//{W}tr")
    assert len(rows) == 3001
    assert "".join(rows[-1].itertext()) == "2999lock 4"


@pytest.mark.parametrize(
    ("text", "lines"),
    [
        ("ใบกำกับภาษีฉบับนี้ออกโดยบริษัท", ["ใบกำกับภาษีฉบับนี้ออกโดย", "บริษัท"]),
        ("請求書は月末までにお支払いください。", ["請求書は月末までにお", "支払いください。"]),
        ("Toll ใบกำกับภาษีฉบับนี้ออกโดย", ["Toll ใบกำกับภาษีฉบับนี้", "ออกโดย"]),
        ("a\u0301" * 30, ["a\u0301" * 20, "a\u0301" * 10]),
        ("Zoë pays the naïve well-known toll", ["Zoë pays the naïve", "well-known toll"]),
    ],
)
def test_lines_of_text_end_where_its_script_lets_them(text, lines):
    assert text_of(page(f"<p>{text}"), wide=20).split("\n")[: len(lines)] == lines


@pytest.mark.parametrize("kind", ["docx", "txt", "md"])
def test_the_same_source_gives_the_same_bytes(kind):
    assert written(page(HTML), kind)[0] == written(page(HTML), kind)[0]


WORDS = st.lists(st.text(alphabet="abcdefgh", min_size=3, max_size=8), min_size=1, max_size=4).map(" ".join)
PARTS = st.recursive(
    WORDS.map(lambda words: f"<p>{words}</p>"),
    lambda inner: st.one_of(
        st.lists(inner, min_size=1, max_size=3).map("".join).map(lambda html: f"<div>{html}</div>"),
        st.lists(inner, min_size=1, max_size=3).map(lambda parts: f"<ul><li>{'<li>'.join(parts)}</ul>"),
        st.lists(inner, min_size=1, max_size=3).map(lambda parts: f"<table><tr><td>{'<td>'.join(parts)}</table>"),
        st.lists(inner, min_size=1, max_size=3).map(
            lambda parts: f"<div style='display:flex'><div>{'</div><div>'.join(parts)}</div></div>"
        ),
        inner.map(lambda html: f"<blockquote style='border-left:2px solid'>{html}</blockquote>"),
        inner.map(lambda html: f"<div style='columns:2'>{html}</div>"),
    ),
    max_leaves=8,
)


@pytest.mark.parametrize("kind", ["docx", "txt", "md"])
@given(html=PARTS)
def test_every_word_is_there_once_and_in_order(kind, html):
    wanted = re.findall("[a-h]{3,}", " ".join(etree.HTML(html).itertext()))
    if kind == "docx":
        found = re.findall("[a-h]{3,}", " ".join(Docx(page(html)).body.itertext()))
    else:
        found = re.findall("[a-h]{3,}", text_of(page(html), kind, **({"wide": 1000} if kind == "txt" else {})))
    if kind == "txt":  # what stands side by side is read across
        wanted, found = sorted(wanted), sorted(found)
    assert found == wanted
