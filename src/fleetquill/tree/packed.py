"""A tree as plain values, which can be sent to another process, and back."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple

from lxml import etree

from fleetquill.tree.html import PARSER

Element = etree._Element


class Packed(NamedTuple):
    """One element: how deep it stands, its name, its attributes, the text in it and behind it, its line."""

    depth: int
    tag: str
    attributes: dict[str, str]
    text: str | None
    tail: str | None
    line: int | None
    is_comment: bool = False


def pack(root: Element, line_of: Callable[[Element], int | None]) -> list[Packed]:
    """The elements of a tree, in their order."""
    found: list[Packed] = []
    waiting = [(root, 0)]
    while waiting:
        element, depth = waiting.pop()
        tag: Any = element.tag
        if isinstance(tag, str):
            attributes = {str(name): str(value) for name, value in element.attrib.items()}
            found.append(Packed(depth, tag, attributes, element.text, element.tail, line_of(element)))
            waiting += [(child, depth + 1) for child in reversed(element)]
        elif tag is etree.Comment:
            found.append(Packed(depth, "", {}, element.text, element.tail, None, is_comment=True))
    return found


def unpack(packed: list[Packed]) -> Element:
    """The tree of elements in their order."""
    above: list[Element] = []
    for one in packed:
        if one.is_comment:
            element: Element = etree.Comment(one.text)
        else:
            element = PARSER.makeelement(one.tag, one.attributes)
            element.text = one.text
            if one.line is not None:
                element.sourceline = one.line  # type: ignore[assignment]
        element.tail = one.tail
        del above[one.depth :]
        if above:
            above[-1].append(element)
        above.append(element)
    return above[0]
