"""Text that is copied from a PDF is the text that was set: in readers that know ActualText, and in those that do not."""

import re
import unicodedata

import pypdfium2 as pdfium
import pytest

import fleetquill as fq
from fleetquill.bindery.typefaces import typefaces
from structured import outline, subject_of, words_by_mark


def edition(html, **options):
    return fq.compose(fq.Manuscript.from_html(html), **options)


def read(content):
    return pdfium.PdfDocument(content)[0].get_textpage().get_text_range()


def told(content):
    """What a reader that knows nothing but the fonts' maps would copy."""
    return "".join(words_by_mark(subject_of(content)).values())


@pytest.mark.parametrize(
    "text",
    [
        "office fly waffle",
        "naïve Ångström",
        "½ x² H₂O",
        "é with a mark of its own: e\u0301",
        "a\u00a0b",
        "€ 12.50 – 3 %",
        "Ζυγός και μέτρα",
        "Вода и камень",
    ],
)
def test_text_from_left_to_right_is_copied_as_it_is(text):
    content = edition(f"<p>{text}").to_bytes()
    for found in (read(content), told(content)):
        assert unicodedata.normalize("NFC", found).split() == unicodedata.normalize("NFC", text).split()


@pytest.mark.parametrize("text", ["مرحبًا بكم في النهر", "لا إله", "שָׁלוֹם עולם", "שלום 12 עולם"])
def test_text_from_right_to_left_is_copied_in_the_order_of_reading(text):
    content = edition(f"<p dir=rtl>{text}").to_bytes()
    assert sorted(read(content).split()) == sorted(text.split())
    assert sorted(re.sub(r"\s", "", told(content))) == sorted(re.sub(r"\s", "", text))


def test_soft_hyphens_are_told_as_such_and_words_are_whole_without_them():
    content = edition("<p lang=en style='width:40px; hyphens:auto'>extraordinary").to_bytes()
    assert told(content).replace("\u00ad", "") == "extraordinary"
    assert "-" not in told(content)
    assert "ActualText" not in "".join(map(str, operators_of(content)))


def operators_of(content):
    return [one for stream in subject_of(content).contents for one in stream.operators]


def test_a_hyphen_and_a_soft_hyphen_that_look_alike_have_codes_of_their_own():
    content = edition(
        "<p lang=en style='width:40px; hyphens:auto; hyphenate-character:\"-\"'>over-extraordinary"
    ).to_bytes()
    assert told(content).replace("\u00ad", "") == "over-extraordinary"


@pytest.mark.parametrize(
    ("html", "text"),
    [
        ("<p style='width:60px'>one two three four", "one two three four"),
        ("<p>one<br>two", "one two"),
        ("<p style='width:90px'><b>one two</b> three <i>four five</i>", "one two three four five"),
        ("<p style='width:100px;text-align:justify'>one two three four five six", "one two three four five six"),
        ("<pre>one\ntwo", "one two"),
    ],
)
def test_lines_end_with_a_space(html, text):
    content = edition(html).to_bytes()
    assert " ".join(told(content).split()) == text
    assert " ".join("".join(outline(content)).split()).endswith(text.split()[-1])


def test_the_space_at_the_end_of_a_line_takes_no_room():
    broken = edition("<p style='width:60px;text-align:right'>one two three four")
    forced = edition("<p style='width:60px;text-align:right'>one two<br>three<br>four")
    assert broken.locate("p") == forced.locate("p")
    assert broken.pages[0].text == forced.pages[0].text == "one two\nthree\nfour"
    boxes = [box_of_words(one.to_bytes()) for one in (broken, forced)]
    assert boxes[0] == pytest.approx(boxes[1])


def box_of_words(content):
    """The right edges of the words as a reader sees them."""
    page = pdfium.PdfDocument(content)[0].get_textpage()
    return sorted(page.get_rect(n)[2] for n in range(page.count_rects()))


def test_every_glyph_has_a_text_and_a_missing_one_has_none():
    content = edition("<p>office e\u0301 مرحبًا ﷺ 一").to_bytes()
    for face in typefaces(subject_of(content)):
        texts = face.texts()
        assert set(face.characters()) == face.codes
        for code, cid in face.characters().items():
            assert (code in texts) == (cid != 0)


def test_marks_of_text_and_of_parts_nest_whatever_the_colour():
    html = "<p style='color:rgba(0,0,0,.5)'>हि e\u0301\u0323 <span style='color:rgba(255,0,0,.2)'>x\u0301</span> y"
    for content in (edition(html).to_bytes(), edition(html, tagged=False).to_bytes()):
        for stream in subject_of(content).contents:
            open_ones = []
            for name, _ in stream.operators:
                if name in ("BT", "BDC", "BMC"):
                    open_ones.append("ET" if name == "BT" else "EMC")
                elif name in ("ET", "EMC"):
                    assert open_ones.pop() == name  # ISO 32000-2 §14.6.1
            assert not open_ones


def test_cells_of_ledgers_have_the_spaces_that_they_have():
    manuscript = fq.Manuscript(title="t")
    manuscript.ledger([{"what": "one two three"}] * 3, ["what"])
    content = fq.compose(manuscript).to_bytes()
    assert outline(content)[-1].strip() == "TD one two three"
