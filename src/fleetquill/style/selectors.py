"""Selectors 4: parsed once into small objects that ask an lxml element simple questions."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from contextlib import suppress
from typing import Final, NamedTuple

from lxml import etree
from tinycss2.nth import parse_nth

from fleetquill.style.page_selectors import is_nth
from fleetquill.style.tokens import Token, Tokens, ident, split_commas

Element = etree._Element
Test = Callable[[Element, "Siblings"], bool]
Specificity = tuple[int, int, int]

PSEUDO_ELEMENTS: Final = frozenset(
    {"before", "after", "marker", "first-letter", "first-line", "footnote-call", "footnote-marker"}
)
SCREEN_ELEMENTS: Final = frozenset(("placeholder", "selection", "backdrop", "file-selector-button", "target-text"))
NEVER: Final = frozenset(  # states that paper does not have (Selectors 4 §9)
    [
        "hover",
        "active",
        "focus",
        "focus-visible",
        "focus-within",
        "target",
        "visited",
        "default",
        "indeterminate",
        "valid",
        "invalid",
        "host",  # of a shadow tree, which no document has (CSS Scoping 1 §3.2)
    ]
)


class SelectorError(ValueError):
    """A selector that is not understood."""


class Siblings:
    """Positions among siblings, worked out once for each parent."""

    def __init__(self) -> None:
        self._places: dict[Element, dict[Element, tuple[int, int]]] = {}

    def place(self, element: Element) -> tuple[int, int]:
        """(index from 1, number of element siblings including itself)."""
        parent = element.getparent()
        if parent is None:
            return (1, 1)
        places = self._places.get(parent)
        if places is None:
            children = [child for child in parent if isinstance(child.tag, str)]
            places = {child: (i, len(children)) for i, child in enumerate(children, 1)}
            self._places[parent] = places
        return places[element]


class Compound(NamedTuple):
    """Simple selectors that one element must all pass."""

    tag: str = ""
    id: str = ""
    classes: frozenset[str] = frozenset()
    tests: tuple[Test, ...] = ()

    def could_match(self, element: Element) -> bool:
        """Whether tag, id and classes match."""
        if self.tag and element.tag != self.tag:
            return False
        if self.id and element.get("id") != self.id:
            return False
        return not self.classes or self.classes.issubset(element.get("class", "").split())

    def matches(self, element: Element, siblings: Siblings) -> bool:
        return self.could_match(element) and all(test(element, siblings) for test in self.tests)


class Step(NamedTuple):
    """A compound to the left and how it relates to what is at its right."""

    combinator: str  # ' ', '>', '+', '~'
    compound: Compound


class Selector(NamedTuple):
    """A complex selector: the rightmost compound, then steps leftwards."""

    subject: Compound
    steps: tuple[Step, ...]
    specificity: Specificity
    pseudo_element: str = ""

    def on_chain(self, element: Element, siblings: Siblings) -> Test | bool:
        """What can be said of all elements with the same chain of ancestors, by their tags, ids and classes.

        True or False where that decides, else what there is to ask of each element.
        """
        if any(step.combinator in "+~" or step.compound.tests for step in self.steps):
            return self.matches
        tests = [test for test in self.subject.tests if test is not is_root]
        if len(tests) < len(self.subject.tests) and not is_root(element, siblings):
            return False
        if not (self.subject.could_match(element) and _left(self.steps, 0, element, siblings)):
            return False
        if len(tests) > 1:
            return self.subject.matches
        return tests[0] if tests else True

    def matches(self, element: Element, siblings: Siblings) -> bool:
        return self.subject.matches(element, siblings) and _left(self.steps, 0, element, siblings)


def _left(
    steps: tuple[Step, ...],
    index: int,
    element: Element,
    siblings: Siblings,
    failed: set[tuple[int, Element]] | None = None,
) -> bool:
    """Whether the steps from `index` on can be satisfied leftwards of `element`; `failed` are tries in vain so far."""
    if index == len(steps):
        return True
    if failed is None:
        failed = set()
    elif (index, element) in failed:
        return False
    combinator, compound = steps[index]
    for candidate in _candidates(combinator, element):
        if compound.matches(candidate, siblings) and _left(steps, index + 1, candidate, siblings, failed):
            return True
    failed.add((index, element))
    return False


def _candidates(combinator: str, element: Element) -> Iterable[Element]:
    if combinator == " ":
        return element.iterancestors()
    if combinator == ">":
        parent = element.getparent()
        return () if parent is None else (parent,)
    before = (e for e in element.itersiblings(preceding=True) if isinstance(e.tag, str))
    if combinator == "~":
        return before
    first = next(before, None)
    return () if first is None else (first,)


# ---- parsing ---------------------------------------------------------------------------------


def parse_selectors(tokens: Tokens) -> list[Selector]:
    """A comma-separated selector list; raises SelectorError where one is not understood."""
    try:
        return _selectors(tokens)
    except RecursionError as error:
        raise SelectorError("its parts are nested too deep") from error


def _selectors(tokens: Tokens) -> list[Selector]:
    tokens = [t for t in tokens if t.type != "comment"]
    parts: list[list[Token]] = [[]]
    for token in tokens:
        if token.type == "literal" and token.value == ",":
            parts.append([])
        else:
            parts[-1].append(token)
    return [_parse_complex(_strip(part)) for part in parts]


def _strip(tokens: list[Token]) -> list[Token]:
    start, end = 0, len(tokens)
    while start < end and tokens[start].type == "whitespace":
        start += 1
    while end > start and tokens[end - 1].type == "whitespace":
        end -= 1
    return tokens[start:end]


def _parse_complex(tokens: list[Token]) -> Selector:
    if not tokens:
        raise SelectorError("an empty selector")
    chain: list[tuple[str, Compound]] = []
    total = [0, 0, 0]
    combinator, pseudo, index = "", "", 0
    while index < len(tokens):
        combinator, index = _combinator(tokens, index)
        if chain and not combinator:
            raise SelectorError("a combinator is missing")
        if pseudo:
            raise SelectorError("nothing may follow a pseudo-element")
        start = index
        compound, specificity, pseudo, index = _parse_compound(tokens, index)
        if index == start:
            raise SelectorError("a combinator with nothing after it")
        total = [a + b for a, b in zip(total, specificity, strict=True)]
        chain.append((combinator, compound))
    chain.reverse()
    steps = tuple(Step(chain[i][0], chain[i + 1][1]) for i in range(len(chain) - 1))
    if chain[-1][0] not in ("", " "):
        raise SelectorError("a selector cannot begin with a combinator")
    return Selector(chain[0][1], steps, (total[0], total[1], total[2]), pseudo)


def _combinator(tokens: list[Token], index: int) -> tuple[str, int]:
    found = ""
    while index < len(tokens):
        token = tokens[index]
        if token.type == "whitespace":
            found = found or " "
        elif token.type == "literal" and token.value in (">", "+", "~") and found in ("", " "):
            found = token.value
        else:
            break
        index += 1
    return found, index


def _parse_compound(tokens: list[Token], index: int) -> tuple[Compound, list[int], str, int]:
    tag, element_id, pseudo = "", "", ""
    classes: set[str] = set()
    tests: list[Test] = []
    weight = [0, 0, 0]
    while index < len(tokens):
        token = tokens[index]
        if token.type == "ident" and not (tag or element_id or classes or tests):
            tag = token.lower_value
            weight[2] += 1
        elif token.type == "hash":
            if element_id and element_id != token.value:
                tests.append(_never)
            element_id = token.value
            weight[0] += 1
        elif token.type == "[] block":
            tests.append(_attribute(token.content))
            weight[1] += 1
        elif token.type == "literal" and token.value == "*":
            pass
        elif token.type == "literal" and token.value == "." and _is_ident(tokens, index + 1):
            index += 1
            classes.add(tokens[index].value)
            weight[1] += 1
        elif token.type == "literal" and token.value == ":":
            index += 1
            double = index < len(tokens) and tokens[index].type == "literal" and tokens[index].value == ":"
            index += double
            if index >= len(tokens):
                raise SelectorError("a colon with no name after it")
            name = ident(tokens[index])
            if name in PSEUDO_ELEMENTS and (double or name in ("before", "after", "first-letter", "first-line")):
                pseudo = name
                weight[2] += 1
            elif double and (name in SCREEN_ELEMENTS or name.startswith("-")):
                tests.append(_never)
                weight[2] += 1
            elif double:
                raise SelectorError(f"the pseudo-element '::{_name(tokens[index])}' is not known")
            else:
                test, extra = _pseudo_class(tokens[index])
                tests.append(test)
                weight = [a + b for a, b in zip(weight, extra, strict=True)]
        else:
            break
        index += 1
    return Compound(tag, element_id, frozenset(classes), tuple(tests)), weight, pseudo, index


def _is_ident(tokens: list[Token], index: int) -> bool:
    return index < len(tokens) and tokens[index].type == "ident"


def _name(token: Token) -> str:
    return str(getattr(token, "name", getattr(token, "value", "?")))


def _never(_element: Element, _siblings: Siblings) -> bool:
    return False


def _attribute(content: Tokens) -> Test:
    """[name], [name=value] and the other operators, with the i flag (Selectors 4 §6)."""
    tokens = [t for t in content if t.type not in ("whitespace", "comment")]
    if not tokens or tokens[0].type != "ident":
        raise SelectorError("an attribute selector without a name")
    name = tokens[0].lower_value
    if len(tokens) == 1:
        return lambda element, _: element.get(name) is not None
    operator = "".join(t.value for t in tokens[1:-1] if t.type == "literal")
    rest = [t for t in tokens[1:] if t.type in ("ident", "string")]
    if not rest or operator not in ATTRIBUTE_TESTS:
        operator = "".join(t.value for t in tokens[1:] if t.type == "literal")
        if not rest or operator not in ATTRIBUTE_TESTS:
            raise SelectorError("an attribute selector that is not understood")
    wanted = rest[0].value
    compare = ATTRIBUTE_TESTS[operator]
    if len(rest) > 1 and ident(rest[1]) == "i":
        wanted = wanted.lower()
        return lambda element, _: compare((element.get(name) or "").lower(), wanted)

    def test(element: Element, _siblings: Siblings) -> bool:
        value = element.get(name)
        return value is not None and compare(value, wanted)

    return test


ATTRIBUTE_TESTS: Final[dict[str, Callable[[str, str], bool]]] = {
    "=": lambda value, wanted: value == wanted,
    "~=": lambda value, wanted: wanted in value.split(),
    "|=": lambda value, wanted: value == wanted or value.startswith(f"{wanted}-"),
    "^=": lambda value, wanted: bool(wanted) and value.startswith(wanted),
    "$=": lambda value, wanted: bool(wanted) and value.endswith(wanted),
    "*=": lambda value, wanted: bool(wanted) and wanted in value,
}


def _pseudo_class(token: Token) -> tuple[Test, Specificity]:
    if token.type == "ident":
        name = token.lower_value
        if name in NEVER:
            return _never, (0, 1, 0)
        if name in SIMPLE_CLASSES:
            return SIMPLE_CLASSES[name], (0, 1, 0)
        raise SelectorError(f"the pseudo-class ':{name}' is not known")
    if token.type == "function":
        make = FUNCTIONAL_CLASSES.get(token.lower_name)
        if make is not None:
            return make(token.lower_name, token.arguments)
        raise SelectorError(f"the pseudo-class ':{token.lower_name}()' is not known")
    raise SelectorError("a colon with no name after it")


def _of_type(element: Element, backwards: bool) -> int:
    """Position from 1 among the siblings of its own tag."""
    return 1 + sum(1 for _ in element.itersiblings(element.tag, preceding=not backwards))


def is_root(element: Element, _siblings: Siblings) -> bool:
    return element.getparent() is None


def _is_empty(element: Element, _siblings: Siblings) -> bool:
    return not (element.text or any(True for _ in element))


def _only_child(element: Element, siblings: Siblings) -> bool:
    return siblings.place(element)[1] == 1


def _is_first(element: Element, _siblings: Siblings) -> bool:
    before = element.getprevious()
    while before is not None and not isinstance(before.tag, str):  # comments are no siblings
        before = before.getprevious()
    return before is None


def _is_last(element: Element, _siblings: Siblings) -> bool:
    after = element.getnext()
    while after is not None and not isinstance(after.tag, str):
        after = after.getnext()
    return after is None


CONTROLS: Final = ("button", "fieldset", "input", "optgroup", "option", "select", "textarea")
FIELDS: Final = ("input", "select", "textarea")
TYPED: Final = ("input", "textarea")
SIMPLE_CLASSES: Final[dict[str, Test]] = {
    "root": is_root,
    "empty": _is_empty,
    "first-child": _is_first,
    "last-child": _is_last,
    "only-child": _only_child,
    "first-of-type": lambda e, _: _of_type(e, False) == 1,
    "last-of-type": lambda e, _: _of_type(e, True) == 1,
    "only-of-type": lambda e, _: _of_type(e, False) == _of_type(e, True) == 1,
    "checked": lambda e, _: "checked" in e.attrib if e.tag == "input" else e.tag == "option" and "selected" in e.attrib,
    "disabled": lambda e, _: e.tag in CONTROLS and "disabled" in e.attrib,
    "enabled": lambda e, _: e.tag in CONTROLS and "disabled" not in e.attrib,
    "required": lambda e, _: e.tag in FIELDS and "required" in e.attrib,
    "optional": lambda e, _: e.tag in FIELDS and "required" not in e.attrib,
    "read-only": lambda e, _: e.tag not in TYPED or "readonly" in e.attrib or "disabled" in e.attrib,
    "read-write": lambda e, _: e.tag in TYPED and "readonly" not in e.attrib and "disabled" not in e.attrib,
    "placeholder-shown": lambda e, _: e.tag in TYPED and bool(e.get("placeholder")) and not (e.get("value") or e.text),
    "open": lambda e, _: e.tag in ("details", "dialog") and "open" in e.attrib,
    "scope": is_root,
    "link": lambda e, _: e.tag == "a" and e.get("href") is not None,
    "any-link": lambda e, _: e.tag == "a" and e.get("href") is not None,
}


def _is(_name: str, arguments: Tokens) -> tuple[Test, Specificity]:
    """:is(), whose list is forgiven what is not understood in it (Selectors 4 §4.2, §18.1)."""
    return _matches_any(list(_forgiven(arguments)))


def _forgiven(arguments: Tokens) -> Iterator[Selector]:
    for part in _split_keeping_space(arguments):
        with suppress(SelectorError):
            yield _without_pseudo_element(_parse_complex(part))


def _matches_any(options: list[Selector]) -> tuple[Test, Specificity]:
    weight = max((option.specificity for option in options), default=(0, 0, 0))
    return (lambda e, s: any(option.matches(e, s) for option in options)), weight


def _where(name: str, arguments: Tokens) -> tuple[Test, Specificity]:
    return _is(name, arguments)[0], (0, 0, 0)


def _not(_name: str, arguments: Tokens) -> tuple[Test, Specificity]:
    test, weight = _matches_any([_without_pseudo_element(option) for option in parse_selectors(arguments)])
    return (lambda e, s: not test(e, s)), weight


def _without_pseudo_element(selector: Selector) -> Selector:
    if selector.pseudo_element:
        raise SelectorError("a pseudo-element stands at the end of a selector, not in brackets")
    return selector


def _has(_name: str, arguments: Tokens) -> tuple[Test, Specificity]:
    """:has() with relative selectors, which all start from the element itself (Selectors 4 §3.5, §4.5)."""
    options: list[tuple[str, Selector]] = []
    for part in _split_keeping_space(arguments):
        lead = part[0].value if part and part[0].type == "literal" and part[0].value in ">+~" else " "
        selector = _parse_complex(_strip(part[1:] if lead != " " else part))
        options.append((lead, _without_pseudo_element(selector)))

    def test(element: Element, siblings: Siblings) -> bool:
        return any(_has_relative(element, lead, selector, siblings) for lead, selector in options)

    return test, max(selector.specificity for _, selector in options)


def _has_relative(element: Element, lead: str, selector: Selector, siblings: Siblings) -> bool:
    if not selector.steps:
        return any(selector.subject.matches(candidate, siblings) for candidate in _relatives(lead, element))
    start = Step(lead, Compound(tests=(lambda candidate, _: candidate is element,)))
    anchored = selector._replace(steps=(*selector.steps, start))
    roots = (element,) if lead in " >" else element.itersiblings()
    return any(
        anchored.matches(candidate, siblings)
        for root in roots
        for candidate in root.iter()
        if isinstance(candidate.tag, str)
    )


def _split_keeping_space(tokens: Tokens) -> list[list[Token]]:
    parts: list[list[Token]] = [[]]
    for token in tokens:
        if token.type == "literal" and token.value == ",":
            parts.append([])
        elif token.type != "comment":
            parts[-1].append(token)
    return [_strip(part) for part in parts]


def _relatives(lead: str, element: Element) -> Iterator[Element]:
    if lead == " ":
        found: Iterable[Element] = element.iterdescendants()
    elif lead == ">":
        found = element
    else:
        found = element.itersiblings()
    for candidate in found:
        if isinstance(candidate.tag, str):
            yield candidate
            if lead == "+":
                return


def _nth(name: str, arguments: Tokens) -> tuple[Test, Specificity]:
    """:nth-child() and its kin, with `of` (Selectors 4 §14)."""
    arguments = list(arguments)
    of: list[Selector] = []
    for index, token in enumerate(arguments):
        if ident(token) == "of":
            of = parse_selectors(arguments[index + 1 :])
            arguments = arguments[:index]
            break
    try:
        formula = parse_nth(arguments)
    except AttributeError:  # it ends in its middle
        formula = None
    if formula is None:
        raise SelectorError(f"the formula of ':{name}()' is not understood")
    step, offset = formula
    backwards = "last" in name
    weight = max((s.specificity for s in of), default=(0, 0, 0))

    def test(element: Element, siblings: Siblings) -> bool:
        if name.endswith("of-type"):
            place = _of_type(element, backwards)
        elif of:
            if not any(s.matches(element, siblings) for s in of):
                return False
            others = (e for e in element.itersiblings(preceding=not backwards) if isinstance(e.tag, str))
            place = 1 + sum(1 for e in others if any(s.matches(e, siblings) for s in of))
        else:
            index, count = siblings.place(element)
            place = count - index + 1 if backwards else index
        return is_nth(place, step, offset)

    return test, (weight[0], weight[1] + 1, weight[2])


def _lang(_name: str, arguments: Tokens) -> tuple[Test, Specificity]:
    wanted = [str(part[0].value).lower() for part in split_commas(arguments) if part]

    def test(element: Element, _siblings: Siblings) -> bool:
        node: Element | None = element
        while node is not None:
            value = node.get("lang")
            if value is not None:
                value = value.lower()
                return any(value == w or value.startswith(f"{w}-") for w in wanted)
            node = node.getparent()
        return False

    return test, (0, 1, 0)


def _dir(_name: str, arguments: Tokens) -> tuple[Test, Specificity]:
    """:dir(), by the nearest element that says a direction (Selectors 4 §7.1)."""
    wanted = "".join(token.serialize() for token in arguments).strip().lower()

    def test(element: Element, _siblings: Siblings) -> bool:
        said = (around.get("dir", "").strip().lower() for around in (element, *element.iterancestors()))
        return next((found for found in said if found in ("ltr", "rtl")), "ltr") == wanted

    return test, (0, 1, 0)


def _of_shadows(_name: str, arguments: Tokens) -> tuple[Test, Specificity]:
    """:host() and :host-context(): understood, and never so (CSS Scoping 1 §3.2)."""
    _, (ids, classes, names) = _matches_any([_without_pseudo_element(option) for option in parse_selectors(arguments)])
    return _never, (ids, classes + 1, names)


FUNCTIONAL_CLASSES: Final[dict[str, Callable[[str, Tokens], tuple[Test, Specificity]]]] = {
    "is": _is,
    "where": _where,
    "not": _not,
    "has": _has,
    "lang": _lang,
    "dir": _dir,
    "host": _of_shadows,
    "host-context": _of_shadows,
    "nth-child": _nth,
    "nth-last-child": _nth,
    "nth-of-type": _nth,
    "nth-last-of-type": _nth,
}
