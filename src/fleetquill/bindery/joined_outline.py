"""The outline of a bound file: those of its parts, each under a heading (ISO 32000-2 §12.3.3)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

from fleetquill.bindery.outlines import OutlineItem
from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.objects import Name, Ref


class Entry(NamedTuple):
    """An item: its title, where it leads, how it looks, whether it is open, and those below it."""

    title: str
    place: list[Any] | None
    look: dict[str, Any]
    is_open: bool
    items: list[Entry]


def kept_items(items: Sequence[OutlineItem], placed: Callable[[list[Any] | None], list[Any] | None]) -> list[Entry]:
    """The items whose pages are taken, and those that hold such."""
    found: list[Entry] = []
    for item in items:
        below = kept_items(item.items, placed)
        place = placed(item.place)
        if place is not None or below:
            look = {key: item.entries[key] for key in ("C", "F") if isinstance(item.entries.get(key), (list, int))}
            found.append(Entry(item.title, place or below[0].place, look, item.is_open, below))
    return found


class Level(NamedTuple):
    """Items that are written: the first, the last, and how many are seen where those that are open are."""

    first: Ref
    last: Ref
    seen: int


class JoinedOutline:
    """The outline of a file that grows: what stands under a heading goes out with its part."""

    def __init__(self, file: PdfFile) -> None:
        self._file = file
        self._root = file.reserve()
        self._last: tuple[Ref, dict[str, Any]] | None = None  # the item that waits for the one after it
        self._first: Ref | None = None
        self._count = 0

    def add(self, entry: Entry) -> None:
        """Adds an item of the highest level, with those below it."""
        ref = self._file.reserve()
        own = _own(entry, self._root)
        if entry.items:
            level = write_level(self._file, entry.items, ref)
            own |= {"First": level.first, "Last": level.last, "Count": level.seen if entry.is_open else -level.seen}
            self._count += level.seen if entry.is_open else 0
        if self._last is not None:
            before, waiting = self._last
            own["Prev"] = before
            self._file.add(waiting | {"Next": ref}, before)
        self._first = self._first or ref
        self._last = ref, own
        self._count += 1

    def finish(self) -> Ref | None:
        """The outline; None where there are no items."""
        if self._last is None:
            return None
        last, waiting = self._last
        self._file.add(waiting, last)
        root = {"Type": Name("Outlines"), "First": self._first, "Last": last, "Count": self._count}
        return self._file.add(root, self._root)


def write_level(file: PdfFile, entries: Sequence[Entry], parent: Ref) -> Level:
    """Writes items that stand beside one another, with those below them."""
    refs = [file.reserve() for _ in entries]
    total = len(entries)
    for at, (entry, ref) in enumerate(zip(entries, refs, strict=True)):
        own = _own(entry, parent)
        own |= {"Prev": refs[at - 1] if at else None, "Next": refs[at + 1] if at + 1 < len(refs) else None}
        if entry.items:
            level = write_level(file, entry.items, ref)
            own |= {"First": level.first, "Last": level.last, "Count": level.seen if entry.is_open else -level.seen}
            total += level.seen if entry.is_open else 0
        file.add(own, ref)
    return Level(refs[0], refs[-1], total)


def _own(entry: Entry, parent: Ref) -> dict[str, Any]:
    return {"Title": entry.title, "Parent": parent, "Dest": entry.place, **entry.look}
