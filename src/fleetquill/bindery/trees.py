"""Trees of names and of numbers in finished PDFs (ISO 32000-2 §7.9.6 and §7.9.7)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from fleetquill.pdf.objects import Ref
from fleetquill.pdf.reading import PdfReader

MOST_NODES: Final = 100_000


def entries_of(root: Any, key: str, reader: PdfReader) -> Iterator[tuple[Any, Any]]:
    """The keys and values of a tree in their order; `key` is 'Names' or 'Nums'."""
    waiting, seen = [root], set[int]()
    count = 0
    while waiting and count < MOST_NODES:
        node = waiting.pop()
        count += 1
        if isinstance(node, Ref):
            if node.number in seen:
                continue
            seen.add(node.number)
        entries = reader.dictionary(node)
        row = reader.array(entries.get(key))
        for at in range(0, len(row) - 1, 2):
            yield reader.resolve(row[at]), row[at + 1]
        waiting += reversed(reader.array(entries.get("Kids")))


def named_destinations(reader: PdfReader) -> dict[bytes, Any]:
    """Destinations by their names: those of the name tree, and of the dictionary that older files have (§12.3.2.4)."""
    catalog = reader.catalog
    found = {key.encode(): value for key, value in reader.dictionary(catalog.get("Dests")).items()}
    names = reader.dictionary(catalog.get("Names"))
    for key, value in entries_of(names.get("Dests"), "Names", reader):
        if isinstance(key, bytes):
            found[key] = value
    return found


def explicit_destination(value: Any, reader: PdfReader, named: dict[bytes, Any]) -> list[Any] | None:
    """The array of a destination, whatever way it is given: a page, and where on it; None where it leads nowhere."""
    for _ in range(8):
        found = reader.resolve(value)
        if isinstance(found, bytes):
            value = named.get(found)
        elif isinstance(found, str):
            value = named.get(found.encode())
        elif isinstance(found, dict):
            value = found.get("D")
        else:
            return found if isinstance(found, list) and found else None
    return None


def target_of(entries: dict[str, Any], reader: PdfReader) -> Any:
    """Where a link or an item of the outline leads within the file: its destination, or that of its action."""
    if entries.get("Dest") is not None:
        return entries["Dest"]
    action = reader.dictionary(entries.get("A"))
    return action.get("D") if action.get("S") == "GoTo" else None
