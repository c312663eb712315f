"""A PDF file that grows at its end: objects go out as they are ready (ISO 32000-2 §7.5)."""

from __future__ import annotations

import hashlib
from collections import deque
from itertools import accumulate
from typing import TYPE_CHECKING, Any, BinaryIO, Final

from fleetquill.output.pdf.crossref import PLACED, CrossReferences
from fleetquill.output.pdf.packing import Packer
from fleetquill.pdf.locks import closed_strings
from fleetquill.pdf.objects import Name, Ref, write

if TYPE_CHECKING:
    from concurrent.futures import Future

    from fleetquill.pdf.locks import Lock

HEADER: Final = b"%%PDF-%b\n%%\xe2\xe3\xcf\xd3\n"
HASHED_WHOLE: Final = 1_000_000  # bytes
OBJECTS_IN_A_STREAM: Final = 200
MOST_WAITING: Final = 64  # streams
FEW_OBJECTS: Final = 40  # whose index is no sort of its own
SAID_OF_FILTERS: Final = 20  # bytes of a dictionary that say how its stream is compressed


class PdfFile:
    """Writes objects to a binary stream; small ones are gathered in object streams. With a lock all of it is
    enciphered."""

    def __init__(self, stream: BinaryIO, version: str = "1.7", lock: Lock | None = None) -> None:
        self._lock = lock
        self._stream = stream
        self._hash = hashlib.md5(usedforsecurity=False)
        self.length = 0
        self._references = CrossReferences()
        self._waiting: list[tuple[int, list[bytes]]] = []  # objects that follow one another, with the first's number
        self._waiting_count = 0
        self._packer = Packer()
        self._streams: deque[tuple[Ref, dict[str, Any], bytes | Future[bytes]]] = deque()  # to be written
        self._put(HEADER % version.encode())

    def _put(self, content: bytes) -> None:
        taken = self._stream.write(content)
        if taken != len(content) and isinstance(taken, int):
            self._write_rest(content, taken)
        if len(content) <= HASHED_WHOLE:
            self._hash.update(content)
        else:  # a picture: its ends and its length tell it from others
            self._hash.update(b"%d" % len(content) + content[:4096] + content[-4096:])
        self.length += len(content)

    def _write_rest(self, content: bytes, taken: int) -> None:
        """An unbuffered stream may take a part of what it is given."""
        while taken < len(content):
            more = self._stream.write(content[taken:])
            if not more:
                raise OSError("the stream takes no more")
            taken += more

    def reserve(self) -> Ref:
        """A number for an object that is written later."""
        return Ref(self._references.reserve(1))

    def reserve_row(self, count: int) -> int:
        """The first of so many numbers that follow one another."""
        return self._references.reserve(count)

    def add(self, value: Any, ref: Ref | None = None) -> Ref:
        """Writes an object that is not a stream."""
        ref = ref or self.reserve()
        self._add(ref, write(value))
        return ref

    def add_text(self, content: str) -> Ref:
        """Writes an object that is given as it is written."""
        return self.add_written(self.reserve(), content)

    def add_written(self, ref: Ref, content: str) -> Ref:
        """Writes an object, whose number is reserved, as it is given."""
        self._add(ref, content.encode("latin-1"))
        return ref

    def add_row(self, first: int, contents: list[bytes]) -> None:
        """Writes objects whose numbers follow one another from `first` on, as they are given."""
        self._wait(first, contents)

    def _add(self, ref: Ref, content: bytes) -> None:
        self._wait(ref.number, [content])

    def _wait(self, first: int, contents: list[bytes]) -> None:
        self._waiting.append((first, contents))
        self._waiting_count += len(contents)
        if self._waiting_count >= OBJECTS_IN_A_STREAM:
            self._write_waiting()

    def add_stream(
        self,
        content: bytes,
        entries: dict[str, Any] | None = None,
        ref: Ref | None = None,
        *,
        deflated: bool = False,
        first: int = 0,
    ) -> Ref:
        """Writes a stream; it is compressed here unless it is `deflated` already. `first` are the bytes at its
        beginning that are of another sort."""
        ref = ref or self.reserve()
        head = dict(entries or {})
        packed: bytes | Future[bytes] = content
        if deflated:
            head["Filter"] = Name("FlateDecode")
        elif "Filter" not in head:
            packed = self._packer.pack(content, first)
            if isinstance(packed, bytes) and len(packed) + SAID_OF_FILTERS >= len(content):
                packed = content
            else:
                head["Filter"] = Name("FlateDecode")
        self._streams.append((ref, head, packed))
        self._write_streams(MOST_WAITING)
        return ref

    def _write_streams(self, most: int) -> None:
        """Writes streams in the order in which they came, as far as they are ready, until no more than `most` wait."""
        streams = self._streams
        while streams:
            ref, head, content = streams[0]
            if not isinstance(content, bytes):
                if len(streams) <= most and not content.done():
                    return
                content = content.result()
            streams.popleft()
            if self._lock is not None:
                content = self._lock.close(content, ref.number)
                head = closed_strings(head, self._lock, ref.number)
            head["Length"] = len(content)
            self._references.place(ref.number, PLACED, self.length, 0)
            self._put(b"%d 0 obj\n%b\nstream\n%b\nendstream\nendobj\n" % (ref.number, write(head), content))

    def add_plain(self, value: Any) -> Ref:
        """Writes an object that is neither packed nor enciphered."""
        ref = self.reserve()
        self._write_streams(0)
        self._references.place(ref.number, PLACED, self.length, 0)
        self._put(b"%d 0 obj\n%b\nendobj\n" % (ref.number, write(value)))
        return ref

    def _write_waiting(self) -> None:
        """Object streams (§7.5.7)."""
        if not self._waiting:
            return
        stream = self.reserve()
        bodies = [body for _, contents in self._waiting for body in contents]
        index = [0] * (2 * len(bodies))
        index[1::2] = accumulate([len(body) + 1 for body in bodies[:-1]], initial=0)
        place = 0
        for first, contents in self._waiting:
            count = len(contents)
            index[2 * place : 2 * (place + count) : 2] = range(first, first + count)
            self._references.place_row(first, count, stream.number, place)
            place += count
        head = ("%d %d " * len(bodies) % tuple(index)).encode()
        self._waiting, self._waiting_count = [], 0
        entries = {"Type": Name("ObjStm"), "N": len(bodies), "First": len(head)}
        self.add_stream(head + b"\n".join(bodies), entries, stream, first=len(head) if len(bodies) > FEW_OBJECTS else 0)

    def finish(self, catalog: Ref, info: Ref | None) -> None:
        """Writes what waits, the cross-reference stream (§7.5.8) and the trailer."""
        self._write_waiting()
        self._packer.close()
        self._write_streams(0)
        locked = None if self._lock is None else self.add_plain(self._lock.entries())
        ref = self.reserve()
        start = self.length
        self._references.place(ref.number, PLACED, start, 0)
        packed, width = self._references.packed(start)
        identity = self._hash.digest()
        entries = {
            "Type": Name("XRef"),
            "Size": self._references.count,
            "W": [1, width, 2],
            "DecodeParms": {"Predictor": 12, "Columns": width + 3},
            "Root": catalog,
            "Info": info,
            "Encrypt": locked,
            "ID": [identity, identity],
        }
        entries |= {"Filter": Name("FlateDecode"), "Length": len(packed)}
        self._put(b"%d 0 obj\n%b\nstream\n%b\nendstream\nendobj\n" % (ref.number, write(entries), packed))
        self._put(b"startxref\n%d\n%%%%EOF\n" % start)
