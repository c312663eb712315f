"""Columns: one flow in columns side by side, evened out at its end (CSS Multi-column 1)."""

from __future__ import annotations

import math
from bisect import bisect_left
from typing import Final, NamedTuple

from fleetquill.layout.block.area_floats import AreaFloats, fit_floats, floats_called
from fleetquill.layout.block.block import Flow, Placed, block_content_widths, flow_children
from fleetquill.layout.block.breaks import forced_kind
from fleetquill.layout.block.ends import LEAST_PART, end_box, reach_down
from fleetquill.layout.block.margins import NONE
from fleetquill.layout.boxes.boxes import Box, ColumnsBox
from fleetquill.layout.boxes.levels import spans_columns
from fleetquill.layout.contract.box_edges import box_edges
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.fragments import ColumnsFragment, Rule
from fleetquill.layout.contract.resume import Resume, within
from fleetquill.layout.contract.sizing import edges_of
from fleetquill.layout.contract.space import SLACK, UNBOUNDED, Laid, Space
from fleetquill.layout.inline.lines import border_box_width, grid_within
from fleetquill.style.lengths import resolve_auto
from fleetquill.style.properties import ComputedStyle

DEEPEST: Final = 3  # columns within columns; to even out each costs several layouts of those in it
FINEST: Final = 1.0  # px to which heights are evened out
MOST_COLUMNS: Final = 1_000
GUESSES: Final = 8  # tries before heights are halved again
FIRST_STEP: Final = 24.0  # px above the mean: about a line, and most often enough


class Row(NamedTuple):
    """Columns side by side: their flows, their height, and where the content goes on."""

    flows: list[Flow]
    height: float
    resume: Resume | None


def used_columns(style: ComputedStyle, available: float) -> tuple[int, float, float]:
    """Count, width and gap of the columns (§3.4)."""
    gap = style.font_size if isinstance(style.column_gap, str) else resolve_auto(style.column_gap, available) or 0.0
    count = style.column_count
    width = style.column_width
    if isinstance(width, str):
        number = count if isinstance(count, int) else 1
    else:
        number = max(1, math.floor((available + gap) / max(width + gap, 1.0)))
        if isinstance(count, int):
            number = min(number, count)
    return number, max(0.0, (available + gap) / number - gap), gap


def layout_columns(box: ColumnsBox, space: Space, resume: Resume | None) -> Laid:
    """Rows of columns, and between them the boxes that span all of them."""
    laid = _Columns(box, space, resume).lay_out()
    edge = edges_of(box.style, space.width).bottom
    if laid.fragment is None or laid.resume is not None or not edge or laid.fragment.height <= space.room + SLACK:
        return laid
    return _Columns(box, space, resume, kept_free=edge).lay_out()  # the last lines stand with the edge below them


class _Columns:
    def __init__(self, box: ColumnsBox, space: Space, resume: Resume | None, kept_free: float = 0.0) -> None:
        style = box.style
        self.kept_free = kept_free
        self.box = box
        self.space = space
        self.resume = resume
        self.edges = box_edges(box, space.width)
        self.width = border_box_width(box, space) if space.fixed_width is None else space.fixed_width
        inner = max(0.0, self.width - self.edges.across)
        self.inner = inner
        self.count, self.column, self.gap = used_columns(style, inner)
        if space.in_columns >= DEEPEST and self.count > 1:
            self.count, self.column = 1, inner
            space.context.remark("columns", "Columns in columns this deep are set as one.", box.element)
        given = space.height_of(style, self.edges.down)
        taken = resume.taken if resume else 0.0
        self.given = None if given is None else max(0.0, given - self.edges.down)
        self.left = None if given is None else max(0.0, given - taken - self.edges.bottom)  # of that, here and below
        self.top = self.edges.top if resume is None else 0.0
        self.y = 0.0
        self.fragment = ColumnsFragment(box, self.width)

    def lay_out(self) -> Laid:
        children = self.box.children
        at = self.resume.at if self.resume else 0
        inner = self.resume
        while at < len(children) or (inner is not None and (inner.floats or inner.waiting)):
            spans = at < len(children) and spans_columns(children[at])
            if spans and not (inner is not None and (inner.floats or inner.waiting)):
                goes_on = self._spanner(children[at], within(inner) if inner and inner.at == at else None, at)
                at += 1
            else:
                stop = at if spans else _next_spanner(self.box, at)  # floats end before what spans all columns
                segment = children if stop == len(children) else children[:stop]
                row = self._row(segment, inner or (Resume(at, None, "column") if at else None))
                if row is None:
                    goes_on = Resume(at, within(inner) if inner and inner.at == at else None)
                else:
                    self._place(row)
                    goes_on = row.resume
                at = stop
            inner = None
            if goes_on is not None:
                if not self.fragment.children and not self.space.at_top:
                    return Laid(None, self.resume or Resume())
                return self._finish(goes_on)
        return self._finish(None)

    def _finish(self, resume: Resume | None) -> Laid:
        fragment = self.fragment
        for child in fragment.children:
            child.x += self.edges.left
            child.y += self.top
        edge = 0.0 if resume else self.edges.bottom
        return end_box(fragment, self.space, self.resume, resume, self.top + self.y, edge, len(self.box.children))

    def _room(self) -> float:
        return self.space.room - self.top - self.kept_free - self.y

    def _column_space(self, room: float, *, at_top: bool) -> Space:
        deep = self.space.in_columns + 1
        pages = self.space.hears_breaks
        grid = grid_within(self.box.style, self.space, 0.0)
        if grid is not None:
            grid = grid._replace(y=0.0)  # columns side by side share their rows
        return Space(
            self.space.context, self.column, self.given, room, self.space.page, at_top,
            in_columns=deep, pages=pages, grid=grid,
        )  # fmt: skip

    def _run(
        self, children: list[Box], resume: Resume | None, room: float, *, at_top: bool, most: int = 0
    ) -> Row | None:
        """Columns of that room, filled one after the other; None where nothing fits."""
        flows: list[Flow] = []
        for _ in range(most or self.count):
            flow = self._column(children, resume, self._column_space(room, at_top=at_top))
            if flow is None:
                return None
            flows.append(flow)
            resume = flow.resume
            if resume is None or forced_kind(resume) not in ("", "column"):
                break
        return Row(flows, max(flow.height for flow in flows), resume)

    def _column(self, children: list[Box], resume: Resume | None, space: Space) -> Flow | None:
        """One column, with the floats at its top and its foot."""
        waiting = resume.waiting if resume is not None else ()
        if not waiting and not space.context.found.area_floats:
            return flow_children(children, space, resume, joined=False)

        def lay(reserved: float) -> Flow | None:
            return flow_children(children, space._replace(room=space.room - reserved), resume, joined=False)

        def called(flow: Flow | None) -> list[Box]:
            around = ColumnsFragment(self.box, self.column)
            around.children = [placed.fragment for placed in flow.placed] if flow is not None else []
            return list(floats_called(around, of_page=False))

        flow, floats = fit_floats(lay, called, waiting, space)
        if flow is None:
            if not floats.placed:
                return None
            flow = Flow([], 0.0, NONE, resume)
        return _with_floats(flow, floats, space, len(children))

    def _row(self, children: list[Box], resume: Resume | None) -> Row | None:
        room, most = self._room(), 0
        left = room if self.left is None else self.left - self.top - self.y
        if left < room and (left > LEAST_PART or self.resume is None):
            room = max(1.0, left)
            most = MOST_COLUMNS  # what does not fit a given height runs over in more columns (§8.2)
        row = self._run(children, resume, room, at_top=self.space.at_top and not self.fragment.children, most=most)
        fills = self.box.style.column_fill == "auto" and room != UNBOUNDED
        if row is not None and len(row.flows) > self.count:
            over = (len(row.flows) - self.count) * (self.column + self.gap) * 0.75
            message = f"Columns of this height take {over:.1f} pt more than there is across: they run over the side."
            self.space.context.remark("overflow", message, self.box.element)
        if row is None or fills or _goes_on(row):
            return row
        if self.count == 1:
            return row._replace(height=max(map(_extent, row.flows)))
        with self.space.context.trying():
            return self._balanced(children, resume, row)

    def _balanced(self, children: list[Box], resume: Resume | None, row: Row) -> Row:
        """The lowest columns that hold what `row` holds (§7.1)."""
        context = self.space.context
        if context.quiet:  # tried out for columns around: close enough
            return row._replace(height=self._mean(row))
        levels = context.trials.levels if context.trials else {}
        known = (self.box, self.column, resume.at if resume else 0, self._mean(row), row.height)
        whole = resume is None or resume.inner is None
        height = levels.get(known) if whole else None
        if height is None:
            height = self._level(children, resume, row)
            if whole:
                levels[known] = height
        while height < row.height:  # columns within were only estimated: laid out in earnest they may be taller
            found = self._try(children, resume, height)
            if found is not None:
                return found._replace(height=max(found.height, self._mean(row)))
            height += FIRST_STEP
        return row

    def _level(self, children: list[Box], resume: Resume | None, row: Row) -> float:
        """The height of the lowest columns, to within `FINEST`."""
        context = self.space.context
        low, high = self._mean(row), row.height
        step = FIRST_STEP
        fitted = 0
        context.quiet += 1
        try:
            if self._try(children, resume, low) is not None:
                return low
            while high - low > FINEST:
                # what fits is as high as its lines: a little lower it seldom fits, and then all is known
                middle = high - FINEST if fitted % GUESSES else min((low + high) / 2, low + step)
                step *= 4
                found = self._try(children, resume, middle)
                if found is None:
                    low, fitted = middle, 0
                else:
                    high, fitted = min(middle, max(found.height, low)), fitted + 1
        finally:
            context.quiet -= 1
        return high

    def _mean(self, row: Row) -> float:
        """An even share of all that flows, with the margin at its end: no columns are lower."""
        last = row.flows[-1]
        rest = max(0.0, last.margins.size) if last.resume is None else 0.0
        return (sum(flow.height for flow in row.flows) + rest) / self.count

    def _try(self, children: list[Box], resume: Resume | None, room: float) -> Row | None:
        row = self._run(children, resume, room, at_top=False)
        return None if row is None or row.height > room + SLACK or _goes_on(row) else row

    def _place(self, row: Row) -> None:
        for number, flow in enumerate(row.flows):
            x = number * (self.column + self.gap)
            if self.box.style.direction == "rtl":
                x = self.inner - self.column - x
            for placed in flow.placed:
                if not placed.fragment.last:
                    reach_down(placed.fragment, row.height - placed.y)
                placed.fragment.x += x
                placed.fragment.y = placed.y + self.y
                self.fragment.children.append(placed.fragment)
            if number and self.box.style.column_rule_width:
                rule = self.edges.left + x + (self.column if self.box.style.direction == "rtl" else 0.0)
                shift = self.gap / 2 if self.box.style.direction == "rtl" else -self.gap / 2
                self.fragment.rules.append(Rule(rule + shift, self.top + self.y, row.height))
        self.y += row.height

    def _spanner(self, child: Box, inner: Resume | None, at: int) -> Resume | None:
        """A box across all columns; gives where to go on where it does not end here."""
        space = Space(
            self.space.context,
            self.inner,
            self.given,
            self._room(),
            self.space.page,
            self.space.at_top and not self.fragment.children,
            pages=self.space.pages,
        )
        flow = flow_children([child], space, None if inner is None else Resume(0, inner), joined=False)
        if flow is None:
            return Resume(at, inner)
        for placed in flow.placed:
            placed.fragment.y = placed.y + self.y
            self.fragment.children.append(placed.fragment)
        self.y += flow.height + flow.margins.size
        return None if flow.resume is None else Resume(at, flow.resume.inner)


def _with_floats(flow: Flow, floats: AreaFloats, space: Space, end: int) -> Flow:
    """A column with floats above and below what flows in it."""
    top = floats.top
    content = flow.height + (max(0.0, flow.margins.size) if flow.resume is None else 0.0)
    placed = [each._replace(y=each.y + top) for each in flow.placed]
    for fragment in floats.stand(0.0, 0.0, content + floats.height):
        placed.append(Placed(-1, fragment, fragment.y, space, None, (0, 0), floating=True))
    resume = flow.resume
    if floats.waiting or (resume is not None and resume.waiting):
        resume = (resume or Resume(end))._replace(waiting=floats.waiting)
    return Flow(placed, content + floats.height, NONE if floats.placed else flow.margins, resume)


def _goes_on(row: Row) -> bool:
    """Whether the columns were too few; a forced break of the page ends a row as the content's end does."""
    return row.resume is not None and forced_kind(row.resume) in ("", "column")


def _next_spanner(box: ColumnsBox, start: int) -> int:
    """The index of the next child that spans all columns, or the number of children."""
    if box.spanners is None:
        box.spanners = [i for i, child in enumerate(box.children) if spans_columns(child)]
    places = box.spanners
    following = bisect_left(places, start)
    return places[following] if following < len(places) else len(box.children)


def _extent(flow: Flow) -> float:
    """The height of a column; a margin at its end counts where the content ends."""
    return flow.height + (max(0.0, flow.margins.size) if flow.resume is None else 0.0)


def columns_content_widths(box: ColumnsBox, context: Context) -> tuple[float, float]:
    least, most = block_content_widths(box, context)
    count, _, gap = used_columns(box.style, 0.0)
    if isinstance(box.style.column_count, int):
        count = box.style.column_count
    gaps = gap * (count - 1)
    if isinstance(box.style.column_width, float):
        return min(least, box.style.column_width), most * count + gaps
    return least * count + gaps, most * count + gaps
