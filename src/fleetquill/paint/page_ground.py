"""What lies under a page's content: its own background and that of the document; around it, printers' marks."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from fleetquill.drawing.canvas import Canvas, Stroke
from fleetquill.drawing.paths import SQUARE
from fleetquill.paint.areas import Areas
from fleetquill.paint.borders import Frame, Side, decoration_of
from fleetquill.paint.decorations import paint_decoration
from fleetquill.style.values import BLACK

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fleetquill.drawing.canvas import Drawing
    from fleetquill.drawing.pictures import Picture
    from fleetquill.layout.contract.findings import PageBackground
    from fleetquill.layout.pages.page import PageFragment

MARK_LENGTH: Final = 18.0  # px
MARK_GAP: Final = 4.0
MARK_ROOM: Final = MARK_LENGTH + MARK_GAP + 2.0  # around the bleed
NO_SIDE: Final = Side(0.0, "none", BLACK)


def paint_ground(
    canvas: Canvas,
    page: PageFragment,
    pictures: Mapping[str, Picture | Drawing],
    background: PageBackground | None,
) -> None:
    """The page's background with its pictures, then that of the document over the whole page (Backgrounds 3 §2.11)."""
    bleed = page.bleed
    area = page.area
    whole = Frame(-bleed, -bleed, area.width + 2 * bleed, area.height + 2 * bleed)
    decoration = decoration_of(page.style)
    if decoration is not None:
        bare = decoration._replace(sides=(NO_SIDE, NO_SIDE, NO_SIDE, NO_SIDE))
        paint_decoration(canvas, page.style, bare, whole, pictures)
        if any(side.width for side in decoration.sides):
            frame = Frame(
                area.left, area.top, area.width - area.left - area.right, area.height - area.top - area.bottom
            )
            paint_decoration(canvas, page.style, decoration._replace(background=None, layered=False), frame, pictures)
    if background is not None:
        decoration = decoration_of(background.style)
        if decoration is not None:
            bare = decoration._replace(sides=(NO_SIDE, NO_SIDE, NO_SIDE, NO_SIDE))
            paint_decoration(canvas, background.style, bare, whole, background.pictures, root=_root_areas(page))


def _root_areas(page: PageFragment) -> Areas | None:
    """The root's boxes on the page, which the document's background is placed and sized in."""
    root = page.content
    if root is None or root.width <= 0 or root.height <= 0:
        return None
    frame = Frame(root.x, root.y, root.width, root.height, root.first, root.last)
    return Areas(root.box.style, frame, SQUARE)


def paint_marks(canvas: Canvas, page: PageFragment) -> None:
    """Crop and cross marks outside of the bleed (CSS Paged Media 3 §7.2)."""
    width, height, reach = page.area.width, page.area.height, page.bleed + MARK_GAP
    lines: list[tuple[str, *tuple[float, ...]]] = []

    def line(x: float, y: float, to_x: float, to_y: float) -> None:
        lines.extend([("m", x, y), ("l", to_x, to_y)])

    if "crop" in page.style.marks:
        for x, outward in ((0.0, -1), (width, 1)):
            for y, upward in ((0.0, -1), (height, 1)):
                line(x + outward * reach, y, x + outward * (reach + MARK_LENGTH), y)
                line(x, y + upward * reach, x, y + upward * (reach + MARK_LENGTH))
    if "cross" in page.style.marks:
        half = MARK_LENGTH / 2
        middle = reach + half
        for x, y in ((width / 2, -middle), (width / 2, height + middle), (-middle, height / 2),
                     (width + middle, height / 2)):  # fmt: skip
            line(x - half, y, x + half, y)
            line(x, y - half, x, y + half)
    if lines:
        canvas.stroke_path(lines, BLACK, Stroke(0.5))
