"""The picture door: pictures become a document, a page for each."""

from __future__ import annotations

import base64
import os
import re
from collections.abc import Sequence
from pathlib import Path
from typing import Any, Final, NamedTuple

from lxml import etree

from fleetquill.errors import OptionError, SourceError, Where
from fleetquill.intake.endings import PICTURES
from fleetquill.intake.order import Order
from fleetquill.policy import PICTURE_FORMATS
from fleetquill.tree.document import Document
from fleetquill.tree.head import add_rule, new_document
from fleetquill.tree.lengths import Length, css_lengths, page_px, px_of
from fleetquill.unpacking import opened

PictureSource = Any  # a path, the bytes of a picture, or a binary stream of them
USUAL_DPI: Final = 150.0  # of a picture that does not say how large it is


def read(order: Order) -> Document:
    """See `picture_document`."""
    return picture_document(order.sources, page=order.page, margin=order.margin)


def picture_document(
    sources: Sequence[PictureSource], *, title: str = "", page: str = "", margin: Length = 0
) -> Document:
    """A page for each picture, which is a path, its bytes or a stream of them; a folder stands for the pictures in
    it by name, numbers in the order of their values.

    Without `page` each page is as large as its picture (by its own dpi, else 150) and the margins;
    with it the picture is fitted into the margins of that paper. Raises SourceError where a source
    is not there or is no picture.
    """
    if isinstance(sources, (str, bytes, os.PathLike)):
        sources = [sources]
    found = [picture for source in sources for picture in _pictures(source)]
    if not found:
        if not sources:
            raise SourceError("There are no pictures to make pages of.")
        raise SourceError("The folder has no pictures.", where=Where(str(sources[0])))
    document = new_document(Path(), found[0].name, title=title or (found[0].alt if len(found) == 1 else ""))
    document.home = None
    document.files = [Path(picture.name) for picture in found if picture.content is None]
    top, right, bottom, left = _margins(margin)
    for number, picture in enumerate(found, 1):
        width, height = _size(picture)
        if page:
            sheet_width, sheet_height = page_px(page)
            room = sheet_width - left - right, sheet_height - top - bottom
            scale = min(room[0] / width, room[1] / height)
            if scale <= 0:
                raise OptionError("The margins leave no room for pictures.")
            width, height = width * scale, height * scale
            lift = (room[1] - height) / 2
        else:
            sheet_width, sheet_height, lift = width + left + right, height + top + bottom, 0.0
        name = f"fq-picture-{number}"
        margins = f"{top:.3f}px {right:.3f}px {bottom:.3f}px {left:.3f}px"
        add_rule(document.root, f"@page {name} {{ size: {sheet_width:.3f}px {sheet_height:.3f}px; margin: {margins} }}")
        section = etree.SubElement(document.body, "section", {"style": f"page:{name}"})
        shape = f"display:block;width:{width:.3f}px;height:{height:.3f}px;margin:{lift:.3f}px auto 0"
        etree.SubElement(section, "img", {"src": picture.address, "alt": picture.alt, "style": shape})
    return document


def _margins(margin: Length) -> tuple[float, float, float, float]:
    """Top, right, bottom, left in px from one to four lengths."""
    parts = css_lengths(margin, "margin").split()
    sides = [px_of(part, "margin") for part in parts]
    top = sides[0]
    right = sides[1] if len(sides) > 1 else top
    bottom = sides[2] if len(sides) > 2 else top
    return top, right, bottom, sides[3] if len(sides) > 3 else right


class Picture(NamedTuple):
    """A picture among others: what it is called, its address, its bytes where it is no file."""

    name: str
    address: str
    content: bytes | None = None

    @property
    def alt(self) -> str:
        return "" if self.content is not None else Path(self.name).stem


def _pictures(source: PictureSource) -> list[Picture]:
    if isinstance(source, (bytes, bytearray)) or hasattr(source, "read"):
        content = bytes(source) if isinstance(source, (bytes, bytearray)) else source.read()
        kind = "image/svg+xml" if b"<svg" in content[:1000] else "image/*"
        address = f"data:{kind};base64,{base64.b64encode(content).decode('ascii')}"
        return [Picture("picture", address, content)]
    path = Path(source)
    if path.is_dir():
        entries = [entry for entry in path.iterdir() if entry.suffix.lower() in PICTURES and entry.is_file()]
        return [Picture(str(entry), str(entry.resolve())) for entry in sorted(entries, key=_natural)]
    if not path.is_file():
        raise SourceError("The picture does not exist.", where=Where(str(path)), remedy="Check the name.")
    return [Picture(str(path), str(path.resolve()))]


def _natural(path: Path) -> list[tuple[int, int, str]]:
    """The order in which people count: scan 2 before scan 10."""
    parts = re.split(r"(\d+)", path.name.casefold())
    return [(1, int(part), "") if part.isdecimal() else (0, 0, part) for part in parts]


def _size(picture: Picture) -> tuple[float, float]:
    """Width and height in px on paper, turned as its camera held it."""
    content = picture.content if picture.content is not None else Path(picture.name).read_bytes()
    if picture.name.lower().endswith(".svg") or b"<svg" in content[:1000]:
        from fleetquill.graphics.svg.reading import natural_size, parse_svg

        root = parse_svg(content)
        if isinstance(root, str):
            raise SourceError(root, where=Where(picture.name))
        return natural_size(root)
    from PIL import Image, UnidentifiedImageError

    try:
        with opened(content, PICTURE_FORMATS) as image:
            wide, high = image.size
            dpi = image.info.get("dpi", (USUAL_DPI, USUAL_DPI))
            turned = image.getexif().get(0x0112, 1) in (5, 6, 7, 8)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, KeyError, Image.DecompressionBombError) as error:
        raise SourceError("The file is not a picture that can be read.", where=Where(picture.name)) from error
    across, down = (float(value) if 20 <= float(value) <= 10_000 else USUAL_DPI for value in dpi[:2])
    width, height = wide / across * 96, high / down * 96
    return (height, width) if turned else (width, height)
