"""The brief: a report that a file describes, made of data and parameters at run time."""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any, BinaryIO, Final, NamedTuple

from fleetquill.authoring.looks import USUAL
from fleetquill.authoring.manuscript import Manuscript
from fleetquill.briefs.asked import columns, uses
from fleetquill.briefs.datasets import SOURCES, DataSets, Given, check_dataset
from fleetquill.briefs.expressions import Expressions
from fleetquill.briefs.nodes import Node, Reading, read_file, read_text
from fleetquill.briefs.parameters import Parameter, read_parameters, values_of
from fleetquill.briefs.parts import EDGES, BriefBuilder, check_parts
from fleetquill.briefs.sources import file_beside
from fleetquill.briefs.sql import Connections, names_bound
from fleetquill.errors import DataError, OptionError, Where, meant
from fleetquill.formats import Formats, check_locale
from fleetquill.intake.order import Run
from fleetquill.tree.document import Document
from fleetquill.tree.files import read_text as read_file_text
from fleetquill.tree.forms import check_currency

NAME: Final = "brief"
FACTS: Final = ("title", "subtitle", "author", "language")
LOOKS: Final = ("look", "style", "page", "margin")
TOP: Final = (
    *FACTS, "show_title", "locale", "currency", *LOOKS, *EDGES, "parameters", "connections", "data",
    "parts",
)  # fmt: skip


class SourceFacts(NamedTuple):
    """Where data of a brief comes from: its name, 'given', 'file', 'sql' or 'from', and what it says of that."""

    name: str
    kind: str
    detail: str


class Brief:
    """A report in a file: `Brief.read` reads it, `Press.compose` and `Press.write` make it.

    `parameters` are what it can be told, `sources` where its data comes from, `connections` the names of the databases
    that it asks, `columns()` what rows that are given must have.
    """

    def __init__(self, data: Mapping[str, Any], reading: Reading, base: Path | None) -> None:
        """See `read`."""
        self._reading = reading
        self._base = base
        self.files = (Path(reading.source),) if base is not None and Path(reading.source).is_file() else ()
        self._top = _top_of(data, reading)
        self._check()

    @classmethod
    def read(
        cls, source: str | os.PathLike[str] | bytes | BinaryIO, *, kind: str = "", base: str | os.PathLike[str] = ""
    ) -> Brief:
        """The brief of a file (.yaml, .json, .toml), of bytes or of a binary stream.

        Of these `kind` says how they are written ('yaml', 'json', 'toml'), and `base` is the folder that its files are
        relative to; without one it can name none. Raises DataError with line, column and path, such as
        `parts[2].ledger.columns[0].form`, where something is wrong.
        """
        if isinstance(source, (str, os.PathLike)):
            path = Path(source)
            data, places = read_file(path, read_file_text(path, "brief"))
            return cls(data, Reading(str(path), places), path.parent)
        content = source if isinstance(source, (bytes, bytearray)) else source.read()
        try:
            text = bytes(content).decode("utf-8-sig")
        except UnicodeDecodeError as error:
            raise DataError("The brief is no text in UTF-8.", where=Where("brief")) from error
        data, places = read_text(text, kind, "brief")
        return cls(data, Reading("brief", places), Path(base) if base else None)

    def __repr__(self) -> str:
        return f"<Brief {self.title!r}: {len(self.parameters)} parameters, {len(self.sources)} sources>"

    # ---- what it says ----

    @property
    def title(self) -> str:
        """The title as it is written: values may stand in it."""
        title = self._top.get("title")
        return "" if title is None else title.text()

    @property
    def parameters(self) -> tuple[Parameter, ...]:
        return tuple(self._parameters)

    @property
    def sources(self) -> tuple[SourceFacts, ...]:
        """Where its data comes from."""
        return tuple(self._sources())

    def _sources(self) -> Iterator[SourceFacts]:
        for name, node in self._sets():
            kind = next(kind for kind in SOURCES if kind in node.value)
            detail = "" if kind == "given" else node[kind].text()
            if kind == "sql":
                detail = f"{node['connection'].text()}: {' '.join(detail.split())}"
            yield SourceFacts(name, kind, detail)

    @property
    def connections(self) -> tuple[str, ...]:
        """The names of the connections that must be given."""
        own = dict(self._own_databases())
        asked = [node["connection"].text() for _, node in self._sets() if node.get("connection") is not None]
        return tuple(name for name in dict.fromkeys(asked) if name not in own)

    def columns(self) -> dict[str, tuple[str, ...]]:
        """For each data that is given at run time, the names that its rows must have, as far as the brief names them.

        Those of data that is made of it ('from') are counted in.
        """
        return columns(self._top.value)

    # ---- making it ----

    def document_for(self, run: Run) -> Document:
        """The document that the press lays out; it is closed once it is made."""
        connections = Connections(run.connections or {}, dict(self._own_databases()))
        try:
            document = self._document(run, connections)
        except BaseException:
            connections.close()
            raise
        document.closers.append(connections.close)
        return document

    def _document(self, run: Run, connections: Connections) -> Document:
        formats = self._formats(run.formats)
        room = Expressions(formats, run.words, strangers=run.policy.strangers)
        values = values_of(self._parameters, run.parameters or {})
        given = Given(self._rows(run.data), connections, self._base, run.policy, [])
        often = uses(self._top.value, dict(self._sets()))
        sets = DataSets(self._top.get("data"), given, room, values, often)
        manuscript = self._manuscript(room, sets.values, given)
        builder = BriefBuilder(self._reading, sets, room, formats)
        builder.manuscript = manuscript
        builder.margins(manuscript, self._top.value)
        self._add_title(manuscript, room, sets.values)
        if self._top.get("parts") is not None:
            builder.parts(manuscript, self._top["parts"].value, "brief.parts")
        document = manuscript.document
        document.locale, document.currency = self._text("locale"), self._text("currency")
        document.files += [*self.files, *given.files, *connections.files]
        return document

    def _manuscript(self, room: Expressions, values: Mapping[str, Any], given: Given) -> Manuscript:
        facts = {
            name: str(self._filled(name, room, values))
            for name in ("title", "author", "language")
            if self._top.get(name) is not None
        }
        facts.setdefault("language", self._text("locale").replace("_", "-"))
        look = self._text("look") or USUAL
        page: Any = self._filled("page", room, values) or ""
        margin: Any = self._filled("margin", room, values) or ""
        page = tuple(page) if isinstance(page, list) else page
        try:
            m = Manuscript(look=look, page=page, margin=margin, base=self._base, source=self._reading.source, **facts)
        except OptionError as error:
            raise self._top.fault(error.what, error.remedy) from error
        for sheet in self._top["style"].some() if self._top.get("style") else []:
            m.add_style(_sheet(sheet, given), self._reading.source)
        return m

    def _add_title(self, m: Manuscript, room: Expressions, values: Mapping[str, Any]) -> None:
        hidden = self._top.get("show_title") is not None and not self._top["show_title"].flag()
        if hidden:
            return
        if self._top.get("title") is not None:
            m.heading(str(self._filled("title", room, values)))
        if self._top.get("subtitle") is not None:
            m.paragraph(str(self._filled("subtitle", room, values)), class_="fq-subtitle")

    def _filled(self, name: str, room: Expressions, values: Mapping[str, Any]) -> Any:
        node = self._top.get(name)
        return None if node is None else room.filled(node, values)

    def _text(self, name: str) -> str:
        node = self._top.get(name)
        return "" if node is None else node.text()

    def _formats(self, usual: Formats) -> Formats:
        """How values are written: as the brief says, else as the press does."""
        locale, currency = self._text("locale"), self._text("currency")
        if not locale and not currency:
            return usual
        return Formats(locale or str(usual.locale), currency or ("" if locale else usual.currency))

    def _rows(self, given: Any) -> Mapping[str, Any]:
        """Rows by the names of data: a single data may be given without its name."""
        names = [name for name, node in self._sets() if "given" in node.value]
        where = Where(self._reading.source)
        if given is None:
            return {}
        if isinstance(given, Mapping):
            for name in given:
                if name not in names:
                    hint = meant(str(name), names) if names else "It takes none."
                    raise DataError(f"The brief has no data '{name}' that is given.", where=where, remedy=hint)
            return given
        if len(names) != 1:
            what = f"takes data under several names: {', '.join(names)}" if names else "takes no data"
            raise DataError(f"The brief {what}.", where=where, remedy="Give data={'name': rows}." if names else "")
        return {names[0]: given}

    # ---- what holds before it is made ----

    def _check(self) -> None:
        top = self._top
        top.names(TOP, "A brief")
        self._parameters = read_parameters(top.get("parameters"))
        known = [name for name, _ in self._sets()]
        for name, node in self._sets():
            if not name.isidentifier():
                raise node.fault(f"'{name}' cannot be the name of data.", "Use letters, figures and '_'.")
            if name in {parameter.name for parameter in self._parameters}:
                raise node.fault(f"'{name}' is a parameter, too.", "Give one of them another name.")
            check_dataset(node, known)
            for bound in names_bound(node["sql"].text()) if node.get("sql") else []:
                if bound not in {parameter.name for parameter in self._parameters}:
                    raise node["sql"].fault(
                        f"The query binds ':{bound}', which is no parameter of the brief.",
                        meant(bound, [parameter.name for parameter in self._parameters]),
                    )
        self._check_circles()
        for name in ("locale", "currency"):
            if top.get(name) is not None:
                try:
                    (check_locale if name == "locale" else check_currency)(top[name].text())
                except OptionError as error:
                    raise top[name].fault(error.what, error.remedy) from error
        list(self._own_databases())
        if top.get("parts") is not None:
            check_parts(top["parts"], Manuscript)

    def _check_circles(self) -> None:
        """Raises DataError where data is made of itself."""
        made_of = {name: self._origins(node) for name, node in self._sets()}
        for name, node in self._sets():
            seen, todo = set(), list(made_of[name])
            while todo:
                one = todo.pop()
                if one == name:
                    raise node.fault(f"The data '{name}' is made of itself.")
                if one not in seen:
                    seen.add(one)
                    todo += made_of.get(one, [])

    @staticmethod
    def _origins(node: Node) -> list[str]:
        own = [node["from"].text()] if node.get("from") is not None else []
        return own + ([name for name, _ in node["join"].items()] if node.get("join") is not None else [])

    def _sets(self) -> list[tuple[str, Node]]:
        node = self._top.get("data")
        return [] if node is None else list(node.items())

    def _own_databases(self) -> Iterator[tuple[str, Path]]:
        """Databases of SQLite in files beside the brief, which it names itself."""
        node = self._top.get("connections")
        for name, inner in node.items() if node is not None else []:
            text = inner.text()
            if "://" in text:
                raise inner.fault(
                    "A brief names no address of a database: it may hold a password.",
                    f"Give it with connections={{'{name}': …}}; here only the name of a SQLite file may stand.",
                )
            if self._base is None:
                raise inner.fault("The brief has no folder: it cannot name a file.", "Give the connection at run time.")
            yield name, self._base / text


def _sheet(node: Node, given: Given) -> str:
    """A style sheet: the text of one, or the name of a file beside the brief."""
    text = node.text()
    if "{" in text:
        return text
    path = file_beside(node, given.folder, given.policy)
    given.files.append(path)
    return read_file_text(path, "style sheet")


def _top_of(data: Mapping[str, Any], reading: Reading) -> Node:
    if NAME not in data:
        raise DataError(
            f"The file has no '{NAME}' at its top.", where=Where(reading.source), remedy=f"Write all under '{NAME}:'."
        )
    for name in data:
        if name != NAME:
            raise reading.fault((str(name),), f"Beside '{NAME}' nothing stands at the top.", "Put it into the brief.")
    return Node(data[NAME], (NAME,), reading)
