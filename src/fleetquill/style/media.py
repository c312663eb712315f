"""Media queries as far as paper can answer them (Media Queries 4)."""

from __future__ import annotations

import operator
from collections.abc import Callable
from typing import Final, NamedTuple

from fleetquill.style.lengths import FixedBasis, compute_length, length, number
from fleetquill.style.tokens import Token, Tokens, ident, split_commas, without_space


class Feature(NamedTuple):
    """A question: 'width', '>=', 500.0; one without a comparison asks whether there is such a thing at all."""

    name: str
    comparison: str
    value: float | str


class Condition(NamedTuple):
    """Features joined by 'and', 'or' or 'not'; `parts` of a condition that is not understood is None."""

    word: str
    parts: tuple[Feature | Condition, ...] | None


class Query(NamedTuple):
    negated: bool
    medium: str
    condition: Condition | None


MediaQueries = tuple[Query, ...]


class Medium(NamedTuple):
    """The page that queries are asked of: its content area in px."""

    width: float
    height: float


UNKNOWN: Final = Condition("", None)
PAPER: Final[dict[str, float | str]] = {  # what paper answers to features that are words or whole numbers
    "color": 8.0, "color-gamut": "srgb", "monochrome": 0.0, "grid": 0.0, "update": "none", "hover": "none",
    "any-hover": "none", "pointer": "none", "any-pointer": "none", "scripting": "none", "overflow-block": "paged",
    "overflow-inline": "none", "scan": "", "prefers-color-scheme": "light", "prefers-reduced-motion": "reduce",
    "prefers-contrast": "no-preference", "forced-colors": "none", "resolution": 4.0, "display-mode": "browser",
}  # fmt: skip
NOTHING: Final = ("none", 0.0, "", "no-preference")
COMPARISONS: Final[dict[str, Callable[[float, float], bool]]] = {
    "<": operator.lt,
    "<=": operator.le,
    ">": operator.gt,
    ">=": operator.ge,
    "=": lambda a, b: abs(a - b) < 0.01,
}
FLIPPED: Final = {"<": ">", "<=": ">=", ">": "<", ">=": "<=", "=": "="}
INITIAL_FONT: Final = FixedBasis()  # font units in a query refer to it (Media Queries 4 §1.3)
DOTS: Final = {"dppx": 1.0, "x": 1.0, "dpi": 1 / 96, "dpcm": 2.54 / 96}
DEEPEST: Final = 20  # conditions in one another


def parse_media(tokens: Tokens) -> MediaQueries:
    return tuple(_query(part) for part in split_commas(tokens))


def _query(tokens: list[Token]) -> Query:
    """<media-query> (§3)."""
    rest = list(tokens)
    negated = len(rest) > 1 and ident(rest[0]) == "not" and bool(ident(rest[1]))
    if negated or (rest and ident(rest[0]) == "only"):
        rest = rest[1:]
    if not rest or not ident(rest[0]) or ident(rest[0]) == "not":
        return Query(negated, "all", condition(rest))
    medium, rest = ident(rest[0]), rest[1:]
    if not rest:
        return Query(negated, medium, None)
    return Query(negated, medium, condition(rest[1:]) if ident(rest[0]) == "and" else UNKNOWN)


def condition(tokens: list[Token], depth: int = 0) -> Condition:
    """<media-condition>: features joined by one word (§3)."""
    if depth > DEEPEST or not tokens:
        return UNKNOWN
    if ident(tokens[0]) == "not":
        return Condition("not", (_in_parens(tokens[1], depth),)) if len(tokens) == 2 else UNKNOWN
    words = {ident(token) for token in tokens[1::2]}
    if len(tokens) % 2 == 0 or len(words) > 1 or not words <= {"and", "or"}:
        return UNKNOWN
    return Condition(words.pop() if words else "and", tuple(_in_parens(token, depth) for token in tokens[::2]))


def _in_parens(token: Token, depth: int) -> Feature | Condition:
    if token.type != "() block":
        return UNKNOWN
    content = without_space(token.content)
    if content and (content[0].type == "() block" or ident(content[0]) == "not"):
        return condition(content, depth + 1)
    return _feature(content)


def _feature(tokens: list[Token]) -> Feature | Condition:
    """(width), (min-width: 30em), (width >= 500px), (400px <= width <= 900px) (§2.4)."""
    if len(tokens) == 1 and ident(tokens[0]):
        return Feature(ident(tokens[0]), "", "")
    if len(tokens) > 2 and ident(tokens[0]) and tokens[1].type == "literal" and tokens[1].value == ":":
        value = _value(tokens[2:])
        name = ident(tokens[0])
        for prefix, comparison in (("min-", ">="), ("max-", "<=")):
            if name.startswith(prefix):
                name = name.removeprefix(prefix)
                return UNKNOWN if value is None else Feature(name, comparison, value)
        return UNKNOWN if value is None else Feature(name, "=", value)
    operands, signs = _split(tokens)
    if len(signs) == 1 and _is_name(operands[0]):
        return _compared(operands[0], signs[0], operands[1])
    if 1 <= len(signs) <= 2 and _is_name(operands[1]):
        compared = [_compared(operands[1], FLIPPED[signs[0]], operands[0])]
        if len(signs) == 2:
            compared.append(_compared(operands[1], signs[1], operands[2]))
        return Condition("and", tuple(compared))
    return UNKNOWN


def _split(tokens: list[Token]) -> tuple[list[list[Token]], list[str]]:
    """What stands between signs of comparison, and the signs."""
    operands: list[list[Token]] = [[]]
    signs: list[str] = []
    for token in tokens:
        if token.type != "literal" or token.value not in ("<", ">", "="):
            operands[-1].append(token)
        elif token.value == "=" and signs and not operands[-1]:
            signs[-1] += "="
        else:
            signs.append(token.value)
            operands.append([])
    return operands, signs if all(sign in COMPARISONS for sign in signs) else []


def _is_name(tokens: list[Token]) -> bool:
    return len(tokens) == 1 and bool(ident(tokens[0]))


def _compared(name: list[Token], sign: str, tokens: list[Token]) -> Feature | Condition:
    value = _value(tokens)
    return UNKNOWN if value is None else Feature(ident(name[0]), sign, value)


def _value(tokens: list[Token]) -> float | str | None:
    """A word, a number, a ratio, px or dots per px."""
    if len(tokens) == 3 and tokens[1].type == "literal" and tokens[1].value == "/":
        above, below = number(tokens[0]), number(tokens[2])
        return above / below if above is not None and below else None
    if len(tokens) != 1:
        return None
    token = tokens[0]
    if ident(token):
        return ident(token)
    if token.type == "dimension" and token.lower_unit in DOTS:
        return float(token.value * DOTS[token.lower_unit])
    plain = number(token)
    if plain is not None:
        return plain
    size = compute_length(length(token), INITIAL_FONT)
    return size if isinstance(size, float) else None


def applies(conditions: tuple[MediaQueries, ...], medium: Medium) -> bool:
    """Whether every list of queries around a rule has one that holds."""
    return all(not queries or any(_holds(q, medium) for q in queries) for queries in conditions)


def _holds(query: Query, medium: Medium) -> bool:
    answer = query.medium in ("all", "print")
    if query.condition is not None:
        inner = answered(query.condition, medium)
        if inner is None:
            return False
        answer = answer and inner
    return answer != query.negated


def answered(condition: Condition | Feature, medium: Medium) -> bool | None:
    """Whether a condition holds; None where it is not understood (§3.1)."""
    if isinstance(condition, Feature):
        return _has(condition, medium)
    if condition.parts is None:
        return None
    answers = [answered(part, medium) for part in condition.parts]
    if condition.word == "not":
        return None if answers[0] is None else not answers[0]
    decided = condition.word == "or"  # what one answer settles
    if decided in answers:
        return decided
    return None if None in answers else not decided


def _has(feature: Feature, medium: Medium) -> bool | None:
    name, comparison, wanted = feature
    if name == "orientation":
        return wanted in ("", "portrait" if medium.height >= medium.width else "landscape")
    has: float | str | None = {
        "width": medium.width, "device-width": medium.width, "inline-size": medium.width,
        "height": medium.height, "device-height": medium.height, "block-size": medium.height,
        "aspect-ratio": medium.width / medium.height if medium.height else 0.0,
    }.get(name, PAPER.get(name))  # fmt: skip
    if has is None:
        return None
    if not comparison:
        return has not in NOTHING
    if isinstance(has, float) and isinstance(wanted, float):
        return COMPARISONS[comparison](has, wanted)
    return comparison == "=" and has == wanted
