"""The graph of a filter element: what its steps take and give, in pixels (Filter Effects 1 §8, §9)."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, Final, NamedTuple

import numpy as np

from fleetquill.deadline import heed
from fleetquill.drawing.canvas import Area, Drawing
from fleetquill.drawing.paths import rectangle
from fleetquill.graphics.filters import grown
from fleetquill.graphics.raster import FINE, Pixels, RasterCanvas, fitting_scale, picture_of, plain
from fleetquill.graphics.svg.clips import is_boxed, region
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.paths import length_of, numbers_of
from fleetquill.graphics.svg.reading import Element
from fleetquill.style.values import Rgba

MOST_STEPS: Final = 60  # of a filter
FURTHEST: Final = 500.0  # px from which ink may come in
MOVING: Final = frozenset(("feoffset", "feimage", "femerge", "fetile", "femorphology"))  # steps that mix no colours
REACHES: Final = (("stddeviation", 3.0), ("dx", 1.0), ("dy", 1.0), ("radius", 1.0), ("scale", 0.5))

Step = Callable[["Graph", Element], Pixels]


class Edges(NamedTuple):
    """Where a part of the picture begins and ends, in pixels; some of it may lie outside."""

    left: int
    top: int
    right: int
    bottom: int

    @property
    def slices(self) -> tuple[slice, slice]:
        """The rows and columns of it that the picture has."""
        return slice(max(0, self.top), max(0, self.bottom)), slice(max(0, self.left), max(0, self.right))


class _Result(NamedTuple):
    pixels: Pixels
    edges: Edges  # of the part of the picture that its step fills


class Graph:
    """The steps of one filter on one element, whose box and drawing are given."""

    def __init__(self, painter: SvgPainter, server: Element, box: Area, drawing: Drawing) -> None:
        self.painter = painter
        self.server = server
        self.box = box
        self.drawing = drawing
        self.boxed = is_boxed(server, "primitiveunits")
        self.region = region(server, box, painter.size, "filterunits")
        self.area = grown(self.region, min(self._reach(), FURTHEST))
        matrix = getattr(painter.out, "matrix", (1.0, 0.0, 0.0, 1.0, 0.0, 0.0))
        enlarged = max(abs(matrix[0]) + abs(matrix[2]), abs(matrix[1]) + abs(matrix[3]), 0.01)
        self.scale = fitting_scale(self.area[2], self.area[3], FINE * enlarged)
        self.edges = Edges(0, 0, 0, 0)  # of the step that is being taken
        self.linear = True  # whether that step works in linear light
        self._results: dict[str, _Result] = {}
        self._last: _Result | None = None

    def _reach(self) -> float:
        """How far the steps may move ink, in px."""
        total = 1.0
        for step in self.server.iter():
            for name, times in REACHES:
                total += times * max(map(abs, numbers_of(step.get(name, ""))), default=0.0)
        return total * (max(self.box[2:]) if self.boxed else 1.0)

    def drawn(self, steps: dict[str, Step]) -> Drawing:
        """What the drawing looks like through the filter."""
        found = Drawing(*self.drawing.extent)
        if self.region[2] <= 0 or self.region[3] <= 0:
            return found
        source = self.canvas()
        self.drawing.paint(source)
        whole = Edges(0, 0, source.columns, source.rows)
        self._results["SourceGraphic"] = _Result(source.pixels, whole)
        for step in steps_of(self.server)[:MOST_STEPS]:
            do = steps.get(str(step.tag))
            if do is not None:
                heed()
                self._take(step, do)
        pixels = source.pixels if self._last is None else self._last.pixels
        picture = picture_of(pixels, self.scale)
        found.save()
        found.clip(rectangle(*self.region))
        found.picture(picture, self.area[0], self.area[1], picture.width, picture.height)
        found.restore()
        return found

    def canvas(self) -> RasterCanvas:
        """A canvas of the area's size with nothing on it."""
        x, y, width, height = self.area
        return RasterCanvas(width, height, self.scale, x, y)

    def _take(self, step: Element, do: Step) -> None:
        self.linear = self.painter.styles.in_place(step).color_interpolation_filters != "srgb"
        self.edges = self._edges_of(step)
        made = do(self, step)
        if self.linear and step.tag not in MOVING:
            made = _recoded(made, to_srgb)
        kept = np.zeros_like(made)
        kept[self.edges.slices] = made[self.edges.slices]
        self._last = _Result(kept, self.edges)
        if step.get("result"):
            self._results[step.get("result", "")] = self._last

    # ---- what a step takes ----

    def input(self, step: Element, name: str = "in") -> Pixels:
        """An input of a step, in the colour space that it works in."""
        pixels = self.raw(step.get(name, ""))
        if not self.linear or step.tag in MOVING:
            return pixels
        return _recoded(pixels, to_linear)

    def raw(self, name: str) -> Pixels:
        """A result by its name, as it is; what the step before gave where there is none."""
        if name == "SourceAlpha":
            source = self._results["SourceGraphic"].pixels
            return np.concatenate([np.zeros_like(source[..., :3]), source[..., 3:]], axis=-1)
        return self._result(name).pixels

    def _result(self, name: str) -> _Result:
        return self._results.get(name) or self._last or self._results["SourceGraphic"]

    def color(self, color: Rgba, opacity: float = 1.0) -> tuple[float, ...]:
        """A colour multiplied by its opacity, in the space that the step works in."""
        alpha = color.alpha * opacity
        parts = [float(to_linear(np.float32(part))) if self.linear else part for part in color[:3]]
        return (*(part * alpha for part in parts), alpha)

    def size(self, step: Element, name: str, axis: int, default: str = "0") -> float:
        """A distance of a step in pixels; of two numbers the one for that axis."""
        numbers = numbers_of(step.get(name, default)) or numbers_of(default)
        value = numbers[min(axis, len(numbers) - 1)]
        return value * (self.box[2 + axis] if self.boxed else 1.0) * self.scale

    def point(self, x: float, y: float, z: float) -> tuple[float, float, float]:
        """A point in the space of a step's numbers as one in px."""
        if not self.boxed:
            return x, y, z
        left, top, width, height = self.box
        return left + x * width, top + y * height, z * math.hypot(width, height) / math.sqrt(2)

    def places(self) -> tuple[Any, Any]:
        """Where the middle of each pixel is, in px: across and down."""
        rows, columns = self._results["SourceGraphic"].pixels.shape[:2]
        across: Any
        down: Any
        across, down = np.meshgrid(np.arange(columns) + 0.5, np.arange(rows) + 0.5)
        return across / self.scale + self.area[0], down / self.scale + self.area[1]

    # ---- where a step works (§9.2) ----

    def filled(self, step: Element) -> Edges:
        """The part of the picture that the input of a step fills."""
        return self._result(step.get("in", "")).edges

    def subregion(self) -> Area:
        """The part of the plane that the step fills, in px."""
        left, top, right, bottom = (edge / self.scale for edge in self.edges)
        return self.area[0] + left, self.area[1] + top, right - left, bottom - top

    def _edges_of(self, step: Element) -> Edges:
        if {"x", "y", "width", "height"} & set(step.attrib):
            return self._said_edges(step)
        names = [step.get("in", ""), *([step.get("in2", "")] if step.get("in2") else [])]
        if step.tag == "femerge":
            names = [node.get("in", "") for node in step if node.tag == "femergenode"]
        inputs = [self._result(name) for name in names]
        source = self._results["SourceGraphic"].pixels
        if step.tag in SOURCES or "SourceAlpha" in names or not inputs or any(i.pixels is source for i in inputs):
            return self._pixels(self.region)
        return Edges(
            min(i.edges[0] for i in inputs),
            min(i.edges[1] for i in inputs),
            max(i.edges[2] for i in inputs),
            max(i.edges[3] for i in inputs),
        )

    def _said_edges(self, step: Element) -> Edges:
        found: list[float] = []
        for name, axis in (("x", 0), ("y", 1), ("width", 0), ("height", 1)):
            start = name in ("x", "y")
            own = self.region[axis] if start else self.region[2 + axis]
            value = length_of(step.get(name, ""), 1.0 if self.boxed else self.painter.size[axis])
            if value is not None and self.boxed:
                value = value * self.box[2 + axis] + (self.box[axis] if start else 0.0)
            found.append(own if value is None else value)
        return self._pixels((found[0], found[1], found[2], found[3]))

    def _pixels(self, area: Area) -> Edges:
        x, y, width, height = area
        edges = (x - self.area[0], y - self.area[1], x + width - self.area[0], y + height - self.area[1])
        return Edges(*(round(edge * self.scale) for edge in edges))


SOURCES: Final = frozenset(("feflood", "feimage", "feturbulence", "fetile"))  # fill the region, whatever comes in


def steps_of(server: Element) -> list[Element]:
    """The elements of a filter that are steps, known or not."""
    return [step for step in server if isinstance(step.tag, str) and step.tag.startswith("fe")]


def to_linear(parts: Any) -> Any:
    """Parts of sRGB colours as light."""
    return np.where(parts <= 0.04045, parts / 12.92, ((np.maximum(parts, 0) + 0.055) / 1.055) ** 2.4)


def to_srgb(parts: Any) -> Any:
    """Light as parts of sRGB colours."""
    parts = np.clip(parts, 0, 1)
    return np.where(parts <= 0.0031308, parts * 12.92, 1.055 * parts ** (1 / 2.4) - 0.055)


def _recoded(pixels: Pixels, code: Callable[[Any], Any]) -> Pixels:
    """Pixels with their plain colours written otherwise."""
    colors = code(plain(pixels)) * pixels[..., 3:]
    return np.concatenate([colors, pixels[..., 3:]], axis=-1).astype(np.float32)


def multiplied(colors: Any, alpha: Any) -> Pixels:
    """Plain colours and opacity as pixels."""
    alpha = np.clip(alpha, 0, 1)
    return np.concatenate([np.clip(colors, 0, 1) * alpha, alpha], axis=-1).astype(np.float32)
