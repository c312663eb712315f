"""Bookmarks: the outline of a document, from the pages that its headings stand on."""

from __future__ import annotations

from collections.abc import Sequence

from fleetquill.drawing.paged import Bookmark
from fleetquill.drawing.places import Place
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.units import POINTS_PER_PX


def bookmarks_of(parts: Sequence[Fragment], page: int, scale: float) -> list[Bookmark]:
    """The bookmarks that begin on a page, flat and in order; `scale` is how large the page's px are on paper."""
    found: list[Bookmark] = []
    for part in parts:
        _gather(part, 0.0, page, POINTS_PER_PX * scale, found)
    return found


def _gather(fragment: Fragment, y: float, page: int, points: float, found: list[Bookmark]) -> None:
    y += fragment.y
    box = fragment.box
    level = box.style.bookmark_level
    if level != "none" and fragment.first and box.element is not None:
        label = box.says.bookmark if box.says is not None else ""
        if label:
            top = round(y * points, 3)
            part = box.part if isinstance(box.part, Place) else None
            found.append(Bookmark(label, int(level), page, top, box.style.bookmark_state == "open", part=part))
    for child in fragment.children:
        if isinstance(child, Fragment) and not child.box.quiet:
            _gather(child, y, page, points, found)


def nested(flat: list[Bookmark]) -> tuple[Bookmark, ...]:
    """Bookmarks as a tree: each under the last one of a lower level."""
    roots, _ = _nest(flat, 0, 0)
    return roots


def _nest(flat: list[Bookmark], start: int, above: int) -> tuple[tuple[Bookmark, ...], int]:
    found: list[Bookmark] = []
    index = start
    while index < len(flat) and flat[index].level > above:
        children, after = _nest(flat, index + 1, flat[index].level)
        found.append(flat[index]._replace(children=children))
        index = after
    return tuple(found), index
