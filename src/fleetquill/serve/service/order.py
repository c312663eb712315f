"""What goes to whoever makes a document, and what comes back: plain values, which another process can be sent."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from time import monotonic
from typing import Any, NamedTuple

from fleetquill.clock import Stage
from fleetquill.errors import LimitError
from fleetquill.output.kinds import KINDS
from fleetquill.progress import Progress
from fleetquill.remarks import Remark
from fleetquill.serve.service.problems import ProblemError
from fleetquill.tree.excerpt import Scale

SOURCES = {"text/html": "html", "text/markdown": "markdown", "application/json": "data"}  # what bodies are


class Order(NamedTuple):
    """A document that is wanted, as a file at `target`.

    It is one of the shelf, `document`, that `content` (JSON) fills in; or a `source` of its own: 'html', 'markdown',
    'data' or an 'address'. `files` came along, by the names of their fields, and lie in `folder`. `fit` is a width in
    px that the page's area has room for.
    """

    target: str
    document: str = ""
    source: str = ""
    content: bytes = b""
    folder: str = ""
    files: Mapping[str, str] = {}
    kind: str = "pdf"
    locale: str = ""
    name: str = ""
    page: str = ""
    margin: str = ""
    landscape: bool = False
    fit: float = 0.0
    scale: Scale = 1.0
    seconds: float = 30.0

    @property
    def subject(self) -> str:
        """What it is of: the document's name, or the kind of its source."""
        return self.document or self.source


class Made(NamedTuple):
    """The file is there."""

    kind: str
    name: str
    pages: int
    length: int
    tag: str
    seconds: float
    remarks: tuple[Remark, ...] = ()
    stages: tuple[Stage, ...] = ()
    read: tuple[str, ...] = ()
    status: int = 200

    @property
    def media_type(self) -> str:
        return KINDS[self.kind].media_type


class Failed(NamedTuple):
    """The file cannot be made."""

    status: int
    detail: str
    seconds: float = 0.0
    more: Mapping[str, Any] = {}

    def problem(self, run: str) -> ProblemError:
        return ProblemError(self.status, self.detail, run=run, **self.more)


Outcome = Made | Failed


class CancelledError(LimitError):
    """Nobody wants it any more."""


class Call:
    """An order that is being worked on: how far it is, when it has to be done, and whether it is still wanted."""

    def __init__(self, seconds: float, told: Callable[[Progress], None] | None = None) -> None:
        self.seconds = seconds
        self.end = float("inf")
        self.cancelled = False
        self.pages = 0
        self._told = told

    def begin(self) -> None:
        self.end = monotonic() + self.seconds

    @property
    def late(self) -> float:
        """For how many seconds its time has been over."""
        return monotonic() - self.end

    def ask(self) -> None:
        """Ends the work where it need not go on."""
        if self.cancelled:
            raise CancelledError("It was cancelled.")
        if self.late > 0:
            raise LimitError(f"The document takes more than {self.seconds:g} s, which is all that is allowed here.")

    def hear(self, progress: Progress) -> None:
        self.pages = max(self.pages, progress.pages)
        if self._told is not None:
            self._told(progress)
