"""What the steps of a filter do to pixels (Filter Effects 1 §9)."""

from __future__ import annotations

from typing import Any, Final

import numpy as np

from fleetquill.graphics.blur import blurred
from fleetquill.graphics.color_filters import matrix_of
from fleetquill.graphics.raster import Pixels, blended, plain
from fleetquill.graphics.svg.filters.graph import Graph, Step, multiplied
from fleetquill.graphics.svg.filters.images import image
from fleetquill.graphics.svg.filters.light import diffuse, specular
from fleetquill.graphics.svg.filters.noise import turbulence
from fleetquill.graphics.svg.paths import first_number, numbers_of
from fleetquill.graphics.svg.reading import Element
from fleetquill.style.filter_values import Recolor

MOST_WEIGHTS: Final = 81  # of a convolution


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


def _blur(graph: Graph, step: Element) -> Pixels:
    across, down = (graph.size(step, "stddeviation", axis) for axis in (0, 1))
    return blurred(graph.input(step), max(0.0, across), max(0.0, down))


def _offset(graph: Graph, step: Element) -> Pixels:
    return _moved(graph.input(step), graph.size(step, "dx", 0), graph.size(step, "dy", 1))


def _flooded(graph: Graph, step: Element) -> tuple[float, ...]:
    style = graph.painter.styles.in_place(step)
    return graph.color(style.flood_color, style.flood_opacity)


def _flood(graph: Graph, step: Element) -> Pixels:
    return np.broadcast_to(np.array(_flooded(graph, step), np.float32), graph.raw("SourceGraphic").shape).copy()


def _drop_shadow(graph: Graph, step: Element) -> Pixels:
    source = graph.input(step)
    deviations = [graph.size(step, "stddeviation", axis, "2") for axis in (0, 1)]
    soft = blurred(_moved(source, graph.size(step, "dx", 0, "2"), graph.size(step, "dy", 1, "2")), *deviations)
    return _over(source, soft[..., 3:] * np.array(_flooded(graph, step), np.float32))


def _merge(graph: Graph, step: Element) -> Pixels:
    found = np.zeros_like(graph.raw("SourceGraphic"))
    for node in step:
        if node.tag == "femergenode":
            found = _over(graph.raw(node.get("in", "")), found)
    return found


def _composite(graph: Graph, step: Element) -> Pixels:
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


def _blend(graph: Graph, step: Element) -> Pixels:
    above, below = graph.input(step), graph.input(step, "in2")
    return _over(blended(above, below, step.get("mode", "normal")), below)


def _color_matrix(graph: Graph, step: Element) -> Pixels:
    kind, numbers = step.get("type", "matrix"), numbers_of(step.get("values", ""))
    source = graph.input(step)
    if kind == "luminanceToAlpha":
        alpha = plain(source) @ np.array((0.2125, 0.7154, 0.0721), np.float32)
        return multiplied(np.zeros_like(source[..., :3]), alpha[..., None])
    rows = np.eye(4, 5)
    if kind == "matrix":
        rows = np.array(numbers).reshape(4, 5) if len(numbers) == 20 else rows
    else:
        name = {"saturate": "saturate", "hueRotate": "hue-rotate"}.get(kind, "saturate")
        rows[:3, :3] = matrix_of(Recolor(name, numbers[0] if numbers else 1.0 if name == "saturate" else 0.0)).rows
    whole = np.concatenate([plain(source), source[..., 3:], np.ones_like(source[..., 3:])], axis=-1)
    made = whole @ rows.T
    return multiplied(made[..., :3], made[..., 3:])


def _component_transfer(graph: Graph, step: Element) -> Pixels:
    source = graph.input(step)
    parts = [*np.moveaxis(plain(source), -1, 0), source[..., 3]]
    for child in step:
        if isinstance(child.tag, str) and child.tag in FUNCTIONS:
            at = FUNCTIONS.index(child.tag)
            parts[at] = _transferred(child, parts[at])
    return multiplied(np.stack(parts[:3], axis=-1), parts[3][..., None])


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


def _morphology(graph: Graph, step: Element) -> Pixels:
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


def _tile(graph: Graph, step: Element) -> Pixels:
    source = graph.input(step)
    rows, columns = source.shape[:2]
    left, top, right, bottom = graph.filled(step)
    if right <= left or bottom <= top:
        return source
    down: Any = top + (np.arange(rows) - top) % (bottom - top)
    across: Any = left + (np.arange(columns) - left) % (right - left)
    tiled = source[np.clip(down, 0, rows - 1)][:, np.clip(across, 0, columns - 1)]
    inside = ((down >= 0) & (down < rows))[:, None] & ((across >= 0) & (across < columns))
    return np.asarray(tiled * inside[..., None], np.float32)


def _convolve(graph: Graph, step: Element) -> Pixels:
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
        return multiplied(plain(found), source[..., 3:])
    found[..., :3] = np.minimum(found[..., :3], found[..., 3:])
    return found


def _displace(graph: Graph, step: Element) -> Pixels:
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


STEPS: Final[dict[str, Step]] = {
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
    "feturbulence": turbulence,
    "feimage": image,
    "fediffuselighting": diffuse,
    "fespecularlighting": specular,
}
