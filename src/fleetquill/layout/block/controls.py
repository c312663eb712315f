"""Form controls: fields and lists with a size of their own, in characters and lines (HTML §15.5)."""

from __future__ import annotations

import math
from typing import Final

from fleetquill.layout.contract.box_edges import box_edges
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import content_widths, layout
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.sizing import clamp_height, own_width
from fleetquill.layout.contract.space import SLACK, Laid, Space
from fleetquill.layout.inline.boxes import ControlBox, LinesBox
from fleetquill.layout.inline.inline_items import line_height
from fleetquill.layout.items.items import lay_out_item

SCROLL_BAR: Final = 15.0  # px that a text area and a list keep beside their text
MENU: Final = (1.0, 16.0, 1.0, 4.0)  # px within the padding of a menu: above, right (for its mark), below and left
MARK_ROOM: Final = 4.0  # px from the end of a menu's text to its mark


def layout_control(box: ControlBox, space: Space, resume: Resume | None) -> Laid:
    """A control stands whole, its content where its padding ends; one line stands in the middle of what is higher."""
    style = box.style
    edges = box_edges(box, space.width)
    wide, high = _natural_size(box, space.context)
    width = space.fixed_width
    if width is None:
        width = own_width(style, space.width, edges.across)
        width = wide + edges.across if width is None else width
    height = space.height_of(style, edges.down)
    if height is None:
        height = clamp_height(style, high + edges.down, space.height, edges.down)
    if resume is None and not space.at_top and height > space.room + SLACK:
        return Laid(None, Resume())
    fragment = Fragment(box, width, height)
    inner = max(0.0, width - edges.across)
    top, right, bottom, left = MENU if box.frame == "menu" else (0.0, 0.0, 0.0, 0.0)
    inner = max(0.0, inner - (SCROLL_BAR if box.frame == "list" else left + right))
    content = lay_out_item(box.content, Space(space.context, inner, None, page=space.page, fixed_width=inner))
    content.x, content.y = edges.left + left, edges.top + top
    if box.rows == 1 and box.frame != "area":
        content.y += max(0.0, (height - edges.down - top - bottom - content.height) / 2)
        fragment.baseline = content.y + (content.baseline or 0.0)
    else:
        fragment.baseline = height
    fragment.children.append(content)
    if content.height > height - edges.down + 1.0:
        fragment.cut = space.context.overflows = True
    if box.mark is not None:
        mark = layout(box.mark, Space(space.context, inner), None).fragment
        assert mark is not None
        mark.x = width - style.border_right_width - MARK_ROOM - mark.width
        mark.y = (height - mark.height) / 2
        fragment.children.append(mark)
    return Laid(fragment, None)


def control_content_widths(box: ControlBox, context: Context) -> tuple[float, float]:
    wide, _ = _natural_size(box, context)
    if not isinstance(box.style.width, (float, str)):
        return 0.0, wide
    return wide, wide


def _natural_size(box: ControlBox, context: Context) -> tuple[float, float]:
    """The size of the content box that the characters and lines of a control ask for."""
    style = box.style
    setting = context.font(style)
    line = line_height(style, setting)
    face, size = setting.face, style.font_size
    if box.frame == "list":
        _, wide = content_widths(box.content, context)
        return wide + SCROLL_BAR, box.rows * (line + 1.0)
    if box.frame == "menu":
        measured = box.widest if box.widest is not None and box.widest.children else box.content
        assert isinstance(measured, LinesBox)
        top, right, bottom, left = MENU
        return content_widths(measured, context)[1] + left + right, line + top + bottom
    if box.frame == "area":
        return box.columns * face.average_advance * size + SCROLL_BAR, box.rows * line
    wide = math.ceil(box.columns * face.average_advance * size * 64) / 64
    return wide + max(0.0, round(face.widest * size) - face.average_advance * size), line
