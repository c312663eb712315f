"""Has items made by workers: batches that even out, and nothing lost with a worker that dies or hangs."""

from __future__ import annotations

import queue
import threading
from collections.abc import Iterator
from time import monotonic
from typing import Final

from fleetquill.caches import USUAL_BYTES
from fleetquill.errors import OutputError
from fleetquill.fleet.log import Outcome
from fleetquill.fleet.spool import Item
from fleetquill.fleet.task import Maker, Result, Setup, begin
from fleetquill.workers import LostError, Worker

AT_A_TIME: Final = 0.4  # seconds of work that a batch is to have
MOST: Final = 64  # items in one
MERCY: Final = 3.0  # seconds beyond its time after which a worker counts as hanging
MOST_GROWTH: Final = 2 * USUAL_BYTES / 1e6  # megabytes more than at first, until another takes its place
SETTLED: Final = 20  # documents after which it is weighed
AT_LEAST: Final = 500  # documents that it makes before that
MOST_STARTS: Final = 5  # of workers that end before they have begun
SEE: Final = (
    "See what they say. A script that has the function itself begins its work under 'if __name__ == \"__main__\":'."
)
TRIES: Final = 2  # of an item whose worker dies


class Feeder:
    """Gives batches: of one at first, then of as many as take a moment, and of few again towards the end."""

    def __init__(self, items: Iterator[Item], count: int, workers: int) -> None:
        self._items = items
        self._left = count
        self._workers = workers
        self._lock = threading.Lock()
        self._took = AT_A_TIME
        self._stopped = False

    def batch(self) -> list[Item]:
        with self._lock:
            size = max(1, min(MOST, int(AT_A_TIME / self._took), self._left // (2 * self._workers)))
            batch: list[Item] = []
            while len(batch) < size and not self._stopped:
                item = next(self._items, None)
                if item is None:
                    break
                batch.append(item)
            self._left -= len(batch)
            return batch

    def took(self, seconds: float) -> None:
        """One more took so long."""
        self._took = max(0.9 * self._took + 0.1 * seconds, 1e-4)

    def stop(self) -> None:
        self._stopped = True


def made_here(items: Iterator[Item], setup: Setup) -> Iterator[Result]:
    """The results of items that this process makes, one after another."""
    maker = Maker(setup)
    for item in items:
        yield maker.make(item)


def made_by_workers(items: Iterator[Item], count: int, setup: Setup, workers: int) -> Iterator[Result]:
    """The results of items as they come, of so many processes. Where this is ended early, so are they."""
    feeder = Feeder(items, count, workers)
    results: queue.Queue[Result | BaseException | None] = queue.Queue()
    crew = [_Tended(feeder, setup, results) for _ in range(min(workers, count))]
    left = len(crew)
    try:
        while left:
            found = results.get()
            if found is None:
                left -= 1
            elif isinstance(found, BaseException):
                raise found
            else:
                feeder.took(found.outcome.seconds)
                yield found
    finally:
        feeder.stop()
        for one in crew:
            one.end()


class _Tended:
    """A worker, and the thread that gives it batches, and another worker where it is lost."""

    def __init__(self, feeder: Feeder, setup: Setup, results: queue.Queue[Result | BaseException | None]) -> None:
        self._feeder = feeder
        self._setup = setup
        self._results = results
        self._ended = False
        self._last = 0.0  # when something was heard of the item that is being made
        self._left: list[Item] = []
        self._made, self._at_first = 0, 0.0  # documents of this worker, and the megabytes that it had at first
        self._worker = Worker(begin, setup)
        self._thread = threading.Thread(target=self._tend, daemon=True)
        self._thread.start()

    def end(self) -> None:
        """Ends the worker at once, whatever it does."""
        self._ended = True
        self._worker.end()
        self._thread.join(timeout=5)

    def _tend(self) -> None:
        try:
            while not self._ended and (batch := self._feeder.batch()):
                self._have_made(batch)
                self._weigh(len(batch))
            self._results.put(None)
        except BaseException as error:
            self._results.put(None if self._ended else error)
        finally:
            self._worker.end()

    def _have_made(self, batch: list[Item]) -> None:
        self._left, tries, starts = list(batch), TRIES, MOST_STARTS
        while self._left and not self._ended:
            first = self._left[0]
            self._last = 0.0
            try:
                self._worker.do(self._left, self._heard, self._look)
                return
            except LostError as error:
                if self._ended:
                    return
                starts = MOST_STARTS if error.begun else starts - 1
                if not starts:
                    raise OutputError(
                        "Workers end before they have begun.",
                        remedy=SEE,
                    ) from error
                self._renew()
                tries = tries - error.begun if self._left and self._left[0] is first else TRIES - error.begun
                if self._left and (tries <= 0 or error.why == "hung"):
                    self._fail(error.why)
                    tries = TRIES

    def _weigh(self, made: int) -> None:
        """Has another worker take the place of one that has grown by more than its press keeps."""
        if self._ended:
            return
        self._made += made
        if not self._at_first and self._made >= SETTLED:
            self._at_first = self._worker.megabytes
        elif self._made >= AT_LEAST and self._worker.megabytes > self._at_first + MOST_GROWTH:
            self._renew()

    def _renew(self) -> None:
        self._worker.end()
        self._worker = Worker(begin, self._setup)
        self._made, self._at_first = 0, 0.0

    def _fail(self, why: str) -> None:
        """Gives up the item that no worker survives."""
        item = self._left.pop(0)
        what = "takes more time than is allowed" if why == "hung" else "ends the process that makes it"
        error = f"LimitError: The document {what}."
        self._results.put(Result(item.row, Outcome(seconds=self._setup.seconds, error=error)))

    def _heard(self, result: Result) -> None:
        self._left.pop(0)
        self._last = monotonic()
        self._results.put(result)

    def _look(self, begun: bool) -> None:
        if self._ended:
            raise LostError("ended")
        if begun and not self._last:
            self._last = monotonic()
        if begun and monotonic() - self._last > self._setup.seconds + MERCY:
            raise LostError("hung")
