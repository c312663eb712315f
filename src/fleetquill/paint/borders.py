"""Backgrounds and borders of one box (CSS Backgrounds 3)."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from fleetquill.drawing.canvas import Canvas, Stroke
from fleetquill.drawing.paths import Corners, inset, polygon, rounded
from fleetquill.style.lengths import resolve
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import BLACK, Rgba

if TYPE_CHECKING:
    pass


class Side(NamedTuple):
    width: float
    style: str
    color: Rgba


class Decoration(NamedTuple):
    """What a style draws for its box: background and the four sides, top first."""

    background: Rgba | None
    sides: tuple[Side, Side, Side, Side]
    round: bool
    layered: bool = False  # more than a colour and borders: pictures, shadows, an outline


class Frame(NamedTuple):
    """The border box on the page; `first` and `last` say which ends are not broken off."""

    x: float
    y: float
    width: float
    height: float
    first: bool = True
    last: bool = True


def decoration_of(style: ComputedStyle) -> Decoration | None:
    """The decoration of a style, None where it draws nothing; worked out once."""
    if "decoration" in style.kept:
        return style.kept["decoration"]  # type: ignore[no-any-return]
    found = style.kept["decoration"] = _decoration(style)
    return found


TABLE_PARTS = frozenset(("table-row", "table-row-group", "table-header-group", "table-footer-group"))
BARE = Side(0.0, "none", BLACK)


def _draws_borders(style: ComputedStyle) -> bool:
    """Rows and their groups have no borders of their own, nor have cells whose borders are shared."""
    if style.display in TABLE_PARTS:
        return False
    return style.display != "table-cell" or style.border_collapse == "separate"


def _decoration(style: ComputedStyle) -> Decoration | None:
    background = style.background_color
    sides = tuple(
        Side(
            getattr(style, f"border_{side}_width"),
            getattr(style, f"border_{side}_style"),
            getattr(style, f"border_{side}_color"),
        )
        for side in ("top", "right", "bottom", "left")
    )
    if not _draws_borders(style):
        sides = (BARE, BARE, BARE, BARE)
    shown = background if background.alpha > 0 else None
    layered = bool(
        any(image != "none" for image in style.background_image)
        or style.box_shadow
        or style.outline_width
        or (shown and style.background_clip != ("border-box",))
    )
    if shown is None and not layered and not any(side.width for side in sides):
        return None
    radii = (style.border_top_left_radius, style.border_top_right_radius,
             style.border_bottom_right_radius, style.border_bottom_left_radius)  # fmt: skip
    return Decoration(shown, sides, any(r != (0.0, 0.0) for r in radii), layered)  # type: ignore[arg-type]


def corners_of(style: ComputedStyle, frame: Frame) -> Corners:
    """The used radii: percentages resolved, and all scaled down until they fit (§4.5)."""
    pairs = [
        (resolve(across, frame.width), resolve(down, frame.height))
        for across, down in (
            style.border_top_left_radius,
            style.border_top_right_radius,
            style.border_bottom_right_radius,
            style.border_bottom_left_radius,
        )
    ]
    if not frame.first:
        pairs[0] = pairs[1] = (0.0, 0.0)
    if not frame.last:
        pairs[2] = pairs[3] = (0.0, 0.0)
    (tlx, tly), (trx, try_), (brx, bry), (blx, bly) = pairs
    sums = (
        (tlx + trx, frame.width),
        (blx + brx, frame.width),
        (tly + bly, frame.height),
        (try_ + bry, frame.height),
    )
    scale = min([1.0, *(max(0.0, size) / total for total, size in sums if total > max(0.0, size))])
    return Corners(*((across * scale, down * scale) for across, down in pairs))


def paint_borders(canvas: Canvas, sides: tuple[Side, Side, Side, Side], frame: Frame, corners: Corners) -> None:
    """The four sides; a side that is broken off is left out (box-decoration-break: slice)."""
    top, right, bottom, left = sides
    if not frame.first:
        top = top._replace(width=0.0)
    if not frame.last:
        bottom = bottom._replace(width=0.0)
    present = [side for side in (top, right, bottom, left) if side.width > 0]
    if not present:
        return
    alike = len({(side.style, side.color) for side in present}) == 1
    if alike and present[0].style == "solid" and (not corners.square or len(present) > 1):
        _paint_ring(canvas, frame, corners, (top.width, right.width, bottom.width, left.width), present[0].color)
        return
    if not corners.square:
        canvas.save()
        canvas.clip(rounded(*frame[:4], corners))
    for index, side in enumerate((top, right, bottom, left)):
        if side.width > 0:
            _paint_side(canvas, index, side, frame, (top.width, right.width, bottom.width, left.width))
    if not corners.square:
        canvas.restore()


def _paint_ring(
    canvas: Canvas, frame: Frame, corners: Corners, widths: tuple[float, float, float, float], color: Rgba
) -> None:
    """A solid border of one colour: the outer shape without the inner one."""
    top, right, bottom, left = widths
    outer = rounded(*frame[:4], corners)
    inner = rounded(
        frame.x + left,
        frame.y + top,
        max(0.0, frame.width - left - right),
        max(0.0, frame.height - top - bottom),
        inset(corners, *widths),
    )
    canvas.fill_path([*outer, *inner], color, even_odd=True)


def _paint_side(
    canvas: Canvas, index: int, side: Side, frame: Frame, widths: tuple[float, float, float, float]
) -> None:
    if side.style in ("dashed", "dotted"):
        _paint_dashes(canvas, index, side, frame)
    elif side.style == "double" and side.width >= 3:
        third = side.width / 3
        for start in (0.0, 2 * third):
            canvas.fill_path(
                _trapezoid(index, frame, widths, start / side.width, (start + third) / side.width), side.color
            )
    elif side.style in ("groove", "ridge", "inset", "outset"):
        for start, end, color in _shades(index, side):
            canvas.fill_path(_trapezoid(index, frame, widths, start, end), color)
    else:
        canvas.fill_path(_trapezoid(index, frame, widths, 0.0, 1.0), side.color)


def _shades(index: int, side: Side) -> list[tuple[float, float, Rgba]]:
    """Light and dark parts of the styles that look carved (§3.2)."""
    dark, light = _mix(side.color, 0.6), _mix(side.color, 1.0)
    upper = index in (0, 3)
    if side.style == "inset":
        return [(0.0, 1.0, dark if upper else light)]
    if side.style == "outset":
        return [(0.0, 1.0, light if upper else dark)]
    outer, inner = (dark, light) if (side.style == "groove") == upper else (light, dark)
    return [(0.0, 0.5, outer), (0.5, 1.0, inner)]


def _mix(color: Rgba, share: float) -> Rgba:
    return Rgba(color.red * share, color.green * share, color.blue * share, color.alpha)


def _trapezoid(
    index: int, frame: Frame, widths: tuple[float, float, float, float], start: float, end: float
) -> list[tuple[str, *tuple[float, ...]]]:
    """The part of one side between two shares of its width, mitred at the corners."""
    top, right, bottom, left = widths
    x, y, width, height = frame[:4]
    right_x, bottom_y = x + width, y + height
    if index == 0:
        return polygon(
            (x + left * start, y + top * start), (right_x - right * start, y + top * start),
            (right_x - right * end, y + top * end), (x + left * end, y + top * end),
        )  # fmt: skip
    if index == 1:
        return polygon(
            (right_x - right * start, y + top * start), (right_x - right * start, bottom_y - bottom * start),
            (right_x - right * end, bottom_y - bottom * end), (right_x - right * end, y + top * end),
        )  # fmt: skip
    if index == 2:
        return polygon(
            (x + left * start, bottom_y - bottom * start), (right_x - right * start, bottom_y - bottom * start),
            (right_x - right * end, bottom_y - bottom * end), (x + left * end, bottom_y - bottom * end),
        )  # fmt: skip
    return polygon(
        (x + left * start, y + top * start), (x + left * start, bottom_y - bottom * start),
        (x + left * end, bottom_y - bottom * end), (x + left * end, y + top * end),
    )  # fmt: skip


def _paint_dashes(canvas: Canvas, index: int, side: Side, frame: Frame) -> None:
    half = side.width / 2
    x, y, width, height = frame[:4]
    ends = (
        ((x, y + half), (x + width, y + half)),
        ((x + width - half, y), (x + width - half, y + height)),
        ((x, y + height - half), (x + width, y + height - half)),
        ((x + half, y), (x + half, y + height)),
    )[index]
    stroke_line(canvas, ends[0], ends[1], side)


def stroke_line(canvas: Canvas, start: tuple[float, float], end: tuple[float, float], side: Side) -> None:
    """A straight line in a border style, its dashes spread evenly from end to end."""
    length = abs(end[0] - start[0]) + abs(end[1] - start[1])
    path = [("m", *start), ("l", *end)]
    if side.style == "dotted":
        count = max(1, round(length / (2 * side.width)))
        inward = side.width / 2
        step = (length - side.width) / count if count else side.width
        dx, dy = (inward, 0.0) if start[1] == end[1] else (0.0, inward)
        path = [("m", start[0] + dx, start[1] + dy), ("l", end[0] - dx, end[1] - dy)]
        canvas.stroke_path(path, side.color, Stroke(side.width, (0.0, max(step, 0.01)), cap=1))
    elif side.style == "dashed":
        dash = 3 * side.width
        count = max(1, round((length / dash - 1) / 2))
        unit = length / (2 * count + 1)
        canvas.stroke_path(path, side.color, Stroke(side.width, (unit, unit)))
    else:
        canvas.stroke_path(path, side.color, Stroke(side.width))
