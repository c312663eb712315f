"""Who makes documents: this process itself, or one of their own, which is replaced when it dies, hangs or grows."""

from __future__ import annotations

from collections.abc import Callable
from time import monotonic
from typing import Final, Protocol

from fleetquill.progress import Progress
from fleetquill.serve.service.maker import Maker, Setup
from fleetquill.serve.service.order import Call, Failed, Order, Outcome
from fleetquill.workers import LostError, Tell, Work, Worker

MERCY: Final = 2.0  # seconds for which its time may be over before a process counts as hanging
TELL: Final = 0.2  # seconds between two pages that are told of
MOST_STARTS: Final = 5  # of processes for one document


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


class RefusedError(LostError):
    """A process was ended, and what it was making is not tried again."""

    def __init__(self, why: str, failed: Failed) -> None:
        super().__init__(why)
        self.failed = failed


class WorkerHands:
    """A process for one document at a time, with presses that stay warm. A document whose process dies is tried once
    more, in a new one; one that hangs or takes too much memory is not."""

    def __init__(self, setup: Setup, replaced: Callable[[str], None]) -> None:
        self._setup = setup
        self._replaced = replaced
        self._worker = Worker(begin, setup)

    @property
    def pid(self) -> int:
        return self._worker.pid

    def make(self, order: Order, call: Call) -> Outcome:
        left, starts = 2, MOST_STARTS
        while left and starts:
            try:
                outcome: Outcome = self._worker.do(order, call.hear, lambda begun: self._look(call, begun=begun))
                call.end = float("inf")
                if self._worker.megabytes > self._setup.limits.memory:
                    self._replace("grew")
                return outcome
            except LostError as error:
                self._replace(error.why)
                call.end = float("inf")
                if isinstance(error, RefusedError):
                    return error.failed
                left, starts = left - error.begun, starts - 1
        return Failed(500, "The process that makes the document has ended, twice. Nothing else is harmed.")

    def _look(self, call: Call, *, begun: bool) -> None:
        """Ends a process that works for nobody, hangs, or grows."""
        if call.cancelled:
            raise RefusedError("cancelled", Failed(409, "It was cancelled."))
        if begun and call.end == float("inf"):
            call.begin()
        if call.late > MERCY:
            detail = f"The document takes more than {call.seconds:g} s, which is all that is allowed here."
            raise RefusedError("hung", Failed(504, detail, call.seconds, {"kind": "LimitError"}))
        most = 2 * self._setup.limits.memory
        if begun and self._worker.megabytes > most:
            detail = f"The document takes more than {most:,} MB of memory, which is all that is allowed here."
            raise RefusedError("grew", Failed(422, detail, 0.0, {"kind": "LimitError"}))

    def _replace(self, why: str) -> None:
        self._replaced(why)
        self._worker.end()
        self._worker = Worker(begin, self._setup)

    def end(self) -> None:
        self._worker.end()


def begin(setup: Setup) -> Work:
    """What a process of the service does: makes what is ordered, once its presses are warm."""
    maker = Maker(setup)
    maker.warm()
    return lambda order, tell: maker.make(order, Call(order.seconds, _Teller(tell)))


class _Teller:
    """Tells of pages, not of each."""

    def __init__(self, tell: Tell) -> None:
        self._tell = tell
        self._last = monotonic()

    def __call__(self, progress: Progress) -> None:
        if monotonic() - self._last > TELL:
            self._last = monotonic()
            self._tell(progress)
