"""The HTML door."""

from __future__ import annotations

from pathlib import Path

from fleetquill.intake.order import Order
from fleetquill.tree.document import Document
from fleetquill.tree.files import read_page


def read(order: Order) -> Document:
    """The document of an HTML file; its links are relative to its folder."""
    path = Path(order.source)
    return Document.of_html(read_page(path), path.parent, str(path))
