"""Page selectors: which pages an @page rule is for (CSS Paged Media 3 §4.2)."""

from __future__ import annotations

from typing import Final, NamedTuple

from tinycss2.nth import parse_nth

from fleetquill.style.tokens import Token, Tokens, ident, split_commas

MARGIN_BOXES: Final = (  # CSS Paged Media 3 §5.1, in the order in which they are painted
    "top-left-corner", "top-left", "top-center", "top-right", "top-right-corner",
    "right-top", "right-middle", "right-bottom",
    "bottom-right-corner", "bottom-right", "bottom-center", "bottom-left", "bottom-left-corner",
    "left-bottom", "left-middle", "left-top",
)  # fmt: skip


class PageKind(NamedTuple):
    """What a page is, as far as selectors can tell: `number` counts sheets from 1, `place` pages in a page group."""

    number: int
    right: bool
    blank: bool = False
    name: str = ""
    place: int = 0


class PageSelector(NamedTuple):
    name: str = ""
    first: bool = False
    side: str = ""  # 'left', 'right' or ''
    blank: bool = False
    nth: tuple[int, int] | None = None
    group: str = ""  # the name of the page group in which :nth() counts; '' for all pages

    @property
    def specificity(self) -> tuple[int, int, int]:
        """(name, :first, :blank and :nth, :left and :right)."""
        pseudo = int(self.first) + int(self.blank) + int(self.nth is not None)
        return (int(bool(self.name)), pseudo, int(bool(self.side)))

    def matches(self, page: PageKind) -> bool:
        if self.name and self.name != page.name:
            return False
        if (self.first and page.number != 1) or (self.blank and not page.blank):
            return False
        if self.side and (self.side == "right") != page.right:
            return False
        if self.group:
            return page.name == self.group and self.nth is not None and is_nth(page.place, *self.nth)
        return self.nth is None or is_nth(page.number, *self.nth)


def is_nth(number: int, step: int, offset: int) -> bool:
    """Whether a position from 1 is one of step·n + offset for n ≥ 0."""
    distance = number - offset
    return distance == 0 if step == 0 else distance % step == 0 and distance // step >= 0


def parse_page_selectors(tokens: Tokens) -> list[PageSelector] | None:
    """The selectors of an @page rule; None where one is not understood."""
    selectors = []
    for part in split_commas(tokens):
        selector = _parse(part)
        if selector is None:
            return None
        selectors.append(selector)
    return selectors


def _parse(tokens: list[Token]) -> PageSelector | None:
    selector = PageSelector()
    index = 0
    if tokens and tokens[0].type == "ident":
        selector = selector._replace(name=tokens[0].value)
        index = 1
    while index < len(tokens):
        if tokens[index].type != "literal" or tokens[index].value != ":" or index + 1 >= len(tokens):
            return None
        changed = _pseudo(tokens[index + 1], selector)
        if changed is None:
            return None
        selector = changed
        index += 2
    return selector


def _pseudo(token: Token, selector: PageSelector) -> PageSelector | None:
    word = ident(token)
    if word == "first":
        return selector._replace(first=True)
    if word == "blank":
        return selector._replace(blank=True)
    if word in ("left", "right"):
        return selector._replace(side=word)
    if token.type == "function" and token.lower_name == "nth":
        arguments = list(token.arguments)
        words = [(place, ident(part)) for place, part in enumerate(arguments) if part.type == "ident"]
        of = next((place for place, word in words if word == "of"), None)
        formula = parse_nth(arguments[:of])
        if formula is None or of is None:
            return None if formula is None else selector._replace(nth=formula)
        names = [part for part in arguments[of + 1 :] if part.type != "whitespace"]
        if len(names) != 1 or names[0].type != "ident":
            return None
        return selector._replace(nth=formula, group=names[0].value)
    return None
