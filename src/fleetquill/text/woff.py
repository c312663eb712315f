"""Fonts packed for the web, unpacked: WOFF (W3C WOFF 1.0) and WOFF2 (W3C WOFF 2.0), up to a size."""

from __future__ import annotations

import io
import struct
from pathlib import Path
from typing import Final

from fleetquill.errors import FleetQuillError, LimitError, SourceError, Where
from fleetquill.unpacking import TOO_LARGE, unzipped

PACKED: Final = (b"wOFF", b"wOF2")
HEAD: Final = 44  # bytes before the tables of WOFF; 48 in WOFF2
OUTLINES: Final = (10, 11)  # glyf and loca, as WOFF2 numbers tables
OWN_TAG: Final = 63  # of a table's flags in WOFF2: its tag is written out


def unpacked(content: bytes, most: int, path: Path = Path("font")) -> bytes:
    """The font in a WOFF or WOFF2 file; LimitError where that is more than so many bytes.

    What the tables hold is counted before they are unpacked, for what a head says of its size is only said.
    """
    from fontTools.ttLib import TTFont

    where = Where(str(path))
    try:
        said = struct.unpack_from(">I", content, 16)[0]
        if said > most:
            raise LimitError(TOO_LARGE, where=where)
        if content.startswith(b"wOFF"):
            _count_tables(content, most, where)
        else:
            _count_stream(content, most, where)
        font = TTFont(io.BytesIO(content))
        font.flavor = None
        out = io.BytesIO()
        font.save(out, reorderTables=None)
    except FleetQuillError:
        raise
    except Exception as error:  # whatever a damaged file brings about
        raise SourceError(f"The font does not unpack ({error}).", where=where) from error
    return out.getvalue()


def _count_tables(content: bytes, most: int, where: Where) -> None:
    """WOFF 1.0 §4: each table is deflated by itself."""
    left = most
    for at in range(HEAD, HEAD + 20 * struct.unpack_from(">H", content, 12)[0], 20):
        offset, packed, size = struct.unpack_from(">III", content, at + 4)
        left -= size
        if left < 0:
            raise LimitError(TOO_LARGE, where=where)
        if packed != size:
            unzipped(content[offset : offset + packed], size, where)


def _count_stream(content: bytes, most: int, where: Where) -> None:
    """WOFF 2.0 §4: all tables are one stream, after a directory whose entries have no fixed size."""
    import brotli  # type: ignore[import-untyped]

    at = HEAD + 4
    for _ in range(struct.unpack_from(">H", content, 12)[0]):
        tag, version = content[at] & 63, content[at] >> 6
        at = _after_number(content, at + (5 if tag == OWN_TAG else 1))
        if version != (3 if tag in OUTLINES else 0):  # transformed (§5)
            at = _after_number(content, at)
    unpacker = brotli.Decompressor()
    left = most
    part = content[at : at + struct.unpack_from(">I", content, 20)[0]]
    while not unpacker.is_finished():
        found = unpacker.process(part, output_buffer_limit=1 << 20)
        part = b""
        left -= len(found)
        if left < 0:
            raise LimitError(TOO_LARGE, where=where)
        if not found and unpacker.can_accept_more_data():
            return  # it ends too early, which the reader of its tables will say


def _after_number(content: bytes, at: int) -> int:
    """Where a number of WOFF 2.0 §4.1 (UIntBase128) ends."""
    while content[at] & 0x80:
        at += 1
    return at + 1
