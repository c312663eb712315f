"""Soft shadows: boxes and pixels with blurred edges (CSS Backgrounds 3 §6.1.2, Filter Effects 1 §9.9)."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import TYPE_CHECKING, Final

from fleetquill.drawing.canvas import Area
from fleetquill.drawing.pictures import Picture, png_picture
from fleetquill.style.values import Rgba

if TYPE_CHECKING:
    from fleetquill.graphics.raster import Pixels


SCALE: Final = 1.5  # picture pixels for a px: 144 dpi is enough for something soft
MOST_PIXELS: Final = 4_000_000
REACH: Final = 1.5  # of a shadow's blur radius, which is two deviations


@lru_cache(maxsize=128)
def shadow_picture(
    width: float, height: float, box: Area, radius: float, blur: float, color: Rgba, *, inside: bool
) -> Picture:
    """The shadow that a rounded box throws in a picture of that size in px.

    With `inside` it is all around the box that throws it.
    """
    from PIL import Image, ImageDraw, ImageFilter

    scale = min(SCALE, math.sqrt(MOST_PIXELS / max(width * height, 1.0)))
    pixels = (max(1, math.ceil(width * scale)), max(1, math.ceil(height * scale)))
    pad = math.ceil(REACH * blur * scale) if inside else 0
    mask = Image.new("L", (pixels[0] + 2 * pad, pixels[1] + 2 * pad), 255 if inside else 0)
    left, top = pad + box[0] * scale, pad + box[1] * scale
    right, bottom = left + box[2] * scale - 1, top + box[3] * scale - 1
    if right > left and bottom > top:
        draw = ImageDraw.Draw(mask)
        draw.rounded_rectangle([left, top, right, bottom], radius=radius * scale, fill=0 if inside else 255)
    mask = mask.filter(ImageFilter.GaussianBlur(blur / 2 * scale))
    if pad:
        mask = mask.crop((pad, pad, pad + pixels[0], pad + pixels[1]))
    mask = mask.point([round(value * color.alpha) for value in range(256)])
    flat = tuple(round(part * 255) for part in color[:3])
    image = Image.new("RGB", pixels, flat)
    image.putalpha(mask)
    return png_picture(image, pixels[0] / scale, pixels[1] / scale)


def blurred(pixels: Pixels, deviation: float, down: float | None = None) -> Pixels:
    """Pixels after a blur of so many pixels' deviation, across and down."""
    import numpy as np
    from PIL import Image, ImageFilter

    if deviation <= 0 and not down:
        return pixels
    image = Image.fromarray(np.uint8(np.clip(pixels, 0, 1) * 255 + 0.5), "RGBA")  # multiplied by opacity as they are
    soft = image.filter(ImageFilter.GaussianBlur((deviation, deviation if down is None else down)))
    return np.asarray(soft, np.float32) / 255
