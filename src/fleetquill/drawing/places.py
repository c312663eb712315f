"""Where what is drawn belongs: the tree of a document's parts as it is read, and what belongs to no part of it."""

from __future__ import annotations

from abc import ABC, abstractmethod
from typing import Any, Final, NamedTuple


class Artifact(NamedTuple):
    """What stands on pages and is no part of the document (ISO 32000-2 §14.8.2.2)."""

    kind: str  # Layout, Pagination, Background
    subtype: str = ""


LAYOUT: Final = Artifact("Layout")  # rules, grounds and borders
HEADER: Final = Artifact("Pagination", "Header")
FOOTER: Final = Artifact("Pagination", "Footer")
REPEATED: Final = Artifact("Pagination")  # what each page has again


class Facts(NamedTuple):
    """What is said of a part besides its role (ISO 32000-2 §14.8.5, §14.9)."""

    alternative: str | None = None  # what is said in its place; None where nothing is given
    text: str = ""  # what it stands for as text
    expansion: str = ""
    language: str = ""
    name: str = ""
    scope: str = ""  # of a heading cell: Column, Row, Both
    columns: int = 1  # that a cell takes
    rows: int = 1
    heads: tuple[str, ...] = ()  # the names of a cell's heading cells
    numbering: str = ""  # of a list
    control: str = ""  # a kind of form control: rb, cb, pb, tv
    checked: str = ""


NO_FACTS: Final = Facts()


class Place:
    """A part of the document: its role (a structure type of ISO 32000-2 §14.8.4), the part that it stands in, and what
    is in it: other parts, and what an output notes of what was drawn for it. `inline` parts join those around them
    where they are first drawn, among the text; `element` says where the part comes from, for messages."""

    __slots__ = ("area", "element", "facts", "grows", "inline", "joined", "kids", "parent", "ref", "role")

    def __init__(
        self, role: str, parent: Place | None, facts: Facts = NO_FACTS, *, inline: bool = False, element: Any = None
    ) -> None:
        self.role = role
        self.parent = parent
        self.facts = facts
        self.inline = inline
        self.joined = not inline
        self.kids: list[Any] = []
        self.area: tuple[float, float, float, float] | None = None  # px on its page: x, y, width, height
        self.element = element
        self.grows = False  # whether parts are added to it page by page, and may go out with each
        self.ref: Any = None  # the output's own name for it
        if parent is not None and not inline:
            parent.kids.append(self)

    def join(self) -> None:
        """Takes its place in the part around it."""
        if not self.joined and self.parent is not None:
            self.joined = True
            self.parent.join()
            self.parent.kids.append(self)


class Structure(NamedTuple):
    """The parts of a whole document: the one that all stand in, and those that links may lead to, by their names."""

    root: Place
    names: dict[str, Place]


class RowModel(ABC):
    """What rows that are alike have in the place of a part: each row that is drawn gets parts of its own; `cells` are
    the roles of its cells and what is said of them."""

    __slots__ = ("cells",)

    def __init__(self, cells: list[tuple[str, Facts]]) -> None:
        self.cells = cells

    @abstractmethod
    def begin(self) -> Place:
        """A part for one row, in its place."""

    def parts(self) -> list[Place]:
        """Parts for the cells of one row, in a part for that."""
        row = self.begin()
        return [Place(role, row, facts) for role, facts in self.cells]


class LedgerRow(RowModel):
    """The model of a ledger's rows: they stand in a body of the `table`, that which was begun last."""

    __slots__ = ("table",)

    def __init__(self, table: Place, cells: list[tuple[str, Facts]]) -> None:
        super().__init__(cells)
        self.table = table

    def begin(self) -> Place:
        last = self.table.kids[-1] if self.table.kids else None
        began = isinstance(last, Place) and last.role == "TBody"
        return Place("TR", last if began else Place("TBody", self.table))


class RowRun:
    """Where rows of a table's `body` belong that get their parts as they are drawn: among its other parts."""

    __slots__ = ("body", "kids")

    def __init__(self, body: Place) -> None:
        self.body = body
        self.kids: list[Any] = []
        body.kids.append(self)


class HeldRow(RowModel):
    """The model of rows in such a run."""

    __slots__ = ("run",)

    def __init__(self, run: RowRun, columns: int) -> None:
        super().__init__([("TD", NO_FACTS)] * columns)
        self.run = run

    def begin(self) -> Place:
        row = Place("TR", None)
        row.parent = self.run.body
        self.run.kids.append(row)
        return row
