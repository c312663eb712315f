"""Tables out of what stands for parts of them: anonymous rows, cells and tables (CSS Tables 3 §3.2)."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final, Protocol

from fleetquill.layout.block.floats import is_float
from fleetquill.layout.boxes.boxes import Box, CellBox, ColumnBox, RowBox, RowGroupBox
from fleetquill.layout.boxes.levels import is_blank, is_inline_level
from fleetquill.layout.table.boxes import TableBox
from fleetquill.style.cascade import Cascade
from fleetquill.style.properties import ComputedStyle

TABLE_PARTS: Final = (RowGroupBox, RowBox, CellBox, ColumnBox)


class CellBuilder(Protocol):
    """What makes the styles and the content of anonymous boxes."""

    cascade: Cascade

    def cell_content(self, style: ComputedStyle, children: list[Box]) -> list[Box]:
        """A cell's children as blocks."""


def wrap_table_parts(builder: CellBuilder, children: list[Box], style: ComputedStyle) -> list[Box]:
    """Rows and cells with no table around them get an anonymous one."""
    if not any(isinstance(child, TABLE_PARTS) for child in children):
        return children
    wrapped: list[Box] = []
    parts: list[Box] = []
    for child in [*children, None]:
        if isinstance(child, TABLE_PARTS) or (parts and child is not None and is_blank(child)):
            parts.append(child)
            continue
        if parts:
            display = "inline-table" if style.display == "inline" else "table"
            table = TableBox(builder.cascade.anonymous(style, display), None)
            fill_table(builder, table, parts)
            wrapped.append(table)
            parts = []
        if child is not None:
            wrapped.append(child)
    return wrapped


def fill_table(builder: CellBuilder, table: TableBox, children: list[Box]) -> None:
    """Puts the content of a table in its place: captions, columns, groups of rows, anonymous ones too."""
    loose: list[Box] = []
    for child in [*children, None]:
        if isinstance(child, (RowGroupBox, ColumnBox)) or child is None or _is_caption(child):
            if any(not is_blank(box) for box in loose):
                style = builder.cascade.anonymous(table.style, "table-row-group")
                table.groups.append(RowGroupBox(style, None, "body"))
                table.groups[-1].children = rows_of(builder, loose, table.style)
            loose = []
        else:
            loose.append(child)
            continue
        if isinstance(child, RowGroupBox):
            table.groups.append(child)
        elif isinstance(child, ColumnBox):
            columns = [c for c in child.children if isinstance(c, ColumnBox)]
            table.columns += columns or [child]
        elif child is not None:
            table.children.append(child)


def rows_of(builder: CellBuilder, children: list[Box], style: ComputedStyle) -> list[Box]:
    """Rows as they are; all else gathered into anonymous rows."""

    def row(loose: list[Box]) -> Box:
        row_style = builder.cascade.anonymous(style, "table-row")
        return RowBox(row_style, None, cells_of(builder, loose, row_style))

    return _gathered(children, RowBox, row)


def cells_of(builder: CellBuilder, children: list[Box], style: ComputedStyle) -> list[Box]:
    """Cells as they are; all else gathered into anonymous cells."""

    def cell(loose: list[Box]) -> Box:
        cell_style = builder.cascade.anonymous(style, "table-cell")
        return CellBox(cell_style, None, builder.cell_content(cell_style, loose), 1, 1)

    return _gathered(children, CellBox, cell)


def _gathered(children: list[Box], kind: type[Box], around: Callable[[list[Box]], Box]) -> list[Box]:
    """Boxes of a kind as they are; what stands between them, `around` it a box of that kind."""
    if all(isinstance(child, kind) for child in children):
        return children
    found: list[Box] = []
    loose: list[Box] = []
    for child in [*children, None]:
        if child is not None and not isinstance(child, kind):
            loose.append(child)
            continue
        if any(not is_blank(box) for box in loose):
            found.append(around(loose))
        loose = []
        if child is not None:
            found.append(child)
    return found


def _is_caption(box: Box) -> bool:
    return box.style.display == "table-caption" and not is_inline_level(box) and not is_float(box)
