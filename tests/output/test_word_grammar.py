"""Word-processor files keep what the standard's schemas say of their parts, as far as our files use it.

Sequences are those of ISO/IEC 29500-4 (transitional), annex A. An element that is not named, one out of its order, one
that lacks an attribute, or a value of no such type is what makes a reader ask whether it should repair a file.
"""

import io
import re
import zipfile

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree

import fleetquill as fq
from fleetquill.demo.documents import HERE, statement

W = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"

BLOCKS = "p tbl bookmarkStart bookmarkEnd"
SEQUENCES = {
    "pPr": "pStyle keepNext keepLines pageBreakBefore framePr widowControl numPr suppressLineNumbers pBdr shd tabs "
    "suppressAutoHyphens kinsoku wordWrap overflowPunct bidi snapToGrid spacing ind contextualSpacing jc "
    "textDirection textAlignment outlineLvl rPr sectPr",
    "rPr": "rStyle rFonts b bCs i iCs caps smallCaps strike dstrike outline shadow noProof vanish color spacing w kern "
    "position sz szCs highlight u effect bdr shd vertAlign rtl cs em lang",
    "tblPr": "tblStyle tblpPr tblOverlap bidiVisual tblStyleRowBandSize tblStyleColBandSize tblW jc tblCellSpacing "
    "tblInd tblBorders shd tblLayout tblCellMar tblLook tblCaption tblDescription",
    "tcPr": "cnfStyle tcW gridSpan hMerge vMerge tcBorders shd noWrap tcMar textDirection tcFitText vAlign hideMark",
    "pBdr": "top left bottom right between bar",
    "tcBorders": "top start left bottom end right insideH insideV tl2br tr2bl",
    "tblBorders": "top start left bottom end right insideH insideV",
    "tcMar": "top start left bottom end right",
    "tblCellMar": "top start left bottom end right",
    "numPr": "ilvl numId",
    "sectPr": "headerReference|footerReference footnotePr type pgSz pgMar paperSrc pgBorders lnNumType pgNumType cols "
    "formProt vAlign noEndnote titlePg textDirection bidi rtlGutter docGrid",
    "abstractNum": "nsid multiLevelType tmpl name styleLink numStyleLink lvl",
    "lvl": "start numFmt lvlRestart pStyle isLgl suff lvlText lvlPicBulletId lvlJc pPr rPr",
    "num": "abstractNumId lvlOverride",
    "lvlOverride": "startOverride lvl",
    "numbering": "numPicBullet abstractNum num",
    "style": "name aliases basedOn next link autoRedefine hidden uiPriority semiHidden unhideWhenUsed qFormat locked "
    "pPr rPr tblPr trPr tcPr tblStylePr",
    "styles": "docDefaults latentStyles style",
    "docDefaults": "rPrDefault pPrDefault",
    "tbl": "bookmarkStart|bookmarkEnd tblPr tblGrid tr",
    "tr": "tblPrEx trPr tc",
    "settings": "view zoom removePersonalInformation embedTrueTypeFonts saveSubsetFonts mirrorMargins "
    "alignBordersAndEdges proofState defaultTabStop autoHyphenation hyphenationZone evenAndOddHeaders "
    "characterSpacingControl updateFields footnotePr endnotePr compat themeFontLang clrSchemeMapping "
    "decimalSymbol listSeparator",
}
CHOICES = {  # elements that may stand in any order
    "body": f"{BLOCKS} sectPr",
    "hdr": BLOCKS,
    "ftr": BLOCKS,
    "footnote": BLOCKS,
    "tc": f"tcPr {BLOCKS}",
    "p": "pPr r hyperlink bookmarkStart bookmarkEnd fldSimple",
    "hyperlink": "r bookmarkStart bookmarkEnd fldSimple",
    "fldSimple": "r",
    "r": "rPr t tab br drawing fldChar instrText footnoteReference footnoteRef separator continuationSeparator sym",
    "trPr": "cantSplit tblHeader trHeight jc hidden gridBefore gridAfter wBefore wAfter",
    "tabs": "tab",
}
NEEDED = {  # attributes that have to be there, and what they may be
    "bookmarkStart": {"id": r"\d+", "name": r".{1,40}"},
    "bookmarkEnd": {"id": r"\d+"},
    "gridCol": {"w": r"\d+"},
    "gridSpan": {"val": r"[1-9]\d*"},
    "ilvl": {"val": "[0-8]"},
    "lvl": {"ilvl": "[0-8]"},
    "jc": {"val": "start|end|left|right|center|both|distribute"},
    "pStyle": {"val": ".+"},
    "outlineLvl": {"val": "[0-9]"},
    "sz": {"val": r"[1-9]\d{0,3}"},
    "color": {"val": "auto|[0-9A-F]{6}"},
    "pgSz": {"w": r"[1-9]\d{0,4}", "h": r"[1-9]\d{0,4}"},
    "pgMar": dict.fromkeys(("top", "right", "bottom", "left", "header", "footer", "gutter"), r"-?\d+"),
    "fldChar": {"fldCharType": "begin|separate|end"},
    "footnoteReference": {"id": r"\d+"},
    "tcW": {"w": r"\d+", "type": "dxa|auto|pct|nil"},
    "trHeight": {"val": r"\d+"},
}


def name_of(element) -> str:
    return element.tag.removeprefix(W)


def faults_of(root) -> list[str]:
    """What of a part is not as the standard has it."""
    return [fault for element in root.iter(f"{W}*") for fault in _element(element)] + _ids(root)


def _element(element):
    name = name_of(element)
    inner = [name_of(child) for child in element if isinstance(child.tag, str)]
    if name in SEQUENCES:
        order = {one: at for at, group in enumerate(SEQUENCES[name].split()) for one in group.split("|")}
        strange = [child for child in inner if child not in order]
        places = [order[child] for child in inner if child in order]
        if strange or places != sorted(places):
            yield f"<{name}> has {' '.join(inner)}"
        once = {
            "pPr",
            "rPr",
            "tblPr",
            "tcPr",
            "pBdr",
            "tcBorders",
            "tblBorders",
            "tcMar",
            "tblCellMar",
            "numPr",
            "style",
        }
        if name in once and len(set(inner)) < len(inner):
            yield f"<{name}> has one element twice: {' '.join(inner)}"
    elif name in CHOICES:
        strange = [child for child in inner if child not in CHOICES[name].split()]
        if strange:
            yield f"<{name}> has <{strange[0]}> in it"
    properties = {"p": "pPr", "r": "rPr", "tc": "tcPr"}.get(name)
    if properties in inner and inner.index(properties):
        yield f"<{properties}> does not come first in <{name}>"
    if name == "footnote" and name_of(element.getparent()) == "footnotePr":
        return  # the settings name separators so
    if name in ("tc", "hdr", "ftr", "footnote") and (not inner or inner[-1] != "p"):
        yield f"<{name}> does not end with a paragraph"
    if name == "tbl" and "tr" not in inner:
        yield "a table has no rows"
    if name == "body" and (inner[-1] != "sectPr" or inner.count("sectPr") > 1):
        yield "<body> does not end with its one section"
    for attribute, form in NEEDED.get(name, {}).items():
        value = element.get(f"{W}{attribute}")
        if element.getparent() is not None and name_of(element.getparent()) == "tabs":
            continue
        if value is None or not re.fullmatch(form, value):
            yield f"<{name}> has {attribute}={value!r}"
    if name == "tr":
        yield from _row(element)


def _row(row):
    """The cells of a row take as many columns as the table's grid has."""
    spans = [cell.find(f"{W}tcPr/{W}gridSpan") for cell in row.findall(f"{W}tc")]
    taken = sum(1 if span is None else int(span.get(f"{W}val")) for span in spans)
    beyond = [row.find(f"{W}trPr/{W}{name}") for name in ("gridBefore", "gridAfter")]
    taken += sum(int(one.get(f"{W}val")) for one in beyond if one is not None)
    columns = len(row.getparent().findall(f"{W}tblGrid/{W}gridCol"))
    if taken != columns:
        yield f"a row takes {taken} of {columns} columns"


def _ids(root) -> list[str]:
    faults = []
    starts = [mark.get(f"{W}id") for mark in root.iter(f"{W}bookmarkStart")]
    ends = [mark.get(f"{W}id") for mark in root.iter(f"{W}bookmarkEnd")]
    names = [mark.get(f"{W}name") for mark in root.iter(f"{W}bookmarkStart")]
    if sorted(starts) != sorted(ends) or len(set(starts)) < len(starts):
        faults.append("bookmarks do not end as they start")
    if len(set(names)) < len(names):
        faults.append("two bookmarks have one name")
    drawn = [mark.get("id") for mark in root.iter() if isinstance(mark.tag, str) and mark.tag.endswith("}docPr")]
    if len(set(drawn)) < len(drawn):
        faults.append("two drawings have one number")
    open_fields = 0
    for field in root.iter(f"{W}fldChar"):
        open_fields += {"begin": 1, "end": -1}.get(field.get(f"{W}fldCharType"), 0)
    if open_fields:
        faults.append("a field does not end")
    return faults


# ---- the files ----

WORDS = st.sampled_from(
    ["Saltgate", "the <i>Heron</i>", "see <a href='#x'>it</a>", "<a href='http://[::1'>x</a>", "", "<br>"]
)
PARTS = st.recursive(
    st.one_of(
        WORDS.map(lambda words: f"<p id=x>{words}</p>"),
        WORDS.map(lambda words: f"<h3>{words}</h3>"),
        WORDS.map(lambda words: f"{words}<fq-note>{words}</fq-note>"),
        st.sampled_from(["<hr>", "<svg width=9 height=9><rect width=5 height=5 /></svg>", "<pre> a\n  b</pre>"]),
    ),
    lambda inner: st.one_of(
        st.lists(inner, max_size=3).map(lambda parts: f"<ul><li>{'<li>'.join(parts)}</ul>"),
        st.tuples(st.integers(-3, 9), st.sampled_from("1aI"), inner).map(
            lambda of: "<ol start={} type={}><li>{}</ol>".format(*of)
        ),
        inner.map(lambda html: f"<div style='display:flex'><div>{html}</div><div>{html}</div></div>"),
        inner.map(lambda html: f"<div style='columns:2'>{html}</div>"),
        inner.map(lambda html: f"<div class=wide>{html}</div>"),
        inner.map(lambda html: f"<blockquote style='border-left:2px solid;float:left'>{html}</blockquote>"),
        inner.map(lambda html: f"<p dir=rtl lang=he style='margin:-9px;text-indent:-40px;font-size:.1px'>{html}</p>"),
        st.lists(
            st.lists(st.tuples(st.sampled_from("dh"), st.integers(0, 3), st.integers(0, 4), inner), max_size=4),
            max_size=4,
        ).map(
            lambda rows: "<table>{}</table>".format(
                "".join(f"<tr>{''.join('<t{} colspan={} rowspan={}>{}'.format(*cell) for cell in row)}" for row in rows)
            )
        ),
    ),
    max_leaves=10,
)


def faults_in(source) -> dict[str, list[str]]:
    """For each part of a file what is wrong with it."""
    stream = io.BytesIO()
    fq.write(source, stream, kind="docx")
    package = zipfile.ZipFile(stream)
    parts = [name for name in package.namelist() if name.startswith("word/") and name.endswith(".xml")]
    found = {name: faults_of(etree.fromstring(package.read(name))) for name in parts}
    return {name: faults for name, faults in found.items() if faults}


def test_the_statement_keeps_the_grammar():
    assert faults_in(statement(HERE)) == {}


@pytest.mark.parametrize("size", ["A5", "A4 landscape", "3in 200in", "20px 30px"])
@settings(deadline=None)
@given(html=st.lists(PARTS, max_size=4).map("".join))
def test_any_document_keeps_the_grammar(size, html):
    rules = f"<style>@page {{ size: {size} }} .wide {{ page: wide }} @page wide {{ size: A4; margin: 0 }}</style>"
    assert faults_in(fq.Manuscript.from_html(rules + html)) == {}


@pytest.mark.parametrize(
    ("body", "said"),
    [
        ("<w:p><w:r/><w:pPr/></w:p><w:sectPr/>", "<pPr> does not come first in <p>"),
        ("<w:p><w:pPr><w:jc w:val='start'/><w:ind/></w:pPr></w:p><w:sectPr/>", "<pPr> has jc ind"),
        ("<w:p><w:pPr><w:jc w:val='middle'/></w:pPr></w:p><w:sectPr/>", "<jc> has val='middle'"),
        ("<w:p><w:bookmarkStart w:id='1' w:name='a'/></w:p><w:sectPr/>", "bookmarks do not end as they start"),
        ("<w:tbl><w:tblPr/><w:tblGrid/></w:tbl><w:sectPr/>", "a table has no rows"),
        (
            "<w:tbl><w:tblPr/><w:tblGrid/><w:tr><w:tc><w:p/></w:tc></w:tr></w:tbl><w:sectPr/>",
            "a row takes 1 of 0 columns",
        ),
        ("<w:p><w:r><w:fldChar w:fldCharType='begin'/></w:r></w:p><w:sectPr/>", "a field does not end"),
        ("<w:p/>", "<body> does not end with its one section"),
        ("<w:q/><w:sectPr/>", "<body> has <q> in it"),
    ],
)
def test_the_grammar_is_heard(body, said):
    root = etree.fromstring(f'<w:document xmlns:w="{W[1:-1]}"><w:body>{body}</w:body></w:document>')
    assert faults_of(root) == [said]
