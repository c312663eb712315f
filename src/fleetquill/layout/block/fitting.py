"""Boxes in flow that are made smaller until they fit (-fq-fit: shrink): type, padding and space together."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from fleetquill.layout.boxes.boxes import AnchorBox, Box
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import layout, least_content_width
from fleetquill.layout.contract.sizing import edges_of, margin_left_right, own_height, own_width
from fleetquill.layout.contract.space import SLACK, Space
from fleetquill.style.lengths import Choice, Length, Relative
from fleetquill.style.properties import ComputedStyle

LEAST: Final = 0.5  # of its size, to which a box is made smaller
NEAR: Final = 0.005  # how near the largest scale that fits is found
SCALED: Final = (
    "font_size", "line_height", "letter_spacing", "word_spacing", "text_indent", "tab_size", "vertical_align",
    "text_underline_offset", "text_decoration_thickness", "border_spacing", "row_gap", "column_gap", "column_width",
    "flex_basis", "top", "right", "bottom", "left", "width", "height", "min_width", "min_height", "max_width",
    "max_height", "margin_top", "margin_right", "margin_bottom", "margin_left", "padding_top", "padding_right",
    "padding_bottom", "padding_left", "border_top_left_radius", "border_top_right_radius",
    "border_bottom_left_radius", "border_bottom_right_radius",
)  # fmt: skip


class Fitting:
    """A box and all that stands in it, at any scale of what their styles say. Borders keep their width."""

    def __init__(self, box: Box) -> None:
        self.box = box
        self.styles = [(inner, inner.style) for inner in _with_all_inside(box)]

    def fit(self, space: Space) -> None:
        """Settles the largest scale at which the box fits, or the least that there is."""
        low, high = LEAST, 1.0
        if self._fits(space):
            return
        while high - low > NEAR:
            middle = (low + high) / 2
            self._take(middle, space.context)
            if self._fits(space):
                low = middle
            else:
                high = middle
        self._take(low, space.context)

    def _fits(self, space: Space) -> bool:
        """Whether its content is no wider than the box may be, and no taller than it is asked to be."""
        box, style = self.box, self.box.style
        edges = edges_of(style, space.width)
        least = max(least_content_width(box, space.context), own_width(style, space.width, edges.across) or 0.0)
        if least + sum(margin_left_right(style, space.width, None)) > space.width + SLACK:
            return False
        height = own_height(self.styles[0][1], space.height, edges.down)
        if height is None:
            return True
        style_of_content = ComputedStyle(style.parent, {**style.__dict__, "height": "auto", "min_height": "auto"})
        box.style = style_of_content
        whole = layout(box, Space(space.context, space.width), None).fragment
        box.style = style
        return whole is None or whole.height <= height + SLACK

    def _take(self, scale: float, context: Context) -> None:
        made: dict[ComputedStyle, ComputedStyle] = {}
        for box, style in self.styles:
            smaller = made.get(style)
            if smaller is None:
                smaller = made[style] = _smaller(style, scale)
            box.style = smaller
            box.forget()
            context.sizes.pop(box, None)
        box, style = self.styles[0]
        if style.height != box.style.height:  # the height that is asked for stays
            box.style = ComputedStyle(style.parent, {**box.style.__dict__, "height": style.height})


def shrink_to_page(box: Box, space: Space) -> bool:
    """Makes a table smaller whose layout has shown that it would run off the page; whether it did."""
    context = space.context
    if box.element not in context.overwide or box in context.fitted:
        return False
    context.quiet += 1
    fit_in_flow(box, space)
    context.quiet -= 1
    return True


def fit_in_flow(box: Box, space: Space) -> None:
    """Makes a box smaller that asks for it and is too wide, or too tall for its own height; once for each box."""
    if box not in space.context.fitted:
        space.context.fitted.add(box)
        space.context.shrinking = box.style.fq_fit == "shrink"
        Fitting(box).fit(space)
        space.context.shrinking = False


def _with_all_inside(box: Box) -> Iterator[Box]:
    """A box and all in it, with markers and columns, but for what stands elsewhere on the page."""
    yield box
    if isinstance(box, AnchorBox) and box.kind in ("footnote", "running"):
        return
    for child in (*box.inside, *([box.marker] if box.marker is not None else ())):
        yield from _with_all_inside(child)


def _smaller(style: ComputedStyle, scale: float) -> ComputedStyle:
    values = dict(style.__dict__)
    for name in SCALED:
        values[name] = _scaled(getattr(style, name), scale)
    return ComputedStyle(style.parent, values)


def _scaled(value: Any, scale: float) -> Any:
    """A length, or several, as that part of itself; what is no length stays."""
    if isinstance(value, float):
        return value * scale
    if isinstance(value, (Relative, Choice)):
        return _scaled_length(value, scale)
    if type(value) is tuple:
        return tuple(_scaled(part, scale) for part in value)
    return value


def _scaled_length(value: Length, scale: float) -> Length:
    """Percentages are of what is around, which is scaled itself."""
    if isinstance(value, float):
        return value * scale
    if isinstance(value, Relative):
        return value._replace(px=value.px * scale)
    return value._replace(options=tuple(_scaled_length(option, scale) for option in value.options))
