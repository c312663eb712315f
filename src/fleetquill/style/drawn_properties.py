"""The rows of the property table that only drawings have: how SVG is painted (SVG 2 §13, §14; CSS Masking 1)."""

from __future__ import annotations

from typing import Any, Final, NamedTuple

from fleetquill.style import box_values as boxes
from fleetquill.style.lengths import Length, compute_length, length_percentage, number
from fleetquill.style.property_rows import PROPERTIES, prop, property_table
from fleetquill.style.tokens import Token, Tokens, ident
from fleetquill.style.values import BLACK, TRANSPARENT, Rgba, color_value, compute_color, keywords, one, string_or_url


class Paint(NamedTuple):
    """What fills a shape or its outline: a paint server by its id, and the colour where there is no such server.

    The colour None is currentcolor.
    """

    color: Rgba | None
    server: str = ""


def _reference(token: Token) -> str | None:
    """The id that a url() of this document leads to."""
    address = None if token.type == "string" else string_or_url(token)
    return address[1:] if address is not None and address.startswith("#") else None


def _paint(tokens: Tokens) -> Any:
    server = _reference(tokens[0]) or "" if tokens else ""
    rest = tokens[1:] if server else tokens
    if len(rest) > 1 or not tokens:
        return None
    if not rest or ident(rest[0]) == "none":
        return Paint(TRANSPARENT, server)
    if ident(rest[0]) in ("context-fill", "context-stroke"):
        return Paint("currentcolor", server)  # type: ignore[arg-type]  # as it is specified
    color = color_value(rest[0])
    return None if color is None else Paint(color, server)


def _id(tokens: Tokens) -> Any:
    """'none' as '', or the id of what a url() of this document leads to."""
    if len(tokens) != 1:
        return None
    return "" if ident(tokens[0]) == "none" else _reference(tokens[0])


def _size(token: Token) -> Any:
    """A length or percentage; a plain number counts px (SVG 2 §13.5)."""
    return number(token) if token.type == "number" else length_percentage(token)


def _dashes(tokens: Tokens) -> Any:
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return ()
    sizes = [_size(token) for token in tokens if not (token.type == "literal" and token.value == ",")]
    return None if None in sizes else tuple(sizes)


def _paint_order(tokens: Tokens) -> Any:
    words = [ident(token) for token in tokens]
    return words[0] if words and all(w in ("normal", "fill", "stroke", "markers") for w in words) else None


def _word(tokens: Tokens) -> Any:
    return ident(tokens[0]) or None if len(tokens) == 1 else None


def _filter(tokens: Tokens) -> Any:
    return "none" if len(tokens) == 1 and ident(tokens[0]) == "none" else "some"


def _ink(color: Rgba) -> Any:
    return prop(Paint(color), _paint, inherits=True, compute=boxes.compute_parts)


def _marker() -> Any:
    return prop("", _id, inherits=True)


@property_table
class DrawnStyle:
    """The part of a computed style that drawings alone ask for. Lengths may be shares of the viewport."""

    fill: Paint = _ink(BLACK)
    fill_opacity: float = prop(1.0, boxes.share, inherits=True)
    fill_rule: str = prop("nonzero", keywords("nonzero", "evenodd"), inherits=True)
    stroke: Paint = _ink(TRANSPARENT)
    stroke_opacity: float = prop(1.0, boxes.share, inherits=True)
    stroke_width: Length = prop(1.0, one(_size, least=0.0), inherits=True, compute=compute_length)
    stroke_linecap: str = prop("butt", keywords("butt", "round", "square"), inherits=True)
    stroke_linejoin: str = prop("miter", keywords("miter", "miter-clip", "arcs", "round", "bevel"), inherits=True)
    stroke_miterlimit: float = prop(4.0, one(number, least=1.0), inherits=True)
    stroke_dasharray: tuple[Length, ...] = prop((), _dashes, inherits=True, compute=boxes.compute_parts)
    stroke_dashoffset: Length = prop(0.0, one(_size), inherits=True, compute=compute_length)
    paint_order: str = prop("normal", _paint_order, inherits=True)
    marker_start: str = _marker()
    marker_mid: str = _marker()
    marker_end: str = _marker()
    clip_path: str = prop("", _id)
    clip_rule: str = prop("nonzero", keywords("nonzero", "evenodd"), inherits=True)
    mask: str = prop("", _id)
    filter: str = prop("none", _filter)
    stop_color: Rgba = prop(BLACK, one(color_value), compute=compute_color)
    stop_opacity: float = prop(1.0, boxes.share)
    text_anchor: str = prop("start", keywords("start", "middle", "end"), inherits=True)
    dominant_baseline: str = prop("auto", _word, inherits=True)
    alignment_baseline: str = prop("auto", _word)
    baseline_shift: Length | str = prop(
        "baseline", one(_size, "baseline", "sub", "super", "top", "center", "bottom"), compute=compute_length
    )


DRAWN: Final = frozenset(field for field in vars(DrawnStyle) if field.replace("_", "-") in PROPERTIES)
ONLY_DRAWN: Final = frozenset(("clip_path", "filter", "mask"))  # that pages would have a use for too
