"""The property table: every CSS property that the engine understands, one entry each.

An entry gives the initial value, how a declaration is parsed into a specified value, whether the
property inherits, and how the specified value becomes the computed one. The class body is the
table and the type of a computed style at once: `style.margin_top` is the computed value.
"""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any, Final, Protocol

from fleetquill.style import background_values as backgrounds
from fleetquill.style import box_values as boxes
from fleetquill.style import font_values as fonts
from fleetquill.style import generated
from fleetquill.style import grid_values as grids
from fleetquill.style import text_values as texts
from fleetquill.style.counter_style import Named
from fleetquill.style.drawn_properties import DRAWN, DrawnStyle
from fleetquill.style.effect_properties import EFFECTS, EffectStyle
from fleetquill.style.lengths import (
    Auto,
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
)
from fleetquill.style.property_rows import INHERITED as INHERITED
from fleetquill.style.property_rows import PROPERTIES as PROPERTIES
from fleetquill.style.property_rows import prop, property_table
from fleetquill.style.tokens import Tokens, ident
from fleetquill.style.values import BLACK, CURRENT, TRANSPARENT, Rgba, color_value, compute_color, keywords, one

Px = float  # the class below has a property of the name 'float'


class StyleBasis(LengthBasis, Protocol):
    """What a computed value may hang on: the parent's style, font sizes and the page."""

    parent: ComputedStyle


def _margin() -> Any:
    return prop(0.0, one(length_percentage, "auto"), compute=compute_length)


def _padding() -> Any:
    return prop(0.0, one(length_percentage, least=0.0), compute=compute_length)


BORDER_WIDTHS: Final = {"thin": 1.0, "medium": 3.0, "thick": 5.0}  # CSS Backgrounds 3 §3.3
BORDER_STYLES: Final = (
    "none", "hidden", "solid", "dashed", "dotted", "double", "groove", "ridge", "inset", "outset",
)  # fmt: skip


def compute_border_width(value: Any, basis: StyleBasis) -> Any:
    return BORDER_WIDTHS[value] if isinstance(value, str) else compute_length(value, basis)


def _border_width() -> Any:
    return prop(3.0, one(length, *BORDER_WIDTHS, least=0.0), compute=compute_border_width)


def _border_style() -> Any:
    return prop("none", keywords(*BORDER_STYLES))


def _border_color() -> Any:
    return prop(CURRENT, one(color_value), compute=compute_color)


def _corner(tokens: Tokens) -> Any:
    """One or two radii (CSS Backgrounds 3 §4.1)."""
    radii = [length_percentage(token) for token in tokens]
    if len(radii) not in (1, 2) or None in radii or any(below(radius, 0.0) for radius in radii):
        return None
    return (radii[0], radii[-1])


def _compute_pair(value: Any, basis: StyleBasis) -> Any:
    return tuple(compute_length(part, basis) for part in value)


def _radius() -> Any:
    return prop((0.0, 0.0), _corner, compute=_compute_pair)


def _size(initial: str, *names: str) -> Any:
    return prop(initial, one(length_percentage, initial, *names, least=0.0), compute=compute_length)


def _pair(tokens: Tokens) -> Any:
    """One or two lengths: border-spacing (CSS Tables 3 §3.2)."""
    sizes = [length(token) for token in tokens]
    if len(sizes) not in (1, 2) or None in sizes or any(below(size, 0.0) for size in sizes):
        return None
    return (sizes[0], sizes[-1])


def _marker_image(tokens: Tokens) -> Any:
    """The picture of a list's marks; gradients are none here."""
    found = backgrounds.layer_image(tokens)
    return found if found == "none" or isinstance(found, backgrounds.Url) else None


BREAKS_BETWEEN: Final = (
    "auto", "avoid", "avoid-page", "avoid-column", "page", "column", "always", "all", "left", "right", "recto", "verso",
)  # fmt: skip


def _justify(tokens: Tokens) -> Any:
    """justify-content and its kin: a position, or a distribution; 'safe' and 'unsafe' are dropped."""
    words = [ident(token) for token in tokens]
    words = [word for word in words if word not in ("safe", "unsafe", "legacy")]
    if words in (["first", "baseline"], ["last", "baseline"]):
        return "baseline" if words[0] == "first" else "last baseline"
    return words[0] if len(words) == 1 and words[0] in ALIGNMENTS else None


ALIGNMENTS: Final = frozenset(
    "normal auto stretch center start end flex-start flex-end self-start self-end left right baseline "
    "space-between space-around space-evenly".split()
)


def compute_line_height(value: Any, basis: StyleBasis) -> Any:
    if isinstance(value, (str, Factor)):
        return value
    computed = compute_length(value, basis)
    return computed if isinstance(computed, float) else computed.resolve(basis.font_size)


def _line_height(tokens: Tokens) -> Any:
    if len(tokens) == 1 and tokens[0].type == "number":
        return Factor(finite(tokens[0].value, 10_000.0)) if tokens[0].value >= 0 else None
    return one(length_percentage, "normal", least=0.0)(tokens)


def _compute_text_align(value: Any, basis: StyleBasis) -> Any:
    """A head cell is centred unless an alignment comes from around it (HTML §15.3.10)."""
    if value == "-fq-head":
        return basis.parent.text_align if basis.parent.text_align != "start" else "center"
    return value


def _count(tokens: Tokens) -> Any:
    value = integer(tokens[0]) if len(tokens) == 1 else None
    return value if value is not None and value >= 1 else None


def _spacing(tokens: Tokens) -> Any:
    """letter-spacing and word-spacing; 'normal' is nothing added (CSS Text 3 §8)."""
    value = one(length, "normal")(tokens)
    return 0.0 if value == "normal" else value


@property_table
class ComputedStyle(DrawnStyle, EffectStyle):
    """The computed values of one element, shared by every element that has the same."""

    variables: Mapping[str, Any] = MappingProxyType({})  # custom properties, by name
    language: str = ""
    root_font_size: Px = 16.0
    sized: bool = False  # whether its font size comes from a length, here or further up
    anonymous: bool = False  # of an anonymous box: it only hands on what it inherits
    ordinary: bool = True  # says nothing of layers, flow, counters, page names, bookmarks or pictures behind it
    layered: bool = False  # may overlap others: it is painted in an order of its own
    outside: str = ""  # 'absolute', 'fixed', 'running' or 'footnote': taken out of the flow
    parent: ComputedStyle | None = None
    kept: dict[Any, Any]  # what later rooms worked out from this style

    # fonts
    font_size: Px = prop(16.0, fonts.font_size, inherits=True, compute=fonts.compute_font_size)
    font_family: tuple[str, ...] = prop(("sans-serif",), fonts.font_family, inherits=True)
    font_weight: int = prop(400, fonts.font_weight, inherits=True, compute=fonts.compute_font_weight)
    font_style: str = prop("normal", fonts.font_style, inherits=True)
    font_stretch: Px = prop(100.0, fonts.font_stretch, inherits=True)
    font_variant_emoji: str = prop("normal", keywords("normal", "text", "emoji", "unicode"), inherits=True)
    font_synthesis: tuple[str, ...] = prop(
        ("weight", "style"), fonts.words_of(("weight", "style", "small-caps")), inherits=True
    )
    font_kerning: str = prop("auto", keywords("auto", "normal", "none"), inherits=True)
    font_feature_settings: tuple[tuple[str, int], ...] = prop((), fonts.feature_settings, inherits=True)
    font_variant_caps: str = prop("normal", keywords("normal", *fonts.CAPS_FEATURES), inherits=True)
    font_variant_numeric: tuple[str, ...] = prop((), fonts.numeric_features, inherits=True)
    font_variant_ligatures: tuple[str, ...] = prop((), fonts.ligature_features, inherits=True)
    font_variant_position: str = prop("normal", keywords("normal", "sub", "super"), inherits=True)
    line_height: Px | Factor | Auto = prop("normal", _line_height, inherits=True, compute=compute_line_height)

    # text
    color: Rgba = prop(BLACK, one(color_value), inherits=True)
    text_align: str = prop("start", texts.text_align, inherits=True, compute=_compute_text_align)
    text_align_last: str = prop(
        "auto", keywords("auto", "start", "end", "left", "right", "center", "justify"), inherits=True
    )
    text_indent: Length = prop(0.0, one(length_percentage), inherits=True, compute=compute_length)
    text_transform: str = prop(
        "none", keywords("none", "uppercase", "lowercase", "capitalize", "full-width"), inherits=True
    )
    letter_spacing: Px = prop(0.0, _spacing, inherits=True, compute=compute_length)
    word_spacing: Px = prop(0.0, _spacing, inherits=True, compute=compute_length)
    white_space: str = prop(
        "normal",
        keywords("normal", "nowrap", "pre", "pre-wrap", "pre-line", "break-spaces"),
        inherits=True,
    )
    overflow_wrap: str = prop("normal", keywords("normal", "break-word", "anywhere"), inherits=True)
    vertical_align: Length | str = prop(
        "baseline",
        one(
            length_percentage,
            *("baseline", "sub", "super", "top", "bottom", "middle", "text-top", "text-bottom"),
            "-fq-baseline-middle",
        ),
        compute=compute_length,
    )
    text_decoration_line: tuple[str, ...] = prop((), fonts.words_of(("underline", "overline", "line-through")))
    text_decoration_style: str = prop("solid", keywords("solid", "double", "dotted", "dashed", "wavy"))
    text_decoration_color: Rgba = prop(CURRENT, one(color_value), compute=compute_color)
    text_decoration_thickness: Length | str = prop(
        "auto", one(length_percentage, "auto", "from-font"), compute=compute_length
    )
    text_underline_offset: Length | str = prop(
        "auto", one(length_percentage, "auto"), inherits=True, compute=compute_length
    )
    text_decoration_skip_ink: str = prop("auto", keywords("auto", "none", "all"), inherits=True)
    text_shadow: tuple[texts.Shadow, ...] = prop((), texts.shadows, inherits=True, compute=texts.compute_shadows)
    text_overflow: str = prop("clip", keywords("clip", "ellipsis"))
    text_wrap: str = prop("wrap", keywords("wrap", "nowrap", "balance", "pretty", "stable"), inherits=True)
    word_break: str = prop("normal", keywords("normal", "break-all", "keep-all", "break-word"), inherits=True)
    line_break: str = prop("auto", keywords("auto", "loose", "normal", "strict", "anywhere"), inherits=True)
    tab_size: Px | Factor = prop(Factor(8.0), texts.tab_size, inherits=True, compute=compute_length)
    hyphens: str = prop("manual", keywords("none", "manual", "auto"), inherits=True)
    hyphenate_limit_chars: tuple[int, int, int] = prop((5, 2, 2), texts.hyphenate_limit_chars, inherits=True)
    hyphenate_character: str = prop("auto", texts.hyphenate_character, inherits=True)
    writing_mode: str = prop(
        "horizontal-tb",
        keywords("horizontal-tb", "vertical-rl", "vertical-lr", "sideways-rl", "sideways-lr"),
        inherits=True,
    )
    text_orientation: str = prop("mixed", keywords("mixed", "upright", "sideways"), inherits=True)
    initial_letter: tuple[float, int] = prop((0.0, 0), texts.initial_letter)
    line_clamp: int | Auto = prop("none", one(integer, "none", least=1))
    direction: str = prop("ltr", keywords("ltr", "rtl"), inherits=True)
    unicode_bidi: str = prop(
        "normal",
        keywords("normal", "embed", "isolate", "bidi-override", "isolate-override", "plaintext"),
    )

    # boxes
    position: str | boxes.Running = prop("static", boxes.position)
    top: Length | Auto = prop("auto", one(length_percentage, "auto"), compute=compute_length)
    right: Length | Auto = prop("auto", one(length_percentage, "auto"), compute=compute_length)
    bottom: Length | Auto = prop("auto", one(length_percentage, "auto"), compute=compute_length)
    left: Length | Auto = prop("auto", one(length_percentage, "auto"), compute=compute_length)
    z_index: int | Auto = prop("auto", one(integer, "auto"))
    float: str = prop("none", boxes.float_side)
    float_reference: str = prop("inline", keywords("inline", "column", "region", "page"))
    clear: str = prop("none", keywords("none", "left", "right", "both", "inline-start", "inline-end"))
    display: str = prop("inline", generated.display)
    box_sizing: str = prop("content-box", keywords("content-box", "border-box"))
    width: Length | Auto = _size("auto", "min-content", "max-content", "fit-content")
    height: Length | Auto = _size("auto", "min-content", "max-content", "fit-content")
    min_width: Length | Auto = _size("auto", "min-content", "max-content", "fit-content")
    min_height: Length | Auto = _size("auto", "min-content", "max-content", "fit-content")
    max_width: Length | Auto = _size("none", "min-content", "max-content", "fit-content")
    max_height: Length | Auto = _size("none", "min-content", "max-content", "fit-content")
    margin_top: Length | Auto = _margin()
    margin_right: Length | Auto = _margin()
    margin_bottom: Length | Auto = _margin()
    margin_left: Length | Auto = _margin()
    padding_top: Length = _padding()
    padding_right: Length = _padding()
    padding_bottom: Length = _padding()
    padding_left: Length = _padding()
    border_top_width: Px = _border_width()
    border_right_width: Px = _border_width()
    border_bottom_width: Px = _border_width()
    border_left_width: Px = _border_width()
    border_top_style: str = _border_style()
    border_right_style: str = _border_style()
    border_bottom_style: str = _border_style()
    border_left_style: str = _border_style()
    border_top_color: Rgba = _border_color()
    border_right_color: Rgba = _border_color()
    border_bottom_color: Rgba = _border_color()
    border_left_color: Rgba = _border_color()
    border_top_left_radius: tuple[Length, Length] = _radius()
    border_top_right_radius: tuple[Length, Length] = _radius()
    border_bottom_right_radius: tuple[Length, Length] = _radius()
    border_bottom_left_radius: tuple[Length, Length] = _radius()
    aspect_ratio: tuple[bool, Px] = prop((True, 0.0), boxes.ratio)
    background_color: Rgba = prop(TRANSPARENT, one(color_value), compute=compute_color)
    background_image: tuple[Any, ...] = prop(
        (), backgrounds.layers(backgrounds.layer_image), compute=boxes.compute_parts
    )
    background_position: tuple[tuple[Length, Length], ...] = prop(
        ((Relative(0.0, 0.0), Relative(0.0, 0.0)),),
        backgrounds.layers(backgrounds.position),
        compute=boxes.compute_parts,
    )
    background_size: tuple[Any, ...] = prop(
        (("auto", "auto"),), backgrounds.layers(backgrounds.size), compute=boxes.compute_parts
    )
    background_repeat: tuple[tuple[str, str], ...] = prop(
        (("repeat", "repeat"),), backgrounds.layers(backgrounds.repeat)
    )
    background_origin: tuple[str, ...] = prop(("padding-box",), backgrounds.layers(backgrounds.area))
    box_shadow: tuple[backgrounds.BoxShadow, ...] = prop((), backgrounds.box_shadows, compute=boxes.compute_parts)
    outline_width: Px = _border_width()
    outline_style: str = prop("none", keywords("auto", *(style for style in BORDER_STYLES if style != "hidden")))
    outline_color: Rgba = prop(CURRENT, one(color_value, "invert"), compute=compute_color)
    outline_offset: Px = prop(0.0, one(length), compute=compute_length)
    box_decoration_break: str = prop("slice", keywords("slice", "clone"))
    mix_blend_mode: str = prop("normal", keywords("normal", *boxes.BLEND_MODES))
    isolation: str = prop("auto", keywords("auto", "isolate"))
    opacity: Px = prop(1.0, boxes.share)
    transform: tuple[Any, ...] = prop((), boxes.transforms, compute=boxes.compute_parts)
    transform_origin: tuple[Length, Length] = prop(
        (Relative(0.0, 0.5), Relative(0.0, 0.5)), backgrounds.position, compute=boxes.compute_parts
    )
    image_resolution: Px = prop(96.0, boxes.resolution, inherits=True)
    image_orientation: str = prop("from-image", keywords("from-image", "none"), inherits=True)
    object_fit: str = prop("fill", keywords("fill", "contain", "cover", "none", "scale-down"))
    object_position: tuple[Length, Length] = prop(
        (Relative(0.0, 0.5), Relative(0.0, 0.5)), backgrounds.position, compute=boxes.compute_parts
    )
    overflow: str = prop("visible", keywords("visible", "hidden", "clip", "scroll", "auto"))
    visibility: str = prop("visible", keywords("visible", "hidden", "collapse"), inherits=True)

    # flex containers and their items
    flex_direction: str = prop("row", keywords("row", "row-reverse", "column", "column-reverse"))
    flex_wrap: str = prop("nowrap", keywords("nowrap", "wrap", "wrap-reverse"))
    flex_grow: Px = prop(0.0, one(number, least=0.0))
    flex_shrink: Px = prop(1.0, one(number, least=0.0))
    flex_basis: Length | Auto = _size("auto", "content", "min-content", "max-content")
    order: int = prop(0, one(integer))
    justify_content: str = prop("normal", _justify)
    align_items: str = prop("normal", _justify)
    align_self: str = prop("auto", _justify)
    align_content: str = prop("normal", _justify)
    row_gap: Length | Auto = prop("normal", one(length_percentage, "normal", least=0.0), compute=compute_length)
    column_gap: Length | Auto = prop("normal", one(length_percentage, "normal", least=0.0), compute=compute_length)

    # grid containers and their items
    justify_items: str = prop("normal", _justify)
    justify_self: str = prop("auto", _justify)
    grid_template_columns: tuple[Any, ...] = prop((), grids.template, compute=boxes.compute_parts)
    grid_template_rows: tuple[Any, ...] = prop((), grids.template, compute=boxes.compute_parts)
    grid_template_areas: tuple[tuple[str, ...], ...] = prop((), grids.areas)
    grid_auto_columns: tuple[grids.Track, ...] = prop(
        (grids.AUTO_TRACK,), grids.auto_tracks, compute=boxes.compute_parts
    )
    grid_auto_rows: tuple[grids.Track, ...] = prop((grids.AUTO_TRACK,), grids.auto_tracks, compute=boxes.compute_parts)
    grid_auto_flow: tuple[str, bool] = prop(("row", False), grids.auto_flow)
    grid_row_start: grids.Line | Auto = prop("auto", grids.line)
    grid_row_end: grids.Line | Auto = prop("auto", grids.line)
    grid_column_start: grids.Line | Auto = prop("auto", grids.line)
    grid_column_end: grids.Line | Auto = prop("auto", grids.line)

    # columns
    column_count: int | Auto = prop("auto", boxes.column_count)
    column_width: Px | Auto = prop("auto", one(length, "auto", least=0.0), compute=compute_length)
    column_fill: str = prop("balance", keywords("auto", "balance", "balance-all"))
    column_span: str = prop("none", keywords("none", "all"))
    column_rule_width: Px = _border_width()
    column_rule_style: str = _border_style()
    column_rule_color: Rgba = _border_color()

    # tables
    table_layout: str = prop("auto", keywords("auto", "fixed"))
    border_collapse: str = prop("separate", keywords("separate", "collapse"), inherits=True)
    border_spacing: tuple[Px, Px] = prop((0.0, 0.0), _pair, inherits=True, compute=_compute_pair)
    caption_side: str = prop("top", keywords("top", "bottom"), inherits=True)
    empty_cells: str = prop("show", keywords("show", "hide"), inherits=True)

    fq_cell_hints: str = prop("", texts.one_string, inherits=True)
    fq_tally: str = prop("none", generated.tally_name)
    fq_anchor: str = prop("top", keywords("top", "baseline"))
    fq_comb: int | str = prop("none", generated.cells)
    fq_fit: str = prop("auto", keywords("auto", "none", "remark", "shrink"))
    fq_overrun: str = prop("wrap", keywords("wrap", "run"), inherits=True)
    fq_reference: str = prop("area", keywords("area", "page"))
    fq_repeat_share: Length = prop(Relative(0.0, 0.5), one(length_percentage, least=0.0), compute=compute_length)
    fq_show_on: str = prop("every", keywords("every", "going-on", "continued", "last"))
    fq_wrap: str = prop("normal", keywords("normal", "late"))

    # breaking
    line_grid: str = prop("match-parent", keywords("match-parent", "create"))
    line_snap: str = prop("none", keywords("none", "baseline", "contain"), inherits=True)
    margin_break: str = prop("auto", keywords("auto", "keep", "discard"))
    break_before: str = prop("auto", keywords(*BREAKS_BETWEEN))
    break_after: str = prop("auto", keywords(*BREAKS_BETWEEN))
    break_inside: str = prop("auto", keywords("auto", "avoid", "avoid-page", "avoid-column"))
    orphans: int = prop(2, _count, inherits=True)  # CSS Fragmentation 3 §3.3
    widows: int = prop(2, _count, inherits=True)

    # generated content
    content: generated.Content = prop("normal", generated.content)
    counter_reset: tuple[tuple[str, int], ...] = prop((), generated.counters(0))
    counter_set: tuple[tuple[str, int], ...] = prop((), generated.counters(0))
    counter_increment: tuple[tuple[str, int], ...] = prop((), generated.counters(1))
    quotes: tuple[str, ...] | Auto = prop("auto", generated.quotes, inherits=True)
    list_style_type: Named = prop("disc", generated.list_style_type, inherits=True)
    list_style_image: Any = prop("none", _marker_image, inherits=True)
    list_style_position: str = prop("outside", keywords("outside", "inside"), inherits=True)
    bookmark_level: int | Auto = prop("none", one(integer, "none", least=1))
    bookmark_label: generated.Content = prop((generated.ContentOf("text"),), generated.content)
    bookmark_state: str = prop("open", keywords("open", "closed"))
    string_set: tuple[tuple[str, generated.Content], ...] = prop((), generated.string_set)

    # pages
    page: str = prop("auto", boxes.page_name)
    size: tuple[Any, ...] = prop(("auto",), generated.page_size)
    marks: tuple[str, ...] = prop((), boxes.marks)
    page_orientation: str = prop("upright", keywords("upright", "rotate-left", "rotate-right"))
    bleed: Px | Auto = prop("auto", one(length, "auto", least=0.0), compute=compute_length)

    def __init__(self, parent: ComputedStyle | None, values: dict[str, Any]) -> None:
        self.__dict__ = values
        self.parent = parent
        self.kept = {}

    @property
    def has_background_pictures(self) -> bool:
        """Whether any layer behind a box is a picture or a gradient: that of `background: red` is none."""
        return any(image != "none" for image in self.background_image)

    def used_color(self, color: Rgba | None) -> Rgba:
        """A colour in one of the values: that of the element's text where it is 'currentcolor' (CSS Color 4 §9)."""
        return self.color if color is None else color


for _side in ("top", "right", "bottom", "left"):
    setattr(ComputedStyle, f"border_{_side}_width", 0.0)  # computed: there is no border style initially
ComputedStyle.outline_width = ComputedStyle.column_rule_width = 0.0

# What only drawings have, or few boxes, is not carried along in every style: where none says anything, the class does.
INITIAL_STYLE: Final = ComputedStyle(None, {f: value for f, value in INHERITED.items() if f not in DRAWN | EFFECTS})
