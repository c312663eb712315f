"""Breaks between boxes: where they are forced, and where they are to be avoided (CSS Fragmentation 3)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from fleetquill.layout.boxes.boxes import AnchorBox, Box, RowBox
from fleetquill.layout.contract.resume import Resume, within
from fleetquill.layout.contract.space import UNBOUNDED, Space

FORCED: Final = frozenset(("page", "always", "all", "left", "right", "recto", "verso"))
FORCED_ANYWHERE: Final = FORCED | {"column"}
AVOID: Final = frozenset(("avoid", "avoid-page"))
AVOID_IN_COLUMNS: Final = AVOID | {"avoid-column"}


def first_part(box: Box) -> Box | None:
    """The first part in flow of a box that breaks before it reach through."""
    if not box.leads:
        return None
    return next((child for child in box.parts if not isinstance(child, AnchorBox)), None)


def _last(box: Box) -> Box | None:
    if not box.leads:
        return None
    return next((child for child in reversed(box.parts) if not isinstance(child, AnchorBox)), None)


def before(box: Box) -> str:
    """`break-before` of the box, or of a first child that it reaches through (§3.1, propagation)."""
    value = box.style.break_before
    if value == "auto":
        child = first_part(box)
        return before(child) if child is not None else value
    return value


def after(box: Box) -> str:
    """`break-after` of the box, or of a last child that it reaches through."""
    value = box.style.break_after
    if value == "auto":
        child = _last(box)
        return after(child) if child is not None else value
    return value


def start_page(box: Box) -> str:
    """The name of the page that the box begins on (CSS Paged Media 3 §8.3); '' for none."""
    child = first_part(box)
    return start_page(child) if child is not None else box.page


def end_page(box: Box) -> str:
    child = _last(box)
    return end_page(child) if child is not None else box.page


def forced_between(previous: Box | None, following: Box, space: Space) -> str:
    """The kind of a forced break between two siblings in that space; '' for none."""
    if previous is None:
        return ""
    for value in (before(following), after(previous)):
        if value in ("column", "always") and space.in_columns and space.room != UNBOUNDED:
            return "column"  # 'always' ends the innermost context, 'all' every one (CSS Fragmentation 4 §3.1)
        if value in FORCED and space.hears_breaks:
            return "page" if value in ("always", "all") else value
    if space.context.found.named_pages and space.hears_breaks and start_page(following) != end_page(previous):
        return "page"
    return ""


def avoided_between(previous: Box, following: Box, *, in_columns: int = 0) -> bool:
    avoid = AVOID_IN_COLUMNS if in_columns else AVOID
    return before(following) in avoid or after(previous) in avoid


def avoided_inside(box: Box, *, in_columns: int = 0) -> bool:
    return box.style.break_inside in (AVOID_IN_COLUMNS if in_columns else AVOID)


def forces_inside(box: Box) -> bool:
    """Whether a forced break stands anywhere between the box's descendants."""
    if box.forces is None:
        box.forces = _forces_inside(box)
    return box.forces


def _forces_inside(box: Box) -> bool:
    parts = box.parts
    return (not isinstance(box, RowBox) and _forces_among(parts)) or any(map(forces_inside, parts))


def _forces_among(siblings: Sequence[Box]) -> bool:
    previous: Box | None = None
    for child in siblings:
        if isinstance(child, AnchorBox):
            continue
        if previous is not None:
            if before(child) in FORCED_ANYWHERE or after(previous) in FORCED_ANYWHERE:
                return True
            if start_page(child) != end_page(previous):
                return True
        previous = child
    return False


def forced_kind(resume: Resume | None) -> str:
    """The kind of the forced break that led to a resume; '' where none did."""
    while resume is not None:
        if resume.forced:
            return resume.forced
        resume = within(resume)
    return ""
