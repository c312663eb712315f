"""Style sheets: tinycss2 tokens into rules with longhand values, parsed once and kept by content."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Final, NamedTuple

import tinycss2

from fleetquill.errors import nearest
from fleetquill.style.font_face import FontFaceRule, read_font_face
from fleetquill.style.media import MediaQueries, parse_media
from fleetquill.style.page_selectors import MARGIN_BOXES, PageSelector, parse_page_selectors
from fleetquill.style.properties import PROPERTIES
from fleetquill.style.selectors import Selector, SelectorError, parse_selectors
from fleetquill.style.shorthands import SHORTHANDS, expand, fields_of
from fleetquill.style.tokens import Token, Tokens, holds_variable, ident, without_space
from fleetquill.style.values import string_or_url

CSS_WIDE: Final = frozenset({"inherit", "initial", "unset", "revert", "revert-layer"})

SCREEN_ONLY: Final = frozenset(  # properties that mean nothing on paper, passed over without a remark
    [
        "cursor",
        "transition",
        "transition-property",
        "transition-duration",
        "transition-delay",
        "animation",
        "pointer-events",
        "user-select",
        "scroll-behavior",
        "caret-color",
        "resize",
        "outline-offset",
        "touch-action",
        "will-change",
        "appearance",
        "accent-color",
        "overscroll-behavior",
        "-webkit-print-color-adjust",
        "print-color-adjust",
        "color-scheme",
        "-webkit-font-smoothing",
        "text-rendering",
        "text-size-adjust",
        "-webkit-text-size-adjust",
    ]
)


class Wide(NamedTuple):
    """A CSS-wide keyword as a specified value (CSS Cascade 5 §7.3)."""

    keyword: str


class Pending(NamedTuple):
    """A declaration with var() in it, to be parsed when the variables are known."""

    name: str
    tokens: tuple[Token, ...]


class Fault(NamedTuple):
    """Something in a sheet that was not understood, and where: line and column from 1."""

    message: str
    line: int
    column: int


@dataclass(slots=True)
class Declarations:
    """The declarations of one block: longhand field → specified value, in two ranks."""

    normal: dict[str, Any] = field(default_factory=dict)
    important: dict[str, Any] = field(default_factory=dict)


@dataclass(eq=False, slots=True)
class Rule:
    selectors: tuple[Selector, ...]
    declarations: Declarations
    media: tuple[MediaQueries, ...]


@dataclass(eq=False, slots=True)
class PageRule:
    """@page, with the declarations of its margin boxes by name."""

    selector: PageSelector
    declarations: Declarations
    boxes: dict[str, Declarations]
    media: tuple[MediaQueries, ...]


@dataclass(eq=False, slots=True)
class Sheet:
    """A parsed style sheet. `source` is what remarks call it."""

    source: str = ""
    rules: list[Rule] = field(default_factory=list)
    pages: list[PageRule] = field(default_factory=list)
    font_faces: list[FontFaceRule] = field(default_factory=list)
    imports: list[Import] = field(default_factory=list)
    faults: list[Fault] = field(default_factory=list)


class Import(NamedTuple):
    """@import: what to load, under which conditions, and where it stands."""

    url: str
    media: tuple[MediaQueries, ...]
    line: int


def parse_sheet(css: str, source: str = "") -> Sheet:
    """Parses a whole style sheet; what is not understood becomes a Fault, never an exception."""
    sheet = Sheet(source)
    nodes = tinycss2.parse_stylesheet(css, skip_comments=True, skip_whitespace=True)
    _read_rules(nodes, sheet, ())
    return sheet


def parse_style_attribute(css: str, faults: list[Fault]) -> Declarations:
    """The declarations of a style="" attribute."""
    nodes = tinycss2.parse_blocks_contents(css, skip_comments=True, skip_whitespace=True)
    return read_declarations([n for n in nodes if n.type in ("declaration", "error")], faults)


def _read_rules(nodes: Tokens, sheet: Sheet, media: tuple[MediaQueries, ...]) -> None:
    for node in nodes:
        if node.type == "qualified-rule":
            _read_style_rule(node, sheet, media)
        elif node.type == "at-rule":
            reader = AT_RULES.get(node.lower_at_keyword)
            if reader is None:
                sheet.faults.append(_fault(node, f"The rule '@{node.at_keyword}' is not known."))
            else:
                reader(node, sheet, media)
        elif node.type == "error":
            sheet.faults.append(_fault(node, f"The style sheet does not parse here: {node.message}."))


def _read_style_rule(node: Token, sheet: Sheet, media: tuple[MediaQueries, ...]) -> None:
    try:
        selectors = parse_selectors(node.prelude)
    except SelectorError as error:
        text = tinycss2.serialize(node.prelude).strip()
        sheet.faults.append(_fault(node, f"The selector '{text}' is not understood: {error}."))
        return
    contents = tinycss2.parse_blocks_contents(node.content, skip_comments=True, skip_whitespace=True)
    declarations = read_declarations(contents, sheet.faults)
    if declarations.normal or declarations.important:
        sheet.rules.append(Rule(tuple(selectors), declarations, media))


def _read_media(node: Token, sheet: Sheet, media: tuple[MediaQueries, ...]) -> None:
    if node.content is None:
        return
    queries = parse_media(node.prelude)
    nodes = tinycss2.parse_rule_list(node.content, skip_comments=True, skip_whitespace=True)
    _read_rules(nodes, sheet, (*media, queries))


def _read_import(node: Token, sheet: Sheet, media: tuple[MediaQueries, ...]) -> None:
    tokens = without_space(node.prelude)
    url = string_or_url(tokens[0]) if tokens else None
    if url is None:
        sheet.faults.append(_fault(node, "An '@import' needs the address of a style sheet."))
        return
    conditions = (*media, parse_media(tokens[1:])) if len(tokens) > 1 else media
    sheet.imports.append(Import(url, conditions, node.source_line))


def _read_page(node: Token, sheet: Sheet, media: tuple[MediaQueries, ...]) -> None:
    """@page with its margin boxes (CSS Paged Media 3 §4)."""
    selectors = parse_page_selectors(node.prelude)
    if selectors is None or node.content is None:
        text = tinycss2.serialize(node.prelude).strip()
        sheet.faults.append(_fault(node, f"The page selector '{text}' is not understood."))
        return
    contents = tinycss2.parse_blocks_contents(node.content, skip_comments=True, skip_whitespace=True)
    declarations = read_declarations([n for n in contents if n.type != "at-rule"], sheet.faults)
    boxes: dict[str, Declarations] = {}
    for inner in contents:
        if inner.type != "at-rule":
            continue
        if inner.lower_at_keyword not in MARGIN_BOXES:
            meant = nearest(inner.lower_at_keyword, MARGIN_BOXES)
            sheet.faults.append(
                _fault(inner, f"The page has no margin box '@{inner.at_keyword}'.{_did_you_mean(meant)}")
            )
            continue
        parsed = tinycss2.parse_blocks_contents(inner.content or [], skip_comments=True, skip_whitespace=True)
        boxes[inner.lower_at_keyword] = read_declarations(parsed, sheet.faults)
    sheet.pages += [PageRule(selector, declarations, boxes, media) for selector in selectors]


def _read_font_face(node: Token, sheet: Sheet, _media: tuple[MediaQueries, ...]) -> None:
    contents = tinycss2.parse_blocks_contents(node.content or [], skip_comments=True, skip_whitespace=True)
    descriptors = {n.lower_name: without_space(n.value) for n in contents if n.type == "declaration"}
    face = read_font_face(descriptors, node.source_line)
    if isinstance(face, str):
        sheet.faults.append(_fault(node, face))
    else:
        sheet.font_faces.append(face)


def _pass_over(_node: Token, _sheet: Sheet, _media: tuple[MediaQueries, ...]) -> None:
    """@charset and rules for the screen alone."""


AT_RULES: Final[dict[str, Callable[[Token, Sheet, tuple[MediaQueries, ...]], None]]] = {
    "media": _read_media,
    "import": _read_import,
    "page": _read_page,
    "font-face": _read_font_face,
    "charset": _pass_over,
    "keyframes": _pass_over,
    "-webkit-keyframes": _pass_over,
}


def read_declarations(nodes: Tokens, faults: list[Fault]) -> Declarations:
    """Declarations as longhands, later ones over earlier ones of the same rank."""
    found = Declarations()
    for node in nodes:
        if node.type == "declaration":
            values = declared(node)
            if values is None:
                faults.append(_unknown(node))
            else:
                (found.important if node.important else found.normal).update(values)
        elif node.type == "error":
            faults.append(_fault(node, f"A declaration does not parse here: {node.message}."))
        elif node.type in ("at-rule", "qualified-rule"):
            faults.append(_fault(node, "A rule inside this block is not understood."))
    return found


def declared(node: Token) -> dict[str, Any] | None:
    """What one declaration sets, by field; None where it is not understood."""
    if node.name.startswith("--"):
        return {node.name: tuple(_strip_space(node.value))}
    name = node.lower_name
    if name in SCREEN_ONLY:
        return {}
    fields = fields_of(name)
    if not fields:
        return None
    tokens = without_space(node.value)
    if len(tokens) == 1 and ident(tokens[0]) in CSS_WIDE:
        return dict.fromkeys(fields, Wide(ident(tokens[0])))
    if holds_variable(node.value):
        return dict.fromkeys(fields, Pending(name, tuple(node.value)))
    return expand(name, tokens)


def _strip_space(tokens: Tokens) -> list[Token]:
    tokens = list(tokens)
    while tokens and tokens[0].type == "whitespace":
        tokens = tokens[1:]
    while tokens and tokens[-1].type == "whitespace":
        tokens = tokens[:-1]
    return tokens


def _unknown(node: Token) -> Fault:
    name = node.lower_name
    if fields_of(name):
        value = tinycss2.serialize(node.value).strip()
        return _fault(node, f"The value '{value}' is not understood for the property '{name}'.")
    meant = nearest(name, [*PROPERTIES, *SHORTHANDS])
    return _fault(node, f"The property '{name}' is not known.{_did_you_mean(meant)}")


def _did_you_mean(name: str) -> str:
    return f" Did you mean '{name}'?" if name else ""


def _fault(node: Token, message: str) -> Fault:
    return Fault(message, node.source_line, node.source_column)
