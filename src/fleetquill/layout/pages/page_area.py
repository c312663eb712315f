"""The size of a page, its margins, and what its border and padding take of its area (CSS Paged Media 3 §6, §7)."""

from __future__ import annotations

from typing import Final, NamedTuple

from fleetquill.layout.contract.sizing import Edges, clamp_height, clamp_width, edges_of, to_border_box
from fleetquill.style.lengths import resolve, resolve_auto
from fleetquill.style.properties import ComputedStyle
from fleetquill.units import PAPERS

A4: Final = PAPERS["a4"]
ROLL: Final = 1e7  # px that a page has which is as tall as its content
LEAST_AREA: Final = 1.0  # px that the page area keeps, whatever the margins
NO_EDGES: Final = Edges(0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)


class PageArea(NamedTuple):
    """A page's size and margins in px, and the border and padding that lie inside of the margins.

    `scale` is how large its px are on paper: at 0.5 a sheet has twice as many across and down.
    """

    width: float
    height: float
    top: float
    right: float
    bottom: float
    left: float
    edges: Edges = NO_EDGES
    is_roll: bool = False  # whether it is as tall as its content
    scale: float = 1.0

    @property
    def x(self) -> float:
        """The left edge of what content stands in."""
        return self.left + self.edges.left

    @property
    def y(self) -> float:
        return self.top + self.edges.top

    @property
    def content_width(self) -> float:
        return max(LEAST_AREA, self.width - self.left - self.right - self.edges.across)

    @property
    def content_height(self) -> float:
        return max(LEAST_AREA, self.height - self.top - self.bottom - self.edges.down)

    @property
    def is_empty(self) -> bool:
        """Whether margins, border and padding leave no room."""
        across = self.left + self.right + self.edges.across
        return across >= self.width or self.top + self.bottom + self.edges.down >= self.height


def page_area(style: ComputedStyle, scale: float = 1.0) -> PageArea:
    """The area of a page; on a roll the height is endless, or what `max-height` lets it be."""
    area = _page_area(style)
    if scale == 1.0:
        return area
    return area._replace(
        width=area.width / scale, height=area.height if area.height == ROLL else area.height / scale, scale=scale,
        top=area.top / scale, right=area.right / scale, bottom=area.bottom / scale, left=area.left / scale,
    )  # fmt: skip


def _page_area(style: ComputedStyle) -> PageArea:
    width, height = A4
    size = style.size
    if isinstance(size[0], float) and len(size) == 2:
        width, height = size[0], size[1] if isinstance(size[1], float) else ROLL
    elif size[0] == "landscape":
        width, height = height, width
    basis = 0.0 if height == ROLL else height
    edges = edges_of(style, width)
    rtl = style.direction == "rtl"
    left, right = _margins(
        resolve_auto(style.margin_left, width), resolve_auto(style.margin_right, width),
        _own_width(style, width, edges.across), width, keeps_end=rtl,
    )  # fmt: skip
    own = None if height == ROLL else _own_height(style, height, edges.down)
    top, bottom = _margins(
        resolve_auto(style.margin_top, basis), resolve_auto(style.margin_bottom, basis), own, height, keeps_end=False
    )
    is_roll = height == ROLL
    if is_roll:
        high = clamp_height(style, ROLL, None, edges.down)
        height = min(ROLL, high + top + bottom)
    return PageArea(width, height, top, right, bottom, left, edges, is_roll)


def roll_height(area: PageArea, style: ComputedStyle, content: float) -> float:
    """How tall a roll is with content of that height."""
    own = clamp_height(style, (content + area.edges.down) * area.scale, None, area.edges.down) / area.scale
    return area.top + max(own, min(content + area.edges.down, area.content_height)) + area.bottom


def _own_width(style: ComputedStyle, available: float, across: float) -> float | None:
    """The border box width that `width` and its limits give the page area; None where it fills the page."""
    given = resolve_auto(style.width, available)
    if given is not None:
        return clamp_width(style, to_border_box(style, given, across), available, across)
    margins = (resolve_auto(style.margin_left, available) or 0.0) + (resolve_auto(style.margin_right, available) or 0.0)
    filling = max(across, available - margins)
    limited = clamp_width(style, filling, available, across)
    return None if limited == filling else limited


def _own_height(style: ComputedStyle, available: float, down: float) -> float | None:
    given = None if isinstance(style.height, str) else to_border_box(style, resolve(style.height, available), down)
    if given is not None:
        return clamp_height(style, given, available, down)
    margins = (resolve_auto(style.margin_top, available) or 0.0) + (resolve_auto(style.margin_bottom, available) or 0.0)
    filling = max(down, available - margins)
    limited = clamp_height(style, filling, available, down)
    return None if limited == filling else limited


def _margins(
    start: float | None, end: float | None, own: float | None, available: float, *, keeps_end: bool
) -> tuple[float, float]:
    """Used margins along one axis (§7.1, as for blocks in CSS 2.2 §10.3.3): auto ones share what is left, and where
    none is auto the one at the end gives way."""
    if own is None:
        return start or 0.0, end or 0.0
    spare = available - own
    if start is None and end is None:
        return max(0.0, spare / 2), max(0.0, spare / 2)
    if start is None or (keeps_end and end is not None):
        return max(0.0, spare - (end or 0.0)), end or 0.0
    return start, max(0.0, spare - start)  # an area that would run off the paper is smaller
