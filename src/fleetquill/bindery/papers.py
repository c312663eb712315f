"""Papers in points."""

from __future__ import annotations

from fleetquill.errors import OptionError
from fleetquill.style.generated import page_size
from fleetquill.style.tokens import without_space
from fleetquill.tree.lengths import PageSize, css_page
from fleetquill.units import POINTS_PER_PX


def paper_points(page: PageSize) -> tuple[float, float]:
    """Width and height of a paper. Raises OptionError where it is none, or has no height of its own."""
    import tinycss2

    found = page_size(without_space(tinycss2.parse_component_value_list(css_page(page))))
    if found is None or len(found) != 2 or "auto" in found:
        raise OptionError(f"{page!r} is no paper to fit pages into.", remedy="Give one such as 'A4', or '210mm 297mm'.")
    return found[0] * POINTS_PER_PX, found[1] * POINTS_PER_PX
