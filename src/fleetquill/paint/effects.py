"""What a box is seen through: its clip path, its masks, its filters (CSS Masking 1 §3, Filter Effects 1 §3)."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from fleetquill.drawing.canvas import Area, Canvas, Drawing
from fleetquill.drawing.effects import Effect
from fleetquill.drawing.extents import extent_of, united
from fleetquill.drawing.pictures import Picture
from fleetquill.graphics.clip_shapes import shape_path_in
from fleetquill.graphics.filters import filtered, grown, room_of
from fleetquill.paint.areas import Areas
from fleetquill.paint.borders import Frame, corners_of
from fleetquill.paint.masks import begin_element_clip, begin_mask
from fleetquill.style.filter_values import Filter, Reference
from fleetquill.style.properties import ComputedStyle

Draw = Callable[[Canvas], None]


def is_grouped(style: ComputedStyle) -> bool:
    """Whether a box is drawn as one picture (CSS Compositing 1 §3.2.1)."""
    return style.opacity < 1.0 or style.mix_blend_mode != "normal" or style.isolation == "isolate"


def is_treated(style: ComputedStyle) -> bool:
    """Whether a box is moved, cut or changed as a whole: as a stacking context (Masking 1 §5, Filter Effects 1 §3)."""
    return bool(style.transform or style.filter or style.clip_path or style.mask_image)


def paint_through(
    canvas: Canvas,
    style: ComputedStyle,
    frame: Frame,
    pictures: Mapping[str, Picture | Drawing] | None,
    draw: Draw,
    *,
    grouped: bool,
    effects: Mapping[str, Effect] | None = None,
) -> None:
    """Draws a box and all in it through its filters, its clip path, its masks and its opacity, in that order.

    `effects` are the filters of the document that the style names, by id.
    """
    cut = _begin_cut(canvas, style, frame, pictures)
    if grouped:
        canvas.begin_group()
    if style.filter:
        drawing = Drawing(*canvas.extent)
        draw(drawing)
        _paint_filtered(canvas, drawing, style, (frame.x, frame.y, frame.width, frame.height), effects or {})
    else:
        draw(canvas)
    if grouped:
        canvas.end_group(style.opacity, style.mix_blend_mode)
    if cut:
        canvas.restore()


def _begin_cut(
    canvas: Canvas, style: ComputedStyle, frame: Frame, pictures: Mapping[str, Picture | Drawing] | None
) -> bool:
    """Cuts what follows, until `restore`, as the style says; False where it says nothing and nothing is to be restored.

    `pictures` are those that the style names, by address; a clipPath or mask of the document by `#` and its id.
    """
    if not style.clip_path and not style.mask_image:
        return False
    areas = Areas(style, frame, corners_of(style, frame))
    canvas.save()
    if isinstance(style.clip_path, str):
        shape = (pictures or {}).get(f"#{style.clip_path}")
        if isinstance(shape, Drawing):
            begin_element_clip(canvas, shape, areas)
    elif style.clip_path.shape is None:
        canvas.clip(areas.path(style.clip_path.area))
    else:
        canvas.clip(*shape_path_in(style.clip_path, areas.boxes[style.clip_path.area]))
    if any(image != "none" for image in style.mask_image):
        begin_mask(canvas, style, areas, pictures or {})
    return True


def _paint_filtered(
    canvas: Canvas, drawing: Drawing, style: ComputedStyle, around: Area, effects: Mapping[str, Effect]
) -> None:
    """A drawing through the filters of a style; `around` is the box that they are of."""
    for verb, arguments in drawing.steps:
        if verb in ("mark", "link"):
            getattr(canvas, verb)(*arguments)
    functions: list[Filter] = []
    for step in style.filter:
        if not isinstance(step, Reference):
            functions.append(step)
        elif step.id in effects:
            drawing = effects[step.id].drawn(_changed(drawing, functions, style, around), around)
            functions = []
    drawing = _changed(drawing, functions, style, around)
    drawing.paint(canvas)


def _changed(drawing: Drawing, functions: Sequence[Filter], style: ComputedStyle, around: Area) -> Drawing:
    area = grown(united(around, extent_of(drawing)), room_of(functions))
    return filtered(drawing, functions, style, area)
