"""Counters in scope while a document is walked (CSS Lists 3 §4)."""

from __future__ import annotations

from collections.abc import Iterable


class Counters:
    """The counters in scope while a document is walked in order."""

    def __init__(self) -> None:
        self._values: dict[str, list[int]] = {}
        self._scopes: list[set[str]] = [set()]

    def enter(self) -> None:
        """A scope for the children of an element."""
        self._scopes.append(set())

    def leave(self) -> None:
        for name in self._scopes.pop():
            self._values[name].pop()

    def reset(self, pairs: Iterable[tuple[str, int]]) -> None:
        for name, value in pairs:
            if name in self._scopes[-1]:
                self._values[name][-1] = value
            else:
                self._values.setdefault(name, []).append(value)
                self._scopes[-1].add(name)

    def increment(self, pairs: Iterable[tuple[str, int]]) -> None:
        for name, value in pairs:
            if not self._values.get(name):
                self.reset([(name, 0)])
            self._values[name][-1] += value

    def set(self, pairs: Iterable[tuple[str, int]]) -> None:
        for name, value in pairs:
            if not self._values.get(name):
                self.reset([(name, 0)])
            self._values[name][-1] = value

    def all(self) -> dict[str, list[int]]:
        """Every counter in scope, with its nested values."""
        return {name: list(values) for name, values in self._values.items() if values}

    def value(self, name: str) -> int:
        values = self._values.get(name)
        return values[-1] if values else 0

    def values(self, name: str) -> list[int]:
        """The nested counters of that name, outermost first."""
        return self._values.get(name) or [0]
