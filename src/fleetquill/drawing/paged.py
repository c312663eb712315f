"""What pages are written to: an output that takes them one after another, and ends with what only the end can know."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple, Protocol

from fleetquill.drawing.canvas import Canvas
from fleetquill.drawing.places import Place
from fleetquill.tree.metadata import Metadata
from fleetquill.units import POINTS_PER_PX


class PageLabel(NamedTuple):
    """The number of a page as its document counts, and the counter style in which it shows that."""

    number: int
    style: str = "decimal"


class PageSize(NamedTuple):
    """A page in px: the trimmed sheet, what is painted beyond it, and what the medium has around it.

    `turn` is how far readers turn it clockwise to show it, in degrees (CSS Paged Media 3 §7.3),
    `scale` how large its px are on paper, `label` what it is numbered.
    """

    width: float
    height: float
    bleed: float = 0.0
    around: float = 0.0
    turn: int = 0
    scale: float = 1.0
    label: PageLabel | None = None

    @property
    def points(self) -> float:
        """How many points a px is on paper."""
        return POINTS_PER_PX * self.scale


class Bookmark(NamedTuple):
    """An entry of the outline: `page` counts from 1, `y` is points from the page's top."""

    label: str
    level: int
    page: int
    y: float
    is_open: bool = True
    children: tuple[Bookmark, ...] = ()
    part: Place | None = None  # of the document, where an output is told of those


class PagedOutput(Protocol):
    """A file of pages that is being written."""

    @property
    def length(self) -> int:
        """Bytes written so far."""

    def canvas(self, width: float, height: float) -> Canvas:
        """A canvas for a page of that size in px, or for its margins."""

    def add_page(
        self, size: PageSize, canvas: Canvas, places: Sequence[tuple[str, float, float]], margins: bool
    ) -> None:
        """Writes a page; `places` are identifiers and where they stand on it, `margins` whether its margins follow."""

    def add_margins(self, index: int, canvas: Canvas) -> None:
        """Writes the margin boxes of the page at `index` (from 0)."""

    def missing_destinations(self) -> list[tuple[str, int]]:
        """Identifiers that links lead to and that nothing has, with the page of such a link."""

    def finish(self, metadata: Metadata, bookmarks: Sequence[Bookmark]) -> None:
        """Writes all that is left."""
