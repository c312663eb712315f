"""Who makes documents: this process itself, or one of their own, which is replaced when it dies, hangs or grows."""

from __future__ import annotations

import multiprocessing
import signal
from collections.abc import Callable
from contextlib import suppress
from multiprocessing.connection import Connection
from time import monotonic
from typing import Final, Protocol

import psutil

from fleetquill.progress import Progress
from fleetquill.serve.service.maker import Maker, Setup
from fleetquill.serve.service.order import Call, Failed, Order, Outcome

LOOK: Final = 0.1  # seconds after which a process is looked at while it works
MERCY: Final = 2.0  # seconds for which its time may be over before it counts as hanging
BEGINS: Final = 60.0  # seconds in which one has to be ready
TELL: Final = 0.2  # seconds between two pages that are told of
MOST_STARTS: Final = 5  # of processes for one document
MIB: Final = 2**20
READY: Final = "ready"


class Hands(Protocol):
    """Make one document at a time."""

    def make(self, order: Order, call: Call) -> Outcome: ...

    def end(self) -> None: ...


class OwnHands:
    """This process, in one of its threads."""

    def __init__(self, maker: Maker) -> None:
        self._maker = maker

    def make(self, order: Order, call: Call) -> Outcome:
        return self._maker.make(order, call)

    def end(self) -> None:
        """Nothing is to be ended."""


class LostError(Exception):
    """A process is no more; `failed` says what is told of what it was making, None where another may try. `begun` says
    whether it had begun with that."""

    def __init__(self, why: str, failed: Failed | None = None, *, begun: bool = True) -> None:
        super().__init__(why)
        self.why = why
        self.failed = failed
        self.begun = begun


class WorkerHands:
    """A process for one document at a time, with presses that stay warm. A document whose process dies is tried once
    more, in a new one; one that hangs or takes too much memory is not."""

    def __init__(self, setup: Setup, replaced: Callable[[str], None]) -> None:
        self._setup = setup
        self._replaced = replaced
        self._worker = _Worker(setup)

    @property
    def pid(self) -> int:
        return self._worker.pid

    def make(self, order: Order, call: Call) -> Outcome:
        left, starts = 2, MOST_STARTS
        while left and starts:
            try:
                outcome = self._worker.make(order, call)
                if self._worker.megabytes > self._setup.limits.memory:
                    self._replace("grew")
                return outcome
            except LostError as error:
                self._replace(error.why)
                if error.failed is not None:
                    return error.failed
                left, starts = left - error.begun, starts - 1
        return Failed(500, "The process that makes the document has ended, twice. Nothing else is harmed.")

    def _replace(self, why: str) -> None:
        self._replaced(why)
        self._worker.end()
        self._worker = _Worker(self._setup)

    def end(self) -> None:
        self._worker.end()


class _Worker:
    """One process, and the way to it."""

    def __init__(self, setup: Setup) -> None:
        context = multiprocessing.get_context("spawn")  # a fork would take locks of other threads along
        self._here, there = context.Pipe()
        self._process = context.Process(target=_work, args=(there, setup), daemon=True)
        self._process.start()
        there.close()
        self._most = setup.limits.memory
        self._ready = False

    @property
    def pid(self) -> int:
        return self._process.pid or 0

    @property
    def megabytes(self) -> float:
        """Of memory that it has."""
        try:
            return float(psutil.Process(self.pid).memory_info().rss) / MIB
        except psutil.Error:
            return 0.0

    def make(self, order: Order, call: Call) -> Outcome:
        try:
            if not self._ready:
                self._wait_for(call)
            self._here.send(order)
            call.begin()
            while True:
                if self._here.poll(LOOK):
                    said = self._here.recv()
                    if not isinstance(said, Progress):
                        outcome: Outcome = said
                        return outcome
                    call.hear(said)
                self._look(call)
        except (EOFError, OSError) as error:
            raise LostError("died", begun=self._ready) from error

    def _wait_for(self, call: Call) -> None:
        end = monotonic() + BEGINS
        while not self._here.poll(LOOK):
            if call.cancelled:
                raise LostError("cancelled", Failed(409, "It was cancelled."))
            if monotonic() > end:
                raise LostError("hung", begun=False)
        assert self._here.recv() == READY
        self._ready = True

    def _look(self, call: Call) -> None:
        if call.cancelled:
            raise LostError("cancelled", Failed(409, "It was cancelled."))
        if call.late > MERCY:
            detail = f"The document takes more than {call.seconds:g} s, which is all that is allowed here."
            raise LostError("hung", Failed(504, detail, call.seconds, {"kind": "LimitError"}))
        if self.megabytes > 2 * self._most:
            detail = f"The document takes more than {2 * self._most:,} MB of memory, which is all that is allowed here."
            raise LostError("grew", Failed(422, detail, 0.0, {"kind": "LimitError"}))

    def end(self) -> None:
        self._here.close()
        self._process.kill()
        with suppress(AssertionError, ValueError):
            self._process.join(timeout=5)


def _work(connection: Connection, setup: Setup) -> None:
    """What a process does: makes what it is told, until nobody tells it anything."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the service ends its processes itself
    maker = Maker(setup)
    maker.warm()
    with suppress(EOFError, OSError):
        connection.send(READY)
        while True:
            order: Order = connection.recv()
            connection.send(maker.make(order, Call(order.seconds, _Teller(connection))))


class _Teller:
    """Tells of pages, not of each."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._last = monotonic()

    def __call__(self, progress: Progress) -> None:
        if monotonic() - self._last > TELL:
            self._last = monotonic()
            self._connection.send(progress)
