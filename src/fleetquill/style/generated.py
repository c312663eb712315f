"""Values of generated content, counters, display and page size."""

from __future__ import annotations

from typing import Any, Final, NamedTuple

from fleetquill.style.tokens import Parser, Token, Tokens, ident, split_commas
from fleetquill.style.values import compute_length, length, string_or_url
from fleetquill.units import PAPERS


class Text(NamedTuple):
    text: str


class Attribute(NamedTuple):
    name: str
    fallback: str


class Counter(NamedTuple):
    name: str
    style: str


class Counters(NamedTuple):
    name: str
    separator: str
    style: str


class Quote(NamedTuple):
    opens: bool
    shown: bool


class Picture(NamedTuple):
    url: str


class Tally(NamedTuple):
    """A sum that follows the rows: its name, which rows it takes, and how it is written.

    `scope` is 'so-far', 'brought', 'page', 'group' or 'all'; `form` is a CLDR pattern, 'money:EUR'
    with a currency, or ''.
    """

    name: str
    scope: str
    form: str


TALLY_SCOPES: Final = frozenset(("so-far", "brought", "page", "group", "all"))

ContentPart = Text | Attribute | Counter | Counters | Quote | Picture | Tally
Content = tuple[ContentPart, ...] | str  # or 'normal', 'none'

QUOTE_WORDS: Final = {
    "open-quote": Quote(True, True),
    "close-quote": Quote(False, True),
    "no-open-quote": Quote(True, False),
    "no-close-quote": Quote(False, False),
}


def content(tokens: Tokens) -> Content | None:
    """CSS Content 3 §2: a list of strings, pictures, attributes, counters and quotes."""
    if len(tokens) == 1 and ident(tokens[0]) in ("normal", "none"):
        return ident(tokens[0])
    parts: list[ContentPart] = []
    for token in tokens:
        if token.type == "literal" and token.value == "/":
            break  # what follows is the alternative text
        part = _content_part(token)
        if part is None:
            return None
        parts.append(part)
    return tuple(parts) or None


def _content_part(token: Token) -> ContentPart | None:
    if token.type == "string":
        return Text(token.value)
    if token.type == "ident":
        return QUOTE_WORDS.get(token.lower_value)
    url = string_or_url(token)
    if url is not None:
        return Picture(url)
    if token.type != "function":
        return None
    arguments = split_commas(token.arguments)
    name = arguments[0][0] if arguments and arguments[0] else None
    if name is None or name.type != "ident":
        return None
    if token.lower_name == "-fq-tally":
        return _tally(name.value, arguments)
    if token.lower_name == "attr":
        fallback = arguments[1][0].value if len(arguments) > 1 and arguments[1] else ""
        return Attribute(name.value, str(fallback))
    if token.lower_name == "counter":
        return Counter(name.value, _style(arguments, 1))
    if token.lower_name == "counters" and len(arguments) > 1 and arguments[1][0].type == "string":
        return Counters(name.value, arguments[1][0].value, _style(arguments, 2))
    return None


def _tally(name: str, arguments: list[list[Token]]) -> Tally | None:
    """-fq-tally(name), -fq-tally(name, scope), -fq-tally(name, scope, "form")."""
    scope = ident(arguments[1][0]) if len(arguments) > 1 and arguments[1] else "so-far"
    form = (
        str(arguments[2][0].value) if len(arguments) > 2 and arguments[2] and arguments[2][0].type == "string" else ""
    )
    return Tally(name, scope, form) if scope in TALLY_SCOPES else None


def tally_name(tokens: Tokens) -> str | None:
    """-fq-tally: the name of the tally that a cell adds its value to, or 'none'."""
    return str(tokens[0].value) if len(tokens) == 1 and tokens[0].type == "ident" else None


def _style(arguments: list[list[Token]], index: int) -> str:
    return ident(arguments[index][0]) if len(arguments) > index and arguments[index] else "decimal"


def counters(initial: int) -> Parser:
    """counter-reset, -set and -increment: names, each with a number (CSS Lists 3 §4)."""

    def parse(tokens: Tokens) -> tuple[tuple[str, int], ...] | None:
        if len(tokens) == 1 and ident(tokens[0]) == "none":
            return ()
        found: list[tuple[str, int]] = []
        for token in tokens:
            if token.type == "ident":
                found.append((token.value, initial))
            elif token.type == "number" and token.is_integer and found:
                found[-1] = (found[-1][0], token.int_value)
            else:
                return None
        return tuple(found) or None

    return parse


def quotes(tokens: Tokens) -> tuple[str, ...] | str | None:
    if len(tokens) == 1 and ident(tokens[0]) in ("auto", "none"):
        return ident(tokens[0])
    if len(tokens) % 2 or not tokens or any(t.type != "string" for t in tokens):
        return None
    return tuple(t.value for t in tokens)


LIST_STYLES: Final = frozenset(
    "none disc circle square decimal decimal-leading-zero lower-roman upper-roman lower-alpha upper- "
    "alpha lower-latin upper-latin lower-greek".split()
)


def list_style_type(tokens: Tokens) -> str | None:
    """A known counter style, or a string (kept with a leading quote mark)."""
    if len(tokens) != 1:
        return None
    if tokens[0].type == "string":
        return f'"{tokens[0].value}'
    return ident(tokens[0]) if ident(tokens[0]) in LIST_STYLES else None


DISPLAYS: Final = frozenset(
    "none contents block inline inline-block flow-root list-item flex inline-flex table inline-table "
    "table-row-group table-header-group table-footer-group table-row table-cell table-column table- "
    "column-group table-caption".split()
)
TWO_WORD_DISPLAYS: Final = {
    ("block", "flow"): "block",
    ("block", "flow-root"): "flow-root",
    ("inline", "flow"): "inline",
    ("inline", "flow-root"): "inline-block",
    ("block", "flex"): "flex",
    ("inline", "flex"): "inline-flex",
    ("block", "table"): "table",
    ("inline", "table"): "inline-table",
    ("block", "list-item"): "list-item",
}


def display(tokens: Tokens) -> str | None:
    words = tuple(ident(token) for token in tokens)
    if len(words) == 1:
        return words[0] if words[0] in DISPLAYS else None
    return TWO_WORD_DISPLAYS.get((words[0], words[1])) if len(words) == 2 else None


def page_size(tokens: Tokens) -> Any:
    """CSS Paged Media 3 §7.1: px width and height, or ('auto',), ('portrait',), ('landscape',)."""
    words = [ident(token) for token in tokens]
    turns = [word for word in words if word in ("portrait", "landscape")]
    papers = [word for word in words if word in PAPERS]
    if len(tokens) == 1 and words[0] in ("auto", "portrait", "landscape"):
        return (words[0],)
    if papers and len(papers) + len(turns) == len(tokens) <= 2:
        wide, high = PAPERS[papers[0]]
        return (high, wide) if turns == ["landscape"] else (wide, high)
    sizes = [compute_length(length(token), _PAGE_BASIS) for token in tokens]
    if len(sizes) in (1, 2) and all(isinstance(s, float) and s > 0 for s in sizes):
        return (sizes[0], sizes[-1])
    return None


class _PageBasis:
    """Font units in a page size refer to the initial font (CSS Paged Media 3 §7.1)."""

    font_size = 16.0
    root_font_size = 16.0
    viewport_width = 0.0
    viewport_height = 0.0


_PAGE_BASIS = _PageBasis()
