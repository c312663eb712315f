"""Soft shadows: the blurred outline of a rounded box as a picture (CSS Backgrounds 3 §6.1.2)."""

from __future__ import annotations

import io
import math
from functools import lru_cache
from typing import Final

from fleetquill.drawing.pictures import Picture
from fleetquill.style.values import Rgba

SCALE: Final = 1.5  # picture pixels for a px: 144 dpi is enough for something soft
MOST_PIXELS: Final = 4_000_000


@lru_cache(maxsize=128)
def shadow_picture(width: float, height: float, radius: float, blur: float, color: Rgba, hole: bool) -> Picture:
    """A box of that size in px with soft edges, `blur` px of margin on each side.

    With `hole` the picture is `width` × `height` and what is outside of the box throws the shadow inwards.
    """
    from PIL import Image, ImageDraw, ImageFilter

    margin = 0.0 if hole else blur
    full = (width + 2 * margin) * (height + 2 * margin)
    scale = min(SCALE, math.sqrt(MOST_PIXELS / max(full, 1.0)))
    pixels = (
        max(1, math.ceil((width + 2 * margin) * scale)),
        max(1, math.ceil((height + 2 * margin) * scale)),
    )
    pad = math.ceil(blur * scale) if hole else 0
    mask = Image.new("L", (pixels[0] + 2 * pad, pixels[1] + 2 * pad), 255 if hole else 0)
    box = [pad + margin * scale, pad + margin * scale]
    box += [box[0] + width * scale - 1, box[1] + height * scale - 1]
    if box[2] > box[0] and box[3] > box[1]:
        ImageDraw.Draw(mask).rounded_rectangle(box, radius=radius * scale, fill=0 if hole else 255)
    mask = mask.filter(ImageFilter.GaussianBlur(blur / 2 * scale))
    if pad:
        mask = mask.crop((pad, pad, pad + pixels[0], pad + pixels[1]))
    mask = mask.point([round(value * color.alpha) for value in range(256)])
    flat = tuple(round(part * 255) for part in color[:3])
    image = Image.new("RGB", pixels, flat)
    image.putalpha(mask)
    out = io.BytesIO()
    image.save(out, "PNG", compress_level=1)
    key = f"shadow:{width}:{height}:{radius}:{blur}:{color}:{hole}"
    size = (pixels[0] / scale, pixels[1] / scale)
    return Picture(key, "PNG", out.getvalue(), size[0], size[1], pixels)
