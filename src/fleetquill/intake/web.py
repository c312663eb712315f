"""The web door: a page by its address."""

from __future__ import annotations

import re
from typing import Final

from fleetquill.errors import SourceError, Where
from fleetquill.intake.order import Order
from fleetquill.tree.document import Document
from fleetquill.tree.encoding import encoding_of

HTML_TYPES: Final = ("text/html", "application/xhtml+xml")
CHARSET: Final = re.compile(r"charset=[\"']?([\w.:-]+)", re.IGNORECASE)


def read(order: Order) -> Document:
    """The document of a page of the web; its pictures and style sheets are fetched side by side."""
    address, reader = str(order.source), order.reader
    resource = reader.web.get(address)
    kind = reader.web.content_type(address).partition(";")[0].strip().lower()
    if kind and kind not in HTML_TYPES:
        raise SourceError(f"The address gives '{kind}', not HTML.", where=Where(address))
    declared = CHARSET.search(reader.web.content_type(address))
    text = resource.content.decode(encoding_of(resource.content, declared[1] if declared else "") or "utf-8", "replace")
    document = Document.of_html(text, resource.name, address, reader=reader)
    root = document.root
    urls = [element.get("src", "") for element in root.iter("img")]
    urls += [e.get("href", "") for e in root.iter("link") if "stylesheet" in e.get("rel", "").lower().split()]
    reader.prefetch([url for url in urls if url], document.base)
    return document
