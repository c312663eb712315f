"""What is drawn inside form controls: ticks, dots, sliders, bars, in px."""

from __future__ import annotations

from typing import Final

from tinycss2 import parse_one_component_value

from fleetquill.drawing.canvas import Drawing, Stroke
from fleetquill.drawing.paths import Corners, rounded
from fleetquill.style.colors import srgb_of
from fleetquill.style.values import BLACK, WHITE, Rgba

EDGE: Final = Rgba(0.46, 0.46, 0.46)
FILLED: Final = Rgba(0.06, 0.29, 0.29)
TROUGH: Final = Rgba(0.90, 0.92, 0.92)
BOX: Final = 13.0  # px of a box to tick
SLIDER: Final = (129.0, 16.0)
SWATCH: Final = (50.0, 27.0)


def _corners(radius: float) -> Corners:
    return Corners(*((radius, radius),) * 4)


def check_mark(checked: bool) -> Drawing:
    """A box to tick."""
    drawing = Drawing(BOX, BOX, inline=True)
    frame = rounded(0.5, 0.5, BOX - 1, BOX - 1, _corners(2.0))
    drawing.fill_path(frame, FILLED if checked else WHITE)
    drawing.stroke_path(frame, FILLED if checked else EDGE, Stroke(1.0))
    if checked:
        drawing.stroke_path([("m", 3.0, 6.8), ("l", 5.5, 9.3), ("l", 10.2, 3.9)], WHITE, Stroke(1.8))
    return drawing


def radio_mark(checked: bool) -> Drawing:
    """One of several that exclude one another."""
    drawing = Drawing(BOX, BOX, inline=True)
    ring = rounded(0.5, 0.5, BOX - 1, BOX - 1, _corners(BOX / 2 - 0.5))
    drawing.fill_path(ring, WHITE)
    drawing.stroke_path(ring, FILLED if checked else EDGE, Stroke(1.0))
    if checked:
        drawing.fill_path(rounded(3.5, 3.5, BOX - 7, BOX - 7, _corners(BOX / 2 - 3.5)), FILLED)
    return drawing


def slider(share: float, from_right: bool) -> Drawing:
    """A range with its thumb at a share of the way."""
    wide, high = SLIDER
    drawing = Drawing(wide, high, inline=True)
    thumb = 16.0
    at = (1 - share if from_right else share) * (wide - thumb)
    middle = at + thumb / 2
    start, filled = (middle, wide - middle) if from_right else (0, middle)
    drawing.fill_path(rounded(0, high / 2 - 3, wide, 6, _corners(3.0)), TROUGH)
    drawing.fill_path(rounded(start, high / 2 - 3, filled, 6, _corners(3.0)), FILLED)
    drawing.fill_path(rounded(at, 0, thumb, thumb, _corners(thumb / 2)), FILLED)
    return drawing


def color_swatch(value: str) -> Drawing:
    """A colour that was picked."""
    wide, high = SWATCH
    found = srgb_of(parse_one_component_value(value))
    drawing = Drawing(wide, high, inline=True)
    frame = rounded(0.5, 0.5, wide - 1, high - 1, _corners(2.0))
    drawing.fill_path(frame, WHITE)
    drawing.stroke_path(frame, EDGE, Stroke(1.0))
    drawing.fill_rect(4, 4, wide - 8, high - 8, Rgba(*found[:3]) if isinstance(found, tuple) else BLACK)
    return drawing


def drop_mark() -> Drawing:
    """The mark of a list that opens."""
    drawing = Drawing(8.0, 5.0, inline=True)
    drawing.stroke_path([("m", 0.8, 0.8), ("l", 4.0, 4.0), ("l", 7.2, 0.8)], EDGE, Stroke(1.4))
    return drawing


def bar(ems: float, share: float, size: float, from_right: bool) -> Drawing:
    """A bar so many ems long and one high, filled to a share."""
    wide = ems * size
    drawing = Drawing(wide, size, inline=True)
    inner = size / 2
    drawing.fill_path(rounded(0, size / 4, wide, inner, _corners(inner / 2)), TROUGH)
    if share > 0:
        filled = max(inner, share * wide)
        start = wide - filled if from_right else 0
        drawing.fill_path(rounded(start, size / 4, filled, inner, _corners(inner / 2)), FILLED)
    return drawing
