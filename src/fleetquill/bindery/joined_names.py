"""The named destinations and the attached files of a bound file."""

from __future__ import annotations

from typing import Any, Final

from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.objects import Ref

NAMES_IN_A_NODE: Final = 500


def name_tree(file: PdfFile, found: dict[bytes, Any]) -> Ref | None:
    """A name tree (ISO 32000-2 §7.9.6), in nodes where it is long; None for no names."""
    if not found:
        return None
    names = sorted(found)
    rows = [names[at : at + NAMES_IN_A_NODE] for at in range(0, len(names), NAMES_IN_A_NODE)]
    flat = [[one for name in row for one in (name, found[name])] for row in rows]
    if len(flat) == 1:
        return file.add({"Names": flat[0]})
    kids = [file.add({"Limits": [row[0], row[-1]], "Names": pairs}) for row, pairs in zip(rows, flat, strict=True)]
    return file.add({"Kids": kids})


def number_tree(file: PdfFile, found: list[tuple[int, Any]]) -> Ref:
    """A number tree of pairs in order (§7.9.7)."""
    rows = [found[at : at + NAMES_IN_A_NODE] for at in range(0, len(found), NAMES_IN_A_NODE)] or [[]]
    flat = [[one for pair in row for one in pair] for row in rows]
    if len(flat) == 1:
        return file.add({"Nums": flat[0]})
    kids = [file.add({"Limits": [row[0][0], row[-1][0]], "Nums": own}) for row, own in zip(rows, flat, strict=True)]
    return file.add({"Kids": kids})


def free_name(name: bytes, taken: dict[bytes, Any], place: int) -> bytes:
    """A name that nothing else has."""
    found, number = name, place + 1
    while found in taken:
        found = b"%b %d" % (name, number)
        number += 1
    return found
