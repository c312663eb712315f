"""The parts that one adds to a manuscript in Python: headings, paragraphs, tables, pictures, sections."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import AbstractContextManager, contextmanager, nullcontext
from typing import TYPE_CHECKING, Any, Literal

from lxml import etree

from fleetquill.authoring.fields import FieldWish, field_controls
from fleetquill.authoring.inline import Style, attributes_of, css_of, fill
from fleetquill.authoring.pictures import code_attributes, picture_source, picture_style
from fleetquill.authoring.place import Place, SectionPages
from fleetquill.authoring.plate import Plate, page_layer, page_plate
from fleetquill.authoring.recording import recorded
from fleetquill.authoring.table_rows import figures_of, value_row
from fleetquill.errors import OptionError, Where, nearest
from fleetquill.keywords import told_methods
from fleetquill.tree.document import Note
from fleetquill.tree.head import ground_rule, margin_rules, page_rule, parts_rule
from fleetquill.tree.lengths import Length, PageSize, as_page, css_length
from fleetquill.tree.tables import NO_FIGURES, add_head, add_sums, labels_of
from fleetquill.tree.texts import clean

if TYPE_CHECKING:
    from fleetquill.tree.column import Column

Element = etree._Element
Side = Literal["", "left", "right"]


@recorded(
    "heading", "paragraph", "quotation", "listing", "bullets", "numbered", "definitions", "contents", "rule", "space",
    "page_break", "html", "table", "picture", "code", "payment", "chart", "figure", "section", "columns", "row", "box",
    "field", "header", "footer", "plate", "layer",
)  # fmt: skip
@told_methods
class Parts(Place):
    """What a manuscript can be given, part by part.

    Every part takes `style` (CSS text), `id` and `class_`. Lengths are text with a unit, or a number
    of points. What stands in a part is text, numbers, dates and pieces such as `strong()`.
    """

    # ---- text ----

    def heading(self, *content: Any, level: int = 1, style: Style = "", id: str = "", class_: str = "") -> None:
        """A heading of a level from 1 to 6: also an entry of the outline and of contents lists."""
        if not 1 <= level <= 6:
            raise OptionError(f"A heading has a level from 1 to 6, not {level}.")
        self._fill(f"h{level}", attributes_of(style, id, class_), content)

    def paragraph(self, *content: Any, style: Style = "", id: str = "", class_: str = "") -> None:
        self._fill("p", attributes_of(style, id, class_), content)

    def quotation(self, *content: Any, style: Style = "", id: str = "", class_: str = "") -> None:
        """A quotation in a block of its own."""
        self._fill("blockquote", attributes_of(style, id, class_), content)

    def listing(self, text: str, *, style: Style = "", id: str = "", class_: str = "") -> None:
        """Program text: lines and spaces stay as they are."""
        self._add("pre", attributes_of(style, id, class_)).text = clean(text)

    def bullets(self, items: Iterable[Any], *, style: Style = "", id: str = "", class_: str = "") -> None:
        """A list with a mark before each item; an item that is a list of its own is set further in."""
        self._list("ul", items, attributes_of(style, id, class_))

    def numbered(
        self, items: Iterable[Any], *, start: int = 1, style: Style = "", id: str = "", class_: str = ""
    ) -> None:
        """A list whose items are counted from `start`."""
        more = {"start": str(start)} if start != 1 else {}
        self._list("ol", items, attributes_of(style, id, class_) | more)

    def _list(self, tag: str, items: Iterable[Any], attributes: Mapping[str, str]) -> None:
        outer = self._add(tag, attributes)
        with self._undone_on_error(outer):
            for item in items:
                if isinstance(item, list) and len(outer):
                    with self._inside(outer[-1]):
                        self._list(tag, item, {})
                else:
                    fill(etree.SubElement(outer, "li"), [item])

    def definitions(
        self,
        pairs: Mapping[Any, Any] | Iterable[tuple[Any, Any]],
        *,
        style: Style = "",
        id: str = "",
        class_: str = "",
    ) -> None:
        """Terms, each with what it means."""
        outer = self._add("dl", attributes_of(style, id, class_))
        with self._undone_on_error(outer):
            for term, meaning in pairs.items() if isinstance(pairs, Mapping) else pairs:
                fill(etree.SubElement(outer, "dt"), [term])
                fill(etree.SubElement(outer, "dd"), [meaning])

    def contents(self, *, levels: int = 2, style: Style = "", id: str = "", class_: str = "") -> None:
        """A list of the headings down to a level, wherever they stand, with the pages that they are on."""
        self._add("fq-contents", attributes_of(style, id, class_) | {"levels": str(levels)})

    def rule(self, *, style: Style = "", id: str = "", class_: str = "") -> None:
        """A line across."""
        self._add("hr", attributes_of(style, id, class_))

    def space(self, height: Length) -> None:
        """Empty room of a height."""
        self._add("div", {"style": f"height:{css_length(height, 'height')}"})

    def page_break(self, side: Side = "") -> None:
        """What follows begins on a new page; with a side, on the next left or right one."""
        if side not in ("", "left", "right"):
            raise OptionError(f"A page break leads to a 'left' or a 'right' page, not to {side!r}.")
        self._add("div", {"style": f"break-after:{side or 'page'}"})

    def html(self, fragment: str) -> None:
        """Any HTML, as it would stand in a file."""
        from fleetquill.tree.html import parse_html

        parsed = parse_html(fragment)
        for part in (parsed.find("head"), parsed.find("body")):
            if part is None:
                continue
            fill(self._place, [part.text or ""])
            self._place.extend(list(part))

    # ---- tables ----

    def table(
        self,
        rows: Any,
        columns: Sequence[Column | str] = (),
        *,
        caption: str = "",
        stripes: bool = False,
        head: bool = True,
        labels: Sequence[str] = (),
        figures: Mapping[str, Any] = NO_FIGURES,
        fit: str = "",
        style: Style = "",
        id: str = "",
        class_: str = "",
    ) -> None:
        """A table of rows: mappings, sequences, objects, a DataFrame, the path of a CSV file, or a generator.

        Without `columns` the names are taken from the first row or the frame. A column that is only
        a name is one without a form. Rows that have names, of a database or a class, are taken by name.
        `labels` are what stands beside sums: brought forward, carried forward, total; else they are of
        the document's language. `figures` are what columns that have a total come to, by their names, where that is not
        to be reckoned. With `fit="page"` a table that is too wide is made smaller. Values stay
        values until they are laid out. Raises DataError with row and column where a row lacks a value or
        has one that its column cannot show; what a mapping leaves out that others have is empty.
        """
        from fleetquill.tree.column import Column, as_columns, settled
        from fleetquill.tree.rows import read_rows, rows_and_names

        if not columns:
            rows, names = rows_and_names(rows)
            columns = [Column(name) for name in names]
        used = as_columns(columns)
        if labels and len(labels) != 3:
            raise OptionError("A table has three labels: brought forward, carried forward and total.")
        classes = " ".join(filter(None, [class_, "fq-stripes" if stripes else ""]))
        table = self._add("table", attributes_of(fit_style(fit) + css_of(style), id, f"fq-table {classes}".strip()))
        with self._undone_on_error(table):
            read = list(read_rows(rows, used))
            self._fill_table(table, settled(used, read), read, caption, labels, figures, head=head)

    def _fill_table(
        self,
        table: Element,
        columns: Sequence[Column],
        rows: Sequence[Sequence[Any]],
        caption: str,
        labels: Sequence[str],
        known: Mapping[str, Any],
        *,
        head: bool,
    ) -> None:
        if caption:
            etree.SubElement(table, "caption").text = clean(caption)
        labels = labels or labels_of(table)
        carries = any(column.carry for column in columns)
        forms = self.document.add_forms(columns)
        if head:
            add_head(table, columns)
        if carries:
            add_sums(table, "thead", "brought", "continued", columns, labels[0], carried=True, forms=forms)
        body = etree.SubElement(table, "tbody")
        for number, values in enumerate(rows, 1):
            value_row(body, columns, values, number)
        if carries:
            add_sums(table, "tfoot", "carried", "going-on", columns, labels[1], carried=True, forms=forms)
        if any(column.total for column in columns):
            figures = {**figures_of(columns, rows), **known}
            add_sums(table, "tfoot", "total", "last", columns, labels[2], carried=False, forms=forms, figures=figures)

    # ---- pictures ----

    def picture(
        self,
        source: Any,
        *,
        width: Length = "",
        height: Length = "",
        fit: str = "",
        alt: str = "",
        caption: str = "",
        style: Style = "",
        id: str = "",
        class_: str = "",
    ) -> None:
        """A picture: its path or address, its bytes, or a Pillow image.

        `fit` says how it fills a given width and height: contain, cover, fill, none, scale-down.
        With a caption it becomes a figure.
        """
        place = self._place
        if caption:
            place = self._add("figure", {})
        attributes = attributes_of(picture_style(width, height, fit) + css_of(style), id, class_)
        etree.SubElement(place, "img", {"src": picture_source(source), "alt": clean(alt), **attributes})
        if caption:
            etree.SubElement(place, "figcaption").text = clean(caption)

    def code(
        self,
        kind: str,
        text: str,
        *,
        width: Length = "",
        height: Length = "",
        correction: str = "M",
        style: Style = "",
        id: str = "",
        class_: str = "",
    ) -> None:
        """A code to scan: 'qr', or 'code128', 'code39', 'ean13', 'ean8', 'upc', 'itf'.

        Its modules are 0.33 mm wide where no width is given. `correction` of a QR code is L, M, Q or H.
        Raises OptionError where the text cannot be written in such a code.
        """
        self._add(
            "fq-code", code_attributes(kind, text, width, height, correction, style) | attributes_of("", id, class_)
        )

    def payment(
        self,
        name: str,
        iban: str,
        amount: Any = None,
        *,
        text: str = "",
        reference: str = "",
        bic: str = "",
        width: Length = "",
        style: Style = "",
        id: str = "",
        class_: str = "",
    ) -> None:
        """A code with which a banking app fills in a euro transfer (EPC069-12).

        Raises OptionError where the IBAN's check digits do not agree or a part is too long.
        """
        from fleetquill.graphics.codes import payment_text

        payment_text(name, iban, amount, text=text, reference=reference, bic=bic)
        facts = {"kind": "payment", "name": name, "iban": iban, "text": text, "reference": reference, "bic": bic}
        if amount is not None:
            facts["amount"] = str(amount)
        attributes = attributes_of(picture_style(width, "", "") + css_of(style), id, class_)
        self._add("fq-code", {name: value for name, value in facts.items() if value} | attributes)

    # ---- charts ----

    def chart(
        self,
        kind: str,
        data: Any,
        *,
        x: str = "",
        y: str | Sequence[str] = (),
        title: str = "",
        x_title: str = "",
        y_title: str = "",
        form: str = "",
        stacked: bool = False,
        horizontal: bool = False,
        shares: bool = False,
        values: bool = False,
        y2: str | Sequence[str] = (),
        by: str = "",
        target: float | tuple[float, str] | None = None,
        band: tuple[float, float] | tuple[float, float, str] | None = None,
        legend: bool = True,
        colors: Sequence[str] = (),
        bins: int = 10,
        hole: float = 0.0,
        width: Length = "",
        height: Length = "",
        alt: str = "",
        style: Style = "",
        id: str = "",
        class_: str = "",
    ) -> None:
        """A chart of records or a frame: bar, line, area, scatter, pie, histogram or box.

        `x` names the value along the bottom (for a pie, of its parts), `y` one or more numbers; dates, and text
        such as '2026-05' or '2026-05-31', are a scale of time. `y2` names numbers that are measured at the right,
        as lines. `by` names a column: each of its values has a small chart of its own, all on the same scales.
        `shares` stacks to a hundred per cent, `values` writes the numbers at the bars, `target` is a line at a
        number and `band` a ground from one to another, each with a label where one is given. `hole` leaves the middle
        of a pie open, as a share of its radius.
        `form` is how numbers are written: a CLDR pattern, 'money:EUR' or 'percent'; `colors` are CSS colours.
        Raises OptionError for an unknown kind and DataError where the data lacks what is named.
        """
        from fleetquill.graphics.chart_elements import chart_json
        from fleetquill.graphics.charts.chart import KINDS
        from fleetquill.tree.rows import as_records

        if kind not in KINDS:
            meant = nearest(kind, KINDS)
            hint = f"Did you mean '{meant}'?" if meant else f"It may be {', '.join(KINDS)}."
            raise OptionError(f"'{kind}' is no kind of chart.", remedy=hint)
        names = [y] if isinstance(y, str) else list(y)
        right = [y2] if isinstance(y2, str) and y2 else list(y2)
        records = as_records(data, [*([x] if x else []), *names, *right, *([by] if by else [])])
        facts = {"kind": kind, "x": x, "y": ",".join(names), "title": title, "x-title": x_title, "y-title": y_title,
                 "form": form, "colors": ";".join(colors), "alt": alt, "y2": ",".join(right), "by": by,
                 **_mark("target", target), **_mark("band", band)}  # fmt: skip
        flags = {"stacked": stacked, "horizontal": horizontal, "shares": shares, "values": values}
        attributes = {name: value for name, value in facts.items() if value}
        attributes |= {name: name for name, on in flags.items() if on}
        if not legend:
            attributes["legend"] = "none"
        if bins != 10:
            attributes["bins"] = str(bins)
        if hole:
            attributes["hole"] = f"{hole:g}"
        attributes |= attributes_of(picture_style(width, height, "") + css_of(style), id, class_)
        self._add("fq-chart", attributes).text = clean(chart_json(records))

    def figure(
        self,
        figure: Any,
        *,
        width: Length = "",
        height: Length = "",
        alt: str = "",
        caption: str = "",
        style: Style = "",
        id: str = "",
        class_: str = "",
    ) -> None:
        """A Matplotlib figure, drawn as vectors with its text in the document's fonts."""
        if not hasattr(figure, "draw") or not hasattr(figure, "get_size_inches"):
            raise OptionError(f"{figure!r} is not a Matplotlib figure.")
        attributes = {"number": str(len(self.document.figures)), "alt": alt}
        self.document.figures.append(figure)
        attributes |= attributes_of(picture_style(width, height, "") + css_of(style), id, class_)
        if not caption:
            self._add("fq-figure", attributes)
            return
        with self._inside(self._add("figure", {})):
            self._add("fq-figure", attributes)
            fill(self._add("figcaption", {}), [caption])

    # ---- boxes ----

    @contextmanager
    def section(
        self,
        *,
        page: PageSize = "",
        margin: Length = "",
        columns: int = 1,
        number: int | None = None,
        style: Style = "",
        id: str = "",
        class_: str = "",
    ) -> Iterator[None]:
        """Parts that belong together; with `page` or `margin` they stand on pages of their own kind.

        Heads and feet that are set inside are the section's. `columns` sets its parts in so many columns,
        `number` is what its first page is numbered.
        """
        attributes = attributes_of(style, id, class_)
        css = attributes.get("style", "")
        if columns != 1:
            css = f"columns:{_column_count(columns)};{css}"
        if number is not None:
            css = f"counter-reset:page {int(number)};{css}"
        attributes |= {"style": css} if css else {}
        element = self._add("section", attributes)
        outer, self._pages = self._pages, SectionPages(element, as_page(page) or self._pages.size)
        try:
            if page or margin != "" or number is not None:
                self._rule(page_rule(self._section_name(), page, margin))
            with self._inside(element):
                yield
        finally:
            self._pages = outer

    def _section_name(self) -> str:
        """The name of the pages of the section at hand, which it gets when it is first asked for; '' outside."""
        pages = self._pages
        if pages.element is not None and not pages.name:
            pages.name = self._page_name()
            pages.element.set("style", f"page:{pages.name};{pages.element.get('style', '')}")
        return pages.name

    @contextmanager
    def columns(
        self, count: int, *, gap: Length = "", rule: str = "", style: Style = "", id: str = "", class_: str = ""
    ) -> Iterator[None]:
        """Parts in columns of equal width, evened out at their end; `rule` is a CSS border between them."""
        css = f"columns:{_column_count(count)};"
        if gap != "":
            css += f"column-gap:{css_length(gap, 'gap')};"
        if rule:
            css += f"column-rule:{rule};"
        with self._inside(self._add("div", attributes_of(css + css_of(style), id, class_))):
            yield

    @contextmanager
    def row(
        self, *, gap: Length = "5mm", align: str = "start", style: Style = "", id: str = "", class_: str = ""
    ) -> Iterator[None]:
        """Boxes side by side: each `box()` in it is one of them."""
        css = f"display:flex;gap:{css_length(gap, 'gap')};align-items:{align};"
        with self._inside(self._add("div", attributes_of(css + css_of(style), id, class_))):
            yield

    @contextmanager
    def box(self, *, width: Length = "", style: Style = "", id: str = "", class_: str = "") -> Iterator[None]:
        """A box around parts; in a row, as wide as `width` says, or its share of what is left."""
        css = f"width:{css_length(width, 'width')};flex:none;" if width != "" else "flex:1 1 0;"
        with self._inside(self._add("div", attributes_of(css + css_of(style), id, class_))):
            yield

    # ---- pages ----

    def header(
        self, *, left: str = "", center: str = "", right: str = "", first: bool = False, style: Style = ""
    ) -> AbstractContextManager[None]:
        """What stands above every page: texts, or as a `with` block any parts.

        '{page}' and '{pages}' are the numbers, '{section_page}' and '{section_pages}' those within the
        section, '{title}' the last level 1 heading. Inside a section it is the section's. `first` is for
        the first page alone.
        """
        return self._margin_boxes("top", (left, center, right), first, style)

    def footer(
        self, *, left: str = "", center: str = "", right: str = "", first: bool = False, style: Style = ""
    ) -> AbstractContextManager[None]:
        """What stands below every page; see `header`."""
        return self._margin_boxes("bottom", (left, center, right), first, style)

    def _margin_boxes(
        self, edge: str, texts: tuple[str, str, str], first: bool, style: Style
    ) -> AbstractContextManager[None]:
        if not any(texts):
            return self._margin_parts(edge, first, style)
        pages = self._margin_pages(edge, first)
        for rule in margin_rules(edge, texts, css_of(style), pages):
            self._rule(rule)
        return nullcontext()

    @contextmanager
    def _margin_parts(self, edge: str, first: bool, style: Style) -> Iterator[None]:
        """A head or foot made of parts: a running element, which the margin box in the middle shows."""
        pages = self._margin_pages(edge, first)
        name = f"{self._page_name()}-{edge}"
        element = etree.Element("div", {"style": f"position:running({name});{css_of(style)}"})
        place = self._pages.element if self._pages.element is not None else self.document.body
        place.insert(0, element)
        self._rule(parts_rule(edge, name, pages))
        with self._inside(element):
            yield

    def _margin_pages(self, edge: str, first: bool) -> str:
        """The selector of the pages that a head or foot is for."""
        name = self._section_name()
        pages = f"{name}:nth(1 of {name})" if first and name else ":first" if first else name
        if (edge, pages) in self._heads:
            what = "header" if edge == "top" else "footer"
            message = f"A second {what} for the same pages replaces the first."
            self.document.notes.append(Note("page", message, Where(self.document.source)))
        self._heads.add((edge, pages))
        return pages

    @contextmanager
    def plate(
        self, page: PageSize = "A4", *, guides: bool = False, style: Style = "", id: str = "", class_: str = ""
    ) -> Iterator[Plate]:
        """A page drawn by coordinates from its top-left corner; `guides` draws a grid in millimetres."""
        yield from page_plate(self, as_page(page), guides, attributes_of(style, id, class_))

    def layer(
        self,
        *,
        under: Any = "",
        first: Any = "",
        above: bool = False,
        first_page_only: bool = False,
        page: PageSize = "",
        guides: bool = False,
    ) -> AbstractContextManager[Plate]:
        """Drawn below (or above) the flowing content of every page: a letterhead, a watermark, a stamp.

        As a `with` block it gives a plate to draw on, as large as the manuscript's pages, where `page` does not say
        otherwise. With `under` a finished page lies there, whether anything is drawn or not: the path of a PDF
        ('letterhead.pdf#page=2') or of a picture, or its bytes, as large as the page; `first` is for the first page.
        Inside a section it is the section's.
        """
        name = self._section_name() if under or first else ""
        start = f"{name}:nth(1 of {name})" if name else ":first"
        for source, pages in ((under, name), (first, start)):
            if source:
                self._rule(ground_rule(pages, picture_source(source)))
        return self._drawn_layer(above, first_page_only, as_page(page), guides)

    @contextmanager
    def _drawn_layer(self, above: bool, first_page_only: bool, page: str, guides: bool) -> Iterator[Plate]:
        yield from page_layer(self, above, first_page_only, page or self._pages.size or "A4", guides)

    # ---- forms ----

    def field(
        self,
        kind: str = "text",
        *,
        name: str,
        label: str = "",
        value: Any = "",
        choices: Sequence[str] = (),
        width: Length = "",
        height: Length = "",
        required: bool = False,
        style: Style = "",
        id: str = "",
        class_: str = "",
    ) -> None:
        """A field that whoever reads the file fills in, with its label before it.

        `kind` is 'text', 'area' (of several lines), 'number', 'date', 'email', 'password', 'checkbox', 'radio',
        'select', 'list' (of which several may be chosen) or 'signature'. `value` is what it holds: for a checkbox
        whether it is ticked, for a list a sequence. `choices` are those of 'radio', 'select' and 'list'.
        """
        element = self._add("p", {"class": "fq-field"})
        with self._undone_on_error(element):
            facts = attributes_of(picture_style(width, height, "") + css_of(style), id, class_)
            field_controls(element, FieldWish(kind, name, label, value, tuple(choices), required), facts)


def fit_style(fit: str) -> str:
    """The style of a table that is to fit its page."""
    if fit not in ("", "page"):
        raise OptionError(f"A table can fit its 'page', not {fit!r}.")
    return "-fq-fit:shrink;" if fit else ""


def _column_count(count: int) -> int:
    if count < 1:
        raise OptionError(f"There is at least one column, not {count}.")
    return count


def _mark(name: str, given: Any) -> dict[str, str]:
    """A target or band as attributes: its numbers, and its label where it has one."""
    if given is None:
        return {}
    parts = list(given) if isinstance(given, (tuple, list)) else [given]
    label = str(parts.pop()) if isinstance(parts[-1], str) else ""
    return {name: " ".join(str(float(part)) for part in parts), **({f"{name}-label": label} if label else {})}
