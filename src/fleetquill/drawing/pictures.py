"""Pictures as they are drawn: their bytes as they came, and their size."""

from __future__ import annotations

import io
from hashlib import blake2b
from typing import Any, NamedTuple, Protocol

from fleetquill.unpacking import opened


class Picture(NamedTuple):
    """A picture: its bytes as they came, its format, and its size in px."""

    key: str
    format: str
    content: bytes
    width: float
    height: float
    pixels: tuple[int, int]
    orientation: int = 1  # EXIF: how the stored pixels are turned
    smooth: bool = True  # whether enlarged pixels go over into one another
    fault: str = ""  # what is wrong with it, although it is shown


def pixels_of(picture: Picture) -> Any:
    """A Pillow image of a picture, to be used in a `with`: of the format that it was found to have."""
    return opened(picture.content, [picture.format])


def png_picture(image: Any, width: float, height: float, effort: int = 1) -> Picture:
    """A Pillow image as a picture of a size in px, known by its content; `effort` from 1 to 9 makes it smaller."""
    out = io.BytesIO()
    image.save(out, "PNG", compress_level=effort)
    content = out.getvalue()
    return Picture(blake2b(content, digest_size=16).hexdigest(), "PNG", content, width, height, image.size)


class Rendered(Protocol):
    """A computed style, as far as pictures go."""

    image_rendering: str


def rendered(picture: Picture, style: Rendered) -> Picture:
    """The picture as a style wants it enlarged (CSS Images 3 §5.3)."""
    if style.image_rendering not in ("pixelated", "crisp-edges"):
        return picture
    return picture._replace(key=f"{picture.key}|pixelated", smooth=False)
