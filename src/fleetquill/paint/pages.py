"""Pages onto an output: each as it comes, its margin boxes once the number of pages is known."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final

from fleetquill.drawing.canvas import Canvas
from fleetquill.drawing.paged import Bookmark, PagedOutput, PageLabel, PageSize
from fleetquill.drawing.places import FOOTER, HEADER
from fleetquill.layout.boxes.replaced_elements import background_pictures
from fleetquill.layout.contract.context import Context
from fleetquill.layout.pages.page import PageFragment, count_sections
from fleetquill.paint.borders import decoration_of
from fleetquill.paint.page_ground import MARK_ROOM, paint_ground, paint_marks
from fleetquill.paint.painter import paint_fragment, paint_page
from fleetquill.structure.bookmarks import bookmarks_of, nested
from fleetquill.structure.parts import forget_parts

TURNS: Final = {"upright": 0, "rotate-left": 270, "rotate-right": 90}


class PagesPainter:
    """Paints the pages of one document."""

    def __init__(self, output: PagedOutput, context: Context) -> None:
        self._output = output
        self._context = context
        self._bookmarks: list[Bookmark] = []

    def paint(self, pages: Iterable[PageFragment], *, linked: bool) -> int:
        """Paints all pages and gives how many there are; `linked`: places on them are led to."""
        output = self._output
        painted: list[PageFragment] = []
        for page in pages:
            canvas = output.canvas(page.area.width, page.area.height)
            self._paint_ground(canvas, page)
            for part in page.parts:
                paint_page(canvas, part, layered=page.layered)
            around = page.bleed + MARK_ROOM * bool(page.style.marks)
            turn = TURNS[page.style.page_orientation]
            label = PageLabel(page.counter, page.numbering)
            size = PageSize(page.area.width, page.area.height, page.bleed, around, turn, page.area.scale, label)
            if not painted:
                forget_parts(self._context.found.fixed)  # which each page has again
            output.add_page(size, canvas, page.places if linked else [], page.has_margin_boxes)
            painted.append(page.emptied())
            self._bookmarks += bookmarks_of(page.parts, len(painted), page.area.scale)
        count_sections(painted)
        for index, page in enumerate(painted):
            if page.has_margin_boxes:
                self._paint_margins(page, index, len(painted))
                page.forget_margins()
        return len(painted)

    def outline(self) -> tuple[Bookmark, ...]:
        """The bookmarks of all pages."""
        return nested(self._bookmarks)

    def _paint_margins(self, page: PageFragment, index: int, pages: int) -> None:
        canvas = self._output.canvas(page.area.width, page.area.height)
        for name, fragment in page.margin_boxes(pages, self._context).items():
            canvas.set_aside(FOOTER if name.startswith("bottom") else HEADER)
            paint_fragment(canvas, fragment, 0.0, 0.0)
        self._output.add_margins(index, canvas)

    def _paint_ground(self, canvas: Canvas, page: PageFragment) -> None:
        context, style = self._context, page.style
        background = context.found.background
        if decoration_of(style) is not None or background is not None:
            pictures = background_pictures(style, context, None) if style.background_image else {}
            paint_ground(canvas, page, pictures, background)
        if style.marks:
            paint_marks(canvas, page)
