"""What a worker does: makes the documents of a few records, each as its name says."""

from __future__ import annotations

import string
from collections.abc import Mapping
from pathlib import Path
from time import perf_counter
from typing import Any, BinaryIO, Final, NamedTuple
from urllib.parse import quote, urlsplit

from fleetquill.deadline import until
from fleetquill.errors import LimitError
from fleetquill.fleet.log import TOLD, Outcome
from fleetquill.fleet.places import Place, Putting
from fleetquill.fleet.spool import Item
from fleetquill.policy import Policy, is_web
from fleetquill.press import Press, Summary
from fleetquill.shelf.document import ShelfDocument
from fleetquill.workers import Tell, Work

BRIEFS: Final = (".yaml", ".yml", ".json", ".toml")


class Setup(NamedTuple):
    """All that a worker needs to be told: what documents are made of, the options of its press and of `write`, where
    they go, and how many seconds one may take."""

    source: Any
    press: Mapping[str, Any]
    options: Mapping[str, Any]
    kind: str
    place: Place
    seconds: float


class Result(NamedTuple):
    """What became of one record."""

    row: int
    outcome: Outcome
    files: tuple[str, ...] = ()  # that it was made from


class Maker:
    """Makes documents with a press that stays warm."""

    def __init__(self, setup: Setup) -> None:
        self._setup = setup
        options = dict(setup.press)
        if isinstance(setup.source, str) and is_web(setup.source) and "policy" not in options:
            options["policy"] = Policy(network=True, hosts=(urlsplit(setup.source).netloc,))
        self._press = Press(**options)

    def make(self, item: Item, place: Putting | None = None) -> Result:
        """Makes the document of an item, and puts it in its place, or in another; what is wrong is in the result."""
        start = perf_counter()
        end = start + self._setup.seconds

        def ask() -> None:
            if perf_counter() > end:
                raise LimitError(
                    f"The document takes more than {self._setup.seconds:g} s, which is all that is allowed."
                )

        try:
            with until(ask):
                return self._made(item, start, place or self._setup.place)
        except Exception as error:  # ours, or of a function that gives manuscripts
            return self._failed(item, start, error)

    def _failed(self, item: Item, start: float, error: Exception) -> Result:
        """What is wrong, and the file that it may be mended in."""
        source = self._setup.source
        path = source.path if isinstance(source, ShelfDocument) else source
        is_file = isinstance(path, Path) or (isinstance(path, str) and not is_web(path))
        files = (str(Path(path).resolve()),) if is_file else ()
        return Result(item.row, Outcome(seconds=_since(start), error=f"{type(error).__name__}: {error}"), files)

    def _made(self, item: Item, start: float, place: Putting) -> Result:
        source, given = self._asked(item.record)
        found: list[Summary] = []

        def write(stream: BinaryIO) -> None:
            found.append(self._press.write(source, stream, kind=self._setup.kind, **{**given, **self._setup.options}))

        stored = place.put(item.name, write)
        summary = found[0]
        told = tuple(str(remark) for remark in summary.remarks[:TOLD])
        files = tuple(dict.fromkeys(str(path.resolve()) for path in summary.files))
        pages, remarks = summary.page_count, len(summary.remarks)
        return Result(item.row, Outcome(stored.length, stored.hash, pages, remarks, told, _since(start)), files)

    def _asked(self, record: Any) -> tuple[Any, Mapping[str, Any]]:
        """The source for a record, and what goes with it."""
        source = self._setup.source
        if isinstance(source, ShelfDocument):
            return source, ({"parameters": record} if source.kind == "brief" else {"data": record})
        if callable(source):
            return source(record), {}
        if is_web(source):
            return _Address().vformat(source, (), record), {}
        if Path(source).suffix.lower() in BRIEFS:
            return source, {"parameters": record}
        return source, {"data": record}


class _Address(string.Formatter):
    """An address with values of the record in it, as they may stand in one."""

    def format_field(self, value: Any, format_spec: str) -> str:
        return quote(str(super().format_field(value, format_spec)), safe="")

    def get_field(self, field_name: str, args: Any, kwargs: Any) -> Any:
        if "._" in field_name or "[_" in field_name:
            raise KeyError(field_name)
        return super().get_field(field_name, args, kwargs)


def _since(start: float) -> float:
    return round(perf_counter() - start, 4)


def begin(setup: Setup) -> Work:
    """What a process of a fleet does: makes batches of items, and tells of each as it is done."""
    maker = Maker(setup)

    def work(batch: list[Item], tell: Tell) -> None:
        for item in batch:
            tell(maker.make(item))

    return work
