"""Colours, addresses and keywords of CSS, and the parsers that properties share."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Final, NamedTuple

from fleetquill.style.colors import srgb_of
from fleetquill.style.lengths import LengthBasis, below
from fleetquill.style.tokens import Parser, Token, Tokens, ident, without_space


class Rgba(NamedTuple):
    """An sRGB colour; every part from 0 to 1."""

    red: float
    green: float
    blue: float
    alpha: float = 1.0


BLACK: Final = Rgba(0, 0, 0)
WHITE: Final = Rgba(1, 1, 1)
TRANSPARENT: Final = Rgba(0, 0, 0, 0)
CURRENT: Final = None  # 'currentcolor': a style says what it is


# ---- parsers that properties share -----------------------------------------------------------


def keywords(*names: str) -> Parser:
    """A parser that takes exactly one of these identifiers."""
    allowed = frozenset(names)

    def parse(tokens: Tokens) -> str | None:
        if len(tokens) == 1 and ident(tokens[0]) in allowed:
            return ident(tokens[0])
        return None

    return parse


def one(read: Callable[[Token], Any], *names: str, least: float | None = None) -> Parser:
    """A parser that takes one token that `read` understands, or one of the identifiers."""
    allowed = frozenset(names)

    def parse(tokens: Tokens) -> Any:
        if len(tokens) != 1:
            return None
        if ident(tokens[0]) in allowed:
            return ident(tokens[0])
        value = read(tokens[0])
        return None if value is not None and least is not None and below(value, least) else value

    return parse


def together(measures: Sequence[Any]) -> list[Any]:
    """Those that are not None, where no other stands between them; none otherwise."""
    places = [place for place, measure in enumerate(measures) if measure is not None]
    if places and places[-1] - places[0] >= len(places):
        return []
    return [measures[place] for place in places]


def color_value(token: Token) -> Any:
    """A specified colour: an Rgba, or the word 'currentcolor'."""
    found = srgb_of(token)
    return Rgba(*found) if isinstance(found, tuple) else found


def compute_color(value: Any, _basis: LengthBasis) -> Any:
    return CURRENT if isinstance(value, str) else value  # of an outline 'invert' too, which no paper can do


def string_or_url(token: Token) -> str | None:
    if token.type in ("string", "url"):
        return str(token.value)
    if token.type == "function" and token.lower_name == "url":
        inner = without_space(token.arguments)
        return str(inner[0].value) if len(inner) == 1 and inner[0].type == "string" else None
    return None


def reference(token: Token) -> str | None:
    """The id that a url() of this document leads to."""
    address = None if token.type == "string" else string_or_url(token)
    return address[1:] if address is not None and address.startswith("#") else None
