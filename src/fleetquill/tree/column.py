"""A column of a table or ledger, as its author describes it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from fleetquill.errors import OptionError, nearest

ALIGNMENTS: Final = ("", "left", "right", "center", "start", "end", "decimal")
TOTALS: Final = ("", "sum")


@dataclass(frozen=True, slots=True)
class Column:
    """One column: where its values come from, and how they are shown.

    `name` is the key of the value in each row (or, for rows that are sequences, only a name).
    `head` is what stands in the table's head; the name where it is not given. `form` is a CLDR
    number pattern, 'money:EUR', 'percent', 'date:long' or 'time'. `align` is a CSS text-align keyword, or
    'decimal' to align numbers on their point. `width` is a CSS
    width. With `total="sum"` the column is added up at the end; with `carry` the sum is carried
    forward at the foot of each page and brought forward at the head of the next. `overflow` says
    what happens to a value that is too wide: 'wrap' or 'clip' (with an ellipsis).
    """

    name: str
    head: str | None = None
    form: str = ""
    align: str = ""
    width: str = ""
    total: str = ""
    carry: bool = False
    overflow: str = "wrap"

    def __post_init__(self) -> None:
        _one_of("align", self.align, ALIGNMENTS)
        _one_of("total", self.total, TOTALS)
        _one_of("overflow", self.overflow, ("wrap", "clip"))
        if self.carry and not self.total:
            raise OptionError(
                f"The column '{self.name}' is carried forward but not added up.", remedy='Give total="sum".'
            )

    @property
    def is_number(self) -> bool:
        """Whether the column's values must be numbers: they are added up, or have a number's form."""
        return bool(self.total) or (bool(self.form) and self.form.partition(":")[0] not in ("date", "time"))

    @property
    def title(self) -> str:
        return self.name if self.head is None else self.head


def _one_of(option: str, value: str, allowed: tuple[str, ...]) -> None:
    if value not in allowed:
        meant = nearest(value, allowed)
        known = ", ".join(repr(a) for a in allowed if a)
        hint = f"Did you mean '{meant}'?" if meant else f"It may be {known}."
        raise OptionError(f"'{value}' is not a value of '{option}' for a column.", remedy=hint)
