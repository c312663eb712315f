"""Pages of parts that are fitted into a paper."""

from __future__ import annotations

from typing import Any

from fleetquill.bindery.links import Placed
from fleetquill.bindery.overlays import Frame
from fleetquill.bindery.papers import paper_points
from fleetquill.bindery.parts import OpenPart
from fleetquill.pdf.page_boxes import Box, box_of, turn_of, unit_of
from fleetquill.pdf.reading import PdfPage


def frame_of(page: PdfPage, part: OpenPart) -> Frame:
    """A page as it will be: turned, and fitted into the paper that its part asks for."""
    reader = part.reader
    turn = (turn_of(page, reader) + part.part.turn) % 360
    if part.part.page:
        return Frame(fitted(page, part)[1], turn, 1.0)
    return Frame(box_of(page, reader), turn, unit_of(page, reader))


def placed_pages(part: OpenPart) -> dict[int, Placed]:
    """How the pages of a part are drawn, by the number of their object; nothing where they are as they are."""
    if not part.part.page:
        return {}
    return {page.ref.number: fitted(page, part)[0] for page in part.pages if page.ref is not None}


def fitted(page: PdfPage, part: OpenPart) -> tuple[Placed, Box]:
    """How a page is drawn in the paper that is asked for: as large as it fits, in the middle; and its new box."""
    wide, high = paper_points(part.part.page)
    reader = part.reader
    left, bottom, right, top = box_of(page, reader)
    own_wide, own_high = right - left, top - bottom
    turned = (turn_of(page, reader) + part.part.turn) % 180 == 90
    shown_wide, shown_high = (own_high, own_wide) if turned else (own_wide, own_high)
    if ((shown_wide > shown_high) != (wide > high)) != turned:  # the paper lies as the page does
        wide, high = high, wide
    scale = min(wide / own_wide, high / own_high)
    x, y = (wide - own_wide * scale) / 2, (high - own_high * scale) / 2
    return (scale, x - left * scale, y - bottom * scale), (0.0, 0.0, wide, high)


def move_annotation(made: dict[str, Any], placed: Placed) -> None:
    """An annotation on a page that is drawn larger and elsewhere."""
    scale, x, y = placed
    for key in ("Rect", "QuadPoints", "Vertices", "L"):
        points = made.get(key)
        if isinstance(points, list) and all(isinstance(one, (int, float)) for one in points):
            made[key] = [one * scale + (y if at % 2 else x) for at, one in enumerate(points)]
