"""The press: the engine set up once and reused. The one place that knows the whole way."""

from __future__ import annotations

import os
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from threading import Lock
from time import perf_counter
from typing import TYPE_CHECKING, Any, BinaryIO, Final, NamedTuple
from urllib.parse import urljoin

from fleetquill.authoring.contents import fill_contents
from fleetquill.authoring.manuscript import Manuscript
from fleetquill.drawing.canvas import PAGE_ARTIFACT, Drawing
from fleetquill.edition import Edition, write_whole
from fleetquill.errors import FleetQuillError, OptionError, Where
from fleetquill.formats import Formats
from fleetquill.graphics.pictures import PictureStore
from fleetquill.graphics.reduction import PictureRules
from fleetquill.intake.html import read_html, read_text
from fleetquill.intake.reading import Base, Reader
from fleetquill.layout.boxes.build import build
from fleetquill.layout.boxes.moving_text import forget_measures
from fleetquill.layout.boxes.replaced_elements import background_pictures
from fleetquill.layout.contract.context import Context
from fleetquill.layout.pages.kept_pages import KeptPages
from fleetquill.layout.pages.page import PageFragment
from fleetquill.layout.pages.pages import lay_out_pages, page_area
from fleetquill.output.pdf.canvas import PdfCanvas
from fleetquill.output.pdf.document import PageSize, PdfDocument
from fleetquill.output.pdf.store import PdfStore
from fleetquill.paint.borders import decoration_of
from fleetquill.paint.page_ground import MARK_ROOM, paint_ground, paint_marks
from fleetquill.paint.painter import paint_fragment, paint_page
from fleetquill.policy import Policy, Resource, is_web
from fleetquill.process import making
from fleetquill.remarks import Remark, Remarks
from fleetquill.structure.bookmarks import Bookmark, bookmarks_of, nested
from fleetquill.style.base_sheet import base_sheet
from fleetquill.style.cascade import AUTHOR, USER_AGENT, Cascade
from fleetquill.style.font_face import FontFaceRule
from fleetquill.style.media import Medium
from fleetquill.style.page_selectors import PageKind
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.sheet import Sheet, parse_sheet
from fleetquill.style.values import BLACK, Rgba
from fleetquill.text.fonts import FaceEntry, FontLibrary, default_faces
from fleetquill.text.settings import FontSettings

if TYPE_CHECKING:
    from fleetquill.layout.boxes.boxes import Element
    from fleetquill.layout.inline.paragraph import Paragraph
    from fleetquill.layout.table.prototype import OpenLedger

Source = str | os.PathLike[str] | Manuscript
Data = Mapping[str, Any] | str | os.PathLike[str]

MOST_LAYOUTS: Final = 5  # until page references have settled
MOST_SHEETS: Final = 256
MOST_DRAWINGS: Final = 64
LARGEST_KEPT: Final = 2_000_000  # bytes of an SVG file whose drawing is kept
MOST_CASCADES: Final = 32
MOST_FONT_SETS: Final = 32


class Summary(NamedTuple):
    """What `write` wrote."""

    page_count: int
    remarks: tuple[Remark, ...]
    bytes_written: int
    seconds: float


class Press:
    """Fonts, caches, locale and policy, set up once for any number of documents.

    `locale` decides how templates write numbers, money and dates. `policy` limits what a document
    may read. `font_folders` are folders with font files that documents may name by family; with
    `system_fonts` the system's own folders are among them. `font_index` is a file that keeps what
    was found in them, so that they are not read again each time. With `picture_dpi` pictures lose
    the pixels that they have beyond it, with `jpeg_quality` (1 to 95) photographs are compressed
    anew. `template_folders` are folders that
    templates may include and inherit from, besides their own. `headers` and `cookies` are sent with
    every request where the policy lets documents read from the web. A press may be used from
    several threads at once.
    """

    def __init__(
        self,
        *,
        locale: str = "en",
        policy: Policy | None = None,
        font_folders: Sequence[str | os.PathLike[str]] = (),
        system_fonts: bool = False,
        font_index: str | os.PathLike[str] | None = None,
        picture_dpi: float = 0.0,
        jpeg_quality: int = 0,
        template_folders: Sequence[str | os.PathLike[str]] = (),
        headers: Mapping[str, str] | None = None,
        cookies: Mapping[str, str] | None = None,
    ) -> None:
        self.locale = locale
        self._template_folders = [Path(folder) for folder in template_folders]
        self._pictures = PictureRules(picture_dpi, jpeg_quality)
        self._headers, self._cookies = dict(headers or {}), dict(cookies or {})
        self.policy = policy or Policy()
        self._font_folders = [Path(folder) for folder in font_folders]
        self._system_fonts = system_fonts
        self._font_index = Path(font_index) if font_index is not None else None
        self._lock = Lock()
        self._settings: FontSettings | None = None
        self._own_settings: dict[tuple[FaceEntry, ...], FontSettings] = {}
        self._pdf = PdfStore()
        self._sheets: dict[tuple[str, str, str], Sheet] = {}
        self._cascades: dict[Any, Cascade] = {}
        self.drawings: dict[tuple[bytes, FontSettings], Drawing | str] = {}  # of SVG files, by content
        self.paragraphs: dict[Any, Paragraph] = {}  # measured short texts
        self._templates: Any = None
        self._formats: Formats | None = None

    @property
    def fonts(self) -> FontLibrary:
        """Every font that documents can use."""
        return self._font_settings().library

    def _font_settings(self) -> FontSettings:
        with self._lock:
            if self._settings is None:
                self._settings = FontSettings(FontLibrary([*default_faces(), *self._scanned()]))
        return self._settings

    def _scanned(self) -> list[FaceEntry]:
        """The faces in the folders that the press was given, and in the system's."""
        if not self._font_folders and not self._system_fonts:
            return []
        from fleetquill.text.font_files import scan, system_folders

        folders = list(self._font_folders)
        if self._system_fonts:
            folders += [folder for folder in system_folders() if folder.is_dir()]
        return [entry for folder in folders for entry in scan(folder, self._font_index)]

    def font_settings(self, faces: tuple[FaceEntry, ...]) -> FontSettings:
        """The settings for a document with faces of its own; kept as long as the same ones are used."""
        base = self._font_settings()
        if not faces:
            return base
        settings = self._own_settings.get(faces)
        if settings is None:
            if len(self._own_settings) >= MOST_FONT_SETS:
                self._own_settings.clear()
            settings = self._own_settings[faces] = FontSettings(FontLibrary(faces, base.library))
        return settings

    # ---- what users call ----

    def compose(
        self,
        source: Source,
        *,
        data: Data | None = None,
        styles: Sequence[str | os.PathLike[str]] = (),
    ) -> Edition:
        """Lays out a document in memory.

        `source` is a path (HTML, or Markdown as .md), an address of the web, or a Manuscript. With
        `data`, a mapping or the path of a data file, the file is a template. `styles` are paths of
        more style sheets, applied after the document's own.
        Raises an error of the FleetQuillError family where source, data or template are at fault.
        """
        with making(self.policy.nesting):
            job = _Job(self, self._manuscript(source, data), styles)
            pages = list(job.pages())
            for page in pages:
                page.margin_boxes(len(pages), job.context)
            job.context.let_go()

        def write(stream: BinaryIO) -> None:
            with making(self.policy.nesting):
                job.write(pages, stream)

        return Edition(pages, job.remarks.all, write)

    def write(
        self,
        source: Source,
        target: str | os.PathLike[str] | BinaryIO,
        *,
        data: Data | None = None,
        styles: Sequence[str | os.PathLike[str]] = (),
    ) -> Summary:
        """Lays out and writes in one run: pages go out as they are full and are not held.

        `target` is a path (written whole or not at all) or a binary stream.
        """
        start = perf_counter()
        counts: list[tuple[int, int]] = []
        with making(self.policy.nesting):
            job = _Job(self, self._manuscript(source, data), styles)

            def write(stream: BinaryIO) -> None:
                counts.append(job.write(job.pages(), stream))

            if isinstance(target, (str, os.PathLike)):
                write_whole(Path(target), write)
            else:
                write(target)
        pages, length = counts[0]
        return Summary(pages, job.remarks.all(), length, perf_counter() - start)

    # ---- the way there ----

    def _manuscript(self, source: Source, data: Data | None) -> Manuscript:
        if isinstance(source, Manuscript):
            if data is not None:
                raise OptionError(
                    "A manuscript takes no data: it is filled in already.",
                    remedy="Use Manuscript.from_template.",
                )
            return source
        if isinstance(source, str) and is_web(source):
            if data is not None:
                raise OptionError(
                    "A page of the web takes no data.", remedy="Save it as a file to use it as a template."
                )
            from fleetquill.intake.web import read_web

            return read_web(source, self.reader())
        path = Path(source)
        if data is not None:
            if isinstance(data, (str, os.PathLike)):
                from fleetquill.intake.records import read_data

                data = read_data(Path(data))
            return self._template_store().from_file(path, data)  # type: ignore[no-any-return]
        if path.suffix.lower() in (".md", ".markdown"):
            from fleetquill.intake.markdown import read_markdown

            return read_markdown(path)
        return read_html(path)

    def reader(self) -> Reader:
        """Reads for one document."""
        return Reader(self.policy, self._headers, self._cookies)

    def _template_store(self) -> Any:
        if self._templates is None:
            from fleetquill.intake.template import Templates

            self._templates = Templates(self.locale, self._template_folders, self.policy)
        return self._templates

    def formats(self) -> Formats:
        """How the press's locale writes numbers, money and dates."""
        if self._formats is None:
            self._formats = Formats(self.locale)
        return self._formats

    def sheet(self, css: str, source: str, folder: str = "") -> Sheet:
        """A parsed style sheet, kept by its text; `folder` is what addresses in it are relative to."""
        sheet = self._sheets.get((css, source, folder))
        if sheet is None:
            if len(self._sheets) >= MOST_SHEETS:
                self._sheets.clear()
            sheet = self._sheets[css, source, folder] = parse_sheet(css, source, folder)
        return sheet

    def cascade(self, sheets: Sequence[tuple[int, Sheet]]) -> Cascade:
        """The sheets made ready, kept as long as the same ones are used."""
        key = tuple((origin, sheet) for origin, sheet in sheets)
        cascade = self._cascades.get(key)
        if cascade is None:
            if len(self._cascades) >= MOST_CASCADES:
                self._cascades.clear()
            cascade = self._cascades[key] = _cascade(sheets)
        return cascade


def _cascade(sheets: Sequence[tuple[int, Sheet]]) -> Cascade:
    """A cascade for the page area that the first page turns out to have."""
    trial = Cascade(sheets, Medium(0.0, 0.0))
    area = page_area(trial.page_style(PageKind(1, right=True))[0])
    medium = Medium(max(0.0, area.width - area.left - area.right), max(0.0, area.height - area.top - area.bottom))
    return Cascade(sheets, medium)


class _Doors:
    """What layout asks of the rooms before it, for one document.

    It knows nothing of layout: a document that nobody holds is gone at once, not when the collector runs.
    """

    def __init__(self, press: Press, manuscript: Manuscript) -> None:
        self.press = press
        self.manuscript = manuscript
        self.reader = manuscript.reader or press.reader()
        self.fonts: FontSettings = press.font_settings(())
        self.width = 0.0  # px of the page area

    def fetch(self, url: str) -> Resource:
        return self.reader.read(url, self.manuscript.base)

    def drawing(self, content: bytes, pictures: PictureStore) -> Drawing | str:
        """The drawing of an SVG file."""
        kept = self.press.drawings
        key = (content, self.fonts)
        found = kept.get(key)
        if found is None:
            from fleetquill.graphics.svg.svg import parse_svg

            root = parse_svg(content)
            found = root if isinstance(root, str) else self.draw(root, BLACK, pictures)
            if len(content) <= LARGEST_KEPT and b"<image" not in content:  # pictures are the document's own
                if len(kept) >= MOST_DRAWINGS:
                    kept.clear()
                kept[key] = found
        return found

    def draw(self, element: Element, color: Rgba, pictures: PictureStore) -> Drawing:
        from fleetquill.graphics.svg.svg import draw_svg, plain

        plain(element)
        return draw_svg(element, self.fonts.named, pictures.get, color)

    def chart(self, element: Element, style: ComputedStyle) -> tuple[Drawing | str, str]:
        from fleetquill.intake.charts import draw_chart

        figure = self.manuscript.figure_of(element)
        return draw_chart(
            element, style, figure, self.fonts.named, self.press.formats(), self._path, self.width
        )  # fmt: skip

    def open_ledger(self, element: Element) -> OpenLedger:
        from fleetquill.layout.table.prototype import open_ledger

        rows, place = self.manuscript.ledger_rows(element), self.manuscript.place_of(element)
        return open_ledger(element, rows, self._path, self.press.formats(), place)

    def _path(self, url: str) -> Path:
        return self.reader.path(url, self.manuscript.base)


class _Job:
    """One document on its way through the press."""

    def __init__(self, press: Press, manuscript: Manuscript, styles: Sequence[str | os.PathLike[str]]) -> None:
        self.press = press
        self.manuscript = manuscript
        self.remarks = Remarks()
        policy = press.policy
        doors = _Doors(press, manuscript)
        self.reader = doors.reader
        pictures = PictureStore(doors.fetch, policy, doors.drawing)
        self.faces: list[FaceEntry] = []
        sheets = self._author_sheets(styles)
        fonts = doors.fonts = press.font_settings(tuple(self.faces))
        fill_contents(manuscript.root)
        self.context = Context(
            fonts,
            pictures,
            self.remarks,
            manuscript.source,
            manuscript.place_of,
            doors.open_ledger,
            press.formats,
            doors.draw,
            doors.chart,
            press.paragraphs,
        )
        self.cascade = press.cascade([(USER_AGENT, base_sheet()), *sheets])
        doors.width = self.cascade.medium.width
        self.root = build(manuscript.root, self.cascade, self.context, policy.nesting)
        self._remark_inline_faults()

    def pages(self) -> Iterable[PageFragment]:
        if self.context.wants_targets:
            return self._with_targets()
        return self._lay_out()

    def _lay_out(self, kept: KeptPages | None = None) -> Iterable[PageFragment]:
        return lay_out_pages(self.root, self.cascade, self.context, self.press.policy.pages, kept)

    def _with_targets(self) -> Iterable[PageFragment]:
        """Lays out as often as it takes until what references say is what is so; twice, as a rule."""
        context = self.context
        mark = self.remarks.mark()
        kept = KeptPages()
        for _ in range(MOST_LAYOUTS):
            self.remarks.back_to(mark)
            kept.begin()
            context.let_go()  # what was placed for good in one layout is not for the next
            known = context.targets
            before = (dict(known.page_of), known.pages)
            page_of: dict[str, int] = {}
            pages = list(self._lay_out(kept))
            for page in pages:
                for name, _, _ in page.places:
                    page_of.setdefault(name, page.counter)
            if before == (page_of, len(pages)):
                return pages
            known.page_of, known.pages = page_of, len(pages)
            if context.builds_with_targets:
                self.remarks.forget_since(mark)
                self.root = build(self.manuscript.root, self.cascade, context, self.press.policy.nesting)
                kept = KeptPages()
                mark = self.remarks.mark()
            else:
                forget_measures(self.root)
        self.remarks.add(
            "reference", "References move the pages that they name; some numbers may be wrong.",
            source=self.manuscript.source,
        )  # fmt: skip
        return pages

    def write(self, pages: Iterable[PageFragment], stream: BinaryIO) -> tuple[int, int]:
        """Paints and writes; (pages, bytes). Each page may be dropped once it is painted."""
        document = PdfDocument(stream, self.press._pdf, self.press._pictures)
        marked: list[PageFragment] = []
        bookmarks: list[Bookmark] = []
        count = 0
        linked = any("#" in link.get("href", "") for link in self.manuscript.root.iter("a"))
        for page in pages:
            count += 1
            canvas = document.canvas()
            self._paint_ground(canvas, page)
            for part in page.parts:
                paint_page(canvas, part, layered=page.layered)
            places = page.places if linked else []
            around = page.bleed + MARK_ROOM * bool(page.style.marks)
            size = PageSize(page.area.width, page.area.height, page.bleed, around)
            document.add_page(size, canvas, places, page.has_margin_boxes)
            bookmarks += bookmarks_of(page.parts, count)
            marked.append(page.emptied())
        for index, page in enumerate(marked):
            if page.has_margin_boxes:
                canvas = document.canvas()
                canvas.begin_tag(PAGE_ARTIFACT)
                for fragment in page.margin_boxes(count, self.context):
                    paint_fragment(canvas, fragment, 0.0, 0.0)
                canvas.end_tag()
                document.add_margins(index, canvas)
        for name, number in document.missing_destinations():
            self.remarks.add(
                "link", f"A link leads to '#{name}', which is not in the document.",
                source=self.manuscript.source, page=number,
            )  # fmt: skip
        document.finish(self.manuscript.metadata, nested(bookmarks))
        self.context.let_go()
        return count, document.length

    def _paint_ground(self, canvas: PdfCanvas, page: PageFragment) -> None:
        context, style = self.context, page.style
        if decoration_of(style) is not None or context.canvas_style is not None:
            pictures = background_pictures(style, context, None) if style.background_image else {}
            paint_ground(canvas, page, context.canvas_style, {**context.canvas_pictures, **pictures})
        if style.marks:
            paint_marks(canvas, page)

    # ---- style sheets ----

    def _author_sheets(self, styles: Sequence[str | os.PathLike[str]]) -> list[tuple[int, Sheet]]:
        sheets: list[Sheet] = []
        base = self.manuscript.base
        for element in self.manuscript.root.iter("style", "link"):
            if any(ancestor.tag == "svg" for ancestor in element.iterancestors("svg")):
                continue
            if element.tag == "style":
                place = self.manuscript.place_of(element)
                self._use(element.text or "", place.source, base, sheets, first_line=place.line or 1)
            elif "stylesheet" in element.get("rel", "").lower().split() and element.get("href"):
                place = self.manuscript.place_of(element)
                self._load(element.get("href", ""), base, sheets, place)
        for css, source in self.manuscript.styles:
            self._use(css, source, base, sheets)
        for style in styles:
            path = Path(style)
            self._use(read_text(path, "style sheet"), str(path), path.parent, sheets)
        return [(AUTHOR, sheet) for sheet in sheets]

    def _load(self, url: str, base: Base, sheets: list[Sheet], place: Where, depth: int = 0) -> None:
        try:
            resource = self.reader.read(url, base)
        except FleetQuillError as error:
            self.remarks.add(
                "style",
                f"The style sheet '{url}' is not used. {error.what} {error.remedy}".rstrip(),
                source=place.source,
                line=place.line,
            )
            return
        css = resource.content.decode("utf-8-sig", "replace")
        folder: Base = urljoin(resource.name, ".") if is_web(resource.name) else Path(resource.name).parent
        self._use(css, resource.name, folder, sheets, depth=depth)

    def _use(
        self, css: str, source: str, base: Base, sheets: list[Sheet], *, first_line: int = 1, depth: int = 0
    ) -> None:
        folder, own = (str(b.resolve()) if isinstance(b, Path) else b for b in (base, self.manuscript.base))
        sheet = self.press.sheet(css, source, "" if folder == own else folder)
        for wanted in sheet.imports:
            place = Where(source, wanted.line + first_line - 1)
            if depth >= 16:
                self.remarks.add(
                    "style", "Style sheets import one another without end.", source=source, line=place.line
                )
                break
            inner: list[Sheet] = []
            self._load(wanted.url, base, inner, place, depth + 1)
            sheets += [imported.within(wanted.scope) for imported in inner]
        for fault in sheet.faults:
            line = fault.line + first_line - 1
            self.remarks.add("style", f"{fault.message} (column {fault.column})", source=source, line=line)
        for face in sheet.font_faces:
            self._add_face(face, source, base, first_line)
        sheets.append(sheet)

    def _add_face(self, rule: FontFaceRule, source: str, base: Base, first_line: int) -> None:
        """The first source of an @font-face that can be used; a remark where none can."""
        from fleetquill.text.document_fonts import load_face

        found = load_face(rule, lambda url: self.reader.read(url, base), self.press.fonts)
        if isinstance(found, FaceEntry):
            self.faces.append(found)
        else:
            self.remarks.add("font", found, source=source, line=rule.line + first_line - 1)

    def _remark_inline_faults(self) -> None:
        for element in self.manuscript.root.iterfind(".//*[@style]"):
            for fault in self.cascade.inline_faults(element.get("style", "")):
                place = self.manuscript.place_of(element)
                self.remarks.add("style", fault.message, source=place.source, line=place.line)
