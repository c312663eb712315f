"""Block layout: boxes one below the other, over as many pages as they need (CSS 2.2 §9.4.1)."""

from __future__ import annotations

from typing import NamedTuple

from fleetquill.layout.block import breaks
from fleetquill.layout.block.ends import end_box
from fleetquill.layout.block.fitting import fit_in_flow, shrink_to_page
from fleetquill.layout.block.floats import go_on_with_floats, is_float, set_float
from fleetquill.layout.block.margins import (
    NONE,
    Margins,
    aside_of,
    bottom_margins,
    is_in_flow,
    is_root_of_context,
    is_through,
    joins_bottom,
    joins_top,
    margins_below,
    top_margins,
)
from fleetquill.layout.boxes.boxes import AnchorBox, BlockBox, Box, PlaceBox
from fleetquill.layout.contract.box_edges import box_edges
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import content_widths, layout
from fleetquill.layout.contract.float_space import LEAST_BAND, Floats, FloatSpace
from fleetquill.layout.contract.fragments import AnchorFragment, Fragment, first_baseline
from fleetquill.layout.contract.resume import BrokenCells, Cut, Resume, unforced, within
from fleetquill.layout.contract.sizing import (
    edges_of,
    fixed_margins,
    margin_left_right,
    own_width,
)
from fleetquill.layout.contract.space import SLACK, UNBOUNDED, Laid, Space
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.layout.inline.inline_items import metrics_of
from fleetquill.layout.inline.lines import border_box_width, grid_within, paragraph_of, place_marker
from fleetquill.style.lengths import Relative


class Placed(NamedTuple):
    """A child that stands on this page: which, where, what went in and what came out."""

    child: int
    fragment: Fragment
    y: float
    space: Space
    resume: Resume | None
    mark: tuple[int, int]  # of the floats before it
    floating: bool = False


class Flow(NamedTuple):
    """Block-level children laid out one below the other."""

    placed: list[Placed]
    height: float
    margins: Margins  # after the last child, not part of the height
    resume: Resume | None


def layout_block(box: BlockBox, space: Space, resume: Resume | None) -> Laid:
    """A block container of blocks."""
    style = box.style
    edges = box_edges(box, space.width)
    width = border_box_width(box, space) if space.fixed_width is None else space.fixed_width
    inner = max(0.0, width - edges.across)
    clone = style.box_decoration_break == "clone"
    top = edges.top if resume is None or clone else 0.0
    below = edges.bottom if clone else 0.0
    height = space.known_height(style, width, edges)
    inner_space = Space(
        space.context,
        inner,
        None if height is None else max(0.0, height - edges.down),
        UNBOUNDED if space.cuts_off(style, height, resume) else space.room - top - below,
        space.page - edges.down,
        space.at_top,
        floats=None if space.floats is None or is_root_of_context(box) else space.floats.moved(edges.left, top),
        in_columns=space.in_columns,
        pages=space.pages,
        grid=grid_within(style, space, top),
    )
    joined = joins_top(box, space.width)
    flow = _flow_above_edge(box, inner_space, resume, joined=joined and resume is None, edge=edges.bottom - below)
    if flow is None:
        return Laid(None, resume or Resume())
    fragment = Fragment(box, width, 0.0)
    for placed in flow.placed:
        placed.fragment.x += edges.left
        placed.fragment.y = placed.y + top
        fragment.children.append(placed.fragment)
    fragment.first, fragment.last = resume is None, flow.resume is None
    fragment.baseline = first_baseline(fragment)
    content = flow.height
    if not joins_bottom(box, space.width) and flow.resume is None:
        left = max(0.0, inner_space.room - (edges.bottom - below) - content)  # the page's end cuts margins off (§5.2)
        content = max(0.0, content + min(flow.margins.size, left))
    if box.marker and flow.resume is None and not flow.height:  # a marker stands on a line
        content = max(content, sum(metrics_of(style, space.context.font(style))))
    laid = end_box(
        fragment, space, resume, flow.resume, top + content, below if flow.resume else edges.bottom,
        len(box.children),
    )  # fmt: skip
    if box.marker and fragment.first:
        place_marker(box.marker, fragment, space)
    return laid


def _flow_above_edge(box: BlockBox, space: Space, resume: Resume | None, *, joined: bool, edge: float) -> Flow | None:
    """The children of a box; where they end here but leave no room for its lower edge, the last go on below."""
    mark = space.floats.floats.mark() if space.floats is not None else (0, 0)
    flow = flow_children(box.children, space, resume, joined=joined)
    if flow is None or flow.resume is not None or edge <= 0 or flow.height + edge <= space.room + SLACK:
        return flow
    if space.floats is not None:
        space.floats.floats.back_to(mark)
    return flow_children(box.children, space._replace(room=space.room - edge), resume, joined=joined)


def flow_children(children: list[Box], space: Space, resume: Resume | None, *, joined: bool) -> Flow | None:
    """Lays out block-level siblings from `resume` on; None where nothing fits.

    `joined` says that the first child's top margin has been taken by the parent.
    """
    return _FlowRun(children, space, resume, joined).run()


class _FlowRun:
    """One pass over block-level siblings on one page."""

    def __init__(self, children: list[Box], space: Space, resume: Resume | None, joined: bool) -> None:
        self.children = children
        self.own_floats = space.floats is None
        self.around = FloatSpace(Floats(), 0.0, 0.0) if space.floats is None else space.floats
        self.space = space
        self.first = self.index = resume.at if resume else 0
        self.inner = within(resume)
        self.y = 0.0
        self.margins = NONE
        self.absorbed = joined
        self.cleared: float | None = None  # where a box of no height stands below floats, and nothing after it
        self.floated = False  # whether a float stands before what follows here
        self.truncated = resume is not None and not resume.forced  # margins at an unforced break go (§5.2)
        self.begins = resume is not None  # whether a page begins here
        self.placed: list[Placed] = []
        going_on = resume.floats if resume is not None and self.own_floats else ()
        for part in go_on_with_floats(going_on, self.around, space):
            self.placed.append(Placed(-1, part, 0.0, space, None, (0, 0), floating=True))
        self.goes_on = bool(going_on)  # whether floats of the page before stand here

    def run(self) -> Flow | None:
        first = self.first
        while self.index < len(self.children):
            child = self.children[self.index]
            if is_float(child):
                if not self._float(child):
                    return self._break()
                continue
            if isinstance(child, AnchorBox):
                self._anchor(child)
                continue
            if self.index > first and self.inner is None and self.space.room != UNBOUNDED:
                forced = breaks.forced_between(self._previous(first), child, self.space)
                if forced:
                    return self._flow(Resume(self._with_places(self.index, first), None, forced))
            if self.inner is None:
                if self.around.floats.go_on(child.style):  # it stands below them, on another page
                    return self._flow(Resume(self.index))
                _measure(child, self.space)
            if self.inner is None and is_through(child, self.space.width):
                stands = self._pass_through(child)
                if stands is None:
                    continue
                laid, gap = stands
            else:
                laid, gap = self._lay_out(child)
            if laid.fragment is None:
                return self._break()
            self.y += gap + laid.fragment.height
            if laid.resume is not None:
                self.margins = NONE
                return self._flow(Resume(self.index, laid.resume))
            self.absorbed = self.truncated = False
            self.cleared = None
            self.margins = margins_below(child, laid.fragment.height, self.space)
            self.inner = None
            self.index += 1
        return self._flow(None)

    def _flow(self, resume: Resume | None) -> Flow:
        height, margins = self.y, self.margins
        if self.cleared is not None:  # its margins do not join those of the box around it (§8.3.1)
            height, margins = max(height, self.cleared), NONE
        floats = self.around.floats
        if self.own_floats and floats.broken:
            resume = (resume or Resume(len(self.children)))._replace(floats=tuple(floats.broken))
        if self.own_floats and floats.rects:
            bottom = floats.bottom
            if bottom > height + margins.size:  # a context is as tall as its floats (CSS 2.2 §10.6.7)
                height, margins = bottom, NONE
        return Flow(self.placed, height, margins, resume)

    def _pass_through(self, child: Box) -> tuple[Laid, float] | None:
        """A box with nothing in flow: its margins join those around it. As `_lay_out` where it takes room nevertheless,
        for what it holds stands below floats, or goes on on the next page."""
        width, aside = self.space.width, aside_of(child)
        above = top_margins(child, width)
        own = above.joined(bottom_margins(child, width))
        margins = self.margins.joined(above if aside.clears and self.around.floats.rects else own)
        y = below = self.y if self.absorbed else self.y + margins.size
        if child.style.clear != "none" and self.around.floats.rects:
            below = self.around.floats.below(child.style, self.around.y + y) - self.around.y
        mark = self.around.floats.mark()
        laid = self._with_aside(child, below) if any(aside) else Laid(self._with_nothing(child), None)
        fragment = laid.fragment
        if fragment is None:
            self.around.floats.back_to(mark)
            return laid, below - self.y
        _place_across(child, fragment, self.space)
        _note_sides(fragment, width, self.space.context)
        self.placed.append(Placed(self.index, fragment, below, self.space, None, mark))
        self.floated = self.floated or aside.floats
        if laid.resume is not None or fragment.height:
            return laid, below - self.y
        self.margins = self.margins.joined(own)
        if below > y:  # clearance keeps its margins from those above (§8.3.1)
            self.y = below - above.size
            self.absorbed = self.truncated = False
            self.cleared = below
            self.margins = own
        self.index += 1
        return None

    def _with_nothing(self, child: Box) -> Fragment:
        return Fragment(child, max(0.0, border_box_width(child, self.space)), 0.0)

    def _with_aside(self, child: Box, y: float) -> Laid:
        """A box at `y` that holds what stands out of the flow, or clears floats, and nothing else."""
        width = max(0.0, border_box_width(child, self.space))
        left = (fixed_margins(child.style) or margin_left_right(child.style, self.space.width, width))[0]
        at_top = self.space.at_top and y <= SLACK and not any(p.fragment.height for p in self.placed)
        room, floats = self.space.room - y, self.around.moved(left, y)
        return layout(child, self.space._replace(room=room, at_top=at_top, floats=floats, grid=None), None)

    def _lay_out(self, child: Box) -> tuple[Laid, float]:
        """A child in flow, and the gap above it."""
        if child.style.fq_fit == "shrink":
            fit_in_flow(child, self.space)
        space, width = self.space, self.space.width
        above = top_margins(child, width, self.floated)
        cleared = self.floated and child.style.clear != "none"  # its margin has not been taken (§8.3.1)
        no_gap = (self.absorbed and not cleared) or self._is_cut_off(child) or self.inner is not None
        gap = 0.0 if no_gap else self.margins.joined(above).size
        in_flow = gap
        if child.style.clear != "none" and self.around.floats.rects:
            gap = self._cleared(child, gap)
        left_edge, available = 0.0, width
        floats = None
        if is_root_of_context(child):
            if self.around.floats.rects:
                gap, left_edge, available = self._beside_floats(child, gap)
        else:
            fixed = fixed_margins(child.style)
            left_margin = (fixed or margin_left_right(child.style, width, border_box_width(child, space)))[0]
            floats = self.around.moved(left_margin, self.y + gap)
        at_top = space.at_top and gap <= in_flow + SLACK and not any(p.fragment.height for p in self.placed)
        child_space = space._replace(width=available, room=space.room - self.y - gap, at_top=at_top, floats=floats)
        if available != width and isinstance(child.style.width, Relative):  # of the block, not of what floats leave
            across = edges_of(child.style, width).across
            child_space = child_space._replace(fixed_width=own_width(child.style, width, across))
        if space.grid is not None:
            child_space = child_space._replace(grid=space.grid.moved(self.y + gap))
        mark = self.around.floats.mark()
        laid = _lay_out_child(child, child_space, self.inner)
        if laid.fragment is None:
            self.around.floats.back_to(mark)
        else:
            _place_across(child, laid.fragment, child_space)
            laid.fragment.x += left_edge
            _note_sides(laid.fragment, width, space.context)
            self.placed.append(Placed(self.index, laid.fragment, self.y + gap, child_space, self.inner, mark))
        return laid, gap

    def _cleared(self, child: Box, gap: float) -> float:
        """The gap above a box that `clear` moves below floats (CSS 2.2 §9.5.2).

        A first child would take its parent, and the floats with it, down by its margin: it always stands below them.
        """
        top = self.around.y + self.y
        below = self.around.floats.below(child.style, top)
        if self.absorbed and below > top:
            return below - top
        return max(below - top, gap)

    def _is_cut_off(self, child: Box) -> bool:
        """Whether the margin above a child is lost at the page's top (CSS Fragmentation 4 §5.2)."""
        kept = child.style.margin_break
        if kept == "auto":
            return self.truncated
        return kept == "discard" and self.begins and not any(p.fragment.height for p in self.placed)

    def _beside_floats(self, child: Box, gap: float) -> tuple[float, float, float]:
        """Where a box that must not overlap floats stands (§9.5): gap, left edge, width."""
        width = self.space.width
        across = edges_of(child.style, width).across
        needed = own_width(child.style, width, across)
        if needed is None:
            needed = content_widths(child, self.space.context)[0]
            needed = max(needed, _settled_width(child, self.inner, width))
        around = self.around
        before, after = margin_left_right(child.style, width, None)
        start, stop = around.x + before, around.x + width - after  # margins may lie over floats, borders may not
        top, left, right = around.floats.find(needed, LEAST_BAND, around.y + self.y + gap, start, stop)
        return top - around.y - self.y, left - start, right - left + before + after

    def _float(self, child: Box) -> bool:
        """A float among blocks; False where it must wait for the next page."""
        y = self.y + (0.0 if self.absorbed else self.margins.size)
        at_top = self.space.at_top and not any(p.fragment.height for p in self.placed)
        mark = self.around.floats.mark()
        placed = set_float(child, self.space, self.around, y, at_top=at_top)
        if placed is None:
            return False
        fragment, _ = placed
        _note_sides(fragment, self.space.width, self.space.context)
        self.placed.append(Placed(self.index, fragment, fragment.y, self.space, None, mark, floating=True))
        self.index += 1
        self.floated = True
        return True

    def _anchor(self, child: AnchorBox) -> None:
        """What was taken out of the flow leaves a point where it stood."""
        fragment = AnchorFragment(child)
        fragment.x = self.space.width if fragment.from_right else 0.0
        y = self.y + (0.0 if self.absorbed else self.margins.size)
        fragment.y = y
        self.placed.append(Placed(self.index, fragment, y, self.space, None, self.around.floats.mark(), floating=True))
        self.index += 1

    def _previous(self, first: int) -> Box | None:
        """The sibling before the one at hand that is in flow, on this page."""
        for index in range(self.index - 1, first - 1, -1):
            if not isinstance(self.children[index], AnchorBox):
                return self.children[index]
        return None

    def _has_only_floats(self) -> bool:
        """Whether nothing but floats stands on this page, of which one goes on or was at its top."""
        if self.goes_on:
            return all(placed.child < 0 for placed in self.placed)
        begun = any(placed.fragment.height for placed in self.placed)
        return self.space.at_top and begun and all(placed.floating for placed in self.placed)

    def _with_places(self, index: int, first: int) -> int:
        """Where the next page begins when `index` does: what bears a name and nothing else goes with what follows."""
        start = index
        while start - 1 > first and isinstance(self.children[start - 1], PlaceBox):
            start -= 1
        self.placed = [placed for placed in self.placed if placed.child < start]
        return start

    def _break(self) -> Flow | None:
        """The child at hand does not fit: it goes on where it would have gone on here."""
        inner = unforced(self.inner)
        if self._has_only_floats():
            return self._flow(Resume(self.index, inner))  # without them it will have more room
        flow = _break_before(self.children, self.placed, self.index, inner, self.space, self.around.floats)
        if flow is None:
            return None
        self.placed, self.y, self.margins, resume = flow
        if resume is not None and resume.inner is None:
            resume = resume._replace(at=self._with_places(resume.at, self.first))
        return self._flow(resume)


def _note_sides(fragment: Fragment, width: float, context: Context) -> None:
    """Notes that something reaches over the sides of what it stands in: the page is looked over then."""
    if fragment.x < -SLACK or fragment.x + fragment.width > width + SLACK:
        context.reaches_out = True


def _settled_width(box: Box, resume: Resume | None, width: float) -> float:
    """The least width of a border box that goes on: containers and cut rows keep the width that they began with."""
    if resume is None:
        return 0.0
    if isinstance(resume.inner, Cut):
        return resume.inner.size[0] - sum(margin_left_right(box.style, width, None))
    if isinstance(resume.inner, BrokenCells):
        return resume.inner.width
    inner = within(resume)
    if inner is None or resume.at >= len(box.children):
        return 0.0
    across = edges_of(box.style, width).across
    return across + _settled_width(box.children[resume.at], inner, width)


def _measure(child: Box, space: Space) -> None:
    """Whether an inline context is empty is known once its paragraph is there."""
    if isinstance(child, LinesBox):
        paragraph_of(child, space.context)
    elif type(child) is BlockBox:
        for inner in filter(is_in_flow, child.children):
            _measure(inner, space)
            if not is_through(inner, space.width):
                break


def _lay_out_child(child: Box, space: Space, inner: Resume | None) -> Laid:
    """A child's layout, with `break-inside: avoid` kept where a page can hold the box."""
    laid = layout(child, space, inner)
    if child.shrinks and shrink_to_page(child, space):
        laid = layout(child, space, inner)
    fragment = laid.fragment
    if fragment is None:
        return laid
    cut = laid.resume is not None and not laid.resume.forced
    if cut and breaks.avoided_inside(child, in_columns=space.in_columns):
        if not space.at_top:
            return Laid(None, inner)
        if inner is None:
            space.context.remark("break", "The box asks not to be broken but is taller than its page.", child.element)
    if not space.at_top and laid.resume is None and fragment.height > space.room + SLACK and inner is None:
        return Laid(None, inner)
    if space.at_top and laid.resume is None and fragment.height > space.room + SLACK and not child.children:
        over = (fragment.height - space.room) * 0.75
        space.context.remark("overflow", f"The box is {over:.1f} pt taller than the page has room for.", child.element)
    return laid


def _place_across(child: Box, fragment: Fragment, space: Space) -> None:
    left, _ = margin_left_right(child.style, space.width, fragment.width)
    fragment.x = left


def _break_before(
    children: list[Box], placed: list[Placed], index: int, inner: Resume | None, space: Space, floats: Floats
) -> Flow | None:
    """The child at `index` does not fit: ends the page at the last place where a break is welcome."""
    if not placed:
        return None
    kept = [p for p in placed if not p.floating]
    floating = [p for p in placed if p.floating]
    following = index
    columns = space.in_columns
    while kept and inner is None and _is_held(children, kept, following, columns):
        last = kept[-1]
        floats.back_to(last.mark)
        shorter = last.space._replace(room=last.fragment.height - 2 * SLACK, at_top=False)
        laid = layout(children[last.child], shorter, last.resume) if last.fragment.height else Laid(None, None)
        whole = breaks.avoided_inside(children[last.child], in_columns=columns)
        if laid.fragment is not None and laid.resume is not None and not whole:
            _place_across(children[last.child], laid.fragment, space)
            kept[-1] = last._replace(fragment=laid.fragment)
            stay = [p for p in floating if p.child < last.child]
            return Flow([*stay, *kept], last.y + laid.fragment.height, NONE, Resume(last.child, laid.resume))
        floats.back_to(last.mark)
        kept.pop()
        following = last.child
        inner = last.resume
    if kept:
        end = kept[-1].y + kept[-1].fragment.height
        stay = [p for p in floating if p.child < following]
        return Flow([*stay, *kept], end, NONE, Resume(following, inner))
    if not space.at_top:
        return None
    space.context.remark(
        "break", "No break that the document allows leaves room here; one was made all the same.",
        children[index].element,
    )  # fmt: skip
    end = placed[-1].y + placed[-1].fragment.height
    return Flow(placed, end, NONE, Resume(index))


def _is_held(children: list[Box], kept: list[Placed], following: int, columns: int) -> bool:
    """Whether no break is welcome before a child. Lines in which nothing stands are as good as not there (CSS 2.2
    §9.4.2): what counts is what stands before them."""
    at = len(kept) - 1
    while at and isinstance(children[kept[at].child], LinesBox) and not kept[at].fragment.height:
        at -= 1
    return breaks.avoided_between(children[kept[at].child], children[following], in_columns=columns)


def block_content_widths(box: Box, context: Context) -> tuple[float, float]:
    """The widest of the children, floats beside one another (CSS Sizing 3 §5.1)."""
    least = most = floating = 0.0
    for child in box.children:
        narrow, wide = content_widths(child, context)
        margins = sum(margin_left_right(child.style, 0.0, None))
        least = max(least, narrow + margins)
        wide += margins
        if is_float(child):
            floating = wide if child.style.clear != "none" else floating + wide
        elif not isinstance(child, AnchorBox):
            wide += floating if is_root_of_context(child) else 0.0
            most = max(most, floating)
            floating = 0.0
        most = max(most, wide, floating)
    return least, most
