"""What an entry of the property table is, and how the table comes out of the classes that list it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple, Protocol, TypeVar

from fleetquill.style.tokens import Parser
from fleetquill.style.values import Rgba, compute_color

Table = TypeVar("Table", bound=type)
Compute = Callable[[Any, Any], Any]  # a specified value and a StyleBasis → the computed value


class HasColor(Protocol):
    """A computed style, as far as colours go."""

    def used_color(self, color: Rgba | None) -> Rgba:
        """A colour in one of the values, which is None for 'currentcolor'."""


class Property(NamedTuple):
    """One row of the table. `field` is the name with underscores."""

    name: str
    field: str
    initial: Any
    parse: Parser
    inherits: bool
    compute: Compute | None


class _Entry(NamedTuple):
    initial: Any
    parse: Parser
    inherits: bool
    compute: Compute | None


def prop(initial: Any, parse: Parser, *, inherits: bool = False, compute: Compute | None = None) -> Any:
    return _Entry(initial, parse, inherits, compute)


PROPERTIES: dict[str, Property] = {}
INHERITED: dict[str, Any] = {}  # field → initial value


class UsedColor:
    """A colour of a style as it is used: 'currentcolor', which stays a word while styles inherit, is its text's."""

    def __init__(self, field: str, initial: Rgba | None) -> None:
        self._field = field
        self._initial = initial

    def __get__(self, style: HasColor, _owner: type) -> Rgba:
        return style.used_color(style.__dict__.get(self._field, self._initial))

    def __set__(self, style: HasColor, color: Rgba | None) -> None:
        style.__dict__[self._field] = color


def property_table(cls: Table) -> Table:
    """Collects the entries of the class body; what stays on the class is the initial value."""
    for field, entry in list(vars(cls).items()):
        if isinstance(entry, _Entry):
            name = field.replace("_", "-")
            if name.startswith(("fq-", "webkit-")):  # an extension, ours or one that all browsers share
                name = f"-{name}"
            PROPERTIES[name] = Property(name, field, entry.initial, entry.parse, entry.inherits, entry.compute)
            has_words = entry.compute is compute_color
            setattr(cls, field, UsedColor(field, entry.initial) if has_words else entry.initial)
            if entry.inherits:
                INHERITED[field] = entry.initial
    return cls
