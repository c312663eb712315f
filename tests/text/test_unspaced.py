"""Lines of scripts that put no spaces between words end at words, or between syllables where no dictionary is there."""

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.text import unspaced
from fleetquill.text.breaking import _by_shape, opportunities
from made_fonts import numbered_font

THAI = "ใบกำกับภาษีฉบับนี้ออกโดยบริษัทเพื่อใช้เป็นหลักฐานในการชำระเงิน"
WORDS = [
    "ใบ|กำกับ|ภาษี|ฉบับ|นี้|ออก|โดย|บริษัท|เพื่อ|ใช้|เป็น|หลัก|ฐาน|ใน|การ|ชำระ|เงิน",
    "ต่างๆ|นานา|ฯลฯ",
    "ใบ|แจ้ง|หนี้ |No. |12 |เลข|ที่ |(สำเนา)",
    "ໃບ|ແຈ້ງ|ໜີ້|ສະບັບ|ນີ້|ອອກ|ໂດຍ|ບໍລິສັດ",
    "វិក្កយបត្រ|នេះ|ត្រូវ|បាន|ចេញ",
    "ဤ|ငွေ|တောင်းခံ|လွှာ|ကို|ကုမ္ပဏီ|မှ",
]
SYLLABLES = [
    "ใบกำ|กับภาษีฉบับนี้ออก|โดยบริษัท|เพื่อ|ใช้|เป็นหลักฐาน|ในการชำ|ระ|เงิน",
    "ต่างๆ|นานาฯลฯ",
    "ໃບ|ແຈ້ງໜີ້ສະ|ບັບນີ້ອອກ|ໂດຍບໍລິສັດ",
    "វិក្កយបត្រ|នេះ|ត្រូវ|បាន|ចេញ",
    "ဤ|ငွေ|တောင်း|ခံ|လွှာ|ကို|ကုမ္ပ|ဏီ|မှ",
]


@pytest.fixture
def no_dictionary(monkeypatch):
    def forget():
        for kept in (unspaced.has_dictionary, _by_shape):
            kept.cache_clear()

    forget()
    monkeypatch.setattr(unspaced, "_segments", lambda: None)
    yield
    monkeypatch.undo()
    forget()


def marked(text):
    cuts = [0, *opportunities(text), len(text)]
    return "|".join(text[start:end] for start, end in zip(cuts, cuts[1:], strict=False))


@pytest.mark.parametrize("text", WORDS)
def test_lines_may_end_at_words(text):
    assert marked(text.replace("|", "")) == text


@pytest.mark.parametrize("text", SYLLABLES)
def test_without_a_dictionary_they_may_end_between_syllables(no_dictionary, text):
    assert marked(text.replace("|", "")) == text


LETTERS = st.text(
    st.one_of(
        st.characters(min_codepoint=first, max_codepoint=last)
        for first, last in ((0xE01, 0xE5B), (0xE81, 0xEDF), (0x1780, 0x17F9), (0x1000, 0x109F))
    ),
    max_size=20,
)


@pytest.mark.parametrize("dictionary", [True, False])
@given(text=LETTERS)
def test_no_mark_is_parted_from_its_letter(dictionary, text):
    with pytest.MonkeyPatch.context() as patched:
        if not dictionary:
            patched.setattr(unspaced, "_segments", lambda: None)
        places = unspaced.breaks_within(text)
    assert all(0 < place < len(text) and unicodedata.category(text[place]) != "Mn" for place in places)
    assert sorted(set(places)) == list(places)


def shown(tmp_path, html, **options):
    (tmp_path / "letters.otf").write_bytes(numbered_font("".join(sorted({*THAI}))))
    page = "<!doctype html><style>@page{size:400px 300px;margin:0} p{margin:0;width:190px;font:16px Numbered}</style>"
    return fq.Press(font_folders=[tmp_path], **options).compose(fq.Manuscript.from_html(page + html))


def test_a_paragraph_is_as_wide_as_its_box_and_copied_as_it_was_written(tmp_path, read_pdf):
    edition = shown(tmp_path, f"<p>{THAI}")
    assert [remark.message for remark in edition.remarks] == []
    lines = edition.pages[0].text.split("\n")
    words = WORDS[0].split("|")
    assert len(lines) == 4 and "".join(lines) == THAI
    assert all(
        line in {"".join(words[a:b]) for a in range(len(words)) for b in range(a, len(words) + 1)} for line in lines
    )
    assert "".join(read_pdf(edition.to_bytes())[0].split()) == THAI


def test_a_word_is_not_parted_by_an_element_around_others(tmp_path):
    plain, marked_up = (
        shown(tmp_path, f"<p>{html}").pages[0].text for html in (THAI, THAI.replace("บริษัท", "<b>บริษัท</b>"))
    )
    assert plain == marked_up


def test_a_column_is_no_narrower_than_its_words(tmp_path):
    edition = shown(tmp_path, f"<table style='width:1px'><td style='font:16px Numbered;padding:0'>{THAI}</table>")
    cell = edition.locate("td")[0]
    assert 3 * 12 <= cell.width <= 8 * 12  # points: words of three to eight letters


@pytest.mark.parametrize(("text", "told"), [(THAI, 1), (THAI[:12], 0), ("Zoë — naïve", 0)])
def test_a_missing_dictionary_is_told_where_it_is_missed(no_dictionary, tmp_path, text, told):
    remarks = [remark for remark in shown(tmp_path, f"<p>{text}<p>{text}").remarks if remark.kind == "words"]
    assert len(remarks) == told and all("fleetquill[words]" in remark.message for remark in remarks)
