"""Pages on larger paper: two beside one another, or in the order of a booklet that is folded and stapled."""

from __future__ import annotations

import io
from collections.abc import Iterator
from typing import Any, Final

from fleetquill.bindery.fitting import move_annotation
from fleetquill.bindery.joined_names import name_tree
from fleetquill.bindery.joined_outline import JoinedOutline, kept_items
from fleetquill.bindery.links import Links, PartNames, Placed
from fleetquill.bindery.outlines import outline_of
from fleetquill.bindery.papers import paper_points
from fleetquill.bindery.trees import named_destinations
from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.copying import Copier, Shared, form_of_page
from fleetquill.pdf.locks import Wish, new_lock
from fleetquill.pdf.objects import Name, Ref, number
from fleetquill.pdf.page_boxes import size_of, turn_of
from fleetquill.pdf.reading import PdfPage, PdfReader
from fleetquill.remarks import Remark
from fleetquill.tree.lengths import PageSize

SHEETS: Final = ("", "two-up", "booklet")
KEPT: Final = ("Lang", "Names", "OCProperties", "AF", "OutputIntents", "ViewerPreferences", "Metadata")


def pairs(count: int, kind: str) -> Iterator[tuple[int | None, int | None]]:
    """The pages of each side of paper, left and right, from 0 on; None where nothing stands."""
    if kind == "two-up":
        for left in range(0, count, 2):
            yield left, left + 1 if left + 1 < count else None
        return
    whole = -(-count // 4) * 4

    def there(page: int) -> int | None:
        return page if page < count else None

    for turn in range(whole // 4):
        first, last = 2 * turn, whole - 1 - 2 * turn
        yield there(last), there(first)
        yield there(first + 1), there(last - 1)


def on_sheets(content: bytes, kind: str, paper: PageSize, lock: Wish | None) -> tuple[io.BytesIO, list[Remark]]:
    """A finished file with two of its pages on each side of paper; links and bookmarks lead to where they are then."""
    reader = PdfReader(content)
    pages = list(reader.pages())
    wide, high = _paper(pages[0], reader, paper)
    stream = io.BytesIO()
    file = PdfFile(stream, lock=None if lock is None else new_lock(lock))
    sides = list(pairs(len(pages), kind))
    refs = [file.reserve() for _ in sides]
    at: dict[int, Ref | None] = {}
    placed: dict[int, Placed] = {}
    for side, ref in zip(sides, refs, strict=True):
        for place, index in enumerate(side):
            page = None if index is None else pages[index]
            if page is not None and page.ref is not None:
                at[page.ref.number] = ref
                placed[page.ref.number] = _placed(page, reader, wide / 2, high, place)
    links = Links(reader, named_destinations(reader), {}, at, placed, PartNames([]))
    copier = Copier(reader, file, Shared(), links.edit)
    copier.places |= at
    root = file.reserve()
    for side, ref in zip(sides, refs, strict=True):
        _write_side(side, ref, root, pages, copier, file, (wide, high))
    file.add({"Type": Name("Pages"), "Kids": refs, "Count": len(refs)}, root)
    outline = JoinedOutline(file)
    for item in kept_items(outline_of(reader, named_destinations(reader)), links.explicit):
        outline.add(item)
    named = {name: shown for name, value in named_destinations(reader).items() if (shown := links.explicit(value))}
    said = copier.entries({key: one for key, one in reader.catalog.items() if key in KEPT})
    files = reader.dictionary(said.pop("Names", None))
    names = {"Dests": name_tree(file, named), "EmbeddedFiles": files.get("EmbeddedFiles")}
    catalog = {"Type": Name("Catalog"), "Pages": root, "Outlines": outline.finish(), "Names": names, **said}
    info = reader.trailer.get("Info")
    file.finish(file.add(catalog), file.add(copier.value(reader.dictionary(info))))
    left = [("tags", "Pages on larger paper have no tags."), ("field", "Pages on larger paper have no fields.")]
    there = ["StructTreeRoot" in reader.catalog, "AcroForm" in reader.catalog]
    return stream, [Remark(*what) for what, has in zip(left, there, strict=True) if has]


def _paper(page: PdfPage, reader: PdfReader, paper: PageSize) -> tuple[float, float]:
    """The paper that is asked for, lying; else twice the page."""
    if paper:
        sides = paper_points(paper)
        return max(sides), min(sides)
    wide, high = size_of(page, reader)
    return 2 * wide, high


def _placed(page: PdfPage, reader: PdfReader, wide: float, high: float, place: int) -> Placed:
    """How large a page is drawn, and where, in its half."""
    own_wide, own_high = size_of(page, reader)
    scale = min(wide / own_wide, high / own_high)
    return scale, place * wide + (wide - own_wide * scale) / 2, (high - own_high * scale) / 2


def _write_side(
    side: tuple[int | None, int | None],
    ref: Ref,
    root: Ref,
    pages: list[PdfPage],
    copier: Copier,
    file: PdfFile,
    size: tuple[float, float],
) -> None:
    """One side of paper."""
    reader = copier.reader
    wide, high = size
    shown: list[str] = []
    forms: dict[str, Ref] = {}
    annotations: list[Ref] = []
    for place, index in enumerate(side):
        if index is None:
            continue
        page = pages[index]
        scale, x, y = placed = _placed(page, reader, wide / 2, high, place)
        name = f"P{place + 1}"
        forms[name] = form_of_page(page, copier, file)
        shown.append(f"q {number(scale, 6)} 0 0 {number(scale, 6)} {number(x)} {number(y)} cm /{name} Do Q")
        for given in reader.array(page.entries.get("Annots")):
            entries = reader.dictionary(given)
            if entries.get("Subtype") == "Link" and not turn_of(page, reader):
                made: dict[str, Any] = copier.entries(entries, ("P", "StructParent"))
                move_annotation(made, placed)
                annotations.append(file.add(made | {"P": ref}))
    file.add(
        {
            "Type": Name("Page"),
            "Parent": root,
            "MediaBox": [0, 0, wide, high],
            "Resources": {"XObject": forms} if forms else {},
            "Contents": file.add_stream("\n".join(shown).encode()),
            "Annots": annotations or None,
        },
        ref,
    )
