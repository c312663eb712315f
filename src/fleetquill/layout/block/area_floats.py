"""Page floats: boxes at the top or the foot of the page, or column, where they are called (CSS Page Floats 3)."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import Final, NamedTuple, TypeVar

from fleetquill.layout.block.block import flow_children
from fleetquill.layout.boxes.boxes import AnchorBox, Box
from fleetquill.layout.contract.fragments import ColumnsFragment, Fragment, LineFragment
from fleetquill.layout.contract.resume import Resume, Waiting, within
from fleetquill.layout.contract.space import SLACK, Space

MOST_OF_AN_AREA: Final = 0.85  # of a page or column that floats take where text stands there, too

T = TypeVar("T")


class AreaFloat(NamedTuple):
    """A float as it stands at an end of its area: its fragments, and its height with its margins."""

    fragments: list[Fragment]
    height: float
    at_top: bool


class AreaFloats(NamedTuple):
    """The floats of one page or column, and those that wait for the next."""

    placed: list[AreaFloat]
    waiting: tuple[Waiting, ...]

    @property
    def top(self) -> float:
        return sum(part.height for part in self.placed if part.at_top)

    @property
    def height(self) -> float:
        return sum(part.height for part in self.placed)

    def stand(self, x: float, y: float, height: float) -> list[Fragment]:
        """All fragments, those at the top and those at the foot of an area of that height whose corner is at (x, y)."""
        found: list[Fragment] = []
        above, below = y, y + height - sum(part.height for part in self.placed if not part.at_top)
        for part in self.placed:
            start = above if part.at_top else below
            for fragment in part.fragments:
                fragment.x += x
                fragment.y += start
                found.append(fragment)
            if part.at_top:
                above += part.height
            else:
                below += part.height
        return found


NO_FLOATS: Final = AreaFloats([], ())


def floats_called(fragment: Fragment, *, of_page: bool) -> Iterator[Box]:
    """The floats that are called in a fragment, in order: those for the page, or those for the column around."""
    for child in fragment.children:
        yield from _called(child, of_page, in_columns=isinstance(fragment, ColumnsFragment))


def _called(part: Fragment | LineFragment, of_page: bool, *, in_columns: bool) -> Iterator[Box]:
    if isinstance(part, LineFragment):
        for item in part.items:
            if isinstance(item, Fragment):
                yield from _called(item, of_page, in_columns=in_columns)
        return
    box = part.box
    if isinstance(box, AnchorBox):
        if box.kind == "area float" and ((box.target.style.float_reference == "page" or not in_columns) == of_page):
            yield box.target
        return
    if box.quiet:
        return
    if isinstance(part, ColumnsFragment) and not of_page:
        return  # columns within have floats of their own
    for child in part.children:
        yield from _called(child, of_page, in_columns=in_columns or isinstance(part, ColumnsFragment))


def fit_floats(
    lay: Callable[[float], T | None],
    called: Callable[[T | None], Iterable[Box]],
    waiting: Sequence[Waiting],
    area: Space,
) -> tuple[T | None, AreaFloats]:
    """Lays out an area with the floats that wait for it and those that are called in it.

    `lay` lays out its content with so much less room; `called` says which floats that calls. One whose room
    would send its own call to the next page waits for that page. There is no content where floats that waited
    leave it too little room.
    """
    floats, left = _take_waiting(waiting, area)
    if floats.height > area.room * MOST_OF_AN_AREA:
        return None, floats
    content = lay(floats.height)
    if left:
        return content, floats._replace(waiting=(*floats.waiting, *_new(content, called, floats)))
    seen = {item.box for item in waiting}
    deferred: list[Waiting] = []
    while content is not None:
        box = next((box for box in called(content) if box not in seen), None)
        if box is None:
            break
        seen.add(box)
        part, resume = _set_float(Waiting(box), area, area.room)
        trial = None
        if not deferred and resume is None and floats.height + part.height <= area.room * MOST_OF_AN_AREA:
            trial = lay(floats.height + part.height)
        if trial is not None and box in called(trial):
            content = trial
            floats.placed.append(part)
        else:
            deferred.append(Waiting(box))
    return content, floats._replace(waiting=tuple(deferred))


def _new(content: T | None, called: Callable[[T | None], Iterable[Box]], floats: AreaFloats) -> Iterator[Waiting]:
    known = {item.box for item in floats.waiting}
    for box in called(content):
        if box not in known:
            yield Waiting(box)


def _take_waiting(waiting: Sequence[Waiting], area: Space) -> tuple[AreaFloats, bool]:
    """As many of the floats that wait as the area holds, in their order; whether any is left."""
    placed: list[AreaFloat] = []
    used = 0.0
    for place, item in enumerate(waiting):
        part, resume = _set_float(item, area, area.room - used)
        if placed and (resume is not None or used + part.height > area.room + SLACK):
            return AreaFloats(placed, tuple(waiting[place:])), True
        placed.append(part)
        used += part.height
        if resume is not None:
            return AreaFloats(placed, (Waiting(item.box, resume), *waiting[place + 1 :])), True
    return AreaFloats(placed, ()), False


def _set_float(item: Waiting, area: Space, room: float) -> tuple[AreaFloat, Resume | None]:
    """A float as far as it fits into that room."""
    start = None if item.resume is None else Resume(0, item.resume)
    flow = flow_children([item.box], area._replace(room=max(1.0, room), at_top=True), start, joined=False)
    at_top = item.box.style.float == "top"
    if flow is None:
        return AreaFloat([], 0.0, at_top), None
    for placed in flow.placed:
        placed.fragment.y = placed.y
    height = flow.height + (max(0.0, flow.margins.size) if flow.resume is None else 0.0)
    resume = within(flow.resume)
    return AreaFloat([placed.fragment for placed in flow.placed], height, at_top), resume
