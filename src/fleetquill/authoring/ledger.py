"""A ledger as part of an HTML file."""

from __future__ import annotations

import os
from collections.abc import Sequence

from lxml import etree

from fleetquill.errors import OptionError
from fleetquill.tree.column import Column
from fleetquill.tree.groups import Group

Element = etree._Element


def write_ledger(
    element: Element, path: str | os.PathLike[str], columns: Sequence[Column], groups: Sequence[Group]
) -> None:
    """Puts a ledger's file, columns and groups into its element, as HTML describes them."""
    for column in columns:
        if column.rule is not None or callable(column.form):
            what = "rule" if column.rule is not None else "form"
            raise OptionError(
                f"The {what} of the column '{column.name}' is a function, which HTML cannot hold.",
                remedy="Leave it out, or compose the manuscript itself.",
            )
    for group in groups:
        if group.heading is not None or group.label is not None or callable(group.form):
            raise OptionError(
                f"The group '{group.name}' has a function, which HTML cannot hold.",
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
    for group in groups:
        attributes = {"name": group.name, "summaries": " ".join(name for name, _ in group.rows)}
        attributes |= {"form": str(group.form)} if group.form else {}
        attributes |= {} if group.heads else {"heads": "none"}
        attributes |= {"new-page": "new-page"} if group.new_page else {}
        etree.SubElement(element, "fq-group", attributes)
