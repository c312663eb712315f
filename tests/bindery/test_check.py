"""Files that conform are found to; each clause notices what breaks it."""

import io
import subprocess

import pytest

import fleetquill as fq

RICH = """<html lang="en"><title>Freight &amp; tolls</title><style>p.note { opacity: .5 }</style>
<h1>Freight</h1><p>Carried by <a href="https://reedwater.example">the cooperative</a>; see <a href="#tolls">tolls</a>.</p>
<h2 id="tolls">Tolls</h2><ul><li>barley<li>brick</ul><p class="note">pale</p>
<table><thead><tr><th>Lock<th>Toll</thead><tr><td>Stonecross<td>12.50<tr><td colspan="2">none</table>
<p>One<span style="float: footnote">A note.</span></p><fq-code kind="qr" value="F-2041"></fq-code>
<svg width="20" height="20" aria-label="A dot"><circle cx="9" cy="9" r="8" fill="url(#g)"/>
<linearGradient id="g"><stop stop-color="red" stop-opacity=".3"/><stop offset="1" stop-color="blue"/></linearGradient></svg>"""
STANDARDS = [
    ("PDF/A-2b",), ("PDF/A-2u",), ("PDF/A-2a",), ("PDF/A-3a",), ("PDF/A-3b",), ("PDF/A-3u",), ("PDF/A-4",),
    ("PDF/A-4f",), ("PDF/UA-1",), ("PDF/UA-2",), ("PDF/A-2a", "PDF/UA-1"), ("PDF/A-3a", "PDF/UA-1"),
    ("PDF/A-4f", "PDF/UA-2"),
]  # fmt: skip


def made(html=RICH, conform=("PDF/A-3a", "PDF/UA-1"), **options):
    manuscript = html if isinstance(html, fq.Manuscript) else fq.Manuscript.from_html(html, source="a.html")
    stream = io.BytesIO()
    fq.write(manuscript, stream, kind="pdf", conform=conform, **options)
    return stream.getvalue()


@pytest.mark.parametrize("names", STANDARDS, ids=" ".join)
def test_files_conform_to_what_they_were_asked_to(names, check_pdf):
    content = made(conform=names)
    report = fq.check(content)
    assert report.standards == names
    assert report.faults == ()
    assert report.conforms
    assert len(report.findings) > 20
    check_pdf(content)


@pytest.mark.parametrize("names", STANDARDS, ids=" ".join)
def test_ledgers_and_long_documents_conform(names):
    manuscript = fq.Manuscript(title="Log", language="en")
    manuscript.heading("Log")
    manuscript.ledger([{"n": n, "what": f"w {n}" * (n % 4)} for n in range(90)], [fq.Column("n", total="sum"), "what"])
    assert fq.check(made(manuscript, names)).faults == ()


def numbers_of_faults(content, names):
    """The clauses that a file does not keep, by their numbers."""
    report = fq.check(content, names)
    numbers = {finding.number for finding in report.findings if not finding.kept}
    assert report.conforms == (not numbers)
    return numbers


@pytest.fixture(scope="module")
def plain(tmp_path_factory):
    """The bytes of a file that conforms, with nothing packed, so that single bytes can be changed."""
    path = tmp_path_factory.mktemp("plain") / "plain.pdf"
    found = {}

    def run(*names):
        if names not in found:
            manuscript = fq.Manuscript.from_html(RICH)
            if "PDF/A-3a" in names:
                manuscript.attach(b"<order/>", "order.xml", relationship="Data")
            path.write_bytes(made(manuscript, names))
            command = ["qpdf", "--qdf", "--object-streams=disable", "--no-original-object-ids", str(path), "-"]
            try:
                found[names] = subprocess.run(command, capture_output=True, check=True).stdout
            except FileNotFoundError:
                pytest.skip("qpdf is not installed")
        return found[names]

    return run


OLD, MODERN = ("PDF/A-3a", "PDF/UA-1"), ("PDF/A-4f", "PDF/UA-2")


@pytest.mark.parametrize(
    ("old", "new", "number"),
    [
        (b"%PDF-1.7", b"%PDF-2.0", "6.1.2"),
        (b"%PDF-1.7\n%\xbf", b"%PDF-1.7\n%a", "6.1.2"),
        (b"/ID [", b"/IX [", "6.1.3"),
        (b"%%EOF\n", b"%%EOF\njunk", "6.1.3"),
        (b"/MediaBox [\n    0\n    0\n    595.276", b"/MediaBox [\n    0\n    0\n    99595.2", "6.1.13"),
        (b"/GTS_PDFA1", b"/GTS_PDFX0", "6.2.4.3"),
        (b"acsp", b"acsx", "6.2.3"),
        (b"/FontFile3", b"/FontFileX", "6.2.11.4.1"),
        (b"/FontFile3", b"/FontFileX", "7.21.4.1"),
        (b"/ToUnicode", b"/ToUnicodX", "6.2.11.7.2"),
        (b"/ToUnicode", b"/ToUnicodX", "7.21.7"),
        (b"/Ordering (Identity)", b"/Ordering (Identitx)", "6.2.11.3"),
        (b"/F 4\n", b"/F 2\n", "6.3.2"),
        (b"/S /URI", b"/S /Hide", "6.5.1"),
        (b"/Metadata ", b"/MetadatX ", "6.6.2.1"),
        (b"<pdfaid:part>3<", b"<pdfaid:part>2<", "6.6.4"),
        (b"<pdfuaid:part>1<", b"<pdfuaid:part>2<", "5"),
        (b"pdfaSchema:namespaceURI>http://www.aiim", b"pdfaSchema:namespaceURI>http://www.aiix", "6.6.2.3"),
        (b"/Marked true", b"/Marked null", "6.7.2"),
        (b"/Marked true", b"/Marked null", "7.1"),
        (b"/DisplayDocTitle true", b"/DisplayDocTitle null", "7.1"),
        (b"<dc:title>", b"<dc:titlX>", "7.1"),
        (b"/Lang (en)", b"/Lang (!!)", "7.2"),
        (b"/S /H2", b"/S /H3", "7.4.2"),
        (b"/S /H2", b"/S /XX", "6.7.3.4"),
        (b"/Alt ", b"/AlX ", "7.3"),
        (b"/Alt ", b"/AlX ", "6.7.5"),
        (b"/ColSpan 2", b"/ColSpan 1", "7.5"),
        (b"/Scope /Column", b"/ScopX /Column", "7.5"),
        (b"/S /LI\n", b"/S /P \n", "7.2"),
        (b"/ID (note-1)", b"/IX (note-1)", "7.9"),
        (b"/Contents (the", b"/ContentX (the", "7.18.5"),
        (b"/Tabs /S", b"/Tabs /R", "7.18.3"),
        (b"/S /Link", b"/S /Span", "7.18.1"),
        (b"/MCID 0", b"/MCID 9", "6.7.3.3"),
        (b"/Artifact<<", b"/ArtifacX<<", "7.1"),
        (b"/AFRelationship", b"/AFRelationshiX", "6.8"),
        (b"/AF [", b"/AX [", "6.8"),
        (b"/ModDate", b"/ModDatX", "6.8"),
    ],
)
def test_what_breaks_a_clause_is_noticed(plain, old, new, number):
    content = plain(*OLD)
    before = {finding.number for finding in fq.check(content, OLD).findings if finding.faults}
    assert before == set()
    assert old in content
    assert number in numbers_of_faults(content.replace(old, new, 1), OLD)


@pytest.mark.parametrize(
    ("old", "new", "number"),
    [
        (b"<pdfaid:rev>2020<", b"<pdfaid:rev>2019<", "6.7.3"),
        (b"<pdfuaid:rev>2024<", b"<pdfuaid:rev>none<", "5"),
        (b"/NS (http://iso.org/pdf2/ssn)", b"/NS (http://iso.org/pdf3/ssn)", "8.2.5.2"),
        (b"/SD [", b"/SX [", "8.8"),
        (b"/Tabs /S", b"/Tabs /R", "8.9.3.3"),
    ],
)
def test_what_breaks_a_clause_of_a_modern_file_is_noticed(plain, old, new, number):
    content = plain(*MODERN)
    assert fq.check(content, MODERN).faults == ()
    assert old in content
    assert number in numbers_of_faults(content.replace(old, new), MODERN)


@pytest.mark.parametrize(
    ("html", "names", "said"),
    [
        ("<html lang=en><p>x", ["PDF/UA-1"], "no title"),
        ("<title>t</title><p>x", ["PDF/A-2a"], "which language"),
        ("<html lang=en><title>t</title><h2>x", ["PDF/UA-1"], "level 2 follows no heading"),
        ("<html lang=en><title>t</title><h1>a</h1><h3>x", ["PDF/UA-1"], "level 3 follows a heading of level 1"),
        ("<html lang=en><title>t</title>\n<svg width=9 height=9></svg>", ["PDF/UA-1"], "A picture has no text"),
        ("<html lang=en><title>t</title><p>一", ["PDF/A-2b"], "No font has a glyph"),
        ("<style>@page { size: 80mm 20000pt }</style><p>x", ["PDF/A-2b"], "sides are from 3 to 14,400"),
    ],
)
def test_what_a_document_lacks_is_an_error_with_its_place(html, names, said):
    with pytest.raises(fq.ConformanceError, match=said):
        made(html, names)


def test_an_error_names_the_line_and_all_that_is_wrong():
    html = "<html lang=en><title>t</title>\n<h1>a</h1>\n<h3>b</h3>\n<svg width=9 height=9></svg>"
    with pytest.raises(fq.ConformanceError) as caught:
        made(html)
    assert str(caught.value).startswith("a.html, line 3: The document cannot be PDF/A-3a and PDF/UA-1. A heading")
    assert "a.html, line 4: A picture has no text" in str(caught.value)


def test_nothing_is_left_of_a_file_that_does_not_conform(tmp_path):
    with pytest.raises(fq.ConformanceError):
        fq.write(fq.Manuscript.from_html("<p>x"), tmp_path / "a.pdf", conform=["PDF/UA-1"])
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize(
    ("names", "said"),
    [
        (["PDF/A-1b"], "no standard"),
        (["pdf/ua-3"], "Did you mean 'PDF/UA-"),
        (["PDF/A-2b", "PDF/A-3b"], "one part and level"),
        (["PDF/UA-1", "PDF/UA-2"], "one part of PDF/UA"),
        (["PDF/A-3a", "PDF/UA-2"], "different versions of PDF"),
        (["PDF/A-4", "PDF/UA-1"], "With PDF/A-4 goes PDF/UA-2"),
    ],
)
def test_standards_that_are_not_known_or_do_not_go_together(names, said):
    with pytest.raises(fq.OptionError, match=said):
        made(conform=names)


def test_names_of_standards_may_be_in_any_case():
    assert fq.check(made(conform=["pdf/a-2B"])).standards == ("PDF/A-2b",)


def test_other_kinds_conform_to_nothing(tmp_path):
    with pytest.raises(fq.OptionError, match="docx"):
        fq.write(fq.Manuscript.from_html(RICH), tmp_path / "a.docx", conform=["PDF/A-2b"])


def test_a_file_that_claims_nothing_is_checked_only_against_what_is_named(tmp_path):
    path = tmp_path / "a.pdf"
    fq.write(fq.Manuscript.from_html(RICH), path)
    with pytest.raises(fq.SourceError, match="does not say"):
        fq.check(path)
    broken = {finding.number for finding in fq.check(path, ["PDF/UA-1"]).findings if finding.faults}
    assert broken == {"5"}  # it lacks nothing but the claim


def test_pictures_of_inks_are_converted_and_smoothed_ones_are_not(tmp_path):
    from PIL import Image

    inks, small = tmp_path / "inks.jpg", tmp_path / "small.png"
    Image.new("CMYK", (40, 40), (10, 200, 30, 5)).save(inks)
    Image.effect_noise((20, 20), 50).convert("RGB").save(small)
    html = f"<html lang=en><title>t</title><img alt=a src='{inks.name}'><img alt=b width=300 src='{small.name}'>"
    manuscript = fq.Manuscript.from_html(html, base=tmp_path)
    assert fq.check(made(manuscript, ["PDF/A-2b"])).faults == ()
    loose = fq.check(fq.compose(manuscript).to_bytes(), ["PDF/A-2b"])
    assert {finding.number for finding in loose.findings if finding.faults} >= {"6.2.4.3", "6.2.8", "6.6.4"}


def test_attachments_of_any_kind_need_a_part_that_takes_them():
    manuscript = fq.Manuscript.from_html(RICH)
    manuscript.attach(b"a,b", "a.csv", relationship="Data")
    for names in (["PDF/A-2b"], ["PDF/A-4"]):
        with pytest.raises(fq.ConformanceError, match=r"a\.csv"):
            made(manuscript, names)
