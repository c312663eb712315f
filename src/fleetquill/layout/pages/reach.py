"""How far what stands on a page reaches beyond its area: how much smaller it is to be made to fit the paper."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Final

from fleetquill.layout.boxes.boxes import PictureBox
from fleetquill.layout.contract.fragments import AnchorFragment, Fragment, LineFragment
from fleetquill.layout.contract.space import SLACK
from fleetquill.layout.inline.boxes import ControlBox
from fleetquill.layout.pages.page import PageFragment
from fleetquill.style.properties import ComputedStyle

FARTHEST: Final = 9_000.0  # px: what stands farther out is hidden there on purpose


def scale_to_fit(pages: Iterable[PageFragment]) -> float:
    """The largest scale, 1 at most, at which all that stands on the pages would lie within their areas."""
    return min((_scale(page) for page in pages), default=1.0)


def _scale(page: PageFragment) -> float:
    area, rtl = page.area, page.content is not None and page.content.box.style.direction == "rtl"
    room, widest = area.content_width, area.content_width
    for part in page.parts:
        for left, right, within in _sides(part, 0.0, within=True):
            over, to_paper = (area.x - left, area.x) if rtl else (right - area.x - room, area.width - area.x - room)
            if SLACK < over < FARTHEST and (within or over > to_paper + SLACK):
                widest = max(widest, room + over)
    return room / widest


def _sides(fragment: Fragment, x: float, *, within: bool) -> Iterator[tuple[float, float, bool]]:
    """The sides of all that can be seen in a fragment, and whether it is to stay within the page's area: what is put
    into the margins by a position or a margin of its own is not."""
    x += fragment.x
    style = fragment.box.style
    if style.transform or isinstance(fragment, AnchorFragment):
        return
    within = within and style.position == "static" and not _reaches_out(style)
    yield x, x + fragment.width, within
    if style.overflow != "visible" and not isinstance(fragment.box, (PictureBox, ControlBox)):
        return
    for child in fragment.children:
        if not isinstance(child, LineFragment):
            yield from _sides(child, x, within=within)
            continue
        for item in child.items:
            if isinstance(item, Fragment):
                yield from _sides(item, x + child.x, within=within)
            else:
                yield x + child.x + item.x, x + child.x + item.x + item.width, within


def _reaches_out(style: ComputedStyle) -> bool:
    return any(isinstance(side, float) and side < 0 for side in (style.margin_left, style.margin_right))
