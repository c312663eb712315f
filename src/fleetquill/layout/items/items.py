"""What flex and grid containers share: items laid out once for a size, and containers cut at page ends.

A container is laid out whole, as on an endless page. A page takes what lies above a cut; an item
that the cut crosses is broken by its own layout, and what follows moves down by what that cost.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable
from itertools import chain, pairwise
from typing import Any, Final, Protocol

from fleetquill.layout.block import breaks
from fleetquill.layout.block.ends import LEAST_PART
from fleetquill.layout.boxes.boxes import Box
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import layout
from fleetquill.layout.contract.fragments import AnchorFragment, Fragment, StaticArea, reach
from fleetquill.layout.contract.resume import Cut, Resume, Size
from fleetquill.layout.contract.sizing import Edges
from fleetquill.layout.contract.space import SLACK, UNBOUNDED, Laid, Space
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.layout.items.boxes import ItemsBox, Whole
from fleetquill.style.lengths import Relative

MOST_KEPT: Final = 4  # sizes of one item that are kept


def lay_out_item(box: Box, space: Space) -> Fragment:
    """The whole item in an endless room. Trying the same size again costs nothing."""
    if box.moves:
        return _laid(box, space)
    sizes = space.context.sizes.setdefault(box, {})
    key = (space.width, space.height, space.fixed_width, space.fixed_height, space.lent, space.by_content)
    kept = sizes.get(key)
    if kept is None:
        if len(sizes) >= MOST_KEPT:
            del sizes[next(iter(sizes))]
        kept = sizes[key] = _laid(box, space)
    return kept


def _laid(box: Box, space: Space) -> Fragment:
    fragment = layout(box, space, None).fragment
    assert fragment is not None
    return fragment


def whole_of(fragment: Fragment, spaces: list[Space], edges: Edges, gap: float, *, context: Context) -> Whole:
    items = [child for child in fragment.children if isinstance(child, Fragment)]
    tops = [item.y for item in items]
    if any(item.y + item.height > fragment.height + SLACK for item in items):
        context.overflows = True
    order = sorted(range(len(tops)), key=tops.__getitem__)
    reaches = [item.y + (reach(item) if context.overflows else item.height) for item in items]
    lowest = max([fragment.height, *reaches])
    return Whole(fragment, spaces, edges, items, order, [tops[index] for index in order], reaches, lowest, gap)


class Container(Protocol):
    """Lays one flex or grid container out whole."""

    def __init__(self, box: Any, space: Space) -> None: ...

    def lay_out(self) -> Whole: ...


def layout_container(kind: type[Container], box: ItemsBox, space: Space, resume: Resume | None) -> Laid:
    """This page's part of a container. Its whole is kept for the pages after the first."""
    cut = resume.inner if resume is not None and isinstance(resume.inner, Cut) else None
    size = (space.width, space.height, space.fixed_width, space.fixed_height) if cut is None else cut.size
    if resume is None or box.whole is None or box.whole[0] != size:
        width, height, fixed_width, fixed_height = size
        around = space._replace(width=width, height=height, fixed_width=fixed_width, fixed_height=fixed_height)
        box.whole = (size, kind(box, around).lay_out())
        space.context.at_end(box.forget_whole)
    return _cut_to_page(box.whole[1], size, space, cut)


def stand_anchors(
    box: ItemsBox, fragment: Fragment, space: Space, spaces: list[Space], inner_width: float, edges: Edges
) -> None:
    """The anchors of a container's positioned children, where its content box starts."""
    for anchor in box.anchors:
        stood = AnchorFragment(anchor)
        stood.x, stood.y = edges.left, edges.top
        stood.area = StaticArea(box.style, inner_width, fragment.height - edges.down)
        fragment.children.append(stood)
        spaces.append(space)


def container_baseline(on_it: Iterable[Fragment | None], items: Iterable[Fragment | None]) -> float | None:
    """The baseline of a container: of its first item `on_it`, else of the first at all. An item without one has it at
    its lower edge (CSS Align 3 §9.1)."""
    first = next(chain(on_it, items), None)
    return None if first is None else first.y + (first.height if first.baseline is None else first.baseline)


def asks_for_shares(box: Box) -> bool:
    """Whether something in an item asks for a share of its height."""
    return any(
        isinstance(child.style.height, Relative) or (isinstance(child, LinesBox) and asks_for_shares(child))
        for child in box.children
    )


def distribute(align: str, spare: float, count: int, gap: float) -> tuple[float, float]:
    """Where the first of `count` things starts, and the distance between them (CSS Align 3 §5)."""
    if align == "center":
        return spare / 2, gap
    if align in ("flex-end", "end", "right"):
        return spare, gap
    if spare <= 0 or count == 0:
        return 0.0, gap
    if align == "space-between":
        return 0.0, gap + (spare / (count - 1) if count > 1 else 0.0)
    if align == "space-around":
        return spare / count / 2, gap + spare / count
    if align == "space-evenly":
        return spare / (count + 1), gap + spare / (count + 1)
    return 0.0, gap


def _cut_to_page(whole: Whole, size: Size, space: Space, cut: Cut | None) -> Laid:
    """The part of a container that this page takes."""
    if cut is None and whole.lowest <= space.room + SLACK and not _breaks_inside(whole, space):
        return Laid(whole.fragment, None)
    part = _PagePart(whole, size, space, cut, 0.0)
    laid = part.take()
    if part.lacks_edge:  # the last items stand with the edge below them
        return _PagePart(whole, size, space, cut, whole.edges.bottom).take()
    return laid


def _breaks_inside(whole: Whole, space: Space) -> bool:
    if space.room == UNBOUNDED:
        return False
    boxes = [child.box for child in whole.items]
    return any(map(breaks.forces_inside, boxes)) or any(
        breaks.forced_between(previous, box, space) for previous, box in pairwise(boxes)
    )


def _begins_over(item: Fragment, other: Fragment) -> bool:
    """Whether an item begins within the rectangle of another, below its top."""
    beside = item.x >= other.x + other.width - SLACK or other.x >= item.x + item.width - SLACK
    return not beside and other.y + SLACK < item.y < other.y + other.height - SLACK


class _PagePart:
    """One page's part of a container."""

    def __init__(self, whole: Whole, size: Size, space: Space, cut: Cut | None, kept_free: float) -> None:
        self.whole = whole
        self.size = size
        self.space = space
        self.cut = cut
        self.kept_free = kept_free
        self.start = cut.at if cut else 0.0
        self.spent = cut.spent if cut else 0.0
        late = cut.late if cut else ()
        if late:
            self.start = min(self.start, *(whole.items[index].y for index in late))
        elif cut and not cut.broken:  # the gap between rows ends with the page (CSS Align 3 §8.1)
            following = bisect_left(whole.tops, self.start - SLACK)
            if following < len(whole.tops):
                self.start = min(max(self.start, whole.tops[following]), self.start + whole.gap)
        self.items = whole.items
        self.late = set(late)  # items that wait although they stand above the cut
        first = bisect_left(whole.tops, self.start - SLACK) if cut else 0
        last = bisect_right(whole.tops, self.start + self.spent + space.room + SLACK, first)
        self.near = whole.order[first : last + 1]  # the items that this page can concern, and the next one
        self.more = last + 1 < len(whole.order)
        self.waits_from = len(whole.items)  # the first item that a forced break sends to the next page
        self.part = Fragment(whole.fragment.box, whole.fragment.width, 0.0)
        self.part.first = cut is None
        self.part.baseline = whole.fragment.baseline if cut is None else None
        self.broken: dict[int, Resume] = {}
        self.forced_in: dict[int, Laid] = {}  # items that a forced break in them ends here
        self.tried: dict[tuple[int, float], Laid] = {}
        self.shift = 0.0  # from the whole to the page
        self.deepest = 0.0
        self.forced = ""
        self.lacks_edge = False  # whether all fits but the edge below

    def take(self) -> Laid:
        whole, space = self.whole.fragment, self.space
        shift = self.shift = self._go_on() - self.start - self.spent
        if self.broken:  # one of them goes on still: what follows it waits
            return self._ended(Cut(self.size, self.start, self.broken, self.spent + space.room), space.room)
        bottom = space.room - self.kept_free - shift
        if self.whole.lowest + shift <= space.room + SLACK:
            bottom = self.whole.lowest
        end = self._end(bottom)
        if end is None:
            if not space.at_top:
                return Laid(None, Resume(0, self.cut))
            end = self._forced_progress()
            space.context.remark(
                "overflow", "A box is taller than its page and cannot be broken here.", whole.box.element
            )
        for index in self.near:
            self._take(index, self.items[index], end, shift)
        if self.broken or self._rest(end):
            late = tuple(i for i in self.near if i >= self.waits_from and self.items[i].y < end - SLACK)
            following = min((i for i in self.near if self._waits(i, self.items[i], end)), default=len(self.items))
            cut = Cut(self.size, end, self.broken, 0.0, late, following)
            return self._ended(cut, max(end + shift, self.deepest))
        height = max(whole.height + shift, self.deepest + self.whole.edges.bottom)
        if height > space.room + LEAST_PART and not self.kept_free:
            content = self.deepest + self.whole.edges.bottom
            if content > space.room + SLACK:
                self.lacks_edge = self.whole.edges.bottom > 0
            else:  # the container is taller than its items
                return self._ended(Cut(self.size, max(end, space.room - shift), {}), space.room)
        self.part.last = True
        self.part.height = height
        return Laid(self.part, None)

    def _ended(self, cut: Cut, height: float) -> Laid:
        self.part.last = False
        self.part.height = height
        return Laid(self.part, Resume(0, cut, self.forced))

    def _go_on(self) -> float:
        """Items broken on the page before; gives what they grew by, taller than they were in the whole."""
        deepest_extra = 0.0
        for index, resume in (self.cut.broken if self.cut else {}).items():
            child = self.items[index]
            space = self._space(index, self.space.room - self.kept_free, at_top=self.space.at_top)
            laid = layout(child.box, space, resume)
            fragment = laid.fragment
            if fragment is None:
                self.broken[index] = resume
                continue
            expected = child.y + child.height - self.start - self.spent
            fragment.x, fragment.y = child.x, 0.0
            if laid.resume is not None:
                self.broken[index] = laid.resume
                self.forced = self.forced or breaks.forced_kind(laid.resume)
            else:
                deepest_extra = max(deepest_extra, fragment.height - expected)
                fragment.height = max(fragment.height, min(expected, self.space.room))
            self.deepest = max(self.deepest, fragment.height)
            self.part.children.append(fragment)
        return deepest_extra

    def _space(self, index: int, room: float, *, at_top: bool) -> Space:
        """The space of an item on this page."""
        space = self.space
        return self.whole.spaces[index]._replace(
            room=room, at_top=at_top, page=space.page, in_columns=space.in_columns, pages=space.pages
        )

    def _rest(self, end: float) -> bool:
        """Whether an item waits for the next page."""
        return self.more or any(self._waits(index, self.items[index], end) for index in self.near)

    def _waits(self, index: int, child: Fragment, end: float) -> bool:
        below = child.y >= end - SLACK and self.whole.reaches[index] > end + SLACK
        return (below or index >= self.waits_from) and not self._gone(index, child)

    def _gone(self, index: int, child: Fragment) -> bool:
        """Whether an item was finished, or begun, on an earlier page."""
        cut = self.cut
        if cut is None or index in self.late:
            return False
        return child.y < cut.at - SLACK or index in cut.broken

    def _end(self, bottom: float) -> float | None:
        """The lowest height up to `bottom` where the container may be cut; None where nothing can go in."""
        end = min(bottom, self._first_forced(bottom))
        end = min(end, self._forced_inside(end))
        for _ in range(len(self.near) + 1):
            moved = self._moved_up(end)
            if moved is None:
                break
            end = moved
        taken = any(
            self.items[i].y < end - SLACK and not self._gone(i, self.items[i]) and i < self.waits_from
            for i in self.near
        )
        if not taken and self._rest(end) and self.deepest == 0.0:
            return None
        return end

    def _first_forced(self, end: float) -> float:
        """Where a forced break between items ends the page: the items after it wait."""
        here = [index for index in sorted(self.near) if not self._gone(index, self.items[index])]
        for place, index in enumerate(here):
            child = self.items[index]
            kind = index and breaks.forced_between(self.items[index - 1].box, child.box, self.space)
            if not kind or child.y > end:
                continue
            while place and self.items[here[place - 1]].y >= child.y - SLACK:
                place -= 1  # those beside it break with it
            if place:
                self.forced, self.waits_from = kind, here[place]
                return max(child.y, *(self.items[i].y + self.items[i].height for i in here[:place]))
        return end

    def _forced_inside(self, end: float) -> float:
        """The lowest cut that a forced break in an item allows: above what stands below that item."""
        if self.space.room == UNBOUNDED:
            return end
        for index in self.near:
            child = self.items[index]
            if self._gone(index, child) or index >= self.waits_from or child.y >= end:
                continue
            if not breaks.forces_inside(child.box):
                continue
            laid = self._try(index, child, end)
            kind = breaks.forced_kind(laid.resume)
            if laid.fragment is not None and kind:
                self.forced = kind
                self.forced_in[index] = laid
                below = bisect_left(self.whole.tops, child.y + max(child.height, 2 * SLACK) - SLACK)
                if below < len(self.whole.tops):
                    end = min(end, self.whole.tops[below])
                drawn_over = (i for i in self.near if i > index and _begins_over(self.items[i], child))
                self.waits_from = min(self.waits_from, *drawn_over, len(self.items))
        return end

    def _moved_up(self, end: float) -> float | None:
        """A higher cut, where this one would go through an item that cannot be broken there."""
        higher = None
        for index in self.near:
            child = self.items[index]
            if self._gone(index, child) or child.y >= end - SLACK:
                continue
            if index >= self.waits_from or index in self.forced_in:
                continue
            goes_through = self.whole.reaches[index] > end + SLACK
            if self._holds(index, child, end) if goes_through else self._sticks(index, child, end):
                above = self._above(index, end)
                higher = above if higher is None else min(higher, above)
        return higher

    def _holds(self, index: int, child: Fragment, end: float) -> bool:
        """Whether a cut goes through an item that cannot, or asks not to, be broken there."""
        laid = self._try(index, child, end)
        if laid.fragment is None:
            return True
        if laid.resume is None:
            return laid.fragment.height > end - child.y + SLACK
        return breaks.avoided_inside(child.box)

    def _sticks(self, index: int, child: Fragment, end: float) -> bool:
        """Whether an item above a cut asks to stay with the one below it."""
        if index + 1 == len(self.items) or self.forced or self._leads(child):
            return False
        following = self.items[index + 1]
        return following.y >= end - SLACK and breaks.avoided_between(child.box, following.box)

    def _leads(self, child: Fragment) -> bool:
        """Whether an item stands at the top of this part."""
        return child.y + self.shift <= SLACK

    def _above(self, index: int, end: float) -> float:
        """The cut above an item that waits for the next page: below what it overlaps of the items before it."""
        top = self.items[index].y
        over = [
            self.whole.reaches[i]
            for i in self.near
            if i < index and not self._gone(i, self.items[i]) and self.items[i].y < top - SLACK
        ]
        lowest = max((reach for reach in over if top + SLACK < reach <= end + SLACK), default=top)
        if lowest > top:
            while index and self.items[index - 1].y >= top - SLACK:
                index -= 1  # those beside it wait with it
            self.waits_from = min(self.waits_from, index)
        return lowest

    def _try(self, index: int, child: Fragment, end: float) -> Laid:
        """An item in the room above a cut; kept, so that items in items are laid out once for each cut."""
        laid = self.tried.get((index, end))
        if laid is None:
            at_top = self.space.at_top and self._leads(child)
            laid = self.tried[index, end] = layout(child.box, self._space(index, end - child.y, at_top=at_top), None)
        return laid

    def _forced_progress(self) -> float:
        """Nothing fits: the next items are taken whole all the same."""
        waiting = [self.items[index] for index in self.near if not self._gone(index, self.items[index])]
        first = min(child.y for child in waiting)
        end = max(child.y + child.height for child in waiting if child.y <= first + SLACK)
        begin = bisect_left(self.whole.tops, self.start - SLACK) if self.cut else 0
        stop = bisect_right(self.whole.tops, end, begin)
        self.near = self.whole.order[begin : stop + 1]
        self.more = stop + 1 < len(self.whole.order)
        return end

    def _take(self, index: int, child: Fragment, end: float, shift: float) -> None:
        if self._gone(index, child) or self._waits(index, child, end):
            return
        fragment = child
        laid = self.forced_in.get(index)
        if laid is None and self.whole.reaches[index] > end + SLACK:
            laid = self._try(index, child, end)
        if laid is not None and laid.fragment is not None:
            fragment = laid.fragment
            fragment.x, fragment.y = child.x, child.y
            if laid.resume is not None:
                self.broken[index] = laid.resume
                self.forced = self.forced or breaks.forced_kind(laid.resume)
                if index not in self.forced_in:
                    fragment.height = max(fragment.height, end - child.y)
        fragment = fragment.twin()  # the whole stays as it is: a page may be tried twice
        fragment.y += shift
        self.deepest = max(self.deepest, fragment.y + fragment.height)
        self.part.children.append(fragment)
