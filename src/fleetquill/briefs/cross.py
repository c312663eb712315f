"""Cross tables: figures by the values of some names down and of another across, with totals."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from contextlib import suppress
from decimal import Decimal
from typing import Any, Final, NamedTuple

from fleetquill.briefs.nodes import Node
from fleetquill.briefs.rowsets import Opened
from fleetquill.deadline import heed
from fleetquill.errors import shown
from fleetquill.formats import Formats, as_amount
from fleetquill.tree.column import FIGURES, Column
from fleetquill.tree.groups import COUNT_FORM, ZERO, Account

MOST_ACROSS: Final = 200  # columns
LAST: Final = "fq-total"


class CrossTable(NamedTuple):
    """A table's columns and rows, and what its columns come to."""

    columns: list[Column]
    rows: list[tuple[Any, ...]]
    figures: Mapping[str, Decimal | None]


class _Cross:
    """Accounts by what stands down and across."""

    def __init__(self) -> None:
        self.cells: dict[tuple[Any, Any], Account] = {}
        self.down: dict[Any, None] = {}
        self.across: dict[Any, None] = {}

    def add(self, down: Any, across: Any, value: Decimal | None) -> None:
        self.down.setdefault(down)
        self.across.setdefault(across)
        account = self.cells.get((down, across))
        if account is None:
            account = self.cells[down, across] = Account(1)
        account.add([value])

    def figure(self, kind: str, down: Iterable[Any], across: Iterable[Any]) -> Decimal | None:
        """What some cells come to together; None where none of them has a row."""
        whole = Account(1)
        columns = list(across)
        for row in down:
            for column in columns:
                account = self.cells.get((row, column))
                if account is not None:
                    whole.merge(account)
        return whole.figure(kind, 0) if whole.rows else None


def cross_table(node: Node, opened: Opened, formats: Formats) -> CrossTable:
    """The cross table that a part describes, of rows that are gone through once."""
    for name in ("down", "across"):
        if node.get(name) is None:
            raise node.fault(f"The cross table has no '{name}'.", f"Write '{name}:' with the name of a value.")
    figure = node["figure"].one_of(FIGURES) if node.get("figure") else "sum"
    of = node.get("of")
    if of is None and figure != "count":
        raise node.fault("The cross table has no 'of'.", "Write 'of:' with the name of what is added up.")
    names = [one.text() for one in node["down"].some()]
    down = opened.places(names, node["down"])
    across = opened.place(node["across"].text(), node["across"])
    place = None if of is None else opened.place(of.text(), of)
    cross = _Cross()
    for number, row in enumerate(opened.rows, 1):
        heed()
        value = ZERO if place is None else _amount(row[place], figure, number, of)
        cross.add(tuple([row[one] for one in down]), row[across], value)
        if len(cross.across) > MOST_ACROSS:
            raise node["across"].fault(
                f"There are more than {MOST_ACROSS} values across.", "Put them down, or take fewer with 'where'."
            )
    return _table(node, cross, names, figure, formats)


def _amount(value: Any, figure: str, number: int, node: Node | None) -> Decimal | None:
    try:
        return as_amount(value, figure)
    except ValueError as error:
        assert node is not None
        raise node.fault(f"row {number}: {shown(value)} is not a number.") from error


def _table(node: Node, cross: _Cross, names: Sequence[str], figure: str, formats: Formats) -> CrossTable:
    form = node["form"].text() if node.get("form") else COUNT_FORM if figure == "count" else "number"
    across_form = node["across_form"].text() if node.get("across_form") else ""
    heads = [one.text() for one in node["heads"].each()] if node.get("heads") else list(names)
    totals = node.get("totals") is None or node["totals"].flag()
    across = _ordered(cross.across)
    total = "sum" if totals else ""
    columns = [
        Column(f"down {number}", head=heads[number] if number < len(heads) else name)
        for number, name in enumerate(names)
    ]
    for number, value in enumerate(across):
        head = "–" if value is None else formats.form(value, across_form)
        columns.append(Column(f"across {number}", head=head, form=form, align="end", total=total))
    rows = []
    for key in cross.down:
        row = [*key, *(cross.figure(figure, [key], [value]) for value in across)]
        rows.append(tuple([*row, cross.figure(figure, [key], across)] if totals else row))
    if not totals:
        return CrossTable(columns, rows, {})
    label = node["heads"].each()[-1].text() if len(heads) > len(names) else _total_label(formats)
    columns.append(Column(LAST, head=label, form=form, align="end", total=total))
    if figure == "sum":
        return CrossTable(columns, rows, {})
    figures = {f"across {number}": cross.figure(figure, cross.down, [value]) for number, value in enumerate(across)}
    return CrossTable(columns, rows, {**figures, LAST: cross.figure(figure, cross.down, across)})


def _ordered(values: Iterable[Any]) -> list[Any]:
    """Values from the least to the most where they can be compared, as they were met where not; none comes last."""
    values = list(values)
    there = [value for value in values if value is not None]
    with suppress(TypeError):
        there.sort()
    return there + [None] * (len(values) > len(there))


def _total_label(formats: Formats) -> str:
    from fleetquill.tree.tables import LABELS

    return LABELS.get(formats.locale.language, LABELS["en"])[2]
