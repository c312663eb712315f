"""Fonts in the PDF: each face once, subset to the glyphs used, with a map back to text (§9.6 to §9.10)."""

from __future__ import annotations

import hashlib
import zlib
from collections.abc import Iterable, Mapping
from typing import Any, Final

import uharfbuzz as hb

from fleetquill.caches import Cache
from fleetquill.output.pdf.file import PdfFile
from fleetquill.output.pdf.objects import Name, Raw, Ref, number
from fleetquill.text.face import Face

DROPPED_TABLES: Final = ("GSUB", "GPOS", "GDEF", "BASE", "JSTF", "MATH", "name", "OS/2", "post", "cmap", "kern",
                         "hdmx", "VDMX", "LTSH", "gasp", "DSIG", "VORG", "FFTM", "STAT", "meta")  # fmt: skip
MOST_SUBSETS: Final = 64


class SubsetStore:
    """Subsets that were made before, by face and glyph set, ready to be written."""

    def __init__(self) -> None:
        self._subsets: Cache[tuple[Face, frozenset[int]], tuple[bytes, int]] = Cache(MOST_SUBSETS)

    def get(self, face: Face, glyphs: frozenset[int]) -> tuple[bytes, int]:
        """The deflated font program and its length before."""
        found = self._subsets.get((face, glyphs))
        if found is None:
            program = subset(face, glyphs)
            found = self._subsets.put((face, glyphs), (zlib.compress(program, 6), len(program)))
        return found


def subset(face: Face, glyphs: Iterable[int]) -> bytes:
    """The font program with these glyphs alone; glyph numbers stay as they are."""
    wish: Any = hb.SubsetInput()
    wish.flags = hb.SubsetFlags.RETAIN_GIDS | hb.SubsetFlags.NOTDEF_OUTLINE
    for glyph in sorted(glyphs):
        wish.glyph_set.add(glyph)
    for tag in DROPPED_TABLES:
        wish.drop_table_tag_set.add(int.from_bytes(tag.encode(), "big"))
    try:
        made = hb.subset(face.hb_face, wish)
    except RuntimeError:  # a font whose damage was not seen before: whole, for readers to make of it what they can
        made = face.hb_face
    if face.is_cff:
        return bytes(made.reference_table("CFF ").data)
    return bytes(made.blob.data)


class PdfFont:
    """One face as a font resource of one file: a Type 0 font whose codes are glyph numbers."""

    def __init__(self, face: Face, name: str, ref: Ref) -> None:
        self.face = face
        self.name = name
        self.ref = ref
        self.glyphs: set[int] = {0}
        self.texts: dict[int, str] = {}
        self.said: set[tuple[int, str]] = set()  # the same, in pairs

    def write(self, file: PdfFile, subsets: SubsetStore) -> None:
        """Writes the font dictionaries and the font program once all glyphs are known."""
        face = self.face
        glyphs = frozenset(self.glyphs)
        program, length = subsets.get(face, glyphs)
        base_name = f"{_tag(face, glyphs)}+{face.postscript_name}"
        program_entries: dict[str, Any] = {"Length1": length}
        if face.is_cff:
            program_entries = {"Subtype": Name("CIDFontType0C")}
        program_ref = file.add_stream(program, program_entries, deflated=True)
        descriptor = file.add(_descriptor(face, base_name, program_ref))
        descendant = file.add(
            {
                "Type": Name("Font"),
                "Subtype": Name("CIDFontType0" if face.is_cff else "CIDFontType2"),
                "BaseFont": Name(base_name),
                "CIDSystemInfo": {"Registry": "Adobe", "Ordering": "Identity", "Supplement": 0},
                "FontDescriptor": descriptor,
                "DW": 1000,
                "W": Raw(_widths(face, glyphs)),
                "CIDToGIDMap": None if face.is_cff else Name("Identity"),
            }
        )
        to_unicode = file.add_stream(_to_unicode(self.texts))
        file.add(
            {
                "Type": Name("Font"),
                "Subtype": Name("Type0"),
                "BaseFont": Name(base_name),
                "Encoding": Name("Identity-H"),
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


def _descriptor(face: Face, name: str, program: Ref) -> dict[str, Any]:
    """§9.8. Flags: fixed pitch 1, symbolic 4, italic 64."""
    flags = 4 | face.fixed_pitch | (64 if face.italic_angle else 0)
    return {
        "Type": Name("FontDescriptor"),
        "FontName": Name(name),
        "Flags": flags,
        "FontBBox": list(face.bounds),
        "ItalicAngle": face.italic_angle,
        "Ascent": round(face.ascent * 1000),
        "Descent": -round(face.descent * 1000),
        "CapHeight": round(face.cap_height * 1000),
        "XHeight": round(face.x_height * 1000),
        "StemV": 50 + round((face.weight / 65) ** 2),
        "FontFile3" if face.is_cff else "FontFile2": program,
    }


def _widths(face: Face, glyphs: frozenset[int]) -> str:
    """The W array: runs of neighbouring glyph numbers (§9.7.4.3)."""
    runs: list[str] = []
    current: list[str] = []
    previous = -2
    for glyph in sorted(glyphs):
        if glyph != previous + 1 and current:
            runs.append(f"{' '.join(current)}]")
            current = []
        if not current:
            current.append(f"{glyph}[{number(face.advance(glyph) * 1000 / face.upem)}")
        else:
            current.append(number(face.advance(glyph) * 1000 / face.upem))
        previous = glyph
    if current:
        runs.append(f"{' '.join(current)}]")
    return f"[{' '.join(runs)}]"


CMAP_HEAD: Final = """/CIDInit /ProcSet findresource begin
12 dict begin
begincmap
/CIDSystemInfo << /Registry (Adobe) /Ordering (UCS) /Supplement 0 >> def
/CMapName /Adobe-Identity-UCS def
/CMapType 2 def
1 begincodespacerange
<0000> <FFFF>
endcodespacerange
"""
CMAP_FOOT: Final = "endcmap\nCMapName currentdict /CMap defineresource pop\nend\nend\n"


def _to_unicode(texts: Mapping[int, str]) -> bytes:
    """What text each glyph stands for (§9.10.3)."""
    rows = [
        f"<{glyph:04x}> <{text.encode('utf-16-be', 'surrogatepass').hex()}>"
        for glyph, text in sorted(texts.items())
        if text
    ]
    parts = [CMAP_HEAD]
    for start in range(0, len(rows), 100):
        chunk = rows[start : start + 100]
        parts.append(f"{len(chunk)} beginbfchar\n" + "\n".join(chunk) + "\nendbfchar\n")
    parts.append(CMAP_FOOT)
    return "".join(parts).encode("ascii")
