"""The box around what a drawing draws: its shapes without their outlines' width, its words, its pictures."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from fleetquill.drawing.canvas import Area, Drawing, Look, Matrix, Path, Point
from fleetquill.drawing.matrices import moved_corners, moved_point
from fleetquill.drawing.words import advance_of
from fleetquill.style.box_values import IDENTITY, multiply
from fleetquill.text.shaping import Word


def extent_of(drawing: Drawing) -> Area | None:
    """The box in the drawing's px; None where it draws nothing."""
    points = list(_points(drawing, IDENTITY))
    if not points:
        return None
    left, top = min(x for x, _ in points), min(y for _, y in points)
    return left, top, max(x for x, _ in points) - left, max(y for _, y in points) - top


def united(first: Area, second: Area | None) -> Area:
    """The box around both."""
    if second is None:
        return first
    left, top = min(first[0], second[0]), min(first[1], second[1])
    right, bottom = max(first[0] + first[2], second[0] + second[2]), max(first[1] + first[3], second[1] + second[3])
    return left, top, right - left, bottom - top


def _points(drawing: Drawing, matrix: Matrix) -> Iterator[Point]:
    saved: list[tuple[Matrix, list[Point]]] = []
    clip: list[Point] = []
    for verb, arguments in drawing.steps:
        if verb == "save":
            saved.append((matrix, clip))
        elif verb == "restore":
            matrix, clip = saved.pop()
        elif verb == "clip":
            clip = list(_of_path(matrix, arguments[0]))
        elif verb == "shade_all":
            yield from clip
        elif verb == "transform":
            matrix = multiply(matrix, arguments[0])
        elif verb in ("fill_path", "stroke_path"):
            yield from _of_path(matrix, arguments[0])
        elif verb in ("fill_rect", "shade", "picture"):
            x, y, width, height = arguments[:4] if verb == "fill_rect" else arguments[1:5]
            yield from moved_corners(matrix, (x, y, width, height))
        elif verb == "stamps":
            for stamp in arguments[1]:
                placed = (stamp.scale, 0.0, 0.0, stamp.scale, stamp.x, stamp.y)
                yield from _of_path(multiply(matrix, placed), arguments[0])
        elif verb == "text":
            yield from moved_corners(matrix, _text_box(*arguments))
        elif verb == "drawing":
            inner, x, y, width, height = arguments
            fitted = (width / inner.width, 0.0, 0.0, height / inner.height, x, y)
            yield from _points(inner, multiply(matrix, fitted))


def _of_path(matrix: Matrix, path: Path) -> Iterator[Point]:
    for segment in path:
        numbers: tuple[float, ...] = segment[1:]
        yield from (moved_point(matrix, x, y) for x, y in zip(numbers[::2], numbers[1::2], strict=True))


def _text_box(
    x: float, baseline: float, look: Look, words: Sequence[Word], space: float, spaced: Sequence[bool] | None
) -> Area:
    face = look.setting.face
    width = advance_of(look, words, space, spaced)
    return x, baseline - face.ascent * look.size, width, (face.ascent + face.descent) * look.size
