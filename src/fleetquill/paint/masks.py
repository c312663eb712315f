"""Masks: pictures and gradients through which a box is seen (CSS Masking 1 §7)."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from fleetquill.drawing.canvas import Canvas, Drawing
from fleetquill.drawing.paths import rectangle
from fleetquill.drawing.pictures import Picture
from fleetquill.drawing.places import LAYOUT
from fleetquill.graphics.color_filters import dyed
from fleetquill.paint.areas import Areas
from fleetquill.paint.tiles import Image, Layer, Shown, of_layer, paint_tiles, shown_in, tiles_of
from fleetquill.style.background_values import Url
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import BLACK, WHITE

Draw = Callable[[], None]


def begin_mask(canvas: Canvas, style: ComputedStyle, areas: Areas, pictures: Mapping[str, Image]) -> None:
    """What follows until `restore` is seen through the style's masks."""
    layers = [
        layer for index in range(len(style.mask_image)) if (layer := _layer(canvas, style, index, areas, pictures))
    ]
    canvas.set_aside(LAYOUT)
    canvas.begin_group()
    if layers:
        _combined(canvas, layers, areas)
    canvas.end_mask()
    canvas.set_aside(None)


def _combined(canvas: Canvas, layers: list[tuple[str, Draw]], areas: Areas) -> None:
    """The uppermost layer with all below it, as its composite operator says (§7.9)."""
    (operator, draw), below = layers[0], layers[1:]
    if not below:
        draw()
    elif operator == "add":
        _combined(canvas, below, areas)
        draw()
    elif operator == "intersect":
        _through(canvas, lambda: _combined(canvas, below, areas), draw)
    elif operator == "subtract":
        _through(canvas, lambda: _inverse(canvas, areas, lambda: _combined(canvas, below, areas)), draw)
    else:
        _through(canvas, lambda: _inverse(canvas, areas, lambda: _combined(canvas, below, areas)), draw)
        _through(canvas, lambda: _inverse(canvas, areas, draw), lambda: _combined(canvas, below, areas))


def _through(canvas: Canvas, mask: Draw, draw: Draw) -> None:
    canvas.save()
    canvas.begin_group()
    mask()
    canvas.end_mask()
    draw()
    canvas.restore()


def _inverse(canvas: Canvas, areas: Areas, draw: Draw) -> None:
    """White without what is drawn."""
    whole = rectangle(*areas.boxes["border-box"])
    canvas.fill_path(whole, WHITE)
    _through(canvas, draw, lambda: canvas.fill_path(whole, BLACK))


def _layer(
    canvas: Canvas, style: ComputedStyle, index: int, areas: Areas, pictures: Mapping[str, Image]
) -> tuple[str, Draw] | None:
    """How a layer meets those below it, and what paints it in shades of white."""
    image = style.mask_image[index]
    picture = pictures.get(image.url) if isinstance(image, Url) else None
    if image == "none" or (isinstance(image, Url) and picture is None):
        return None  # as if it were not there: what cannot be loaded hides nothing (§7.1)
    clip, origin = of_layer(style.mask_clip, index), of_layer(style.mask_origin, index)
    reach = areas.boxes["border-box" if clip == "no-clip" else clip]
    place = Layer(
        areas.boxes[origin], reach, of_layer(style.mask_position, index), of_layer(style.mask_size, index),
        of_layer(style.mask_repeat, index),
    )  # fmt: skip
    by_light = of_layer(style.mask_mode, index) == "luminance" or (isinstance(image, Url) and image.url.startswith("#"))
    if isinstance(picture, Drawing) and image.url.startswith("#"):
        return of_layer(style.mask_composite, index), lambda: _element(canvas, picture, areas)
    tiles = tiles_of(place, picture)
    if tiles is None:
        return None
    shown: Shown = shown_in(image, tiles, style.color) if picture is None else picture
    seen = shown if by_light else in_white(shown)

    def paint() -> None:
        canvas.save()
        canvas.clip(areas.path("border-box" if clip == "no-clip" else clip))
        paint_tiles(canvas, seen, tiles)
        canvas.restore()

    return of_layer(style.mask_composite, index), paint


def _element(canvas: Canvas, drawing: Drawing, areas: Areas) -> None:
    """A mask or clipPath of the document; one that is measured in the box is as large as that (§6)."""
    x, y, width, height = areas.boxes["border-box"]
    canvas.drawing(drawing, x, y, *((width, height) if drawing.fills else drawing.extent))


def begin_element_clip(canvas: Canvas, drawing: Drawing, areas: Areas) -> None:
    """What follows until `restore` is seen where a clipPath of the document lets it."""
    canvas.set_aside(LAYOUT)
    canvas.begin_group()
    _element(canvas, drawing, areas)
    canvas.end_mask()
    canvas.set_aside(None)


def in_white(shown: Shown) -> Shown:
    """The same in white, as opaque as it is: its opacity as lightness."""
    dye = dyed(WHITE)
    if isinstance(shown, Picture):
        return dye.picture(shown)
    if isinstance(shown, Drawing):
        return dye.drawing(shown)
    return shown._replace(stops=tuple((place, dye.color(color)) for place, color in shown.stops))
