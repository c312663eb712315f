"""Pictures made smaller on their way into the file, where the press is asked to."""

from __future__ import annotations

import io
from functools import lru_cache
from typing import Final

from fleetquill.drawing.pictures import Picture, pixels_of
from fleetquill.errors import OptionError

WORTH_IT: Final = 1.2  # times the wanted resolution from which pixels are taken out


class PictureRules:
    """`dpi` is the most that a picture keeps (0: all), `quality` of a JPEG from 1 to 95 (0: as it came)."""

    def __init__(self, dpi: float = 0.0, quality: int = 0) -> None:
        self.dpi = dpi
        self.quality = quality
        if self.dpi < 0 or 0 < self.dpi < 10:
            raise OptionError(f"Pictures of {self.dpi:g} dpi cannot be seen.", remedy="Give 72 to 1200.")
        if not 0 <= self.quality <= 95:
            raise OptionError(f"The quality of a JPEG is from 1 to 95, not {self.quality}.")

    @property
    def active(self) -> bool:
        return bool(self.dpi or self.quality)

    def apply(self, picture: Picture, width: float, height: float) -> Picture:
        """The picture for a place of that size in px."""
        wide, high = picture.pixels
        if picture.orientation >= 5:
            width, height = height, width
        if self.dpi:
            most = (max(1, round(width / 96 * self.dpi)), max(1, round(height / 96 * self.dpi)))
            if wide > most[0] * WORTH_IT or high > most[1] * WORTH_IT:
                share = max(most[0] / wide, most[1] / high)
                wide, high = max(1, round(wide * share)), max(1, round(high * share))
        if (wide, high) == picture.pixels and not (self.quality and picture.format == "JPEG"):
            return picture
        return _reduced(picture, wide, high, self.quality)


@lru_cache(maxsize=64)
def _reduced(picture: Picture, wide: int, high: int, quality: int) -> Picture:
    from PIL import Image

    with pixels_of(picture) as image:
        profile = image.info.get("icc_profile")
        transparent = "A" in image.getbands() or "transparency" in image.info
        if (wide, high) != image.size:
            image.draft(None, (wide, high))
            mode = "RGBA" if transparent else "RGB" if image.mode == "P" else image.mode
            small = (image if image.mode == mode else image.convert(mode)).resize(
                (wide, high), Image.Resampling.LANCZOS
            )
        else:
            small = image.copy()
    out = io.BytesIO()
    photograph = picture.format == "JPEG" or (quality > 0 and not transparent and small.mode in ("RGB", "L"))
    if photograph:
        small.save(out, "JPEG", quality=quality or 85, icc_profile=profile)
    else:
        small.save(out, "PNG", optimize=False)
    key = f"{picture.key}@{wide}x{high}q{quality}"
    kind = "JPEG" if photograph else "PNG"
    return picture._replace(key=key, format=kind, content=out.getvalue(), pixels=(wide, high))
