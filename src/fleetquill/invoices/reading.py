"""Invoices from plain mappings: names of fields as the model has them, values as people write them."""

from __future__ import annotations

import dataclasses
import types
from collections.abc import Mapping, Sequence
from datetime import date, datetime
from decimal import Decimal, InvalidOperation
from functools import lru_cache
from typing import Any, Union, get_args, get_origin, get_type_hints

from fleetquill.errors import DataError, Where, meant, shown
from fleetquill.invoices.model import Identifier, Note


def read(cls: type, data: Any, where: str = "", source: str = "") -> Any:
    """An object of a class of the model from a mapping. Raises DataError, which names the place, for what is not
    known or of another kind."""
    if dataclasses.is_dataclass(data) and isinstance(data, cls):
        return data
    if isinstance(data, str) and cls is Identifier:
        return Identifier(value=data)
    if isinstance(data, str) and cls is Note:
        return Note(text=data)
    if not isinstance(data, Mapping):
        raise _fault(f"{shown(data)} is no mapping of names and values.", where, source)
    hints = _hints(cls)
    for name in data:
        if name not in hints:
            raise _fault(f"'{name}' is not known.", where, source, meant(str(name), hints))
    values: dict[str, Any] = {}
    for name, given in data.items():
        if given is not None:
            values[name] = _value(hints[name], given, f"{where}.{name}" if where else name, source)
    return cls(**values)


@lru_cache(maxsize=64)
def _hints(cls: type) -> dict[str, Any]:
    hints = get_type_hints(cls)
    return {one.name: hints[one.name] for one in dataclasses.fields(cls)}


def _value(hint: Any, given: Any, where: str, source: str) -> Any:
    origin = get_origin(hint)
    if origin in (Union, types.UnionType):
        kinds = [kind for kind in get_args(hint) if kind is not types.NoneType]
        return _value(kinds[0], given, where, source)
    if origin is tuple:
        kind = get_args(hint)[0]
        if isinstance(given, (str, Mapping)) or not isinstance(given, Sequence):
            if kind is str or isinstance(given, (str, Mapping)) or dataclasses.is_dataclass(given):
                given = [given]  # one of them needs no list
            else:
                raise _fault(f"{shown(given)} is no list.", where, source)
        return tuple(_value(kind, one, f"{where}[{number}]", source) for number, one in enumerate(given, 1))
    if dataclasses.is_dataclass(hint):
        return read(hint, given, where, source)  # type: ignore[arg-type]
    if hint is Decimal:
        return _amount(given, where, source)
    if hint is date:
        return _date(given, where, source)
    if isinstance(given, bool) or not isinstance(given, (str, int)):
        raise _fault(f"{shown(given)} is no text.", where, source)
    return str(given).strip()


def _amount(given: Any, where: str, source: str) -> Decimal:
    """A number; a float as it is written."""
    try:
        found = given if isinstance(given, Decimal) else Decimal(str(given).strip())
    except InvalidOperation:
        found = None
    if found is None or isinstance(given, bool) or not found.is_finite():
        raise _fault(f"{shown(given)} is no number.", where, source, "Write it as 1234.50.")
    return found


def _date(given: Any, where: str, source: str) -> date:
    if isinstance(given, datetime):
        return given.date()
    if isinstance(given, date):
        return given
    try:
        return date.fromisoformat(str(given).strip())
    except ValueError:
        raise _fault(f"{shown(given)} is no date.", where, source, "Write it as 2026-05-31.") from None


def _fault(what: str, where: str, source: str, remedy: str = "") -> DataError:
    place = Where(source) if source else None
    return DataError(
        f"In the invoice's {where}: {what}" if where else f"In the invoice: {what}", where=place, remedy=remedy
    )


def plain(value: Any) -> Any:
    """An object of the model as plain values, without what is empty: what templates are filled in with."""
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        found = {one.name: plain(getattr(value, one.name)) for one in dataclasses.fields(value)}
        return {name: own for name, own in found.items() if own not in (None, "", [], {})}
    if isinstance(value, tuple):
        return [plain(one) for one in value]
    return value
