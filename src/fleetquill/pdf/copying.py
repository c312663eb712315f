"""Copying objects of a finished file into one that is being written: numbered anew, what is the same once."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from hashlib import blake2b
from typing import Any, Final, Protocol

from fleetquill.caches import Cache
from fleetquill.pdf.objects import Name, Ref, write
from fleetquill.pdf.page_boxes import box_of, shown_matrix, size_of
from fleetquill.pdf.reading import PdfPage, PdfReader, Stream
from fleetquill.pdf.syntax import DAMAGE, without_marks

MOST_SHARED: Final = 30_000  # objects by which it is known that two are the same
SMALL: Final = 24  # bytes of an object that is not worth knowing again


class Sink(Protocol):
    """A file that is being written."""

    def reserve(self) -> Ref: ...

    def add(self, value: Any, ref: Ref | None = None) -> Ref: ...

    def add_stream(self, content: bytes, entries: dict[str, Any] | None = None, ref: Ref | None = None) -> Ref: ...


class Shared:
    """What has been written, by its content: fonts and pictures that several files have stand once."""

    def __init__(self) -> None:
        self.known: Cache[bytes, Ref] = Cache(MOST_SHARED)


class Copier:
    """Copies from one file into another.

    `places` says what stands in the new file for an object of the old one: its number there, or None where it is left
    out. `edit` is asked for each dictionary before it is copied, and may give another.
    """

    def __init__(
        self,
        reader: PdfReader,
        sink: Sink,
        shared: Shared,
        edit: Callable[[dict[str, Any]], dict[str, Any]] | None = None,
    ) -> None:
        self.reader = reader
        self.places: dict[int, Ref | None] = {}
        self._sink = sink
        self._shared = shared.known
        self._edit = edit

    def value(self, value: Any) -> Any:
        """A value, with all that it leads to copied."""
        value = self._edited(value)
        for number in _references(value):
            if number not in self.places:
                self._copy(number)
        return self._renumbered(value)

    def entries(self, given: dict[str, Any], leaving: tuple[str, ...] = ()) -> dict[str, Any]:
        """A dictionary without some of its entries, with all that it leads to copied."""
        copied: dict[str, Any] = self.value({key: one for key, one in given.items() if key not in leaving})
        return copied

    def _copy(self, start: int) -> None:
        """Copies an object after all that it leads to; one that leads back to itself has its number before."""
        waiting: list[tuple[int, Any, Iterator[int]]] = []
        busy: set[int] = set()

        def begin(number: int) -> None:
            found = self.reader.get(number)
            entries = self._edited(found.entries if isinstance(found, Stream) else found)
            busy.add(number)
            waiting.append((number, entries, _references(entries)))

        begin(start)
        while waiting:
            number, value, inner = waiting[-1]
            for other in inner:
                if other in self.places:
                    continue
                if other in busy:
                    self.places[other] = self._sink.reserve()
                    continue
                if other in self.reader.places:
                    begin(other)
                    break
                self.places[other] = None
            else:
                waiting.pop()
                busy.discard(number)
                self._write(number, value)

    def _write(self, number: int, value: Any) -> None:
        reserved = self.places.get(number)
        made = self._renumbered(value)
        found = self.reader.get(number)
        if made is None:
            if reserved is not None:
                self._sink.add(None, reserved)
            self.places.setdefault(number, None)
            return
        raw = found.raw if isinstance(found, Stream) else b""
        if isinstance(found, Stream):
            made = {key: one for key, one in made.items() if key != "Length"}
        if reserved is not None:
            self._put(made, raw, isinstance(found, Stream), reserved)
            return
        written = write(made)
        if len(written) + len(raw) < SMALL or "Parent" in (made if isinstance(made, dict) else ()):
            self.places[number] = self._put(made, raw, isinstance(found, Stream), None)
            return
        key = blake2b(written, digest_size=16)
        key.update(raw)
        known = self._shared.get(key.digest())
        if known is None:
            known = self._shared.put(key.digest(), self._put(made, raw, isinstance(found, Stream), None))
        self.places[number] = known

    def _put(self, made: Any, raw: bytes, is_stream: bool, ref: Ref | None) -> Ref:
        return self._sink.add_stream(raw, made, ref) if is_stream else self._sink.add(made, ref)

    def _edited(self, value: Any) -> Any:
        if self._edit is None:
            return value
        if isinstance(value, dict):
            return {key: self._edited(one) for key, one in self._edit(value).items()}
        return [self._edited(one) for one in value] if isinstance(value, list) else value

    def _renumbered(self, value: Any) -> Any:
        if isinstance(value, Ref):
            return self.places.get(value.number)
        if isinstance(value, dict):
            return {key: self._renumbered(one) for key, one in value.items()}
        return [self._renumbered(one) for one in value] if isinstance(value, list) else value


def _references(value: Any) -> Iterator[int]:
    """The numbers of the objects that a value names."""
    waiting = [value]
    while waiting:
        one = waiting.pop()
        if isinstance(one, Ref):
            yield one.number
        elif isinstance(one, dict):
            waiting += reversed(one.values())
        elif isinstance(one, list):
            waiting += reversed(one)


def form_of_page(page: PdfPage, copier: Copier, sink: Sink, ref: Ref | None = None) -> Ref:
    """A page as a form XObject (§8.10), its shown box from the origin on, y up, in points. What is marked in it is no
    more: a form stands for itself."""
    reader = copier.reader
    try:
        content = without_marks(reader.page_content(page))
    except DAMAGE:
        content = b""
    left, bottom, right, top = box_of(page, reader)
    _, high = size_of(page, reader)
    a, b, c, d, e, f = shown_matrix(page, reader)
    group = page.entries.get("Group")
    entries = {
        "Type": Name("XObject"),
        "Subtype": Name("Form"),
        "BBox": [left, bottom, right, top],
        "Matrix": [a, -b, c, -d, e, high - f],
        "Resources": copier.value(reader.dictionary(page.entries.get("Resources"))),
        "Group": None if group is None else copier.value(group),
    }
    return sink.add_stream(content, entries, ref)
