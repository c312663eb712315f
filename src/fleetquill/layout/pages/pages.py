"""The page loop: pages one after another from a box tree (CSS Paged Media 3)."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any, Final

from fleetquill.deadline import heed
from fleetquill.errors import LimitError, Where
from fleetquill.layout.block.area_floats import NO_FLOATS, AreaFloats, fit_floats, floats_called
from fleetquill.layout.block.breaks import before, first_part, forced_kind, start_page
from fleetquill.layout.block.ends import reach_down
from fleetquill.layout.boxes.boxes import Box
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import layout
from fleetquill.layout.contract.fragments import Fragment, lines_of
from fleetquill.layout.contract.resume import BrokenCells, Cut, Resume, Waiting
from fleetquill.layout.contract.space import Laid, Space
from fleetquill.layout.pages.footnotes import Notes, NotesArea, fit_notes, lay_out_notes
from fleetquill.layout.pages.kept_pages import KeptPage, KeptPages, PageState
from fleetquill.layout.pages.lost import remark_lost
from fleetquill.layout.pages.margin_boxes import PageNumbers, room_for_margin_boxes, shown_elements
from fleetquill.layout.pages.page import PageFragment
from fleetquill.layout.pages.page_area import LEAST_AREA, ROLL, PageArea, page_area, roll_height
from fleetquill.layout.pages.page_marks import PageMarks
from fleetquill.layout.pages.position import GoingOn, Rect, place_positioned
from fleetquill.layout.table.boxes import TableBox
from fleetquill.style.cascade import Cascade
from fleetquill.style.lengths import resolve_auto
from fleetquill.style.page_selectors import PageKind
from fleetquill.style.properties import ComputedStyle

LONGEST_PAGE: Final = 14_400 / 0.75  # px; readers take no taller one (ISO 32000-2 annex C.2)


def lay_out_pages(
    root: Box, cascade: Cascade, context: Context, most_pages: int, kept: KeptPages | None = None
) -> Iterator[PageFragment]:
    """Pages in order, each as soon as it is full. Those of the same boxes' last layout are looked for in `kept`."""
    return _PageRun(root, cascade, context, most_pages, kept).run()


class _PageRun:
    def __init__(self, root: Box, cascade: Cascade, context: Context, most_pages: int, kept: KeptPages | None) -> None:
        self.root = root
        self.cascade = cascade
        self.context = context
        self.most_pages = most_pages
        self.kept = kept
        self.resume: Resume | None = None
        self.number = 0
        self.counter = 0
        self.marks = PageMarks()
        self.carried: list[Waiting] = []
        self.going_on: list[GoingOn] = []  # positioned boxes
        self.stood = False  # whether floats stand at the top or the foot of the last page
        self.floats: tuple[Waiting, ...] = ()  # for the top or the foot of the next page
        self.ended = False
        self.shown: set[str] = set()  # running elements that margin boxes of any page show
        body = next((box for box in root.children if box.element is not None and box.element.tag == "body"), root)
        self.rtl = "rtl" in (root.style.direction, body.style.direction)  # Writing Modes 4 §8
        first = self._side_of(before(root))
        self.odd_right = first != "left" if first else not self.rtl  # whether pages with an odd number are right ones
        self.rooms: dict[Any, PageArea] = {}  # that margin boxes leave, by what stands in them
        self.group = 0  # which page of its page group the last one was
        self.name = ""  # and the name of that

    def run(self) -> Iterator[PageFragment]:
        while True:
            heed()
            kind = self._next_kind()
            side = self._side_of(forced_kind(self.resume))
            if side and self.number > 1 and (side == "right") != kind.right:
                yield self._blank(kind)
                kind = self._next_kind()
            before = self.resume
            yield self._kept(kind, self.kept) if self.kept is not None else self._filled(kind)
            if self.resume is None and not self._carries:
                self._remark_unshown()
                return
            if self.resume is not None and self.resume == before and not self.stood:
                self.context.remark(
                    "break", "Layout could not go on from here; what follows is left out.", self.root.element
                )
                return
            self.ended = self.resume is None

    @property
    def _carries(self) -> bool:
        """Whether anything waits for the next page besides the content that flows."""
        return bool(self.carried or self.going_on or self.floats)

    def _remark_unshown(self) -> None:
        """Running elements that no margin box shows are nowhere."""
        for name, uses in self.marks.running.items():
            box = uses.pick("last")
            if name not in self.shown and box is not None:
                self.context.remark("running", f"No margin box shows the running element '{name}'.", box.element)

    def _filled(self, kind: PageKind) -> PageFragment:
        page = self._page(kind)
        self._fill(page)
        return page

    def _kept(self, kind: PageKind, kept: KeptPages) -> PageFragment:
        """The page as it was in the last layout where it would be the same again, else a new one."""
        context, before, carried = self.context, self._state(), self._carries
        again = kept.again(kind, before) if not carried else None
        if again is not None:
            self.shown |= shown_elements(again.page.boxes)
            self.resume, self.counter, self.marks = again.after
            return again.page
        context.shows_references = False
        remarks = context.remarks.count
        page = self._filled(kind)
        hangs = context.shows_references or context.remarks.count > remarks or carried or self._carries
        kept.keep(self.root, KeptPage(kind, before, page, self._state(), not hangs))
        return page

    def _state(self) -> PageState:
        """What the next page begins with."""
        return PageState(self.resume, self.counter, self.marks)

    def _next_kind(self) -> PageKind:
        self.number += 1
        if self.number > self.most_pages:
            where = Where(self.context.services.source)
            raise LimitError(f"The document has more than {self.most_pages} pages.", where=where)
        self.context.page = self.number
        name = ""
        if self.context.found.named_pages:
            name, begins = _page_name(self.root, self.resume)
            self.group = 1 if begins or name != self.name else self.group + 1
            self.name = name
        return PageKind(self.number, (self.number % 2 == 1) == self.odd_right, name=name, place=self.group)

    def _side_of(self, kind: str) -> str:
        """The side that a forced break asks the next page to be on: 'left', 'right' or ''."""
        if kind in ("recto", "verso"):
            return "right" if (kind == "recto") != self.rtl else "left"
        return kind if kind in ("left", "right") else ""

    def _blank(self, kind: PageKind) -> PageFragment:
        page = self._page(kind._replace(blank=True))
        self.marks = page.marks.following()
        return page

    def _page(self, kind: PageKind) -> PageFragment:
        style, boxes, unknown = self.cascade.page_style(kind, self.root.style)
        for name in unknown:
            if ("page variable", name) not in self.context.said:
                self.context.said.add(("page variable", name))
                message = f"A page rule asks for the custom property '{name}', which the root element does not have."
                self.context.remark_once("style", message, None)
        area = page_area(style, self.context.scale)
        if area.is_empty:
            self.context.remark("page", "The page's margins leave no room for content.", None)
        self.context.paper = area.content_width
        page = PageFragment(kind, area, style, boxes)
        page.marks = self.marks.following()
        self._count(page, style)
        if boxes:
            page.area = self._with_room(page, style)
        return page

    def _with_room(self, page: PageFragment, style: ComputedStyle) -> PageArea:
        """The area of a page, as far as what stands in its margins leaves it; measured once for margins alike."""
        running = tuple(uses.pick("last") for uses in page.marks.running.values())
        key = (style, tuple(page.boxes.values()), page.area, running)
        found = self.rooms.get(key)
        if found is None:
            numbers = PageNumbers(self.counter, self.counter)
            found = room_for_margin_boxes(page.boxes, page.area, numbers, page.marks, self.context)
            self.rooms[key] = found
        return found

    def _count(self, page: PageFragment, style: ComputedStyle) -> None:
        """What the page does to its own number and to other counters (§4.3)."""
        resets, steps, sets = dict(style.counter_reset), dict(style.counter_increment), dict(style.counter_set)
        self.counter = sets.get("page", resets.get("page", self.counter) + steps.get("page", 1))
        page.counter = self.context.page_counter = self.counter
        counters = page.marks.counters
        for name in (resets | steps | sets).keys() - {"page", "pages", "footnote"}:
            counters[name] = sets.get(name, resets.get(name, counters.get(name, 0)) + steps.get(name, 0))

    def _fill(self, page: PageFragment) -> None:
        """Lays out the content of one page, its notes, and what is positioned on it."""
        context, area = self.context, page.area
        width, height = area.content_width, area.content_height
        laid, notes, floats = self._with_floats(page, width, height)
        self.carried, self.floats = notes.carried, floats.waiting
        content = laid.fragment
        if content is None and self.going_on:
            content = Fragment(Box(ComputedStyle(self.root.style, {}), None, []), width, 0.0)
        elif content is not None and not content.last:
            reach_down(content, height - notes.height - floats.height - content.y)
        if area.is_roll:
            down = (content.y + content.height if content is not None else 0.0) + floats.height
            area = page.area = area._replace(height=math.ceil(roll_height(area, page.style, down + notes.height)))
            height = area.content_height
            if area.height > LONGEST_PAGE:
                context.remark("page", "The roll is longer than the 5.08 m that readers can show.", None)
        if content is not None:
            content.x += area.x
            content.y += area.y + floats.top
            page.content = content
        self.stood = bool(floats.placed)
        page.floats = floats.stand(area.x, area.y, height - notes.height)
        if notes.fragment is not None:
            notes.fragment.x = area.x
            notes.fragment.y += area.y + height - notes.height
            page.notes = notes.fragment
        page.layered = context.found.layered
        if context.found.positioned or context.found.fixed:
            page_rect = Rect(0.0, 0.0, area.width, area.height)
            carried, self.going_on = self.going_on, []
            for part in page.parts:
                fixed = context.found.fixed if part is page.parts[0] else []
                rect = Rect(area.x, area.y, width, height)
                self.going_on += place_positioned(part, rect, fixed, context, page_rect, carried)
                carried = []
        if context.has_faults:
            self._remark_faults(page)
        if context.overflows or context.reaches_out:
            remark_lost(page.parts, 0.0, area.width, context)
        if context.found.page_marks:
            self.shown |= shown_elements(page.boxes)
            for part in page.parts:
                page.marks.read(part, area.y)
            if page.marks.number is not None:
                page.counter = self.counter = page.marks.number
        self.marks = page.marks.following()
        self.resume = laid.resume

    def _remark_faults(self, page: PageFragment) -> None:
        self.context.has_faults = False
        for line in (line for part in page.parts for line in lines_of(part)):
            if line.fault is not None:
                self.context.remark("overflow", *line.fault)

    def _with_floats(self, page: PageFragment, width: float, height: float) -> tuple[Laid, Notes, AreaFloats]:
        """The page's content and notes, with the floats at its top and its foot."""
        if not self.floats and not self.context.found.area_floats:
            return *self._lay_out(page, width, height), NO_FLOATS
        area = Space(self.context, width, height, room=height, page=height)

        def lay(reserved: float) -> tuple[Laid, Notes]:
            return self._lay_out(page, width, max(LEAST_AREA, height - reserved))

        def called(content: tuple[Laid, Notes] | None) -> list[Box]:
            fragment = content[0].fragment if content is not None else None
            return [] if fragment is None else list(floats_called(fragment, of_page=True))

        with self.context.trying():
            content, floats = fit_floats(lay, called, self.floats, area)
        if content is None:
            content = Laid(None, self.resume), Notes(None, 0.0, self.carried)
        return *content, floats

    def _lay_out(self, page: PageFragment, width: float, height: float) -> tuple[Laid, Notes]:
        """The page's content above its notes."""
        context = self.context
        style = page.boxes.get("footnote")
        if style is None:
            style = ComputedStyle(page.style, {})
        if self.ended:
            return Laid(None, None), lay_out_notes(self.carried, style, width, height, context, alone=True)
        if not context.found.footnotes:
            laid = self._content(width, height, 0.0)
            return laid, lay_out_notes(self.carried, style, width, height, context)
        with context.trying():
            area = NotesArea(style, width, height, context, self.carried)
            return fit_notes(lambda reserved: self._content(width, height, reserved), area)

    def _content(self, width: float, height: float, reserved: float) -> Laid:
        root, resume = self.root, self.resume
        room = max(LEAST_AREA, height - reserved)
        known_height = None if height > ROLL / 2 else height
        laid = layout(root, Space(self.context, width, known_height, room=room, page=room), resume)
        if laid.fragment is not None:
            laid.fragment.x = resolve_auto(root.style.margin_left, width) or 0.0
            laid.fragment.y = (resolve_auto(root.style.margin_top, width) or 0.0) if resume is None else 0.0
        return laid


def _page_name(root: Box, resume: Resume | None) -> tuple[str, bool]:
    """The name of the page that begins where `resume` says, and whether an element that names it begins there."""
    box = root
    while resume is not None:
        part = _goes_on_in(box, resume)
        if part is None:
            return start_page(box), False
        box, resume = part
    name = start_page(box)
    first: Box | None = box
    while first is not None and (first.style.page != name or first.element is None):
        first = first_part(first)
    return name, first is not None


def _goes_on_in(box: Box, resume: Resume) -> tuple[Box, Resume | None] | None:
    """The first box in a box in which content goes on, and where; None where that is at its end, or in its lines."""
    inner = resume.inner
    if isinstance(inner, Cut):
        items = sorted(box.children, key=lambda item: item.style.order)
        if inner.broken:
            index, place = next(iter(inner.broken.items()))
            return items[index], place
        return next(((item, None) for item in items[inner.next : inner.next + 1]), None)
    if isinstance(inner, BrokenCells):
        return next(((cell, place) for cell, place in inner.cells if place.at < len(cell.children)), None)
    parts = box.grid.rows if isinstance(box, TableBox) and box.grid is not None else box.parts
    within = inner if isinstance(inner, Resume) else None
    return next(((part, within) for part in parts[resume.at : resume.at + 1]), None)
