"""Records, one after another: of a file, a cursor, a frame, whatever gives mappings or rows; none is held."""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Callable, Iterator, Mapping
from contextlib import suppress
from decimal import Decimal
from itertools import chain
from pathlib import Path
from types import MappingProxyType
from typing import Any, Final, NamedTuple

from fleetquill.briefs.expressions import Expressions
from fleetquill.briefs.nodes import Node, Reading
from fleetquill.briefs.sources import LINES, file_rows, given_rows
from fleetquill.briefs.sql import Connections, names_bound
from fleetquill.errors import DataError, meant, shown
from fleetquill.formats import Formats
from fleetquill.tree.data import parse_json
from fleetquill.tree.files import read_text
from fleetquill.tree.words import TemplateWords

Record = Mapping[str, Any]

NUMBER: Final = re.compile(r"-?(0|[1-9]\d{0,14})(\.\d{1,9})?")  # '0042' is none
NESTED: Final = (".json",)  # endings of files whose records may hold others


class Query(NamedTuple):
    """Records that a database is asked for, and that come as they are read: a query of SQL, the `connection` that it is
    asked of (an address such as 'postgresql://…', the path of an SQLite file, an engine, an open connection), and the
    `values` of the names that it binds, such as :month."""

    text: str
    connection: Any
    values: Mapping[str, Any] = MappingProxyType({})

    def records(self) -> Iterator[Record]:
        """Raises DataError where the database refuses, or a name has no value."""
        missing = next((name for name in names_bound(self.text) if name not in self.values), None)
        if missing is not None:
            raise DataError(f"The query binds ':{missing}', which has no value.", remedy=meant(missing, self.values))
        asked = {"query": self.connection}
        is_file = isinstance(self.connection, Path)
        connections = Connections({}, asked) if is_file else Connections(asked, {})
        node = Node(self.text, (), Reading("query", {}))
        try:
            yield from connections.rows(node, "query", self.values).records()
        finally:
            connections.close()


def records_of(given: Any) -> Iterator[Record]:
    """The records of what is given: the path of a file (CSV, JSON, JSON lines, Excel, Parquet), a Query, a cursor, a
    frame, or any iterable. Raises DataError where they are none."""
    if isinstance(given, Query):
        return given.records()
    if isinstance(given, (str, Path)):
        path = Path(given)
        if path.suffix.lower() in LINES:
            return _lines(path)
        if path.suffix.lower() in NESTED:
            return _listed(parse_json(read_text(path, "file of records"), str(path)), str(path))
        return file_rows(path, None, None).records()
    if isinstance(given, Mapping):
        raise DataError("Records are many: this is one mapping.", remedy="Give a list of them.")
    if hasattr(given, "fetchone") or hasattr(given, "iterrows") or not hasattr(given, "__iter__"):
        return given_rows(given, "records").records()
    coming = iter(given)
    first = next(coming, None)
    if first is None:
        return iter(())
    whole = chain([first], coming)
    return _mappings(whole) if isinstance(first, Mapping) else given_rows(whole, "records").records()


def _mappings(coming: Iterator[Any]) -> Iterator[Record]:
    for number, one in enumerate(coming, 1):
        if not isinstance(one, Mapping):
            raise DataError(f"Record {number} is {shown(one)}, not a mapping.")
        yield one


def _lines(path: Path) -> Iterator[Record]:
    try:
        file = path.open(encoding="utf-8-sig")
    except OSError as error:
        raise DataError(f"The file of records '{path}' cannot be read ({error.strerror}).") from error
    with file:
        for number, line in enumerate(file, 1):
            if line.strip():
                found = parse_json(line, str(path), number)
                if not isinstance(found, Mapping):
                    raise DataError(f"{path}, line {number}: {shown(found)} is no record.")
                yield found


def _listed(found: Any, source: str) -> Iterator[Record]:
    if isinstance(found, Mapping):
        lists = [value for value in found.values() if isinstance(value, list)]
        found = lists[0] if len(lists) == 1 else found
    if not isinstance(found, list):
        raise DataError(f"{source}: {shown(found)} is not records.", remedy="Write a list of mappings.")
    return _mappings(iter(found))


def condition(text: str) -> Callable[[Record, int], bool] | None:
    """Whether an expression holds for a record; it is that of a brief, in a sandbox. Raises DataError where it is none,
    or cannot be worked out. Texts that are numbers count as such."""
    if not text.strip():
        return None
    node = Node(text, (), Reading("only", {}))
    expression = Expressions(Formats("en"), TemplateWords({}, {}), strangers=True).expression(node)

    def holds(record: Record, row: int) -> bool:
        return expression.holds({name: _number(value) for name, value in record.items()}, f"record {row}")

    return holds


def _number(value: Any) -> Any:
    """A text of a file that is a number, as one."""
    if not isinstance(value, str) or not NUMBER.fullmatch(value):
        return value
    return Decimal(value)


def key_of(record: Record, *more: str) -> str:
    """What makes a document another: a hash of its record and of what holds for all."""
    said = json.dumps(record, sort_keys=True, default=_plain, ensure_ascii=False)
    return hashlib.sha256("\0".join((said, *more)).encode("utf-8", "surrogatepass")).hexdigest()[:32]


def _plain(value: Any) -> str:
    with suppress(AttributeError):
        return f"{type(value).__name__}:{value.isoformat()}"
    return f"{type(value).__name__}:{value}"
