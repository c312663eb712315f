"""Fonts in the file: no larger than what they are used for, and copied as what was written."""

import io
import re
import zlib

import pypdfium2 as pdfium
import pytest
from fontTools.cffLib import CFFFontSet
from fontTools.ttLib import TTFont
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq
from conftest import DEMO
from fleetquill.output.pdf.fonts import _encoding, _widths

STREAM = re.compile(rb"\n\d+ 0 obj\n(?P<head><<.*?>>)\nstream\n", re.DOTALL)


def streams(content, mark):
    """The streams of a file whose dictionary has a mark."""
    for found in STREAM.finditer(content):
        if mark in found["head"]:
            length = int(re.search(rb"/Length (\d+)", found["head"])[1])
            data = content[found.end() : found.end() + length]
            yield zlib.decompress(data) if b"/FlateDecode" in found["head"] else data


def programs(content):
    for data in streams(content, b"/CIDFontType0C"):
        fonts = CFFFontSet()
        fonts.decompile(io.BytesIO(data), None)
        yield fonts[0]


def cff(text, family="Source Sans Pro"):
    return fq.compose(fq.Manuscript.from_html(f"<p style='font-family: {family}'>{text}</p>")).to_bytes()


def test_a_subset_has_no_place_for_glyphs_that_are_left_out():
    (font,) = programs(cff("Heron, Teal and Grebe"))
    assert len(font.CharStrings) == len(set("Heron, Teal and Grebe")) + 1


def test_truetype_fonts_are_small_too():
    content = fq.compose(fq.Manuscript.from_html("<p style='font-family: monospace'>Heron</p>")).to_bytes()
    (data,) = streams(content, b"/Length1")
    assert TTFont(io.BytesIO(data))["maxp"].numGlyphs == len(set("Heron")) + 1


def test_a_file_of_few_letters_is_small():
    assert len(cff("Heron")) < 5_000


@pytest.mark.parametrize("name", ["invoice.html", "certificate.html"])
def test_demo_files_are_copied_as_they_were_written(name, press):
    data = DEMO / "invoice-short.json" if name == "invoice.html" else {}
    edition = press.compose(DEMO / name, data=data)
    document = pdfium.PdfDocument(edition.to_bytes())
    copied = "".join(document[0].get_textpage().get_text_bounded().split())
    for line in edition.pages[0].text.splitlines():
        assert "".join(line.split()) in copied or len(line) > 80, line


@settings(max_examples=60)
@given(
    st.text(st.characters(codec="utf-8", categories=["Lu", "Ll", "Nd"], max_codepoint=0x24F), min_size=1, max_size=40)
)
def test_any_letters_are_copied_as_they_were_written(text):
    document = pdfium.PdfDocument(cff(f"<span style='white-space: pre'>{text}</span>"))
    assert document[0].get_textpage().get_text_bounded().strip() == text


@given(st.dictionaries(st.integers(0, 0xFFFF), st.integers(0, 5000), min_size=1, max_size=60))
def test_the_encoding_leads_each_code_to_its_glyph(numbers):
    found = {}
    for first, last, place in re.findall(rb"<([0-9a-f]{4})> <([0-9a-f]{4})> (\d+)", _encoding(numbers)):
        assert first[:2] == last[:2]  # a range stays within its first byte (ISO 32000-2 §9.7.5.4)
        for offset in range(int(last, 16) - int(first, 16) + 1):
            found[int(first, 16) + offset] = int(place) + offset
    assert found == numbers


def test_widths_are_those_of_the_subset_in_its_order():
    class Face:
        upem = 1000

        @staticmethod
        def advance(glyph):
            return glyph

    assert _widths(Face, {500: 3, 7: 0, 300: 1, 200: 4}) == "[0[7 300] 3[500 200]]"


def test_a_few_operators_go_as_they_are():
    content = cff("<svg width=9 height=9><g opacity=.5><rect width=9 height=9 /></g></svg>")
    heads = [found["head"] for found in STREAM.finditer(content)]
    assert any(b"/Form" in head and b"/Filter" not in head for head in heads)
    assert any(b"/Filter/FlateDecode" in head for head in heads)
