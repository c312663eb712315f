"""Paths that boxes are drawn with: rectangles, rounded rectangles, ellipses, polygons."""

from __future__ import annotations

import math
from typing import Final, NamedTuple

from fleetquill.drawing.canvas import Area, Path, Segment

KAPPA: Final = 0.5522847498307936  # control points of a quarter circle


class Corners(NamedTuple):
    """Radii (across, down) of the four corners, clockwise from the top left."""

    top_left: tuple[float, float]
    top_right: tuple[float, float]
    bottom_right: tuple[float, float]
    bottom_left: tuple[float, float]

    @property
    def square(self) -> bool:
        return not any(across and down for across, down in self)


SQUARE: Final = Corners((0.0, 0.0), (0.0, 0.0), (0.0, 0.0), (0.0, 0.0))


def bounds(path: Path) -> Area:
    """The box around a path, as near as its curves go."""
    xs: list[float] = []
    ys: list[float] = []
    for verb, *numbers in path:
        if verb == "c" and xs:
            xs += _farthest(xs[-1], *numbers[::2])
            ys += _farthest(ys[-1], *numbers[1::2])
        elif numbers:
            xs.append(numbers[0])
            ys.append(numbers[1])
    if not xs:
        return 0.0, 0.0, 0.0, 0.0
    return min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)


def _farthest(start: float, first: float, second: float, end: float) -> tuple[float, ...]:
    """Where a curve turns back along an axis, and last its end."""
    least, most = min(start, end), max(start, end)
    if least <= first <= most and least <= second <= most:
        return (end,)
    a, b, c = end - start + 3 * (first - second), 2 * (start - 2 * first + second), first - start
    root = b * b - 4 * a * c
    if root < 0:
        return (end,)
    if abs(a) < 1e-12 * (abs(b) + abs(c)):
        times = [-c / b] if b else []
    else:
        times = [(-b + sign * math.sqrt(root)) / (2 * a) for sign in (1, -1)]
    turns = [
        (1 - t) ** 3 * start + 3 * (1 - t) ** 2 * t * first + 3 * (1 - t) * t * t * second + t**3 * end
        for t in times
        if 0 < t < 1
    ]
    return (*turns, end)


def encloses(path: Path) -> bool:
    """Whether there is anything in a path to be filled; readers show a single line that is filled, too."""
    points: set[tuple[float, ...]] = set()
    for verb, *numbers in path:
        if verb == "m":
            points = set()
        elif verb == "c":
            return True
        if numbers:
            points.add(tuple(numbers))
        if len(points) > 2:
            return True
    return False


CLOSED: Final[Segment] = ("h",)


def rectangle(x: float, y: float, width: float, height: float) -> list[Segment]:
    return [("m", x, y), ("l", x + width, y), ("l", x + width, y + height), ("l", x, y + height), CLOSED]


def polygon(*points: tuple[float, float]) -> list[Segment]:
    return [("m", *points[0]), *(("l", *point) for point in points[1:]), CLOSED]


def rounded(x: float, y: float, width: float, height: float, corners: Corners) -> Path:
    """A rectangle with elliptical corners, clockwise from the left end of its top."""
    if corners.square:
        return rectangle(x, y, width, height)
    (tlx, tly), (trx, try_), (brx, bry), (blx, bly) = corners
    right, bottom = x + width, y + height
    k = 1 - KAPPA
    return [
        ("m", x + tlx, y),
        ("l", right - trx, y),
        ("c", right - trx * k, y, right, y + try_ * k, right, y + try_),
        ("l", right, bottom - bry),
        ("c", right, bottom - bry * k, right - brx * k, bottom, right - brx, bottom),
        ("l", x + blx, bottom),
        ("c", x + blx * k, bottom, x, bottom - bly * k, x, bottom - bly),
        ("l", x, y + tly),
        ("c", x, y + tly * k, x + tlx * k, y, x + tlx, y),
        CLOSED,
    ]


def ellipse(cx: float, cy: float, rx: float, ry: float) -> list[Segment]:
    """An ellipse by its middle and its radii."""
    kx, ky = rx * KAPPA, ry * KAPPA
    return [
        ("m", cx + rx, cy),
        ("c", cx + rx, cy + ky, cx + kx, cy + ry, cx, cy + ry),
        ("c", cx - kx, cy + ry, cx - rx, cy + ky, cx - rx, cy),
        ("c", cx - rx, cy - ky, cx - kx, cy - ry, cx, cy - ry),
        ("c", cx + kx, cy - ry, cx + rx, cy - ky, cx + rx, cy),
        CLOSED,
    ]


def fitting(corners: Corners, width: float, height: float) -> Corners:
    """The corners, all scaled down until they fit a box of that size (CSS Backgrounds 3 §4.5)."""
    (tlx, tly), (trx, try_), (brx, bry), (blx, bly) = corners
    wide, high = max(0.0, width), max(0.0, height)
    sums = ((tlx + trx, wide), (blx + brx, wide), (tly + bly, high), (try_ + bry, high))
    scale = min([1.0, *(size / total for total, size in sums if total > size)])
    return Corners(*((across * scale, down * scale) for across, down in corners))


def inset(corners: Corners, top: float, right: float, bottom: float, left: float) -> Corners:
    """The corners of the inner edge of a border (CSS Backgrounds 3 §4.2)."""
    (tlx, tly), (trx, try_), (brx, bry), (blx, bly) = corners
    return Corners(
        (max(0.0, tlx - left), max(0.0, tly - top)),
        (max(0.0, trx - right), max(0.0, try_ - top)),
        (max(0.0, brx - right), max(0.0, bry - bottom)),
        (max(0.0, blx - left), max(0.0, bly - bottom)),
    )


STEPS: Final = 16  # straight pieces that a curve is measured by


def length_of(path: Path) -> float:
    """How long the lines of a path are, in px."""
    total = 0.0
    at = start = (0.0, 0.0)
    for verb, *numbers in path:
        if verb == "m":
            at = start = (numbers[0], numbers[1])
            continue
        for point in [start] if verb == "h" else points_of(at, numbers):
            total += math.dist(at, point)
            at = point
    return total


def points_of(start: tuple[float, float], numbers: list[float], steps: int = STEPS) -> list[tuple[float, float]]:
    """The points by which a line or curve goes on from `start`; `numbers` are those of its segment."""
    if len(numbers) == 2:
        return [(numbers[0], numbers[1])]
    (x0, y0), (x1, y1, x2, y2, x3, y3) = start, numbers
    found = []
    for step in range(1, steps + 1):
        t = step / steps
        a, b, c, d = (1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3
        found.append((a * x0 + b * x1 + c * x2 + d * x3, a * y0 + b * y1 + c * y2 + d * y3))
    return found
