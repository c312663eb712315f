"""Footnotes: notes at the foot of the page that calls them, carried on where they do not fit (CSS GCPM 3 §2)."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Final, NamedTuple

from fleetquill.layout.block.block import flow_children
from fleetquill.layout.boxes.boxes import AnchorBox, BlockBox, Box
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.fragments import Fragment, LineFragment
from fleetquill.layout.contract.resume import Resume, within
from fleetquill.layout.contract.sizing import clamp_height, edges_of, length_or_zero
from fleetquill.layout.contract.space import Space
from fleetquill.layout.table.boxes import TableBox
from fleetquill.style.properties import ComputedStyle

MOST_OF_A_PAGE: Final = 0.8  # of the page area that notes may take where `max-height` does not say


class Waiting(NamedTuple):
    """A note that is still to be set, and where it goes on."""

    box: Box
    resume: Resume | None


class Notes(NamedTuple):
    """The notes of one page: their area (None: no notes), its outer height, and what is carried on."""

    fragment: Fragment | None
    height: float
    carried: list[Waiting]


def called_notes(fragment: Fragment) -> Iterator[Box]:
    """The notes whose calls stand in a fragment, in order."""
    for child in fragment.children:
        if isinstance(child, LineFragment):
            for item in child.items:
                if isinstance(item, Fragment):
                    yield from _notes_of(item)
        else:
            yield from _notes_of(child)


def call_bottom(fragment: Fragment, note: Box, y: float = 0.0) -> float | None:
    """How far down the line reaches in which a note is called; `y` is where what the fragment stands in begins."""
    y += fragment.y
    for child in fragment.children:
        if isinstance(child, Fragment):
            found = call_bottom(child, note, y) if not child.box.quiet else None
            if found is not None:
                return found
        elif any(note in _notes_of(item) for item in child.items if isinstance(item, Fragment)):
            return y + child.y + child.height
    return None


def with_inner_notes(box: Box) -> Iterator[Box]:
    """A note, and those that are called from within it."""
    yield box
    yield from _inner_notes(box)


def _inner_notes(box: Box) -> Iterator[Box]:
    if box.quiet:
        return
    groups = box.groups if isinstance(box, TableBox) else []
    for child in [*box.children, *groups]:
        if isinstance(child, AnchorBox) and child.kind == "footnote":
            yield from with_inner_notes(child.target)
        else:
            yield from _inner_notes(child.target if isinstance(child, AnchorBox) else child)


def _notes_of(fragment: Fragment) -> Iterator[Box]:
    box = fragment.box
    if box.quiet:
        return
    if isinstance(box, AnchorBox):
        if box.kind == "footnote":
            yield from with_inner_notes(box.target)
        elif box.kind == "absolute":
            yield from _inner_notes(box.target)
    else:
        yield from called_notes(fragment)


def lay_out_notes(
    waiting: list[Waiting],
    style: ComputedStyle,
    width: float,
    height: float,
    context: Context,
    *,
    alone: bool = False,
    most: float = math.inf,
) -> Notes:
    """As many notes as may stand on a page of that size, in at most `most` px; `alone` where nothing else does."""
    if not waiting:
        return Notes(None, 0.0, [])
    edges = edges_of(style, width)
    margins = length_or_zero(style.margin_top, width) + length_or_zero(style.margin_bottom, width)
    limit = height if alone else clamp_height(style, math.inf, height, edges.down) + margins
    if math.isinf(limit):
        limit = height * MOST_OF_A_PAGE
    room = max(1.0, min(limit, height, most) - edges.down - margins)
    boxes = [note.box for note in waiting]
    first = waiting[0].resume
    space = Space(context, max(0.0, width - edges.across), None, room, room, at_top=True)
    flow = flow_children(boxes, space, None if first is None else Resume(0, first), joined=False)
    if flow is None or not flow.placed:
        return Notes(None, 0.0, waiting)
    area = BlockBox(style, None, [])
    extent = flow.height + (max(0.0, flow.margins.size) if flow.resume is None else 0.0)
    fragment = Fragment(area, width, extent + edges.down)
    for placed in flow.placed:
        placed.fragment.x += edges.left
        placed.fragment.y = placed.y + edges.top
        fragment.children.append(placed.fragment)
    carried: list[Waiting] = []
    if flow.resume is not None:
        carried = [Waiting(box, None) for box in boxes[flow.resume.at :]]
        carried[0] = Waiting(carried[0].box, within(flow.resume))
    fragment.y = length_or_zero(style.margin_top, width)
    return Notes(fragment, fragment.height + margins, carried)
