"""The outline of a finished PDF (ISO 32000-2 §12.3.3)."""

from __future__ import annotations

from typing import Any, Final, NamedTuple

from fleetquill.bindery.trees import explicit_destination, target_of
from fleetquill.pdf.objects import Ref
from fleetquill.pdf.reading import PdfReader

MOST_ITEMS: Final = 100_000
MOST_DEEP: Final = 50


class OutlineItem(NamedTuple):
    """An item: what it says, its dictionary, the page that it leads to, whether it is open, and those below it."""

    title: str
    entries: dict[str, Any]
    place: list[Any] | None  # a destination: the page and where on it
    is_open: bool
    items: list[OutlineItem]


def outline_of(reader: PdfReader, named: dict[bytes, Any]) -> list[OutlineItem]:
    """The items of the highest level."""
    root = reader.dictionary(reader.catalog.get("Outlines"))
    return _Outline(reader, named).items(root.get("First"), 0)


class _Outline:
    def __init__(self, reader: PdfReader, named: dict[bytes, Any]) -> None:
        self._reader = reader
        self._named = named
        self._seen: set[int] = set()

    def items(self, ref: Any, deep: int) -> list[OutlineItem]:
        found: list[OutlineItem] = []
        while isinstance(ref, Ref) and ref.number not in self._seen and len(self._seen) < MOST_ITEMS:
            self._seen.add(ref.number)
            entries = self._reader.dictionary(ref)
            if not entries:
                break
            count = self._reader.resolve(entries.get("Count"))
            below = self.items(entries.get("First"), deep + 1) if deep < MOST_DEEP else []
            place = explicit_destination(target_of(entries, self._reader), self._reader, self._named)
            title = self._reader.text(entries.get("Title"))
            is_open = not isinstance(count, int) or count >= 0
            found.append(OutlineItem(title, entries, place, is_open, below))
            ref = entries.get("Next")
        return found
