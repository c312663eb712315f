"""Pages that are files of their own, and how those files are named."""

from __future__ import annotations

import re
from collections.abc import Iterable
from functools import partial
from pathlib import Path
from typing import BinaryIO, Final

from fleetquill.errors import OptionError, OutputError
from fleetquill.output.kinds import Kind
from fleetquill.whole_files import write_whole

PAGE: Final = re.compile(r"\{page(?::(0?\d+))?\}")  # in a name: the page's number, filled up with noughts or not


def is_pattern(target: object) -> bool:
    """Whether a target names a file for each page."""
    return isinstance(target, (str, Path)) and PAGE.search(str(target)) is not None


def page_path(pattern: str, number: int) -> Path:
    """The file of a page."""
    return Path(PAGE.sub(lambda found: format(number, found[1] or ""), pattern))


def write_leaves(pattern: str, files: Iterable[bytes]) -> list[Path]:
    """Writes each page to its own file; gives their paths."""
    return [write_whole(page_path(pattern, number), partial(_send, content)) for number, content in enumerate(files, 1)]


def _send(content: bytes, stream: BinaryIO) -> None:
    stream.write(content)


def write_only_leaf(kind: Kind, count: int, files: Iterable[bytes], stream: BinaryIO) -> None:
    """Writes the one page that there is. Raises OutputError where there are more."""
    if count > 1:
        raise OutputError(
            f"The document has {count} pages, and a file of the kind '{kind.name}' holds one.",
            remedy=f"Name a file for each, such as 'page-{{page}}.{kind.name}'.",
        )
    for content in files:
        stream.write(content)


def check_pattern(kind: Kind, target: object) -> None:
    """Raises OptionError where a name has a place for the page's number and the kind holds all pages."""
    if is_pattern(target) and kind.way != "leaves":
        raise OptionError(
            f"A file of the kind '{kind.name}' holds the whole document: '{{page}}' has no place in its name."
        )
