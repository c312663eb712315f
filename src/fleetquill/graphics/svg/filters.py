"""Filter elements: a graph of steps on pixels (Filter Effects 1 §9)."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Final

import numpy as np

from fleetquill.drawing.canvas import Area, Drawing
from fleetquill.drawing.paths import rectangle
from fleetquill.graphics.blur import blurred
from fleetquill.graphics.filters import filtered, grown, room_of
from fleetquill.graphics.raster import FINE, Pixels, RasterCanvas, blended, fitting_scale, picture_of, plain
from fleetquill.graphics.svg.clips import is_boxed, region
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.paths import first_number, length_of, numbers_of
from fleetquill.graphics.svg.reading import Element
from fleetquill.style.filter_values import Reference
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import Rgba

MOST_WEIGHTS: Final = 81  # of a convolution
MOST_STEPS: Final = 60  # of a filter


def draw_filtered(painter: SvgPainter, style: ComputedStyle, box: Area, drawing: Drawing) -> None:
    """What an element draws, through the filters of its style; `box` is that of its shapes."""
    for step in style.filter:
        if isinstance(step, Reference):
            server = painter.styles.ids.get(step.id)
            if server is not None and server.tag == "filter":
                drawing = _Graph(painter, server, box, drawing).drawn()
        else:
            drawing = filtered(drawing, (step,), style, grown(box, room_of((step,))))
    painter.out.add(drawing)


class _Graph:
    """The steps of one filter on one element."""

    def __init__(self, painter: SvgPainter, server: Element, box: Area, drawing: Drawing) -> None:
        self.painter = painter
        self.server = server
        self.box = box
        self.drawing = drawing
        self.boxed = is_boxed(server, "primitiveunits")
        self.region = region(server, box, painter.size, "filterunits")
        self.area = grown(self.region, min(self._reach(), 500.0))  # what lies beyond may come in
        matrix = getattr(painter.out, "matrix", (1.0, 0.0, 0.0, 1.0, 0.0, 0.0))
        enlarged = max(abs(matrix[0]) + abs(matrix[2]), abs(matrix[1]) + abs(matrix[3]), 0.01)
        self.scale = fitting_scale(self.area[2], self.area[3], FINE * enlarged)
        self.results: dict[str, Pixels] = {}
        self.last: Pixels | None = None
        self.linear = True

    def _reach(self) -> float:
        """How far the steps may move ink, in px."""
        total = 1.0
        for step in self.server.iter():
            for name, times in (("stddeviation", 3.0), ("dx", 1.0), ("dy", 1.0), ("radius", 1.0), ("scale", 0.5)):
                total += times * max(map(abs, numbers_of(step.get(name, ""))), default=0.0)
        return total * (max(self.box[2:]) if self.boxed else 1.0)

    def drawn(self) -> Drawing:
        found = Drawing(*self.drawing.extent)
        if self.region[2] <= 0 or self.region[3] <= 0:
            return found
        x, y, width, height = self.area
        source = RasterCanvas(width, height, self.scale, x, y)
        self.drawing.paint(source)
        self.results["SourceGraphic"] = source.pixels
        steps = [step for step in self.server if isinstance(step.tag, str) and step.tag.startswith("fe")]
        if len(steps) > MOST_STEPS:
            self.painter.out.note(f"An SVG filter has {len(steps)} steps; the first {MOST_STEPS} are taken.")
        for step in steps[:MOST_STEPS]:
            self._take(step)
        pixels = source.pixels if self.last is None else self.last
        picture = picture_of(pixels, self.scale)
        found.save()
        found.clip(rectangle(*self.region))
        found.picture(picture, x, y, picture.width, picture.height)
        found.restore()
        return found

    def _take(self, step: Element) -> None:
        do = STEPS.get(str(step.tag))
        if do is None:
            self.painter.out.note(f"The SVG filter step '{step.tag}' is passed over.")
            return
        self.linear = self.painter.styles.in_place(step).color_interpolation_filters != "srgb"
        made = do(self, step)
        if self.linear and step.tag not in ("feoffset", "femerge", "fetile", "femorphology"):
            made = _recoded(made, _to_srgb)
        self.last = self._within(step, made)
        if step.get("result"):
            self.results[step.get("result", "")] = self.last

    def input(self, step: Element, name: str = "in") -> Pixels:
        """An input of a step, in the colour space that it works in."""
        pixels = self.raw(step.get(name, ""))
        if not self.linear or step.tag in ("feoffset", "femerge", "fetile", "femorphology"):
            return pixels
        return _recoded(pixels, _to_linear)

    def raw(self, name: str) -> Pixels:
        source = self.results["SourceGraphic"]
        if name == "SourceAlpha":
            return np.concatenate([np.zeros_like(source[..., :3]), source[..., 3:]], axis=-1)
        if name in self.results:
            return self.results[name]
        return source if self.last is None else self.last

    def color(self, step: Element) -> tuple[float, ...]:
        """The flood colour of a step, multiplied by its opacity, in its colour space."""
        style = self.painter.styles.in_place(step)
        color: Rgba = style.flood_color
        alpha = color.alpha * style.flood_opacity
        parts = [_to_linear(np.float32(part)) if self.linear else part for part in color[:3]]
        return (*(float(part) * alpha for part in parts), alpha)

    def size(self, step: Element, name: str, axis: int, default: str = "0") -> float:
        """A distance of a step in pixels; of two numbers the one for that axis."""
        numbers = numbers_of(step.get(name, default)) or numbers_of(default)
        value = numbers[min(axis, len(numbers) - 1)]
        return value * (self.box[2 + axis] if self.boxed else 1.0) * self.scale

    def rows_and_columns(self, step: Element) -> tuple[int, int, int, int] | None:
        """The part of the picture that a step says it fills, in pixels: left, top, right, bottom."""
        if not {"x", "y", "width", "height"} & set(step.attrib):
            return None
        found: list[float] = []
        for name, axis in (("x", 0), ("y", 1), ("width", 0), ("height", 1)):
            start = name in ("x", "y")
            own = self.region[axis] if start else self.region[2 + axis]
            basis = 1.0 if self.boxed else self.painter.size[axis]
            value = length_of(step.get(name, ""), basis)
            if value is not None and self.boxed:
                value = value * self.box[2 + axis] + (self.box[axis] if start else 0.0)
            found.append(own if value is None else value)
        return self._pixels((found[0], found[1], found[2], found[3]))

    def _pixels(self, area: Area) -> tuple[int, int, int, int]:
        """The edges of a part of the plane: left, top, right, bottom."""
        x, y, width, height = area
        edges = (x - self.area[0], y - self.area[1], x + width - self.area[0], y + height - self.area[1])
        left, top, right, bottom = (max(0, round(edge * self.scale)) for edge in edges)
        return left, top, right, bottom

    def _within(self, step: Element, pixels: Pixels) -> Pixels:
        edges = self.rows_and_columns(step)
        if step.tag == "fetile":
            return pixels
        if edges is None:
            edges = self._pixels(self.region)
        left, top, right, bottom = edges
        kept = np.zeros_like(pixels)
        kept[top:bottom, left:right] = pixels[top:bottom, left:right]
        return kept


def _to_linear(parts: Any) -> Any:
    return np.where(parts <= 0.04045, parts / 12.92, ((np.maximum(parts, 0) + 0.055) / 1.055) ** 2.4)


def _to_srgb(parts: Any) -> Any:
    parts = np.clip(parts, 0, 1)
    return np.where(parts <= 0.0031308, parts * 12.92, 1.055 * parts ** (1 / 2.4) - 0.055)


def _recoded(pixels: Pixels, code: Callable[[Any], Any]) -> Pixels:
    """Pixels with their plain colours written otherwise."""
    colors = code(plain(pixels)) * pixels[..., 3:]
    return np.concatenate([colors, pixels[..., 3:]], axis=-1).astype(np.float32)


def _multiplied(colors: Any, alpha: Any) -> Pixels:
    """Plain colours and opacity as pixels."""
    alpha = np.clip(alpha, 0, 1)
    return np.concatenate([np.clip(colors, 0, 1) * alpha, alpha], axis=-1).astype(np.float32)


def _moved(pixels: Pixels, dx: float, dy: float) -> Pixels:
    found = np.zeros_like(pixels)
    across, down = round(dx), round(dy)
    rows, columns = pixels.shape[:2]
    if abs(across) < columns and abs(down) < rows:
        found[max(0, down) : rows + min(0, down), max(0, across) : columns + min(0, across)] = pixels[
            max(0, -down) : rows - max(0, down), max(0, -across) : columns - max(0, across)
        ]
    return found


def _over(above: Pixels, below: Pixels) -> Pixels:
    return above + below * (1 - above[..., 3:])


def _blur(graph: _Graph, step: Element) -> Pixels:
    across, down = (graph.size(step, "stddeviation", axis) for axis in (0, 1))
    return blurred(graph.input(step), max(0.0, across), max(0.0, down))


def _offset(graph: _Graph, step: Element) -> Pixels:
    return _moved(graph.input(step), graph.size(step, "dx", 0), graph.size(step, "dy", 1))


def _flood(graph: _Graph, step: Element) -> Pixels:
    return np.broadcast_to(np.array(graph.color(step), np.float32), graph.results["SourceGraphic"].shape).copy()


def _drop_shadow(graph: _Graph, step: Element) -> Pixels:
    source = graph.input(step)
    deviations = [graph.size(step, "stddeviation", axis, "2") for axis in (0, 1)]
    soft = blurred(_moved(source, graph.size(step, "dx", 0, "2"), graph.size(step, "dy", 1, "2")), *deviations)
    return _over(source, soft[..., 3:] * np.array(graph.color(step), np.float32))


def _merge(graph: _Graph, step: Element) -> Pixels:
    found = np.zeros_like(graph.results["SourceGraphic"])
    for node in step:
        if node.tag == "femergenode":
            found = _over(graph.raw(node.get("in", "")), found)
    return found


def _composite(graph: _Graph, step: Element) -> Pixels:
    above, below = graph.input(step), graph.input(step, "in2")
    a, b = above[..., 3:], below[..., 3:]
    operator = step.get("operator", "over")
    if operator == "arithmetic":
        k1, k2, k3, k4 = (first_number(step.get(name, ""), 0.0) for name in ("k1", "k2", "k3", "k4"))
        mixed = np.clip(k1 * above * below + k2 * above + k3 * below + k4, 0, 1)
        mixed[..., :3] = np.minimum(mixed[..., :3], mixed[..., 3:])
        return np.asarray(mixed, np.float32)
    shares = {"over": (1.0, 1 - a), "in": (b, 0.0), "out": (1 - b, 0.0), "atop": (b, 1 - a), "xor": (1 - b, 1 - a),
              "lighter": (1.0, 1.0)}  # fmt: skip
    first, second = shares.get(operator, shares["over"])
    return np.asarray(np.clip(above * first + below * second, 0, 1), np.float32)


def _blend(graph: _Graph, step: Element) -> Pixels:
    above, below = graph.input(step), graph.input(step, "in2")
    return _over(blended(above, below, step.get("mode", "normal")), below)


def _color_matrix(graph: _Graph, step: Element) -> Pixels:
    kind, numbers = step.get("type", "matrix"), numbers_of(step.get("values", ""))
    source = graph.input(step)
    if kind == "luminanceToAlpha":
        alpha = plain(source) @ np.array((0.2125, 0.7154, 0.0721), np.float32)
        return _multiplied(np.zeros_like(source[..., :3]), alpha[..., None])
    rows = np.eye(4, 5)
    if kind == "matrix":
        rows = np.array(numbers).reshape(4, 5) if len(numbers) == 20 else rows
    else:
        from fleetquill.graphics.color_filters import matrix_of
        from fleetquill.style.filter_values import Recolor

        name = {"saturate": "saturate", "hueRotate": "hue-rotate"}.get(kind, "saturate")
        rows[:3, :3] = matrix_of(Recolor(name, numbers[0] if numbers else 1.0 if name == "saturate" else 0.0)).rows
    whole = np.concatenate([plain(source), source[..., 3:], np.ones_like(source[..., 3:])], axis=-1)
    made = whole @ rows.T
    return _multiplied(made[..., :3], made[..., 3:])


def _component_transfer(graph: _Graph, step: Element) -> Pixels:
    source = graph.input(step)
    parts = [*np.moveaxis(plain(source), -1, 0), source[..., 3]]
    for child in step:
        if isinstance(child.tag, str) and child.tag in FUNCTIONS:
            at = FUNCTIONS.index(child.tag)
            parts[at] = _transferred(child, parts[at])
    return _multiplied(np.stack(parts[:3], axis=-1), parts[3][..., None])


FUNCTIONS: Final = ("fefuncr", "fefuncg", "fefuncb", "fefunca")


def _transferred(function: Element, part: Any) -> Any:
    """§9.7: what becomes of one of the four parts of all pixels."""
    kind, table = function.get("type", "identity"), numbers_of(function.get("tablevalues", ""))

    def number(name: str, default: float) -> float:
        return first_number(function.get(name, ""), default)

    if kind == "table" and table:
        return np.interp(part, np.linspace(0, 1, len(table)), table) if len(table) > 1 else np.full_like(part, table[0])
    if kind == "discrete" and table:
        return np.array(table)[np.minimum((np.clip(part, 0, 1) * len(table)).astype(int), len(table) - 1)]
    if kind == "linear":
        return part * number("slope", 1.0) + number("intercept", 0.0)
    if kind == "gamma":
        powers = np.maximum(part, 0) ** number("exponent", 1.0)
        return number("amplitude", 1.0) * powers + number("offset", 0.0)
    return part


def _morphology(graph: _Graph, step: Element) -> Pixels:
    found = graph.input(step)
    pick = np.maximum if step.get("operator", "erode") == "dilate" else np.minimum
    for axis, name_axis in ((1, 0), (0, 1)):
        radius = round(graph.size(step, "radius", name_axis))
        if radius <= 0:
            continue
        whole = found
        for shift in range(1, min(radius, 100) + 1):
            steps = (shift, 0) if axis == 1 else (0, shift)
            whole = pick(whole, pick(_moved(found, *steps), _moved(found, -steps[0], -steps[1])))
        found = whole
    return found


def _tile(graph: _Graph, step: Element) -> Pixels:
    source = graph.input(step)
    before = step.getprevious()
    edges = graph.rows_and_columns(before) if before is not None else None
    if edges is None:
        return source
    left, top, right, bottom = edges
    tile = source[top:bottom, left:right]
    if not tile.size:
        return source
    rows, columns = source.shape[:2]
    down = (np.arange(rows) - top) % tile.shape[0]
    across = (np.arange(columns) - left) % tile.shape[1]
    return np.asarray(tile[down][:, across], np.float32)


def _convolve(graph: _Graph, step: Element) -> Pixels:
    numbers = numbers_of(step.get("kernelmatrix", ""))
    order = [round(n) for n in numbers_of(step.get("order", "3"))] or [3]
    wide, high = order[0], order[-1]
    source = graph.input(step)
    if wide * high != len(numbers) or not 1 <= wide * high <= MOST_WEIGHTS:
        return source
    divisor = first_number(step.get("divisor", ""), sum(numbers)) or 1.0
    target = (
        round(first_number(step.get("targetx", ""), wide // 2)),
        round(first_number(step.get("targety", ""), high // 2)),
    )
    found = np.zeros_like(source)
    for index, weight in enumerate(reversed(numbers)):
        dx, dy = index % wide - (wide - 1 - target[0]), index // wide - (high - 1 - target[1])
        found += _moved(source, -dx * graph.scale, -dy * graph.scale) * (weight / divisor)
    found = np.clip(found + first_number(step.get("bias", ""), 0.0) * source[..., 3:], 0, 1)
    if step.get("preservealpha") == "true":
        return _multiplied(plain(found), source[..., 3:])
    found[..., :3] = np.minimum(found[..., :3], found[..., 3:])
    return found


def _displace(graph: _Graph, step: Element) -> Pixels:
    source, by = graph.input(step), graph.input(step, "in2")
    reach = graph.size(step, "scale", 0)
    parts = np.concatenate([plain(by), by[..., 3:]], axis=-1)
    across, down = ("RGBA".find(step.get(name, "A").upper()) for name in ("xchannelselector", "ychannelselector"))
    rows, columns = source.shape[:2]
    y, x = np.mgrid[0:rows, 0:columns]
    at_x = np.rint(x + reach * (parts[..., across] - 0.5)).astype(int)
    at_y = np.rint(y + reach * (parts[..., down] - 0.5)).astype(int)
    inside = (at_x >= 0) & (at_x < columns) & (at_y >= 0) & (at_y < rows)
    taken = source[np.clip(at_y, 0, rows - 1), np.clip(at_x, 0, columns - 1)]
    return np.asarray(taken * inside[..., None], np.float32)


STEPS: Final[dict[str, Callable[[_Graph, Element], Pixels]]] = {
    "fegaussianblur": _blur,
    "feoffset": _offset,
    "feflood": _flood,
    "fedropshadow": _drop_shadow,
    "femerge": _merge,
    "fecomposite": _composite,
    "feblend": _blend,
    "fecolormatrix": _color_matrix,
    "fecomponenttransfer": _component_transfer,
    "femorphology": _morphology,
    "fetile": _tile,
    "feconvolvematrix": _convolve,
    "fedisplacementmap": _displace,
}
