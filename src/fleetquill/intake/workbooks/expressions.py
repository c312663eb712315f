"""Formulas of conditional formats, worked out at each cell (ISO/IEC 29500-1 §18.17)."""

from __future__ import annotations

import operator
import re
from collections.abc import Callable, Sequence
from datetime import date
from typing import Any, Final, NamedTuple

from openpyxl.formula import Tokenizer
from openpyxl.formula.tokenizer import Token, TokenizerError

from fleetquill.deadline import heed
from fleetquill.intake.workbooks.area import Area, column_number
from fleetquill.intake.workbooks.functions import FUNCTIONS, Cells, Fault, Plain, Value, key_of, number, single, text
from fleetquill.intake.workbooks.number_formats import serial

REFERENCE: Final = re.compile(r"(\$?)([A-Z]{1,3})(\$?)(\d{1,7})(?::(\$?)([A-Z]{1,3})(\$?)(\d{1,7}))?", re.IGNORECASE)
BANDS: Final = re.compile(r"(\$?)([A-Z]{1,3}):(\$?)([A-Z]{1,3})|(\$?)(\d{1,7}):(\$?)(\d{1,7})", re.IGNORECASE)
STRENGTHS: Final = {"=": 1, "<>": 1, "<": 1, ">": 1, "<=": 1, ">=": 1, "&": 2, "+": 3, "-": 3, "*": 4, "/": 4, "^": 5}
ORDERS: Final[dict[str, Callable[[Any, Any], bool]]] = {
    "=": operator.eq, "<>": operator.ne, "<": operator.lt, ">": operator.gt, "<=": operator.le, ">=": operator.ge,
}  # fmt: skip
SUMS: Final[dict[str, Callable[[float, float], float]]] = {
    "+": operator.add, "-": operator.sub, "*": operator.mul, "/": operator.truediv, "^": operator.pow,
}  # fmt: skip
DEEPEST: Final = 60  # of parts within parts
MOST_TOKENS: Final = 400
MOST_KEPT: Final = 2_000_000  # values of areas

Place = tuple[int, int]
Part = Callable[["Scope"], Value]  # a part of a formula, worked out at a cell


class Unknown(Exception):
    """A formula has something in it that is not worked out here; says what."""


class Scope(NamedTuple):
    """At which cell a formula is worked out, and how far that is from the one it was written for."""

    row: int
    column: int
    down: int
    right: int


class Book:
    """The values of a workbook's cells, and the day that counts as today."""

    def __init__(self, sheet: Any, today: date) -> None:
        self._own = sheet
        self.today = serial(today)
        self._areas: dict[tuple[str, Area], Cells] = {}
        self._kept = 0
        self.known: dict[tuple[Any, ...], Value] = {}  # what functions of whole areas gave

    def names(self, sheet: str) -> bool:
        return sheet in self._own.parent.sheetnames

    def value(self, sheet: str, row: int, column: int) -> Value:
        cell = self._sheet(sheet)._cells.get((row, column))
        return as_value(cell.value) if cell is not None else None

    def area(self, sheet: str, area: Area) -> Cells:
        """The values of an area, row by row, as far as there are cells."""
        found = self._areas.get((sheet, area))
        if found is None:
            cells = self._sheet(sheet)._cells
            bottom = min(area.bottom, self._sheet(sheet).max_row)
            right = min(area.right, self._sheet(sheet).max_column)
            heed()
            values = [
                as_value(cells[row, column].value) if (row, column) in cells else None
                for row in range(area.top, bottom + 1)
                for column in range(area.left, right + 1)
            ]
            self._kept += len(values)
            if self._kept > MOST_KEPT:  # areas that grow with each row are not all kept
                self._kept = len(values)
                self._areas.clear()
                self.known.clear()
            found = self._areas[sheet, area] = Cells(area, values)
        return found

    def _sheet(self, name: str) -> Any:
        return self._own.parent[name] if name else self._own


class Expression:
    """A formula that was written for one cell and holds for others relative to it."""

    def __init__(self, formula: str, origin: Place, book: Book) -> None:
        self._origin = origin
        self._part = _Reader(formula, book).part()

    def __call__(self, place: Place) -> Plain:
        """What it gives at a cell; raises Fault where that is an error."""
        heed()
        return single(self._part(Scope(*place, place[0] - self._origin[0], place[1] - self._origin[1])))

    def holds(self, place: Place) -> bool:
        """Whether it is true at a cell, or a number other than nought."""
        try:
            found = self(place)
            return bool(number(found)) if not isinstance(found, str) else found.upper() == "TRUE"
        except Fault:
            return False


class _Reader:
    """Makes parts of the tokens of a formula."""

    def __init__(self, formula: str, book: Book) -> None:
        try:
            items = Tokenizer(f"={formula.removeprefix('=')}").items
        except (TokenizerError, IndexError) as error:
            raise Unknown("a formula that cannot be read") from error
        self._tokens = [token for token in items if token.type != Token.WSPACE]
        if len(self._tokens) > MOST_TOKENS:
            raise Unknown("a formula of very many parts")
        self._at = 0
        self._deep = 0
        self._book = book

    def part(self) -> Part:
        part = self._strong(0)
        if self._at < len(self._tokens):
            raise Unknown(f"'{self._tokens[self._at].value}'")
        return part

    def _next(self) -> Token | None:
        return self._tokens[self._at] if self._at < len(self._tokens) else None

    def _strong(self, least: int) -> Part:
        """What stands between operators that bind less than `least`."""
        self._deep += 1
        if self._deep > DEEPEST:
            raise Unknown("a formula of very many parts")
        left = self._signed()
        while (token := self._next()) is not None and token.type == Token.OP_IN:
            strength = STRENGTHS.get(token.value, 0)
            if not strength:
                raise Unknown(f"the operator '{token.value}'")
            if strength <= least:
                break
            self._at += 1
            left = _joined(token.value, left, self._strong(strength))
        self._deep -= 1
        return left

    def _signed(self) -> Part:
        signs = 1
        while (token := self._next()) is not None and token.type == Token.OP_PRE:
            signs = -signs if token.value == "-" else signs
            self._at += 1
        inner = self._single()
        while (token := self._next()) is not None and token.type == Token.OP_POST:
            self._at += 1
            inner = _hundredth(inner)
        return inner if signs > 0 else _negative(inner)

    def _single(self) -> Part:
        token = self._next()
        if token is None:
            raise Unknown("a formula that ends too early")
        self._at += 1
        if token.type == Token.PAREN and token.subtype == Token.OPEN:
            inner = self._strong(0)
            self._close()
            return inner
        if token.type == Token.FUNC:
            return self._function(token.value.rstrip("(").upper().removeprefix("_XLFN."))
        if token.type == Token.OPERAND:
            return self._operand(token)
        raise Unknown(f"'{token.value}'")

    def _close(self) -> None:
        token = self._next()
        if token is None or token.subtype != Token.CLOSE:
            raise Unknown("a bracket that is not closed")
        self._at += 1

    def _function(self, name: str) -> Part:
        if name in ("ROW", "COLUMN"):
            return self._position(name)
        given: list[Part] = []
        expects = False
        while (token := self._next()) is not None and token.subtype != Token.CLOSE:
            if token.type == Token.SEP:
                self._at += 1
                if expects or not given:
                    given.append(_nothing)
                expects = True
                continue
            given.append(self._strong(0))
            expects = False
        if expects:
            given.append(_nothing)
        self._close()
        return self._called(name, given)

    def _position(self, name: str) -> Part:
        """The number of a row or column: the cell's own, or of that which a reference leads to."""
        place: Callable[[Scope], Place] = lambda scope: (scope.row, scope.column)  # noqa: E731
        token = self._next()
        if token is not None and token.subtype == Token.RANGE:
            found = REFERENCE.fullmatch(token.value)
            if found is None:
                raise Unknown(f"'{token.value}'")
            place = _cell(*found.groups()[:4])
            self._at += 1
        self._close()
        return lambda scope: float(place(scope)[name == "COLUMN"])

    def _called(self, name: str, given: Sequence[Part]) -> Part:
        book = self._book
        if name in ("TODAY", "NOW"):
            return lambda _: book.today
        if name == "IF" and 2 <= len(given) <= 3:
            otherwise: Part = given[2] if len(given) > 2 else lambda _: False
            return lambda scope: (given[1] if number(single(given[0](scope))) else otherwise)(scope)
        if name in ("IFERROR", "ISERROR", "ISERR", "ISNA") and given:
            return _guarded(name, given)
        function = FUNCTIONS.get(name)
        if function is None:
            raise Unknown(f"the function '{name}'")

        def call(scope: Scope) -> Value:
            values = [part(scope) for part in given]
            if not any(isinstance(value, Cells) for value in values):
                return function(values)
            key = (name, *values)
            if key not in book.known:
                heed()
                book.known[key] = function(values)
            return book.known[key]

        return call

    def _operand(self, token: Token) -> Part:
        value: Value
        if token.subtype == Token.NUMBER:
            value = float(token.value)
            return lambda _: value
        if token.subtype == Token.TEXT:
            value = token.value[1:-1].replace('""', '"')
            return lambda _: value
        if token.subtype == Token.LOGICAL:
            value = token.value.upper() == "TRUE"
            return lambda _: value
        if token.subtype == Token.RANGE:
            return self._reference(token.value)
        raise Unknown(f"'{token.value}'")

    def _reference(self, said: str) -> Part:
        sheet, _, cells = said.rpartition("!")
        sheet = sheet.strip("'").replace("''", "'")
        book = self._book
        if sheet and not book.names(sheet):
            raise Unknown(f"the sheet '{sheet}'")
        found = REFERENCE.fullmatch(cells)
        bands = BANDS.fullmatch(cells) if found is None else None
        if bands is not None:
            area = _band(*bands.groups())
            return lambda scope: book.area(sheet, area(scope))
        if found is None:
            raise Unknown(f"'{said}'")
        first = _cell(*found.groups()[:4])
        if found[6] is None:
            return lambda scope: book.value(sheet, *first(scope))
        last = _cell(*found.groups()[4:])
        return lambda scope: book.area(sheet, _spanned(first(scope), last(scope)))


# ---- where references lead ----


def _cell(fixed_column: str | None, letters: str, fixed_row: str | None, digits: str) -> Callable[[Scope], Place]:
    column, row = column_number(letters.upper()), int(digits)

    def place(scope: Scope) -> Place:
        return row + (0 if fixed_row else scope.down), column + (0 if fixed_column else scope.right)

    return place


def _band(
    fixed: str | None, left: str | None, end_fixed: str | None, right: str | None,
    fixed_row: str | None, top: str | None, end_fixed_row: str | None, bottom: str | None,
) -> Callable[[Scope], Area]:  # fmt: skip
    """Whole columns or whole rows."""
    if left is not None and right is not None:
        first, last = _cell(fixed, left, "$", "1"), _cell(end_fixed, right, "$", "1048576")
    else:
        first = _cell("$", "A", fixed_row, top or "1")
        last = _cell("$", "XFD", end_fixed_row, bottom or "1")
    return lambda scope: _spanned(first(scope), last(scope))


def _spanned(first: Place, last: Place) -> Area:
    (top, bottom), (left, right) = sorted((first[0], last[0])), sorted((first[1], last[1]))
    return Area(top, left, bottom, right)


# ---- operators ----


def _joined(sign: str, left: Part, right: Part) -> Part:
    if sign == "&":
        return lambda scope: text(left(scope)) + text(right(scope))
    if sign in ORDERS:
        order = ORDERS[sign]
        return lambda scope: order(*_comparable(single(left(scope)), single(right(scope))))
    work = SUMS[sign]

    def worked_out(scope: Scope) -> Value:
        try:
            found = work(number(single(left(scope))), number(single(right(scope))))
        except (ArithmeticError, ValueError) as error:
            raise Fault("#DIV/0!" if sign == "/" else "#NUM!") from error
        if isinstance(found, complex):
            raise Fault("#NUM!")
        return found

    return worked_out


def _comparable(one: Plain, other: Plain) -> tuple[Any, Any]:
    """Two values as a sheet compares them: an empty cell is nought, '' or false, as the other value asks."""
    if one is None and other is not None:
        one = type(other)()
    if other is None and one is not None:
        other = type(one)()
    return key_of(one), key_of(other)


def _negative(part: Part) -> Part:
    return lambda scope: -number(single(part(scope)))


def _hundredth(part: Part) -> Part:
    return lambda scope: number(single(part(scope))) / 100


def _nothing(_: Scope) -> Value:
    return None


def _guarded(name: str, given: Sequence[Part]) -> Part:
    """Functions that ask whether a value is an error."""

    def call(scope: Scope) -> Value:
        try:
            found = single(given[0](scope))
        except Fault as fault:
            if name == "IFERROR":
                return given[1](scope) if len(given) > 1 else ""
            return name == "ISERROR" or (str(fault) == "#N/A") == (name == "ISNA")
        return found if name == "IFERROR" else False

    return call


def as_value(value: Any) -> Plain:
    """The value of a cell as formulas see it: dates are numbers."""
    if value is None or isinstance(value, (bool, str)):
        return value
    try:
        return serial(value)
    except (TypeError, ValueError):
        return str(value)
