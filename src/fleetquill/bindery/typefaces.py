"""The fonts of a finished PDF: which codes are shown in each, what glyphs and text they stand for (ISO 32000-2 §9)."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from functools import lru_cache
from typing import Any, Final, NamedTuple

from fleetquill.bindery.subject import Subject
from fleetquill.pdf.compact_fonts import cids_of, read_compact
from fleetquill.pdf.objects import Name, Ref
from fleetquill.pdf.reading import PdfReader, Stream
from fleetquill.pdf.syntax import Parser

SHOWN: Final = ("Tj", "TJ", "'", '"')
UNSEEN: Final = 3  # text rendering mode: neither filled nor outlined
BLOCK: Final = re.compile(rb"begin(bfchar|bfrange|cidchar|cidrange|codespacerange)(.*?)end\1", re.S)
VERTICAL: Final = re.compile(rb"/WMode\s+(\d)")
MOST_IN_RANGE: Final = 65_536


class Typeface:
    """A font that text is shown in, with the codes that are shown."""

    def __init__(self, entries: dict[str, Any], reader: PdfReader, where: str) -> None:
        self.entries = entries
        self.where = where
        self.codes: set[int] = set()
        self.seen = False  # whether any of it is
        self._reader = reader
        self.is_composite = entries.get("Subtype") == "Type0"
        descendants = reader.array(entries.get("DescendantFonts"))
        self.own = reader.dictionary(descendants[0]) if self.is_composite and descendants else entries
        self.descriptor = reader.dictionary(self.own.get("FontDescriptor"))
        self.encoding = reader.resolve(entries.get("Encoding"))

    @property
    def name(self) -> str:
        return str(self.entries.get("BaseFont", self.entries.get("Subtype", "?")))

    @property
    def program(self) -> Stream | None:
        """The font program that is in the file."""
        for key in ("FontFile", "FontFile2", "FontFile3"):
            found = self._reader.resolve(self.descriptor.get(key))
            if isinstance(found, Stream):
                return found
        return None

    def characters(self) -> dict[int, int]:
        """The CID of each code that is shown (§9.7.5); a code that leads nowhere is missing."""
        if isinstance(self.encoding, Stream):
            known = code_map(self.encoding.content, "cid")
            return {code: known[code] for code in self.codes if code in known}
        return {code: code for code in self.codes}

    def texts(self) -> dict[int, str] | None:
        """What text each code stands for; None where the font does not say (§9.10.3)."""
        found = self._reader.resolve(self.entries.get("ToUnicode"))
        if not isinstance(found, Stream):
            return None
        return {
            code: bytes.fromhex(text).decode("utf-16-be", "replace") for code, text in _texts(found.content).items()
        }

    def widths(self) -> dict[int, float]:
        """The widths of CIDs, in thousandths of an em; those that are not said have `usual_width`."""
        found: dict[int, float] = {}
        given = [self._reader.resolve(part) for part in self._reader.array(self.own.get("W"))]
        place = 0
        while place + 1 < len(given):
            first, second = given[place], given[place + 1]
            if isinstance(second, list):
                found |= {first + index: self._reader.resolve(width) for index, width in enumerate(second)}
                place += 2
            elif place + 2 < len(given):
                found |= dict.fromkeys(range(first, min(second, first + MOST_IN_RANGE) + 1), given[place + 2])
                place += 3
            else:
                break
        return found

    @property
    def usual_width(self) -> float:
        return float(self._reader.resolve(self.own.get("DW")) or 1000)


class Program(NamedTuple):
    """What a font program has: for each CID its glyph's advance, in thousandths of an em."""

    advances: dict[int, float]


def program_of(face: Typeface) -> Program | None:
    """The glyphs of a composite font's program; None where it is of a kind that is not read. Raises ValueError where
    it is damaged."""
    stream = face.program
    if stream is None or not face.is_composite:
        return None
    try:
        if stream.entries.get("Subtype") == "CIDFontType0C":
            return Program(_compact_advances(stream.content))
        return Program(_true_type_advances(stream.content))
    except Exception as error:  # whatever a library says of a damaged font
        raise ValueError(str(error) or type(error).__name__) from error


def _true_type_advances(content: bytes) -> dict[int, float]:
    from fontTools.ttLib import TTFont

    font = TTFont(io.BytesIO(content), lazy=True)
    unit = 1000 / font["head"].unitsPerEm
    metrics = font["hmtx"].metrics
    return {index: metrics[name][0] * unit for index, name in enumerate(font.getGlyphOrder())}


def _compact_advances(content: bytes) -> dict[int, float]:
    from fontTools.misc.psCharStrings import T2WidthExtractor

    top = read_compact(content)
    cids = cids_of(top)
    unit = 1000 * getattr(top, "FontMatrix", [0.001])[0]
    found: dict[int, float] = {}
    for index, name in enumerate(top.charset):
        letter = top.CharStrings[name]
        private = letter.private
        extractor = T2WidthExtractor(getattr(private, "Subrs", []), letter.globalSubrs, private.nominalWidthX,
                                     private.defaultWidthX, private)  # fmt: skip
        extractor.execute(letter)
        found[index if cids is None else cids[index]] = extractor.width * unit
    return found


@lru_cache(maxsize=4)
def typefaces(subject: Subject) -> list[Typeface]:
    """The fonts of a file that any text is shown in."""
    found: dict[Any, Typeface] = {}
    reader = subject.reader
    for content in subject.contents:
        fonts = reader.dictionary(content.resources.get("Font"))
        current: Typeface | None = None
        mode = 0
        saved: list[tuple[Typeface | None, int]] = []
        for name, operands in content.operators:
            if name == "q":
                saved.append((current, mode))
            elif name == "Q" and saved:
                current, mode = saved.pop()
            elif name == "Tr" and operands:
                mode = operands[0]
            elif name == "Tf" and operands:
                ref = fonts.get(str(operands[0]))
                key = ref.number if isinstance(ref, Ref) else id(ref)
                if key not in found:
                    found[key] = Typeface(reader.dictionary(ref), reader, content.where)
                current = found[key]
            elif name in SHOWN and operands and current is not None:
                current.seen = current.seen or mode != UNSEEN
                current.codes.update(_codes(operands[-1], 2 if current.is_composite else 1))
    return [face for face in found.values() if face.codes]


def _codes(shown: Any, size: int) -> Iterator[int]:
    for part in shown if isinstance(shown, list) else [shown]:
        if isinstance(part, bytes):
            yield from (int.from_bytes(part[at : at + size], "big") for at in range(0, len(part), size))


def code_map(content: bytes, kind: str) -> dict[int, int]:
    """The numbers that a CMap leads codes to (§9.7.5.4)."""
    found: dict[int, int] = {}
    for name, values in _blocks(content):
        if name == f"{kind}char":
            found |= {_number(code): to for code, to in zip(values[::2], values[1::2], strict=False)}
        elif name == f"{kind}range":
            for low, high, to in zip(values[::3], values[1::3], values[2::3], strict=False):
                first, last = _number(low), min(_number(high), _number(low) + MOST_IN_RANGE)
                found |= {code: to + code - first for code in range(first, last + 1)}
    return found


def lengths_of_codes(content: bytes) -> dict[int, int]:
    """How many bytes codes have, by their first byte, as a CMap says (§9.7.6.2)."""
    found: dict[int, int] = {}
    for name, values in _blocks(content):
        if name == "codespacerange":
            for low, high in zip(values[::2], values[1::2], strict=False):
                if isinstance(low, bytes) and isinstance(high, bytes) and low and high:
                    found |= dict.fromkeys(range(low[0], high[0] + 1), len(low))
    return found


def is_vertical(content: bytes) -> int:
    """The writing mode that a CMap says."""
    found = VERTICAL.search(content)
    return int(found[1]) if found is not None else 0


def _texts(content: bytes) -> dict[int, str]:
    found: dict[int, str] = {}
    for name, values in _blocks(content):
        if name == "bfchar":
            found |= {_number(code): to.hex() for code, to in zip(values[::2], values[1::2], strict=False)}
        elif name == "bfrange":
            for low, high, to in zip(values[::3], values[1::3], values[2::3], strict=False):
                first, last = _number(low), min(_number(high), _number(low) + MOST_IN_RANGE)
                for code in range(first, last + 1):
                    if isinstance(to, list):
                        found |= {code: to[code - first].hex()} if code - first < len(to) else {}
                    else:
                        found[code] = (int.from_bytes(to, "big") + code - first).to_bytes(len(to), "big").hex()
    return found


def _blocks(content: bytes) -> Iterator[tuple[str, list[Any]]]:
    for block in BLOCK.finditer(content):
        parser = Parser(block[2])
        values: list[Any] = []
        while not parser.at_end():
            value = parser.value()
            if not isinstance(value, Name):
                values.append(value)
        yield block[1].decode(), values


def _number(code: Any) -> int:
    return int.from_bytes(code, "big") if isinstance(code, bytes) else int(code)
