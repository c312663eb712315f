"""Footnotes: notes at the foot of the page that calls them, carried on where they do not fit (CSS GCPM 3 §2)."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from typing import Final, NamedTuple

from fleetquill.layout.block.block import flow_children
from fleetquill.layout.boxes.boxes import AnchorBox, BlockBox, Box
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.fragments import Fragment, LineFragment
from fleetquill.layout.contract.resume import Resume, Waiting, within
from fleetquill.layout.contract.sizing import clamp_height, edges_of, length_or_zero
from fleetquill.layout.contract.space import SLACK, Laid, Space
from fleetquill.layout.table.boxes import TableBox
from fleetquill.style.properties import ComputedStyle

MOST_OF_A_PAGE: Final = 0.8  # of the page area that notes may take where `max-height` does not say
MOST_TRIES: Final = 6  # layouts of one page until its footnotes have their room


class NotesArea(NamedTuple):
    """Where the notes of a page stand: their style, the size of the page area, and the notes carried over to it."""

    style: ComputedStyle
    width: float
    height: float
    context: Context
    carried: list[Waiting]

    def set(self, called: Sequence[Box], most: float = math.inf) -> Notes:
        """The notes that were carried over and these, as far as they fit in at most `most` px."""
        waiting = [*self.carried, *map(Waiting, called)]
        return lay_out_notes(waiting, self.style, self.width, self.height, self.context, most=most)


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
    space = Space(context, max(0.0, width - edges.across), None, room, height, at_top=alone)
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


# ---- content and notes on one page ----

Lay = Callable[[float], Laid]  # the page's content with so much room kept free for notes


def fit_notes(lay: Lay, area: NotesArea) -> tuple[Laid, Notes]:
    """Content and notes of a page: the content is laid out again as long as the notes need more room."""
    reserved = 0.0
    tried: list[tuple[Fragment, list[Box]]] = []
    for _ in range(MOST_TRIES):
        laid = lay(reserved)
        called = _calls(laid)
        if tried and len(called) < len(tried[-1][1]):
            broken = _with_broken_note(lay, area, *tried[-1], count=len(called) + 1)
            if broken is not None:
                return broken
        if laid.fragment is not None:
            tried.append((laid.fragment, called))
        notes = area.set(called)
        if notes.height <= reserved + SLACK:
            break
        reserved = notes.height
    most = tried[0][1] if tried else []
    if len(called) + 1 < len(most):
        return _most_notes(lay, area, len(called), most) or (laid, notes)
    return laid, notes


def _calls(laid: Laid) -> list[Box]:
    return list(called_notes(laid.fragment)) if laid.fragment is not None else []


def _most_notes(lay: Lay, area: NotesArea, least: int, called: list[Box]) -> tuple[Laid, Notes] | None:
    """As many calls as the page holds together with their notes, between `least` and all that were called."""
    low, high = least, len(called)
    found: tuple[Laid, Notes] | None = None
    while low < high:
        count = (low + high + 1) // 2
        trial = _with_notes(lay, area, called[:count])
        if trial is None:
            high = count - 1
        else:
            found, low = trial, count
    return found


def _with_notes(lay: Lay, area: NotesArea, notes_here: list[Box]) -> tuple[Laid, Notes] | None:
    """The page with these notes, whole, and with their calls and no others; None where they do not fit so."""
    notes = area.set(notes_here)
    laid = lay(notes.height)
    found = _calls(laid)
    if notes.carried or found[: len(notes_here)] != notes_here:
        return None
    if len(found) > len(notes_here):  # the line of the next call waits for the next page
        assert laid.fragment is not None
        bottom = call_bottom(laid.fragment, found[len(notes_here)])
        if bottom is None:
            return None
        laid = lay(area.height - bottom + 1.0)
        if _calls(laid) != notes_here:
            return None
    return laid, notes


def _with_broken_note(
    lay: Lay, area: NotesArea, before: Fragment, called: list[Box], *, count: int
) -> tuple[Laid, Notes] | None:
    """The room for a note pushes its own call to the next page: it stays where a part of the note fits below it."""
    notes_here = called[:count]
    bottom = call_bottom(before, notes_here[-1])
    if bottom is None:
        return None
    notes = area.set(notes_here, area.height - bottom)
    if len(notes.carried) > 1 or (notes.carried and notes.carried[0].resume is None):
        return None  # nothing of the note fits
    laid = lay(notes.height)
    return (laid, notes) if _calls(laid) == notes_here else None
