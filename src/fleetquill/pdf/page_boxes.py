"""The boxes of finished pages: how large they are, how they are turned, where they show what is on them
(ISO 32000-2 §14.11.2 and §7.7.3.3)."""

from __future__ import annotations

from typing import Any, Final

from fleetquill.pdf.reading import PdfPage, PdfReader

Box = tuple[float, float, float, float]  # left, bottom, right, top, in the units of the page
Matrix = tuple[float, float, float, float, float, float]

LETTER: Final = (0.0, 0.0, 612.0, 792.0)  # of a page that does not say
MOST_SIDE: Final = 1e6


def box_of(page: PdfPage, reader: PdfReader, name: str = "CropBox") -> Box:
    """A box of the page, within its medium; the medium itself where there is none."""
    medium = _box(page.entries.get("MediaBox"), reader) or LETTER
    own = _box(page.entries.get(name), reader)
    if own is None:
        return medium
    left, bottom = max(own[0], medium[0]), max(own[1], medium[1])
    right, top = min(own[2], medium[2]), min(own[3], medium[3])
    return (left, bottom, right, top) if right > left and top > bottom else medium


def _box(value: Any, reader: PdfReader) -> Box | None:
    sides = [reader.resolve(side) for side in reader.array(value)]
    if len(sides) < 4 or not all(isinstance(side, (int, float)) and abs(side) < MOST_SIDE for side in sides[:4]):
        return None
    x, y, right, top = sides[:4]
    found = (float(min(x, right)), float(min(y, top)), float(max(x, right)), float(max(y, top)))
    return found if found[2] > found[0] and found[3] > found[1] else None


def turn_of(page: PdfPage, reader: PdfReader) -> int:
    """How far the page is turned clockwise: 0, 90, 180 or 270."""
    found = reader.resolve(page.entries.get("Rotate"))
    return int(found) // 90 * 90 % 360 if isinstance(found, (int, float)) else 0


def unit_of(page: PdfPage, reader: PdfReader) -> float:
    """How many points a unit of the page is."""
    found = reader.resolve(page.entries.get("UserUnit"))
    return float(found) if isinstance(found, (int, float)) and 0 < found < MOST_SIDE else 1.0


def size_of(page: PdfPage, reader: PdfReader) -> tuple[float, float]:
    """Width and height as the page is shown, in points."""
    left, bottom, right, top = box_of(page, reader)
    unit = unit_of(page, reader)
    wide, high = (right - left) * unit, (top - bottom) * unit
    return (high, wide) if turn_of(page, reader) in (90, 270) else (wide, high)


def shown_matrix(page: PdfPage, reader: PdfReader) -> Matrix:
    """Leads from the page's own space to points from its top-left corner as it is shown, y down."""
    return matrix_of(box_of(page, reader), turn_of(page, reader), unit_of(page, reader))


def matrix_of(box: Box, turn: int, unit: float) -> Matrix:
    """The same for a box of a page, how far that is turned, and how many points its unit is."""
    left, bottom, right, top = box
    return {
        0: (unit, 0.0, 0.0, -unit, -left * unit, top * unit),
        90: (0.0, unit, unit, 0.0, -bottom * unit, -left * unit),
        180: (-unit, 0.0, 0.0, unit, right * unit, -bottom * unit),
        270: (0.0, -unit, -unit, 0.0, top * unit, right * unit),
    }[turn]
