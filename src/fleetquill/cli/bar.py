"""The bar that shows how far long work has come, on a terminal and nowhere else."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from time import monotonic
from typing import TYPE_CHECKING, Final

from fleetquill.progress import Listener, Progress

if TYPE_CHECKING:
    import rich.progress

PATIENCE: Final = 2.0  # seconds that work may take before anything is shown
STEP: Final = 0.1  # and between two looks at it


def terminal() -> bool:
    """Whether anybody sees what moves."""
    return sys.stderr.isatty()


@contextmanager
def bar() -> Iterator[Listener | None]:
    """Whom to tell of the pages; None where standard error is no terminal."""
    if not terminal():
        yield None
        return
    shown = _Bar()
    try:
        yield shown.tell
    finally:
        shown.end()


class _Bar:
    """Nothing at first; after a while the pages that are done, as a bar where it is known how many there are."""

    def __init__(self) -> None:
        self._start = monotonic()
        self._next = self._start + PATIENCE
        self._display: rich.progress.Progress | None = None
        self._task: rich.progress.TaskID | None = None

    def tell(self, progress: Progress) -> None:
        now = monotonic()
        if now < self._next:
            return
        self._next = now + STEP
        said = f"{progress.pages:,} pages {progress.stage}, {now - self._start:.0f} s"
        if self._display is None or self._task is None:
            self._display, self._task = _open(said)
        self._display.update(self._task, completed=progress.pages, total=progress.total, description=said)

    def end(self) -> None:
        if self._display is not None:
            self._display.stop()


def _open(said: str) -> tuple[rich.progress.Progress, rich.progress.TaskID]:
    from rich.console import Console
    from rich.progress import BarColumn, Progress, TextColumn

    columns = (TextColumn("{task.description}"), BarColumn())
    display = Progress(*columns, console=Console(stderr=True), transient=True)
    task = display.add_task(said, total=None)
    display.start()
    return display, task
