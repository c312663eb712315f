"""The one bounded cache: what is dear to make is kept, and never without end."""

from __future__ import annotations

from typing import TypeVar

K = TypeVar("K")
V = TypeVar("V")


class Cache(dict[K, V]):
    """A dictionary of at most `most` entries: when it is full, it begins anew.

    Where thousands are kept at a time they are set as in any dictionary, and trimmed once they are.
    Several threads may use one: at worst something is made twice.
    """

    __slots__ = ("most",)

    def __init__(self, most: int) -> None:
        super().__init__()
        self.most = most

    def put(self, key: K, value: V) -> V:
        """Keeps a value, and gives it."""
        self.trim()
        self[key] = value
        return value

    def trim(self) -> None:
        """Begins anew where there are too many."""
        if len(self) >= self.most:
            self.clear()
