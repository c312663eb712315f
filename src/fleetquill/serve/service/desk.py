"""The desk: takes orders, has each made when hands are free, and keeps the files until they are fetched."""

from __future__ import annotations

import queue
import secrets
import shutil
from collections import OrderedDict
from collections.abc import Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path
from threading import Lock
from time import monotonic
from typing import Final

from fleetquill.serve.service.hands import Hands
from fleetquill.serve.service.limits import Limits
from fleetquill.serve.service.order import Call, Failed, Made, Order, Outcome

MOST_RUNS: Final = 1_000  # whose logs are kept
GRACE: Final = 60.0  # seconds in which what was begun is ended
MB: Final = 10**6


class Run:
    """One order: who asked for it, when, how far it is, and what came of it."""

    def __init__(self, order: Order, holder: str, *, job: bool) -> None:
        self.id = Path(order.target).name
        self.order = order
        self.holder = holder
        self.job = job
        self.asked = datetime.now(UTC)
        self.ended = 0.0
        self.kept = job
        self.call = Call(order.seconds)
        self.future: Future[Outcome] = Future()

    @property
    def outcome(self) -> Outcome | None:
        return self.future.result() if self.future.done() else None

    @property
    def state(self) -> str:
        outcome = self.outcome
        if outcome is None:
            return "making" if self.future.running() else "waiting"
        if self.call.cancelled:
            return "cancelled"
        return "done" if isinstance(outcome, Made) else "failed"

    @property
    def path(self) -> Path:
        return Path(self.order.target)


class Desk:
    """Has orders made by so many hands at once. While there are several, jobs leave one of them free."""

    def __init__(self, hands: Sequence[Hands], limits: Limits, folder: Path) -> None:
        """`folder` is where files are made."""
        self._hands = hands
        self._limits = limits
        self._folder = folder
        self._idle: queue.SimpleQueue[Hands] = queue.SimpleQueue()
        for one in hands:
            self._idle.put(one)
        self._soon = ThreadPoolExecutor(len(hands), "soon")
        self._later = ThreadPoolExecutor(max(1, len(hands) - 1), "later")
        self._lock = Lock()
        self._pending = 0
        self._runs: OrderedDict[str, Run] = OrderedDict()

    @property
    def pending(self) -> int:
        """How many documents are being made or wait for it."""
        return self._pending

    @property
    def full(self) -> bool:
        return self._pending >= len(self._hands) + self._limits.waiting

    def target(self) -> Path:
        """Where the next file goes; its name is that of the run."""
        return self._folder / secrets.token_hex(16)

    def run(self, name: str) -> Run | None:
        return self._runs.get(name)

    def take(self, order: Order, holder: str, *, job: bool = False) -> Run:
        """Takes an order. Its file is there once its future is done."""
        run = Run(order, holder, job=job)
        with self._lock:
            self._pending += 1
            self._runs[run.id] = run
            self._forget()
        (self._later if job else self._soon).submit(self._make, run)
        return run

    def cancel(self, run: Run) -> None:
        """Nobody wants it any more: it is not begun, or ended, or its file is dropped."""
        run.call.cancelled = True
        self.drop(run)

    def _make(self, run: Run) -> None:
        hands = self._idle.get()
        outcome: Outcome
        try:
            run.future.set_running_or_notify_cancel()
            cancelled = Failed(409, "It was cancelled.")
            outcome = cancelled if run.call.cancelled else hands.make(run.order, run.call)
        except Exception as error:  # ours, of the service itself: who waits is told, and the hands go on
            outcome = Failed(500, f"The service itself fails here ({type(error).__name__}: {error}).")
        finally:
            self._idle.put(hands)
            if run.order.folder:
                shutil.rmtree(run.order.folder, ignore_errors=True)
            with self._lock:
                self._pending -= 1
        run.order = run.order._replace(content=b"")  # the log has no need of what was sent
        if isinstance(outcome, Failed) or run.call.cancelled:
            self.drop(run)
        run.ended = monotonic()
        run.future.set_result(outcome)

    # ---- what is kept ----

    def keep(self, run: Run) -> None:
        """Its file is fetched later, perhaps again."""
        run.kept = True

    def drop(self, run: Run) -> None:
        """Its file is not wanted any more."""
        run.kept = False
        with suppress(OSError):
            run.path.unlink(missing_ok=True)

    def _forget(self) -> None:
        """Lets go of what was asked for long ago, and of files where they are too many."""
        ended = [run for run in self._runs.values() if run.future.done()]
        for run in ended[: max(0, len(self._runs) - MOST_RUNS)]:
            self.drop(self._runs.pop(run.id))
        now, room = monotonic(), self._limits.kept * MB
        for run in reversed(ended):
            outcome = run.outcome
            if run.kept and isinstance(outcome, Made):
                room -= outcome.length
                if room < 0 or now - run.ended > self._limits.kept_seconds:
                    self.drop(run)

    def end(self, grace: float = GRACE) -> None:
        """Ends what is being made, as far as that takes no longer than `grace` seconds; what waits is cancelled."""
        end = monotonic() + grace
        runs = [run for run in self._runs.values() if not run.future.done()]
        for run in runs:
            if run.state == "waiting":
                self.cancel(run)
        for run in runs:
            with suppress(TimeoutError):
                run.future.result(timeout=max(0.0, end - monotonic()))
        for run in runs:
            if run.outcome is None:
                self.cancel(run)
        for pool in (self._soon, self._later):
            pool.shutdown(wait=True)
        for one in self._hands:
            one.end()
