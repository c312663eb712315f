"""Fragments → calls on a Canvas, in painting order (CSS 2.2 appendix E)."""

from __future__ import annotations

from fleetquill.layout.boxes import Box, PictureBox, TableBox
from fleetquill.layout.fragments import Fragment, InlineFragment, LineFragment, TextSpan
from fleetquill.layout.ledger import LedgerBox, RowsBox
from fleetquill.layout.sizing import Edges
from fleetquill.layout.table import TableDetail
from fleetquill.paint.borders import Frame, corners_of, decoration_of, paint_decoration
from fleetquill.paint.canvas import Canvas
from fleetquill.paint.shapes import inset, rectangle, rounded
from fleetquill.paint.table_lines import paint_collapsed
from fleetquill.paint.text import paint_span
from fleetquill.style.values import Rgba

PLACEHOLDER_LINE = Rgba(0.6, 0.6, 0.6)
PLACEHOLDER_FILL = Rgba(0.95, 0.95, 0.95)


def paint_fragment(canvas: Canvas, fragment: Fragment, x: float, y: float) -> None:
    """A fragment whose parent's top-left corner is at (x, y)."""
    x += fragment.x
    y += fragment.y
    box = fragment.box
    style = box.style
    visible = style.visibility == "visible"
    if isinstance(box, RowsBox):
        canvas.stamp_rows(x, y, fragment.detail, _paint_stencil)
        return
    if isinstance(box, (TableBox, LedgerBox)):
        _paint_table(canvas, fragment, x, y)
        return
    decoration = decoration_of(style)
    if decoration is not None and visible and not _is_hidden_empty_cell(fragment):
        paint_decoration(canvas, style, decoration, _frame(fragment, x, y))
    if isinstance(box, PictureBox):
        if visible:
            _paint_picture(canvas, box, fragment, x, y)
    elif style.overflow == "visible":
        _paint_children(canvas, fragment, x, y)
    else:
        _paint_clipped(canvas, fragment, x, y)
    if box.element is not None and box.element.tag == "a":
        _link(canvas, box, x, y, fragment.width, fragment.height)


def _frame(fragment: Fragment, x: float, y: float) -> Frame:
    return Frame(x, y, fragment.width, fragment.height, fragment.first, fragment.last)


def _paint_children(canvas: Canvas, fragment: Fragment, x: float, y: float) -> None:
    for child in fragment.children:
        if isinstance(child, LineFragment):
            _paint_line(canvas, child, x, y)
        else:
            paint_fragment(canvas, child, x, y)


def _paint_clipped(canvas: Canvas, fragment: Fragment, x: float, y: float) -> None:
    """Children cut off at the padding box (CSS Overflow 3 §3.1)."""
    style = fragment.box.style
    frame = _frame(fragment, x, y)
    sides = (style.border_top_width, style.border_right_width, style.border_bottom_width, style.border_left_width)
    top, right, bottom, left = sides
    corners = inset(corners_of(style, frame), *sides)
    width, height = max(0.0, frame.width - left - right), max(0.0, frame.height - top - bottom)
    canvas.save()
    canvas.clip(rounded(x + left, y + top, width, height, corners))
    _paint_children(canvas, fragment, x, y)
    canvas.restore()


def _paint_line(canvas: Canvas, line: LineFragment, x: float, y: float) -> None:
    x += line.x
    y += line.y
    for item in line.items:
        if isinstance(item, TextSpan):
            if item.run.style.visibility == "visible":
                paint_span(canvas, item, x, y)
        elif isinstance(item, InlineFragment):
            decoration = decoration_of(item.box.style)
            if decoration is not None:
                style = item.box.style
                sides = decoration.sides
                if not item.first:
                    sides = (*sides[:3], sides[3]._replace(width=0.0))
                if not item.last:
                    sides = (sides[0], sides[1]._replace(width=0.0), *sides[2:])
                frame = Frame(x + item.x, y + item.y, item.width, item.height)
                paint_decoration(canvas, style, decoration._replace(sides=sides), frame)
            _link(canvas, item.box, x + item.x, y + item.y, item.width, item.height)
        else:
            paint_fragment(canvas, item, x, y)


def _paint_table(canvas: Canvas, fragment: Fragment, x: float, y: float) -> None:
    detail: TableDetail = fragment.detail
    style = fragment.box.style
    decoration = decoration_of(style)
    if decoration is not None and style.visibility == "visible":
        frame = Frame(x, y + detail.top, fragment.width, detail.height, fragment.first, fragment.last)
        if detail.geometry.collapsed is not None:
            decoration = decoration._replace(sides=tuple(s._replace(width=0.0) for s in decoration.sides))  # type: ignore[arg-type]
        paint_decoration(canvas, style, decoration, frame)
    _paint_children(canvas, fragment, x, y)
    if detail.geometry.collapsed is not None:
        paint_collapsed(canvas, detail, x, y)


def _paint_stencil(canvas: Canvas, row: Fragment) -> None:
    if row.height:
        paint_fragment(canvas, row, 0.0, 0.0)
    if row.detail is not None:
        paint_collapsed(canvas, row.detail, 0.0, 0.0)


def _is_hidden_empty_cell(fragment: Fragment) -> bool:
    """empty-cells: hide (CSS 2.2 §17.6.1.1)."""
    style = fragment.box.style
    return style.empty_cells == "hide" and style.display == "table-cell" and not fragment.children


def _paint_picture(canvas: Canvas, box: PictureBox, fragment: Fragment, x: float, y: float) -> None:
    edges: Edges = fragment.detail
    x += edges.left
    y += edges.top
    width = max(0.0, fragment.width - edges.across)
    height = max(0.0, fragment.height - edges.down)
    if box.picture is None:
        _paint_placeholder(canvas, x, y, width, height)
        return
    natural_width, natural_height = box.picture.width, box.picture.height
    fit = box.style.object_fit
    if fit == "fill":
        canvas.picture(box.picture, x, y, width, height)
        return
    scale = {
        "contain": min(width / natural_width, height / natural_height),
        "cover": max(width / natural_width, height / natural_height),
        "none": 1.0,
        "scale-down": min(1.0, width / natural_width, height / natural_height),
    }[fit]
    wide, high = natural_width * scale, natural_height * scale
    overflows = wide > width + 0.01 or high > height + 0.01
    if overflows:
        canvas.save()
        canvas.clip(rectangle(x, y, width, height))
    canvas.picture(box.picture, x + (width - wide) / 2, y + (height - high) / 2, wide, high)
    if overflows:
        canvas.restore()


def _paint_placeholder(canvas: Canvas, x: float, y: float, width: float, height: float) -> None:
    """A frame with a cross, in place of a picture that is not there."""
    if width <= 0 or height <= 0:
        return
    canvas.fill_rect(x, y, width, height, PLACEHOLDER_FILL)
    inner = rectangle(x + 0.5, y + 0.5, width - 1, height - 1)
    cross = [("m", x, y), ("l", x + width, y + height), ("m", x + width, y), ("l", x, y + height)]
    canvas.stroke_path([*inner, *cross], 1.0, PLACEHOLDER_LINE)


def _link(canvas: Canvas, box: Box, x: float, y: float, width: float, height: float) -> None:
    element = box.element
    if element is not None and element.tag == "a":
        target = element.get("href", "").strip()
        if target:
            canvas.link(x, y, width, height, target)
