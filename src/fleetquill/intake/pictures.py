"""The picture door: pictures become a document, a page for each."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path
from typing import Final

from lxml import etree

from fleetquill.errors import OptionError, SourceError, Where
from fleetquill.intake.endings import PICTURES
from fleetquill.intake.order import Order
from fleetquill.tree.document import Document
from fleetquill.tree.head import add_rule, new_document
from fleetquill.tree.lengths import Length, css_lengths, page_px, px_of

USUAL_DPI: Final = 150.0  # of a picture that does not say how large it is


def read(order: Order) -> Document:
    """See `picture_document`."""
    return picture_document(order.sources, page=order.page, margin=order.margin)


def picture_document(
    sources: Sequence[str | os.PathLike[str]], *, title: str = "", page: str = "", margin: Length = 0
) -> Document:
    """A page for each picture; a folder stands for the pictures in it, by name.

    Without `page` each page is as large as its picture (by its own dpi, else 150) and the margins;
    with it the picture is fitted into the margins of that paper. Raises SourceError where a source
    is not there or is no picture.
    """
    paths = [path for source in sources for path in _paths(Path(source))]
    if not paths:
        raise SourceError("The folder has no pictures.", where=Where(str(sources[0]) if sources else ""))
    document = new_document(Path(), str(paths[0]), title=title or (paths[0].stem if len(paths) == 1 else ""))
    top, right, bottom, left = _margins(margin)
    for number, path in enumerate(paths, 1):
        width, height = _size(path)
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
        etree.SubElement(section, "img", {"src": str(path.resolve()), "alt": path.stem, "style": shape})
    return document


def _margins(margin: Length) -> tuple[float, float, float, float]:
    """Top, right, bottom, left in px from one to four lengths."""
    parts = css_lengths(margin, "margin").split()
    sides = [px_of(part, "margin") for part in parts]
    top = sides[0]
    right = sides[1] if len(sides) > 1 else top
    bottom = sides[2] if len(sides) > 2 else top
    return top, right, bottom, sides[3] if len(sides) > 3 else right


def _paths(path: Path) -> list[Path]:
    if path.is_dir():
        return sorted(entry for entry in path.iterdir() if entry.suffix.lower() in PICTURES)
    if not path.is_file():
        raise SourceError("The picture does not exist.", where=Where(str(path)), remedy="Check the name.")
    return [path]


def _size(path: Path) -> tuple[float, float]:
    """Width and height in px on paper, turned as its camera held it."""
    if path.suffix.lower() == ".svg":
        from fleetquill.graphics.svg.reading import natural_size, parse_svg

        root = parse_svg(path.read_bytes())
        if isinstance(root, str):
            raise SourceError(root, where=Where(str(path)))
        return natural_size(root)
    from PIL import Image, UnidentifiedImageError

    try:
        with Image.open(path) as image:
            wide, high = image.size
            dpi = image.info.get("dpi", (USUAL_DPI, USUAL_DPI))
            turned = image.getexif().get(0x0112, 1) in (5, 6, 7, 8)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise SourceError("The file is not a picture that can be read.", where=Where(str(path))) from error
    across, down = (float(value) if 20 <= float(value) <= 10_000 else USUAL_DPI for value in dpi[:2])
    width, height = wide / across * 96, high / down * 96
    return (height, width) if turned else (width, height)
