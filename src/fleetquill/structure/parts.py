"""The parts of a document as they are read, from its boxes: each box is told which part what it draws belongs to."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final

from fleetquill.drawing.places import LAYOUT, NO_FACTS, Facts, HeldRow, LedgerRow, Place, RowRun, Structure
from fleetquill.layout.boxes.boxes import (
    AnchorBox,
    Box,
    CellBox,
    Element,
    FrameBox,
    InlineBox,
    MarkBox,
    PictureBox,
    RowBox,
    TextBox,
)
from fleetquill.layout.boxes.text_cells import TextCellBox
from fleetquill.layout.inline.boxes import ControlBox, LinesBox
from fleetquill.layout.items.boxes import ButtonBox
from fleetquill.layout.table.boxes import LedgerBox
from fleetquill.structure.roles import HOLDS_TEXT, INLINE, control_of, facts_of, is_hidden, role_of

HEARD: Final = frozenset((  # attributes of cells that say something
    *("role", "lang", "id", "headers", "scope", "colspan", "rowspan", "hidden", "aria-hidden", "aria-label"),
))  # fmt: skip


def parts_of(root: Box, fixed: Iterable[Box]) -> Structure:
    """The parts of a whole document, the root of which is given. `fixed` are the boxes that each page has again."""
    document = Place("Document", None)
    builder = _Builder()
    builder.visit(root, document)
    for box in fixed:
        builder.visit(box, document)
    return Structure(document, builder.names)


def forget_parts(boxes: Iterable[Box]) -> None:
    """Boxes belong to no part from now on: on further pages they are there for the pages' sake."""
    for box in boxes:
        box.part = None
        forget_parts(_inside(box))


def _inside(box: Box) -> list[Box]:
    found = list(box.inside)
    return found if box.marker is None else [box.marker, *found]


class _Builder:
    """Goes through the boxes in the order of the document."""

    def __init__(self) -> None:
        self.names: dict[str, Place] = {}
        self._known: dict[Element, Place] = {}
        self._models: dict[RowRun, HeldRow] = {}  # that rows were last like
        self._notes = 0

    def visit(self, box: Box, around: Place) -> None:
        """Gives a box and all in it their parts, in the part around it."""
        if isinstance(box, AnchorBox):
            name = box.element.get("id") if box.element is not None else None
            if name is not None:
                self.names.setdefault(name, around)
            if box.kind == "footnote":
                self._note(box.target, around)
            elif box.kind != "running":
                self.visit(box.target, around)
            return
        element = box.element
        if isinstance(box, TextBox):
            return
        if box.__class__ is RowBox and around.role == "TBody" and _is_plain_row(box):
            self._plain_row(box, around)
            return
        if around.role == "TR" and isinstance(box, TextCellBox) and _is_plain_cell(box):
            box.belong_to(Place("TD", around))
            return
        if element is None:
            self._anonymous(box, around)
            return
        if is_hidden(element):
            box.part = LAYOUT
            return
        name = element.get("id")
        if name is not None and name not in self.names:
            self.names[name] = around  # where it is no part of its own
        if isinstance(box, PictureBox):
            box.part = self._picture(box, element, around)
            return
        if isinstance(box, LedgerBox):
            self._ledger(box, element, around)
            return
        place = self._known.get(element)
        if place is None:
            place = self._element(box, element, around)
            if place is None:
                self._anonymous(box, around)
                return
            self._known[element] = place
            if name is not None:
                self.names[name] = place
        self._fill(box, place)

    def _element(self, box: Box, element: Element, around: Place) -> Place | None:
        """The part that an element is; None where it is none."""
        if isinstance(box, ControlBox):
            facts = control_of(element) if box.field is None else Facts(box.field.label)
            return Place("Form", around, facts, inline=around.role in HOLDS_TEXT, element=element)
        if isinstance(box, ButtonBox) and box.field is not None:
            facts = Facts(box.field.label)
            return Place("Form", around, facts, inline=around.role in HOLDS_TEXT, element=element)
        if element.tag in ("dt", "dd") and around.role == "L":
            return self._described(element, around)
        role = role_of(element, around)
        if not role:
            return None
        if isinstance(box, CellBox) and role not in ("TD", "TH"):
            return None
        if role == "Span" and not isinstance(box, InlineBox) and around.role not in HOLDS_TEXT:
            role = "P" if isinstance(box, LinesBox) else "Div"
        if around.role == "L" and role not in ("LI", "Caption", "L"):
            around = Place("LBody", Place("LI", around))
        inline = around.role in HOLDS_TEXT and role in INLINE and around.role not in ("TD", "TH", "LBody")
        facts = facts_of(element, role, box.style)
        return Place(role, around, facts, inline=inline or isinstance(box, InlineBox), element=element)

    def _described(self, element: Element, around: Place) -> Place:
        """A term, which begins an item, or what is said of it."""
        item = around.kids[-1] if around.kids else None
        if element.tag == "dt" or item is None or any(kid.role == "LBody" for kid in item.kids):
            item = Place("LI", around)
        return Place("Lbl" if element.tag == "dt" else "LBody", item)

    def _fill(self, box: Box, place: Place) -> None:
        """A box that is a part, or one piece of it."""
        inside = place
        if place.role == "LI":
            if box.marker is not None:
                self._hold(box.marker, Place("Lbl", place))
            inside = next((kid for kid in place.kids if kid.role == "LBody"), None) or Place("LBody", place)
        elif place.role == "TOCI":
            inside = Place("Reference", place)
        self._hold(box, inside)

    def _hold(self, box: Box, place: Place) -> None:
        """What stands in a box, and the text in it, belongs to a part or to parts of that."""
        box.part = place
        if isinstance(box, LinesBox) and place.role not in HOLDS_TEXT:
            box.part = place = Place("P", place)
        children = list(box.inside)
        if len(children) == 1 and place.role in HOLDS_TEXT:
            only = children[0]
            if isinstance(only, LinesBox) and only.element is None:
                self._hold(only, place)
                return
        self._visit_all(children, place)

    def _anonymous(self, box: Box, around: Place) -> None:
        """A box that is no part of its own."""
        if isinstance(box, LinesBox):
            role = "Span" if box.style.display.startswith("inline") and around.role in HOLDS_TEXT else "P"
            self._hold(box, Place(role, around, inline=role == "Span" and not box.is_item))
        else:
            self._visit_all(box.inside, around)
            if box.marker is not None:
                self._hold(box.marker, Place("P", around))
            if isinstance(box, CellBox) and len(box.children) == 1:
                box.part = box.children[0].part

    def _visit_all(self, children: Iterable[Box], around: Place) -> None:
        before: Box | None = None
        for child in children:
            if isinstance(child, AnchorBox) and child.kind == "footnote" and isinstance(before, InlineBox):
                before.part = Place("Reference", around, inline=True)
            self.visit(child, around)
            before = child

    def _note(self, box: Box, around: Place) -> None:
        self._notes += 1
        note = Place("Note", around, Facts(name=f"note-{self._notes}"), inline=True)
        self._hold(box, note)

    def _picture(self, box: PictureBox, element: Element, around: Place) -> Place:
        inline = around.role in HOLDS_TEXT
        if isinstance(box, (MarkBox, FrameBox)) and element.tag in ("input", "select", "textarea", "meter", "progress"):
            facts = control_of(element) if box.field is None else Facts(box.field.label)
            if (box.field is None and not facts.alternative) or facts.control == "tv":
                facts = facts._replace(alternative=f"{facts.alternative or ''} {box.alternative}".strip())
            return Place("Form", around, facts, inline=inline, element=element)
        said = element.get("aria-label") or box.alternative
        if not said and element.tag == "svg":
            title = element.find("{*}title")
            said = (title.text or "").strip() if title is not None else ""
        given = said or None
        if element.tag == "img" and element.get("alt") is None and not element.get("aria-label"):
            given = None
        return Place("Figure", around, Facts(given), inline=inline, element=element)

    # ---- rows that are alike ----

    def _plain_row(self, row: Box, body: Place) -> None:
        """A row whose parts are made when it is drawn."""
        last = body.kids[-1] if body.kids else None
        run = last if isinstance(last, RowRun) else RowRun(body)
        model = self._models.get(run)
        if model is None or len(model.cells) != len(row.children):
            model = self._models[run] = HeldRow(run, len(row.children))
        row.part = model

    def _ledger(self, ledger: LedgerBox, element: Element, around: Place) -> None:
        """A ledger: what its rows are like is said in the place of the prototype's own."""
        prototype = ledger.prototype
        table = ledger.part = self._element(prototype, element, around)
        if table is None:
            return
        table.grows = True
        self._visit_all([*prototype.children, *(g for g in prototype.groups if g.role != "body")], table)
        for row in (row for group in prototype.groups if group.role == "body" for row in group.children):
            row.part = LedgerRow(table, [_cell_like(cell) for cell in row.children])


def _is_plain_row(row: Box) -> bool:
    """Whether nothing is said of a row, nor of any of its cells, which hold text and nothing else."""
    return row.quiet and bool(row.children) and _is_silent(row.element, "tr") and all(map(_is_plain_cell, row.children))


def _is_plain_cell(box: Box) -> bool:
    return isinstance(box, TextCellBox) and _is_silent(box.element, "td")


def _is_silent(element: Element | None, tag: str) -> bool:
    """Whether nothing is said of an element, as of most."""
    return element is not None and element.tag == tag and HEARD.isdisjoint(element.keys())


def _cell_like(cell: Box) -> tuple[str, Facts]:
    element = cell.element
    if element is None or element.tag != "th":
        return "TD", NO_FACTS if element is None else facts_of(element, "TD", cell.style)
    return "TH", facts_of(element, "TH", cell.style)
