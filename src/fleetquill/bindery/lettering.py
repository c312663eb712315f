"""Fonts of finished PDFs as readers take them: which text the codes of a string stand for, and how wide they are
(ISO 32000-2 §9.6, §9.7 and §9.10)."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from functools import lru_cache
from typing import Any, Final, NamedTuple

from fleetquill.bindery.core_fonts import core_widths
from fleetquill.bindery.typefaces import Typeface, code_map, is_vertical, lengths_of_codes
from fleetquill.pdf.objects import Name
from fleetquill.pdf.reading import PdfReader, Stream
from fleetquill.pdf.syntax import DAMAGE

UNKNOWN: Final = "\N{REPLACEMENT CHARACTER}"
USUAL_WIDTH: Final = 500.0  # thousandths of an em, where nothing says
TYPE_1_ROW: Final = re.compile(rb"dup\s+(\d{1,3})\s*/(\S+)\s+put")
CLEAR_TEXT: Final = 20_000  # bytes in which a Type 1 font says its encoding
CODECS: Final = {"WinAnsiEncoding": "cp1252", "MacRomanEncoding": "mac_roman"}
UNICODE_MAPS: Final = ("UCS2", "UTF16")  # in the names of CMaps whose codes are the text


class Letter(NamedTuple):
    """A code that is shown: what it stands for, how far it moves in thousandths of an em, whether it is the one-byte
    space that word spacing widens (§9.3.3)."""

    text: str
    width: float
    is_space: bool


ASCENT: Final = 0.75  # ems, where a font does not say
DESCENT: Final = 0.22
HIGHEST: Final = 2.0  # ems that are believed


def _heights(face: Typeface, reader: PdfReader) -> tuple[float, float]:
    """How far letters reach above and below the baseline, in ems (§9.8.1), where that can be believed."""
    said = [reader.resolve(face.descriptor.get(name)) for name in ("Ascent", "Descent")]
    ascent, descent = (abs(one) / 1000 if isinstance(one, (int, float)) else 0.0 for one in said)
    return (ascent, descent) if 0.0 < ascent < HIGHEST and 0.0 < descent < HIGHEST else (ASCENT, DESCENT)


class Lettering:
    """A font that strings are shown in."""

    def __init__(self, entries: dict[str, Any], reader: PdfReader) -> None:
        face = Typeface(entries, reader, "")
        self.vertical = False
        self.scale = 0.001
        self._known: dict[int, Letter] = {}
        self._lengths: dict[int, int] = {}  # of codes in bytes, by their first byte
        self._texts = _quietly(face.texts) or {}
        self._is_composite = face.is_composite
        self.ascent, self.descent = _heights(face, reader)
        if face.is_composite:
            self._composite(face)
        else:
            self._simple(face, entries, reader)

    def _composite(self, face: Typeface) -> None:
        self._widths = _quietly(face.widths) or {}
        self._usual = face.usual_width
        self._characters: dict[int, int] | None = None
        self._names: dict[int, str] = {}
        self._is_text = False
        if isinstance(face.encoding, Stream):
            content = face.encoding.content
            self._characters = code_map(content, "cid")
            self._lengths = lengths_of_codes(content)
            self.vertical = bool(is_vertical(content))
        elif face.encoding is not None:
            self.vertical = str(face.encoding).endswith("-V")
            self._is_text = any(part in str(face.encoding) for part in UNICODE_MAPS)

    def _simple(self, face: Typeface, entries: dict[str, Any], reader: PdfReader) -> None:
        first = reader.resolve(entries.get("FirstChar")) or 0
        widths = [reader.resolve(width) for width in reader.array(entries.get("Widths"))]
        if entries.get("Subtype") == "Type3":
            matrix = [reader.resolve(part) for part in reader.array(entries.get("FontMatrix"))]
            self.scale = float(matrix[0]) if matrix and isinstance(matrix[0], (int, float)) else self.scale
        self._widths = {first + at: width for at, width in enumerate(widths) if isinstance(width, (int, float))}
        missing = reader.resolve(face.descriptor.get("MissingWidth"))
        self._usual = float(missing) if isinstance(missing, (int, float)) and missing else USUAL_WIDTH
        self._characters = None
        names = _glyph_names(face, reader)
        self._names = {code: _text_of_name(name) for code, name in names.items()}
        self._is_text = False
        if not self._widths:
            known = core_widths(face.name)
            self._widths = {code: known[name] for code, name in names.items() if name in known}

    def letters(self, shown: bytes) -> Iterator[Letter]:
        """The letters of a string."""
        place = 0
        usual = 2 if self._is_composite else 1
        while place < len(shown):
            size = self._lengths.get(shown[place], usual)
            code = int.from_bytes(shown[place : place + size], "big")
            place += size
            found = self._known.get(code)
            if found is None:
                found = self._known[code] = self._letter(code, size)
            yield found

    def code_of(self) -> dict[str, int]:
        """The codes of single letters, of a font whose codes have one byte; nothing of another."""
        if self._is_composite:
            return {}
        found: dict[str, int] = {}
        for code in range(1, 256):
            text = self._letter(code, 1).text
            if len(text) == 1 and text != UNKNOWN:
                found.setdefault(text, code)
        return found

    def _letter(self, code: int, size: int) -> Letter:
        text = self._texts.get(code)
        if text is None:
            if self._is_text:
                text = code.to_bytes(max(2, size), "big").decode("utf-16-be", "replace")
            else:
                text = self._names.get(code, UNKNOWN)
        number = code if self._characters is None else self._characters.get(code, 0)
        width = self._widths.get(number, self._usual)
        return Letter(text, float(width) if isinstance(width, (int, float)) else self._usual, size == 1 and code == 32)


def _glyph_names(face: Typeface, reader: PdfReader) -> dict[int, str]:
    """The names of the glyphs that codes of a simple font mean, by its encoding (§9.6.5)."""
    encoding = face.encoding
    said = encoding if isinstance(encoding, dict) else {}
    base = str(encoding if isinstance(encoding, str) else reader.resolve(said.get("BaseEncoding")) or "")
    codec = CODECS.get(base)
    names = dict(_table(codec)) if codec else _built_in(face) or dict(_standard())
    code = 0
    for part in reader.array(said.get("Differences")):
        part = reader.resolve(part)
        if isinstance(part, Name):
            names[code] = str(part)
            code += 1
        elif isinstance(part, int):
            code = part
    return names


def _built_in(face: Typeface) -> dict[int, str]:
    """The encoding that a font program has itself; nothing where it says none (§9.6.5.1)."""
    program = face.program
    if program is None:
        return {}
    try:
        if program.entries.get("Subtype") == "Type1C":
            return _compact_encoding(program.content)
        found = TYPE_1_ROW.findall(program.content[:CLEAR_TEXT])
    except Exception:  # whatever a library says of a damaged font
        return {}
    return {int(code): name.decode("latin-1") for code, name in found if int(code) < 256}


def _compact_encoding(content: bytes) -> dict[int, str]:
    from fontTools.cffLib import CFFFontSet

    fonts = CFFFontSet()
    fonts.decompile(io.BytesIO(content), None, isCFF2=False)
    encoding = fonts[0].Encoding
    if not isinstance(encoding, list):
        return {}
    return {code: name for code, name in enumerate(encoding) if name != ".notdef"}


def _text_of_name(name: str) -> str:
    from fontTools import agl

    return agl.toUnicode(name) or UNKNOWN


@lru_cache(maxsize=4)
def _table(codec: str) -> dict[int, str]:
    """The names of the glyphs of an encoding that is one of letters."""
    from fontTools import agl

    texts = {code: bytes((code,)).decode(codec, "ignore") for code in range(32, 256)}
    return {code: agl.UV2AGL.get(ord(text), f"uni{ord(text):04X}") for code, text in texts.items() if text}


@lru_cache(maxsize=1)
def _standard() -> dict[int, str]:
    from fontTools.encodings.StandardEncoding import StandardEncoding

    return {code: name for code, name in enumerate(StandardEncoding) if name != ".notdef"}


def _quietly(ask: Any) -> Any:
    """What is found, or None where the file is damaged there."""
    try:
        return ask()
    except DAMAGE:
        return None
