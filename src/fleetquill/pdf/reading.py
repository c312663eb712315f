"""Reading finished PDFs: where their objects are, what is in them, their pages (ISO 32000-2 §7.5 and §7.7)."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Any, Final, NamedTuple

from fleetquill.caches import Cache
from fleetquill.errors import SourceError, Where
from fleetquill.pdf.filters import unpacked
from fleetquill.pdf.locks import Lock, lock_of
from fleetquill.pdf.objects import Ref
from fleetquill.pdf.syntax import DAMAGE, STREAM, Parser, PdfSyntaxError

HEADER: Final = re.compile(rb"%PDF-(\d\.\d)")
START: Final = re.compile(rb"startxref\s+(\d+)")
OBJECT: Final = re.compile(rb"(?<![0-9])(\d+)\s+(\d+)\s+obj\b")
BEGINS: Final = re.compile(rb"(?<![0-9])(\d{1,10})\s+\d{1,5}\s+obj\b|(?<!end)stream\r?\n")
PACKED_TYPES: Final = re.compile(rb"/XRef\b")
BEGINNING: Final = 400  # bytes in which an object says what it is
ROW: Final = re.compile(rb"\s*(\d{10})\s(\d{5})\s([nf])")
MOST_KEPT: Final = 200_000  # objects
MOST_PARTS: Final = 1_000  # of a file that was changed again and again
INHERITED: Final = ("Resources", "MediaBox", "CropBox", "Rotate")  # by pages (§7.7.3.4)


class Stream:
    """A stream: what is said of it, and its bytes as they are in the file."""

    __slots__ = ("_filters", "_parameters", "entries", "raw")

    def __init__(self, entries: dict[str, Any], raw: bytes, filters: list[Any], parameters: list[Any]) -> None:
        self.entries = entries
        self.raw = raw
        self._filters = filters
        self._parameters = parameters

    @property
    def content(self) -> bytes:
        """Its content, unpacked; that of a picture as it is. Raises PdfSyntaxError where it is damaged."""
        known = [said if isinstance(said, dict) else {} for said in self._parameters]
        return unpacked(self.raw, [str(name) for name in self._filters], known)


class Held(NamedTuple):
    """Where an object is: at a byte of the file, or in an object stream at a place."""

    at: int
    stream: int | None = None


class PdfPage(NamedTuple):
    """A page: its number from 1 on, its reference, and what is said of it, with what it inherits."""

    number: int
    ref: Ref | None
    entries: dict[str, Any]


class PdfReader:
    """A finished PDF file. Raises SourceError where it is none, or is locked with another password.

    What had to be mended to read it stands in `repairs`.
    """

    def __init__(self, content: bytes, source: str = "", password: str | None = None) -> None:
        self.content = content
        self.source = source
        found = HEADER.search(content[:1024])
        if found is None:
            raise SourceError("This is no PDF file.", where=Where(source) if source else None)
        self.version = found[1].decode()
        self.start = found.start()
        self.trailer: dict[str, Any] = {}
        self.places: dict[int, Held] = {}
        self.repairs: list[str] = []
        self.lock: Lock | None = None
        self.last_table = 0  # where the part of the cross-reference table stands that was written last
        self.password = password
        self._rebuilt = False
        self._loose: list[Ref] = []  # pages that nothing leads to
        self._kept: Cache[int, Any] = Cache(MOST_KEPT)
        self._streams: Cache[int, list[tuple[int, Any]]] = Cache(64)
        self._busy: set[int] = set()
        if self.start:
            self.repairs.append(f"{self.start} bytes stand before its beginning.")
        try:
            self._read_tables()
            self._unlock()
            self._check_root()
        except DAMAGE:
            self._rebuild()

    def _unlock(self) -> None:
        entries = self.trailer.get("Encrypt")
        if entries is None or self.lock is not None:
            return
        held = self.dictionary(entries)
        plain = {key: self._plain(value) for key, value in held.items()}
        identity = self.array(self.trailer.get("ID"))
        first = self.resolve(identity[0]) if identity else b""
        self.lock = lock_of(plain, first if isinstance(first, bytes) else b"", self.password, self.source)
        self._kept.clear()
        self._streams.clear()
        if isinstance(entries, Ref):
            self._kept.put(entries.number, held)  # its own strings are not enciphered

    def _plain(self, value: Any) -> Any:
        """A value with what its references lead to."""
        found = self.resolve(value)
        return {key: self._plain(inner) for key, inner in found.items()} if isinstance(found, dict) else found

    @property
    def repaired(self) -> bool:
        return bool(self.repairs)

    # ---- objects ----

    def resolve(self, value: Any) -> Any:
        """What a reference leads to; another value as it is. A reference to nothing is None (§7.3.10)."""
        seen = 0
        while isinstance(value, Ref):
            value = self.get(value.number)
            seen += 1
            if seen > 32:
                return None
        return value

    def get(self, number: int) -> Any:
        """The object of a number; None where there is none, or nothing can be made of it."""
        if number in self._kept:
            return self._kept[number]
        place = self.places.get(number)
        if place is None or number in self._busy:
            return None
        self._busy.add(number)
        try:
            made = self._object_at(place.at, number) if place.stream is None else self._packed(place, number)
        except DAMAGE:
            made = self._found_elsewhere(number)
        finally:
            self._busy.discard(number)
        return self._kept.put(number, made)

    def _found_elsewhere(self, number: int) -> Any:
        """An object that is not where it should be."""
        if self._rebuilt:
            return None
        self._rebuild()
        place = self.places.get(number)
        try:
            if place is None:
                return None
            return self._object_at(place.at, number) if place.stream is None else self._packed(place, number)
        except DAMAGE:
            return None

    def dictionary(self, value: Any) -> dict[str, Any]:
        """A dictionary, or that of a stream; empty where it is none."""
        found = self.resolve(value)
        if isinstance(found, Stream):
            return found.entries
        return found if isinstance(found, dict) else {}

    def array(self, value: Any) -> list[Any]:
        found = self.resolve(value)
        return found if isinstance(found, list) else []

    def generation(self, number: int) -> int:
        """How often the number of an object was used before (§7.3.10)."""
        place = self.places.get(number)
        if place is None or place.stream is not None:
            return 0
        found = OBJECT.search(self.content, place.at, place.at + 40)
        return int(found[2]) if found is not None else 0

    @property
    def has_plain_table(self) -> bool:
        """Whether the cross-reference table that was written last is a table, no stream."""
        return self.content[self.last_table : self.last_table + 40].lstrip().startswith(b"xref")

    def numbers(self) -> list[int]:
        """The numbers of all objects."""
        return sorted(self.places)

    @property
    def catalog(self) -> dict[str, Any]:
        return self.dictionary(self.trailer.get("Root"))

    def pages(self) -> Iterator[PdfPage]:
        """The pages in their order."""
        starts: list[Any] = list(self._loose) or [self.catalog.get("Pages")]
        waiting: list[tuple[Any, dict[str, Any]]] = [(start, {}) for start in reversed(starts)]
        seen: set[int] = set()
        number = 0
        while waiting:
            ref, given = waiting.pop()
            if isinstance(ref, Ref):
                if ref.number in seen:
                    continue
                seen.add(ref.number)
            node = self.dictionary(ref)
            own = given | {key: node[key] for key in INHERITED if key in node}
            if "Kids" in node and node.get("Type") != "Page":
                waiting += [(kid, own) for kid in reversed(self.array(node["Kids"]))]
            elif node:
                number += 1
                yield PdfPage(number, ref if isinstance(ref, Ref) else None, own | node)

    def page_content(self, page: PdfPage) -> bytes:
        """The operators of a page, its content streams one after another (§7.8.2)."""
        found = self.resolve(page.entries.get("Contents"))
        streams = [self.resolve(one) for one in found] if isinstance(found, list) else [found]
        return b"\n".join(stream.content for stream in streams if isinstance(stream, Stream))

    def text(self, value: Any) -> str:
        """A text string (§7.9.2.2)."""
        found = self.resolve(value)
        if not isinstance(found, bytes):
            return str(found) if isinstance(found, str) else ""
        if found.startswith(b"\xfe\xff"):
            return found[2:].decode("utf-16-be", "replace")
        if found.startswith(b"\xef\xbb\xbf"):
            return found[3:].decode("utf-8", "replace")
        return found.decode("latin-1")

    def _object_at(self, at: int, number: int | None = None) -> Any:
        """The object that stands at a byte, which should have that number."""
        parser = Parser(self.content, at)
        own, generation = parser.value(), parser.value()
        if parser.word() != b"obj" or (number is not None and own != number):
            raise PdfSyntaxError(f"There is no object at byte {at}.")
        value = parser.value()
        begins = STREAM.match(self.content, parser.place)
        lock = self.lock
        if lock is not None:
            value = _opened(value, lambda content: lock.open_string(content, own, generation))
        if begins is None or not isinstance(value, dict):
            return value
        length = self.resolve(value.get("Length"))
        end = begins.end() + length if isinstance(length, int) and length >= 0 else -1
        if end < 0 or not self.content[end : end + 12].lstrip().startswith(b"endstream"):
            end = self.content.find(b"endstream", begins.end())
            if end < 0:
                raise PdfSyntaxError(f"A stream that begins at byte {begins.end()} has no end.")
            end -= self.content[end - 1 : end] == b"\n"
            end -= self.content[end - 1 : end] == b"\r"
        raw = self.content[begins.end() : end]
        filters, parameters = (self._all(value.get(key)) for key in ("Filter", "DecodeParms"))
        if lock is not None and not _stays_plain(value, filters, parameters, lock):
            raw = lock.open_stream(raw, own, generation)
        return Stream(value, raw, filters, parameters)

    def _all(self, value: Any) -> list[Any]:
        """What a value leads to, each thing of it where it is a list."""
        return [self.resolve(one) for one in _listed(self.resolve(value))]

    def _packed(self, place: Held, number: int) -> Any:
        """An object in an object stream (§7.5.7)."""
        assert place.stream is not None  # else it is not packed
        objects = self._streams.get(place.stream)
        if objects is None:
            stream = self.get(place.stream)
            if not isinstance(stream, Stream):
                raise PdfSyntaxError(f"Object {place.stream} is no object stream.")
            content, first = stream.content, self.resolve(stream.entries.get("First"))
            head = [int(part) for part in content[:first].split()]
            offsets = list(zip(head[::2], head[1::2], strict=False))
            objects = self._streams.put(place.stream, [(own, (content, first + at)) for own, at in offsets])
        if place.at < len(objects) and objects[place.at][0] == number:
            content, at = objects[place.at][1]
        else:
            content, at = next(where for own, where in objects if own == number)
        return Parser(content, at).value()

    # ---- where objects are ----

    def _read_tables(self) -> None:
        found = START.findall(self.content[-2048:]) or START.findall(self.content)
        if not found:
            raise PdfSyntaxError("Nothing says where the cross-reference table is.")
        self.last_table = int(found[-1])
        waiting, seen = [self.last_table], set[int]()
        while waiting:
            at = waiting.pop(0)
            if at in seen or len(seen) > MOST_PARTS:
                continue
            seen.add(at)
            trailer = self._table(at + (self.start if not self._is_table(at) else 0))
            self.trailer = trailer | self.trailer
            for key in ("XRefStm", "Prev"):
                if isinstance(trailer.get(key), int):
                    waiting.append(trailer[key])

    def _is_table(self, at: int) -> bool:
        rest = self.content[at : at + 40].lstrip()
        return rest.startswith(b"xref") or OBJECT.match(rest) is not None

    def _table(self, at: int) -> dict[str, Any]:
        """One part of the cross-reference table, and its trailer; what was read before holds (§7.5.6)."""
        parser = Parser(self.content, at)
        parser.skip()
        if not self.content.startswith(b"xref", parser.place):
            return self._table_stream(parser.place)
        parser.place += 4
        while True:
            parser.skip()
            if self.content.startswith(b"trailer", parser.place):
                parser.place += 7
                found = parser.value()
                if not isinstance(found, dict):
                    raise PdfSyntaxError("The trailer is no dictionary.")
                return found
            first, count = parser.value(), parser.value()
            for number in range(first, first + count):
                row = ROW.match(self.content, parser.place)
                if row is None:
                    raise PdfSyntaxError(f"The cross-reference table is damaged at byte {parser.place}.")
                parser.place = row.end()
                if row[3] == b"n" and number:
                    self.places.setdefault(number, Held(int(row[1]) + self.start))

    def _table_stream(self, at: int) -> dict[str, Any]:
        """§7.5.8."""
        stream = self._object_at(at)
        if not isinstance(stream, Stream):
            raise PdfSyntaxError(f"There is no cross-reference table at byte {at}.")
        entries, rows = stream.entries, stream.content
        widths = [self.resolve(width) for width in entries["W"]]
        size = sum(widths)
        index = self.resolve(entries.get("Index")) or [0, entries["Size"]]
        place = 0
        for first, count in zip(index[::2], index[1::2], strict=False):
            for number in range(first, first + count):
                row = rows[place : place + size]
                place += size
                if len(row) < size:
                    break
                kind = int.from_bytes(row[: widths[0]], "big") if widths[0] else 1
                second = int.from_bytes(row[widths[0] : widths[0] + widths[1]], "big")
                third = int.from_bytes(row[widths[0] + widths[1] :], "big")
                if kind == 1:
                    self.places.setdefault(number, Held(second + self.start))
                elif kind == 2:
                    self.places.setdefault(number, Held(third, second))
        return entries

    def _check_root(self) -> None:
        if not isinstance(self.resolve(self.catalog.get("Pages")), dict):
            raise PdfSyntaxError("The document has no pages.")

    def _rebuild(self) -> None:
        """Looks for the objects themselves, where the table does not lead to them."""
        self._rebuilt = True
        self.repairs.append("Its table of objects is damaged: they were looked for.")
        self.places = {}
        self._busy = set()  # what was begun with the table that is damaged is begun anew
        self._kept.clear()
        self._streams.clear()
        found = list(self._scanned())
        self.places = dict(found)
        for part in re.finditer(rb"trailer", self.content):
            try:
                said = Parser(self.content, part.end()).value()
            except DAMAGE:
                continue
            self.trailer |= said if isinstance(said, dict) else {}
        for number, place in found:
            if PACKED_TYPES.search(self.content, place.at, place.at + BEGINNING) is not None:
                self._take_up(number)
        self._unlock()
        streams = [(number, place) for number, place in found if self._is_packed(place.at)]
        for number, _ in streams:
            self._note_packed(number, self.get(number))
        if not self.catalog:
            roots = [number for number in self.numbers() if self.dictionary(Ref(number)).get("Type") == "Catalog"]
            self.trailer |= {"Root": Ref(roots[-1])} if roots else {}
        if not self.dictionary(self.catalog.get("Pages")):
            self._loose = [ref for ref in map(Ref, self.numbers()) if self.dictionary(ref).get("Type") == "Page"]
            if not self._loose:
                where = Where(self.source) if self.source else None
                raise SourceError("The file is damaged: no pages can be found in it.", where=where)
            self.repairs.append("Nothing says in which order its pages are: they are as they stand in the file.")

    def _scanned(self) -> Iterator[tuple[int, Held]]:
        """Where objects begin, in their order; what is in streams is passed over."""
        place, content = 0, self.content
        while (found := BEGINS.search(content, place)) is not None:
            place = found.end()
            if found[1] is not None:
                yield int(found[1]), Held(found.start())
            else:
                end = content.find(b"endstream", place)
                place = end + len(b"endstream") if end >= 0 else place

    def _is_packed(self, at: int) -> bool:
        return b"/ObjStm" in self.content[at : at + BEGINNING]

    def _take_up(self, number: int) -> None:
        """What a cross-reference stream says as trailer."""
        said = self.dictionary(Ref(number))
        if said.get("Type") == "XRef":
            self.trailer |= {key: said[key] for key in ("Root", "Info", "Encrypt", "ID") if key in said}

    def _note_packed(self, number: int, stream: Any) -> None:
        if not isinstance(stream, Stream):
            return
        try:
            first = self.resolve(stream.entries.get("First"))
            head = [int(part) for part in stream.content[:first].split()]
        except DAMAGE:
            return
        at = self.places[number].at
        for place, own in enumerate(head[::2]):
            before = self.places.get(own)
            if before is None or before.stream is not None or before.at < at:  # what comes later holds
                self.places[own] = Held(place, number)
                self._kept.pop(own, None)


def _opened(value: Any, key: Callable[[bytes], bytes]) -> Any:
    """A value with its strings deciphered; what signs a file is not enciphered (§7.6.2)."""
    if isinstance(value, bytes):
        return key(value)
    if isinstance(value, list):
        return [_opened(one, key) for one in value]
    if isinstance(value, dict):
        signs = "ByteRange" in value
        return {name: one if signs and name == "Contents" else _opened(one, key) for name, one in value.items()}
    return value


def _stays_plain(entries: dict[str, Any], filters: list[Any], parameters: list[Any], lock: Lock) -> bool:
    """Whether a stream of a locked file is not enciphered (§7.6.2)."""
    kind = entries.get("Type")
    if kind == "XRef" or (kind == "Metadata" and not lock.metadata):
        return True
    if "Crypt" not in filters:
        return False
    said = parameters[0] if parameters else None
    return not isinstance(said, dict) or said.get("Name", "Identity") == "Identity"


def _listed(value: Any) -> list[Any]:
    if value is None:
        return []
    return value if isinstance(value, list) else [value]
