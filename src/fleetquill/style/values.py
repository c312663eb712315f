"""CSS values: what a declaration says (specified) and what an element has (computed).

A computed length is px as float. A value that waits for its basis (a percentage, a calc() that
mixes both) is a `Relative` or a `Choice`; `resolve` turns any of them into px.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, Final, NamedTuple, Protocol

from tinycss2.color4 import parse_color as parse_css_color

from fleetquill.style.tokens import Parser, Token, Tokens, ident, split_commas, without_space
from fleetquill.units import PX_PER_UNIT

Auto = str  # the keyword 'auto', 'none', 'normal', … that some lengths may also be


class Rgba(NamedTuple):
    """An sRGB colour; every part from 0 to 1."""

    red: float
    green: float
    blue: float
    alpha: float = 1.0


BLACK: Final = Rgba(0, 0, 0)
TRANSPARENT: Final = Rgba(0, 0, 0, 0)
CURRENT: Final = None  # 'currentcolor': a style says what it is


class Relative(NamedTuple):
    """`px` plus `ratio` of a basis that only layout knows."""

    px: float
    ratio: float

    def resolve(self, basis: float) -> float:
        return self.px + self.ratio * basis


class Choice(NamedTuple):
    """min() or max() over values of which at least one waits for its basis."""

    pick: Callable[..., float]
    options: tuple[float | Relative | Choice, ...]
    factor: float = 1.0

    def resolve(self, basis: float) -> float:
        return self.factor * self.pick([resolve(option, basis) for option in self.options])


Length = float | Relative | Choice  # a computed <length-percentage>


class Factor(NamedTuple):
    """A plain number where a length could stand as well: `line-height: 1.4`."""

    value: float


class Unresolved(NamedTuple):
    """A specified length in a unit that hangs on a font or on the page."""

    value: float
    unit: str


class Sum(NamedTuple):
    """A specified calc(): a tree of operations over specified lengths and numbers."""

    operator: str
    operands: tuple[Any, ...]


class LengthBasis(Protocol):
    """What is needed to compute a length."""

    font_size: float
    root_font_size: float
    viewport_width: float
    viewport_height: float


def resolve(value: Length, basis: float) -> float:
    """The used px of a computed length against its basis in px."""
    if isinstance(value, float):
        return value
    return value.resolve(basis)


def resolve_auto(value: Length | Auto, basis: float) -> float | None:
    """As `resolve`; None for a keyword."""
    if isinstance(value, str):
        return None
    return value if isinstance(value, float) else value.resolve(basis)


# ---- parsing ---------------------------------------------------------------------------------

FONT_UNITS: Final = {"em": 1.0, "ex": 0.5, "ch": 0.5, "cap": 0.7, "ic": 1.0, "lh": 1.2}
VIEWPORT_UNITS: Final = {"vw", "vh", "vmin", "vmax", "vi", "vb"}
MATH: Final = {"calc", "min", "max", "clamp"}


def length(token: Token) -> Any:
    """A specified <length>: px as float, an Unresolved, or a Sum."""
    if token.type == "dimension":
        unit = token.lower_unit
        if unit in PX_PER_UNIT:
            return token.value * PX_PER_UNIT[unit]
        if unit in FONT_UNITS or unit in VIEWPORT_UNITS or unit in ("rem", "rlh"):
            return Unresolved(token.value, unit)
    elif token.type == "number":
        return 0.0 if token.value == 0 else None
    elif token.type == "function" and token.lower_name in MATH:
        return math_function(token)
    return None


def length_percentage(token: Token) -> Any:
    """A specified <length-percentage>."""
    if token.type == "percentage":
        return Relative(0.0, token.value / 100)
    return length(token)


def number(token: Token) -> float | None:
    return float(token.value) if token.type == "number" else None


def math_function(token: Token) -> Sum | None:
    """calc(), min(), max() or clamp() as a tree (CSS Values 4 §10)."""
    parts = split_commas(token.arguments) if token.lower_name != "calc" else [token.arguments]
    operands = [_sum(list(part)) for part in parts]
    if any(o is None for o in operands) or (token.lower_name == "clamp" and len(operands) != 3):
        return None
    return Sum(token.lower_name, tuple(operands))


def _sum(tokens: list[Token]) -> Any:
    """<calc-sum>: products joined by + and -."""
    tokens = [t for t in tokens if t.type not in ("whitespace", "comment")]
    if not tokens:
        return None
    terms: list[tuple[str, list[Token]]] = [("+", [])]
    for token in tokens:
        if token.type == "literal" and token.value in "+-" and terms[-1][1]:
            terms.append((token.value, []))
        else:
            terms[-1][1].append(token)
    result = None
    for sign, term in terms:
        value = _product(term)
        if value is None:
            return None
        result = value if result is None else Sum(sign, (result, value))
    return result


def _product(tokens: list[Token]) -> Any:
    result = None
    operator = "*"
    for token in tokens:
        if token.type == "literal" and token.value in "*/":
            operator = token.value
            continue
        value = _operand(token)
        if value is None:
            return None
        result = value if result is None else Sum(operator, (result, value))
    return result


def _operand(token: Token) -> Any:
    if token.type == "number":
        return Factor(token.value)
    if token.type == "() block":
        return _sum(token.content)
    return length_percentage(token)


def compute_length(value: Any, basis: LengthBasis) -> Any:
    """A specified length, percentage or keyword as its computed form."""
    if isinstance(value, (float, str, Relative)) or value is None:
        return value
    if isinstance(value, Unresolved):
        return _compute_unit(value, basis)
    if isinstance(value, Sum):
        return _compute_sum(value, basis)
    return value


def _compute_unit(value: Unresolved, basis: LengthBasis) -> float:
    unit = value.unit
    if unit in FONT_UNITS:
        return value.value * FONT_UNITS[unit] * basis.font_size
    if unit in ("rem", "rlh"):
        return value.value * basis.root_font_size * (1.2 if unit == "rlh" else 1.0)
    wide, high = basis.viewport_width, basis.viewport_height
    side = {"vw": wide, "vi": wide, "vh": high, "vb": high, "vmin": min(wide, high), "vmax": max(wide, high)}
    return value.value * side[unit] / 100


def _compute_sum(node: Any, basis: LengthBasis) -> Any:
    """Evaluates a calc tree: a Factor for a pure number, else a computed length."""
    if not isinstance(node, Sum):
        return node if isinstance(node, Factor) else compute_length(node, basis)
    operands = [_compute_sum(operand, basis) for operand in node.operands]
    if node.operator in ("min", "max"):
        return _choose(min if node.operator == "min" else max, operands)
    if node.operator == "clamp":
        low, middle, high = operands
        return _choose(max, [low, _choose(min, [middle, high])])
    if node.operator == "calc":
        return operands[0]
    left, right = operands
    if node.operator in "+-":
        return _add(left, right, 1.0 if node.operator == "+" else -1.0)
    return _scale(left, right, node.operator)


def _choose(pick: Callable[..., float], options: list[Any]) -> Any:
    if all(isinstance(option, float) for option in options):
        return pick(options)
    return Choice(pick, tuple(options))


def _add(left: Any, right: Any, sign: float) -> Any:
    if isinstance(left, Factor) and isinstance(right, Factor):
        return Factor(left.value + sign * right.value)
    if isinstance(left, float) and isinstance(right, float):
        return left + sign * right
    if isinstance(left, Choice) or isinstance(right, Choice):
        return Choice(math.fsum, (left, _scale(right, Factor(sign), "*")))
    left, right = _linear(left), _linear(right)
    return Relative(left.px + sign * right.px, left.ratio + sign * right.ratio)


def _linear(value: Any) -> Relative:
    return value if isinstance(value, Relative) else Relative(float(value), 0.0)


def _scale(left: Any, right: Any, operator: str) -> Any:
    if not isinstance(right, Factor):
        left, right = right, left
    if not isinstance(right, Factor):
        return 0.0  # length × length has no meaning; the standard calls it invalid
    by = right.value if operator == "*" else (1 / right.value if right.value else 0.0)
    if isinstance(left, Factor):
        return Factor(left.value * by)
    if isinstance(left, Relative):
        return Relative(left.px * by, left.ratio * by)
    if isinstance(left, Choice):
        return left._replace(factor=left.factor * by)
    return left * by


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


def below(value: Any, least: float) -> bool:
    if isinstance(value, (float, int)):
        return value < least
    if isinstance(value, Unresolved):
        return value.value < least
    return isinstance(value, Relative) and value.ratio < least


def integer(token: Token) -> int | None:
    return int(token.int_value) if token.type == "number" and token.is_integer else None


def color_value(token: Token) -> Any:
    """A specified colour: an Rgba, or the word 'currentcolor'."""
    parsed = parse_css_color(token)
    if parsed is None:
        return None
    if parsed == "currentcolor":
        return "currentcolor"
    red, green, blue = (_part(p) for p in parsed.to("srgb").coordinates)
    return Rgba(red, green, blue, _part(parsed.alpha))


def _part(value: float | None) -> float:
    return min(1.0, max(0.0, float(value or 0.0)))


def compute_color(value: Any, _basis: LengthBasis) -> Any:
    return CURRENT if isinstance(value, str) else value  # of an outline 'invert' too, which no paper can do


def string_or_url(token: Token) -> str | None:
    if token.type in ("string", "url"):
        return str(token.value)
    if token.type == "function" and token.lower_name == "url":
        inner = without_space(token.arguments)
        return str(inner[0].value) if len(inner) == 1 and inner[0].type == "string" else None
    return None
