"""The four sides of a border: mitred, rounded, in every style (CSS Backgrounds 3 §3 and §4)."""

from __future__ import annotations

from itertools import groupby

from fleetquill.drawing.canvas import Canvas, Path, Segment
from fleetquill.drawing.paths import Corners, inset, polygon, rectangle, rounded
from fleetquill.paint.borders import Frame, Side, Sides, shades
from fleetquill.paint.strokes import stroke_line, stroke_ring
from fleetquill.style.values import Rgba

Widths = tuple[float, float, float, float]
Part = tuple[float, float, Rgba]  # from one share of the width to another


def paint_borders(canvas: Canvas, sides: Sides, frame: Frame, corners: Corners) -> None:
    """The four sides; a side that is broken off is left out (box-decoration-break: slice)."""
    top, right, bottom, left = sides
    if not frame.first:
        top = top._replace(width=0.0)
    if not frame.last:
        bottom = bottom._replace(width=0.0)
    sides = (top, right, bottom, left)
    present = [side for side in sides if side.width > 0]
    if not present or frame.width <= 0 or frame.height <= 0:
        return
    if not corners.square and len(present) < 4:  # where there is no side, its inner and outer edge are one
        canvas.save()
        canvas.clip(_strips(sides, frame, corners))
        _paint_sides(canvas, sides, present, frame, corners)
        canvas.restore()
    else:
        _paint_sides(canvas, sides, present, frame, corners)


def _strips(sides: Sides, frame: Frame, corners: Corners) -> Path:
    """Where the sides that are there may reach: as far in as they are wide, or their corners round."""
    x, y, width, height = frame[:4]
    top_left, top_right, bottom_right, bottom_left = corners
    top, right, bottom, left = (
        max(side.width, first, second) if side.width > 0 else 0.0
        for side, first, second in zip(
            sides,
            (top_left[1], top_right[0], bottom_right[1], bottom_left[0]),
            (top_right[1], bottom_right[0], bottom_left[1], top_left[0]),
            strict=True,
        )
    )
    strips = ((x, y, width, top), (x + width - right, y, right, height), (x, y + height - bottom, width, bottom),
              (x, y, left, height))  # fmt: skip
    return [segment for strip in strips if strip[2] > 0 and strip[3] > 0 for segment in rectangle(*strip)]


def _paint_sides(canvas: Canvas, sides: Sides, present: list[Side], frame: Frame, corners: Corners) -> None:
    widths = (sides[0].width, sides[1].width, sides[2].width, sides[3].width)
    alike = len({(side.style, side.color) for side in present}) == 1
    if alike and present[0].style in ("solid", "double") and (not corners.square or len(present) > 1):
        for start, end, color in shades(0, present[0]):
            canvas.fill_path(_ring(frame, corners, widths, start, end), color, even_odd=True)
    elif corners.square:
        for index, side in enumerate(sides):
            if side.width > 0:
                _paint_straight(canvas, index, side, frame, widths)
    elif alike and _is_broken(present[0]) and len(set(widths)) == 1:
        stroke_ring(canvas, _middle(frame, corners, widths), present[0])
    else:
        _paint_rounded(canvas, sides, frame, corners, widths)


def _is_broken(side: Side) -> bool:
    return side.style in ("dashed", "dotted")


def _ring(frame: Frame, corners: Corners, widths: Widths, start: float, end: float) -> list[Segment]:
    """What lies between two shares of the borders' widths, to be filled by the even-odd rule."""
    return [*_inner(frame, corners, widths, start), *_inner(frame, corners, widths, end)]


def _inner(frame: Frame, corners: Corners, widths: Widths, share: float) -> Path:
    """The outline of the box within a share of its borders."""
    top, right, bottom, left = (width * share for width in widths)
    return rounded(
        frame.x + left,
        frame.y + top,
        max(0.0, frame.width - left - right),
        max(0.0, frame.height - top - bottom),
        inset(corners, top, right, bottom, left),
    )


def _middle(frame: Frame, corners: Corners, widths: Widths) -> Path:
    return _inner(frame, corners, widths, 0.5)


# ---- square corners ----


def _paint_straight(canvas: Canvas, index: int, side: Side, frame: Frame, widths: Widths) -> None:
    if not _is_broken(side):
        for inward, further, color in shades(index, side):
            canvas.fill_path(_trapezoid(index, frame, widths, inward, further), color)
        return
    half = side.width / 2
    x, y, width, height = frame[:4]
    start, end = (
        ((x, y + half), (x + width, y + half)),
        ((x + width - half, y), (x + width - half, y + height)),
        ((x, y + height - half), (x + width, y + height - half)),
        ((x + half, y), (x + half, y + height)),
    )[index]
    meets = side.color.alpha < 1 and any(widths[(index + turn) % 4] for turn in (1, 3))
    if meets:  # or the corners would be darker
        canvas.save()
        canvas.clip(_trapezoid(index, frame, widths, 0.0, 1.0))
    stroke_line(canvas, start, end, side)
    if meets:
        canvas.restore()


def _trapezoid(index: int, frame: Frame, widths: Widths, start: float, end: float) -> list[Segment]:
    """The part of one side between two shares of its width, mitred at the corners."""
    first, second = _corner_points(frame, widths, start), _corner_points(frame, widths, end)
    after = (index + 1) % 4
    return polygon(first[index], first[after], second[after], second[index])


def _corner_points(frame: Frame, widths: Widths, share: float) -> list[tuple[float, float]]:
    """The corners of the box within a share of its borders, clockwise from the top left."""
    x, y, width, height = frame[:4]
    top, right, bottom, left = (side * share for side in widths)
    return [(x + left, y + top), (x + width - right, y + top), (x + width - right, y + height - bottom),
            (x + left, y + height - bottom)]  # fmt: skip


# ---- round corners ----


def _paint_rounded(canvas: Canvas, sides: Sides, frame: Frame, corners: Corners, widths: Widths) -> None:
    """Sides that differ: those that are painted alike together, each part within the mitres of its sides."""
    across = frame.width / (widths[1] + widths[3]) if widths[1] + widths[3] else float("inf")
    down = frame.height / (widths[0] + widths[2]) if widths[0] + widths[2] else float("inf")
    mitre = min(across, down)  # of the widths: where the lines from two corners meet
    jobs: list[tuple[tuple[Side, tuple[Part, ...]], int]] = []
    for index, side in enumerate(sides):
        if side.width > 0:
            parts = () if _is_broken(side) else tuple(shades(index, side))
            jobs.append(((side if _is_broken(side) else side._replace(width=0.0, style=""), parts), index))
    canvas.save()
    canvas.clip(_ring(frame, corners, widths, 0.0, 1.0), even_odd=True)
    for (side, parts), same in groupby(sorted(jobs, key=lambda job: repr(job[0])), key=lambda job: job[0]):
        mitred = [segment for _, index in same for segment in _trapezoid(index, frame, widths, 0.0, mitre)]
        canvas.save()
        canvas.clip(mitred)
        if _is_broken(side):
            stroke_ring(canvas, _middle(frame, corners, widths), side)
        for start, end, color in parts:
            canvas.fill_path(_ring(frame, corners, widths, start, end), color, even_odd=True)
        canvas.restore()
    canvas.restore()
