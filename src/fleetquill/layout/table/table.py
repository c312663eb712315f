"""Table layout: rows over as many pages as they need, head and foot on each (CSS Tables 3)."""

from __future__ import annotations

from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.sizing import edges_of, own_height
from fleetquill.layout.contract.space import SLACK, UNBOUNDED, Laid, Space
from fleetquill.layout.table.bands import RowLayout
from fleetquill.layout.table.boxes import TableBox
from fleetquill.layout.table.geometry import collapsed_of, columns_of, geometry_of, grid_of, least_of_captions
from fleetquill.layout.table.held_rows import HeldRows
from fleetquill.layout.table.measures import Geometry, TableDetail, TableFragment
from fleetquill.layout.table.page import lay_out_table
from fleetquill.layout.table.widths import WIDEST, preferred_width
from fleetquill.style.lengths import Relative, resolve


def layout_table(box: TableBox, space: Space, resume: Resume | None) -> Laid:
    """Captions, then rows from `resume.at` on; `resume.inner` goes on inside cells."""
    geometry = geometry_of(box, space)
    if geometry.grid.column_count == 0 and not box.children:
        return _empty_table(box, space, geometry)
    share = resolve(box.style.fq_repeat_share, space.page)
    tall = _repeated_height(box, geometry, space)
    repeats = tall <= share + SLACK
    laid = lay_out_table(box, box, HeldRows(box, geometry, space, repeats=repeats), geometry, space, resume)
    if not repeats and resume is None and laid.resume is not None and laid.fragment is not None:
        message = (
            f"The table's head and foot take {tall * 0.75:.0f} pt; -fq-repeat-share lets them take "
            f"{share * 0.75:.0f} pt of each page, so they are not repeated."
        )
        space.context.remark("table", message, box.element)
    return laid


def _repeated_height(box: TableBox, geometry: Geometry, space: Space) -> float:
    """What head and foot take of each page; 0 where that does not matter.

    CSS Tables 3 §6 lets them take a quarter of a page each; here a head may take what the foot leaves.
    """
    grid = geometry.grid
    groups = [(group, rows) for role in ("head", "foot") for group, rows in grid.ranges(role)]
    if space.page == UNBOUNDED or not groups or any(group.style.fq_show_on != "every" for group, _ in groups):
        return 0.0
    known = box.measures.repeated
    if geometry.width not in known:
        layout = RowLayout(geometry, space)
        bands = [layout.band(rows.start, rows.stop, lambda _: None) for _, rows in groups]
        known[geometry.width] = sum(band.height for band in bands)
    return known[geometry.width]


def _empty_table(box: TableBox, space: Space, geometry: Geometry) -> Laid:
    height = own_height(box.style, space.height, geometry.top + geometry.bottom) or geometry.top + geometry.bottom
    fragment = TableFragment(box, geometry.width, TableDetail(0.0, height, geometry, []))
    fragment.height = height
    return Laid(fragment, None)


def table_content_widths(box: TableBox, context: Context) -> tuple[float, float]:
    """Least and most width of the table without its own border and padding."""
    grid = grid_of(box)
    collapsed = collapsed_of(box, grid)
    across = 0.0 if collapsed else box.style.border_spacing[0]
    least, most = preferred_width(columns_of(box, grid, context, across))
    more = across * (grid.column_count + 1)
    own = edges_of(box.style, 0.0).across
    if collapsed is not None:
        _, right, _, left = collapsed.outer()
        more += right + left - own
    captions = least_of_captions(box, context) - own
    if box.style.table_layout == "fixed" and isinstance(box.style.width, Relative):
        least, most = 0.0, WIDEST  # as browsers have it: its columns hang on no content
    return max(least + more, captions), max(most + more, captions)
