"""Pictures as they are drawn: their bytes as they came, and their size."""

from __future__ import annotations

from typing import NamedTuple


class Picture(NamedTuple):
    """A picture: its bytes as they came, its format, and its size in px."""

    key: str
    format: str
    content: bytes
    width: float
    height: float
    pixels: tuple[int, int]
    orientation: int = 1  # EXIF: how the stored pixels are turned
