"""A finished PDF as those see it who check it: its pages with their operators, its fonts, its structure, its metadata.

It knows nothing of what wrote the file.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from typing import Any, Final, NamedTuple

from lxml import etree

from fleetquill.pdf.objects import Ref
from fleetquill.pdf.reading import PdfPage, PdfReader, Stream
from fleetquill.pdf.syntax import Operator, Parser, PdfSyntaxError

MOST_DEEP: Final = 30  # forms in forms
SPACES: Final = {
    "rdf": "http://www.w3.org/1999/02/22-rdf-syntax-ns#",
    "dc": "http://purl.org/dc/elements/1.1/",
    "pdfaid": "http://www.aiim.org/pdfa/ns/id/",
    "pdfuaid": "http://www.aiim.org/pdfua/ns/id/",
    "pdfaExtension": "http://www.aiim.org/pdfa/ns/extension/",
    "pdfaSchema": "http://www.aiim.org/pdfa/ns/schema#",
    "pdfaProperty": "http://www.aiim.org/pdfa/ns/property#",
}
PARSER: Final = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False)


class Content(NamedTuple):
    """A content stream: where it is, its operators, its resources, the page that it is on, and its own dictionary."""

    where: str
    operators: list[Operator]
    resources: dict[str, Any]
    page: PdfPage
    entries: dict[str, Any]
    ref: Ref | None  # of a form; None for the page's own
    tagged_outside: bool = False  # whether it is drawn within a marked sequence


class Element(NamedTuple):
    """A structure element: its role as a standard type, the dictionary, its kids, and the element it stands in."""

    role: str
    entries: dict[str, Any]
    ref: Ref | None
    parent: Element | None
    kids: list[Any]  # elements, and what else there is: numbers and dictionaries


class Subject:
    """A file that is checked."""

    def __init__(self, reader: PdfReader) -> None:
        self.reader = reader
        self.pages = list(reader.pages())
        self.damage: list[str] = []  # what could not be read

    # ---- content ----

    @cached_property
    def contents(self) -> list[Content]:
        """The content streams of all pages, with those of the forms that they draw."""
        found: list[Content] = []
        seen: set[tuple[int, bool]] = set()
        for page in self.pages:
            try:
                operators = list(Parser(self.reader.page_content(page)).operators())
            except PdfSyntaxError as error:
                self.damage.append(f"page {page.number}: {error}")
                continue
            resources = self.reader.dictionary(page.entries.get("Resources"))
            own = Content(f"page {page.number}", operators, resources, page, page.entries, None)
            found.append(own)
            self._add_forms(own, found, seen, 0)
            for annotation in self.annotations_of(page):
                for stream in self._appearances(annotation):
                    self._add_form(stream, None, own, found, seen, 0, marked=True)
        return found

    def _add_forms(self, content: Content, found: list[Content], seen: set[tuple[int, bool]], deep: int) -> None:
        depth = 0
        for operator in content.operators:
            if operator.name in ("BMC", "BDC"):
                depth += 1
            elif operator.name == "EMC":
                depth -= 1
            elif operator.name == "Do" and operator.operands:
                ref = self.reader.dictionary(content.resources.get("XObject")).get(str(operator.operands[0]))
                stream = self.reader.resolve(ref)
                if isinstance(stream, Stream) and stream.entries.get("Subtype") == "Form":
                    inside = content.tagged_outside or depth > 0
                    self._add_form(stream, ref, content, found, seen, deep, marked=inside)

    def _add_form(
        self,
        stream: Stream,
        ref: Any,
        around: Content,
        found: list[Content],
        seen: set[tuple[int, bool]],
        deep: int,
        *,
        marked: bool,
    ) -> None:
        key = (ref.number if isinstance(ref, Ref) else id(stream), marked)
        if key in seen or deep > MOST_DEEP:
            return
        seen.add(key)
        try:
            operators = list(Parser(stream.content).operators())
        except PdfSyntaxError as error:
            self.damage.append(f"{around.where}: {error}")
            return
        own = stream.entries.get("Resources")
        resources = around.resources if own is None else self.reader.dictionary(own)
        where = f"{around.where}, a form" if around.ref is None else around.where
        ref = ref if isinstance(ref, Ref) else None
        content = Content(where, operators, resources, around.page, stream.entries, ref, marked)
        found.append(content)
        self._add_forms(content, found, seen, deep + 1)

    def _appearances(self, annotation: dict[str, Any]) -> Iterator[Stream]:
        for value in self.reader.dictionary(annotation.get("AP")).values():
            found = self.reader.resolve(value)
            if isinstance(found, Stream):
                yield found
            elif isinstance(found, dict):
                yield from (one for inner in found.values() if isinstance(one := self.reader.resolve(inner), Stream))

    def annotations_of(self, page: PdfPage) -> list[dict[str, Any]]:
        return [self.reader.dictionary(ref) for ref in self.reader.array(page.entries.get("Annots"))]

    @cached_property
    def annotations(self) -> list[tuple[PdfPage, dict[str, Any], Ref | None]]:
        found: list[tuple[PdfPage, dict[str, Any], Ref | None]] = []
        for page in self.pages:
            for ref in self.reader.array(page.entries.get("Annots")):
                found.append((page, self.reader.dictionary(ref), ref if isinstance(ref, Ref) else None))
        return found

    # ---- objects ----

    @cached_property
    def dictionaries(self) -> list[tuple[int, dict[str, Any]]]:
        """Every dictionary that is an object of its own, and those of streams, with their numbers."""
        found: list[tuple[int, dict[str, Any]]] = []
        for number in self.reader.numbers():
            entries = self.reader.dictionary(Ref(number))
            if entries:
                found.append((number, entries))
        return found

    @cached_property
    def streams(self) -> list[tuple[int, Stream]]:
        found = [(number, self.reader.get(number)) for number in self.reader.numbers()]
        return [(number, stream) for number, stream in found if isinstance(stream, Stream)]

    # ---- metadata ----

    @cached_property
    def packet(self) -> etree._Element | None:
        """The XMP packet of the document; None where there is none that can be read."""
        stream = self.reader.resolve(self.reader.catalog.get("Metadata"))
        if not isinstance(stream, Stream):
            return None
        try:
            return etree.fromstring(stream.content, PARSER)
        except (etree.XMLSyntaxError, PdfSyntaxError, ValueError):
            return None

    def said(self, name: str) -> str:
        """A property of the packet, such as 'pdfaid:part', written as an element or as an attribute; '' for none."""
        if self.packet is None:
            return ""
        prefix, _, local = name.partition(":")
        qualified = f"{{{SPACES[prefix]}}}{local}"
        for described in self.packet.iter(f"{{{SPACES['rdf']}}}Description"):
            if described.get(qualified) is not None:
                return str(described.get(qualified))
            found = described.find(qualified)
            if found is not None:
                return " ".join("".join(str(text) for text in found.itertext()).split())
        return ""

    # ---- structure ----

    @cached_property
    def tree(self) -> dict[str, Any]:
        return self.reader.dictionary(self.reader.catalog.get("StructTreeRoot"))

    @cached_property
    def elements(self) -> list[Element]:
        """The structure elements in the order of reading."""
        found: list[Element] = []
        roles = self.reader.dictionary(self.tree.get("RoleMap"))
        waiting: list[tuple[Any, Element | None]] = [(kid, None) for kid in reversed(self._kids(self.tree))]
        seen: set[int] = set()
        while waiting:
            ref, parent = waiting.pop()
            if isinstance(ref, Ref):
                if ref.number in seen:
                    continue
                seen.add(ref.number)
            entries = self.reader.dictionary(ref)
            if "S" not in entries:
                continue
            kids = self._kids(entries)
            role = self._standard(str(entries["S"]), roles)
            element = Element(role, entries, ref if isinstance(ref, Ref) else None, parent, [])
            found.append(element)
            if parent is not None:
                parent.kids.append(element)
            inner: list[Any] = []
            for kid in kids:
                said = self.reader.resolve(kid)
                if isinstance(said, dict) and "S" in said:
                    inner.append(kid)
                else:
                    element.kids.append(said)
            waiting += [(kid, element) for kid in reversed(inner)]
        return found

    def _kids(self, entries: dict[str, Any]) -> list[Any]:
        given = entries.get("K")
        found = self.reader.resolve(given)
        if found is None:
            return []
        return found if isinstance(found, list) else [given]

    def _standard(self, role: str, roles: dict[str, Any]) -> str:
        """The standard type that a role is mapped to (§14.7.3)."""
        for _ in range(MOST_DEEP):
            if role not in roles:
                break
            role = str(self.reader.resolve(roles[role]))
        return role

    @cached_property
    def marked_numbers(self) -> set[tuple[int, int]]:
        """What the structure holds: the number of a page's or a form's object, and of a marked sequence in it."""
        found: set[tuple[int, int]] = set()
        for element in self.elements:
            page = element.entries.get("Pg")
            for kid in element.kids:
                if isinstance(kid, int) and isinstance(page, Ref):
                    found.add((page.number, kid))
                elif isinstance(kid, dict) and "MCID" in kid:
                    where = kid.get("Stm", kid.get("Pg", page))
                    if isinstance(where, Ref):
                        found.add((where.number, self.reader.resolve(kid["MCID"])))
        return found

    def attributes(self, element: Element, owner: str) -> dict[str, Any]:
        """What an owner such as Table says of an element (§14.7.6)."""
        given = self.reader.resolve(element.entries.get("A"))
        found: dict[str, Any] = {}
        for one in given if isinstance(given, list) else [given]:
            said = self.reader.dictionary(one)
            if said.get("O") == owner:
                found |= said
        return found
