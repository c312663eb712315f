"""Borders made of a picture: cut in nine, its edges stretched or repeated (CSS Backgrounds 3 §5)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

from fleetquill.drawing.canvas import Canvas, Drawing
from fleetquill.drawing.gradients import shade
from fleetquill.drawing.paths import rectangle
from fleetquill.drawing.pictures import Picture, rendered
from fleetquill.paint.borders import Frame
from fleetquill.paint.tiles import Image, places
from fleetquill.style.background_values import Url
from fleetquill.style.effect_properties import Times
from fleetquill.style.lengths import resolve
from fleetquill.style.properties import ComputedStyle

Edges = tuple[float, float, float, float]  # top, right, bottom, left


class _Stretch(NamedTuple):
    """Where a stretch of the picture goes along one axis: its place and length there, and in the picture."""

    to: float
    length: float
    source: float
    taken: float


def paint_border_image(canvas: Canvas, style: ComputedStyle, frame: Frame, pictures: Mapping[str, Image]) -> bool:
    """Draws the border's picture; False where there is none, and the plain border is to be drawn."""
    borders: Edges = (style.border_top_width, style.border_right_width, style.border_bottom_width,
                      style.border_left_width)  # fmt: skip
    outset = _used(style.border_image_outset, borders, (0.0, 0.0))
    x, y = frame.x - outset[3], frame.y - outset[0]
    width, height = frame.width + outset[1] + outset[3], frame.height + outset[0] + outset[2]
    image = _image(style, width, height, pictures)
    if image is None:
        return False
    sizes = (image.height, image.width, image.height, image.width)
    slices = tuple(
        min(size, edge if isinstance(edge, float) else resolve(edge, size))
        for edge, size in zip(style.border_image_slice.edges, sizes, strict=True)
    )
    widths = _used(style.border_image_width, borders, (width, height), slices)
    shrink = min(
        1.0, width / ((widths[1] + widths[3]) or width or 1.0), height / ((widths[0] + widths[2]) or height or 1.0)
    )
    top, right, bottom, left = (edge * shrink for edge in widths)
    columns = _thirds(x, width, left, right, image.width, slices[3], slices[1])
    rows = _thirds(y, height, top, bottom, image.height, slices[0], slices[2])
    across, down = style.border_image_repeat
    for row, down_stretch in enumerate(rows):
        for column, across_stretch in enumerate(columns):
            if (row, column) == (1, 1) and not style.border_image_slice.fill:
                continue
            _paint_part(
                canvas, image, across_stretch, down_stretch, across if column == 1 else "stretch",
                down if row == 1 else "stretch", _scales(columns, rows, row, column),
            )  # fmt: skip
    return True


def _image(style: ComputedStyle, width: float, height: float, pictures: Mapping[str, Image]) -> Drawing | None:
    """The picture as a drawing of its natural size; a gradient has that of the border's area."""
    source = style.border_image_source
    picture = pictures.get(source.url) if isinstance(source, Url) else None
    if isinstance(picture, Drawing):
        return picture
    if isinstance(picture, Picture):
        drawing = Drawing(picture.width, picture.height)
        drawing.picture(rendered(picture, style), 0.0, 0.0, picture.width, picture.height)
        return drawing
    if isinstance(source, Url) or width <= 0 or height <= 0:
        return None
    drawing = Drawing(width, height)
    drawing.shade(shade(source, width, height, style.color), 0.0, 0.0, width, height)
    return drawing


def _used(
    edges: tuple[Any, ...], borders: Edges, area: tuple[float, float], slices: tuple[float, ...] | None = None
) -> Edges:
    """Widths in px: so many times the border, lengths, shares of the area, or those of the slices."""
    found: list[float] = []
    for index, (edge, border) in enumerate(zip(edges, borders, strict=True)):
        if isinstance(edge, Times):
            found.append(edge.value * border)
        elif isinstance(edge, str):
            found.append(slices[index] if slices else border)
        else:
            found.append(resolve(edge, area[1 - index % 2]))
    return found[0], found[1], found[2], found[3]


def _thirds(
    start: float, length: float, before: float, after: float, size: float, first: float, last: float
) -> tuple[_Stretch, _Stretch, _Stretch]:
    return (
        _Stretch(start, before, 0.0, first),
        _Stretch(start + before, max(0.0, length - before - after), first, max(0.0, size - first - last)),
        _Stretch(start + length - after, after, size - last, last),
    )


def _scales(columns: tuple[_Stretch, ...], rows: tuple[_Stretch, ...], row: int, column: int) -> tuple[float, float]:
    """How large the middle parts are before they are repeated (§5.5): as large as the edges beside them make them."""

    def scale(stretches: tuple[_Stretch, ...], beside: int) -> float:
        for index in (beside,) if beside != 1 else (0, 2):
            if stretches[index].taken > 0 and stretches[index].length > 0:
                return stretches[index].length / stretches[index].taken
        return 1.0

    return scale(rows, row), scale(columns, column)


def _paint_part(
    canvas: Canvas, image: Drawing, across: _Stretch, down: _Stretch, repeat_x: str, repeat_y: str,
    scales: tuple[float, float],
) -> None:  # fmt: skip
    """One of the nine parts, as often as it is repeated."""
    if min(across.length, down.length, across.taken, down.taken) <= 0.001:
        return
    canvas.save()
    canvas.clip(rectangle(across.to, down.to, across.length, down.length))
    lefts, width = _repeated(across, scales[0], repeat_x)
    tops, height = _repeated(down, scales[1], repeat_y)
    for top in tops:
        for left in lefts:
            canvas.save()
            canvas.clip(rectangle(left, top, width, height))
            wide, high = width / across.taken, height / down.taken
            canvas.drawing(
                image, left - across.source * wide, top - down.source * high, image.width * wide, image.height * high
            )
            canvas.restore()
    canvas.restore()


def _repeated(stretch: _Stretch, scale: float, repeat: str) -> tuple[list[float], float]:
    """Where the parts begin along an axis, and how long each is."""
    if repeat == "stretch":
        return [stretch.to], stretch.length
    size = stretch.taken * scale
    if repeat == "round":
        size = stretch.length / max(1, round(stretch.length / size))
        return places(stretch.to, size, stretch.to, stretch.length, stretch.to, stretch.length, "repeat"), size
    if repeat == "space":
        count = int(stretch.length / size + 0.001)
        gap = (stretch.length - count * size) / (count + 1)
        return [stretch.to + gap + number * (size + gap) for number in range(count)], size
    start = stretch.to + (stretch.length - size) / 2  # the middle one stands in the middle
    return places(start, size, stretch.to, stretch.length, stretch.to, stretch.length, "repeat"), size
