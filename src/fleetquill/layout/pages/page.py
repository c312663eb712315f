"""One laid-out page."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Final

from fleetquill.layout.boxes.boxes import Box
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.fragments import Fragment, walk_past_quiet
from fleetquill.layout.pages.footnotes import called_notes
from fleetquill.layout.pages.margin_boxes import PageNumbers, lay_out_margin_boxes
from fleetquill.layout.pages.page_area import PageArea
from fleetquill.layout.pages.page_marks import PageMarks
from fleetquill.style.generated import Counter
from fleetquill.style.page_selectors import PageKind
from fleetquill.style.properties import ComputedStyle

BLEED_WITH_MARKS: Final = 8.0  # px; 'auto' is 6pt where there are crop marks (CSS Paged Media 3 §7.2)


def count_sections(pages: Sequence[PageFragment]) -> None:
    """Tells each page how many its page group has, now that all are there."""
    size = 0
    for page in reversed(pages):
        size = max(size, page.kind.place)
        page.section_pages = size
        if page.kind.place <= 1:
            size = 0


class PageFragment:
    """One laid-out page: its area, what stands on it, and its margin boxes' styles."""

    __slots__ = (
        *("_margins", "_places", "area", "boxes", "content", "counter", "floats", "section_pages"),
        *("kind", "layered", "marks", "notes", "style"),
    )

    def __init__(self, kind: PageKind, area: PageArea, style: ComputedStyle, boxes: dict[str, ComputedStyle]) -> None:
        self.kind = kind
        self.area = area
        self.style = style
        self.boxes = boxes
        self.content: Fragment | None = None
        self.notes: Fragment | None = None
        self.section_pages = 0  # how many pages its page group has, once that is known
        self.floats: list[Fragment] = []  # at the top and the foot of the page
        self.counter = 0  # what counter(page) says
        self.marks = PageMarks()
        self.layered = False
        self._places: list[tuple[str, float, float]] | None = None
        self._margins: dict[str, Fragment] | None = None

    @property
    def numbering(self) -> str:
        """The counter style in which the page's margins show its number."""
        for style in self.boxes.values():
            for part in style.content if isinstance(style.content, tuple) else ():
                if isinstance(part, Counter) and part.name == "page":
                    return str(part.style)
        return "decimal"

    def emptied(self) -> PageFragment:
        """The page without its content: what is kept of a page that has been painted."""
        page = PageFragment(self.kind, self.area, self.style, self.boxes)
        page.counter, page.marks, page._margins = self.counter, self.marks, self._margins
        return page

    @property
    def margins(self) -> Mapping[str, Fragment]:
        """The margin boxes by name, once they have been laid out."""
        return self._margins or {}

    def margin_boxes(self, pages: int, context: Context) -> Mapping[str, Fragment]:
        """The margin boxes by name; `pages` is known when the last page is."""
        if self._margins is None:
            context.page, context.page_counter = self.kind.number, self.counter
            numbers = PageNumbers(self.counter, pages, self.kind.place, self.section_pages)
            self._margins = lay_out_margin_boxes(self.boxes, self.area, numbers, self.marks, context)
        return self._margins

    def forget_margins(self) -> None:
        """They have been painted and are not asked for again."""
        self._margins = None

    @property
    def has_margin_boxes(self) -> bool:
        return any(name != "footnote" for name in self.boxes)

    @property
    def parts(self) -> list[Fragment]:
        """The page area's content, floats around it and the notes below it."""
        return [part for part in (self.content, *self.floats, self.notes) if part is not None]

    @property
    def places(self) -> list[tuple[str, float, float]]:
        """Identifiers on the finished page with the place where their element begins, in px."""
        if self._places is None:
            self._places = []
            for placed in (placed for part in self.parts for placed in walk_past_quiet(part)):
                element = placed.box.element
                if element is not None and placed.first:
                    name = element.get("id") or (element.get("name") if element.tag == "a" else None)
                    if name:
                        self._places.append((name, placed.x, placed.y))
        return self._places

    def number_notes(self, places: Mapping[Box, int], before: int) -> dict[int, int]:
        """The numbers of the notes that are called here, by their place among all; `before` is the last one so far."""
        number = dict(self.style.counter_reset).get("footnote", before)
        numbers: dict[int, int] = {}
        for note in called_notes(self.content) if self.content is not None else ():
            number += 1
            numbers[places[note]] = number
        return numbers

    @property
    def bleed(self) -> float:
        """Px that the page is painted beyond its edges."""
        bleed = self.style.bleed
        if isinstance(bleed, str):
            return BLEED_WITH_MARKS if "crop" in self.style.marks else 0.0
        return bleed
