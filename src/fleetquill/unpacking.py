"""Unpacking what was deflated, up to a size: a small file can hold a very large one."""

from __future__ import annotations

import zlib
from typing import Final

from fleetquill.errors import LimitError, SourceError, Where

TOO_LARGE: Final = "The file unpacks to more than the policy allows."


def unzipped(content: bytes, most: int, where: Where | None = None, *, window: int = zlib.MAX_WBITS) -> bytes:
    """What was deflated (RFC 1950 to 1952, by `window`); LimitError where that is more than so many bytes."""
    unpacker = zlib.decompressobj(window)
    try:
        unpacked = unpacker.decompress(content, most + 1)
    except zlib.error as error:
        raise SourceError(f"The file does not unpack ({error}).", where=where) from error
    if len(unpacked) > most:
        raise LimitError(TOO_LARGE, where=where)
    return unpacked
