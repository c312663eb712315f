"""Rows of a table or ledger: mappings, sequences, objects, a frame or a CSV file, one at a time and again."""

from __future__ import annotations

import csv
import marshal
import pickle
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import fields, is_dataclass
from itertools import count, islice
from pathlib import Path
from tempfile import TemporaryFile
from typing import Any, Final, NamedTuple, Protocol

from fleetquill.errors import DataError, Where, nearest
from fleetquill.tree.column import Column

Row = tuple[Any, ...]

CHUNK: Final = 512  # rows that are read and kept together
MOST_HELD: Final = 16  # chunks of an iterator that are held before they go to a file


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

    `rows` is any iterable of mappings, sequences or objects with attributes, a DataFrame, or the
    path of a CSV file with a head. Raises DataError with the row's number (from 1) where a row does
    not have what a column asks for.
    """
    _check_rows(rows)
    names = [column.name for column in columns]
    if isinstance(rows, (str, Path)):
        return _csv_rows(Path(rows), names)
    if hasattr(rows, "itertuples") and hasattr(rows, "columns"):
        return _frame_rows(rows, names, source)
    return _plain_rows(rows, names, source)


def _check_rows(rows: Any) -> None:
    if not isinstance(rows, (Path, Iterable)):
        raise DataError(
            f"{rows!r} is not rows.",
            remedy="Give mappings, sequences or objects, a DataFrame, or the path of a CSV file.",
        )


def rows_and_names(rows: Any) -> tuple[Any, list[str]]:
    """Rows, and the names of their columns as the first of them has them."""
    _check_rows(rows)
    if isinstance(rows, (str, Path)):
        return rows, csv_head(Path(rows))
    if hasattr(rows, "itertuples") and hasattr(rows, "columns"):
        return rows, [str(name) for name in rows.columns]
    held = list(rows)
    if not held:
        return held, []
    first = held[0]
    if isinstance(first, Mapping):
        return held, [str(name) for name in first]
    if is_dataclass(first) and not isinstance(first, type):
        return held, [field.name for field in fields(first)]
    if hasattr(first, "_fields"):
        return [row._asdict() for row in held], [str(name) for name in first._fields]
    if isinstance(first, Sequence) and not isinstance(first, (str, bytes)):
        return held, [f"{number}" for number in range(1, len(first) + 1)]
    names = [*getattr(first, "__dict__", ()), *getattr(type(first), "__slots__", ())]
    if isinstance(first, (str, bytes)) or not (names or hasattr(first, "__dict__")):
        raise DataError(f"{first!r} is not a row.", remedy="Give mappings, sequences or objects.")
    return held, [name for name in names if not name.startswith("_")]


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
            reader = csv.reader(file)
            head = next(reader, [])
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


def csv_head(path: Path) -> list[str]:
    """The names in the first line of a CSV file."""
    try:
        with path.open(encoding="utf-8-sig", newline="") as file:
            return next(csv.reader(file), [])
    except FileNotFoundError as error:
        raise DataError("The file of rows does not exist.", where=Where(str(path)), remedy="Check its name.") from error
    except (OSError, UnicodeDecodeError, csv.Error) as error:
        raise DataError(f"The file of rows cannot be read ({error}).", where=Where(str(path))) from error


def _place(name: str, head: Sequence[str], where: Where) -> int:
    if name not in head:
        meant = nearest(name, head)
        remedy = f"Did you mean '{meant}'?" if meant else f"It has: {', '.join(map(str, head[:8]))}."
        raise DataError(f"There is no column '{name}'.", where=where, remedy=remedy)
    return list(head).index(name)


def _frame_rows(frame: Any, names: Sequence[str], source: str) -> Iterator[Row]:
    places = [_place(name, [str(column) for column in frame.columns], Where(source or "frame")) for name in names]
    for values in frame.itertuples(index=False, name=None):
        yield tuple([_plain(values[place]) for place in places])


def _plain(value: Any) -> Any:
    """A frame's missing value as None."""
    return None if value is None or value != value or type(value).__name__ in ("NAType", "NaTType") else value


def _plain_rows(rows: Iterable[Any], names: Sequence[str], source: str) -> Iterator[Row]:
    count = len(names)
    for number, row in enumerate(rows, 1):
        kind = row.__class__
        if kind is tuple or kind is list:
            if len(row) != count:
                raise DataError(
                    f"Row {number} has {len(row)} values for {count} columns.", where=Where(source or "rows")
                )
            yield row if kind is tuple else tuple(row)
        elif isinstance(row, Mapping):
            try:
                yield tuple([row[name] for name in names])
            except KeyError as error:
                raise _lacking(number, str(error.args[0]), [str(key) for key in row], source) from error
        elif isinstance(row, Sequence) and not isinstance(row, (str, bytes)):
            if len(row) != count:
                raise DataError(
                    f"Row {number} has {len(row)} values for {count} columns.", where=Where(source or "rows")
                )
            yield tuple(row)
        else:
            yield _attributes(row, names, number, source)


def _attributes(row: Any, names: Sequence[str], number: int, source: str) -> Row:
    try:
        return tuple([getattr(row, name) for name in names])
    except AttributeError as error:
        known = [name for name in dir(row) if not name.startswith("_")]
        missing = next(name for name in names if not hasattr(row, name))
        raise _lacking(number, missing, known, source) from error


def _lacking(number: int, name: str, known: Sequence[str], source: str) -> DataError:
    meant = nearest(name, known)
    remedy = f"Did you mean '{meant}'?" if meant else f"The row has: {', '.join(known[:8])}."
    return DataError(
        f"Row {number} has no value for the column '{name}'.", where=Where(source or "rows"), remedy=remedy
    )
