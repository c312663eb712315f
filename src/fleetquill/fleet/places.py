"""Where documents go: a folder, a zip file, a store anywhere. Each file is there whole, or not at all."""

from __future__ import annotations

import hashlib
import io
import os
import shutil
import zipfile
from collections.abc import Callable, Iterable, Iterator
from contextlib import AbstractContextManager, ExitStack, contextmanager, nullcontext
from functools import lru_cache, partial
from pathlib import Path, PurePosixPath
from typing import Any, BinaryIO, Final, NamedTuple, Protocol

from fleetquill.errors import OptionError, OutputError, Where
from fleetquill.whole_files import write_whole

PIECE: Final = 1 << 20
DATED: Final = (1980, 1, 1, 0, 0, 0)  # of the parts of a zip file: the same documents, the same bytes
STAGED: Final = ".parts"  # beside a zip file, until it is whole

Write = Callable[[BinaryIO], None]
Read = Callable[[str], bytes]  # the file of a name


class Stored(NamedTuple):
    """A file as it was stored: its bytes, and their hash."""

    length: int
    hash: str


class Putting(Protocol):
    """Takes what is made."""

    def put(self, name: str, write: Write) -> Stored: ...


class Place(Putting, Protocol):
    """Somewhere that documents go, from any process."""

    def length(self, name: str) -> int | None:
        """How many bytes the file of a name has; None where there is none."""

    def read(self, name: str) -> bytes: ...

    def reading(self) -> AbstractContextManager[Read]:
        """Gives what reads many files, one after another."""

    def end(self, names: Iterable[str]) -> None:
        """All are there that there will be."""


class FolderPlace(NamedTuple):
    folder: str

    def _path(self, name: str) -> Path:
        return Path(self.folder, *PurePosixPath(name).parts)

    def put(self, name: str, write: Write) -> Stored:
        path = self._path(name)
        hashed = _Hashed()

        def both(stream: BinaryIO) -> None:
            hashed.stream = stream
            write(hashed)  # type: ignore[arg-type]

        path.parent.mkdir(parents=True, exist_ok=True)
        write_whole(path, both)
        return Stored(hashed.length, hashed.hex)

    def length(self, name: str) -> int | None:
        try:
            return self._path(name).stat().st_size
        except OSError:
            return None

    def read(self, name: str) -> bytes:
        return self._path(name).read_bytes()

    def reading(self) -> AbstractContextManager[Read]:
        return nullcontext(self.read)

    def end(self, names: Iterable[str]) -> None:
        """Nothing is to be done."""


class ZipPlace(NamedTuple):
    """Documents stand in a folder beside the file, until all are there: what is killed can go on."""

    path: str

    @property
    def parts(self) -> FolderPlace:
        return FolderPlace(self.path + STAGED)

    def put(self, name: str, write: Write) -> Stored:
        return self.parts.put(name, write)

    def length(self, name: str) -> int | None:
        found = self.parts.length(name)
        return self._lengths().get(name) if found is None else found

    def _lengths(self) -> dict[str, int]:
        """The lengths of what the file holds, in its order; nothing where there is no such file."""
        try:
            facts = os.stat(self.path)
            return _lengths(self.path, facts.st_mtime_ns, facts.st_size)
        except (OSError, zipfile.BadZipFile):
            return {}

    def read(self, name: str) -> bytes:
        with self.reading() as read:
            return read(name)

    @contextmanager
    def reading(self) -> Iterator[Read]:
        """Reads from the folder, and from the file, which is opened once: its index is as long as it has files."""
        with ExitStack() as opened:
            archives: list[zipfile.ZipFile] = []

            def read(name: str) -> bytes:
                if self.parts.length(name) is not None:
                    return self.parts.read(name)
                if not archives:
                    archives.append(opened.enter_context(zipfile.ZipFile(self.path)))
                return archives[0].read(name)

            yield read

    def gather(self, names: Iterable[str]) -> None:
        """Puts those into the folder that are in the file alone."""
        with self.reading() as read:
            for name in names:
                if self.parts.length(name) is None:
                    self.parts.put(name, partial(_write, read(name)))

    def end(self, names: Iterable[str]) -> None:
        wanted = list(names)
        if not Path(self.parts.folder).exists() and wanted and wanted == list(self._lengths()):
            return  # it is as it is to be

        def write(stream: BinaryIO) -> None:
            with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive, self.reading() as read:
                for name in wanted:
                    entry = zipfile.ZipInfo(name, DATED)
                    entry.compress_type = zipfile.ZIP_DEFLATED
                    entry.external_attr = 0o644 << 16
                    archive.writestr(entry, read(name))

        write_whole(Path(self.path), write)
        shutil.rmtree(self.parts.folder, ignore_errors=True)


@lru_cache(4)
def _lengths(path: str, _changed: int, _size: int) -> dict[str, int]:
    """The lengths of what a zip file holds, read once for each state of it."""
    with zipfile.ZipFile(path) as archive:
        return {entry.filename: entry.file_size for entry in archive.infolist()}


def _write(content: bytes, stream: BinaryIO) -> None:
    stream.write(content)


class StorePlace(NamedTuple):
    """A store that fsspec reaches, by its address ('s3://bucket/folder'), with `options` of its own."""

    address: str
    options: dict[str, Any]

    def _file(self, name: str) -> tuple[Any, str]:
        try:
            import fsspec
        except ImportError as error:
            raise OptionError("Stores need fsspec, which is not there.", remedy="Install fleetquill[fleet].") from error
        system, root = fsspec.core.url_to_fs(self.address, **self.options)
        return system, f"{root.rstrip('/')}/{name}"

    def put(self, name: str, write: Write) -> Stored:
        held = io.BytesIO()
        write(held)
        content = held.getvalue()
        system, path = self._file(name)
        try:
            if "file" in system.protocol or "local" in system.protocol:
                system.makedirs(os.path.dirname(path), exist_ok=True)
            with system.open(path, "wb") as stream:  # in parts, where it is large: there once it is closed
                stream.write(content)
        except Exception as error:  # whatever the store's own library raises
            what = f"The store does not take the file ({type(error).__name__}: {error})."
            raise OutputError(what, where=Where(name)) from error
        return Stored(len(content), hashlib.sha256(content).hexdigest()[:32])

    def length(self, name: str) -> int | None:
        system, path = self._file(name)
        try:
            found = system.info(path)["size"]
        except FileNotFoundError:
            return None
        return int(found)

    def read(self, name: str) -> bytes:
        system, path = self._file(name)
        content: bytes = system.cat_file(path)
        return content

    def reading(self) -> AbstractContextManager[Read]:
        return nullcontext(self.read)

    def end(self, names: Iterable[str]) -> None:
        """Nothing is to be done."""


class _Hashed(io.RawIOBase):
    """Hands on what is written, and knows its length and its hash."""

    stream: BinaryIO

    def __init__(self) -> None:
        self.length = 0
        self._hash = hashlib.sha256()

    def writable(self) -> bool:
        return True

    def write(self, content: Any) -> int:
        self.stream.write(content)
        self._hash.update(content)
        self.length += len(content)
        return len(content)

    @property
    def hex(self) -> str:
        return self._hash.hexdigest()[:32]


def place_of(into: str | os.PathLike[str], options: dict[str, Any] | None = None) -> Place:
    """The place that an address means: a folder, a '….zip', or a store, 's3://…'."""
    address = os.fspath(into)
    if "://" in address:
        return StorePlace(address, dict(options or {}))
    if address.lower().endswith(".zip"):
        return ZipPlace(str(Path(address).absolute()))
    return FolderPlace(str(Path(address).absolute()))
