"""Writing XML in the order of a schema: what is empty is left out."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from decimal import Decimal
from typing import Any

from lxml import etree

from fleetquill.invoices.totals import CENT

Value = str | Decimal | date | None


class Branch:
    """An element that is being filled; children come in the order in which they are added."""

    def __init__(self, element: etree._Element, spaces: Mapping[str, str]) -> None:
        self.element = element
        self._spaces = spaces

    def branch(self, name: str, /, **attributes: str) -> Branch:
        """A child to be filled, such as 'ram:ID'."""
        return Branch(etree.SubElement(self.element, self._qualified(name), attributes), self._spaces)

    def add(self, path: str, value: Value, /, **attributes: str) -> None:
        """The elements of a path, the last of which holds a value; none of them where there is no value."""
        text = written(value)
        if not text:
            return
        *around, name = path.split("/")
        place = self
        for outer in around:
            place = place.branch(outer)
        place.branch(name, **{key: own for key, own in attributes.items() if own}).element.text = text

    def prune(self, keep: str) -> None:
        """Takes elements away in which nothing stands, but for those of one name."""
        for element in [*self.element.iter()][::-1]:
            parent = element.getparent()
            if (
                etree.QName(element).localname != keep
                and parent is not None
                and len(element) == 0
                and not (element.text or "")
            ):
                parent.remove(element)

    def _qualified(self, name: str) -> str:
        prefix, _, local = name.partition(":")
        return f"{{{self._spaces[prefix]}}}{local}"


def root(name: str, spaces: Mapping[str, str], *, plain: str = "") -> Branch:
    """The root of a tree; the namespace of the prefix `plain` is written without one."""
    prefix, _, local = name.partition(":")
    shown: dict[Any, str] = {None if prefix == plain else prefix: uri for prefix, uri in spaces.items()}
    return Branch(etree.Element(f"{{{spaces[prefix]}}}{local}", nsmap=shown), spaces)


def written(value: Value) -> str:
    """A value as the schemas write it."""
    if value is None:
        return ""
    if isinstance(value, Decimal):
        return f"{value:f}"
    if isinstance(value, date):
        return value.isoformat()
    return value


def money(amount: Decimal | None) -> Decimal | None:
    """An amount with its cents."""
    if amount is None:
        return None
    exponent = amount.as_tuple().exponent
    return amount.quantize(CENT) if isinstance(exponent, int) and exponent > -2 else amount


def document(branch: Branch, *, keep: str = "") -> bytes:
    """The file of a tree; elements of the name `keep` stay, though nothing stands in them."""
    branch.prune(keep)
    content: bytes = etree.tostring(branch.element, xml_declaration=True, encoding="UTF-8", pretty_print=True)
    return content
