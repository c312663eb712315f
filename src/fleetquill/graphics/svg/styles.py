"""The cascade at work on one drawing."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Final

from fleetquill.graphics.svg.reading import Element
from fleetquill.style.cascade import Cascade, MatchNode
from fleetquill.style.properties import INITIAL_STYLE, ComputedStyle
from fleetquill.style.selectors import Siblings

# What the standard's own sheet says (SVG 2, appendix "User Agent Style Sheet").
BASE: Final = """
  svg, symbol, image, marker, pattern { overflow: hidden }
  * { transform-origin: 0 0 }
"""

CascadeOf = Callable[[Sequence[str]], Cascade]  # of the style sheets that a drawing brings along


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
        self.ids = {e.get("id", ""): e for e in self._alive if isinstance(e.tag, str) and e.get("id")}

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
