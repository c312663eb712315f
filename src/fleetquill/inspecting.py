"""Which element stands at a point of a page, how large its box is, and why it looks as it does."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Final, NamedTuple

from lxml import etree

from fleetquill.layout.block.columns import used_columns
from fleetquill.layout.boxes.boxes import ColumnsBox, element_text
from fleetquill.layout.contract.fragments import Placed, walk_transformed
from fleetquill.layout.contract.sizing import edges_of
from fleetquill.layout.pages.page import PageFragment
from fleetquill.style.explaining import Declared, name_of
from fleetquill.style.lengths import resolve_auto
from fleetquill.units import POINTS_PER_PX

Element = etree._Element
Sides = tuple[float, float, float, float]

MOST_TEXT: Final = 80  # characters that are shown of an element


class Placement(NamedTuple):
    """Where a fragment of an element landed: page from 1; the rest in points from the top-left corner."""

    page: int
    x: float
    y: float
    width: float
    height: float


class Explained(NamedTuple):
    """What is known of an element besides its box."""

    source: str
    line: int
    style: tuple[Declared, ...]


class ElementFound(NamedTuple):
    """An element on a page: `name` and `path` as selectors, its text, where it is written (line 0 where that is not
    known), its border box, the points of its margin, border and padding at the top, right, bottom and left, and the
    declarations that speak of it, the strongest first; after them those that it inherits."""

    name: str
    path: str
    text: str
    source: str
    line: int
    placement: Placement
    margin: Sides
    border: Sides
    padding: Sides
    style: tuple[Declared, ...]


def element_at(page: PageFragment, x: float, y: float, explain: Callable[[Element], Explained]) -> ElementFound | None:
    """The innermost element whose box is at a point, in points from the top-left corner; None where there is none."""
    points = POINTS_PER_PX * page.area.scale
    at_x, at_y = x / points, y / points
    parts = [*page.parts, *page.margins.values()]
    placed = [one for part in parts for one in walk_transformed(part) if one.box.element is not None]
    found = [one for one in placed if one.x <= at_x <= one.x + one.width and one.y <= at_y <= one.y + one.height]
    return _found(found[-1], placed, page, points, explain) if found else None


def columns_on(page: PageFragment) -> tuple[Placement, ...]:
    """The columns of all multi-column boxes on a page, those that are empty too (CSS Multi-column 1 §3)."""
    points = POINTS_PER_PX * page.area.scale
    found: list[Placement] = []
    for one in (one for part in page.parts for one in walk_transformed(part) if isinstance(one.box, ColumnsBox)):
        edges = edges_of(one.box.style, one.width)
        count, width, gap = used_columns(one.box.style, one.width - edges.across)
        for number in range(count):
            x = one.x + edges.left + number * (width + gap)
            sides = _points((x, one.y + edges.top, width, one.height - edges.down), points)
            found.append(Placement(page.kind.number, *sides))
    return tuple(found)


def _found(
    at: Placed, placed: Sequence[Placed], page: PageFragment, points: float, explain: Callable[[Element], Explained]
) -> ElementFound | None:
    element, style = at.box.element, at.box.style
    if element is None:
        return None
    basis = _basis(element, placed) or page.area.content_width
    edges = edges_of(style, basis)
    borders = edges.border_top, edges.border_right, edges.border_bottom, edges.border_left
    sides = edges.top, edges.right, edges.bottom, edges.left
    margins = style.margin_top, style.margin_right, style.margin_bottom, style.margin_left
    names = [name_of(above) for above in (*reversed(list(element.iterancestors())), element)]
    text = element_text(element)
    known = explain(element)
    return ElementFound(
        names[-1],
        " > ".join(names),
        text if len(text) <= MOST_TEXT else f"{text[: MOST_TEXT - 1]}…",
        known.source,
        known.line,
        Placement(page.kind.number, *_points((at.x, at.y, at.width, at.height), points)),
        _points([resolve_auto(margin, basis) or 0.0 for margin in margins], points),
        _points(borders, points),
        _points([both - border for both, border in zip(sides, borders, strict=True)], points),
        known.style,
    )


def _basis(element: Element, placed: Sequence[Placed]) -> float:
    """How wide the content of the element around is; 0 where that is not on the page."""
    around = element.getparent()
    for one in placed:
        if one.box.element is around:
            return one.width - edges_of(one.box.style, one.width).across
    return 0.0


def _points(lengths: Sequence[float], points: float) -> Sides:
    first, second, third, fourth = (round(length * points, 3) for length in lengths)
    return first, second, third, fourth
