"""One document on its way through the press: its sheets, its boxes, its pages, and what layout asks meanwhile."""

from __future__ import annotations

import copy
import io
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterable, Sequence
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO, Final, NamedTuple, cast

from fleetquill.attached_files import attachments_of
from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.effects import Effect
from fleetquill.drawing.paged import PagedOutput
from fleetquill.drawing.places import Place
from fleetquill.errors import Where
from fleetquill.formats import Formats
from fleetquill.graphics.pictures import PictureStore
from fleetquill.graphics.reduction import PictureRules
from fleetquill.inspecting import Explained
from fleetquill.layout.boxes.boxes import Box
from fleetquill.layout.boxes.build import build
from fleetquill.layout.boxes.moving_text import forget_measures
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.fragments import walk_past_quiet
from fleetquill.layout.pages.kept_pages import KeptPages
from fleetquill.layout.pages.page import PageFragment, count_sections
from fleetquill.layout.pages.page_area import page_area
from fleetquill.layout.pages.pages import lay_out_pages
from fleetquill.layout.pages.reach import scale_to_fit
from fleetquill.output.besides import NOTHING, Besides
from fleetquill.output.counted import CountedStream
from fleetquill.output.how import USUAL, How
from fleetquill.output.kinds import PDF, PNG, SVG, Kind
from fleetquill.paint.pages import PagesPainter
from fleetquill.policy import Policy
from fleetquill.progress import Listener, told
from fleetquill.remarks import Remarks
from fleetquill.sheet_loading import SheetLoader
from fleetquill.stock import Stock
from fleetquill.structure.parts import parts_of
from fleetquill.style.base_sheet import base_sheet
from fleetquill.style.cascade import AUTHOR, USER_AGENT
from fleetquill.style.explaining import Explaining
from fleetquill.style.font_face import FontFaceRule
from fleetquill.style.hints import inline_style
from fleetquill.style.page_selectors import PageKind
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.sheet import Sheet
from fleetquill.text.fonts import FaceEntry
from fleetquill.text.settings import FontSettings
from fleetquill.tree.attachments import Attachment
from fleetquill.tree.base import Base, Reader
from fleetquill.tree.contents import fill_contents
from fleetquill.tree.document import Document, Element
from fleetquill.tree.excerpt import LEAST_SCALE
from fleetquill.tree.html import plain_names
from fleetquill.tree.links import decode_fragments, without_unsafe_links

if TYPE_CHECKING:
    from fleetquill.graphics.svg.svg import SvgRoom
    from fleetquill.layout.table.prototype import OpenLedger

MOST_LAYOUTS: Final = 5  # until page references have settled
ASCII: Final = range(0x20, 0x7F)  # which counters and list marks may be of
MORE_TEXT: Final = ("fq-ledger", "fq-chart", "fq-figure")  # elements that show text from elsewhere
NEARER: Final = 0.01  # how much of the page a smaller scale has to win
LARGEST_KEPT: Final = 2_000_000  # bytes of an SVG file whose drawing is kept


def fitted(document: Document, job_of: Callable[[Document], Job]) -> Document:
    """The document at the largest scale at which its pages hold it, where it asks for that; as it is where a smaller
    one helps nothing, for all that is too wide is a part of the page's width."""
    if not document.fits:
        return document
    over = scale_to_fit(job_of(document).pages())
    while over < 1.0:
        smaller = copy.copy(document)
        smaller.scale = max(LEAST_SCALE, document.scale * over)
        left = scale_to_fit(job_of(smaller).pages())
        if left < over + NEARER:
            break
        document, over = smaller, left
    return document


class Drawer:
    """Draws SVG, with the document's fonts. It holds no pictures: those that a drawing shows are handed in."""

    def __init__(
        self,
        stock: Stock,
        fonts: FontSettings,
        sheets: Sequence[tuple[int, Sheet]],
        check: Callable[[str, Where], str],
    ) -> None:
        """`sheets` are the document's own, which hold for the drawings that stand in it; `check` their size."""
        self._stock = stock
        self._check = check
        self._kept = stock.drawings
        self.fonts = fonts
        self._sheets = sheets

    def file(self, content: bytes, pictures: PictureStore) -> Drawing | str:
        """The drawing of an SVG file, or what is wrong with it."""
        key = (content, self.fonts)
        found = self._kept.get(key)
        if found is None:
            from fleetquill.graphics.svg.reading import parse_svg
            from fleetquill.graphics.svg.svg import draw_svg

            root = parse_svg(content)
            found = root if isinstance(root, str) else draw_svg(root, self._room(pictures, ()))
            shared = len(content) <= LARGEST_KEPT and b"<image" not in content  # pictures are the document's own
            if isinstance(found, Drawing) and found.scales and not found.stretches:
                found.redraw = partial(_drawn_again, content, self._room(None if shared else pictures, ()))
            if shared:
                self._kept.put(key, found)
        return found

    def element(self, element: Element, style: ComputedStyle, pictures: PictureStore) -> Drawing:
        """The drawing of an svg element in the document."""
        from fleetquill.graphics.svg.svg import draw_svg

        plain_names(element)
        return draw_svg(element, self._room(pictures, self._sheets), style)

    def part(self, root: Element, name: str, style: ComputedStyle, pictures: PictureStore) -> Drawing | None:
        """The clipPath or mask with that id in the document, as it is for a box of a style."""
        from fleetquill.graphics.svg.styles import drawn_element
        from fleetquill.graphics.svg.svg import draw_part

        found = drawn_element(root, name)
        return None if found is None else draw_part(found, self._room(pictures, self._sheets), style)

    def effect(self, root: Element, name: str, style: ComputedStyle, pictures: PictureStore) -> Effect | None:
        """The filter with that id in the document, as it is for a box of a style."""
        from fleetquill.graphics.svg.styles import drawn_element
        from fleetquill.graphics.svg.svg import element_filter

        found = drawn_element(root, name)
        return None if found is None else element_filter(found, self._room(pictures, self._sheets), style)

    def _room(self, pictures: PictureStore | None, sheets: Sequence[tuple[int, Sheet]]) -> SvgRoom:
        from fleetquill.graphics.svg.styles import BASE
        from fleetquill.graphics.svg.svg import SvgRoom

        stock, check = self._stock, self._check
        base = (USER_AGENT, stock.sheet(BASE, ""))
        return SvgRoom(
            lambda own: stock.cascade(
                [base, *sheets, *((AUTHOR, stock.sheet(check(css, Where("SVG")), "")) for css in own)], self.fonts
            ),
            self.fonts.of,
            _no_picture if pictures is None else pictures.get,
        )


def _no_picture(url: str) -> str:
    return f"'{url}' is none."


def _drawn_again(content: bytes, room: SvgRoom, width: float, height: float) -> Drawing:
    """An SVG file in a place of that size: its content is fitted anew where the ratio is another than its own."""
    from fleetquill.graphics.svg.reading import parse_svg
    from fleetquill.graphics.svg.svg import draw_svg_at

    root = parse_svg(content)
    assert not isinstance(root, str)  # it was read before
    return draw_svg_at(root, room, width, height)


class Services:
    """What layout asks of other rooms, for one document.

    They know nothing of layout, and nothing in them holds them again: a document that nobody holds is gone at
    once, not when the collector runs.
    """

    def __init__(
        self, stock: Stock, document: Document, reader: Reader, policy: Policy, drawer: Drawer, width: float
    ) -> None:
        self._stock = stock
        self._document = document
        self._reader = reader
        self._drawer = drawer
        self._width = width  # px of the page area
        self.fonts = drawer.fonts
        base = document.base
        self.pictures = PictureStore(lambda url: reader.read(url, base), policy, self._drawer.file)
        self.paragraphs = stock.paragraphs

    @property
    def source(self) -> str:
        return self._document.source

    def place_of(self, element: Element | None) -> Where:
        return self._document.place_of(element)

    def formats(self) -> Formats:
        return self._stock.formats()

    def write_value(self, value: Any, form: str) -> str:
        given = self._document.form_of(form)
        return self.formats().form(value, form) if given is None else self.formats().text(given(value))

    def draw(self, element: Element, style: ComputedStyle) -> Drawing:
        return self._drawer.element(element, style, self.pictures)

    def draw_part(self, name: str, element: Element, style: ComputedStyle) -> Drawing | None:
        return self._drawer.part(element.getroottree().getroot(), name, style, self.pictures)

    def effect(self, name: str, element: Element, style: ComputedStyle) -> Effect | None:
        return self._drawer.effect(element.getroottree().getroot(), name, style, self.pictures)

    def chart(self, element: Element, style: ComputedStyle) -> tuple[Drawing | str, str]:
        from fleetquill.graphics.chart_elements import ChartRoom, draw_chart

        room = ChartRoom(self.fonts.named, self.formats(), self._path, self._width)
        return draw_chart(element, style, self._document.figure_of(element), room)

    def open_ledger(self, element: Element) -> OpenLedger:
        from fleetquill.layout.table.prototype import open_ledger

        rows, place = self._document.rows_of(element), self.place_of(element)
        return open_ledger(element, rows, self._path, self.formats(), place)

    def _path(self, url: str) -> Path:
        return self._reader.path(url, self._document.base)


class Job:
    """One document on its way through the press."""

    def __init__(
        self,
        document: Document,
        stock: Stock,
        reader: Reader,
        policy: Policy,
        styles: Sequence[Path],
        listener: Listener | None = None,
        *,
        fillable: bool = False,
    ) -> None:
        self.document = document = without_unsafe_links(document, strangers=policy.strangers)
        self.stock = stock
        self.policy = policy
        self.listener = listener
        self._styles = styles
        self.remarks = Remarks()
        self.faces: list[FaceEntry] = []
        self._attachments: tuple[Attachment, ...] | None = None  # once they are read
        self._characters: list[int] | None = None  # of the document; empty where more come from elsewhere
        self.reader = reader
        reader.homes = [*([document.home] if document.home is not None else ()), *document.files]
        loader = SheetLoader(document, reader, self.remarks, stock.sheet, self._add_face, policy.check_style)
        sheets = [(AUTHOR, sheet) for sheet in loader.load(styles)]
        self._starts = loader.starts
        fonts = stock.font_settings(tuple(self.faces))
        self.cascade = stock.cascade([(USER_AGENT, base_sheet()), *sheets], fonts, document.scale)
        drawer = Drawer(stock, fonts, sheets, policy.check_style)
        services = Services(stock, document, reader, policy, drawer, self.cascade.medium.width)
        self.context = Context(services, self.remarks, self.cascade.counter_styles)
        self.context.scale, self.context.fits = document.scale, document.fits
        self.context.fillable = fillable
        fill_contents(document.root)
        decode_fragments(document.root)
        self._check_inline_styles()
        self.root = self._build()
        self._remark_scripts()
        self._remark_inline_faults()
        for kind, note, place in (*document.notes, *document.replaced()):
            self.remarks.add(kind, note, source=place.source, line=place.line)

    def _build(self) -> Box:
        built = build(self.document.root, self.cascade, self.context, self.policy.nesting)
        self.context.found = built.found
        return built.root

    def _remark_scripts(self) -> None:
        for script in self.document.root.iter("script"):
            kind = script.get("type", "").lower()
            if kind in ("", "module") or "javascript" in kind:
                place = self.document.place_of(script)
                self.remarks.add("script", "Scripts are not run.", source=place.source, line=place.line)
                return

    def _add_face(self, rule: FontFaceRule, base: Base) -> str:
        """The first source of an @font-face that can be used; what is wrong where none can."""
        from fleetquill.text.document_fonts import load_face

        if rule.ranges and not self._may_show(rule.ranges):
            return ""
        library = self.stock.font_settings().library
        found = load_face(rule, lambda url: self.reader.read(url, base), library, self.stock.unpack_font)
        if isinstance(found, str):
            return found
        self.faces.append(found)
        return ""

    def _check_inline_styles(self) -> None:
        for element in self.document.root.iterfind(".//*[@style]"):
            css = element.get("style", "")
            if len(css) > self.policy.style_size:
                self.policy.check_style(css, self.document.place_of(element))

    def _may_show(self, ranges: Sequence[tuple[int, int]]) -> bool:
        """Whether the document may have any character of some ranges, as far as is known before it is laid out."""
        if self._characters is None:
            root = self.document.root
            known = next(root.iter(*MORE_TEXT), None) is None
            texts = [*map(str, root.itertext()), *(str(value) for one in root.iter() for value in one.attrib.values())]
            self._characters = sorted(set().union(ASCII, *(map(ord, text) for text in texts))) if known else []
        found = self._characters
        return not found or any(bisect_left(found, low) < bisect_right(found, high) for low, high in ranges)

    def _remark_inline_faults(self) -> None:
        for element in self.document.root.iterfind(".//*[@style]"):
            for fault in self.cascade.inline_faults(inline_style(element)):
                place = self.document.place_of(element)
                self.remarks.add("style", fault.message, source=place.source, line=place.line)

    @property
    def files(self) -> tuple[Path, ...]:
        """The files that the document was made from, as far as it has come."""
        return tuple(dict.fromkeys([*self.document.files, *self._styles, *self.reader.files]))

    @cached_property
    def _explaining(self) -> Explaining:
        return Explaining(self.cascade, self._starts, self.document.place_of)

    def explain(self, element: Element) -> Explained:
        """Where an element is written, and what its looks come from."""
        place = self.document.place_of(element)
        return Explained(place.source, place.line, tuple(self._explaining.said_of(element)))

    def compose(self) -> list[PageFragment]:
        """All pages, with their margin boxes."""
        pages = self.pages()
        if not isinstance(pages, list):
            pages = list(told(pages, "laid out", self.listener))
        count_sections(pages)
        for page in pages:
            page.margin_boxes(len(pages), self.context)
        self._remark_lost_links(pages)
        self._attached()
        self.context.let_go()
        return pages

    @property
    def _is_linked(self) -> bool:
        """Whether any link leads to a place in the document."""
        return any("#" in link.get("href", "") for link in self.document.root.iter("a"))

    def _remark_lost_links(self, pages: Sequence[PageFragment]) -> None:
        """Links to places that are not there, as they are found again when the file is written."""
        if not self._is_linked:
            return
        names = {"", "top", *(name for page in pages for name, _, _ in page.places)}
        for page in pages:
            for placed in (placed for part in page.parts for placed in walk_past_quiet(part)):
                target = _target_of(placed.box.element)
                if target.startswith("#") and target[1:] not in names:
                    names.add(target[1:])  # said once
                    self._remark_lost_link(target[1:], page.kind.number)

    def _remark_lost_link(self, name: str, page: int) -> None:
        message = f"A link leads to '#{name}', which is not in the document."
        self.remarks.add("link", message, source=self.document.source, page=page)

    def pages(self) -> Iterable[PageFragment]:
        """The pages, each as soon as it is full."""
        return self._with_targets() if self.context.found.wants_targets else self._lay_out()

    def _lay_out(self, kept: KeptPages | None = None) -> Iterable[PageFragment]:
        return lay_out_pages(self.root, self.cascade, self.context, self.policy.pages, kept)

    def _with_targets(self) -> Iterable[PageFragment]:
        """Lays out as often as it takes until what references say is what is so; twice, as a rule."""
        context = self.context
        mark = self.remarks.mark()
        kept = KeptPages()
        for _ in range(MOST_LAYOUTS):
            self.remarks.back_to(mark)
            kept.begin()
            context.let_go()  # what was placed for good in one layout is not for the next
            known = context.known
            before = (dict(known.page_of), known.pages, known.note_numbers)
            page_of: dict[str, int] = {}
            notes: dict[int, int] = {}
            pages = list(told(self._lay_out(kept), "laid out", self.listener))
            for page in pages:
                for name, _, _ in page.places:
                    page_of.setdefault(name, page.counter)
                if self.cascade.restarts_notes:
                    notes |= page.number_notes(context.found.note_numbers, next(reversed(notes.values()), 0))
            if before == (page_of, len(pages), notes):
                return pages
            known.page_of, known.pages, known.note_numbers = page_of, len(pages), notes
            if context.found.builds_with_targets:
                self.remarks.forget_since(mark)
                self.root = self._build()
                kept = KeptPages()
                mark = self.remarks.mark()
            else:
                forget_measures(self.root)
        self.remarks.add(
            "reference", "References move the pages that they name; some numbers may be wrong.",
            source=self.document.source,
        )  # fmt: skip
        return pages

    def write(
        self, pages: Iterable[PageFragment], kind: Kind, stream: BinaryIO, rules: PictureRules, how: How = USUAL
    ) -> Written:
        """Paints and writes. Each page may be dropped once it is painted."""
        structure = parts_of(self.root, self.context.found.fixed) if how.tagged else None
        besides = Besides(structure, how.standards, self._attached(), how.lock, how.destinations)
        output = kind.open(stream, self.stock.pdf, rules, besides)
        return Written(self._paint(pages, output, besides), output.length)

    def _attached(self) -> tuple[Attachment, ...]:
        """The files that go along, read once."""
        if self._attachments is None:
            self._attachments = tuple(attachments_of(self.document, self.reader, self.remarks))
        return self._attachments

    def leaves(self, pages: Iterable[PageFragment], kind: Kind, how: How, rules: PictureRules) -> Leaves:
        """Paints each page as a file of its own."""
        if kind is PNG:
            from fleetquill.output.png.document import pictures_of

            whole = io.BytesIO()
            count = self.write(pages, PDF, whole, rules, how._replace(tagged=False)).pages
            return Leaves(count, pictures_of(whole.getvalue(), how))
        from fleetquill.output.svg.document import SvgPages

        output = SvgPages(how)
        return Leaves(self._paint(pages, output, NOTHING), output.files())

    def _paint(self, pages: Iterable[PageFragment], output: PagedOutput, besides: Besides) -> int:
        """Paints pages on an output and ends it; gives how many there were."""
        painter = PagesPainter(output, self.context)
        count = painter.paint(told(pages, "written", self.listener), linked=self._is_linked or besides.destinations)
        for name, number in output.missing_destinations():
            self._remark_lost_link(name, number)
        if besides.standards.names:
            from fleetquill.structure.conformance import check_document

            root = Place("Document", None) if besides.structure is None else besides.structure.root
            said = self.remarks.all()
            check_document(root, self.document, besides.standards, said, besides.attachments)
        output.finish(self.document.metadata, painter.outline())
        self.context.let_go()
        return count

    def write_web(self, stream: BinaryIO, how: How, rules: PictureRules) -> Written:
        """Writes a page of the web: as it flows, or as its pages on a screen."""
        counted = CountedStream(stream)
        if how.shown == "pages":
            from fleetquill.output.html.document import write_pages

            leaves = self.leaves(self.pages(), SVG, how._replace(letters="text"), rules)
            write_pages(leaves.files, self.document.metadata, cast(BinaryIO, counted))
            return Written(leaves.pages, counted.length)
        from fleetquill.output.svg.drawings import svg_of
        from fleetquill.structure.sheets import Room
        from fleetquill.structure.tree_styles import TreeStyles
        from fleetquill.structure.web_page import WebPage, WebRoom

        document = self.document.with_root(copy.deepcopy(self.document.root))
        reader, context = self.reader, self.context
        styles = TreeStyles(self.cascade, document.root)
        room = Room(document, self.stock.formats(), styles, lambda url: reader.path(url, document.base))
        area = page_area(self.cascade.page_style(PageKind(1, right=True), self.root.style).style)
        page = WebPage(WebRoom(room, context, reader.read, svg_of, area), linked=how.linked)
        for part in page.parts():
            counted.write(part.encode("utf-8", "replace"))
        for message in page.remarks:
            self.remarks.add("kind", message, source=document.source)
        return Written(0, counted.length)

    def write_flow(self, kind: Kind, stream: BinaryIO, how: How) -> Written:
        """Writes a file whose text flows. Where it says on which pages things stand, it is laid out first."""
        from fleetquill.structure.sheet_kinds import flow_of

        context = self.context
        if context.found.wants_targets:
            for _ in self.pages():
                pass
            context.let_go()
        counted = CountedStream(stream)
        flow = flow_of(self.root, self.cascade, context, self.document)
        for message in kind.write_flow(flow, self.document.metadata, how, cast(BinaryIO, counted)):
            self.remarks.add("kind", message, source=self.document.source)
        return Written(0, counted.length)


def _target_of(element: Element | None) -> str:
    """What a link leads to; '' for another element."""
    return element.get("href", "").strip() if element is not None and element.tag == "a" else ""


class Leaves(NamedTuple):
    """How many pages there are, and their files one after another."""

    pages: int
    files: Iterable[bytes]


class Written(NamedTuple):
    """How many pages were written, in how many bytes; of a file of rows, how many of those."""

    pages: int
    length: int
    rows: int = 0
