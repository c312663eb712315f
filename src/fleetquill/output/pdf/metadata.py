"""Document information and XMP metadata (ISO 32000-2 §14.3)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any, Final, NamedTuple

from fleetquill.standards import NONE, Standards
from fleetquill.tree.metadata import Metadata
from fleetquill.version import VERSION

PRODUCER = f"Fleet Quill {VERSION}"
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
        entries["CreationDate"] = pdf_date(metadata.created)
    return entries


def pdf_date(moment: datetime) -> str:
    """§7.9.4."""
    text = moment.strftime("D:%Y%m%d%H%M%S")
    offset = moment.strftime("%z")
    return f"{text}{offset[:3]}'{offset[3:5]}'" if offset else f"{text}Z"


NAMESPACES: Final = {
    "dc": "http://purl.org/dc/elements/1.1/",
    "pdf": "http://ns.adobe.com/pdf/1.3/",
    "xmp": "http://ns.adobe.com/xap/1.0/",
    "pdfaid": "http://www.aiim.org/pdfa/ns/id/",
    "pdfuaid": "http://www.aiim.org/pdfua/ns/id/",
    "fx": "urn:factur-x:pdfa:CrossIndustryDocument:invoice:1p0#",
}
REVISIONS: Final = {4: "2020"}  # of ISO 19005, by its part
ACCESS_REVISIONS: Final = {2: "2024"}  # of ISO 14289


def xmp(metadata: Metadata, standards: Standards = NONE) -> bytes:
    """The same as an XMP packet (ISO 16684-1), with what the file conforms to."""
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
    parts += _identification(standards)
    if metadata.invoice:
        facts = zip(INVOICE_SCHEMA.properties, ("factur-x.xml", "INVOICE", "1.0", metadata.invoice), strict=True)
        parts += [f"<fx:{own.name}>{value}</fx:{own.name}>" for own, value in facts]
    used = {part[1:].partition(":")[0] for part in parts}
    spaces = "".join(f' xmlns:{prefix}="{space}"' for prefix, space in NAMESPACES.items() if prefix in used)
    described = f'<rdf:Description rdf:about=""{spaces}>\n' + "\n".join(parts) + "\n</rdf:Description>\n"
    if standards.part in (2, 3):
        schemas = ((ACCESS_SCHEMA, standards.access), (INVOICE_SCHEMA, metadata.invoice))
        described += extension_schemas([schema for schema, used in schemas if used])
    return (
        '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>\n'
        '<x:xmpmeta xmlns:x="adobe:ns:meta/">\n'
        '<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">\n'
        f'{described}</rdf:RDF>\n</x:xmpmeta>\n<?xpacket end="w"?>'
    ).encode()


def _identification(standards: Standards) -> list[str]:
    """What the file says that it conforms to (ISO 19005-2 §6.6.4, ISO 14289-1 §5)."""
    parts: list[str] = []
    if standards.part:
        parts.append(f"<pdfaid:part>{standards.part}</pdfaid:part>")
        if standards.part in REVISIONS:
            parts.append(f"<pdfaid:rev>{REVISIONS[standards.part]}</pdfaid:rev>")
        if standards.level:
            parts.append(f"<pdfaid:conformance>{standards.level}</pdfaid:conformance>")
    if standards.access:
        parts.append(f"<pdfuaid:part>{standards.access}</pdfuaid:part>")
        if standards.access in ACCESS_REVISIONS:
            parts.append(f"<pdfuaid:rev>{ACCESS_REVISIONS[standards.access]}</pdfuaid:rev>")
    return parts


class Property(NamedTuple):
    """A property of an extension schema."""

    name: str
    kind: str
    category: str
    description: str


class Schema(NamedTuple):
    """A schema of XMP that ISO 19005 does not know: the file has to describe it (ISO 19005-2 §6.6.2.3.2)."""

    title: str
    space: str
    prefix: str
    properties: tuple[Property, ...]


ACCESS_SCHEMA: Final = Schema(
    "PDF/UA identification schema", NAMESPACES["pdfuaid"], "pdfuaid",
    (Property("part", "Integer", "internal", "Part of ISO 14289 to which the file conforms"),),
)  # fmt: skip


INVOICE_SCHEMA: Final = Schema(
    "Factur-X PDFA Extension Schema", NAMESPACES["fx"], "fx",
    (
        Property("DocumentFileName", "Text", "external", "The name of the embedded XML document"),
        Property("DocumentType", "Text", "external", "The type of the hybrid document in capital letters"),
        Property("Version", "Text", "external", "The version of the standard that the embedded XML data is of"),
        Property("ConformanceLevel", "Text", "external", "The profile of the embedded XML data"),
    ),
)  # fmt: skip


def extension_schemas(schemas: Sequence[Schema]) -> str:
    """The description of extension schemas; nothing where there are none."""
    if not schemas:
        return ""
    rows = "".join(_schema(schema) for schema in schemas)
    return (
        '<rdf:Description rdf:about="" xmlns:pdfaExtension="http://www.aiim.org/pdfa/ns/extension/"'
        ' xmlns:pdfaSchema="http://www.aiim.org/pdfa/ns/schema#"'
        ' xmlns:pdfaProperty="http://www.aiim.org/pdfa/ns/property#">\n'
        f"<pdfaExtension:schemas><rdf:Bag>{rows}</rdf:Bag></pdfaExtension:schemas>\n</rdf:Description>\n"
    )


def _schema(schema: Schema) -> str:
    properties = "".join(
        '<rdf:li rdf:parseType="Resource">'
        f"<pdfaProperty:name>{own.name}</pdfaProperty:name>"
        f"<pdfaProperty:valueType>{own.kind}</pdfaProperty:valueType>"
        f"<pdfaProperty:category>{own.category}</pdfaProperty:category>"
        f"<pdfaProperty:description>{own.description}</pdfaProperty:description></rdf:li>"
        for own in schema.properties
    )
    return (
        '<rdf:li rdf:parseType="Resource">'
        f"<pdfaSchema:schema>{schema.title}</pdfaSchema:schema>"
        f"<pdfaSchema:namespaceURI>{schema.space}</pdfaSchema:namespaceURI>"
        f"<pdfaSchema:prefix>{schema.prefix}</pdfaSchema:prefix>"
        f"<pdfaSchema:property><rdf:Seq>{properties}</rdf:Seq></pdfaSchema:property></rdf:li>"
    )
