"""The press: the engine set up once and reused."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from datetime import datetime
from functools import partial
from pathlib import Path
from time import perf_counter
from typing import TYPE_CHECKING, Any, BinaryIO, Final, NamedTuple, cast

from fleetquill.authoring.manuscript import Manuscript
from fleetquill.caches import USUAL_BYTES, Budget, Cache
from fleetquill.clock import LOG, Clock, Stage
from fleetquill.deadline import until
from fleetquill.edition import Edition
from fleetquill.errors import LimitError, OptionError, PolicyError, SourceError, StrictError, Where, without_secrets
from fleetquill.formats import check_locale
from fleetquill.graphics.reduction import PictureRules
from fleetquill.guard import guarded
from fleetquill.intake.doors import DATA_DOOR, WEB, door_of
from fleetquill.intake.order import AtRunTime, Habits, Order, Run
from fleetquill.intake.reading import WebReader
from fleetquill.job import Job, Leaves, Written, fitted
from fleetquill.keywords import told_methods
from fleetquill.layout.pages.page import PageFragment
from fleetquill.output.counted import CountedStream
from fleetquill.output.how import How, checked
from fleetquill.output.kinds import PDF, Kind, kind_of
from fleetquill.output.leaves import check_pattern, is_pattern, write_leaves, write_only_leaf
from fleetquill.pdf.locks import lock_wish
from fleetquill.policy import Policy
from fleetquill.process import making
from fleetquill.progress import Listener
from fleetquill.remarks import Remark
from fleetquill.standards import Standards, standards_of
from fleetquill.stock import FontFolders, Stock
from fleetquill.text.fonts import FontLibrary
from fleetquill.tree.base import Reader
from fleetquill.tree.data import check_data
from fleetquill.tree.document import Document
from fleetquill.tree.excerpt import Scale, excerpt, put_on_page
from fleetquill.tree.forms import check_currency
from fleetquill.tree.lengths import Length, PageSize, as_page
from fleetquill.tree.words import TemplateWords
from fleetquill.units import byte_count
from fleetquill.whole_files import write_whole

if TYPE_CHECKING:
    from fleetquill.invoices.invoice import Invoice
    from fleetquill.rows_job import RowsJob
    from fleetquill.streaming import Pieces

Source = str | os.PathLike[str] | Manuscript | AtRunTime
Data = Mapping[str, Any] | str | os.PathLike[str] | Iterable[Any]  # the last are rows, for a brief


class Given(NamedTuple):
    """What goes with a source: data, and for a brief its parameters and connections."""

    data: Data | None
    parameters: Mapping[str, Any] | None = None
    connections: Mapping[str, Any] | None = None


class Summary(NamedTuple):
    """What `write` wrote."""

    kind: str
    page_count: int
    remarks: tuple[Remark, ...]
    bytes_written: int
    seconds: float
    files: tuple[Path, ...] = ()  # that it was made from
    row_count: int = 0  # of a file of rows
    stages: tuple[Stage, ...] = ()  # how long each took: 'read', 'styled', 'laid out', 'written'

    def headers(self, filename: str, *, inline: bool = True) -> dict[str, str]:
        """HTTP headers with which a web application hands over what was written: Content-Type, Content-Disposition
        (RFC 6266) and Content-Length. `inline` shows it in the browser where that can; else it is downloaded."""
        from fleetquill.output.delivery import content_disposition

        return {
            "Content-Type": kind_of(None, self.kind).media_type,
            "Content-Disposition": content_disposition(filename, inline=inline),
            "Content-Length": str(self.bytes_written),
        }


MOST_STOCKS: Final = 16
HYBRID: Final = "PDF/A-3b"  # what a file is at least with whom the data of an invoice goes along
LONGEST_NAME: Final = 255  # bytes of one part of a path


def _check_source(source: object) -> None:
    """Raises OptionError or SourceError where it cannot be the name of a file, nor an address."""
    if not isinstance(source, (str, os.PathLike)):
        raise OptionError(
            f"A source is a path, an address, a Manuscript or a Brief, not of the type '{type(source).__name__}'.",
            remedy="Use Manuscript.from_html(content.decode())." if isinstance(source, bytes) else "",
        )
    if isinstance(source, str) and ("<" in source or "\n" in source):
        raise OptionError("The source is text, not a path.", remedy="Use Manuscript.from_html, or from_markdown.")
    if "\0" in os.fspath(source):
        raise SourceError("The source's name has a NUL in it.", remedy="Give the name of a file.")
    if any(len(os.fsencode(part)) > LONGEST_NAME for part in Path(source).parts):
        raise SourceError("The source's name is longer than any file's.", remedy="Give the name of a file.")


def _clock_of(source: object) -> Clock:
    return Clock("a manuscript" if isinstance(source, Manuscript) else without_secrets(str(source)))


def _built(data: Any, path: Path) -> Document:
    """The document that plain data of a file describes."""
    return Manuscript.from_data(data, base=path.parent, source=str(path)).document


def _of_brief(path: Path, run: Run) -> Document:
    """The document of the brief in a file."""
    from fleetquill.briefs.brief import Brief

    return Brief.read(path).document_for(run)


def _write_leaf(leaves: Leaves, kind: Kind, stream: BinaryIO) -> Written:
    """Writes the one page of a document."""
    counted = CountedStream(stream)
    write_only_leaf(kind, leaves.pages, leaves.files, cast(BinaryIO, counted))
    return Written(leaves.pages, counted.length)


def _standards_of(names: Sequence[str], kind: Kind, invoice: Invoice | None) -> Standards:
    """The standards of some names, which files of one kind conform to; a hybrid invoice is PDF/A-3."""
    standards = standards_of(names)
    if standards.names and kind is not PDF:
        raise OptionError(f"A file of the kind '{kind.name}' cannot be {standards.names[0]}.")
    if invoice is None or kind is not PDF:
        return standards
    if not standards.part:
        standards = standards_of([HYBRID, *standards.names])
    if standards.part != 3:
        raise OptionError(
            f"An invoice whose data goes along is a file of PDF/A-3, not of {standards.names[0]}.",
            remedy="Ask for PDF/A-3a or PDF/A-3b.",
        )
    return standards


def _as_the_document_says(
    how: How, document: Document, conform: Sequence[str], kind: Kind, invoice: Invoice | None
) -> How:
    """How a file is written, with the standards that the document asks for where nothing else does."""
    if conform or not document.conform or kind is not PDF:
        return how
    return checked(how._replace(standards=_standards_of(document.conform, kind, invoice)))


def _given(
    source: Source,
    data: Data | None,
    parameters: Mapping[str, Any] | None,
    connections: Mapping[str, Any] | None,
    invoice: Invoice | None,
) -> Given:
    """What fills in the source: the invoice, where nothing else does."""
    if invoice is not None and data is None and isinstance(source, (str, os.PathLike)):
        data = invoice.values()
    return Given(data, parameters, connections)


def _with_all(
    document: Document, date: datetime | None, attach: Sequence[str | os.PathLike[str]], invoice: Invoice | None
) -> Document:
    """The document with its date and all that goes along."""
    whole = document.dated(date).with_files(attach)
    return whole if invoice is None else whole.with_invoice(invoice.profile.name, invoice.attachment())


def _tell_remarks(remarks: Sequence[Remark], *, strict: bool) -> None:
    """Remarks for the log; on a strict run the first of them is an error."""
    for remark in remarks:
        LOG.info("%s: %s", remark.kind, remark)
    if strict and remarks:
        more = f" ({len(remarks) - 1} more)" if len(remarks) > 1 else ""
        raise StrictError(f"A remark on a strict run: {remarks[0]}{more}")


@told_methods
class Press:
    """Fonts, caches, locale and policy, set up once for any number of documents.

    `locale` decides how numbers, money and dates are written, `currency` is that of amounts that name
    none (else that of the locale's country). Templates know `filters`, functions by name, and `values`
    besides their data. `policy` limits what a document
    may read. `font_folders` are folders with font files that documents may name by family; with
    `system_fonts` the system's own folders are among them. `font_index` is a file that keeps what
    was found in them, so that they are not read again each time. With `picture_dpi` pictures lose
    the pixels that they have beyond it, with `jpeg_quality` (1 to 95) photographs are compressed
    anew. `template_folders` are folders in which sources are found by name, and that templates may
    include and inherit from, besides their own. Where the policy lets documents read from the web, `headers`
    and `cookies` are sent to the origin of the page that is asked for, or of a manuscript's base, and to no
    other. What is dear to make and may be of use again (shaped words, styles, sheets, fonts of documents) is kept in
    at most `keep`, a number of bytes or such as '64MB'; then it begins anew. A press may be used from several threads
    at once.

    While a document is made, Python's cyclic garbage collector rests and its limit on nested calls
    is higher, in the whole process; both are as they were afterwards.
    """

    def __init__(
        self,
        *,
        locale: str = "en",
        currency: str = "",
        filters: Mapping[str, Callable[..., Any]] | None = None,
        values: Mapping[str, Any] | None = None,
        policy: Policy | None = None,
        font_folders: Sequence[str | os.PathLike[str]] = (),
        system_fonts: bool = False,
        font_index: str | os.PathLike[str] | None = None,
        picture_dpi: float = 0.0,
        jpeg_quality: int = 0,
        template_folders: Sequence[str | os.PathLike[str]] = (),
        headers: Mapping[str, str] | None = None,
        cookies: Mapping[str, str] | None = None,
        keep: int | str = USUAL_BYTES,
    ) -> None:
        check_locale(locale)
        if currency:
            check_currency(currency)
        for name, function in (filters or {}).items():
            if not callable(function):
                raise OptionError(f"The filter '{name}' is {function!r}, which is no function.")
        self.locale = locale
        self.currency = currency
        words = TemplateWords(dict(filters or {}), dict(values or {}))
        self.policy = policy or Policy()
        self._pictures = PictureRules(picture_dpi, jpeg_quality)
        self._headers, self._cookies = dict(headers or {}), dict(cookies or {})
        index = Path(font_index) if font_index is not None else None
        fonts = FontFolders([Path(folder) for folder in font_folders], index, system=system_fonts)
        self._template_folders = [Path(folder) for folder in template_folders]
        self._words = words
        self._stocks: Cache[Habits, Stock] = Cache(MOST_STOCKS)  # of documents with habits of their own
        budget = Budget(byte_count(keep))
        self._stock = Stock(
            locale, fonts, self._template_folders, self.policy, currency=currency, words=words, budget=budget
        )

    @property
    def fonts(self) -> FontLibrary:
        """Every font that documents can use."""
        return self._stock.font_settings().library

    def compose(
        self,
        source: Source,
        *,
        data: Data | None = None,
        parameters: Mapping[str, Any] | None = None,
        connections: Mapping[str, Any] | None = None,
        styles: Sequence[str | os.PathLike[str]] = (),
        only: str = "",
        page: PageSize = "",
        margin: Length = "",
        landscape: bool = False,
        scale: Scale = 1.0,
        date: datetime | None = None,
        attach: Sequence[str | os.PathLike[str]] = (),
        invoice: Invoice | None = None,
        tagged: bool = True,
        fillable: bool = False,
        conform: Sequence[str] = (),
        password: str | None = None,
        owner_password: str | None = None,
        allow: Sequence[str] | None = None,
        strict: bool = False,
        progress: Listener | None = None,
    ) -> Edition:
        """Lays out a document in memory.

        `source` is a path (HTML, Markdown as .md, a picture or a folder of them), an address of the web, or a
        Manuscript. With `data`, a mapping or the path of a data file, the file is a template. A Brief, or the path of
        one, takes rows as `data` (or rows by the names of its data), `parameters`, and as `connections` databases by
        the names that it has for them: addresses, engines or connections. `styles`
        are paths of more style sheets, applied after the document's own. `only` is the selector of the
        one element that is wanted. `page` (a paper, '80mm 50mm', or width and height in millimetres),
        `margin` and `landscape` go before what the document says of its pages; `scale` makes all that
        stands on them larger or smaller, 'fit' as much smaller as the widest of it needs, which takes laying it out
        up to twice more. `date` is when it was made; without one the file has none. The files of `attach` go along.
        Its PDF is `tagged`: it says what each part is, in the order of reading. With `fillable` its form
        controls are filled in by whoever reads it; without, those in a form with the attribute `fq-fillable`.
        `conform` names standards of it, such as ("PDF/A-3a", "PDF/UA-1"); saving a document that lacks what
        they ask for raises ConformanceError. With `password` it is locked and opens with that; with
        `owner_password` it opens for whoever has none, who may only do what `allow` names ('print', 'draft',
        'change', 'copy', 'comment', 'fill', 'arrange'). The data of an `invoice` goes along, in a file that
        is PDF/A-3 then; it fills in a template that is given no other data. With `strict` a remark is an
        error. `progress` is called with a Progress after each page; what it raises ends the work. What was
        read, how long it took and what was remarked goes to the logger 'fleetquill'.
        Raises an error of the FleetQuillError family where source, data or template are at fault.
        """
        clock = _clock_of(source)
        given = _given(source, data, parameters, connections, invoice)
        lock = lock_wish(password, owner_password, allow)
        how = checked(How(tagged=tagged, standards=_standards_of(conform, PDF, invoice), lock=lock))
        with self._making(), self._wanted(source, given, only, page, margin, landscape, scale) as document:
            clock.tell("read")
            how = _as_the_document_says(how, document, conform, PDF, invoice)
            filled = fillable or document.fillable
            make = partial(self._job, styles=styles, fillable=filled)
            job = make(fitted(_with_all(document, date, attach, invoice), make), listener=progress)
            clock.tell("styled")
            pages = job.compose()
        clock.tell("laid out", f" on {len(pages)} pages")
        _tell_remarks(job.remarks.all(), strict=strict)

        def write(stream: BinaryIO, destinations: bool) -> None:
            with self._making():
                job.write(pages, PDF, stream, self._pictures, how._replace(destinations=destinations))

        def paint(page: PageFragment, kind: Kind, how: How) -> bytes:
            with self._making():
                return b"".join(job.leaves([page], kind, how, self._pictures).files)

        return Edition(pages, job.remarks.all, write, paint, job.explain, job.files)

    def write(
        self,
        source: Source,
        target: str | os.PathLike[str] | BinaryIO,
        *,
        kind: str | None = None,
        data: Data | None = None,
        parameters: Mapping[str, Any] | None = None,
        connections: Mapping[str, Any] | None = None,
        styles: Sequence[str | os.PathLike[str]] = (),
        only: str = "",
        page: PageSize = "",
        margin: Length = "",
        landscape: bool = False,
        scale: Scale = 1.0,
        title: str = "",
        date: datetime | None = None,
        attach: Sequence[str | os.PathLike[str]] = (),
        invoice: Invoice | None = None,
        tagged: bool = True,
        fillable: bool = False,
        conform: Sequence[str] = (),
        password: str | None = None,
        owner_password: str | None = None,
        allow: Sequence[str] | None = None,
        destinations: bool = False,
        strict: bool = False,
        progress: Listener | None = None,
        values: str = "raw",
        delimiter: str = ",",
        wide: int = 80,
        form_feeds: bool = False,
        dpi: float = 96.0,
        letters: str = "outlines",
        linked: bool = False,
        shown: str = "flow",
    ) -> Summary:
        """Writes in one run: pages go out as they are full and are not held.

        `target` is a path (written whole or not at all) or a binary stream. The file is of the kind
        that its ending says, or `kind`; PDF where neither says:

        - 'pdf': pages, `tagged`, locked and conforming to standards as with `compose`, files to `attach` go along;
          with `destinations` links of other files may lead to every identifier in it;
        - 'xlsx': a workbook with a sheet for each table, numbers as numbers, sums as formulas;
        - 'svg' and 'png': one page, or each in a file of its own where the path has a place for its number
          ('page-{page}.png', 'page-{page:02}.svg'); a PNG of `dpi`, the `letters` of an SVG as 'outlines', which
          look alike everywhere, or as 'text', in fonts that go along;
        - 'html': one file for browsers with everything in it, or with its pictures and sheets `linked`; `shown` as it
          flows, or as its 'pages', each a sheet on the screen;
        - 'docx': for word processors: styles by name, lists, tables, notes, sections, fields;
        - 'md': Markdown;
        - 'txt': plain text, `wide` columns of it; with `form_feeds` one stands where a page break is forced;
        - 'csv': the one table, or the one that `only` names, its `values` 'raw' for programs or as they are
          'shown', with `delimiter` between them.

        With `strict` a remark is an error, and a path is not written. `progress` is called with a Progress after
        each page.
        """
        clock = _clock_of(source)
        written: list[Written] = []
        wanted = kind_of(target, kind)
        check_pattern(wanted, target)
        standards = _standards_of(conform, wanted, invoice)
        lock = lock_wish(password, owner_password, allow)
        if lock is not None and wanted is not PDF:
            raise OptionError(f"A file of the kind '{wanted.name}' cannot be locked.")
        how = checked(
            How(dpi, wide, form_feeds, values, delimiter, letters, linked, shown, tagged, standards, lock, destinations)
        )
        given = _given(source, data, parameters, connections, invoice)
        with self._making(), self._wanted(source, given, only, page, margin, landscape, scale) as document:
            clock.tell("read")
            whole = _with_all(document, date, attach, invoice)
            whole = whole.titled(title) if title else whole
            how = _as_the_document_says(how, document, conform, wanted, invoice)
            filled = (fillable or document.fillable) and wanted is PDF
            job, writer = self._way(whole, wanted, how, styles, progress, clock, fillable=filled)
            clock.tell("styled")

            def write(stream: BinaryIO) -> None:
                written.append(writer(stream))
                clock.tell("written", f" on {written[0].pages} pages")
                _tell_remarks(job.remarks.all(), strict=strict)

            if is_pattern(target) and isinstance(job, Job):
                leaves = job.leaves(clock.timed(job.pages), wanted, how, self._pictures)
                _tell_remarks(job.remarks.all(), strict=strict)
                paths = write_leaves(str(target), leaves.files)
                written.append(Written(leaves.pages, sum(path.stat().st_size for path in paths)))
            elif isinstance(target, (str, os.PathLike)):
                write_whole(Path(target), write)
            else:
                write(target)
        pages, length, rows = written[0]
        return Summary(wanted.name, pages, job.remarks.all(), length, clock.seconds, job.files, rows, clock.stages)

    def stream(self, source: Source, *, kind: str = "pdf", **options: Any) -> Pieces:
        """The file in pieces, for a web framework to hand over as they come; `options` are those of `write`.

        It is made while it is read, and no more of it is held than a few pieces. Raises what `write` raises: here,
        where that is wrong from the beginning, and from the pieces, where it is met later.
        """
        from fleetquill.streaming import Pieces

        found = kind_of(None, kind)
        return Pieces(lambda stream: self.write(source, stream, kind=found.name, **options), found.media_type)

    def read(
        self, *sources: str | os.PathLike[str], data: Data | None = None, page: PageSize = "", margin: Length = 0
    ) -> Manuscript:
        """The manuscript of a source, or of several pictures: what `compose` makes pages of.

        Pictures are fitted into the paper `page`, where one is given, with `margin` around them.
        """
        with self._making():
            return Manuscript.of(self._read(sources, Given(data), as_page(page), margin))

    def fill_in(
        self, template: str, data: Mapping[str, Any], *, base: str | os.PathLike[str] | None = None
    ) -> Manuscript:
        """The manuscript of a template that is given as text, with this press's policy, locale, filters and values."""
        with self._making():
            document = self._stock.fill_in_text(template, check_data(data), Path(base or "."))
        if base is None:
            document.home = None
        return Manuscript.of(document)

    # ---- the way there ----

    @contextmanager
    def _making(self) -> Iterator[None]:
        """While a document is made: deep calls, a time that it may take, and no error but ours."""
        time = self.policy.time
        end = perf_counter() + time

        def ask() -> None:
            if perf_counter() > end:
                raise LimitError(
                    f"The document takes more than {time:g} s, which is all that the policy allows.",
                    remedy="Make it shorter, or allow more with Policy(time=…).",
                )

        with guarded(), making(self.policy.nesting), until(ask if time else None):
            yield

    def _way(
        self,
        document: Document,
        kind: Kind,
        how: How,
        styles: Sequence[str | os.PathLike[str]],
        listener: Listener | None,
        clock: Clock,
        *,
        fillable: bool,
    ) -> tuple[Job | RowsJob, Callable[[BinaryIO], Written]]:
        """How a document becomes a file of a kind: its job, and what writes it."""
        if kind.way == "rows":
            from fleetquill.rows_job import RowsJob

            stock = self._stock_of(document)
            rows = RowsJob(document, stock, self._reader_of(document), self.policy, self._paths(styles))
            return rows, lambda stream: rows.write(kind, stream, how)
        make = partial(self._job, styles=styles, fillable=fillable)
        job = make(document if kind.way == "flow" else fitted(document, make), listener=listener)
        if kind.way == "flow":
            return job, lambda stream: job.write_flow(kind, stream, how)
        if kind.way == "web":
            return job, lambda stream: job.write_web(stream, how, self._pictures)
        if kind.way == "leaves":
            return job, lambda stream: _write_leaf(
                job.leaves(clock.timed(job.pages), kind, how, self._pictures), kind, stream
            )
        return job, lambda stream: job.write(clock.timed(job.pages), kind, stream, self._pictures, how)

    def _job(
        self,
        document: Document,
        *,
        styles: Sequence[str | os.PathLike[str]],
        fillable: bool,
        listener: Listener | None = None,
    ) -> Job:
        reader, paths = self._reader_of(document), self._paths(styles)
        stock = self._stock_of(document)
        return Job(document, stock, reader, self.policy, paths, listener, fillable=fillable)

    def _stock_of(self, document: Document) -> Stock:
        """What the press keeps; values of a document with a locale of its own are written in that."""
        return self._stock_for(Habits(document.locale, document.currency))

    def _stock_for(self, habits: Habits) -> Stock:
        if not any(habits):
            return self._stock
        return self._stocks.get(habits) or self._stocks.put(habits, self._stock.with_habits(habits))

    def _paths(self, styles: Sequence[str | os.PathLike[str]]) -> list[Path]:
        paths = [Path(style) for style in styles]
        for path in paths:
            self.policy.check(path)
        return paths

    def _reader_of(self, document: Document) -> Reader:
        return document.reader or self._reader(document.base if isinstance(document.base, str) else "")

    def _reader(self, page: str = "") -> WebReader:
        return WebReader(self.policy, self._headers, self._cookies, page)

    @contextmanager
    def _wanted(
        self,
        source: Source,
        given: Given,
        only: str,
        page: PageSize,
        margin: Length,
        landscape: bool,
        scale: Scale,
    ) -> Iterator[Document]:
        """The document, or one element of it, on its own pages or on others; closed afterwards."""
        document = self._document(source, given)
        try:
            part = excerpt(document, only) if only else document
            yield put_on_page(part, as_page(page), margin, landscape=landscape, scale=scale)
        finally:
            document.close()

    def _document(self, source: Source, given: Given) -> Document:
        if isinstance(source, Manuscript):
            if given.data is not None:
                raise OptionError(
                    "A manuscript takes no data: it is filled in already.", remedy="Use Manuscript.from_template."
                )
            return source.document
        if isinstance(source, AtRunTime):
            return source.document_for(self._run(given))
        return self._read((source,), given)

    def _run(self, given: Given) -> Run:
        return Run(*given, self._stock.formats(), self._words, self.policy, self._read_file)

    def _read_file(self, path: Path, data: Any, habits: Habits) -> Document:
        """The document of a file, which data may fill in."""
        return self._read((path,), Given(data), stock=self._stock_for(habits))

    def _read(
        self,
        sources: tuple[str | os.PathLike[str], ...],
        given: Given,
        page: str = "",
        margin: Length = 0,
        stock: Stock | None = None,
    ) -> Document:
        data = given.data
        for source in sources:
            _check_source(source)
        door = door_of(sources, filled_in=data is not None)
        if data is not None and door is WEB:
            raise OptionError("A page of the web takes no data.", remedy="Save it as a file to use it as a template.")
        if len(sources) > 1 and not door.several:
            raise OptionError("Only pictures can be given several at a time.")
        if door is not WEB:
            sources = tuple(map(self._found, sources))
        files = [Path(name) for name in ([] if door is WEB else sources)]
        for file in files:
            self.policy.check(file)
            if not self.policy.allows(file, [file.parent]):
                raise PolicyError("The source is a link out of its folder.", where=Where(str(file)))
        if data is not None and door is not DATA_DOOR:  # rows of a brief are what they are
            if isinstance(data, (str, os.PathLike)):
                from fleetquill.tree.data import read_data

                files.append(Path(data))
                self.policy.check(files[-1])
                data = read_data(Path(data))
            data = check_data(data)
        values = cast(Mapping[str, Any] | None, data)  # which only doors ask for that fill in templates
        reader = self._reader(str(sources[0]) if door is WEB else "")
        stock = stock or self._stock
        brief = partial(_of_brief, run=self._run(given))
        document = door.read(
            Order(sources, reader, stock.fill_in, _built, brief, stock.formats(), values, page, margin)
        )
        document.files = [*files, *document.files]
        return document

    def _found(self, source: str | os.PathLike[str]) -> str | os.PathLike[str]:
        """A source that is not there by itself may be in one of the template folders."""
        if not os.path.isabs(source) and not os.path.exists(source):
            for folder in self._template_folders:
                if (folder / source).exists():
                    return folder / source
        return source
