"""Block layout: boxes one below the other, over as many pages as they need (CSS 2.2 §9.4.1)."""

from __future__ import annotations

from typing import NamedTuple

from fleetquill.layout import breaks
from fleetquill.layout.boxes import BlockBox, Box, LinesBox
from fleetquill.layout.context import Context
from fleetquill.layout.dispatch import content_widths, layout
from fleetquill.layout.fragments import Fragment, LineFragment
from fleetquill.layout.lines import border_box_width, paragraph_of, place_marker
from fleetquill.layout.margins import (
    NONE,
    Margins,
    bottom_margins,
    is_through,
    joins_bottom,
    joins_top,
    top_margins,
)
from fleetquill.layout.sizing import clamp_height, edges_of, margin_left_right, own_height
from fleetquill.layout.space import SLACK, UNBOUNDED, Laid, Resume, Space


class Placed(NamedTuple):
    """A child that stands on this page: which, where, what went in and what came out."""

    child: int
    fragment: Fragment
    y: float
    space: Space
    resume: Resume | None


class Flow(NamedTuple):
    """Block-level children laid out one below the other."""

    placed: list[Placed]
    height: float
    margins: Margins  # after the last child, not part of the height
    resume: Resume | None


def layout_block(box: BlockBox, space: Space, resume: Resume | None) -> Laid:
    """A block container of blocks."""
    style = box.style
    edges = edges_of(style, space.width)
    width = border_box_width(box, space) if space.fixed_width is None else space.fixed_width
    inner = max(0.0, width - edges.across)
    top = edges.top if resume is None else 0.0
    height = own_height(style, space.height, edges.down) if space.fixed_height is None else space.fixed_height
    inner_space = Space(
        space.context,
        inner,
        None if height is None else max(0.0, height - edges.down),
        space.room - top - edges.bottom,
        space.page - edges.down,
        space.at_top,
    )
    joined = joins_top(box, space.width)
    flow = flow_children(box.children, inner_space, resume, joined=joined and resume is None)
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
        content = max(0.0, content + flow.margins.size)
    fragment.height = _border_box_height(box, space, height, top, content, edges.bottom, fragment)
    if box.marker and fragment.first:
        place_marker(box.marker, fragment, space)
    return Laid(fragment, flow.resume)


def _border_box_height(
    box: Box, space: Space, given: float | None, top: float, content: float, bottom: float, fragment: Fragment
) -> float:
    if not fragment.last:
        return top + content
    natural = top + content + bottom
    if not fragment.first:
        return natural
    if space.fixed_height is not None:
        return space.fixed_height
    return clamp_height(box.style, natural if given is None else given, space.height, top + bottom)


def first_baseline(fragment: Fragment) -> float | None:
    """The baseline of the first line in a fragment, from its top."""
    for child in fragment.children:
        if isinstance(child, LineFragment):
            return child.y + child.baseline
        if child.baseline is not None:
            return child.y + child.baseline
    return None


def flow_children(children: list[Box], space: Space, resume: Resume | None, *, joined: bool) -> Flow | None:
    """Lays out block-level siblings from `resume` on; None where nothing fits.

    `joined` says that the first child's top margin has been taken by the parent.
    """
    index = resume.at if resume else 0
    inner = resume.inner if resume else None
    first = index
    y = 0.0
    margins = NONE
    absorbed = joined
    truncated = resume is not None and not resume.forced  # margins at an unforced break go (§5.2)
    placed: list[Placed] = []
    while index < len(children):
        child = children[index]
        if index > first and inner is None:
            forced = breaks.forced_between(children[index - 1], child)
            if forced and space.room != UNBOUNDED:
                return Flow(placed, y, margins, Resume(index, None, forced))
        _measure(child, space)
        above = top_margins(child, space.width)
        if inner is None and is_through(child, space.width):
            margins = margins.joined(above).joined(bottom_margins(child, space.width))
            if not absorbed:
                placed.append(_place_empty(child, space, index, y + margins.size))
            index += 1
            continue
        gap = 0.0 if absorbed or truncated or inner is not None else margins.joined(above).size
        at_top = space.at_top and not any(p.fragment.height for p in placed)
        child_space = space._replace(room=space.room - y - gap, at_top=at_top)
        laid = _lay_out_child(child, child_space, inner)
        if laid.fragment is None:
            return _break_before(children, placed, index, inner, space)
        _place_across(child, laid.fragment, space)
        placed.append(Placed(index, laid.fragment, y + gap, child_space, inner))
        y += gap + laid.fragment.height
        if laid.resume is not None:
            return Flow(placed, y, NONE, Resume(index, laid.resume))
        absorbed = truncated = False
        margins = bottom_margins(child, space.width)
        inner = None
        index += 1
    return Flow(placed, y, margins, None)


def _measure(child: Box, space: Space) -> None:
    """Whether an inline context is empty is known once its paragraph is there."""
    if isinstance(child, LinesBox):
        paragraph_of(child, space.context)
    elif type(child) is BlockBox:
        for inner in child.children:
            _measure(inner, space)
            if not is_through(inner, space.width):
                break


def _lay_out_child(child: Box, space: Space, inner: Resume | None) -> Laid:
    """A child's layout, with `break-inside: avoid` kept where a page can hold the box."""
    laid = layout(child, space, inner)
    fragment = laid.fragment
    if fragment is None:
        return laid
    cut = laid.resume is not None and not laid.resume.forced
    if cut and breaks.avoided_inside(child):
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


def _place_empty(child: Box, space: Space, index: int, y: float) -> Placed:
    fragment = Fragment(child, max(0.0, space.width), 0.0)
    return Placed(index, fragment, y, space, None)


def _break_before(
    children: list[Box], placed: list[Placed], index: int, inner: Resume | None, space: Space
) -> Flow | None:
    """The child at `index` does not fit: ends the page at the last place where a break is welcome."""
    if not placed:
        return None
    kept = list(placed)
    following = index
    while kept and inner is None and breaks.avoided_between(children[kept[-1].child], children[following]):
        last = kept[-1]
        shorter = last.space._replace(room=last.fragment.height - 2 * SLACK, at_top=False)
        laid = layout(children[last.child], shorter, last.resume) if last.fragment.height else Laid(None, None)
        if laid.fragment is not None and laid.resume is not None and not breaks.avoided_inside(children[last.child]):
            _place_across(children[last.child], laid.fragment, space)
            kept[-1] = last._replace(fragment=laid.fragment)
            return Flow(kept, last.y + laid.fragment.height, NONE, Resume(last.child, laid.resume))
        kept.pop()
        following = last.child
        inner = last.resume
    if kept:
        end = kept[-1].y + kept[-1].fragment.height
        return Flow(kept, end, NONE, Resume(following, inner))
    if not space.at_top:
        return None
    space.context.remark(
        "break", "No break that the document allows leaves room here; one was made all the same.",
        children[index].element,
    )  # fmt: skip
    end = placed[-1].y + placed[-1].fragment.height
    return Flow(placed, end, NONE, Resume(index))


def block_content_widths(box: Box, context: Context) -> tuple[float, float]:
    """The widest of the children (CSS Sizing 3 §5.1)."""
    least = most = 0.0
    for child in box.children:
        narrow, wide = content_widths(child, context)
        left, right = margin_left_right(child.style, 0.0, None)
        least = max(least, narrow + left + right)
        most = max(most, wide + left + right)
    return least, most
