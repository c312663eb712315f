"""Surfaces under a lamp: feDiffuseLighting and feSpecularLighting (Filter Effects 1 §9.11, §9.20, §10).

A surface is as high as its input is opaque there.
"""

from __future__ import annotations

import math
from typing import Any, Final, NamedTuple

import numpy as np

from fleetquill.graphics.raster import Pixels
from fleetquill.graphics.svg.filters.graph import Graph
from fleetquill.graphics.svg.paths import first_number
from fleetquill.graphics.svg.reading import Element

LAMPS: Final = ("fedistantlight", "fepointlight", "fespotlight")
LARGEST_EXPONENT: Final = 128.0  # §9.20: from 1 on
SOFT: Final = 0.016  # of the cosine: the edge of a cone (§10.4)
SLOPES: Final = 2.0  # §9.11: its sums of differences are of two pixels


class _Surface(NamedTuple):
    height: Any  # of each pixel
    normal: tuple[Any, Any, Any]  # of length 1, towards the eye


class _Lit(NamedTuple):
    towards: tuple[Any, Any, Any]  # the lamp, of length 1
    strength: Any  # of the lamp, from 0 to 1


def diffuse(graph: Graph, step: Element) -> Pixels:
    """A dull surface: opaque all over."""
    surface, lit, color = _scene(graph, step)
    light = first_number(step.get("diffuseconstant", ""), 1.0) * _dot(surface.normal, lit.towards)
    return _shown(np.maximum(light, 0) * lit.strength, color, opaque=True)


def specular(graph: Graph, step: Element) -> Pixels:
    """What a smooth surface throws back: as opaque as it is bright."""
    surface, lit, color = _scene(graph, step)
    x, y, z = lit.towards
    halfway = _unit(x, y, z + 1)  # between lamp and eye, which is straight above
    exponent = min(max(first_number(step.get("specularexponent", ""), 1.0), 1.0), LARGEST_EXPONENT)
    shine = np.maximum(_dot(surface.normal, halfway), 0) ** exponent
    return _shown(first_number(step.get("specularconstant", ""), 1.0) * shine * lit.strength, color, opaque=False)


def _scene(graph: Graph, step: Element) -> tuple[_Surface, _Lit, tuple[float, ...]]:
    surface = _surface(graph, step)
    lamp = next((child for child in step if child.tag in LAMPS), None)
    color = graph.color(graph.painter.styles.in_place(step).lighting_color)[:3]
    dark = _Lit((0.0, 0.0, 1.0), np.zeros_like(surface.height))
    return surface, dark if lamp is None else _lit(graph, lamp, surface), color


def _shown(light: Any, color: tuple[float, ...], *, opaque: bool) -> Pixels:
    parts = np.clip(light[..., None] * np.array(color), 0, 1)
    alpha = np.ones_like(light) if opaque else parts.max(axis=-1)
    return np.concatenate([parts, alpha[..., None]], axis=-1).astype(np.float32)


# ---- the surface ----


def _surface(graph: Graph, step: Element) -> _Surface:
    """§9.11: heights, and normals by how they change around each pixel; at the edges by what there is."""
    scale = first_number(step.get("surfacescale", ""), 1.0)
    height = np.asarray(graph.input(step)[..., 3], np.float64)
    rows, columns = graph.edges.slices
    part = height[rows, columns]
    across, down = np.zeros_like(height), np.zeros_like(height)
    if part.shape[0] > 1 and part.shape[1] > 1:
        across[rows, columns] = _smoothed(np.gradient(part, axis=1), axis=0)
        down[rows, columns] = _smoothed(np.gradient(part, axis=0), axis=1)
    steep = SLOPES * scale * graph.scale  # a px is so many pixels
    return _Surface(scale * height, _unit(-steep * across, -steep * down, np.ones_like(height)))


def _smoothed(slopes: Any, axis: int) -> Any:
    """Weighed with their neighbours as 1 : 2 : 1; at an edge as 2 : 1."""
    moved = np.moveaxis(slopes, axis, 0)
    found = np.empty_like(moved)
    found[1:-1] = (moved[:-2] + 2 * moved[1:-1] + moved[2:]) / 4
    found[0] = (2 * moved[0] + moved[1]) / 3
    found[-1] = (2 * moved[-1] + moved[-2]) / 3
    return np.moveaxis(found, 0, axis)


# ---- the lamps (§10) ----


def _lit(graph: Graph, lamp: Element, surface: _Surface) -> _Lit:
    def number(name: str, default: float = 0.0) -> float:
        return first_number(lamp.get(name, ""), default)

    everywhere = np.ones_like(surface.height)
    if lamp.tag == "fedistantlight":
        turn, rise = math.radians(number("azimuth")), math.radians(number("elevation"))
        towards = (math.cos(turn) * math.cos(rise), math.sin(turn) * math.cos(rise), math.sin(rise))
        return _Lit(towards, everywhere)
    x, y, z = graph.point(number("x"), number("y"), number("z"))
    across, down = graph.places()
    beam = _unit(x - across, y - down, z - surface.height)
    if lamp.tag == "fepointlight":
        return _Lit(beam, everywhere)
    to_x, to_y, to_z = graph.point(number("pointsatx"), number("pointsaty"), number("pointsatz"))
    middle = _unit(np.float64(to_x - x), np.float64(to_y - y), np.float64(to_z - z))
    within = -_dot(beam, middle)  # cosine of the angle from the middle of the cone
    strength = np.maximum(within, 0) ** max(number("specularexponent", 1.0), 0.0)
    if lamp.get("limitingconeangle"):
        edge = math.cos(math.radians(min(abs(number("limitingconeangle")), 90.0)))
        strength = strength * np.clip((within - edge) / SOFT, 0, 1)
    return _Lit(beam, np.where(within <= 0, 0.0, strength))


def _unit(x: Any, y: Any, z: Any) -> tuple[Any, Any, Any]:
    length = np.sqrt(x * x + y * y + z * z)
    length = np.where(length, length, 1.0)
    return x / length, y / length, z / length


def _dot(first: tuple[Any, Any, Any], second: tuple[Any, Any, Any]) -> Any:
    return first[0] * second[0] + first[1] * second[1] + first[2] * second[2]
