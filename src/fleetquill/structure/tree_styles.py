"""The computed styles of a document's elements, for those who make no boxes of them."""

from __future__ import annotations

from lxml import etree

from fleetquill.style.cascade import Cascade, MatchNode
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.selectors import Siblings

Element = etree._Element


class TreeStyles:
    """Computes the style of an element when it is asked for, and those above it."""

    def __init__(self, cascade: Cascade, root: Element) -> None:
        self._cascade = cascade
        self._siblings = Siblings()
        self._alive = list(root.iter())  # so that each element stays one object while it is compared
        self._known: dict[Element, tuple[MatchNode, ComputedStyle]] = {}

    def of(self, element: Element) -> ComputedStyle:
        return self._found(element)[1]

    def is_hidden(self, element: Element) -> bool:
        """Whether an element leaves no box."""
        return self.of(element).display == "none"

    def _found(self, element: Element) -> tuple[MatchNode, ComputedStyle]:
        chain: list[Element] = []
        above: Element | None = element
        while above is not None and above not in self._known:
            chain.append(above)
            above = above.getparent()
        node, style = (None, None) if above is None else self._known[above]
        for inner in reversed(chain):
            node = self._cascade.node(node, inner)
            style = self._cascade.style(inner, node, style, self._siblings)
            self._known[inner] = (node, style)
        assert node is not None and style is not None
        return node, style
