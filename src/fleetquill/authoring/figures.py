"""A Matplotlib figure as part of an HTML file."""

from __future__ import annotations

import io
from typing import Any

from lxml import etree

Element = etree._Element


def write_figure(element: Element, figure: Any) -> None:
    """Puts a figure in place of its element, as SVG with text as text."""
    out = io.StringIO()
    figure.savefig(out, format="svg", metadata={"Date": None})
    parser = etree.XMLParser(resolve_entities=False, no_network=True)
    svg = etree.fromstring(out.getvalue().encode("utf-8"), parser)
    for name in ("id", "class", "style"):
        if element.get(name):
            svg.set(name, element.get(name, ""))
    svg.tail = element.tail
    parent = element.getparent()
    assert parent is not None
    parent.replace(element, svg)
