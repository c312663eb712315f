"""The log of a fleet: a line for each document that was made or failed, added as it happens, never rewritten."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Final, NamedTuple, TextIO

from fleetquill.errors import DataError, OptionError, OutputError, Where

NAME: Final = "fleet.jsonl"
TOLD: Final = 5  # remarks whose texts are kept


class Outcome(NamedTuple):
    """What became of one document: made, or failed with an error."""

    length: int = 0
    hash: str = ""
    pages: int = 0
    remarks: int = 0
    told: tuple[str, ...] = ()  # the first remarks
    seconds: float = 0.0
    error: str = ""


class Entry(NamedTuple):
    """A document by its name, what makes it another, what became of it, and the numbers of the files that it was made
    from."""

    name: str
    key: str
    outcome: Outcome
    files: tuple[int, ...] = ()


class Log:
    """The newest entry of each document, by its name, and the files that documents were made from."""

    def __init__(self, path: Path) -> None:
        """Reads what is there. A line that was cut off, where the run was killed, is taken away."""
        self.path = path
        self.entries: dict[str, Entry] = {}
        self._files: dict[str, int] = {}  # their numbers, by path and hash
        self._hashes: list[tuple[str, str]] = []
        self._fresh: dict[str, str] = {}  # hashes of files as they are now
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            self._alone = _alone(path)
            end = self._begun(path)
            if path.exists() and path.stat().st_size > end:
                os.truncate(path, end)
            self._file: TextIO = path.open("a", encoding="utf-8")
        except OSError as error:
            raise OutputError(f"The log cannot be written ({error.strerror}).", where=Where(str(path))) from error

    def _begun(self, path: Path) -> int:
        try:
            return self._read(path)
        except DataError:
            self._let_go()
            raise

    def _let_go(self) -> None:
        if self._alone is not None:
            os.close(self._alone)

    def _read(self, path: Path) -> int:
        """Reads what is there; gives where that ends."""
        end = 0
        for place, said in _lines(path):
            end = place
            if "file" in said:
                self._note(said["file"], said["hash"])
            else:
                self.entries[said["name"]] = _entry(said)
        return end

    def _note(self, path: str, hashed: str) -> int:
        number = self._files.setdefault(f"{path}\0{hashed}", len(self._hashes))
        if number == len(self._hashes):
            self._hashes.append((path, hashed))
        return number

    def numbers(self, files: tuple[str, ...]) -> tuple[int, ...]:
        """The numbers of files that a document was made from, as they are now."""
        found = []
        for path in files:
            hashed = self._hash(path)
            if f"{path}\0{hashed}" not in self._files:
                self._write({"file": path, "hash": hashed})
            found.append(self._note(path, hashed))
        return tuple(found)

    def _hash(self, path: str) -> str:
        if path not in self._fresh:
            try:
                self._fresh[path] = hashlib.sha256(Path(path).read_bytes()).hexdigest()[:32]
            except OSError:
                self._fresh[path] = ""
        return self._fresh[path]

    def is_stale(self, entry: Entry) -> bool:
        """Whether a file that a document was made from is another now."""
        known = (self._hashes[number] for number in entry.files if number < len(self._hashes))
        return any(self._hash(path) != hashed for path, hashed in known)

    def add(self, entry: Entry) -> None:
        """Adds what became of a document; it is in the file when this returns."""
        self.entries[entry.name] = entry
        said = {"name": entry.name, "key": entry.key, **entry.outcome._asdict(), "files": entry.files}
        self._write({name: value for name, value in said.items() if value not in ("", 0, ())})
        self._file.flush()

    def _write(self, said: dict[str, Any]) -> None:
        self._file.write(json.dumps(said, ensure_ascii=False) + "\n")

    def sync(self) -> None:
        """Sees to it that what was added outlives the machine's power."""
        self._file.flush()
        os.fsync(self._file.fileno())

    def close(self) -> None:
        self.sync()
        self._file.close()
        self._let_go()


def _alone(path: Path) -> int | None:
    """Keeps others from the same log, as long as this process lives. Raises OptionError where another has it."""
    try:
        import fcntl
    except ImportError:  # a system that has no such locks
        return None
    held = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o666)
    try:
        fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        os.close(held)
        raise OptionError(
            f"Another run has the log '{path}'.", remedy="Wait for its end, or end it; then run this again."
        ) from error
    return held


def _entry(said: dict[str, Any]) -> Entry:
    given: dict[str, Any] = {name: said[name] for name in Outcome._fields if name in said}
    outcome = Outcome()._replace(**given)._replace(told=tuple(said.get("told", ())))
    return Entry(said["name"], said.get("key", ""), outcome, tuple(said.get("files", ())))


def _lines(path: Path) -> Iterator[tuple[int, dict[str, Any]]]:
    """The lines of a log, and where each ends, up to one that was cut off. Raises DataError where it is none."""
    if not path.is_file():
        return
    end = 0
    with path.open("rb") as file:
        for number, line in enumerate(file, 1):
            if not line.endswith(b"\n"):
                return
            try:
                said = json.loads(line)
            except ValueError as error:
                raise DataError("This is no line of a log.", where=Where(str(path), number)) from error
            if not isinstance(said, dict) or not ("file" in said or "name" in said):
                raise DataError("This is no line of a log.", where=Where(str(path), number))
            end += len(line)
            yield end, said
