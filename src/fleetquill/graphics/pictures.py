"""Pictures: found, measured and kept once for a document. Decoding waits until the picture is drawn."""

from __future__ import annotations

from collections.abc import Callable
from hashlib import blake2b
from typing import Any

from fleetquill.deadline import heed
from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.pictures import Picture
from fleetquill.errors import FleetQuillError
from fleetquill.graphics.finished_pages import is_finished, page_drawing
from fleetquill.graphics.jpeg import end_of_picture
from fleetquill.policy import Policy, Resource
from fleetquill.unpacking import opened

JPEG_END = b"\xff\xd9"
JPEG_TAIL = 64_000  # cameras write more after the picture's end
DAMAGED = "The JPEG is damaged inside: readers may show a part of it wrongly."


class PictureStore:
    """The pictures of one document, by address. `draw` makes drawings of SVG files."""

    def __init__(
        self, fetch: Callable[[str], Resource], policy: Policy, draw: Callable[[bytes, PictureStore], Drawing | str]
    ) -> None:
        self._fetch = fetch
        self._policy = policy
        self._draw = draw
        self._pictures: dict[str, Picture | Drawing | str] = {}

    def get(self, url: str) -> Picture | Drawing | str:
        """The picture at an address relative to the document, or what is wrong with it."""
        found = self._pictures.get(url)
        if found is None:
            found = self._pictures[url] = self._load(url)
        return found

    def _load(self, url: str) -> Picture | Drawing | str:
        heed()
        try:
            resource = self._fetch(url)
        except FleetQuillError as error:
            return f"{error.what} {error.remedy}".rstrip()
        if is_svg(resource.content):
            return self._draw(resource.content, self)
        if is_finished(resource.content):
            return page_drawing(resource.content, url)
        return read_picture(resource.content, self._policy)


def is_svg(content: bytes) -> bool:
    """Whether a file begins as SVG does."""
    start = content[:1024].lstrip(b"\xef\xbb\xbf \t\r\n")
    return start.startswith(b"<svg") or (
        start.startswith((b"<?xml", b"<!--", b"<!DOCTYPE svg")) and b"<svg" in content[:8192]
    )


def read_picture(content: bytes, policy: Policy) -> Picture | str:
    """Measures a picture without decoding it; a message where it is not one."""
    from PIL import Image, UnidentifiedImageError

    try:
        with opened(content, policy.formats) as image:
            wide, high = image.size
            kind = "JPEG" if image.format == "MPO" else str(image.format)
            if kind not in ("JPEG", "PNG") and 0 < wide * high <= policy.picture_pixels:
                image.load()  # what is damaged says so now; JPEG and PNG are looked at otherwise
            (wide, high), orientation = image.size, _orientation(image)  # Pillow turns the pixels of a TIFF as it loads
    except Image.DecompressionBombError:
        return "The picture has more pixels than can be opened safely."
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, KeyError, EOFError, IndexError) as error:
        if isinstance(error, OSError) and "truncated" in str(error):
            return "The picture ends too early; the file is damaged."
        return "The file is not a picture that can be read."
    fault = ""
    if kind == "JPEG":
        end = end_of_picture(content)
        if end is None and JPEG_END not in content[-JPEG_TAIL:]:
            return "The JPEG ends too early; the file is damaged."
        content, fault = content[:end], "" if end is not None else DAMAGED
    if wide < 1 or high < 1:
        return "The picture has no pixels."
    if wide * high > policy.picture_pixels:
        return f"The picture has {wide} × {high} pixels, more than the policy allows."
    width, height = (high, wide) if orientation >= 5 else (wide, high)
    key = blake2b(content, digest_size=16).hexdigest()  # two pictures are one where their bytes are the same
    return Picture(key, kind, content, float(width), float(height), (wide, high), orientation, fault=fault)


def _orientation(image: Any) -> int:
    value = image.getexif().get(0x0112, 1)
    return value if isinstance(value, int) and 1 <= value <= 8 else 1
