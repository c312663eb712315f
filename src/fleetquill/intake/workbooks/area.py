"""Which part of a sheet is shown: its rows and columns, their sizes, what is joined (ISO/IEC 29500-1 §18.3.1)."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import Any, Final, NamedTuple

USUAL_COLUMN: Final = 64.0  # px: 8.43 characters
CHARACTER: Final = 7.0  # px of a figure in the usual font
USUAL_ROW: Final = 15.0  # points
PX_PER_POINT: Final = 96 / 72
RANGE: Final = re.compile(r"\$?([A-Z]{1,3})?\$?(\d+)?(?::\$?([A-Z]{1,3})?\$?(\d+)?)?")
MOST_ROWS, MOST_COLUMNS = 1_048_576, 16_384
EMUS: Final = 9525  # of a px


class Area(NamedTuple):
    """A rectangle of cells, from 1, the last ones included."""

    top: int
    left: int
    bottom: int
    right: int


def column_number(letters: str) -> int:
    number = 0
    for letter in letters:
        number = number * 26 + ord(letter) - 64
    return number


def column_letters(number: int) -> str:
    letters = ""
    while number:
        number, rest = divmod(number - 1, 26)
        letters = chr(65 + rest) + letters
    return letters


def areas_of(text: str, used: Area) -> list[Area]:
    """The areas that a reference names, as far as anything is in them."""
    found: list[Area] = []
    for part in re.split(r",(?=(?:[^']*'[^']*')*[^']*$)", text):
        cells = part.rpartition("!")[2].strip()
        match = RANGE.fullmatch(cells)
        if match is None or not cells:
            continue
        first_column, first_row, last_column, last_row = match.groups()
        left = column_number(first_column) if first_column else 1
        top = int(first_row) if first_row else 1
        right = column_number(last_column) if last_column else (left if first_column else MOST_COLUMNS)
        bottom = int(last_row) if last_row else (top if first_row else MOST_ROWS)
        found.append(Area(top, left, min(bottom, max(used.bottom, top)), min(right, max(used.right, left))))
    return found


def used_area(sheet: Any, sizes: Sizes) -> Area:
    """All cells that show anything, and what pictures and charts cover."""
    bottom = right = 0
    for (row, column), cell in sheet._cells.items():
        if (row > bottom or column > right) and (cell.value is not None or _is_drawn(cell)):
            bottom, right = max(bottom, row), max(right, column)
    for merged in sheet.merged_cells.ranges:
        bottom, right = max(bottom, merged.max_row), max(right, merged.max_col)
    for drawn in (*sheet._images, *sheet._charts):
        row, column = _reach(drawn, sizes)
        bottom, right = max(bottom, row), max(right, column)
    return Area(1, 1, bottom, right)


def _reach(drawn: Any, sizes: Sizes) -> tuple[int, int]:
    """The last row and column that a picture or chart covers."""
    end, start = getattr(drawn.anchor, "to", None), getattr(drawn.anchor, "_from", None)
    if end is not None:
        return end.row + 1, end.col + 1
    extent = getattr(drawn.anchor, "ext", None)
    if start is None or extent is None:
        return 1, 1
    row, column = start.row + 1, start.col + 1
    wide = (extent.width + start.colOff) / EMUS - sizes.column(column)
    high = (extent.height + start.rowOff) / EMUS - sizes.row(row)
    while wide > 0 and column < MOST_COLUMNS:
        column += 1
        wide -= sizes.column(column) or 1.0
    while high > 0 and row < MOST_ROWS:
        row += 1
        high -= sizes.row(row) or 1.0
    return row, column


def _is_drawn(cell: Any) -> bool:
    """Whether an empty cell has a ground or a line."""
    if not cell.has_style:
        return False
    border, fill = cell.border, cell.fill
    sides = (border.left, border.right, border.top, border.bottom)
    return bool(fill.fill_type) or any(side is not None and side.style for side in sides)


class Sizes:
    """Widths of columns and heights of rows in px; 0 for what is hidden."""

    def __init__(self, sheet: Any) -> None:
        self._sheet = sheet
        facts = sheet.sheet_format
        self._usual_row = (facts.defaultRowHeight or USUAL_ROW) * PX_PER_POINT
        self._usual_column = USUAL_COLUMN
        if facts.defaultColWidth:
            self._usual_column = float(facts.defaultColWidth) * CHARACTER
        elif facts.baseColWidth and facts.baseColWidth != 8:
            self._usual_column = facts.baseColWidth * CHARACTER + 8
        self._columns: dict[int, float] = {}
        for dimension in sheet.column_dimensions.values():
            first = dimension.min or column_number(dimension.index)
            last = min(dimension.max or first, first + MOST_COLUMNS)
            width = 0.0 if dimension.hidden else float(dimension.width or 0) * CHARACTER or self._usual_column
            if dimension.customWidth or dimension.hidden or dimension.width:
                self._columns.update(dict.fromkeys(range(first, last + 1), width))

    def column(self, number: int) -> float:
        return self._columns.get(number, self._usual_column)

    def row(self, number: int) -> float:
        """The height that a row has at the least."""
        dimension = self._sheet.row_dimensions.get(number)
        if dimension is None:
            return self._usual_row
        if dimension.hidden:
            return 0.0
        return float(dimension.height) * PX_PER_POINT if dimension.height else self._usual_row

    def columns(self, area: Area) -> list[int]:
        """The columns that are shown."""
        return [number for number in range(area.left, area.right + 1) if self.column(number) > 0]

    def rows(self, area: Area) -> Iterator[int]:
        """The rows that are shown."""
        return (number for number in range(area.top, area.bottom + 1) if self.row(number) > 0)


def blocks_of(
    columns: Sequence[int], sizes: Sizes, room: float, breaks: set[int], repeated: Sequence[int]
) -> list[list[int]]:
    """Columns in groups that each fit into a width; `breaks` are columns after which a group ends."""
    own = sum(sizes.column(number) for number in repeated)
    blocks: list[list[int]] = [[]]
    width = 0.0
    for number in columns:
        size = sizes.column(number)
        limit = room - (own if len(blocks) > 1 else 0.0)
        if blocks[-1] and width + size > limit + 0.5:
            blocks.append([])
            width = 0.0
        blocks[-1].append(number)
        width += size
        if number in breaks:
            blocks.append([])
            width = 0.0
    shown = [block for block in blocks if block]
    return [block if at == 0 else [*(n for n in repeated if n not in block), *block] for at, block in enumerate(shown)]
