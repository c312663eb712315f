"""The page loop: pages one after another from a box tree (CSS Paged Media 3)."""

from __future__ import annotations

from collections.abc import Iterator

from fleetquill.errors import LimitError, Where
from fleetquill.layout import models  # noqa: F401  (registers the formatting models)
from fleetquill.layout.boxes import Box
from fleetquill.layout.context import Context
from fleetquill.layout.dispatch import layout
from fleetquill.layout.fragments import Fragment
from fleetquill.layout.margin_boxes import PageArea, PageNumbers, lay_out_margin_boxes
from fleetquill.layout.space import Resume, Space
from fleetquill.style.cascade import Cascade
from fleetquill.style.page_selectors import PageKind
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import resolve_auto
from fleetquill.units import PAPERS

A4 = PAPERS["a4"]
LEAST_AREA = 1.0  # px that the page area keeps, whatever the margins


class PageFragment:
    """One laid-out page: its area, the content of its page area, and its margin boxes' styles."""

    __slots__ = ("area", "boxes", "content", "kind", "style")

    def __init__(self, kind: PageKind, area: PageArea, style: ComputedStyle, boxes: dict[str, ComputedStyle]) -> None:
        self.kind = kind
        self.area = area
        self.style = style
        self.boxes = boxes
        self.content: Fragment | None = None

    def emptied(self) -> PageFragment:
        """The page without its content: what is kept of a page that has been painted."""
        return PageFragment(self.kind, self.area, self.style, self.boxes)

    def margin_boxes(self, pages: int, context: Context) -> list[Fragment]:
        """The margin boxes; `pages` is known when the last page is."""
        context.page = self.kind.number
        return lay_out_margin_boxes(self.boxes, self.area, PageNumbers(self.kind.number, pages), context)


def page_area(style: ComputedStyle) -> PageArea:
    """Size and margins of a page (§7.1, §6)."""
    width, height = A4
    size = style.size
    if isinstance(size[0], float) and len(size) == 2 and isinstance(size[1], float):
        width, height = size
    elif size[0] == "landscape":
        width, height = height, width
    return PageArea(
        width,
        height,
        resolve_auto(style.margin_top, height) or 0.0,
        resolve_auto(style.margin_right, width) or 0.0,
        resolve_auto(style.margin_bottom, height) or 0.0,
        resolve_auto(style.margin_left, width) or 0.0,
    )


def lay_out_pages(root: Box, cascade: Cascade, context: Context, most_pages: int) -> Iterator[PageFragment]:
    """Pages in order, each as soon as it is full."""
    resume: Resume | None = None
    number = 0
    while True:
        number += 1
        if number > most_pages:
            raise LimitError(f"The document has more than {most_pages} pages.", where=Where(context.source))
        context.page = number
        kind = PageKind(number, right=number % 2 == 1)
        side = _wanted_side(resume)
        if side and (side == "right") != kind.right:
            yield _new_page(kind._replace(blank=True), cascade, context)
            number += 1
            context.page = number
            kind = PageKind(number, right=number % 2 == 1)
        page = _new_page(kind, cascade, context)
        area = page.area
        width = max(LEAST_AREA, area.width - area.left - area.right)
        height = max(LEAST_AREA, area.height - area.top - area.bottom)
        laid = layout(root, Space(context, width, height, room=height, page=height), resume)
        if laid.fragment is not None:
            left = resolve_auto(root.style.margin_left, width) or 0.0
            top = (resolve_auto(root.style.margin_top, width) or 0.0) if resume is None else 0.0
            laid.fragment.x = area.left + left
            laid.fragment.y = area.top + top
            page.content = laid.fragment
        yield page
        if laid.resume is None:
            return
        if laid.resume == resume:
            context.remark("break", "Layout could not go on from here; what follows is left out.", root.element)
            return
        resume = laid.resume


def _wanted_side(resume: Resume | None) -> str:
    """The side that a forced break asks the next page to be on."""
    while resume is not None:
        if resume.forced in ("left", "verso"):
            return "left"
        if resume.forced in ("right", "recto"):
            return "right"
        resume = resume.inner if isinstance(resume.inner, Resume) else None
    return ""


def _new_page(kind: PageKind, cascade: Cascade, context: Context) -> PageFragment:
    style, boxes = cascade.page_style(kind)
    area = page_area(style)
    if area.left + area.right >= area.width or area.top + area.bottom >= area.height:
        context.remark("page", "The page's margins leave no room for content.", None)
    return PageFragment(kind, area, style, boxes)
