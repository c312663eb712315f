"""What shapes, outlines and letters are painted with: a colour, a gradient or a pattern (SVG 2 §13.2)."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final, NamedTuple

from fleetquill.drawing.canvas import Area, Segment, Stroke
from fleetquill.drawing.paths import bounds
from fleetquill.graphics.svg.gradients import PlacedGradient, gradient_of
from fleetquill.graphics.svg.measures import diagonal
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.patterns import paint_pattern
from fleetquill.graphics.svg.servers import Server, plain_color, server_of
from fleetquill.style.drawn_properties import Paint
from fleetquill.style.lengths import resolve
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import WHITE, Rgba

CAPS: Final = {"butt": 0, "round": 1, "square": 2}
JOINS: Final = {"miter": 0, "miter-clip": 0, "arcs": 0, "round": 1, "bevel": 2}
SERVERS: Final = ("lineargradient", "radialgradient", "pattern")


class Ink(NamedTuple):
    """The paint of a fill or an outline, its opacity, and the style that it is of."""

    paint: Paint
    opacity: float
    style: ComputedStyle
    depth: int

    def settled(self, painter: SvgPainter) -> Ink:
        """Itself, or what it takes from the shape that a marker stands on (SVG 2 §13.2)."""
        around = painter.context.get(self.paint.context) if self.paint.context else None
        if not isinstance(around, Ink):
            return self
        return around._replace(opacity=around.opacity * self.opacity)

    def color(self) -> Rgba:
        return plain_color(self.paint, self.style, self.opacity)

    def server(self, painter: SvgPainter) -> Server | None:
        server = server_of(self.paint, painter)
        return server if server is not None and server.element.tag in SERVERS else None

    def is_seen(self, painter: SvgPainter) -> bool:
        ink = self.settled(painter)
        return ink.color().alpha > 0 or ink.server(painter) is not None


def stroke_width_of(style: ComputedStyle, size: tuple[float, float]) -> float:
    return resolve(style.stroke_width, diagonal(size))


def stroke_of(style: ComputedStyle, size: tuple[float, float], unit: float = 1.0) -> Stroke:
    """How outlines of a style are drawn; `unit` is the px that one of a path's own units of length is."""
    basis = diagonal(size)
    dash = tuple(resolve(part, basis) * unit for part in style.stroke_dasharray)
    if sum(dash) <= 0 or min(dash) < 0:
        dash = ()
    offset = resolve(style.stroke_dashoffset, basis) * unit
    cap, join = CAPS[style.stroke_linecap], JOINS[style.stroke_linejoin]
    return Stroke(stroke_width_of(style, size), dash, offset, cap, join, style.stroke_miterlimit)


def _settled(painter: SvgPainter, ink: Ink, box: Area) -> Server | PlacedGradient | Rgba | None:
    """What an ink comes to for a shape in a box; None where it paints nothing."""
    ink = ink.settled(painter)
    server = ink.server(painter)
    if server is None:
        color = ink.color()
        return color if color.alpha > 0 else None
    if server.element.tag == "pattern":
        return server
    return gradient_of(painter, server, box, ink.opacity)


def fill_with(painter: SvgPainter, ink: Ink, path: list[Segment], even_odd: bool) -> None:
    """Fills a path."""
    out, box = painter.out, bounds(path)
    if box[2] <= 0 or box[3] <= 0:
        return  # a line has no inside, but some readers would show one
    found = _settled(painter, ink, box)
    if isinstance(found, Rgba):
        out.fill_path(path, found, even_odd)
    elif found is not None:
        out.save()
        out.clip(path, even_odd)
        _lay(painter, ink, found, box, box)
        out.restore()


def through(painter: SvgPainter, ink: Ink, box: Area, room: float, draw: Callable[[Rgba], None]) -> None:
    """Draws in an ink what can be drawn in a colour: a gradient or pattern is seen through it.

    `box` is that of the shape, beyond which it reaches by `room`.
    """
    out = painter.out
    found = _settled(painter, ink, box)
    if isinstance(found, Rgba):
        draw(found)
    elif found is not None:
        area = (box[0] - room, box[1] - room, box[2] + 2 * room, box[3] + 2 * room)
        out.save()
        out.begin_group()
        draw(WHITE)
        out.end_mask()
        _lay(painter, ink, found, box, area)
        out.restore()


def _lay(painter: SvgPainter, ink: Ink, found: Server | PlacedGradient, box: Area, area: Area) -> None:
    if isinstance(found, PlacedGradient):
        found.paint(painter.out)
        return
    if ink.opacity < 1:
        painter.out.begin_group()
    paint_pattern(painter, found, box, area, ink.depth)
    if ink.opacity < 1:
        painter.out.end_group(ink.opacity)
