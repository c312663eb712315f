"""Values of backgrounds, gradients and box shadows (CSS Backgrounds 3, CSS Images 3 and 4)."""

from __future__ import annotations

from typing import Any, Final, NamedTuple

from tinycss2 import parse_one_component_value

from fleetquill.deadline import heed
from fleetquill.style.colors import HUES, SPACES
from fleetquill.style.lengths import DEGREES, Relative, below, finite, length, length_percentage
from fleetquill.style.tokens import Parser, Token, Tokens, ident, split_commas, split_slash
from fleetquill.style.values import Rgba, color_value, string_or_url, together

MODERN: Final = frozenset(("lab", "lch", "oklab", "oklch", "color", "color-mix"))  # colours that go over in oklab


class Url(NamedTuple):
    """A picture by its address; `source` is the style sheet that names it."""

    url: str


class Stop(NamedTuple):
    """A colour stop; `place` is a length, or degrees in a conic gradient; None where it is left out."""

    color: Any
    place: Any


class Hint(NamedTuple):
    """Where the colours of the stops before and after meet half-way (CSS Images 4 §3.5.2)."""

    place: Any


Mixing = tuple[str, str]  # the space that colours go over in, and the way that a hue takes


class Linear(NamedTuple):
    """`angle` in degrees clockwise from up, or the corner that it leads to ('top left')."""

    angle: float | str
    stops: tuple[Stop | Hint, ...]
    repeats: bool
    mixing: Mixing = ("srgb", "shorter")


class Radial(NamedTuple):
    """`extent` is a keyword or one or two lengths; `center` two lengths."""

    circle: bool
    extent: Any
    center: tuple[Any, Any]
    stops: tuple[Stop | Hint, ...]
    repeats: bool
    mixing: Mixing = ("srgb", "shorter")


class Conic(NamedTuple):
    angle: float
    center: tuple[Any, Any]
    stops: tuple[Stop | Hint, ...]
    repeats: bool
    mixing: Mixing = ("srgb", "shorter")


class BoxShadow(NamedTuple):
    inset: bool
    x: Any
    y: Any
    blur: Any
    spread: Any
    color: Any


def angle(token: Token) -> float | None:
    """Degrees."""
    if token.type == "dimension" and token.lower_unit in DEGREES:
        return finite(token.value) * DEGREES[token.lower_unit]
    return 0.0 if token.type == "number" and token.value == 0 else None


# ---- pictures ----


def image(token: Token) -> Any:
    """A <image>: an address or a gradient; None where it is neither."""
    url = string_or_url(token) if token.type != "string" else None
    if url is not None:
        return Url(url)
    if token.type != "function":
        return None
    name = token.lower_name
    if name in ("image-set", "-webkit-image-set"):
        return _finest(split_commas(token.arguments))
    repeats = name.startswith("repeating-")
    maker = _GRADIENTS.get(name.removeprefix("repeating-"))
    if maker is None:
        return None
    parts = split_commas(token.arguments)
    mixing = _mixing(parts)
    found = maker(parts, repeats) if mixing is not None else None
    return None if found is None or mixing is None else found._replace(mixing=mixing)


RESOLUTIONS: Final = {"x": 1.0, "dppx": 1.0, "dpi": 1 / 96, "dpcm": 2.54 / 96}


def _finest(options: list[list[Token]]) -> Any:
    """image-set() (CSS Images 4 §2.4): the picture of the highest resolution, as paper has it."""
    found: list[tuple[float, Any]] = []
    for option in options:
        fine = [t.value * RESOLUTIONS[t.lower_unit] for t in option[1:]
                if t.type == "dimension" and t.lower_unit in RESOLUTIONS]  # fmt: skip
        shown = (
            Url(str(option[0].value)) if option and option[0].type == "string" else image(option[0]) if option else None
        )
        if shown is None:
            return None
        found.append((fine[0] if fine else 1.0, shown))
    return max(found, key=lambda one: one[0])[1] if found else None


def _mixing(parts: list[list[Token]]) -> Mixing | None:
    """Takes `in oklch longer hue` out of a gradient's first part (§3.1.1); None where it is wrong."""
    words = [ident(token) for token in parts[0]]
    if "in" not in words:
        modern = any(t.type == "function" and t.lower_name in MODERN for part in parts for t in part)
        return ("oklab", "shorter") if modern else ("srgb", "shorter")
    at = words.index("in")
    space = words[at + 1] if at + 1 < len(words) else ""
    turned = words[at + 3 : at + 4] == ["hue"]
    way = words[at + 2] if turned else "shorter"
    del parts[0][at : at + (4 if turned else 2)]
    if not parts[0]:
        del parts[0]
    return (space, way) if parts and space in SPACES and way in HUES else None


def _linear(parts: list[list[Token]], repeats: bool) -> Linear | None:
    direction: float | str = 180.0
    first = parts[0]
    if first and ident(first[0]) == "to":
        words = [ident(token) for token in first[1:]]
        sides = {"top": 0.0, "right": 90.0, "bottom": 180.0, "left": 270.0}
        if not words or any(word not in sides for word in words):
            return None
        if len(words) == 1:
            direction = sides[words[0]]
        else:
            direction = " ".join(sorted(words, key=lambda word: word in ("left", "right")))
        parts = parts[1:]
    elif len(first) == 1 and angle(first[0]) is not None:
        direction = angle(first[0]) or 0.0
        parts = parts[1:]
    stops = _stops(parts, length_percentage)
    return None if stops is None else Linear(direction, stops, repeats)


EXTENTS: Final = ("closest-side", "farthest-side", "closest-corner", "farthest-corner")
CENTRE: Final = (Relative(0.0, 0.5), Relative(0.0, 0.5))


def _radial(parts: list[list[Token]], repeats: bool) -> Radial | None:
    shape, center = "", CENTRE
    extent: Any = None
    if parts[0] and color_value(parts[0][0]) is None:
        words = [ident(token) for token in parts[0]]
        head = parts[0]
        if "at" in words:
            at = words.index("at")
            found = position(head[at + 1 :])
            if found is None:
                return None
            center, head = found, head[:at]
        sizes = []
        for token in head:
            if ident(token) in ("circle", "ellipse"):
                shape = ident(token)
            elif ident(token) in EXTENTS:
                extent = ident(token)
            elif length_percentage(token) is not None:
                sizes.append(length_percentage(token))
            else:
                return None
        if sizes:
            extent = tuple(sizes)
        parts = parts[1:]
    stops = _stops(parts, length_percentage)
    circle = shape == "circle" or (isinstance(extent, tuple) and len(extent) == 1)
    return None if stops is None else Radial(circle, extent or "farthest-corner", center, stops, repeats)


def _conic(parts: list[list[Token]], repeats: bool) -> Conic | None:
    start, center = 0.0, CENTRE
    words = [ident(token) for token in parts[0]]
    if words and words[0] in ("from", "at"):
        at = words.index("at") if "at" in words else len(words)
        if words[0] == "from":
            found = angle(parts[0][1]) if len(parts[0]) > 1 else None
            if found is None:
                return None
            start = found
        if at < len(words):
            place = position(parts[0][at + 1 :])
            if place is None:
                return None
            center = place
        parts = parts[1:]
    stops = _stops(parts, _degrees_or_share)
    return None if stops is None else Conic(start, center, stops, repeats)


def _degrees_or_share(token: Token) -> float | None:
    return float(token.value * 3.6) if token.type == "percentage" else angle(token)


_GRADIENTS: Final = {"linear-gradient": _linear, "radial-gradient": _radial, "conic-gradient": _conic}


def _stops(parts: list[list[Token]], place: Any) -> tuple[Stop | Hint, ...] | None:
    """Colour stops; a stop with two places is two stops, a lone place between two is a hint."""
    stops: list[Stop | Hint] = []
    for part in parts:
        heed()
        found = [(token, color_value(token)) for token in part]
        colors = [color for _, color in found if color is not None]
        places = [place(token) for token, color in found if color is None]
        if any(p is None for p in places) or len(colors) > 1 or len(places) > 2:
            return None
        if not colors:
            if len(places) != 1 or not stops or isinstance(stops[-1], Hint):
                return None
            stops.append(Hint(places[0]))
            continue
        stops += [Stop(colors[0], p) for p in places] or [Stop(colors[0], None)]
    return tuple(stops) if stops and not isinstance(stops[-1], Hint) else None


# ---- positions and sizes ----

SIDES_ACROSS: Final = {"left": 0.0, "center": 0.5, "right": 1.0}
SIDES_DOWN: Final = {"top": 0.0, "center": 0.5, "bottom": 1.0}


def position(tokens: Tokens) -> tuple[Any, Any] | None:
    """A <position> of one to four values: offsets from left and top (CSS Backgrounds 3 §3.6)."""
    words = [ident(token) for token in tokens]
    if not 1 <= len(tokens) <= 4:
        return None
    if len(tokens) <= 2:
        return _short_position(tokens, words)
    across: Any = None
    down: Any = None
    index = 0
    while index < len(tokens):
        word = words[index]
        offset = tokens[index + 1] if index + 1 < len(tokens) else None
        if offset is not None and length_percentage(offset) is None:
            offset = None
        step = 1 if offset is None else 2
        if word in ("left", "right") and across is None:
            across = _from_side(word == "right", offset)
        elif word in ("top", "bottom") and down is None:
            down = _from_side(word == "bottom", offset)
        elif word == "center" and offset is None:
            if across is None and not {"left", "right"} & set(words):
                across = Relative(0.0, 0.5)
            elif down is None:
                down = Relative(0.0, 0.5)
            else:
                return None
        else:
            return None
        index += step
    return None if across is None or down is None else (across, down)


def _short_position(tokens: Tokens, words: list[str]) -> tuple[Any, Any] | None:
    if len(tokens) == 1:
        if words[0] in ("top", "bottom"):
            return Relative(0.0, 0.5), Relative(0.0, SIDES_DOWN[words[0]])
        first = _offset(tokens[0], SIDES_ACROSS)
        return None if first is None else (first, Relative(0.0, 0.5))
    if words[0] in ("top", "bottom") or words[1] in ("left", "right"):
        tokens = tokens[::-1]
    across, down = _offset(tokens[0], SIDES_ACROSS), _offset(tokens[1], SIDES_DOWN)
    return None if across is None or down is None else (across, down)


def _offset(token: Token, sides: dict[str, float]) -> Any:
    word = ident(token)
    return Relative(0.0, sides[word]) if word in sides else length_percentage(token)


def _from_side(far: bool, offset: Token | None) -> Any:
    if offset is None:
        return Relative(0.0, 1.0 if far else 0.0)
    if not far:
        return length_percentage(offset)
    return length_percentage(parse_one_component_value(f"calc(100% - {offset.serialize()})"))


def size(tokens: Tokens) -> Any:
    """background-size: 'cover', 'contain', or two lengths of which each may be 'auto'."""
    if len(tokens) == 1 and ident(tokens[0]) in ("cover", "contain"):
        return ident(tokens[0])
    values = ["auto" if ident(t) == "auto" else length_percentage(t) for t in tokens]
    if len(values) not in (1, 2) or any(v is None or below(v, 0.0) for v in values):
        return None
    return (values[0], values[1] if len(values) == 2 else "auto")


REPEATS: Final = ("repeat", "no-repeat", "space", "round")


def repeat(tokens: Tokens) -> tuple[str, str] | None:
    words = [ident(token) for token in tokens]
    if words == ["repeat-x"]:
        return ("repeat", "no-repeat")
    if words == ["repeat-y"]:
        return ("no-repeat", "repeat")
    if len(words) not in (1, 2) or any(word not in REPEATS for word in words):
        return None
    return (words[0], words[-1])


AREAS: Final = ("border-box", "padding-box", "content-box")


def area(tokens: Tokens) -> str | None:
    return ident(tokens[0]) if len(tokens) == 1 and ident(tokens[0]) in AREAS else None


def layers(read: Any) -> Parser:
    """A parser for a comma-separated list with one value for each layer."""

    def parse(tokens: Tokens) -> Any:
        found = [read(part) for part in split_commas(tokens)]
        return None if any(value is None for value in found) else tuple(found)

    return parse


def layer_image(tokens: Tokens) -> Any:
    """One layer's picture; 'none' is kept as the word."""
    if len(tokens) != 1:
        return None
    return "none" if ident(tokens[0]) == "none" else image(tokens[0])


def background_layers(tokens: Tokens) -> dict[str, Any] | None:
    """The `background` shorthand (§3.10): the longhands by field."""
    parts = split_commas(tokens)
    found: dict[str, list[Any]] = {name: [] for name in LAYER_INITIAL}
    color: Any = None
    for index, part in enumerate(parts):
        layer = one_layer(part)
        if layer is None or ("color" in layer and index < len(parts) - 1):
            return None
        color = layer.pop("color", None)
        for name, initial in LAYER_INITIAL.items():
            found[name].append(layer.get(name, initial))
    result: dict[str, Any] = {name: tuple(values) for name, values in found.items()}
    result["background_color"] = Rgba(0, 0, 0, 0) if color is None else color
    return result


LAYER_INITIAL: Final[dict[str, Any]] = {
    "background_image": "none",
    "background_position": (Relative(0.0, 0.0), Relative(0.0, 0.0)),
    "background_size": ("auto", "auto"),
    "background_repeat": ("repeat", "repeat"),
    "background_origin": "padding-box",
    "background_clip": "border-box",
    "background_attachment": "scroll",
}


def one_layer(tokens: list[Token]) -> dict[str, Any] | None:
    """What is said of one layer, by longhand field, and its `color`."""
    layer: dict[str, Any] = {}
    places: list[Token] = []
    sized = split_slash(tokens)
    if len(sized) > 2:
        return None
    rest = list(sized[0])
    if len(sized) == 2:
        sizes: list[Token] = []
        after = list(sized[1])
        while after and len(sizes) < 2 and size([*sizes, after[0]]) is not None:
            sizes.append(after.pop(0))
        if not sizes:
            return None
        layer["background_size"] = size(sizes)
        rest += after
    repeats: list[Token] = []
    for token in rest:
        word = ident(token)
        if word in REPEATS or word in ("repeat-x", "repeat-y"):
            repeats.append(token)
        elif word in AREAS:
            if "background_origin" not in layer:
                layer["background_origin"] = layer["background_clip"] = word
            else:
                layer["background_clip"] = word
        elif word in ("scroll", "fixed", "local"):
            layer["background_attachment"] = word
        elif word == "text":
            layer["background_clip"] = word
        elif word == "none" or (word == "" and image(token) is not None):
            if "background_image" in layer:
                return None
            layer["background_image"] = "none" if word else image(token)
        elif word in SIDES_ACROSS or word in SIDES_DOWN or length_percentage(token) is not None:
            places.append(token)
        elif color_value(token) is not None and "color" not in layer:
            layer["color"] = color_value(token)
        else:
            return None
    if repeats:
        layer["background_repeat"] = repeat(repeats)
    if places:
        layer["background_position"] = position(places)
    return None if None in layer.values() else layer


def box_shadows(tokens: Tokens) -> Any:
    """CSS Backgrounds 3 §6.1; `none` is an empty tuple."""
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return ()
    found: list[BoxShadow] = []
    for part in split_commas(tokens):
        insets = [ident(token) for token in part].count("inset")
        measures = [length(token) for token in part]
        lengths = together(measures)
        colors = [color_value(t) for t in part if length(t) is None and ident(t) != "inset"]
        if not 2 <= len(lengths) <= 4 or len(colors) > 1 or None in colors or insets > 1:
            return None
        x, y, blur, spread = [*lengths, 0.0, 0.0][:4]
        if below(blur, 0.0):
            return None
        found.append(BoxShadow(bool(insets), x, y, blur, spread, colors[0] if colors else "currentcolor"))
    return tuple(found)
