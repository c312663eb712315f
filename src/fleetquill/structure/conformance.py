"""What keeps a document from a standard: what only its author can give, each with its place and what to do.

ISO 14289-1 (PDF/UA-1) and ISO 14289-2 §8, ISO 19005-2 §6.7 and §6.2.11.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any, Final, NamedTuple

from fleetquill.drawing.places import Place
from fleetquill.errors import ConformanceError, Where
from fleetquill.remarks import Remark
from fleetquill.standards import Standards
from fleetquill.tree.attachments import Attachment
from fleetquill.tree.document import Document
from fleetquill.tree.metadata import Metadata

HEADINGS: Final = {f"H{level}": level for level in range(1, 7)}
PICTURED: Final = {"Figure": "A picture", "Formula": "A formula", "Form": "A form control"}
FONT_REMEDIES: Final = {"glyph": "Name a font that has them.", "embedding": "Use another font."}  # by kinds of remarks
MOST_TOLD: Final = 10
Find = Callable[[Any], Where]


class Fault(NamedTuple):
    """What is wrong, where, and what to do about it."""

    what: str
    where: Where | None
    remedy: str


def check_document(
    root: Place, document: Document, standards: Standards, remarks: Sequence[Remark], files: Sequence[Attachment]
) -> None:
    """Raises ConformanceError where the document, or a file that goes along, lacks what a standard asks of it."""
    place_of = document.place_of
    faults = [*_of_metadata(document.metadata, standards), *_of_glyphs(remarks), *_of_files(files, standards)]
    if standards.wants_tags:
        faults += _of_parts(root, standards, place_of)
    if faults:
        raise_faults(faults, standards)


def raise_faults(faults: Sequence[Fault], standards: Standards) -> None:
    """Raises a ConformanceError that tells of all faults."""
    first, more = faults[0], faults[1:MOST_TOLD]
    told = f"The document cannot be {' and '.join(standards.names)}. {first.what}"
    rest = [f"{fault.where}: {fault.what}" if fault.where else fault.what for fault in more]
    left = len(faults) - 1 - len(more)
    if rest:
        also = " ".join(rest) + (f" And {left} more." if left else "")
        raise ConformanceError(f"{told} {first.remedy} Also: {also}", where=first.where)
    raise ConformanceError(told, where=first.where, remedy=first.remedy)


def _of_metadata(metadata: Metadata, standards: Standards) -> Iterator[Fault]:
    if standards.access and not metadata.title:
        yield Fault("It has no title.", None, "Give it a <title>, or Manuscript(title=…).")
    if standards.wants_tags and not metadata.language:
        yield Fault("Nothing says which language it is in.", None, 'Say it: <html lang="en">.')


def _of_glyphs(remarks: Sequence[Remark]) -> Iterator[Fault]:
    """Characters without a glyph, and faces that may not go along (ISO 19005-2 §6.2.11.8 and §6.2.11.4.1)."""
    for remark in remarks:
        if remark.kind in FONT_REMEDIES:
            where = Where(remark.source, remark.line) if remark.source else None
            yield Fault(remark.message, where, FONT_REMEDIES[remark.kind])


def _of_files(files: Sequence[Attachment], standards: Standards) -> Iterator[Fault]:
    """Some parts of ISO 19005 take no files but of PDF/A (ISO 19005-2 §6.8, ISO 19005-4 §6.9)."""
    for file in files if not standards.takes_any_file else ():
        if not file.content.startswith(b"%PDF-"):
            remedy = "Ask for PDF/A-4f." if standards.part == 4 else "Ask for PDF/A-3."
            yield Fault(f"'{file.name}' goes along, and is no file of PDF/A.", None, remedy)


def _of_parts(root: Place, standards: Standards, place_of: Find) -> Iterator[Fault]:
    level = 0
    for place in in_order(root):
        facts = place.facts
        if place.role in PICTURED and not facts.alternative and not facts.text:
            yield Fault(
                f"{PICTURED[place.role]} has no text that says what it shows.",
                place_of(place.element),
                'Give it an alt="…" (or alt="" where it only decorates).'
                if place.role == "Figure"
                else 'Give it an aria-label="…".',
            )
        own = HEADINGS.get(place.role)
        if own is not None and standards.access == 1:
            if own > level + 1:
                before = f"a heading of level {level}" if level else "no heading at all"
                yield Fault(
                    f"A heading of level {own} follows {before}.",
                    place_of(place.element),
                    f"Make it one of level {level + 1}.",
                )
            level = own


def in_order(root: Place) -> Iterator[Place]:
    """The parts in the order of reading."""
    waiting = [root]
    while waiting:
        place = waiting.pop()
        yield place
        waiting += [kid for kid in reversed(place.kids) if isinstance(kid, Place) and (kid.kids or kid.ref)]
