"""Unpacking what comes packed, up to a size: a small file can hold a very large one."""

from __future__ import annotations

import io
import warnings
import zipfile
import zlib
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Any, Final

from fleetquill.errors import LimitError, SourceError, Where

PACKED: Final = 20  # times that a package may be larger once it is unpacked than a file may be
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


def check_package(package: Any, most: int, where: Where | None = None) -> None:
    """Raises LimitError where a package of files, by its path or as a stream, unpacks to more than so many bytes."""
    with zipfile.ZipFile(package) as files:
        if sum(info.file_size for info in files.infolist()) > most:
            raise LimitError(f"The workbook unpacks to more than {most:,} bytes.", where=where)


@contextmanager
def opened(content: bytes, formats: Sequence[str]) -> Iterator[Any]:
    """A Pillow image of a file that has one of the formats; what Pillow makes of it, where it has none.

    How many pixels are too many says the policy, and what is odd in a file is no business of standard error.
    """
    from PIL import Image

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        with Image.open(io.BytesIO(content), formats=list(formats)) as image:
            yield image
