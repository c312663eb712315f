"""Values of the font properties (CSS Fonts 4)."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any, Final, NamedTuple, Protocol

from fleetquill.style.lengths import LengthBasis, compute_length, length_percentage
from fleetquill.style.tokens import Parser, Token, Tokens, ident, split_commas, without_space
from fleetquill.style.values import one


class ParentFont(Protocol):
    """What relative sizes and weights refer to."""

    font_size: float
    font_weight: int


class Units(NamedTuple):
    """What units of a font are, as shares of the font size: ex, cap, ch, ic, and the line height 'normal'."""

    ex: float
    cap: float
    ch: float
    ic: float
    normal: float


class FontBasis(LengthBasis, Protocol):
    """What a computed value of a font property may hang on."""

    @property
    def parent(self) -> ParentFont:
        """The parent's style."""


MEDIUM: Final = 16.0
SIZES: Final = {  # CSS Fonts 4 §2.5.1, as the px that browsers give these words where medium is 16
    "xx-small": 9 / 16,
    "x-small": 10 / 16,
    "small": 13 / 16,
    "medium": 1.0,
    "large": 18 / 16,
    "x-large": 24 / 16,
    "xx-large": 2.0,
    "xxx-large": 3.0,
}
STEP: Final = 1.2  # 'larger' and 'smaller'
LARGEST_FONT: Final = 1e5  # px, some 26 m: larger ones would only be cut into more pages

STRETCHES: Final = {  # CSS Fonts 4 §2.4
    "ultra-condensed": 50.0,
    "extra-condensed": 62.5,
    "condensed": 75.0,
    "semi-condensed": 87.5,
    "normal": 100.0,
    "semi-expanded": 112.5,
    "expanded": 125.0,
    "extra-expanded": 150.0,
    "ultra-expanded": 200.0,
}

CAPS_FEATURES: Final[Mapping[str, tuple[str, ...]]] = {  # CSS Fonts 4 §6.6
    "small-caps": ("smcp",),
    "all-small-caps": ("smcp", "c2sc"),
    "petite-caps": ("pcap",),
    "all-petite-caps": ("pcap", "c2pc"),
    "unicase": ("unic",),
    "titling-caps": ("titl",),
}
NUMERIC_FEATURES: Final[Mapping[str, str]] = {  # CSS Fonts 4 §6.7
    "lining-nums": "lnum",
    "oldstyle-nums": "onum",
    "proportional-nums": "pnum",
    "tabular-nums": "tnum",
    "diagonal-fractions": "frac",
    "stacked-fractions": "afrc",
    "ordinal": "ordn",
    "slashed-zero": "zero",
}
LIGATURE_FEATURES: Final[Mapping[str, tuple[tuple[str, int], ...]]] = {  # CSS Fonts 4 §6.4
    "common-ligatures": (("liga", 1), ("clig", 1)),
    "no-common-ligatures": (("liga", 0), ("clig", 0)),
    "discretionary-ligatures": (("dlig", 1),),
    "no-discretionary-ligatures": (("dlig", 0),),
    "historical-ligatures": (("hlig", 1),),
    "no-historical-ligatures": (("hlig", 0),),
    "contextual": (("calt", 1),),
    "no-contextual": (("calt", 0),),
    "none": (("liga", 0), ("clig", 0), ("dlig", 0), ("hlig", 0), ("calt", 0)),
}


def font_size(tokens: Tokens) -> Any:
    return one(length_percentage, *SIZES, "larger", "smaller", least=0.0)(tokens)


def compute_font_size(value: Any, basis: FontBasis) -> Any:
    """Here `basis.font_size` is the parent's, which em and % of a font size refer to."""
    inherited = basis.parent.font_size
    if isinstance(value, str):
        if value in SIZES:
            return MEDIUM * SIZES[value]
        return min(LARGEST_FONT, inherited * STEP if value == "larger" else inherited / STEP)
    computed = compute_length(value, basis)
    return min(LARGEST_FONT, computed if isinstance(computed, float) else computed.resolve(inherited))


def font_family(tokens: Tokens) -> tuple[str, ...] | None:
    """The family names in order; generic names and quoted ones alike, spaces folded."""
    families = []
    for part in split_commas(tokens):
        if len(part) == 1 and part[0].type == "string":
            families.append(str(part[0].value))
        elif part and all(t.type == "ident" for t in part):
            families.append(" ".join(t.value for t in part))
        else:
            return None
    return tuple(families)


def font_weight(tokens: Tokens) -> Any:
    if len(tokens) != 1:
        return None
    if tokens[0].type == "number":
        return int(tokens[0].value) if 1 <= tokens[0].value <= 1000 else None
    word = ident(tokens[0])
    if word in ("bolder", "lighter"):
        return word
    return {"normal": 400, "bold": 700}.get(word)


def compute_font_weight(value: Any, basis: FontBasis) -> int:
    """CSS Fonts 4 §2.2.1, relative weights."""
    if isinstance(value, int):
        return value
    inherited = basis.parent.font_weight
    if value == "bolder":
        if inherited < 350:
            return 400
        return 700 if inherited < 550 else max(900, inherited)
    if inherited < 100:
        return inherited
    if inherited < 550:
        return 100
    return 400 if inherited < 750 else 700


def font_style(tokens: Tokens) -> str | None:
    word = ident(tokens[0]) if tokens else ""
    if word == "oblique" and len(tokens) <= 2:
        return "oblique"
    return word if len(tokens) == 1 and word in ("normal", "italic") else None


def font_stretch(tokens: Tokens) -> float | None:
    if len(tokens) != 1:
        return None
    if tokens[0].type == "percentage":
        return float(tokens[0].value) if tokens[0].value >= 0 else None
    return STRETCHES.get(ident(tokens[0]))


def feature_settings(tokens: Tokens) -> tuple[tuple[str, int], ...] | None:
    """CSS Fonts 4 §6.12: tags of four ASCII characters, each on, off or a number."""
    if len(tokens) == 1 and ident(tokens[0]) == "normal":
        return ()
    features = []
    for part in split_commas(tokens):
        if not part or part[0].type != "string" or len(part[0].value) != 4 or len(part) > 2:
            return None
        value = _feature_value(part[1]) if len(part) == 2 else 1
        if value is None:
            return None
        features.append((str(part[0].value), value))
    return tuple(features)


def _feature_value(token: Token) -> int | None:
    if token.type == "number" and token.is_integer and token.value >= 0:
        return int(token.value)
    return {"on": 1, "off": 0}.get(ident(token))


EITHER_NUMERIC: Final = (
    ("lining-nums", "oldstyle-nums"),
    ("proportional-nums", "tabular-nums"),
    ("diagonal-fractions", "stacked-fractions"),
)
EITHER_LIGATURES: Final = (
    *((name, f"no-{name}") for name in LIGATURE_FEATURES if f"no-{name}" in LIGATURE_FEATURES),
    *(("none", name) for name in LIGATURE_FEATURES if name != "none"),
)


def words_of(allowed: Collection[str], either: Sequence[Collection[str]] = ()) -> Parser:
    """A parser for a set of words in any order, or 'normal' or 'none' alone for no word; of each of `either` only one
    may stand."""

    def parse(tokens: Tokens) -> tuple[str, ...] | None:
        words = [ident(token) for token in tokens]
        if len(words) == 1 and words[0] in ("normal", "none") and words[0] not in allowed:
            return ()
        if not words or len(set(words)) < len(words) or not all(word in allowed for word in words):
            return None
        return (
            None
            if any(len(words_of_one.intersection(words)) > 1 for words_of_one in map(set, either))
            else tuple(words)
        )

    return parse


numeric_features = words_of(NUMERIC_FEATURES, EITHER_NUMERIC)
ligature_features = words_of(LIGATURE_FEATURES, EITHER_LIGATURES)


def font_shorthand(tokens: Tokens) -> dict[str, Any] | None:
    """`font: italic 700 12pt/1.4 family` as longhands (CSS Fonts 4 §3)."""
    tokens = without_space(tokens)
    found: dict[str, Any] = {
        "font_style": "normal",
        "font_weight": 400,
        "font_stretch": 100.0,
        "font_variant_caps": "normal",
        "line_height": "normal",
    }
    index = 0
    while index < len(tokens) and font_size(tokens[index : index + 1]) is None:
        single = tokens[index : index + 1]
        word = ident(tokens[index])
        if word == "normal":
            pass
        elif font_style(single):
            found["font_style"] = font_style(single)
        elif font_weight(single) is not None:
            found["font_weight"] = font_weight(single)
        elif word in STRETCHES:
            found["font_stretch"] = STRETCHES[word]
        elif word == "small-caps":
            found["font_variant_caps"] = word
        else:
            return None
        index += 1
    return _size_and_family(tokens[index:], found)


def _size_and_family(tokens: list[Token], found: dict[str, Any]) -> dict[str, Any] | None:
    from fleetquill.style.property_rows import PROPERTIES

    if len(tokens) < 2:
        return None
    found["font_size"] = font_size(tokens[:1])
    rest = tokens[1:]
    if rest[0].type == "literal" and rest[0].value == "/":
        found["line_height"] = PROPERTIES["line-height"].parse(rest[1:2])
        rest = rest[2:]
    found["font_family"] = font_family(rest)
    return found if found["font_family"] and found["line_height"] is not None else None
