"""What a finished file is asked: pages, text, outline, labels, metadata, what goes along."""

import io

import pytest

import fleetquill as fq
from fleetquill.bindery.page_labels import numeral
from readers import words


def test_a_volume_is_read_from_a_path_bytes_and_a_stream(tolls):
    for source in (tolls, str(tolls), tolls.read_bytes(), io.BytesIO(tolls.read_bytes())):
        assert fq.Volume(source).page_count == 4
    assert repr(fq.Volume(tolls)) == f"<Volume {tolls}: 4 pages>"
    assert repr(fq.Volume(tolls).pages[0]) == "<VolumePage 1: 419.528 × 595.276 pt>"


@pytest.mark.parametrize(
    ("source", "error", "message"),
    [("nothing.pdf", fq.SourceError, "cannot be read"), (7, fq.OptionError, "from the type 'int'"),
     (io.StringIO("x"), fq.OptionError, "binary stream")],
)  # fmt: skip
def test_what_is_no_volume_is_refused(source, error, message):
    with pytest.raises(error, match=message):
        fq.Volume(source)


def test_what_a_file_says_of_itself(finished):
    path = finished(
        "said.pdf",
        "<html lang=de><title>Zölle</title><meta name=author content='Lock House'><meta name=description content='Of May'>"
        "<meta name=keywords content='toll, lock'><h1>Zölle</h1>",
        conform=("PDF/A-2a", "PDF/UA-1"),
    )
    volume = fq.Volume(path)
    assert volume.metadata == {
        "title": "Zölle", "author": "Lock House", "subject": "Of May", "keywords": "toll, lock", "language": "de",
        "producer": f"Fleet Quill {fq.__version__}",
    }  # fmt: skip
    assert volume.conforms_to == ("PDF/A-2a", "PDF/UA-1")
    assert volume.is_tagged and not volume.is_locked and volume.allowed is None
    assert volume.version == "1.7" and volume.remarks == ()


def test_the_outline_has_pages_and_heights(tolls):
    edition = fq.compose(
        fq.Manuscript.from_html("<h1>One</h1><p>x<h2>Two</h2><h1 style='break-before:page'>Three</h1>")
    )
    assert fq.Volume(edition.to_bytes()).outline == edition.outline
    assert [(mark.label, mark.page) for mark in fq.Volume(tolls).outline] == [(f"Toll {n}", n) for n in range(1, 5)]


def test_pages_have_their_labels_and_sizes(finished):
    path = finished(
        "labels.pdf",
        "<style>@page{size:80mm 120mm} @page :first{@top-left{content:counter(page,upper-roman)}} "
        "@page wide{size:120mm 80mm;page-orientation:rotate-left}</style><p>a<p style='break-before:page'>b<p style='page:wide'>c",
    )
    pages = fq.Volume(path).pages
    assert [page.label for page in pages] == ["I", "2", "3"]
    assert [(round(page.width), round(page.height), page.rotation) for page in pages] == [
        (227, 340, 0), (227, 340, 0), (227, 340, 270)
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("number", "style", "text"),
    [(1, "D", "1"), (4, "r", "iv"), (1999, "R", "MCMXCIX"), (1, "a", "a"), (27, "a", "aa"), (28, "A", "BB"), (3, "", ""),
     (0, "r", "0"), (-2, "D", "-2")],
)  # fmt: skip
def test_numerals_are_those_of_labels(number, style, text):
    assert numeral(number, style) == text


# ---- text ----


def test_text_is_what_the_edition_says_it_is(invoice):
    edition = invoice("long")
    volume = fq.Volume(edition.to_bytes())
    for page, read in zip(edition.pages, volume.pages, strict=True):
        shown = set(" ".join([page.text, *page.margins.values()]).split())
        assert shown - set(read.text.split()) == set()


@pytest.mark.parametrize(
    "html",
    [
        "<p>The quick barge, over lazy water; 12,345.67 t.<p>fi fl ffi office",
        "<p style='letter-spacing:2px'>spaced out<p style='font-size:30pt'>LARGE small<sub>below</sub>",
        "<p style='columns:2'>one two three four five six seven eight nine ten eleven twelve</p>",
        "<table><tr><td>left<td>middle<td style='text-align:right'>1,204.50<tr><td>a<td>b<td>2.00</table>",
        "<p>Größe Ærø Łódź Ωμέγα Москва",
        "<p style='transform:rotate(-90deg);width:6cm'>turned words",
        "<p style='font-family:serif;font-weight:bold;font-style:italic'>bold and slanted",
    ],
)
def test_words_are_those_that_another_reader_has(html, tmp_path):
    path = tmp_path / "words.pdf"
    fq.write(fq.Manuscript.from_html(html), path)
    assert sorted(fq.Volume(path).pages[0].text.split()) == sorted(words(path))


def test_words_that_run_from_the_right_are_read_in_their_order(tmp_path):
    text = "مرحبا بالعالم"
    path = tmp_path / "arabic.pdf"
    fq.write(fq.Manuscript.from_html(f"<html lang=ar dir=rtl><p>{text}</p><p dir=ltr>Barge {text} barge</p>"), path)
    lines = fq.Volume(path).pages[0].text.split("\n")
    assert lines[0] == text
    assert lines[1].startswith("Barge") and lines[1].endswith("barge") and text in lines[1]


def test_words_stand_where_they_were_laid_out(press):
    html = "<style>@page{size:A5;margin:0}</style><p id=w style='position:absolute;left:100pt;top:200pt;font-size:20pt'>Heron"
    edition = press.compose(fq.Manuscript.from_html(html))
    (placement,) = edition.locate("#w")
    (word,) = fq.Volume(edition.to_bytes()).pages[0].words
    assert word.text == "Heron"
    assert word.x == pytest.approx(placement.x, abs=1)
    assert word.width == pytest.approx(placement.width, abs=1)
    assert placement.y <= word.y + 1 and word.y + word.height <= placement.y + placement.height + 1


@pytest.mark.parametrize("turn", [90, 180, 270])
def test_words_of_turned_pages_stand_as_they_are_shown(tolls, turn, tmp_path):
    target = tmp_path / "turned.pdf"
    fq.bind([fq.Part(tolls, pages="1", turn=turn)], target)
    before, after = fq.Volume(tolls).pages[0], fq.Volume(target).pages[0]
    one, other = before.words[0], after.words[0]
    middle = one.x + one.width / 2, one.y + one.height / 2
    expected = {
        90: (before.height - middle[1], middle[0]),
        180: (before.width - middle[0], before.height - middle[1]),
        270: (middle[1], before.width - middle[0]),
    }[turn]
    assert (other.x + other.width / 2, other.y + other.height / 2) == pytest.approx(expected, abs=9)


def test_shapes_and_pictures_stand_where_they_are(tmp_path):
    from PIL import Image

    Image.new("RGB", (4, 4), "red").save(tmp_path / "a.png")
    html = (
        "<style>@page{size:200pt 200pt;margin:0} body{margin:0}</style><img src=a.png style='position:absolute;left:10pt;"
        "top:20pt;width:30pt;height:40pt'><div style='position:absolute;left:50pt;top:60pt;width:70pt;height:80pt;background:#0f4c4a'>"
    )
    path = tmp_path / "shapes.pdf"
    fq.write(fq.Manuscript.from_html(html, base=tmp_path), path)
    marks = fq.Volume(path).pages[0].marks
    (picture,) = marks.pictures
    assert (picture.x, picture.y, picture.width, picture.height) == pytest.approx((10, 20, 30, 40), abs=0.05)
    (shape,) = marks.shapes
    assert (shape.x, shape.y, shape.width, shape.height) == pytest.approx((50, 60, 70, 80), abs=0.05)
    assert shape.color == pytest.approx((15 / 255, 76 / 255, 74 / 255), abs=0.002)


# ---- fonts of others ----


def page_of(font, shown, more=b""):
    """A file of one page that shows a string in a font."""
    content = b"BT /F 20 Tf 50 100 Td %b Tj ET" % shown
    return (
        b"%%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj\n"
        b"3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 300 200]/Contents 4 0 R/Resources<</Font<</F 5 0 R>>>>>>endobj\n"
        b"4 0 obj<</Length %d>>stream\n%b\nendstream endobj\n5 0 obj%bendobj\n%btrailer<</Root 1 0 R>>"
        % (len(content), content, font, more)
    )


@pytest.mark.parametrize(
    ("font", "shown", "text", "width"),
    [
        (b"<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>", b"(Hi)", "Hi", (722 + 222) * 0.02),
        (b"<</Type/Font/Subtype/Type1/BaseFont/Times-Bold>>", b"(Hi)", "Hi", (778 + 278) * 0.02),
        (b"<</Type/Font/Subtype/TrueType/BaseFont/Arial,Bold/Encoding/WinAnsiEncoding>>", b"(\\200)", "€", 556 * 0.02),
        (b"<</Type/Font/Subtype/TrueType/BaseFont/X/Encoding/MacRomanEncoding/FirstChar 138/Widths[600]>>", b"(\\212)", "ä", 12),
        (b"<</Type/Font/Subtype/Type1/BaseFont/X/Encoding<</Differences[65/fi/alpha/uni20AC]>>/FirstChar 65/Widths[500 500 500]>>",
         b"(ABC)", "fiα€", 30),
        (b"<</Type/Font/Subtype/Type0/BaseFont/X/Encoding/UniGB-UCS2-H/DescendantFonts[<</DW 1000>>]>>", b"<4E2D6587>", "中文", 40),
        (b"<</Type/Font/Subtype/Type1/BaseFont/X/ToUnicode 6 0 R/FirstChar 1/Widths[500 250]>>", b"<0102>", "Tolls", 15),
    ],
)  # fmt: skip
def test_fonts_of_others_are_read(font, shown, text, width):
    to_unicode = b"2 beginbfchar <01> <0054006F006C> <02> <006C0073> endbfchar"
    more = b"6 0 obj<</Length %d>>stream\n%b\nendstream endobj\n" % (len(to_unicode), to_unicode)
    (word,) = fq.Volume(page_of(font, shown, more)).pages[0].words
    assert word.text == text
    assert word.width == pytest.approx(width, abs=0.1)
    assert word.x == 50 and word.y == pytest.approx(100 - 16)


def test_a_text_that_is_said_stands_for_all_glyphs_of_its_mark():
    font = b"<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>"
    content = page_of(font, b"(ab) Tj ET /Span<</ActualText(said)>>BDC BT /F 20 Tf 150 100 Td (xyz) Tj ET EMC BT (q)")
    assert "said" in fq.Volume(content).pages[0].text
    assert "xyz" not in fq.Volume(content).pages[0].text
