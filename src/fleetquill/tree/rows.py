"""Rows of a table or ledger: mappings, sequences, objects, a frame or a CSV file, one at a time and again."""

from __future__ import annotations

import csv
import marshal
import pickle
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import fields, is_dataclass
from itertools import count, islice
from pathlib import Path
from tempfile import TemporaryFile
from typing import Any, Final, NamedTuple, Protocol

from fleetquill.errors import DataError, Where, nearest, shown
from fleetquill.tree.column import Column
from fleetquill.tree.data import delimiter_of
from fleetquill.tree.values import is_missing

Row = tuple[Any, ...]

CHUNK: Final = 512  # rows that are read and kept together
MOST_HELD: Final = 16  # chunks of an iterator that are held before they go to a file
ABSENT: Final = object()  # the value of a name that a row does not have


class RowLacks(DataError):
    """A row without a value that a column asks for: its name, '' where it has too few for all of them."""

    column = ""


class Rows(Protocol):
    """Rows that can be opened again."""

    def chunks(self, first: int = 0) -> Iterator[list[Row]]:
        """The values of each row in the order of the columns: `CHUNK` rows at a time, from chunk `first` on."""


class HeldRows:
    """Rows of what can itself be gone through again: a sequence, a frame, a file."""

    def __init__(self, rows: Any, columns: Sequence[Column], source: str) -> None:
        self._rows = rows
        self._columns = columns
        self._source = source

    def chunks(self, first: int = 0) -> Iterator[list[Row]]:
        rows = islice(read_rows(self._rows, self._columns, self._source), first * CHUNK, None)
        while chunk := list(islice(rows, CHUNK)):
            yield chunk


class PutAway(NamedTuple):
    """A chunk in a temporary file."""

    place: int
    load: Callable[[Any], list[Row]]


class SpooledRows:
    """Rows of an iterator that gives them once: what it gave is kept, many of them in a temporary file."""

    def __init__(self, rows: Iterator[Row]) -> None:
        self._rows = rows
        self._chunks: list[list[Row] | PutAway] = []  # each as it is, or where it stands in the file
        self._file: Any = None
        self._fault: Exception | None = None
        self._ended = False

    def chunks(self, first: int = 0) -> Iterator[list[Row]]:
        for number in count(first):
            while number >= len(self._chunks):
                if not self._read():
                    return
            chunk = self._chunks[number]
            if isinstance(chunk, PutAway):
                self._file.seek(chunk.place)
                yield chunk.load(self._file)
            else:
                yield chunk

    def _read(self) -> bool:
        """Takes one more chunk from the iterator; False where it has no more."""
        if self._fault is not None:
            raise self._fault
        if self._ended:
            return False
        chunk: list[Row] = []
        try:
            chunk.extend(islice(self._rows, CHUNK))
        except Exception as fault:  # whatever the iterator raises, it raises again
            self._fault = fault
            if not chunk:
                raise
        self._ended = self._fault is None and len(chunk) < CHUNK
        if chunk:
            self._chunks.append(chunk)
            if len(self._chunks) > MOST_HELD:
                self._put_away(len(self._chunks) - 1 - MOST_HELD)
        return bool(chunk)

    def _put_away(self, number: int) -> None:
        """Writes a chunk to the file. One that cannot be written stays as it is."""
        if self._file is None:
            self._file = TemporaryFile()  # noqa: SIM115 - it lasts as long as the rows do
        chunk: Any = self._chunks[number]
        load: Callable[[Any], Any] = marshal.load
        try:
            content = marshal.dumps(chunk)  # of texts and numbers alone: in less than half the time
        except ValueError:
            load = pickle.load
            try:
                content = pickle.dumps(chunk, pickle.HIGHEST_PROTOCOL)
            except (pickle.PicklingError, TypeError, AttributeError):
                return
        self._chunks[number] = PutAway(self._file.seek(0, 2), load)
        self._file.write(content)


def open_rows(rows: Any, columns: Sequence[Column], source: str = "") -> Rows:
    """Rows that can be opened again; see `read_rows` for what they may be."""
    if isinstance(rows, (SpooledRows, HeldRows)):
        return rows
    if hasattr(rows, "__next__"):
        return SpooledRows(read_rows(rows, columns, source))
    return HeldRows(rows, columns, source)


def read_rows(rows: Any, columns: Sequence[Column], source: str = "") -> Iterator[Row]:
    """The values of each row in the order of the columns.

    `rows` is any iterable of mappings, sequences or objects with attributes, the result of a query, a
    DataFrame, or the path of a CSV file with a head. Rows that have names are taken by name, whatever
    their class; what a mapping leaves out that others have is empty. Raises DataError with the row's number (from 1)
    where a row does not have what a column asks for.
    """
    _check_rows(rows)
    names = [column.name for column in columns if not column.counts]
    found = _rows_by_name(rows, names, source)
    if len(names) < len(columns):
        return _counted(found, columns)
    return found


def _rows_by_name(rows: Any, names: Sequence[str], source: str) -> Iterator[Row]:
    if isinstance(rows, (str, Path)):
        return _csv_rows(Path(rows), names)
    if is_frame(rows):
        return _frame_rows(rows, names, source)
    given = _names_of_query(rows)
    return _plain_rows(rows, names, source, given)


def _counted(rows: Iterator[Row], columns: Sequence[Column]) -> Iterator[Row]:
    """Rows with their numbers where columns count them."""
    for number, row in enumerate(rows, 1):
        values = iter(row)
        yield tuple([number if column.counts else next(values) for column in columns])


def _check_rows(rows: Any) -> None:
    if isinstance(rows, (bytes, Mapping)) or not isinstance(rows, (Path, Iterable)):
        remedy = "Give mappings, sequences or objects, a DataFrame, or the path of a CSV file."
        if isinstance(rows, Mapping):
            remedy = "Put it into a list, or give its items()."
        raise DataError(f"{shown(rows)} is not rows.", remedy=remedy)


def is_frame(rows: Any) -> bool:
    """Whether rows are a frame: of columns that have names."""
    return hasattr(rows, "columns") and (hasattr(rows, "itertuples") or hasattr(rows, "iter_rows"))


def _names_of_query(rows: Any) -> list[str]:
    """The names of the columns of a query's result (PEP 249 `description`, or `keys()`); none for other rows."""
    described = getattr(rows, "description", None)
    if described is not None and hasattr(rows, "fetchone"):
        return [str(entry[0]) for entry in described]
    if hasattr(rows, "keys") and hasattr(rows, "fetchone"):
        return [str(name) for name in rows.keys()]  # noqa: SIM118 - going through it would read its rows
    return []


def _frame_names(frame: Any) -> list[str]:
    return [*_index_names(frame), *map(str, frame.columns)]


def _index_names(frame: Any) -> list[str]:
    """The names of a frame's index where that says more than the rows' numbers."""
    index = getattr(frame, "index", None)
    if index is None or callable(index) or type(index).__name__ == "RangeIndex":
        return []
    names = list(getattr(index, "names", ()))
    if names == [None]:
        return ["index"]
    return [f"level_{place}" if name is None else str(name) for place, name in enumerate(names)]


def _names_of_row(row: Any) -> list[str] | None:
    """The names that a row has; None where it has places alone."""
    if isinstance(row, Mapping):
        return [str(name) for name in row]
    mapping = getattr(row, "_mapping", None)
    if isinstance(mapping, Mapping):
        return [str(name) for name in mapping]
    if is_dataclass(row) and not isinstance(row, type):
        return [field.name for field in fields(row)]
    if hasattr(row, "_fields"):
        return [str(name) for name in row._fields]
    if hasattr(row, "keys") and callable(row.keys):
        return [str(name) for name in row.keys()]  # noqa: SIM118 - going through it gives values
    if isinstance(row, Sequence):
        return None
    names = [*getattr(row, "__dict__", ()), *getattr(type(row), "__slots__", ())]
    if not (names or hasattr(row, "__dict__")):
        raise DataError(f"{shown(row)} is not a row.", remedy="Give mappings, sequences or objects.")
    return [name for name in names if not name.startswith("_")]


def rows_and_names(rows: Any) -> tuple[Any, list[str]]:
    """Rows, and the names of their columns: of mappings all that any of them has, of others what the first one has."""
    _check_rows(rows)
    if isinstance(rows, (str, Path)):
        return rows, csv_head(Path(rows))
    if is_frame(rows):
        return rows, _frame_names(rows)
    given = _names_of_query(rows)
    held = list(rows)
    if given:
        return [dict(zip(given, row, strict=True)) for row in held], given
    if not held:
        return held, []
    first = held[0]
    if isinstance(first, (str, bytes)):
        raise DataError(f"{shown(first)} is not a row.", remedy="Give mappings, sequences or objects.")
    names = _names_of_row(first)
    if isinstance(first, Mapping):
        more = [str(name) for row in held if isinstance(row, Mapping) and row.keys() != first.keys() for name in row]
        names = list(dict.fromkeys([*map(str, first), *more]))
    return held, [f"{number}" for number in range(1, len(first) + 1)] if names is None else names


def as_records(rows: Any, names: Sequence[str]) -> list[dict[str, Any]]:
    """Rows as mappings of the names, or of all where fewer than two are given; DataError where one lacks a name."""
    rows, known = rows_and_names(rows)
    if isinstance(rows, list) and rows and isinstance(rows[0], (list, tuple)):
        wanted = known
    else:
        wanted = list(dict.fromkeys([*filter(None, names), *(known if len(names) < 2 else ())]))
    columns = [Column(name) for name in wanted]
    return [dict(zip(wanted, values, strict=True)) for values in read_rows(rows, columns)]


def _csv_rows(path: Path, names: Sequence[str]) -> Iterator[Row]:
    """RFC 4180, UTF-8, the first line the head."""
    try:
        with path.open(encoding="utf-8-sig", newline="") as file:
            reader = _csv_reader(file)
            head: list[str] = next(reader, [])
            places = [_place(name, head, Where(str(path), 1)) for name in names]
            for values in reader:
                if len(values) != len(head):
                    if not values:
                        continue
                    raise DataError(
                        f"This row has {len(values)} values, the head has {len(head)}.",
                        where=Where(str(path), reader.line_num),
                    )
                yield tuple([values[place] for place in places])
    except FileNotFoundError as error:
        raise DataError("The file of rows does not exist.", where=Where(str(path)), remedy="Check its name.") from error
    except (OSError, UnicodeDecodeError, csv.Error) as error:
        raise DataError(f"The file of rows cannot be read ({error}).", where=Where(str(path))) from error


def _csv_reader(file: Any) -> Any:
    delimiter = delimiter_of(file.readline())
    file.seek(0)
    return csv.reader(file, delimiter=delimiter)


def csv_head(path: Path) -> list[str]:
    """The names in the first line of a CSV file."""
    try:
        with path.open(encoding="utf-8-sig", newline="") as file:
            return next(_csv_reader(file), [])
    except FileNotFoundError as error:
        raise DataError("The file of rows does not exist.", where=Where(str(path)), remedy="Check its name.") from error
    except (OSError, UnicodeDecodeError, csv.Error) as error:
        raise DataError(f"The file of rows cannot be read ({error}).", where=Where(str(path))) from error


def _place(name: str, head: Sequence[str], where: Where) -> int:
    if name not in head:
        meant = nearest(name, head)
        remedy = f"Did you mean '{meant}'?" if meant else f"It has: {', '.join(map(str, head[:8]))}."
        lacks = RowLacks(f"There is no column '{name}'.", where=where, remedy=remedy)
        lacks.column = name
        raise lacks
    return list(head).index(name)


def _frame_rows(frame: Any, names: Sequence[str], source: str) -> Iterator[Row]:
    index = _index_names(frame)
    places = [_place(name, _frame_names(frame), Where(source or "frame")) for name in names]
    rows = frame.iter_rows() if not hasattr(frame, "itertuples") else frame.itertuples(index=bool(index), name=None)
    for values in rows:
        if len(index) > 1:
            values = (*values[0], *values[1:])
        yield tuple([None if is_missing(values[place]) else values[place] for place in places])


def _plain_rows(rows: Iterable[Any], names: Sequence[str], source: str, given: Sequence[str] = ()) -> Iterator[Row]:
    """Rows one after the other; `given` are the names of the places in each, where they are known."""
    count = len(names)
    places = [_place(name, given, Where(source or "query")) for name in names] if given else None
    kind: type | None = None
    by_name = False
    ahead = _Ahead(rows)
    for number, row in enumerate(ahead, 1):
        if row.__class__ is not kind:
            kind = row.__class__
            by_name = kind is not tuple and kind is not list and _has_names(row, number, source)
        if by_name:
            yield _by_name(row, names, number, source, ahead)
            continue
        if places is not None:
            yield tuple([row[place] for place in places])
            continue
        if len(row) != count:
            raise RowLacks(f"Row {number} has {len(row)} values for {count} columns.", where=Where(source or "rows"))
        yield row if kind is tuple else tuple(row)


def _has_names(row: Any, number: int, source: str) -> bool:
    """Whether a row's values are taken by name."""
    if row is None or isinstance(row, (str, bytes, int, float)):
        raise DataError(
            f"Row {number} is {shown(row)}, which is not a row.", where=Where(source or "rows"),
            remedy="Give mappings, sequences or objects.",
        )  # fmt: skip
    if isinstance(row, Mapping) or not isinstance(row, Sequence):
        return True
    return hasattr(row, "_fields") or hasattr(row, "_mapping") or hasattr(row, "keys")


class _Ahead:
    """Rows one after the other, and those to come where it is to be known what any of them has."""

    def __init__(self, rows: Iterable[Any]) -> None:
        self._rows = iter(rows)
        self._waiting: deque[Any] = deque()
        self._optional: set[str] = set()  # names that some mapping has, though others do not

    def __iter__(self) -> Iterator[Any]:
        while (row := self._waiting.popleft() if self._waiting else next(self._rows, ABSENT)) is not ABSENT:
            yield row

    def has(self, name: str, *, before: bool) -> bool:
        """Whether a mapping among the rows of this chunk has a name: all `before` have it, if there are any."""
        if before or name in self._optional:
            self._optional.add(name)
            return True
        self._waiting.extend(islice(self._rows, max(0, CHUNK - len(self._waiting))))
        found = any(isinstance(row, Mapping) and _value(row, name) is not ABSENT for row in self._waiting)
        if found:
            self._optional.add(name)
        return found


def _by_name(row: Any, names: Sequence[str], number: int, source: str, ahead: _Ahead) -> Row:
    if isinstance(row, Mapping):
        try:
            return tuple([row[name] for name in names])
        except KeyError:
            pass
    values = []
    for name in names:
        value = _value(row, name)
        if value is ABSENT:
            if not (isinstance(row, Mapping) and ahead.has(name, before=number > 1)):
                raise _lacking(number, name, row, source)
            value = None
        values.append(value)
    return tuple(values)


def _value(row: Any, name: str) -> Any:
    """The value of a name in a row, `ABSENT` where it has none; 'customer.name' goes into what 'customer' is."""
    found, value = _part(row, name)
    if found:
        return value
    owner: Any = row
    path = name.split(".")
    for part in path:
        if owner is None and len(path) > 1:
            return None
        found, owner = _part(owner, part)
        if not found:
            return ABSENT
    return owner


def _part(owner: Any, name: str) -> tuple[bool, Any]:
    mapping = getattr(owner, "_mapping", owner)
    if isinstance(mapping, Mapping) or (hasattr(mapping, "keys") and hasattr(mapping, "__getitem__")):
        try:
            return True, mapping[name]
        except (KeyError, IndexError):
            return False, None
    try:
        return True, getattr(owner, name)
    except AttributeError:
        return False, None


def _lacking(number: int, name: str, row: Any, source: str) -> DataError:
    owner, part = row, name
    for part in name.split("."):
        found, value = _part(owner, part)
        if not found:
            break
        owner = value
    try:
        known = _names_of_row(owner)
    except DataError:
        known = None
    known = [key for key in dir(owner) if not key.startswith("_")] if known is None else known
    meant = nearest(part, known)
    remedy = f"Did you mean '{meant}'?" if meant else f"The row has: {', '.join(known[:8])}."
    lacks = RowLacks(
        f"Row {number} has no value for the column '{name}'.", where=Where(source or "rows"), remedy=remedy
    )
    lacks.column = name
    return lacks
