"""What lies under and over the pages of a bound file: letterheads, and stamps."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Final, NamedTuple

from fleetquill.bindery.page_choice import chosen_pages
from fleetquill.bindery.parts import OpenPart
from fleetquill.bindery.stamps import Stamp, stamped_pages
from fleetquill.caches import Cache
from fleetquill.drawing.matrices import inverse
from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.copying import Copier, Shared, form_of_page
from fleetquill.pdf.objects import Name, Ref
from fleetquill.pdf.page_boxes import Box, Matrix, matrix_of, size_of
from fleetquill.press import Press
from fleetquill.remarks import Remark
from fleetquill.style.box_values import multiply

LETTERHEAD: Final = "Background"  # kinds of artifacts (ISO 32000-2 §14.8.2.2)
STAMP: Final = "Pagination"
MOST_FORMS: Final = 10_000  # of one stamp that are known
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


class _Wish(NamedTuple):
    """A stamp of one page: the size of that in points, and what the stamp may name."""

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


class _Stamping:
    """One stamp on its way through a file. Those that look alike on pages of a size are one form."""

    def __init__(self, stamp: Stamp, file: PdfFile, press: Press, shared: Shared) -> None:
        self.stamp = stamp
        self._file = file
        self._press = press
        self._shared = shared
        self._forms: Cache[tuple[str, tuple[float, float]], Ref] = Cache(MOST_FORMS)
        self.set: list[Ref | None] = []  # for each page of the part that is being bound
        self.waiting: list[tuple[Ref, _Wish]] | None = None  # what is set once all is known, where that is so
        self.remarks: list[Remark] = []

    def begin(self, wishes: Sequence[_Wish], pages: int, parts: int) -> None:
        """Sets it for the pages of a part."""
        texts = self._texts(wishes, pages, parts)
        keys = [None if text is None else (text, wish.size) for text, wish in zip(texts, wishes, strict=True)]
        new = list(dict.fromkeys(key for key in keys if key is not None and key not in self._forms))
        made = dict(zip(new, self._written(new, [None] * len(new)), strict=True))
        self.set = [None if key is None else made.get(key) or self._forms[key] for key in keys]
        for key, form in made.items():
            self._forms.put(key, form)

    def finish(self, pages: int, parts: int) -> None:
        """Sets it for the pages that wait for the end."""
        waiting = self.waiting or []
        for start in range(0, len(waiting), AT_A_TIME):
            some = waiting[start : start + AT_A_TIME]
            texts = self._texts([wish for _, wish in some], pages, parts)
            wanted = [
                (form, (text, wish.size)) for (form, wish), text in zip(some, texts, strict=True) if text is not None
            ]
            self._written([key for _, key in wanted], [form for form, _ in wanted])
            for (form, _), text in zip(some, texts, strict=True):
                if text is None:
                    self._file.add_stream(b"", NOTHING, form)

    def _texts(self, wishes: Sequence[_Wish], pages: int, parts: int) -> list[str | None]:
        """What it says on each page; None where it does not stand."""
        last = max(pages, max((wish.page for wish in wishes), default=0))
        chosen = set(chosen_pages(self.stamp.pages, last)) if self.stamp.pages else None
        return [
            None
            if chosen is not None and wish.page not in chosen
            else self.stamp.text.format_map(wish.values(pages, parts))
            for wish in wishes
        ]

    def _written(self, keys: Sequence[tuple[str, tuple[float, float]]], forms: Sequence[Ref | None]) -> list[Ref]:
        """Forms of texts on pages of sizes, as those that are given or as new ones."""
        if not keys:
            return []
        reader, remarks = stamped_pages(self.stamp, keys, self._press)
        self.remarks += [remark for remark in remarks if remark not in self.remarks]
        copier, own = Copier(reader, self._file, self._shared), list(reader.pages())
        copier.places |= {page.ref.number: None for page in own if page.ref is not None}
        return [
            form_of_page(page, copier, self._file, form) for page, form in zip(own[: len(keys)], forms, strict=True)
        ]


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
        shared = Shared()
        self._letterheads = [open_one(file, shared) for open_one in letterheads]
        self._stampings = [_Stamping(stamp, file, press, shared) for stamp in stamps]
        for one in self._stampings:
            if total is None and one.stamp.wants_totals:
                one.waiting = []
        self._total = total or (0, 0)
        self._wishes: list[_Wish] = []  # for each page of the part that is being bound
        self._remarks = [
            Remark("picture", "Its fields and links do not go along under other pages.", letterhead.name)
            for letterhead in self._letterheads
            if letterhead.has_annotations
        ]

    @property
    def remarks(self) -> list[Remark]:
        return [*self._remarks, *(remark for one in self._stampings for remark in one.remarks)]

    def begin(self, part: OpenPart, first: int, place: int, frames: Sequence[Frame]) -> None:
        """Sets the stamps of a part whose pages stand from `first` on, counted from 0."""
        title, count = part.title, len(part.pages)
        self._wishes = [
            _Wish(frame.size, first + at + 1, place + 1, at + 1, count, title) for at, frame in enumerate(frames)
        ]
        for one in self._stampings:
            if one.waiting is None:
                one.begin(self._wishes, *self._total)

    def of_page(self, at: int, index: int, frame: Frame) -> list[Overlay]:
        """What lies under and over a page: `at` is its index in the part, `index` that in the whole."""
        found = [letterhead.overlay(index, frame) for letterhead in self._letterheads]
        for one in self._stampings:
            if one.waiting is None:
                form = one.set[at]
            else:
                form = self._file.reserve()
                one.waiting.append((form, self._wishes[at]))
            if form is not None:
                found.append(Overlay(form, frame.matrix(frame.size), STAMP, one.stamp.under))
        return found

    def finish(self, pages: int, parts: int) -> None:
        """Sets the stamps that name how many there are."""
        for one in self._stampings:
            one.finish(pages, parts)
