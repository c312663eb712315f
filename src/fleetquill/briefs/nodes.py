"""What a brief says, with the places where it says it."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any, Final, NamedTuple

from fleetquill.errors import DataError, Where, meant, shown
from fleetquill.tree.data import READERS, as_mapping, read_stream

Step = str | int
Path_ = tuple[Step, ...]
Places = Mapping[Path_, tuple[int, int]]

TABLE: Final = re.compile(r"^\s*(\[{1,2})\s*([^\]]+?)\s*\]{1,2}\s*(?:#.*)?$")
KEY: Final = re.compile(r"""^(\s*)((?:[\w-]+|"[^"]*"|'[^']*')(?:\s*\.\s*(?:[\w-]+|"[^"]*"|'[^']*'))*)\s*=""")
PART: Final = re.compile(r"""[\w-]+|"[^"]*"|'[^']*'""")
STEP: Final = re.compile(r"\.?([^.\[\]]+)|\[(\d+)\]")
KINDS: Final = {"yaml": ".yaml", "yml": ".yaml", "json": ".json", "toml": ".toml"}


class Reading(NamedTuple):
    """A file that has been read: its name, and where in it each value stands."""

    source: str
    places: Places

    def where(self, path: Path_) -> Where:
        """The place of a value, or of the nearest around it that has one."""
        for length in range(len(path), 0, -1):
            found = self.places.get(path[:length])
            if found is not None:
                return Where(self.source, *found)
        return Where(self.source)

    def fault(self, path: Path_, what: str, remedy: str = "") -> DataError:
        """What is wrong with a value, with its line and its path."""
        named = path_text(path)
        return DataError(f"{named}: {what}" if named else what, where=self.where(path), remedy=remedy)


class Node:
    """A value of the file: what it is made of, and what can be said of it where it is wrong."""

    __slots__ = ("path", "reading", "value")

    def __init__(self, value: Any, path: Path_, reading: Reading) -> None:
        self.value = value
        self.path = path
        self.reading = reading

    def fault(self, what: str, remedy: str = "") -> DataError:
        return self.reading.fault(self.path, what, remedy)

    @property
    def name(self) -> str:
        """How its place in the file is written."""
        return path_text(self.path)

    def __getitem__(self, step: Step) -> Node:
        return Node(self.value[step], (*self.path, step), self.reading)

    def get(self, name: str) -> Node | None:
        """What stands under a name; None where nothing does."""
        if isinstance(self.value, Mapping) and self.value.get(name) is not None:
            return self[name]
        return None

    def names(self, known: Iterable[str], what: str) -> None:
        """Raises DataError where this is no mapping, or has a name that is not known."""
        known = list(known)
        if not isinstance(self.value, Mapping):
            raise self.fault(f"{shown(self.value)} is not names with values.", f"It may have {', '.join(known)}.")
        for name in self.value:
            if name not in known:
                raise self[name].fault(f"{what} has no '{name}'.", meant(str(name), known))

    def items(self) -> Iterator[tuple[str, Node]]:
        """What stands in a mapping, by its name."""
        if not isinstance(self.value, Mapping):
            raise self.fault(f"{shown(self.value)} is not names with values.")
        for name in self.value:
            yield str(name), self[name]

    def each(self) -> list[Node]:
        """What stands in a list."""
        if isinstance(self.value, (str, bytes)) or not isinstance(self.value, Sequence):
            raise self.fault(f"{shown(self.value)} is not a list.", "Write it as a list: [...].")
        return [self[number] for number in range(len(self.value))]

    def some(self) -> list[Node]:
        """What stands in a list, or this alone."""
        return self.each() if isinstance(self.value, list) else [self]

    def text(self) -> str:
        """A text; a number is one as it is written."""
        if isinstance(self.value, (str, int)) and not isinstance(self.value, bool):
            return str(self.value)
        raise self.fault(f"{shown(self.value)} is not text.")

    def flag(self) -> bool:
        if isinstance(self.value, bool):
            return self.value
        raise self.fault(f"{shown(self.value)} is neither true nor false.")

    def one_of(self, known: Iterable[str]) -> str:
        known = list(known)
        if self.value in known:
            return str(self.value)
        raise self.fault(f"{shown(self.value)} is not known here.", meant(str(self.value), known))


def path_text(path: Path_) -> str:
    """A path as messages write it: parts[3].ledger.columns[0]."""
    text = "".join(f"[{step}]" if isinstance(step, int) else f".{step}" for step in path)
    return text.removeprefix(".")


def path_of(text: str) -> Path_:
    """The path that messages write so."""
    return tuple(int(match[2]) if match[2] else match[1] for match in STEP.finditer(text))


# ---- reading ----


def read_file(path: Path, text: str) -> tuple[dict[str, Any], Places]:
    """The data of a file, and the places of its values."""
    reader = READERS.get(path.suffix.lower())
    if reader is None or path.suffix.lower() not in (".yaml", ".yml", ".json", ".toml"):
        raise DataError(
            f"A brief is not written as '{path.suffix or path.name}'.", where=Where(str(path)),
            remedy="Write it as YAML, JSON or TOML.",
        )  # fmt: skip
    data = as_mapping(reader(text, str(path)), str(path))
    return data, places_of(text, "toml" if path.suffix.lower() == ".toml" else "yaml")


def read_text(text: str, kind: str, source: str) -> tuple[dict[str, Any], Places]:
    """The data of a text of a kind: yaml, json, toml; '' for YAML or JSON."""
    if kind and kind not in KINDS:
        raise DataError(f"A brief is not written as '{kind}'.", where=Where(source), remedy=meant(kind, KINDS))
    data = read_stream(text) if not kind else as_mapping(READERS[KINDS[kind]](text, source), source)
    return data, places_of(text, "toml" if kind == "toml" else "yaml")


def places_of(text: str, kind: str) -> Places:
    """Where each value of a text that has been read stands: line and column from 1. JSON is read as YAML."""
    return _toml_places(text) if kind == "toml" else _yaml_places(text)


def _yaml_places(text: str) -> Places:
    import yaml

    places: dict[Path_, tuple[int, int]] = {}
    try:
        root = yaml.compose(text, Loader=yaml.SafeLoader)
    except yaml.YAMLError:  # JSON with tabs in it
        return places
    todo: list[tuple[Path_, Any]] = [((), root)]
    seen: set[int] = set()
    while todo:
        path, node = todo.pop()
        if id(node) in seen:
            continue
        seen.add(id(node))
        if isinstance(node, yaml.MappingNode):
            for key, value in node.value:
                inner = (*path, str(key.value))
                places.setdefault(inner, (key.start_mark.line + 1, key.start_mark.column + 1))
                todo.append((inner, value))
        elif isinstance(node, yaml.SequenceNode):
            for number, value in enumerate(node.value):
                inner = (*path, number)
                places.setdefault(inner, (value.start_mark.line + 1, value.start_mark.column + 1))
                todo.append((inner, value))
    return places


def _toml_places(text: str) -> Places:
    """Lines that begin a table or set a key (TOML 1.0); what stands inside of inline values has the line of its key."""
    places: dict[Path_, tuple[int, int]] = {}
    counts: dict[Path_, int] = {}
    table: Path_ = ()
    quotes = ""
    for number, line in enumerate(text.splitlines(), 1):
        if quotes:
            quotes = "" if line.count(quotes) % 2 else quotes
            continue
        head, key = TABLE.match(line), KEY.match(line)
        if head is not None:
            table = _table_path(_parts(head[2]), counts, is_list=head[1] == "[[")
            places.setdefault(table, (number, line.index("[") + 1))
        elif key is not None:
            path: Path_ = (*table, *_parts(key[2]))
            for length in range(len(table) + 1, len(path) + 1):
                places.setdefault(path[:length], (number, len(key[1]) + 1))
        quotes = next((mark for mark in ('"""', "'''") if line.count(mark) % 2), "")
    return places


def _parts(text: str) -> tuple[str, ...]:
    return tuple(part.strip("\"'") for part in PART.findall(text))


def _table_path(names: Sequence[str], counts: dict[Path_, int], *, is_list: bool) -> Path_:
    """The path of a table: lists on its way are at their last item, and its own begins a new one."""
    path: Path_ = ()
    for place, name in enumerate(names):
        path = (*path, name)
        last = place == len(names) - 1
        if last and is_list:
            counts[path] = counts.get(path, -1) + 1
        if path in counts:
            path = (*path, counts[path])
    return path
