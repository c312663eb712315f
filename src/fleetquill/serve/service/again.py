"""Requests that come again: the same key, the same answer; and not too many in a minute."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from math import ceil
from time import time
from typing import Final

from limits import RateLimitItemPerMinute
from limits.storage import MemoryStorage
from limits.strategies import MovingWindowRateLimiter
from starlette.requests import Request

from fleetquill.serve.service.desk import Run
from fleetquill.serve.service.order import Made
from fleetquill.serve.service.problems import ProblemError

MOST_KEYS: Final = 1_000
LONGEST_KEY: Final = 255


class Repeats:
    """Orders by the key that was sent with them (the header Idempotency-Key): the same order is taken once."""

    def __init__(self) -> None:
        self._known: OrderedDict[tuple[str, str], tuple[str, Run]] = OrderedDict()

    def found(self, holder: str, key: str, content: str) -> Run | None:
        """The run that a key stands for, unless that went wrong or is no more. Raises ProblemError where the key is
        another order's."""
        if len(key) > LONGEST_KEY:
            raise ProblemError(400, f"An Idempotency-Key has at most {LONGEST_KEY} characters.")
        before = self._known.get((holder, key))
        if before is None:
            return None
        if before[0] != content:
            raise ProblemError(422, "This Idempotency-Key was sent with another order.")
        run = before[1]
        outcome = run.outcome
        if outcome is None:
            return run
        lasts = run.kept if isinstance(outcome, Made) else outcome.status < 500 and outcome.status != 409
        return run if lasts else None

    def remember(self, holder: str, key: str, content: str, run: Run) -> None:
        self._known[holder, key] = (content, run)
        while len(self._known) > MOST_KEYS:
            self._known.popitem(last=False)


def fingerprint(request: Request, content: bytes) -> str:
    """What makes two orders the same; what stands between the parts of a form is another each time."""
    media_type, _, parameters = request.headers.get("content-type", "").partition(";")
    boundary = parameters.partition("boundary=")[2].strip('" ').encode("latin-1")
    told = f"{request.url.path}?{request.url.query}\n{media_type}\n".encode()
    return hashlib.sha256(told + (content.replace(boundary, b"") if boundary else content)).hexdigest()


class Rate:
    """How many documents each who asks may have made in a minute."""

    def __init__(self) -> None:
        self._window = MovingWindowRateLimiter(MemoryStorage())

    def check(self, holder: str, per_minute: int) -> None:
        """Counts one more. Raises ProblemError (RFC 6585 §4) where that is too many."""
        if not per_minute:
            return
        limit = RateLimitItemPerMinute(per_minute)
        if not self._window.hit(limit, holder):
            free = max(1, ceil(self._window.get_window_stats(limit, holder).reset_time - time()))
            raise ProblemError(429, f"More than {per_minute} documents in a minute.", {"Retry-After": str(free)})
