"""A file in pieces, as it is made: what web frameworks hand over while the rest is still being written."""

from __future__ import annotations

import io
import queue
import threading
import weakref
from collections.abc import Callable
from contextlib import suppress
from typing import Any, BinaryIO, Final, cast

from fleetquill.errors import OutputError
from fleetquill.output.delivery import content_disposition

PIECE: Final = 64 * 1024  # bytes
AHEAD: Final = 8  # pieces that may wait to be fetched: memory is flat, however slow the one who reads is
LOOK: Final = 0.1  # seconds after which one who waits looks whether anybody still reads


class GoneError(OutputError):
    """Nobody reads any more."""


class Pieces:
    """The pieces of a file, in their order, made by a thread while they are read.

    The first is there at once: what is wrong before it is raised where the file is asked for; what is wrong later,
    where the next piece is. Work ends where the pieces are closed, or nobody holds them.
    """

    def __init__(self, write: Callable[[BinaryIO], object], media_type: str) -> None:
        self.media_type = media_type
        self._way = _Way()
        self._ended = False
        weakref.finalize(self, self._way.gone.set)
        self._work = threading.Thread(target=_run, args=(write, self._way), daemon=True)
        self._work.start()
        self._first = self._next()

    def headers(self, filename: str, *, inline: bool = True) -> dict[str, str]:
        """HTTP headers with which it is handed over: Content-Type and Content-Disposition (RFC 6266). How long the
        file is, nobody knows yet."""
        return {"Content-Type": self.media_type, "Content-Disposition": content_disposition(filename, inline=inline)}

    def __iter__(self) -> Pieces:
        return self

    def __next__(self) -> bytes:
        piece, self._first = self._first or self._next(), None
        if piece is None:
            raise StopIteration
        return piece

    def _next(self) -> bytes | None:
        if self._ended:
            return None
        found = self._way.pieces.get()
        self._ended = not isinstance(found, bytes)
        if self._ended:
            self._work.join()
        if isinstance(found, BaseException):
            raise found
        return found

    def close(self) -> None:
        """Ends the work, where nobody wants the rest."""
        self._way.gone.set()
        self._ended, self._first = True, None


class _Way:
    """From the one who writes to the one who reads."""

    def __init__(self) -> None:
        self.pieces: queue.Queue[bytes | BaseException | None] = queue.Queue(AHEAD)
        self.gone = threading.Event()

    def put(self, piece: bytes | BaseException | None) -> None:
        while not self.gone.is_set():
            with suppress(queue.Full):
                self.pieces.put(piece, timeout=LOOK)
                return
        raise GoneError("Nobody reads the file any more.")


class _Stream(io.RawIOBase):
    """What is written to, gathered into pieces."""

    def __init__(self, way: _Way) -> None:
        self._way = way
        self._gathered = bytearray()

    def writable(self) -> bool:
        return True

    def write(self, content: Any) -> int:
        self._gathered += content
        if len(self._gathered) >= PIECE:
            self.send()
        return len(content)

    def send(self) -> None:
        if self._gathered:
            self._way.put(bytes(self._gathered))
            self._gathered.clear()


def _run(write: Callable[[BinaryIO], object], way: _Way) -> None:
    stream = _Stream(way)
    with suppress(GoneError):
        try:
            write(cast(BinaryIO, stream))
            stream.send()
            way.put(None)
        except GoneError:
            raise
        except BaseException as error:  # whoever reads is told
            way.put(error)
