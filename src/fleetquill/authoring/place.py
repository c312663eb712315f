"""The place in a manuscript where the next part goes."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from typing import Any

from lxml import etree

from fleetquill.authoring.inline import fill
from fleetquill.authoring.recording import Recorded
from fleetquill.tree.document import Document
from fleetquill.tree.head import add_rule
from fleetquill.tree.texts import clean

Element = etree._Element


class SectionPages:
    """The pages of a section: its element, their size, and their name once it has one; of the whole without one."""

    __slots__ = ("element", "name", "size")

    def __init__(self, element: Element | None, size: str) -> None:
        self.element = element
        self.size = size
        self.name = ""


class Place(Recorded):
    """A document that grows at one place."""

    document: Document
    _place: Element
    _count: int
    _pages: SectionPages
    _heads: set[tuple[str, str]]  # edges with the pages that have a head or foot there

    def _add(self, tag: str, attributes: Mapping[str, str]) -> Element:
        return etree.SubElement(self._place, tag, {name: clean(text) for name, text in attributes.items()})

    def _fill(self, tag: str, attributes: Mapping[str, str], content: Iterable[Any]) -> None:
        """Adds a part with its content; nothing is added where the content is at fault."""
        element = self._add(tag, attributes)
        with self._undone_on_error(element):
            fill(element, content)

    @contextmanager
    def _undone_on_error(self, element: Element) -> Iterator[None]:
        """Nothing half-made stays in the manuscript."""
        place = self._place
        try:
            yield
        except Exception:
            place.remove(element)
            raise

    @contextmanager
    def _inside(self, element: Element) -> Iterator[None]:
        outer, self._place = self._place, element
        try:
            yield
        finally:
            self._place = outer

    def _rule(self, css: str) -> None:
        add_rule(self.document.root, css)

    def _page_name(self) -> str:
        self._count += 1
        return f"fq-page-{self._count}"
