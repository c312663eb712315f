"""A canvas of pixels: for what a page format has no word for, such as what is blurred.

Colours are kept multiplied by their opacity, as numbers from 0 to 1 in arrays of rows × columns × RGBA.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any, Final, NamedTuple

import numpy as np

from fleetquill.drawing.canvas import Drawing, Look, Matrix, Path, Stamp, Stroke, show_state
from fleetquill.drawing.fields import Field
from fleetquill.drawing.gradients import Axial, Round, Shade
from fleetquill.drawing.matrices import inverse, moved
from fleetquill.drawing.paths import rectangle
from fleetquill.drawing.pictures import Picture, pixels_of, png_picture
from fleetquill.drawing.places import Artifact, Place
from fleetquill.drawing.words import runs_along
from fleetquill.graphics.finished_pages import draw_pixels
from fleetquill.pdf.finished import FinishedPage
from fleetquill.style.box_values import multiply, translation
from fleetquill.style.values import Rgba
from fleetquill.text.outlines import outline_of
from fleetquill.text.shaping import Word

Pixels = Any  # a numpy array of float32; its own types differ too much between releases
MOST_PIXELS: Final = 6_000_000
FINE: Final = 2.0  # pixels for a px
CAPS: Final = ("butt", "round", "projecting")
JOINS: Final = ("miter", "round", "bevel")
SLOPE: Final = 0.2126  # tangent of 12 degrees, for a slope that the face does not have


class _Patch(NamedTuple):
    """How much of each pixel something covers, in a part of the picture: its rows and columns."""

    rows: slice
    columns: slice
    share: Pixels


class _State(NamedTuple):
    matrix: Matrix
    clip: Pixels | None  # how much each pixel lets through
    rows: slice  # where it lets anything through
    columns: slice


class RasterCanvas:
    """Draws on pixels; `scale` is how many make a px, `left` and `top` the px at the picture's corner."""

    def __init__(self, width: float, height: float, scale: float, left: float = 0.0, top: float = 0.0) -> None:
        self.extent = (width, height)
        self.columns = max(1, math.ceil(width * scale))
        self.rows = max(1, math.ceil(height * scale))
        self.scale = scale
        self.pixels = self._empty()
        whole = (slice(0, self.rows), slice(0, self.columns))
        self._state = _State(multiply((scale, 0.0, 0.0, scale, 0.0, 0.0), translation(-left, -top)), None, *whole)
        self._saved: list[_State] = []
        self._groups: list[tuple[Pixels, _State]] = []

    def _empty(self) -> Pixels:
        return np.zeros((self.rows, self.columns, 4), np.float32)

    # ---- shapes ----

    def fill_rect(self, x: float, y: float, width: float, height: float, color: Rgba) -> None:
        self.fill_path(rectangle(x, y, width, height), color)

    def fill_path(self, path: Path, color: Rgba, even_odd: bool = False) -> None:
        self._paint(color, self._coverage(path, even_odd))

    def stroke_path(self, path: Path, color: Rgba, stroke: Stroke) -> None:
        self._paint(color, self._render(path, stroke))

    def stamps(self, path: Path, places: Sequence[Stamp], stroke: Stroke) -> None:
        for place in places:
            self.save()
            self.transform((place.scale, 0.0, 0.0, place.scale, place.x, place.y))
            if place.fill is not None:
                self.fill_path(path, place.fill)
            if place.line is not None:
                self.stroke_path(path, place.line, stroke._replace(width=stroke.width / place.scale))
            self.restore()

    def shade(self, gradient: Shade, x: float, y: float, width: float, height: float) -> None:
        self.save()
        self.clip(rectangle(x, y, width, height))
        self.transform(translation(x, y))
        self.shade_all(gradient)
        self.restore()

    def shade_all(self, gradient: Shade) -> None:
        places = _along(gradient, *self._places())
        known = [place for place, _ in gradient.stops]
        parts = [np.interp(places, known, [color.alpha for _, color in gradient.stops])]
        for part in range(3):
            parts.insert(part, np.interp(places, known, [color[part] * color.alpha for _, color in gradient.stops]))
        self._lay(np.stack(parts, axis=-1).astype(np.float32), self._state.rows, self._state.columns)

    def _places(self) -> tuple[Any, Any]:
        """The place of each pixel's middle, where anything is let through, in the px of what is drawn."""
        a, b, c, d, e, f = inverse(self._state.matrix)
        rows, columns = self._state.rows, self._state.columns
        across: Any
        down: Any
        across, down = np.meshgrid(np.arange(columns.start, columns.stop) + 0.5, np.arange(rows.start, rows.stop) + 0.5)
        return a * across + c * down + e, b * across + d * down + f

    # ---- text ----

    def text(
        self,
        x: float,
        baseline: float,
        look: Look,
        words: Sequence[Word],
        space: float = 0.0,
        spaced: Sequence[bool] | None = None,
    ) -> None:
        path: list[Any] = []
        size = look.size
        for start, run in runs_along(look, words, space, spaced):
            synthesis = look.setting.synthesis.get(run.face)
            slope = SLOPE if synthesis is not None and synthesis.slope else 0.0
            for number, (glyph, across, rise) in enumerate(run.places()):
                at_x, at_y = x + start + across * size + number * look.letter_spacing, baseline - rise * size
                matrix = (size, 0.0, slope * size, -size, at_x, at_y)
                path += [moved(segment, matrix) for segment in outline_of(run.face, glyph)]
        if look.color.alpha > 0:
            self.fill_path(path, look.color)
        if look.outline is not None and look.outline.stroke.width > 0:
            self.stroke_path(path, look.outline.color, look.outline.stroke)

    # ---- pictures ----

    def picture(self, picture: Picture, x: float, y: float, width: float, height: float) -> None:
        from PIL import Image, ImageOps

        with pixels_of(picture) as opened:
            image = ImageOps.exif_transpose(opened).convert("RGBa")
        wide, high = image.size
        a, b, c, d, e, f = inverse(multiply(self._state.matrix, (width / wide, 0.0, 0.0, height / high, x, y)))
        shrinks = max(1, round(min(math.hypot(a, b), math.hypot(c, d))))
        if shrinks > 1:
            image = image.reduce(shrinks)
        smooth = Image.Resampling.BILINEAR if picture.smooth else Image.Resampling.NEAREST
        back = tuple(value / shrinks for value in (a, c, e, b, d, f))
        laid = image.transform((self.columns, self.rows), Image.Transform.AFFINE, back, smooth)
        edge = self._coverage(rectangle(x, y, width, height), False)
        shown = np.asarray(
            laid.crop((edge.columns.start, edge.rows.start, edge.columns.stop, edge.rows.stop)), np.float32
        )
        self._lay(shown / 255 * edge.share[..., None], edge.rows, edge.columns)

    def tiles(
        self, picture: Picture, columns: Sequence[float], rows: Sequence[float], width: float, height: float
    ) -> None:
        for y in rows:
            for x in columns:
                self.picture(picture, x, y, width, height)

    def finished_page(self, page: FinishedPage, x: float, y: float, width: float, height: float) -> None:
        draw_pixels(self, page, x, y, width, height)

    def drawing(self, drawing: Drawing, x: float, y: float, width: float, height: float) -> None:
        self.save()
        self.transform((width / drawing.width, 0.0, 0.0, height / drawing.height, x, y))
        drawing.paint(self)
        self.restore()

    # ---- state ----

    def save(self) -> None:
        self._saved.append(self._state)

    def restore(self) -> None:
        self._state = self._saved.pop()

    def clip(self, path: Path, even_odd: bool = False) -> None:
        patch = self._coverage(path, even_odd)
        whole: Pixels = np.zeros((self.rows, self.columns), np.float32)
        whole[patch.rows, patch.columns] = patch.share
        self._let_through(whole, patch.rows, patch.columns)

    def _let_through(self, share: Pixels, rows: slice, columns: slice) -> None:
        state = self._state
        clip = share if state.clip is None else state.clip * share
        self._state = state._replace(clip=clip, rows=_common(state.rows, rows), columns=_common(state.columns, columns))

    def transform(self, matrix: Matrix) -> None:
        self._state = self._state._replace(matrix=multiply(self._state.matrix, matrix))

    def begin_group(self) -> None:
        self._groups.append((self.pixels, self._state))
        self.pixels = self._empty()
        self._state = self._state._replace(clip=None, rows=slice(0, self.rows), columns=slice(0, self.columns))

    def end_group(self, alpha: float, blend: str = "normal") -> None:
        group = self.pixels
        self.pixels, self._state = self._groups.pop()
        rows, columns = self._state.rows, self._state.columns
        self._lay(blended(group, self.pixels, blend)[rows, columns] * alpha, rows, columns)

    def end_mask(self) -> None:
        group = self.pixels
        self.pixels, self._state = self._groups.pop()
        light = group[..., :3] @ np.array((0.3, 0.59, 0.11), np.float32)
        self._let_through(light, slice(0, self.rows), slice(0, self.columns))

    # ---- meaning: pixels have none ----

    def mark(self, place: Place | None) -> None:
        """A picture has no parts."""

    def set_aside(self, artifact: Artifact | None) -> None:
        """A picture has no parts."""

    def link(self, x: float, y: float, width: float, height: float, target: str, said: str) -> None:
        """A picture leads nowhere."""

    def field(
        self, field: Field, x: float, y: float, width: float, height: float, states: Mapping[str, Drawing]
    ) -> None:
        """A field as it is: nobody fills it in here."""
        show_state(self, x, y, width, height, states)

    # ---- pixels ----

    def _paint(self, color: Rgba, patch: _Patch) -> None:
        alpha = color.alpha
        flat = np.array([color.red * alpha, color.green * alpha, color.blue * alpha, alpha], np.float32)
        self._lay(patch.share[..., None] * flat, patch.rows, patch.columns)

    def _lay(self, source: Pixels, rows: slice, columns: slice) -> None:
        """Over what is there (Compositing 1 §5.1), as far as the clip lets through."""
        if self._state.clip is not None:
            source = source * self._state.clip[rows, columns, None]
        self.pixels[rows, columns] = source + self.pixels[rows, columns] * (1 - source[..., 3:])

    def _coverage(self, path: Path, even_odd: bool) -> _Patch:
        patch = self._render(path, None)
        if not even_odd or not patch.share.size:
            return patch
        found: Pixels = np.zeros((self.rows, self.columns), np.float32)
        for part in _parts(path):
            one = self._render(part, None)
            there = found[one.rows, one.columns]
            found[one.rows, one.columns] = there + one.share - 2 * there * one.share
        return patch._replace(share=found[patch.rows, patch.columns])

    def _render(self, path: Path, stroke: Stroke | None) -> _Patch:
        """How much of each pixel a path or its outline covers."""
        from matplotlib.backends.backend_agg import RendererAgg
        from matplotlib.transforms import Affine2D

        a, b, c, d, _, _ = self._state.matrix
        size = math.sqrt(abs(a * d - b * c))
        reach = 1.0 if stroke is None else 2.0 + stroke.width * size * max(1.0, stroke.miter) / 2
        shape = _agg_path(path, self._state.matrix)
        rows, columns = self._bounds(shape, reach)
        wide, high = columns.stop - columns.start, rows.stop - rows.start
        if shape is None or wide <= 0 or high <= 0:
            return _Patch(slice(0, 0), slice(0, 0), np.zeros((0, 0), np.float32))
        renderer = RendererAgg(wide, high, 72)
        context = renderer.new_gc()
        context.set_antialiased(True)
        context.set_snap(False)
        flip = Affine2D().translate(-columns.start, -rows.start).scale(1.0, -1.0).translate(0.0, float(high))
        if stroke is None:
            context.set_linewidth(0.0)
            renderer.draw_path(context, shape, flip, (1.0, 1.0, 1.0, 1.0))
        else:
            context.set_foreground((1.0, 1.0, 1.0, 1.0), isRGBA=True)
            context.set_linewidth(stroke.width * size)
            context.set_capstyle(CAPS[stroke.cap])
            context.set_joinstyle(JOINS[stroke.join])
            if stroke.dash:
                dash = stroke.dash * (1 + len(stroke.dash) % 2)
                context.set_dashes(stroke.offset * size, [max(part * size, 0.01) for part in dash])
            renderer.draw_path(context, shape, flip, None)
        share = np.asarray(renderer.buffer_rgba())[..., 3].astype(np.float32) / 255
        return _Patch(rows, columns, share)

    def _bounds(self, shape: Any, reach: float) -> tuple[slice, slice]:
        """The rows and columns that a shape can touch and that anything is let through in."""
        if shape is None:
            return slice(0, 0), slice(0, 0)
        (left, top), (right, bottom) = shape.vertices.min(axis=0) - reach, shape.vertices.max(axis=0) + reach
        rows = slice(max(0, math.floor(top)), min(self.rows, math.ceil(bottom)))
        columns = slice(max(0, math.floor(left)), min(self.columns, math.ceil(right)))
        return _common(self._state.rows, rows), _common(self._state.columns, columns)


def _common(first: slice, second: slice) -> slice:
    start = max(first.start, second.start)
    return slice(start, max(start, min(first.stop, second.stop)))


def _parts(path: Path) -> list[list[Any]]:
    """The subpaths of a path."""
    parts: list[list[Any]] = []
    for segment in path:
        if segment[0] == "m" or not parts:
            parts.append([])
        parts[-1].append(segment)
    return parts


def _agg_path(path: Path, matrix: Matrix) -> Any:
    from matplotlib.path import Path as Shape

    points: list[tuple[float, float]] = []
    codes: list[Any] = []
    for segment in path:
        verb, *numbers = moved(segment, matrix)
        if verb == "h":
            if points:
                points.append(points[-1])
                codes.append(Shape.CLOSEPOLY)
            continue
        code = {"m": Shape.MOVETO, "l": Shape.LINETO, "c": Shape.CURVE4}[verb]
        for x, y in zip(numbers[::2], numbers[1::2], strict=True):
            points.append((min(1e6, max(-1e6, x)), min(1e6, max(-1e6, y))))
            codes.append(code)
    return Shape(points, codes) if points else None


def _along(gradient: Shade, x: Any, y: Any) -> Any:
    """How far along a gradient each place lies."""
    if isinstance(gradient, Axial):
        (x0, y0), (x1, y1) = gradient.start, gradient.end
        length = (x1 - x0) ** 2 + (y1 - y0) ** 2 or 1e-9
        return ((x - x0) * (x1 - x0) + (y - y0) * (y1 - y0)) / length
    if isinstance(gradient, Round):
        u = (x - gradient.center[0]) / gradient.radii[0] - gradient.focus[0]
        v = (y - gradient.center[1]) / gradient.radii[1] - gradient.focus[1]
        fx, fy = gradient.focus  # the ray from the focus through a place meets the unit circle at its end
        inside = 1 - fx * fx - fy * fy
        middle = u * fx + v * fy
        square = u * u + v * v
        return square / np.maximum(np.sqrt(middle * middle + square * inside) - middle, 1e-9)
    turn = np.degrees(np.arctan2(x - gradient.center[0], gradient.center[1] - y)) - gradient.angle
    return turn / 360 % 1


BLENDS: Final[dict[str, Callable[[Any, Any], Any]]] = {  # CSS Compositing 1 §9, of plain colours
    "multiply": lambda below, above: below * above,
    "screen": lambda below, above: below + above - below * above,
    "darken": np.minimum,
    "lighten": np.maximum,
    "difference": lambda below, above: np.abs(below - above),
    "exclusion": lambda below, above: below + above - 2 * below * above,
    "overlay": lambda below, above: np.where(below <= 0.5, 2 * below * above, 1 - 2 * (1 - below) * (1 - above)),
    "hard-light": lambda below, above: np.where(above <= 0.5, 2 * below * above, 1 - 2 * (1 - below) * (1 - above)),
    "color-dodge": lambda below, above: np.where(below <= 0, 0.0, np.minimum(1.0, below / np.maximum(1 - above, 1e-6))),
    "color-burn": lambda below, above: np.where(
        below >= 1, 1.0, 1 - np.minimum(1.0, (1 - below) / np.maximum(above, 1e-6))
    ),
    "soft-light": lambda below, above: np.where(
        above <= 0.5,
        below - (1 - 2 * above) * below * (1 - below),
        below
        + (2 * above - 1) * (np.where(below <= 0.25, ((16 * below - 12) * below + 4) * below, np.sqrt(below)) - below),
    ),
}


def plain(pixels: Pixels) -> Any:
    """The colours without their opacity."""
    return pixels[..., :3] / np.maximum(pixels[..., 3:], 1e-6)


def blended(above: Pixels, below: Pixels, mode: str) -> Pixels:
    """What is laid over `below`, its colours mixed with those there (Compositing 1 §5)."""
    mix = BLENDS.get(mode)
    if mix is None:
        return above
    share = below[..., 3:]
    colors = (1 - share) * plain(above) + share * mix(plain(below), plain(above))
    return np.concatenate([np.clip(colors, 0, 1) * above[..., 3:], above[..., 3:]], axis=-1).astype(np.float32)


def picture_of(pixels: Pixels, scale: float) -> Picture:
    """Pixels as a picture of its size in px."""
    from PIL import Image

    rows, columns = pixels.shape[:2]
    whole = np.concatenate([plain(pixels), pixels[..., 3:]], axis=-1)
    image = Image.fromarray(np.uint8(np.clip(whole, 0, 1) * 255 + 0.5), "RGBA")
    return png_picture(image, columns / scale, rows / scale)


def soft_scale(width: float, height: float, deviation: float) -> float:
    """Pixels for a px in a picture of that size in px that is blurred: the softer, the fewer."""
    return fitting_scale(width, height, min(FINE, max(0.5, 6 / deviation)))


def fitting_scale(width: float, height: float, wanted: float) -> float:
    """Pixels for a px, so that a picture of that size does not grow beyond all bounds."""
    return min(wanted, math.sqrt(MOST_PIXELS / max(width * height, 1.0)))
