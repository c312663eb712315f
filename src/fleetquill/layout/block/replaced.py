"""Replaced elements: pictures with a size and a ratio of their own (CSS 2.2 §10.3.2, §10.6.2)."""

from __future__ import annotations

from typing import Final

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.pictures import Picture
from fleetquill.layout.block.ends import LEAST_PART
from fleetquill.layout.block.slices import LEAST_ROOM, slice_of
from fleetquill.layout.boxes.boxes import Box, FrameBox, MarkBox, PictureBox
from fleetquill.layout.contract.box_edges import box_edges
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.fragments import PictureFragment
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.sizing import (
    Edges,
    clamp_width,
    edges_of,
    limits,
    margin_left_right,
    own_height,
    own_width,
    to_border_box,
)
from fleetquill.layout.contract.space import Laid, Space
from fleetquill.style.lengths import resolve_auto
from fleetquill.style.properties import ComputedStyle

FALLBACK = (160.0, 120.0)  # px, for a picture that is not there and whose size nobody gave


def layout_picture(box: PictureBox, space: Space, resume: Resume | None) -> Laid:
    """A picture stands whole, on this page or on the next; only one that no page can hold is cut in slices."""
    edges = box_edges(box, space.width)
    width, height = settled_size(box, space, edges)
    fragment = PictureFragment(box, width, height, edges)
    _remark_coarse(box, width - edges.across, space.context)
    if resume is None and height <= space.room + LEAST_PART:
        return Laid(fragment, None)
    if not space.at_top and resume is None:
        return Laid(None, Resume())
    if space.room < LEAST_ROOM:
        return Laid(fragment, None)
    if resume is None:
        over = (height - space.room) * 0.75
        message = f"The picture is {over:.1f} pt taller than its page; it is cut in slices."
        space.context.remark("overflow", message, box.element)
    taken = 0.0 if resume is None else resume.taken
    part = slice_of(fragment, box, taken, space.room)
    return Laid(part, None if part.last else Resume(taken=taken + part.height))


def _remark_coarse(box: PictureBox, width: float, context: Context) -> None:
    """A picture that prints at less than 150 dpi shows its pixels; said once for each."""
    picture = box.picture
    if not isinstance(picture, Picture) or width < LEAST_SHOWN or box.remarked:
        return
    if max(picture.pixels) <= FEW_PIXELS:
        return
    dpi = picture.width / width * 96
    if dpi < COARSE:
        box.remarked = True
        context.remark_once(
            "picture", f"The picture prints at {dpi:.0f} dpi; below 150 its pixels can be seen.", box.element
        )


COARSE: Final = 149.5  # dpi
LEAST_SHOWN: Final = 24.0  # px of width below which nobody sees it
FEW_PIXELS: Final = 32  # of a picture that is drawn for its pixels


def natural_size(box: PictureBox) -> tuple[float, float]:
    """The picture's own size in px (one picture pixel is one px)."""
    return (box.picture.width, box.picture.height) if box.picture else FALLBACK


def ratio_of(box: Box) -> float:
    """The width of a box by its height, where it has a ratio of its own, or is given one; else 0."""
    automatic, given = box.style.aspect_ratio
    if given and not (automatic and isinstance(box, PictureBox) and box.picture):
        return given
    if not isinstance(box, PictureBox) or isinstance(box, (FrameBox, MarkBox)):
        return 0.0
    if isinstance(box.picture, Drawing) and box.picture.stretches:
        return 0.0
    width, height = natural_size(box)
    return width / height if height else 0.0


def settled_size(box: PictureBox, space: Space, edges: Edges) -> tuple[float, float]:
    """The border box; where one side was settled outside, the other keeps the ratio unless it is given."""
    width, height = used_size(box, space.width, space.height, edges)
    style, ratio = box.style, ratio_of(box)
    fixed_width, fixed_height = space.fixed_width, space.fixed_height
    follows = ratio and space.height_of(style, edges.down) is None
    if fixed_width is not None and fixed_height is None and follows and width != fixed_width:
        low, high = _vertical_limits(style, space.height, edges.down)
        height = max(low, min((fixed_width - edges.across) / ratio + edges.down, high))
    return width if fixed_width is None else fixed_width, height if fixed_height is None else fixed_height


def used_size(box: PictureBox, basis: float, containing_height: float | None, edges: Edges) -> tuple[float, float]:
    """The border box, from the size asked for, the ratio and the limits."""
    style = box.style
    natural_width, natural_height = natural_size(box)
    ratio = ratio_of(box)
    across, down = edges.across, edges.down
    width = own_width(style, basis, across)
    height = own_height(style, containing_height, down)
    if width is None and height is None:
        if fills(box) and basis:
            natural_width = max(0.0, basis - across - sum(margin_left_right(style, basis, None)))
            natural_height = natural_width / ratio if ratio else natural_height
        elif ratio:
            natural_height = natural_width / ratio
        return _keep_ratio(style, natural_width, natural_height, basis, containing_height, edges)
    narrow, wide = limits(style, basis, across)
    low, high = _vertical_limits(style, containing_height, down)
    if width is None and height is not None:
        height = max(low, min(height, high))
        width = (height - down) * ratio + across if ratio else natural_width + across
    width = max(narrow, min(width or 0.0, wide))
    if height is None:
        height = (width - across) / ratio + down if ratio else natural_height + down
    return width, max(low, min(height, high))


def fills(box: PictureBox) -> bool:
    """Whether a drawing has a ratio but no size of its own (CSS 2.2 §10.3.2): then it is as wide as it can be."""
    return isinstance(box.picture, Drawing) and box.picture.fills


def _vertical_limits(style: ComputedStyle, containing: float | None, down: float) -> tuple[float, float]:
    basis = containing if containing is not None else 0.0
    low = resolve_auto(style.min_height, basis)
    high = resolve_auto(style.max_height, basis)
    if containing is None and high is not None and not isinstance(style.max_height, float):
        high = None
    return (
        0.0 if low is None else to_border_box(style, low, down),
        float("inf") if high is None else to_border_box(style, high, down),
    )


def _keep_ratio(
    style: ComputedStyle, width: float, height: float, basis: float, containing: float | None, edges: Edges
) -> tuple[float, float]:
    """Limits that keep the ratio where they can (CSS 2.2 §10.4, the table of violations)."""
    narrow, wide = (limit - edges.across for limit in limits(style, basis, edges.across))
    low, high = (limit - edges.down for limit in _vertical_limits(style, containing, edges.down))
    if width > 0 and height > 0:
        shrink = min(1.0, wide / width, high / height)
        width, height = width * shrink, height * shrink
        grow = max(1.0, narrow / width if width else 1.0, low / height if height else 1.0)
        width, height = width * grow, height * grow
    width, height = max(narrow, min(width, wide)), max(low, min(height, high))
    return width + edges.across, height + edges.down


def picture_content_widths(box: PictureBox, _context: Context) -> tuple[float, float]:
    """The width that the picture has without a `width` of its own; nothing at the least where a share is asked for."""
    edges = edges_of(box.style, 0.0)
    height = own_height(box.style, None, edges.down)
    ratio = ratio_of(box)
    if height is not None and ratio:
        low, high = _vertical_limits(box.style, None, edges.down)
        width = (max(low, min(height, high)) - edges.down) * ratio
        width = clamp_width(box.style, width + edges.across, 0.0, edges.across)
    else:
        width, _ = _keep_ratio(box.style, *natural_size(box), 0.0, None, edges)
    if not isinstance(box.style.width, (float, str)) or not isinstance(box.style.max_width, (float, str)):
        natural = natural_size(box)[0]
        return 0.0, natural
    if fills(box) and not ratio:
        return 0.0, width - edges.across
    return width - edges.across, width - edges.across
