"""A volume: a finished PDF that is read."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from typing import Any, Final, NamedTuple

from fleetquill.bindery.fields import Field, fields_of
from fleetquill.bindery.outlines import OutlineItem, outline_of
from fleetquill.bindery.page_labels import labels_of
from fleetquill.bindery.page_marks import Marks, PageInterpreter
from fleetquill.bindery.page_text import PageWord, text_of_page, words_of_page
from fleetquill.bindery.seals import SealFound, seals_of
from fleetquill.bindery.sources import Finished, read_source
from fleetquill.bindery.subject import Subject
from fleetquill.bindery.trees import entries_of, named_destinations
from fleetquill.drawing.paged import Bookmark
from fleetquill.errors import SourceError, Where
from fleetquill.pdf.locks import allowed_by
from fleetquill.pdf.objects import Ref
from fleetquill.pdf.page_boxes import shown_matrix, size_of, turn_of
from fleetquill.pdf.reading import PdfPage, PdfReader, Stream
from fleetquill.pdf.syntax import DAMAGE, PdfSyntaxError
from fleetquill.remarks import Remark
from fleetquill.standards import standards_said

INFORMATION: Final = ("Title", "Author", "Subject", "Keywords", "Creator", "Producer")


class AttachedFile(NamedTuple):
    """A file that goes along with a PDF: `relationship` is what it is to the document (ISO 32000-2 §14.13)."""

    name: str
    kind: str
    description: str
    relationship: str
    content: bytes


class VolumePage:
    """One page of a volume. Lengths are points."""

    def __init__(self, volume: Volume, page: PdfPage, label: str) -> None:
        self._volume = volume
        self.held = page  # as it stands in the file
        self.label = label
        self.number = page.number

    @property
    def width(self) -> float:
        """As it is shown: a page that is turned is as wide as it is high in the file."""
        return round(size_of(self.held, self._volume.reader)[0], 3)

    @property
    def height(self) -> float:
        return round(size_of(self.held, self._volume.reader)[1], 3)

    @property
    def rotation(self) -> int:
        """How far it is turned clockwise to be shown: 0, 90, 180 or 270 degrees."""
        return turn_of(self.held, self._volume.reader)

    @cached_property
    def marks(self) -> Marks:
        """Its letters, shapes and pictures, in the order in which they are painted."""
        return self._volume.interpreter.marks(self.held)

    @property
    def text(self) -> str:
        """Its text, a line for each line on the page, in the order in which it is painted."""
        return text_of_page(self.marks.glyphs)

    @property
    def words(self) -> list[PageWord]:
        """Its words, each with the box around it: points from the top-left corner."""
        return words_of_page(self.marks.glyphs)

    def __repr__(self) -> str:
        return f"<VolumePage {self.number}: {self.width:g} × {self.height:g} pt>"


class Volume:
    """A finished PDF, from a path, bytes or a stream: pages, outline, fields, what goes along.

    A file that is locked is opened with `password`, that of its reader or its owner. What is damaged is mended as far
    as it can be, with a remark for each repair. Raises SourceError where it is no PDF, where no pages can be found in
    it, or where the password does not open it.
    """

    def __init__(self, source: Finished, password: str | None = None) -> None:
        name, content = read_source(source)
        self.source = name
        try:
            self.reader = PdfReader(content, name, password)
            self._pages = list(self.reader.pages())
        except DAMAGE as error:
            raise SourceError(f"The file is damaged: {error}", where=Where(name) if name else None) from error
        if not self._pages:
            raise SourceError("The file has no pages.", where=Where(name) if name else None)

    def __repr__(self) -> str:
        count = self.page_count
        return f"<Volume{f' {self.source}' if self.source else ''}: {count} page{'s' * (count != 1)}>"

    @property
    def page_count(self) -> int:
        return len(self._pages)

    @cached_property
    def interpreter(self) -> PageInterpreter:
        return PageInterpreter(self.reader)

    @cached_property
    def pages(self) -> Sequence[VolumePage]:
        """The pages, from the first on."""
        labels = labels_of(self.reader, len(self._pages))
        return tuple(VolumePage(self, page, label) for page, label in zip(self._pages, labels, strict=True))

    @property
    def remarks(self) -> tuple[Remark, ...]:
        """What had to be mended to read it."""
        return tuple(Remark("damage", repair, self.source) for repair in dict.fromkeys(self.reader.repairs))

    @property
    def version(self) -> str:
        """The version of PDF that it is of."""
        said = self.reader.resolve(self.reader.catalog.get("Version"))
        return max(self.reader.version, str(said)) if isinstance(said, str) else self.reader.version

    @property
    def is_locked(self) -> bool:
        return self.reader.lock is not None

    @property
    def allowed(self) -> tuple[str, ...] | None:
        """What a reader may do with it who has not the owner's password; None where it is not locked."""
        if self.reader.lock is None:
            return None
        rights = self.reader.resolve(self.reader.dictionary(self.reader.trailer.get("Encrypt")).get("P"))
        return allowed_by(int(rights)) if isinstance(rights, (int, float)) else ()

    @property
    def metadata(self) -> dict[str, str]:
        """What it says of itself, as far as it does: 'title', 'author', 'subject', 'keywords', 'creator', 'producer',
        'language'."""
        info = self.reader.dictionary(self.reader.trailer.get("Info"))
        found = {key.lower(): self.reader.text(info.get(key)) for key in INFORMATION if key in info}
        for key, name in (("title", "dc:title"), ("author", "dc:creator"), ("subject", "dc:description")):
            if not found.get(key):
                found[key] = self._subject.said(name)
        found["language"] = self.reader.text(self.reader.catalog.get("Lang"))
        return {key: value for key, value in found.items() if value}

    @cached_property
    def _subject(self) -> Subject:
        return Subject(self.reader)

    @property
    def is_tagged(self) -> bool:
        """Whether it says what each part of it is."""
        marked = self.reader.dictionary(self.reader.catalog.get("MarkInfo")).get("Marked")
        return self.reader.resolve(marked) is True and bool(self._subject.tree)

    @property
    def conforms_to(self) -> tuple[str, ...]:
        """The standards that it says it conforms to; `check` looks whether that is so."""
        said = self._subject.said
        return standards_said(said("pdfaid:part"), said("pdfaid:conformance"), said("pdfuaid:part"))

    @cached_property
    def page_numbers(self) -> dict[int, int]:
        """The number of each page, from 1 on, by the number of its object."""
        return {page.ref.number: page.number for page in self._pages if page.ref is not None}

    @cached_property
    def outline(self) -> tuple[Bookmark, ...]:
        """The bookmarks as a tree."""
        return self._bookmarks(outline_of(self.reader, named_destinations(self.reader)), 1)

    def _bookmarks(self, items: Sequence[OutlineItem], level: int) -> tuple[Bookmark, ...]:
        found: list[Bookmark] = []
        for item in items:
            page, top = self._place(item.place)
            found.append(Bookmark(item.title, level, page, top, item.is_open, self._bookmarks(item.items, level + 1)))
        return tuple(found)

    def _place(self, place: list[Any] | None) -> tuple[int, float]:
        """The page that a destination leads to, and how far below its top; 0 where it leads to none."""
        if not place:
            return 0, 0.0
        target = place[0]
        if isinstance(target, Ref):
            number = self.page_numbers.get(target.number, 0)
        else:
            number = target + 1 if isinstance(target, int) and 0 <= target < len(self._pages) else 0
        if not number:
            return 0, 0.0
        at = {"XYZ": 3, "FitH": 2, "FitBH": 2, "FitR": 5}.get(str(place[1]) if len(place) > 1 else "", 0)
        up = self.reader.resolve(place[at]) if at and len(place) > at else None
        if not isinstance(up, (int, float)):
            return number, 0.0
        matrix = shown_matrix(self._pages[number - 1], self.reader)
        return number, round(max(0.0, matrix[3] * up + matrix[5]), 3)

    @property
    def attachments(self) -> tuple[AttachedFile, ...]:
        """The files that go along, in the order of their names."""
        names = self.reader.dictionary(self.reader.catalog.get("Names"))
        found = list(entries_of(names.get("EmbeddedFiles"), "Names", self.reader))
        return tuple(one for key, value in found for one in self._attached(key, value))

    def _attached(self, key: Any, value: Any) -> list[AttachedFile]:
        reader = self.reader
        entries = reader.dictionary(value)
        held = reader.dictionary(entries.get("EF"))
        stream = reader.resolve(held.get("UF") or held.get("F"))
        if not isinstance(stream, Stream):
            return []
        name = reader.text(entries.get("UF")) or reader.text(entries.get("F")) or reader.text(key)
        try:
            content = stream.content
        except PdfSyntaxError as error:
            raise SourceError(
                f"The attached file '{name}' is damaged: {error}", where=Where(self.source) if self.source else None
            ) from error
        kind = str(reader.resolve(stream.entries.get("Subtype")) or "")
        relationship = str(reader.resolve(entries.get("AFRelationship")) or "Unspecified")
        return [AttachedFile(name, kind, reader.text(entries.get("Desc")), relationship, content)]

    @property
    def fields(self) -> dict[str, Field]:
        """The fields of its form, by their names."""
        return fields_of(self.reader, self.page_numbers)

    @property
    def seals(self) -> tuple[SealFound, ...]:
        """Who has signed it, what of it that covers, and whether it still holds."""
        return seals_of(self.reader)
