"""Media queries as far as paper can answer them (Media Queries 4)."""

from __future__ import annotations

from typing import NamedTuple

from fleetquill.style.tokens import Tokens, ident, split_commas
from fleetquill.style.values import compute_length, length


class Feature(NamedTuple):
    name: str  # 'width', 'min-width', 'orientation', …
    value: float | str


class Query(NamedTuple):
    negated: bool
    medium: str
    features: tuple[Feature, ...]
    understood: bool


MediaQueries = tuple[Query, ...]


class Medium(NamedTuple):
    """The page that queries are asked of: its content area in px."""

    width: float
    height: float


def parse_media(tokens: Tokens) -> MediaQueries:
    return tuple(_query(part) for part in split_commas(tokens))


def _query(tokens: Tokens) -> Query:
    negated, medium, features, understood = False, "all", [], True
    for token in tokens:
        word = ident(token)
        if word == "not":
            negated = True
        elif word in ("and", "only"):
            continue
        elif word:
            medium = word
        elif token.type == "() block":
            feature = _feature(token.content)
            understood = understood and feature is not None
            if feature:
                features.append(feature)
        else:
            understood = False
    return Query(negated, medium, tuple(features), understood)


def _feature(content: Tokens) -> Feature | None:
    tokens = [t for t in content if t.type not in ("whitespace", "comment")]
    if len(tokens) == 1 and ident(tokens[0]):
        return Feature(ident(tokens[0]), "")
    if len(tokens) != 3 or not ident(tokens[0]) or tokens[1].value != ":":
        return None
    word = ident(tokens[2])
    if word:
        return Feature(ident(tokens[0]), word)
    size = compute_length(length(tokens[2]), INITIAL_FONT)
    return Feature(ident(tokens[0]), size) if isinstance(size, float) else None


class _InitialFont:
    """Font units in a query refer to the initial font (Media Queries 4 §1.3)."""

    font_size = 16.0
    root_font_size = 16.0
    viewport_width = 0.0
    viewport_height = 0.0


INITIAL_FONT = _InitialFont()


def applies(conditions: tuple[MediaQueries, ...], medium: Medium) -> bool:
    """Whether every list of queries around a rule has one that holds."""
    return all(not queries or any(_holds(q, medium) for q in queries) for queries in conditions)


def _holds(query: Query, medium: Medium) -> bool:
    if not query.understood:
        return False
    holds = query.medium in ("all", "print") and all(_has(f, medium) for f in query.features)
    return holds != query.negated


def _has(feature: Feature, medium: Medium) -> bool:
    name, value = feature
    if name == "orientation":
        return value == ("portrait" if medium.height >= medium.width else "landscape")
    side = medium.width if name.endswith("width") else medium.height if name.endswith("height") else None
    if side is None:
        return name == "color" or (name == "color-gamut" and value == "srgb")
    if not isinstance(value, float):
        return True
    if name.startswith("min-"):
        return side >= value
    return side <= value if name.startswith("max-") else abs(side - value) < 0.01
