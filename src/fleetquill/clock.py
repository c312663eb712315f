"""How long each stage of a document takes. Only the press looks at the clock."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable, Iterator
from time import perf_counter
from typing import Final, NamedTuple, TypeVar

Page = TypeVar("Page")

LOG: Final = logging.getLogger("fleetquill")


class Stage(NamedTuple):
    """What was done ('read', 'styled', 'laid out', 'written'), and how many seconds that took."""

    name: str
    seconds: float


class Clock:
    """Tells the log what was done with a document, and in how many milliseconds; it adds up the stages."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._begun = self._last = perf_counter()
        self._layout = 0.0
        self._stages: list[Stage] = []

    @property
    def seconds(self) -> float:
        """How long it has taken so far."""
        return perf_counter() - self._begun

    @property
    def stages(self) -> tuple[Stage, ...]:
        return tuple(self._stages)

    def tell(self, stage: str, more: str = "") -> None:
        """A stage is done. Of one in which pages come as they are laid out, that is told beside it."""
        now = perf_counter()
        took, self._last = now - self._last, now
        LOG.debug("%s: %s%s in %.1f ms", self._name, stage, more, took * 1000)
        if self._layout:
            self._stages.append(Stage("laid out", self._layout))
            took, self._layout = took - self._layout, 0.0
        self._stages.append(Stage(stage, took))

    def timed(self, lay_out: Callable[[], Iterable[Page]]) -> Iterable[Page]:
        """Pages that are laid out at once, or one by one while they are written."""
        start = perf_counter()
        pages = lay_out()
        self._layout += perf_counter() - start
        return pages if isinstance(pages, list) else self._coming(iter(pages))

    def _coming(self, pages: Iterator[Page]) -> Iterator[Page]:
        while True:
            start = perf_counter()
            page = next(pages, None)
            self._layout += perf_counter() - start
            if page is None:
                return
            yield page
