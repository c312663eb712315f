"""The doors that documents come in by. A new one is a file with a function `read`, and its row here."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from importlib import import_module
from pathlib import Path
from typing import Final, NamedTuple

from fleetquill.intake.endings import DATA, HTML, MARKDOWN, PICTURES, WORKBOOKS
from fleetquill.intake.order import Order
from fleetquill.policy import is_web
from fleetquill.tree.document import Document

Source = str | os.PathLike[str]
MOST_READ: Final = 16  # bytes of a file that tell what it is


class Door(NamedTuple):
    """A kind of source: the file of its reader, and how its sources are told from others.

    `starts` are first bytes of its files; `several` says that more than one at a time make one
    document, and that a folder stands for the files in it.
    """

    name: str
    endings: Sequence[str] = ()
    starts: Sequence[bytes] = ()
    several: bool = False

    def read(self, order: Order) -> Document:
        """The document of the sources; raises an error of the family where they cannot be read."""
        reader: Callable[[Order], Document] = import_module(f"fleetquill.intake.{self.name}").read
        return reader(order)

    def takes(self, source: Source) -> bool:
        """Whether a source is one of its own by its name, or a folder where it takes those."""
        return Path(source).suffix.lower() in self.endings or (self.several and Path(source).is_dir())


WEB: Final = Door("web")
TEMPLATE: Final = Door("template")
PLAIN: Final = Door("html", HTML)
DATA_DOOR: Final = Door("plain_data", DATA)
DOORS: Final = (
    PLAIN,
    Door("markdown", MARKDOWN),
    DATA_DOOR,
    Door("workbook", WORKBOOKS),
    Door("pictures", PICTURES, (b"\xff\xd8\xff", b"\x89PNG\r\n", b"GIF8", b"II*\0", b"MM\0*", b"BM"), several=True),
)


def door_of(sources: Sequence[Source], *, filled_in: bool = False) -> Door:
    """The door for sources: by their address, their names, or else their first bytes. HTML where nothing tells.

    `filled_in` says that data goes with the source, which is a template then, or a brief.
    """
    first = sources[0]
    if isinstance(first, str) and is_web(first):
        return WEB
    if filled_in and not DATA_DOOR.takes(first):
        return TEMPLATE
    for door in DOORS:
        if all(door.takes(source) for source in sources):
            return door
    start = _start(first)
    return next((door for door in DOORS if start.startswith(tuple(door.starts)) and start), PLAIN)


def _start(source: Source) -> bytes:
    """The first bytes of a file; none where it cannot be read, which its reader will say."""
    try:
        path = Path(source)
        if not path.is_file():
            return b""
        with path.open("rb") as file:
            return file.read(MOST_READ)
    except (OSError, ValueError):
        return b""
