"""Positioned boxes: moved from their place, or taken out and placed by offsets (CSS Positioned Layout 3).

They are placed when the page around them is laid out: the containing block is known by then.
"""

from __future__ import annotations

from typing import Final, NamedTuple

from fleetquill.layout.block.ends import reach_down
from fleetquill.layout.block.replaced import used_size
from fleetquill.layout.boxes.boxes import Box, PictureBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import fit_content, layout, least_content_width, within_words
from fleetquill.layout.contract.fragments import AnchorFragment, Fragment, InlineFragment, LineFragment, StaticArea
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.sizing import (
    clamp_height,
    clamp_width,
    edges_of,
    length_or_zero,
    margin_left_right,
    own_height,
    own_width,
    relative_shift,
)
from fleetquill.layout.contract.space import SLACK, Space
from fleetquill.layout.pages.lost import has_text_below
from fleetquill.style.lengths import resolve_auto
from fleetquill.style.properties import ComputedStyle

LEAST_SCALE: Final = 0.1  # to which text is shrunk
LEAST_ROOM: Final = 1.0  # px of a page area in which a box begins
LONGEST_AREA: Final = 1e6  # px; a longer one is that of a roll, which has no next page


class Rect(NamedTuple):
    """Px from the page's top-left corner."""

    x: float
    y: float
    width: float
    height: float


class Containing(NamedTuple):
    """A containing block: its padding box, and the fragment that takes what is placed in it."""

    fragment: Fragment
    origin: tuple[float, float]  # of the fragment's border box
    rect: Rect


class GoingOn(NamedTuple):
    """A positioned box that goes on on the next page, or that only begins there: px from the page area's corner."""

    box: Box
    resume: Resume | None
    x: float
    y: float
    width: float | None
    height: float | None


def place_positioned(
    root: Fragment, area: Rect, fixed: list[Box], context: Context, page: Rect, carried: list[GoingOn]
) -> list[GoingOn]:
    """Places what is positioned in a part of a page, what is fixed, and what the page before has `carried` over;
    gives what this page carries over. `area` is the page area."""
    return _Placer(context, page, area).page(root, fixed, carried)


class _Placer:
    def __init__(self, context: Context, page: Rect, area: Rect) -> None:
        self.context = context
        self.page_rect = page
        self.area = area
        self.going_on: list[GoingOn] = []
        self.repeated = False  # what is placed stands on every page

    def page(self, root: Fragment, fixed: list[Box], carried: list[GoingOn]) -> list[GoingOn]:
        area = self.area
        around = Containing(root, (root.x, root.y), area)
        self._walk(root, 0.0, 0.0, around, area.width, area.height)
        self.repeated = True
        for box in fixed:
            self._place(box, around, area.x, area.y)
        self.repeated = False
        for part in carried:
            self._go_on(part, around)
        return self.going_on

    def _walk(
        self, fragment: Fragment, x: float, y: float, around: Containing, width: float, height: float | None
    ) -> None:
        """Settles a fragment and all in it; its parent's content area is `width` × `height`, its corner at (x, y)."""
        if fragment.settled:  # a fragment that stands on several pages is settled once
            return
        fragment.settled = True
        style = fragment.box.style
        if style.position == "relative":
            dx, dy = relative_shift(style, width, height)
            fragment.x += dx
            fragment.y += dy
            over = y + fragment.y + fragment.height - self.page_rect.height
            if 1 < over <= dy + 1 and fragment.children:
                message = f"A box that its offsets move reaches {over * 0.75:.1f} pt over the page."
                self.context.remark("overflow", message, fragment.box.element)
        x += fragment.x
        y += fragment.y
        if style.position != "static" or style.transform:
            around = Containing(fragment, (x, y), _padding_box(style, x, y, fragment.width, fragment.height))
        edges = edges_of(style, width)
        inner = fragment.width - edges.across
        inner_height = fragment.height - edges.down if isinstance(style.height, float) else None
        for child in list(fragment.children):
            if isinstance(child, LineFragment):
                self._line(child, x, y, around, inner)
            elif isinstance(child, AnchorFragment):
                self._anchor(child, x, y, around)
            elif not child.box.quiet:
                self._walk(child, x, y, around, inner, inner_height)

    def _line(self, line: LineFragment, x: float, y: float, around: Containing, width: float) -> None:
        x += line.x
        y += line.y
        for item in line.items:
            if not isinstance(item, Fragment):
                continue
            if not isinstance(item, AnchorFragment):
                self._walk(item, x, y, around, width, None)
                continue
            inside = self._inline_containing(line, item, x, y, around)
            self._anchor(item, x, y, inside)

    def _inline_containing(
        self, line: LineFragment, anchor: AnchorFragment, x: float, y: float, around: Containing
    ) -> Containing:
        """The nearest positioned inline box around an anchor, as far as it is on its line."""
        for box in reversed(anchor.around):
            if box.style.position == "static":
                continue
            for item in line.items:
                if isinstance(item, InlineFragment) and item.box is box:
                    rect = _padding_box(box.style, x + item.x, y + item.y, item.width, item.height)
                    return around._replace(rect=rect)
        return around

    def _anchor(self, anchor: AnchorFragment, x: float, y: float, around: Containing) -> None:
        box = anchor.box
        if box.kind == "absolute" and not anchor.settled:
            anchor.settled = True
            if anchor.containing is not None:
                left, top, width, height = anchor.containing
                around = around._replace(rect=Rect(x + left, y + top, width, height))
            self._place(box.target, around, x + anchor.x, y + anchor.y, anchor.area, from_right=anchor.from_right)

    def _place(
        self,
        box: Box,
        around: Containing,
        static_x: float,
        static_y: float,
        area: StaticArea | None = None,
        *,
        from_right: bool = False,
    ) -> None:
        """Lays a box out in its containing block (CSS 2.2 §10.3.7, §10.6.4)."""
        if box.style.fq_reference == "page":
            around = around._replace(rect=self.page_rect)
        if box.style.fq_fit == "shrink":
            self._shrink(box, around.rect)
        rect = around.rect
        style = box.style
        x, width = self._across(box, rect, rect.x + rect.width - static_x + rect.x if from_right else static_x)
        y, fragment = self._down(box, rect, static_y, width)
        fragment.x = x + self._margin(box, rect.width, fragment.width, ("left", "right")) - around.origin[0]
        fragment.y = (
            y + self._margin(box, rect.height, fragment.height, ("top", "bottom"), rect.width) - around.origin[1]
        )
        if from_right and style.left == style.right == "auto":
            margin = length_or_zero(style.margin_right, rect.width)
            fragment.x = static_x - margin - fragment.width - around.origin[0]
        given_both = style.left != "auto" != style.right
        auto_margins = "auto" in (style.margin_left, style.margin_right)
        from_end = given_both and not auto_margins and around.fragment.box.style.direction == "rtl"
        if from_end or (style.left == "auto" and style.right != "auto"):
            right = length_or_zero(style.right, rect.width)
            margin = length_or_zero(style.margin_right, rect.width)
            fragment.x = rect.x + rect.width - right - margin - fragment.width - around.origin[0]
        if style.top == "auto" and style.bottom != "auto":
            bottom = length_or_zero(style.bottom, rect.height)
            margin = length_or_zero(style.margin_bottom, rect.width)
            fragment.y = rect.y + rect.height - bottom - margin - fragment.height - around.origin[1]
        if area is not None:
            across, down = area.shares(style)
            if style.left == style.right == "auto":
                fragment.x += across * (area.width - fragment.width)
            if style.top == style.bottom == "auto":
                fragment.y += down * (area.height - fragment.height)
        if style.fq_anchor == "baseline" and fragment.baseline is not None:
            fragment.y -= fragment.baseline
        if style.fq_fit == "remark":
            self._remark_fit(box, fragment)
        if self._breaks(box, fragment, fragment.y + around.origin[1]):
            fragment.x += around.origin[0] - self.area.x
            fragment.y += around.origin[1] - self.area.y
            height = fragment.height if style.height != "auto" else None
            self._go_on(GoingOn(box, None, fragment.x, fragment.y, fragment.width, height), around)
            return
        if self._is_beside(fragment, fragment.x + around.origin[0]):
            message = "A box that stands beside the page, as menus do that screens slide in, is left out."
            self.context.remark_once("overflow", message, box.element)
            return
        around.fragment.children.append(fragment)
        self._remark_outside(box, fragment, around)
        inside = around._replace(fragment=fragment)
        self._walk(fragment, *around.origin, inside, rect.width, rect.height)

    def _is_beside(self, fragment: Fragment, left: float) -> bool:
        """Whether a box is wholly at a side of the page area, and more of it beside the paper than on it."""
        area, paper, right = self.area, self.page_rect, left + fragment.width
        style = fragment.box.style
        if style.transform or style.fq_reference == "page" or (area.x < right and left < area.x + area.width):
            return False
        seen = min(right, paper.x + paper.width) - max(left, paper.x)
        return 0 < seen < fragment.width / 2

    def _breaks(self, box: Box, fragment: Fragment, top: float) -> bool:
        """Whether a box whose fragment stands at `top` is broken: it, or text in it, leaves the paper, and not on
        purpose."""
        style = box.style
        if self.repeated or style.position != "absolute" or style.transform or style.fq_reference == "page":
            return False
        hangs = style.top == "auto" and style.bottom != "auto"
        if hangs or self.area.height >= LONGEST_AREA:
            return False
        paper = self.page_rect.height + 1
        return top + fragment.height > paper or has_text_below(fragment, top - fragment.y, paper)

    def _go_on(self, part: GoingOn, around: Containing) -> None:
        """This page's part of a positioned box that is broken."""
        area = self.area
        room = area.height - part.y
        if room < LEAST_ROOM:
            self.going_on.append(part._replace(y=part.y - area.height))
            return
        space = Space(
            self.context, area.width, area.height, room, area.height, at_top=part.y <= SLACK,
            fixed_width=part.width, fixed_height=part.height,
        )  # fmt: skip
        laid = layout(part.box, space, part.resume)
        fragment = laid.fragment
        if fragment is None:
            self.going_on.append(part._replace(y=0.0))
            return
        fragment.x, fragment.y = area.x + part.x - around.origin[0], area.y + part.y - around.origin[1]
        around.fragment.children.append(fragment)
        self._walk(fragment, *around.origin, around._replace(fragment=fragment), area.width, area.height)
        if laid.resume is not None:
            reach_down(fragment, room)
            self.going_on.append(part._replace(resume=laid.resume, y=0.0))

    def _across(self, box: Box, rect: Rect, static_x: float) -> tuple[float, float | None]:
        """Where the margin box starts, and the border box's width; None: what its own layout gives."""
        style = box.style
        left, right = resolve_auto(style.left, rect.width), resolve_auto(style.right, rect.width)
        margins = sum(margin_left_right(style, rect.width, None))
        x = rect.x + left if left is not None else static_x
        edges = edges_of(style, rect.width)
        if isinstance(box, PictureBox):
            return x, used_size(box, rect.width, rect.height, edges)[0]
        given = own_width(style, rect.width, edges.across)
        if given is not None:
            return x, within_words(box, given, rect.width, self.context)
        if left is not None and right is not None and style.width == "auto":
            fill = max(edges.across, rect.width - left - right - margins)
            return x, clamp_width(style, fill, rect.width, edges.across)
        room = (
            rect.x + rect.width - x if left is None and right is None else rect.width - (left or 0.0) - (right or 0.0)
        )
        return x, fit_content(box, room - margins, rect.width, self.context)

    def _down(self, box: Box, rect: Rect, static_y: float, width: float | None) -> tuple[float, Fragment]:
        style = box.style
        top, bottom = resolve_auto(style.top, rect.height), resolve_auto(style.bottom, rect.height)
        y = rect.y + top if top is not None else static_y
        edges = edges_of(style, rect.width)
        height = own_height(style, rect.height, edges.down)
        if isinstance(box, PictureBox):
            height = used_size(box, rect.width, rect.height, edges)[1]
        elif height is None and top is not None and bottom is not None:
            margins = length_or_zero(style.margin_top, rect.width) + length_or_zero(style.margin_bottom, rect.width)
            height = max(edges.down, rect.height - top - bottom - margins)
        if height is not None:
            height = clamp_height(style, height, rect.height, edges.down)
        space = Space(
            self.context, rect.width, rect.height, page=self.page_rect.height, fixed_width=width, fixed_height=height
        )
        fragment = layout(box, space, None).fragment
        assert fragment is not None
        return y, fragment

    def _margin(
        self, box: Box, basis: float, size: float, sides: tuple[str, str], margin_basis: float | None = None
    ) -> float:
        """The used margin before a box; auto ones share what both offsets and the size leave."""
        style = box.style
        before, after = (resolve_auto(getattr(style, f"margin_{s}"), margin_basis or basis) for s in sides)
        if before is not None:
            return before
        start, end = (resolve_auto(getattr(style, side), basis) for side in sides)
        if start is None or end is None:
            return 0.0
        spare = basis - start - end - size - (after or 0.0)
        return spare / 2 if after is None and spare > 0 else max(0.0, spare) if after is not None else 0.0

    def _shrink(self, box: Box, rect: Rect) -> None:
        """-fq-fit: shrink: the largest scale at which the content fits the box's width and height."""
        style = box.style
        edges = edges_of(style, rect.width)
        width = own_width(style, rect.width, edges.across)
        if width is None or style.kept.get("shrunk"):
            return
        height = own_height(style, rect.height, edges.down)
        high = 1.0
        if self._fits(box, width, height, rect, high):
            return
        low = LEAST_SCALE
        while high - low > 0.005:
            middle = (low + high) / 2
            if self._fits(box, width, height, rect, middle):
                low = middle
            else:
                high = middle
        values = dict(style.__dict__)
        values["width"] = (width - edges.across) / low if style.box_sizing == "content-box" else width / low
        if height is not None:
            values["height"] = (height - edges.down) / low if style.box_sizing == "content-box" else height / low
        values["transform"] = (*style.transform, (low, 0.0, 0.0, low, 0.0, 0.0))
        values["transform_origin"] = (0.0, 0.0)
        box.style = ComputedStyle(style.parent, values)
        box.style.kept["shrunk"] = True
        box.widths = None

    def _fits(self, box: Box, width: float, height: float | None, rect: Rect, scale: float) -> bool:
        if least_content_width(box, self.context) > width / scale + SLACK:
            return False
        if height is None:
            return True
        space = Space(self.context, rect.width, None, page=self.page_rect.height, fixed_width=width / scale)
        return _content_bottom(layout(box, space, None).fragment) <= height / scale + SLACK

    def _remark_fit(self, box: Box, fragment: Fragment) -> None:
        over = _content_bottom(fragment) - fragment.height
        if over > 0.5:
            self.context.remark(
                "overflow", f"What stands in this area is {over * 0.75:.1f} pt taller than it.", box.element
            )

    def _remark_outside(self, box: Box, fragment: Fragment, around: Containing) -> None:
        """A box that leaves its page has lost something."""
        if box.style.transform or box.style.fq_reference == "page":
            return  # moved on purpose, or as large as the page
        x, y = around.origin[0] + fragment.x, around.origin[1] + fragment.y
        page = self.page_rect
        over = max(y + fragment.height - page.height, x + fragment.width - page.width)
        if x + fragment.width > 0 and y + fragment.height > 0:  # else it is out of sight, on purpose
            over = max(over, -x, -y)
        if over > 1 and (fragment.children or isinstance(box, PictureBox)):
            self.context.remark(
                "overflow", f"A positioned box reaches {over * 0.75:.1f} pt over the page.", box.element
            )


def _content_bottom(fragment: Fragment | None) -> float:
    """How far what is in a fragment reaches down from its top edge."""
    if fragment is None:
        return 0.0
    return max((child.y + child.height for child in fragment.children), default=0.0)


def _padding_box(style: ComputedStyle, x: float, y: float, width: float, height: float) -> Rect:
    return Rect(
        x + style.border_left_width,
        y + style.border_top_width,
        max(0.0, width - style.border_left_width - style.border_right_width),
        max(0.0, height - style.border_top_width - style.border_bottom_width),
    )
