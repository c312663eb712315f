"""Rows of a database, through SQLAlchemy: a query with bound parameters, read as it streams."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from datetime import date, datetime
from pathlib import Path
from typing import Any, Final

from fleetquill.briefs.nodes import Node
from fleetquill.briefs.rowsets import Opened
from fleetquill.errors import DataError, OptionError, meant, without_secrets
from fleetquill.tree.rows import Row

AT_ONCE: Final = 1_000  # rows that are fetched together
LONGEST: Final = 120  # characters of a query that a message shows
NAMED: Final = re.compile(r"""'(?:[^']|'')*'|"[^"]*"|--[^\n]*|/\*.*?\*/|(?<![:\w\\]):([A-Za-z_]\w*)(?!:)""", re.DOTALL)


def names_bound(query: str) -> list[str]:
    """The names of values that a query binds, such as :month; not those in quotes and remarks."""
    return list(dict.fromkeys(match[1] for match in NAMED.finditer(query) if match[1]))


def _escaped(query: str) -> str:
    """The query with the colons in quotes and remarks marked as such, which bind nothing."""
    return NAMED.sub(lambda match: match[0] if match[1] else match[0].replace(":", "\\:"), query)


Stream = tuple[tuple[str, ...], "_Stream"]  # the names of values, and rows of them


class Connections:
    """What queries are asked of, by the names that the brief has for it: an address, an engine or a connection of
    SQLAlchemy, or one of Python's database interface (PEP 249)."""

    def __init__(self, given: Mapping[str, Any], own: Mapping[str, Path]) -> None:
        self._given = given
        self._own = own  # databases in files that the brief names itself, which are only read
        self._streams: list[_Stream] = []
        self.files: list[Path] = []  # those of them that were read

    def rows(self, node: Node, name: str, values: Mapping[str, Any]) -> Opened:
        """The rows of a query. What goes wrong, now or while they come, names the query and its place."""
        query = node.text()
        bound = {one: values[one] for one in names_bound(query) if one in values}
        for one in names_bound(query):
            if one not in values:
                raise node.fault(f"The query binds ':{one}', which is no parameter of the brief.", meant(one, values))
        given = self._given.get(name)
        if given is None and name not in self._own:
            known = [*self._given, *self._own]
            hint = meant(name, known) if known else f"Give one with connections={{'{name}': …}}."
            raise node.fault(f"The connection '{name}' is not given.", hint)
        if given is not None and not isinstance(given, str) and hasattr(given, "cursor"):
            return self._opened(_plain_rows(node, query, given, bound))
        try:
            import sqlalchemy
        except ImportError as error:
            raise OptionError("Queries need SQLAlchemy.", remedy='Install "fleetquill[sql]".') from error
        if given is None:
            given = _read_only(self._own[name], node)
            self.files.append(self._own[name])
        return self._opened(_query(sqlalchemy, node, query, given, bound))

    def _opened(self, stream: Stream) -> Opened:
        names, rows = stream
        self._streams.append(rows)
        return Opened(names, iter(rows))

    def close(self) -> None:
        """Closes what is still open, its last rows read or not."""
        for stream in self._streams:
            stream.close()


def _read_only(path: Path, node: Node) -> str:
    if not path.is_file():
        raise node.fault(f"The database '{path}' does not exist.", "Check its name.")
    return f"sqlite:///file:{path.resolve().as_posix()}?mode=ro&uri=true"


def _fault(node: Node, query: str, error: BaseException) -> DataError:
    """What a database says, with the query that it was asked."""
    said = getattr(error, "orig", None) or error
    text = without_secrets(" ".join(str(said).split()).partition(" (Background on")[0]) or type(said).__name__
    asked = " ".join(query.split())
    asked = asked if len(asked) <= LONGEST else f"{asked[: LONGEST - 1]}…"
    return node.fault(f"The database refuses '{asked}': {text[:400]}.")


def _query(sqlalchemy: Any, node: Node, query: str, given: Any, values: Mapping[str, Any]) -> Stream:
    """The rows of a query through SQLAlchemy; a connection of its own is closed after the last."""
    engine = connection = None
    try:
        if isinstance(given, str):
            engine = sqlalchemy.create_engine(given, poolclass=sqlalchemy.pool.NullPool)
        own = engine if engine is not None else given if hasattr(given, "connect") else None
        connection = own.connect() if own is not None else given
        lists = [name for name, value in values.items() if isinstance(value, (list, tuple))]
        statement = sqlalchemy.text(_escaped(query))
        if lists:
            statement = statement.bindparams(*(sqlalchemy.bindparam(name, expanding=True) for name in lists))
        lite = connection.dialect.name == "sqlite"
        bound = {name: _lite(value) if lite else value for name, value in values.items()}
        options = {"stream_results": True, "yield_per": AT_ONCE}
        result = connection.execute(statement, bound, execution_options=options)
        names = tuple(map(str, result.keys()))
    except Exception as error:
        _close([one for one in (connection, engine) if one is not None and one is not given])
        raise _fault(node, query, error) from error
    closes = [result, *(one for one in (connection, engine) if one is not None and one is not given)]
    return names, _Stream(node, query, lambda: result.fetchmany(AT_ONCE), closes)


def _lite(value: Any) -> Any:
    """A value as SQLite compares it: a date as its text."""
    if isinstance(value, datetime):
        return value.isoformat(" ")
    if isinstance(value, date):
        return value.isoformat()
    return [_lite(one) for one in value] if isinstance(value, (list, tuple)) else value


class _Stream:
    """The rows of a query as they come; what it was asked through is closed after the last, or by `close`."""

    def __init__(self, node: Node, query: str, fetch: Callable[[], list[Any]], closes: Sequence[Any]) -> None:
        self._node = node
        self._query = query
        self._fetch = fetch
        self._closes = closes

    def __iter__(self) -> Iterator[Row]:
        while self._closes:
            try:
                rows = self._fetch()
            except Exception as error:  # whatever its driver raises, a connection that dies among them
                self.close()
                raise _fault(self._node, self._query, error) from error
            if not rows:
                self.close()
            yield from map(tuple, rows)

    def close(self) -> None:
        closes, self._closes = self._closes, ()
        _close(closes)


def _close(closes: Iterable[Any]) -> None:
    """Closes results, connections and engines. What is broken cannot be, and was told already."""
    for one in closes:
        with suppress(Exception):
            (one.close if hasattr(one, "close") else one.dispose)()


def _plain_rows(node: Node, query: str, connection: Any, values: Mapping[str, Any]) -> Stream:
    """The rows of a query through Python's own interface to databases, for those that bind by name (':name')."""
    try:
        cursor = connection.cursor()
        cursor.execute(query, {name: _lite(value) for name, value in values.items()})
        described = cursor.description or ()
    except Exception as error:
        raise _fault(node, query, error) from error
    names = tuple(str(entry[0]) for entry in described)
    return names, _Stream(node, query, lambda: cursor.fetchmany(AT_ONCE), [cursor])
