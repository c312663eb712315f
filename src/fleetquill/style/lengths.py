"""Lengths, numbers and what is reckoned with them (CSS Values 4): as a declaration says them, and computed.

A computed length is px as float. A value that waits for its basis (a percentage, a calc() that
mixes both) is a `Relative` or a `Choice`; `resolve` turns any of them into px.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import partial
from typing import Any, Final, NamedTuple, Protocol

from fleetquill.style.tokens import Token, ident, split_commas
from fleetquill.units import PX_PER_UNIT

Auto = str  # the keyword 'auto', 'none', 'normal', … that some lengths may also be
LARGEST: Final = 1e6  # px, some 260 m; lengths end there (CSS Values 4 §5.1 leaves the range to us)

DEGREES: Final = {"deg": 1.0, "grad": 0.9, "rad": 57.29577951308232, "turn": 360.0}


def finite(value: float, largest: float = LARGEST) -> float:
    """A value within what layout can reckon with; one that is no number counts as 0 (CSS Values 4 §10.9)."""
    if isinstance(value, int):  # which may be larger than any float
        return float(min(int(largest), max(-int(largest), value)))
    if math.isnan(value):
        return 0.0
    return min(largest, max(-largest, value))


class Relative(NamedTuple):
    """`px` plus `ratio` of a basis that only layout knows."""

    px: float
    ratio: float

    def resolve(self, basis: float) -> float:
        return finite(self.px + self.ratio * basis, max(LARGEST, basis))


class Choice(NamedTuple):
    """A function, such as min() or round(), of values of which at least one waits for its basis."""

    pick: Callable[[Sequence[float]], float]
    options: tuple[float | Relative | Choice, ...]
    factor: float = 1.0

    def resolve(self, basis: float) -> float:
        picked = self.pick([resolve(option, basis) for option in self.options])
        return finite(self.factor * picked, max(LARGEST, basis))


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

    def font_unit(self, unit: str) -> float:
        """The px of one ex, ch, cap, ic, lh or rlh (CSS Values 4 §6.1.1)."""


USUAL_UNITS: Final = {"ex": 0.5, "ch": 0.5, "cap": 0.7, "ic": 1.0, "lh": 1.2, "rlh": 1.2}  # where no font is known


class FixedBasis:
    """Lengths where there is no element: the initial font, no page."""

    font_size = 16.0
    root_font_size = 16.0
    viewport_width = 0.0
    viewport_height = 0.0

    def font_unit(self, unit: str) -> float:
        return USUAL_UNITS[unit] * self.font_size


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

FONT_UNITS: Final = frozenset(USUAL_UNITS)
VIEWPORT_UNITS: Final = frozenset(
    prefix + unit for prefix in ("", "s", "l", "d") for unit in ("vw", "vh", "vmin", "vmax", "vi", "vb")
)
ANGLES: Final = {"deg": math.pi / 180, "grad": math.pi / 200, "rad": 1.0, "turn": 2 * math.pi}
CONSTANTS: Final = {"e": math.e, "pi": math.pi, "infinity": math.inf, "-infinity": -math.inf, "nan": math.nan}


def length(token: Token) -> Any:
    """A specified <length>: px as float, an Unresolved, or a Sum."""
    if token.type == "dimension":
        unit = token.lower_unit
        if unit in PX_PER_UNIT:
            return finite(token.value * PX_PER_UNIT[unit])
        if unit in ("em", "rem") or unit in FONT_UNITS or unit in VIEWPORT_UNITS:
            return Unresolved(finite(token.value), unit)
    elif token.type == "number":
        return 0.0 if token.value == 0 else None
    elif token.type == "function" and token.lower_name in MATH:
        tree = math_function(token)
        return None if _has_share(tree) else tree
    return None


def length_percentage(token: Token) -> Any:
    """A specified <length-percentage>."""
    if token.type == "percentage":
        return Relative(0.0, finite(token.value) / 100)
    if token.type == "function" and token.lower_name in MATH:
        return math_function(token)
    return length(token)


def number(token: Token) -> float | None:
    """A <number>, reckoned where it is a function of numbers alone."""
    if token.type == "number":
        return finite(float(token.value))
    if token.type == "function" and token.lower_name in MATH:
        tree = math_function(token)
        value = _compute_sum(tree, FixedBasis()) if tree is not None and not _hangs_on_font(tree) else None
        return finite(value.value) if isinstance(value, Factor) else None
    return None


def integer(token: Token) -> int | None:
    if token.type == "number":
        return int(finite(token.int_value)) if token.is_integer else None
    value = number(token)
    return None if value is None else math.floor(value + 0.5)  # CSS Values 4 §10.12


def _has_share(node: Any) -> bool:
    return isinstance(node, Relative) or (isinstance(node, Sum) and any(map(_has_share, node.operands)))


def _hangs_on_font(node: Any) -> bool:
    return isinstance(node, Unresolved) or (isinstance(node, Sum) and any(map(_hangs_on_font, node.operands)))


ROUNDING: Final = ("nearest", "up", "down", "to-zero")


def math_function(token: Token) -> Sum | None:
    """A math function as a tree (CSS Values 4 §10)."""
    name = token.lower_name
    if name == "calc":
        return _function_of(name, [list(token.arguments)])
    parts = split_commas(token.arguments)
    if name == "round":
        word = ident(parts[0][0]) if len(parts[0]) == 1 else ""
        name = f"round {word}" if word in ROUNDING else "round nearest"
        parts = parts[1:] if word in ROUNDING else parts
        if len(parts) == 1:
            return _function_of(name, parts, Factor(1.0))
    return _function_of(name, parts)


def _function_of(name: str, parts: list[list[Token]], *more: Factor) -> Sum | None:
    operands = [*map(_sum, parts), *more]
    least, most = ARITY.get(name.split()[0], (1, 1))
    if not least <= len(operands) <= most or None in operands:
        return None
    tree = Sum(name, tuple(operands))
    return tree if _type(tree) else None


def _type(node: Any) -> str:
    """What a tree comes to, 'number' or 'length'; '' where the types of its parts do not go together (§10.2)."""
    if not isinstance(node, Sum):
        return "number" if isinstance(node, Factor) else "length"
    types = [_type(operand) for operand in node.operands]
    if "" in types:
        return ""
    if node.operator == "/":
        return types[0] if types[1] == "number" else "number" if types[0] == "length" else ""
    if node.operator == "*":
        return types[1] if types[0] == "number" else types[0] if types[1] == "number" else ""
    if node.operator in OF_NUMBERS:
        return "number" if types.count("number") == len(types) or node.operator == "atan2" else ""
    if len(set(types)) > 1:
        return ""
    return "number" if node.operator == "sign" else types[0]


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
    operator = ""
    for token in tokens:
        if token.type == "literal" and token.value in ("*", "/"):
            if operator or result is None:
                return None
            operator = token.value
            continue
        value = _operand(token)
        if value is None or (result is not None and not operator):
            return None
        result = value if result is None else Sum(operator, (result, value))
        operator = ""
    return None if operator else result


def _operand(token: Token) -> Any:
    if token.type == "number":
        return Factor(token.value)
    if token.type == "() block":
        return _sum(token.content)
    if token.type == "ident":
        value = CONSTANTS.get(token.lower_value)
        return None if value is None else Factor(value)
    if token.type == "dimension" and token.lower_unit in ANGLES:
        return Factor(token.value * ANGLES[token.lower_unit])
    return length_percentage(token)


# ---- computing -------------------------------------------------------------------------------


def compute_length(value: Any, basis: LengthBasis) -> Any:
    """A specified length, percentage or keyword as its computed form."""
    if isinstance(value, (float, str, Relative)) or value is None:
        return value
    if isinstance(value, Unresolved):
        return finite(_compute_unit(value, basis))
    if isinstance(value, Sum):
        computed = _compute_sum(value, basis)
        if isinstance(computed, Factor):
            return 0.0  # a number where a length belongs; 0 is the only one that is both
        return finite(computed) if isinstance(computed, float) else computed
    return value


def _compute_unit(value: Unresolved, basis: LengthBasis) -> float:
    unit = value.unit
    if unit == "em":
        return value.value * basis.font_size
    if unit == "rem":
        return value.value * basis.root_font_size
    if unit in FONT_UNITS:
        return value.value * basis.font_unit(unit)
    wide, high = basis.viewport_width, basis.viewport_height
    side = {"vw": wide, "vi": wide, "vh": high, "vb": high, "vmin": min(wide, high), "vmax": max(wide, high)}
    return value.value * side[unit if unit in side else unit[1:]] / 100  # a page has one size: small, large, dynamic


def _compute_sum(node: Any, basis: LengthBasis) -> Any:
    """Evaluates a calc tree: a Factor for a pure number, else a computed length."""
    if not isinstance(node, Sum):
        return node if isinstance(node, Factor) else compute_length(node, basis)
    operands = [_compute_sum(operand, basis) for operand in node.operands]
    name = node.operator
    if name in ("+", "-"):
        return _add(operands[0], operands[1], 1.0 if name == "+" else -1.0)
    if name in ("*", "/"):
        return _scale(operands[0], operands[1], name)
    if name == "calc":
        return operands[0]
    if name in OF_NUMBERS:
        if not all(isinstance(operand, Factor) for operand in operands):
            return Factor(math.nan)
        return Factor(_reckoned(OF_NUMBERS[name], [operand.value for operand in operands]))
    if name == "sign" and not isinstance(operands[0], Factor):
        of_length = operands[0] if isinstance(operands[0], float) else math.nan
        return Factor(_sign([of_length]))
    return _choose(PICKS[name], operands)


def _reckoned(function: Callable[..., float], values: Sequence[float]) -> float:
    try:
        return function(*values)
    except (ValueError, OverflowError, ZeroDivisionError):
        return math.nan


def _choose(pick: Callable[[Sequence[float]], float], options: list[Any]) -> Any:
    if all(isinstance(option, Factor) for option in options):
        return Factor(pick([option.value for option in options]))
    options = [option.value if isinstance(option, Factor) else option for option in options]
    if all(isinstance(option, float) for option in options):
        return pick(options)
    return Choice(pick, tuple(options))


def _clamp(values: Sequence[float]) -> float:
    low, middle, high = values
    return max(low, min(middle, high))


def _round(how: str, values: Sequence[float]) -> float:
    """CSS Values 4 §10.3.1."""
    value, step = values[0], abs(values[1])
    if step == 0.0 or not math.isfinite(value) or math.isnan(step):
        return math.nan if step == 0.0 or not math.isinf(value) else value
    if math.isinf(step):
        return 0.0
    count = value / step
    if how == "nearest":
        return math.floor(count + 0.5) * step
    whole = math.ceil(count) if how == "up" or (how == "to-zero" and count < 0) else math.floor(count)
    return whole * step


def _mod(values: Sequence[float]) -> float:
    return _reckoned(lambda a, b: a - b * math.floor(a / b), values)


def _rem(values: Sequence[float]) -> float:
    return _reckoned(math.fmod, values)


def _sign(values: Sequence[float]) -> float:
    value = values[0]
    return value if math.isnan(value) else float((value > 0) - (value < 0))


def _abs(values: Sequence[float]) -> float:
    return abs(values[0])


def _hypot(values: Sequence[float]) -> float:
    return math.hypot(*values)


PICKS: Final[dict[str, Callable[[Sequence[float]], float]]] = {
    "min": min,
    "max": max,
    "clamp": _clamp,
    "mod": _mod,
    "rem": _rem,
    "abs": _abs,
    "sign": _sign,
    "hypot": _hypot,
    **{f"round {how}": partial(_round, how) for how in ROUNDING},
}
OF_NUMBERS: Final[dict[str, Callable[..., float]]] = {
    "sin": math.sin,
    "cos": math.cos,
    "tan": math.tan,
    "asin": math.asin,
    "acos": math.acos,
    "atan": math.atan,
    "atan2": math.atan2,
    "pow": math.pow,
    "sqrt": math.sqrt,
    "log": math.log,
    "exp": math.exp,
}
ARITY: Final = {
    "min": (1, 1000), "max": (1, 1000), "hypot": (1, 1000), "clamp": (3, 3), "round": (2, 2), "mod": (2, 2),
    "rem": (2, 2), "atan2": (2, 2), "pow": (2, 2), "log": (1, 2),
}  # fmt: skip
MATH: Final = frozenset(("calc", "round", *PICKS, *OF_NUMBERS))


def _add(left: Any, right: Any, sign: float) -> Any:
    if isinstance(left, Factor) and isinstance(right, Factor):
        return Factor(left.value + sign * right.value)
    if isinstance(left, Factor) or isinstance(right, Factor):
        return Factor(math.nan)  # a number and a length have no sum
    if isinstance(left, float) and isinstance(right, float):
        return left + sign * right
    if isinstance(left, Choice) or isinstance(right, Choice):
        return Choice(math.fsum, (left, _scale(right, Factor(sign), "*")))
    left, right = _linear(left), _linear(right)
    return Relative(left.px + sign * right.px, left.ratio + sign * right.ratio)


def _linear(value: Any) -> Relative:
    return value if isinstance(value, Relative) else Relative(float(value), 0.0)


def _scale(left: Any, right: Any, operator: str) -> Any:
    if operator == "/" and isinstance(left, float) and isinstance(right, float):
        return Factor(left / right if right else math.inf * left if left else math.nan)
    if not isinstance(right, Factor) and operator == "*":
        left, right = right, left
    if not isinstance(right, Factor):
        return 0.0  # length × length has no meaning; the standard calls it invalid
    by = right.value if operator == "*" else (1 / right.value if right.value else math.inf)
    if isinstance(left, Factor):
        return Factor(left.value * by)
    if isinstance(left, Relative):
        return Relative(finite(left.px * by), finite(left.ratio * by))
    if isinstance(left, Choice):
        return left._replace(factor=left.factor * by)
    return left * by


def below(value: Any, least: float) -> bool:
    """Whether a specified value is known to be less than a property allows."""
    if isinstance(value, (float, int)):
        return value < least
    if isinstance(value, Unresolved):
        return value.value < least
    return isinstance(value, Relative) and value.ratio < least
