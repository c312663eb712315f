"""The files of a document, for the editor in the browser: read and saved, those of the project alone."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import BinaryIO, Final, NamedTuple

from fleetquill.errors import OutputError, SourceError, Where
from fleetquill.whole_files import write_whole

ENDINGS: Final = frozenset(
    (".html", ".htm", ".css", ".json", ".yaml", ".yml", ".toml", ".csv", ".tsv", ".md", ".markdown", ".svg", ".txt")
)
LARGEST: Final = 2 * 2**20  # bytes of a file that an editor may hold


class Text(NamedTuple):
    """What is in a file, and the tag of that: the same for the same bytes."""

    content: str
    tag: str


class OtherTextError(OutputError):
    """The file is another than it was read."""


class Editing:
    """Files below some folders, by their names there."""

    def __init__(self, folders: Sequence[Path]) -> None:
        self._folders = [folder.resolve() for folder in folders]

    def names(self, files: Iterable[Path]) -> list[str]:
        """The names of those that can be edited: what is text, is not too large, and belongs to the project."""
        found = {self._name(path) for path in files if _is_text(path)}
        return sorted(found - {""}, key=lambda name: (name.startswith("_"), name))

    def path(self, name: str, files: Iterable[Path]) -> Path | None:
        """The file that a name means; None where it is none of the document's."""
        return next((path for path in files if _is_text(path) and name and self._name(path) == name), None)

    def _name(self, path: Path) -> str:
        found = path.resolve()  # a link out of the folder is no file of it
        folder = next((folder for folder in self._folders if found.is_relative_to(folder)), None)
        return "" if folder is None else found.relative_to(folder).as_posix()


def read_file(path: Path) -> Text:
    """Raises SourceError where it is no text."""
    try:
        content = path.read_bytes()
        return Text(content.decode("utf-8"), _tag(content))
    except (OSError, UnicodeDecodeError) as error:
        raise SourceError(f"The file cannot be read as text ({error}).", where=Where(path.name)) from error


def save_file(path: Path, content: bytes, tag: str) -> str:
    """Saves a text where the file is still the one of the tag; gives its new tag. Raises OtherTextError where it is
    not, OutputError where it cannot be written."""
    try:
        content.decode("utf-8")
    except UnicodeDecodeError as error:
        raise OutputError("The text is not UTF-8.", where=Where(path.name)) from error
    if read_file(path).tag != tag:
        raise OtherTextError("The file has been changed elsewhere since it was read.", where=Where(path.name))

    def write(stream: BinaryIO) -> None:
        stream.write(content)

    write_whole(path, write)
    return _tag(content)


def _is_text(path: Path) -> bool:
    try:
        return path.suffix.lower() in ENDINGS and path.is_file() and path.stat().st_size <= LARGEST
    except OSError:
        return False


def _tag(content: bytes) -> str:
    return f'"{hashlib.sha256(content).hexdigest()[:32]}"'
