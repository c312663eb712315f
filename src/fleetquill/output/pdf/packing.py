"""Streams are compressed beside the work of the pages that follow (ISO 32000-2 §7.4.4)."""

from __future__ import annotations

import zlib
from typing import TYPE_CHECKING, Final

if TYPE_CHECKING:
    from concurrent.futures import Future, ThreadPoolExecutor

COMPRESSION: Final = 6
SMALLEST: Final = 9  # for objects of short documents, of which most are much alike
LONG: Final = 2_000  # bytes of a stream that is worth a turn of another thread
FEW: Final = 8  # long streams of a file before it has one: most documents have no more


class Packer:
    """Compresses the streams of one file. Those of its first pages are done at once, those of later ones by a thread,
    for the compressor needs nothing of Python."""

    def __init__(self) -> None:
        self._long = 0
        self._pool: ThreadPoolExecutor | None = None
        self._alone = False  # whether there is no thread to be had

    def pack(self, content: bytes, head: int = 0) -> bytes | Future[bytes]:
        """The stream deflated, or the promise of it. Its first bytes, as many as `head` says, are of another sort than
        the rest: both get codes of their own."""
        if len(content) >= LONG and not self._alone:
            self._long += 1
            if self._long > FEW:
                return self._promised(content, head)
        return _deflated(content, head, SMALLEST if head else COMPRESSION)

    def _promised(self, content: bytes, head: int) -> bytes | Future[bytes]:
        try:
            if self._pool is None:
                from concurrent.futures import ThreadPoolExecutor

                self._pool = ThreadPoolExecutor(1, thread_name_prefix="fleetquill")
            return self._pool.submit(_deflated, content, head)
        except RuntimeError:  # the system gives no more threads, or has none
            self._alone = True
            return _deflated(content, head)

    def close(self) -> None:
        """Ends the thread once it has done what it was given."""
        self._alone = True
        if self._pool is not None:
            self._pool.shutdown()


def _deflated(content: bytes, head: int, effort: int = COMPRESSION) -> bytes:
    if not head:
        return zlib.compress(content, effort)
    machine = zlib.compressobj(effort)
    first = machine.compress(content[:head]) + machine.flush(zlib.Z_BLOCK)
    return first + machine.compress(content[head:]) + machine.flush()
