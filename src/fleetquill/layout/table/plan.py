"""What of a table's body stands on one page: planned first, placed once all is settled."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple, Protocol

from fleetquill.drawing.rows import Cell
from fleetquill.layout.boxes.boxes import CellBox, RowGroupBox
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.table.bands import Band, Places
from fleetquill.layout.table.measures import Stencil


class Held(NamedTuple):
    """What plain rows that a table holds stand in, and how fragments of some of them are made, by their numbers."""

    group: RowGroupBox
    fragments: Callable[[int, int], list[Fragment]]


class Block:
    """Plain rows, the empty rows that they stand on, and the line under the last of them; those of a ledger are not
    `held`."""

    __slots__ = ("cells", "closing", "held", "stencils", "texts")

    def __init__(
        self,
        stencils: list[Stencil],
        closing: Stencil,
        cells: list[list[Cell]],
        texts: list[tuple[str, ...]],
        held: Held | None = None,
    ) -> None:
        self.held = held
        self.stencils = stencils
        self.closing = closing
        self.cells = cells
        self.texts = texts

    @property
    def height(self) -> float:
        return sum([stencil.height for stencil in self.stencils])

    def follows(self, other: Block) -> bool:
        """Whether its rows may stand in one block with those of another."""
        return self.closing is other.closing and self.held == other.held

    def extend(self, other: Block) -> None:
        """Takes rows that follow."""
        self.stencils += other.stencils
        self.cells += other.cells
        self.texts += other.texts

    def up_to(self, stop: int) -> Block:
        """Its rows before a place."""
        return Block(self.stencils[:stop], self.closing, self.cells[:stop], self.texts[:stop], self.held)


class Entry(NamedTuple):
    """Body rows [row, stop); where these are none, what goes with a row: a heading above it, a sum below it."""

    row: int
    stop: int
    part: Band | Block


class Ask(NamedTuple):
    """What the body of a table is asked to fit into."""

    start: int  # its first row here
    places: Places  # where that row goes on
    y: float  # where it begins, px from the table's top
    room: float  # as far as it may reach
    kept_free: float  # of what is below, the height of what stands below the last rows of the table alone
    repeated: float  # the height of the heads
    at_top: bool  # whether nothing stands above on this page but the table's own heads


class BodyPlan:
    """The rows of one page, and where the next goes on (`next_row` None: nowhere, the table ends)."""

    def __init__(self, ask: Ask) -> None:
        self.entries: list[Entry] = []
        self.y = ask.y
        self.stop = ask.start  # the row after the last one here
        self.next_row: int | None = None
        self.places: dict[CellBox, Resume] = {}  # where its cells go on
        self.forced = ""  # the kind of the forced break that ends this page
        self.has_rows = False

    def add(self, row: int, stop: int, part: Band | Block) -> None:
        """Body rows [row, stop), or a part of the row that is broken here."""
        last = self.entries[-1] if self.entries else None
        before = last.part if last is not None and last.stop == row else None
        if isinstance(part, Block) and isinstance(before, Block) and part.follows(before):
            assert last is not None
            before.extend(part)
            self.entries[-1] = last._replace(stop=stop)
        else:
            self.entries.append(Entry(row, stop, part))
        self.y += part.height
        self.stop = stop
        self.has_rows = True

    def starts(self) -> Iterator[int]:
        """The rows that begin here, from the last on: those that spanning cells tie together begin with the first."""
        for entry in reversed(self.entries):
            yield from reversed(range(entry.row, entry.stop)) if isinstance(entry.part, Block) else (entry.row,)

    def add_aside(self, row: int, band: Band) -> None:
        """What is no row of its own and goes with one."""
        self.entries.append(Entry(row, row, band))
        self.y += band.height

    def ends_before(self, row: int, forced: str = "") -> BodyPlan:
        """The plan, with the row that the next page goes on with."""
        self.next_row, self.forced = row, forced
        return self

    def ends_within(self, row: int, places: dict[CellBox, Resume]) -> BodyPlan:
        """The plan, with a row that goes on inside its cells on the next page."""
        self.next_row, self.places = row, places
        return self

    def back_to(self, row: int) -> None:
        """Takes a row, all after it and what goes with them out again."""
        while self.entries and self.entries[-1].stop >= row:
            entry = self.entries[-1]
            if entry.row < row and (entry.stop == row or isinstance(entry.part, Band)):
                break
            self.entries.pop()
            self.y -= entry.part.height
            if entry.row < row and isinstance(entry.part, Block):
                rest = entry.part.up_to(row - entry.row)
                self.entries.append(Entry(entry.row, row, rest))
                self.y += rest.height
                break
        self.stop = min(self.stop, row)
        self.has_rows = any(entry.stop > entry.row for entry in self.entries)

    def give_back(self, start: int) -> int:
        """All rows fit, but not with what stands below the last one: that row goes on, if it is not the only one."""
        last = next((entry for entry in reversed(self.entries) if entry.stop > entry.row), None)
        row = self.stop if last is None else last.row if isinstance(last.part, Band) else last.stop - 1
        if row <= start:
            return self.stop
        self.back_to(row)
        return row


class BodyRows(Protocol):
    """The body of a table: rows that are held, or that come in a stream.

    `repeats` says whether its heads and feet stand on every page; else they are rows of the body.
    """

    repeats: bool

    def first(self) -> int:
        """The number of the first row."""

    def may_end(self, row: int) -> bool:
        """Whether the table may end on the page that begins with a row."""

    def plan(self, ask: Ask) -> BodyPlan:
        """As many rows as fit."""

    def tell(self, page_start: int, place: int, row: int) -> None:
        """Lets tallies say what they do after the rows before `place`, for cells of `row` of the grid."""
