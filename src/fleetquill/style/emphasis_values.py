"""Values of emphasis marks (CSS Text Decoration 4 §3), and of text that is outlined (WHATWG Compatibility §4)."""

from __future__ import annotations

from typing import Any, Final

from fleetquill.style.lengths import LengthBasis, compute_length
from fleetquill.style.tokens import Token, Tokens, ident

MARKS: Final = {  # filled and open (§3.1)
    "dot": "\u2022\u25e6",
    "circle": "\u25cf\u25cb",
    "double-circle": "\u25c9\u25ce",
    "triangle": "\u25b2\u25b3",
    "sesame": "\ufe45\ufe46",
}
STROKE_WIDTHS: Final = {"thin": 1.0, "medium": 3.0, "thick": 5.0}


def style(tokens: Tokens) -> str | None:
    """The mark itself; '' for none."""
    if len(tokens) == 1 and tokens[0].type == "string":
        return str(tokens[0].value)[:1]
    words = [ident(token) for token in tokens]
    if words == ["none"]:
        return ""
    shapes = [word for word in words if word in MARKS]
    fills = [word for word in words if word in ("filled", "open")]
    if not words or len(shapes) > 1 or len(fills) > 1 or len(shapes) + len(fills) != len(words):
        return None
    return MARKS[shapes[0] if shapes else "circle"][fills == ["open"]]


def is_style(token: Token) -> bool:
    return token.type == "string" or ident(token) in ("none", "filled", "open", *MARKS)


def position(tokens: Tokens) -> str | None:
    """'over' or 'under'; the side of upright text is passed over."""
    words = [ident(token) for token in tokens if ident(token) not in ("left", "right")]
    return words[0] if words in (["over"], ["under"]) and len(tokens) <= 2 else None


def compute_stroke(value: Any, basis: LengthBasis) -> Any:
    return STROKE_WIDTHS[value] if isinstance(value, str) else compute_length(value, basis)
