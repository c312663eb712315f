"""Thin lines as areas. Readers draw no line thinner than one of their pixels, so that a drawing which is made small
would be all lines on the screen; what is filled is as light as it is thin.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Final

from fleetquill.drawing.canvas import Path, Point, Segment, Stroke

THIN: Final = 0.9  # px: less than a pixel of a usual screen
SQUARE_CAP: Final = 2
GENTLE: Final = math.radians(50)
MOST_HALVES: Final = 5

_Piece = tuple[Point, ...]  # the two ends of a straight piece, or the four points of a curve


def area_of(path: Path, stroke: Stroke) -> list[Segment]:
    """What a thin line covers, to be filled by its winding: its joins are bevelled, its round ends are not seen."""
    half = stroke.width / 2
    found: list[Segment] = []
    for pieces, closed in _subpaths(path):
        if closed:
            found += [*_run(_beside(pieces, half), "m"), ("h",), *_run(_beside(pieces, -half), "m"), ("h",)]
            continue
        if stroke.cap:
            pieces = _longer(pieces, half if stroke.cap == SQUARE_CAP else half * math.pi / 4)
        for part in _parts(pieces):
            found += [*_run(_beside(part, half), "m"), *_run(_beside(part, -half), "l"), ("h",)]
    return found


def _parts(pieces: list[_Piece]) -> list[list[_Piece]]:
    """A level or upright line as two: readers move the edges of a lone rectangle to their pixels."""
    points = [point for piece in pieces for point in piece]
    if any(len({point[axis] for point in points}) == 1 for axis in (0, 1)):
        start, end = min(points), max(points)
        middle = _middle(start, end)
        return [[(start, middle)], [(middle, end)]]
    return [pieces]


def _subpaths(path: Path) -> list[tuple[list[_Piece], bool]]:
    """The pieces of each subpath that have a length, and whether it is closed."""
    found: list[tuple[list[_Piece], bool]] = []
    pieces: list[_Piece] = []
    start = point = (0.0, 0.0)

    def end(closed: bool) -> None:
        if pieces:
            found.append((pieces.copy(), closed))
            pieces.clear()

    for verb, *numbers in path:
        if verb == "h":
            if point != start:
                pieces.append((point, start))
            point = start
            end(closed=True)
            continue
        points = list(zip(numbers[::2], numbers[1::2], strict=True))
        if verb == "m":
            end(closed=False)
            start = point = points[0]
            continue
        if any(one != point for one in points):
            pieces += _gentle((point, *points))
        point = points[-1]
    end(closed=False)
    return found


def _gentle(piece: _Piece, depth: int = 0) -> list[_Piece]:
    """A curve as curves that turn little, so that what runs beside their control points runs beside them."""
    if len(piece) == 2 or depth == MOST_HALVES or _turn(piece) < GENTLE:
        return [piece]
    first, second, third, fourth = piece
    to_second, across, to_fourth = _middle(first, second), _middle(second, third), _middle(third, fourth)
    before, after = _middle(to_second, across), _middle(across, to_fourth)
    middle = _middle(before, after)
    return [
        *_gentle((first, to_second, before, middle), depth + 1),
        *_gentle((middle, after, to_fourth, fourth), depth + 1),
    ]


def _turn(piece: _Piece) -> float:
    """How much the legs between control points turn in all, as angles."""
    legs = [(x1 - x0, y1 - y0) for (x0, y0), (x1, y1) in pairwise(piece) if (x0, y0) != (x1, y1)]
    return sum(abs(math.atan2(x0 * y1 - y0 * x1, x0 * x1 + y0 * y1)) for (x0, y0), (x1, y1) in pairwise(legs))


def _middle(first: Point, second: Point) -> Point:
    return (first[0] + second[0]) / 2, (first[1] + second[1]) / 2


def _direction(points: Sequence[Point]) -> Point:
    """Where a piece sets out to, as a vector of length 1."""
    x, y = points[0]
    for to_x, to_y in points[1:]:
        length = math.hypot(to_x - x, to_y - y)
        if length > 1e-9:
            return (to_x - x) / length, (to_y - y) / length
    return 1.0, 0.0


def _beside(pieces: list[_Piece], distance: float) -> list[_Piece]:
    """Pieces that run beside others; on their other side they run back."""
    if distance < 0:
        return [_moved(piece, distance)[::-1] for piece in reversed(pieces)]
    return [_moved(piece, distance) for piece in pieces]


def _moved(piece: _Piece, distance: float) -> _Piece:
    """A piece beside another; of a curve as near as its control points, which is enough for a thin line."""
    ahead = _direction(piece)
    back = _direction(piece[::-1])
    first, last = (-ahead[1] * distance, ahead[0] * distance), (back[1] * distance, -back[0] * distance)
    half = len(piece) // 2
    return tuple(
        (x + moved[0], y + moved[1])
        for (x, y), moved in zip(piece, [first] * half + [last] * (len(piece) - half), strict=True)
    )


def _longer(pieces: list[_Piece], by: float) -> list[_Piece]:
    """Pieces with straight ends that reach further, as caps do."""
    (x, y), (ahead_x, ahead_y) = pieces[0][0], _direction(pieces[0])
    (end_x, end_y), (back_x, back_y) = pieces[-1][-1], _direction(pieces[-1][::-1])
    return [
        ((x - ahead_x * by, y - ahead_y * by), (x, y)),
        *pieces,
        ((end_x, end_y), (end_x - back_x * by, end_y - back_y * by)),
    ]


def _run(pieces: list[_Piece], verb: str) -> list[Segment]:
    """Pieces one after another; `verb` brings to the first of them."""
    found: list[Segment] = []
    at: Point | None = None
    for piece in pieces:
        if piece[0] != at:
            found.append((verb, *piece[0]))
            verb = "l"
        found.append(("l", *piece[1]) if len(piece) == 2 else ("c", *piece[1], *piece[2], *piece[3]))
        at = piece[-1]
    return found
