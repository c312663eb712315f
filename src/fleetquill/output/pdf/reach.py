"""How far what is drawn in a group reaches, for groups are as large as what is in them (ISO 32000-2 §8.10.2)."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Final

from fleetquill.drawing.canvas import Area, Point
from fleetquill.drawing.matrices import moved_corners
from fleetquill.style.box_values import IDENTITY

MOST_POINTS: Final = 400  # that are kept
EVERYWHERE: Final = (-100_000.0, -100_000.0, 200_000.0, 200_000.0)  # px: x, y, width, height


class Reach:
    """The box around points, in px of the group's own coordinates."""

    def __init__(self) -> None:
        self._points: list[Point] = []
        self._everywhere = False

    def take(self, corners: Iterable[Point]) -> None:
        self._points += corners
        if len(self._points) > MOST_POINTS:
            self._points = list(moved_corners(IDENTITY, self.box))

    def take_all(self) -> None:
        """Nothing says how far it reaches."""
        self._everywhere = True

    @property
    def box(self) -> Area:
        if self._everywhere:
            return EVERYWHERE
        if not self._points:
            return 0.0, 0.0, 0.0, 0.0
        left, top = (math.floor(min(point[side] for point in self._points)) for side in (0, 1))
        right, bottom = (math.ceil(max(point[side] for point in self._points)) for side in (0, 1))
        return left, top, right - left, bottom - top
