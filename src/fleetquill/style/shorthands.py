"""Shorthand properties: each gives the longhands that it stands for, by field name."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Final

from fleetquill.style.font_values import CAPS_FEATURES, LIGATURE_FEATURES, NUMERIC_FEATURES, font_shorthand
from fleetquill.style.properties import PROPERTIES
from fleetquill.style.tokens import Token, Tokens, ident, split_slash, without_space

Longhands = dict[str, Any]
Expand = Callable[[Tokens], Longhands | None]

SIDES: Final = ("top", "right", "bottom", "left")
CORNERS: Final = ("top_left", "top_right", "bottom_right", "bottom_left")


def parse_longhand(field: str, tokens: Tokens) -> Any:
    return PROPERTIES[field.replace("_", "-")].parse(tokens)


def _four(pattern: str) -> Expand:
    """One to four values for the four sides: margin, padding, border-width, …"""
    fields = [pattern.format(side) for side in SIDES]

    def expand(tokens: Tokens) -> Longhands | None:
        values = [parse_longhand(fields[0], [token]) for token in tokens]
        if not 1 <= len(values) <= 4 or any(value is None for value in values):
            return None
        return dict(zip(fields, _around(values), strict=True))

    return expand


def _around(values: Sequence[Any]) -> tuple[Any, Any, Any, Any]:
    """Top, right, bottom, left from one to four values (CSS 2.2 §8.3)."""
    top = values[0]
    right = values[1] if len(values) > 1 else top
    bottom = values[2] if len(values) > 2 else top
    left = values[3] if len(values) > 3 else right
    return top, right, bottom, left


def _any_order(fields: Sequence[str]) -> Expand:
    """Each token belongs to one of the fields; those not named get their initial value."""

    def expand(tokens: Tokens) -> Longhands | None:
        found: Longhands = {}
        for token in tokens:
            for field in fields:
                value = parse_longhand(field, [token]) if field not in found else None
                if value is not None:
                    found[field] = value
                    break
            else:
                return None
        if not found:
            return None
        return {field: found.get(field, PROPERTIES[field.replace("_", "-")].initial) for field in fields}

    return expand


def _border_part(side: str) -> tuple[str, str, str]:
    return f"border_{side}_width", f"border_{side}_style", f"border_{side}_color"


def _border(tokens: Tokens) -> Longhands | None:
    """`border`: width, style and colour of all four sides."""
    first = _any_order(_border_part("top"))(tokens)
    if first is None:
        return None
    return {name.replace("top", side): value for side in SIDES for name, value in first.items()}


def _border_radius(tokens: Tokens) -> Longhands | None:
    """One to four radii, and again after a slash for the vertical ones (CSS Backgrounds 3 §4.1)."""
    parts = split_slash(tokens)
    if len(parts) > 2 or not all(1 <= len(part) <= 4 for part in parts):
        return None
    radii = [[parse_longhand("border_top_left_radius", [t]) for t in part] for part in parts]
    if any(radius is None for part in radii for radius in part):
        return None
    across = _around([pair[0] for pair in radii[0]])
    down = _around([pair[0] for pair in radii[-1]])
    return {f"border_{c}_radius": (across[i], down[i]) for i, c in enumerate(CORNERS)}


def _background(tokens: Tokens) -> Longhands | None:
    """`background` as far as it is a colour alone; pictures have no longhand yet."""
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return {"background_color": PROPERTIES["background-color"].initial}
    value = parse_longhand("background_color", tokens)
    return None if value is None else {"background_color": value}


def _text_decoration(tokens: Tokens) -> Longhands | None:
    fields = ("text_decoration_style", "text_decoration_color", "text_decoration_thickness")
    lines = [t for t in tokens if ident(t) in ("underline", "overline", "line-through", "none")]
    others = [t for t in tokens if t not in lines]
    found = _any_order(fields)(others) if others else {f: PROPERTIES[f.replace("_", "-")].initial for f in fields}
    if found is None:
        return None
    line = parse_longhand("text_decoration_line", lines) if lines else ()
    return None if line is None else {"text_decoration_line": line, **found}


def _flex(tokens: Tokens) -> Longhands | None:
    """CSS Flexbox 1 §7.1."""
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return {"flex_grow": 0.0, "flex_shrink": 0.0, "flex_basis": "auto"}
    if len(tokens) == 1 and ident(tokens[0]) == "auto":
        return {"flex_grow": 1.0, "flex_shrink": 1.0, "flex_basis": "auto"}
    numbers: list[float] = []
    basis = None
    for token in tokens:
        if token.type == "number" and len(numbers) < 2 and token.value >= 0:
            numbers.append(float(token.value))
        elif basis is None:
            basis = parse_longhand("flex_basis", [token])
            if basis is None:
                return None
        else:
            return None
    return {
        "flex_grow": numbers[0] if numbers else 1.0,
        "flex_shrink": numbers[1] if len(numbers) > 1 else 1.0,
        "flex_basis": 0.0 if basis is None else basis,
    }


def _two(first: str, second: str) -> Expand:
    def expand(tokens: Tokens) -> Longhands | None:
        values = [parse_longhand(first, [token]) for token in tokens]
        if not 1 <= len(values) <= 2 or None in values:
            return None
        return {first: values[0], second: values[-1]}

    return expand


def _list_style(tokens: Tokens) -> Longhands | None:
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return {"list_style_type": "none", "list_style_position": "outside"}
    return _any_order(("list_style_type", "list_style_position"))(tokens)


def _font_variant(tokens: Tokens) -> Longhands | None:
    """CSS Fonts 4 §6.11."""
    found: Longhands = {
        "font_variant_caps": "normal",
        "font_variant_numeric": (),
        "font_variant_ligatures": (),
        "font_variant_position": "normal",
    }
    for token in tokens:
        word = ident(token)
        if word in CAPS_FEATURES:
            found["font_variant_caps"] = word
        elif word in NUMERIC_FEATURES:
            found["font_variant_numeric"] += (word,)
        elif word in LIGATURE_FEATURES:
            found["font_variant_ligatures"] += (word,)
        elif word in ("sub", "super"):
            found["font_variant_position"] = word
        elif word != "normal":
            return None
    return found


def _old_break(field: str) -> Expand:
    """page-break-before and its kin (CSS Fragmentation 3 §3.4)."""

    def expand(tokens: Tokens) -> Longhands | None:
        word = ident(tokens[0]) if len(tokens) == 1 else ""
        if word not in ("auto", "always", "avoid", "left", "right"):
            return None
        return {field: "page" if word == "always" else word}

    return expand


def _alias(field: str) -> Expand:
    def expand(tokens: Tokens) -> Longhands | None:
        value = parse_longhand(field, tokens)
        return None if value is None else {field: value}

    return expand


SHORTHANDS: Final[dict[str, Expand]] = {
    "margin": _four("margin_{}"),
    "padding": _four("padding_{}"),
    "border": _border,
    "border-top": _any_order(_border_part("top")),
    "border-right": _any_order(_border_part("right")),
    "border-bottom": _any_order(_border_part("bottom")),
    "border-left": _any_order(_border_part("left")),
    "border-width": _four("border_{}_width"),
    "border-style": _four("border_{}_style"),
    "border-color": _four("border_{}_color"),
    "border-radius": _border_radius,
    "background": _background,
    "font": font_shorthand,
    "font-variant": _font_variant,
    "text-decoration": _text_decoration,
    "flex": _flex,
    "flex-flow": _any_order(("flex_direction", "flex_wrap")),
    "gap": _two("row_gap", "column_gap"),
    "place-content": _two("align_content", "justify_content"),
    "list-style": _list_style,
    "page-break-before": _old_break("break_before"),
    "page-break-after": _old_break("break_after"),
    "page-break-inside": _old_break("break_inside"),
    "word-wrap": _alias("overflow_wrap"),
    "font-width": _alias("font_stretch"),
}

ALL_FIELDS: Final = tuple(p.field for p in PROPERTIES.values() if p.name not in ("direction",))


def fields_of(name: str) -> tuple[str, ...]:
    """The longhand fields that a property name stands for; () where it is not known."""
    if name in PROPERTIES:
        return (PROPERTIES[name].field,)
    if name == "all":
        return ALL_FIELDS
    return FIELDS.get(name, ())


def _fields(*groups: str, sides: Sequence[str] = SIDES) -> tuple[str, ...]:
    return tuple(group.format(side) for side in sides for group in groups)


FIELDS: Final[dict[str, tuple[str, ...]]] = {
    "margin": _fields("margin_{}"),
    "padding": _fields("padding_{}"),
    "border": _fields("border_{}_width", "border_{}_style", "border_{}_color"),
    **{f"border-{side}": _border_part(side) for side in SIDES},
    "border-width": _fields("border_{}_width"),
    "border-style": _fields("border_{}_style"),
    "border-color": _fields("border_{}_color"),
    "border-radius": _fields("border_{}_radius", sides=CORNERS),
    "background": ("background_color",),
    "font": (
        "font_style", "font_weight", "font_stretch", "font_variant_caps",
        "font_size", "line_height", "font_family",
    ),
    "font-variant": (
        "font_variant_caps", "font_variant_numeric", "font_variant_ligatures", "font_variant_position",
    ),
    "text-decoration": (
        "text_decoration_line", "text_decoration_style", "text_decoration_color",
        "text_decoration_thickness",
    ),
    "flex": ("flex_grow", "flex_shrink", "flex_basis"),
    "flex-flow": ("flex_direction", "flex_wrap"),
    "gap": ("row_gap", "column_gap"),
    "place-content": ("align_content", "justify_content"),
    "list-style": ("list_style_type", "list_style_position"),
    "page-break-before": ("break_before",),
    "page-break-after": ("break_after",),
    "page-break-inside": ("break_inside",),
    "word-wrap": ("overflow_wrap",),
    "font-width": ("font_stretch",),
}  # fmt: skip


def expand(name: str, tokens: Tokens) -> Longhands | None:
    """The longhands (by field) that a declaration sets; None where it is not understood."""
    stripped: list[Token] = without_space(tokens)
    if not stripped:
        return None
    if name in PROPERTIES:
        value = PROPERTIES[name].parse(stripped)
        return None if value is None else {PROPERTIES[name].field: value}
    shorthand = SHORTHANDS.get(name)
    return shorthand(stripped) if shorthand else None
