"""Style sheets: tinycss2 tokens into rules with longhand values, parsed once and kept by content."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any, Final, NamedTuple
from urllib.parse import urljoin

import tinycss2

from fleetquill.deadline import heed
from fleetquill.errors import nearest
from fleetquill.style.counter_style import CounterStyle, read_counter_style
from fleetquill.style.font_face import FontFaceRule, read_font_face
from fleetquill.style.media import MediaQueries, parse_media
from fleetquill.style.other_properties import NOT_CARRIED_OUT, SCREEN_ONLY, WITHOUT_EFFECT
from fleetquill.style.page_selectors import MARGIN_BOXES, PageSelector, parse_page_selectors
from fleetquill.style.properties import PROPERTIES
from fleetquill.style.selectors import Selector, SelectorError, parse_selectors
from fleetquill.style.shorthands import SHORTHANDS, expand, fields_of
from fleetquill.style.tokens import Token, Tokens, holds_variable, ident, split_commas, tamed, without_space
from fleetquill.style.values import string_or_url

PAGE_AREAS: Final = (*MARGIN_BOXES, "footnote")
CSS_WIDE: Final = frozenset({"inherit", "initial", "unset", "revert", "revert-layer"})


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


class Declarations:
    """The declarations of one block: longhand field → specified value, in two ranks."""

    __slots__ = ("important", "normal")

    def __init__(self) -> None:
        self.normal: dict[str, Any] = {}
        self.important: dict[str, Any] = {}


class Scope(NamedTuple):
    """What stands around a rule: media queries, its cascade layer, the selectors that it is nested in."""

    media: tuple[MediaQueries, ...] = ()
    layer: str = ""  # 'outer.inner'; '' for none
    parents: tuple[Token, ...] = ()


class Rule:
    """A style rule. `place` is the line and column from 1 of the block in its sheet."""

    __slots__ = ("declarations", "layer", "media", "place", "selectors")

    def __init__(
        self,
        selectors: tuple[Selector, ...],
        declarations: Declarations,
        media: tuple[MediaQueries, ...],
        layer: str = "",
        place: tuple[int, int] = (0, 0),
    ) -> None:
        self.selectors = selectors
        self.declarations = declarations
        self.media = media
        self.layer = layer
        self.place = place


class PageRule:
    """@page, with the declarations of its margin boxes by name."""

    __slots__ = ("boxes", "declarations", "media", "selector")

    def __init__(
        self,
        selector: PageSelector,
        declarations: Declarations,
        boxes: dict[str, Declarations],
        media: tuple[MediaQueries, ...],
    ) -> None:
        self.selector = selector
        self.declarations = declarations
        self.boxes = boxes
        self.media = media


class Registered(NamedTuple):
    """@property: a custom property with its initial value, and whether it inherits (CSS Properties and Values 1 §2)."""

    name: str
    inherits: bool
    initial: tuple[Token, ...] | None
    media: tuple[MediaQueries, ...]


class Sheet:
    """A parsed style sheet. `source` is what remarks call it, `text` what it was parsed from."""

    __slots__ = (
        "counter_styles",
        "faults",
        "font_faces",
        "imports",
        "layers",
        "pages",
        "registered",
        "rules",
        "source",
        "text",
    )

    def __init__(self, source: str = "", text: str = "") -> None:
        self.source = source
        self.text = text
        self.rules: list[Rule] = []
        self.pages: list[PageRule] = []
        self.font_faces: list[FontFaceRule] = []
        self.counter_styles: list[tuple[str, CounterStyle, tuple[MediaQueries, ...]]] = []
        self.registered: list[Registered] = []
        self.imports: list[Import] = []
        self.faults: list[Fault] = []
        self.layers: list[str] = []  # names in the order in which they are first said

    def within(self, scope: Scope) -> Sheet:
        """The sheet as it is where an @import sets conditions for it."""
        if not scope.media and not scope.layer:
            return self
        sheet = Sheet(self.source, self.text)
        sheet.rules = [
            Rule(r.selectors, r.declarations, (*scope.media, *r.media), _layer_name(scope.layer, r.layer), r.place)
            for r in self.rules
        ]
        sheet.pages = [PageRule(p.selector, p.declarations, p.boxes, (*scope.media, *p.media)) for p in self.pages]
        sheet.layers = [scope.layer] * bool(scope.layer) + [_layer_name(scope.layer, name) for name in self.layers]
        sheet.counter_styles = [(name, style, (*scope.media, *media)) for name, style, media in self.counter_styles]
        sheet.registered = [rule._replace(media=(*scope.media, *rule.media)) for rule in self.registered]
        sheet.font_faces, sheet.imports, sheet.faults = self.font_faces, self.imports, self.faults
        return sheet


class Import(NamedTuple):
    """@import: what to load, under which conditions, and where it stands."""

    url: str
    scope: Scope
    line: int


def parse_sheet(css: str, source: str = "", folder: str = "") -> Sheet:
    """Parses a whole style sheet; what is not understood becomes a Fault, never an exception.

    `folder` is what addresses in it are relative to, where that is not the document's own folder.
    """
    sheet = Sheet(source, css)
    nodes = tinycss2.parse_stylesheet(tamed(css), skip_comments=True, skip_whitespace=True)
    if folder:
        _rebase(nodes, folder.rstrip("/"))
    _read_rules(nodes, sheet, Scope())
    return sheet


def _rebase(nodes: Tokens, folder: str) -> None:
    """Puts the folder of the sheet before relative addresses (CSS Values 4 §4.5)."""
    for node in nodes:
        if node.type == "at-rule" and node.lower_at_keyword in ("import", "font-face"):
            continue  # their addresses are read with the folder at hand
        if node.type == "url":
            node.value = _based(node.value, folder)
        elif node.type == "function" and node.lower_name == "url":
            for token in node.arguments:
                if token.type == "string":
                    token.value = _based(token.value, folder)
        for part in ("prelude", "content", "arguments", "value"):
            inner = getattr(node, part, None)
            if isinstance(inner, list):
                _rebase(inner, folder)


def _based(url: str, folder: str) -> str:
    if ABSOLUTE.match(url) and not (url.startswith("/") and "://" in folder):
        return url
    return urljoin(f"{folder}/", url) if "://" in folder else f"{folder}/{url}"


ABSOLUTE: Final = re.compile(r"[/#]|[A-Za-z][A-Za-z0-9+.-]*:")


def parse_style_attribute(css: str, faults: list[Fault]) -> Declarations:
    """The declarations of a style="" attribute."""
    nodes = tinycss2.parse_blocks_contents(tamed(css), skip_comments=True, skip_whitespace=True)
    return read_declarations([n for n in nodes if n.type in ("declaration", "error")], faults)


def _read_rules(nodes: Tokens, sheet: Sheet, scope: Scope) -> None:
    for node in nodes:
        heed()
        if node.type == "qualified-rule":
            _read_style_rule(node, sheet, scope)
        elif node.type == "at-rule":
            reader = AT_RULES.get(node.lower_at_keyword)
            if reader is None:
                sheet.faults.append(_fault(node, f"The rule '@{node.at_keyword}' is not known."))
            else:
                reader(node, sheet, scope)
        elif node.type == "error":
            sheet.faults.append(_fault(node, f"The style sheet does not parse here: {node.message}."))


def _read_style_rule(node: Token, sheet: Sheet, scope: Scope) -> None:
    prelude = _nested(node.prelude, scope.parents) if scope.parents else node.prelude
    contents = tinycss2.parse_blocks_contents(node.content, skip_comments=True, skip_whitespace=True)
    _read_block(prelude, contents, node, sheet, scope)


def _read_block(prelude: Tokens, contents: Tokens, node: Token, sheet: Sheet, scope: Scope) -> None:
    """The declarations of a style rule, then the rules nested in it (CSS Nesting 1)."""
    try:
        selectors = parse_selectors(prelude)
    except SelectorError as error:
        text = tinycss2.serialize(node.prelude).strip()
        if PREFIX.search(text):
            sheet.faults.append(_fault(node, PREFIXED))
            return
        sheet.faults.append(_fault(node, f"The selector '{text}' is not understood: {error}."))
        return
    nested = [n for n in contents if n.type == "qualified-rule" or (n.type == "at-rule" and n.content is not None)]
    declarations = read_declarations([n for n in contents if n not in nested], sheet.faults)
    if declarations.normal or declarations.important:
        place = node.source_line, node.source_column
        sheet.rules.append(Rule(tuple(selectors), declarations, scope.media, scope.layer, place))
    _read_rules(nested, sheet, scope._replace(parents=tuple(prelude)))


def _nested(prelude: Tokens, parents: Tokens) -> list[Token]:
    """A nested selector with its parents in it: where '&' stands, or before it (CSS Nesting 1 §3.1)."""
    result: list[Token] = []
    for part in _split_keeping_space(prelude):
        place = part[0] if part else None
        line, column = (place.source_line, place.source_column) if place is not None else (1, 1)
        around = [
            tinycss2.ast.LiteralToken(line, column, ":"),
            tinycss2.ast.FunctionBlock(line, column, "is", list(parents)),
        ]
        space = tinycss2.ast.WhitespaceToken(line, column, " ")
        if result:
            result.append(tinycss2.ast.LiteralToken(line, column, ","))
        if any(_is_parent(token) for token in part):
            for token in part:
                result += around if _is_parent(token) else [token]
        else:
            result += [*around, space, *part]
    return result


def _is_parent(token: Token) -> bool:
    return bool(token.type == "literal" and token.value == "&")


def _split_keeping_space(tokens: Tokens) -> list[list[Token]]:
    parts: list[list[Token]] = [[]]
    for token in tokens:
        if token.type == "literal" and token.value == ",":
            parts.append([])
        else:
            parts[-1].append(token)
    return parts


def _read_inner(node: Token, sheet: Sheet, scope: Scope) -> None:
    """What stands in a conditional rule: rules, or the declarations of the rule around it."""
    if scope.parents:
        contents = tinycss2.parse_blocks_contents(node.content, skip_comments=True, skip_whitespace=True)
        _read_block(scope.parents, contents, node, sheet, scope)
    else:
        nodes = tinycss2.parse_rule_list(node.content, skip_comments=True, skip_whitespace=True)
        _read_rules(nodes, sheet, scope)


def _read_media(node: Token, sheet: Sheet, scope: Scope) -> None:
    if node.content is not None:
        _read_inner(node, sheet, scope._replace(media=(*scope.media, parse_media(node.prelude))))


def _read_supports(node: Token, sheet: Sheet, scope: Scope) -> None:
    """@supports: the rules are read where the condition holds (CSS Conditional 3 §6)."""
    if node.content is not None and _supported(without_space(node.prelude)):
        _read_inner(node, sheet, scope)


def _supported(tokens: list[Token]) -> bool:
    if tokens and ident(tokens[0]) == "not":
        return len(tokens) > 1 and not _supported(tokens[1:])
    joints = {ident(token) for token in tokens[1::2]}
    if len(joints) > 1 or len(tokens) % 2 == 0:
        return False
    answers = [_condition_holds(token) for token in tokens[::2]]
    return any(answers) if joints == {"or"} else all(answers)


def _condition_holds(token: Token) -> bool:
    if token.type == "function" and token.lower_name == "selector":
        try:
            return bool(parse_selectors(token.arguments))
        except SelectorError:
            return False
    if token.type != "() block":
        return False
    return _supported_inside(token.content)


def _supported_inside(tokens: Tokens) -> bool:
    """Whether what stands in parentheses holds: a declaration, or a condition."""
    nodes = tinycss2.parse_blocks_contents(tokens, skip_comments=True, skip_whitespace=True)
    if len(nodes) == 1 and nodes[0].type == "declaration":
        return bool(declared(nodes[0]))
    return _supported(without_space(tokens))


def _read_layer(node: Token, sheet: Sheet, scope: Scope) -> None:
    """@layer: a block, or names in their order (CSS Cascade 5 §6.4)."""
    names = [_layer_name(scope.layer, _name_of(part)) for part in split_commas(node.prelude)]
    if node.content is None:
        sheet.layers += [name for name in names if name not in sheet.layers]
        return
    name = names[0] if without_space(node.prelude) else _layer_name(scope.layer, f"({len(sheet.layers)})")
    if name not in sheet.layers:
        sheet.layers.append(name)
    _read_inner(node, sheet, scope._replace(layer=name))


def _name_of(tokens: Tokens) -> str:
    return "".join(str(token.value) for token in tokens)


def _layer_name(outer: str, inner: str) -> str:
    return f"{outer}.{inner}" if outer and inner else outer or inner


def _read_import(node: Token, sheet: Sheet, scope: Scope) -> None:
    """@import, its layer and its conditions (CSS Cascade 5 §2)."""
    tokens = without_space(node.prelude)
    url = string_or_url(tokens[0]) if tokens else None
    if url is None:
        sheet.faults.append(_fault(node, "An '@import' needs the address of a style sheet."))
        return
    rest = tokens[1:]
    if rest and (ident(rest[0]) == "layer" or (rest[0].type == "function" and rest[0].lower_name == "layer")):
        named = rest[0].type == "function"
        name = _name_of(without_space(rest[0].arguments)) if named else f"({len(sheet.layers)})"
        scope = scope._replace(layer=_layer_name(scope.layer, name))
        sheet.layers.append(scope.layer)
        rest = rest[1:]
    if rest and rest[0].type == "function" and rest[0].lower_name == "supports":
        if not _supported_inside(rest[0].arguments):
            return
        rest = rest[1:]
    if rest:
        scope = scope._replace(media=(*scope.media, parse_media(rest)))
    sheet.imports.append(Import(url, scope, node.source_line))


def _read_page(node: Token, sheet: Sheet, scope: Scope) -> None:
    """@page with its margin boxes (CSS Paged Media 3 §4)."""
    selectors = parse_page_selectors(node.prelude)
    if selectors is None or node.content is None:
        text = tinycss2.serialize(node.prelude).strip()
        if PREFIX.search(text):
            sheet.faults.append(_fault(node, PREFIXED))
            return
        sheet.faults.append(_fault(node, f"The page selector '{text}' is not understood."))
        return
    contents = tinycss2.parse_blocks_contents(node.content, skip_comments=True, skip_whitespace=True)
    declarations = read_declarations([n for n in contents if n.type != "at-rule"], sheet.faults)
    boxes: dict[str, Declarations] = {}
    for inner in contents:
        if inner.type != "at-rule":
            continue
        if inner.lower_at_keyword not in PAGE_AREAS:
            meant = nearest(inner.lower_at_keyword, PAGE_AREAS)
            sheet.faults.append(
                _fault(inner, f"The page has no margin box '@{inner.at_keyword}'.{_did_you_mean(meant)}")
            )
            continue
        parsed = tinycss2.parse_blocks_contents(inner.content or [], skip_comments=True, skip_whitespace=True)
        boxes[inner.lower_at_keyword] = read_declarations(parsed, sheet.faults)
    sheet.pages += [PageRule(selector, declarations, boxes, scope.media) for selector in selectors]


def _read_font_face(node: Token, sheet: Sheet, _scope: Scope) -> None:
    contents = tinycss2.parse_blocks_contents(node.content or [], skip_comments=True, skip_whitespace=True)
    descriptors = {n.lower_name: without_space(n.value) for n in contents if n.type == "declaration"}
    face = read_font_face(descriptors, node.source_line)
    if isinstance(face, str):
        sheet.faults.append(_fault(node, face))
    else:
        sheet.font_faces.append(face)


def _read_counter_style(node: Token, sheet: Sheet, scope: Scope) -> None:
    """@counter-style (CSS Counter Styles 3 §2)."""
    names = without_space(node.prelude)
    name = str(names[0].value) if len(names) == 1 and names[0].type == "ident" else ""
    if not name or name.lower() in ("none", "decimal", "disc", "square", "circle", *CSS_WIDE) or node.content is None:
        sheet.faults.append(_fault(node, "An '@counter-style' needs a name of its own."))
        return
    contents = tinycss2.parse_blocks_contents(node.content, skip_comments=True, skip_whitespace=True)
    style = read_counter_style({n.lower_name: without_space(n.value) for n in contents if n.type == "declaration"})
    if isinstance(style, str):
        sheet.faults.append(_fault(node, f"The counter style '{name}' cannot be used: {style}."))
    else:
        sheet.counter_styles.append((name, style, scope.media))


def _read_property(node: Token, sheet: Sheet, scope: Scope) -> None:
    """@property: a syntax, whether the property inherits, and its initial value."""
    names = without_space(node.prelude)
    name = str(names[0].value) if len(names) == 1 and names[0].type == "ident" else ""
    contents = tinycss2.parse_blocks_contents(node.content or [], skip_comments=True, skip_whitespace=True)
    said = {n.lower_name: n.value for n in contents if n.type == "declaration"}
    inherits = [ident(token) for token in without_space(said.get("inherits", []))]
    syntax = without_space(said.get("syntax", []))
    any_value = len(syntax) == 1 and syntax[0].type == "string" and syntax[0].value.strip() == "*"
    initial = tuple(_strip_space(said["initial-value"])) if "initial-value" in said else None
    if not name.startswith("--") or not syntax or inherits not in (["true"], ["false"]):
        sheet.faults.append(_fault(node, "An '@property' needs a name that begins with '--', 'syntax' and 'inherits'."))
    elif initial is None and not any_value:
        sheet.faults.append(_fault(node, f"The '@property' of '{name}' needs an 'initial-value'."))
    else:
        sheet.registered.append(Registered(name, inherits == ["true"], initial, scope.media))


def _leave_out(node: Token, sheet: Sheet, _scope: Scope) -> None:
    """@container: what its boxes measure is known only once they are laid out."""
    message = "Rules in '@container' are left out: sizes of containers are not asked."
    if all(fault.message != message for fault in sheet.faults):
        sheet.faults.append(_fault(node, message))


def _pass_over(_node: Token, _sheet: Sheet, _scope: Scope) -> None:
    """@charset and rules for the screen alone."""


AT_RULES: Final[dict[str, Callable[[Token, Sheet, Scope], None]]] = {
    "media": _read_media,
    "supports": _read_supports,
    "layer": _read_layer,
    "import": _read_import,
    "page": _read_page,
    "font-face": _read_font_face,
    "counter-style": _read_counter_style,
    "property": _read_property,
    "charset": _pass_over,
    "container": _leave_out,
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
                fault = _unknown(node)
                if fault.message != PREFIXED or all(other.message != PREFIXED for other in faults):
                    faults.append(fault)
            else:
                (found.important if node.important else found.normal).update(values)
                if node.lower_name == "transform" and any(_is_perspective(token) for token in node.value):
                    faults.append(_fault(node, "'perspective()' is not carried out; nothing looks farther away."))
        elif node.type == "error":
            faults.append(_fault(node, f"A declaration does not parse here: {node.message}."))
        elif node.type in ("at-rule", "qualified-rule"):
            faults.append(_fault(node, "A rule inside this block is not understood."))
    return found


def _is_perspective(token: Token) -> bool:
    return bool(token.type == "function" and token.lower_name == "perspective")


def declared(node: Token) -> dict[str, Any] | None:
    """What one declaration sets, by field; None where it is not understood."""
    if node.name.startswith("--"):
        return {node.name: tuple(_strip_space(node.value))}
    name = node.lower_name
    if name in SCREEN_ONLY:
        return {}
    if name in NOT_CARRIED_OUT:
        return {} if tinycss2.serialize(node.value).strip().lower() in WITHOUT_EFFECT else None
    fields = fields_of(name)
    if not fields:
        return None
    tokens = without_space(node.value)
    if len(tokens) == 1 and ident(tokens[0]) in CSS_WIDE:
        return dict.fromkeys(fields, Wide(ident(tokens[0])))
    if holds_variable(node.value):
        return dict.fromkeys(fields, Pending(name, tuple(node.value)))
    try:
        return expand(name, tokens)
    except RecursionError:  # functions in functions without end
        return None


def _strip_space(tokens: Tokens) -> list[Token]:
    tokens = list(tokens)
    while tokens and tokens[0].type == "whitespace":
        tokens = tokens[1:]
    while tokens and tokens[-1].type == "whitespace":
        tokens = tokens[:-1]
    return tokens


PREFIXED: Final = "Properties, values and selectors with a browser's own prefix are passed over."
PREFIXED_VALUE: Final = re.compile(r"(^|[\s,(])-(moz|ms|o|webkit)-|^(alpha\(|progid:)")
PREFIX: Final = re.compile(r":-(moz|ms|o|webkit)-")


def _unknown(node: Token) -> Fault:
    name = node.lower_name
    if fields_of(name):
        value = tinycss2.serialize(node.value).strip()
        if PREFIXED_VALUE.search(value):
            return _fault(node, PREFIXED)
        return _fault(node, f"The value '{value}' is not understood for the property '{name}'.")
    if name.startswith(("-", "mso-")) and not name.startswith("-fq-"):
        return _fault(node, PREFIXED)
    if name in NOT_CARRIED_OUT:
        return _fault(node, f"The property '{name}' is not carried out.")
    meant = nearest(name, [*PROPERTIES, *SHORTHANDS])
    return _fault(node, f"The property '{name}' is not known.{_did_you_mean(meant)}")


def _did_you_mean(name: str) -> str:
    return f" Did you mean '{name}'?" if name else ""


def _fault(node: Token, message: str) -> Fault:
    return Fault(message, node.source_line, node.source_column)
