"""One counter style, and how sheets describe it (CSS Counter Styles 3)."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, Final, NamedTuple

from fleetquill.style.tokens import Token, Tokens, ident, split_commas

ENDLESS: Final = 10**30  # a range's end that is 'infinite'


class CounterStyle(NamedTuple):
    """One counter style. `symbols` are what `system` counts with; `additive` are values, the greatest first.

    `base` is the style that one of the system 'extends' takes the rest from; `given` are the descriptors that
    it sets itself. `start` is the first value of a fixed system. `short`: see the style's own algorithm.
    """

    system: str
    symbols: tuple[str, ...] = ()
    additive: tuple[tuple[int, str], ...] = ()
    ranges: tuple[tuple[int, int], ...] = ()
    negative: tuple[str, str] = ("-", "")
    pad: tuple[int, str] = (0, "")
    prefix: str = ""
    suffix: str = ". "
    fallback: str = "decimal"
    start: int = 1
    base: str = ""
    given: frozenset[str] = frozenset()
    short: bool = False

    @property
    def allowed(self) -> tuple[tuple[int, int], ...]:
        """The values that it can write (§3.5)."""
        if self.ranges:
            return self.ranges
        if self.system in ("alphabetic", "symbolic"):
            return ((1, ENDLESS),)
        return ((0, ENDLESS),) if self.system == "additive" else ((-ENDLESS, ENDLESS),)


Named = str | CounterStyle  # a style by its name, or one that symbols() made; a string stands with a quote before it


DECIMAL: Final = CounterStyle("numeric", tuple("0123456789"))
LEAST_SYMBOLS: Final = {"cyclic": 1, "fixed": 1, "symbolic": 1, "alphabetic": 2, "numeric": 2}


# ---- reading ----


def counter_style_name(token: Token) -> Named | None:
    """A counter style where one is named: a name, a string (with a quote mark before it), or symbols()."""
    if token.type == "string":
        return f'"{token.value}'
    if token.type == "ident":
        return str(token.value)
    if token.type == "function" and token.lower_name == "symbols":
        return _anonymous([part for part in token.arguments if part.type not in ("whitespace", "comment")])
    return None


def _anonymous(arguments: list[Token]) -> CounterStyle | None:
    """symbols(type? symbol+) (§8)."""
    system = ident(arguments[0]) if arguments else ""
    if system in ("cyclic", "numeric", "alphabetic", "symbolic", "fixed"):
        arguments = arguments[1:]
    else:
        system = "symbolic"
    symbols = _symbols(arguments)
    if symbols is None or len(symbols) < LEAST_SYMBOLS[system]:
        return None
    return CounterStyle(system, symbols, suffix=" ")


def read_counter_style(descriptors: Mapping[str, list[Token]]) -> CounterStyle | str:
    """The style of an @counter-style rule, or what is wrong with it (§3)."""
    values: dict[str, Any] = {}
    for name, tokens in descriptors.items():
        reader = DESCRIPTORS.get(name)
        if reader is None:
            continue
        value = reader(tokens)
        if value is None:
            return f"the descriptor '{name}' is not understood"
        values.update(value)
    system = str(values.get("system", "symbolic"))
    style = CounterStyle(system, given=frozenset(values) - {"system", "base", "start"})._replace(**values)
    if system == "extends":
        return "a style that extends another has no symbols of its own" if style.symbols or style.additive else style
    if system == "additive":
        return style if style.additive else "it needs 'additive-symbols'"
    least = LEAST_SYMBOLS[system]
    return style if len(style.symbols) >= least else f"it needs at least {least} 'symbols'"


Found = dict[str, Any] | None


def _symbols(tokens: Tokens) -> tuple[str, ...] | None:
    if not tokens or any(token.type not in ("string", "ident") for token in tokens):
        return None
    return tuple(str(token.value) for token in tokens)


def _system(tokens: Tokens) -> Found:
    word = ident(tokens[0]) if tokens else ""
    if word == "fixed" and len(tokens) == 2 and tokens[1].type == "number" and tokens[1].is_integer:
        return {"system": word, "start": tokens[1].int_value}
    if word == "extends" and len(tokens) == 2 and tokens[1].type == "ident":
        return {"system": word, "base": str(tokens[1].value)}
    return {"system": word} if len(tokens) == 1 and word in (*LEAST_SYMBOLS, "additive") else None


def _negative(tokens: Tokens) -> Found:
    symbols = _symbols(tokens)
    return {"negative": (*symbols, "")[:2]} if symbols is not None and len(symbols) <= 2 else None


def _one_symbol(field: str) -> Callable[[Tokens], Found]:
    def read(tokens: Tokens) -> Found:
        symbols = _symbols(tokens)
        return {field: symbols[0]} if symbols is not None and len(symbols) == 1 else None

    return read


def _range(tokens: Tokens) -> Found:
    if len(tokens) == 1 and ident(tokens[0]) == "auto":
        return {"ranges": ()}
    found: list[tuple[int, int]] = []
    for part in split_commas(tokens):
        if len(part) != 2:
            return None
        low = -ENDLESS if ident(part[0]) == "infinite" else getattr(part[0], "int_value", None)
        high = ENDLESS if ident(part[1]) == "infinite" else getattr(part[1], "int_value", None)
        if low is None or high is None or low > high:
            return None
        found.append((low, high))
    return {"ranges": tuple(found)}


def _weighted(tokens: Tokens) -> tuple[int, str] | None:
    """A whole number that is not negative, and a symbol, in either order."""
    numbers = [token for token in tokens if token.type == "number" and token.is_integer and token.int_value >= 0]
    symbols = _symbols([token for token in tokens if token not in numbers])
    if len(numbers) != 1 or symbols is None or len(symbols) != 1:
        return None
    return numbers[0].int_value, symbols[0]


def _pad(tokens: Tokens) -> Found:
    pad = _weighted(tokens)
    return None if pad is None else {"pad": pad}


def _additive_symbols(tokens: Tokens) -> Found:
    pairs = [_weighted(part) for part in split_commas(tokens)]
    found = [pair for pair in pairs if pair is not None]
    weights = [weight for weight, _ in found]
    if not found or len(found) < len(pairs) or weights != sorted(set(weights), reverse=True):
        return None
    return {"additive": tuple(found)}


def _symbol_list(tokens: Tokens) -> Found:
    symbols = _symbols(tokens)
    return None if symbols is None else {"symbols": symbols}


def _fallback(tokens: Tokens) -> Found:
    return {"fallback": str(tokens[0].value)} if len(tokens) == 1 and tokens[0].type == "ident" else None


DESCRIPTORS: Final[dict[str, Callable[[Tokens], Found]]] = {
    "system": _system,
    "symbols": _symbol_list,
    "additive-symbols": _additive_symbols,
    "negative": _negative,
    "prefix": _one_symbol("prefix"),
    "suffix": _one_symbol("suffix"),
    "range": _range,
    "pad": _pad,
    "fallback": _fallback,
}
