"""The document tree: an HTML element tree with its style sheets, metadata and base, and what Python gave it."""

from __future__ import annotations

import copy
import os
import re
from bisect import bisect_right
from collections.abc import Callable, Iterable, Sequence
from datetime import datetime
from operator import itemgetter
from pathlib import Path
from typing import Any, Final, NamedTuple
from urllib.parse import unquote, urljoin

from lxml import etree

from fleetquill.errors import Where
from fleetquill.policy import is_web
from fleetquill.tree.attachments import Attachment, attachment
from fleetquill.tree.base import Base, Reader
from fleetquill.tree.column import Column
from fleetquill.tree.groups import Group, read_columns
from fleetquill.tree.html import SourceLines, parse_with_lines
from fleetquill.tree.metadata import Metadata
from fleetquill.tree.rows import Rows, open_rows
from fleetquill.tree.texts import NO_TEXT, clean

Element = etree._Element
Lines = Sequence[tuple[int, Where]]


UNFILLED: Final = re.compile(r"\{\{\s*[\w.]+[^{}\n]*\}\}|\{%-?\s*\w[^%\n]*%\}")  # what a template would fill in
CODE: Final = re.compile(r"<(code|samp|kbd)\b.*?</\1", re.DOTALL | re.IGNORECASE)
NO_BREAK: Final = re.compile(r"[^\n]")
REPLACED: Final = "Characters that no text can hold, or that could not be read, were replaced."
FALSE_TEXT: Final = etree.XPath("(//*[text()[contains(., '\ufffd')]])[1]")
GIVEN_FORM: Final = "given:"  # begins the name of a form that is a function


class Note(NamedTuple):
    """What is to be remarked of a document, found before it is laid out."""

    kind: str
    message: str
    place: Where


class GivenRows(NamedTuple):
    """Rows of a ledger that Python gave: as they were given, and so that they can be opened again."""

    given: Any
    columns: list[Column]
    rows: Rows
    forms: dict[str, str]  # the names of forms that are functions, by the column
    groups: tuple[Group, ...] = ()


class Document:
    """What is to be said.

    `base` is what its addresses are relative to, `home` the folder that is its own, if it has one,
    `source` what remarks call it. `lines` says, for
    lines of the text that was parsed, in order, the file and line that they came from; those after
    each came from the lines after it. Empty where they are the same. `reader` is the one that has
    fetched it and knows what it fetched.
    """

    def __init__(
        self, root: Element, base: Base, source: str = "", lines: Lines = (), reader: Reader | None = None
    ) -> None:
        self.root = root
        self.base = base
        self.home = base if isinstance(base, Path) else None
        self.source = source
        self.reader = reader
        self._own_lines: SourceLines | None = None
        self.styles: list[tuple[str, str]] = []  # sheets after those of the document, and where they are from
        self.figures: list[Any] = []  # of Matplotlib
        self.files: list[Path] = []  # that it was made from, besides what its reader reads
        self.scale = 1.0  # of all that stands on its pages
        self.fits = False  # whether that becomes smaller where something is wider than its page
        self.locale, self.currency = "", ""  # in which its values are written, where it says so itself
        self.conform: tuple[str, ...] = ()  # standards that its PDF conforms to, where nothing else is asked for
        self.fillable = False  # whether its controls are filled in
        self.attachments: list[Attachment] = []  # files that go along
        self.notes: list[Note] = []  # what its author is to be told
        self.closers: list[Callable[[], None]] = []  # what ends what it reads from
        self._lines = lines
        self._title = ""  # that was asked for from outside
        self._date: datetime | None = None
        self._invoice = ""  # the profile of the invoice whose data goes along
        self._ledgers: list[GivenRows] = []
        self._forms: list[Callable[[Any], Any]] = []
        if root.find("head") is None:
            root.insert(0, root.makeelement("head"))

    @classmethod
    def of_html(
        cls, text: str, base: Base, source: str = "", lines: Lines = (), reader: Reader | None = None
    ) -> Document:
        """The document of a text; its elements know their lines."""
        root, own = parse_with_lines(text)
        document = cls(root, base, source, lines, reader)
        document._own_lines = own
        odd = NO_TEXT.search(text)
        if odd is not None:
            document.notes.append(Note("text", REPLACED, document.source_place(text.count("\n", 0, odd.start()) + 1)))
        gap = UNFILLED.search(text) if not lines else None
        if gap is not None:  # perhaps in code, which is meant as it is
            text = CODE.sub(lambda found: NO_BREAK.sub(" ", found[0]), text)
            gap = UNFILLED.search(text)
        if gap is not None:
            message = f"'{gap[0]}' stands in the text as it is: given data, a template is filled in."
            document.notes.append(Note("template", message, Where(source, text.count("\n", 0, gap.start()) + 1)))
        element = document.root.find(".//base[@href]")
        if element is not None:
            document._rebase(element)
        return document

    def __copy__(self) -> Document:
        other = Document.__new__(Document)
        other.__dict__.update(self.__dict__)
        return other

    def __deepcopy__(self, memo: dict[int, Any]) -> Document:
        other = Document.__new__(Document)
        memo[id(self)] = other
        other.__dict__.update(copy.deepcopy(self.__dict__, memo))
        return other

    def __getstate__(self) -> dict[str, Any]:
        """What another process can be sent: the tree as plain values, each element with its own line."""
        from fleetquill.tree.packed import pack

        root = pack(self.root, lambda element: self.place_of(element).line or None)
        return {**self.__dict__, "root": root, "reader": None, "closers": [], "_own_lines": None, "_lines": ()}

    def __setstate__(self, state: dict[str, Any]) -> None:
        from fleetquill.tree.packed import unpack

        self.__dict__.update(state)
        self.root = unpack(state["root"])

    def _rebase(self, element: Element) -> None:
        """Addresses are relative to what a base element says (HTML §4.2.3): a file's to folders in its own alone."""
        address = element.get("href", "").strip()
        if isinstance(self.base, str):
            self.base = urljoin(self.base, address)
        elif is_web(address):
            self.base = address
        else:
            folder = self.base.resolve()
            found = (folder / unquote(address) / ("" if address.endswith("/") else "..")).resolve()
            if found.is_relative_to(folder):
                self.base = found
            else:
                message = f"The base '{address}' is not used: it lies outside the document's folder."
                self.notes.append(Note("link", message, self.place_of(element)))

    def replaced(self) -> list[Note]:
        """What is to be said of a tree made in Python that holds characters which could not be kept."""
        found: Any = FALSE_TEXT(self.root) if self._own_lines is None else []
        return [Note("text", REPLACED, self.place_of(element)) for element in found]

    def with_root(self, root: Element) -> Document:
        """A document with another tree, which shares all else with this one."""
        other = copy.copy(self)
        other.root = root
        return other

    def titled(self, title: str) -> Document:
        """The document with another title."""
        other = copy.copy(self)
        other._title = " ".join(clean(title).split())
        return other

    def with_files(self, files: Iterable[str | os.PathLike[str]]) -> Document:
        """The document with more files that go along. Raises SourceError where one cannot be read."""
        more = [attachment(Path(file)) for file in files]
        if not more:
            return self
        other = copy.copy(self)
        other.attachments = [*self.attachments, *more]
        return other

    def dated(self, date: datetime | None) -> Document:
        """The document as made at another time; itself where none is given."""
        if date is None:
            return self
        other = copy.copy(self)
        other._date = date
        return other

    def with_invoice(self, profile: str, data: Attachment) -> Document:
        """The document with the data of an invoice for machines."""
        other = copy.copy(self)
        other._invoice = profile
        other.attachments = [data, *self.attachments]
        return other

    def close(self) -> None:
        """Ends what it reads from, once it is made or cannot be."""
        for close in self.closers:
            close()

    @property
    def body(self) -> Element:
        """Where parts are added."""
        body = self.root.find("body")
        return self.root if body is None else body

    def add_rows(self, rows: Any, columns: Sequence[Column], groups: Sequence[Group] = ()) -> str:
        """Takes the rows of a ledger; gives the number by which its element names them."""
        forms = self.add_forms(columns)
        opened = open_rows(rows, read_columns(columns, groups), "rows")
        self._ledgers.append(GivenRows(rows, list(columns), opened, forms, tuple(groups)))
        return str(len(self._ledgers) - 1)

    def add_forms(self, columns: Sequence[Column]) -> dict[str, str]:
        """Takes the forms that are functions; gives the names by which sums name them, by the column's name."""
        names: dict[str, str] = {}
        for column in columns:
            if callable(column.form):
                names[column.name] = f"{GIVEN_FORM}{len(self._forms)}"
                self._forms.append(column.form)
        return names

    def form_of(self, name: str) -> Callable[[Any], Any] | None:
        """The function that Python gave for a form; None for another form."""
        number = name.removeprefix(GIVEN_FORM)
        held = number != name and number.isdigit() and int(number) < len(self._forms)
        return self._forms[int(number)] if held else None

    def rows_of(self, element: Element) -> GivenRows | None:
        """The rows that Python gave for a ledger's element; None where it names a file."""
        number = element.get("rows", "")
        return self._ledgers[int(number)] if number.isdigit() and int(number) < len(self._ledgers) else None

    def figure_of(self, element: Element) -> Any:
        """The figure that Python gave for an element; None for another element."""
        number = element.get("number", "")
        held = element.tag == "fq-figure" and number.isdigit() and int(number) < len(self.figures)
        return self.figures[int(number)] if held else None

    def place_of(self, element: Element | None) -> Where:
        """The source and line of an element; line 0 where it is not known."""
        line = element.sourceline if element is not None else None
        if element is None or not isinstance(line, int):
            return self.source_place(0)
        return self.source_place(self._own_lines.of(element.tag, line) if self._own_lines is not None else line)

    def source_place(self, line: int) -> Where:
        """The source and line that a line of the parsed text came from."""
        if not self._lines or line <= 0:
            return Where(self.source, line)
        number, where = self._lines[max(0, bisect_right(self._lines, line, key=itemgetter(0)) - 1)]
        return where._replace(line=where.line + line - number)

    @property
    def metadata(self) -> Metadata:
        """Title, author and so on, from the document's head (HTML §4.2)."""
        title = self.root.find(".//head/title")
        named: dict[str, str] = {}
        for meta in self.root.iterfind(".//meta[@name]"):
            named.setdefault(meta.get("name", "").lower(), meta.get("content", "").strip())
        created = named.get("dcterms.created") or named.get("date") or ""
        own = " ".join((title.text or "").split()) if title is not None else ""
        return Metadata(
            self._title or own,
            named.get("author", ""),
            named.get("description") or named.get("subject", ""),
            named.get("keywords", ""),
            self.root.get("lang", ""),
            self._date or _moment(created),
            self._direction(),
            self._invoice,
        )

    def _direction(self) -> str:
        """'rtl' where the document says that it is read from right to left (HTML §3.2.6.4)."""
        said = self.root.get("dir") or self.body.get("dir") or ""
        return "rtl" if said.strip().lower() == "rtl" else ""


def _moment(text: str) -> datetime | None:
    try:
        return datetime.fromisoformat(text) if text else None
    except ValueError:
        return None
