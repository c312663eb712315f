"""Small questions asked of CSS component values (CSS Syntax 3 §5.3), as tinycss2 gives them."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import Any

Token = Any  # a tinycss2 component value; the library carries no types
Tokens = Sequence[Token]
Parser = Callable[[Tokens], Any]  # the specified value, or None where the tokens are not valid


LONG_NUMBER = re.compile(r"\d{400,}")


def tamed(css: str) -> str:
    """Style text whose numbers are no longer than can be read: what is so large is endless all the same."""
    return LONG_NUMBER.sub(lambda match: match[0][:400], css)


def without_space(tokens: Tokens) -> list[Token]:
    return [t for t in tokens if t.type not in ("whitespace", "comment")]


def ident(token: Token) -> str:
    """The identifier in lower case, or '' where the token is something else."""
    return str(token.lower_value) if token.type == "ident" else ""


def split_commas(tokens: Tokens) -> list[list[Token]]:
    """The parts between top-level commas, without white space."""
    parts: list[list[Token]] = [[]]
    for token in tokens:
        if token.type == "literal" and token.value == ",":
            parts.append([])
        elif token.type not in ("whitespace", "comment"):
            parts[-1].append(token)
    return parts


def split_slash(tokens: Tokens) -> list[list[Token]]:
    """The parts between top-level slashes."""
    parts: list[list[Token]] = [[]]
    for token in tokens:
        if token.type == "literal" and token.value == "/":
            parts.append([])
        else:
            parts[-1].append(token)
    return parts


def holds_variable(tokens: Tokens) -> bool:
    """Whether var() stands anywhere in the tokens (CSS Custom Properties 1 §3)."""
    for token in tokens:
        if token.type == "function":
            if token.lower_name == "var" or holds_variable(token.arguments):
                return True
        elif token.type.endswith("block") and holds_variable(token.content):
            return True
    return False
