"""What the file says of itself: its packet of metadata, what it conforms to, its title (ISO 19005-2 §6.6)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from fleetquill.bindery.clauses.clause import clause
from fleetquill.bindery.subject import SPACES, Subject
from fleetquill.pdf.reading import Stream
from fleetquill.standards import Standards

KNOWN: Final = frozenset((  # schemas that need no description (ISO 19005-2 §6.6.2.3.1)
    "http://purl.org/dc/elements/1.1/", "http://ns.adobe.com/xap/1.0/", "http://ns.adobe.com/xap/1.0/rights/",
    "http://ns.adobe.com/xap/1.0/mm/", "http://ns.adobe.com/xap/1.0/bj/", "http://ns.adobe.com/xap/1.0/t/pg/",
    "http://ns.adobe.com/xmp/1.0/DynamicMedia/", "http://ns.adobe.com/pdf/1.3/", "http://ns.adobe.com/photoshop/1.0/",
    "http://ns.adobe.com/camera-raw-settings/1.0/", "http://ns.adobe.com/exif/1.0/", "http://ns.adobe.com/tiff/1.0/",
    SPACES["pdfaid"], SPACES["pdfaExtension"], SPACES["rdf"],
))  # fmt: skip
REVISION: Final = "2020"  # of ISO 19005-4


@clause(
    "The document has a packet of metadata that is well-formed", archive="6.6.2.1", modern="6.7.2.1", access="7.1",
    access_2="8.11.1",
)  # fmt: skip
def packet(subject: Subject, standards: Standards) -> Iterator[str]:
    stream = subject.reader.resolve(subject.reader.catalog.get("Metadata"))
    if not isinstance(stream, Stream):
        yield "There is none."
    elif subject.packet is None:
        yield "It cannot be read as XML."
    elif stream.entries.get("Type") != "Metadata" or stream.entries.get("Subtype") != "XML":
        yield "Its stream does not say that it is one."


@clause("The file says that it is PDF/A, and which", archive="6.6.4", modern="6.7.3")
def identification(subject: Subject, standards: Standards) -> Iterator[str]:
    if subject.said("pdfaid:part") != str(standards.part):
        yield f"It says part {subject.said('pdfaid:part') or 'nothing'}."
    if subject.said("pdfaid:conformance") != standards.level:
        yield f"It says level {subject.said('pdfaid:conformance') or 'nothing'}."
    if standards.part == 4 and subject.said("pdfaid:rev") != REVISION:
        yield f"It says revision {subject.said('pdfaid:rev') or 'nothing'}."


@clause("The file says that it is PDF/UA, and which part", access="5", access_2="5")
def access_identification(subject: Subject, standards: Standards) -> Iterator[str]:
    if subject.said("pdfuaid:part") != str(standards.access):
        yield f"It says part {subject.said('pdfuaid:part') or 'nothing'}."
    if standards.access == 2 and not subject.said("pdfuaid:rev").isdigit():
        yield "It says no revision."


@clause("Metadata of other schemas is described", archive="6.6.2.3")
def schemas(subject: Subject, standards: Standards) -> Iterator[str]:
    root = subject.packet
    if root is None:
        return
    described: dict[str, set[str]] = {}
    for one in root.iter(f"{{{SPACES['rdf']}}}li"):
        space = one.find(f"{{{SPACES['pdfaSchema']}}}namespaceURI")
        if space is not None and space.text:
            names = one.iter(f"{{{SPACES['pdfaProperty']}}}name")
            described.setdefault(space.text.strip(), set()).update((name.text or "").strip() for name in names)
    for description in root.iter(f"{{{SPACES['rdf']}}}Description"):
        written = [str(child.tag) for child in description if isinstance(child.tag, str)]
        for name in [*written, *map(str, description.attrib)]:
            uri, _, local = name.removeprefix("{").partition("}")
            if local and uri not in KNOWN and local not in described.get(uri, ()):
                yield f"Nothing describes '{local}' of {uri}."


@clause("The document has a title, which readers are to show", access="7.1", access_2="8.11.1")
def title(subject: Subject, standards: Standards) -> Iterator[str]:
    if not subject.said("dc:title"):
        yield "There is no title."
    preferences = subject.reader.dictionary(subject.reader.catalog.get("ViewerPreferences"))
    if preferences.get("DisplayDocTitle") is not True:
        yield "Readers show the file's name."
