"""Fieldsets: a block whose legend stands on its upper border (HTML §15.3.13)."""

from __future__ import annotations

from fleetquill.layout.block.block import block_content_widths, layout_block
from fleetquill.layout.boxes.boxes import FieldsetBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import content_widths
from fleetquill.layout.contract.fragments import FieldsetFragment, Fragment
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.sizing import edges_of, length_or_zero, margin_left_right, own_width
from fleetquill.layout.contract.space import Laid, Space
from fleetquill.layout.inline.lines import border_box_width
from fleetquill.layout.items.items import lay_out_item
from fleetquill.style.properties import ComputedStyle


def layout_fieldset(box: FieldsetBox, space: Space, resume: Resume | None) -> Laid:
    """Laid out as a block whose upper border is as high as its legend."""
    width = border_box_width(box, space) if space.fixed_width is None else space.fixed_width
    edges = edges_of(box.plain, space.width)
    legend = _legend(box, max(0.0, width - edges.across), space)
    style = box.legend.style
    above, below = (length_or_zero(margin, width) for margin in (style.margin_top, style.margin_bottom))
    more = max(0.0, above + legend.height + below - edges.border_top)
    box.style = _lower(box.plain, more, space.width)
    laid = layout_block(box, space._replace(fixed_width=width), resume)
    if laid.fragment is None or resume is not None:
        return laid
    whole = FieldsetFragment.around(laid.fragment, legend, max(0.0, (legend.height - edges.border_top) / 2 + above))
    legend.x += edges.left
    legend.y = above + max(0.0, (edges.border_top - legend.height) / 2)
    whole.children.insert(0, legend)
    return Laid(whole, laid.resume)


def _legend(box: FieldsetBox, room: float, space: Space) -> Fragment:
    """The legend, as wide as its content, at the start, in the middle or at the end of its line."""
    style = box.legend.style
    across = edges_of(style, room).across
    left, right = margin_left_right(style, room, None)
    width = own_width(style, room, across)
    if width is None:
        least, most = content_widths(box.legend, space.context)
        width = max(least, min(most, room - left - right))
    fragment = lay_out_item(box.legend, Space(space.context, room, None, page=space.page, fixed_width=width))
    if "auto" in (style.margin_left, style.margin_right):  # they take what is left, as those of any block
        fragment.x, _ = margin_left_right(style, room, width)
        return fragment
    spare = room - width - left - right
    align = style.justify_self
    if align == "auto":
        align = "right" if box.plain.direction == "rtl" else "left"
    fragment.x = left + max(0.0, {"center": spare / 2, "right": spare, "end": spare}.get(align, 0.0))
    return fragment


def _lower(style: ComputedStyle, more: float, basis: float) -> ComputedStyle:
    """The style of the fieldset with room for what its legend is higher than its border."""
    values = {**style.__dict__, "padding_top": edges_of(style, basis).top - style.border_top_width + more}
    for name in ("height", "min_height", "max_height"):  # what its legend needs comes out of it
        asked = getattr(style, name)
        if isinstance(asked, float) and style.box_sizing == "content-box":
            values[name] = max(0.0, asked - more)
    return ComputedStyle(style.parent, values)


def fieldset_content_widths(box: FieldsetBox, context: Context) -> tuple[float, float]:
    least, most = block_content_widths(box, context)
    narrow, wide = content_widths(box.legend, context)
    margins = sum(margin_left_right(box.legend.style, 0.0, None))
    return max(least, narrow + margins), max(most, wide + margins)
