"""Where fields stand on a page."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.fields import Field
from fleetquill.drawing.places import Place


class FieldOnPage(NamedTuple):
    """A field where it stands, in px from the page's top-left corner, and what shows its states."""

    field: Field
    x: float
    y: float
    width: float
    height: float
    states: Mapping[str, Drawing]
    place: Place | None


def in_order(fields: Sequence[FieldOnPage]) -> list[FieldOnPage]:
    """Fields in the order in which a key goes from one to the next: those that have a place of their own first."""
    return sorted(fields, key=lambda placed: (placed.field.order == 0, placed.field.order))
