"""Used widths, heights, margins and edges of boxes (CSS 2.2 §8, §10)."""

from __future__ import annotations

from collections.abc import Iterable
from operator import add
from typing import NamedTuple

from fleetquill.style.lengths import Auto, Length, resolve, resolve_auto
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.text_values import ALIGNED_BLOCKS


class Edges(NamedTuple):
    """Border plus padding of each side, in px, the borders alone, and the sums of opposite sides."""

    top: float
    right: float
    bottom: float
    left: float
    border_top: float
    border_right: float
    border_bottom: float
    border_left: float
    across: float
    down: float


def edges(padding: Iterable[float], border: tuple[float, float, float, float]) -> Edges:
    """The edges of a box with these paddings and borders at its top, right, bottom and left."""
    top, right, bottom, left = map(add, padding, border)
    return Edges(top, right, bottom, left, *border, across=left + right, down=top + bottom)


def edges_of(style: ComputedStyle, basis: float) -> Edges:
    """The edges of a box whose containing block is `basis` px wide."""
    kept: Edges | None = style.kept.get("edges")
    if kept is not None:
        return kept
    pads = (style.padding_top, style.padding_right, style.padding_bottom, style.padding_left)
    borders = (style.border_top_width, style.border_right_width, style.border_bottom_width, style.border_left_width)
    found = edges([resolve(pad, basis) for pad in pads], borders)
    if all(isinstance(pad, float) for pad in pads):
        style.kept["edges"] = found
    return found


def to_border_box(style: ComputedStyle, size: float, edges_sum: float) -> float:
    """A `width` or `height` value as the size of the border box."""
    return max(size, edges_sum) if style.box_sizing == "border-box" else size + edges_sum


def limits(style: ComputedStyle, basis: float, across: float) -> tuple[float, float]:
    """The least and most that the border box may be wide."""
    low = resolve_auto(style.min_width, basis)
    high = resolve_auto(style.max_width, basis)
    return (
        across if low is None else to_border_box(style, low, across),
        float("inf") if high is None else to_border_box(style, high, across),
    )


def clamp_width(style: ComputedStyle, width: float, basis: float, across: float) -> float:
    low, high = limits(style, basis, across)
    return max(low, min(width, high))


def own_width(style: ComputedStyle, basis: float, across: float) -> float | None:
    """The border box width that `width` gives, within its limits; None for auto."""
    width = resolve_auto(style.width, basis)
    if width is None:
        if style.aspect_ratio[1] and isinstance(style.height, float):
            return clamp_width(style, _width_by_ratio(style, style.height, across), basis, across)
        return None
    return clamp_width(style, to_border_box(style, width, across), basis, across)


def _width_by_ratio(style: ComputedStyle, height: float, across: float) -> float:
    """The border box width that `aspect-ratio` gives for a definite height (CSS Sizing 4 §5.1)."""
    ratio = style.aspect_ratio[1]
    return max(across, height * ratio) if style.box_sizing == "border-box" else height * ratio + across


def height_by_ratio(style: ComputedStyle, width: float, edges: Edges) -> float | None:
    """The border box height that `aspect-ratio` gives for a used width; None where it gives none."""
    ratio = style.aspect_ratio[1]
    if not ratio or isinstance(style.height, float):
        return None
    if style.box_sizing == "border-box":
        return max(edges.down, width / ratio)
    return max(0.0, width - edges.across) / ratio + edges.down


def own_height(style: ComputedStyle, containing: float | None, down: float) -> float | None:
    """The border box height that `height` gives; None for auto or a percentage of nothing."""
    return _height(style, style.height, containing, down)


def _height(style: ComputedStyle, value: object, containing: float | None, down: float) -> float | None:
    if isinstance(value, str):
        return None
    if isinstance(value, float):
        return to_border_box(style, value, down)
    if containing is None:
        return None
    return to_border_box(style, resolve(value, containing), down)  # type: ignore[arg-type]


def clamp_height(style: ComputedStyle, height: float, containing: float | None, down: float) -> float:
    high = _height(style, style.max_height, containing, down)
    low = _height(style, style.min_height, containing, down)
    if high is not None:
        height = min(height, high)
    return height if low is None else max(low, height)


def fixed_margins(style: ComputedStyle) -> tuple[float, float] | None:
    """The side margins where they hang on nothing else; found once for a style."""
    kept: tuple[float, float] | str | None = style.kept.get("side margins")
    if kept is None:
        left, right = style.margin_left, style.margin_right
        fixed = isinstance(left, float) and isinstance(right, float) and _side_of(style) == "left"
        kept = (left, right) if fixed else "not fixed"  # type: ignore[assignment]
        style.kept["side margins"] = kept
    return None if isinstance(kept, str) else kept


def margin_left_right(style: ComputedStyle, basis: float, width: float | None) -> tuple[float, float]:
    """Used side margins of a block of that border box width (CSS 2.2 §10.3.3); None: width auto."""
    fixed = fixed_margins(style)
    if fixed is not None:
        return fixed
    left = resolve_auto(style.margin_left, basis)
    right = resolve_auto(style.margin_right, basis)
    if width is None:
        return left or 0.0, right or 0.0
    spare = basis - width - (left or 0.0) - (right or 0.0)
    if spare < 0 or (left is not None and right is not None):
        return _over_constrained(_side_of(style), left or 0.0, right or 0.0, spare)
    if left is None and right is None:
        return spare / 2, spare / 2
    return (spare, right or 0.0) if left is None else (left, spare)


def _side_of(style: ComputedStyle) -> str:
    """Where a block stands that leaves room beside it: at the start of its line, or as the box around aligns it."""
    around = style.parent
    if around is None:
        return "left"
    if around.text_align in ALIGNED_BLOCKS:
        return around.text_align.removeprefix("-fq-")
    return "left" if around.direction == "ltr" else "right"


def _over_constrained(side: str, left: float, right: float, spare: float) -> tuple[float, float]:
    """The margins of a block whose own do not fill what is there (CSS 2.2 §10.3.3; HTML §15.3.3, align descendants)."""
    if side == "center" and spare > 0:
        return left + spare / 2, right + spare / 2
    return (left + spare, right) if side == "right" else (left, right + spare)


def relative_shift(style: ComputedStyle, width: float, height: float | None) -> tuple[float, float]:
    """How far `position: relative` moves a box in a containing block of that size."""
    left, right = resolve_auto(style.left, width), resolve_auto(style.right, width)
    x = left if left is not None else -(right or 0.0)
    if left is not None and right is not None and (style.parent or style).direction == "rtl":
        x = -right
    top, bottom = _offset(style.top, height), _offset(style.bottom, height)
    return x, top if top is not None else -(bottom or 0.0)


def _offset(value: Length | Auto, height: float | None) -> float | None:
    """A vertical offset; a percentage of an unknown height is auto."""
    if height is None:
        return value if isinstance(value, float) else None
    return resolve_auto(value, height)


def length_or_zero(value: object, basis: float) -> float:
    """A margin or gap in px; a keyword, 'auto' or 'normal', counts as 0 (CSS 2.2 §10.6.3, CSS Align 3 §8.1)."""
    return 0.0 if isinstance(value, str) else resolve(value, basis)  # type: ignore[arg-type]
