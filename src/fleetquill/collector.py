"""A rest for Python's cyclic garbage collector while a document is made.

A document is hundreds of thousands of objects that live until it is written: looking through them
for cycles again and again finds none and takes up to a third of the time.
"""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock
from typing import Final

RESTING: Final = (100_000, 50, 100)  # it still runs, but seldom: long streams stay flat

_lock = Lock()
_resting = 0
_usual = (700, 10, 10)


@contextmanager
def resting_collector() -> Iterator[None]:
    """Raises the collector's thresholds while any document is being made, and sets them back."""
    global _resting, _usual
    with _lock:
        if not _resting:
            _usual = gc.get_threshold()
            if 0 < _usual[0] < RESTING[0]:
                gc.set_threshold(*RESTING)
        _resting += 1
    try:
        yield
    finally:
        with _lock:
            _resting -= 1
            if not _resting:
                gc.set_threshold(*_usual)
