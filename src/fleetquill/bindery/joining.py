"""Joining parts into one file: pages in their order, with all that belongs to them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any, Final, NamedTuple

from fleetquill.bindery.fitting import fitted, frame_of, move_annotation, placed_pages
from fleetquill.bindery.joined_fields import JoinedFields
from fleetquill.bindery.joined_labels import JoinedLabels
from fleetquill.bindery.joined_names import free_name, name_tree
from fleetquill.bindery.joined_outline import Entry, JoinedOutline, kept_items
from fleetquill.bindery.joined_pages import PageTree, page_content
from fleetquill.bindery.joined_rest import JoinedRest
from fleetquill.bindery.joined_structure import JoinedStructure
from fleetquill.bindery.links import Links, PartNames, Placed, page_name
from fleetquill.bindery.outlines import outline_of
from fleetquill.bindery.overlays import Overlays
from fleetquill.bindery.parts import OpenPart
from fleetquill.bindery.trees import named_destinations
from fleetquill.output.pdf.file import PdfFile
from fleetquill.output.pdf.metadata import information, xmp
from fleetquill.pdf.copying import Copier, Shared
from fleetquill.pdf.objects import Name, Ref
from fleetquill.pdf.page_boxes import box_of
from fleetquill.pdf.reading import PdfPage, PdfReader
from fleetquill.remarks import Remark
from fleetquill.tree.metadata import Metadata

BOXES: Final = ("MediaBox", "CropBox", "BleedBox", "TrimBox", "ArtBox")
TAKEN: Final = ("Group", "UserUnit", "LastModified", "Metadata", "AF", "PieceInfo")  # of pages, besides what is made
MOST_NAMED: Final = 5  # parts in one remark


class JoinWish(NamedTuple):
    """How parts are joined: what the file says of itself, whether parts begin on odd pages, how pages are numbered
    ('', 'whole' or 'parts'), and whether bookmarks stand under a heading for each part."""

    metadata: Metadata
    even: bool = False
    numbers: str = ""
    outline: bool = True


class _Taking(NamedTuple):
    """A part that is being taken: what copies it, the new pages by the numbers of the old ones, and the new annotations
    by those of theirs."""

    part: OpenPart
    copier: Copier
    pages: dict[int, Ref]
    annotations: dict[int, Ref]
    placed: dict[int, Placed]


class Joiner:
    """Writes one file of many parts. Parts come one after another; none is held. `names` are those of their files, as
    far as they are known before; links lead to parts that are known."""

    def __init__(
        self, file: PdfFile, wish: JoinWish, names: Sequence[str], overlays: Overlays, *, several: bool
    ) -> None:
        self._file = file
        self._wish = wish
        self._overlays = overlays
        self._parts = PartNames(names)
        self._several = several
        self._shared = Shared()
        self._tree = PageTree(file)
        self._last_size = (0.0, 0.0)  # of a page, in points
        self._firsts: list[tuple[int, int]] = []  # of each part: how many pages stand before it, and how many it has
        self._destinations: dict[bytes, int] = {}  # the numbers of the objects that they are
        self._wanted: dict[bytes, str] = {}  # names that links lead to, and a part with such a link
        self._outline = JoinedOutline(file)
        self._fields = JoinedFields(file)
        self._structure = JoinedStructure(file, several=self._several)
        self._labels = JoinedLabels(wish.numbers)
        self._rest = JoinedRest(file)
        self.remarks: list[Remark] = []

    @property
    def page_count(self) -> int:
        return self._tree.count

    def add(self, part: OpenPart) -> int:
        """Writes the pages of a part; gives how many stand before them."""
        reader = part.reader
        if self._wish.even and self._tree.count % 2:
            self._add_blank()
        first, place = self._tree.count, len(self._firsts)
        self._parts.add(place, part.name)
        part.refs = [self._file.reserve() for _ in part.pages]
        pages: dict[int, Ref] = {}
        for page, ref in zip(part.pages, part.refs, strict=True):
            if page.ref is not None:
                pages.setdefault(page.ref.number, ref)
        named = named_destinations(reader)
        renamed = {name: free_name(name, self._destinations, place + 1) for name in named}
        taken: dict[int, Ref | None] = {**dict.fromkeys(_page_tree(reader)), **pages}
        placed = placed_pages(part)
        links = Links(reader, named, renamed, taken, placed, self._parts)
        is_tagged = self._structure.begin(reader)
        copier = self._copier(reader, links, is_tagged=is_tagged)
        copier.places |= taken
        taking = _Taking(part, copier, pages, self._reserve_annotations(part, copier), placed)
        self._fields.add(reader, copier, taking.annotations)
        self._labels.add(part, first)
        self._overlays.begin(part, first, place, [frame_of(page, part) for page in part.pages])
        for at, page in enumerate(part.pages):
            self._add_page(taking, at, page)
        if is_tagged:
            self._structure.add(reader, copier, pages, reader.text(reader.catalog.get("Lang")))
        else:
            self._structure.untagged.append(part.name)
        self._firsts.append((first, len(part.pages)))
        self._take_links(part, named, renamed, links)
        self._rest.add(reader, copier, place + 1)
        self._say_what_runs(part)
        return first

    def _copier(self, reader: PdfReader, links: Links, *, is_tagged: bool) -> Copier:
        """What copies objects of a part: links lead to where they do in the bound file, keys are those of its tree."""

        def edit(entries: dict[str, Any]) -> dict[str, Any]:
            if is_tagged:
                entries = self._structure.edit(entries)
            elif "StructParent" in entries or "StructParents" in entries:
                entries = {key: one for key, one in entries.items() if not key.startswith("StructParent")}
            return links.edit(entries) if "S" in entries or "Dest" in entries else entries

        return Copier(reader, self._file, self._shared, edit)

    # ---- pages ----

    def _reserve_annotations(self, part: OpenPart, copier: Copier) -> dict[int, Ref]:
        """Numbers for the annotations of all pages, by those that they have: they may lead to one another."""
        reader = part.reader
        found: dict[int, Ref] = {}
        for page in part.pages:
            for ref in reader.array(page.entries.get("Annots")):
                if isinstance(ref, Ref) and ref.number not in found and reader.dictionary(ref):
                    found[ref.number] = self._file.reserve()
        copier.places |= found
        return found

    def _add_page(self, taking: _Taking, at: int, page: PdfPage) -> None:
        """Writes a page of a part. One that stands again is a picture of the first."""
        part, copier, ref = taking.part, taking.copier, taking.part.refs[at]
        again = page.ref is not None and taking.pages[page.ref.number] != ref
        entries = copier.entries({key: page.entries[key] for key in (*BOXES, *TAKEN) if key in page.entries})
        entries.setdefault("MediaBox", list(box_of(page, part.reader, "MediaBox")))
        frame = frame_of(page, part)
        placed: Placed | None = None
        if part.part.page:
            placed = fitted(page, part)[0]
            entries |= {**dict.fromkeys(BOXES), "MediaBox": list(frame.box), "UserUnit": None}
        overlays = self._overlays.of_page(at, self._tree.count, frame)
        resources, contents = page_content(page, copier, self._file, placed, overlays, again=again)
        entries |= {
            "Rotate": frame.turn or None,
            "Resources": resources,
            "Contents": contents[0] if len(contents) == 1 else contents or None,
        }
        if not again:
            entries |= copier.entries(
                {key: page.entries[key] for key in ("StructParents", "Tabs") if key in page.entries}
            )
            entries["Annots"] = self._annotations(taking, page, ref, placed) or None
        self._tree.add(entries, ref)
        self._last_size = frame.size

    def _annotations(self, taking: _Taking, page: PdfPage, ref: Ref, placed: Placed | None) -> list[Ref]:
        reader, copier = taking.part.reader, taking.copier
        found: dict[Ref, None] = {}
        for given in reader.array(page.entries.get("Annots")):
            entries = reader.dictionary(given)
            new = taking.annotations.get(given.number) if isinstance(given, Ref) else self._file.reserve()
            if not entries or new is None or new in found:
                continue
            made = self._fields.widgets.pop(new.number, None)
            if made is None and isinstance(given, Ref) and copier.places.get(given.number) is None:
                continue  # its field is not taken
            made = copier.entries(entries, ("P",)) if made is None else made
            made["P"] = ref
            if placed is not None:
                move_annotation(made, placed)
            self._file.add(made, new)
            found[new] = None
        return list(found)

    def _add_blank(self) -> None:
        wide, high = self._last_size
        self._labels.add_blank(self._tree.count)
        self._tree.add({"MediaBox": [0, 0, wide, high], "Resources": {}}, self._file.reserve())

    # ---- what belongs to the whole ----

    def _take_links(
        self, part: OpenPart, named: Mapping[bytes, Any], renamed: Mapping[bytes, bytes], links: Links
    ) -> None:
        """Where links of other parts may lead, where those of this one do, and its bookmarks."""
        for name, value in named.items():
            place = links.explicit(value)
            if place is not None:
                self._destinations[renamed[name]] = self._file.add(place).number
        for name in links.wanted:
            self._wanted.setdefault(name, part.name)
        if links.lost:
            self._remark("link", f"{links.lost} of its links lead to pages that are not taken.", part.name)
        items = kept_items(outline_of(part.reader, dict(named)), links.explicit)
        title = part.title if self._several or part.part.title else ""
        if self._wish.outline and title:
            items = [Entry(title, [part.refs[0], Name("XYZ"), None, None, None], {}, True, items)]
        for item in items:
            self._outline.add(item)

    def _say_what_runs(self, part: OpenPart) -> None:
        catalog = part.reader.catalog
        names = part.reader.dictionary(catalog.get("Names"))
        if "OpenAction" in catalog or "AA" in catalog or "JavaScript" in names:
            self._remark("script", "What it does by itself when it is opened is left out.", part.name)

    def _remark(self, kind: str, message: str, source: str = "") -> None:
        self.remarks.append(Remark(kind, message, source))

    def finish(self, date: datetime | None) -> int:
        """Writes what belongs to the whole; gives how many pages there are."""
        file = self._file
        pages = self._tree.finish()
        self._settle_links()
        metadata = self._rest.metadata(self._wish.metadata, date)
        packet = file.add_stream(xmp(metadata), {"Type": Name("Metadata"), "Subtype": Name("XML"), "Filter": None})
        names = {"Dests": name_tree(file, self._destinations), "EmbeddedFiles": self._rest.embedded_files()}
        outline = self._outline.finish()
        catalog = {
            "Type": Name("Catalog"),
            "Pages": pages,
            "Metadata": packet,
            "Lang": metadata.language or None,
            "Outlines": outline,
            "PageMode": Name("UseOutlines") if outline else None,
            "Names": names if any(names.values()) else None,
            "AcroForm": self._fields.finish(),
            "PageLabels": self._labels.finish(),
            "ViewerPreferences": {"DisplayDocTitle": True} if metadata.title else None,
            **self._rest.finish(),
            **self._structure.finish(),
        }
        self._say_what_is_lost()
        file.finish(file.add(catalog), file.add(information(metadata)))
        return self._tree.count

    def _settle_links(self) -> None:
        """Names of pages that links of other parts want; a remark for links that lead nowhere."""
        for part, (first, count) in enumerate(self._firsts):
            for page in range(1, count + 1):
                name = page_name(part, page)
                if name in self._wanted:
                    place = [self._tree.page(first + page - 1), Name("Fit")]
                    self._destinations[name] = self._file.add(place).number
        for name, source in self._wanted.items():
            if name not in self._destinations:
                said = name.decode("utf-8", "replace")
                self._remark("link", f"A link leads to '#{said}', which is in no part.", source)

    def _say_what_is_lost(self) -> None:
        untagged = self._structure.untagged
        if untagged and self._structure.is_there:
            names = ", ".join(f"'{name}'" for name in untagged[:MOST_NAMED])
            self._remark("tags", f"The file does not say of all its parts what they are: {names} has no tags.")
        for name, before in self._fields.renamed.items():
            self._remark("field", f"The field '{before}' of another part has its name: here it is '{name}'.")
        if self._fields.unsigned:
            self._remark("seal", "Signatures do not hold in a file that is put together: they are taken out.")
        if self._rest.has_several_intents:
            self._remark("color", "The parts are meant for different inks or screens: the file names none.")


def _page_tree(reader: PdfReader) -> list[int]:
    """The numbers of all that is of the tree of pages, and of what belongs to the file alone."""
    found: list[int] = []
    waiting = [reader.catalog.get("Pages")]
    seen: set[int] = set()
    while waiting:
        ref = waiting.pop()
        if isinstance(ref, Ref) and ref.number not in seen:
            seen.add(ref.number)
            found.append(ref.number)
            waiting += reader.array(reader.dictionary(ref).get("Kids"))
    for key in ("StructTreeRoot", "Outlines", "AcroForm"):
        if isinstance(reader.catalog.get(key), Ref):
            found.append(reader.catalog[key].number)
    root = reader.trailer.get("Root")
    return [*found, root.number] if isinstance(root, Ref) else found
