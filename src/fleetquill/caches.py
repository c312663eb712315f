"""The one bounded cache: what is dear to make is kept, and never without end."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Final, TypeVar
from weakref import WeakValueDictionary

from fleetquill.process import collect_soon

K = TypeVar("K")
V = TypeVar("V")

USUAL_BYTES: Final = 64_000_000  # that the caches of one press have together


class Cache(dict[K, V]):
    """A dictionary of at most `most` entries: when it is full, it begins anew.

    Where thousands are kept at a time they are set as in any dictionary, and trimmed once they are.
    Several threads may use one: at worst something is made twice. One that is made by a `Budget` may begin
    anew whenever anything is kept.
    """

    __slots__ = ("__weakref__", "_budget", "_weigh", "most", "weight")

    def __init__(self, most: int, budget: Budget | None = None, weigh: Callable[[K, V], int] | None = None) -> None:
        super().__init__()
        self.most = most
        self._budget = budget
        self._weigh = weigh
        self.weight = 0  # of all that it keeps, where there is a budget

    def put(self, key: K, value: V) -> V:
        """Keeps a value, and gives it."""
        self.trim()
        self[key] = value
        if self._budget is not None and self._weigh is not None:
            weight = self._weigh(key, value)
            self.weight += weight
            self._budget.spend(weight)
        return value

    def clear(self) -> None:
        super().clear()
        if self._budget is not None:
            self._budget.spent -= self.weight
            self.weight = 0

    def trim(self) -> None:
        """Begins anew where there are too many."""
        if len(self) >= self.most:
            self.clear()


class Budget:
    """Bytes that several caches may have together; where they come to more, all of them begin anew.

    The bytes are estimates: each cache is given a function that weighs what it keeps.
    """

    def __init__(self, most: int = USUAL_BYTES) -> None:
        self.most = most
        self.spent = 0
        self._caches: WeakValueDictionary[int, Cache[Any, Any]] = WeakValueDictionary()

    def cache(self, most: int, weigh: Callable[[K, V], int]) -> Cache[K, V]:
        """A cache of at most so many entries, that lives on this budget."""
        made = Cache(most, self, weigh)
        self.add(made)
        return made

    def add(self, cache: Cache[Any, Any]) -> None:
        """A cache that is of a class of its own."""
        self._caches[id(cache)] = cache

    def spend(self, weight: int) -> None:
        """Something more is kept."""
        self.spent += weight
        if self.spent > self.most:
            for cache in list(self._caches.values()):
                cache.clear()
            self.spent = 0  # with what is in no cache
            collect_soon()
