"""The cascade: which declarations win for an element, and its computed style (CSS Cascade 5).

Computed styles are interned: elements with the same parent style and the same winning rules hold
the same object. Matching is kept as well, in a tree that follows the chain of ancestors: what is
decided by tags, ids and classes alone is decided once for each distinct chain.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import cached_property
from operator import itemgetter
from typing import Any, Final, NamedTuple

import tinycss2
from lxml import etree

from fleetquill.caches import Budget, Cache
from fleetquill.style.box_values import Running, all_transforms
from fleetquill.style.counter_styles import CounterStyles
from fleetquill.style.font_values import SIZES, Units
from fleetquill.style.hints import hints, inline_style
from fleetquill.style.lengths import USUAL_UNITS, Factor
from fleetquill.style.media import Medium, applies
from fleetquill.style.page_selectors import PageKind
from fleetquill.style.properties import INHERITED, INITIAL_STYLE, PROPERTIES, ComputedStyle
from fleetquill.style.selectors import Selector, Siblings, Test
from fleetquill.style.sheet import (
    CSS_WIDE,
    Declarations,
    Fault,
    PageRule,
    Pending,
    Rule,
    Sheet,
    Wide,
    parse_style_attribute,
)
from fleetquill.style.shorthands import INLINE, expand
from fleetquill.style.text_values import ALIGNED_BLOCKS
from fleetquill.style.tokens import Token, Tokens, ident, without_space
from fleetquill.style.values import BLACK

Element = etree._Element

USER_AGENT: Final = 0
AUTHOR: Final = 1

FIELD_PROPERTIES: Final = {p.field: p for p in PROPERTIES.values()}
CELLS: Final = ("td", "th")
SIDES: Final = ("top", "right", "bottom", "left")
MOST_NODES: Final = 20_000  # distinct ancestor chains that are kept
MOST_STYLES: Final = 20_000
MOST_STYLES_OF_A_CHAIN: Final = 16
MOST_INLINE: Final = 4_000
WEIGHT_OF_NODE: Final = 800  # bytes, about

IN_THE_BOX: Final = frozenset(("before", "after", "first-line", "first-letter"))  # pseudo-elements
UNUSUAL: Final = frozenset(
    (
        "counter_reset",
        "counter_set",
        "counter_increment",
        "string_set",
        "bookmark_level",
        "page",
        "background_image",
        "border_image_source",
        "clip_path",
        "mask_image",
    )
)
SAYS_NOTHING: Final = ((), ("none",), "none", "auto", "")  # of those
SINGLE_TRANSFORMS: Final = frozenset(
    ("translate", "rotate", "scale")
)  # parts of a transform with properties of their own

FONT_FIELDS: Final = ("font_family", "font_weight", "font_style", "font_stretch")  # on which units of lengths hang
MONOSPACE: Final = ("monospace",)
MONOSPACE_SHARE: Final = 13 / 16  # of the basic size
MONOSPACE_SIZES: Final = dict(zip(SIZES, (9.0, 10.0, 12.0, 13.0, 16.0, 20.0, 26.0, 39.0), strict=True))  # px

LEVELS: Final = 10_000  # of layers in one origin; rules in none stand on the highest

Match = tuple[tuple[int, tuple[int, int, int], int], Rule]  # (level, specificity, order), rule


class PageStyle(NamedTuple):
    """The style of a page, those of its margin boxes by name, and the custom properties that they miss."""

    style: ComputedStyle
    boxes: dict[str, ComputedStyle]
    unknown: tuple[str, ...]


def usual_units(_style: ComputedStyle) -> Units:
    """Units where no fonts are at hand."""
    return Units(USUAL_UNITS["ex"], USUAL_UNITS["cap"], USUAL_UNITS["ch"], USUAL_UNITS["ic"], USUAL_UNITS["lh"])


class Candidate:
    """One selector of one rule, with its rank."""

    __slots__ = ("rank", "rule", "selector")

    def __init__(self, selector: Selector, rule: Rule, level: int, order: int) -> None:
        self.selector = selector
        self.rule = rule
        self.rank = (level, selector.specificity, order)


class Index:
    """Selectors by what their rightmost compound asks for first."""

    def __init__(self, candidates: Iterable[Candidate]) -> None:
        self.ids: dict[str, list[Candidate]] = {}
        self.classes: dict[str, list[Candidate]] = {}
        self.tags: dict[str, list[Candidate]] = {}
        self.others: list[Candidate] = []
        for candidate in candidates:
            subject = candidate.selector.subject
            if subject.id:
                self.ids.setdefault(subject.id, []).append(candidate)
            elif subject.classes:
                self.classes.setdefault(min(subject.classes), []).append(candidate)
            elif subject.tag:
                self.tags.setdefault(subject.tag, []).append(candidate)
            else:
                self.others.append(candidate)

    def candidates(self, tag: str, classes: Iterable[str], element_id: str) -> list[Candidate]:
        found = [*self.others, *self.tags.get(tag, ())]
        for name in classes:
            found += self.classes.get(name, ())
        if element_id:
            found += self.ids.get(element_id, ())
        return found


class MatchNode:
    """One chain of (tag, classes, id): what matches for sure, and what must be asked each time."""

    __slots__ = ("adds_content", "certain", "children", "conditional", "pseudo", "styles")

    def __init__(self) -> None:
        self.children: dict[tuple[str, str, str], MatchNode] = {}
        self.certain: list[Match] = []
        self.conditional: list[tuple[Test, Match]] = []
        self.pseudo: dict[str, list[Candidate]] = {}
        self.adds_content = False  # whether a rule speaks of what stands in the element's box besides its content
        # of elements that say nothing themselves, by parent and answers
        self.styles: Cache[Any, ComputedStyle] = Cache(MOST_STYLES_OF_A_CHAIN)


class Cascade:
    """Style sheets made ready to style documents. May be reused for any number of them."""

    def __init__(
        self,
        sheets: Sequence[tuple[int, Sheet]],
        medium: Medium,
        units: Callable[[ComputedStyle], Units] = usual_units,
        budget: Budget | None = None,
    ) -> None:
        """`units` says what the units are that hang on the font of a style; what is kept lives on the `budget`."""
        self._budget = budget or Budget()
        candidates: list[Candidate] = []
        layers = _layer_ranks(sheets)
        self.page_rules: list[tuple[int, PageRule]] = []
        for origin, sheet in sheets:
            for rule in sheet.rules:
                if applies(rule.media, medium):
                    for selector in rule.selectors:
                        level = origin * LEVELS + layers.get(rule.layer, LEVELS - 1)
                        candidates.append(Candidate(selector, rule, level, len(candidates)))
            self.page_rules += [(origin, rule) for rule in sheet.pages if applies(rule.media, medium)]
        styles = [found for _, sheet in sheets for found in sheet.counter_styles]
        self.counter_styles = CounterStyles({name: style for name, style, media in styles if applies(media, medium)})
        self._registered = {
            rule.name: rule for _, sheet in sheets for rule in sheet.registered if applies(rule.media, medium)
        }
        self.medium = medium
        self._units = units
        self._index = Index(c for c in candidates if not c.selector.pseudo_element)
        self._pseudo_index = Index(c for c in candidates if c.selector.pseudo_element)
        self._known_ids = _ids_in(candidates)
        self._known_classes = _classes_in(candidates)
        self._classes: Cache[str, str] = self._budget.cache(MOST_INLINE, _weight_of_classes)
        self._root = MatchNode()
        self._nodes = 0
        self._styles: Cache[Any, ComputedStyle] = self._budget.cache(MOST_STYLES, _weight_of_style)
        self._pages: Cache[Any, PageStyle] = Cache(MOST_STYLES_OF_A_CHAIN)
        self._inline: Cache[str, tuple[Declarations, list[Fault]]] = self._budget.cache(MOST_INLINE, _weight_of_inline)

    # ---- matching ----

    def node(self, parent: MatchNode | None, element: Element) -> MatchNode:
        """The place of an element in the tree of ancestor chains."""
        parent = self._root if parent is None else parent
        classes = element.get("class", "")
        if classes:
            classes = self._classes.get(classes) or self._known(classes)
        element_id = element.get("id", "")
        if element_id not in self._known_ids:
            element_id = ""
        key = (element.tag, classes, element_id)
        node = parent.children.get(key)
        if node is None:
            node = self._new_node(element, key)
            if self._nodes < MOST_NODES:
                self._nodes += 1
                self._budget.spend(WEIGHT_OF_NODE)
                parent.children[key] = node
        return node

    def _known(self, classes: str) -> str:
        """The classes that any selector names, in a set order."""
        known = " ".join(sorted(set(classes.split()) & self._known_classes))
        return self._classes.put(classes, known)

    def _new_node(self, element: Element, key: tuple[str, str, str]) -> MatchNode:
        node = MatchNode()
        siblings = Siblings()
        tag, classes, element_id = key
        for candidate in self._index.candidates(tag, classes.split(), element_id):
            answer = candidate.selector.on_chain(element, siblings)
            match = (candidate.rank, candidate.rule)
            if answer is True:
                node.certain.append(match)
            elif answer is not False:
                node.conditional.append((answer, match))
        node.certain.sort(key=itemgetter(0))
        for candidate in self._pseudo_index.candidates(tag, classes.split(), element_id):
            if candidate.selector.on_chain(element, siblings) is not False:
                node.pseudo.setdefault(candidate.selector.pseudo_element, []).append(candidate)
        node.adds_content = not IN_THE_BOX.isdisjoint(node.pseudo)
        return node

    def style(
        self, element: Element, node: MatchNode, parent: ComputedStyle | None, siblings: Siblings
    ) -> ComputedStyle:
        """The computed style of an element whose parent's style is `parent`."""
        attributes = element.attrib
        hinted = hints(element) if attributes else ""
        if parent is not None and parent.fq_cell_hints and element.tag in CELLS:
            hinted = parent.fq_cell_hints + hinted
        inline = inline_style(element) if attributes else ""
        language = attributes.get("lang", "") if attributes else ""
        answers = tuple([test(element, siblings) for test, _ in node.conditional]) if node.conditional else ()
        if hinted or inline or language:
            return self._style(parent, _matches(node, answers), hinted, inline, language)
        style = node.styles.get((parent, answers))
        if style is None:
            style = node.styles.put((parent, answers), self._style(parent, _matches(node, answers), "", "", ""))
        return style

    def pseudo_style(
        self, element: Element, node: MatchNode, name: str, parent: ComputedStyle, siblings: Siblings
    ) -> ComputedStyle | None:
        """The style of a pseudo-element; None where no rule speaks of it."""
        candidates = node.pseudo.get(name)
        if not candidates:
            return None
        matches = [(c.rank, c.rule) for c in candidates if c.selector.matches(element, siblings)]
        if not matches:
            return None
        return self._style(parent, sorted(matches, key=itemgetter(0)), "", "", "")

    def anonymous(self, parent: ComputedStyle, display: str) -> ComputedStyle:
        """The style of an anonymous box: inherited values and a display."""
        key = (parent, display)
        style = self._styles.get(key)
        if style is None:
            style = self._compute(parent, {"display": display}, {}, parent.language)
            style.anonymous = True
            self._styles.put(key, style)
        return style

    def rules_of(self, element: Element) -> list[Match]:
        """The rules that match an element, each with its rank, the weakest first."""
        siblings, node = Siblings(), self._root
        for above in (*reversed(list(element.iterancestors())), element):
            node = self.node(node, above)
        return _matches(node, tuple([test(element, siblings) for test, _ in node.conditional]))

    def inline_faults(self, css: str) -> list[Fault]:
        """What was not understood in a style attribute."""
        return self._read_inline(css)[1]

    # ---- pages ----

    def page_style(self, page: PageKind, root: ComputedStyle = INITIAL_STYLE) -> PageStyle:
        """The style of a page and of those margin boxes that have rules, by name.

        The custom properties and the direction of the `root` element are those of pages, too.
        """
        rules = [(o, r) for o, r in self.page_rules if r.selector.matches(page)]
        rules.sort(key=lambda pair: (pair[0], pair[1].selector.specificity))
        key = (root, tuple(rule for _, rule in rules))
        kept = self._pages.get(key)
        if kept is not None:
            return kept
        parent = INITIAL_STYLE
        if root.variables or root.direction != parent.direction:
            parent = ComputedStyle(None, {"variables": root.variables, "direction": root.direction})
        winners = _winners([r.declarations for _, r in rules])
        style = self._compute(parent, winners, {})
        unknown = _unknown_variables(winners, style.variables)
        boxes: dict[str, ComputedStyle] = {}
        for name in dict.fromkeys(name for _, rule in rules for name in rule.boxes):
            winners = _winners([rule.boxes[name] for _, rule in rules if name in rule.boxes])
            boxes[name] = self._compute(style, winners, {})
            unknown += _unknown_variables(winners, style.variables)
        return self._pages.put(key, PageStyle(style, boxes, tuple(dict.fromkeys(unknown))))

    @cached_property
    def restarts_notes(self) -> bool:
        """Whether footnotes are counted anew on pages."""
        blocks = [rule.declarations for _, rule in self.page_rules]
        resets = [values.get("counter_reset", ()) for block in blocks for values in (block.normal, block.important)]
        return any(pair[0] == "footnote" for reset in resets if isinstance(reset, tuple) for pair in reset)

    # ---- computing ----

    def _style(
        self, parent: ComputedStyle | None, matches: list[Match], hinted: str, inline: str, language: str
    ) -> ComputedStyle:
        key = (parent, tuple([rule for _, rule in matches]), hinted, inline, language)
        style = self._styles.get(key)
        if style is None:
            inherited = parent or INITIAL_STYLE
            blocks = [rule.declarations for (level, _, _), rule in matches if level < LEVELS]
            base = _winners(blocks)
            if hinted:
                blocks.append(self._inline_declarations(hinted))
            authored = [(rule.layer, rule.declarations) for (level, _, _), rule in matches if level >= LEVELS]
            blocks += [declarations for _, declarations in authored]
            winners = _winners(blocks, self._inline_declarations(inline) if inline else None)
            if any(layer for layer, _ in authored):
                _reverse_layers(winners, matches)
            for field, value in winners.items():
                if isinstance(value, Wide) and value.keyword == "revert-layer":
                    winners[field] = _reverted(field, matches, inline=field in self._said_inline(inline))
            style = self._compute(inherited, winners, base, language or inherited.language, root=parent is None)
            self._styles.put(key, style)
        return style

    def _said_inline(self, css: str) -> Mapping[str, Any]:
        return self._inline_declarations(css).normal if css else {}

    def _inline_declarations(self, css: str) -> Declarations:
        return self._read_inline(css)[0]

    def _read_inline(self, css: str) -> tuple[Declarations, list[Fault]]:
        kept = self._inline.get(css)
        if kept is None:
            faults: list[Fault] = []
            kept = self._inline.put(css, (parse_style_attribute(css, faults), faults))
        return kept

    def _handed_on(self, parent: ComputedStyle) -> dict[str, tuple[Token, ...]]:
        """The custom properties that an element has from its parent, or from @property (Properties and Values 1 §2)."""
        found = dict(parent.variables)
        for name, rule in self._registered.items():
            if rule.initial is not None and (not rule.inherits or name not in found):
                found[name] = rule.initial
            elif not rule.inherits:
                found.pop(name, None)
        return found

    def _compute(
        self,
        parent: ComputedStyle,
        winners: dict[str, Any],
        base: dict[str, Any],
        language: str = "",
        root: bool = False,
    ) -> ComputedStyle:
        values = {field: value for field, value in parent.__dict__.items() if field in INHERITED}
        values["variables"] = parent.variables
        if self._registered:
            values["variables"] = self._handed_on(parent)
        values["language"] = language
        style = ComputedStyle(parent, values)
        basis = _Basis(parent, self.medium, self._units)
        variables = {name: tokens for name, tokens in winners.items() if name.startswith("--")}
        if variables:
            values["variables"] = _resolve_variables(_overridden(values["variables"], variables))
        settled = {
            field: _settle(field, value, values["variables"], base)
            for field, value in winners.items()
            if not field.startswith("--")
        }
        for field in FONT_FIELDS:
            if field in settled:
                _set(style, field, settled.pop(field), basis)
        _settle_font_size(style, settled.pop("font_size", None), basis)
        basis.font_size = style.font_size
        style.root_font_size = style.font_size if root else parent.root_font_size
        basis.root_font_size = style.root_font_size
        if "line_height" in settled:
            _set(style, "line_height", settled.pop("line_height"), basis)
        basis.style = style
        if any(field.startswith(INLINE) for field in settled):
            _map_logical(style, settled, basis)
        for field, value in settled.items():
            _set(style, field, value, basis)
        _finish(style)
        return style


def _weight_of_style(key: Any, style: ComputedStyle) -> int:
    return 1_800


def _weight_of_inline(css: str, read: tuple[Declarations, list[Fault]]) -> int:
    return 1_000 + 20 * len(css)


def _weight_of_classes(classes: str, known: str) -> int:
    return 200 + len(classes) + len(known)


class _Basis:
    """See StyleBasis. While a font size is computed, `font_size` is the parent's."""

    def __init__(self, parent: ComputedStyle, medium: Medium, units: Callable[[ComputedStyle], Units]) -> None:
        self.parent = parent
        self.style = parent  # whose font units refer to
        self.font_size = parent.font_size
        self.root_font_size = parent.root_font_size
        self.viewport_width = medium.width
        self.viewport_height = medium.height
        self._units = units

    def font_unit(self, unit: str) -> float:
        style = self.style
        if unit == "rlh":
            while style.parent is not None and style.parent is not INITIAL_STYLE:
                style = style.parent
        units = self._units(style)
        if unit not in ("lh", "rlh"):
            return float(getattr(units, unit)) * style.font_size
        height = style.line_height
        if isinstance(height, float):
            return height
        return (height.value if isinstance(height, Factor) else units.normal) * style.font_size


def _settle_font_size(style: ComputedStyle, size: Any, basis: _Basis) -> None:
    """The font size; where it is not in lengths, 'monospace' alone has a basic size of its own, as browsers have it."""
    absolute = basis.parent.sized
    named = isinstance(size, str) and size in SIZES
    if size is not None:
        _set(style, "font_size", size, basis)
        absolute = isinstance(size, float) or (absolute and not named and size != Wide("initial"))
    fixed = style.font_family == MONOSPACE
    if named and fixed:
        style.font_size = MONOSPACE_SIZES[size]
    elif not absolute and fixed != (basis.parent.font_family == MONOSPACE and not named):
        style.font_size *= MONOSPACE_SHARE if fixed else 1 / MONOSPACE_SHARE
    if absolute:
        style.sized = True


def _map_logical(style: ComputedStyle, settled: dict[str, Any], basis: _Basis) -> None:
    """Gives the fields of a line's start and end their sides, now that the direction can be known."""
    if "direction" in settled:
        _set(style, "direction", settled.pop("direction"), basis)
    specified = list(settled.items())
    settled.clear()
    for field, value in specified:  # the last one wins, whichever way it names the side (CSS Logical 1 §4)
        name = field.removeprefix(INLINE)
        if field.startswith(INLINE) and style.direction == "rtl":
            name = _mirrored(name)
        settled[name] = value


def _mirrored(field: str) -> str:
    if "left" in field:
        return field.replace("left", "right")
    return field.replace("right", "left")


def _set(style: ComputedStyle, field: str, value: Any, basis: _Basis) -> None:
    """Computes one settled value into the style."""
    if isinstance(value, Wide):
        row = FIELD_PROPERTIES[field]
        inherits = value.keyword == "inherit" or (value.keyword != "initial" and row.inherits)
        given = basis.parent.__dict__
        if inherits and field in given:
            style.__dict__[field] = given[field]
        else:
            style.__dict__.pop(field, None)  # the initial value stands on the class
        return
    compute = FIELD_PROPERTIES[field].compute
    style.__dict__[field] = compute(value, basis) if compute else value


def _finish(style: ComputedStyle) -> None:
    """What one property says of another."""
    values = style.__dict__
    for side in SIDES:
        kind = values.get(f"border_{side}_style", "none")
        width = f"border_{side}_width"
        if kind in ("none", "hidden"):
            values[width] = 0.0  # CSS Backgrounds 3 §3.3
        elif width not in values:
            values[width] = 3.0
    for name in ("outline", "column_rule"):
        kind = values.get(f"{name}_style")
        if kind is not None:
            values[f"{name}_width"] = 0.0 if kind in ("none", "hidden") else values.get(f"{name}_width", 3.0)
        elif f"{name}_width" in values:
            values[f"{name}_width"] = 0.0
    if style.display in ("table", "inline-table") and values.get("text_align") in ALIGNED_BLOCKS:
        style.text_align = "start"  # tables are aligned that way, their text is not, as browsers have it
    if not SINGLE_TRANSFORMS.isdisjoint(values):
        style.transform = all_transforms(style.translate, style.rotate, style.scale, style.transform)
    if values.get("clip") and style.position in ("absolute", "fixed") and not style.clip_path:
        style.clip_path = style.clip
    style.outside = _outside(style)
    style.layered = bool(
        style.position != "static"
        or style.float != "none"
        or style.opacity != 1.0
        or style.mix_blend_mode != "normal"
        or style.isolation != "auto"
        or style.transform
        or style.clip_path
        or style.mask_image
        or style.filter
        or any(isinstance(m, float) and m < 0 for m in (style.margin_top, style.margin_bottom))
    )
    style.ordinary = not (
        style.layered or style.outside or any(values[name] not in SAYS_NOTHING for name in UNUSUAL & values.keys())
    )
    if values.get("color") == "currentcolor":
        style.color = style.parent.color if style.parent else BLACK


def _matches(node: MatchNode, answers: tuple[bool, ...]) -> list[Match]:
    """All matches of an element for which the conditions of its chain have these answers, the weakest first."""
    more = [match for (_, match), answer in zip(node.conditional, answers, strict=True) if answer]
    return sorted([*node.certain, *more], key=itemgetter(0)) if more else node.certain


def _outside(style: ComputedStyle) -> str:
    """How the box is taken out of the flow; '' where it is not."""
    if style.position in ("absolute", "fixed"):
        return str(style.position)
    if isinstance(style.position, Running):
        return "running"
    if style.float in ("top", "bottom"):
        return "area float"
    return "footnote" if style.float == "footnote" else ""


def _winners(blocks: Sequence[Declarations], inline: Declarations | None = None) -> dict[str, Any]:
    """The winning declarations: normal ones in order, the style attribute, then important ones."""
    blocks = [*blocks, inline] if inline else blocks
    ranks = [block.normal for block in blocks] + [block.important for block in blocks if block.important]
    winners: dict[str, Any] = {}
    for declared in ranks:
        winners.update(declared)
    if any(field.startswith(INLINE) for field in winners):  # then their order counts
        winners = {}
        for declared in ranks:
            for field, value in declared.items():
                winners.pop(field, None)
                winners[field] = value
    return winners


def _layer_ranks(sheets: Sequence[tuple[int, Sheet]]) -> dict[str, int]:
    """The layers from the weakest on: in the order of their first mention, inner ones before their outer."""
    order: dict[str, int] = {}
    for _, sheet in sheets:
        for name in sheet.layers:
            parts = name.split(".")
            for depth in range(1, len(parts) + 1):
                order.setdefault(".".join(parts[:depth]), len(order))

    def key(name: str) -> tuple[int, ...]:
        parts = name.split(".")
        return (*(order[".".join(parts[: depth + 1])] for depth in range(len(parts))), LEVELS)

    return {name: rank for rank, name in enumerate(sorted(order, key=key))}


def _reverse_layers(winners: dict[str, Any], matches: list[Match]) -> None:
    """Among important declarations the earlier layer wins (CSS Cascade 5 §6.1)."""
    by_level: dict[int, list[Rule]] = {}
    for (level, _, _), rule in matches:
        if level >= LEVELS:
            by_level.setdefault(level, []).append(rule)
    for level in sorted(by_level, reverse=True):
        for rule in by_level[level]:
            winners.update(rule.declarations.important)


def _reverted(field: str, matches: list[Match], *, inline: bool) -> Any:
    """What the next weaker layer says of a property (CSS Cascade 5 §7.3.5); a style attribute is a layer of its own."""
    above: int | None = None
    for (level, _, _), rule in reversed(matches):
        value = rule.declarations.normal.get(field)
        if value is None or (above is not None and level >= above):
            continue
        reverts = isinstance(value, Wide) and value.keyword == "revert-layer"
        if not reverts and (inline or above is not None):
            return value
        above = level
    return Wide("revert")


def _settle(field: str, value: Any, variables: Any, base: dict[str, Any]) -> Any:
    """A specified value with its variables filled in and 'revert' carried out."""
    if isinstance(value, Pending):
        tokens = substitute(value.tokens, variables)
        longhands = expand(value.name, without_space(tokens)) if tokens is not None else None
        # Invalid at computed-value time: unset (CSS Custom Properties 1 §3.1).
        value = longhands[field] if longhands and field in longhands else Wide("unset")
    if isinstance(value, Wide) and value.keyword == "revert":
        value = base.get(field, Wide("unset"))
    return value


def _overridden(
    inherited: Mapping[str, tuple[Token, ...]], own: Mapping[str, tuple[Token, ...]]
) -> dict[str, tuple[Token, ...]]:
    """The custom properties that an element has, its own over those that it inherits (CSS Variables 1 §2.2)."""
    found = {**inherited}
    for name, tokens in own.items():
        keyword = ident(tokens[0]) if len(tokens) == 1 else ""
        if keyword == "initial":  # as if it had never been set
            found.pop(name, None)
        elif keyword not in CSS_WIDE:
            found[name] = tokens
    return found


def _resolve_variables(variables: dict[str, tuple[Token, ...]]) -> dict[str, tuple[Token, ...]]:
    """Custom properties with their own var() filled in; cycles fall away."""
    resolved = {}
    for name, tokens in variables.items():
        filled = substitute(tokens, variables, (name,))
        if filled is not None:
            resolved[name] = tuple(filled)
    return resolved


def substitute(
    tokens: Tokens, variables: dict[str, tuple[Token, ...]], within: tuple[str, ...] = ()
) -> list[Token] | None:
    """The tokens with every var() replaced; None where a variable is missing or refers to itself."""
    result: list[Token] = []
    for token in tokens:
        if token.type == "function" and token.lower_name == "var":
            filled = _variable(token, variables, within)
            if filled is None:
                return None
            result += filled
        elif token.type == "function" or token.type.endswith("block"):
            inner = token.arguments if token.type == "function" else token.content
            filled = substitute(inner, variables, within)
            if filled is None:
                return None
            result.append(_with_contents(token, filled))
        else:
            result.append(token)
    return result if len(within) < 50 and len(result) < 10_000 else None


def _unknown_variables(winners: dict[str, Any], variables: Mapping[str, Any]) -> list[str]:
    """The custom properties that declarations ask for and that are not there."""
    pending = [value for value in winners.values() if isinstance(value, Pending)]
    return [name for value in pending for name in _asked_for(value.tokens, variables)]


def _asked_for(tokens: Tokens, variables: Mapping[str, Any]) -> list[str]:
    found: list[str] = []
    for token in tokens:
        if token.type == "function":
            names = without_space(token.arguments)
            if token.lower_name == "var" and names and names[0].type == "ident":
                if len(names) == 1 and names[0].value not in variables:
                    found.append(names[0].value)
            else:
                found += _asked_for(token.arguments, variables)
    return found


def _variable(token: Token, variables: dict[str, tuple[Token, ...]], within: tuple[str, ...]) -> list[Token] | None:
    arguments = list(token.arguments)
    names = without_space(arguments)
    if not names or names[0].type != "ident":
        return None
    name = names[0].value
    comma = next((i for i, t in enumerate(arguments) if t.type == "literal" and t.value == ","), None)
    if name in variables and name not in within:
        return substitute(variables[name], variables, (*within, name))
    return substitute(arguments[comma + 1 :], variables, within) if comma is not None else None


def _with_contents(token: Token, contents: list[Token]) -> Token:
    if token.type == "function":
        return tinycss2.ast.FunctionBlock(token.source_line, token.source_column, token.name, contents)
    return type(token)(token.source_line, token.source_column, contents)


def _ids_in(candidates: list[Candidate]) -> frozenset[str]:
    return frozenset(c.id for candidate in candidates for c in _compounds(candidate.selector) if c.id)


def _classes_in(candidates: list[Candidate]) -> frozenset[str]:
    return frozenset(name for candidate in candidates for c in _compounds(candidate.selector) for name in c.classes)


def _compounds(selector: Selector) -> list[Any]:
    return [selector.subject, *(step.compound for step in selector.steps)]
