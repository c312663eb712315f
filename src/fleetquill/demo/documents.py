"""The demo documents, each made from the data in this folder."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Final, NamedTuple

from fleetquill.intake.records import read_data
from fleetquill.press import Press, Summary

HERE: Final = Path(__file__).parent


class Document(NamedTuple):
    """A demo document: the file to write, the template, and its data ('' for none)."""

    name: str
    template: str
    data: str


DOCUMENTS: Final = (
    Document("invoice.pdf", "invoice.html", "invoice-short.json"),
    Document("invoice-long.pdf", "invoice.html", "invoice-long.json"),
    Document("voyage-log.pdf", "voyage-log.html", ""),
    Document("tables.pdf", "tables.html", ""),
    Document("report.pdf", "report.html", "report.json"),
    Document("certificate.pdf", "certificate.html", ""),
    Document("specimen.pdf", "specimen.html", ""),
)


def make_documents(folder: Path) -> Iterator[tuple[Path, Summary]]:
    """Writes every demo document into a folder that exists."""
    press = Press(locale="en-IE")
    for document in DOCUMENTS:
        target = folder / document.name
        data = read_data(HERE / document.data) if document.data else {}
        yield target, press.publish(HERE / document.template, target, data=data)
