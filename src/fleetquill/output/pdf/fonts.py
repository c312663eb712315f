"""Fonts in the PDF: each face once, subset to the glyphs used, with a map back to text (§9.6 to §9.10)."""

from __future__ import annotations

import hashlib
import zlib
from collections.abc import Iterable, Mapping, Sequence
from operator import itemgetter
from typing import Any, Final, NamedTuple

import uharfbuzz as hb

from fleetquill.caches import Budget, Cache
from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.compact_fonts import cids_of, read_compact
from fleetquill.pdf.objects import Name, Raw, Ref, number
from fleetquill.text.face import Face

DROPPED_TABLES: Final = ("GSUB", "GPOS", "GDEF", "BASE", "JSTF", "MATH", "name", "OS/2", "post", "cmap", "kern",
                         "hdmx", "VDMX", "LTSH", "gasp", "DSIG", "VORG", "FFTM", "STAT", "meta", "COLR",
                         "CPAL", "CBDT", "CBLC", "sbix", "SVG ")  # fmt: skip
MOST_SUBSETS: Final = 64
WHOLE_ALONE: Final = 0x0100  # OpenType, OS/2 fsType: no subsetting
FIRST_SPARE: Final = 256  # codes of two bytes, for glyphs that stand for more than one text
LAST_CODE: Final = 0xFFFF
NO_TEXT: Final = "\u200b"  # of a glyph whose text is told by another
COMPRESSION: Final = 9


class Subset(NamedTuple):
    """A font program with few glyphs: deflated, its length before, and the numbers that show its glyphs."""

    program: bytes
    length: int
    numbers: Mapping[int, int]


class SubsetStore:
    """Subsets that were made before, by face and glyph set, ready to be written."""

    def __init__(self, budget: Budget) -> None:
        self._subsets: Cache[tuple[Face, frozenset[int]], Subset] = budget.cache(MOST_SUBSETS, _weight)

    def get(self, face: Face, glyphs: frozenset[int]) -> Subset:
        found = self._subsets.get((face, glyphs))
        return found or self._subsets.put((face, glyphs), subset(face, glyphs))


def _weight(key: tuple[Face, frozenset[int]], made: Subset) -> int:
    return 500 + len(made.program) + 200 * len(made.numbers)


def subset(face: Face, glyphs: Iterable[int]) -> Subset:
    """The font program with these glyphs alone. They are numbered anew: a program that keeps the numbers has an empty
    place for each glyph that is left out."""
    if face.embedding & WHOLE_ALONE:  # its maker wants all of it to be there
        glyphs = range(face.glyph_count)
    wish: Any = hb.SubsetInput()
    wish.flags = hb.SubsetFlags.NOTDEF_OUTLINE
    for glyph in sorted(glyphs):
        wish.glyph_set.add(glyph)
    for tag in DROPPED_TABLES:
        wish.drop_table_tag_set.add(int.from_bytes(tag.encode(), "big"))
    try:
        plan = hb.SubsetPlan(face.hb_face, wish)
        made = plan.execute()
        known = plan.old_to_new_glyph_mapping
        numbers = {glyph: known[glyph] for glyph in glyphs if glyph in known}
    except RuntimeError:  # a font whose damage was not seen before: whole, for readers to make of it what they can
        made = face.hb_face
        numbers = {glyph: glyph for glyph in glyphs}
    program = bytes(made.reference_table("CFF ").data) if face.is_cff else bytes(made.blob.data)
    if face.is_cid_keyed:
        numbers = _cids(program, numbers)
    return Subset(zlib.compress(program, COMPRESSION), len(program), numbers)


def _cids(program: bytes, numbers: Mapping[int, int]) -> dict[int, int]:
    """The numbers that glyphs are shown by in a program that has its own for them, by their places in it."""
    try:
        cids = cids_of(read_compact(program))
    except Exception:  # whatever a library says of a font whose damage was not seen before
        cids = None
    return dict(numbers) if cids is None else {glyph: cids[place] for glyph, place in numbers.items()}


class PdfFont:
    """One face as a font resource of one file: a Type 0 font whose codes are the face's own glyph numbers, which a
    CMap of the file leads to those of the subset (§9.7.5)."""

    def __init__(self, face: Face, name: str, ref: Ref) -> None:
        self.face = face
        self.name = name
        self.ref = ref
        self.glyphs: set[int] = {0}
        self.texts: dict[int, str] = {}  # by code
        self.said: set[tuple[int, str]] = set()  # glyphs and what they stand for, as far as that is settled
        self.codes: dict[tuple[int, str], int] = {}  # of those that stand for more than one text, but for their first
        self._spare = max(face.glyph_count, FIRST_SPARE)

    def say(self, meanings: Iterable[tuple[int, str]]) -> None:
        """Notes what glyphs stand for: a glyph gets a code of its own for each text."""
        for meaning in meanings:
            glyph, text = meaning
            if meaning in self.said:
                continue
            self.said.add(meaning)
            if not glyph or not text or self.texts.setdefault(glyph, text) == text or self._spare > LAST_CODE:
                continue
            self.codes[meaning] = self._spare
            self.texts[self._spare] = text
            self._spare += 1

    def write(self, file: PdfFile, subsets: SubsetStore) -> None:
        """Writes the font dictionaries and the font program once all glyphs are known."""
        face = self.face
        glyphs = frozenset(self.glyphs)
        program, length, numbers = subsets.get(face, glyphs)
        base_name = f"{_tag(face, glyphs)}+{face.postscript_name}"
        program_entries: dict[str, Any] = {"Length1": length}
        if face.is_cff:
            program_entries = {"Subtype": Name("CIDFontType0C")}
        program_ref = file.add_stream(program, program_entries, deflated=True)
        key = "FontFile3" if face.is_cff else "FontFile2"
        descriptor = file.add({**descriptor_of(face), "FontName": Name(base_name), key: program_ref})
        descendant = file.add(
            {
                "Type": Name("Font"),
                "Subtype": Name("CIDFontType0" if face.is_cff else "CIDFontType2"),
                "BaseFont": Name(base_name),
                "CIDSystemInfo": CID_SYSTEM,
                "FontDescriptor": descriptor,
                "DW": 1000,
                "W": Raw(_widths(face, numbers)),
                "CIDToGIDMap": None if face.is_cff else Name("Identity"),
            }
        )
        places = {**numbers, **{code: numbers[meaning[0]] for meaning, code in self.codes.items()}}
        encoding = file.add_stream(
            _encoding(places),
            {"Type": Name("CMap"), "CMapName": Name(CMAP_NAME), "CIDSystemInfo": CID_SYSTEM},
        )
        silent = dict.fromkeys((glyph for glyph in self.glyphs if glyph), NO_TEXT)
        to_unicode = file.add_stream(_to_unicode(silent | self.texts))
        file.add(
            {
                "Type": Name("Font"),
                "Subtype": Name("Type0"),
                "BaseFont": Name(base_name),
                "Encoding": encoding,
                "DescendantFonts": [descendant],
                "ToUnicode": to_unicode,
            },
            self.ref,
        )


def _tag(face: Face, glyphs: frozenset[int]) -> str:
    """Six letters that differ from subset to subset (§9.9.2)."""
    seed = f"{face.postscript_name} {sorted(glyphs)}".encode()
    digest = hashlib.md5(seed, usedforsecurity=False).digest()
    return "".join(chr(65 + byte % 26) for byte in digest[:6])


def descriptor_of(face: Face) -> dict[str, Any]:
    """What is said of a face besides its name and its program (§9.8). Flags: fixed pitch 1, symbolic 4, italic 64."""
    flags = 4 | face.fixed_pitch | (64 if face.italic_angle else 0)
    return {
        "Type": Name("FontDescriptor"),
        "Flags": flags,
        "FontBBox": list(face.bounds),
        "ItalicAngle": face.italic_angle,
        "Ascent": round(face.ascent * 1000),
        "Descent": -round(face.descent * 1000),
        "CapHeight": round(face.cap_height * 1000),
        "XHeight": round(face.x_height * 1000),
        "StemV": 50 + round((face.weight / 65) ** 2),
    }


def _widths(face: Face, numbers: Mapping[int, int]) -> str:
    """The W array: runs of neighbouring glyphs of the subset (§9.7.4.3)."""
    runs: list[str] = []
    current: list[str] = []
    previous = -2
    for glyph, place in sorted(numbers.items(), key=itemgetter(1)):
        width = number(face.advance(glyph) * 1000 / face.upem)
        if place != previous + 1 and current:
            runs.append(f"{' '.join(current)}]")
            current = []
        current.append(width if current else f"{place}[{width}")
        previous = place
    if current:
        runs.append(f"{' '.join(current)}]")
    return f"[{' '.join(runs)}]"


CMAP_HEAD: Final = """/CIDInit /ProcSet findresource begin
12 dict begin
begincmap
/CIDSystemInfo << /Registry (Adobe) /Ordering ({ordering}) /Supplement 0 >> def
/CMapName /{name} def
/CMapType {kind} def
1 begincodespacerange
<0000> <FFFF>
endcodespacerange
"""
CMAP_NAME: Final = "Subset"
CID_SYSTEM: Final = {"Registry": "Adobe", "Ordering": "Identity", "Supplement": 0}
MOST_IN_A_BLOCK: Final = 100  # entries between 'begin' and 'end' of a CMap
CMAP_FOOT: Final = "endcmap\nCMapName currentdict /CMap defineresource pop\nend\nend\n"


def _to_unicode(texts: Mapping[int, str]) -> bytes:
    """What text each glyph stands for (§9.10.3)."""
    rows = [
        f"<{glyph:04x}> <{text.encode('utf-16-be', 'surrogatepass').hex()}>"
        for glyph, text in sorted(texts.items())
        if text
    ]
    head = CMAP_HEAD.format(ordering="UCS", name="Adobe-Identity-UCS", kind=2)
    return _cmap(head, "bfchar", rows)


def _encoding(numbers: Mapping[int, int]) -> bytes:
    """Which glyph of the subset each code of a string means: those that follow one another in ranges (§9.7.5.3)."""
    ranges: list[tuple[int, int, int]] = []  # the first and the last code, the first glyph
    for code, place in sorted(numbers.items()):
        if ranges:
            first, last, start = ranges[-1]
            if code == last + 1 and place == start + code - first and code >> 8 == first >> 8:
                ranges[-1] = first, code, start
                continue
        ranges.append((code, code, place))
    rows = [f"<{first:04x}> <{last:04x}> {place}" for first, last, place in ranges]
    return _cmap(CMAP_HEAD.format(ordering="Identity", name=CMAP_NAME, kind=1), "cidrange", rows)


def _cmap(head: str, kind: str, rows: Sequence[str]) -> bytes:
    parts = [head]
    for start in range(0, len(rows), MOST_IN_A_BLOCK):
        chunk = rows[start : start + MOST_IN_A_BLOCK]
        parts.append(f"{len(chunk)} begin{kind}\n" + "\n".join(chunk) + f"\nend{kind}\n")
    parts.append(CMAP_FOOT)
    return "".join(parts).encode("ascii")
