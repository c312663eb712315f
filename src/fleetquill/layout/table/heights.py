"""Tables with a height of their own: their rows share what is left over (CSS Tables 3 §3.11)."""

from __future__ import annotations

from fleetquill.layout.contract.sizing import clamp_height, own_height
from fleetquill.layout.contract.space import SLACK, Space
from fleetquill.layout.table.bands import RowLayout, share_out
from fleetquill.layout.table.boxes import TableBox
from fleetquill.layout.table.measures import Geometry


def settled_heights(box: TableBox, geometry: Geometry, space: Space) -> list[float]:
    """The height of each row of a table that asks for more than its rows do; empty where it does not.

    The rows of bodies grow alike, so that a table that goes over several pages has its height in all.
    """
    given = _given_height(box, geometry, space)
    if given is None or not geometry.grid.rows:
        return []
    kept = box.measures.heights
    key = (geometry.width, given)
    if key not in kept:
        kept[key] = _shared_out(geometry, space, given)
    return kept[key]


def _given_height(box: TableBox, geometry: Geometry, space: Space) -> float | None:
    if space.fixed_height is not None:
        return None if box.children else space.fixed_height  # captions are no part of what rows share
    around = geometry.top + geometry.bottom
    asked = own_height(box.style, space.height, around) or 0.0
    return clamp_height(box.style, asked, space.height, around) or None


def _shared_out(geometry: Geometry, space: Space, given: float) -> list[float]:
    grid, between = geometry.grid, geometry.spacing_down
    layout = RowLayout(geometry, space)
    heights: list[float] = []
    while len(heights) < len(grid.rows):
        row = len(heights)
        heights += layout.band(row, grid.band_end(row, {}), lambda _: None).heights
    spare = given - geometry.top - geometry.bottom - between - sum(heights)
    if spare <= SLACK:
        return []
    heights = [height - between for height in heights]
    share_out(grid, 0, heights, grid.body or range(len(heights)), spare)
    return heights
