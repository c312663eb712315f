"""What lies under and over the pages of a bound file: letterheads, and stamps."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Final, NamedTuple

from fleetquill.bindery.parts import OpenPart
from fleetquill.bindery.stamps import Stamp, StampedPages, stamped_pages
from fleetquill.drawing.matrices import inverse
from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.copying import Copier, Shared, form_of_page
from fleetquill.pdf.objects import Name, Ref
from fleetquill.pdf.page_boxes import Box, Matrix, matrix_of, size_of
from fleetquill.pdf.reading import PdfPage
from fleetquill.press import Press
from fleetquill.remarks import Remark
from fleetquill.style.box_values import multiply

LETTERHEAD: Final = "Background"  # kinds of artifacts (ISO 32000-2 §14.8.2.2)
STAMP: Final = "Pagination"
AT_A_TIME: Final = 200  # stamps that are set together at the end
NOTHING: Final = {"Type": Name("XObject"), "Subtype": Name("Form"), "BBox": [0, 0, 0, 0]}  # on pages without one


class Overlay(NamedTuple):
    """A form that is drawn on a page, through a matrix; `kind` is what sort of artifact it is."""

    form: Ref
    matrix: Matrix
    kind: str
    below: bool


class Frame(NamedTuple):
    """A page as it will be: its box, how far it is turned, how many points its unit is."""

    box: Box
    turn: int
    unit: float

    @property
    def size(self) -> tuple[float, float]:
        """As it is shown, in points."""
        left, bottom, right, top = self.box
        wide, high = (right - left) * self.unit, (top - bottom) * self.unit
        return (high, wide) if self.turn % 180 else (wide, high)

    def matrix(self, size: tuple[float, float]) -> Matrix:
        """Leads from a form of a size, y up, onto the page: as large as it fits, in the middle."""
        wide, high = self.size
        scale = min(wide / size[0], high / size[1])
        if abs(scale - 1.0) < 0.002:
            scale = 1.0
        x, y = (wide - size[0] * scale) / 2, (high - size[1] * scale) / 2
        on_shown = (scale, 0.0, 0.0, -scale, x, high - y)  # y down from here on
        return multiply(inverse(matrix_of(self.box, self.turn, self.unit)), on_shown)


class Letterhead:
    """The pages of a finished file that lie under or over others: the first on the first, the last on all that
    follow."""

    def __init__(self, part: OpenPart, file: PdfFile, shared: Shared, *, below: bool) -> None:
        self._pages = part.pages
        self._copier = Copier(part.reader, file, shared)
        self._copier.places |= {page.ref.number: None for page in part.reader.pages() if page.ref is not None}
        self._file = file
        self._forms: dict[int, Ref] = {}
        self.below = below
        self.has_annotations = any(part.reader.array(page.entries.get("Annots")) for page in part.pages)
        self.name = part.name

    def overlay(self, index: int, frame: Frame) -> Overlay:
        at = min(index, len(self._pages) - 1)
        page = self._pages[at]
        if at not in self._forms:
            self._forms[at] = form_of_page(page, self._copier, self._file)
        matrix = frame.matrix(size_of(page, self._copier.reader))
        return Overlay(self._forms[at], matrix, LETTERHEAD, self.below)


class _Later(NamedTuple):
    """A stamp that is set once it is known how many pages there are: its form, the size of its page in points, and what
    it names."""

    form: Ref
    size: tuple[float, float]
    page: int
    part: int
    part_page: int
    part_pages: int
    title: str

    def values(self, pages: int, parts: int) -> dict[str, Any]:
        return {
            "page": self.page, "pages": pages, "part": self.part, "parts": parts, "part_page": self.part_page,
            "part_pages": self.part_pages, "title": self.title,
        }  # fmt: skip


class Overlays:
    """All that lies under and over. `total` tells how many pages and parts there are, where stamps name it; None where
    that is known at the end."""

    def __init__(
        self,
        file: PdfFile,
        press: Press,
        letterheads: Sequence[Callable[[PdfFile, Shared], Letterhead]],
        stamps: Sequence[Stamp],
        total: tuple[int, int] | None,
    ) -> None:
        self._file = file
        self._press = press
        self._shared = Shared()
        self._letterheads = [open_one(file, self._shared) for open_one in letterheads]
        self._later: list[tuple[Stamp, list[_Later]]] = []
        self._stamps: list[Stamp] = []
        for stamp in stamps:
            if total is None and stamp.wants_totals:
                self._later.append((stamp, []))
            else:
                self._stamps.append(stamp)
        self._total = total or (0, 0)
        self._part = (0, 0, 0, "")  # pages before it, its place, how many it has, its title
        self._set: list[tuple[Stamp, Copier, list[PdfPage], list[int | None]]] = []
        self.remarks: list[Remark] = [
            Remark("picture", "Its fields and links do not go along under other pages.", letterhead.name)
            for letterhead in self._letterheads
            if letterhead.has_annotations
        ]

    def begin(self, part: OpenPart, first: int, place: int, frames: Sequence[Frame]) -> None:
        """Sets the stamps of a part whose pages stand from `first` on, counted from 0."""
        self._set = []
        self._part = first, place, len(part.pages), part.title
        pages, parts = self._total
        values: list[dict[str, Any]] = [
            {"page": first + at + 1, "pages": pages, "part": place + 1, "parts": parts, "part_page": at + 1,
             "part_pages": len(part.pages), "title": part.title}
            for at in range(len(frames))
        ]  # fmt: skip
        for stamp in self._stamps:
            total = max(pages, first + len(frames))
            found, remarks = stamped_pages(stamp, [frame.size for frame in frames], values, total, self._press)
            self.remarks += [remark for remark in remarks if remark not in self.remarks]
            copier, own = self._copied(found)
            if found is not None and copier is not None:
                self._set.append((stamp, copier, own, found.pages))

    def of_page(self, at: int, index: int, frame: Frame) -> list[Overlay]:
        """What lies under and over a page: `at` is its index in the part, `index` that in the whole."""
        found = [letterhead.overlay(index, frame) for letterhead in self._letterheads]
        for stamp, copier, pages, places in self._set:
            place = places[at]
            if place is not None:
                form = form_of_page(pages[place], copier, self._file)
                found.append(Overlay(form, frame.matrix(size_of(pages[place], copier.reader)), STAMP, stamp.under))
        first, part, count, title = self._part
        for stamp, waiting in self._later:
            waiting.append(_Later(self._file.reserve(), frame.size, first + at + 1, part + 1, at + 1, count, title))
            found.append(Overlay(waiting[-1].form, frame.matrix(frame.size), STAMP, stamp.under))
        return found

    def finish(self, pages: int, parts: int) -> None:
        """Sets the stamps that name how many there are."""
        for stamp, waiting in self._later:
            for start in range(0, len(waiting), AT_A_TIME):
                self._set_later(stamp, waiting[start : start + AT_A_TIME], pages, parts)

    def _set_later(self, stamp: Stamp, waiting: Sequence[_Later], pages: int, parts: int) -> None:
        sizes, values = [one.size for one in waiting], [one.values(pages, parts) for one in waiting]
        found, remarks = stamped_pages(stamp, sizes, values, pages, self._press)
        self.remarks += [remark for remark in remarks if remark not in self.remarks]
        copier, own = self._copied(found)
        places = [None] * len(waiting) if found is None else found.pages
        for one, place in zip(waiting, places, strict=True):
            if copier is None or place is None:
                self._file.add_stream(b"", NOTHING, one.form)
            else:
                form_of_page(own[place], copier, self._file, one.form)

    def _copied(self, found: StampedPages | None) -> tuple[Copier | None, list[PdfPage]]:
        """What copies stamps into this file, and their pages."""
        if found is None:
            return None, []
        copier, own = Copier(found.reader, self._file, self._shared), list(found.reader.pages())
        copier.places |= {page.ref.number: None for page in own if page.ref is not None}
        return copier, own
