"""Tables as sheets of values: what workbooks and data files are written from. Layout has no part in it."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from pathlib import Path
from typing import Any, Final, Literal, NamedTuple

from lxml import etree

from fleetquill.caches import Cache
from fleetquill.deadline import heed
from fleetquill.errors import DataError, Where
from fleetquill.formats import Formats, as_amount, as_decimal
from fleetquill.structure.read_values import read_value
from fleetquill.structure.tree_styles import TreeStyles
from fleetquill.tree.column import Column
from fleetquill.tree.document import Document
from fleetquill.tree.forms import kind_of_form
from fleetquill.tree.groups import (
    COUNT_FORM,
    SHARE,
    TOTAL,
    ZERO,
    Account,
    Accounts,
    Ended,
    level_of,
    summary_rows,
)
from fleetquill.tree.ledgers import Ledger, described_ledger
from fleetquill.tree.rows import Row
from fleetquill.tree.tables import labels_of, summary_labels_of
from fleetquill.tree.values import plain_value

Element = etree._Element
Value = str | int | float | Decimal | date | datetime | time | timedelta | bool | None
RowKind = Literal["head", "body", "group", "subtotal", "total"]

VALUES: Final = (int, float, Decimal, date, time, timedelta)
DAYS: Final = ("date", "datetime")
HEADINGS: Final = ("h1", "h2", "h3", "h4", "h5", "h6")
TABLES: Final = ("table", "fq-ledger")
TITLED: Final = (*TABLES, *HEADINGS)
SILENT: Final = ("script", "style", "template", "head", "fq-column", "fq-group")
LINES: Final = frozenset(
    ("p", "div", "li", "tr", "table", "ul", "ol", "dl", "dt", "dd", "pre", "blockquote", *HEADINGS)
)
PARTED: Final = frozenset(("td", "th"))
MOST_READ: Final = 20_000  # texts whose values are kept


class Cell(NamedTuple):
    """A value of a sheet. `shown` is its text where its form does not say it; `sums` is the figure ('sum', 'average'
    and so on) that it is of what stands in its column, `whole` what a share is of."""

    value: Value
    form: str = ""
    shown: str | None = None
    across: int = 1
    down: int = 1
    is_head: bool = False
    align: str = ""
    sums: str = ""
    link: str = ""
    whole: Decimal = ZERO

    def text(self, formats: Formats) -> str:
        """What a page shows."""
        return formats.form(self.value, self.form) if self.shown is None else self.shown


EMPTY: Final = Cell(None)


class SheetRow(NamedTuple):
    """A row; `level` is how deep its group lies in others, or for a row of values in how many groups it stands.
    `unseen` are the values of those groups that no column shows."""

    kind: RowKind
    cells: Sequence[Cell]
    level: int = 0
    unseen: Sequence[Cell] = ()


class Sheet(NamedTuple):
    """A table: its rows come one after the other and are not held. `heads` is how many rows its head has."""

    name: str
    rows: Iterable[SheetRow]
    heads: int
    is_grouped: bool
    is_long: bool = False  # whether its rows come in a stream
    has_tall: bool = False  # whether a cell takes several rows


class Sheets(NamedTuple):
    """The tables of a document, and whether anything else stands in it."""

    tables: Sequence[Sheet]
    has_more: bool


class Room(NamedTuple):
    """What is needed to read tables: how values are written, styles of elements, and where files are."""

    document: Document
    formats: Formats
    styles: TreeStyles
    find: Callable[[str], Path]

    def text(self, element: Element) -> str:
        """What an element says: values as the locale writes them, breaks as line feeds, white space folded."""
        lines = "".join(self._texts(element)).replace("\u200b", "").split("\n")
        return "\n".join(filter(None, (" ".join(line.split()) for line in lines)))

    def _texts(self, element: Element) -> Iterator[str]:
        tag = element.tag
        if tag in SILENT or not isinstance(tag, str) or self.styles.is_hidden(element):
            return
        if tag == "br":
            yield "\n"
        elif tag == "fq-value":
            yield self.formats.form(element.get("value", ""), element.get("form") or "number")
        elif tag == "img":
            yield element.get("alt", "")
        else:
            end = "\n" if tag in LINES else " " if tag in PARTED else ""
            yield end + _folded(element.text)
            for child in element:
                yield from self._texts(child)
                yield _folded(child.tail)
            yield end


def sheets_of(room: Room) -> Sheets:
    """The tables of a document in their order; a table within another belongs to its cell."""
    found: list[Sheet] = []
    title = ""
    for element in room.document.body.iter(*TITLED):
        if element.tag in HEADINGS:
            title = room.text(element) if not room.styles.is_hidden(element) else title
            continue
        above = list(element.iterancestors())
        if any(one.tag in ("table", "fq-ledger") for one in above) or any(
            map(room.styles.is_hidden, (element, *above))
        ):
            continue
        caption = element.find("caption")
        own = element.get("caption", "") if caption is None else room.text(caption)
        name = own or title or str(len(found) + 1)
        found.append(
            _table_sheet(element, name, room) if element.tag == "table" else _ledger_sheet(element, name, room)
        )
        title = ""
    return Sheets(found, _has_more(room.document.body, room))


def _table_sheet(element: Element, name: str, room: Room) -> Sheet:
    table = _Table(element, room)
    is_tall = element.find(".//*[@rowspan]") is not None
    return Sheet(name, table.rows(), table.heads, is_grouped=False, has_tall=is_tall)


def _ledger_sheet(element: Element, name: str, room: Room) -> Sheet:
    document = room.document
    ledger = described_ledger(element, document.rows_of(element), room.find, document.place_of(element))
    heads = int(element.get("head") != "none")
    rows = _ledger_rows(element, ledger, room.formats)
    return Sheet(name, rows, heads, is_grouped=bool(ledger.groups), is_long=True)


def ledger_rows(element: Element, room: Room) -> Iterator[SheetRow]:
    """The rows of a ledger, head and sums and all."""
    document = room.document
    ledger = described_ledger(element, document.rows_of(element), room.find, document.place_of(element))
    return _ledger_rows(element, ledger, room.formats)


def tally_texts(element: Element, room: Room) -> dict[Element, str]:
    """What the tallies in a table say, by their element."""
    return _Table(element, room).tally_texts()


def _has_more(body: Element, room: Room) -> bool:
    """Whether text or a picture stands outside the tables."""
    if (body.text or "").strip():
        return True
    for element in body:
        if not isinstance(element.tag, str) or element.tag in (*SILENT, *TITLED) or room.styles.is_hidden(element):
            pass
        elif element.tag in ("img", "svg", "fq-chart", "fq-figure", "p") or _has_more(element, room):
            return True
        if (element.tail or "").strip():
            return True
    return False


def _folded(text: str | None) -> str:
    return re.sub(r"\s+", " ", text) if text else ""


# ---- tables ----


class _Table:
    """The rows of a table element: heads first, feet last, wherever they are written (HTML §4.9)."""

    def __init__(self, element: Element, room: Room) -> None:
        self._room = room
        parts: dict[str, list[Element]] = {"thead": [], "tbody": [], "tfoot": []}
        for part in element:
            if part.tag == "tr":
                parts["tbody"].append(part)
            elif part.tag in parts and room.styles.of(part).fq_show_on in ("every", "last"):
                parts[part.tag] += part.iterchildren("tr")
        rows = {name: [row for row in found if self._is_shown(row)] for name, found in parts.items()}
        body = rows["tbody"]
        heads = rows["thead"] or ([body.pop(0)] if body and _is_head(body[0]) else [])
        self._rows = [("head", row) for row in heads] + [("body", row) for row in body]
        self._rows += [("total", row) for row in rows["tfoot"]]
        self.heads = len(heads)

    def _is_shown(self, row: Element) -> bool:
        """Whether a row is in the table as such, and not only where pages break."""
        style = self._room.styles.of(row)
        return style.display != "none" and style.fq_show_on in ("every", "last")

    def rows(self) -> Iterator[SheetRow]:
        sums: dict[str, Decimal] = {}
        for kind, row in self._rows:
            heed()
            is_head = kind == "head"
            cells = [self._cell(cell, sums, is_head=is_head) for cell in row if cell.tag in ("td", "th")]
            yield SheetRow("head" if is_head else "total" if kind == "total" else "body", cells)

    def tally_texts(self) -> dict[Element, str]:
        """What each tally in a cell of its own says, by its element."""
        sums: dict[str, Decimal] = {}
        found: dict[Element, str] = {}
        for kind, row in self._rows:
            for cell in row:
                tally = cell.find("fq-tally")
                if cell.tag in ("td", "th"):
                    said = self._cell(cell, sums, is_head=kind == "head")
                    if tally is not None:
                        found[tally] = said.text(self._room.formats)
        return found

    def _cell(self, element: Element, sums: dict[str, Decimal], *, is_head: bool) -> Cell:
        style = self._room.styles.of(element)
        link = element.find(".//a[@href]")
        cell = self._value(element, sums, is_head=is_head)._replace(
            is_head=element.tag == "th",
            align=str(style.text_align),
            link=link.get("href", "") if link is not None else "",
            across=_span(element, "colspan"),
            down=_span(element, "rowspan"),
        )
        if style.fq_tally != "none" and isinstance(cell.value, (int, Decimal)):
            sums[style.fq_tally] = sums.get(style.fq_tally, Decimal(0)) + cell.value
        return cell

    def _value(self, element: Element, sums: Mapping[str, Decimal], *, is_head: bool) -> Cell:
        formats = self._room.formats
        try:
            text = self._room.text(element)
            if is_head:
                return Cell(text)
            tally = element.find("fq-tally")
            if tally is not None:
                amount = sums.get(tally.get("name", ""), Decimal(0))
                return self._summed(amount, tally.get("form", ""))
            only = element[0] if len(element) == 1 and not (element.text or "").strip() else None
            if only is not None and only.tag == "fq-value" and not (only.tail or "").strip():
                return _written(only.get("value", ""), only.get("form") or "number")
            if element.get("data-value") is not None:
                given = as_decimal(element.get("data-value"))
                read = read_value(text, formats)
                return Cell(given, read.form if read is not None else "", shown=text)
        except ValueError as error:
            where = self._room.document.place_of(element)
            raise DataError(f"A value of a table cannot be read: {error}.", where=where) from error
        read = read_value(text, formats)
        return Cell(text or None) if read is None else Cell(read.value, read.form, shown=text)

    def _summed(self, amount: Decimal, form: str) -> Cell:
        given = self._room.document.form_of(form)
        if given is None:
            return Cell(amount, form, sums="sum")
        return Cell(amount, "", shown=self._room.formats.text(given(amount)), sums="sum")


def _is_head(row: Element) -> bool:
    cells = [cell for cell in row if cell.tag in ("td", "th")]
    return bool(cells) and all(cell.tag == "th" for cell in cells)


def _span(element: Element, name: str) -> int:
    text = element.get(name, "1").strip()
    return max(1, min(1000, int(text))) if text.isdecimal() else 1


def _written(text: str, form: str) -> Cell:
    """The value that an element of the tree holds as text."""
    kind, _ = kind_of_form(form)
    if not text or kind == "text":
        return Cell(text or None)
    if kind in DAYS:
        moment = datetime.fromisoformat(text)
        return Cell(moment if kind == "datetime" else moment.date(), form)
    if kind == "time":
        return Cell(time.fromisoformat(text), form)
    if kind == "duration":
        return Cell(timedelta(seconds=float(as_decimal(text))), form)
    return Cell(as_decimal(text), "" if form == "number" else form)


# ---- ledgers ----


def _ledger_rows(element: Element, ledger: Ledger, formats: Formats) -> Iterator[SheetRow]:
    columns = ledger.columns
    if element.get("head") != "none":
        unseen = [
            Cell(group.name) for group, key in zip(ledger.groups, ledger.keys, strict=True) if key >= len(columns)
        ]
        yield SheetRow("head", [Cell(c.title, is_head=True, align=c.align) for c in columns], unseen=unseen)
    sums = _Summing(element, ledger, formats)
    number = 0
    readers = [_reader(column, formats, is_file=ledger.is_file) for column in columns]
    for chunk in ledger.rows.chunks():
        heed()
        for row in chunk:
            number += 1
            try:
                cells = [read(value) for read, value in zip(readers, row, strict=False)]
                yield from sums.groups(row)
                sums.add(cells)
            except ValueError as error:
                raise _fault(ledger, readers, row, number, error) from error
            yield SheetRow("body", cells, len(ledger.keys), sums.unseen)
    yield from sums.rest()


class _Summing:
    """What stands between the rows of a ledger and after them: headings and summaries of groups, totals."""

    def __init__(self, element: Element, ledger: Ledger, formats: Formats) -> None:
        self._ledger = ledger
        self._columns = ledger.columns
        self._formats = formats
        self._label = labels_of(element)[2]
        self._labels = summary_labels_of(element)
        self._totals = [(place, column.total) for place, column in enumerate(ledger.columns) if column.total]
        self._accounts = Accounts(len(ledger.keys), len(self._totals))
        self.unseen: list[Cell] = []  # values of the groups at hand that no column shows
        self._whole = self._all() if any(kind == SHARE for group in ledger.groups for kind, _ in group.rows) else None

    def _all(self) -> Account:
        """What all rows come to."""
        whole = Account(len(self._totals))
        for chunk in self._ledger.rows.chunks():
            for row in chunk:
                whole.add([as_amount(row[place], figure) for place, figure in self._totals])
        return whole

    def groups(self, row: Row) -> Iterator[SheetRow]:
        """What stands before a row where groups end or begin."""
        ledger = self._ledger
        if not ledger.keys:
            return
        keys = tuple([row[place] for place in ledger.keys])
        known = self._accounts.keys
        if keys == known:
            return
        yield from self._summaries(self._accounts.begin(keys))
        seen = len(self._columns)
        self.unseen = [self._key_cell(n, keys[n]) for n, place in enumerate(ledger.keys) if place >= seen]
        for level in range(0 if known is None else level_of(known, keys), len(keys)):
            group = ledger.groups[level]
            if group.heads:
                key = keys[level] if group.heading is None else group.heading(keys[level])
                cell = self._key_cell(level, key)._replace(is_head=True, across=len(self._columns))
                yield SheetRow("group", [cell], level)

    def add(self, cells: Sequence[Cell]) -> None:
        if self._totals or self._ledger.keys:
            self._accounts.add([as_amount(cells[place].value, figure) for place, figure in self._totals])

    def rest(self) -> Iterator[SheetRow]:
        """What stands after the last row."""
        yield from self._summaries(self._accounts.finish())
        if self._totals:
            whole = self._accounts.whole
            values = [(whole.figure(figure, place), "") for place, (_, figure) in enumerate(self._totals)]
            yield SheetRow("total", self._cells(self._label, TOTAL, values))

    def _summaries(self, groups: Sequence[Ended]) -> Iterator[SheetRow]:
        figures = [figure for _, figure in self._totals]
        for ended in groups:
            group = self._ledger.groups[ended.level]
            text = "" if ended.key is None else self._key_cell(ended.level, ended.key).text(self._formats)
            for row in summary_rows(ended, group, text, figures, self._whole, self._labels):
                yield SheetRow("subtotal", self._cells(row.label, row.kind, row.values), ended.level)

    def _key_cell(self, level: int, key: Any) -> Cell:
        """The value of a group, as its column or itself has it."""
        group = self._ledger.groups[level]
        place = self._ledger.keys[level]
        form = group.form
        if not form and place < len(self._columns) and group.heading is None:
            form = self._columns[place].form
        return _reader(Column(group.name, form=form), self._formats, is_file=self._ledger.is_file)(key)

    def _cells(self, label: str, kind: str, values: Sequence[tuple[Decimal | None, str]]) -> list[Cell]:
        """A label over the columns before the first figure, then each figure under its column."""
        if not self._totals:
            return [Cell(label, across=len(self._columns))]
        lead = self._totals[0][0]
        found = dict(zip(self._totals, values, strict=True))
        cells = [EMPTY] * len(self._columns)
        for (place, own), (value, form) in found.items():
            cells[place] = self._figure(self._columns[place], own if kind == TOTAL else kind, value, form)
            if kind == SHARE and self._whole is not None and value is not None:
                cells[place] = cells[place]._replace(whole=self._whole.sums[self._totals.index((place, own))])
        return [Cell(label, across=lead), *cells[lead:]] if lead else cells

    def _figure(self, column: Column, figure: str, value: Decimal | None, form: str) -> Cell:
        if value is None:
            return EMPTY
        form = COUNT_FORM if figure == "count" else form
        shown = None
        if not form and callable(column.form):
            shown = self._formats.text(column.form(value))
        elif not form:
            form = str(column.form)
        return Cell(value, form, shown=shown, align=column.align, sums=figure)


def _reader(column: Column, formats: Formats, *, is_file: bool) -> Callable[[Any], Cell]:
    """What makes a cell of each value of a column; texts of a file, which has nothing else, may be values. It raises
    ValueError where a value cannot be what the column says."""
    form, align = column.form, column.align
    shows = callable(form)
    own = "" if callable(form) else form
    kept: Cache[str, Cell] = Cache(MOST_READ)

    def text_cell(value: str) -> Cell:
        if own and kind_of_form(own)[0] != "text":
            return _written(value, own)._replace(align=align)
        read = read_value(value, formats) if is_file and not own else None
        return Cell(value, align=align) if read is None else Cell(read.value, read.form, value, align=align)

    def read(given: Any) -> Cell:
        kind = given.__class__
        if kind is str and not shows:
            if not given:
                return EMPTY
            return kept.get(given) or kept.put(given, text_cell(given))
        value = given if kind is int else plain_value(given)
        if value is None or value == "":
            return EMPTY
        if callable(form):
            shown = formats.text(form(value))
            return Cell(value if isinstance(value, VALUES) else shown, "", shown, align=align)
        if isinstance(value, VALUES):
            return Cell(value, own, None, 1, 1, False, align)
        return Cell(formats.text(value), align=align)

    return read


def _fault(
    ledger: Ledger, readers: Sequence[Callable[[Any], Cell]], row: Row, number: int, error: ValueError
) -> DataError:
    """The error that names the column whose value is at fault."""
    what = f"Row {number}: {error}."
    for column, read, value in zip(ledger.columns, readers, row, strict=False):
        try:
            read(value)
        except ValueError as found:
            what = f"Row {number}, column '{column.name}': {found}."
            break
    return DataError(what, where=Where(ledger.source))
