"""Background layers, box shadows and outlines (CSS Backgrounds 3 §3, §6; CSS UI 4 §5)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any, Final

from fleetquill.drawing.canvas import Canvas, Drawing
from fleetquill.drawing.gradients import shade
from fleetquill.drawing.paths import Corners, inset, rectangle, rounded
from fleetquill.drawing.pictures import Picture
from fleetquill.graphics.blur import shadow_picture
from fleetquill.paint.borders import Frame, Side, paint_borders
from fleetquill.style.background_values import BoxShadow, Url
from fleetquill.style.lengths import resolve, resolve_auto
from fleetquill.style.properties import ComputedStyle

Box = tuple[float, float, float, float]  # x, y, width, height
MOST_TILES: Final = 1_000_000
WIDE: Final = 10_000.0  # px around a box: the outside of it


class Areas:
    """The border, padding and content boxes of a frame, with their corners."""

    def __init__(self, style: ComputedStyle, frame: Frame, corners: Corners) -> None:
        borders = (style.border_top_width * frame.first, style.border_right_width,
                   style.border_bottom_width * frame.last, style.border_left_width)  # fmt: skip
        pads = tuple(
            resolve(pad, frame.width)
            for pad in (style.padding_top, style.padding_right, style.padding_bottom, style.padding_left)
        )
        outer: Box = (frame.x, frame.y, frame.width, frame.height)
        full = (borders[0] + pads[0], borders[1] + pads[1], borders[2] + pads[2], borders[3] + pads[3])
        self.boxes: dict[str, Box] = {
            "border-box": outer,
            "padding-box": _shrunk(outer, borders),
            "content-box": _shrunk(outer, full),
        }
        self.corners: dict[str, Corners] = {
            "border-box": corners,
            "padding-box": inset(corners, *borders),
            "content-box": inset(corners, *full),
        }

    def path(self, name: str) -> Any:
        return rounded(*self.boxes[name], self.corners[name])


def _shrunk(box: Box, edges: tuple[float, float, float, float]) -> Box:
    top, right, bottom, left = edges
    return box[0] + left, box[1] + top, max(0.0, box[2] - left - right), max(0.0, box[3] - top - bottom)


def paint_background(
    canvas: Canvas, style: ComputedStyle, frame: Frame, corners: Corners, pictures: Mapping[str, Picture | Drawing]
) -> None:
    """Colour and layers, the last layer first."""
    areas = Areas(style, frame, corners)
    clips = style.background_clip
    color = style.background_color
    if color.alpha > 0:
        canvas.fill_path(areas.path(clips[(len(style.background_image) or 1) % len(clips) - 1]), color)
    for index in range(len(style.background_image) - 1, -1, -1):
        image = style.background_image[index]
        if image == "none":
            continue
        picture = pictures.get(image.url) if isinstance(image, Url) else None
        if isinstance(image, Url) and picture is None:
            continue
        _paint_layer(canvas, style, index, image, picture, areas)


def _paint_layer(
    canvas: Canvas, style: ComputedStyle, index: int, image: Any, picture: Picture | Drawing | None, areas: Areas
) -> None:
    x, y, width, height = areas.boxes[style.background_origin[index % len(style.background_origin)]]
    clip = style.background_clip[index % len(style.background_clip)]
    wide, high = _tile_size(style.background_size[index % len(style.background_size)], width, height, picture)
    if wide <= 0.01 or high <= 0.01:
        return
    repeats = style.background_repeat[index % len(style.background_repeat)]
    if repeats[0] == "round":
        wide = width / max(1, round(width / wide))
    if repeats[1] == "round":
        high = height / max(1, round(height / high))
    place = style.background_position[index % len(style.background_position)]
    left = x + resolve(place[0], width - wide)
    top = y + resolve(place[1], height - high)
    clip_x, clip_y, clip_width, clip_height = areas.boxes[clip]
    columns = _places(left, wide, x, width, clip_x, clip_width, repeats[0])
    rows = _places(top, high, y, height, clip_y, clip_height, repeats[1])
    if not columns or not rows or len(columns) * len(rows) > MOST_TILES:
        return
    canvas.save()
    canvas.clip(areas.path(clip))
    if isinstance(picture, Drawing):
        for tile_y in rows:
            for tile_x in columns:
                canvas.drawing(picture, tile_x, tile_y, wide, high)
    elif picture is not None:
        canvas.tiles(picture, columns, rows, wide, high)
    else:
        gradient = shade(image, wide, high, style.color)
        for tile_y in rows:
            for tile_x in columns:
                canvas.shade(gradient, tile_x, tile_y, wide, high)
    canvas.restore()


def _tile_size(size: Any, width: float, height: float, picture: Picture | Drawing | None) -> tuple[float, float]:
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


def _places(
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


# ---- shadows and outlines ----


def paint_shadows(canvas: Canvas, style: ComputedStyle, frame: Frame, corners: Corners, *, inside: bool) -> None:
    """The shadows outside of a box, or those inside it; the first lies uppermost."""
    for shadow in reversed(style.box_shadow):
        if shadow.inset != inside:
            continue
        if inside:
            _paint_inset(canvas, style, shadow, Areas(style, frame, corners))
        else:
            _paint_outer(canvas, style, shadow, frame, corners)


def _paint_outer(canvas: Canvas, style: ComputedStyle, shadow: BoxShadow, frame: Frame, corners: Corners) -> None:
    color = style.used_color(shadow.color)
    spread = shadow.spread
    width, height = frame.width + 2 * spread, frame.height + 2 * spread
    if width <= 0 or height <= 0 or color.alpha <= 0:
        return
    x, y = frame.x + shadow.x - spread, frame.y + shadow.y - spread
    canvas.save()
    outside = rectangle(frame.x - WIDE, frame.y - WIDE, frame.width + 2 * WIDE, frame.height + 2 * WIDE)
    canvas.clip([*outside, *rounded(*frame[:4], corners)], even_odd=True)
    grown = inset(corners, -spread, -spread, -spread, -spread) if not corners.square else corners
    if shadow.blur <= 0:
        canvas.fill_path(rounded(x, y, width, height, grown), color)
    else:
        radius = max(0.0, min(grown.top_left[0], width / 2, height / 2))
        picture = shadow_picture(round(width, 2), round(height, 2), round(radius, 2), shadow.blur, color, False)
        blur = shadow.blur
        canvas.picture(picture, x - blur, y - blur, width + 2 * blur, height + 2 * blur)
    canvas.restore()


def _paint_inset(canvas: Canvas, style: ComputedStyle, shadow: BoxShadow, areas: Areas) -> None:
    color = style.used_color(shadow.color)
    x, y, width, height = areas.boxes["padding-box"]
    corners = areas.corners["padding-box"]
    if width <= 0 or height <= 0:
        return
    hole_x, hole_y = x + shadow.x + shadow.spread, y + shadow.y + shadow.spread
    hole_width, hole_height = max(0.0, width - 2 * shadow.spread), max(0.0, height - 2 * shadow.spread)
    canvas.save()
    canvas.clip(rounded(x, y, width, height, corners))
    if shadow.blur <= 0:
        outside = rectangle(x - WIDE, y - WIDE, width + 2 * WIDE, height + 2 * WIDE)
        canvas.fill_path([*outside, *rounded(hole_x, hole_y, hole_width, hole_height, corners)], color, even_odd=True)
    else:
        blur = shadow.blur
        radius = min(corners.top_left[0], hole_width / 2, hole_height / 2)
        picture = shadow_picture(round(hole_width, 2), round(hole_height, 2), round(radius, 2), blur, color, True)
        ring = rectangle(x - WIDE, y - WIDE, width + 2 * WIDE, height + 2 * WIDE)
        canvas.fill_path([*ring, *rectangle(hole_x, hole_y, hole_width, hole_height)], color, even_odd=True)
        canvas.picture(picture, hole_x, hole_y, hole_width, hole_height)
    canvas.restore()


def paint_outline(canvas: Canvas, style: ComputedStyle, frame: Frame, corners: Corners) -> None:
    """A line around the border box that takes no room."""
    width = style.outline_width
    if width <= 0:
        return
    reach = width + style.outline_offset
    kind = "solid" if style.outline_style == "auto" else style.outline_style
    side = Side(width, kind, style.outline_color)
    outer = Frame(
        frame.x - reach, frame.y - reach, frame.width + 2 * reach, frame.height + 2 * reach, frame.first, frame.last
    )
    grown = inset(corners, -reach, -reach, -reach, -reach) if not corners.square else corners
    paint_borders(canvas, (side, side, side, side), outer, grown)
