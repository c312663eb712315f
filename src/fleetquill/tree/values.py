"""Values that rows and texts hold: which are missing, and which every locale writes alike."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import is_dataclass
from datetime import timedelta
from decimal import Decimal
from enum import Enum
from fractions import Fraction
from pathlib import PurePath
from typing import Any


def is_missing(value: Any) -> bool:
    """Whether a value stands for none: None, NaN, and what data frames have in its place."""
    if value is None or type(value).__name__ in ("NAType", "NaTType"):
        return True
    if isinstance(value, Decimal):
        return value.is_nan()
    return (isinstance(value, float) or getattr(value, "shape", None) == ()) and bool(value != value)


def plain_value(value: Any) -> Any:
    """A value as Python's own types have it: a member of an enumeration as its value, a number of an array as a plain
    one, a fraction as a decimal; None where it is missing."""
    if isinstance(value, Enum):
        return plain_value(value.value)
    if is_missing(value):
        return None
    if isinstance(value, Fraction):
        return value.numerator / Decimal(value.denominator)
    if not isinstance(value, (str, bytes)) and hasattr(value, "item") and getattr(value, "shape", None) == ():
        return plain_value(value.item())
    return value


class Marked(str):
    """The text of a value whose cell has a class. It is another than the same text without one."""

    __slots__ = ("mark",)
    mark: str

    @classmethod
    def of(cls, text: str, mark: str) -> Marked:
        marked = cls(text)
        marked.mark = mark
        return marked

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Marked) and self.mark == other.mark and str.__eq__(self, other)

    def __ne__(self, other: object) -> bool:
        return not self == other

    def __hash__(self) -> int:
        return hash((self.mark, str.__hash__(self)))


def is_quantity(value: Any) -> bool:
    """Whether a value is a number or a duration, which stand one below the other by their last figure."""
    return isinstance(value, (int, float, Decimal, timedelta)) and not isinstance(value, bool)


def own_text(value: Any) -> str:
    """The text of a value that every locale writes alike. Raises ValueError where it has none."""
    if isinstance(value, (str, int)) or has_text(value):
        return str(value)
    raise ValueError(f"a value of the type '{type(value).__name__}' cannot be shown")


def has_text(value: Any) -> bool:
    """Whether an object says how it is written: it is no collection, and its class has a text of its own."""
    if isinstance(value, (bytes, bytearray, Mapping, Iterable, type)) or callable(value):
        return isinstance(value, PurePath)
    text = getattr(type(value), "__str__", None)
    return text is not getattr(object, "__str__", None) and not is_dataclass(value)
