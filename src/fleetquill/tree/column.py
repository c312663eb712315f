"""A column of a table or ledger, as its author describes it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import islice
from typing import Any, Final

from fleetquill.errors import OptionError, nearest
from fleetquill.keywords import told_constructor
from fleetquill.tree.forms import NO_NUMBERS, check_form, kind_of_form
from fleetquill.tree.values import is_quantity, plain_value

ALIGNMENTS: Final = ("", "left", "right", "center", "start", "end", "decimal")
LOOKED_AT: Final = 100  # rows, for what a column holds
FIGURES: Final = ("sum", "average", "count", "least", "most")  # that the values of a column come to


@told_constructor
@dataclass(frozen=True, slots=True)
class Column:
    """One column: where its values come from, and how they are shown.

    `name` is the key of the value in each row, and 'customer.name' goes into what it finds there; for
    rows that are sequences it is only a name. `head` is what stands in the table's head; the name where
    it is not given. `form` is a CLDR number pattern, 'money:EUR', 'percent', 'date:long', 'time',
    'datetime', 'duration', 'bytes' or 'text', or a function that makes text of a value; sums take the
    values all the same. `rule` is a function that gives the class of a value's cell, such as 'late', or
    '' for none. With `counts` the column has no value: it numbers the rows from 1. `align` is a CSS
    text-align keyword, or 'decimal' to align numbers on their point; numbers stand at the end of their
    column where it is not given. `width` is a CSS width. With
    `total="sum"` the column is added up at the end, or its 'average', its 'least' or 'most' value, or the 'count'
    of its values stands there; with `carry` the sum is carried forward at the foot
    of each page and brought forward at the head of the next. `overflow` says what happens to a value
    that is too wide: 'wrap' or 'clip' (with an ellipsis).
    """

    name: str
    head: str | None = None
    form: str | Callable[[Any], Any] = ""
    align: str = ""
    width: str = ""
    total: str = ""
    carry: bool = False
    overflow: str = "wrap"
    rule: Callable[[Any], str] | None = None
    counts: bool = False

    def __post_init__(self) -> None:
        if not isinstance(self.name, str):
            raise OptionError(f"{self.name!r} is not the name of a column.", remedy="Give it as text.")
        if isinstance(self.form, str):
            check_form(self.form)
        elif not callable(self.form):
            raise OptionError(f"{self.form!r} is not a form of the column '{self.name}'.")
        _one_of("align", self.align, ALIGNMENTS)
        _one_of("total", self.total, ("", *FIGURES))
        _one_of("overflow", self.overflow, ("wrap", "clip"))
        if self.carry and self.total != "sum":
            raise OptionError(
                f"The column '{self.name}' is carried forward but not added up.", remedy='Give total="sum".'
            )

    @property
    def is_number(self) -> bool:
        """Whether the column's values must be numbers: they are added up, or have a number's form."""
        if self.total == "count":
            return False
        if self.total or callable(self.form):
            return bool(self.total)
        return bool(self.form) and kind_of_form(self.form)[0] not in NO_NUMBERS

    def class_of(self, value: Any) -> str:
        """The class that the column's rule gives the cell of a value. Raises ValueError where the rule fails."""
        if self.rule is None:
            return ""
        try:
            return str(self.rule(value) or "")
        except Exception as error:
            raise ValueError(f"its rule fails ({type(error).__name__}: {error})") from error

    @property
    def is_figure(self) -> bool:
        """Whether the column's values are figures or dates, which a reader wants on one line."""
        if self.align in ("right", "end", "decimal") or not isinstance(self.form, str):
            return bool(self.align)
        return kind_of_form(self.form)[0] not in ("", "text")

    @property
    def title(self) -> str:
        return self.name if self.head is None else self.head


def _one_of(option: str, value: str, allowed: tuple[str, ...]) -> None:
    if value not in allowed:
        meant = nearest(str(value), allowed)
        known = ", ".join(repr(a) for a in allowed if a)
        hint = f"Did you mean '{meant}'?" if meant else f"It may be {known}."
        raise OptionError(f"'{value}' is not a value of '{option}' for a column.", remedy=hint)


def settled(columns: Sequence[Column], rows: Iterable[Sequence[Any]]) -> list[Column]:
    """Columns with what nobody said of them: what is added up is written as its sum is, and where the values in the
    first rows are numbers they end alike."""
    values = list(zip(*islice(rows, LOOKED_AT), strict=True)) or [()] * len(columns)
    return [_settled(column, found) for column, found in zip(columns, values, strict=True)]


def _settled(column: Column, values: Sequence[Any]) -> Column:
    if column.total not in ("", "count") and not column.form:
        column = replace(column, form="number")
    if column.align or column.form == "text":
        return column
    known = [value for value in map(plain_value, values) if value is not None and value != ""]
    numbers = column.counts or column.is_number or (bool(known) and all(map(is_quantity, known)))
    return replace(column, align="end") if numbers else column


def as_columns(columns: Sequence[Column | str]) -> list[Column]:
    """Columns, those that are only a name without a form."""
    if isinstance(columns, str):
        raise OptionError(f"'{columns}' is not a list of columns.", remedy=f"Give ['{columns}'].")
    return [column if isinstance(column, Column) else Column(column) for column in columns]
