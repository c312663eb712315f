"""Paint servers by what they have in common: attributes and content that they take over from one another (§14.1)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.reading import Element
from fleetquill.graphics.svg.styles import Ids
from fleetquill.style.drawn_properties import Paint
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import Rgba

LONGEST_CHAIN: Final = 20  # of servers that build on one another


class Server:
    """A gradient or pattern, with those that it builds on."""

    def __init__(self, element: Element, ids: Ids) -> None:
        self.element = element
        self._ids = ids

    def get(self, name: str) -> str | None:
        """An attribute, its own or that of the one that it builds on."""
        return next((str(server.get(name)) for server in self._chain() if name in server.attrib), None)

    def content(self) -> Element:
        """The first of the chain that has children."""
        with_children = (server for server in self._chain() if any(isinstance(child.tag, str) for child in server))
        return next(with_children, self.element)

    def is_boxed(self, name: str) -> bool:
        """Whether units are shares of the box around the shape."""
        return (self.get(name) or "").lower() != "userspaceonuse"

    def _chain(self) -> Iterator[Element]:
        seen: list[Element] = []
        node: Element | None = self.element
        while node is not None and node not in seen and len(seen) < LONGEST_CHAIN:
            seen.append(node)
            yield node
            node = self._ids.led_to(node)


def server_of(paint: Paint, painter: SvgPainter) -> Server | None:
    """The gradient or pattern that a paint refers to."""
    element = painter.styles.ids.get(paint.server) if paint.server else None
    return None if element is None else Server(element, painter.styles.ids)


def plain_color(paint: Paint, style: ComputedStyle, opacity: float) -> Rgba:
    """The colour of a paint without its server."""
    color = style.used_color(paint.color)
    return color._replace(alpha=color.alpha * opacity)
