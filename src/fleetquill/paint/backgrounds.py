"""What lies under a box: its colour and the layers above that (CSS Backgrounds 3 §3, CSS Compositing 1 §5)."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from fleetquill.drawing.canvas import Canvas
from fleetquill.drawing.paths import Corners
from fleetquill.drawing.pictures import Picture, rendered
from fleetquill.paint.areas import Areas
from fleetquill.paint.borders import Frame
from fleetquill.paint.tiles import Image, Layer, of_layer, paint_tiles, shown_in, tiles_of
from fleetquill.style.background_values import Url
from fleetquill.style.properties import ComputedStyle

PaintText = Callable[[Canvas], None]  # paints the text of a box, in white


def paint_background(
    canvas: Canvas,
    style: ComputedStyle,
    frame: Frame,
    corners: Corners,
    pictures: Mapping[str, Image],
    *,
    root: Areas | None = None,
    text: PaintText | None = None,
) -> None:
    """Colour and layers, the last layer first.

    `root` are the root's boxes where the background is that of the whole page; `text` paints what a background
    may be cut to.
    """
    areas = Areas(style, frame, corners)
    blends = style.background_blend_mode
    grouped = any(mode != "normal" for mode in blends)
    if grouped:
        canvas.begin_group()
    color = style.background_color
    if color.alpha > 0:
        clip = of_layer(style.background_clip, len(style.background_image) - 1 if style.background_image else 0)
        if clip == "text":
            _within_text(canvas, areas, text, lambda: canvas.fill_path(areas.path("border-box"), color))
        else:
            canvas.fill_path(areas.path(clip), color)
    for index in range(len(style.background_image) - 1, -1, -1):
        image = style.background_image[index]
        picture = pictures.get(image.url) if isinstance(image, Url) else None
        if image == "none" or (isinstance(image, Url) and picture is None):
            continue
        blend = of_layer(blends, index)
        if blend != "normal":
            canvas.begin_group()
        _paint_layer(canvas, style, index, image, picture, areas, root, text)
        if blend != "normal":
            canvas.end_group(1.0, blend)
    if grouped:
        canvas.end_group(1.0)


def _paint_layer(
    canvas: Canvas,
    style: ComputedStyle,
    index: int,
    image: Any,
    picture: Image | None,
    areas: Areas,
    root: Areas | None,
    text: PaintText | None,
) -> None:
    clip = of_layer(style.background_clip, index)
    area = (root or areas).boxes[of_layer(style.background_origin, index)]
    if of_layer(style.background_attachment, index) == "fixed":
        area = (0.0, 0.0, *canvas.extent)
    layer = Layer(
        area,
        areas.boxes["border-box" if clip == "text" else clip],
        of_layer(style.background_position, index),
        of_layer(style.background_size, index),
        of_layer(style.background_repeat, index),
    )
    tiles = tiles_of(layer, picture)
    if tiles is None:
        return
    if isinstance(picture, Picture):
        picture = rendered(picture, style)
    shown = shown_in(image, tiles, style.color) if picture is None else picture
    if clip == "text":
        _within_text(canvas, areas, text, lambda: paint_tiles(canvas, shown, tiles))
        return
    canvas.save()
    canvas.clip(areas.path(clip))
    paint_tiles(canvas, shown, tiles)
    canvas.restore()


def _within_text(canvas: Canvas, areas: Areas, text: PaintText | None, draw: Callable[[], None]) -> None:
    """Draws what is seen through the letters of a box."""
    canvas.save()
    canvas.clip(areas.path("border-box"))
    canvas.begin_group()
    if text is not None:
        text(canvas)
    canvas.end_mask()
    draw()
    canvas.restore()
