"""A ledger as part of an HTML file."""

from __future__ import annotations

import os
from collections.abc import Sequence

from lxml import etree

from fleetquill.errors import OptionError
from fleetquill.tree.column import Column

Element = etree._Element


def write_ledger(element: Element, path: str | os.PathLike[str], columns: Sequence[Column]) -> None:
    """Puts a ledger's file and columns into its element, as HTML describes them."""
    for column in columns:
        if column.rule is not None or callable(column.form):
            what = "rule" if column.rule is not None else "form"
            raise OptionError(
                f"The {what} of the column '{column.name}' is a function, which HTML cannot hold.",
                remedy="Leave it out, or compose the manuscript itself.",
            )
    del element.attrib["rows"]
    element.set("src", os.fspath(path))
    for old in list(element):
        element.remove(old)
    for column in columns:
        attributes = {"name": column.name, "head": column.title, "overflow": column.overflow}
        for name in ("form", "align", "width", "total"):
            text = getattr(column, name)
            if text and isinstance(text, str):
                attributes[name] = text
        if column.carry:
            attributes["carry"] = "carry"
        etree.SubElement(element, "fq-column", attributes)
