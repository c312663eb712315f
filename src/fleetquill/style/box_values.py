"""Values of position, transforms, ratios, columns and page marks."""

from __future__ import annotations

import math
from typing import Any, Final, NamedTuple

from fleetquill.style.background_values import angle
from fleetquill.style.lengths import (
    Factor,
    Length,
    LengthBasis,
    Relative,
    below,
    compute_length,
    finite,
    integer,
    length,
    length_percentage,
    number,
    resolve,
)
from fleetquill.style.tokens import Token, Tokens, ident, split_commas, split_slash
from fleetquill.style.values import Rgba


class Running(NamedTuple):
    """position: running(name): the element is taken out of the flow, for margin boxes to show."""

    name: str


def position(tokens: Tokens) -> Any:
    if len(tokens) != 1:
        return None
    token = tokens[0]
    if token.type == "function" and token.lower_name == "running":
        names = [t for t in token.arguments if t.type == "ident"]
        return Running(str(names[0].value)) if len(names) == 1 else None
    word = ident(token)
    return word if word in ("static", "relative", "absolute", "fixed", "sticky") else None


def share(tokens: Tokens) -> float | None:
    """A number or percentage from 0 to 1."""
    if len(tokens) != 1 or tokens[0].type not in ("number", "percentage"):
        return None
    value = float(tokens[0].value) / (100 if tokens[0].type == "percentage" else 1)
    return min(1.0, max(0.0, value))


def ratio(tokens: Tokens) -> Any:
    """aspect-ratio: 'auto', a ratio, or both (CSS Sizing 4 §5.1): (prefers natural, ratio or 0)."""
    auto = any(ident(token) == "auto" for token in tokens)
    rest = [token for token in tokens if ident(token) != "auto"]
    if not rest:
        return (True, 0.0) if auto else None
    numbers = [number(part[0]) if len(part) == 1 else None for part in split_slash(rest)]
    if len(numbers) not in (1, 2) or any(n is None or n < 0 for n in numbers):
        return None
    high = (numbers[1] or 0.0) if len(numbers) == 2 else 1.0
    value = (numbers[0] or 0.0) / high if high else 0.0
    return (auto, value if math.isfinite(value) else 0.0)


# ---- transforms (CSS Transforms 1) ----

Matrix = tuple[float, float, float, float, float, float]
IDENTITY: Final[Matrix] = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)


class Move(NamedTuple):
    """translate(): lengths, percentages of the border box."""

    x: Any
    y: Any


def multiply(first: Matrix, second: Matrix) -> Matrix:
    """The transform that does `second`, then `first`: as CSS lists them."""
    a, b, c, d, e, f = first
    g, h, i, j, k, m = second
    return (a * g + c * h, b * g + d * h, a * i + c * j, b * i + d * j, a * k + c * m + e, b * k + d * m + f)


def translation(x: float, y: float) -> Matrix:
    """The matrix that moves by so much."""
    return (1.0, 0.0, 0.0, 1.0, x, y)


def transform_matrix(
    parts: tuple[Matrix | Move, ...], origin: tuple[Length, Length], width: float, height: float
) -> Matrix:
    """The matrix of a computed transform around its origin, in a box of that size at (0, 0) (CSS Transforms 1 §5)."""
    matrix = IDENTITY
    for part in parts:
        step = translation(resolve(part.x, width), resolve(part.y, height)) if isinstance(part, Move) else part
        matrix = multiply(matrix, step)
    x, y = resolve(origin[0], width), resolve(origin[1], height)
    return multiply(multiply(translation(x, y), matrix), translation(-x, -y)) if x or y else matrix


def transforms(tokens: Tokens) -> tuple[Matrix | Move, ...] | None:
    """A list of functions, each a matrix or a Move; `none` is ()."""
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return ()
    found = [_transform(token) for token in tokens]
    return None if not found or None in found else tuple(f for f in found if f is not None)


def _transform(token: Token) -> Matrix | Move | None:
    if token.type != "function":
        return None
    arguments = [part[0] for part in split_commas(token.arguments) if len(part) == 1]
    name = token.lower_name
    if name in ("translate", "translatex", "translatey"):
        lengths = [length_percentage(a) for a in arguments]
        if not 1 <= len(lengths) <= 2 or None in lengths:
            return None
        if name == "translatey":
            return Move(0.0, lengths[0])
        return Move(lengths[0], lengths[1] if len(lengths) > 1 else 0.0)
    if name == "rotate" or name.startswith("skew"):
        angles = [angle(a) for a in arguments]
        if not 1 <= len(angles) <= 2 or None in angles:
            return None
        turns = [math.radians(a or 0.0) for a in angles]
        if name == "rotate":
            cos, sin = math.cos(turns[0]), math.sin(turns[0])
            return (cos, sin, -sin, cos, 0.0, 0.0)
        x = 0.0 if name == "skewy" else math.tan(turns[0])
        y = math.tan(turns[-1]) if name == "skewy" or len(turns) == 2 else 0.0
        return (1.0, y, x, 1.0, 0.0, 0.0)
    if name in ("rotatex", "rotatey", "rotatez", "rotate3d"):
        return _turn(name, arguments)
    if name in ("translatez", "scalez", "perspective"):
        return IDENTITY if len(arguments) == 1 else None
    if name == "translate3d":
        lengths = [length_percentage(a) for a in arguments]
        return Move(lengths[0], lengths[1]) if len(lengths) == 3 and None not in lengths else None
    numbers = [finite(float(a.value)) / (100 if a.type == "percentage" else 1) for a in arguments
               if a.type in ("number", "percentage")]  # fmt: skip
    if len(numbers) != len(arguments) or not numbers:
        return None
    if name == "matrix3d" and len(numbers) == 16:
        return (numbers[0], numbers[1], numbers[4], numbers[5], numbers[12], numbers[13])
    if name == "scale" or (name == "scale3d" and len(numbers) == 3):
        numbers = numbers[:2]
        return (numbers[0], 0.0, 0.0, numbers[-1], 0.0, 0.0)
    if name == "scalex":
        return (numbers[0], 0.0, 0.0, 1.0, 0.0, 0.0)
    if name == "scaley":
        return (1.0, 0.0, 0.0, numbers[0], 0.0, 0.0)
    if name == "matrix" and len(numbers) == 6:
        a, b, c, d, e, f = numbers
        return (a, b, c, d, e, f)
    return None


def translate(tokens: Tokens) -> tuple[Any, Any] | None:
    """One to three lengths, of which paper has no use for the third (CSS Transforms 2 §5)."""
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return (0.0, 0.0)
    lengths = [length_percentage(token) for token in tokens]
    if not 1 <= len(lengths) <= 3 or None in lengths:
        return None
    return lengths[0], lengths[1] if len(lengths) > 1 else 0.0


def rotate(tokens: Tokens) -> float | None:
    """Degrees clockwise; about z, the one axis that paper has."""
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return 0.0
    rest = [token for token in tokens if ident(token) != "z"]
    return angle(rest[0]) if len(rest) == 1 and len(tokens) <= 2 else None


def scale(tokens: Tokens) -> tuple[float, float] | None:
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return (1.0, 1.0)
    if not 1 <= len(tokens) <= 3 or any(token.type not in ("number", "percentage") for token in tokens):
        return None
    factors = [finite(float(t.value)) / (100 if t.type == "percentage" else 1) for t in tokens]
    return factors[0], factors[1] if len(factors) > 1 else factors[0]


def all_transforms(
    move: tuple[Length, Length], turn: float, factors: tuple[float, float], parts: tuple[Matrix | Move, ...]
) -> tuple[Matrix | Move, ...]:
    """translate, rotate and scale go before what `transform` says (CSS Transforms 2 §6)."""
    found: list[Matrix | Move] = []
    if move != (0.0, 0.0):
        found.append(Move(*move))
    if turn:
        found.append(_rotation(turn))
    if factors != (1.0, 1.0):
        found.append((factors[0], 0.0, 0.0, factors[1], 0.0, 0.0))
    return (*found, *parts)


def _rotation(degrees: float) -> Matrix:
    cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return (cos, sin, -sin, cos, 0.0, 0.0)


def _turn(name: str, arguments: list[Token]) -> Matrix | None:
    """A turn in space as it falls on the paper (CSS Transforms 2 §13), straight from above."""
    turn = angle(arguments[-1]) if arguments else None
    if turn is None or len(arguments) != (4 if name == "rotate3d" else 1):
        return None
    cos = math.cos(math.radians(turn))
    if name == "rotatez":
        return _rotation(turn)
    if name == "rotatex":
        return (1.0, 0.0, 0.0, cos, 0.0, 0.0)
    if name == "rotatey":
        return (cos, 0.0, 0.0, 1.0, 0.0, 0.0)
    axis = [number(a) for a in arguments[:3]]
    x, y, z = (part or 0.0 for part in axis)
    size = math.sqrt(x * x + y * y + z * z)
    if None in axis or not size:
        return None if None in axis else IDENTITY
    x, y, z = x / size, y / size, z / size
    sin, rest = math.sin(math.radians(turn)), 1 - cos
    return (cos + x * x * rest, x * y * rest + z * sin, x * y * rest - z * sin, cos + y * y * rest, 0.0, 0.0)


def resolution(tokens: Tokens) -> float | None:
    """image-resolution in dots per inch; 'from-image' is the usual 96 (CSS Images 4 §6)."""
    words = [token for token in tokens if ident(token) not in ("from-image", "snap")]
    if not words:
        return 96.0 if tokens else None
    units = {"dpi": 1.0, "dpcm": 2.54, "dppx": 96.0, "x": 96.0}
    token = words[0]
    if len(words) > 1 or token.type != "dimension" or token.lower_unit not in units or token.value <= 0:
        return None
    return float(token.value * units[token.lower_unit])


# ---- columns ----


def column_count(tokens: Tokens) -> Any:
    if len(tokens) == 1 and ident(tokens[0]) == "auto":
        return "auto"
    value = integer(tokens[0]) if len(tokens) == 1 else None
    return value if value is not None and value >= 1 else None


def columns(tokens: Tokens) -> dict[str, Any] | None:
    """CSS Multi-column 1 §3.4."""
    count: Any = "auto"
    width: Any = "auto"
    if not 1 <= len(tokens) <= 2:
        return None
    for token in tokens:
        if ident(token) == "auto":
            continue
        number_of = column_count([token])
        if number_of is not None and count == "auto":
            count = number_of
        elif width == "auto" and number_of is None:
            width = length(token)
            if width is None or below(width, 0.0):
                return None
        else:
            return None
    return {"column_count": count, "column_width": width}


# ---- names, marks ----


def page_name(tokens: Tokens) -> str | None:
    return str(tokens[0].value) if len(tokens) == 1 and tokens[0].type == "ident" else None


def marks(tokens: Tokens) -> tuple[str, ...] | None:
    words = [ident(token) for token in tokens]
    if words == ["none"]:
        return ()
    return tuple(words) if words and sorted(words) in (["crop"], ["cross"], ["crop", "cross"]) else None


# ---- computing what is nested ----


def compute_parts(value: Any, basis: LengthBasis) -> Any:
    """The computed form of a value that holds lengths and colours at any depth."""
    if value == "currentcolor":
        return None
    if isinstance(value, (Rgba, Relative, Factor)) or not isinstance(value, tuple):
        return compute_length(value, basis) if not isinstance(value, (int, bool)) else value
    kind = type(value)
    if kind.__name__ in ("Unresolved", "Sum"):
        return compute_length(value, basis)
    parts = [compute_parts(part, basis) for part in value]
    return tuple(parts) if kind is tuple else kind(*parts)


BLEND_MODES: Final = (  # CSS Compositing 1 §6
    "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn", "hard-light", "soft-light",
    "difference", "exclusion", "hue", "saturation", "color", "luminosity",
)  # fmt: skip
FLOATS: Final = {
    **{word: word for word in ("none", "left", "right", "inline-start", "inline-end", "footnote", "top", "bottom")},
    "block-start": "top",
    "block-end": "bottom",
}


def float_side(tokens: Tokens) -> str | None:
    """float (CSS Page Floats 3 §4, CSS GCPM 3 §2.1); text runs down the page, so the start of a block is its top."""
    return FLOATS.get(ident(tokens[0])) if len(tokens) == 1 else None
