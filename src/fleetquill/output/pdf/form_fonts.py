"""Fonts that readers set what is typed in: all Latin letters of a face, by their usual codes (ISO 32000-2 §9.6)."""

from __future__ import annotations

from typing import Any, Final

import uharfbuzz as hb

from fleetquill.output.pdf.file import PdfFile
from fleetquill.output.pdf.fonts import DROPPED_TABLES
from fleetquill.pdf.compact_fonts import cids_of, read_compact
from fleetquill.pdf.objects import Name, Ref
from fleetquill.text.face import Face

FIRST, LAST = 32, 255  # codes
CODEC: Final = "cp1252"  # what readers call WinAnsiEncoding
KEPT: Final = ("cmap", "post", "OS/2")  # tables that such fonts need
NONSYMBOLIC: Final = 32  # flag: its letters are those of the usual set (table 121)


def letters() -> dict[int, str]:
    """The letters of the encoding, by their code."""
    return {code: bytes((code,)).decode(CODEC, "ignore") or " " for code in range(FIRST, LAST + 1)}


def write_form_font(file: PdfFile, face: Face, descriptor: dict[str, Any]) -> Ref | None:
    """Writes a simple font; None where the face's glyphs have no names by which they could be meant."""
    wanted = letters()
    wish: Any = hb.SubsetInput()
    wish.flags = hb.SubsetFlags.NOTDEF_OUTLINE | hb.SubsetFlags.GLYPH_NAMES
    for letter in wanted.values():
        wish.unicode_set.add(ord(letter))
    for tag in DROPPED_TABLES:
        if tag not in KEPT:
            wish.drop_table_tag_set.add(int.from_bytes(tag.encode(), "big"))
    try:
        plan = hb.SubsetPlan(face.hb_face, wish)
        made = plan.execute()
    except RuntimeError:
        return None
    glyphs = {code: face.hb_font.get_nominal_glyph(ord(letter)) or 0 for code, letter in wanted.items()}
    widths = [round(face.advance(glyph) * 1000 / face.upem) if glyph else 0 for glyph in glyphs.values()]
    encoding: Any = Name("WinAnsiEncoding")
    if face.is_cff:
        program = bytes(made.reference_table("CFF ").data)
        top = read_compact(program)
        if cids_of(top) is not None:  # its glyphs have no names
            return None
        names = list(top.charset)
        numbers = plan.old_to_new_glyph_mapping
        differences: list[Any] = [FIRST]
        differences += [Name(names[numbers[glyph]] if glyph in numbers else ".notdef") for glyph in glyphs.values()]
        encoding = {"Type": Name("Encoding"), "BaseEncoding": encoding, "Differences": differences}
        key, said = "FontFile3", dict[str, Any](Subtype=Name("Type1C"))
    else:
        program = bytes(made.blob.data)
        key, said = "FontFile2", dict[str, Any](Length1=len(program))
    name = f"FQFORM+{face.postscript_name}"
    flags = (descriptor["Flags"] & ~4) | NONSYMBOLIC
    own = file.add(descriptor | {"FontName": Name(name), "Flags": flags, key: file.add_stream(program, said)})
    return file.add(
        {
            "Type": Name("Font"),
            "Subtype": Name("Type1" if face.is_cff else "TrueType"),
            "BaseFont": Name(name),
            "FirstChar": FIRST,
            "LastChar": LAST,
            "Widths": widths,
            "FontDescriptor": own,
            "Encoding": encoding,
        }
    )
