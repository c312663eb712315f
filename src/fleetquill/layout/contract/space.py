"""What layout is given and what it hands back: the space that is left, and where to go on."""

from __future__ import annotations

import math
from typing import NamedTuple

from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.float_space import FloatSpace
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.sizing import Edges, clamp_height, height_by_ratio, own_height
from fleetquill.style.properties import ComputedStyle

UNBOUNDED = math.inf
SLACK = 0.01  # px that rounding may cost before a box counts as too tall
OUT_OF_SIGHT = 2.0  # px: what cuts its content off and is no wider is hidden on purpose, for those who listen


class LineGrid(NamedTuple):
    """Rows that lines snap to (CSS Line Grid 1): px from one to the next, where baselines stand in a row, and how far
    below the first row a box begins."""

    pitch: float
    baseline: float
    y: float

    def moved(self, y: float) -> LineGrid:
        return self._replace(y=self.y + y)


class Lent(NamedTuple):
    """The tracks of a grid that a subgrid in it stands on: px of each, or None on an axis of its own, and the gaps."""

    columns: tuple[float, ...] | None
    rows: tuple[float, ...] | None
    column_gap: float
    row_gap: float


class Space(NamedTuple):
    """The space that a box is laid out in. Lengths are px.

    `width` and `height` are those of the containing block (`height` None where it hangs on content).
    `room` is what the page still has from the box's top edge on; `page` what a fresh page has.
    `at_top` says that nothing stands above on this page, so that layout must make progress.
    `floats` are those around the box, None where it begins a formatting context of its own.
    `in_columns` says how many multi-column boxes the room lies in.
    `pages` says that the room ends at a page's end: not so in an endless room, nor in columns there.
    `grid` is what lines in the box may snap to.
    `lent` are the tracks that a subgrid stands on.
    `fixed_width` and `fixed_height` give the border box a size that was settled outside; `by_content` asks how high
    its content makes it, whatever its own `height` says.
    """

    context: Context
    width: float
    height: float | None = None
    room: float = UNBOUNDED
    page: float = UNBOUNDED
    at_top: bool = True
    fixed_width: float | None = None
    fixed_height: float | None = None
    floats: FloatSpace | None = None
    in_columns: int = 0
    pages: bool = True
    grid: LineGrid | None = None
    lent: Lent | None = None
    by_content: bool = False

    def height_of(self, style: ComputedStyle, down: float) -> float | None:
        """The border box height that was settled outside, or that `height` gives within its limits; None where it hangs
        on content."""
        if self.fixed_height is not None or self.by_content:
            return self.fixed_height
        own = own_height(style, self.height, down)
        return None if own is None else clamp_height(style, own, self.height, down)

    def known_height(self, style: ComputedStyle, width: float, edges: Edges) -> float | None:
        """The border box height that is known before the content is, by the ratio too."""
        given = self.height_of(style, edges.down)
        if given is not None or self.by_content:
            return given
        by_ratio = height_by_ratio(style, width, edges)
        return None if by_ratio is None else clamp_height(style, by_ratio, self.height, edges.down)

    @property
    def hears_breaks(self) -> bool:
        """Whether forced breaks between pages end this room."""
        return self.pages and self.room != UNBOUNDED

    def cuts_off(self, style: ComputedStyle, height: float | None, resume: Resume | None) -> bool:
        """Whether a box of a height cuts off here what is in it: none of that goes on (CSS Fragmentation 3 §4.1)."""
        if style.overflow == "visible" or height is None or resume is not None:
            return False
        return height <= self.room + SLACK


class Laid(NamedTuple):
    """The result of layout: a fragment (None where nothing fits here) and where to go on."""

    fragment: Fragment | None
    resume: Resume | None
