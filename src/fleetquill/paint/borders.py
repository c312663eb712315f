"""What a style draws for its box, and the shape of that box (CSS Backgrounds 3)."""

from __future__ import annotations

from typing import NamedTuple

from fleetquill.drawing.paths import Corners, fitting
from fleetquill.style.lengths import resolve
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import BLACK, Rgba

CARVING = 0.33  # by how much light and shade of carved borders differ from their colour
NEARLY_BLACK = 0x20 / 255


class Side(NamedTuple):
    width: float
    style: str
    color: Rgba


Sides = tuple[Side, Side, Side, Side]  # clockwise from the top


class Decoration(NamedTuple):
    """What a style draws for its box: background and the four sides, top first."""

    background: Rgba | None
    sides: Sides
    round: bool
    layered: bool = False  # more than a colour and borders: pictures, shadows, an outline


class Frame(NamedTuple):
    """The border box on the page; `first` and `last` say which ends are not broken off, `basis` what its paddings in
    percent refer to (its own width where that is None)."""

    x: float
    y: float
    width: float
    height: float
    first: bool = True
    last: bool = True
    basis: float | None = None


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
        style.has_background_pictures
        or style.box_shadow
        or style.outline_width
        or style.border_image_source != "none"
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
    return fitting(Corners(*pairs), frame.width, frame.height)


def shades(index: int, side: Side) -> list[tuple[float, float, Rgba]]:
    """What an unbroken side is made of, from the outer edge: from one share of its width to another in a colour (§3.2).

    `index` counts the sides from the top: light falls from the top left.
    """
    if side.style == "double" and side.width >= 3:
        return [(0.0, 1 / 3, side.color), (2 / 3, 1.0, side.color)]
    if side.style not in ("groove", "ridge", "inset", "outset"):
        return [(0.0, 1.0, side.color)]
    dark, light = _carved(side.color)
    upper = index in (0, 3)
    if side.style in ("inset", "outset"):
        return [(0.0, 1.0, dark if upper == (side.style == "inset") else light)]
    outer, inner = (dark, light) if (side.style == "groove") == upper else (light, dark)
    return [(0.0, 0.5, outer), (0.5, 1.0, inner)]


def _carved(color: Rgba) -> tuple[Rgba, Rgba]:
    """The colour in the shade and in the light; what is nearly black is lighter in both."""
    if sum(part * part for part in color[:3]) <= 3 * NEARLY_BLACK**2:
        shade = _lighter(color, CARVING)
        return shade, _lighter(shade, CARVING)
    return _lighter(color, -CARVING), _lighter(color, CARVING)


def _lighter(color: Rgba, by: float) -> Rgba:
    """The same hue, with its strongest part stronger by so much."""
    strongest = max(color[:3])
    wanted = min(1.0, max(0.0, strongest + by))
    if not strongest:
        return Rgba(wanted, wanted, wanted, color.alpha)
    share = wanted / strongest
    return Rgba(color.red * share, color.green * share, color.blue * share, color.alpha)
