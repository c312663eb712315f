"""The one bounded cache: what is dear to make is kept, and never without end."""

from __future__ import annotations

from typing import TypeVar

K = TypeVar("K")
V = TypeVar("V")


class Cache(dict[K, V]):
    """A dictionary of at most `most` entries: when it is full, the older half goes.

    Several threads may use one: at worst something is made twice.
    """

    __slots__ = ("most",)

    def __init__(self, most: int) -> None:
        super().__init__()
        self.most = most

    def put(self, key: K, value: V) -> V:
        """Keeps a value, and gives it."""
        if len(self) >= self.most:
            for old in list(self)[: (len(self) + 1) // 2]:
                self.pop(old, None)
        self[key] = value
        return value
