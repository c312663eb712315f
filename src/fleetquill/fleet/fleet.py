"""A fleet: one document for each record, made by many processes, never lost, never twice."""

from __future__ import annotations

import hashlib
import inspect
import json
import os
import pickle
from collections import deque
from collections.abc import Callable, Generator, Iterator, Mapping, Set
from importlib.util import find_spec
from pathlib import Path
from time import monotonic
from typing import Any, Final, NamedTuple

from fleetquill.clock import LOG
from fleetquill.errors import FleetQuillError, OptionError, OutputError, meant
from fleetquill.fleet.combining import Combined, check_combined, combine
from fleetquill.fleet.log import NAME, Entry, Log
from fleetquill.fleet.naming import Names
from fleetquill.fleet.places import FolderPlace, Place, ZipPlace, place_of
from fleetquill.fleet.records import Record, condition, key_of, records_of
from fleetquill.fleet.running import made_by_workers, made_here
from fleetquill.fleet.spool import Item, Spool
from fleetquill.fleet.task import Result, Setup
from fleetquill.policy import is_web
from fleetquill.press import Press
from fleetquill.shelf.document import ShelfDocument
from fleetquill.version import VERSION
from fleetquill.whole_files import write_whole
from fleetquill.workers import check_not_loading

AGAIN: Final = ("", "all", "failed")
GIVEN: Final = ("self", "source", "target", "kind", "data", "parameters", "progress")  # to `write`, by the fleet
SYNC: Final = 2.0  # seconds after which the log is surely on disk
FAILURES: Final = ".failures.jsonl"


class FleetProgress(NamedTuple):
    """How far a fleet is: documents that were made, kept from a run before, and that failed, of how many."""

    made: int
    kept: int
    failed: int
    total: int
    pages: int
    seconds: float

    @property
    def rate(self) -> float:
        """Documents a second."""
        return (self.made + self.failed) / self.seconds if self.seconds else 0.0

    @property
    def left(self) -> float | None:
        """Seconds that the rest may take; None where nobody knows."""
        rest = self.total - self.made - self.kept - self.failed
        return rest / self.rate if self.rate else None


class FleetReport(NamedTuple):
    """What a run came to: documents that were made, that were kept for nothing in them has changed, and that failed;
    pages and bytes of those made, seconds; where the log is, and the failures, where there are any. `ended` says
    whether it came to its end, or was stopped by too many failures."""

    made: int
    kept: int
    failed: int
    pages: int
    bytes: int
    seconds: float
    log: Path
    failures: Path | None
    ended: bool = True


class Mismatch(NamedTuple):
    """A file that is not as the log says."""

    name: str
    what: str


class Fleet:
    """One document for each record.

    `source` is a template's path, a document of a shelf, a brief (the record is its parameters), a function of a module
    that gives a Manuscript for a record, or an address with values of the record in it
    ('https://app.example/orders/{id}/print'). `records` are mappings or rows: a file (CSV, JSON, JSON lines, Excel,
    Parquet), a Query of a database, a cursor, a frame, any iterable; they are never held. `name` is a pattern with
    values of the record, also with folders ('{year}/{number}.pdf'), and says the `kind`; two documents of one name are
    an error, before anything is made, unless they are `numbered`. With `only`, an expression, records for which it does
    not hold are left out. `into` is a folder, a '.zip', or an address of a store that fsspec reaches, with `store` its
    options. `press` has the options of Press, `options` are those of its `write`.
    """

    def __init__(
        self,
        source: str | os.PathLike[str] | ShelfDocument | Callable[[Record], Any],
        records: Any,
        name: str,
        *,
        into: str | os.PathLike[str] = ".",
        kind: str | None = None,
        numbered: bool = False,
        only: str = "",
        log: str | os.PathLike[str] | None = None,
        press: Mapping[str, Any] | None = None,
        store: Mapping[str, Any] | None = None,
        **options: Any,
    ) -> None:
        self._source = os.fspath(source) if isinstance(source, os.PathLike) else source
        self._records = records
        self._read = False
        self._name = name
        self._kind = kind
        self._numbered = numbered
        self._holds = condition(only)
        self._names = Names(name, kind, numbered=numbered)
        self._place = place_of(into, dict(store or {}))
        self._press = dict(press or {})
        self._options = options
        self._check_options()
        self.log = Path(log) if log is not None else _log_of(self._place)

    def run(
        self,
        workers: int | None = None,
        *,
        cluster: str = "",
        progress: Callable[[FleetProgress], object] | None = None,
        again: str = "",
        stop_after: int = 0,
        seconds: float = 60.0,
        combined: str | os.PathLike[str] | Combined | None = None,
    ) -> FleetReport:
        """Makes what is not there yet, and what is another than it was: its record, a file that it was made from, an
        option, the engine. `workers` processes do, by default one for each core; with 0 this one; or those of a
        `cluster`, by its address ('tcp://…'), or 'local'. `again` makes 'all',
        or those that 'failed'. After `stop_after` failures nothing more is begun. A document may take so many
        `seconds`. `progress` is called after each. With `combined`, a path or Combined, all are one PDF,
        too.

        It may be killed at any moment, and run again: what the log has is kept. Raises DataError and OptionError where
        records or options are at fault, before anything is made; what fails of one document is in the report's file of
        failures, and others go on.
        """
        check_not_loading()
        if again not in AGAIN:
            raise OptionError(f"'{again}' is nothing to make again.", remedy=meant(again, AGAIN[1:]))
        count = (os.cpu_count() or 1) if workers is None else workers
        if count < 0:
            raise OptionError(f"{count} workers are none.", remedy="Give 0, or how many there are to be.")
        if count and not cluster:
            _check_package()
        if count or cluster:
            self._check_sendable(seconds)
        one = _combined(combined)
        if one is not None:
            check_combined(self._names.kind.name, self._place)
        self._begin_reading()
        start = monotonic()
        spool = Spool()
        log: Log | None = None
        try:
            for item in self._items():
                spool.add(item)
            log = Log(self.log)
            run = _Run(self, spool, log, again, start)
            return run.make(_Crew(count, cluster), seconds, stop_after, progress, one)
        finally:
            spool.close()
            if log is not None:
                log.close()

    def _check_options(self) -> None:
        """Raises OptionError where the press, or what it writes, has no such option."""
        Press(**self._press)
        known = [name for name in inspect.signature(Press.write).parameters if name not in GIVEN]
        unknown = next((name for name in self._options if name not in known), None)
        if unknown is not None:
            raise OptionError(f"A fleet has no '{unknown}', nor what it writes.", remedy=meant(unknown, known))

    def _begin_reading(self) -> None:
        """An iterator can be read once."""
        if self._read and hasattr(self._records, "__next__"):
            raise OptionError("The records were an iterator, which has been read.", remedy="Make a fleet of another.")
        self._read = True

    def _check_sendable(self, seconds: float) -> None:
        try:
            pickle.dumps(self.setup(seconds))
        except (pickle.PicklingError, TypeError, AttributeError) as error:
            raise OptionError(
                f"What the fleet is made of cannot be sent to another process ({error}).",
                remedy="Give a function of a module, and options that are plain values; or run it with workers=0.",
            ) from error

    def check(self) -> list[Mismatch]:
        """Compares the files with the log. Nothing where all are as they were written."""
        return check(self._place, self.log)

    def _items(self) -> Iterator[Item]:
        """What is to be made, by name; nothing of it is made yet."""
        names = Names(self._name, self._kind, numbered=self._numbered)
        holds = (
            VERSION,
            self._said(),
            names.kind.name,
            repr(sorted(self._press.items())),
            repr(sorted(self._options.items())),
        )
        for row, record in enumerate(records_of(self._records), 1):
            if self._holds is not None and not self._holds(record, row):
                continue
            yield Item(row, names.name(record, row), key_of(record, *holds), dict(record))

    def _said(self) -> str:
        """What documents are made of, as far as no record and no file that they read says it."""
        source = self._source
        if isinstance(source, ShelfDocument):
            return str(source.path.absolute())
        if isinstance(source, str):
            return source if is_web(source) else str(Path(source).absolute())
        return f"{source.__module__}.{source.__qualname__} {_hash_of_file(inspect.getsourcefile(source))}"

    @property
    def place(self) -> Place:
        return self._place

    def setup(self, seconds: float) -> Setup:
        return Setup(self._source, self._press, self._options, self._names.kind.name, self._place, seconds)


class _Crew(NamedTuple):
    """Who makes documents: so many workers, or a cluster."""

    workers: int
    cluster: str

    def results(self, items: Iterator[Item], count: int, setup: Setup) -> Generator[Result, None, None]:
        if self.cluster:
            from fleetquill.fleet.cluster import made_by_cluster

            yield from made_by_cluster(items, count, setup, self.cluster)
        elif self.workers and count:
            yield from made_by_workers(items, count, setup, self.workers)
        else:
            yield from made_here(items, setup)


def _check_package() -> None:
    if find_spec("psutil") is None:
        raise OptionError(
            "Workers need the package psutil, which is not there.",
            remedy="Install fleetquill[fleet], or run the fleet with workers=0.",
        )


def _hash_of_file(path: str | None) -> str:
    """The hash of the file that a function stands in: another function, another document."""
    return "" if path is None else hashlib.sha256(Path(path).read_bytes()).hexdigest()


def _combined(given: str | os.PathLike[str] | Combined | None) -> Combined | None:
    return Combined(given) if isinstance(given, (str, os.PathLike)) else given


class _Stopped(FleetQuillError):
    """So many documents failed that nothing more is begun."""

    def __init__(self) -> None:
        super().__init__("Too many documents failed.")


class _Run:
    """One run: what is kept, what is made, and what came of it."""

    def __init__(self, fleet: Fleet, spool: Spool, log: Log, again: str, start: float) -> None:
        self._fleet, self._spool, self._log, self._again = fleet, spool, log, again
        self._start = start
        self._made = self._kept = self._failed = self._pages = self._bytes = 0
        self._synced = start

    def make(
        self,
        crew: _Crew,
        seconds: float,
        stop_after: int,
        progress: Callable[[FleetProgress], object] | None,
        combined: Combined | None,
    ) -> FleetReport:
        wanted = {item.row for item in self._spool if self._is_wanted(item)}
        waiting: dict[int, Item] = {}
        place = self._fleet.place
        if combined is not None and isinstance(place, ZipPlace):
            place.gather(item.name for item in self._spool if item.row not in wanted and not self._has_failed(item))
        results = crew.results(self._noted(wanted, waiting), len(wanted), self._fleet.setup(seconds))

        def next_result() -> None:
            result = next(results, None)
            if result is None:
                raise OutputError("The workers ended before all was made.", remedy="Run the fleet again.")
            self._note(waiting.pop(result.row), result)
            wanted.discard(result.row)
            if progress is not None:
                progress(self._progress())
            if stop_after and self._failed >= stop_after:
                raise _Stopped

        ended = True
        try:
            documents = self._in_order(wanted, next_result)
            if combined is not None:
                combine(combined, documents, place)
            deque(documents, maxlen=0)
            place.end(item.name for item, _ in self._in_order(wanted, next_result))
        except _Stopped:
            ended = False
        finally:
            results.close()
        LOG.info("%s: %d made, %d kept, %d failed", self._log.path, self._made, self._kept, self._failed)
        return FleetReport(
            self._made, self._kept, self._failed, self._pages, self._bytes, monotonic() - self._start, self._log.path,
            self._tell_failures(), ended,
        )  # fmt: skip

    def _noted(self, wanted: Set[int], waiting: dict[int, Item]) -> Iterator[Item]:
        """The items that are to be made, each noted as such once it is handed out."""
        rows = frozenset(wanted)
        for item in self._spool:
            if item.row in rows:
                waiting[item.row] = item
                yield item

    def _in_order(self, wanted: Set[int], next_result: Callable[[], None]) -> Iterator[tuple[Item, int]]:
        """The documents that are there, in the order of their records, each as soon as it is."""
        for item in self._spool:
            while item.row in wanted:
                next_result()
            outcome = self._log.entries[item.name].outcome
            if not outcome.error:
                yield item, outcome.pages

    def _is_wanted(self, item: Item) -> bool:
        """Whether it is to be made: what is there as it would be made is kept."""
        entry = self._log.entries.get(item.name)
        if entry is None or self._again == "all":
            return True
        if entry.key != item.key or self._log.is_stale(entry):
            return True
        if entry.outcome.error:
            self._failed += self._again != "failed"
            return self._again == "failed"
        if self._fleet.place.length(item.name) != entry.outcome.length:
            return True
        self._kept += 1
        return False

    def _note(self, item: Item, result: Result) -> None:
        outcome = result.outcome
        self._log.add(Entry(item.name, item.key, outcome, self._log.numbers(result.files)))
        if outcome.error:
            LOG.warning("%s: %s", item.name, outcome.error)
            self._failed += 1
        else:
            self._made += 1
            self._pages += outcome.pages
            self._bytes += outcome.length
        if monotonic() - self._synced > SYNC:
            self._log.sync()
            self._synced = monotonic()

    def _progress(self) -> FleetProgress:
        seconds = monotonic() - self._start
        return FleetProgress(self._made, self._kept, self._failed, self._spool.count, self._pages, seconds)

    def _tell_failures(self) -> Path | None:
        """Writes what failed, with its record and its error, so that it can be mended and made alone."""
        path = self._log.path.with_name(self._log.path.name.removesuffix(".jsonl") + FAILURES)
        failed = [item for item in self._spool if self._has_failed(item)] if self._failed else []
        if not failed:
            path.unlink(missing_ok=True)
            return None
        lines = (
            {
                "name": item.name,
                "row": item.row,
                "error": self._log.entries[item.name].outcome.error,
                "record": item.record,
            }
            for item in failed
        )
        content = "".join(json.dumps(line, default=str, ensure_ascii=False) + "\n" for line in lines)
        write_whole(path, lambda stream: _write_text(stream, content))
        return path

    def _has_failed(self, item: Item) -> bool:
        entry = self._log.entries.get(item.name)
        return entry is not None and bool(entry.outcome.error)


def _write_text(stream: Any, content: str) -> None:
    stream.write(content.encode("utf-8", "replace"))


def _log_of(place: Place) -> Path:
    """Where the log is kept: in the folder, or beside the file."""
    if isinstance(place, FolderPlace):
        return Path(place.folder, NAME)
    if isinstance(place, ZipPlace):
        return Path(f"{place.path}.{NAME}")
    raise OptionError("A store cannot be added to: the log is kept here.", remedy="Say where, with log='fleet.jsonl'.")


def check(place: Place, log: Path) -> list[Mismatch]:
    """Compares the files of a place with its log. Raises OptionError where there is no log."""
    if not log.is_file():
        raise OptionError(f"There is no log '{log}'.", remedy="Give the folder that a fleet was written into.")
    known = Log(log)
    known.close()
    found: list[Mismatch] = []
    with place.reading() as read:
        for entry in known.entries.values():
            if entry.outcome.error:
                continue
            was, length = entry.outcome, place.length(entry.name)
            if length is None:
                found.append(Mismatch(entry.name, "is not there"))
            elif length != was.length or hashlib.sha256(read(entry.name)).hexdigest()[:32] != was.hash:
                found.append(Mismatch(entry.name, "is another than was written"))
    return found
