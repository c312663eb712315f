"""The web door: a page by its address."""

from __future__ import annotations

import re
from typing import Final
from urllib.parse import urljoin

from fleetquill.errors import SourceError, Where
from fleetquill.intake.order import Order
from fleetquill.tree.document import Document
from fleetquill.tree.html import parse_html

HTML_TYPES: Final = ("text/html", "application/xhtml+xml")
CHARSET: Final = re.compile(rb"<meta[^>]+charset=[\"']?([\w-]+)", re.IGNORECASE)


def read(order: Order) -> Document:
    """The document of a page of the web; its pictures and style sheets are fetched side by side."""
    address, reader = str(order.source), order.reader
    resource = reader.web.get(address)
    kind = reader.web.content_type(address).partition(";")[0].strip().lower()
    if kind and kind not in HTML_TYPES:
        raise SourceError(f"The address gives '{kind}', not HTML.", where=Where(address))
    text = resource.content.decode(_encoding(resource.content, reader.web.content_type(address)), "replace")
    document = Document(parse_html(text), resource.name, address, reader=reader)
    base = document.root.find(".//base[@href]")
    if base is not None:
        document.base = urljoin(resource.name, base.get("href", ""))
    root = document.root
    urls = [element.get("src", "") for element in root.iter("img")]
    urls += [e.get("href", "") for e in root.iter("link") if "stylesheet" in e.get("rel", "").lower().split()]
    reader.prefetch([url for url in urls if url], document.base)
    return document


def _encoding(content: bytes, content_type: str) -> str:
    """From the header, else from the page itself, else UTF-8."""
    match = re.search(r"charset=[\"']?([\w-]+)", content_type)
    inner = CHARSET.search(content[:2048])
    name = match[1] if match else inner[1].decode("ascii") if inner else "utf-8"
    try:
        "".encode(name)
    except LookupError:
        return "utf-8"
    return name
