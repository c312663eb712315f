"""The parts of a bound file: finished PDFs, editions, manuscripts, and whatever a press can read."""

from __future__ import annotations

import io
import os
from collections.abc import Mapping
from pathlib import Path
from typing import Any, BinaryIO, Final, NamedTuple, cast

from fleetquill.authoring.manuscript import Manuscript
from fleetquill.bindery.page_choice import chosen_pages
from fleetquill.bindery.sources import Finished, read_source
from fleetquill.edition import Edition
from fleetquill.errors import OptionError, SourceError, Where
from fleetquill.inspecting import Placement
from fleetquill.intake.order import AtRunTime
from fleetquill.pdf.objects import Ref
from fleetquill.pdf.reading import PdfPage, PdfReader
from fleetquill.pdf.syntax import DAMAGE
from fleetquill.press import Press
from fleetquill.press import Source as PressSource
from fleetquill.remarks import Remark
from fleetquill.tree.lengths import PageSize

PDF_START: Final = b"%PDF-"
BEGINNING: Final = 1024  # bytes within which that stands
TURNS: Final = (0, 90, 180, 270)

Source = str | os.PathLike[str] | bytes | BinaryIO | Edition | Manuscript | AtRunTime


class Part(NamedTuple):
    """A part of a bound file, where more is to be said of it than what it is.

    `source` is a finished PDF (a path, bytes, a stream), an Edition, a Manuscript, or whatever a press reads; `pages`
    which of its pages ('2-5', '7-', '1,3,last', 'odd'), all without; `title` what its bookmark says, '' for none, and
    None for the title that it has itself; `turn` how far its pages are turned clockwise, in degrees; `page` a paper
    that they are fitted into; `password` opens a locked file; `data` fills in a template.
    """

    source: Source
    pages: str = ""
    title: str | None = None
    turn: int = 0
    page: PageSize = ""
    password: str | None = None
    data: Mapping[str, Any] | str | os.PathLike[str] | None = None


class OpenPart:
    """A part that is read: its reader, the pages that are wanted, and what it is called."""

    def __init__(self, part: Part, reader: PdfReader, pages: list[PdfPage], name: str) -> None:
        self.part = part
        self.reader = reader
        self.pages = pages
        self.name = name
        self.refs: list[Ref] = []  # of its pages in the bound file

    @property
    def title(self) -> str:
        """What its bookmark says."""
        if self.part.title is not None:
            return self.part.title
        info = self.reader.dictionary(self.reader.trailer.get("Info"))
        return self.reader.text(info.get("Title")).strip() or Path(self.name).stem


class PartReader:
    """Opens parts; what is no finished PDF is composed by a press. It notes where elements of a selector stand."""

    def __init__(self, press: Press, selector: str = "") -> None:
        self._press = press
        self._made: dict[int, bytes] = {}  # by the place of the part
        self.remarks: list[Remark] = []
        self.selector = selector
        self.located: list[tuple[int, Placement]] = []  # where what it selects stands, and in which part

    def open(self, given: Any, place: int) -> OpenPart:
        """Reads a part; `place` is its index. Raises SourceError and OptionError where it cannot be."""
        part = given if isinstance(given, Part) else Part(given)
        if part.turn not in TURNS:
            raise OptionError(f"'turn' is {part.turn!r}.", remedy="Give 0, 90, 180 or 270 degrees.")
        name, content = self._content(part, place)
        try:
            reader = PdfReader(content, name, part.password)
            pages = list(reader.pages())
        except DAMAGE as error:
            raise SourceError(f"The file is damaged: {error}", where=Where(name) if name else None) from error
        if not pages:
            raise SourceError("The file has no pages.", where=Where(name) if name else None)
        if reader.lock is not None and not reader.lock.owner and not _may_be_bound(reader):
            raise SourceError(
                "The file is locked, and may not be put together with others.", where=Where(name) if name else None,
                remedy="Give the password of its owner.",
            )  # fmt: skip
        if place not in self._made or reader.repairs:
            self.remarks += [Remark("damage", repair, name) for repair in dict.fromkeys(reader.repairs)]
        wanted = [pages[number - 1] for number in chosen_pages(part.pages, len(pages), name)]
        return OpenPart(part, reader, wanted, name or f"part {place + 1}")

    def _content(self, part: Part, place: int) -> tuple[str, bytes]:
        source = part.source
        if isinstance(source, bytes) or hasattr(source, "read"):
            if place not in self._made:
                _, content = read_source(cast(Finished, source))  # a stream is read once
                if PDF_START not in content[:BEGINNING]:
                    raise OptionError("These bytes are no PDF.", remedy="Use Manuscript.from_html for text.")
                self._made[place] = content
            return str(getattr(source, "name", "") or ""), self._made[place]
        if isinstance(source, (str, os.PathLike)) and part.data is None and _is_pdf(source):
            self._press.policy.check(Path(source))
            return read_source(source)
        if place not in self._made:
            self._made[place] = self._compose(part, place)
        return os.fspath(source) if isinstance(source, (str, os.PathLike)) else "", self._made[place]

    def _compose(self, part: Part, place: int) -> bytes:
        stream = io.BytesIO()
        source = part.source
        if self.selector and not isinstance(source, Edition):
            source = self._press.compose(cast(PressSource, source), data=part.data)
        if isinstance(source, Edition):
            source.write_for_binding(stream)
            remarks = source.remarks
            if self.selector:
                self.located += [(place, found) for found in source.locate(self.selector)]
        else:
            summary = self._press.write(cast(PressSource, source), stream, data=part.data, destinations=True)
            remarks = summary.remarks
        self.remarks += [remark for remark in remarks if remark.kind != "link"]  # where links lead is seen at the end
        return stream.getvalue()


def _may_be_bound(reader: PdfReader) -> bool:
    """Whether a reader may put its pages together with others (§7.6.4.2): change them, or arrange them."""
    rights = reader.resolve(reader.dictionary(reader.trailer.get("Encrypt")).get("P"))
    return isinstance(rights, (int, float)) and bool(int(rights) >> 3 & 1 or int(rights) >> 10 & 1)


def _is_pdf(source: str | os.PathLike[str]) -> bool:
    """Whether a path is that of a finished PDF, by its ending or its first bytes."""
    name = os.fspath(source)
    if name.lower().endswith(".pdf"):
        return True
    try:
        with open(name, "rb") as file:
            return PDF_START in file.read(BEGINNING)
    except (OSError, ValueError):
        return False
