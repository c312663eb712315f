"""What making a document changes of the whole process, and for how long.

Python's cyclic garbage collector rests: a document is hundreds of thousands of objects that live
until it is written, and looking through them for cycles again and again finds none and takes up to
a third of the time. It still runs, but seldom, so that long streams stay flat; and since it has
nothing to count between documents either, it is told to run every now and then after one, for what
others make (charts, filters, errors) may hold itself. And Python's limit on nested calls is raised,
since deep documents need deep calls. Both are as they were once no document is being made; but where
the process has frozen what it loaded, as servers do before they fork, the collector waits until as
much again has been made: what a document made cannot be told to be old there.
"""

from __future__ import annotations

import gc
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from math import inf
from threading import RLock
from time import perf_counter
from typing import Final

from fleetquill.errors import LimitError

RESTING: Final = (100_000, 50, 100)  # objects made before the collector looks at young ones, and so on

SHARE: Final = 100  # a collection after a document takes a hundredth of the time, at the most
USUAL_CALLS: Final = 1000
CALLS_FOR_A_LEVEL: Final = 14  # nested calls that one level of nested elements takes at the most

_lock = RLock()  # the collector may run while it is held, and end a document that was left half made
_making = 0
_began = _spent = 0.0  # when the documents began that are being made; how long they took since the last collection
_takes = 0.03  # seconds that a collection takes
_thresholds = _waiting = gc.get_threshold()  # those of others, and those that come back after a document
_frozen = False  # whether others have frozen what they hold: asked no more once it is, for that is counted
_calls = _raised_calls = sys.getrecursionlimit()


@contextmanager
def making(levels: int = 0) -> Iterator[None]:
    """While a document with elements nested so deep is made, or while what stays is loaded."""
    with _lock:
        _begin(levels * CALLS_FOR_A_LEVEL + USUAL_CALLS)
    try:
        yield
    except RecursionError as error:
        raise LimitError("The document is nested too deep.") from error
    finally:
        with _lock:
            is_due = _end()
        if is_due:
            _collect()


def _begin(needed: int) -> None:
    global _making, _thresholds, _calls, _raised_calls, _began
    if not _making:
        _began = perf_counter()
        _calls = sys.getrecursionlimit()
        if gc.get_threshold() != _waiting:
            _thresholds = gc.get_threshold()
    _making += 1
    if 0 < gc.get_threshold()[0] < RESTING[0]:
        gc.set_threshold(*RESTING)
    if sys.getrecursionlimit() < needed:
        sys.setrecursionlimit(needed)
        _raised_calls = needed


def _end() -> bool:
    """What others have set meanwhile stays. Whether it is time for a collection."""
    global _making, _spent, _waiting, _frozen
    _making -= 1
    if _making:
        return False
    is_due = False
    if gc.get_threshold() == RESTING:
        _waiting = _thresholds
        _frozen = _frozen or gc.get_freeze_count() > 0
        if _frozen:
            _waiting = (min(_thresholds[0] + gc.get_count()[0], RESTING[0] - 1), *_thresholds[1:])
        else:  # what was made counts as old: no collection looks through all of it now
            gc.freeze()
            gc.unfreeze()
        gc.set_threshold(*_waiting)
        _spent += perf_counter() - _began
        is_due = _spent > _takes * SHARE and gc.isenabled()
    if sys.getrecursionlimit() == _raised_calls:
        sys.setrecursionlimit(_calls)
    return is_due


def collect_soon() -> None:
    """Much was let go that may hold itself: the collector is to run after this document."""
    global _spent
    _spent = inf


def _collect() -> None:
    global _spent, _takes
    start = perf_counter()
    gc.collect()
    _spent, _takes = 0.0, perf_counter() - start
