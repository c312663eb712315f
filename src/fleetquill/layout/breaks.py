"""Breaks between boxes: where they are forced, and where they are to be avoided (CSS Fragmentation 3)."""

from __future__ import annotations

from typing import Final

from fleetquill.layout.boxes import BlockBox, Box

FORCED: Final = frozenset(("page", "always", "all", "left", "right", "recto", "verso"))
AVOID: Final = frozenset(("avoid", "avoid-page"))


def before(box: Box) -> str:
    """`break-before` of the box, or of a first child that it reaches through (§3.1, propagation)."""
    value = box.style.break_before
    if value == "auto" and box.children and type(box) is BlockBox:
        return before(box.children[0])
    return value


def after(box: Box) -> str:
    """`break-after` of the box, or of a last child that it reaches through."""
    value = box.style.break_after
    if value == "auto" and box.children and type(box) is BlockBox:
        return after(box.children[-1])
    return value


def forced_between(previous: Box | None, following: Box) -> str:
    """The kind of a forced break between two siblings; '' for none."""
    if previous is None:
        return ""
    for value in (before(following), after(previous)):
        if value in FORCED:
            return "page" if value in ("always", "all") else value
    return ""


def avoided_between(previous: Box, following: Box) -> bool:
    return before(following) in AVOID or after(previous) in AVOID


def avoided_inside(box: Box) -> bool:
    return box.style.break_inside in AVOID
