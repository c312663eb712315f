"""Files that go along with a document: what they are, and what they are to it."""

from __future__ import annotations

import mimetypes
from datetime import UTC, datetime
from pathlib import Path
from typing import Final, NamedTuple

from fleetquill.errors import OptionError, SourceError, Where, meant

RELATIONSHIPS: Final = (  # to the document (ISO 32000-2 §7.11.3, table 43)
    "Source", "Data", "Alternative", "Supplement", "EncryptedPayload", "FormData", "Schema", "Unspecified",
)  # fmt: skip
UNKNOWN_KIND: Final = "application/octet-stream"
KINDS: Final = {".csv": "text/csv", ".json": "application/json", ".xml": "text/xml", ".yaml": "application/yaml"}


class Attachment(NamedTuple):
    """A file that goes along: its name there, its content, its media type, what it is to the document."""

    name: str
    content: bytes
    kind: str
    relationship: str = "Unspecified"
    description: str = ""
    changed: datetime | None = None


def attachment(
    given: str | Path | bytes, name: str = "", kind: str = "", relationship: str = "Unspecified", description: str = ""
) -> Attachment:
    """The attachment of a file, or of bytes, which need a name. Raises OptionError or SourceError."""
    if relationship not in RELATIONSHIPS:
        hint = meant(relationship, RELATIONSHIPS)
        raise OptionError(f"'{relationship}' is nothing that a file can be to a document.", remedy=hint)
    if isinstance(given, (bytes, bytearray, memoryview)):
        content, changed, found = bytes(given), None, name
    else:
        path = Path(given)
        try:
            content = path.read_bytes()
            changed = datetime.fromtimestamp(int(path.stat().st_mtime), UTC)
        except OSError as error:
            what = f"The file that is to be attached cannot be read: {error.strerror or error}."
            raise SourceError(what, where=Where(str(path))) from error
        found = name or path.name
    return named(Attachment(found, content, kind, relationship, description, changed))


def named(made: Attachment) -> Attachment:
    """An attachment whose name and kind can be written. Raises OptionError where it has no name."""
    if not made.name or any(mark in made.name for mark in "/\\\0"):
        raise OptionError(
            f"{made.name!r} is not the name of an attachment." if made.name else "An attachment of bytes has no name.",
            remedy="Give one such as 'order.xml'.",
        )
    kind = made.kind or KINDS.get(Path(made.name).suffix.lower()) or mimetypes.guess_type(made.name)[0] or UNKNOWN_KIND
    if kind.count("/") != 1 or not all(kind.split("/")):
        raise OptionError(f"'{kind}' is no media type.", remedy="Give one such as 'text/xml'.")
    return made._replace(kind=kind)
