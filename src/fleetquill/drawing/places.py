"""Where what is drawn belongs: the tree of a document's parts as it is read, and what belongs to no part of it."""

from __future__ import annotations

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


class LedgerRow:
    """What the model of a ledger's rows has in the place of a part: each row that is drawn gets parts of its own, in
    a body of the `table`; `cells` are the roles of its cells and what is said of them."""

    __slots__ = ("cells", "table")

    def __init__(self, table: Place, cells: list[tuple[str, Facts]]) -> None:
        self.table = table
        self.cells = cells
