"""Shaped words as PDF strings: every token of a TJ array is a string or a number, and puts glyphs where shaping did."""

from __future__ import annotations

import re
import zlib
from pathlib import Path

import pypdfium2 as pdfium
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.output.pdf.strings import pieces_of, strings_of
from fleetquill.text.face import Face
from fleetquill.text.fonts import FontLibrary, default_faces
from fleetquill.text.shaping import FontSetting

SCRIPTS = {
    "latin": "x\u0323\u0302 q\u0323\u0302 AVATAR",
    "greek": "\u03b1\u0313\u0301\u0345 \u03c9\u0314\u0342",
    "cyrillic": "\u0436\u0306\u0323 \u0419\u0301",
    "hebrew": "\u05d1\u05bc\u05b0\u05e8\u05b5\u05d0\u05e9\u05c1\u05b4\u05d9\u05ea",
    "arabic": "\u0645\u064f\u062d\u064e\u0645\u0651\u064e\u062f\u064c",
    "armenian": "\u0540\u0561\u0575\u0565\u0580\u0567\u0576\u0301",
    "georgian": "\u10e5\u10d0\u10e0\u10d7\u0301\u10e3\u10da\u10d8",
    "lao": "\u0e9e\u0eb2\u0eaa\u0eb2\u0ea5\u0eb2\u0ea7 \u0e99\u0ecd\u0ec9\u0eb2",
    "nko": "\u07d2\u07de\u07cf\u07eb \u07ca\u07f2\u07eb",
    "tifinagh": "\u2d5c\u2d49\u2d3c\u2d49\u2d4f\u0302\u0323",
    "devanagari": "\u0915\u094d\u0937\u0947\u0902 \u0928\u093f\u0930\u094d",
    "bengali": "\u0995\u09cd\u09b7\u09c7\u0982 \u09b0\u09cd\u09ac",
    "tamil": "\u0ba4\u0bae\u0bbf\u0bb4\u0bcd \u0b95\u0bca",
    "khmer": "\u1780\u17d2\u1798\u17c2\u179a \u1785\u17c6",
}
SYSTEM = Path("/usr/share/fonts")
TOKEN = re.compile(r"<([0-9a-f]*)>|\s*(-?\d+(?:\.\d+)?)(?=[\s<]|$)\s*")


def tokens(strings: str) -> list[str | float]:
    """The parts of a TJ array; an error where anything else stands in it (ISO 32000-2 §7.3.3, §9.4.3)."""
    found: list[str | float] = []
    place = 0
    while place < len(strings):
        match = TOKEN.match(strings, place)
        assert match is not None and match.end() > place, strings[place:]
        found.append(match[1] if match[1] is not None else float(match[2]))
        place = match.end()
    return found


def settings_of(text: str, direction: str) -> list[FontSetting]:
    """The fonts at hand that have every character of a text."""
    faces = [Face(entry.path, entry.number) for entry in default_faces()]
    faces += [Face(path) for path in sorted(SYSTEM.rglob("*.[to]tf"))[:400] if _covers(path, text)]
    return [FontSetting((face,), (), "", direction) for face in faces if face.covers(text.replace(" ", ""))]


def _covers(path: Path, text: str) -> bool:
    try:
        return Face(path).covers(text.replace(" ", ""))
    except fq.FleetQuillError:
        return False


@pytest.mark.parametrize("script", SCRIPTS)
def test_strings_of_marks_put_each_glyph_where_shaping_put_it(script):
    text = SCRIPTS[script]
    direction = "rtl" if script in ("hebrew", "arabic", "nko") else "ltr"
    fonts = settings_of(text, direction)
    if not fonts:
        pytest.skip(f"no font at hand has {script}")
    for setting in fonts:
        for word in text.split():
            for run in setting.exact(word).runs:
                check(run)


def check(run) -> None:
    """The pieces of a run say the same glyphs at the same places."""
    expected = list(run.places())
    found = []
    for piece in pieces_of(run):
        pen = piece.offset
        for token in tokens(piece.strings):
            if isinstance(token, float):
                pen -= token / 1000
                continue
            for start in range(0, len(token), 4):
                glyph = int(token[start : start + 4], 16)
                found.append((glyph, pen, piece.rise))
                pen += run.face.advance(glyph) / run.face.upem
    assert [glyph for glyph, _, _ in found] == [glyph for glyph, _, _ in expected]
    for (_, x, y), (_, wanted_x, wanted_y) in zip(found, expected, strict=True):
        assert x == pytest.approx(wanted_x, abs=2e-3) and y == pytest.approx(wanted_y, abs=1e-6)


MARKED = st.text("aqxVAT.- \u0323\u0302\u0301\u0335\u05d1\u05bc\u05b0\u0645\u064f\u0651", min_size=1, max_size=14)


@settings(max_examples=200, deadline=None)
@given(st.lists(MARKED, min_size=1, max_size=4), st.sampled_from(["ltr", "rtl"]))
def test_words_one_after_another_are_strings_and_numbers(words, direction):
    setting = FontSetting(
        tuple(FontLibrary(default_faces()).match(("sans-serif",), 400, "normal", 100.0)), (), "", direction
    )
    shaped = [setting.exact(word) for word in words]
    joined = f"{strings_of(setting.space)}-12.5".join(map(strings_of, shaped))
    glyphs = [token for token in tokens(joined) if isinstance(token, str)]
    spaces = len(words) - 1
    assert sum(map(len, glyphs)) == 4 * (sum(len(run.glyphs) for word in shaped for run in word.runs) + spaces)


def test_a_page_of_marks_has_no_number_that_is_none(press):
    text = " ".join(SCRIPTS.values())
    html = f"<p>{text}<p style='text-align:justify;width:200px'>{text} {text}<p style='letter-spacing:2px'>{text}"
    content = press.compose(fq.Manuscript.from_html(html)).to_bytes()
    arrays = []
    for stream in re.findall(rb"stream\r?\n(.*?)\r?\nendstream", content, re.DOTALL):
        try:
            arrays += re.findall(r"\[([^\]]*)\]TJ", zlib.decompress(stream).decode("latin-1"))
        except zlib.error:
            continue
    assert len(arrays) > 10
    for array in arrays:
        tokens(array)


def test_letters_of_several_faces_are_spaced_alike(press):
    def lefts(style: str) -> list[float]:
        html = f"<p><span style='{style}'>ab\u265ecd</span>"
        page = pdfium.PdfDocument(press.compose(fq.Manuscript.from_html(html)).to_bytes())[0].get_textpage()
        return [page.get_charbox(index)[0] for index in range(5)]

    steps = [wide - narrow for wide, narrow in zip(lefts("letter-spacing:1px"), lefts(""), strict=True)]
    assert steps == pytest.approx([0, 0.75, 1.5, 2.25, 3], abs=0.1)


@pytest.mark.parametrize(
    ("source", "copied"),
    [
        ("<p>a<wbr>b c d", "ab c d"),
        ("<p>a&#8203;b c d", "ab c d"),
        ("<p>a&#8288;b c d", "ab c d"),
        ("<p>a&shy;b c d", "ab c d"),
        ("<input value=''><p>a b c", "a b c"),
        ("<p>a&nbsp;b c d", "a\u00a0b c d"),
        ("<p>a&nbsp;b <b>x&nbsp;</b>c d", "a\u00a0b x\u00a0c d"),
        ("<p>a&#8199;b c&#8239;d e", "a\u2007b c\u202fd e"),
        (
            "<p dir=rtl>\u0645\u06cc\u200c\u0634\u0648\u062f \u062e\u0648\u0628",
            "\u0645\u06cc\u200c\u0634\u0648\u062f \u062e\u0648\u0628",
        ),
    ],
)
def test_spaces_are_copied_as_what_they_are(source, copied):
    """Characters that nobody sees have no glyph, and each kind of space a code of its own."""
    for tagged in (True, False):
        content = fq.compose(fq.Manuscript.from_html(source), tagged=tagged).to_bytes()
        text = pdfium.PdfDocument(content)[0].get_textpage().get_text_range()
        assert " ".join(text.split("\r\n")).strip() == copied


def test_empty_cells_do_not_change_what_is_copied():
    m = fq.Manuscript()
    m.table([{"a": "", "b": "x y z"}, {"a": "u v", "b": ""}], ["a", "b"])
    text = pdfium.PdfDocument(fq.compose(m).to_bytes())[0].get_textpage().get_text_range()
    assert text.split("\r\n") == ["a", "b", "x y z", "u v"]
