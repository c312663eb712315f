"""Joining parts into one file: pages in their order, with all that belongs to them."""

from __future__ import annotations

from array import array
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any, Final, NamedTuple

from fleetquill.bindery.joined_fields import JoinedFields
from fleetquill.bindery.joined_names import free_name, name_tree
from fleetquill.bindery.joined_outline import Entry, JoinedOutline, kept_items
from fleetquill.bindery.joined_structure import JoinedStructure
from fleetquill.bindery.links import Links, PartNames, Placed, page_name
from fleetquill.bindery.outlines import outline_of
from fleetquill.bindery.overlays import Frame, Overlay, Overlays, frame_of
from fleetquill.bindery.page_labels import label_rows
from fleetquill.bindery.papers import paper_points
from fleetquill.bindery.parts import OpenPart
from fleetquill.bindery.trees import entries_of, named_destinations
from fleetquill.output.pdf.file import PdfFile
from fleetquill.output.pdf.metadata import information, xmp
from fleetquill.pdf.copying import Copier, Shared
from fleetquill.pdf.objects import Name, Ref, number, write
from fleetquill.pdf.page_boxes import Box, box_of, size_of, turn_of
from fleetquill.pdf.reading import PdfPage, PdfReader
from fleetquill.pdf.syntax import DAMAGE, without_marks
from fleetquill.remarks import Remark
from fleetquill.tree.metadata import Metadata

PAGES_IN_A_NODE: Final = 64
BOXES: Final = ("MediaBox", "CropBox", "BleedBox", "TrimBox", "ArtBox")
TAKEN: Final = ("Group", "UserUnit", "LastModified", "Metadata", "AF", "PieceInfo")  # of pages, besides what is made
CATALOG: Final = ("Version",)
LAYERS: Final = ("Order", "ON", "OFF", "Locked", "RBGroups", "AS")  # of optional content (table 99)


class JoinWish(NamedTuple):
    """How parts are joined: what the file says of itself, whether parts begin on odd pages, how pages are numbered
    ('', 'whole' or 'parts'), and whether bookmarks stand under a heading for each part."""

    metadata: Metadata
    even: bool = False
    numbers: str = ""
    outline: bool = True


class _Written(NamedTuple):
    """A page that is in the file."""

    ref: Ref
    size: tuple[float, float]


class Joiner:
    """Writes one file of many parts. Parts come one after another; none is held."""

    def __init__(self, file: PdfFile, wish: JoinWish, names: Sequence[str], overlays: Overlays) -> None:
        self._file = file
        self._wish = wish
        self._overlays = overlays
        self._parts = PartNames(list(names))
        self._several = len(names) > 1
        self._shared = Shared()
        self._root = file.reserve()
        self._nodes: list[tuple[Ref, list[Ref]]] = []
        self._sizes: tuple[float, float] = (0.0, 0.0)  # of the last page
        self._count = 0
        self._place = 0  # of the part
        self._destinations: dict[bytes, int] = {}  # the objects that they are
        self._wanted: dict[bytes, str] = {}  # names that links lead to, and a part with such a link
        self._first_pages: list[tuple[int, int]] = []  # of each part: its first page's object, and how many there are
        self._page_objects = array("Q")
        self._outline = JoinedOutline(file)
        self._fields = JoinedFields(file)
        self._structure = JoinedStructure(file, several=len(names) > 1)
        self._labels: list[Any] = []
        self._is_labelled = False
        self._files: dict[bytes, Ref] = {}
        self._associated: list[Any] = []
        self._layers: dict[str, list[Any]] = {}
        self._groups: list[Any] = []
        self._intents: list[bytes] = []
        self._intent: Any = None
        self._languages: list[str] = []
        self._version = "1.7"
        self._metadata: Metadata | None = None
        self.remarks: list[Remark] = []

    def add(self, part: OpenPart) -> int:
        """Writes the pages of a part; gives how many stand before them."""
        reader = part.reader
        if self._wish.even and self._count % 2:
            self._blank()
        part.refs = [self._file.reserve() for _ in part.pages]
        pages: dict[int, Ref] = {}
        for page, ref in zip(part.pages, part.refs, strict=True):
            if page.ref is not None:
                pages.setdefault(page.ref.number, ref)
        placed = self._placed(part)
        named = named_destinations(reader)
        taken: dict[int, Ref | None] = dict.fromkeys(_page_tree(reader))
        taken |= pages
        renamed = {name: free_name(name, self._destinations, self._place + 1) for name in named}
        links = Links(reader, named, renamed, taken, placed, self._parts)
        is_tagged = self._structure.begin(reader)

        def edit(entries: dict[str, Any]) -> dict[str, Any]:
            if is_tagged:
                entries = self._structure.edit(entries)
            elif "StructParent" in entries or "StructParents" in entries:
                entries = {key: one for key, one in entries.items() if not key.startswith("StructParent")}
            return links.edit(entries) if "S" in entries or "Dest" in entries else entries

        copier = Copier(reader, self._file, self._shared, edit)
        copier.places |= taken
        widgets = self._reserve_annotations(part, copier)
        self._fields.add(reader, copier, widgets)
        self._number(part)
        first = self._count
        frames = [self._frame(page, part) for page in part.pages]
        self._overlays.begin(part, first, self._place, frames)
        for at, (page, ref) in enumerate(zip(part.pages, part.refs, strict=True)):
            again = page.ref is not None and pages.get(page.ref.number) != ref
            self._page(part, at, page, ref, copier, widgets, again=again)
        if is_tagged:
            self._structure.add(reader, copier, pages, reader.text(reader.catalog.get("Lang")))
        else:
            self._structure.untagged.append(part.name)
        for name, value in named.items():
            place = links.explicit(value)
            if place is not None:
                self._destinations[renamed[name]] = self._file.add(place).number
        for name in links.wanted:
            self._wanted.setdefault(name, part.name)
        if links.lost:
            self._remark("link", f"{links.lost} of its links lead to pages that are not taken.", part.name)
        self._first_pages.append((first, len(part.pages)))
        self._take_outline(part, named, links)
        self._take_rest(part, copier)
        self._place += 1
        return first

    # ---- pages ----

    def _placed(self, part: OpenPart) -> dict[int, Placed]:
        """How pages are fitted into the paper that is asked for, by the number of their object."""
        if not part.part.page:
            return {}
        found: dict[int, Placed] = {}
        for page in part.pages:
            if page.ref is not None:
                found[page.ref.number] = _fitted(page, part)[0]
        return found

    def _frame(self, page: PdfPage, part: OpenPart) -> Frame:
        """A page as it will be."""
        frame = frame_of(page, part, part.part.turn)
        return Frame(_fitted(page, part)[1], frame.turn, 1.0) if part.part.page else frame

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

    def _page(
        self,
        part: OpenPart,
        at: int,
        page: PdfPage,
        ref: Ref,
        copier: Copier,
        widgets: dict[int, Ref],
        *,
        again: bool,
    ) -> None:
        reader = part.reader
        entries: dict[str, Any] = {"Type": Name("Page"), "Parent": self._node(ref)}
        entries |= copier.entries({key: page.entries[key] for key in (*BOXES, *TAKEN) if key in page.entries})
        entries.setdefault("MediaBox", list(box_of(page, reader, "MediaBox")))
        turn = (turn_of(page, reader) + part.part.turn) % 360
        entries["Rotate"] = turn or None
        resources = reader.dictionary(page.entries.get("Resources"))
        placed: Placed | None = None
        if part.part.page:
            placed, box = _fitted(page, part)
            entries |= dict.fromkeys(BOXES) | {"MediaBox": list(box), "UserUnit": None}
        frame = self._frame(page, part)
        overlays = self._overlays.of_page(at, self._count, frame)
        entries["Resources"], contents = self._content(page, copier, resources, placed, overlays, again=again)
        entries["Contents"] = contents[0] if len(contents) == 1 else contents or None
        if not again:
            keys = copier.entries({key: page.entries[key] for key in ("StructParents",) if key in page.entries})
            entries |= keys
            annotations = self._annotations(part, page, ref, copier, widgets, placed)
            entries["Annots"] = annotations or None
            entries["Tabs"] = page.entries.get("Tabs")
        self._file.add(entries, ref)
        self._page_objects.append(ref.number)
        self._sizes = size_of(page, reader)
        self._count += 1

    def _content(
        self,
        page: PdfPage,
        copier: Copier,
        resources: dict[str, Any],
        placed: Placed | None,
        overlays: Sequence[Overlay],
        *,
        again: bool,
    ) -> tuple[Any, list[Any]]:
        """The resources and the content streams of a page, with what lies under and over it."""
        given = page.entries.get("Contents")
        found = copier.reader.resolve(given)
        refs: list[Any] = [copier.value(one) for one in found] if isinstance(found, list) else [copier.value(given)]
        contents = [one for one in refs if one is not None]
        if again:
            try:
                plain = without_marks(copier.reader.page_content(page))  # it is in the structure already
                contents = [self._file.add_stream(b"/Artifact BMC\n" + plain + b"\nEMC")]
            except DAMAGE:
                contents = []
        if placed is None and not overlays:
            shared = page.entries.get("Resources")
            return copier.value(shared if shared is not None else {}), contents
        copied = copier.value(resources)
        forms = dict(copied.get("XObject") or {}) if not isinstance(copied.get("XObject"), Ref) else None
        if forms is None:
            forms = copier.value(dict(copier.reader.dictionary(resources.get("XObject"))))
        before, after = "q", "Q"
        if placed is not None:
            scale, x, y = placed
            before += f" {number(scale, 6)} 0 0 {number(scale, 6)} {number(x)} {number(y)} cm"
        for at, overlay in enumerate(overlays):
            name = f"FqOver{at + 1}"
            while name in forms:
                name += "x"
            forms[name] = overlay.form
            matrix = " ".join(number(part, 6) for part in overlay.matrix)
            shown = f"/Artifact<</Type/{overlay.kind}>>BDC q {matrix} cm /{name} Do Q EMC"
            if overlay.below:
                before = f"{shown}\n{before}"
            else:
                after = f"{after}\n{shown}"
        around = self._file.add_stream(f"{before}\n".encode()), self._file.add_stream(f"\n{after}\n".encode())
        return copied | {"XObject": forms or None}, [around[0], *contents, around[1]]

    def _annotations(
        self,
        part: OpenPart,
        page: PdfPage,
        ref: Ref,
        copier: Copier,
        widgets: dict[int, Ref],
        placed: Placed | None,
    ) -> list[Ref]:
        reader = part.reader
        found: list[Ref] = []
        for given in reader.array(page.entries.get("Annots")):
            entries = reader.dictionary(given)
            if not entries:
                continue
            new = widgets.get(given.number) if isinstance(given, Ref) else self._file.reserve()
            if new is None or new in found:
                continue
            made = self._fields.widgets.pop(new.number, None)
            if made is None and isinstance(given, Ref) and copier.places.get(given.number) is None:
                continue
            if made is None:
                made = copier.entries(entries, ("P",))
            made["P"] = ref
            if placed is not None:
                move_annotation(made, placed)
            self._file.add(made, new)
            found.append(new)
        return found

    def _blank(self) -> None:
        ref = self._file.reserve()
        wide, high = self._sizes
        self._file.add(
            {"Type": Name("Page"), "Parent": self._node(ref), "MediaBox": [0, 0, wide, high], "Resources": {}}, ref
        )
        self._labels += [self._count, {}]
        self._page_objects.append(ref.number)
        self._count += 1

    def _node(self, page: Ref) -> Ref:
        if not self._nodes or len(self._nodes[-1][1]) >= PAGES_IN_A_NODE:
            if self._nodes:
                self._end_node()
            self._nodes.append((self._file.reserve(), []))
        node, kids = self._nodes[-1]
        kids.append(page)
        return node

    def _end_node(self) -> None:
        node, kids = self._nodes[-1]
        self._file.add({"Type": Name("Pages"), "Parent": self._root, "Kids": kids, "Count": len(kids)}, node)
        kids.clear()
        self._nodes[-1] = (node, kids)

    # ---- what belongs to the whole ----

    def _number(self, part: OpenPart) -> None:
        """The labels of a part's pages (§12.4.2)."""
        rows = label_rows(part.reader)
        if self._wish.numbers == "whole":
            return
        if not rows:
            self._labels += [self._count, {"S": Name("D")}]
            return
        self._is_labelled = True
        row, start = dict[str, Any](), 0
        before: tuple[str, bytes, int] | None = None
        for at, page in enumerate(part.pages):
            begins = max((index for index in rows if index < page.number), default=-1)
            row, start = rows.get(begins, {}), max(0, begins)
            first = row.get("St", 1)
            count = (first if isinstance(first, int) else 1) + page.number - 1 - start
            style, prefix = str(row.get("S", "")), row.get("P", b"")
            if before is None or (style, prefix, count) != (before[0], before[1], before[2] + 1):
                said = {"S": Name(style) if style else None, "P": prefix or None, "St": count if count > 1 else None}
                self._labels += [self._count + at, said]
            before = (style, prefix, count)

    def _take_outline(self, part: OpenPart, named: Mapping[bytes, Any], links: Links) -> None:
        items = kept_items(outline_of(part.reader, dict(named)), links.explicit)
        title = part.title if self._several or part.part.title else ""
        if not self._wish.outline or not title or not part.refs:
            for item in items:
                self._outline.add(item)
            return
        self._outline.add(Entry(title, [part.refs[0], Name("XYZ"), None, None, None], {}, True, items))

    def _take_rest(self, part: OpenPart, copier: Copier) -> None:
        """What is said of a whole part: files that go along, layers, output intents, language, metadata."""
        reader = part.reader
        catalog = reader.catalog
        names = reader.dictionary(catalog.get("Names"))
        for key, value in entries_of(names.get("EmbeddedFiles"), "Names", reader):
            if isinstance(key, bytes):
                copied = copier.value(value)
                held = copied if isinstance(copied, Ref) else self._file.add(copied)
                self._files[free_name(key, self._files, self._place + 1)] = held
        self._associated += copier.value(reader.array(catalog.get("AF")))
        layers = reader.dictionary(catalog.get("OCProperties"))
        if layers:
            self._groups += copier.value(reader.array(layers.get("OCGs")))
            usual = reader.dictionary(layers.get("D"))
            for key in LAYERS:
                self._layers.setdefault(key, []).extend(copier.value(reader.array(usual.get(key))))
        intents = copier.value(reader.resolve(catalog.get("OutputIntents")))
        self._intents.append(write(intents) if intents else b"")
        self._intent = intents
        self._languages.append(reader.text(catalog.get("Lang")))
        said = reader.resolve(catalog.get("Version"))
        self._version = max(self._version, reader.version, str(said) if isinstance(said, str) else "")
        if self._metadata is None:
            info = reader.dictionary(reader.trailer.get("Info"))
            texts = [reader.text(info.get(key)) for key in ("Title", "Author", "Subject", "Keywords")]
            title, author, subject, keywords = texts
            self._metadata = Metadata(title, author, subject, keywords)
        if "OpenAction" in catalog or "AA" in catalog or "JavaScript" in names:
            self._remark("script", "What it does by itself when it is opened is left out.", part.name)

    def _remark(self, kind: str, message: str, source: str) -> None:
        self.remarks.append(Remark(kind, message, source))

    def finish(self, date: datetime | None) -> int:
        """Writes what belongs to the whole; gives how many pages there are."""
        file = self._file
        if self._nodes:
            self._end_node()
        counts = [PAGES_IN_A_NODE] * (len(self._nodes) - 1) + [(self._count - 1) % PAGES_IN_A_NODE + 1]
        kids = [node for node, _ in self._nodes]
        file.add({"Type": Name("Pages"), "Kids": kids, "Count": sum(counts[: len(kids)])}, self._root)
        self._settle_links()
        metadata = self._said(date)
        packet = file.add_stream(xmp(metadata), {"Type": Name("Metadata"), "Subtype": Name("XML"), "Filter": None})
        names = {"Dests": name_tree(file, self._destinations), "EmbeddedFiles": name_tree(file, self._files)}
        outline = self._outline.finish()
        form = self._fields.finish()
        structure = self._structure.finish(is_whole=not self._structure.untagged)
        if structure and self._structure.untagged:
            untagged = ", ".join(f"'{name}'" for name in self._structure.untagged[:5])
            self._remark("tags", f"The file does not say of all its parts what they are: {untagged} has no tags.", "")
        self._say_of_fields()
        same = len(set(self._intents)) == 1
        if len(set(filter(None, self._intents))) > 1:
            self._remark("color", "The parts are meant for different inks or screens: the file names none.", "")
        catalog = file.add(
            {
                "Type": Name("Catalog"),
                "Version": Name(self._version) if self._version > "1.7" else None,
                "Pages": self._root,
                "Metadata": packet,
                "Lang": metadata.language or None,
                "Outlines": outline,
                "PageMode": Name("UseOutlines") if outline else None,
                "Names": names if any(names.values()) else None,
                "AF": self._associated or None,
                "AcroForm": form,
                "OCProperties": self._optional_content(),
                "OutputIntents": self._intent if same and self._intent else None,
                "PageLabels": self._page_labels(),
                "ViewerPreferences": {"DisplayDocTitle": True} if metadata.title else None,
                **structure,
            }
        )
        file.finish(catalog, file.add(information(metadata)))
        return self._count

    def _said(self, date: datetime | None) -> Metadata:
        own, first = self._wish.metadata, self._metadata or Metadata()
        languages = {language for language in self._languages if language}
        return first._replace(
            title=own.title or first.title, author=own.author or first.author,
            language=own.language or (self._languages[0] if languages else ""), created=date,
        )  # fmt: skip

    def _settle_links(self) -> None:
        """Names of pages that links of other parts want; a remark for links that lead nowhere."""
        for part, (first, count) in enumerate(self._first_pages):
            for page in range(1, count + 1):
                name = page_name(part, page)
                if name in self._wanted:
                    place = [Ref(self._page_objects[first + page - 1]), Name("Fit")]
                    self._destinations[name] = self._file.add(place).number
        for name, source in self._wanted.items():
            if name not in self._destinations:
                said = name.decode("utf-8", "replace")
                self._remark("link", f"A link leads to '#{said}', which is in no part.", source)

    def _say_of_fields(self) -> None:
        for name, before in self._fields.renamed.items():
            self._remark("field", f"The field '{before}' of another part has its name: here it is '{name}'.", "")
        if self._fields.unsigned:
            self._remark("seal", "Signatures do not hold in a file that is put together: they are taken out.", "")

    def _optional_content(self) -> dict[str, Any] | None:
        if not self._groups:
            return None
        return {"OCGs": self._groups, "D": {key: held for key, held in self._layers.items() if held}}

    def _page_labels(self) -> dict[str, Any] | None:
        if not self._is_labelled and self._wish.numbers != "parts":
            return None
        return {"Nums": self._labels} if self._labels else None


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


def _fitted(page: PdfPage, part: OpenPart) -> tuple[Placed, Box]:
    """How a page is drawn in the paper that is asked for: as large as it fits, in the middle; and its new box."""
    wide, high = paper_points(part.part.page)
    reader = part.reader
    left, bottom, right, top = box_of(page, reader)
    own_wide, own_high = right - left, top - bottom
    turned = (turn_of(page, reader) + part.part.turn) % 180 == 90
    shown_wide, shown_high = (own_high, own_wide) if turned else (own_wide, own_high)
    if ((shown_wide > shown_high) != (wide > high)) != turned:  # the paper lies as the page does
        wide, high = high, wide
    scale = min(wide / own_wide, high / own_high)
    x, y = (wide - own_wide * scale) / 2, (high - own_high * scale) / 2
    return (scale, x - left * scale, y - bottom * scale), (0.0, 0.0, wide, high)


def move_annotation(made: dict[str, Any], placed: Placed) -> None:
    """An annotation on a page that is drawn larger and elsewhere."""
    scale, x, y = placed
    for key in ("Rect", "QuadPoints", "Vertices", "L"):
        points = made.get(key)
        if isinstance(points, list) and all(isinstance(one, (int, float)) for one in points):
            made[key] = [one * scale + (y if at % 2 else x) for at, one in enumerate(points)]
