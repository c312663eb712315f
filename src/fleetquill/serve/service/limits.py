"""What one request, and one program that asks, may take."""

from __future__ import annotations

from typing import NamedTuple


class Limits(NamedTuple):
    """What one request may take: bytes of its body, pages of its document, seconds of it, more of one that is made as a
    job; how many documents are made at once and may wait for that; how many a minute each who asks may have made (0:
    any number); megabytes of memory that a worker may come to have; megabytes of files that wait to be fetched, and
    seconds for which they do."""

    body: int = 4 * 2**20
    pages: int = 2_000
    seconds: float = 30.0
    job_seconds: float = 600.0
    at_once: int = 2  # in one process more would only wait for one another
    waiting: int = 64
    per_minute: int = 0
    memory: int = 1_024
    kept: int = 256
    kept_seconds: float = 3_600.0
