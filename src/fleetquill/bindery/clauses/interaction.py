"""What answers to a reader: annotations, actions, fields, files that go along, layers (ISO 19005-2 §6.3 to §6.9)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from fleetquill.bindery.clauses.clause import clause
from fleetquill.bindery.subject import Subject
from fleetquill.pdf.objects import Ref
from fleetquill.pdf.reading import Stream
from fleetquill.standards import Standards

ANNOTATIONS: Final = frozenset(
    "Text Link FreeText Line Square Circle Polygon PolyLine Highlight Underline Squiggly StrikeOut Stamp Caret Ink "
    "Popup FileAttachment Widget PrinterMark TrapNet Watermark Redact Projection".split()
)
FORBIDDEN: Final = frozenset(
    "Launch Sound Movie ResetForm ImportData Hide SetOCGState Rendition Trans GoTo3DView JavaScript".split()
)
NAMED: Final = ("NextPage", "PrevPage", "FirstPage", "LastPage")
INVISIBLE, HIDDEN, PRINT, NO_VIEW, TOGGLE = 1, 2, 4, 32, 256  # flags of annotations (ISO 32000-2 §12.5.3)
WITHOUT_LOOK: Final = ("Popup", "Link", "Projection")  # kinds of annotations that need no appearance


@clause("Annotations are of kinds that last", archive="6.3.1", modern="6.3.1")
def annotation_kinds(subject: Subject, standards: Standards) -> Iterator[str]:
    for page, entries, _ in subject.annotations:
        if str(entries.get("Subtype")) not in ANNOTATIONS:
            yield f"On page {page.number} is an annotation of the kind {entries.get('Subtype')}."


@clause("Annotations are seen and printed", archive="6.3.2", modern="6.3.2")
def annotation_flags(subject: Subject, standards: Standards) -> Iterator[str]:
    for page, entries, _ in subject.annotations:
        flags = subject.reader.resolve(entries.get("F"))
        if entries.get("Subtype") == "Popup":
            continue
        if not isinstance(flags, int) or not flags & PRINT or flags & (INVISIBLE | HIDDEN | NO_VIEW | TOGGLE):
            yield f"On page {page.number} an annotation has the flags {flags}."


@clause("Annotations have their look with them", archive="6.3.3", modern="6.3.3")
def annotation_looks(subject: Subject, standards: Standards) -> Iterator[str]:
    for page, entries, _ in subject.annotations:
        rect = [subject.reader.resolve(side) for side in subject.reader.array(entries.get("Rect"))]
        flat = len(rect) == 4 and (rect[0] == rect[2] or rect[1] == rect[3])
        if entries.get("Subtype") not in WITHOUT_LOOK and not flat and "AP" not in entries:
            yield f"On page {page.number} an annotation ({entries.get('Subtype')}) has no appearance."


@clause("Fields are drawn as they are, without XFA", archive="6.4.1", modern="6.4.1", access="7.15", access_2="8.10.1")
def fields(subject: Subject, standards: Standards) -> Iterator[str]:
    form = subject.reader.dictionary(subject.reader.catalog.get("AcroForm"))
    if "XFA" in form:
        yield "The form is an XFA form."
    if form.get("NeedAppearances") is True and standards.part:
        yield "Readers are asked to draw the fields."


@clause("Actions do nothing but lead somewhere", archive="6.5.1", modern="6.6.1")
def actions(subject: Subject, standards: Standards) -> Iterator[str]:
    for number, entries in subject.dictionaries:
        for value in _actions(subject, entries):
            kind = str(value.get("S"))
            if kind in FORBIDDEN or (kind == "Named" and str(value.get("N")) not in NAMED):
                yield f"Object {number} has an action of the kind {kind}."


@clause("Nothing happens of itself", archive="6.5.2", modern="6.6.2")
def triggers(subject: Subject, standards: Standards) -> Iterator[str]:
    places = [("The document", subject.reader.catalog)]
    places += [(f"Page {page.number}", page.entries) for page in subject.pages]
    places += [(f"An annotation on page {page.number}", entries) for page, entries, _ in subject.annotations]
    for where, entries in places:
        if "AA" in entries:
            yield f"{where} has actions of its own accord."


def _actions(subject: Subject, entries: dict[str, Any]) -> Iterator[dict[str, Any]]:
    for key in ("A", "OpenAction", "PA"):
        value = entries.get(key)
        found = subject.reader.dictionary(value) if not isinstance(value, list) else {}
        if "S" in found and "O" not in found:  # structure elements have attributes under the same name
            yield found
    if entries.get("Type") == "Action":
        yield entries


@clause("Files that go along have both of their names", archive="6.8", modern="6.9", access="7.11")
def names_of_files(subject: Subject, standards: Standards) -> Iterator[str]:
    for _, entries, name in _files(subject):
        if "F" not in entries or "UF" not in entries:
            yield f"'{name}' has not."


@clause("Files that go along say what they are, and are of a kind that may", archive="6.8", modern="6.9")
def embedded_files(subject: Subject, standards: Standards) -> Iterator[str]:
    reader = subject.reader
    associated = {ref.number for ref in reader.array(reader.catalog.get("AF")) if isinstance(ref, Ref)}
    for number, entries, name in _files(subject):
        stream = reader.resolve(reader.dictionary(entries["EF"]).get("F"))
        if standards.part >= 3:
            if "AFRelationship" not in entries:
                yield f"Nothing says what '{name}' is to the document."
            if number not in associated:
                yield f"'{name}' is not among the document's associated files."
            said = stream.entries if isinstance(stream, Stream) else {}
            if "Subtype" not in said or "ModDate" not in reader.dictionary(said.get("Params")):
                yield f"'{name}' has no media type, or no date."
        if not standards.takes_any_file and isinstance(stream, Stream) and not stream.content.startswith(b"%PDF-"):
            yield f"'{name}' is a file of another kind than PDF/A."


def _files(subject: Subject) -> Iterator[tuple[int, dict[str, Any], str]]:
    """The files that go along: the number of what is said of each, that, and its name."""
    text = subject.reader.text
    for number, entries in subject.dictionaries:
        if "EF" in entries:
            yield number, entries, text(entries.get("UF")) or text(entries.get("F")) or f"object {number}"


@clause("Layers have a name and an order", archive="6.9", modern="6.10", access="7.10")
def layers(subject: Subject, standards: Standards) -> Iterator[str]:
    reader = subject.reader
    properties = reader.dictionary(reader.catalog.get("OCProperties"))
    given = [reader.dictionary(properties.get("D"))] if properties else []
    given += [reader.dictionary(ref) for ref in reader.array(properties.get("Configs"))]
    for one in given:
        if not reader.text(one.get("Name")):
            yield "A configuration of layers has no name."
        if "AS" in one:
            yield "Layers change of themselves."
