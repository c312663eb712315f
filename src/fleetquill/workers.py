"""Processes that work for others: warm, one task at a time, and ended where they hang or grow."""

from __future__ import annotations

import multiprocessing
import pickle
import signal
import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from multiprocessing.connection import Connection
from time import monotonic
from types import ModuleType
from typing import Any, Final, NamedTuple

Tell = Callable[[Any], None]
Work = Callable[[Any, Tell], Any]  # a task, and whom to tell of what is done meanwhile

LOOK: Final = 0.1  # seconds after which a process is looked at while it works
BEGINS: Final = 60.0  # seconds in which one has to be ready
MIB: Final = 2**20
READY: Final = "ready"
MAIN: Final = "__main__"
_starting = threading.Lock()


class _Answer(NamedTuple):
    """What a task came to; all else that a process says is told meanwhile."""

    value: Any


class LostError(Exception):
    """A process is no more: it 'died', 'hung', or was ended by the one who looked. `begun` says whether it had begun
    with the task."""

    def __init__(self, why: str, *, begun: bool = True) -> None:
        super().__init__(why)
        self.why = why
        self.begun = begun


class Worker:
    """One process, and the way to it. `begin`, a function of a module, is called there with `setup` and gives what does
    the work."""

    def __init__(self, begin: Callable[[Any], Work], setup: Any) -> None:
        context = multiprocessing.get_context("spawn")  # a fork would take locks of other threads along
        self._here, there = context.Pipe()
        self._process = context.Process(target=_work, args=(there, begin, setup), daemon=True)
        check_not_loading()
        with _script_apart(needed=MAIN.encode() in pickle.dumps((begin, setup))):
            self._process.start()
        there.close()
        self._ready = False
        self._lock = threading.Lock()
        self._ended = False

    @property
    def pid(self) -> int:
        return self._process.pid or 0

    @property
    def megabytes(self) -> float:
        """Of memory that it has."""
        import psutil

        try:
            return float(psutil.Process(self.pid).memory_info().rss) / MIB
        except psutil.Error:
            return 0.0

    def do(self, task: Any, told: Tell, look: Callable[[bool], None]) -> Any:
        """What a task comes to. `told` hears what it says meanwhile; `look` is called now and then, with whether it has
        begun, and may raise LostError, as this does where the process is no more."""
        try:
            self._wait(look)
            self._here.send(task)
            while True:
                if self._here.poll(LOOK):
                    said = self._here.recv()
                    if isinstance(said, _Answer):
                        return said.value
                    told(said)
                look(True)
        except (EOFError, OSError) as error:
            raise LostError("died", begun=self._ready) from error

    def _wait(self, look: Callable[[bool], None]) -> None:
        end = monotonic() + BEGINS
        while not self._ready:
            if self._here.poll(LOOK):
                self._ready = self._here.recv() == READY
            elif monotonic() > end:
                raise LostError("hung", begun=False)
            look(False)

    def end(self) -> None:
        """Ends it at once, whatever it does; from any thread, and as often as one likes."""
        with self._lock:
            if self._ended:
                return
            self._ended = True
            self._here.close()
        self._process.kill()
        with suppress(AssertionError, ValueError):
            self._process.join(timeout=5)


@contextmanager
def _script_apart(*, needed: bool) -> Iterator[None]:
    """A process that begins now does not load the script that is run here, unless something of it is `needed` there: a
    script may begin its work as it is loaded."""
    with _starting:
        script = sys.modules[MAIN]
        if not needed:
            sys.modules[MAIN] = ModuleType(MAIN)
        try:
            yield
        finally:
            sys.modules[MAIN] = script


def check_not_loading() -> None:
    """Ends a process that is loading a script for a function of it, and is asked to begin others by that."""
    if getattr(multiprocessing.current_process(), "_inheriting", False):
        sys.exit("The script begins its work as it is loaded: put that under 'if __name__ == \"__main__\":'.")


def _work(connection: Connection, begin: Callable[[Any], Work], setup: Any) -> None:
    """What a process does: what it is told, until nobody tells it anything."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # those who began it end it
    work = begin(setup)
    with suppress(EOFError, OSError):
        connection.send(READY)
        while True:
            connection.send(_Answer(work(connection.recv(), connection.send)))
