"""Finished files as they are given: a path, bytes or a stream."""

from __future__ import annotations

import os
from pathlib import Path
from typing import BinaryIO

from fleetquill.errors import OptionError, SourceError, Where

Finished = str | os.PathLike[str] | bytes | BinaryIO


def read_source(source: Finished) -> tuple[str, bytes]:
    """The name and the bytes of a finished file."""
    if isinstance(source, (bytes, bytearray, memoryview)):
        return "", bytes(source)
    if isinstance(source, (str, os.PathLike)):
        path = Path(source)
        try:
            return str(path), path.read_bytes()
        except OSError as error:
            where = Where(str(path))
            raise SourceError(f"The file cannot be read ({error.strerror or error}).", where=where) from error
    read = getattr(source, "read", None)
    content = read() if callable(read) else None
    if not isinstance(content, bytes):
        raise OptionError(
            f"A volume is read from a path, bytes or a binary stream, not from the type '{type(source).__name__}'."
        )
    return str(getattr(source, "name", "") or ""), content
