"""The edges of a box where it is laid out."""

from __future__ import annotations

from fleetquill.layout.boxes.boxes import Box
from fleetquill.layout.contract.sizing import Edges, edges_of


def box_edges(box: Box, basis: float) -> Edges:
    """The edges of a box that is laid out in a containing block of that width, which it remembers for paint."""
    found = edges_of(box.style, basis)
    if "edges" not in box.style.kept:
        box.basis = basis
    return found
