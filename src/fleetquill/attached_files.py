"""The files that go along with a document: those that it was given, and those that its links name."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import PurePosixPath
from urllib.parse import unquote, urlsplit

from fleetquill.errors import FleetQuillError, OptionError
from fleetquill.remarks import Remarks
from fleetquill.tree.attachments import RELATIONSHIPS, Attachment, named
from fleetquill.tree.base import Reader
from fleetquill.tree.document import Document


def attachments_of(document: Document, reader: Reader, remarks: Remarks) -> Iterator[Attachment]:
    """What is attached, in order: `<link rel="attachment" href type title data-name data-relationship>`, and what was
    given from Python. One that cannot be read is a remark."""
    yield from document.attachments
    for link in document.root.iter("link"):
        if "attachment" not in link.get("rel", "").lower().split():
            continue
        address, place = link.get("href", "").strip(), document.place_of(link)
        relationship = link.get("data-relationship", "Unspecified")
        try:
            if not address:
                raise OptionError("It has no address.")
            if relationship not in RELATIONSHIPS:
                raise OptionError(f"'{relationship}' is nothing that a file can be to a document.")
            content = reader.read(address, document.base).content
            name = link.get("data-name") or unquote(PurePosixPath(urlsplit(address).path).name)
            yield named(Attachment(name, content, link.get("type", ""), relationship, link.get("title", "")))
        except FleetQuillError as error:
            message = f"The file '{address}' is not attached. {error.what} {error.remedy}".strip()
            remarks.add("attachment", message, source=place.source, line=place.line)
