"""Filters that give each colour another, for colours and for pictures (Filter Effects 1 §5, §9.6)."""

from __future__ import annotations

import math
from typing import Final, NamedTuple

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.pictures import Picture, pixels_of, png_picture
from fleetquill.drawing.recoloring import recolored
from fleetquill.style.filter_values import Recolor
from fleetquill.style.values import Rgba

Row = tuple[float, float, float]


class ColorMatrix(NamedTuple):
    """Red, green and blue out of red, green and blue; then `offset` is added, and the opacity multiplied."""

    rows: tuple[Row, Row, Row]
    offset: Row = (0.0, 0.0, 0.0)
    alpha: float = 1.0

    def color(self, color: Rgba) -> Rgba:
        red, green, blue = (
            min(1.0, max(0.0, sum(a * b for a, b in zip(row, color[:3], strict=True)) + more))
            for row, more in zip(self.rows, self.offset, strict=True)
        )
        return Rgba(red, green, blue, color.alpha * self.alpha)

    def picture(self, picture: Picture) -> Picture:
        """The picture with all its pixels changed."""

        with pixels_of(picture) as opened:
            image = opened.convert("RGBA")
        flat = [value for row, more in zip(self.rows, self.offset, strict=True) for value in (*row, more * 255)]
        changed = image.convert("RGB").convert("RGB", flat)
        changed.putalpha(image.getchannel("A").point([round(value * self.alpha) for value in range(256)]))
        made = png_picture(changed, picture.width, picture.height)
        return made._replace(orientation=picture.orientation, smooth=picture.smooth)

    def drawing(self, drawing: Drawing) -> Drawing:
        """The drawing with all its colours and pictures changed."""
        return recolored(drawing, self.color, self.picture)


def scaled(factor: float, offset: float = 0.0, alpha: float = 1.0) -> ColorMatrix:
    rows = ((factor, 0.0, 0.0), (0.0, factor, 0.0), (0.0, 0.0, factor))
    return ColorMatrix(rows, (offset, offset, offset), alpha)


def dyed(color: Rgba) -> ColorMatrix:
    """Everything in one colour, as opaque as it is."""
    nothing: Row = (0.0, 0.0, 0.0)
    return ColorMatrix((nothing, nothing, nothing), color[:3], color.alpha)


def _mixed(rows: tuple[Row, Row, Row], amount: float) -> ColorMatrix:
    """Between leaving colours as they are (0) and `rows` (1)."""
    found = tuple(
        tuple((column == index) * (1 - amount) + value * amount for column, value in enumerate(row))
        for index, row in enumerate(rows)
    )
    return ColorMatrix(found)  # type: ignore[arg-type]


GREY: Final[Row] = (0.2126, 0.7152, 0.0722)
SEPIA: Final = ((0.393, 0.769, 0.189), (0.349, 0.686, 0.168), (0.272, 0.534, 0.131))
LIGHT: Final[Row] = (0.213, 0.715, 0.072)  # of hues and saturation (§9.6)


def _turned(degrees: float) -> ColorMatrix:
    cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    by_sine = ((-0.213, -0.715, 0.928), (0.143, 0.140, -0.283), (-0.787, 0.715, 0.072))
    rows = tuple(
        tuple(
            light + cos * ((column == index) - light) + sin * by_sine[index][column]
            for column, light in enumerate(LIGHT)
        )
        for index in range(3)
    )
    return ColorMatrix(rows)  # type: ignore[arg-type]


def matrix_of(step: Recolor) -> ColorMatrix:
    """What a filter function does to a colour."""
    name, amount = step
    if name == "hue-rotate":
        return _turned(amount)
    if name == "grayscale":
        return _mixed((GREY, GREY, GREY), amount)
    if name == "sepia":
        return _mixed(SEPIA, amount)
    if name == "saturate":
        return _mixed((LIGHT, LIGHT, LIGHT), 1 - amount)
    if name == "invert":
        return scaled(1 - 2 * amount, amount)
    if name == "opacity":
        return scaled(1.0, alpha=amount)
    if name == "contrast":
        return scaled(amount, 0.5 - 0.5 * amount)
    return scaled(amount)  # brightness
