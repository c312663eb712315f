"""Document information and XMP metadata (ISO 32000-2 §14.3)."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from fleetquill import __version__
from fleetquill.tree.metadata import Metadata

PRODUCER = f"Fleet Quill {__version__}"
ESCAPES = str.maketrans({"&": "&amp;", "<": "&lt;", ">": "&gt;"})  # XML §2.4


def information(metadata: Metadata) -> dict[str, Any]:
    """The document information dictionary."""
    entries: dict[str, Any] = {
        "Title": metadata.title or None,
        "Author": metadata.author or None,
        "Subject": metadata.subject or None,
        "Keywords": metadata.keywords or None,
        "Producer": PRODUCER,
    }
    if metadata.created is not None:
        entries["CreationDate"] = _pdf_date(metadata.created)
    return entries


def _pdf_date(moment: datetime) -> str:
    """§7.9.4."""
    text = moment.strftime("D:%Y%m%d%H%M%S")
    offset = moment.strftime("%z")
    return f"{text}{offset[:3]}'{offset[3:5]}'" if offset else f"{text}Z"


def xmp(metadata: Metadata) -> bytes:
    """The same as an XMP packet (ISO 16684-1)."""
    parts = []
    for value, element, container in (
        (metadata.title, "dc:title", "Alt"),
        (metadata.author, "dc:creator", "Seq"),
        (metadata.subject, "dc:description", "Alt"),
        (metadata.language, "dc:language", "Bag"),
    ):
        if value:
            language = ' xml:lang="x-default"' if container == "Alt" else ""
            row = f"<rdf:li{language}>{value.translate(ESCAPES)}</rdf:li>"
            parts.append(f"<{element}><rdf:{container}>{row}</rdf:{container}></{element}>")
    if metadata.keywords:
        parts.append(f"<pdf:Keywords>{metadata.keywords.translate(ESCAPES)}</pdf:Keywords>")
    if metadata.created is not None:
        parts.append(f"<xmp:CreateDate>{metadata.created.isoformat()}</xmp:CreateDate>")
    parts.append(f"<pdf:Producer>{PRODUCER}</pdf:Producer>")
    body = "\n".join(parts)
    return (
        '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>\n'
        '<x:xmpmeta xmlns:x="adobe:ns:meta/">\n'
        '<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">\n'
        '<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/"'
        ' xmlns:pdf="http://ns.adobe.com/pdf/1.3/" xmlns:xmp="http://ns.adobe.com/xap/1.0/">\n'
        f'{body}\n</rdf:Description>\n</rdf:RDF>\n</x:xmpmeta>\n<?xpacket end="w"?>'
    ).encode()
