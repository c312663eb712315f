"""A rest for Python's cyclic garbage collector while a document is made.

A document is hundreds of thousands of objects that live until it is written: looking through them
for cycles again and again finds none and takes up to a third of the time. The rest lasts until the
next collection that comes of itself, or else each document would end with one over all its objects.
"""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock
from typing import Any, Final

RESTING: Final = (100_000, 50, 100)  # it still runs, but seldom: long streams stay flat

_lock = Lock()
_resting = 0
_usual = (700, 10, 10)


@contextmanager
def resting_collector() -> Iterator[None]:
    """Raises the collector's thresholds while any document is being made, and until it has run after that."""
    global _resting, _usual
    with _lock:
        thresholds = gc.get_threshold()
        if thresholds != RESTING:
            _usual = thresholds
            if 0 < _usual[0] < RESTING[0]:
                gc.set_threshold(*RESTING)
                if _after_collection not in gc.callbacks:
                    gc.callbacks.append(_after_collection)
        _resting += 1
    try:
        yield
    finally:
        with _lock:
            _resting -= 1


def _after_collection(phase: str, _figures: dict[str, Any]) -> None:
    """Ends the rest; thresholds that others have set meanwhile stay."""
    if phase == "stop" and not _resting and gc.get_threshold() == RESTING:
        gc.set_threshold(*_usual)
