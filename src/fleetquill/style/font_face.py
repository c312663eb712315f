"""@font-face rules: what they say of a face, before anything is loaded (CSS Fonts 4 §4)."""

from __future__ import annotations

from typing import Final, NamedTuple

from fleetquill.style.font_values import STRETCHES
from fleetquill.style.tokens import Token, Tokens, ident, split_commas, without_space

Range = tuple[float, float]
KNOWN_FORMATS: Final = frozenset(
    "truetype opentype woff woff2 collection truetype-variations opentype-variations woff-variations "
    "woff2-variations".split()
)


class FaceSource(NamedTuple):
    """One entry of `src`: a local name, or the address of a font file."""

    local: str = ""
    url: str = ""


class FontFaceRule(NamedTuple):
    """An @font-face. `weights` and `stretches` are None where the font itself is to say."""

    family: str
    sources: tuple[FaceSource, ...]
    weights: Range | None
    italic: bool
    stretches: Range | None
    ranges: tuple[tuple[int, int], ...]
    line: int


def read_font_face(descriptors: dict[str, list[Token]], line: int) -> FontFaceRule | str:
    """The rule that the descriptors make, or what is wrong with them."""
    family = _family(descriptors.get("font-family", []))
    sources = _sources(descriptors.get("src", []))
    if not family or not sources:
        return "An '@font-face' needs a 'font-family' and a 'src' with a url() or a local()."
    ranges = _unicode_range(descriptors.get("unicode-range", []))
    if ranges is None:
        return "The 'unicode-range' of an '@font-face' is not understood."
    return FontFaceRule(
        family,
        sources,
        _weights(descriptors.get("font-weight", [])),
        _italic(descriptors.get("font-style", [])),
        _stretches(descriptors.get("font-stretch") or descriptors.get("font-width", [])),
        ranges,
        line,
    )


def _family(tokens: list[Token]) -> str:
    if len(tokens) == 1 and tokens[0].type == "string":
        return str(tokens[0].value)
    return " ".join(str(t.value) for t in tokens) if all(t.type == "ident" for t in tokens) else ""


def _sources(tokens: Tokens) -> tuple[FaceSource, ...]:
    """`src`: each entry that this program can read, in order; formats that it cannot are left out."""
    found: list[FaceSource] = []
    for part in split_commas(tokens):
        if not part or any(_format(token) not in KNOWN_FORMATS for token in part[1:] if _is_format(token)):
            continue
        first = part[0]
        if first.type == "url":
            found.append(FaceSource(url=first.value))
        elif first.type == "function":
            inner = without_space(first.arguments)
            text = " ".join(str(getattr(token, "value", "")) for token in inner)
            if first.lower_name == "local" and text:
                found.append(FaceSource(local=text))
            elif first.lower_name == "url" and text:
                found.append(FaceSource(url=text))
    return tuple(found)


def _is_format(token: Token) -> bool:
    return bool(token.type == "function" and token.lower_name == "format")


def _format(token: Token) -> str:
    inner = without_space(token.arguments)
    return str(getattr(inner[0], "value", "")).lower() if inner else ""


def _weights(tokens: list[Token]) -> Range | None:
    found = []
    for token in tokens:
        word = {"normal": 400.0, "bold": 700.0}.get(ident(token))
        value = float(token.value) if token.type == "number" else word
        if value is None:
            return None
        found.append(value)
    return (min(found), max(found)) if found else None


def _italic(tokens: list[Token]) -> bool:
    word = ident(tokens[0]) if tokens else ""
    return bool(word) and word not in ("normal", "auto")


def _stretches(tokens: list[Token]) -> Range | None:
    found = []
    for token in tokens:
        value = float(token.value) if token.type == "percentage" else STRETCHES.get(ident(token))
        if value is None:
            return None
        found.append(value)
    return (min(found), max(found)) if found else None


def _unicode_range(tokens: list[Token]) -> tuple[tuple[int, int], ...] | None:
    """U+26, U+0-7F, U+4?? (CSS Syntax 3 §7)."""
    found: list[tuple[int, int]] = []
    for part in split_commas(tokens) if tokens else ():
        ranges = [token for token in part if token.type == "unicode-range"]
        if len(ranges) != 1 or len(part) != 1:
            return None
        found.append((ranges[0].start, ranges[0].end))
    return tuple(found)
