"""What a box is drawn through as a whole, beside what a canvas has a word for."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from fleetquill.drawing.canvas import Area, Drawing


class Effect(Protocol):
    """A filter element of the document."""

    @property
    def faults(self) -> Sequence[str]:
        """What it asks for and does not get, for remarks."""

    def drawn(self, drawing: Drawing, box: Area) -> Drawing:
        """What a drawing of a box becomes; `box` is its border box in px."""
