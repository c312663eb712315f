"""The structure of a PDF: what was drawn, as parts of the document, in the order of reading (ISO 32000-2 §14.7)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import chain
from typing import TYPE_CHECKING, Any, Final, NamedTuple

from fleetquill.drawing.places import NO_FACTS, Facts, HeldRow, LedgerRow, Place, RowModel, RowRun
from fleetquill.pdf.objects import Name, Ref, number, write

if TYPE_CHECKING:
    from fleetquill.drawing.paged import PageSize
    from fleetquill.output.pdf.file import PdfFile

NUMBERS_IN_A_NODE: Final = 256
NAMESPACE_2: Final = "http://iso.org/pdf2/ssn"  # of the structure types of PDF 2.0 (§14.8.6)
SPACE_2: Final = frozenset((
    *("Document", "Part", "Sect", "Div", "Aside", "P", "H1", "H2", "H3", "H4", "H5", "H6", "FENote", "Span", "Lbl"),
    *("Link", "Form", "L", "LI", "LBody", "Table", "TR", "TH", "TD", "THead", "TBody", "TFoot", "Caption", "Figure"),
    "Formula",
))  # fmt: skip
MODERN: Final = {"Note": "FENote"}  # types that have another name there
DRAWN: Final = frozenset(("Figure", "Formula", "Form"))  # types of what says where it stands
KEPT_WHEN_EMPTY: Final = frozenset(("TD", "TH", "TR"))


class Sheet:
    """What was marked in one content stream: the part that each marked sequence belongs to, by its number."""

    __slots__ = ("key", "page", "places", "size", "stream")

    def __init__(self, key: int, page: Ref) -> None:
        self.key = key
        self.page = page
        self.size: PageSize | None = None  # of the page, once that has gone out
        self.stream: Ref | None = None  # where it is not the page's own
        self.places: list[Place | int] = []  # a number is that of an object


class Marked(NamedTuple):
    """A marked sequence in a content stream."""

    sheet: Sheet
    number: int


class Linked(NamedTuple):
    """An annotation, and the page that it is on."""

    annotation: Ref
    page: Ref


class Written(NamedTuple):
    """A part that has gone out."""

    ref: Ref


class WrittenRows(NamedTuple):
    """Rows of a table that have gone out: the numbers of their objects."""

    numbers: range


class _RowPlan(NamedTuple):
    """How the parts of plain rows are written: of each cell what stands before its row's number in its part, and before
    its own in its mark; what begins the part of a row, and what names the page."""

    cells: list[tuple[str, str]]
    row: str
    page: str

    def full_rows(self, operators: list[str], first: int, mark: int) -> tuple[list[bytes], list[str]]:
        """The parts of rows that are full, and what shows them: a long form is filled in at once."""
        columns = len(self.cells)
        rows, count, width = len(operators) // columns, 1 + columns, 3 * columns
        numbers = [0] * (rows * width)
        for place in range(columns):
            numbers[place::width] = range(first + 1 + place, first + rows * count, count)
            numbers[columns + 2 * place :: width] = range(first, first + rows * count, count)
            numbers[columns + 2 * place + 1 :: width] = range(mark + place, mark + rows * columns, columns)
        parts = [f"{_plain(self.row)}{' '.join(['%d 0 R'] * columns)}]>>"]
        parts += [f"{_plain(head)}%d{self.page}%d>>" for head, _ in self.cells]
        form = "\n".join(parts) + "\n"
        written = (form * rows % tuple(numbers)).encode("latin-1").split(b"\n")[:-1]
        filled: list[int | str] = [0] * (2 * len(operators))
        filled[::2] = range(mark, mark + len(operators))
        filled[1::2] = operators
        line = " ".join([f"{begin}%d>>BDC BT %sET EMC" for _, begin in self.cells]) + "\n"
        return written, (line * rows % tuple(filled)).split("\n")[:-1]

    def any_rows(
        self, rows: Sequence[Sequence[str]], first: int, places: list[Place | int]
    ) -> tuple[list[bytes], list[str]]:
        """The same for rows with empty cells, one after another."""
        written: list[str] = []
        shown: list[str] = []
        number, mark, count = first, len(places), 1 + len(self.cells)
        for row in rows:
            around = f"{number}{self.page}"
            written.append(f"{self.row}{_refs(range(number + 1, number + count))}]>>")
            parts: list[str] = []
            for place, ((head, begin), operators) in enumerate(zip(self.cells, row, strict=True), number + 1):
                if operators:
                    written.append(f"{head}{around}{mark}>>")
                    parts.append(f"{begin}{mark}>>BDC BT {operators}ET EMC")
                    places.append(place)
                    mark += 1
                else:
                    written.append(f"{head}{number} 0 R>>")
            shown.append(" ".join(parts))
            number += count
        return [part.encode("latin-1") for part in written], shown


def _plain(text: str) -> str:
    """A text as it stands in a form that is filled in."""
    return text.replace("%", "%%")


class Tags:
    """The structure tree of one file, from a document's `root` part on."""

    def __init__(self, file: PdfFile, root: Place, *, modern: bool = False) -> None:
        self._file = file
        self._space = file.reserve() if modern else None
        self._root = root
        self._keys = 0
        self._numbers: list[tuple[int, Ref]] = []  # the parent tree: what each key leads to (§14.7.5.4)
        self._waiting: list[Sheet] = []
        self._tables: list[Place] = []
        self._sent: dict[Place, int] = {}  # how many of a growing table's parts have gone out
        self._led_to: set[Place] = set()
        self._names: list[tuple[bytes, Ref]] = []
        self.tree = file.reserve()

    # ---- while pages are drawn ----

    def sheet(self, page: Ref) -> Sheet:
        """A content stream that is begun."""
        self._keys += 1
        return Sheet(self._keys - 1, page)

    def mark(self, sheet: Sheet, place: Place) -> int:
        """The number of a marked sequence that belongs to a part."""
        if place.ref is None:
            place.ref = self._file.reserve()
        if not place.joined:
            place.join()
        number = len(sheet.places)
        place.kids.append(Marked(sheet, number))
        sheet.places.append(place)
        return number

    def link(self, place: Place, annotation: Ref, page: Ref) -> int:
        """The key of an annotation that belongs to a part."""
        if place.ref is None:
            place.ref = self._file.reserve()
        place.join()
        place.kids.append(Linked(annotation, page))
        self._keys += 1
        self._numbers.append((self._keys - 1, place.ref))
        return self._keys - 1

    def destination(self, place: Place) -> list[Any]:
        """A part as the place that something leads to (§12.3.2.3)."""
        place.join()
        self._led_to.add(place)
        return [self._place_ref(place), Name("XYZ"), None, None, None]

    def rows(self, sheet: Sheet, model: RowModel, rows: Sequence[Sequence[str]]) -> list[str]:
        """Writes the parts of plain rows. `rows` are the operators that show the cells of each, '' where nothing is in
        one; gives the operators of each row, with every cell in a marked sequence of its own."""
        if isinstance(model, HeldRow):
            body = model.run.body
            body.join()
            numbers, shown = self._rows(sheet, model, self._place_ref(body), rows)
            model.run.kids.append(WrittenRows(numbers))
            return shown
        assert isinstance(model, LedgerRow)
        table = model.table
        table.join()
        if table not in self._tables:
            self._tables.append(table)
        own = self._file.reserve()
        table.kids.append(Written(own))
        numbers, shown = self._rows(sheet, model, own, rows)
        above = self._place_ref(table).number
        self._file.add_written(own, f"<<{self._type('TBody')}/P {above} 0 R/K[{_refs(numbers)}]>>")
        return shown

    def _rows(self, sheet: Sheet, model: RowModel, body: Ref, rows: Sequence[Sequence[str]]) -> tuple[range, list[str]]:
        """Writes the parts of rows in a body; gives their numbers, and the operators of each."""
        file = self._file
        cells = [
            (f"<<{self._type(role)}{_attributes(facts, None)}/P ", f"/{role}<</MCID ") for role, facts in model.cells
        ]
        count = 1 + len(cells)
        first = file.reserve_row(len(rows) * count)
        plan = _RowPlan(cells, f"<<{self._type('TR')}/P {body.number} 0 R/K[", f" 0 R/Pg {sheet.page.number} 0 R/K ")
        operators = [own for row in rows for own in row]
        if all(operators):
            written, shown = plan.full_rows(operators, first, len(sheet.places))
            numbers = list(range(first, first + len(rows) * count))
            del numbers[::count]
            sheet.places += numbers
        else:
            written, shown = plan.any_rows(rows, first, sheet.places)
        file.add_row(first, written)
        return range(first, first + len(rows) * count, count), shown

    def end_page(self, sheets: Sequence[Sheet], size: PageSize) -> None:
        """A page has gone out, with what was marked in its content streams."""
        for sheet in sheets:
            sheet.size = size
        self._waiting += sheets
        grown = [table for table in self._tables if table.grows]
        for table in grown:
            self._send_bodies(table)
        if grown:
            self._send_sheets()

    def _send_bodies(self, table: Place) -> None:
        """Bodies of a ledger that are whole go out: its memory does not grow with its rows."""
        kids = table.kids
        for index in range(self._sent.get(table, 0), len(kids)):
            kid = kids[index]
            if isinstance(kid, Place) and kid.role == "TBody" and kid.kids:
                kids[index] = Written(self._send(kid))
        self._sent[table] = len(kids)

    def _send_sheets(self) -> None:
        for sheet in self._waiting:
            if sheet.places:
                refs = [place if isinstance(place, int) else place.ref.number for place in sheet.places]
                self._numbers.append((sheet.key, self._file.add_text(f"[{_refs(refs)}]")))
        self._waiting = []

    # ---- the tree ----

    def finish(self) -> None:
        """Writes all that is left of the tree."""
        file, root = self._file, self._root
        self._send_sheets()
        top = self._send(root)
        self._numbers.sort()
        nodes: list[Ref] = []
        for start in range(0, len(self._numbers), NUMBERS_IN_A_NODE):
            rows = self._numbers[start : start + NUMBERS_IN_A_NODE]
            entries = " ".join(f"{key} {ref.number} 0 R" for key, ref in rows)
            nodes.append(file.add_text(f"<</Limits[{rows[0][0]} {rows[-1][0]}]/Nums[{entries}]>>"))
        parents = file.add({"Kids": nodes} if nodes else {"Nums": []})
        names = sorted(self._names)
        tree: dict[str, Any] = {
            "Type": Name("StructTreeRoot"),
            "K": top,
            "ParentTree": parents,
            "ParentTreeNextKey": self._keys,
        }
        if self._space is not None:
            tree["Namespaces"] = [file.add({"Type": Name("Namespace"), "NS": NAMESPACE_2}, self._space)]
        if names:
            flat: list[Any] = []
            for name, ref in names:
                flat += [name, ref]
            tree["IDTree"] = {"Names": flat}
        file.add(tree, self.tree)

    def _send(self, place: Place) -> Ref:
        """Writes a part and all that is in it."""
        self._prune(place)
        self._place_ref(place)
        waiting, file = [place], self._file
        while waiting:
            part = waiting.pop()
            file.add_written(part.ref, self._written(part))
            if part.facts.name:
                self._names.append((part.facts.name.encode("utf-8"), part.ref))
            waiting += [kid for kid in reversed(part.kids) if isinstance(kid, Place)]
            part.kids = []  # it has gone out
        return place.ref  # type: ignore[no-any-return]

    def _prune(self, place: Place) -> bool:
        """Takes parts away in which nothing was drawn, and to which nothing leads; whether this one stays."""
        kids = place.kids
        if len(kids) == 1 and kids[0].__class__ is Marked:  # as most are
            return True
        if any(isinstance(kid, RowRun) for kid in kids):
            runs = [kid.kids if isinstance(kid, RowRun) else [kid] for kid in kids]
            place.kids = kids = [*chain.from_iterable(runs)]
        if any(isinstance(kid, Place) for kid in kids):
            place.kids = kids = [kid for kid in kids if not isinstance(kid, Place) or self._stays(kid)]
        if place in self._led_to:
            return True
        if place.role in ("Table", "THead", "TBody", "TFoot"):
            return any(not isinstance(kid, Place) or _is_filled(kid) for kid in kids)
        return bool(kids) or place.role in KEPT_WHEN_EMPTY

    def _stays(self, place: Place) -> bool:
        """Whether a part stays; one that goes lets go of all that is in it, which would hold it in turn."""
        if self._prune(place):
            return True
        going = [place]
        while going:
            part = going.pop()
            going += [kid for kid in part.kids if isinstance(kid, Place)]
            part.kids = []
        return False

    def _place_ref(self, place: Place) -> Ref:
        if place.ref is None:
            place.ref = self._file.reserve()
        return place.ref  # type: ignore[no-any-return]

    def _written(self, place: Place) -> str:
        """The dictionary of a structure element (§14.7.2, table 355)."""
        above = self.tree if place.parent is None else self._place_ref(place.parent)
        if len(place.kids) == 1 and place.facts is NO_FACTS and place.area is None and place.role not in DRAWN:
            kid = place.kids[0]
            if isinstance(kid, Marked) and kid.sheet.stream is None:  # as most parts are
                on = kid.sheet.page.number
                return f"<<{self._type(place.role)}/P {above.number} 0 R/Pg {on} 0 R/K {kid.number}>>"
        kids = place.kids if place.role != "Table" else _feet_last(place.kids)
        page = next((kid.sheet.page for kid in kids if isinstance(kid, Marked) and kid.sheet.stream is None), None)
        shown = [self._kid(kid, page) for kid in kids]
        parts = [f"<<{self._type(place.role)}/P {above.number} 0 R"]
        if page is not None:
            parts.append(f"/Pg {page.number} 0 R")
        if place.facts is not NO_FACTS or place.area is not None or place.role in DRAWN:
            parts.append(_attributes(place.facts, self._box(place)))
        if len(shown) == 1 and not isinstance(kids[0], WrittenRows):
            content = shown[0]
            parts.append(f"/K{content}" if content[0] == "<" else f"/K {content}")
        elif shown:
            parts.append(f"/K[{' '.join(shown)}]")
        parts.append(">>")
        return "".join(parts)

    def _type(self, role: str) -> str:
        """A structure type, with its namespace where there are several."""
        if self._space is None:
            return f"/S/{role}"
        role = MODERN.get(role, role)
        return f"/S/{role}/NS {self._space.number} 0 R" if role in SPACE_2 else f"/S/{role}"

    def _kid(self, kid: Place | Marked | Linked | Written | WrittenRows, page: Ref | None) -> str:
        if isinstance(kid, Place):
            return f"{self._place_ref(kid).number} 0 R"
        if isinstance(kid, WrittenRows):
            return _refs(kid.numbers)
        if isinstance(kid, Written):
            return f"{kid.ref.number} 0 R"
        if isinstance(kid, Linked):
            return f"<</Type/OBJR/Obj {kid.annotation.number} 0 R/Pg {kid.page.number} 0 R>>"
        sheet = kid.sheet
        if sheet.page == page and sheet.stream is None:
            return str(kid.number)
        stream = "" if sheet.stream is None else f"/Stm {sheet.stream.number} 0 R"
        return f"<</Type/MCR/Pg {sheet.page.number} 0 R{stream}/MCID {kid.number}>>"

    def _box(self, place: Place) -> str | None:
        """The rectangle of what is drawn as one thing, on its page."""
        first = next((kid for kid in place.kids if isinstance(kid, Marked)), None)
        if place.area is None or first is None:
            return None
        size = first.sheet.size
        assert size is not None  # the page has gone out
        x, y, width, height = place.area
        unit = size.points
        sides = (x * unit, (size.height - y - height) * unit, (x + width) * unit, (size.height - y) * unit)
        return " ".join(map(number, sides))


def _refs(numbers: Iterable[int]) -> str:
    given = tuple(numbers)
    return ("%d 0 R " * len(given) % given).rstrip()


def _feet_last(kids: list[Any]) -> list[Any]:
    """A table's parts: rows of its foot come after those of its bodies (ISO 32000-2 §14.8.4.8.3)."""
    feet = [kid for kid in kids if isinstance(kid, Place) and kid.role == "TFoot"]
    return [kid for kid in kids if kid not in feet] + feet if feet else kids


def _is_filled(place: Place) -> bool:
    """Whether anything was drawn in a part."""
    return any(not isinstance(kid, Place) or _is_filled(kid) for kid in place.kids)


def _attributes(facts: Facts, box: str | None) -> str:
    """What is said of a part (§14.8.5 and §14.9)."""
    parts: list[str] = []
    owned: list[str] = []
    if box is not None:
        owned.append(f"<</O/Layout/BBox[{box}]>>")
    table = ""
    if facts.scope:
        table += f"/Scope/{facts.scope}"
    if facts.columns > 1:
        table += f"/ColSpan {facts.columns}"
    if facts.rows > 1:
        table += f"/RowSpan {facts.rows}"
    if facts.heads:
        table += f"/Headers[{''.join(_text(head.encode('utf-8')) for head in facts.heads)}]"
    if table:
        owned.append(f"<</O/Table{table}>>")
    if facts.numbering:
        owned.append(f"<</O/List/ListNumbering/{facts.numbering}>>")
    if facts.control:
        checked = f"/Checked/{facts.checked}" if facts.checked else ""
        owned.append(f"<</O/PrintField/Role/{facts.control}{checked}>>")
    if owned:
        parts.append(f"/A{owned[0]}" if len(owned) == 1 else f"/A[{''.join(owned)}]")
    for key, said in (
        ("Alt", facts.alternative),
        ("ActualText", facts.text),
        ("E", facts.expansion),
        ("Lang", facts.language),
    ):
        if said:
            parts.append(f"/{key}{_text(said)}")
    if facts.name:
        parts.append(f"/ID{_text(facts.name.encode('utf-8'))}")
    return "".join(parts)


def _text(said: str | bytes) -> str:
    return write(said).decode("latin-1")
