"""A fleet on many machines: Dask hands batches to its workers, and takes care of those that are lost."""

from __future__ import annotations

import hashlib
import io
import tempfile
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, BinaryIO, Final, NamedTuple

from fleetquill.errors import OptionError
from fleetquill.fleet.log import Outcome
from fleetquill.fleet.places import Place, Stored, StorePlace, Write
from fleetquill.fleet.spool import Item
from fleetquill.fleet.task import Maker, Result, Setup
from fleetquill.shelf.document import ShelfDocument

LOCAL: Final = "local"
AHEAD: Final = 3  # batches a worker has before it, so that it never waits
MOST: Final = 32  # items in a batch
MOST_SENT: Final = 64 * 2**20  # bytes of files that go along
AGAIN: Final = 3  # workers that one batch may lose


class Sent(NamedTuple):
    """What goes to every worker: the set-up, and the files of the source's folder, packed; nothing is assumed of the
    workers' disks."""

    name: str
    setup: Setup
    folder: str
    files: bytes


class Bench(NamedTuple):
    """What a worker of the cluster keeps: its maker, and the folder of the files that came along."""

    maker: Maker
    folder: tempfile.TemporaryDirectory[str] | None

    def home(self, path: str, sent: Sent) -> str:
        """Where a file that came along is kept by the one who sent it."""
        if self.folder is None or not Path(path).is_relative_to(Path(self.folder.name).resolve()):
            return path
        return str(Path(sent.folder) / Path(path).relative_to(Path(self.folder.name).resolve()))


_benches: Final[dict[str, Bench]] = {}  # of this process, where it is a cluster's worker


class HeldPlace:
    """Keeps what is made, for the one who asked: a worker elsewhere has no such folder."""

    def __init__(self) -> None:
        self.content = b""

    def put(self, name: str, write: Write) -> Stored:
        held = io.BytesIO()
        write(held)
        self.content = held.getvalue()
        return Stored(len(self.content), hashlib.sha256(self.content).hexdigest()[:32])


def made_by_cluster(items: Iterator[Item], count: int, setup: Setup, address: str) -> Iterator[Result]:
    """The results of items as they come, of the workers of a cluster: of this machine ('local'), or at an address."""
    try:
        from distributed import Client, LocalCluster, as_completed
    except ImportError as error:
        raise OptionError("A cluster needs Dask, which is not there.", remedy="Install fleetquill[cluster].") from error
    sent = _sent(setup)
    holds = address != LOCAL and not isinstance(setup.place, StorePlace)  # where no worker reaches the folder
    with _client(Client, LocalCluster, address) as client:
        workers = max(1, len(client.scheduler_info()["workers"]))
        size = max(1, min(MOST, count // (4 * workers)))
        everywhere = client.scatter(sent, broadcast=True)
        batches: dict[Any, list[Item]] = {}

        def submit(batch: list[Item]) -> Any:
            future = client.submit(_make, everywhere, batch, holds, pure=False, retries=1)
            batches[future] = batch
            return future

        coming = as_completed([submit(batch) for batch in _first(items, size, AHEAD * workers)])
        for future in coming:
            batch = batches.pop(future)
            if future.status == "finished":
                for result, content in future.result():
                    yield _stored(batch, result, content, setup.place)
            elif len(batch) > 1:  # which of them it was is found out
                for item in batch:
                    coming.add(submit([item]))
                continue
            else:
                yield Result(batch[0].row, Outcome(error="LimitError: The document ends the process that makes it."))
            following = next(_first(items, size, 1), None)
            if following is not None:
                coming.add(submit(following))


def _first(items: Iterator[Item], size: int, count: int) -> Iterator[list[Item]]:
    for _ in range(count):
        batch = [item for _, item in zip(range(size), items, strict=False)]
        if not batch:
            return
        yield batch


def _stored(batch: list[Item], result: Result, content: bytes, place: Place) -> Result:
    """A result whose file is where it belongs."""
    if not content:
        return result
    item = next(item for item in batch if item.row == result.row)

    def write(stream: BinaryIO) -> None:
        stream.write(content)

    place.put(item.name, write)
    return result


@contextmanager
def _client(client_class: Any, local_class: Any, address: str) -> Iterator[Any]:
    import dask

    with dask.config.set({"distributed.scheduler.allowed-failures": AGAIN}):
        if address != LOCAL:
            with client_class(address) as client:
                yield client
            return
        with local_class(threads_per_worker=1, dashboard_address=None) as cluster, client_class(cluster) as client:
            yield client


def _make(sent: Sent, batch: list[Item], holds: bool) -> list[tuple[Result, bytes]]:
    """What a worker of the cluster does; its press is set up once."""
    bench = _benches.get(sent.name)
    if bench is None:
        bench = _benches[sent.name] = _bench_of(sent)
    made: list[tuple[Result, bytes]] = []
    for item in batch:
        held = HeldPlace()
        result = bench.maker.make(item, held if holds else sent.setup.place)
        result = result._replace(files=tuple(bench.home(path, sent) for path in result.files))
        made.append((result, b"" if result.outcome.error else held.content))
    return made


def _folder_of(setup: Setup) -> Path | None:
    """The folder that documents are made from."""
    source = setup.source
    if isinstance(source, ShelfDocument):
        return source.folder.absolute()
    if isinstance(source, str) and "://" not in source:
        return Path(source).absolute().parent
    return None


def _sent(setup: Setup) -> Sent:
    folder = _folder_of(setup)
    packed = io.BytesIO()
    if folder is not None:
        files = sorted(path for path in folder.rglob("*") if path.is_file() and not path.name.startswith("."))
        if sum(path.stat().st_size for path in files) > MOST_SENT:
            raise OptionError(
                f"The folder '{folder}' is too large to be sent to a cluster.",
                remedy="Put the document and what it needs in a folder of their own.",
            )
        with zipfile.ZipFile(packed, "w") as archive:
            for path in files:
                archive.write(path, path.relative_to(folder).as_posix())
    name = hashlib.sha256(packed.getvalue() + repr(setup).encode()).hexdigest()
    return Sent(name, setup, "" if folder is None else str(folder), packed.getvalue())


def _bench_of(sent: Sent) -> Bench:
    """A maker whose source is among the files that came along."""
    if not sent.folder:
        return Bench(Maker(sent.setup), None)
    folder = tempfile.TemporaryDirectory(prefix="fleet-", ignore_cleanup_errors=True)
    with zipfile.ZipFile(io.BytesIO(sent.files)) as archive:
        archive.extractall(folder.name)
    source: Any = sent.setup.source
    if isinstance(source, ShelfDocument):
        source = source.moved(Path(folder.name))
    else:
        source = str(Path(folder.name) / Path(source).absolute().relative_to(sent.folder))
    return Bench(Maker(sent.setup._replace(source=source)), folder)
