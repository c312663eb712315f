"""Fragments → calls on a Canvas, in painting order (CSS 2.2 appendix E).

Where no boxes can overlap, a page is painted in the order of its tree. Where floats, positions,
opacity or transforms are about, it is painted in layers: see `_Layers`.
"""

from __future__ import annotations

from typing import NamedTuple

from fleetquill.deadline import heed
from fleetquill.drawing.canvas import Canvas, Drawing, Path, Stroke, without_marks
from fleetquill.drawing.fields import OFF, Field
from fleetquill.drawing.paths import inset, rectangle, rounded
from fleetquill.drawing.pictures import rendered
from fleetquill.drawing.places import Place, RowModel
from fleetquill.drawing.recoloring import letters_of
from fleetquill.drawing.rows import Ground, Rows, draw_rows
from fleetquill.layout.boxes.boxes import Box, MarkBox, PictureBox, RowBox
from fleetquill.layout.contract.fragments import (
    ColumnsFragment,
    FieldsetFragment,
    Fragment,
    InlineFragment,
    LeaderSpan,
    LineFragment,
    PictureFragment,
    TextSpan,
)
from fleetquill.layout.items.boxes import ItemsBox
from fleetquill.layout.table.boxes import LedgerBox, RowsBox, TableBox
from fleetquill.layout.table.measures import RowsFragment, Stencil, TableFragment
from fleetquill.paint.borders import Frame, Side, corners_of, decoration_of
from fleetquill.paint.decorations import paint_decoration
from fleetquill.paint.effects import is_grouped, is_treated, paint_through
from fleetquill.paint.inline_effects import LineItem, has_effects, paint_line
from fleetquill.paint.links import paint_link
from fleetquill.paint.outlines import paint_outline
from fleetquill.paint.strokes import stroke_line
from fleetquill.paint.table_columns import paint_columns
from fleetquill.paint.table_lines import paint_collapsed
from fleetquill.paint.table_parts import begin_row, parts_of_rows, table_parts
from fleetquill.paint.text import paint_span
from fleetquill.style.box_values import Matrix, multiply, transform_matrix, translation
from fleetquill.style.lengths import resolve
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import Rgba

SLICED = 1_000.0  # px that shadows and outlines may reach beyond a box
CELL_LINE = Rgba(0.72, 0.76, 0.76)
TYPED_FROM_EDGE = 2 / 0.75  # px that readers keep from the edge of a field
PLACEHOLDER_LINE = Rgba(0.6, 0.6, 0.6)
PLACEHOLDER_FILL = Rgba(0.95, 0.95, 0.95)


def paint_page(canvas: Canvas, part: Fragment, *, layered: bool) -> None:
    """The content of a page, or the notes below it."""
    if layered:
        _Layers(canvas).stack(part, 0.0, 0.0, [])
    else:
        paint_fragment(canvas, part, 0.0, 0.0)


def paint_fragment(canvas: Canvas, fragment: Fragment, x: float, y: float) -> None:
    """A fragment whose parent's top-left corner is at (x, y), in the order of the tree."""
    x += fragment.x
    y += fragment.y
    box = fragment.box
    if isinstance(fragment, RowsFragment):
        paint_rows(canvas, fragment, x, y)
        return
    if isinstance(fragment, TableFragment):
        _paint_table_ground(canvas, fragment, x, y)
        for part in table_parts(canvas, fragment):
            paint_fragment(canvas, part, x, y)
        _paint_table_lines(canvas, fragment, x, y)
        _paint_around(canvas, fragment, x, y)
        return
    if isinstance(box.part, RowModel):
        begin_row(fragment)
    _decorate(canvas, fragment, x, y)
    if box.__class__ is RowBox:  # what all its cells stand on, then what is in them
        cells = [child for child in fragment.children if isinstance(child, Fragment)]
        for cell in cells:
            _decorate(canvas, cell, x + cell.x, y + cell.y)
        for cell in cells:
            _paint_inside(canvas, cell, x + cell.x, y + cell.y)
        _paint_around(canvas, fragment, x, y)
    else:
        _paint_inside(canvas, fragment, x, y)


def _paint_inside(canvas: Canvas, fragment: Fragment, x: float, y: float) -> None:
    """What stands in a fragment whose top-left corner is at (x, y), and what lies over that."""
    box = fragment.box
    if box.field is not None and box.style.visibility == "visible":
        _paint_field(canvas, fragment, box.field, x, y)
    elif isinstance(fragment, PictureFragment):
        if box.style.visibility == "visible":
            _paint_picture(canvas, fragment, x, y)
    elif box.style.overflow == "visible":
        _paint_children(canvas, fragment, x, y)
    else:
        canvas.save()
        canvas.clip(_padding_path(fragment, x, y))
        _paint_children(canvas, fragment, x, y)
        canvas.restore()
    _paint_around(canvas, fragment, x, y)


def _paint_around(canvas: Canvas, fragment: Fragment, x: float, y: float) -> None:
    """The outline of a fragment, and where it leads."""
    _outline(canvas, fragment, x, y)
    paint_link(canvas, fragment.box, x, y, fragment.width, fragment.height)


# ---- layers ----


class _Layer(NamedTuple):
    """A positioned, transformed or translucent fragment; `clips` are those of the boxes around it."""

    z: int
    fragment: Fragment
    x: float
    y: float
    clips: list[Path]


class _Layers:
    """Paints stacking contexts: what lies below, block backgrounds, floats, lines, what lies above."""

    def __init__(self, canvas: Canvas) -> None:
        self.canvas = canvas
        self.flat: set[Fragment] = set()  # in which nothing can overlap: painted in the order of the tree
        self.outlined: list[tuple[Fragment, float, float]] = []  # whose outlines are still to be painted

    def stack(self, fragment: Fragment, x: float, y: float, clips: list[Path]) -> None:
        """A stacking context, with all layers that belong to it."""
        canvas, style = self.canvas, fragment.box.style
        moved = bool(style.transform)
        for path in clips:
            canvas.save()
            canvas.clip(path)
        if moved:
            canvas.save()
            canvas.transform(used_transform(style, x + fragment.x, y + fragment.y, fragment))
        layers: list[_Layer] = []
        self._collect(fragment, x + fragment.x, y + fragment.y, [], layers)
        grouped = is_grouped(style) or (_is_context(style) and any(map(_blends, layers)))
        frame = _frame(fragment, x + fragment.x, y + fragment.y)

        def draw(on: Canvas) -> None:
            self.canvas = on
            self._layered(fragment, x, y, layers)
            self.canvas = canvas

        paint_through(canvas, style, frame, fragment.box.pictures, draw, grouped=grouped, effects=fragment.box.effects)
        if moved:
            canvas.restore()
        for _ in clips:
            canvas.restore()

    def _layered(self, fragment: Fragment, x: float, y: float, layers: list[_Layer]) -> None:
        """The ground, the layers below, the content and its outlines, the layers above."""
        inner: list[Path] = []
        if fragment.box.style.overflow != "visible":
            inner = [_padding_path(fragment, x + fragment.x, y + fragment.y)]
        around, self.outlined = self.outlined, []
        self._ground(fragment, x, y)
        for layer in sorted((la for la in layers if la.z < 0), key=lambda la: la.z):
            self._paint(layer._replace(clips=inner + layer.clips))
        self._content(fragment, x, y)
        for outlined in self.outlined:
            _outline(self.canvas, *outlined)
        self.outlined = around
        for layer in sorted((la for la in layers if la.z >= 0), key=lambda la: la.z):
            self._paint(layer._replace(clips=inner + layer.clips))

    def _paint(self, layer: _Layer) -> None:
        if _is_context(layer.fragment.box.style):
            self.stack(layer.fragment, layer.x, layer.y, layer.clips)
            return
        for path in layer.clips:
            self.canvas.save()
            self.canvas.clip(path)
        self._atom(layer.fragment, layer.x, layer.y)
        for _ in layer.clips:
            self.canvas.restore()

    def _collect(self, fragment: Fragment, x: float, y: float, clips: list[Path], found: list[_Layer]) -> bool:
        """The layers below a fragment whose own corner is at (x, y), in the order of the tree.

        Gives whether the fragment is flat.
        """
        flat = not fragment.box.style.layered
        for child in fragment.children:
            if isinstance(child, LineFragment):
                for item in child.items:
                    if isinstance(item, Fragment):
                        flat = self._note(item, x + child.x, y + child.y, clips, found) and flat
            else:
                flat = self._note(child, x, y, clips, found) and flat
        return flat

    def _note(self, child: Fragment, x: float, y: float, clips: list[Path], found: list[_Layer]) -> bool:
        heed()
        style = child.box.style
        if child.box.quiet:
            self.flat.add(child)
            return True
        if _is_layer(style):
            z = style.z_index if isinstance(style.z_index, int) and style.position != "static" else 0
            found.append(_Layer(z, child, x, y, clips))
            if _is_context(style):
                return False
        if style.overflow != "visible":
            clips = [*clips, _padding_path(child, x + child.x, y + child.y)]
        flat = self._collect(child, x + child.x, y + child.y, clips, found)
        if flat:
            self.flat.add(child)
        return flat

    def _atom(self, fragment: Fragment, x: float, y: float) -> None:
        """What is painted as if it were a stacking context, though its layers belong to the one around."""
        if fragment in self.flat:
            paint_fragment(self.canvas, fragment, x, y)
        else:
            around, self.outlined = self.outlined, []
            self._ground(fragment, x, y)
            self._content(fragment, x, y)
            for outlined in self.outlined:
                _outline(self.canvas, *outlined)
            self.outlined = around

    def _ground(self, fragment: Fragment, x: float, y: float) -> None:
        x, y = x + fragment.x, y + fragment.y
        if isinstance(fragment, TableFragment):
            _paint_table_ground(self.canvas, fragment, x, y)
        elif not isinstance(fragment, RowsFragment):
            if isinstance(fragment.box.part, RowModel):
                begin_row(fragment)
            _decorate(self.canvas, fragment, x, y)
        if fragment.box.style.outline_width:
            self.outlined.append((fragment, x, y))
        paint_link(self.canvas, fragment.box, x, y, fragment.width, fragment.height)

    def _content(self, fragment: Fragment, x: float, y: float) -> None:
        """Backgrounds of blocks, then floats, then lines."""
        box, canvas = fragment.box, self.canvas
        x, y = x + fragment.x, y + fragment.y
        if isinstance(fragment, RowsFragment):
            paint_rows(canvas, fragment, x, y)
        elif box.field is not None and box.style.visibility == "visible":
            _paint_field(canvas, fragment, box.field, x, y)
        elif isinstance(fragment, PictureFragment):
            if box.style.visibility == "visible":
                _paint_picture(canvas, fragment, x, y)
        elif _keeps_together(box):
            self._parts(fragment, x, y)
        else:
            clipped = box.style.overflow != "visible"
            if clipped:
                canvas.save()
                canvas.clip(_padding_path(fragment, x, y))
            self._blocks(fragment, x, y)
            self._floats(fragment, x, y)
            self._lines(fragment, x, y)
            if clipped:
                canvas.restore()

    def _parts(self, fragment: Fragment, x: float, y: float) -> None:
        """The rows of a table, or the items of a container: each for itself."""
        box, canvas = fragment.box, self.canvas
        clipped = box.style.overflow != "visible"
        if clipped:
            canvas.save()
            canvas.clip(_padding_path(fragment, x, y))
        parts = table_parts(canvas, fragment) if isinstance(fragment, TableFragment) else fragment.children
        for child in parts:
            if isinstance(child, Fragment) and not _is_layer(child.box.style):
                self._atom(child, x, y)
        if clipped:
            canvas.restore()
        if isinstance(fragment, TableFragment):
            _paint_table_lines(canvas, fragment, x, y)

    def _blocks(self, fragment: Fragment, x: float, y: float) -> None:
        for child in fragment.children:
            if isinstance(child, Fragment) and _is_plain(child.box):
                self._ground(child, x, y)
                if not _stands_apart(child.box):
                    self._blocks(child, x + child.x, y + child.y)

    def _floats(self, fragment: Fragment, x: float, y: float) -> None:
        for child in fragment.children:
            if not isinstance(child, Fragment) or _is_layer(child.box.style):
                continue
            if not _is_plain(child.box):
                self._atom(child, x, y)
            elif not _stands_apart(child.box):
                self._floats(child, x + child.x, y + child.y)

    def _lines(self, fragment: Fragment, x: float, y: float) -> None:
        for child in fragment.children:
            if isinstance(child, LineFragment):
                self._line(child, x, y, box_place(fragment))
            elif not _is_plain(child.box):
                continue
            elif _stands_apart(child.box):
                self._content(child, x, y)
            else:
                self._lines(child, x + child.x, y + child.y)
        if isinstance(fragment, ColumnsFragment):
            _paint_rules(self.canvas, fragment, x, y)

    def _line(self, line: LineFragment, x: float, y: float, place: Place | None) -> None:
        heed()
        x += line.x
        y += line.y

        def paint(canvas: Canvas, item: LineItem) -> None:
            around, self.canvas = self.canvas, canvas
            if not isinstance(item, Fragment):
                _paint_inline(canvas, item, x, y, line, place)
            elif not _is_layer(item.box.style):
                self._atom(item, x, y)
            self.canvas = around

        paint_line(self.canvas, line, x, y, paint)


def _is_layer(style: ComputedStyle) -> bool:
    return style.position != "static" or is_grouped(style) or is_treated(style)


def _blends(layer: _Layer) -> bool:
    """Whether a layer asks for its colours to meet those below it in the same stacking context (§3.2)."""
    return layer.fragment.box.style.mix_blend_mode != "normal"


def _is_context(style: ComputedStyle) -> bool:
    """Whether a layer is a stacking context: the layers in it stay in it (CSS Positioned Layout 3 §2)."""
    positioned = style.position != "static" and (style.z_index != "auto" or style.position == "fixed")
    return positioned or is_grouped(style) or is_treated(style)


def _is_plain(box: Box) -> bool:
    """A block in flow that is no layer."""
    return not _is_layer(box.style) and (box.style.float == "none" or box.is_item)


def _keeps_together(box: Box) -> bool:
    return isinstance(box, (TableBox, LedgerBox, ItemsBox)) or box.style.display in (
        "table-row", "table-row-group", "table-header-group", "table-footer-group",
    )  # fmt: skip


def _stands_apart(box: Box) -> bool:
    """Whether a block's content is painted together, after the backgrounds of the blocks around it."""
    return isinstance(box, (PictureBox, RowsBox)) or _keeps_together(box) or box.style.overflow != "visible"


def used_transform(style: ComputedStyle, x: float, y: float, fragment: Fragment) -> Matrix:
    """`transform` around its origin, for a border box at (x, y)."""
    matrix = transform_matrix(style.transform, style.transform_origin, fragment.width, fragment.height)
    return multiply(multiply(translation(x, y), matrix), translation(-x, -y))


# ---- single fragments ----


def _decorate(canvas: Canvas, fragment: Fragment, x: float, y: float) -> None:
    style = fragment.box.style
    decoration = decoration_of(style)
    if decoration is not None and style.visibility == "visible" and not _is_hidden_empty_cell(fragment):
        canvas.mark(None)
        frame = _frame(fragment, x, y)
        if style.box_decoration_break == "clone":
            frame = frame._replace(first=True, last=True)
        legend = fragment.legend if isinstance(fragment, FieldsetFragment) else None
        if isinstance(fragment, FieldsetFragment) and legend is not None:
            frame = frame._replace(y=y + fragment.cap, height=max(0.0, fragment.height - fragment.cap))
            canvas.save()
            around = rectangle(x - 1, y - 1, fragment.width + 2, fragment.height + 2)
            gap = rectangle(x + legend.x, y + legend.y, legend.width, legend.height)
            canvas.clip([*around, *gap], even_odd=True)
        paint_decoration(
            canvas, style, decoration, frame, fragment.box.pictures, text=lambda on: _letters(on, fragment, x, y)
        )
        if legend is not None:
            canvas.restore()


def _letters(canvas: Canvas, fragment: Fragment, x: float, y: float) -> None:
    """The text in a fragment, in white."""
    drawing = Drawing(*canvas.extent)
    _paint_children(drawing, fragment, x, y)
    letters_of(drawing).paint(canvas)


def _outline(canvas: Canvas, fragment: Fragment, x: float, y: float) -> None:
    style = fragment.box.style
    if style.outline_width:
        canvas.mark(None)
        paint_outline(canvas, style, _frame(fragment, x, y))


def _frame(fragment: Fragment, x: float, y: float) -> Frame:
    return Frame(x, y, fragment.width, fragment.height, fragment.first, fragment.last, fragment.box.basis)


def _padding_path(fragment: Fragment, x: float, y: float) -> Path:
    """The padding box: where content is cut off (CSS Overflow 3 §3.1)."""
    style = fragment.box.style
    frame = _frame(fragment, x, y)
    sides = (style.border_top_width, style.border_right_width, style.border_bottom_width, style.border_left_width)
    top, right, bottom, left = sides
    corners = inset(corners_of(style, frame), *sides)
    width, height = max(0.0, frame.width - left - right), max(0.0, frame.height - top - bottom)
    return rounded(x + left, y + top, width, height, corners)


def box_place(fragment: Fragment) -> Place | None:
    """The part of the document that the text in a fragment belongs to."""
    place = fragment.box.part
    return place if isinstance(place, Place) else None


def _paint_children(canvas: Canvas, fragment: Fragment, x: float, y: float) -> None:
    place = box_place(fragment)
    for child in fragment.children:
        if isinstance(child, LineFragment):
            at_x, at_y = x + child.x, y + child.y
            if has_effects(child):
                _paint_line(canvas, child, at_x, at_y, place)
                continue
            for item in child.items:
                if isinstance(item, Fragment):
                    paint_fragment(canvas, item, at_x, at_y)
                else:
                    _paint_inline(canvas, item, at_x, at_y, child, place)
        else:
            paint_fragment(canvas, child, x, y)
    if isinstance(fragment, ColumnsFragment):
        _paint_rules(canvas, fragment, x, y)


def _paint_line(canvas: Canvas, line: LineFragment, x: float, y: float, place: Place | None) -> None:
    """A line whose corner is at (x, y), in the order of the tree."""

    def paint(on: Canvas, item: LineItem) -> None:
        if isinstance(item, Fragment):
            paint_fragment(on, item, x, y)
        else:
            _paint_inline(on, item, x, y, line, place)

    paint_line(canvas, line, x, y, paint)


def _paint_inline(
    canvas: Canvas, item: TextSpan | InlineFragment, x: float, y: float, line: LineFragment, place: Place | None
) -> None:
    """Words, or the part of an inline box, on a line whose corner is at (x, y); `place` is what the line is in."""
    if isinstance(item, TextSpan):
        if item.run.style.visibility == "visible":
            for inline in reversed(item.run.around):
                if inline.part is not None:
                    place = inline.part if isinstance(inline.part, Place) else None
                    break
            paint_span(canvas, item, x, y, None if isinstance(item, LeaderSpan) else place)
        return
    style = item.box.style
    decoration = decoration_of(style)
    frame = Frame(x + item.x, y + item.y, item.width, item.height)
    if decoration is not None and style.visibility == "visible":
        canvas.mark(None)
        sliced = not (item.first and item.last) and style.box_decoration_break == "slice"
        if sliced:
            canvas.save()
            left, right = (0.0 if end else SLICED for end in (not item.first, not item.last))
            canvas.clip(
                rectangle(frame.x - left, frame.y - SLICED, frame.width + left + right, frame.height + 2 * SLICED)
            )
            frame = frame._replace(x=frame.x - item.before, width=item.whole)
        paint_decoration(
            canvas, style, decoration, frame, item.box.pictures, text=lambda on: _line_letters(on, line, item, x, y)
        )
        if sliced:
            canvas.restore()
        paint_outline(canvas, style, frame)
    paint_link(canvas, item.box, x + item.x, y + item.y, item.width, item.height)


def _line_letters(canvas: Canvas, line: LineFragment, around: InlineFragment, x: float, y: float) -> None:
    """The words of a line that stand in a part of an inline box, in white."""
    drawing = Drawing(*canvas.extent)
    for item in line.items:
        if isinstance(item, TextSpan) and around.x - 0.01 <= item.x <= around.x + around.width:
            paint_span(drawing, item, x, y)
    letters_of(drawing).paint(canvas)


def _paint_rules(canvas: Canvas, fragment: ColumnsFragment, x: float, y: float) -> None:
    """The lines between columns (CSS Multi-column 1 §4)."""
    style = fragment.box.style
    side = Side(style.column_rule_width, style.column_rule_style, style.column_rule_color)
    canvas.mark(None)
    for rule in fragment.rules:
        at = x + rule.x
        stroke_line(canvas, (at, y + rule.y), (at, y + rule.y + rule.height), side)


def _paint_table_ground(canvas: Canvas, fragment: TableFragment, x: float, y: float) -> None:
    detail = fragment.detail
    canvas.mark(None)
    style = fragment.box.style
    decoration = decoration_of(style)
    if decoration is not None and style.visibility == "visible":
        frame = Frame(x, y + detail.top, fragment.width, detail.height, fragment.first, fragment.last)
        if detail.geometry.collapsed is not None:
            decoration = decoration._replace(sides=tuple(s._replace(width=0.0) for s in decoration.sides))  # type: ignore[arg-type]
        paint_decoration(canvas, style, decoration, frame, fragment.box.pictures)
    if isinstance(fragment.box, TableBox):
        paint_columns(canvas, fragment, detail.geometry.grid, x, y)


def _paint_table_lines(canvas: Canvas, fragment: TableFragment, x: float, y: float) -> None:
    detail = fragment.detail
    if detail.geometry.collapsed is not None:
        canvas.mark(None)
        paint_collapsed(canvas, detail, x, y)


def paint_rows(canvas: Canvas, block: RowsFragment, x: float, y: float) -> None:
    """Plain rows on the empty ones that they stand on."""
    grounds = {stencil: Ground(_ground(stencil), stencil.height) for stencil in set(block.stencils)}
    each = [grounds[stencil] for stencil in block.stencils]
    model, places = parts_of_rows(block)
    draw_rows(canvas, x, y, Rows(block.cells, each, _ground(block.closing), model, places))


def _ground(stencil: Stencil) -> Drawing:
    """An empty row, drawn once."""
    if stencil.ground is None:
        row = stencil.row
        ground = stencil.ground = Drawing(row.width, row.height)
        if row.height:
            model, row.box.part = row.box.part, None  # no row yet, but what rows stand on
            paint_fragment(ground, row, 0.0, 0.0)
            row.box.part = model
        if stencil.lines is not None:
            paint_collapsed(ground, stencil.lines, 0.0, 0.0)
    return stencil.ground


def _is_hidden_empty_cell(fragment: Fragment) -> bool:
    """empty-cells: hide (CSS 2.2 §17.6.1.1)."""
    style = fragment.box.style
    return style.empty_cells == "hide" and style.display == "table-cell" and not fragment.children


def _paint_picture(canvas: Canvas, fragment: PictureFragment, x: float, y: float) -> None:
    box, edges = fragment.box, fragment.edges
    assert isinstance(box, PictureBox)
    x += edges.left
    y += edges.top
    width = max(0.0, fragment.width - edges.across)
    height = max(0.0, fragment.height - edges.down)
    place = box_place(fragment)
    canvas.mark(place)
    if place is not None:
        place.area = (x, y, width, height)
    if box.picture is None:
        _paint_placeholder(canvas, x, y, width, height)
        return
    natural_width, natural_height = box.picture.width, box.picture.height
    fit = box.style.object_fit
    wide, high = width, height
    if fit != "fill":
        scale = {
            "contain": min(width / natural_width, height / natural_height),
            "cover": max(width / natural_width, height / natural_height),
            "none": 1.0,
            "scale-down": min(1.0, width / natural_width, height / natural_height),
        }[fit]
        wide, high = natural_width * scale, natural_height * scale
    left = x + resolve(box.style.object_position[0], width - wide)
    top = y + resolve(box.style.object_position[1], height - high)
    overflows = wide > width + 0.01 or high > height + 0.01
    round_corners = corners_of(box.style, Frame(x, y, fragment.width, fragment.height))
    if overflows or not round_corners.square:
        canvas.save()
        if round_corners.square:
            canvas.clip(rectangle(x, y, width, height))
        else:
            canvas.clip(
                rounded(x, y, width, height, inset(round_corners, edges.top, edges.right, edges.bottom, edges.left))
            )
    if isinstance(box.picture, Drawing):
        canvas.drawing(box.picture.at_size(wide, high), left, top, wide, high)
    else:
        canvas.picture(rendered(box.picture, box.style), left, top, wide, high)
    if overflows or not round_corners.square:
        canvas.restore()


def _paint_field(canvas: Canvas, fragment: Fragment, field: Field, x: float, y: float) -> None:
    """A control that is filled in: what stands within its border is drawn once for each state."""
    box = fragment.box
    canvas.mark(box_place(fragment))
    if isinstance(fragment, PictureFragment):
        edges = fragment.edges
        x, y = x + edges.left, y + edges.top
        width, height = max(0.0, fragment.width - edges.across), max(0.0, fragment.height - edges.down)
        assert isinstance(box, MarkBox) and isinstance(box.picture, Drawing) and box.other is not None
        states = {field.state: box.picture, OFF: box.other}
        if not field.ticked:
            states = {OFF: box.picture, field.state: box.other}
        canvas.field(field, x, y, width, height, states)
        return
    left, top, width, height = _field_area(fragment, field)
    if field.cells:
        _paint_cells(canvas, field.cells, (x + left, y + top, width, height))
    shown = Drawing(width, height)
    if field.kind != "signature":
        shown.clip(rectangle(0.0, 0.0, width, height))
        for child in fragment.children:
            mark = isinstance(child, PictureFragment) and child.box.element is None  # that a list opens
            if isinstance(child, Fragment):
                paint_fragment(canvas if mark else shown, child, *((x, y) if mark else (-left, -top)))
    canvas.mark(box_place(fragment))
    canvas.field(field, x + left, y + top, width, height, {"": without_marks(shown)})


def _field_area(fragment: Fragment, field: Field) -> tuple[float, float, float, float]:
    """Where a field is typed in, from its border box's corner: the room of its text, and around that what readers keep
    from the edge of a field themselves; of one with places for letters, those."""
    style = fragment.box.style
    left, top = style.border_left_width, style.border_top_width
    right = fragment.width - style.border_right_width
    bottom = fragment.height - style.border_bottom_width
    content = fragment.children[0] if fragment.children else None
    if isinstance(content, Fragment) and field.kind in ("text", "select"):
        kept = 0.0 if field.cells else TYPED_FROM_EDGE
        left = max(left, content.x - kept)
        right = min(right, content.x + content.width + kept)
        if field.multiline:  # a single line stands in the middle
            top = max(top, content.y - kept)
    return left, top, max(0.0, right - left), max(0.0, bottom - top)


def _paint_cells(canvas: Canvas, count: int, area: tuple[float, float, float, float]) -> None:
    """The lines between letters that have places of their own."""
    x, y, width, height = area
    canvas.mark(None)
    for at in range(1, count):
        canvas.fill_rect(x + at * width / count - 0.375, y, 0.75, height, CELL_LINE)


def _paint_placeholder(canvas: Canvas, x: float, y: float, width: float, height: float) -> None:
    """A frame with a cross, in place of a picture that is not there."""
    if width <= 0 or height <= 0:
        return
    canvas.fill_rect(x, y, width, height, PLACEHOLDER_FILL)
    inner = rectangle(x + 0.5, y + 0.5, width - 1, height - 1)
    cross = [("m", x, y), ("l", x + width, y + height), ("m", x + width, y), ("l", x, y + height)]
    canvas.stroke_path([*inner, *cross], PLACEHOLDER_LINE, Stroke(1.0))
