"""Values of text properties that are more than a keyword or a length."""

from __future__ import annotations

from typing import Any, Final, NamedTuple

from fleetquill.style.lengths import Factor, LengthBasis, below, compute_length, integer, length, number
from fleetquill.style.tokens import Tokens, ident, split_commas
from fleetquill.style.values import Rgba, color_value, compute_color, together

COLLAPSING: Final = frozenset(("normal", "nowrap", "pre-line"))  # values of white-space, CSS Text 3 §3
ALIGNED_BLOCKS: Final = ("-fq-left", "-fq-right", "-fq-center")  # align what blocks stand in them, too
ALIGNMENTS: Final = frozenset(
    ("start", "end", "left", "right", "center", "justify", "match-parent", "-fq-head", *ALIGNED_BLOCKS)
)


class Shadow(NamedTuple):
    """A text shadow (CSS Text Decoration 3 §4). `color` None: the text's own."""

    x: float
    y: float
    blur: float  # px, two deviations
    color: Rgba | None


def shadows(tokens: Tokens) -> Any:
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return ()
    found = []
    for part in split_commas(tokens):
        lengths = together([length(token) for token in part])
        colors = [color_value(token) for token in part if length(token) is None]
        if len(lengths) not in (2, 3) or len(colors) > 1 or None in colors or any(below(x, 0.0) for x in lengths[2:]):
            return None
        found.append((*lengths, *([0.0] * (3 - len(lengths))), colors[0] if colors else "currentcolor"))
    return tuple(found)


def compute_shadows(value: Any, basis: LengthBasis) -> tuple[Shadow, ...]:
    return tuple(
        Shadow(
            compute_length(x, basis), compute_length(y, basis), compute_length(blur, basis), compute_color(color, basis)
        )
        for x, y, blur, color in value
    )


def text_align(tokens: Tokens) -> str | None:
    """A keyword, or a string of one character to align on (CSS Text 4 §7.1), kept with a quote mark."""
    if len(tokens) != 1:
        return None
    if tokens[0].type == "string":
        return f'"{tokens[0].value}' if len(tokens[0].value) == 1 else None
    return ident(tokens[0]) if ident(tokens[0]) in ALIGNMENTS else None


def one_string(tokens: Tokens) -> str | None:
    return str(tokens[0].value) if len(tokens) == 1 and tokens[0].type == "string" else None


def initial_letter(tokens: Tokens) -> Any:
    """How many lines high a letter is, and how many it sinks (CSS Inline 3 §7.1); 'normal' is the word for neither."""
    if len(tokens) == 1 and ident(tokens[0]) == "normal":
        return (0.0, 0)
    lines = number(tokens[0]) if tokens else None
    sink = integer(tokens[1]) if len(tokens) == 2 else None
    if lines is None or lines < 1 or len(tokens) > 2 or (len(tokens) == 2 and (sink is None or sink < 1)):
        return None
    return (lines, sink if sink is not None else int(lines))


def tab_size(tokens: Tokens) -> Any:
    """A number of spaces, or a length (CSS Text 3 §4.2)."""
    if len(tokens) == 1 and tokens[0].type == "number":
        return Factor(float(tokens[0].value)) if tokens[0].value >= 0 else None
    return length(tokens[0]) if len(tokens) == 1 else None


def hyphenate_limit_chars(tokens: Tokens) -> tuple[int, int, int] | None:
    """Least characters of a word, before its hyphen and after it (CSS Text 4 §6.3.1)."""
    initial = (5, 2, 2)
    if not 1 <= len(tokens) <= 3:
        return None
    found = [initial[i] if ident(token) == "auto" else integer(token) for i, token in enumerate(tokens)]
    if any(value is None or value < 0 for value in found):
        return None
    numbers = [value for value in found if value is not None]
    word = numbers[0]
    before = numbers[1] if len(numbers) > 1 else initial[1]
    return word, before, numbers[2] if len(numbers) > 2 else before


def hyphenate_character(tokens: Tokens) -> str | None:
    """A string, or 'auto'."""
    if len(tokens) != 1:
        return None
    if tokens[0].type == "string":
        return str(tokens[0].value)
    return "auto" if ident(tokens[0]) == "auto" else None
