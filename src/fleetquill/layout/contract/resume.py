"""Where layout goes on: a place between children, and what each formatting model has to say of the place within."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from fleetquill.layout.boxes.boxes import Box, CellBox

if TYPE_CHECKING:
    from fleetquill.layout.contract.fragments import LineFragment

Size = tuple[float, float | None, float | None, float | None]  # width and height of the space, and those settled


class Resume(NamedTuple):
    """Where to go on: at which child, row or item, and where within.

    `forced` is the kind of a forced break ('page', 'left', …) where one led here. `floats` are those
    of the formatting context that the box begins which go on, too. `taken` is what pages before have
    taken of the border box's height, in px; `waiting` are floats for the top or foot of the next column.
    """

    at: int = 0
    inner: Inner = None
    forced: str = ""
    floats: tuple[BrokenFloat, ...] = ()
    taken: float = 0.0
    waiting: tuple[Waiting, ...] = ()


class Waiting(NamedTuple):
    """A box that waits for the next page or column, a note or a float at an end of it, and where it goes on."""

    box: Box
    resume: Resume | None = None


class BrokenFloat(NamedTuple):
    """A float that a page has cut through: where it goes on, and the margin box that it had across."""

    box: Box
    resume: Resume
    left_side: bool
    left: float  # px of its formatting context
    width: float


class Cut(NamedTuple):
    """Where a page ended in a flex or grid container: the height in the whole, and where its broken items go on.

    `spent` is what pages since then have taken of the broken items alone. `late` are items that wait
    although they stand above the cut, `next` is the first that is still to come. `size` is that of the
    space that the whole was laid out in.
    """

    size: Size
    at: float
    broken: dict[int, Resume]
    spent: float = 0.0
    late: tuple[int, ...] = ()
    next: int = 0


class BrokenCells(NamedTuple):
    """Where the cells of a row go on that was cut through, and the width of their table."""

    cells: tuple[tuple[CellBox, Resume], ...]
    width: float


class BrokenAtomic(NamedTuple):
    """A box of a line that a page has cut through: where it goes on, and its left edge in the line."""

    box: Box
    resume: Resume
    x: float


class BrokenLine(NamedTuple):
    """The boxes of a line that go on; its words stand on the page before."""

    atomics: tuple[BrokenAtomic, ...]


class SlicedLine(NamedTuple):
    """A line that is taller than its page, and how much of it stands on the pages before."""

    line: LineFragment
    taken: float


Inner = Resume | Cut | BrokenCells | BrokenLine | SlicedLine | None


def unforced(resume: Resume | None) -> Resume | None:
    """The same place, to be reached again: the forced break that led to it has been heard."""
    if resume is None:
        return None
    inner = unforced(resume.inner) if isinstance(resume.inner, Resume) else resume.inner
    return resume if inner is resume.inner and not resume.forced else resume._replace(inner=inner, forced="")


def within(resume: Resume | None) -> Resume | None:
    """Where to go on within a child, where that is a place between children again."""
    return resume.inner if resume is not None and isinstance(resume.inner, Resume) else None
