"""The data of an invoice in a finished hybrid PDF."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import Final

from fleetquill.errors import SourceError, Where
from fleetquill.invoices.cii import SPACES
from fleetquill.invoices.invoice import FILE_NAME, Invoice
from fleetquill.pdf.reading import PdfReader, Stream
from fleetquill.pdf.syntax import DAMAGE

NAMES: Final = (FILE_NAME, "xrechnung.xml")  # that the data may have


def embedded_files(reader: PdfReader) -> Iterator[tuple[str, Stream]]:
    """The files that go along with a PDF, each with its name."""
    for number in reader.numbers():
        entries = reader.get(number)
        if isinstance(entries, dict) and "EF" in entries:
            stream = reader.resolve(reader.dictionary(entries["EF"]).get("F"))
            if isinstance(stream, Stream):
                yield reader.text(entries.get("UF")) or reader.text(entries.get("F")), stream


def invoice_xml(path: str | os.PathLike[str]) -> bytes:
    """The XML of an invoice: that of a hybrid PDF, or the file itself. Raises SourceError where there is none."""
    where = Where(os.fspath(path))
    try:
        content = Path(path).read_bytes()
    except OSError as error:
        raise SourceError(f"The file cannot be read: {error.strerror or error}.", where=where) from error
    if content.lstrip().startswith(b"<"):
        return content
    try:
        files = list(embedded_files(PdfReader(content, os.fspath(path))))
        for name in NAMES:
            for own, stream in files:
                if own.lower() == name:
                    return stream.content
        for _, stream in files:
            if SPACES["rsm"].encode() in stream.content[:4096]:
                return stream.content
    except DAMAGE as error:
        raise SourceError(f"The data of the invoice is damaged: {error}", where=where) from error
    raise SourceError("No data of an invoice goes along with the file.", where=where)


def read_invoice(path: str | os.PathLike[str]) -> Invoice:
    """The invoice whose data goes along with a hybrid PDF, or that an XML file of the same syntax holds.

    Raises SourceError where there is none, DataError where it is not understood, InvoiceError where it breaks a rule
    of EN 16931.
    """
    return Invoice.from_xml(invoice_xml(path), source=os.fspath(path))
