"""Sweeps of colours around a centre, drawn as narrow wedges: what page formats have no gradient for."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import pairwise
from typing import Final

from fleetquill.drawing.canvas import Canvas, Path
from fleetquill.drawing.color_stops import color_at, is_opaque, opaque, shadows_of
from fleetquill.drawing.gradients import Sweep
from fleetquill.drawing.paths import polygon
from fleetquill.style.values import Rgba

STEPS: Final = 360


def paint_sweep(canvas: Canvas, gradient: Sweep, width: float, height: float) -> None:
    """Wedges that each have one colour; those that let through are seen through a mask."""
    reach = math.hypot(*(max(at, size - at) for at, size in zip(gradient.center, (width, height), strict=True)))
    canvas.save()
    if not is_opaque(gradient.stops):
        canvas.begin_group()
        for path, color in _wedges(gradient._replace(stops=shadows_of(gradient.stops)), reach + 1.0):
            canvas.fill_path(path, color)
        canvas.end_mask()
    for path, color in _wedges(gradient._replace(stops=opaque(gradient.stops)), reach + 1.0):
        canvas.fill_path(path, color)
    canvas.restore()


def _wedges(gradient: Sweep, reach: float) -> Iterator[tuple[Path, Rgba]]:
    x, y = gradient.center
    steps = {step / STEPS for step in range(STEPS + 1)}
    edges = sorted(steps | {place for place, _ in gradient.stops if 0.0 < place < 1.0})
    wedges: list[tuple[float, float, Rgba]] = []
    for start, end in pairwise(edges):
        color = color_at(gradient.stops, (start + end) / 2)
        if wedges and wedges[-1][2] == color and end - wedges[-1][0] < 0.25:
            wedges[-1] = (wedges[-1][0], end, color)
        else:
            wedges.append((start, end, color))
    for start, end, color in wedges:
        over = min(end + 1 / STEPS, 1.0)  # the next one lies over it, without a seam
        turns = [math.radians(gradient.angle + 360 * at) for at in (start, (start + over) / 2, over)]
        points = [(x + 1.5 * reach * math.sin(turn), y - 1.5 * reach * math.cos(turn)) for turn in turns]
        yield polygon((x, y), *points), color
