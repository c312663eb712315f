"""Where the rows of a brief come from: files, and what is given at run time."""

from __future__ import annotations

import csv
import json
from collections.abc import Iterator, Mapping
from decimal import Decimal
from pathlib import Path
from typing import Any, Final

from fleetquill.briefs.nodes import Node
from fleetquill.briefs.rowsets import Opened
from fleetquill.errors import DataError, LimitError, OptionError, shown
from fleetquill.policy import Policy
from fleetquill.tree.column import Column
from fleetquill.tree.data import READERS, delimiter_of
from fleetquill.tree.files import read_text
from fleetquill.tree.rows import Row, is_frame, read_rows, rows_and_names
from fleetquill.unpacking import PACKED, check_package

LINES: Final = (".jsonl", ".ndjson")
WORKBOOKS: Final = (".xlsx", ".xlsm")
ENDINGS: Final = (".csv", ".tsv", *LINES, ".json", *WORKBOOKS, ".parquet")


def given_rows(given: Any, source: str) -> Opened:
    """Rows that an application gives: what a table takes, or the path of a file."""
    if isinstance(given, (str, Path)):
        return file_rows(Path(given), None, None)
    if hasattr(given, "__next__") or hasattr(given, "fetchone"):
        return _streamed(given, source)
    rows, names = rows_and_names(given)
    return Opened(tuple(names), read_rows(rows, [Column(name) for name in names], source))


def _streamed(given: Iterator[Any], source: str) -> Opened:
    """Rows of an iterator, which are not held: the first one tells their names."""
    described = getattr(given, "description", None)
    if described is not None and hasattr(given, "fetchone"):  # a cursor (PEP 249)
        names = tuple(str(entry[0]) for entry in described)
        return Opened(names, (tuple(row) for row in given))
    given = iter(given)
    first = next(given, None)
    if first is None:
        return Opened((), iter(()))
    _, names_of_first = rows_and_names([first])

    def all_rows() -> Iterator[Any]:
        yield first
        yield from given

    columns = [Column(name) for name in names_of_first]
    return Opened(tuple(names_of_first), read_rows(all_rows(), columns, source))


def file_rows(path: Path, sheet: str | int | None, policy: Policy | None) -> Opened:
    """The rows of a file by its ending: CSV, JSON, JSON lines, a workbook or Parquet."""
    if policy is not None:
        policy.check(path)
    ending = path.suffix.lower()
    if ending in (".csv", ".tsv"):
        return _csv_rows(path)
    if ending in LINES:
        return _line_rows(path)
    if ending in WORKBOOKS:
        return _workbook_rows(path, sheet, policy)
    if ending == ".parquet":
        return _parquet_rows(path)
    if ending in READERS:
        return _listed(READERS[ending](read_text(path, "file of rows"), str(path)), str(path))
    raise DataError(f"'{path.name}' is no file of rows.", remedy=f"Use one of {', '.join(ENDINGS)}.")


def _csv_rows(path: Path) -> Opened:
    """RFC 4180: the first line has the names."""
    with _opened(path) as file:
        delimiter = delimiter_of(file.readline())
        file.seek(0)
        names = tuple(next(csv.reader(file, delimiter=delimiter), []))

    def rows() -> Iterator[Row]:
        with _opened(path) as file:
            reader = csv.reader(file, delimiter=delimiter)
            next(reader, None)
            try:
                for values in reader:
                    if not values:
                        continue
                    if len(values) != len(names):
                        what = f"The row has {len(values)} values, and the head has {len(names)}."
                        raise DataError(f"{path}, line {reader.line_num}: {what}")
                    yield tuple(values)
            except (csv.Error, UnicodeDecodeError) as error:
                raise DataError(f"{path}, line {reader.line_num}: The file cannot be read ({error}).") from error

    return Opened(names, rows())


def _opened(path: Path) -> Any:
    try:
        return path.open(encoding="utf-8-sig", newline="")
    except FileNotFoundError as error:
        raise DataError(f"The file of rows '{path}' does not exist.", remedy="Check its name.") from error
    except OSError as error:
        raise DataError(f"The file of rows '{path}' cannot be read ({error.strerror}).") from error


def _line_rows(path: Path) -> Opened:
    def values() -> Iterator[Any]:
        with _opened(path) as file:
            for number, line in enumerate(file, 1):
                if not line.strip():
                    continue
                try:
                    yield json.loads(line, parse_float=Decimal)
                except ValueError as error:
                    raise DataError(f"{path}, line {number}: The JSON does not parse ({error}).") from error

    return _streamed(values(), str(path))


def _listed(found: Any, source: str) -> Opened:
    """Rows of a file that is read whole."""
    if isinstance(found, Mapping):
        lists = [value for value in found.values() if isinstance(value, list)]
        found = lists[0] if len(lists) == 1 else found
    if not isinstance(found, list):
        raise DataError(f"{source}: {shown(found)} is not rows.", remedy="Write a list of mappings.")
    return given_rows(found, source)


def _workbook_rows(path: Path, sheet: str | int | None, policy: Policy | None) -> Opened:
    """A sheet of a workbook, whose first row has the names."""
    try:
        import openpyxl
    except ImportError as error:
        raise OptionError("Reading workbooks needs openpyxl.", remedy='Install "fleetquill[workbook]".') from error
    try:
        if policy is not None:
            check_package(path, policy.file_size * PACKED)
        book = openpyxl.load_workbook(path, read_only=True, data_only=True)
    except FileNotFoundError as error:
        raise DataError(f"The workbook '{path}' does not exist.", remedy="Check its name.") from error
    except LimitError:
        raise
    except Exception as error:  # whatever the library meets in a file that is none
        raise DataError(f"'{path}' cannot be read as a workbook ({error}).") from error
    names = book.sheetnames
    wanted = (
        names[0] if sheet is None else names[sheet - 1] if isinstance(sheet, int) and sheet <= len(names) else sheet
    )
    if wanted not in names:
        raise DataError(f"The workbook '{path}' has no sheet '{sheet}'.", remedy=f"It has {', '.join(names)}.")
    rows = book[str(wanted)].iter_rows(values_only=True)
    head = next(rows, ())
    columns = [place for place, name in enumerate(head) if name is not None]

    def values() -> Iterator[Row]:
        try:
            for row in rows:
                if any(value is not None for value in row):
                    yield tuple([row[place] if place < len(row) else None for place in columns])
        finally:
            book.close()

    return Opened(tuple(str(head[place]) for place in columns), values())


def _parquet_rows(path: Path) -> Opened:
    try:
        import pandas
    except ImportError as error:
        raise OptionError("Reading Parquet needs pandas.", remedy='Install "pandas" and "pyarrow".') from error
    try:
        frame: Any = pandas.read_parquet(path)
    except FileNotFoundError as error:
        raise DataError(f"The file of rows '{path}' does not exist.", remedy="Check its name.") from error
    except ImportError as error:
        raise OptionError("Reading Parquet needs pyarrow.", remedy='Install "pyarrow".') from error
    except Exception as error:  # whatever the library meets in a file that is none
        raise DataError(f"'{path}' cannot be read as Parquet ({error}).") from error
    assert is_frame(frame)
    return given_rows(frame, str(path))


def file_beside(node: Node, folder: Path | None, policy: Policy) -> Path:
    """The file that a brief names, which is relative to its folder."""
    if folder is None:
        raise node.fault("The brief has no folder: it cannot name a file.", "Give what is in it at run time.")
    path = folder / node.text()
    if not policy.allows(path, [folder]):
        raise node.fault(f"The file '{node.value}' lies outside of the brief's folder.")
    return path


def read_file_rows(node: Node, path: Path, sheet: Node | None, policy: Policy) -> Opened:
    """The rows of a file that a brief names."""
    try:
        return file_rows(path, sheet.value if sheet is not None else None, policy)
    except DataError as error:
        raise node.fault(error.what, error.remedy) from error
