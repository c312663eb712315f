"""Colours of every space as sRGB, and mixtures of two (CSS Color 4 §10 to §12, Color 5 §2)."""

from __future__ import annotations

import colorsys
import math
from collections.abc import Callable, Mapping, Sequence
from typing import Final

from tinycss2 import parse_one_component_value
from tinycss2.color4 import parse_color

from fleetquill.style.lengths import DEGREES, number
from fleetquill.style.tokens import Token, ident, split_commas, without_space

Triple = tuple[float, float, float]
Matrix = tuple[Triple, Triple, Triple]

D50_TO_D65: Final[Matrix] = (  # Bradford, Color 4 §18
    (0.9554734527042182, -0.023098536874261423, 0.0632593086610217),
    (-0.028369706963208136, 1.0099954580058226, 0.021041398966943008),
    (0.012314001688319899, -0.020507696433477912, 1.3303659366080753),
)
TO_XYZ: Final[dict[str, Matrix]] = {  # of linear light, D65 but for prophoto-rgb (Color 4 §18)
    "srgb": (
        (0.41239079926595934, 0.357584339383878, 0.1804807884018343),
        (0.21263900587151027, 0.715168678767756, 0.07219231536073371),
        (0.01933081871559182, 0.11919477979462598, 0.9505321522496607),
    ),
    "display-p3": (
        (0.4865709486482162, 0.26566769316909306, 0.1982172852343625),
        (0.2289745640697488, 0.6917385218365064, 0.079286914093745),
        (0.0, 0.04511338185890264, 1.043944368900976),
    ),
    "a98-rgb": (
        (0.5766690429101305, 0.1855582379065463, 0.1882286462349947),
        (0.29734497525053605, 0.6273635662554661, 0.07529145849399788),
        (0.02703136138641234, 0.07068885253582723, 0.9913375368376388),
    ),
    "prophoto-rgb": (
        (0.7977604896723027, 0.13518583717574031, 0.0313493495815248),
        (0.2880711282292934, 0.7118432178101014, 0.00008565396060525902),
        (0.0, 0.0, 0.8251046025104601),
    ),
    "rec2020": (
        (0.6369580483012914, 0.14461690358620832, 0.1688809751641721),
        (0.2627002120112671, 0.6779980715188708, 0.05930171646986196),
        (0.0, 0.028072693049087428, 1.060985057710791),
    ),
}
OKLAB_TO_LMS: Final[Matrix] = (
    (1.0, 0.3963377773761749, 0.2158037573099136),
    (1.0, -0.1055613458156586, -0.0638541728258133),
    (1.0, -0.0894841775298119, -1.2914855480194092),
)
LMS_TO_XYZ: Final[Matrix] = (
    (1.2268798758459243, -0.5578149944602171, 0.2813910456659647),
    (-0.0405757452148008, 1.112286803280317, -0.0717110580655164),
    (-0.0763729366746601, -0.4214933324022432, 1.5869240198367816),
)
WHITE_D50: Final = (0.3457 / 0.3585, 1.0, (1.0 - 0.3457 - 0.3585) / 0.3585)
POLAR: Final = ("hsl", "hwb", "lch", "oklch")
FURTHEST: Final = 1e6  # of any coordinate


def _times(matrix: Matrix, value: Triple) -> Triple:
    x, y, z = (sum(a * b for a, b in zip(row, value, strict=True)) for row in matrix)
    return x, y, z


def _inverse(matrix: Matrix) -> Matrix:
    (a, b, c), (d, e, f), (g, h, i) = matrix
    cofactors = ((e * i - f * h, c * h - b * i, b * f - c * e), (f * g - d * i, a * i - c * g, c * d - a * f),
                 (d * h - e * g, b * g - a * h, a * e - b * d))  # fmt: skip
    whole = a * cofactors[0][0] + b * cofactors[1][0] + c * cofactors[2][0]
    one, two, three = ((x / whole, y / whole, z / whole) for x, y, z in cofactors)
    return one, two, three


def _linear(value: float) -> float:
    """The light of an sRGB part; negative ones mirrored, as the standard extends it."""
    size = abs(value)
    light = size / 12.92 if size <= 0.04045 else ((size + 0.055) / 1.055) ** 2.4
    return math.copysign(light, value)


def _gamma(light: float) -> float:
    size = abs(light)
    value = 12.92 * size if size <= 0.0031308 else 1.055 * size ** (1 / 2.4) - 0.055
    return math.copysign(value, light)


def _light_of(space: str, value: float) -> float:
    size = abs(value)
    if space == "a98-rgb":
        return math.copysign(size ** (563 / 256), value)
    if space == "prophoto-rgb":
        return math.copysign(size / 16 if size <= 16 / 512 else size**1.8, value)
    if space == "rec2020":
        alpha, beta = 1.09929682680944, 0.018053968510807
        return math.copysign(size / 4.5 if size < beta * 4.5 else ((size + alpha - 1) / alpha) ** (1 / 0.45), value)
    return _linear(value)


def _xyz(space: str, parts: Sequence[float]) -> Triple:
    """A colour as XYZ under D65."""
    a, b, c = (min(FURTHEST, max(-FURTHEST, float(part))) for part in parts)
    if space in ("lch", "oklch"):
        a, b, c = a, b * math.cos(math.radians(c)), b * math.sin(math.radians(c))
        space = space.replace("ch", "ab")
    if space in ("xyz", "xyz-d65"):
        return a, b, c
    if space == "xyz-d50":
        return _times(D50_TO_D65, (a, b, c))
    if space == "lab":
        middle = (a + 16) / 116
        x, y, z = (_from_lab(part) * white for part, white in
                   zip((middle + b / 500, middle, middle - c / 200), WHITE_D50, strict=True))  # fmt: skip
        return _times(D50_TO_D65, (x, y, z))
    if space == "oklab":
        x, y, z = (part**3 for part in _times(OKLAB_TO_LMS, (a, b, c)))
        return _times(LMS_TO_XYZ, (x, y, z))
    if space == "srgb-linear":
        return _times(TO_XYZ["srgb"], (a, b, c))
    found = _times(TO_XYZ[space], (_light_of(space, a), _light_of(space, b), _light_of(space, c)))
    return _times(D50_TO_D65, found) if space == "prophoto-rgb" else found


def _from_lab(part: float) -> float:
    return part**3 if part**3 > 216 / 24389 else (116 * part - 16) * 27 / 24389


def _to_lab(part: float) -> float:
    return math.cbrt(part) if part > 216 / 24389 else (24389 / 27 * part + 16) / 116


def _srgb(space: str, parts: Sequence[float]) -> Triple:
    """A colour as sRGB, not yet kept within it."""
    if space == "srgb":
        return float(parts[0]), float(parts[1]), float(parts[2])
    if space == "hsl":
        hue, saturation, lightness = parts
        return colorsys.hls_to_rgb(hue / 360 % 1, lightness / 100, saturation / 100)
    if space == "hwb":
        hue, white, black = parts[0], parts[1] / 100, parts[2] / 100
        if white + black >= 1:
            return (white / (white + black),) * 3
        red, green, blue = (part * (1 - white - black) + white for part in colorsys.hls_to_rgb(hue / 360 % 1, 0.5, 1.0))
        return red, green, blue
    red, green, blue = map(_gamma, _times(_inverse(TO_XYZ["srgb"]), _xyz(space, parts)))
    return red, green, blue


def _from_srgb(space: str, color: Triple) -> Triple:
    """An sRGB colour in a space that colours are mixed in."""
    if space == "srgb":
        return color
    if space == "hsl":
        hue, lightness, saturation = colorsys.rgb_to_hls(*color)
        return hue * 360, saturation * 100, lightness * 100
    if space == "hwb":
        return colorsys.rgb_to_hls(*color)[0] * 360, min(color) * 100, (1 - max(color)) * 100
    red, green, blue = map(_linear, color)
    if space == "srgb-linear":
        return red, green, blue
    xyz = _times(TO_XYZ["srgb"], (red, green, blue))
    if space in ("xyz", "xyz-d65"):
        return xyz
    if space == "xyz-d50":
        return _times(_inverse(D50_TO_D65), xyz)
    if space in ("lab", "lch"):
        x, y, z = (_to_lab(part / white) for part, white in zip(_from_srgb("xyz-d50", color), WHITE_D50, strict=True))
        found = (116 * y - 16, 500 * (x - y), 200 * (y - z))
    else:
        x, y, z = map(math.cbrt, _times(_inverse(LMS_TO_XYZ), xyz))
        found = _times(_inverse(OKLAB_TO_LMS), (x, y, z))
    if space in ("lab", "oklab"):
        return found
    return found[0], math.hypot(found[1], found[2]), math.degrees(math.atan2(found[2], found[1])) % 360


_BLACK, _WHITE = (0.0, 0.0, 0.0), (1.0, 1.0, 1.0)
_FACE, _EDGE, _GREY = (0.94, 0.94, 0.94), (0.46, 0.46, 0.46), (0.5, 0.5, 0.5)
SYSTEM: Final[dict[str, Triple]] = {  # of screens, as paper has them (Color 4 §6.2, and appendix A for the old names)
    **dict.fromkeys(("canvas", "field", "accentcolortext", "selecteditemtext"), _WHITE),
    **dict.fromkeys(("canvastext", "fieldtext", "buttontext", "marktext", "highlighttext"), _BLACK),
    **dict.fromkeys(("buttonface", "buttonhighlight", "buttonshadow", "threedface"), _FACE),
    **dict.fromkeys(("buttonborder", "activeborder", "inactiveborder", "windowframe", "threeddarkshadow"), _EDGE),
    **dict.fromkeys(("threedhighlight", "threedlightshadow", "threedshadow"), _EDGE),
    **dict.fromkeys(("graytext", "inactivecaptiontext"), _GREY),
    **dict.fromkeys(("window", "activecaption", "appworkspace", "background", "inactivecaption"), _WHITE),
    **dict.fromkeys(("infobackground", "menu", "scrollbar"), _WHITE),
    **dict.fromkeys(("windowtext", "captiontext", "infotext", "menutext"), _BLACK),
    "mark": (1.0, 1.0, 0.0),
    "highlight": (0.71, 0.835, 1.0),
    "linktext": (0.0, 0.0, 0.933),
    "visitedtext": (0.333, 0.102, 0.545),
    "activetext": (1.0, 0.0, 0.0),
    **dict.fromkeys(("accentcolor", "selecteditem"), (0.059, 0.298, 0.29)),
}


def srgb_of(token: Token) -> tuple[float, float, float, float] | str | None:
    """The sRGB parts and alpha of a colour, each from 0 to 1; 'currentcolor'; None where it is no colour."""
    if ident(token) in SYSTEM:
        return *SYSTEM[ident(token)], 1.0
    if token.type == "function" and token.lower_name == "color-mix":
        return _mixed(token)
    if token.type == "function" and token.lower_name == "light-dark":
        parts = split_commas(token.arguments)
        return srgb_of(parts[0][0]) if [len(part) for part in parts] == [1, 1] else None  # paper is light
    if token.type == "function" and token.lower_name in CHANNELS and any(ident(t) == "from" for t in token.arguments):
        return _relative(token)
    if token.type == "function" and any(part.type == "function" for part in token.arguments):
        reckoned = _reckoned(token)
        if reckoned is None:
            return None
        token = reckoned
    try:
        parsed = parse_color(token)
    except (ValueError, OverflowError, ArithmeticError):
        return None
    if parsed is None or isinstance(parsed, str):
        return parsed
    coordinates = [0.0 if part is None or math.isnan(part) else float(part) for part in parsed.coordinates]
    if parsed.space not in KNOWN:
        return None
    try:
        red, green, blue = map(_within, _srgb(parsed.space, coordinates))
    except (OverflowError, ValueError):
        return None
    return red, green, blue, _within(1.0 if parsed.alpha is None else float(parsed.alpha))


KNOWN: Final = frozenset(
    ("hsl", "hwb", "lab", "lch", "oklab", "oklch", "srgb-linear", "xyz", "xyz-d50", "xyz-d65", *TO_XYZ)
)
CHANNELS: Final = {  # of the functions that colours are made with, by their names
    **dict.fromkeys(("rgb", "rgba"), ("srgb", "rgb")),
    **dict.fromkeys(("hsl", "hsla"), ("hsl", "hsl")),
    "hwb": ("hwb", "hwb"),
    "lab": ("lab", "lab"),
    "lch": ("lch", "lch"),
    "oklab": ("oklab", "lab"),
    "oklch": ("oklch", "lch"),
}


def _reckoned(token: Token) -> Token | None:
    """A colour with the sums among its channels worked out (CSS Color 4 §4, CSS Values 4 §10)."""
    parts = [_reckoned_channel(part) if part.type == "function" else part.serialize() for part in token.arguments]
    return None if None in parts else parse_one_component_value(f"{token.name}({''.join(map(str, parts))})")


def _reckoned_channel(token: Token) -> str | None:
    units: set[str] = set()
    value = number(parse_one_component_value(_without_units(token, units)))
    return None if value is None or len(units) > 1 else f"{value:.6f}{''.join(units)}"


def _without_units(token: Token, units: set[str]) -> str:
    """A sum of percentages or angles as one of numbers; the unit that they have is noted."""
    if token.type == "function":
        return f"{token.name}({''.join(_without_units(part, units) for part in token.arguments)})"
    if token.type == "() block":
        return f"({''.join(_without_units(part, units) for part in token.content)})"
    if token.type == "percentage":
        units.update("%")
        return f"{token.value}"
    if token.type == "dimension" and token.lower_unit in DEGREES:
        units.update(("deg",))
        return f"{token.value * DEGREES[token.lower_unit]}"
    return str(token.serialize())


def _relative(token: Token) -> tuple[float, float, float, float] | None:
    """A colour made of the channels of another: `rgb(from red r g calc(b + 100))` (Color 5 §4)."""
    tokens = without_space(token.arguments)
    origin = srgb_of(tokens[1]) if len(tokens) > 1 and ident(tokens[0]) == "from" else None
    if not isinstance(origin, tuple):
        return None
    space, names = CHANNELS[token.lower_name]
    scale = 255.0 if space == "srgb" else 1.0
    known = {n: part * scale for n, part in zip(names, _from_srgb(space, origin[:3]), strict=True)}
    known["alpha"] = origin[3]
    parts = [part for part in tokens[2:] if not (part.type == "literal" and part.value == "/")]
    values = [_channel(part, known) for part in parts]
    if len(values) not in (3, 4) or None in values:
        return None
    alpha = values[3] if len(values) == 4 else f"{origin[3]:.6f}"
    made = parse_one_component_value(f"{token.lower_name}({' '.join(map(str, values[:3]))} / {alpha})")
    found = srgb_of(made)
    return found if isinstance(found, tuple) else None


def _channel(token: Token, known: Mapping[str, float]) -> str | None:
    """A channel as CSS text, the names of the other colour's channels replaced by what they are."""
    if ident(token) in known:
        return f"{known[ident(token)]:.6f}"
    if token.type in ("number", "percentage", "dimension") or ident(token) == "none":
        return str(token.serialize())
    if token.type != "function":
        return None
    value = number(parse_one_component_value(_with_values(token, known)))
    return None if value is None else f"{value:.6f}"


def _with_values(token: Token, known: Mapping[str, float]) -> str:
    if token.type == "function":
        return f"{token.name}({''.join(_with_values(part, known) for part in token.arguments)})"
    if token.type == "() block":
        return f"({''.join(_with_values(part, known) for part in token.content)})"
    return f"{known[ident(token)]:.6f}" if ident(token) in known else str(token.serialize())


SPACES: Final = KNOWN - {*TO_XYZ} | {"srgb"}  # that colours are mixed in
HUES: Final[dict[str, Callable[[float], float]]] = {  # the way from one hue to another, Color 4 §12.4
    "shorter": lambda turn: (turn + 180) % 360 - 180,
    "longer": lambda turn: turn % 360 if (turn % 360) > 180 else turn % 360 - 360,
    "increasing": lambda turn: turn % 360,
    "decreasing": lambda turn: turn % 360 - 360,
}


def _within(value: float) -> float:
    return 0.0 if math.isnan(value) else min(1.0, max(0.0, value))


def _mixed(token: Token) -> tuple[float, float, float, float] | None:
    """color-mix(in space, colour share, colour share)."""
    parts = [without_space(part) for part in split_commas(token.arguments)]
    if len(parts) != 3 or not 2 <= len(parts[0]) <= 4 or ident(parts[0][0]) != "in":
        return None
    space, method = ident(parts[0][1]), ident(parts[0][2]) if len(parts[0]) > 2 else "shorter"
    colors = [srgb_of(item) for part in parts[1:] for item in part if item.type != "percentage"]
    shares: list[list[float]] = [[i.value / 100 for i in part if i.type == "percentage"] for part in parts[1:]]
    if space not in SPACES or method not in HUES or any(len(part) > 1 for part in shares):
        return None
    first, second = (*colors, None, None)[:2]
    if len(colors) != 2 or not isinstance(first, tuple) or not isinstance(second, tuple):
        return None
    one = shares[0][0] if shares[0] else None
    two = shares[1][0] if shares[1] else None
    if one is None:
        one = 0.5 if two is None else 1 - two
    two = 1 - one if two is None else two
    if one < 0 or two < 0 or one + two <= 0:
        return None
    red, green, blue, alpha = mixture(space, method, first, second, two / (one + two))
    return red, green, blue, alpha * min(1.0, one + two)


def _is_grey(color: tuple[float, float, float, float]) -> bool:
    return max(color[:3]) - min(color[:3]) < 1e-4


def mixture(
    space: str,
    method: str,
    first: tuple[float, float, float, float],
    second: tuple[float, float, float, float],
    share: float,
) -> tuple[float, float, float, float]:
    """Two colours interpolated in a space, multiplied by their alpha (Color 4 §12.3); `share` is the second's.

    `method` is the way that a hue takes: one of HUES.
    """
    alpha = first[3] * (1 - share) + second[3] * share
    a, b = _from_srgb(space, first[:3]), _from_srgb(space, second[:3])
    hue = {"hsl": 0, "hwb": 0, "lch": 2, "oklch": 2}.get(space)
    if hue is not None and _is_grey(first):  # a grey has no hue: it takes the other's
        a = (b[0], *a[1:]) if hue == 0 else (*a[:2], b[2])
    elif hue is not None and _is_grey(second):
        b = (a[0], *b[1:]) if hue == 0 else (*b[:2], a[2])
    mixture: list[float] = []
    for index in range(3):
        if index == hue:
            mixture.append((a[index] + HUES[method](b[index] - a[index]) * share) % 360)
        else:
            mixed = a[index] * first[3] * (1 - share) + b[index] * second[3] * share
            mixture.append(mixed / alpha if alpha else 0.0)
    red, green, blue = map(_within, _srgb(space, mixture))
    return red, green, blue, alpha
