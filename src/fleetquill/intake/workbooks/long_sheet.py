"""Long sheets: their rows come one after the other, and look as their columns do."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from itertools import islice
from typing import Any, Final, Protocol

from lxml import etree

from fleetquill.caches import Cache
from fleetquill.formats import Formats
from fleetquill.intake.workbooks.area import Area, Sizes
from fleetquill.intake.workbooks.fitting import share_of, size_of
from fleetquill.intake.workbooks.looks import Looks
from fleetquill.intake.workbooks.number_formats import show
from fleetquill.tree.column import Column

Element = etree._Element

LONG: Final = 20_000  # cells of an area
LOOKED_AT: Final = 500  # rows that tell how a column looks
MOST_TEXTS: Final = 50_000  # that are kept


class SheetLooks(Protocol):
    """A sheet, and how its cells look."""

    name: str
    sheet: Any
    formats: Formats
    sizes: Sizes
    looks: Looks
    rules: list[str]
    add_rows: Callable[[Any, Sequence[Column]], str]

    @property
    def titles(self) -> list[int]:
        """The rows that are repeated."""

    @property
    def usual_font(self) -> str:
        """The font of cells that say nothing of theirs."""

    def css_of(self, cell: Any, usual: str) -> str:
        """How a cell looks."""

    def long_class(self, cell: Any, style: int, usual: str) -> str:
        """The class of a cell that looks other than its column does."""

    def band_of(self, area: Area, columns: Sequence[int]) -> str:
        """How every other row looks."""


class CellText(str):
    """The text of a cell that looks other than its column does; `mark` is its class."""

    __slots__ = ("mark",)
    mark: str


class SheetRows:
    """The rows of an area as texts, to be gone through more than once."""

    def __init__(self, pages: SheetLooks, area: Area, columns: Sequence[int], looks: Sequence[tuple[int, str]]) -> None:
        self._pages = pages
        self._area = area
        self._columns = columns
        self._looks = looks
        self._texts: Cache[Any, str] = Cache(MOST_TEXTS)

    def __iter__(self) -> Iterator[tuple[str, ...]]:
        cells, texts, formats = self._pages.sheet._cells, self._texts, self._pages.formats
        pages = self._pages
        for number in pages.sizes.rows(self._area):
            row: list[str] = []
            for column, (style, usual) in zip(self._columns, self._looks, strict=True):
                cell = cells.get((number, column))
                value = None if cell is None else cell.value
                if value is None:
                    row.append("")
                    continue
                if isinstance(value, list):
                    value = "".join(str(part) for part in value)
                key = (value, value.__class__, cell.number_format)
                text = texts.get(key)
                if text is None:
                    text = texts.put(key, show(value, cell.number_format, formats).text)
                own = cell.style_id
                if own != style:
                    marked = CellText(text)
                    marked.mark = pages.long_class(cell, own, usual)
                    text = marked
                row.append(text)
            yield tuple(row)


def long_sheet(pages: SheetLooks, area: Area, columns: Sequence[int]) -> Element:
    """A ledger of an area; its first row is its head where that looks like one, or is repeated."""
    sheet, sizes, looks = pages.sheet, pages.sizes, pages.looks
    has_head = _has_head(pages, area, columns)
    body = area._replace(top=area.top + has_head)
    rows = list(islice(sizes.rows(body), LOOKED_AT))
    facts: list[tuple[int, str]] = []
    described: list[Column] = []
    name = f"{pages.name}-{area.top}-{columns[0]}"
    styles = _styles(sheet, body, set(columns))
    for at, column in enumerate(columns, 1):
        cells = [cell for number in rows if (cell := sheet._cells.get((number, column))) is not None]
        style, usual = _usual(cells)
        facts.append((style, usual))
        css = pages.css_of(next((cell for cell in cells if cell.style_id == style), None), usual)
        css += _smaller(pages, cells, sizes.column(column)) if usual == "right" else ""
        pages.rules.append(f"#{name} td:nth-child({at}) {{ {css} }}\n" if css else "")
        head = sheet._cells.get((area.top, column)) if has_head else None
        title = show(head.value, head.number_format, pages.formats).text if head is not None else ""
        if head is not None:
            pages.rules.append(f"#{name} th:nth-child({at}) {{ {pages.css_of(head, 'left')} }}\n")
        width = looks.px(sizes.column(column))
        others = [cell for own, cell in styles.get(column, {}).items() if own != style]
        for cell in others:
            pages.long_class(cell, cell.style_id, usual)
        rule = _mark_of if others else None
        described.append(Column(f"{at}", title, align=usual, width=width, overflow="clip", rule=rule))
    band = pages.band_of(area, columns)
    if band:
        pages.rules.append(f"#{name} tbody tr:nth-child(odd) td {{ {band} }}\n")
    size = looks.px(sizes.row(body.top))
    pages.rules.append(f"#{name} td {{ height:{size}; border-left:none; border-right:none }}\n")
    attributes = {"id": name, "rows": pages.add_rows(SheetRows(pages, body, columns, facts), described)}
    attributes["style"] = f"width:{looks.px(sum(map(sizes.column, columns)))};{pages.usual_font}"
    if not has_head:
        attributes["head"] = "none"
    return etree.Element("fq-ledger", attributes)


def _smaller(pages: SheetLooks, cells: Sequence[Any], room: float) -> str:
    """How small the letters of a column are, so that its numbers are not cut; nothing where they have room."""
    values = [cell for cell in cells if cell.value is not None and not isinstance(cell.value, (str, list, bool))]
    fits = [(share_of(show(cell.value, cell.number_format, pages.formats).text, cell.font, room), cell)
            for cell in values]  # fmt: skip
    least, cell = min(fits, key=lambda fit: fit[0], default=(1.0, None))
    return f"font-size:{pages.looks.px(size_of(cell.font) * least)};" if cell is not None and least < 1 else ""


def _styles(sheet: Any, area: Area, columns: set[int]) -> dict[int, dict[int, Any]]:
    """For each column the looks of its cells that say something, each with one that has it."""
    found: dict[int, dict[int, Any]] = {column: {} for column in columns}
    for (row, column), cell in sheet._cells.items():
        if column in columns and area.top <= row <= area.bottom and cell.value is not None:
            found[column].setdefault(cell.style_id, cell)
    return found


def _mark_of(value: Any) -> str:
    return value.mark if isinstance(value, CellText) else ""


def _usual(cells: Sequence[Any]) -> tuple[int, str]:
    """The look that most cells of a column have, and the side that their values stand at."""
    shown = [cell for cell in cells if cell.value is not None] or list(cells)
    styles = Counter(cell.style_id for cell in shown)
    texts = sum(isinstance(cell.value, (str, list)) for cell in shown)
    return (styles.most_common(1)[0][0] if styles else 0), ("left" if texts * 2 >= len(shown) else "right")


def _has_head(pages: SheetLooks, area: Area, columns: Sequence[int]) -> bool:
    """Whether the first row is a head: it is repeated, or looks other than the row below it."""
    if area.top in pages.titles:
        return True
    cells = pages.sheet._cells
    first = [cells.get((area.top, column)) for column in columns]
    second = [cells.get((area.top + 1, column)) for column in columns]
    texts = all(cell is None or isinstance(cell.value, str) for cell in first)
    differs = any(
        one is not None and two is not None and one.style_id != two.style_id and one.font.b
        for one, two in zip(first, second, strict=True)
    )
    return texts and differs
