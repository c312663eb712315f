"""Values of clip-path: basic shapes in a box, or a clipPath of the document (CSS Masking 1 §5.1, CSS Shapes 1 §3)."""

from __future__ import annotations

from typing import Any, Final, NamedTuple

from fleetquill.style.background_values import CENTRE, position
from fleetquill.style.lengths import length, length_percentage
from fleetquill.style.tokens import Token, Tokens, ident, split_commas, split_slash, without_space
from fleetquill.style.values import reference


class Inset(NamedTuple):
    """Edges further in than those of the box, clockwise from the top; `radii` are eight: across, then down."""

    edges: tuple[Any, Any, Any, Any]
    radii: tuple[Any, ...]


class Rect(NamedTuple):
    """Edges from the top and the left of the box, clockwise from the top; 'auto' is the box's own."""

    edges: tuple[Any, Any, Any, Any]
    radii: tuple[Any, ...]


class Placed(NamedTuple):
    """A rectangle by its corner and size: xywh()."""

    place: tuple[Any, Any, Any, Any]
    radii: tuple[Any, ...]


class Oval(NamedTuple):
    """A circle (one radius) or an ellipse (two); a radius is a length, 'closest-side' or 'farthest-side'."""

    radii: tuple[Any, ...]
    center: tuple[Any, Any]


class Polygon(NamedTuple):
    rule: str
    points: tuple[tuple[Any, Any], ...]


class Outline(NamedTuple):
    """path(): SVG path data in px from the box's corner."""

    rule: str
    text: str


class Clip(NamedTuple):
    """A shape in one of a box's areas; the area itself where the shape is None."""

    shape: Inset | Rect | Placed | Oval | Polygon | Outline | None
    area: str


AREAS: Final = {  # what an area of CSS or SVG is for a box of CSS (CSS Masking 1 §5.1)
    **{name: name for name in ("border-box", "padding-box", "content-box")},
    "margin-box": "border-box",
    "fill-box": "content-box",
    "stroke-box": "border-box",
    "view-box": "border-box",
}
SIDES: Final = ("closest-side", "farthest-side")
NO_RADII: Final = (0.0,) * 8


def clip_path(tokens: Tokens) -> Any:
    """'' for none, the id of a clipPath of this document, or a Clip."""
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return ""
    if len(tokens) == 1 and reference(tokens[0]) is not None:
        return reference(tokens[0])
    areas = [token for token in tokens if ident(token) in AREAS]
    rest = [token for token in tokens if ident(token) not in AREAS]
    if len(areas) > 1 or len(rest) > 1 or not tokens:
        return None
    area = AREAS[ident(areas[0])] if areas else "border-box"
    if not rest:
        return Clip(None, area)
    shape = _shape(rest[0])
    return None if shape is None else Clip(shape, area)


def clip(tokens: Tokens) -> Any:
    """'' for auto, or a Clip: what of an absolutely positioned box is seen (CSS Masking 1, appendix A)."""
    if len(tokens) == 1 and ident(tokens[0]) == "auto":
        return ""
    if len(tokens) != 1 or tokens[0].type != "function" or tokens[0].lower_name != "rect":
        return None
    parts = [part for part in without_space(tokens[0].arguments) if not (part.type == "literal" and part.value == ",")]
    edges = tuple("auto" if ident(part) == "auto" else length(part) for part in parts)
    return None if len(edges) != 4 or None in edges else Clip(Rect(edges, NO_RADII), "border-box")


def _shape(token: Token) -> Any:
    if token.type != "function" or token.lower_name not in _SHAPES:
        return None
    found = _SHAPES[token.lower_name](split_commas(token.arguments))
    return None if found is None or _lacks(found) else found


def _lacks(value: Any) -> bool:
    return any(part is None or (isinstance(part, tuple) and _lacks(part)) for part in value)


def _rounded(tokens: list[Token]) -> tuple[list[Token], tuple[Any, ...]]:
    """What stands before `round`, and the radii after it."""
    words = [ident(token) for token in tokens]
    if "round" not in words:
        return tokens, NO_RADII
    at = words.index("round")
    halves = split_slash(tokens[at + 1 :])
    if len(halves) > 2 or not all(1 <= len(half) <= 4 for half in halves):
        return tokens[:at], (None,)
    sides = [four([length_percentage(token) for token in half]) for half in halves]
    return tokens[:at], (*sides[0], *sides[-1])


def four(values: list[Any]) -> tuple[Any, Any, Any, Any]:
    """One to four values for the four sides or corners (CSS Backgrounds 3 §4.1)."""
    first = values[0]
    second = values[1] if len(values) > 1 else first
    third = values[2] if len(values) > 2 else first
    return first, second, third, values[3] if len(values) > 3 else second


def _inset(parts: list[list[Token]]) -> Inset | None:
    edges, radii = _rounded(parts[0])
    if len(parts) > 1 or not 1 <= len(edges) <= 4:
        return None
    return Inset(four([length_percentage(token) for token in edges]), radii)


def _rect(parts: list[list[Token]]) -> Rect | None:
    edges, radii = _rounded(parts[0])
    if len(parts) > 1 or len(edges) != 4:
        return None
    top, right, bottom, left = ("auto" if ident(t) == "auto" else length_percentage(t) for t in edges)
    return Rect((top, right, bottom, left), radii)


def _xywh(parts: list[list[Token]]) -> Placed | None:
    place, radii = _rounded(parts[0])
    if len(parts) > 1 or len(place) != 4:
        return None
    x, y, width, height = (length_percentage(token) for token in place)
    return Placed((x, y, width, height), radii)


def _oval(count: int, parts: list[list[Token]]) -> Oval | None:
    tokens = parts[0]
    words = [ident(token) for token in tokens]
    at = words.index("at") if "at" in words else len(words)
    center = position(tokens[at + 1 :]) if at < len(words) else CENTRE
    radii = tuple(ident(token) if ident(token) in SIDES else length_percentage(token) for token in tokens[:at])
    if len(parts) > 1 or center is None or len(radii) not in (0, count):
        return None
    return Oval(radii or ("closest-side",) * count, center)


def _ruled(parts: list[list[Token]]) -> tuple[str, list[list[Token]]]:
    """The fill rule that a shape may begin with, and the rest."""
    if parts and len(parts[0]) == 1 and ident(parts[0][0]) in ("nonzero", "evenodd"):
        return ident(parts[0][0]), parts[1:]
    return "nonzero", parts


def _polygon(parts: list[list[Token]]) -> Polygon | None:
    rule, points = _ruled(parts)
    if not points or any(len(point) != 2 for point in points):
        return None
    return Polygon(rule, tuple((length_percentage(x), length_percentage(y)) for x, y in points))


def _outline(parts: list[list[Token]]) -> Outline | None:
    rule, rest = _ruled(parts)
    if len(rest) != 1 or len(rest[0]) != 1 or rest[0][0].type != "string":
        return None
    return Outline(rule, str(rest[0][0].value))


_SHAPES: Final[dict[str, Any]] = {
    "inset": _inset,
    "rect": _rect,
    "xywh": _xywh,
    "circle": lambda parts: _oval(1, parts),
    "ellipse": lambda parts: _oval(2, parts),
    "polygon": _polygon,
    "path": _outline,
}
