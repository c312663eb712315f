"""Why an element looks as it does: the declarations that count for it, and where they are written."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import Any, Final, NamedTuple

import tinycss2
from lxml import etree

from fleetquill.errors import Where
from fleetquill.style.base_sheet import LaterRule
from fleetquill.style.cascade import LEVELS, Cascade, Match
from fleetquill.style.hints import hints, inline_style
from fleetquill.style.properties import INHERITED
from fleetquill.style.sheet import Rule, Sheet, declared
from fleetquill.style.tokens import Token, Tokens, tamed

Element = etree._Element

INLINE: Final = 2 * LEVELS  # the level of the style attribute


class Declared(NamedTuple):
    """A declaration that speaks of an element: `selector` is that of its rule ('' for the style attribute), `owner` the
    ancestor that it was inherited from ('' for the element itself). `counts` says whether no stronger one says all of
    it otherwise."""

    property: str
    value: str
    selector: str
    source: str
    line: int
    owner: str = ""
    important: bool = False
    counts: bool = True


class _Block(NamedTuple):
    """Declarations that stand together."""

    selector: str
    nodes: tuple[Token, ...]
    level: int  # of the origin and the cascade layer
    where: Where
    above: int  # lines before the first of its sheet; -1 where a line is not known


class Explaining:
    """Explains elements of one document. `sheets` come with the line of their source on which each begins; `place_of`
    says where an element is written."""

    def __init__(
        self, cascade: Cascade, sheets: Sequence[tuple[Sheet, int]], place_of: Callable[[Element], Where]
    ) -> None:
        self._cascade = cascade
        self._place_of = place_of
        self._origins = {id(rule): origin for origin in sheets for rule in origin[0].rules}
        self._nodes: dict[int, Mapping[tuple[int, int], Token]] = {}  # of the rules of a sheet, by place

    def said_of(self, element: Element) -> list[Declared]:
        """What is said of an element, the strongest first; after that what it inherits."""
        claimed: set[str] = set()
        found = list(_counted(self._blocks(element), claimed))
        for above in element.iterancestors():
            owner = name_of(above)
            found += [said._replace(owner=owner) for said in _counted(self._blocks(above), claimed, inherited=True)]
        return found

    def _blocks(self, element: Element) -> list[_Block]:
        """The weakest first."""
        matches = self._cascade.rules_of(element)
        blocks = [self._block(match) for match in matches if match[0][0] < LEVELS]
        hinted, inline = hints(element), inline_style(element)
        if hinted:
            blocks.append(_Block("", _nodes_in(hinted), 0, Where("HTML attributes"), -1))
        blocks += [self._block(match) for match in matches if match[0][0] >= LEVELS]
        if inline:
            blocks.append(_Block("", _nodes_in(inline), INLINE, self._place_of(element), -1))
        return blocks

    def _block(self, match: Match) -> _Block:
        (level, _, _), rule = match
        if isinstance(rule, LaterRule):
            return _Block(rule.prelude.strip(), _nodes_in(rule.block), level, Where("base sheet"), -1)
        sheet, first = self._origins.get(id(rule), (None, 1))
        node = None if sheet is None else self._node(sheet, rule)
        if sheet is None or node is None:
            return _Block("", (), level, Where(""), -1)
        selector = tinycss2.serialize(node.prelude).strip()
        return _Block(selector, _nodes_in(node.content), level, Where(sheet.source), first - 1)

    def _node(self, sheet: Sheet, rule: Rule) -> Token | None:
        nodes = self._nodes.get(id(sheet))
        if nodes is None:
            parsed = tinycss2.parse_stylesheet(tamed(sheet.text), skip_comments=True, skip_whitespace=True)
            nodes = self._nodes[id(sheet)] = {(n.source_line, n.source_column): n for n in _all_rules(parsed)}
        return nodes.get(rule.place)


def name_of(element: Element) -> str:
    """An element as a selector would name it."""
    classes = "".join(f".{name}" for name in element.get("class", "").split())
    own = element.get("id", "")
    return f"{element.tag}{'#' + own if own else ''}{classes}"


def _counted(blocks: Sequence[_Block], claimed: set[str], *, inherited: bool = False) -> Iterator[Declared]:
    """The declarations of blocks, the strongest first; `claimed` are the fields that stronger ones set.

    Of those that are important, the style attribute's are the strongest, then those of earlier layers (CSS Cascade 5
    §6.1).
    """
    last_first = blocks[::-1]
    strong = sorted(last_first, key=lambda block: (block.level < INLINE, block.level))
    ranks = [*((True, block) for block in strong), *((False, block) for block in last_first)]
    for is_important, block in ranks:
        for node in reversed(block.nodes):
            if node.important != is_important:
                continue
            fields = set(declared(node) or ())
            if inherited:
                fields = {name for name in fields if name in INHERITED or name.startswith("--")}
            left = fields - claimed
            if inherited and not left:
                continue
            claimed |= fields
            line = block.where.line if block.above < 0 else node.source_line + block.above
            value = tinycss2.serialize(node.value).strip()
            yield Declared(
                node.name, value, block.selector, block.where.source, line, "", is_important, bool(left or not fields)
            )


def _nodes_in(content: str | Tokens) -> tuple[Token, ...]:
    given = tamed(content) if isinstance(content, str) else content
    nodes = tinycss2.parse_blocks_contents(given, skip_comments=True, skip_whitespace=True)
    return tuple(node for node in nodes if node.type == "declaration" and declared(node) is not None)


def _all_rules(nodes: Iterable[Any]) -> Iterator[Token]:
    """The rules of a sheet, those that stand in others too."""
    for node in nodes:
        if node.type not in ("qualified-rule", "at-rule") or node.content is None:
            continue
        yield node
        yield from _all_rules(tinycss2.parse_blocks_contents(node.content, skip_comments=True, skip_whitespace=True))
