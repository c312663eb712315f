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


def write_outline(file: PdfFile, entries: Sequence[Entry]) -> Ref | None:
    """The outline; None for none."""
    if not entries:
        return None
    root = file.reserve()
    first, last, count = _level(file, entries, root)
    file.add({"Type": Name("Outlines"), "First": first, "Last": last, "Count": count}, root)
    return root


def _level(file: PdfFile, entries: Sequence[Entry], parent: Ref) -> tuple[Ref, Ref, int]:
    refs = [file.reserve() for _ in entries]
    total = len(entries)
    for at, (entry, ref) in enumerate(zip(entries, refs, strict=True)):
        own: dict[str, Any] = {
            "Title": entry.title,
            "Parent": parent,
            "Prev": refs[at - 1] if at else None,
            "Next": refs[at + 1] if at + 1 < len(refs) else None,
            "Dest": entry.place,
            **entry.look,
        }
        if entry.items:
            own["First"], own["Last"], inner = _level(file, entry.items, ref)
            own["Count"] = inner if entry.is_open else -inner
            total += inner if entry.is_open else 0
        file.add(own, ref)
    return refs[0], refs[-1], total
