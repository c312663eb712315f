"""Floats: boxes moved to the side, on as many pages as they need (CSS 2.2 §9.5, CSS Fragmentation 3 §4)."""

from __future__ import annotations

from typing import NamedTuple

from fleetquill.layout.block.replaced import used_size
from fleetquill.layout.boxes.boxes import Box, PictureBox
from fleetquill.layout.contract.dispatch import fit_content, layout, within_words
from fleetquill.layout.contract.float_space import FloatRect, FloatSpace, physical_side
from fleetquill.layout.contract.fragments import Fragment, reach
from fleetquill.layout.contract.resume import BrokenFloat, Resume
from fleetquill.layout.contract.sizing import edges_of, length_or_zero, margin_left_right, own_width
from fleetquill.layout.contract.space import SLACK, UNBOUNDED, Laid, Space


def is_float(box: Box) -> bool:
    return box.style.float != "none" and not box.is_item


def margin_box_width(box: Box, space: Space) -> float:
    """How much room a float takes across."""
    return _width(box, space) + sum(margin_left_right(box.style, space.width, None))


def _width(box: Box, space: Space) -> float:
    """The border box width of a float, which shrinks to fit (§10.3.5)."""
    style = box.style
    edges = edges_of(style, space.width)
    width = own_width(style, space.width, edges.across)
    if width is not None:
        return within_words(box, width, space.width, space.context)
    if isinstance(box, PictureBox):
        return used_size(box, space.width, space.height, edges)[0]
    room = space.width - sum(margin_left_right(style, space.width, None))
    return fit_content(box, room, space.width, space.context)


def lay_out_float(box: Box, space: Space, room: float = UNBOUNDED, resume: Resume | None = None) -> Laid:
    """A float, or as much of it as fits into that room."""
    inner = space._replace(
        room=room,
        at_top=room == UNBOUNDED or space.at_top,
        fixed_width=_width(box, space),
        fixed_height=None,
        floats=None,
    )
    return layout(box, inner, resume)


class _Stood(NamedTuple):
    """A whole float where it would stand, its lower edge, and how far what is in it reaches below that."""

    fragment: Fragment
    bottom: float
    over: float


def _stand(box: Box, space: Space, around: FloatSpace, y: float) -> _Stood:
    fragment = lay_out_float(box, space).fragment
    assert fragment is not None
    bottom = place_float(box, fragment, around, space.width, y)
    return _Stood(fragment, bottom, reach(fragment) - fragment.height if space.context.overflows else 0.0)


def set_whole_float(box: Box, space: Space, around: FloatSpace, y: float) -> Fragment | None:
    """Places a float at `y` or below, from the top of the content area; None where not all of it fits."""
    mark = around.floats.mark()
    fragment, bottom, over = _stand(box, space, around, y)
    if bottom + over <= space.room + SLACK:
        return fragment
    around.floats.back_to(mark)
    return None


def set_float(box: Box, space: Space, around: FloatSpace, y: float, *, at_top: bool) -> tuple[Fragment, float] | None:
    """Places a float at `y` or below, and gives it with its bottom edge, both from the top of the content area.

    None where it waits for the next page: it would fit there, or nothing of it fits here. One that is
    taller than a page, or that stands at the top of one with none above it, goes on on the next.
    """
    mark = around.floats.mark()
    fragment, bottom, over = _stand(box, space, around, y)
    if bottom + over <= space.room + SLACK:
        return fragment, bottom
    whole = around.floats.rects[-1]
    at_top = at_top and whole.top <= around.y + y + SLACK  # not moved down below others
    if not at_top and whole.bottom + over - whole.top <= space.page + SLACK:
        around.floats.back_to(mark)
        return None
    room = space.room - fragment.y
    laid = lay_out_float(box, space._replace(at_top=at_top), max(room, 0.0))
    part = laid.fragment
    if part is None or (laid.resume is None and not at_top):
        around.floats.back_to(mark)
        return None
    part.x, part.y = fragment.x, fragment.y
    if laid.resume is None:
        _remark_too_tall(box, space, part.height - room)
        return part, bottom
    around.floats.rects[-1] = whole._replace(bottom=around.y + fragment.y + part.height)
    around.floats.broken.append(BrokenFloat(box, laid.resume, whole.left_side, whole.left, whole.right - whole.left))
    return part, fragment.y + part.height


def go_on_with_floats(broken: tuple[BrokenFloat, ...], around: FloatSpace, space: Space) -> list[Fragment]:
    """The parts of floats that the page before has cut through, at the top of this one."""
    parts: list[Fragment] = []
    for cut in broken:
        laid = lay_out_float(cut.box, space, space.room, cut.resume)
        part = laid.fragment
        if part is None:
            around.floats.broken.append(cut)
            continue
        part.x = cut.left + margin_left_right(cut.box.style, space.width, None)[0]
        around.floats.rects.append(FloatRect(cut.left_side, cut.left, cut.left + cut.width, 0.0, part.height))
        parts.append(part)
        if laid.resume is not None:
            around.floats.broken.append(cut._replace(resume=laid.resume))
        elif part.height > space.room + SLACK:
            _remark_too_tall(cut.box, space, part.height - space.room)
    return parts


def _remark_too_tall(box: Box, space: Space, over: float) -> None:
    space.context.remark(
        "overflow", f"A float is {over * 0.75:.1f} pt taller than the page has room for and cannot be broken.",
        box.element,
    )  # fmt: skip


def place_float(box: Box, fragment: Fragment, around: FloatSpace, width: float, y: float) -> float:
    """Places a laid-out float in a content area `width` wide, at `y` or below; gives its bottom edge.

    `y` and the result are from the top of the content area; so is where the fragment is put.
    """
    style = box.style
    left, right = margin_left_right(style, width, None)
    top, bottom = length_or_zero(style.margin_top, width), length_or_zero(style.margin_bottom, width)
    if style.clear != "none":
        y = around.floats.below(style, y + around.y) - around.y
    left_side = physical_side(style.float, style) == "left"
    rect = around.floats.place(
        left_side,
        fragment.width + left + right,
        fragment.height + top + bottom,
        y + around.y,
        around.x,
        around.x + width,
    )
    fragment.x = rect.left - around.x + left
    fragment.y = rect.top - around.y + top
    return rect.bottom - around.y
