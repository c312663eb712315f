"""Shorthand properties: each gives the longhands that it stands for, by field name."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Any, Final, NamedTuple

from fleetquill.style import emphasis_values as emphasis
from fleetquill.style import grid_values
from fleetquill.style.background_values import LAYER_INITIAL, background_layers, one_layer
from fleetquill.style.box_values import columns
from fleetquill.style.effect_properties import COMPOSITES, MASK_INITIAL, MASK_MODES, image_or_none
from fleetquill.style.font_values import CAPS_FEATURES, LIGATURE_FEATURES, NUMERIC_FEATURES, font_shorthand
from fleetquill.style.properties import PROPERTIES
from fleetquill.style.tokens import Token, Tokens, ident, split_commas, split_slash, without_space

Longhands = dict[str, Any]
Expand = Callable[[Tokens], Longhands | None]


class Shorthand(NamedTuple):
    """The longhand fields that a shorthand sets, and how its value becomes theirs."""

    fields: tuple[str, ...]
    expand: Expand


INLINE: Final = "inline:"  # before a field whose side hangs on the direction; it names that of left-to-right text
SIDES: Final = ("top", "right", "bottom", "left")
CORNERS: Final = ("top_left", "top_right", "bottom_right", "bottom_left")


ROWS: Final = {row.field: row for row in PROPERTIES.values()}


def parse_longhand(field: str, tokens: Tokens) -> Any:
    return ROWS[field].parse(tokens)


def initial(field: str) -> Any:
    return ROWS[field].initial


def _four(pattern: str) -> Shorthand:
    """One to four values for the four sides: margin, padding, border-width, …"""
    fields = [pattern.format(side) for side in SIDES]

    def expand(tokens: Tokens) -> Longhands | None:
        values = [parse_longhand(fields[0], [token]) for token in tokens]
        if not 1 <= len(values) <= 4 or any(value is None for value in values):
            return None
        return dict(zip(fields, _around(values), strict=True))

    return Shorthand(tuple(fields), expand)


def _around(values: Sequence[Any]) -> tuple[Any, Any, Any, Any]:
    """Top, right, bottom, left from one to four values (CSS 2.2 §8.3)."""
    top = values[0]
    right = values[1] if len(values) > 1 else top
    bottom = values[2] if len(values) > 2 else top
    left = values[3] if len(values) > 3 else right
    return top, right, bottom, left


BORDER_IMAGE: Final = tuple(f"border_image_{part}" for part in ("source", "slice", "width", "outset", "repeat"))


def _any_order(*fields: str) -> Shorthand:
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
        return {field: found.get(field, initial(field)) for field in fields}

    return Shorthand(fields, expand)


def _border_part(side: str) -> tuple[str, str, str]:
    return f"border_{side}_width", f"border_{side}_style", f"border_{side}_color"


def _border(*sides: str, prefix: str = "") -> Shorthand:
    """Width, style and colour, the same for each of the sides."""
    read = _any_order(*_border_part("top")).expand

    def expand(tokens: Tokens) -> Longhands | None:
        first = read(tokens)
        if first is None:
            return None
        return {prefix + name.replace("top", side): value for side in sides for name, value in first.items()}

    return Shorthand(tuple(prefix + name for side in sides for name in _border_part(side)), expand)


_all_sides = _border(*SIDES).expand


def _whole_border(tokens: Tokens) -> Longhands | None:
    """All sides, and no picture in their place (CSS Backgrounds 3 §3.4)."""
    sides = _all_sides(tokens)
    return None if sides is None else {**sides, **{field: initial(field) for field in BORDER_IMAGE}}


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


def _text_decoration(tokens: Tokens) -> Longhands | None:
    fields = ("text_decoration_style", "text_decoration_color", "text_decoration_thickness")
    lines = [t for t in tokens if ident(t) in ("underline", "overline", "line-through", "none")]
    others = [t for t in tokens if t not in lines]
    found = _any_order(*fields).expand(others) if others else {f: initial(f) for f in fields}
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


def _two(first: str, second: str, prefix: str = "") -> Shorthand:
    def expand(tokens: Tokens) -> Longhands | None:
        values = [parse_longhand(first, [token]) for token in tokens]
        if not 1 <= len(values) <= 2 or None in values:
            return None
        return {prefix + first: values[0], prefix + second: values[-1]}

    return Shorthand((prefix + first, prefix + second), expand)


def _list_style(tokens: Tokens) -> Longhands | None:
    others = [token for token in tokens if ident(token) != "none"]
    fields = ("list_style_position", "list_style_image", "list_style_type")
    found = _any_order(*fields).expand(others) if others else {field: initial(field) for field in fields}
    if found is None or len(others) == len(tokens) or len(tokens) > 3:
        return found if len(tokens) <= 3 else None
    named = [t for t in others if all(parse_longhand(field, [t]) is None for field in fields[:2])]
    if not named:  # 'none' stands for what is not named (CSS Lists 3 §3.5)
        found["list_style_type"] = "none"
    return found


FONT_VARIANT: Final[Mapping[str, Collection[str]]] = {
    "font_variant_caps": CAPS_FEATURES,
    "font_variant_numeric": NUMERIC_FEATURES,
    "font_variant_ligatures": LIGATURE_FEATURES,
    "font_variant_position": ("sub", "super"),
}


FONT_RESET: Final = (*FONT_VARIANT, "font_feature_settings", "font_kerning")


def _font(tokens: Tokens) -> Longhands | None:
    """What `font` sets, and what it resets (CSS Fonts 4 §3)."""
    found = font_shorthand(tokens)
    return None if found is None else {**{field: initial(field) for field in FONT_RESET}, **found}


def _font_variant(tokens: Tokens) -> Longhands | None:
    """CSS Fonts 4 §6.11."""
    if len(tokens) == 1 and ident(tokens[0]) == "normal":
        return {field: initial(field) for field in FONT_VARIANT}
    parts: dict[str, list[Token]] = {}
    for token in tokens:
        word = ident(token)
        field = next((field for field, words in FONT_VARIANT.items() if word in words), None)
        if field is None:
            return None
        parts.setdefault(field, []).append(token)
    found = {field: parse_longhand(field, parts[field]) if field in parts else initial(field) for field in FONT_VARIANT}
    return None if None in found.values() else found


def _place(first: str, second: str) -> Shorthand:
    """place-items and its kin: a second value that is left out is the first one."""

    def expand(tokens: Tokens) -> Longhands | None:
        for cut in range(1, len(tokens) + 1):
            values = parse_longhand(first, tokens[:cut]), parse_longhand(second, tokens[cut:] or tokens[:cut])
            if None not in values:
                return {first: values[0], second: values[1]}
        return None

    return Shorthand((first, second), expand)


def _grid_lines(start: str, end: str) -> Shorthand:
    def expand(tokens: Tokens) -> Longhands | None:
        values = grid_values.two_lines(tokens)
        return None if values is None else {start: values[0], end: values[1]}

    return Shorthand((start, end), expand)


GRID_AREA: Final = ("grid_row_start", "grid_column_start", "grid_row_end", "grid_column_end")


def _grid_area(tokens: Tokens) -> Longhands | None:
    values = grid_values.four_lines(tokens)
    return None if values is None else dict(zip(GRID_AREA, values, strict=True))


GRID_TEMPLATE: Final = ("grid_template_rows", "grid_template_columns", "grid_template_areas")
GRID: Final = (*GRID_TEMPLATE, "grid_auto_rows", "grid_auto_columns", "grid_auto_flow")


def _grid(tokens: Tokens) -> Longhands | None:
    """CSS Grid 2 §7.8: a template, or auto-flow on one side of the slash."""
    found: Longhands = {field: initial(field) for field in GRID}
    parts = split_slash(tokens)
    flows = [any(ident(token) == "auto-flow" for token in part) for part in parts]
    if not any(flows):
        template = grid_values.grid_template(tokens)
        return None if template is None else found | template
    if len(parts) != 2 or all(flows):
        return None
    flow = "row" if flows[0] else "column"
    dense = any(ident(token) == "dense" for part in parts for token in part)
    sizes = [t for t in parts[0 if flows[0] else 1] if ident(t) not in ("auto-flow", "dense")]
    tracks = grid_values.auto_tracks(sizes) if sizes else (grid_values.AUTO_TRACK,)
    template_tracks = grid_values.template(parts[1 if flows[0] else 0])
    if tracks is None or template_tracks is None:
        return None
    other = "columns" if flow == "row" else "rows"
    return found | {
        "grid_auto_flow": (flow, dense),
        f"grid_auto_{flow}s": tracks,
        f"grid_template_{other}": template_tracks,
    }


def _overflow(tokens: Tokens) -> Longhands | None:
    """One or two keywords; on paper a box is cut off on both axes or on none."""
    values = [parse_longhand("overflow", [token]) for token in tokens]
    if not 1 <= len(values) <= 2 or None in values:
        return None
    return {"overflow": next((value for value in values if value != "visible"), "visible")}


def _old_break(field: str) -> Shorthand:
    """page-break-before and its kin (CSS Fragmentation 3 §3.4)."""

    def expand(tokens: Tokens) -> Longhands | None:
        word = ident(tokens[0]) if len(tokens) == 1 else ""
        if word not in ("auto", "avoid") and (word not in ("always", "left", "right") or field == "break_inside"):
            return None
        return {field: "page" if word == "always" else word}

    return Shorthand((field,), expand)


def _alias(field: str, prefix: str = "") -> Shorthand:
    def expand(tokens: Tokens) -> Longhands | None:
        value = parse_longhand(field, tokens)
        return None if value is None else {prefix + field: value}

    return Shorthand((prefix + field,), expand)


def _logical() -> dict[str, Shorthand]:
    """Properties by where a line starts and ends (CSS Logical 1); lines run across, so blocks run down."""
    found = {
        "inline-size": _alias("width"),
        "block-size": _alias("height"),
        "border-block": _border("top", "bottom"),
        "border-inline": _border("left", "right", prefix=INLINE),
    }
    for down, side in (("start", "top"), ("end", "bottom")):
        for across, end in (("start", "left"), ("end", "right")):
            found[f"border-{down}-{across}-radius"] = _alias(f"border_{side}_{end}_radius", INLINE)
    for limit in ("min", "max"):
        found[f"{limit}-inline-size"] = _alias(f"{limit}_width")
        found[f"{limit}-block-size"] = _alias(f"{limit}_height")
    for name, pattern in (("margin", "margin_{}"), ("padding", "padding_{}"), ("inset", "{}")):
        found[f"{name}-block"] = _two(pattern.format("top"), pattern.format("bottom"))
        found[f"{name}-inline"] = _two(pattern.format("left"), pattern.format("right"), INLINE)
        for axis, edge, side in EDGES:
            prefix = INLINE if axis == "inline" else ""
            found[f"{name}-{axis}-{edge}"] = _alias(pattern.format(side), prefix)
    for axis, edge, side in EDGES:
        prefix = INLINE if axis == "inline" else ""
        found[f"border-{axis}-{edge}"] = _border(side, prefix=prefix)
        for part in ("width", "style", "color"):
            found[f"border-{axis}-{edge}-{part}"] = _alias(f"border_{side}_{part}", prefix)
    for axis, sides, prefix in (("block", ("top", "bottom"), ""), ("inline", ("left", "right"), INLINE)):
        for part in ("width", "style", "color"):
            fields = [f"border_{side}_{part}" for side in sides]
            found[f"border-{axis}-{part}"] = _two(fields[0], fields[1], prefix)
    return found


EDGES: Final = (
    ("block", "start", "top"),
    ("block", "end", "bottom"),
    ("inline", "start", "left"),
    ("inline", "end", "right"),
)


def _marker(tokens: Tokens) -> Longhands | None:
    """The same on all vertices (SVG 2 §13.7.2)."""
    value = parse_longhand("marker_start", tokens)
    return None if value is None else dict.fromkeys(("marker_start", "marker_mid", "marker_end"), value)


MASK: Final = MASK_INITIAL | {"mask_mode": "match-source", "mask_composite": "add"}


def _mask(tokens: Tokens) -> Longhands | None:
    """CSS Masking 1 §7.8: layers as those of backgrounds, with a mode and a way to meet those below."""
    found: dict[str, list[Any]] = {field: [] for field in MASK}
    for part in split_commas(tokens):
        words = {ident(token): token for token in part}
        modes = [word for word in words if word in MASK_MODES]
        composites = [word for word in words if word in COMPOSITES]
        rest = [token for token in part if ident(token) not in (*MASK_MODES, *COMPOSITES, "no-clip")]
        layer = one_layer(rest) if rest else {}
        if layer is None or "color" in layer or len(modes) > 1 or len(composites) > 1:
            return None
        layer = {field.replace("background", "mask"): value for field, value in layer.items()}
        if "no-clip" in words:
            layer["mask_clip"] = "no-clip"
        layer |= {"mask_mode": modes[0]} if modes else {}
        layer |= {"mask_composite": composites[0]} if composites else {}
        for field in MASK:
            found[field].append(layer.get(field, MASK[field]))
    return {field: tuple(values) for field, values in found.items()}


def _border_image(tokens: Tokens) -> Longhands | None:
    """CSS Backgrounds 3 §5.8: source and repetition anywhere; slice / width / outset together."""
    found: Longhands = {field: initial(field) for field in BORDER_IMAGE}
    numbers: list[list[Token]] = [[]]
    repeats: list[Token] = []
    for token in tokens:
        if token.type == "literal" and token.value == "/":
            numbers.append([])
        elif ident(token) in ("stretch", "repeat", "round", "space"):
            repeats.append(token)
        elif image_or_none([token]) is not None:
            found["border_image_source"] = image_or_none([token])
        else:
            numbers[-1].append(token)
    if len(numbers) > 3:
        return None
    for field, part in zip(BORDER_IMAGE[1:4], numbers, strict=False):
        if part:
            found[field] = parse_longhand(field, part)
    if repeats:
        found["border_image_repeat"] = parse_longhand("border_image_repeat", repeats)
    return None if None in found.values() else found


def _text_emphasis(tokens: Tokens) -> Longhands | None:
    fields = ("text_emphasis_style", "text_emphasis_color")
    marks = [token for token in tokens if emphasis.is_style(token)]
    colors = [token for token in tokens if token not in marks]
    style = parse_longhand(fields[0], marks) if marks else initial(fields[0])
    color = parse_longhand(fields[1], colors) if colors else "currentcolor"
    return None if style is None or color is None else {fields[0]: style, fields[1]: color}


SHORTHANDS: Final[dict[str, Shorthand]] = {
    "margin": _four("margin_{}"),
    "padding": _four("padding_{}"),
    "inset": _four("{}"),
    "border": Shorthand((*(f for side in SIDES for f in _border_part(side)), *BORDER_IMAGE), _whole_border),
    **{f"border-{side}": _border(side) for side in SIDES},
    "border-width": _four("border_{}_width"),
    "border-style": _four("border_{}_style"),
    "border-color": _four("border_{}_color"),
    "border-radius": Shorthand(tuple(f"border_{corner}_radius" for corner in CORNERS), _border_radius),
    "background": Shorthand(("background_color", *LAYER_INITIAL), background_layers),
    "marker": Shorthand(("marker_start", "marker_mid", "marker_end"), _marker),
    "outline": _any_order("outline_width", "outline_style", "outline_color"),
    "overflow": Shorthand(("overflow",), _overflow),
    "overflow-x": Shorthand(("overflow",), _overflow),
    "overflow-y": Shorthand(("overflow",), _overflow),
    "font": Shorthand(
        ("font_style", "font_weight", "font_stretch", "font_size", "line_height", "font_family", *FONT_RESET), _font,
    ),
    "font-variant": Shorthand(
        tuple(FONT_VARIANT), _font_variant,
    ),
    "text-decoration": Shorthand(
        (
            "text_decoration_line", "text_decoration_style", "text_decoration_color",
            "text_decoration_thickness",
        ),
        _text_decoration,
    ),
    "flex": Shorthand(("flex_grow", "flex_shrink", "flex_basis"), _flex),
    "flex-flow": _any_order("flex_direction", "flex_wrap"),
    "gap": _two("row_gap", "column_gap"),
    "grid-gap": _two("row_gap", "column_gap"),
    "grid-row-gap": _alias("row_gap"),
    "grid-column-gap": _alias("column_gap"),
    "grid-row": _grid_lines("grid_row_start", "grid_row_end"),
    "grid-column": _grid_lines("grid_column_start", "grid_column_end"),
    "grid-area": Shorthand(GRID_AREA, _grid_area),
    "grid-template": Shorthand(GRID_TEMPLATE, grid_values.grid_template),
    "grid": Shorthand(GRID, _grid),
    "place-content": _place("align_content", "justify_content"),
    "place-items": _place("align_items", "justify_items"),
    "place-self": _place("align_self", "justify_self"),
    "columns": Shorthand(("column_count", "column_width"), columns),
    "column-rule": _any_order("column_rule_width", "column_rule_style", "column_rule_color"),
    "list-style": Shorthand(("list_style_type", "list_style_position", "list_style_image"), _list_style),
    "page-break-before": _old_break("break_before"),
    "page-break-after": _old_break("break_after"),
    "page-break-inside": _old_break("break_inside"),
    "word-wrap": _alias("overflow_wrap"),
    "-webkit-line-clamp": _alias("line_clamp"),
    "font-width": _alias("font_stretch"),
    "mask": Shorthand(tuple(MASK), _mask),
    "border-image": Shorthand(BORDER_IMAGE, _border_image),
    "text-emphasis": Shorthand(("text_emphasis_style", "text_emphasis_color"), _text_emphasis),
    "-webkit-text-stroke": _any_order("webkit_text_stroke_width", "webkit_text_stroke_color"),
    **_logical(),
}  # fmt: skip
PREFIXED: Final = (  # names that browsers take with a prefix for the same (WHATWG Compatibility §3.1)
    "align-content", "align-items", "align-self", "background-clip", "background-origin", "background-size",
    "border-bottom-left-radius", "border-bottom-right-radius", "border-image", "border-radius",
    "border-top-left-radius", "border-top-right-radius", "box-decoration-break", "box-shadow", "box-sizing",
    "clip-path", "column-count", "column-gap", "column-rule", "column-span", "column-width", "columns", "filter",
    "flex", "flex-basis", "flex-direction", "flex-flow", "flex-grow", "flex-shrink", "flex-wrap", "hyphens",
    "justify-content", "mask", "mask-clip", "mask-image", "mask-origin", "mask-position", "mask-repeat", "mask-size",
    "opacity", "order", "text-emphasis", "text-emphasis-color", "text-emphasis-position", "text-emphasis-style",
    "transform", "transform-origin",
)  # fmt: skip
for _name in PREFIXED:
    SHORTHANDS[f"-webkit-{_name}"] = SHORTHANDS[_name] if _name in SHORTHANDS else _alias(_name.replace("-", "_"))

ALL_FIELDS: Final = tuple(p.field for p in PROPERTIES.values() if p.name not in ("direction", "unicode-bidi"))


def fields_of(name: str) -> tuple[str, ...]:
    """The longhand fields that a property name stands for; () where it is not known."""
    if name in PROPERTIES:
        return (PROPERTIES[name].field,)
    if name == "all":
        return ALL_FIELDS
    shorthand = SHORTHANDS.get(name)
    return shorthand.fields if shorthand else ()


def expand(name: str, tokens: Tokens) -> Longhands | None:
    """The longhands (by field) that a declaration sets; None where it is not understood."""
    stripped: list[Token] = without_space(tokens)
    if not stripped:
        return None
    if name in PROPERTIES and name not in SHORTHANDS:
        value = PROPERTIES[name].parse(stripped)
        return None if value is None else {PROPERTIES[name].field: value}
    shorthand = SHORTHANDS.get(name)
    return shorthand.expand(stripped) if shorthand else None
