"""One sheet of a workbook as a table on pages of its own."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import cached_property
from typing import Any, Final, NamedTuple

from lxml import etree

from fleetquill.deadline import heed
from fleetquill.formats import Formats
from fleetquill.intake.workbooks.area import (
    Area,
    Sizes,
    areas_of,
    blocks_of,
    column_letters,
    used_area,
)
from fleetquill.intake.workbooks.colors import Palette
from fleetquill.intake.workbooks.conditions import Added, Conditions
from fleetquill.intake.workbooks.drawings import Drawn, drawn_on
from fleetquill.intake.workbooks.fitting import BOLD, fitted, size_of, wide
from fleetquill.intake.workbooks.functions import ERROR
from fleetquill.intake.workbooks.long_sheet import LONG, long_sheet
from fleetquill.intake.workbooks.looks import Looks
from fleetquill.intake.workbooks.number_formats import Shown, show
from fleetquill.intake.workbooks.page_setup import Facts, page_rules, paper_of
from fleetquill.intake.workbooks.table_styles import banded
from fleetquill.tree.column import Column
from fleetquill.tree.texts import clean

Element = etree._Element

LEAST_SCALE: Final = 0.1
LETTER_CELL: Final = {"class": "fq-letter"}
LATER: Final = "-fq-show-on:continued"  # of rows that pages after the first repeat
LONGEST: Final = 100_000  # cells of an area in which there is more than a long sheet can show
HEADING: Final = 24.0  # px of the column with the numbers of rows


class Fit(NamedTuple):
    """How a sheet is brought to its pages: by what both sides are multiplied, and whether columns are parted."""

    scale: float
    parts: bool


class SheetPages:
    """Makes the section of a sheet."""

    def __init__(
        self,
        sheet: Any,
        palette: Palette,
        formats: Formats,
        facts: Facts,
        number: int,
        fit: str,
        add_rows: Callable[[Any, Sequence[Column]], str],
    ) -> None:
        self.sheet = sheet
        self.add_rows = add_rows
        self.name = f"fq-sheet-{number}"
        self.faults: list[str] = []
        self.rules: list[str] = []
        self.formats = formats
        self._palette = palette
        self.sizes = Sizes(sheet)
        self.used = used_area(sheet, self.sizes)
        self.paper = paper_of(sheet)
        areas = areas_of(sheet.print_area or "", self.used) if sheet.print_area else []
        self.areas = areas or ([self.used] if self.used.bottom and self.used.right else [])
        self.fit = self._fit(fit)
        self.looks = Looks(palette, self.fit.scale)
        self._classes: dict[tuple[Any, ...], str] = {}
        self._bands = banded(sheet, palette)
        self._today = facts.moment.date()
        self._merged, self._covered = _merged(sheet)
        self._drawn: dict[tuple[int, int], list[Drawn]] = {}
        for drawn in drawn_on(sheet, self.sizes, palette, self.fit.scale, self.faults):
            self._drawn.setdefault((drawn.row, drawn.column), []).append(drawn)
        self._titles = _titles(sheet, self.used)
        self._headings = bool(sheet.print_options.headings)
        if sheet.page_setup.pageOrder == "overThenDown" and self.fit.parts:
            self.faults.append("Its pages go down and then over, although its set-up has them over and then down.")
        self._pages = page_rules(self.name, sheet, self.paper, facts)

    @cached_property
    def _conditions(self) -> Conditions:
        """What conditional formats add; worked out where it is shown."""
        found = Conditions(self.sheet, self.looks, self._palette, self._today)
        self.faults += found.faults
        return found

    # ---- sizes ----

    def _fit(self, fit: str) -> Fit:
        """How large the sheet stands on its pages."""
        width = max((self._width(area) for area in self.areas), default=1.0)
        height = max((sum(map(self.sizes.row, self.sizes.rows(area))) for area in self.areas), default=1.0)
        if self.sheet.print_options.headings:
            width += HEADING
        across, down = self.paper.inner_width / width, self.paper.inner_height / height
        setup, properties = self.sheet.page_setup, self.sheet.sheet_properties.pageSetUpPr
        if fit == "workbook":
            if properties is not None and properties.fitToPage:
                wide = 1 if setup.fitToWidth is None else int(setup.fitToWidth)
                high = 1 if setup.fitToHeight is None else int(setup.fitToHeight)
                scales = [across * wide] * bool(wide) + [down * high] * bool(high)
                return Fit(max(LEAST_SCALE, min([1.0, *scales])), wide != 1)
            if setup.scale and int(setup.scale) != 100:
                return Fit(max(LEAST_SCALE, int(setup.scale) / 100), True)
            said = bool(self.sheet.print_area or self.sheet.col_breaks.brk or setup.paperSize or setup.orientation)
            fit = "none" if said and setup.scale else "width"
        if fit == "width":
            return Fit(max(LEAST_SCALE, min(1.0, across)), False)
        if fit == "page":
            return Fit(max(LEAST_SCALE, min(1.0, across, down)), False)
        if fit.endswith("%"):
            return Fit(float(fit[:-1]) / 100, True)
        return Fit(1.0, True)

    def _width(self, area: Area) -> float:
        return max(1.0, sum(map(self.sizes.column, self.sizes.columns(area))))

    # ---- the section ----

    def section(self) -> Element:
        """The sheet on its pages, each area and each block of columns on new ones."""
        title = self.sheet.title.replace("\\", "\\\\").replace('"', '\\"')
        style = f'page:{self.name};bookmark-level:1;bookmark-label:"{clean(title)}"'
        first = self.sheet.page_setup.firstPageNumber
        if first and self.sheet.page_setup.useFirstPageNumber:
            style += f";counter-reset:page {int(first)}"
        named = "fq-sheet fq-gridded" if self.sheet.print_options.gridLines else "fq-sheet"
        section = etree.Element("section", {"class": named, "style": style})
        self.rules.append(self._pages)
        breaks = {brk.id for brk in self.sheet.col_breaks.brk}
        is_first = True
        for area in self.areas:
            columns = self.sizes.columns(area)
            repeated = [number for number in self._titles[1] if self.sizes.column(number) > 0]
            room = self.paper.inner_width / self.fit.scale - (HEADING if self._headings else 0.0)
            blocks = blocks_of(columns, self.sizes, room, breaks, repeated) if self.fit.parts else [columns]
            for block in blocks:
                table = self._table(area, block) if self._is_short(area, block) else long_sheet(self, area, block)
                if not is_first:
                    table.set("style", f"break-before:page;{table.get('style', '')}")
                section.append(table)
                is_first = False
        return section

    def _is_short(self, area: Area, columns: Sequence[int]) -> bool:
        """Whether every cell can have a look of its own: of a sheet that is not long, or has much to lose by it."""
        count = (area.bottom - area.top + 1) * len(columns)
        if count <= LONG:
            return True
        left_out = [
            *(["joined cells"] if self._merged else []),
            *(["conditional formats"] if len(self.sheet.conditional_formatting) else []),
            *(["pictures and charts"] if self._drawn else []),
        ]
        if left_out and count <= LONGEST:
            return True
        if left_out:
            self.faults.append(f"It is long: {' and '.join(left_out)} are left out.")
        return False

    @property
    def usual_font(self) -> str:
        """The font of cells that say nothing of theirs: the first of the workbook (ISO/IEC 29500-1 §18.8.22)."""
        fonts = self.sheet.parent._fonts
        return self.looks.font(fonts[0] if fonts else None) or f"font-size:{self.looks.px(size_of(None))};"

    @property
    def titles(self) -> list[int]:
        """The rows that are repeated."""
        return self._titles[0]

    def css_of(self, cell: Any, usual: str) -> str:
        """How a cell looks; nothing for one that is not there."""
        return self._css(cell, usual) if cell is not None else ""

    def long_class(self, cell: Any, style: int, usual: str) -> str:
        """The class of a cell of a long sheet that looks other than its column does."""
        key = (style, usual, "long")
        name = self._classes.get(key)
        if name is None:
            name = self._classes[key] = f"{self.name}-long-{len(self._classes) + 1}"
            self.rules.append(f".fq-sheet .{name}.{name}.{name} {{ {self._css(cell, usual)} }}\n")
        return name

    def band_of(self, area: Area, columns: Sequence[int]) -> str:
        """What the style of a table says of every other row of a long sheet."""
        return next((self._bands[row, columns[0]] for row in range(area.top + 1, area.top + 3)
                     if "background" in self._bands.get((row, columns[0]), "")), "")  # fmt: skip

    def _table(self, area: Area, columns: Sequence[int]) -> Element:
        looks, sizes = self.looks, self.sizes
        width = sum(map(sizes.column, columns)) + (HEADING if self._headings else 0.0)
        style = f"width:{looks.px(width)};{self.usual_font}"
        if self.sheet.print_options.horizontalCentered:
            style += "margin-left:auto;margin-right:auto;"
        if self.sheet.print_options.verticalCentered:
            style += f"margin-top:{self._above(area):.2f}px;"
        if self.sheet.sheet_view.rightToLeft:
            style += "direction:rtl;"
        table = etree.Element("table", {"style": style})
        group = etree.SubElement(table, "colgroup")
        if self._headings:
            etree.SubElement(group, "col", {"style": f"width:{looks.px(HEADING)}"})
        for number in columns:
            etree.SubElement(group, "col", {"style": f"width:{looks.px(sizes.column(number))}"})
        titles = [number for number in self._titles[0] if sizes.row(number) > 0]
        leads = bool(titles) and titles[0] <= area.top  # they stand at the top of the first page, too
        head = etree.SubElement(table, "thead") if leads or self._headings else None
        if head is not None and self._headings:
            row = etree.SubElement(head, "tr")
            for text in ["", *map(column_letters, columns)]:
                etree.SubElement(row, "th", LETTER_CELL).text = text
        if titles:
            repeated = head if leads and head is not None else etree.SubElement(table, "thead", {"style": LATER})
            for number in titles:
                self._row(repeated, number, columns)
        body = etree.SubElement(table, "tbody")
        breaks = {brk.id for brk in self.sheet.row_breaks.brk}
        before = 0
        for number in sizes.rows(area):
            if leads and number in titles:
                continue
            heed()
            row = self._row(body, number, columns)
            if before in breaks:
                row.set("style", f"break-before:page;{row.get('style', '')}")
            before = number
        if not len(body):
            table.remove(body)
        return table

    def _above(self, area: Area) -> float:
        """The px that are free above an area which stands in the middle of its page; 0 where it takes more than one."""
        high = self.fit.scale * sum(map(self.sizes.row, self.sizes.rows(area)))
        if high > self.paper.inner_height:
            fault = "It takes several pages and is not centred between top and bottom."
            self.faults += [fault] if fault not in self.faults else []
        return max(0.0, (self.paper.inner_height - high) / 2)

    def _row(self, parent: Element, number: int, columns: Sequence[int]) -> Element:
        row = etree.SubElement(parent, "tr", {"style": f"height:{self.looks.px(self.sizes.row(number))}"})
        if self._headings:
            etree.SubElement(row, "th", LETTER_CELL).text = str(number)
        shown = set(columns)
        at = 0
        while at < len(columns):
            column = columns[at]
            place = (number, column)
            if place in self._covered:
                start = self._covered[place]
                if start[1] in shown or start[0] != number:
                    at += 1
                    continue
            at += self._cell(row, place, columns, at)
        return row

    # ---- cells ----

    def _cell(self, row: Element, place: tuple[int, int], columns: Sequence[int], at: int) -> int:
        """Adds a cell; gives how many columns it takes."""
        cell = self.sheet._cells.get(place)
        element = etree.SubElement(row, "td")
        span = 1
        merged = self._merged.get(place)
        if merged is not None:
            bottom, right = merged
            span = sum(1 for number in columns[at:] if number <= right)
            down = sum(1 for number in range(place[0], bottom + 1) if self.sizes.row(number) > 0)
            if down > 1:
                element.set("rowspan", str(down))
        added = self._conditions.added.get(place)
        shown, usual = self._shown(cell)
        if merged is None and cell is not None and shown.text:
            span = self._flowing(cell, shown, place, columns, at, usual)
        if span > 1:
            element.set("colspan", str(span))
        smaller = 1.0
        if cell is not None and shown.text and _must_fit(cell, usual, shown):
            room = sum(map(self.sizes.column, columns[at : at + span]))
            if added is not None:
                room -= size_of(cell.font) * bool(added.sign)
                room /= BOLD if "bold" in added.css and not cell.font.b else 1.0
            shown, smaller = fitted(cell, shown, room, self.formats)
        if cell is not None or added is not None or place in self._bands:
            self._style(element, cell, place, usual, shown, added)
            if cell is not None and not (added is not None and added.hides):
                self._fill(element, cell, shown)
            if smaller < 1:
                size = f"font-size:{self.looks.px(size_of(cell.font) * smaller)};"
                element.set("style", element.get("style", "") + size)
        if added is not None and added.sign:
            _put_sign(element, added)
        for drawn in self._drawn.get(place, ()):
            self._put_drawn(element, drawn)
        return span

    def _shown(self, cell: Any) -> tuple[Shown, str]:
        """What a cell shows, and at which side values of its kind stand."""
        if cell is None or cell.value is None:
            return Shown(""), "left"
        value = cell.value
        if isinstance(value, list):  # text of several looks
            return Shown("".join(str(part) for part in value)), "left"
        if isinstance(value, bool) or (isinstance(value, str) and ERROR.fullmatch(value)):
            return show(value, cell.number_format, self.formats), "center"
        shown = show(value, cell.number_format, self.formats)
        return shown, "left" if isinstance(value, str) else "right"

    def _flowing(
        self, cell: Any, shown: Shown, place: tuple[int, int], columns: Sequence[int], at: int, usual: str
    ) -> int:
        """How many columns a text takes: it flows over empty neighbours where it does not wrap."""
        alignment = cell.alignment
        across = (alignment.horizontal or "general") if alignment is not None else "general"
        if usual != "left" or alignment.wrap_text or across not in ("general", "left") or alignment.textRotation:
            return 1
        needed = wide(shown.text, cell.font)
        room = self.sizes.column(columns[at])
        span = 1
        while needed > room and at + span < len(columns):
            neighbour = (place[0], columns[at + span])
            other = self.sheet._cells.get(neighbour)
            if neighbour in self._covered or neighbour in self._merged or neighbour in self._drawn:
                break
            if other is not None and (other.value is not None or _has_look(other)):
                break
            room += self.sizes.column(columns[at + span])
            span += 1
        return span

    def _style(
        self, element: Element, cell: Any, place: tuple[int, int], usual: str, shown: Shown, added: Added | None
    ) -> None:
        """Gives a cell its class, and what is its own alone."""
        band = self._bands.get(place, "")
        style = cell.style_id if cell is not None and cell.has_style else 0
        merged = self._merged.get(place)
        edges = self._edges(place, merged) if merged is not None else ""
        key = (style, usual, band, edges, shown.color)
        name = self._classes.get(key)
        if name is None:
            css = band + (self._css(cell, usual) if cell is not None else "") + edges
            css += f"color:{shown.color};" if shown.color else ""
            name = self._classes[key] = f"{self.name}-{len(self._classes) + 1}" if css else ""
            if css:
                self.rules.append(f".fq-sheet .{name} {{ {css} }}\n")
        if name:
            element.set("class", name)
        if added is not None and added.css:
            element.set("style", added.css)

    def _css(self, cell: Any, usual: str) -> str:
        if not cell.has_style:
            return f"text-align:{usual};" if usual != "left" else ""
        looks = self.looks
        font = looks.font(cell.font) if cell._style.fontId else ""  # the first is that of the table, but for its styles
        css = font + looks.fill(cell.fill) + looks.borders(cell.border)
        return css + looks.alignment(cell.alignment, usual=usual)

    def _edges(self, place: tuple[int, int], merged: tuple[int, int]) -> str:
        """The lines of a joined cell are those of the cells at its edges."""
        css = ""
        for side, corner in (("right", (place[0], merged[1])), ("bottom", (merged[0], place[1]))):
            other = self.sheet._cells.get(corner)
            line = self.looks.line(getattr(other.border, side)) if other is not None and other.has_style else ""
            css += f"border-{side}:{line};" if line else ""
        return css

    def _fill(self, element: Element, cell: Any, shown: Shown) -> None:
        """The text of a cell, with its link, its looks and its direction."""
        target = element
        alignment = cell.alignment
        link = cell.hyperlink
        if link is not None and (link.target or link.location):
            address = link.target or f"#{link.location}"
            if link.target:
                target = etree.SubElement(target, "a", {"href": address})
        turn = int(alignment.textRotation or 0) if alignment is not None else 0
        if turn:
            target = etree.SubElement(target, "span", {"style": _turned(turn)})
        if isinstance(cell.value, list):
            self._rich(target, cell.value)
            return
        text = shown.text
        if shown.fill is not None:
            at, character = shown.fill
            before, after = text[:at], text[at:]
            if character.strip():
                _put(target, before + character * 3 + after)
            else:  # what is before stands at the left, what is after at the right
                line = etree.SubElement(target, "span", {"class": "fq-filled"})
                etree.SubElement(line, "span").text = clean(before)
                etree.SubElement(line, "span").text = clean(after)
            return
        _put(target, text)

    def _rich(self, element: Element, parts: Sequence[Any]) -> None:
        for part in parts:
            font = getattr(part, "font", None)
            if font is None:
                _put(element, str(part))
                continue
            css = self.looks.font(_InlineFont(font))
            _put(etree.SubElement(element, "span", {"style": css} if css else {}), part.text or "")

    def _put_drawn(self, cell: Element, drawn: Drawn) -> None:
        """Lays a picture or chart over the sheet, from a cell on."""
        px = self.looks.px
        cell.set("style", f"position:relative;overflow:visible;{cell.get('style', '')}")
        size = f"width:{px(drawn.width)};height:{px(drawn.height)};"
        css = f"position:absolute;left:{px(drawn.x)};top:{px(drawn.y)};{size}"
        drawn.element.set("style", css + drawn.element.get("style", ""))
        cell.append(drawn.element)

    def notes(self) -> list[tuple[str, str, str]]:
        """The comments of the sheet: cell, author, text."""
        found = [(place, cell.comment) for place, cell in sorted(self.sheet._cells.items()) if cell.comment is not None]
        return [
            (f"{column_letters(column)}{row}", str(comment.author or ""), str(comment.text or "").strip())
            for (row, column), comment in found
        ]


def _must_fit(cell: Any, usual: str, shown: Shown) -> bool:
    """Whether what a cell shows may not be cut: numbers, and text that is to be made smaller."""
    alignment = cell.alignment
    if shown.fill is not None or (alignment is not None and alignment.textRotation):
        return False
    return usual == "right" or bool(alignment is not None and alignment.shrink_to_fit)


class _InlineFont:
    """The font of a part of a text, under the names that cells' fonts have."""

    def __init__(self, font: Any) -> None:
        self.name, self.sz, self.b, self.i = font.rFont, font.sz, font.b, font.i
        self.u, self.strike, self.vertAlign, self.color = font.u, font.strike, font.vertAlign, font.color


def _has_look(cell: Any) -> bool:
    if not cell.has_style:
        return False
    border = cell.border
    return bool(cell.fill.fill_type) or any(
        side is not None and side.style for side in (border.left, border.right, border.top, border.bottom)
    )


def _merged(sheet: Any) -> tuple[dict[tuple[int, int], tuple[int, int]], Mapping[tuple[int, int], tuple[int, int]]]:
    """Joined cells by their first one, with their last row and column; and the places that they cover."""
    merged: dict[tuple[int, int], tuple[int, int]] = {}
    covered: dict[tuple[int, int], tuple[int, int]] = {}
    for found in sheet.merged_cells.ranges:
        start = (found.min_row, found.min_col)
        merged[start] = (found.max_row, found.max_col)
        for row in range(found.min_row, found.max_row + 1):
            for column in range(found.min_col, found.max_col + 1):
                if (row, column) != start:
                    covered[row, column] = start
    return merged, covered


def _titles(sheet: Any, used: Area) -> tuple[list[int], list[int]]:
    """The rows and the columns that are repeated on every page."""
    rows = areas_of(sheet.print_title_rows or "", used)
    columns = areas_of(sheet.print_title_cols or "", used)
    return (
        [number for area in rows for number in range(area.top, area.bottom + 1)],
        [number for area in columns for number in range(area.left, area.right + 1)],
    )


def _turned(turn: int) -> str:
    """Text that is turned: by so many degrees upwards, from 91 on downwards, 255 for letters one below the other."""
    if turn == 255:
        return "display:inline-block;writing-mode:vertical-rl;text-orientation:upright;"
    degrees = -turn if turn <= 90 else turn - 90
    if degrees in (-90, 90):
        return f"display:inline-block;writing-mode:{'sideways-lr' if degrees < 0 else 'vertical-rl'};"
    return f"display:inline-block;transform:rotate({degrees}deg);"


def _put(element: Element, text: str) -> None:
    """Adds text after what is in an element."""
    lines = clean(text).split("\n")
    for number, line in enumerate(lines):
        if number:
            etree.SubElement(element, "br")
        if not line:
            continue
        if len(element):
            element[-1].tail = (element[-1].tail or "") + line
        else:
            element.text = (element.text or "") + line


def _put_sign(element: Element, added: Added) -> None:
    """A sign at the left edge of a cell, before its text."""
    sign = etree.Element("span", {"class": "fq-sign", "style": f"color:{added.color}"})
    sign.text = added.sign
    sign.tail = element.text
    element.text = None
    element.insert(0, sign)
