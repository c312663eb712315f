"""Reading finished PDFs: those of this house, the same in other dress, and damaged ones."""

import subprocess
import zlib

import pytest
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.pdf.filters import unpacked
from fleetquill.pdf.objects import Name, Ref, write
from fleetquill.pdf.reading import PdfReader
from fleetquill.pdf.syntax import Parser, PdfSyntaxError, without_marks


@pytest.fixture(scope="module")
def content():
    pages = "".join(f"<h1>Page {n}</h1><p style='break-after:page'>text {n}</p>" for n in range(1, 6))
    return fq.compose(fq.Manuscript.from_html(f"<html lang=en><title>Five</title>{pages}<p>last")).to_bytes()


@pytest.fixture
def in_other_dress(content, tmp_path):
    path = tmp_path / "plain.pdf"
    path.write_bytes(content)

    def run(*options):
        try:
            done = subprocess.run(["qpdf", *options, str(path), "-"], capture_output=True, check=True)
        except FileNotFoundError:
            pytest.skip("qpdf is not installed")
        return done.stdout

    return run


@pytest.mark.parametrize(
    "options",
    [
        ("--qdf", "--object-streams=disable"),
        ("--object-streams=disable",),
        ("--linearize",),
        ("--stream-data=uncompress",),
        ("--object-streams=generate", "--compression-level=9", "--recompress-flate"),
        ("--min-version=2.0",),
    ],
    ids=" ".join,
)
def test_files_in_other_dress_have_the_same_pages(content, in_other_dress, options):
    mine, other = PdfReader(content), PdfReader(in_other_dress(*options))
    assert not other.repaired
    assert [mine.page_content(page).split() for page in mine.pages()] == [
        other.page_content(page).split() for page in other.pages()
    ]
    assert [page.number for page in other.pages()] == [1, 2, 3, 4, 5, 6]


@pytest.mark.parametrize(
    ("old", "new"),
    [
        (b"startxref", b"startwxyz"),
        (b"%%EOF", b""),
        (b"%PDF-1.7", b"junk before\n%PDF-1.7"),
    ],
)
def test_damaged_tables_are_made_anew(content, old, new):
    reader = PdfReader(content.replace(old, new))
    assert len(list(reader.pages())) == 6


def test_a_file_that_was_cut_off_gives_what_is_left_or_says_so(content):
    for length in range(0, len(content), 997):
        try:
            reader = PdfReader(content[:length])
        except fq.SourceError:
            continue
        assert len(list(reader.pages())) <= 6


def test_what_is_no_pdf_is_said_so():
    with pytest.raises(fq.SourceError, match="no PDF file"):
        PdfReader(b"<html>")


def objects():
    simple = (
        st.none() | st.booleans() | st.integers(-(10**9), 10**9) | st.binary(max_size=30)
        | st.text(st.characters(codec="utf-8", exclude_characters="\0"), min_size=1, max_size=12).map(Name)
        | st.integers(1, 9999).map(Ref)
    )  # fmt: skip
    names = st.text(st.characters(codec="utf-8", exclude_characters="\0"), min_size=1, max_size=12)
    return st.recursive(
        simple, lambda inner: st.lists(inner, max_size=4) | st.dictionaries(names, inner, max_size=4), max_leaves=20
    )


def without_nothing(value):
    """What is written of a value: an entry of None is none at all (§7.3.7)."""
    if isinstance(value, dict):
        return {key: without_nothing(one) for key, one in value.items() if one is not None}
    return [without_nothing(one) for one in value] if isinstance(value, list) else value


@given(objects())
def test_what_is_written_is_read(value):
    assert Parser(write(value)).value() == without_nothing(value)


@pytest.mark.parametrize(
    ("text", "value"),
    [
        (b"(a(b)c\\)\\n\\101\\\n)", b"a(b)c)\nA"),
        (b"(a\r\nb\rc)", b"a\nb\nc"),
        (b"<48 6 5 6>", b"He`"),
        (b"[1 0 R 2 3 -.5 +7 4.]", [Ref(1), 2, 3, -0.5, 7, 4.0]),
        (b"<</A/B/C#20D 1%note\n/E[]>>", {"A": "B", "C D": 1, "E": []}),
        (b"<</A>>", {}),
        (b"--5", -5),
    ],
)
def test_syntax(text, value):
    assert Parser(text).value() == value


@pytest.mark.parametrize("text", [b"", b"(open", b"[1 2", b"<</A 1", b"]", b"obj", b"[" * 500])
def test_what_is_no_object_is_said_so(text):
    with pytest.raises(PdfSyntaxError):
        Parser(text).value()


@given(st.binary(max_size=300))
def test_any_bytes_are_read_or_refused(content):
    list(Parser(content).operators())
    for text in (content, b"%PDF-1.7\n" + content):
        with pytest.raises((PdfSyntaxError, fq.SourceError)):
            PdfReader(text)
            raise PdfSyntaxError


@given(st.binary(max_size=400), st.integers(1, 4), st.integers(1, 40))
def test_predictors_are_undone(content, colors, columns):
    row = colors * columns
    content = content[: len(content) // row * row]
    rows = [content[at : at + row] for at in range(0, len(content), row)]
    filtered, above = b"", bytes(row)
    for number, own in enumerate(rows):
        kind = number % 5
        filtered += bytes((kind,)) + bytes(
            (value - guess(kind, own, above, index, colors)) & 255 for index, value in enumerate(own)
        )
        above = own
    said = {"Predictor": 15, "Colors": colors, "Columns": columns}
    assert unpacked(zlib.compress(filtered), ["FlateDecode"], [said]) == content


def guess(kind, row, above, index, step):
    """What PNG 3 §9 says of a byte beforehand."""
    left = row[index - step] if index >= step else 0
    up, corner = above[index], above[index - step] if index >= step else 0
    if kind == 4:
        whole = left + up - corner
        return min((left, up, corner), key=lambda one: abs(whole - one))
    return (0, left, up, (left + up) // 2)[kind]


@pytest.mark.parametrize(
    ("packed", "filters", "plain"),
    [
        (b"48656C6C6F>", ["ASCIIHexDecode"], b"Hello"),
        (b'87cURD]i,"Ebo80~>', ["ASCII85Decode"], b"Hello World!"),
        (b"\x02abc\xfed\x80", ["RunLengthDecode"], b"abcddd"),
        (b"\x80\x0b\x60\x50\x22\x0c\x0c\x85\x01", ["LZWDecode"], b"-----A---B"),
        (zlib.compress(b"x").hex().encode() + b">", ["AHx", "Fl"], b"x"),
    ],
)
def test_filters(packed, filters, plain):
    assert unpacked(packed, filters, []) == plain


@pytest.mark.parametrize(("packed", "filters"), [(b"junk", ["FlateDecode"]), (b"x", ["Unheard"])])
def test_streams_that_cannot_be_unpacked_are_said_so(packed, filters):
    with pytest.raises(PdfSyntaxError):
        unpacked(packed, filters, [])


@pytest.mark.parametrize(
    ("marked", "unmarked"),
    [
        (b"/P <</MCID 3>> BDC (x) Tj EMC", b"/Span BMC (x) Tj EMC"),
        (b"/OC /MC0 BDC /P <</MCID 3>> BDC f EMC EMC", b"/OC /MC0 BDC /Span BMC f EMC EMC"),
        (
            b"/Artifact <</Type /Pagination>> BDC EMC /P <</MCID 1>> BDC EMC",
            b"/Artifact <</Type /Pagination>> BDC EMC /Span BMC EMC",
        ),
        (b"(/P <</MCID 3>> BDC) Tj", b"(/P <</MCID 3>> BDC) Tj"),
        (b"/P <</Lang (de)>> BDC EMC", b"/P <</Lang (de)>> BDC EMC"),
        (b"/P <</MCID 3>> DP", b"/P <</MCID 3>> DP"),
    ],
)
def test_only_sequences_with_a_number_lose_their_mark(marked, unmarked):
    assert without_marks(marked) == unmarked


@given(st.decimals(allow_nan=False, allow_infinity=False, places=12, min_value=-(10**6), max_value=10**6))
def test_numbers_that_are_read_are_written_with_all_their_places(value):
    text = f"{value:f}".encode()
    assert float(write(Parser(text).value())) == float(text)


@pytest.mark.parametrize("text", [b".01338", b"-.000012", b"+0.95047", b"123.45678901234567890"])
def test_a_number_is_written_as_it_was(text):
    assert write(Parser(text).value()) == text


def letters_of_its_own(scale):
    """A page of a font whose letters are drawn in the file, at a scale with five places."""
    parts = [
        b"<</Type/Catalog/Pages 2 0 R>>", b"<</Type/Pages/Kids[3 0 R]/Count 1>>",
        b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 300 100]/Contents 4 0 R/Resources<</Font<</F 5 0 R>>>>>>",
        stream(b"BT /F 10 Tf 10 40 Td (aaaaaaaaaaaaaaaaaaaaaaaa) Tj ET"),
        b"<</Type/Font/Subtype/Type3/FontBBox[0 0 80 80]/FontMatrix[%s 0 0 %s 0 0]/CharProcs<</a 6 0 R>>/FirstChar 97"
        b"/LastChar 97/Widths[80]/Encoding<</Type/Encoding/Differences[97/a]>>>>" % (scale, scale),
        stream(b"80 0 d0 0 0 40 60 re f"),
    ]  # fmt: skip
    content, places = b"%PDF-1.7\n", []
    for number, part in enumerate(parts, 1):
        places.append(len(content))
        content += b"%d 0 obj\n%s\nendobj\n" % (number, part)
    table = b"".join(b"%010d 00000 n \n" % place for place in places)
    tail = b"trailer<</Size %d/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF" % (len(parts) + 1, len(content))
    return content + b"xref\n0 %d\n0000000000 65535 f \n%s" % (len(parts) + 1, table) + tail


def stream(content):
    return b"<</Length %d>>stream\n%s\nendstream" % (len(content), content)


@pytest.mark.parametrize("scale", [b".01338", b"0.01249", b"0.012041"])
def test_letters_that_a_file_draws_itself_stay_where_they_are_when_it_is_joined(tmp_path, scale):
    pypdfium2 = pytest.importorskip("pypdfium2")
    (tmp_path / "own.pdf").write_bytes(letters_of_its_own(scale))
    fq.bind([fq.Part(tmp_path / "own.pdf", pages="1")], tmp_path / "joined.pdf")
    before, after = (
        pypdfium2.PdfDocument(tmp_path / name)[0].render(scale=2).to_numpy() for name in ("own.pdf", "joined.pdf")
    )
    assert before.min() < 50 and (before == after).all()
