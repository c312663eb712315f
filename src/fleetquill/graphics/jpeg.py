"""What can be told of a JPEG's health without decoding it: its segments and the marks within its scans (T.81 B)."""

from __future__ import annotations

import re
from typing import Final

START, END, SCAN = 0xD8, 0xD9, 0xDA
STANDALONE: Final = {0x01, *range(0xD0, 0xD8)}  # markers without a length
MARKER: Final = re.compile(rb"\xff+([^\x00\xff])", re.DOTALL)  # FF may be repeated before it
IN_SCAN: Final = re.compile(rb"\xff([\x01-\xfe])", re.DOTALL)  # any marker: FF as data is followed by 00; quick to find


def end_of_picture(content: bytes) -> int | None:
    """Where a JPEG ends, however much stands after it: cameras write more pictures, or films, into the same file.

    None where it breaks off, holds marks that its scans cannot, or restarts out of order. What is damaged between two
    marks alone is not noticed.
    """
    at, scans = 2, 0
    while True:
        found = MARKER.match(content, at)
        if found is None:
            return None
        at, marker = found.end(), found[1][0]
        if marker == END:
            return at if scans else None
        if marker in STANDALONE:
            continue
        length = int.from_bytes(content[at : at + 2])
        if length < 2 or at + length > len(content) or marker == START or 0x02 <= marker < 0xC0:
            return None
        at += length
        if marker == SCAN:
            scans += 1
            after = _after_scan(content, at)
            if after is None:
                return None
            at = after


def _after_scan(content: bytes, at: int) -> int | None:
    """Where the marker after a scan's data stands; None where its restarts are out of order, or it never ends."""
    for number, found in enumerate(IN_SCAN.finditer(content, at)):
        marker = found[1][0]
        if not 0xD0 <= marker <= 0xD7:
            return found.start()
        if marker - 0xD0 != number % 8:
            return None
    return None
