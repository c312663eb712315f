"""A binary stream that counts what is written to it."""

from __future__ import annotations

import io
from typing import Any, BinaryIO


class CountedStream(io.RawIOBase):
    """Hands on all that is written, also to a stream that takes only a part at a time; it is not closed with it."""

    def __init__(self, stream: BinaryIO) -> None:
        self._stream = stream
        self.length = 0

    def writable(self) -> bool:
        return True

    def write(self, content: Any) -> int:
        left = memoryview(content).cast("B")
        whole = len(left)
        while left:
            taken = self._stream.write(left)
            left = left[len(left) if taken is None else taken :]
        self.length += whole
        return whole

    def flush(self) -> None:
        if hasattr(self._stream, "flush") and not getattr(self._stream, "closed", False):
            self._stream.flush()
