"""The styles of a document's elements and of the boxes that they make besides their own."""

from __future__ import annotations

from fleetquill.layout.boxes.boxes import Element
from fleetquill.style.cascade import Cascade, MatchNode
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.selectors import Siblings


class ElementStyles:
    """The cascade at work on one document."""

    def __init__(self, cascade: Cascade, root: Element) -> None:
        self.cascade = cascade
        self.siblings = Siblings()
        self._alive = list(root.iter())  # so that each element stays one object while it is compared

    def take_in(self, root: Element) -> None:
        """Elements that come in while boxes are built, below one that is known."""
        self._alive += list(root.iter())
        self.siblings = Siblings()

    def pseudo(self, element: Element, node: MatchNode, name: str, parent: ComputedStyle) -> ComputedStyle | None:
        """The style of a pseudo-element; None where no rule speaks of it."""
        return self.cascade.pseudo_style(element, node, name, parent, self.siblings)

    def anonymous(self, parent: ComputedStyle, display: str) -> ComputedStyle:
        """The style of an anonymous box."""
        return self.cascade.anonymous(parent, display)
