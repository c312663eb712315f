"""Files that go along with a PDF (ISO 32000-2 §7.11.4 and §14.13)."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any, Final

from fleetquill.output.pdf.file import PdfFile
from fleetquill.output.pdf.metadata import pdf_date
from fleetquill.pdf.objects import Name, Ref
from fleetquill.tree.attachments import Attachment

UNDATED: Final = datetime(2000, 1, 1, tzinfo=UTC)  # a file has to have a date (ISO 19005-3 §6.8)


def write_attachments(
    file: PdfFile, attachments: Sequence[Attachment], created: datetime | None
) -> tuple[dict[str, Any], list[Ref]]:
    """Writes files; gives their name tree and the list of associated files. The same name twice gets a number."""
    named: list[tuple[bytes, Ref]] = []
    taken: set[str] = set()
    for one in attachments:
        name = _free_name(one.name, taken)
        changed = pdf_date(one.changed or created or UNDATED)
        stream = file.add_stream(
            one.content,
            {
                "Type": Name("EmbeddedFile"),
                "Subtype": Name(one.kind),
                "Params": {
                    "Size": len(one.content),
                    "ModDate": changed,
                    "CheckSum": hashlib.md5(one.content, usedforsecurity=False).digest(),
                },
            },
        )
        ref = file.add(
            {
                "Type": Name("Filespec"),
                "F": name,
                "UF": name,
                "AFRelationship": Name(one.relationship),
                "Desc": one.description or name,
                "EF": {"F": stream, "UF": stream},
            }
        )
        named.append((name.encode("utf-8"), ref))
    refs = [ref for _, ref in named]
    flat: list[Any] = []
    for key, ref in sorted(named):
        flat += [key, ref]
    return {"Names": flat}, refs


def _free_name(name: str, taken: set[str]) -> str:
    stem, dot, ending = name.rpartition(".")
    found, number = name, 1
    while found in taken:
        number += 1
        found = f"{stem} {number}.{ending}" if dot else f"{name} {number}"
    taken.add(found)
    return found
