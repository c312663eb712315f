"""Clouds and marble: feTurbulence, by the algorithm that the standard gives (Filter Effects 1 §9.21)."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any, Final, NamedTuple

import numpy as np

from fleetquill.deadline import heed
from fleetquill.graphics.raster import Pixels
from fleetquill.graphics.svg.filters.graph import Graph, multiplied
from fleetquill.graphics.svg.paths import first_number, numbers_of
from fleetquill.graphics.svg.reading import Element

LATTICE: Final = 256
FAR: Final = 4096  # added to every place, so that none is below nought
MODULUS, FACTOR, QUOTIENT, REST = 2_147_483_647, 16_807, 127_773, 2_836  # of the standard's random numbers
MOST_OCTAVES: Final = 12  # finer ones have less than a grey of 255


class _Lattice(NamedTuple):
    order: Any  # whole numbers, twice over
    slopes: Any  # four channels × places of the lattice × (across, down)


class _Stitch(NamedTuple):
    """Where noise begins again, so that tiles meet: how often across and down, and where that ends."""

    width: int
    height: int
    right: int
    bottom: int

    def finer(self) -> _Stitch:
        return _Stitch(self.width * 2, self.height * 2, self.right * 2 - FAR, self.bottom * 2 - FAR)


def turbulence(graph: Graph, step: Element) -> Pixels:
    """Noise of its own colour and opacity in each pixel."""
    frequencies = [max(0.0, value) for value in numbers_of(step.get("basefrequency", "0"))] or [0.0]
    across, down = frequencies[0], frequencies[-1]
    x, y = graph.places()
    fractal = step.get("type", "turbulence") == "fractalNoise"
    stitch = None
    if step.get("stitchtiles") == "stitch":
        area = graph.subregion()
        x, y = x - area[0], y - area[1]
        across, down = _fitting(across, area[2]), _fitting(down, area[3])
        width, height = round(area[2] * across), round(area[3] * down)
        stitch = _Stitch(width, height, FAR + width, FAR + height)
    octaves = min(max(0, round(first_number(step.get("numoctaves", ""), 1.0))), MOST_OCTAVES)
    lattice = _lattice(round(first_number(step.get("seed", ""), 0.0)))
    total = np.zeros((4, *x.shape))
    x, y = x * across, y * down
    for octave in range(octaves):
        heed()
        found = _noise(lattice, x, y, stitch)
        total += (found if fractal else np.abs(found)) / 2**octave
        x, y = x * 2, y * 2
        stitch = stitch.finer() if stitch else None
    parts = (total + 1) / 2 if fractal else total
    return multiplied(np.moveaxis(parts[:3], 0, -1), parts[3][..., None])


def _fitting(frequency: float, length: float) -> float:
    """The frequency that fits a tile a whole number of times, nearest by ratio."""
    if not frequency or length <= 0:
        return frequency
    low, high = math.floor(length * frequency) / length, math.ceil(length * frequency) / length
    return low if low and frequency / low < high / frequency else high


def _noise(lattice: _Lattice, x: Any, y: Any, stitch: _Stitch | None) -> Any:
    """One octave, for all four channels: channels × rows × columns, from -1 to 1."""
    x, y = x + FAR, y + FAR
    left, top = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
    from_left, from_top = x - left, y - top
    right, bottom = left + 1, top + 1
    if stitch is not None:
        left, right = (np.where(place >= stitch.right, place - stitch.width, place) for place in (left, right))
        top, bottom = (np.where(place >= stitch.bottom, place - stitch.height, place) for place in (top, bottom))
    left, right, top, bottom = (place & (LATTICE - 1) for place in (left, right, top, bottom))
    at_left, at_right = lattice.order[left], lattice.order[right]

    def sloped(corner: Any, across: Any, down: Any) -> Any:
        slopes = lattice.slopes[:, corner]
        return slopes[..., 0] * across + slopes[..., 1] * down

    eased_x, eased_y = _eased(from_left), _eased(from_top)
    upper = _between(
        eased_x,
        sloped(lattice.order[at_left + top], from_left, from_top),
        sloped(lattice.order[at_right + top], from_left - 1, from_top),
    )
    lower = _between(
        eased_x,
        sloped(lattice.order[at_left + bottom], from_left, from_top - 1),
        sloped(lattice.order[at_right + bottom], from_left - 1, from_top - 1),
    )
    return _between(eased_y, upper, lower)


def _eased(share: Any) -> Any:
    return share * share * (3 - 2 * share)


def _between(share: Any, first: Any, second: Any) -> Any:
    return first + share * (second - first)


@lru_cache(maxsize=8)
def _lattice(seed: int) -> _Lattice:
    """The order and the slopes that a seed gives, to the last number as the standard's own program."""
    if seed <= 0:
        seed = -seed % (MODULUS - 1) + 1
    seed = min(seed, MODULUS - 1)

    def drawn() -> int:
        nonlocal seed
        seed = FACTOR * (seed % QUOTIENT) - REST * (seed // QUOTIENT)
        if seed <= 0:
            seed += MODULUS
        return seed

    slopes = np.array(
        [[[(drawn() % (2 * LATTICE) - LATTICE) / LATTICE for _ in "xy"] for _ in range(LATTICE)] for _ in "rgba"]
    )
    lengths = np.hypot(slopes[..., 0], slopes[..., 1])[..., None]
    slopes /= np.where(lengths, lengths, 1.0)
    order = list(range(LATTICE))
    for index in range(LATTICE - 1, 0, -1):
        other = drawn() % LATTICE
        order[index], order[other] = order[other], order[index]
    return _Lattice(np.array([*order, *order, *order[:2]]), np.concatenate([slopes, slopes, slopes[:, :2]], axis=1))
