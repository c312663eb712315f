"""The time that a document may take. Long loops heed it; only the press looks at the clock."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from threading import local


class _Heard(local):
    """What is asked, in each thread, whether there is still time."""

    ask: Callable[[], None] | None = None


_heard = _Heard()


def heed() -> None:
    """Ends the work where its time is over, with whatever the one who set it raises."""
    ask = _heard.ask
    if ask is not None:
        ask()


def asked() -> Callable[[], None] | None:
    """What `heed` asks here, for threads that help."""
    return _heard.ask


@contextmanager
def until(ask: Callable[[], None] | None) -> Iterator[None]:
    """While this lasts, `heed` asks; work within other work keeps to the time of the outer, where it has none."""
    before = _heard.ask
    _heard.ask = ask or before
    try:
        yield
    finally:
        _heard.ask = before
