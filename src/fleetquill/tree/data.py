"""Data files: JSON, YAML, TOML and CSV into plain Python values. Decimal fractions stay exact."""

from __future__ import annotations

import io
import json
import re
from collections.abc import Callable, Mapping
from decimal import Decimal, InvalidOperation
from pathlib import Path
from typing import Any, Final

from fleetquill.errors import DataError, Where
from fleetquill.tree.files import read_text

MOST_VALUES: Final = 5_000_000  # of a YAML file, aliases and all
DEEPEST: Final = 500  # brackets within brackets of YAML
LONGEST_FIELD: Final = 50_000_000  # characters of one field of CSV


def read_data(path: Path) -> dict[str, Any]:
    """The mapping in a data file. Raises DataError with line and column where it does not parse."""
    text = read_text(path, "data file")
    reader = READERS.get(path.suffix.lower())
    if reader is None:
        known = ", ".join(READERS)
        raise DataError(
            f"A data file of the kind '{path.suffix or path.name}' is not known.",
            where=Where(str(path)),
            remedy=f"Use one of {known}.",
        )
    return as_mapping(reader(text, str(path)), str(path))


def read_stream(text: str) -> dict[str, Any]:
    """The mapping in the text of a standard input: JSON, or else YAML."""
    source = "standard input"
    if text.lstrip()[:1] in ("{", "["):
        return as_mapping(parse_json(text, source), source)
    return as_mapping(read_yaml(text, source), source)


def as_mapping(value: Any, source: str) -> dict[str, Any]:
    """Data for a template: a mapping, or a list that the template sees as `rows`."""
    if isinstance(value, dict):
        return value
    if isinstance(value, list):
        return {"rows": value}
    raise DataError(
        f"The data is a single {type(value).__name__}, not a mapping.",
        where=Where(source),
        remedy="Write it as names with values.",
    )


def check_data(data: Any) -> Mapping[str, Any]:
    """Data for a template: names with values. Raises DataError where it is something else."""
    if not isinstance(data, Mapping):
        raise DataError(
            f"The data is of the type '{type(data).__name__}', not names with values.",
            remedy="Give a mapping, such as {'rows': [...]}.",
        )
    wrong = next((name for name in data if not isinstance(name, str)), None)
    if wrong is not None:
        raise DataError(f"The data names a value {wrong!r}, which is no text.", remedy=f"Name it '{wrong}'.")
    return data


def parse_json(text: str, source: str, line: int = 1) -> Any:
    """The value that JSON says, which starts in this line of its source. Raises DataError."""
    try:
        return json.loads(text, parse_float=Decimal)
    except json.JSONDecodeError as error:
        where = Where(source, line + error.lineno - 1, error.colno)
        raise DataError(f"The JSON does not parse: {error.msg}.", where=where, remedy="Mend it there.") from error
    except RecursionError as error:
        raise _too_deep("JSON", source) from error
    except ValueError as error:  # from thousands of digits
        raise DataError("A number of the JSON is longer than any that can be read.", where=Where(source)) from error


def _too_deep(kind: str, source: str) -> DataError:
    return DataError(f"The {kind} is nested too deep.", where=Where(source))


def read_yaml(text: str, source: str) -> Any:
    import yaml

    try:
        found = yaml.load(text, Loader=_yaml_loader())
        if _count(found, {}) > MOST_VALUES:
            raise DataError("The YAML repeats its parts too often by aliases.", where=Where(source))
        return found
    except RecursionError as error:
        raise _too_deep("YAML", source) from error
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark
        where = Where(source, mark.line + 1, mark.column + 1) if mark else Where(source)
        raise DataError(f"The YAML does not parse: {error.problem}.", where=where, remedy="Mend it there.") from error
    except yaml.YAMLError as error:
        raise DataError(f"The YAML does not parse: {error}.", where=Where(source)) from error
    except (ValueError, OverflowError) as error:  # a date that there is not, thousands of digits
        raise DataError(f"The YAML has a value that there is not: {error}.", where=Where(source)) from error


def _count(value: Any, known: dict[int, int]) -> int:
    """How many values there are, those that aliases repeat counted each time; a part within itself is without end."""
    if not isinstance(value, (dict, list)):
        return 1
    if id(value) in known:
        return known[id(value)]
    known[id(value)] = MOST_VALUES + 1
    inner = [*value.values()] if isinstance(value, dict) else value
    known[id(value)] = 1 + sum(_count(part, known) for part in inner)
    return known[id(value)]


def _yaml_loader() -> Any:
    """The safe loader, with decimal fractions as Decimal; raises RecursionError where brackets are nested too deep."""
    import yaml

    class Loader(yaml.SafeLoader):
        def fetch_flow_collection_start(self, kind: Any) -> None:
            if self.flow_level > DEEPEST:  # its work grows with the square of the depth
                raise RecursionError
            super().fetch_flow_collection_start(kind)

    def decimal(loader: Any, node: Any) -> Any:
        text = loader.construct_scalar(node)
        try:
            return Decimal(text.replace("_", ""))
        except InvalidOperation:  # .inf and .nan
            return loader.construct_yaml_float(node)

    Loader.add_constructor("tag:yaml.org,2002:float", decimal)
    return Loader


def _read_toml(text: str, source: str) -> Any:
    import tomllib

    try:
        return tomllib.loads(text, parse_float=Decimal)
    except tomllib.TOMLDecodeError as error:
        raise DataError(f"The TOML does not parse: {error}.", where=Where(source), remedy="Mend it there.") from error
    except RecursionError as error:
        raise _too_deep("TOML", source) from error


def _read_csv(text: str, source: str) -> Any:
    """RFC 4180: a mapping for each row, by the names in the first."""
    import csv

    reader = csv.DictReader(io.StringIO(text, newline=""), restkey="", delimiter=delimiter_of(text.partition("\n")[0]))
    rows = []
    csv.field_size_limit(max(csv.field_size_limit(), LONGEST_FIELD))
    try:
        for row in reader:
            if "" in row or None in row.values():
                raise DataError("This row has not as many values as the head.", where=Where(source, reader.line_num))
            rows.append(row)
    except csv.Error as error:
        raise DataError(f"The CSV does not parse: {error}.", where=Where(source, reader.line_num)) from error
    return rows


def delimiter_of(head: str) -> str:
    """What stands between names in the first line of a CSV file: a comma, or a semicolon or tab if there are more."""
    bare = re.sub(r'"[^"]*"', "", head)
    return max(",;\t", key=bare.count)


def _read_json_lines(text: str, source: str) -> Any:
    """A value for each line."""
    return [parse_json(line, source, number) for number, line in enumerate(text.splitlines(), 1) if line.strip()]


READERS: Final[dict[str, Callable[[str, str], Any]]] = {
    ".json": parse_json,
    ".yaml": read_yaml,
    ".yml": read_yaml,
    ".toml": _read_toml,
    ".csv": _read_csv,
    ".tsv": _read_csv,
    ".jsonl": _read_json_lines,
    ".ndjson": _read_json_lines,
}
