"""What all of layout shares for one document: fonts, remarks, pictures, and the page it is on."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any, NamedTuple, Protocol

from lxml import etree

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.effects import Effect
from fleetquill.errors import Where
from fleetquill.formats import Formats
from fleetquill.graphics.pictures import PictureStore
from fleetquill.layout.boxes.boxes import Box, PageCounterBox, TallyBox, TargetBox
from fleetquill.layout.contract.findings import Findings
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.contract.resume import Size
from fleetquill.layout.inline.paragraph import Paragraphs
from fleetquill.layout.table.prototype import OpenLedger
from fleetquill.layout.table.tallies import TallyView
from fleetquill.remarks import Remarks
from fleetquill.style import generated
from fleetquill.style.counter_style import Named
from fleetquill.style.counter_styles import CounterStyles
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.settings import FontSettings
from fleetquill.text.shaping import FontSetting

Element = etree._Element


class Targets:
    """What one layout of a document found out for the references of the next."""

    def __init__(self) -> None:
        self.page_of: dict[str, int] = {}  # what counter(page) says where the element begins
        self.pages = 0
        self.note_numbers: dict[int, int] = {}  # of footnotes that pages count anew, by their place among all


class Trials(NamedTuple):
    """What is known of content that is laid out several times over: paragraphs that fit whole, and columns' heights."""

    paragraphs: dict[tuple[Box, Size], Fragment]
    levels: dict[tuple[Box, float, int, float, float], float]


class Services(Protocol):
    """What layout asks of other rooms, for one document."""

    @property
    def source(self) -> str:
        """What remarks call the document."""

    @property
    def fonts(self) -> FontSettings:
        """The fonts that the document can use."""

    @property
    def pictures(self) -> PictureStore:
        """The pictures that the document shows, by address."""

    @property
    def paragraphs(self) -> Paragraphs:
        """Short texts that have been measured, those of the whole press."""

    def place_of(self, element: Element | None) -> Where:
        """The source and line of an element."""

    def formats(self) -> Formats:
        """How numbers, money and dates are written."""

    def write_value(self, value: Any, form: str) -> str:
        """A value as text in a form, which may be a function that Python gave."""

    def draw(self, element: Element, style: ComputedStyle) -> Drawing:
        """The drawing of an svg element in a document, which has that style."""

    def draw_part(self, name: str, element: Element, style: ComputedStyle) -> Drawing | None:
        """What a clipPath or mask of the document lets through; `element` is one that names it. None without it."""

    def effect(self, name: str, element: Element, style: ComputedStyle) -> Effect | None:
        """A filter of the document for boxes of a style; `element` is one that names it. None without it."""

    def chart(self, element: Element, style: ComputedStyle) -> tuple[Drawing | str, str]:
        """The drawing of a chart or figure, or what is wrong, and its text."""

    def open_ledger(self, element: Element) -> OpenLedger:
        """The rows of a ledger and its prototype."""


class Context:
    """One document's layout context."""

    def __init__(self, services: Services, remarks: Remarks, counter_styles: CounterStyles) -> None:
        self.counter_styles = counter_styles
        self.fillable = False  # whether all controls are filled in
        self.unnamed_fields = 0  # so far
        self.services = services
        self.fonts = services.fonts
        self.pictures = services.pictures
        self.paragraphs = services.paragraphs
        self.remarks = remarks
        self.has_faults = False  # whether any line that was tried on this page does not fit
        self.overflows = False  # whether what stands in any box that was laid out reaches over its lower edge
        self.reaches_out = False  # whether any box that was laid out reaches over the sides of what it stands in
        self.quiet = 0  # above 0 while layout only tries something out
        self.said: set[tuple[str, str]] = set()  # what was pointed out already and is not to be for each page
        self.tallies: TallyView | None = None  # of the place in a table that is being laid out
        self.sizes: dict[
            Box, dict[tuple[Any, ...], Fragment]
        ] = {}  # items laid out for a size, while the pages are made
        self.scale = 1.0  # of what is laid out, on paper
        self.fits = False  # whether that has been found so that all fits
        self.fitted: set[Box] = set()  # boxes that were made to fit
        self.shrinking = False  # whether lines are measured as they are, for a box that is made to fit
        self.overwide: set[Element | None] = set()  # of tables that would run off the page
        self.told_wide: set[Element | None] = set()  # tables of which was said that they run over the edge
        self._ends: list[Callable[[], None]] = []
        self.trials: Trials | None = None  # while a page or columns are tried out
        self.paper = math.inf  # px that the area of the page being laid out is wide
        self.page = 0  # number of the page being laid out, from 1
        self.page_counter = 0  # what counter(page) says on it
        self.found = Findings()  # while the boxes of the document were built
        self.known = Targets()  # what an earlier layout found out
        self.shows_references = False  # whether the page has text that hangs on other pages

    def at_end(self, let_go: Callable[[], None]) -> None:
        """What is to be done once the pages have been laid out."""
        self._ends.append(let_go)

    def let_go(self) -> None:
        """Ends one layout of the pages: fragments that were kept for it go."""
        for end in self._ends:
            end()
        self._ends.clear()
        self.sizes.clear()

    @contextmanager
    def trying(self) -> Iterator[None]:
        """While the same content is laid out several times over, what comes out the same is worked out once."""
        around = self.trials
        self.trials = around or Trials({}, {})
        try:
            yield
        finally:
            self.trials = around

    def font(self, style: ComputedStyle, direction: str = "ltr") -> FontSetting:
        return self.fonts.of(style, direction)

    def moving_text(self, box: TallyBox | PageCounterBox | TargetBox) -> str:
        """What a piece of text says that hangs on where it, or another element, stands."""
        if isinstance(box, PageCounterBox):
            if box.counter.name == "pages":
                self.shows_references = True
                return self.represent(self.known.pages, box.counter.style)
            if box.counter.name == "footnote":
                self.shows_references = True
                return self.represent(self.known.note_numbers.get(box.place, box.place), box.counter.style)
            return self.represent(self.page_counter, box.counter.style)
        if isinstance(box, TargetBox):
            return self.target_text(box.target, box.element)
        return self._tally_text(box)

    def target_text(self, part: generated.Target, element: Element | None) -> str:
        """What a reference says (CSS Content 3 §2.6); its page is known from the second layout on."""
        self.shows_references = True
        address = part.address
        if isinstance(address, generated.Attribute):
            address = element.get(address.name, "") if element is not None else ""
        name = address.strip().removeprefix("#")
        known = self.known
        target = self.found.targets.get(name)
        if target is None:
            self.remark("link", f"A reference leads to '#{name}', which is not in the document.", element)
            return "?"
        if part.part == "counter" and part.name == "page":
            return self.represent(known.page_of.get(name, 0), part.style)
        if part.part == "counter" and part.name == "pages":
            return self.represent(known.pages, part.style)
        values = target.counters.get(part.name, [0])
        if part.part == "counter":
            return self.represent(values[-1], part.style)
        if part.part == "counters":
            return part.separator.join(self.represent(value, part.style) for value in values)
        return target.texts.get(part.part, "")

    def represent(self, value: int, style: Named) -> str:
        """A counter's value in a counter style of the document."""
        self._know(style)
        return self.counter_styles.represent(value, style)

    def marker_text(self, value: int, style: Named) -> str:
        """What the marker of a list item says."""
        self._know(style)
        return self.counter_styles.marker(value, style)

    def _know(self, style: Named) -> None:
        if not self.counter_styles.known(style) and ("counter style", str(style)) not in self.said:
            self.said.add(("counter style", str(style)))
            message = f"The counter style '{style}' is not known; numbers are written as decimals."
            self.remark_once("style", message, None)

    def _tally_text(self, box: TallyBox) -> str:
        """What a tally says here, in its form and the press's locale."""
        if self.tallies is None:
            self.remark("tally", f"The tally '{box.tally.name}' is shown outside of any table.", box.element)
            return ""
        return self.services.write_value(self.tallies.value(box.tally.name, box.tally.scope), box.tally.form)

    def remark(self, kind: str, message: str, element: Element | None) -> None:
        if self.quiet:
            return
        place = self.services.place_of(element)
        self.remarks.add(kind, message, source=place.source, line=place.line, page=self.page)

    def gather(self, kind: str, message: str, item: str, element: Element | None) -> None:
        """One remark for all things of a kind; their names go where '{}' is in the message."""
        place = self.services.place_of(element)
        self.remarks.gather(kind, message, item, source=place.source, line=place.line, page=self.page)

    def remark_first(self, kind: str, message: str, element: Element | None) -> None:
        """For what is said once for a whole document, where it is first met."""
        if (kind, message) not in self.said:
            self.said.add((kind, message))
            self.remark_once(kind, message, element)

    def remark_once(self, kind: str, message: str, element: Element | None) -> None:
        """For what is found while something is measured, which no later layout does again."""
        place = self.services.place_of(element)
        self.remarks.add_lasting(kind, message, source=place.source, line=place.line, page=self.page)
