"""One layer of a background or mask: a picture or gradient, placed, sized and repeated (CSS Backgrounds 3 §3)."""

from __future__ import annotations

import math
from typing import Any, Final, NamedTuple

from fleetquill.drawing.canvas import Area, Canvas, Drawing
from fleetquill.drawing.gradients import Shade, shade
from fleetquill.drawing.pictures import Picture
from fleetquill.graphics.joined_tiles import Patch, joined
from fleetquill.style.lengths import resolve, resolve_auto
from fleetquill.style.values import Rgba

MOST_TILES: Final = 1_000_000
Image = Picture | Drawing
Shown = Image | Shade


class Layer(NamedTuple):
    """How an image is laid; `area` is what places and sizes refer to, `reach` what is to be filled."""

    area: Area
    reach: Area
    position: tuple[Any, Any]
    size: Any
    repeat: tuple[str, str]


class Tiles(NamedTuple):
    """Where an image stands, over and over: the left edges, the tops, and its size."""

    columns: list[float]
    rows: list[float]
    width: float
    height: float


def of_layer(values: tuple[Any, ...], index: int) -> Any:
    """What a list says of a layer: one that is too short begins anew (Backgrounds 3 §3.1)."""
    return values[index % len(values)]


def tiles_of(layer: Layer, picture: Image | None) -> Tiles | None:
    """Where the image of a layer stands; a gradient (None) has no size of its own. None where it is not seen."""
    x, y, width, height = layer.area
    wide, high = _tile_size(layer.size, width, height, picture)
    if wide <= 0.01 or high <= 0.01:
        return None
    if layer.repeat[0] == "round":
        wide = width / max(1, round(width / wide))
    if layer.repeat[1] == "round":
        high = height / max(1, round(height / high))
    left = x + resolve(layer.position[0], width - wide)
    top = y + resolve(layer.position[1], height - high)
    reach_x, reach_y, reach_width, reach_height = layer.reach
    columns = places(left, wide, x, width, reach_x, reach_width, layer.repeat[0])
    rows = places(top, high, y, height, reach_y, reach_height, layer.repeat[1])
    if not columns or not rows or len(columns) * len(rows) > MOST_TILES:
        return None
    return Tiles(columns, rows, wide, high)


def shown_in(image: Any, tiles: Tiles, current: Rgba) -> Shade:
    """A gradient in the size of its tiles; `current` is what currentcolor means."""
    return shade(image, tiles.width, tiles.height, current)


def paint_tiles(canvas: Canvas, shown: Shown, tiles: Tiles) -> None:
    """The image at every place."""
    if isinstance(shown, Picture):
        for patch in joined(Patch(shown, *tiles)):
            canvas.tiles(*patch)
        return
    if isinstance(shown, Drawing):
        shown = shown.at_size(tiles.width, tiles.height)
    for y in tiles.rows:
        for x in tiles.columns:
            if isinstance(shown, Drawing):
                canvas.drawing(shown, x, y, tiles.width, tiles.height)
            else:
                canvas.shade(shown, x, y, tiles.width, tiles.height)


def _tile_size(size: Any, width: float, height: float, picture: Image | None) -> tuple[float, float]:
    """background-size (§3.9)."""
    if isinstance(size, str):
        if picture is None:
            return width, height
        across, down = width / picture.width, height / picture.height
        scale = min(across, down) if size == "contain" else max(across, down)
        return picture.width * scale, picture.height * scale
    wide, high = resolve_auto(size[0], width), resolve_auto(size[1], height)
    if picture is None:
        return (width if wide is None else wide), (height if high is None else high)
    ratio = picture.width / picture.height
    if wide is None:
        wide = picture.width if high is None else high * ratio
    return wide, wide / ratio if high is None else high


def places(
    start: float, size: float, area: float, extent: float, clip: float, clip_extent: float, repeat: str
) -> list[float]:
    """Where tiles start along one axis, as far as the painting area reaches."""
    if repeat == "no-repeat":
        return [start]
    step = size
    if repeat == "space":
        count = math.floor(extent / size + 0.001)
        if count < 2:
            return [area + (extent - size) / 2]
        step = size + (extent - count * size) / (count - 1)
        start = area
    first = math.floor((clip - start) / step + 0.0001)
    last = math.ceil((clip + clip_extent - start) / step - 0.0001)
    return [start + number * step for number in range(first, max(first + 1, last))]
