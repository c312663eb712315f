"""How tall the part of a box is that stands on one page, and whether the box goes on (CSS Fragmentation 3 §5)."""

from __future__ import annotations

from typing import Final

from fleetquill.layout.boxes.boxes import CellBox
from fleetquill.layout.contract.fragments import ColumnsFragment, Fragment
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.sizing import clamp_height, edges_of, height_by_ratio
from fleetquill.layout.contract.space import UNBOUNDED, Laid, Space
from fleetquill.layout.table.measures import TableFragment

LEAST_PART: Final = 0.5  # px that a box must still ask for, to go on on a page with nothing in it


def end_box(
    fragment: Fragment,
    space: Space,
    resume: Resume | None,
    goes_on: Resume | None,
    content: float,
    edge: float,
    end: int,
) -> Laid:
    """Settles the height of this part of a box, whose content with the edge above it is `content` px tall.

    `goes_on` is where the content goes on; `edge` stands below the content here. A box whose own height,
    or the one that was settled outside, is more than its content and the page goes on, past its `end`.
    """
    fragment.first = resume is None
    taken = 0.0 if resume is None else resume.taken
    cuts_off = fragment.box.style.overflow != "visible"
    if goes_on is not None and cuts_off:
        rest = full_height(fragment, space, UNBOUNDED) - taken
        if rest <= space.room + LEAST_PART:  # the box ends here, and what more there is in it is not shown
            fragment.height = rest
            fragment.cut = space.context.overflows = True
            return Laid(fragment, None)
    if goes_on is None:
        rest = full_height(fragment, space, taken + content + edge) - taken
        if resume is not None and not cuts_off:
            rest = max(rest, content + edge)
        if rest <= max(space.room, content + edge) + LEAST_PART:
            fragment.height = rest
            if rest < content + edge - LEAST_PART:
                space.context.overflows = True
            return Laid(fragment, None)
        if resume is None and not space.at_top and space.room < LEAST_PART:
            return Laid(None, Resume())
        goes_on = Resume(end)
        fragment.height = space.room
    else:
        fragment.height = content + edge
    fragment.last = False
    used = fragment.height if space.room == UNBOUNDED else space.room
    return Laid(fragment, goes_on._replace(taken=taken + used))


def full_height(fragment: Fragment, space: Space, natural: float) -> float:
    """The border box height of a whole box of which this is a part and whose content asks for `natural`."""
    if space.fixed_height is not None:
        return space.fixed_height
    style = fragment.box.style
    edges = edges_of(style, space.width)
    given = space.height_of(style, edges.down)
    if given is None:
        by_ratio = height_by_ratio(style, fragment.width, edges)
        grows = style.min_height == "auto" and style.overflow in ("visible", "clip")  # CSS Sizing 4 §5.1.2
        given = natural if by_ratio is None else max(natural, by_ratio) if grows else by_ratio
    return clamp_height(style, given, space.height, edges.down)


def reach_down(fragment: Fragment, height: float) -> None:
    """Makes the parts of boxes that go on reach down to the end of their page or column (§5.4).

    `height` is how far that is from the top of the fragment, which goes on there itself.
    """
    fragment.height = max(fragment.height, height)
    if isinstance(fragment, ColumnsFragment):
        return  # its columns have ends of their own
    style = fragment.box.style
    if style.box_decoration_break == "clone":
        height -= edges_of(style, fragment.width if fragment.box.basis is None else fragment.box.basis).bottom
    for child in fragment.children:
        if isinstance(child, Fragment) and not child.last:
            if isinstance(child, TableFragment):
                _reach_down_in_cells(child)
            else:
                reach_down(child, height - child.y)


def _reach_down_in_cells(fragment: Fragment) -> None:
    """The cells of a broken row are as tall as it is; what goes on in them reaches down to their ends."""
    for child in fragment.children:
        if isinstance(child, Fragment):
            if isinstance(child.box, CellBox):
                if not child.last:
                    reach_down(child, child.height)
            else:
                _reach_down_in_cells(child)
