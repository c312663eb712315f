"""The boxes of tables: those whose rows are held, and ledgers, whose rows come in a stream."""

from __future__ import annotations

from collections.abc import Sequence

from fleetquill.layout.boxes.boxes import Box, ColumnBox, Element, RowGroupBox
from fleetquill.layout.table.borders import Collapsed
from fleetquill.layout.table.grid import Grid
from fleetquill.layout.table.measures import Geometry
from fleetquill.layout.table.plain_rows import PlainBody, PlainKind
from fleetquill.layout.table.row_stream import RowStream
from fleetquill.layout.table.slots import RowKind, Stencils
from fleetquill.layout.table.tallies import Contributions
from fleetquill.layout.table.widths import Column
from fleetquill.style.properties import INITIAL_STYLE, ComputedStyle


class TableMeasures:
    """What a table's columns ask for, and its measures for a width; dropped whole where texts change."""

    __slots__ = ("columns", "geometries", "heights", "kinds", "plain", "repeated", "stencils")

    def __init__(self) -> None:
        self.plain: PlainBody | None = None  # once it is asked which rows are plain
        self.kinds: dict[float, dict[PlainKind, RowKind | None]] = {}  # of those, by the table's width
        self.columns: dict[float, list[Column]] = {}  # by the space between them
        self.geometries: dict[tuple[float, float | None], Geometry] = {}  # by the width around the table, and its own
        self.heights: dict[tuple[float, float], list[float]] = {}  # of rows, by the table's width and own height
        self.repeated: dict[float, float] = {}  # the height of its heads and feet, by the table's width
        self.stencils: dict[float, Stencils] = {}  # of a ledger, by the table's width


class TableBox(Box):
    """A table; `children` are the captions, `groups` the row groups in the order of the source."""

    shrinks = True
    leads = True
    __slots__ = ("collapsed", "columns", "contributions", "grid", "groups", "measures")

    def __init__(self, style: ComputedStyle, element: Element | None) -> None:
        super().__init__(style, element, [])
        self.groups: list[RowGroupBox] = []
        self.columns: list[ColumnBox] = []
        self.grid: Grid | None = None
        self.collapsed: Collapsed | None = None
        self.contributions: Contributions | None = None
        self.measures = TableMeasures()

    @property
    def parts(self) -> Sequence[Box]:
        return self.groups

    @property
    def inside(self) -> Sequence[Box]:
        return [*self.children, *self.columns, *self.groups]

    def forget(self) -> None:
        super().forget()
        self.measures = TableMeasures()


class LedgerBox(Box):
    """A ledger: its prototype table, and its rows as they come."""

    shrinks = True
    __slots__ = ("prototype", "stream")

    def __init__(self, prototype: TableBox, stream: RowStream) -> None:
        super().__init__(prototype.style, prototype.element, [])
        self.prototype = prototype
        self.stream = stream

    @property
    def inside(self) -> Sequence[Box]:
        return [self.prototype]


class RowsBox(Box):
    """A block of plain rows on one page: it has no look of its own."""

    __slots__ = ()

    def __init__(self) -> None:
        super().__init__(INITIAL_STYLE, None, [])
        self.quiet = True
