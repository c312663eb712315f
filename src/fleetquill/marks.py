"""What a laid-out page says of itself: its text, its bookmarks."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from fleetquill.layout.boxes import element_text
from fleetquill.layout.fragments import Fragment, LineFragment, TextSpan
from fleetquill.layout.ledger_rows import LedgerRows
from fleetquill.named import NamedTuple
from fleetquill.units import POINTS_PER_PX


class Bookmark(NamedTuple):
    """An entry of the outline: `page` counts from 1, `y` is points from the page's top."""

    label: str
    level: int
    page: int
    y: float
    is_open: bool = True
    children: tuple[Bookmark, ...] = ()


def text_of(fragment: Fragment) -> str:
    """The text of a fragment: a line of text for each line on the page."""
    return "\n".join(_texts(fragment))


def _texts(fragment: Fragment) -> Iterator[str]:
    """The text of each line, and of each cell of a ledger's rows."""
    if isinstance(fragment.detail, LedgerRows):
        for row in fragment.detail.texts:
            yield from filter(None, row)
    for child in fragment.children:
        if isinstance(child, LineFragment):
            text = line_text(child)
            if text:
                yield text
        else:
            yield from _texts(child)


def line_text(line: LineFragment) -> str:
    """The words of a line, with one space where there is any gap between spans."""
    parts: list[str] = []
    for item in line.items:
        if isinstance(item, TextSpan):
            parts.append(item.text)
        elif isinstance(item, Fragment):
            parts.append(text_of(item))
    return "".join(parts).strip()


def bookmarks_of(parts: Sequence[Fragment], page: int) -> list[Bookmark]:
    """The bookmarks that begin on a page, flat and in order."""
    found: list[Bookmark] = []
    for part in parts:
        _gather(part, 0.0, page, found)
    return found


def _gather(fragment: Fragment, y: float, page: int, found: list[Bookmark]) -> None:
    y += fragment.y
    box = fragment.box
    level = box.style.bookmark_level
    if level != "none" and fragment.first and box.element is not None:
        label = box.kept.get("bookmark") or element_text(box.element)
        if label:
            top = round(y * POINTS_PER_PX, 3)
            found.append(Bookmark(label, int(level), page, top, box.style.bookmark_state == "open"))
    for child in fragment.children:
        if child.__class__ is Fragment and not child.box.quiet:
            _gather(child, y, page, found)


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
