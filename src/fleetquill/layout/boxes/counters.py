"""Counters (CSS Lists 3 §4) and the counter styles that write them (CSS Counter Styles 3 §6)."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final

SYMBOLS: Final = {"disc": "•", "circle": "◦", "square": "▪"}
ROMAN: Final = (
    (1000, "m"), (900, "cm"), (500, "d"), (400, "cd"), (100, "c"), (90, "xc"),
    (50, "l"), (40, "xl"), (10, "x"), (9, "ix"), (5, "v"), (4, "iv"), (1, "i"),
)  # fmt: skip
GREEK: Final = "αβγδεζηθικλμνξοπρστυφχψω"
LATIN: Final = "abcdefghijklmnopqrstuvwxyz"


def represent(value: int, style: str) -> str:
    """A counter's value in a counter style; decimal where the style cannot write it."""
    if style == "none":
        return ""
    if style in SYMBOLS:
        return SYMBOLS[style]
    if style.startswith('"'):
        return style[1:]
    if style == "decimal-leading-zero":
        return f"{value:03d}" if value < 0 else f"{value:02d}"
    if style.endswith("roman") and 0 < value < 4000:
        text = _roman(value)
    elif style.endswith(("alpha", "latin")) and value > 0:
        text = _alphabetic(value, LATIN)
    elif style == "lower-greek" and value > 0:
        text = _alphabetic(value, GREEK)
    else:
        return str(value)
    return text.upper() if style.startswith("upper") else text


def marker_text(value: int, style: str) -> str:
    """What a list marker says: the representation with its suffix."""
    text = represent(value, style)
    if not text or style in SYMBOLS or style.startswith('"'):
        return text
    return f"{text}."


def _roman(value: int) -> str:
    text = ""
    for size, letters in ROMAN:
        while value >= size:
            text += letters
            value -= size
    return text


def _alphabetic(value: int, letters: str) -> str:
    text = ""
    while value > 0:
        value, place = divmod(value - 1, len(letters))
        text = letters[place] + text
    return text


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
