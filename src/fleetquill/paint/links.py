"""Where boxes lead: the rectangles of links (HTML §4.6), each with what is said of it (ISO 32000-2 §12.5.6.5)."""

from __future__ import annotations

from fleetquill.drawing.canvas import Canvas
from fleetquill.drawing.places import Place
from fleetquill.layout.boxes.boxes import Box, Element, InlineBox, TextBox, element_text
from fleetquill.layout.boxes.levels import is_blank


def paint_link(canvas: Canvas, box: Box, x: float, y: float, width: float, height: float) -> None:
    """A box at (x, y) that is a link, or stands in one."""
    element = box.link if box.link is not None else box.element
    if element is None or element.tag != "a" or (element is box.element and not _has_area(box)):
        return
    target = element.get("href", "").strip()
    if target:
        place = box.part if isinstance(box.part, Place) else None
        while element is box.link and place is not None and place.element is not element:
            place = place.parent
        canvas.mark(place)
        canvas.link(x, y, width, height, target, _said_of(element) or target)


def _has_area(box: Box) -> bool:
    """Whether the rectangle of a link's own box is one to click on: that of an inline box is where it holds text, for
    what else it holds has one of its own."""
    if not isinstance(box, InlineBox):
        return not box.style.anonymous
    texts = (child for child in box.children if isinstance(child, (InlineBox, TextBox)))
    return any(not is_blank(child) if isinstance(child, TextBox) else _has_area(child) for child in texts)


def _said_of(link: Element) -> str:
    said = link.get("aria-label") or link.get("title") or element_text(link)
    return said or " ".join(shown for picture in link.iter("img") if (shown := picture.get("alt", "").strip()))
