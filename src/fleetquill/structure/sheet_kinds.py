"""The kinds of pages of a flowing document: their sizes, their margins, and what stands in those."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from itertools import chain
from typing import Final

from fleetquill.layout.boxes.boxes import Box
from fleetquill.layout.contract.context import Context
from fleetquill.layout.pages.page_area import page_area
from fleetquill.structure.flow import Flow, Inset, PageField, PageSides, Piece, SheetKind, Text, Which
from fleetquill.structure.flowing import FlowBuilder
from fleetquill.style import generated
from fleetquill.style.cascade import Cascade
from fleetquill.style.page_selectors import PageKind
from fleetquill.style.properties import ComputedStyle
from fleetquill.tree.document import Document

PAGES: Final[Mapping[Which, PageKind]] = {
    "first": PageKind(1, right=True, place=1),
    "right": PageKind(3, right=True, place=3),
    "left": PageKind(2, right=False, place=2),
}
PLACES: Final = ("left", "center", "right")


def flow_of(root: Box, cascade: Cascade, context: Context, document: Document) -> Flow:
    """The document as it flows, with the kinds of its pages."""
    builder = FlowBuilder(context)
    strings = dict(_strings(root))
    names = dict.fromkeys(["", *(box.page for box in _boxes(root) if box.page)])
    sheets = {name: _Sheets(cascade, context, builder, strings).kind(name) for name in names}
    width = sheets[""].inner_width
    fixed = chain.from_iterable(builder.blocks(box, width) for box in context.found.fixed)
    body = next((box for box in root.children if box.element is not None and box.element.tag == "body"), root)
    blocks = chain(builder.blocks(root, width), fixed)
    return Flow(blocks, body.style, sheets, document.metadata.language, body.style.direction == "rtl")


def _boxes(root: Box) -> Iterator[Box]:
    yield root
    for box in root.inside:
        yield from _boxes(box)


def _strings(root: Box) -> Iterator[tuple[str, str]]:
    """The named strings, as they are first set: the last of a name here comes first in the document."""
    found = [box.says.strings for box in _boxes(root) if box.says is not None and box.says.strings]
    for strings in reversed(found):
        yield from reversed(strings)


class _Sheets:
    """Reads what page rules say."""

    def __init__(self, cascade: Cascade, context: Context, builder: FlowBuilder, strings: Mapping[str, str]) -> None:
        self._cascade = cascade
        self._context = context
        self._builder = builder
        self._strings = strings

    def kind(self, name: str) -> SheetKind:
        usual = self._cascade.page_style(PAGES["right"]._replace(name=name))
        area = page_area(usual.style)
        heads: dict[Which, PageSides] = {}
        feet: dict[Which, PageSides] = {}
        inner = area.content_width
        for which, page in PAGES.items():
            boxes = self._cascade.page_style(page._replace(name=name)).boxes
            heads[which] = self._sides(boxes, "top", inner)
            feet[which] = self._sides(boxes, "bottom", inner)
        edges = area.edges
        return SheetKind(
            area.width, area.height, area.top + edges.top, area.right + edges.right,
            area.bottom + edges.bottom, area.left + edges.left, heads, feet,
        )  # fmt: skip

    def _sides(self, boxes: Mapping[str, ComputedStyle], side: str, width: float) -> PageSides:
        pieces: dict[str, list[Piece]] = {}
        running: list[Box] = []
        for place in PLACES:
            style = boxes.get(f"{side}-{place}")
            parts = style.content if style is not None and isinstance(style.content, tuple) else ()
            pieces[place] = []
            for part in parts:
                assert style is not None
                if isinstance(part, generated.RunningElement):
                    box = self._context.found.running.get(part.name)
                    running += [box] if box is not None else []
                else:
                    pieces[place] += self._pieces(part, style)
        blocks = [block for box in running for block in self._builder.blocks(box, width)]
        return PageSides(pieces["left"], pieces["center"], pieces["right"], blocks)

    def _pieces(self, part: generated.ContentPart, style: ComputedStyle) -> list[Piece]:
        """What a part of a margin box's content says."""
        if isinstance(part, generated.Text):
            return [Text(part.text, style)]
        if isinstance(part, (generated.Counter, generated.Counters)):
            plain = part.name.removeprefix("-fq-section-")
            return [PageField(plain, style)] if plain in ("page", "pages") else [Text("0", style)]
        if isinstance(part, generated.NamedString):
            text = self._strings.get(part.name, "")
            return [Text(text, style)] if text else []
        if isinstance(part, generated.Picture):
            found = self._context.pictures.get(part.url)
            if not isinstance(found, str):
                return [Inset(found, found.width, found.height, "", style)]
        return []
