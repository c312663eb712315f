"""A PDF file that grows at its end: objects go out as they are ready (ISO 32000-2 §7.5)."""

from __future__ import annotations

import hashlib
from collections import deque
from typing import TYPE_CHECKING, Any, BinaryIO, Final

from fleetquill.output.pdf.objects import Name, Ref, write
from fleetquill.output.pdf.packing import Packer

if TYPE_CHECKING:
    from concurrent.futures import Future

HEADER: Final = b"%%PDF-%b\n%%\xe2\xe3\xcf\xd3\n"
HASHED_WHOLE: Final = 1_000_000  # bytes
OBJECTS_IN_A_STREAM: Final = 200
MOST_WAITING: Final = 64  # streams
SAID_OF_FILTERS: Final = 20  # bytes of a dictionary that say how its stream is compressed


class PdfFile:
    """Writes objects to a binary stream; small ones are gathered in object streams."""

    def __init__(self, stream: BinaryIO, version: str = "1.7") -> None:
        self._stream = stream
        self._hash = hashlib.md5(usedforsecurity=False)
        self.length = 0
        self._places: list[tuple[int, int, int]] = [(0, 0, 65535)]  # cross-reference rows (§7.5.8.3)
        self._waiting: list[tuple[int, bytes]] = []
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
        self._places.append((0, 0, 0))
        return Ref(len(self._places) - 1)

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

    def _add(self, ref: Ref, content: bytes) -> None:
        self._waiting.append((ref.number, content))
        if len(self._waiting) >= OBJECTS_IN_A_STREAM:
            self._write_waiting()

    def add_stream(
        self,
        content: bytes,
        entries: dict[str, Any] | None = None,
        ref: Ref | None = None,
        *,
        deflated: bool = False,
    ) -> Ref:
        """Writes a stream; it is compressed here unless `deflated` says that it is already."""
        ref = ref or self.reserve()
        head = dict(entries or {})
        packed: bytes | Future[bytes] = content
        if deflated:
            head["Filter"] = Name("FlateDecode")
        elif "Filter" not in head:
            packed = self._packer.pack(content)
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
            head["Length"] = len(content)
            self._places[ref.number] = (1, self.length, 0)
            self._put(b"%d 0 obj\n%b\nstream\n%b\nendstream\nendobj\n" % (ref.number, write(head), content))

    def _write_waiting(self) -> None:
        """Object streams (§7.5.7)."""
        if not self._waiting:
            return
        stream = self.reserve()
        index: list[str] = []
        bodies: list[bytes] = []
        offset = 0
        for place, (number, body) in enumerate(self._waiting):
            index.append(f"{number} {offset}")
            bodies.append(body)
            offset += len(body) + 1
            self._places[number] = (2, stream.number, place)
        head = " ".join(index).encode() + b"\n"
        self._waiting = []
        entries = {"Type": Name("ObjStm"), "N": len(bodies), "First": len(head)}
        self.add_stream(head + b"\n".join(bodies), entries, stream)

    def finish(self, catalog: Ref, info: Ref | None) -> None:
        """Writes what waits, the cross-reference stream (§7.5.8) and the trailer."""
        self._write_waiting()
        self._packer.close()
        self._write_streams(0)
        ref = self.reserve()
        start = self.length
        self._places[ref.number] = (1, start, 0)
        width = max(1, (max(start, len(self._places)).bit_length() + 7) // 8)
        rows = b"".join(
            [kind.to_bytes(1, "big") + a.to_bytes(width, "big") + b.to_bytes(2, "big") for kind, a, b in self._places]
        )
        identity = self._hash.digest()
        entries = {
            "Type": Name("XRef"),
            "Size": len(self._places),
            "W": [1, width, 2],
            "Root": catalog,
            "Info": info,
            "ID": [identity, identity],
        }
        self.add_stream(rows, entries, ref)
        self._put(b"startxref\n%d\n%%%%EOF\n" % start)
