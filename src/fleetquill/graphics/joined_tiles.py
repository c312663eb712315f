"""Tiles side by side in one picture: readers that smooth the edges of pictures would show seams between them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Final, NamedTuple

from fleetquill.caches import Cache
from fleetquill.drawing.pictures import Picture, pixels_of, png_picture

MOST_PIXELS: Final = 1 << 18  # of a joined picture
JOINED: Final = ("L", "LA", "RGB", "RGBA")  # modes of Pillow
MOST_KEPT: Final = 64

_kept: Cache[tuple[str, int, int], Picture] = Cache(MOST_KEPT)


class Patch(NamedTuple):
    """A picture at several places: the left edges, the tops, and its size."""

    picture: Picture
    columns: Sequence[float]
    rows: Sequence[float]
    width: float
    height: float


def joined(patch: Patch) -> Iterator[Patch]:
    """The patch with as many of its tiles in one picture as are few pixels; as it is where its tiles stand apart."""
    across = _many(patch.columns, patch.width, MOST_PIXELS // _size(patch.picture))
    down = _many(patch.rows, patch.height, MOST_PIXELS // (_size(patch.picture) * across)) if across else 0
    if across * down < 2 or not _is_simple(patch.picture):
        yield patch
        return
    for columns, wide in _groups(patch.columns, across):
        for rows, high in _groups(patch.rows, down):
            yield Patch(_repeated(patch.picture, wide, high), columns, rows, wide * patch.width, high * patch.height)


def _size(picture: Picture) -> int:
    return picture.pixels[0] * picture.pixels[1]


def _many(places: Sequence[float], size: float, most: int) -> int:
    """How many of the tiles along an axis may stand in one picture; 0 where they stand apart."""
    if len(places) > 1 and abs(places[1] - places[0] - size) > 0.001:
        return 0
    return min(len(places), most)


def _groups(places: Sequence[float], count: int) -> Iterator[tuple[Sequence[float], int]]:
    """The first places of as many groups of that many tiles as there are, and of the tiles that are left."""
    whole = len(places) // count * count
    if whole:
        yield places[:whole:count], count
    if whole < len(places):
        yield places[whole : whole + 1], len(places) - whole


def _is_simple(picture: Picture) -> bool:
    """Whether a picture can be taken apart without losing anything: photographs stay as they are."""
    if picture.format not in ("PNG", "GIF", "BMP") or picture.orientation != 1 or picture.fault:
        return False
    with pixels_of(picture) as image:
        return not image.info.get("icc_profile") and image.mode in (*JOINED, "1", "P")


def _repeated(picture: Picture, across: int, down: int) -> Picture:
    """So many tiles in one picture."""
    if across * down == 1:
        return picture
    key = (picture.key, across, down)
    found = _kept.get(key)
    if found is None:
        found = _kept.put(key, _made(picture, across, down))
    return found._replace(key=f"{picture.key}|{across}×{down}", smooth=picture.smooth)


def _made(picture: Picture, across: int, down: int) -> Picture:
    from PIL import Image

    wide, high = picture.pixels
    with pixels_of(picture) as image:
        if "transparency" in image.info:  # a colour that lets through, which the pixels alone do not say
            tile = image.convert("RGBA")
        else:
            tile = image if image.mode in JOINED else image.convert("RGB")
        whole = Image.new(tile.mode, (wide * across, high * down))
        for column in range(across):
            whole.paste(tile, (column * wide, 0))
        row = whole.crop((0, 0, wide * across, high))
        for place in range(1, down):
            whole.paste(row, (0, place * high))
    return png_picture(whole, picture.width * across, picture.height * down)
