"""Values of generated content, counters, display and page size."""

from __future__ import annotations

from typing import Any, Final, NamedTuple

from fleetquill.style.counter_style import Named, counter_style_name
from fleetquill.style.lengths import FixedBasis, compute_length, length
from fleetquill.style.tokens import Parser, Token, Tokens, ident, split_commas
from fleetquill.style.values import string_or_url
from fleetquill.units import PAPERS

MOST_CELLS: Final = 200  # of a field with one for each letter


class Text(NamedTuple):
    text: str


class Attribute(NamedTuple):
    name: str
    fallback: str


class Counter(NamedTuple):
    name: str
    style: Named


class Counters(NamedTuple):
    name: str
    separator: str
    style: Named


class Quote(NamedTuple):
    opens: bool
    shown: bool


class Picture(NamedTuple):
    url: str


class Leader(NamedTuple):
    """leader(): a pattern repeated until the line is full (CSS GCPM 3 §4)."""

    pattern: str


class Target(NamedTuple):
    """target-counter(), target-counters() and target-text(): what another element says of itself.

    `address` is a fragment identifier, or the attribute that holds it; `part` is 'counter',
    'counters', or of target-text: 'content', 'before', 'after', 'first-letter'.
    """

    address: str | Attribute
    part: str
    name: str = ""
    style: Named = "decimal"
    separator: str = ""


class NamedString(NamedTuple):
    """string(): what string-set last said; `which` is first, start, last or first-except."""

    name: str
    which: str


class RunningElement(NamedTuple):
    """element(): the running element of that name."""

    name: str
    which: str


class ContentOf(NamedTuple):
    """content(): the element's own text, its ::before or ::after, or its first letter."""

    part: str


class Tally(NamedTuple):
    """A sum that follows the rows: its name, which rows it takes, and how it is written.

    `scope` is 'so-far', 'brought', 'page', 'group' or 'all'; `form` is a CLDR pattern, 'money:EUR'
    with a currency, or ''.
    """

    name: str
    scope: str
    form: str


TALLY_SCOPES: Final = frozenset(("so-far", "brought", "page", "group", "all"))

ContentPart = (
    Text | Attribute | Counter | Counters | Quote | Picture | Tally
    | Leader | Target | NamedString | RunningElement | ContentOf
)  # fmt: skip
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
    if token.lower_name == "content":
        part = ident(name) if name is not None else "text"
        return ContentOf(part) if part in ("text", "before", "after", "first-letter", "marker") else None
    if name is None:
        return None
    if token.lower_name == "leader":
        return _leader(name)
    if token.lower_name in ("target-counter", "target-counters", "target-text"):
        return _target(token.lower_name, arguments)
    if name.type != "ident":
        return None
    if token.lower_name in ("string", "element"):
        which = ident(arguments[1][0]) if len(arguments) > 1 and arguments[1] else "first"
        if which not in ("first", "start", "last", "first-except"):
            return None
        return (NamedString if token.lower_name == "string" else RunningElement)(str(name.value), which)
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


LEADERS: Final = {"dotted": ". ", "solid": "_", "space": " "}


def _leader(token: Token) -> Leader | None:
    if token.type == "string":
        return Leader(str(token.value) or " ")
    return Leader(LEADERS[ident(token)]) if ident(token) in LEADERS else None


def _target(function: str, arguments: list[list[Token]]) -> Target | None:
    """target-counter(address, name, style?) and its kin (CSS Content 3 §2.6)."""
    first = arguments[0][0]
    address: str | Attribute | None = string_or_url(first)
    if address is None and first.type == "function" and first.lower_name == "attr":
        names = [t for t in first.arguments if t.type == "ident"]
        address = Attribute(str(names[0].value), "") if names else None
    if address is None:
        return None
    rest = [part[0] if part else None for part in arguments[1:]]
    if function == "target-text":
        part = ident(rest[0]) if rest and rest[0] is not None else "content"
        return Target(address, part) if part in ("content", "before", "after", "first-letter") else None
    if not rest or rest[0] is None or rest[0].type != "ident":
        return None
    name = str(rest[0].value)
    if function == "target-counter":
        return Target(address, "counter", name, _style(arguments, 2))
    separator = str(rest[1].value) if len(rest) > 1 and rest[1] is not None and rest[1].type == "string" else "."
    return Target(address, "counters", name, _style(arguments, 3), separator)


def string_set(tokens: Tokens) -> tuple[tuple[str, Content], ...] | None:
    """string-set: names, each with what it is set to (CSS GCPM 3 §1.1)."""
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return ()
    found: list[tuple[str, Content]] = []
    for part in split_commas(tokens):
        value = content(part[1:]) if len(part) > 1 and part[0].type == "ident" else None
        if value is None:
            return None
        found.append((str(part[0].value), value))
    return tuple(found)


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


def cells(tokens: Tokens) -> int | str | None:
    """-fq-comb: how many letters a field has places for, or 'none'."""
    token = tokens[0] if len(tokens) == 1 else None
    if token is not None and token.type == "number" and token.is_integer and 1 <= token.int_value <= MOST_CELLS:
        return int(token.int_value)
    return "none" if token is not None and ident(token) == "none" else None


def _style(arguments: list[list[Token]], index: int) -> Named:
    found = counter_style_name(arguments[index][0]) if len(arguments) > index and arguments[index] else None
    return "decimal" if found is None else found


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


def list_style_type(tokens: Tokens) -> Named | None:
    """A counter style, a string, or 'none' (CSS Lists 3 §3.4)."""
    return counter_style_name(tokens[0]) if len(tokens) == 1 else None


DISPLAYS: Final = frozenset(
    "none contents block inline inline-block flow-root list-item flex inline-flex grid inline-grid table inline-table "
    "table-row-group table-header-group table-footer-group table-row table-cell table-column "
    "table-column-group table-caption".split()
)
TWO_WORD_DISPLAYS: Final = {
    ("block", "flow"): "block",
    ("block", "flow-root"): "flow-root",
    ("inline", "flow"): "inline",
    ("inline", "flow-root"): "inline-block",
    ("block", "flex"): "flex",
    ("inline", "flex"): "inline-flex",
    ("block", "grid"): "grid",
    ("inline", "grid"): "inline-grid",
    ("block", "table"): "table",
    ("inline", "table"): "inline-table",
    ("block", "list-item"): "list-item",
}


OLD_DISPLAYS: Final = {"-webkit-box": "flow-root", "-webkit-inline-box": "inline-block"}  # for -webkit-line-clamp


def display(tokens: Tokens) -> str | None:
    words = tuple(ident(token) for token in tokens)
    if len(words) == 1:
        return OLD_DISPLAYS.get(words[0], words[0]) if words[0] in DISPLAYS or words[0] in OLD_DISPLAYS else None
    return TWO_WORD_DISPLAYS.get((words[0], words[1])) if len(words) == 2 else None


def page_size(tokens: Tokens) -> Any:
    """CSS Paged Media 3 §7.1: px width and height, or ('auto',), ('portrait',), ('landscape',).

    Of this engine alone: a width and 'auto', a page as tall as what stands on it.
    """
    words = [ident(token) for token in tokens]
    if len(tokens) == 2 and words[1] == "auto" and words[0] not in ("portrait", "landscape"):
        wide = PAPERS[words[0]][0] if words[0] in PAPERS else compute_length(length(tokens[0]), _PAGE_BASIS)
        return (wide, "auto") if isinstance(wide, float) and wide > 0 else None
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


_PAGE_BASIS = FixedBasis()  # font units in a page size refer to the initial font (CSS Paged Media 3 §7.1)
