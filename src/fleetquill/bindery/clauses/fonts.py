"""Fonts: in the file, with the widths that it says, and with a text for each glyph (ISO 19005-2 §6.2.11)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from fleetquill.bindery.clauses.clause import clause
from fleetquill.bindery.subject import Subject
from fleetquill.bindery.typefaces import Program, Typeface, is_vertical, program_of, typefaces
from fleetquill.pdf.reading import Stream
from fleetquill.standards import Standards

WIDTHS_DIFFER: Final = 1.0  # thousandths of an em that are allowed
NO_TEXTS: Final = ("\0", "\ufeff", "\ufffe")
MOST_NAMED: Final = 5


@clause("Fonts are in the file", archive="6.2.11.4.1", modern="6.2.10.4.1", access="7.21.4.1", access_2="8.4.5.5.1")
def embedded(subject: Subject, standards: Standards) -> Iterator[str]:
    for face in typefaces(subject):
        if face.seen and face.entries.get("Subtype") != "Type3" and face.program is None:
            yield f"'{face.name}', first on {face.where}, is not."


@clause(
    "Composite fonts say how codes lead to glyphs", archive="6.2.11.3", modern="6.2.10.3", access="7.21.3",
    access_2="8.4.5.3",
)  # fmt: skip
def composite(subject: Subject, standards: Standards) -> Iterator[str]:
    reader = subject.reader
    for face in typefaces(subject):
        if not face.is_composite:
            continue
        if face.own.get("Subtype") == "CIDFontType2" and "CIDToGIDMap" not in face.own:
            yield f"'{face.name}' has no CIDToGIDMap."
        if isinstance(face.encoding, Stream):
            said = reader.dictionary(face.encoding.entries.get("CIDSystemInfo"))
            own = reader.dictionary(face.own.get("CIDSystemInfo"))
            if any(reader.text(said.get(key)) != reader.text(own.get(key)) for key in ("Registry", "Ordering")):
                yield f"'{face.name}' and its CMap are of different character collections."
            if is_vertical(face.encoding.content) != reader.resolve(face.encoding.entries.get("WMode", 0)):
                yield f"The CMap of '{face.name}' says two writing modes."
        elif not str(face.encoding).startswith("Identity-"):
            yield f"'{face.name}' uses the CMap {face.encoding}, which is not in the file."


@clause(
    "Glyphs are there, and as wide as the file says", archive="6.2.11.5", modern="6.2.10.5", access="7.21.5",
    access_2="8.4.5.6",
)  # fmt: skip
def widths(subject: Subject, standards: Standards) -> Iterator[str]:
    for face in typefaces(subject):
        program: Program | None = None
        try:
            program = program_of(face)
        except ValueError as error:
            yield f"The program of '{face.name}' cannot be read: {error}."
        if program is None:
            continue
        said, usual, known = face.widths(), face.usual_width, program.advances
        characters = set(face.characters().values())
        missing = sorted(characters - known.keys())
        if missing:
            yield f"'{face.name}' has no glyphs for the CIDs {_some(missing)}."
        wrong = [
            cid for cid in sorted(characters & known.keys()) if abs(said.get(cid, usual) - known[cid]) > WIDTHS_DIFFER
        ]
        if wrong:
            yield f"'{face.name}' is of another width at the CIDs {_some(wrong)}."


@clause("No character is shown by .notdef", archive="6.2.11.8", modern="6.2.10.9", access="7.21.8", access_2="8.4.5.9")
def missing_glyphs(subject: Subject, standards: Standards) -> Iterator[str]:
    for face in typefaces(subject):
        if not face.is_composite:
            continue
        characters = face.characters()
        if 0 in characters.values():
            yield f"'{face.name}' shows .notdef."
        lost = sorted(face.codes - characters.keys())
        if lost:
            yield f"In '{face.name}' the codes {_some(lost)} lead nowhere."


@clause(
    "Each glyph says its text", archive="6.2.11.7.2", access="7.21.7", access_2="8.4.5.8", levels=("A", "U"),
)  # fmt: skip
def texts(subject: Subject, standards: Standards) -> Iterator[str]:
    for face in typefaces(subject):
        known = face.texts()
        if known is None:
            if face.is_composite or not _is_latin(face):
                yield f"'{face.name}' has no map to Unicode."
            continue
        silent = sorted(code for code in face.codes if not known.get(code) or known[code] in NO_TEXTS)
        if silent:
            yield f"In '{face.name}' the codes {_some(silent)} have no text."


def _is_latin(face: Typeface) -> bool:
    """Whether a simple font has an encoding whose names of glyphs say their text."""
    encoding = face.encoding
    base = encoding.get("BaseEncoding") if isinstance(encoding, dict) else encoding
    return str(base) in ("WinAnsiEncoding", "MacRomanEncoding", "StandardEncoding", "MacExpertEncoding")


def _some(numbers: list[Any]) -> str:
    more = f" and {len(numbers) - MOST_NAMED} more" if len(numbers) > MOST_NAMED else ""
    return ", ".join(map(str, numbers[:MOST_NAMED])) + more
