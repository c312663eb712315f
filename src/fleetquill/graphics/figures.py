"""Matplotlib figures as drawings: a renderer of our own, with vectors as vectors and text as text.

Matplotlib is imported here and nowhere else, and only where a document has a chart.
"""

from __future__ import annotations

import math
import warnings
from collections.abc import Sequence
from threading import RLock
from typing import Any, Final

import numpy
from matplotlib import rcParams
from matplotlib.backend_bases import FigureCanvasBase, GraphicsContextBase, RendererBase
from matplotlib.backends.backend_mixed import MixedModeRenderer
from matplotlib.figure import Figure
from matplotlib.path import Path as PlotPath
from matplotlib.textpath import text_to_path
from matplotlib.transforms import Affine2D

from fleetquill.drawing.canvas import Drawing, Look, Segment, Stamp, Stroke
from fleetquill.drawing.paths import polygon, rectangle
from fleetquill.drawing.pictures import png_picture
from fleetquill.drawing.plain_text import measured, set_text
from fleetquill.style.values import Rgba
from fleetquill.text.shaping import FindFont, FontSetting

PX_PER_INCH: Final = 96.0
PX_PER_POINT: Final = 96 / 72
CAPS: Final = {"butt": 0, "round": 1, "projecting": 2}
JOINS: Final = {"miter": 0, "round": 1, "bevel": 2}
GENERIC: Final = ("serif", "sans-serif", "monospace", "cursive", "fantasy")
TURNED: Final = Affine2D().scale(1.0, -1.0)  # about the origin, y down
FINE: Final = 2.0  # pixels of rasters for a px
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
            vectors = _Renderer(drawing, font, family)
            dots = PX_PER_INCH * FINE
            renderer = MixedModeRenderer(figure, *figure.get_size_inches(), dots, vectors)
            with warnings.catch_warnings():  # what it warns of can be seen in the chart
                warnings.simplefilter("ignore")
                figure.draw(renderer)
        finally:
            figure.set_dpi(before)
            figure.set_canvas(canvas)
    return drawing


def new_figure(width: float, height: float) -> Any:
    """An empty figure of a size in px, with no ground of its own."""
    figure = Figure(figsize=(width / PX_PER_INCH, height / PX_PER_INCH))
    figure.patch.set_alpha(0.0)  # the ground is the document's
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
        self.dpi = 72.0 * PX_PER_POINT  # that the figure's pixels are drawn at

    def get_canvas_width_height(self) -> tuple[float, float]:
        return self.drawing.width, self.drawing.height

    def get_image_magnification(self) -> float:
        return FINE

    def points_to_pixels(self, points: Any) -> Any:
        return points * PX_PER_POINT

    def flipy(self) -> bool:
        return True

    # ---- paths ----

    def draw_path(self, gc: Any, path: Any, transform: Any, rgbFace: Any = None) -> None:
        segments = self._segments(path, transform, simplify=rgbFace is None, sketch=gc.get_sketch_params())
        if not segments:
            return
        clipped = self._clip(gc)
        hatch = gc.get_hatch_path()
        fill = None if rgbFace is None else _color(rgbFace, gc)
        if fill is not None and fill.alpha > 0:
            self.drawing.fill_path(segments, fill)
            if fill.alpha == 1 and not gc.get_antialiased() and not _is_upright(segments):  # side by side with others
                self.drawing.stroke_path(segments, fill, SEAM)
        if hatch is not None:
            self._hatch(gc, segments, hatch)
        line = _color(gc.get_rgb(), gc)
        if gc.get_linewidth() > 0 and line.alpha > 0:
            self.drawing.stroke_path(segments, line, _stroke(gc))
        if clipped:
            self.drawing.restore()

    def draw_markers(
        self, gc: Any, marker_path: Any, marker_trans: Any, path: Any, trans: Any, rgbFace: Any = None
    ) -> None:
        """A marker once, and the places where it stands."""
        shape = self._segments(marker_path, marker_trans + TURNED, simplify=False, placed=False)
        if not shape:
            return
        fill = None if rgbFace is None else _color(rgbFace, gc)
        line = _color(gc.get_rgb(), gc) if gc.get_linewidth() > 0 else None
        fill, line = (None if ink is None or ink.alpha <= 0 else ink for ink in (fill, line))
        places = [
            Stamp(x, y, 1.0, fill, line)
            for x, y in self._ends(path, trans)
            if math.isfinite(x) and math.isfinite(y) and (fill or line)
        ]
        self._stamp(gc, shape, places, _stroke(gc))

    def _ends(self, path: Any, trans: Any) -> list[tuple[float, float]]:
        """The points that a path leads to."""
        place = trans + self.flip
        if path.codes is None:
            return [(float(x), float(y)) for x, y in place.transform(path.vertices)]
        found = [
            points[-2:] for points, code in path.iter_segments(place, simplify=False) if code != PlotPath.CLOSEPOLY
        ]
        return [(float(x), float(y)) for x, y in found]

    def _stamp(self, gc: Any, shape: list[Any], places: list[Stamp], stroke: Stroke) -> None:
        if not places:
            return
        clipped = self._clip(gc)
        self.drawing.stamps(shape, places, stroke)
        if clipped:
            self.drawing.restore()

    def draw_path_collection(
        self, gc: Any, master_transform: Any, paths: Any, all_transforms: Any, offsets: Any, offset_trans: Any,
        facecolors: Any, edgecolors: Any, linewidths: Any, linestyles: Any, *more: Any, **named: Any,
    ) -> None:  # fmt: skip
        """A shape that stands in many places is drawn once; a collection of all kinds of shapes one by one."""
        plain = (
            len(paths) == 1
            and len(offsets) > 1
            and gc.get_hatch() is None
            and len({float(width) for width in linewidths}) <= 1
            and len(linestyles) <= 1
            and not gc.get_sketch_params()
        )
        scales = _scales(all_transforms) if plain else None
        if scales is None:
            super().draw_path_collection(
                gc, master_transform, paths, all_transforms, offsets, offset_trans,
                facecolors, edgecolors, linewidths, linestyles, *more, **named,
            )  # fmt: skip
            return
        shape = self._segments(paths[0], Affine2D(master_transform.get_matrix()) + TURNED, simplify=False, placed=False)
        width = float(linewidths[0]) if len(linewidths) else 0.0
        lined = GraphicsContextBase()
        lined.copy_properties(gc)
        lined.set_linewidth(width)
        if len(linestyles):
            lined.set_dashes(*linestyles[0])
        points = (offset_trans + self.flip).transform(offsets)
        fills, lines = _inks(facecolors, gc), _inks(edgecolors, gc) if width > 0 else [None]
        places = []
        for index, (x, y) in enumerate(points):
            fill, line = fills[index % len(fills)], lines[index % len(lines)]
            if math.isfinite(x) and math.isfinite(y) and (fill or line):
                places.append(Stamp(float(x), float(y), scales[index % len(scales)], fill, line))
        self._stamp(gc, shape, places, _stroke(lined))

    def _segments(
        self, path: Any, transform: Any, *, simplify: bool, placed: bool = True, sketch: Any = None
    ) -> list[Any]:
        """A path as segments; `placed` on the figure, or about its own origin."""
        found: list[Any] = []
        at = (0.0, 0.0)
        place = transform + self.flip if placed else transform
        simplify = simplify and len(path.vertices) > 500
        for points, code in path.iter_segments(place, simplify=simplify, sketch=sketch, curves=sketch is None):
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
        """The hatch tile again and again under the path, from the figure's top left, an inch wide."""
        xs = [value for segment in segments for value in segment[1::2]]
        ys = [value for segment in segments for value in segment[2::2]]
        color = _color(gc.get_hatch_color(), gc)
        shape = self._segments(hatch, Affine2D().scale(PX_PER_INCH, -PX_PER_INCH), simplify=False, placed=False)
        if not shape or color.alpha <= 0:
            return
        tile = Drawing(PX_PER_INCH, PX_PER_INCH)
        tile.transform((1.0, 0.0, 0.0, 1.0, 0.0, PX_PER_INCH))
        tile.fill_path(shape, color)
        tile.stroke_path(shape, color, Stroke(gc.get_hatch_linewidth() * PX_PER_POINT))
        self.drawing.save()
        self.drawing.clip(segments)
        for column in range(math.floor(min(xs) / PX_PER_INCH), math.ceil(max(xs) / PX_PER_INCH)):
            for row in range(math.floor(min(ys) / PX_PER_INCH), math.ceil(max(ys) / PX_PER_INCH)):
                self.drawing.drawing(tile, column * PX_PER_INCH, row * PX_PER_INCH, PX_PER_INCH, PX_PER_INCH)
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
        picture = png_picture(Image.fromarray(numpy.ascontiguousarray(im[::-1])), float(width), float(height), 3)
        clipped = self._clip(gc)
        top = self.drawing.height - y
        if transform is None:
            wide, high = width / FINE, height / FINE
            self.drawing.picture(picture, x, top - high, wide, high)
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
        return self.font(self._family(prop), f"{number:g}", slope), float(prop.get_size_in_points()) * PX_PER_POINT

    def _family(self, prop: Any) -> str:
        """The families that a text asks for before the document's own; what all text of figures has is no wish."""
        wanted = [str(name) for name in prop.get_family()]
        if wanted == list(rcParams["font.family"]):
            return self.family
        return ", ".join([*(name if name in GENERIC else f"'{name}'" for name in wanted), self.family])

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


def _is_upright(path: Sequence[Segment]) -> bool:
    """Whether a path is a rectangle along the axes, or several in a row."""
    return all(segment[0] != "c" for segment in path) and all(
        len({segment[axis] for segment in path if len(segment) > 1}) <= 2 for axis in (1, 2)
    )


SEAM: Final = Stroke(0.4, join=1)  # so that nothing shows between neighbours
GOURAUD: Final = _small_triangles(8)


def _color(rgb: Any, gc: Any) -> Rgba:
    parts = [float(part) for part in rgb]
    alpha = parts[3] if len(parts) > 3 else 1.0
    if gc.get_forced_alpha():
        alpha = float(gc.get_alpha())
    return Rgba(parts[0], parts[1], parts[2], alpha)


def _inks(colors: Any, gc: Any) -> list[Rgba | None]:
    """The colours of a collection; None for what is not seen."""
    found = [_color(color, gc) for color in colors]
    return [ink if ink.alpha > 0 else None for ink in found] or [None]


def _scales(transforms: Any) -> list[float] | None:
    """How large a collection's shape is in each place; None where it is turned or stretched, too."""
    if not len(transforms):
        return [1.0]
    found: list[float] = []
    for matrix in transforms:
        (a, c, e), (b, d, f), _ = (tuple(map(float, row)) for row in matrix)
        if b or c or e or f or a != d or a <= 0:
            return None
        found.append(a)
    return found


def _stroke(gc: Any) -> Stroke:
    """The line of a graphics context."""
    offset, dashes = gc.get_dashes()
    return Stroke(
        gc.get_linewidth() * PX_PER_POINT,
        tuple(float(part) * PX_PER_POINT for part in dashes) if dashes is not None else (),
        float(offset or 0.0) * PX_PER_POINT,
        CAPS.get(_name(gc.get_capstyle()), 0),
        JOINS.get(_name(gc.get_joinstyle()), 1),
        10.0,
    )


def _name(style: Any) -> str:
    return str(getattr(style, "name", style))
