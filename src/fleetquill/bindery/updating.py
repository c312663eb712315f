"""Changing a finished file by adding to its end: what was there before stays, byte for byte (ISO 32000-2 §7.5.6)."""

from __future__ import annotations

import hashlib
import zlib
from typing import Any

from fleetquill.pdf.locks import closed_strings
from fleetquill.pdf.objects import Name, Ref, write
from fleetquill.pdf.reading import PdfReader, Stream


class Update:
    """What is changed and what is new."""

    def __init__(self, reader: PdfReader) -> None:
        self.reader = reader
        self._next = max(max(reader.places, default=0) + 1, _size(reader))
        self._changed: dict[int, tuple[Any, bytes | None]] = {}  # a value, or a dictionary with its stream

    def reserve(self) -> Ref:
        self._next += 1
        return Ref(self._next - 1)

    def add(self, value: Any, ref: Ref | None = None) -> Ref:
        """Writes an object: a new one, or another in place of the one that was."""
        ref = ref or self.reserve()
        self._changed[ref.number] = value, None
        return ref

    def add_stream(self, content: bytes, entries: dict[str, Any] | None = None, ref: Ref | None = None) -> Ref:
        ref = ref or self.reserve()
        head = dict(entries or {})
        if "Filter" not in head:
            content, head["Filter"] = zlib.compress(content, 9), Name("FlateDecode")
        self._changed[ref.number] = head, content
        return ref

    def dictionary(self, ref: Any) -> dict[str, Any]:
        """A dictionary as it is now, to be changed and added again."""
        if isinstance(ref, Ref) and ref.number in self._changed:
            return dict(self._changed[ref.number][0])
        return dict(self.reader.dictionary(ref))

    def finish(self) -> bytes:
        """The whole file."""
        reader = self.reader
        content = bytearray(reader.content)
        if not content.endswith((b"\n", b"\r")):
            content += b"\n"
        places: dict[int, tuple[int, int]] = {}
        for number, (value, stream) in sorted(self._changed.items()):
            generation = reader.generation(number)
            places[number] = len(content), generation
            content += self._written(number, generation, value, stream)
        self._write_table(content, places)
        return bytes(content)

    def _written(self, number: int, generation: int, value: Any, stream: bytes | None) -> bytes:
        lock = self.reader.lock
        if lock is not None:
            value = closed_strings(value, lock, number)
            stream = None if stream is None else lock.close(stream, number, generation)
        if stream is None:
            return b"%d %d obj\n%b\nendobj\n" % (number, generation, write(value))
        head = write(value | {"Length": len(stream)})
        return b"%d %d obj\n%b\nstream\n%b\nendstream\nendobj\n" % (number, generation, head, stream)

    def _write_table(self, content: bytearray, places: dict[int, tuple[int, int]]) -> None:
        reader = self.reader
        start = len(content)
        given = reader.array(reader.trailer.get("ID"))
        first = reader.resolve(given[0]) if given else None
        identity = hashlib.md5(content, usedforsecurity=False).digest()
        trailer: dict[str, Any] = {
            "Root": reader.trailer.get("Root"),
            "Info": reader.trailer.get("Info"),
            "Encrypt": reader.trailer.get("Encrypt"),
            "ID": [first if isinstance(first, bytes) else identity, identity],
            "Prev": reader.last_table,
        }
        if reader.has_plain_table:
            content += b"xref\n" + b"".join(
                b"%d 1\n%010d %05d n \n" % (number, at, generation) for number, (at, generation) in places.items()
            )
            content += b"trailer\n%b\n" % write(trailer | {"Size": self._next})
        else:
            places[self._next] = start, 0
            index = [one for number in places for one in (number, 1)]
            rows = b"".join(
                b"\1" + at.to_bytes(6, "big") + generation.to_bytes(2, "big") for at, generation in places.values()
            )
            packed = zlib.compress(rows, 9)
            head = {"Type": Name("XRef"), "W": [1, 6, 2], "Index": index, "Size": self._next + 1, **trailer}
            head |= {"Filter": Name("FlateDecode"), "Length": len(packed)}
            content += b"%d 0 obj\n%b\nstream\n%b\nendstream\nendobj\n" % (self._next, write(head), packed)
        content += b"startxref\n%d\n%%%%EOF\n" % start


def _size(reader: PdfReader) -> int:
    found = reader.resolve(reader.trailer.get("Size"))
    return found if isinstance(found, int) else 0


def mended(reader: PdfReader) -> PdfReader:
    """The file with a new table, where the one that it has could not be read; a file that is whole, as it is."""
    if not reader.repairs:
        return reader
    content = bytearray(b"%PDF-1.7\n%\xe2\xe3\xcf\xd3\n")
    rows = {0: b"0000000000 65535 f \n"}
    skipped = {"ObjStm", "XRef"}
    for number in reader.numbers():
        value = reader.get(number)
        stream = value if isinstance(value, Stream) else None
        if value is None or (stream is not None and stream.entries.get("Type") in skipped):
            continue
        rows[number] = b"%010d 00000 n \n" % len(content)
        if stream is None:
            content += b"%d 0 obj\n%b\nendobj\n" % (number, write(value))
        else:
            head = write(stream.entries | {"Length": len(stream.raw)})
            content += b"%d 0 obj\n%b\nstream\n%b\nendstream\nendobj\n" % (number, head, stream.raw)
    start = len(content)
    table = b"".join(b"%d 1\n%b" % (number, row) for number, row in rows.items())
    trailer = {"Root": reader.trailer.get("Root"), "Info": reader.trailer.get("Info"), "Size": max(rows) + 1}
    content += b"xref\n%btrailer\n%b\nstartxref\n%d\n%%%%EOF\n" % (table, write(trailer), start)
    return PdfReader(bytes(content), reader.source)
