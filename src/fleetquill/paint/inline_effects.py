"""Inline boxes that are drawn as one picture: opacity, blending, filters, clip paths and masks within a line."""

from __future__ import annotations

from collections.abc import Callable

from fleetquill.drawing.canvas import Canvas
from fleetquill.layout.boxes.boxes import Box
from fleetquill.layout.contract.fragments import Fragment, InlineFragment, LineFragment, TextSpan
from fleetquill.paint.borders import Frame
from fleetquill.paint.effects import is_grouped, is_treated, paint_through

LineItem = Fragment | InlineFragment | TextSpan
PaintItem = Callable[[Canvas, LineItem], None]


def has_effects(line: LineFragment) -> bool:
    """Whether any inline box on a line is drawn as one picture."""
    return any(_effect_of(item) is not None for item in line.items)


def paint_line(canvas: Canvas, line: LineFragment, x: float, y: float, paint: PaintItem) -> None:
    """Paints what stands on a line whose corner is at (x, y), what is in one such box together."""
    groups: dict[Box, list[LineItem]] = {}
    for item in line.items:
        box = _effect_of(item)
        if box is None:
            if not groups:
                paint(canvas, item)
                continue
            inside = next((b for b, items in groups.items() if _is_within(item, items)), None)
            if inside is None:
                paint(canvas, item)
                continue
            box = inside
        groups.setdefault(box, []).append(item)
    for box, items in groups.items():
        _paint_group(canvas, box, items, x, y, paint)


def _effect_of(item: LineItem) -> Box | None:
    """The outermost inline box around an item that changes how it is seen."""
    if isinstance(item, TextSpan):
        for box in item.run.around:
            if box.style.layered and _changes(box):
                return box
        return None
    if isinstance(item, InlineFragment) and item.box.style.layered and _changes(item.box):
        return item.box
    return None


def _changes(box: Box) -> bool:
    style = box.style
    return is_grouped(style) or (is_treated(style) and not style.transform)  # inline boxes are not transformed


def _is_within(item: LineItem, items: list[LineItem]) -> bool:
    """Whether an item without words of its own stands in what one of the parts of a box covers."""
    if isinstance(item, TextSpan):
        return False
    parts = [part for part in items if isinstance(part, InlineFragment)]
    return any(part.x - 0.01 <= item.x and item.x + item.width <= part.x + part.width + 0.01 for part in parts)


def _paint_group(canvas: Canvas, box: Box, items: list[LineItem], x: float, y: float, paint: PaintItem) -> None:
    part = next((item for item in items if isinstance(item, InlineFragment) and item.box is box), None)
    if part is not None:
        frame = Frame(x + part.x, y + part.y, part.width, part.height)
    else:
        spans = [item for item in items if isinstance(item, TextSpan)]
        left, right = min(span.x for span in spans), max(span.x + span.width for span in spans)
        size = max(span.run.size for span in spans)
        frame = Frame(x + left, y + spans[0].baseline - size, right - left, size * 1.3)

    def draw(on: Canvas) -> None:
        for item in items:
            paint(on, item)

    paint_through(canvas, box.style, frame, box.pictures, draw, grouped=is_grouped(box.style), effects=box.effects)
