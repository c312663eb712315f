"""The rows of the property table that only drawings have: how SVG is painted (SVG 2 §13, §14; CSS Masking 1)."""

from __future__ import annotations

from typing import Any, Final, NamedTuple

from fleetquill.style import box_values as boxes
from fleetquill.style.lengths import Length, below, compute_length, length_percentage, number
from fleetquill.style.property_rows import PROPERTIES, prop, property_table
from fleetquill.style.tokens import Token, Tokens, ident
from fleetquill.style.values import (
    BLACK,
    TRANSPARENT,
    WHITE,
    Rgba,
    color_value,
    compute_color,
    keywords,
    one,
    reference,
)


class Paint(NamedTuple):
    """What fills a shape or its outline: a paint server by its id, and the colour where there is no such server.

    The colour None is currentcolor; `context` is 'fill' or 'stroke' for that of what a marker stands on.
    """

    color: Rgba | None
    server: str = ""
    context: str = ""


def _paint(tokens: Tokens) -> Any:
    server = reference(tokens[0]) or "" if tokens else ""
    rest = tokens[1:] if server else tokens
    if len(rest) > 1 or not tokens:
        return None
    if not rest or ident(rest[0]) == "none":
        return Paint(TRANSPARENT, server)
    if ident(rest[0]) in ("context-fill", "context-stroke"):
        return Paint(TRANSPARENT, server, ident(rest[0]).removeprefix("context-"))
    color = color_value(rest[0])
    return None if color is None else Paint(color, server)


def _id(tokens: Tokens) -> Any:
    """'none' as '', or the id of what a url() of this document leads to."""
    if len(tokens) != 1:
        return None
    return "" if ident(tokens[0]) == "none" else reference(tokens[0])


def _size(token: Token) -> Any:
    """A length or percentage; a plain number counts px (SVG 2 §13.5)."""
    return number(token) if token.type == "number" else length_percentage(token)


def _dashes(tokens: Tokens) -> Any:
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return ()
    sizes = [_size(token) for token in tokens if not (token.type == "literal" and token.value == ",")]
    return None if None in sizes or any(below(size, 0.0) for size in sizes) else tuple(sizes)


def _paint_order(tokens: Tokens) -> Any:
    words = [ident(token) for token in tokens]
    return words[0] if words and all(w in ("normal", "fill", "stroke", "markers") for w in words) else None


def _word(tokens: Tokens) -> Any:
    return ident(tokens[0]) or None if len(tokens) == 1 else None


def _ink(color: Rgba) -> Any:
    return prop(Paint(color), _paint, inherits=True, compute=boxes.compute_parts)


def _marker() -> Any:
    return prop("", _id, inherits=True)


def _place() -> Any:
    return prop(0.0, one(_size), compute=compute_length)


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
    x: Length = _place()  # geometry (SVG 2 §7), where a style says it and not an attribute
    y: Length = _place()
    cx: Length = _place()
    cy: Length = _place()
    r: Length = _place()
    rx: Length = prop("auto", one(_size, "auto"), compute=compute_length)
    ry: Length = prop("auto", one(_size, "auto"), compute=compute_length)
    vector_effect: str = prop("none", _word)
    mask_type: str = prop("luminance", keywords("luminance", "alpha"))
    color_interpolation_filters: str = prop(
        "linearrgb", lambda tokens: (_word(tokens) or "").lower() or None, inherits=True
    )
    flood_color: Rgba = prop(BLACK, one(color_value), compute=compute_color)
    flood_opacity: float = prop(1.0, boxes.share)
    lighting_color: Rgba = prop(WHITE, one(color_value), compute=compute_color)
    transform_box: str = prop("view-box", keywords("content-box", "border-box", "fill-box", "stroke-box", "view-box"))
    clip_rule: str = prop("nonzero", keywords("nonzero", "evenodd"), inherits=True)
    stop_color: Rgba = prop(BLACK, one(color_value), compute=compute_color)
    stop_opacity: float = prop(1.0, boxes.share)
    text_anchor: str = prop("start", keywords("start", "middle", "end"), inherits=True)
    dominant_baseline: str = prop("auto", _word, inherits=True)
    alignment_baseline: str = prop("auto", _word)
    baseline_shift: Length | str = prop(
        "baseline", one(_size, "baseline", "sub", "super", "top", "center", "bottom"), compute=compute_length
    )


GEOMETRY: Final = frozenset(("x", "y", "cx", "cy", "r", "rx", "ry"))
DRAWN: Final = frozenset(field for field in vars(DrawnStyle) if field.replace("_", "-") in PROPERTIES)
