"""The rows of the property table that say what is done to a finished picture of a box, and a few rare ways to paint.

CSS Masking 1, Filter Effects 1, CSS Backgrounds 3 §5, CSS Compositing 1, CSS Transforms 2, CSS Text Decoration 4 §3.
"""

from __future__ import annotations

from typing import Any, Final, NamedTuple

from fleetquill.style import background_values as backgrounds
from fleetquill.style import box_values as boxes
from fleetquill.style import emphasis_values as emphasis
from fleetquill.style import filter_values as filters
from fleetquill.style.lengths import Length, Relative, length, length_percentage
from fleetquill.style.property_rows import prop, property_table
from fleetquill.style.shape_values import Clip, clip, clip_path, four
from fleetquill.style.tokens import Token, Tokens, ident
from fleetquill.style.values import CURRENT, Rgba, color_value, compute_color, keywords, one

MASK_INITIAL: Final = {
    name.replace("background", "mask"): value
    for name, value in (backgrounds.LAYER_INITIAL | {"background_origin": "border-box"}).items()
    if name != "background_attachment"
}
MASK_MODES: Final = ("match-source", "alpha", "luminance")
COMPOSITES: Final = ("add", "subtract", "intersect", "exclude")


class Slices(NamedTuple):
    """border-image-slice: px of the picture or shares of it from each edge; whether the middle is shown."""

    edges: tuple[Any, Any, Any, Any]
    fill: bool


class Times(NamedTuple):
    """So many times the border's width."""

    value: float


def _word_layers(*words: str) -> Any:
    return backgrounds.layers(
        lambda tokens: ident(tokens[0]) if len(tokens) == 1 and ident(tokens[0]) in words else None
    )


def _mask_area(tokens: Tokens) -> str | None:
    word = ident(tokens[0]) if len(tokens) == 1 else ""
    if word in ("fill-box", "stroke-box", "view-box"):
        return "border-box"
    return word if word in ("no-clip", *backgrounds.AREAS) else None


def _clip_area(tokens: Tokens) -> str | None:
    return "text" if len(tokens) == 1 and ident(tokens[0]) == "text" else backgrounds.area(tokens)


def image_or_none(tokens: Tokens) -> Any:
    """One picture, or the word 'none'."""
    return backgrounds.layer_image(tokens)


def _number_or_share(token: Token) -> Any:
    if token.type == "number" and token.value >= 0:
        return float(token.value)
    return length_percentage(token) if token.type == "percentage" and token.value >= 0 else None


def slices(tokens: Tokens) -> Slices | None:
    rest = [token for token in tokens if ident(token) != "fill"]
    edges = [_number_or_share(token) for token in rest]
    if not 1 <= len(edges) <= 4 or None in edges or len(tokens) - len(rest) > 1:
        return None
    return Slices(four(edges), len(rest) < len(tokens))


def _widths(read: Any) -> Any:
    def parse(tokens: Tokens) -> Any:
        found = [Times(float(t.value)) if t.type == "number" and t.value >= 0 else read(t) for t in tokens]
        return four(found) if 1 <= len(found) <= 4 and None not in found else None

    return parse


def _repeats(tokens: Tokens) -> tuple[str, str] | None:
    words = [ident(token) for token in tokens]
    if len(words) not in (1, 2) or any(word not in ("stretch", "repeat", "round", "space") for word in words):
        return None
    return words[0], words[-1]


@property_table
class EffectStyle:
    """The part of a computed style that few boxes have anything to say in."""

    clip: str | Clip = prop("", clip, compute=boxes.compute_parts)
    clip_path: str | Clip = prop("", clip_path, compute=boxes.compute_parts)
    mask_image: tuple[Any, ...] = prop((), backgrounds.layers(backgrounds.layer_image), compute=boxes.compute_parts)
    mask_mode: tuple[str, ...] = prop(("match-source",), _word_layers(*MASK_MODES))
    mask_position: tuple[tuple[Length, Length], ...] = prop(
        ((Relative(0.0, 0.0), Relative(0.0, 0.0)),),
        backgrounds.layers(backgrounds.position),
        compute=boxes.compute_parts,
    )
    mask_size: tuple[Any, ...] = prop(
        (("auto", "auto"),), backgrounds.layers(backgrounds.size), compute=boxes.compute_parts
    )
    mask_repeat: tuple[tuple[str, str], ...] = prop((("repeat", "repeat"),), backgrounds.layers(backgrounds.repeat))
    mask_origin: tuple[str, ...] = prop(("border-box",), backgrounds.layers(_mask_area))
    mask_clip: tuple[str, ...] = prop(("border-box",), backgrounds.layers(_mask_area))
    mask_composite: tuple[str, ...] = prop(("add",), _word_layers(*COMPOSITES))
    filter: tuple[filters.Filter, ...] = prop((), filters.filters, compute=boxes.compute_parts)

    border_image_source: Any = prop("none", image_or_none, compute=boxes.compute_parts)
    border_image_slice: Slices = prop(Slices((Relative(0.0, 1.0),) * 4, False), slices, compute=boxes.compute_parts)
    border_image_width: tuple[Any, Any, Any, Any] = prop(
        (Times(1.0),) * 4,
        _widths(lambda token: "auto" if ident(token) == "auto" else length_percentage(token)),
        compute=boxes.compute_parts,
    )
    border_image_outset: tuple[Any, Any, Any, Any] = prop(
        (Times(0.0),) * 4, _widths(length), compute=boxes.compute_parts
    )
    border_image_repeat: tuple[str, str] = prop(("stretch", "stretch"), _repeats)

    background_attachment: tuple[str, ...] = prop(("scroll",), _word_layers("scroll", "fixed", "local"))
    background_blend_mode: tuple[str, ...] = prop(("normal",), _word_layers("normal", *boxes.BLEND_MODES))
    background_clip: tuple[str, ...] = prop(("border-box",), backgrounds.layers(_clip_area))

    translate: tuple[Length, Length] = prop((0.0, 0.0), boxes.translate, compute=boxes.compute_parts)
    rotate: float = prop(0.0, boxes.rotate)
    scale: tuple[float, float] = prop((1.0, 1.0), boxes.scale)

    image_rendering: str = prop(
        "auto", keywords("auto", "smooth", "high-quality", "pixelated", "crisp-edges"), inherits=True
    )
    text_emphasis_style: str = prop("", emphasis.style, inherits=True)
    text_emphasis_color: Rgba = prop(CURRENT, one(color_value), inherits=True, compute=compute_color)
    text_emphasis_position: str = prop("over", emphasis.position, inherits=True)
    webkit_text_stroke_width: float = prop(
        0.0, one(length, "thin", "medium", "thick", least=0.0), inherits=True, compute=emphasis.compute_stroke
    )
    webkit_text_stroke_color: Rgba = prop(CURRENT, one(color_value), inherits=True, compute=compute_color)
    webkit_text_fill_color: Rgba = prop(CURRENT, one(color_value), inherits=True, compute=compute_color)


EFFECTS: Final = frozenset(field for field in vars(EffectStyle) if not field.startswith("_"))
