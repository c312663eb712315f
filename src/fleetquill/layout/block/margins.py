"""Margins that collapse (CSS 2.2 §8.3.1), worked out on the box tree before layout."""

from __future__ import annotations

from collections.abc import Callable
from math import inf
from typing import Final, NamedTuple

from fleetquill.layout.boxes.boxes import AnchorBox, Aside, BlockBox, Box, CellBox, FieldsetBox
from fleetquill.layout.contract.sizing import clamp_height, edges_of, length_or_zero, own_width
from fleetquill.layout.contract.space import SLACK, Space
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.style.properties import ComputedStyle


class Margins(NamedTuple):
    """Adjoining margins: the largest positive and the most negative of them."""

    positive: float = 0.0
    negative: float = 0.0

    def joined(self, other: Margins) -> Margins:
        return Margins(max(self.positive, other.positive), min(self.negative, other.negative))

    @property
    def size(self) -> float:
        return self.positive + self.negative


NONE: Final = Margins()


def _one(value: object, basis: float) -> Margins:
    size = length_or_zero(value, basis)
    return Margins(size, 0.0) if size >= 0 else Margins(0.0, size)


def is_in_flow(child: Box) -> bool:
    """Whether a child takes part in margin collapsing: all but floats and what is out of the flow."""
    return (child.style.float == "none" or child.is_item) and not isinstance(child, AnchorBox)


def is_root_of_context(box: Box) -> bool:
    """Whether the box establishes a block formatting context of its own."""
    if not isinstance(box, (BlockBox, LinesBox)) or isinstance(box, (CellBox, FieldsetBox)):
        return True
    return (
        box.style.overflow not in ("visible", "clip")
        or box.style.float != "none"
        or box.style.display in ("flow-root", "inline-block", "table-cell", "table-caption", "table", "inline-table")
        or box.is_item
    )


def _inner_width(box: Box, basis: float) -> float:
    style = box.style
    across = edges_of(style, basis).across
    width = own_width(style, basis, across)
    return max(0.0, (basis if width is None else width) - across)


def joins_top(box: Box, basis: float) -> bool:
    """Whether the box's top margin adjoins that of its first child."""
    return isinstance(box, BlockBox) and not is_root_of_context(box) and edges_of(box.style, basis).top == 0


def joins_bottom(box: Box, basis: float) -> bool:
    """Whether the box's bottom margin adjoins that of its last child."""
    return (
        isinstance(box, BlockBox)
        and not is_root_of_context(box)
        and edges_of(box.style, basis).bottom == 0
        and _hangs_on_content(box.style)
        and not box.style.aspect_ratio[1]
    )


def _hangs_on_content(style: ComputedStyle) -> bool:
    """Whether a box has no height of its own: a share of one that hangs on its content is none."""
    if style.height == "auto" or isinstance(style.height, float):
        return style.height == "auto"
    kept = style.kept.get("hangs on content")
    if kept is None:
        around = style.parent
        kept = style.kept["hangs on content"] = around is not None and _gives_no_height(around)
    return bool(kept)


def _gives_no_height(around: ComputedStyle) -> bool:
    """Whether shares of a box's height are shares of nothing: not so of the root, nor of what something else sizes."""
    return (
        around.parent is not None
        and around.display == around.parent.display == "block"
        and around.float == "none"
        and around.position == "static"
        and not around.aspect_ratio[1]
        and _hangs_on_content(around)
    )


def is_through(box: Box, basis: float) -> bool:
    """Whether the box's own top and bottom margins adjoin: it has no height and nothing in it but out of the flow."""
    if is_root_of_context(box):
        return False
    if box.through is None:
        box.through = _is_through(box, basis)
    return box.through


def _is_through(box: Box, basis: float) -> bool:
    style = box.style
    edges = edges_of(style, basis)
    if (
        edges.top
        or edges.bottom
        or style.aspect_ratio[1]
        or not (style.height == 0.0 or _hangs_on_content(style))
        or style.min_height not in ("auto", 0.0)
    ):
        return False
    if isinstance(box, LinesBox):
        return box.paragraph is not None and box.paragraph.is_empty and box.marker is None
    if box.marker is not None:
        return False
    inner = _inner_width(box, basis)
    floated = False
    for child in box.children:
        if not is_in_flow(child):
            floated = floated or not isinstance(child, AnchorBox)
            continue
        if (floated and child.style.clear != "none") or not is_through(child, inner):
            return False  # what clears floats has them above it
        floated = floated or aside_of(child).floats
    return True


def aside_of(box: Box) -> Aside:
    """What stands in a box whose own margins adjoin; it is laid out nevertheless where something does."""
    if box.aside is None:
        if isinstance(box, LinesBox) and box.paragraph is not None:
            box.aside = Aside(bool(box.paragraph.floats), False, bool(box.paragraph.anchors))
        else:
            within = [_aside_of_child(child) for child in box.children]
            box.aside = Aside(*map(any, zip(*within, strict=True))) if within else Aside()
    return box.aside


def _aside_of_child(child: Box) -> Aside:
    if not is_in_flow(child):
        anchor = isinstance(child, AnchorBox)
        return Aside(not anchor, False, anchor)
    within = aside_of(child)
    return within._replace(clears=within.clears or child.style.clear != "none")


def _kept(box: Box, side: str, basis: float, floated: bool, find: Callable[[Box, float, bool], Margins]) -> Margins:
    """Margins of a box, worked out once where they reach through it: each asks for both of those within."""
    if not box.children or not is_through(box, basis):
        return find(box, basis, floated)
    if box.adjoining is None:
        box.adjoining = {}
    key = (side, basis, floated)
    found = box.adjoining.get(key)
    if found is None:
        found = box.adjoining[key] = find(box, basis, floated)
    return Margins(*found)


def top_margins(box: Box, basis: float, floated: bool = False) -> Margins:
    """All margins that adjoin the box's top margin from within; `floated` says that floats stand before it."""
    return _kept(box, "top", basis, floated, _top_margins)


def bottom_margins(box: Box, basis: float) -> Margins:
    """All margins that adjoin the box's bottom margin from within."""
    return _kept(box, "bottom", basis, False, _bottom_margins)


def margins_below(box: Box, height: float, space: Space) -> Margins:
    """Those of a box that was laid out: where its limits made its height, what is in it keeps its own within."""
    style = box.style
    if style.max_height != "none" or style.min_height not in ("auto", 0.0):
        down = edges_of(style, space.width).down
        low, high = (clamp_height(style, limit, space.height, down) for limit in (down, inf))
        if height - low < SLACK or high - height < SLACK:
            return _one(style.margin_bottom, space.width)
    return bottom_margins(box, space.width)


def _top_margins(box: Box, basis: float, floated: bool) -> Margins:
    margins = _one(box.style.margin_top, basis)
    if joins_top(box, basis):
        inner = _inner_width(box, basis)
        for child in box.children:
            if not is_in_flow(child):
                floated = floated or not isinstance(child, AnchorBox)
                continue
            if floated and child.style.clear != "none":
                break  # clearance keeps margins apart
            margins = margins.joined(top_margins(child, inner, floated))
            if not is_through(child, inner):
                break
            aside = aside_of(child)
            if floated and aside.clears:
                break
            floated = floated or aside.floats
            margins = margins.joined(bottom_margins(child, inner))
    return margins


def _bottom_margins(box: Box, basis: float, _floated: bool) -> Margins:
    margins = _one(box.style.margin_bottom, basis)
    if joins_bottom(box, basis):
        inner = _inner_width(box, basis)
        for child in filter(is_in_flow, reversed(box.children)):
            margins = margins.joined(bottom_margins(child, inner))
            if not is_through(child, inner):
                break
            margins = margins.joined(top_margins(child, inner))
    return margins
