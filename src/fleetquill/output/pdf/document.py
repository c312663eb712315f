"""A PDF document, page by page: page tree, margins written at the end, outline, links (§7.7, §12)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, BinaryIO, Final, NamedTuple
from urllib.parse import quote

from fleetquill.drawing.canvas import Canvas, Drawing
from fleetquill.drawing.paged import Bookmark, PageLabel, PageSize
from fleetquill.errors import ConformanceError
from fleetquill.graphics.reduction import PictureRules
from fleetquill.output.besides import NOTHING, Besides
from fleetquill.output.pdf.attachments import write_attachments
from fleetquill.output.pdf.canvas import Link, PdfCanvas, Tagging
from fleetquill.output.pdf.field_places import FieldOnPage, in_order
from fleetquill.output.pdf.fields import PRINTED, TYPED, FormFields, action_of, states_of
from fleetquill.output.pdf.file import PdfFile
from fleetquill.output.pdf.intents import output_intent
from fleetquill.output.pdf.metadata import information, xmp
from fleetquill.output.pdf.resources import Resources
from fleetquill.output.pdf.store import PdfStore
from fleetquill.output.pdf.tags import Tags
from fleetquill.pdf.locks import new_lock
from fleetquill.pdf.objects import Name, Ref, number
from fleetquill.tree.metadata import Metadata

TOP: Final = "top"  # of the document, where nothing else is called so (HTML §7.4.6.4)
PAGES_IN_A_NODE: Final = 64
LEAST_SIDE: Final = 3  # points of a page (ISO 19005-2 §6.1.13)
MOST_SIDE: Final = 14_400
NUMBERINGS: Final = {  # counter styles as page labels have them (§12.4.2, table 161)
    "decimal": "D", "lower-roman": "r", "upper-roman": "R", "lower-alpha": "a", "lower-latin": "a", "upper-alpha": "A",
    "upper-latin": "A",
}  # fmt: skip


class WrittenPage(NamedTuple):
    """What is still needed of a page that has gone out."""

    ref: Ref
    size: PageSize
    margins: Ref | None
    resources: Ref  # written with the margins, where there are any
    names: frozenset[str]  # of resources that its content names


def open_document(stream: BinaryIO, store: PdfStore, pictures: PictureRules, besides: Besides = NOTHING) -> PdfDocument:
    """Begins a PDF file; with a structure it is tagged."""
    return PdfDocument(stream, store, pictures, besides)


class PdfDocument:
    """Writes one document. Pages go out as they come; all else follows in `finish`."""

    def __init__(self, stream: BinaryIO, store: PdfStore, pictures: PictureRules, besides: Besides = NOTHING) -> None:
        standards = self._standards = besides.standards
        self._attachments = besides.attachments
        lock = None if besides.lock is None else new_lock(besides.lock)
        self._file = PdfFile(stream, "2.0" if standards.is_modern else "1.7", lock)
        self._keeps_places = besides.destinations
        structure = besides.structure
        self._parts = {} if structure is None else structure.names
        self._tags = None if structure is None else Tags(self._file, structure.root, modern=standards.is_modern)
        self._resources = Resources(self._file, pictures, store, archived=standards.part > 0)
        self._fields = FormFields(self._file, self._resources)
        self._pages: list[WrittenPage] = []
        self._nodes: list[tuple[Ref, list[Ref]]] = []
        self._root = self._file.reserve()
        self._destinations: dict[str, list[Any]] = {}
        self.wanted: dict[str, int] = {}  # fragment identifiers that links lead to, and a page with such a link

    @property
    def length(self) -> int:
        """Bytes written so far."""
        return self._file.length

    def canvas(self, width: float, height: float) -> PdfCanvas:
        tagging = None if self._tags is None else Tagging(self._tags, self._file.reserve())
        return PdfCanvas(self._resources, extent=(width, height), tagging=tagging, is_page=True)

    def add_page(
        self,
        size: PageSize,
        canvas: Canvas,
        places: Sequence[tuple[str, float, float]],
        margins: bool,
    ) -> None:
        """Writes a page; `places` are identifiers and where they stand on it."""
        assert isinstance(canvas, PdfCanvas)  # that `canvas` gave
        tagging = canvas.tagging
        if self._standards.part:
            _check_size(size, len(self._pages) + 1)
        page = self._file.reserve() if tagging is None else tagging.page
        content = _content(canvas, size)
        names = self._resources.named_in(content)
        contents = [self._file.add_stream(content.encode("ascii"))]
        margin_ref = self._file.reserve() if margins else None
        if margin_ref is not None:
            contents.append(margin_ref)
        resources = self._resources.shared(names) if margin_ref is None else self._file.reserve()
        annotations = [self._link(link, size, page) for link in canvas.links]
        fields = in_order(canvas.fields)
        annotations += [self._widget(placed, size, page) for placed in fields]
        ordered = self._tags is None and any(placed.field.order for placed in fields)
        entries: dict[str, Any] = {
            "Type": Name("Page"),
            "Parent": self._node(page),
            "MediaBox": _box(size, size.around),
            "BleedBox": _box(size, size.bleed) if size.around else None,
            "TrimBox": _box(size, 0.0) if size.around else None,
            "Rotate": size.turn or None,
            "Resources": resources,
            "Contents": contents if len(contents) > 1 else contents[0],
            "Annots": annotations or None,
            "Tabs": Name("S") if annotations and tagging is not None and not ordered else None,
            "StructParents": None if tagging is None or not tagging.own.places else tagging.own.key,
        }
        if self._tags is not None and tagging is not None:
            self._tags.end_page(tagging.sheets, size)
        self._file.add(entries, page)
        self._pages.append(WrittenPage(page, size, margin_ref, resources, names))
        for name, x, y in places:
            self._destinations.setdefault(
                name, [page, Name("XYZ"), _points(size, x), _points(size, size.height - y), None]
            )

    def add_margins(self, index: int, canvas: Canvas) -> None:
        """Writes the margin boxes of the page at `index` (from 0)."""
        page = self._pages[index]
        if page.margins is not None:
            content = _content(canvas, page.size)
            names = page.names | self._resources.named_in(content)
            self._file.add(self._resources.dictionary(names), page.resources)
            self._file.add_stream(content.encode("ascii"), ref=page.margins)

    def _node(self, page: Ref) -> Ref:
        """The page tree node that a page hangs from (§7.7.3)."""
        if not self._nodes or len(self._nodes[-1][1]) >= PAGES_IN_A_NODE:
            self._nodes.append((self._file.reserve(), []))
        node, kids = self._nodes[-1]
        kids.append(page)
        return node

    def _link(self, link: Link, size: PageSize, page: Ref) -> Ref:
        """A link annotation (§12.5.6.5)."""
        x, y, wide, high, target, said, place = link
        ref = self._file.reserve()
        bottom, top = size.height - y - high, size.height - y
        entries: dict[str, Any] = {
            "Type": Name("Annot"),
            "Subtype": Name("Link"),
            "Rect": [_points(size, side) for side in (x, bottom, x + wide, top)],
            "Border": [0, 0, 0],
            "F": 4,
            "Contents": said or None,
        }
        if self._tags is not None and place is not None:
            entries["StructParent"] = self._tags.link(place, ref, page)
        if target.startswith("#"):
            wanted = target[1:] or TOP
            name = wanted.encode("utf-8")
            part = self._parts.get(wanted)
            if self._standards.is_modern and self._tags is not None and part is not None:
                entries["A"] = {"S": Name("GoTo"), "D": name, "SD": self._tags.destination(part)}
            else:
                entries["Dest"] = name
            self.wanted.setdefault(wanted, len(self._pages) + 1)
        else:
            entries["A"] = {"Type": Name("Action"), "S": Name("URI"), "URI": _encoded(target).encode("ascii")}
        return self._file.add(entries, ref)

    def _widget(self, placed: FieldOnPage, size: PageSize, page: Ref) -> Ref:
        """The widget of a field (§12.5.6.19)."""
        field, x, y, wide, high, states, place = placed
        ref = self._file.reserve()
        bottom, top = size.height - y - high, size.height - y
        shown = {
            state: self._resources.appearance(drawing, self._drawn(drawing), typed=field.kind in TYPED)
            for state, drawing in states.items()
        }
        widget: dict[str, Any] = {
            "Type": Name("Annot"),
            "Subtype": Name("Widget"),
            "Rect": [_points(size, side) for side in (x, bottom, x + wide, top)],
            "P": page,
            "F": PRINTED,
            "A": action_of(field),
            **states_of(field, shown),
        }
        if self._tags is not None and place is not None:
            widget["StructParent"] = self._tags.link(place, ref, page)
        self._fields.add(ref, placed, widget)
        return ref

    def _drawn(self, drawing: Drawing) -> str:
        """The operators of a drawing on its own."""
        canvas = PdfCanvas(self._resources)
        drawing.paint(canvas)
        return canvas.content()

    def missing_destinations(self) -> list[tuple[str, int]]:
        """Identifiers that links lead to and that nothing has, with the page of such a link."""
        return [(name, page) for name, page in self.wanted.items() if name not in self._destinations and name != TOP]

    def finish(self, metadata: Metadata, bookmarks: Sequence[Bookmark]) -> None:
        for node, kids in self._nodes:
            self._file.add({"Type": Name("Pages"), "Parent": self._root, "Kids": kids, "Count": len(kids)}, node)
        self._file.add(
            {"Type": Name("Pages"), "Kids": [node for node, _ in self._nodes], "Count": len(self._pages)},
            self._root,
        )
        form = self._fields.finish()
        self._resources.write()
        packet = self._file.add_stream(
            xmp(metadata, self._standards), {"Type": Name("Metadata"), "Subtype": Name("XML"), "Filter": None}
        )
        outline = self._outline(bookmarks)
        names: dict[str, Any] = {}
        if TOP in self.wanted and self._pages:
            page, size = self._pages[0].ref, self._pages[0].size
            self._destinations.setdefault(TOP, [page, Name("XYZ"), None, _points(size, size.height), None])
        destinations = self._name_tree()
        if destinations:
            names["Dests"] = destinations
        files: list[Ref] = []
        if self._attachments:
            names["EmbeddedFiles"], files = write_attachments(self._file, self._attachments, metadata.created)
        preferences: dict[str, Any] = {"DisplayDocTitle": True} if metadata.title else {}
        if metadata.direction == "rtl":
            preferences["Direction"] = Name("R2L")
        if self._tags is not None:
            self._tags.finish()
        catalog = self._file.add(
            {
                "Type": Name("Catalog"),
                "Pages": self._root,
                "Metadata": packet,
                "Lang": metadata.language or None,
                "Outlines": outline,
                "PageMode": Name("UseOutlines") if outline else None,
                "Names": names or None,
                "AcroForm": form,
                "AF": files or None,
                "OutputIntents": [output_intent(self._file)] if self._standards.part else None,
                "PageLabels": self._page_labels(),
                "ViewerPreferences": preferences or None,
                "StructTreeRoot": None if self._tags is None else self._tags.tree,
                "MarkInfo": None if self._tags is None else {"Marked": True},
            }
        )
        info = None if self._standards.part == 4 else self._file.add(information(metadata))
        self._file.finish(catalog, info)

    def _page_labels(self) -> dict[str, Any] | None:
        """What pages are numbered where that is not simply their place (§12.4.2): a row for each run that counts on."""
        rows: list[Any] = []
        before = PageLabel(0)
        for index, page in enumerate(self._pages):
            label = page.size.label or PageLabel(index + 1)
            follows = label == before._replace(number=before.number + 1) and label.number != 1
            if not rows or not follows:  # labels begin at 1: pages before have none
                row = {"S": Name(NUMBERINGS.get(label.style, "D")), "St": label.number if label.number > 1 else None}
                rows += [index, row if label.number > 0 else {}]
            before = label
        return {"Nums": rows} if rows and rows != [0, {"S": "D", "St": None}] else None

    def _name_tree(self) -> Ref | None:
        """Named destinations in order of their bytes (§7.9.6)."""
        kept = self._destinations if self._keeps_places else self.wanted
        used = sorted((n.encode("utf-8"), place) for n, place in self._destinations.items() if n in kept)
        if not used:
            return None
        flat: list[Any] = []
        for name, place in used:
            flat += [name, place]
        return self._file.add({"Names": flat})

    def _outline(self, bookmarks: Sequence[Bookmark]) -> Ref | None:
        """The outline dictionary and its items (§12.3.3)."""
        if not bookmarks:
            return None
        root = self._file.reserve()
        first, last, count = self._outline_level(bookmarks, root)
        self._file.add({"Type": Name("Outlines"), "First": first, "Last": last, "Count": count}, root)
        return root

    def _outline_level(self, bookmarks: Sequence[Bookmark], parent: Ref) -> tuple[Ref, Ref, int]:
        refs = [self._file.reserve() for _ in bookmarks]
        total = len(bookmarks)
        for index, (bookmark, ref) in enumerate(zip(bookmarks, refs, strict=True)):
            page = self._pages[bookmark.page - 1]
            top = round(_points(page.size, page.size.height) - bookmark.y, 3)
            place: Any = [page.ref, Name("XYZ"), None, top, None]
            modern = self._standards.is_modern and self._tags is not None and bookmark.part is not None
            entries: dict[str, Any] = {
                "Title": bookmark.label,
                "Parent": parent,
                "Prev": refs[index - 1] if index else None,
                "Next": refs[index + 1] if index + 1 < len(refs) else None,
                "Dest": None if modern else place,
            }
            if self._tags is not None and bookmark.part is not None and modern:
                entries["A"] = {"S": Name("GoTo"), "D": place, "SD": self._tags.destination(bookmark.part)}
            if bookmark.children:
                entries["First"], entries["Last"], inner = self._outline_level(bookmark.children, ref)
                entries["Count"] = inner if bookmark.is_open else -inner
                total += inner if bookmark.is_open else 0
            self._file.add(entries, ref)
        return refs[0], refs[-1], total


def _check_size(size: PageSize, number: int) -> None:
    """Raises ConformanceError for a page that is larger or smaller than archives take (ISO 19005-2 §6.1.13)."""
    sides = [_points(size, side + 2 * size.around) for side in (size.width, size.height)]
    if not all(LEAST_SIDE <= side <= MOST_SIDE for side in sides):
        raise ConformanceError(
            f"Page {number} is {sides[0]:g} × {sides[1]:g} pt; in a file for archives sides are from {LEAST_SIDE} to "
            f"{MOST_SIDE:,} pt.",
            remedy="Use more pages, or a smaller scale.",
        )


def _encoded(address: str) -> str:
    """An address with what no URI may hold percent-encoded (RFC 3986 §2.1); what is encoded stays."""
    return quote(address, safe="!#$%&'()*+,/:;=?@[]~")


def _box(size: PageSize, beyond: float) -> list[float]:
    """The page's rectangle (§14.11.2) with so many px more on each side; the origin is the trimmed corner."""
    return [
        _points(size, -beyond) if beyond else 0,
        _points(size, -beyond) if beyond else 0,
        _points(size, size.width + beyond),
        _points(size, size.height + beyond),
    ]


def _points(size: PageSize, px: float) -> float:
    return round(px * size.points, 3)


def _content(canvas: Canvas, size: PageSize) -> str:
    """The page's operators, with px turned into points and y turned up."""
    assert isinstance(canvas, PdfCanvas)  # that `canvas` gave
    unit = size.points
    matrix = f"{number(unit, 6)} 0 0 {number(-unit, 6)} 0 {number(size.height * unit)}"
    return f"q {matrix} cm\n{canvas.content()}\nQ"
