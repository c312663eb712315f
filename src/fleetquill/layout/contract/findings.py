"""What building the boxes of a document finds out, for layout, the pages and paint."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from lxml import etree

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.pictures import Picture
from fleetquill.layout.boxes.boxes import Box
from fleetquill.style.properties import ComputedStyle

Element = etree._Element


class Target(NamedTuple):
    """What references say of an element: its texts, and the counters where it stands."""

    texts: dict[str, str]
    counters: dict[str, list[int]]
    element: Element


class PageBackground(NamedTuple):
    """The background of every page: that of the root or the body (CSS Backgrounds 3 §2.11)."""

    style: ComputedStyle
    pictures: Mapping[str, Picture | Drawing]


class Findings:
    """Filled in while the boxes of a document are built, and then only read."""

    __slots__ = (
        "area_floats",
        "background",
        "breaks",
        "builds_with_targets",
        "fixed",
        "footnotes",
        "layered",
        "moving_text",
        "named_pages",
        "note_numbers",
        "page_marks",
        "positioned",
        "running",
        "targets",
        "wants_targets",
    )  # fmt: skip

    def __init__(self) -> None:
        self.layered = False  # whether boxes may overlap: floats, positions, transforms, opacity
        self.positioned = False
        self.breaks = False  # whether any break between boxes is forced
        self.named_pages = False
        self.page_marks = False  # named strings, running elements, page counters set by elements
        self.running: dict[str, Box] = {}  # the first running element of each name
        self.footnotes = False
        self.area_floats = False  # at the top or the foot of pages and columns
        self.note_numbers: dict[Box, int] = {}  # of footnotes, where pages count them anew: their place among all
        self.moving_text = False  # whether text hangs on where it, or another element, stands
        self.fixed: list[Box] = []  # boxes that stand on every page
        self.targets: dict[str, Target] = {}  # elements that references may lead to, by id
        self.wants_targets = False  # whether a reference waits for what a layout finds out
        self.builds_with_targets = False  # whether one stands where only a new box tree can show it
        self.background: PageBackground | None = None

    def note_layers(self, style: ComputedStyle) -> None:
        """Of an element whose boxes may overlap others."""
        self.layered = True
        self.positioned = self.positioned or style.position != "static"


class Built(NamedTuple):
    """The box tree of a document, and what building it found out."""

    root: Box
    found: Findings
