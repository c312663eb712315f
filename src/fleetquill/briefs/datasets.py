"""The data of a brief: each by its name, where its rows come from and what is made of them."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any, Final, NamedTuple

from fleetquill.briefs.expressions import Expressions, Values, check_names
from fleetquill.briefs.nodes import Node
from fleetquill.briefs.parameters import TYPES
from fleetquill.briefs.rowsets import (
    Measure,
    Opened,
    RowSet,
    Wanted,
    computed,
    distinct,
    filtered,
    first,
    joined,
    kept,
    running,
    shares,
    sorted_by,
    summed,
    typed,
)
from fleetquill.briefs.sources import file_beside, given_rows, read_file_rows
from fleetquill.briefs.sql import Connections
from fleetquill.errors import meant
from fleetquill.policy import Policy
from fleetquill.tree.column import FIGURES

SOURCES: Final = ("given", "file", "sql", "from")
SHAPING: Final = (  # in the order in which it is done
    "types", "join", "compute", "where", "by", "figures", "sort", "distinct", "running", "share", "top", "keep",
)  # fmt: skip
FACTS: Final = (*SOURCES, "connection", "sheet", *SHAPING)
WITHIN: Final = ("of", "within")


def check_dataset(node: Node, known: Iterable[str]) -> None:
    """Raises DataError where data is described in words that make no sense."""
    node.names(FACTS, "Data")
    sources = [name for name in SOURCES if name in node.value]
    if len(sources) != 1:
        what = "comes from nowhere" if not sources else f"comes from both '{sources[0]}' and '{sources[1]}'"
        raise node.fault(f"The data {what}.", f"Give one of {', '.join(SOURCES)}.")
    origin = node.get("from")
    if origin is not None:
        origin.one_of(known)
    if node.get("sql") is not None and node.get("connection") is None:
        raise node.fault("The query names no connection.", "Write 'connection:' with the name of one.")
    if node.get("types") is not None:
        for _, kind in node["types"].items():
            kind.one_of(TYPES)
    if (node.get("by") is None) != (node.get("figures") is None):
        raise node.fault("'by' and 'figures' go together.", "Say by which names rows are added up, and to what.")
    if node.get("figures") is not None:
        for name, inner in node["figures"].items():
            _wanted(name, inner)
    if node.get("join") is not None:
        for name, inner in node["join"].items():
            if name not in known:
                raise inner.fault(f"There is no data '{name}'.", meant(name, known))


def _wanted(name: str, node: Node) -> Wanted:
    """A figure such as 'sum', 'sum toll' or 'count'."""
    figure, _, of = node.text().strip().partition(" ")
    if figure not in FIGURES:
        raise node.fault(f"'{figure}' is no figure.", meant(figure, FIGURES))
    return Wanted(name, figure, of.strip() or ("" if figure == "count" else name), node)


def _names(node: Node) -> list[str]:
    return [one.text() for one in node.some()]


class Given(NamedTuple):
    """What data is made of at run time: rows by name, connections, the brief's folder, what may be read; `files` takes
    those that are."""

    rows: Mapping[str, Any]
    connections: Connections
    folder: Path | None
    policy: Policy
    files: list[Path]


class DataSets:
    """The data of a brief that is being made."""

    def __init__(
        self, node: Node | None, given: Given, room: Expressions, values: Values, often: Mapping[str, int]
    ) -> None:
        self._nodes = {} if node is None else dict(node.items())
        self._given = given
        self._room = room
        self._parameters = values
        self._sets = {
            name: RowSet(self._opener(inner), often=often.get(name, 2) > 1) for name, inner in self._nodes.items()
        }

    @property
    def values(self) -> dict[str, Any]:
        """What expressions know: the parameters, and the data by its names."""
        return {**self._sets, **self._parameters}

    def named(self, node: Node, values: Values) -> RowSet:
        """The rows that a part asks for: by a name, or described in the part itself."""
        if isinstance(node.value, str):
            found = values.get(node.value)
            if not isinstance(found, RowSet):
                raise node.fault(f"There is no data '{node.value}'.", meant(node.value, self._sets))
            return found
        node.names(("from", *SHAPING), "Rows of a part")
        if node.get("from") is None:
            raise node.fault("These rows come from nowhere.", "Write 'from:' with the name of data.")
        return RowSet(lambda: self._shaped(self.named(node["from"], values).open(), node, values), often=False)

    def _opener(self, node: Node) -> Any:
        return lambda: self._shaped(self._source(node), node, self.values)

    def _source(self, node: Node) -> Opened:
        given = self._given
        if node.get("from") is not None:
            return self._sets[node["from"].text()].open()
        if node.get("file") is not None:
            path = file_beside(node["file"], given.folder, given.policy)
            given.files.append(path)
            return read_file_rows(node["file"], path, node.get("sheet"), given.policy)
        if node.get("sql") is not None:
            if given.policy.strangers:
                raise node.fault("A brief of strangers asks a database.", "Give it rows instead.")
            return given.connections.rows(node["sql"], node["connection"].text(), self._parameters)
        name = str(node.path[-1])
        if name not in given.rows:
            hint = f"Give them with data={{'{name}': rows}}, or --data and a file."
            if given.rows:
                hint = meant(name, given.rows)
            raise node.fault(f"The rows of '{name}' are not given.", hint)
        rows = given.rows[name]
        if isinstance(rows, (str, Path)):
            given.files.append(Path(rows))
        return given_rows(rows, name)

    def _shaped(self, opened: Opened, node: Node, outer: Values) -> Opened:
        """What is made of rows, in the order of SHAPING."""
        if node.get("types") is not None:
            opened = typed(opened, node["types"])
        if node.get("join") is not None:
            for name, inner in node["join"].items():
                opened = joined(opened, self._sets[name].open(), _keys(inner), inner)
        if node.get("compute") is not None:
            made = [(name, self._room.expression(inner)) for name, inner in node["compute"].items()]
            known = [*opened.names]
            for (name, inner), (_, expression) in zip(node["compute"].items(), made, strict=True):
                check_names(inner, expression.names, [*known, *outer])
                known.append(name)
            opened = computed(opened, made, outer)
        if node.get("where") is not None:
            for inner in node["where"].some():
                condition = self._room.expression(inner)
                check_names(inner, condition.names, [*opened.names, *outer])
                opened = filtered(opened, condition, outer)
        if node.get("figures") is not None:
            figures = [_wanted(name, inner) for name, inner in node["figures"].items()]
            opened = summed(opened, _names(node["by"]), figures, node["by"])
        if node.get("sort") is not None:
            opened = sorted_by(opened, _names(node["sort"]), node["sort"])
        if node.get("distinct") is not None:
            wanted = [] if node["distinct"].value is True else _names(node["distinct"])
            opened = distinct(opened, wanted, node["distinct"])
        if node.get("running") is not None:
            opened = running(opened, _measures(node["running"]))
        if node.get("share") is not None:
            opened = shares(opened, _measures(node["share"]))
        if node.get("top") is not None:
            opened = first(opened, self._count(node["top"], outer))
        if node.get("keep") is not None:
            opened = kept(opened, _names(node["keep"]), node["keep"])
        return opened

    def _count(self, node: Node, outer: Values) -> int:
        value = self._room.filled(node, outer)
        if isinstance(value, bool) or not isinstance(value, int) or value < 1:
            raise node.fault(f"{value!r} is not how many rows are wanted.", "Give a whole number.")
        return value


def _keys(node: Node) -> dict[str, str]:
    """By which names rows are joined: alike on both sides, or the name here with the one there."""
    if isinstance(node.value, Mapping):
        return {name: inner.text() for name, inner in node.items()}
    return {name: name for name in _names(node)}


def _measures(node: Node) -> list[Measure]:
    measures: list[Measure] = []
    for name, inner in node.items():
        if isinstance(inner.value, str):
            measures.append(Measure(name, inner.value, (), inner))
            continue
        inner.names(WITHIN, "A running sum or share")
        if inner.get("of") is None:
            raise inner.fault("This says nothing of what is added up.", "Write 'of:' with a name.")
        within = _names(inner["within"]) if inner.get("within") is not None else []
        measures.append(Measure(name, inner["of"].text(), within, inner))
    return measures


def uses_of(names: Iterable[str], texts: Iterable[str]) -> dict[str, int]:
    """How often each data is named in some texts: what is named once can go by as it comes."""
    whole = "\n".join(texts)
    return {name: len(re.findall(rf"\b{re.escape(name)}\b", whole)) for name in names}
