"""Values of filter: functions one after the other, and filters of the document by their id (Filter Effects 1 §5)."""

from __future__ import annotations

from typing import Any, Final, NamedTuple

from fleetquill.style.background_values import angle
from fleetquill.style.lengths import length
from fleetquill.style.tokens import Token, Tokens, ident
from fleetquill.style.values import color_value, reference


class Blur(NamedTuple):
    """`deviation` of the normal distribution, a length."""

    deviation: Any


class DropShadow(NamedTuple):
    x: Any
    y: Any
    deviation: Any
    color: Any


class Recolor(NamedTuple):
    """One of the functions that give each colour another: its name, and how much (hue-rotate: degrees)."""

    name: str
    amount: float


class Reference(NamedTuple):
    """A filter element by its id."""

    id: str


Filter = Blur | DropShadow | Recolor | Reference
AMOUNTS: Final = ("brightness", "contrast", "grayscale", "invert", "opacity", "saturate", "sepia")
AT_MOST_ONE: Final = ("grayscale", "invert", "opacity", "sepia")


def filters(tokens: Tokens) -> tuple[Filter, ...] | None:
    """The functions in their order; `none` is ()."""
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return ()
    found = [_filter(token) for token in tokens]
    return None if not found or None in found else tuple(f for f in found if f is not None)


def _filter(token: Token) -> Filter | None:
    name = reference(token)
    if name is not None:
        return Reference(name)
    if token.type != "function":
        return None
    arguments = [t for t in token.arguments if t.type not in ("whitespace", "comment")]
    if token.lower_name == "blur":
        deviation = length(arguments[0]) if arguments else 0.0
        return None if deviation is None or len(arguments) > 1 else Blur(deviation)
    if token.lower_name == "hue-rotate":
        turn = angle(arguments[0]) if arguments else 0.0
        return None if turn is None or len(arguments) > 1 else Recolor("hue-rotate", turn)
    if token.lower_name == "drop-shadow":
        return _drop_shadow(arguments)
    return _recolor(token.lower_name, arguments) if token.lower_name in AMOUNTS else None


def _recolor(name: str, arguments: list[Token]) -> Recolor | None:
    if not arguments:
        return Recolor(name, 1.0)
    token = arguments[0]
    if len(arguments) > 1 or token.type not in ("number", "percentage") or token.value < 0:
        return None
    amount = float(token.value) / (100 if token.type == "percentage" else 1)
    return Recolor(name, min(1.0, amount) if name in AT_MOST_ONE else amount)


def _drop_shadow(arguments: list[Token]) -> DropShadow | None:
    lengths = [length(token) for token in arguments if length(token) is not None]
    colors = [color_value(token) for token in arguments if length(token) is None]
    if len(lengths) not in (2, 3) or len(colors) > 1 or None in colors:
        return None
    return DropShadow(lengths[0], lengths[1], lengths[2] if len(lengths) > 2 else 0.0, (colors or ["currentcolor"])[0])
