"""The named destinations and the attached files of a bound file."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Final

from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.objects import Ref

NAMES_IN_A_NODE: Final = 500


def name_tree(file: PdfFile, found: Mapping[bytes, Any]) -> Ref | None:
    """A name tree (ISO 32000-2 §7.9.6), in nodes where it is long; None for no names. A number is that of an object."""
    if not found:
        return None
    names = sorted(found)
    rows = [names[at : at + NAMES_IN_A_NODE] for at in range(0, len(names), NAMES_IN_A_NODE)]
    kids: list[Ref] = []
    for row in rows:
        flat = [one for name in row for one in (name, _held(found[name]))]
        if len(rows) == 1:
            return file.add({"Names": flat})
        kids.append(file.add({"Limits": [row[0], row[-1]], "Names": flat}))
    return file.add({"Kids": kids})


def _held(value: Any) -> Any:
    return Ref(value) if isinstance(value, int) else value


def number_tree(file: PdfFile, keys: Sequence[int], objects: Sequence[int]) -> Ref:
    """A number tree of objects, by keys in order (§7.9.7)."""
    kids: list[Ref] = []
    for at in range(0, len(keys), NAMES_IN_A_NODE):
        row, held = keys[at : at + NAMES_IN_A_NODE], objects[at : at + NAMES_IN_A_NODE]
        flat = [one for key, number in zip(row, held, strict=True) for one in (key, Ref(number))]
        kids.append(file.add({"Limits": [row[0], row[-1]], "Nums": flat}))
    return file.add({"Kids": kids} if kids else {"Nums": []})


def free_name(name: bytes, taken: dict[bytes, Any], place: int) -> bytes:
    """A name that nothing else has."""
    found, number = name, place + 1
    while found in taken:
        found = b"%b %d" % (name, number)
        number += 1
    return found
