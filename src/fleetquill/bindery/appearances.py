"""What shows a field once it is filled in: its ground and border, and its value set in the font that it names
(ISO 32000-2 §12.7.4.3)."""

from __future__ import annotations

import html
import io
from collections.abc import Sequence
from typing import Any, Final, NamedTuple

from fleetquill.authoring.manuscript import Manuscript
from fleetquill.bindery.fields import COMB, MULTILINE, PASSWORD, FieldNode, options_of
from fleetquill.bindery.lettering import ASCENT, DESCENT, Lettering
from fleetquill.bindery.updating import Update
from fleetquill.pdf.copying import Copier, Shared, form_of_page
from fleetquill.pdf.objects import Name, Ref, number, write_string
from fleetquill.pdf.reading import PdfReader
from fleetquill.pdf.syntax import DAMAGE, Parser
from fleetquill.press import Press

INSET: Final = 2.0  # points from the edge of a field to its text
LARGEST: Final = 12.0  # points of a size that is to fit
SMALLEST: Final = 4.0
LEADING: Final = 1.15  # ems from line to line
SELECTED: Final = "0.81 0.87 0.86 rg"  # the ground of a row that is chosen
COLORS: Final = {1: "g", 3: "rg", 4: "k"}  # operators, by how many numbers a colour has
FAMILIES: Final = (("Courier", "monospace"), ("Mono", "monospace"), ("Times", "serif"), ("Serif", "serif"))


class Setting(NamedTuple):
    """How a field's text is set: the name of the font and its size, 0 where that is to fit, and its colour as
    operators."""

    font: str
    size: float
    color: str


def setting_of(appearance: bytes) -> Setting:
    """What the operators of a default appearance set."""
    font, size, color = "", 0.0, "0 g"
    try:
        for name, operands in Parser(appearance).operators():
            if name == "Tf" and len(operands) > 1:
                font, size = str(operands[0]), abs(float(operands[1]))
            elif name in COLORS.values():
                color = f"{' '.join(number(one, 4) for one in operands)} {name}"
    except DAMAGE:
        pass
    return Setting(font, size, color)


class Appearances:
    """Makes what shows fields of one file."""

    def __init__(self, update: Update, form: dict[str, Any], press: Press) -> None:
        self._update = update
        self._reader: PdfReader = update.reader
        self._press = press
        self._usual = self._reader.resolve(form.get("DA"))
        self._fonts = self._reader.dictionary(self._reader.dictionary(form.get("DR")).get("Font"))
        self._faces: dict[str, tuple[Any, Lettering] | None] = {}

    def of_text(self, node: FieldNode, widget: dict[str, Any], value: str) -> Ref:
        """A field with one text, in one line or several."""
        reader, flags = self._reader, node.flags
        wide, high = _size(widget, reader)
        setting = self._setting(node, widget)
        if flags & PASSWORD:
            value = "*" * len(value)
        lines = value.replace("\r\n", "\n").replace("\r", "\n").split("\n")
        multiline = node.kind == "text" and bool(flags & MULTILINE)
        if not multiline:
            lines = [" ".join(lines)]
        cells = node.entries.get("MaxLen") if flags & COMB and not multiline else None
        align = node.entries.get("Q", 0)
        inner = wide - 2 * INSET
        face = self._face(setting.font, widget)
        codes = face[1].code_of() if face is not None else {}
        if face is None or not all(letter in codes for line in lines for letter in line):
            return self._composed(widget, setting, lines, align, multiline=multiline, cells=cells)
        fitted = _Fitted(face[1], codes)
        size = setting.size or fitted.size(lines, inner, high, multiline=multiline)
        if multiline:
            rows = [row for line in lines for row in fitted.wrapped(line, inner, size)]
            top = high - INSET - face[1].ascent * size
        else:
            rows, top = lines, (high - (face[1].ascent - face[1].descent) * size) / 2
        if isinstance(cells, int) and cells > 0:
            shown = fitted.in_cells(rows[0], wide / cells, size, top)
        else:
            shown = fitted.rows(rows, inner, size, top, align if isinstance(align, int) else 0)
        text = f"/{setting.font} {number(size)} Tf {setting.color}\n{shown}"
        return self._form(widget, text, {"Font": {setting.font: face[0]}})

    def of_list(self, node: FieldNode, widget: dict[str, Any], chosen: Sequence[str]) -> Ref:
        """A list with the rows that are chosen."""
        reader = self._reader
        wide, high = _size(widget, reader)
        setting = self._setting(node, widget)
        size = setting.size or LARGEST
        face = self._face(setting.font, widget)
        options = options_of(node, reader)
        first = node.entries.get("TI")
        options = options[first if isinstance(first, int) and 0 <= first < len(options) else 0 :]
        codes = face[1].code_of() if face is not None else {}
        if face is None or not all(letter in codes for _, shown in options for letter in shown):
            rows = [shown for _, shown in options]
            return self._composed(widget, setting, rows, 0, multiline=True, cells=None)
        fitted = _Fitted(face[1], codes)
        grounds: list[str] = []
        top = high - INSET
        for at, (value, _) in enumerate(options):
            if value in chosen:
                y = top - (at + 1) * LEADING * size
                grounds.append(f"{SELECTED} 1 {number(y)} {number(wide - 2)} {number(LEADING * size)} re f")
        rows = [shown for _, shown in options]
        shown = fitted.rows(rows, wide - 2 * INSET, size, top - face[1].ascent * size, 0)
        ground = "\n".join(grounds)
        text = f"/{setting.font} {number(size)} Tf {setting.color}\n{shown}"
        return self._form(widget, text, {"Font": {setting.font: face[0]}}, ground)

    # ---- what it is made of ----

    def _setting(self, node: FieldNode, widget: dict[str, Any]) -> Setting:
        given = self._reader.resolve(widget.get("DA", node.entries.get("DA", self._usual)))
        return setting_of(given if isinstance(given, bytes) else b"")

    def _face(self, name: str, widget: dict[str, Any]) -> tuple[Any, Lettering] | None:
        """A font by its name, among those of the form or of what shows the field now."""
        if name not in self._faces:
            ref = self._fonts.get(name)
            if ref is None:
                shown = self._reader.dictionary(self._reader.dictionary(widget.get("AP")).get("N"))
                own = self._reader.dictionary(self._reader.dictionary(shown.get("Resources")).get("Font"))
                ref = own.get(name)
            entries = self._reader.dictionary(ref)
            self._faces[name] = (ref, Lettering(entries, self._reader)) if entries else None
        return self._faces[name]

    def _form(self, widget: dict[str, Any], text: str, resources: dict[str, Any], ground: str = "") -> Ref:
        """The form that shows a field, its text cut off at its edge."""
        wide, high = _size(widget, self._reader)
        frame = _frame(widget, self._reader, wide, high)
        clip = f"1 1 {number(max(0.0, wide - 2))} {number(max(0.0, high - 2))} re W n"
        content = f"{frame}/Tx BMC\nq {clip}\n{ground}\nBT\n{text}\nET\nQ EMC"
        return self._update.add_stream(
            content.encode("latin-1", "replace"),
            {"Type": Name("XObject"), "Subtype": Name("Form"), "BBox": [0, 0, wide, high], "Resources": resources},
        )

    def _composed(
        self, widget: dict[str, Any], setting: Setting, lines: Sequence[str], align: Any, *, multiline: bool, cells: Any
    ) -> Ref:
        """The same with letters that the font lacks: set by the press in faces that have them."""
        wide, high = _size(widget, self._reader)
        size = setting.size or (LARGEST if multiline else min(LARGEST, high * 0.66))
        family = next((own for part, own in FAMILIES if part in self._name_of(setting.font)), "sans-serif")
        where = {1: "center", 2: "right"}.get(align, "left")
        rows = "<br>".join(html.escape(line) or "&nbsp;" for line in lines)
        if isinstance(cells, int) and cells > 0:
            letters = "".join(f"<i>{html.escape(letter)}</i>" for letter in "".join(lines)[:cells])
            rows = f"<style>i {{ display: inline-block; width: {wide / cells:.3f}pt; text-align: center;"
            rows += f" font-style: normal }} div {{ padding: 0 !important }}</style>{letters}"
        middle = "display: flex; flex-direction: column; justify-content: center; white-space: nowrap;"
        source = (
            f"<style>@page {{ size: {wide:.3f}pt {high:.3f}pt; margin: 0 }} body {{ margin: 0 }} div {{"
            f" height: {high:.3f}pt; box-sizing: border-box; padding: {'2pt' if multiline else '0 2pt'};"
            f" {'' if multiline else middle} font: {size:.3f}pt/{LEADING} {family}; text-align: {where};"
            f" overflow: hidden; color: {_css_color(setting.color)} }}</style><div><span>{rows}</span></div>"
        )
        stream = io.BytesIO()
        edition = self._press.compose(Manuscript.from_html(source, source="a field"), tagged=False)
        edition.write_to(stream)
        shown = PdfReader(stream.getvalue())
        copier = Copier(shown, self._update, Shared())
        copier.places |= {page.ref.number: None for page in shown.pages() if page.ref is not None}
        form = form_of_page(next(shown.pages()), copier, self._update)
        content = f"{_frame(widget, self._reader, wide, high)}/Tx BMC\nq /Text Do Q\nEMC"
        return self._update.add_stream(
            content.encode("ascii"),
            {
                "Type": Name("XObject"),
                "Subtype": Name("Form"),
                "BBox": [0, 0, wide, high],
                "Resources": {"XObject": {"Text": form}},
            },
        )

    def _name_of(self, font: str) -> str:
        entries = self._reader.dictionary(self._fonts.get(font))
        return str(entries.get("BaseFont", font))


class _Fitted:
    """Text in a font whose codes have one byte."""

    def __init__(self, face: Lettering, codes: dict[str, int]) -> None:
        self._face = face
        self._codes = codes

    def _bytes(self, text: str) -> bytes:
        return bytes(self._codes[letter] for letter in text)

    def width(self, text: str, size: float) -> float:
        return sum(letter.width for letter in self._face.letters(self._bytes(text))) * self._face.scale * size

    def size(self, lines: Sequence[str], wide: float, high: float, *, multiline: bool) -> float:
        """The largest size at which the text fits."""
        size = LARGEST if multiline else min(LARGEST, high / (ASCENT + DESCENT) * 0.8)
        while size > SMALLEST:
            if multiline:
                rows = sum(len(self.wrapped(line, wide, size)) for line in lines)
                if rows * LEADING * size <= high - 2 * INSET:
                    break
            elif self.width(lines[0], size) <= wide:
                break
            size -= 0.5
        return max(SMALLEST, size)

    def wrapped(self, line: str, wide: float, size: float) -> list[str]:
        """A line as those that it is broken into."""
        rows: list[str] = []
        row = ""
        for word in line.split(" "):
            longer = f"{row} {word}" if row else word
            if row and self.width(longer, size) > wide:
                rows.append(row)
                row = word
            else:
                row = longer
        return [*rows, row]

    def rows(self, rows: Sequence[str], wide: float, size: float, top: float, align: int) -> str:
        """The operators that show rows, the first on its baseline."""
        parts: list[str] = []
        x = y = 0.0
        for at, row in enumerate(rows):
            spare = wide - self.width(row, size)
            to_x = INSET + (spare / 2 if align == 1 else spare if align == 2 else 0.0)
            to_y = top - at * LEADING * size
            shown = write_string(self._bytes(row)).decode("latin-1")
            parts.append(f"{number(to_x - x)} {number(to_y - y)} Td {shown} Tj")
            x, y = to_x, to_y
        return "\n".join(parts)

    def in_cells(self, text: str, cell: float, size: float, top: float) -> str:
        """The operators that show letters in the middle of places of their own."""
        parts: list[str] = []
        x = y = 0.0
        for at, letter in enumerate(text):
            to_x = at * cell + (cell - self.width(letter, size)) / 2
            shown = write_string(self._bytes(letter)).decode("latin-1")
            parts.append(f"{number(to_x - x)} {number(top - y)} Td {shown} Tj")
            x, y = to_x, top
        return "\n".join(parts)


def _size(widget: dict[str, Any], reader: PdfReader) -> tuple[float, float]:
    """Width and height of a widget, as its text runs."""
    sides = [reader.resolve(side) for side in reader.array(widget.get("Rect"))]
    if len(sides) < 4 or not all(isinstance(side, (int, float)) for side in sides):
        return 0.0, 0.0
    return abs(sides[2] - sides[0]), abs(sides[3] - sides[1])


def _frame(widget: dict[str, Any], reader: PdfReader, wide: float, high: float) -> str:
    """The ground and the border that a widget asks for (table 192)."""
    look = reader.dictionary(widget.get("MK"))
    parts: list[str] = []
    ground = _color(reader.array(look.get("BG")), reader)
    if ground:
        parts.append(f"{ground} 0 0 {number(wide)} {number(high)} re f")
    border = _color(reader.array(look.get("BC")), reader)
    width = reader.resolve(reader.dictionary(widget.get("BS")).get("W"))
    width = float(width) if isinstance(width, (int, float)) else 1.0
    if border and width:
        half = width / 2
        sides = f"{number(half)} {number(half)} {number(wide - width)} {number(high - width)}"
        parts.append(f"{border.upper() if border[-1] != 'g' else border[:-1] + 'G'} {number(width)} w {sides} re S")
    return f"q {' '.join(parts)} Q\n" if parts else ""


def _color(numbers: Sequence[Any], reader: PdfReader) -> str:
    found = [reader.resolve(one) for one in numbers]
    if len(found) not in COLORS or not all(isinstance(one, (int, float)) for one in found):
        return ""
    return f"{' '.join(number(one, 4) for one in found)} {COLORS[len(found)]}"


def _css_color(operators: str) -> str:
    *numbers, name = operators.split()
    shares = [float(one) for one in numbers]
    if name == "g":
        shares *= 3
    elif name == "k":
        cyan, magenta, yellow, black = shares
        shares = [(1 - ink) * (1 - black) for ink in (cyan, magenta, yellow)]
    return f"rgb({', '.join(f'{round(share * 255)}' for share in shares[:3])})"
