"""The manuscript: a document as its author writes it."""

from __future__ import annotations

import copy
import os
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, BinaryIO

from lxml import etree

from fleetquill.authoring.figures import write_figure
from fleetquill.authoring.inline import Style, css_of
from fleetquill.authoring.ledger import write_ledger
from fleetquill.authoring.looks import PLAIN, USUAL
from fleetquill.authoring.looks import look as look_sheet
from fleetquill.authoring.parts import Parts, fit_style
from fleetquill.authoring.place import SectionPages
from fleetquill.authoring.plain_data import FACTS, Builder, as_plain, data_of_calls
from fleetquill.authoring.recording import recorded
from fleetquill.errors import OptionError
from fleetquill.keywords import told_methods
from fleetquill.policy import Policy, is_web
from fleetquill.tree.attachments import attachment
from fleetquill.tree.base import Base
from fleetquill.tree.column import Column, as_columns
from fleetquill.tree.document import Document
from fleetquill.tree.files import read_bytes
from fleetquill.tree.groups import Group, as_groups
from fleetquill.tree.head import new_document
from fleetquill.tree.html import write_html
from fleetquill.tree.lengths import Length, PageSize, as_page
from fleetquill.tree.metadata import Metadata

Element = etree._Element


@recorded("ledger")
@told_methods
class Manuscript(Parts):
    """A document to be composed, empty at first: see Parts for what can be added to it.

    `title` and `author` are its metadata, `language` is a BCP 47 tag ('en', 'de-AT'). `look` is how all
    parts look: 'river', 'quay', 'lock' (see `fleetquill.look`), or 'plain' for the base sheet alone;
    `style` is a style sheet that changes it. `page` is a paper or a size ('A4 landscape', '80mm 50mm',
    '80mm auto'), `margin` one to four lengths. Links and pictures are relative to `base`, a folder or
    an address; without one they are relative to the working folder, and nothing is read there for strangers.
    """

    def __init__(
        self,
        *,
        title: str = "",
        author: str = "",
        language: str = "",
        look: str = USUAL,
        style: str = "",
        page: PageSize = "",
        margin: Length = "",
        base: str | os.PathLike[str] | None = None,
        source: str = "",
    ) -> None:
        said: dict[str, Any] = {
            "title": title,
            "author": author,
            "language": language,
            "look": "" if look == USUAL else look,
        }
        said |= {"style": style, "page": page, "margin": margin}
        facts = {"title": title, "author": author, "language": language, "style": style}
        facts["look"] = "" if look == PLAIN else look_sheet(look)
        document = new_document(_base(base), source, page=as_page(page), margin=margin, **facts)
        self._hold(_at_home(document, base))
        self._pages.size = as_page(page)
        self._said = {name: fact for name, fact in said.items() if fact != ""}
        self._calls, self._notes = [], True

    _said: Mapping[str, Any] | None = None  # what it was made with; None where it was read

    def _hold(self, document: Document) -> None:
        self.document = document
        self._place = document.body
        self._count = 0
        self._pages = SectionPages(None, "")
        self._heads = set()

    @classmethod
    def of(cls, document: Document) -> Manuscript:
        """A manuscript around a document that has been read."""
        manuscript = cls.__new__(cls)
        manuscript._hold(document)
        return manuscript

    def __deepcopy__(self, memo: dict[int, Any]) -> Manuscript:
        other = Manuscript.__new__(Manuscript)
        memo[id(self)] = other
        other.__dict__.update(copy.deepcopy(self.__dict__, memo))
        return other

    def __reduce__(self) -> tuple[Any, tuple[Document]]:
        """What another process can be sent: the document, as it is. Rows of an iterator cannot be."""
        return _around, (self.document,)

    @property
    def root(self) -> Element:
        """The element tree."""
        return self.document.root

    @property
    def metadata(self) -> Metadata:
        """Title, author and so on, from the document's head (HTML §4.2)."""
        return self.document.metadata

    @classmethod
    def from_html(cls, html: str, *, base: str | os.PathLike[str] | None = None, source: str = "") -> Manuscript:
        """A manuscript from the text of an HTML document or fragment; `source` is what remarks call it."""
        return cls.of(_at_home(Document.of_html(html, _base(base), source), base))

    @classmethod
    def from_markdown(cls, text: str, *, base: str | os.PathLike[str] | None = None, source: str = "") -> Manuscript:
        """A manuscript from Markdown text: CommonMark, tables, footnotes, front matter."""
        from fleetquill.intake.markdown import markdown

        return cls.of(_at_home(markdown(text, _base(base), source), base))

    @classmethod
    def from_template(
        cls,
        template: str | os.PathLike[str],
        data: Mapping[str, Any] | str | os.PathLike[str],
        *,
        base: str | os.PathLike[str] | None = None,
        locale: str = "en",
        policy: Policy | None = None,
    ) -> Manuscript:
        """A manuscript from a template (its path, or its text) and the data that it names.

        The template is filled in here, by `policy`: a template of strangers wants Policy(strangers=True), or
        Press.fill_in, which knows the press's own. Raises TemplateError where the template does not parse or
        names a value that the data lacks.
        """
        from fleetquill.intake.template import read_template
        from fleetquill.tree.data import check_data, read_data

        if isinstance(data, (str, os.PathLike)):
            data = read_data(Path(data))
        return cls.of(read_template(template, check_data(data), base=base, locale=locale, policy=policy))

    @classmethod
    def from_data(
        cls, data: Mapping[str, Any], *, base: str | os.PathLike[str] | None = None, source: str = ""
    ) -> Manuscript:
        """A manuscript from plain data: `title`, `author`, `language`, `look`, `style`, `page`, `margin`, `fonts`,
        `header`, `footer` and `parts`.

        Each part is a mapping of the name of a method of Manuscript to its arguments, {'heading': 'Tolls'} or
        {'table': {'rows': […], 'columns': […]}}; what stands in a section, a row or a box are its `parts`. Pieces of a
        line are such mappings, too: {'strong': 'Heron'}. `source` is what errors call it. Raises DataError with the
        place, such as `parts[3].table.columns[0].form`, where something is wrong.
        """
        builder = Builder(source)
        builder.check_top(data)
        facts = {name: data[name] for name in FACTS if name in data}
        for name in ("page", "margin"):
            if isinstance(facts.get(name), list):
                facts[name] = tuple(facts[name])
        with builder.told("manuscript"):
            manuscript = cls(base=base, source=source, **facts)
        for rule in builder.fonts(data.get("fonts", [])):
            manuscript.document.styles.append((rule, source))
        builder.add(manuscript, data)
        manuscript._said = {**(manuscript._said or {}), **({"fonts": data["fonts"]} if "fonts" in data else {})}
        return manuscript

    def to_data(self) -> dict[str, Any]:
        """What the manuscript was built of, as `from_data` takes it. Raises OptionError where it was read from
        elsewhere, or has parts that no data holds: figures, functions."""
        if self._said is None:
            raise OptionError("The manuscript was read, not built of parts.", remedy="Use to_html().")
        return {**as_plain(self._said), **data_of_calls(self._calls)}

    @classmethod
    def from_workbook(
        cls,
        source: str | os.PathLike[str] | bytes | BinaryIO,
        *,
        sheets: Sequence[str | int] | None = None,
        fit: str = "",
        notes: bool = False,
        locale: str = "en",
    ) -> Manuscript:
        """The sheets of a workbook (.xlsx, .xlsm): a path, its bytes or a binary stream.

        `sheets` names those that are wanted, or counts them from 1; else all that are shown. `fit` says how a sheet
        comes to its pages: 'workbook' as its page set-up says, and where that says nothing 'width'; 'page' on one,
        'none' over as many as it takes, or a share such as '80%'. With `notes` comments stand at the end. Formulas
        show the value that was kept. Raises SourceError where the source is no workbook.
        """
        from fleetquill.formats import Formats
        from fleetquill.intake.workbook import workbook_document

        name = os.fspath(source) if isinstance(source, (str, os.PathLike)) else ""
        if isinstance(source, (str, os.PathLike)):
            content = read_bytes(Path(name), "workbook")
        else:
            content = bytes(source) if isinstance(source, (bytes, bytearray)) else source.read()
        base = Path(name).parent if name else None
        document = workbook_document(
            content, Formats(locale), name=name, base=base, sheets=sheets, fit=fit, notes=notes
        )
        return cls.of(_at_home(document, base))

    @classmethod
    def from_pictures(
        cls, sources: Sequence[Any], *, title: str = "", page: PageSize = "", margin: Length = 0
    ) -> Manuscript:
        """A page for each picture: its path, its bytes or a stream. A folder stands for the pictures in it, by name.

        Without `page` each page is as large as its picture and the margins; with it the picture is
        fitted into that paper. Raises SourceError where a source is not there or is no picture.
        """
        from fleetquill.intake.pictures import picture_document

        return cls.of(picture_document(sources, title=title, page=as_page(page), margin=margin))

    def ledger(
        self,
        rows: Any,
        columns: Sequence[Column | str],
        *,
        group: str | Group | Sequence[str | Group] = "",
        caption: str = "",
        head: bool = True,
        fit: str = "",
        id: str = "",
        class_: str = "",
        style: Style = "",
    ) -> None:
        """Adds a table whose rows are laid out as they come and never held whole.

        `rows` is any iterable of mappings, sequences or objects, a DataFrame, or the path of a CSV
        file. `group` names the column by whose value rows that follow one another are grouped: a
        heading before them, their subtotals after; several names are groups within groups, and a
        `Group` says more of one. With `fit="page"` a ledger that is too wide is made
        smaller. `style` is CSS for the table. Rows of an iterator are kept in a temporary file where
        there are many.
        """
        if not columns:
            raise OptionError("A ledger needs columns.", remedy="Give a list of Column, or of names.")
        used = as_columns(columns)
        classes = f"fq-table {class_}".strip()
        attributes = {
            "caption": caption,
            "id": id,
            "class": classes,
            "style": fit_style(fit) + css_of(style),
        }
        if not head:
            attributes["head"] = "none"
        element = self._add("fq-ledger", {k: v for k, v in attributes.items() if v})
        with self._undone_on_error(element):
            element.set("rows", self.document.add_rows(rows, used, as_groups(group)))

    def add_style(self, css: str, source: str = "") -> None:
        """Adds a style sheet after those of the document."""
        self.document.styles.append((css, source))

    def attach(
        self,
        file: str | os.PathLike[str] | bytes,
        name: str = "",
        *,
        kind: str = "",
        relationship: str = "Unspecified",
        description: str = "",
    ) -> None:
        """Lets a file go along with the PDF: a path, or bytes, which need a name.

        `kind` is its media type, where the name does not say it; `relationship` what it is to the document: Source,
        Data, Alternative, Supplement, Schema, … (ISO 32000-2 §7.11.3, table 43). Raises OptionError or SourceError.
        """
        given = file if isinstance(file, bytes) else Path(file)
        self.document.attachments.append(attachment(given, name, kind, relationship, description))

    def to_html(self) -> str:
        """The whole manuscript as one HTML file, which composes to the same pages.

        Raises OptionError where a ledger's rows are Python objects: a file cannot hold them.
        """
        document = self.document
        root = copy.deepcopy(document.root)
        for element in root.iter("fq-ledger"):
            rows = document.rows_of(element)
            if rows is not None:
                if not isinstance(rows.given, (str, os.PathLike)):
                    raise OptionError(
                        "A ledger's rows are Python objects, which HTML cannot hold.",
                        remedy="Give the ledger the path of a CSV file.",
                    )
                write_ledger(element, rows.given, rows.columns, rows.groups)
        for element in list(root.iter("fq-figure")):
            figure = document.figure_of(element)
            if figure is not None:
                write_figure(element, figure)
        head = root.find("head")
        assert head is not None
        for css, _ in document.styles:
            etree.SubElement(head, "style").text = css
        return write_html(root)


def _base(base: str | os.PathLike[str] | None) -> Base:
    return base if isinstance(base, str) and is_web(base) else Path(base or ".")


def _at_home(document: Document, base: str | os.PathLike[str] | None) -> Document:
    """The document, which has no folder of its own where none was given."""
    if base is None:
        document.home = None
    return document


def _around(document: Document) -> Manuscript:
    return Manuscript.of(document)
