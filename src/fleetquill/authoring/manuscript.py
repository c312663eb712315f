"""The manuscript: an HTML element tree with its style sheets, metadata and base folder."""

from __future__ import annotations

import copy
import os
from bisect import bisect_right
from collections.abc import Iterator, Mapping, Sequence
from datetime import datetime
from operator import itemgetter
from pathlib import Path
from typing import TYPE_CHECKING, Any

from lxml import etree

from fleetquill.authoring.figures import write_figure
from fleetquill.authoring.ledger import write_ledger
from fleetquill.authoring.lengths import Length
from fleetquill.authoring.parts import Parts, page_rule
from fleetquill.errors import DataError, OptionError, Where
from fleetquill.policy import is_web
from fleetquill.tree.metadata import Metadata
from fleetquill.tree.texts import clean

if TYPE_CHECKING:
    from fleetquill.tree.column import Column

Element = etree._Element


class Manuscript(Parts):
    """A document to be composed, empty at first: see Parts for what can be added to it.

    `title` and `author` are its metadata, `language` is a BCP 47 tag ('en', 'de-AT'), `style` a style
    sheet. `page` is a paper or a size ('A4 landscape', '80mm 50mm', '80mm auto'), `margin` one to
    four lengths. Links and pictures are relative to `base`, a folder or an address.
    """

    def __init__(
        self,
        *,
        title: str = "",
        author: str = "",
        language: str = "",
        style: str = "",
        page: str = "",
        margin: Length = "",
        base: str | os.PathLike[str] = ".",
        source: str = "",
    ) -> None:
        root = etree.Element("html")
        head, body = etree.SubElement(root, "head"), etree.SubElement(root, "body")
        self._take(root, base, source, ())
        if language:
            root.set("lang", language)
        if title:
            etree.SubElement(head, "title").text = clean(title)
        if author:
            etree.SubElement(head, "meta", {"name": "author", "content": clean(author)})
        if page or margin != "":
            self._rule(page_rule("", page, margin))
        if style:
            etree.SubElement(head, "style").text = style
        self._place = body

    def _take(
        self, root: Element, base: str | os.PathLike[str], source: str, lines: Sequence[tuple[int, Where]]
    ) -> None:
        self.root = root
        self.base = base if isinstance(base, str) and is_web(base) else Path(base)
        self.source = source
        self.styles: list[tuple[str, str]] = []
        self._lines = lines
        self._count = 0
        self._ledgers: list[tuple[Any, Sequence[Column]]] = []
        self._figures: list[Any] = []
        self.reader: Any = None  # that has fetched the page and knows what it fetched

    @classmethod
    def of_tree(
        cls,
        root: Element,
        *,
        base: str | os.PathLike[str] = ".",
        source: str = "",
        lines: Sequence[tuple[int, Where]] = (),
    ) -> Manuscript:
        """A manuscript around an element tree that has been parsed.

        `lines` says, for lines of the text that was parsed, in order, the file and line that they came
        from; those after each came from the lines after it. Empty where they are the same.
        """
        manuscript = cls.__new__(cls)
        manuscript._take(root, base, source, lines)
        head, body = root.find("head"), root.find("body")
        if head is None:
            root.insert(0, root.makeelement("head"))
        manuscript._place = root if body is None else body
        return manuscript

    @classmethod
    def from_html(cls, html: str, *, base: str | os.PathLike[str] = ".", source: str = "") -> Manuscript:
        """A manuscript from the text of an HTML document or fragment; `source` is what remarks call it."""
        from fleetquill.intake.html import parse_html

        return cls.of_tree(parse_html(html), base=base, source=source)

    @classmethod
    def from_markdown(cls, text: str, *, base: str | os.PathLike[str] = ".", source: str = "") -> Manuscript:
        """A manuscript from Markdown text: CommonMark, tables, footnotes, front matter."""
        from fleetquill.intake.markdown import markdown

        return markdown(text, base=Path(base), source=source)

    @classmethod
    def from_template(
        cls,
        template: str | os.PathLike[str],
        data: Mapping[str, Any] | str | os.PathLike[str],
        *,
        base: str | os.PathLike[str] | None = None,
        locale: str = "en",
    ) -> Manuscript:
        """A manuscript from a template (its path, or its text) and the data that it names.

        Raises TemplateError where the template does not parse or names a value that the data lacks.
        """
        from fleetquill.intake.records import read_data
        from fleetquill.intake.template import read_template

        if isinstance(data, (str, os.PathLike)):
            data = read_data(Path(data))
        return read_template(template, data, base=base, locale=locale)

    def ledger(
        self,
        rows: Any,
        columns: Sequence[Column],
        *,
        group: str = "",
        caption: str = "",
        id: str = "",
        class_: str = "",
        style: str = "",
    ) -> None:
        """Adds a table whose rows are laid out as they come and never held whole.

        `rows` is any iterable of mappings, sequences or objects, a DataFrame, or the path of a CSV
        file. `group` names the column by whose value rows that follow one another are grouped: a
        heading before them, their subtotals after. `style` is CSS for the table.
        """
        if not columns:
            raise OptionError("A ledger needs columns.", remedy="Give a list of Column.")
        attributes = {"group": group, "caption": caption, "id": id, "class": class_, "style": style}
        element = self._add("fq-ledger", {k: v for k, v in attributes.items() if v})
        element.set("rows", str(len(self._ledgers)))
        self._ledgers.append((rows, list(columns)))

    def ledger_rows(self, element: Element) -> tuple[Any, Sequence[Column]] | None:
        """The rows and columns that `ledger` was given for an element; each rows' iterator only once."""
        number = element.get("rows", "")
        if not number.isdigit() or int(number) >= len(self._ledgers):
            return None
        rows, columns = self._ledgers[int(number)]
        if hasattr(rows, "__next__"):
            self._ledgers[int(number)] = (_SpentRows(), columns)
        return rows, columns

    def figure_of(self, element: Element) -> Any:
        """The Matplotlib figure that `figure` was given for an element; None for another element."""
        number = element.get("number", "")
        held = element.tag == "fq-figure" and number.isdigit() and int(number) < len(self._figures)
        return self._figures[int(number)] if held else None

    def add_style(self, css: str, source: str = "") -> None:
        """Adds a style sheet after those of the document."""
        self.styles.append((css, source))

    def to_html(self) -> str:
        """The whole manuscript as one HTML file, which composes to the same pages.

        Raises OptionError where a ledger's rows are Python objects: a file cannot hold them.
        """
        root = copy.deepcopy(self.root)
        for element in root.iter("fq-ledger"):
            if element.get("rows", "").isdigit():
                rows, columns = self._ledgers[int(element.get("rows", ""))]
                if not isinstance(rows, (str, os.PathLike)):
                    raise OptionError(
                        "A ledger's rows are Python objects, which HTML cannot hold.",
                        remedy="Give the ledger the path of a CSV file.",
                    )
                write_ledger(element, rows, columns)
        for element in list(root.iter("fq-figure")):
            figure = self.figure_of(element)
            if figure is not None:
                write_figure(element, figure)
        head = root.find("head")
        assert head is not None
        for css, _ in self.styles:
            etree.SubElement(head, "style").text = css
        from lxml import html as lxml_html

        return "<!DOCTYPE html>\n" + str(lxml_html.tostring(root, encoding="unicode"))

    def place_of(self, element: Element | None) -> Where:
        """The source and line of an element; line 0 where it is not known."""
        line = element.sourceline if element is not None else None
        return self.source_place(line if isinstance(line, int) else 0)

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
        return Metadata(
            " ".join((title.text or "").split()) if title is not None else "",
            named.get("author", ""),
            named.get("description") or named.get("subject", ""),
            named.get("keywords", ""),
            self.root.get("lang", ""),
            _moment(created),
        )


class _SpentRows:
    """Rows of an iterator that has been read: they cannot be read again."""

    def __iter__(self) -> Iterator[Any]:
        raise DataError(
            "The rows of this ledger have been read already.",
            remedy="Give a list or a path where a manuscript is composed more than once.",
        )


def _moment(text: str) -> datetime | None:
    try:
        return datetime.fromisoformat(text) if text else None
    except ValueError:
        return None
