"""A workbook: a sheet for each table, with numbers that are numbers, sums that are formulas, and a head that stays."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from typing import Any, BinaryIO, Final

from fleetquill.errors import OptionError
from fleetquill.formats import Formats
from fleetquill.output.how import How, RowsWritten
from fleetquill.output.xlsx.codes import PLAIN, code_of
from fleetquill.structure.sheets import Cell, Sheet, SheetRow, Sheets
from fleetquill.structure.spans import Spans
from fleetquill.tree.groups import SHARE
from fleetquill.tree.metadata import Metadata

MOST_ROWS: Final = 1_048_576  # of a sheet, and the next two limits: ISO/IEC 29500-1, as readers keep it
LONGEST_TEXT: Final = 32_767
LONGEST_NAME: Final = 31
MOST_LINKS: Final = 65_000
LONGEST_LINK: Final = 2_000
MOST_DIGITS: Final = 15  # of a number: more are kept as text
MOST_NUMBER: Final = 10**MOST_DIGITS
MEASURED: Final = 300  # rows that the widths are taken from
NARROWEST, WIDEST = 6.0, 60.0  # characters
NO_NAME: Final = re.compile(r"[\[\]:*?/\\\x00-\x1f]")
LINES: Final = "#9aa7a5"
LINKS: Final = "#0563c1"
BEFORE_DATES: Final = date(1900, 3, 1)  # workbooks count a day in February 1900 that was none
UNDATED: Final = datetime(2000, 1, 1)
FUNCTIONS: Final = {  # of figures: alone, and by its number where those of groups are left out
    "sum": ("SUM", 9), "average": ("AVERAGE", 1), "count": ("COUNTA", 3), "least": ("MIN", 5), "most": ("MAX", 4),
}  # fmt: skip
DEEPEST: Final = 7  # levels of an outline
SIDES: Final = {"end": "right", "right": "right", "center": "center", "start": "left", "left": "left", '"."': "right"}

Format = Any  # of the library that writes workbooks, which has no types


def write_rows(sheets: Sheets, metadata: Metadata, formats: Formats, how: How, stream: BinaryIO) -> RowsWritten:
    """Writes a sheet for each table; those whose rows come in a stream are never held."""
    try:
        import xlsxwriter
    except ImportError as error:
        raise OptionError(
            "Writing workbooks needs the package XlsxWriter.", remedy='Install "fleetquill[workbook]".'
        ) from error
    streams = any(sheet.is_long for sheet in sheets.tables) and not any(sheet.has_tall for sheet in sheets.tables)
    options = {
        "constant_memory": streams, "strings_to_formulas": False, "strings_to_urls": False,
        "remove_timezone": True, "strings_to_numbers": False,
    }  # fmt: skip
    book = xlsxwriter.Workbook(stream, options)
    book.set_properties(
        {"title": metadata.title, "author": metadata.author, "subject": metadata.subject,
         "keywords": metadata.keywords, "created": metadata.created or UNDATED}
    )  # fmt: skip
    writer = _Book(book, formats)
    for sheet in sheets.tables:
        writer.add(sheet)
    book.close()
    return RowsWritten(writer.count, list(writer.remarks))


class _Book:
    """A workbook that is being written."""

    def __init__(self, book: Any, formats: Formats) -> None:
        self._book = book
        self._formats = formats
        self._looks: dict[tuple[object, ...], Format] = {}
        self._names: set[str] = {"history"}  # a name that is not to be had
        self.count = 0
        self.remarks: dict[str, None] = {}

    def add(self, sheet: Sheet) -> None:
        page: _SheetPage | None = None
        heads: list[SheetRow] = []
        for row in sheet.rows:
            if page is None or page.row >= MOST_ROWS - 1:
                if page is not None:
                    self.remarks["A table has more rows than a sheet: it goes on in the next one."] = None
                page = self._begin(sheet, heads)
            if row.kind == "head":
                heads.append(row)
            page.add(row)
            self.count += 1
        (page or self._begin(sheet, heads)).finish()

    def _begin(self, sheet: Sheet, heads: Sequence[SheetRow]) -> _SheetPage:
        page = _SheetPage(self, self._book.add_worksheet(self._name(sheet.name)), sheet)
        for row in heads:
            page.add(row)
        return page

    def _name(self, wanted: str) -> str:
        """A name that a sheet may have and that no other has."""
        plain = NO_NAME.sub(" ", wanted).strip().strip("'")[:LONGEST_NAME].strip() or "Sheet"
        name, number = plain, 1
        while name.lower() in self._names:
            number += 1
            ending = f" ({number})"
            name = plain[: LONGEST_NAME - len(ending)] + ending
        self._names.add(name.lower())
        return name

    def look(self, cell: Cell, kind: str, value: Any) -> Format:
        """The look of a value in a row of a kind."""
        exact = isinstance(cell.value, Decimal) and cell.form in ("", "percent")  # then it shows all its digits
        exponent = cell.value.as_tuple().exponent if exact and isinstance(cell.value, Decimal) else 0
        lines = value.__class__ is str and "\n" in value
        key = (kind, cell.form, value.__class__, cell.align, cell.is_head, bool(cell.link), lines, exponent)
        found = self._looks.get(key)
        if found is None:
            code = PLAIN if isinstance(value, str) else code_of(cell.value, cell.form, self._formats)
            found = self._looks[key] = self._book.add_format(_facts(cell, kind, code, lines=lines))
        return found

    def value(self, cell: Cell) -> Any:
        """What a cell of a workbook can hold of a value; text where it would lose something."""
        value = cell.value
        kind = value.__class__
        if kind is str:
            if len(value) > LONGEST_TEXT:  # type: ignore[arg-type]
                self.remarks[f"Texts of more than {LONGEST_TEXT} characters are cut: no cell holds them."] = None
                return value[:LONGEST_TEXT]  # type: ignore[index]
            return value
        if value is None or isinstance(value, (bool, timedelta, time)):
            return value
        if isinstance(value, date):
            day = value.date() if isinstance(value, datetime) else value
            return value if day >= BEFORE_DATES else cell.text(self._formats)
        if isinstance(value, (int, Decimal)) and not -MOST_NUMBER < value < MOST_NUMBER and not cell.sums:
            self.remarks[f"Numbers of more than {MOST_DIGITS} digits stand in the workbook as text."] = None
            return str(value)
        return float(value) if isinstance(value, Decimal) else value

    def text(self, cell: Cell) -> str:
        return cell.text(self._formats)


def _facts(cell: Cell, kind: str, code: str, *, lines: bool) -> dict[str, object]:
    """What a format of a cell says."""
    facts: dict[str, object] = {"valign": "top"}
    if code != PLAIN:
        facts["num_format"] = code
    if cell.align in SIDES:
        facts["align"] = SIDES[cell.align]
    if cell.is_head or kind in ("head", "group", "subtotal", "total"):
        facts["bold"] = True
    if kind == "head":
        facts |= {"bottom": 1, "bottom_color": LINES, "text_wrap": True, "valign": "bottom"}
    if kind in ("subtotal", "total"):
        facts |= {"top": 1, "top_color": LINES}
    if lines:
        facts["text_wrap"] = True
    if cell.link:
        facts |= {"font_color": LINKS, "underline": 1}
    return facts


def is_address(link: str) -> bool:
    """Whether a link leads out, and a cell can hold it."""
    return len(link) <= LONGEST_LINK and ("://" in link or link.startswith("mailto:")) and not link.startswith("#")


class _SheetPage:
    """One sheet that is being written."""

    def __init__(self, book: _Book, page: Any, sheet: Sheet) -> None:
        self._book = book
        self._page = page
        self._sheet = sheet
        self.row = 0
        self._firsts: dict[int, int] = {}  # by the level of groups, the row of those that their next sums add up
        self._ended = 0  # the outermost level of groups that have ended since the last row of values
        self._data: tuple[int, int] | None = None  # the first and the last row of values
        self._widths: dict[int, float] = {}
        self._spans = Spans()
        self._columns = 0
        self._links = 0

    def add(self, row: SheetRow) -> None:
        if row.kind == "body":
            self._data = (self._data[0] if self._data else self.row, self.row)
            for level in range(row.level):
                if level >= self._ended or level not in self._firsts:
                    self._firsts[level] = self.row
            self._ended = row.level
        elif row.kind == "subtotal":
            self._ended = min(self._ended, row.level)
        if self._sheet.is_grouped and row.level:
            self._page.set_row(self.row, None, None, {"level": min(row.level, DEEPEST)})
        for column, across, cell, _ in self._spans.places(row.cells):
            if cell is not None:
                self._write(row, column, cell._replace(across=across) if across != cell.across else cell)
            self._columns = max(self._columns, column + across)
        self.row += 1

    def _write(self, row: SheetRow, column: int, cell: Cell) -> None:
        kind = row.kind
        value = self._book.value(cell)
        look = self._book.look(cell, kind, value)
        self._merge(column, cell, look)
        at = (self.row, column)
        if cell.sums:
            self._page.write_formula(*at, self._sum(column, row, cell), look, value)
        elif cell.link and isinstance(value, str) and self._links < MOST_LINKS and is_address(cell.link):
            self._links += 1
            self._page.write_url(*at, cell.link, look, value)
        elif value is None:
            self._page.write_blank(*at, None, look)
        elif isinstance(value, str):
            self._page.write_string(*at, value, look)
        elif isinstance(value, bool):
            self._page.write_boolean(*at, value, look)
        elif isinstance(value, (date, time, timedelta)):
            self._page.write_datetime(*at, value, look)
        else:
            self._page.write_number(*at, value, look)
        if self.row < MEASURED and cell.across == 1:
            widest = max(map(len, self._book.text(cell).split("\n")), default=0) * (1.1 if kind != "body" else 1.0)
            self._widths[column] = max(self._widths.get(column, 0.0), widest)

    def _merge(self, column: int, cell: Cell, look: Format) -> None:
        """Joins the places that a cell covers."""
        if cell.across == 1 and cell.down == 1:
            return
        last = min(self.row + cell.down, MOST_ROWS) - 1
        self._page.merge_range(self.row, column, last, column + cell.across - 1, "", look)

    def _sum(self, column: int, row: SheetRow, cell: Cell) -> str:
        """The formula of a sum; those of a table in groups leave out the sums of groups."""
        from xlsxwriter.utility import xl_range

        data = self._data or (self.row, self.row)
        first = self._firsts.get(row.level, data[0]) if row.kind == "subtotal" else data[0]
        cells = xl_range(first, column, data[1], column)
        if cell.sums == SHARE:  # a formula, for other sums would add up a number
            return f"=SUBTOTAL(9,{cells})/{cell.whole}"
        name, number = FUNCTIONS[cell.sums]
        return f"=SUBTOTAL({number},{cells})" if self._sheet.is_grouped else f"={name}({cells})"

    def finish(self) -> None:
        """What can be said of a sheet once all its rows are known."""
        page, heads = self._page, self._sheet.heads
        for column in range(self._columns):
            page.set_column(column, column, min(max(self._widths.get(column, 0.0) + 2.0, NARROWEST), WIDEST))
        if heads and self._data is not None:
            page.freeze_panes(heads, 0)
            page.repeat_rows(0, heads - 1)
            if not self._sheet.is_grouped:
                page.autofilter(heads - 1, 0, self._data[1], self._columns - 1)
        page.set_paper(9)
        if sum(self._widths.values()) > 90:
            page.set_landscape()
        page.fit_to_pages(1, 0)
        page.set_footer("&C&P / &N")
