"""The file itself: header, trailer, streams, limits (ISO 19005-2 §6.1, ISO 19005-4 §6.1)."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any, Final

from fleetquill.bindery.clauses.clause import clause
from fleetquill.bindery.subject import Subject
from fleetquill.pdf.objects import Name, Ref
from fleetquill.pdf.syntax import PdfSyntaxError
from fleetquill.standards import Standards

LEAST_SIDE, MOST_SIDE = 3, 14_400  # points of a page
MOST_DEEP: Final = 28  # saved graphics states
LONGEST_NAME: Final = 127  # bytes
LONGEST_STRING: Final = 32_767
FORBIDDEN_FILTERS: Final = ("LZWDecode", "LZW", "Crypt")
SECOND_LINE: Final = re.compile(rb"%PDF-\d\.\d[ ]*[\r\n]+%([^\r\n]*)")


@clause("The header names the version, and a comment of four bytes over 127 follows", archive="6.1.2", modern="6.1.2")
def header(subject: Subject, standards: Standards) -> Iterator[str]:
    start = subject.reader.content[:64]
    wanted = b"%PDF-2." if standards.part == 4 else b"%PDF-1."
    if not start.startswith(wanted):
        yield f"The file begins with {start[:8]!r}, not with {wanted!r}."
    found = SECOND_LINE.match(start)
    if found is None or len(found[1]) < 4 or any(byte <= 127 for byte in found[1][:4]):
        yield "The second line is no comment of four bytes over 127."


@clause("The cross-reference table leads to every object", archive="6.1.4", modern="6.1.4")
def table(subject: Subject, standards: Standards) -> Iterator[str]:
    if subject.reader.repaired:
        yield "It does not: the objects had to be looked for."


@clause("The trailer has an ID, nothing is encrypted, and nothing follows the end", archive="6.1.3", modern="6.1.3")
def trailer(subject: Subject, standards: Standards) -> Iterator[str]:
    reader = subject.reader
    identity = reader.array(reader.trailer.get("ID"))
    if len(identity) != 2 or not all(identity):
        yield "The trailer has no ID."
    if not re.search(rb"%%EOF[\r\n]{0,2}\Z", reader.content):
        yield "The file does not end with %%EOF."
    if standards.part == 4 and "Info" in reader.trailer and "PieceInfo" not in reader.catalog:
        yield "The trailer names an information dictionary."


@clause("Streams are as long as they say, and none is outside of the file", archive="6.1.7.1", modern="6.1.6.1")
def streams(subject: Subject, standards: Standards) -> Iterator[str]:
    for number, stream in subject.streams:
        if subject.reader.resolve(stream.entries.get("Length")) != len(stream.raw):
            yield f"Object {number} is {len(stream.raw)} bytes long and says another length."
        outside = [key for key in ("F", "FFilter", "FDecodeParms") if key in stream.entries]
        if outside:
            yield f"Object {number} has its content in another file."


@clause("Streams can be unpacked, with filters that are allowed", archive="6.1.7.2", modern="6.1.6.2")
def filters(subject: Subject, standards: Standards) -> Iterator[str]:
    for number, stream in subject.streams:
        given = subject.reader.resolve(stream.entries.get("Filter"))
        for name in given if isinstance(given, list) else [given]:
            if name in FORBIDDEN_FILTERS:
                yield f"Object {number} is compressed with {name}."
        try:
            _ = stream.content
        except PdfSyntaxError as error:
            yield f"Object {number}: {error}"
    yield from subject.damage


@clause("Pages have from 3 to 14,400 points a side", archive="6.1.13", modern="6.1.11")
def page_sizes(subject: Subject, standards: Standards) -> Iterator[str]:
    for page in subject.pages:
        for key in ("MediaBox", "CropBox", "TrimBox", "BleedBox", "ArtBox"):
            box = [subject.reader.resolve(side) for side in subject.reader.array(page.entries.get(key))]
            if len(box) == 4 and not all(
                LEAST_SIDE <= abs(side) <= MOST_SIDE for side in (box[2] - box[0], box[3] - box[1])
            ):
                yield f"Page {page.number} has a {key} of {box}."


@clause("Names and strings are no longer than readers take", archive="6.1.13")
def limits(subject: Subject, standards: Standards) -> Iterator[str]:
    for number, entries in subject.dictionaries:
        for value in _values(entries):
            if isinstance(value, Name) and len(value.encode()) > LONGEST_NAME:
                yield f"Object {number} has a name of {len(value.encode())} bytes."
            elif isinstance(value, bytes) and len(value) > LONGEST_STRING:
                yield f"Object {number} has a string of {len(value)} bytes."


@clause("Graphics states are saved no more than 28 deep", archive="6.1.13")
def saved_states(subject: Subject, standards: Standards) -> Iterator[str]:
    for content in subject.contents:
        depth = deepest = 0
        for operator in content.operators:
            depth += (operator.name == "q") - (operator.name == "Q")
            deepest = max(deepest, depth)
        if deepest > MOST_DEEP:
            yield f"On {content.where} they are saved {deepest} deep."


def _values(entries: dict[str, Any]) -> Iterator[Any]:
    """Names and strings within an object."""
    waiting: list[Any] = [entries]
    while waiting:
        value = waiting.pop()
        if isinstance(value, dict):
            waiting += [Name(key) for key in value] + list(value.values())
        elif isinstance(value, list):
            waiting += value
        elif not isinstance(value, Ref):
            yield value
