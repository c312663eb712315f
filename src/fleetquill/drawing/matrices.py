"""What a matrix does to points, paths and boxes, and what undoes it."""

from __future__ import annotations

from fleetquill.drawing.canvas import Area, Matrix, Point, Segment
from fleetquill.style.box_values import IDENTITY


def inverse(matrix: Matrix) -> Matrix:
    """What undoes a matrix; one that flattens everything is undone by nothing."""
    a, b, c, d, e, f = matrix
    determinant = a * d - b * c
    if abs(determinant) < 1e-12:
        return IDENTITY
    return (d / determinant, -b / determinant, -c / determinant, a / determinant,
            (c * f - d * e) / determinant, (b * e - a * f) / determinant)  # fmt: skip


def moved_point(matrix: Matrix, x: float, y: float) -> Point:
    """Where a point is after the matrix."""
    a, b, c, d, e, f = matrix
    return a * x + c * y + e, b * x + d * y + f


def moved(segment: Segment, matrix: Matrix) -> Segment:
    """A segment of a path as it is after the matrix."""
    numbers = segment[1:]
    points: list[float] = []
    for x, y in zip(numbers[::2], numbers[1::2], strict=True):
        points += moved_point(matrix, x, y)
    return (segment[0], *points)


def moved_corners(matrix: Matrix, area: Area) -> list[Point]:
    """The corners of an area after the matrix."""
    x, y, width, height = area
    return [moved_point(matrix, px, py) for py in (y, y + height) for px in (x, x + width)]


def inverse_bounds(matrix: Matrix, area: Area) -> Area:
    """The box around an area as it is before the matrix."""
    corners = moved_corners(inverse(matrix), area)
    xs, ys = [x for x, _ in corners], [y for _, y in corners]
    return min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)
