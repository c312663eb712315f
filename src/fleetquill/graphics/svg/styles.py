"""The cascade at work on one drawing."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Final

from fleetquill.graphics.svg.reading import Element
from fleetquill.style.cascade import Cascade, MatchNode
from fleetquill.style.properties import INITIAL_STYLE, ComputedStyle
from fleetquill.style.selectors import Siblings
from fleetquill.tree.html import plain_names

# What the standard's own sheet says (SVG 2, appendix "User Agent Style Sheet").
BASE: Final = """
  svg, symbol, image, marker, pattern { overflow: hidden }
  * { transform-origin: 0 0 }
"""

CascadeOf = Callable[[Sequence[str]], Cascade]  # of the style sheets that a drawing brings along


class Ids:
    """The elements of a drawing by their id, and those of other drawings in its document."""

    def __init__(self, root: Element, elements: Sequence[Element], *, in_document: bool) -> None:
        self._own = {e.get("id", ""): e for e in elements if isinstance(e.tag, str) and e.get("id")}
        self._root = root
        self._in_document = in_document
        self._others: dict[str, Element | None] = {}

    def get(self, name: str) -> Element | None:
        found = self._own.get(name)
        if found is not None or not name or not self._in_document:
            return found
        if name not in self._others:
            self._others[name] = self._elsewhere(name)
        return self._others[name]

    def led_to(self, element: Element) -> Element | None:
        """What an element's href leads to in this document."""
        address = element.get("href", "")
        return self.get(address[1:]) if address.startswith("#") else None

    def _elsewhere(self, name: str) -> Element | None:
        return drawn_element(self._root.getroottree().getroot(), name)


def drawn_element(document: Element, name: str) -> Element | None:
    """The part with that id of any drawing in a document, its names made plain."""
    for element in document.iterfind(f".//*[@id={quoted(name)}]") if quoted(name) else ():
        drawing = next((a for a in element.iterancestors("svg", "{*}svg")), element)
        plain_names(drawing)
        return element
    return None


def quoted(name: str) -> str:
    """A name as a path asks for it; '' where it holds both kinds of quotes."""
    if "'" not in name:
        return f"'{name}'"
    return f'"{name}"' if '"' not in name else ""


class DrawingStyles:
    """The computed styles of a drawing's elements."""

    def __init__(self, root: Element, cascade_of: CascadeOf, style: ComputedStyle | None) -> None:
        """`style` is the root's own, where it stands in a document that styles it."""
        self._alive = list(root.iter())  # so that each element stays one object while it is compared
        sheets = [e.text for e in self._alive if e.tag == "style" and e.text]
        self._cascade = cascade_of(sheets)
        self._siblings = Siblings()
        self._nodes: dict[Element, MatchNode] = {}
        self._root = root
        self._around = style.parent if style is not None else None
        self.root_style = style or self._cascade.style(root, self._node(root), None, self._siblings)
        self.ids = Ids(root, self._alive, in_document=style is not None)

    def below(self, element: Element, parent: ComputedStyle) -> ComputedStyle:
        """The style of an element that is drawn in one of this style: its parent, or what uses it."""
        return self._cascade.style(element, self._node(element), parent, self._siblings)

    def in_place(self, element: Element) -> ComputedStyle:
        """The style of an element where it stands: what is referred to inherits there (SVG 2 §14.2, CSS Masking 1)."""
        chain: list[Element] = []
        node: Element | None = element
        while node is not None and node is not self._root:
            chain.append(node)
            node = node.getparent()
        style = self.root_style
        for inner in reversed(chain):
            style = self.below(inner, style)
        return style

    def lines_of(self, style: ComputedStyle) -> set[str]:
        """The decoration lines of text: its own and those of what it stands in (CSS Text Decoration 3 §2)."""
        lines: set[str] = set()
        node: ComputedStyle | None = style
        while node is not None and node is not self._around and node is not INITIAL_STYLE:
            lines.update(node.text_decoration_line)
            node = node.parent
        return lines

    def _node(self, element: Element) -> MatchNode:
        """The place of an element in the cascade's tree of ancestor chains."""
        chain: list[Element] = []
        above: Element | None = element
        while above is not None and above not in self._nodes:
            chain.append(above)
            above = None if above is self._root else above.getparent()
        found = self._nodes[above] if above is not None else None
        for inner in reversed(chain):
            found = self._nodes[inner] = self._cascade.node(found, inner)
        assert found is not None
        return found
