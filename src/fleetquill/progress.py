"""How far a document has come, told page by page to whoever asked."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from typing import NamedTuple, TypeVar

from fleetquill.errors import OptionError

Page = TypeVar("Page")


class Progress(NamedTuple):
    """So many pages have been 'laid out' or 'written'; `total` is None as long as nobody knows how many there are."""

    stage: str
    pages: int
    total: int | None = None


Listener = Callable[[Progress], object]


def told(pages: Iterable[Page], stage: str, listener: Listener | None) -> Iterable[Page]:
    """The pages as they come, each told to the listener once it is done with."""
    if listener is not None and not callable(listener):
        raise OptionError(
            f"The progress is {listener!r}, which is no function.", remedy="Give one that takes a Progress."
        )
    return pages if listener is None else _told(pages, stage, listener)


def _told(pages: Iterable[Page], stage: str, listener: Listener) -> Iterator[Page]:
    total = len(pages) if isinstance(pages, list) else None
    for number, page in enumerate(pages, 1):
        yield page
        listener(Progress(stage, number, total))
