"""Matplotlib figures as drawings: a renderer of our own, with vectors as vectors and text as text.

Matplotlib is imported here and nowhere else, and only where a document has a chart.
"""

from __future__ import annotations

import io
import math
import warnings
from threading import RLock
from typing import Any, Final

import numpy
from matplotlib.backend_bases import FigureCanvasBase, GraphicsContextBase, RendererBase
from matplotlib.figure import Figure
from matplotlib.path import Path as PlotPath
from matplotlib.textpath import text_to_path
from matplotlib.transforms import Affine2D

from fleetquill.drawing.canvas import Drawing, Look, Stroke
from fleetquill.drawing.paths import polygon, rectangle
from fleetquill.drawing.pictures import Picture
from fleetquill.drawing.words import measured, set_text
from fleetquill.style.values import Rgba
from fleetquill.text.shaping import FindFont, FontSetting

PX_PER_INCH: Final = 96.0
PX_PER_POINT: Final = 96 / 72
CAPS: Final = {"butt": 0, "round": 1, "projecting": 2}
JOINS: Final = {"miter": 0, "round": 1, "bevel": 2}
DRAWING: Final = RLock()  # Matplotlib's figures are not made to be drawn from several threads


def draw_figure(figure: Any, font: FindFont, family: str) -> Drawing:
    """The drawing of a figure at its size in inches; its text is set in a CSS font family."""
    with DRAWING:
        before = figure.dpi
        canvas = figure.canvas
        figure.set_dpi(PX_PER_INCH)
        try:
            width, height = (float(side) * PX_PER_INCH for side in figure.get_size_inches())
            drawing = Drawing(width, height)
            renderer = _Renderer(drawing, font, family)
            with warnings.catch_warnings():  # what it warns of can be seen in the chart
                warnings.simplefilter("ignore")
                figure.draw(renderer)
        finally:
            figure.set_dpi(before)
            figure.set_canvas(canvas)
    return drawing


def new_figure(width: float, height: float) -> Any:
    """An empty figure of a size in px."""
    figure = Figure(figsize=(width / PX_PER_INCH, height / PX_PER_INCH), layout="constrained")
    FigureCanvasBase(figure)
    return figure


class _Renderer(RendererBase):  # type: ignore[misc, unused-ignore]
    """Matplotlib's drawing calls, with y turned down."""

    def __init__(self, drawing: Drawing, font: FindFont, family: str) -> None:
        super().__init__()
        self.drawing = drawing
        self.font = font
        self.family = family
        self.flip = Affine2D().scale(1.0, -1.0).translate(0.0, drawing.height)
        self.pictures = 0
        self.dpi = 72.0 * PX_PER_POINT  # that the figure's pixels are drawn at

    def get_canvas_width_height(self) -> tuple[float, float]:
        return self.drawing.width, self.drawing.height

    def points_to_pixels(self, points: Any) -> Any:
        return points * PX_PER_POINT

    def flipy(self) -> bool:
        return True

    # ---- paths ----

    def draw_path(self, gc: Any, path: Any, transform: Any, rgbFace: Any = None) -> None:
        segments = self._segments(path, transform, simplify=rgbFace is None)
        if not segments:
            return
        clipped = self._clip(gc)
        hatch = gc.get_hatch_path()
        if rgbFace is not None:
            self.drawing.fill_path(segments, _color(rgbFace, gc))
        if hatch is not None:
            self._hatch(gc, segments, hatch)
        width = gc.get_linewidth() * PX_PER_POINT
        if width > 0 and gc.get_rgb()[3] > 0:
            offset, dashes = gc.get_dashes()
            stroke = Stroke(
                width,
                tuple(float(part) * PX_PER_POINT for part in dashes) if dashes is not None else (),
                float(offset or 0.0) * PX_PER_POINT,
                CAPS.get(_name(gc.get_capstyle()), 0),
                JOINS.get(_name(gc.get_joinstyle()), 1),
                10.0,
            )
            self.drawing.stroke_path(segments, _color(gc.get_rgb(), gc), stroke)
        if clipped:
            self.drawing.restore()

    def _segments(self, path: Any, transform: Any, *, simplify: bool) -> list[Any]:
        found: list[Any] = []
        at = (0.0, 0.0)
        for points, code in path.iter_segments((transform + self.flip), simplify=simplify and len(path.vertices) > 500):
            numbers = [float(value) for value in points]
            if not all(map(math.isfinite, numbers)):
                continue
            if code == PlotPath.MOVETO:
                found.append(("m", *numbers))
            elif code == PlotPath.LINETO:
                found.append(("l", *numbers))
            elif code == PlotPath.CURVE3:
                x1, y1, x, y = numbers
                x0, y0 = at
                found.append(("c", x0 + (x1 - x0) * 2 / 3, y0 + (y1 - y0) * 2 / 3,
                              x + (x1 - x) * 2 / 3, y + (y1 - y) * 2 / 3, x, y))  # fmt: skip
            elif code == PlotPath.CURVE4:
                found.append(("c", *numbers))
            elif code == PlotPath.CLOSEPOLY:
                found.append(("h",))
                continue
            at = (numbers[-2], numbers[-1])
        while found and found[0][0] != "m":
            found.pop(0)
        return found

    def _clip(self, gc: Any) -> bool:
        box = gc.get_clip_rectangle()
        path, transform = gc.get_clip_path()
        if box is None and path is None:
            return False
        self.drawing.save()
        if box is not None:
            x, y, width, height = box.bounds
            top = self.drawing.height - y - height
            self.drawing.clip(rectangle(x, top, width, height))
        if path is not None:
            self.drawing.clip(self._segments(path, transform, simplify=False) or [("m", 0.0, 0.0), ("h",)])
        return True

    def _hatch(self, gc: Any, segments: list[Any], hatch: Any) -> None:
        """The hatch tile again and again under the path."""
        size = 72.0 * PX_PER_POINT / 2
        xs = [value for segment in segments for value in segment[1::2]]
        ys = [value for segment in segments for value in segment[2::2]]
        color = _color(gc.get_hatch_color(), gc)
        self.drawing.save()
        self.drawing.clip(segments)
        for column in range(math.floor(min(xs) / size), math.ceil(max(xs) / size)):
            for row in range(math.floor(min(ys) / size), math.ceil(max(ys) / size)):
                moved = Affine2D().scale(size).translate(column * size, self.drawing.height - (row + 1) * size)
                tile = self._segments(hatch, moved, simplify=False)
                if tile:
                    self.drawing.stroke_path(tile, color, Stroke(gc.get_hatch_linewidth() * PX_PER_POINT))
        self.drawing.restore()

    def draw_gouraud_triangles(self, gc: Any, triangles_array: Any, colors_array: Any, transform: Any) -> None:
        """Triangles whose colours run into one another, as small ones of one colour each."""
        clipped = self._clip(gc)
        place = transform + self.flip
        for triangle, colors in zip(triangles_array, colors_array, strict=True):
            corners = place.transform(triangle)
            for weights, middle in GOURAUD:
                points = [(float(x), float(y)) for x, y in weights @ corners]
                color = _color(middle @ colors, gc)
                self.drawing.fill_path(polygon(*points), color)
                self.drawing.stroke_path(polygon(*points), color, SEAM)
        if clipped:
            self.drawing.restore()

    # ---- pictures ----

    def draw_image(self, gc: Any, x: float, y: float, im: Any, transform: Any = None) -> None:
        """A raster that the figure itself asks for; its first row is the lowest."""
        from PIL import Image

        height, width = im.shape[:2]
        if not width or not height:
            return
        out = io.BytesIO()
        Image.fromarray(numpy.ascontiguousarray(im[::-1])).save(out, "PNG", compress_level=3)
        self.pictures += 1
        content = out.getvalue()
        picture = Picture(f"figure:{hash(content)}", "PNG", content, float(width), float(height), (width, height))
        clipped = self._clip(gc)
        top = self.drawing.height - y
        if transform is None:
            self.drawing.picture(picture, x, top - height, width, height)
        else:
            a, b, c, d, e, f = (float(value) for value in transform.to_values())
            self.drawing.save()
            self.drawing.transform((a / width, -b / width, -c / height, d / height, x + e, top - f))
            self.drawing.picture(picture, 0.0, -height, width, height)
            self.drawing.restore()
        if clipped:
            self.drawing.restore()

    def option_image_nocomposite(self) -> bool:
        return True

    # ---- text ----

    def _setting(self, prop: Any) -> tuple[FontSetting, float]:
        weight = prop.get_weight()
        number = {"normal": 400, "regular": 400, "bold": 700, "semibold": 600, "light": 300}.get(weight, weight)
        number = number if isinstance(number, (int, float)) else 400
        slope = "italic" if prop.get_style() in ("italic", "oblique") else "normal"
        return self.font(self.family, f"{number:g}", slope), float(prop.get_size_in_points()) * PX_PER_POINT

    def get_text_width_height_descent(self, s: str, prop: Any, ismath: Any) -> tuple[float, float, float]:
        if ismath:
            width, height, descent, *_ = self._text2path.mathtext_parser.parse(s, 72, prop)
            return float(width) * PX_PER_POINT, float(height) * PX_PER_POINT, float(descent) * PX_PER_POINT
        setting, size = self._setting(prop)
        descent = setting.face.descent * size * 0.9
        return measured(setting, size, s), setting.face.ascent * size * 0.8 + descent, descent

    def draw_text(
        self, gc: Any, x: float, y: float, s: str, prop: Any, angle: float, ismath: Any = False, mtext: Any = None
    ) -> None:
        if ismath:
            self._draw_formula(gc, x, y, s, prop, angle)
            return
        setting, size = self._setting(prop)
        clipped = self._clip(gc)
        look = Look(setting, size, _color(gc.get_rgb(), gc), 0.0)
        for character in dict.fromkeys(setting.exact(s).missing):
            self.drawing.note(
                f"No font has a glyph for '{character}' (U+{ord(character):04X}); a box stands in its place."
            )
        if angle:
            turn = math.radians(-angle)
            cos, sin = math.cos(turn), math.sin(turn)
            self.drawing.save()
            self.drawing.transform((cos, sin, -sin, cos, float(x), float(y)))
            set_text(self.drawing, 0.0, 0.0, look, s)
            self.drawing.restore()
        else:
            set_text(self.drawing, float(x), float(y), look, s)
        if clipped:
            self.drawing.restore()

    def _draw_formula(self, gc: Any, x: float, y: float, s: str, prop: Any, angle: float) -> None:
        """Mathematical text as outlines: its signs stand where no line of text has them."""
        points, codes = text_to_path.get_text_path(prop, s, ismath=True)
        scale = float(prop.get_size_in_points()) * PX_PER_POINT / text_to_path.FONT_SCALE
        place = Affine2D().scale(scale).rotate_deg(angle).translate(float(x), self.drawing.height - float(y))
        gc.set_linewidth(0.0)
        self.draw_path(gc, PlotPath(points, codes), place, gc.get_rgb())

    def new_gc(self) -> GraphicsContextBase:
        return GraphicsContextBase()


def _small_triangles(steps: int) -> list[tuple[Any, Any]]:
    """A triangle cut into equal ones: the corners of each by the corners of the whole, and their middle."""
    found: list[tuple[Any, Any]] = []
    for i in range(steps):
        for j in range(steps - i):
            triangles = [[(i, j), (i + 1, j), (i, j + 1)]]
            if i + j < steps - 1:
                triangles.append([(i + 1, j), (i + 1, j + 1), (i, j + 1)])
            for corners in triangles:
                weights = numpy.array([(a, b, steps - a - b) for a, b in corners]) / steps
                found.append((weights, weights.mean(axis=0)))
    return found


SEAM: Final = Stroke(0.4, join=1)  # so that nothing shows between neighbours
GOURAUD: Final = _small_triangles(8)


def _color(rgb: Any, gc: Any) -> Rgba:
    parts = [float(part) for part in rgb]
    alpha = parts[3] if len(parts) > 3 else 1.0
    if gc.get_forced_alpha():
        alpha = float(gc.get_alpha())
    return Rgba(parts[0], parts[1], parts[2], alpha)


def _name(style: Any) -> str:
    return str(getattr(style, "name", style))
