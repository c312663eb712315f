"""Invoices for machines: read from plain data, checked by the rules of EN 16931, written as XML and into PDFs."""

from __future__ import annotations

import os
from collections.abc import Mapping
from pathlib import Path
from typing import Any, BinaryIO, Final

from fleetquill.errors import DataError, OptionError, Where, meant
from fleetquill.invoices.cii import cii
from fleetquill.invoices.cii_reading import read_cii
from fleetquill.invoices.model import InvoiceData
from fleetquill.invoices.profiles import PROFILES, USUAL, profile_of
from fleetquill.invoices.reading import plain, read
from fleetquill.invoices.rules import RuleFault, broken_rules
from fleetquill.invoices.totals import worked_out
from fleetquill.invoices.ubl import ubl
from fleetquill.tree.attachments import Attachment
from fleetquill.whole_files import write_whole

FILE_NAME: Final = "factur-x.xml"  # that the data has in a hybrid PDF
KINDS: Final = {"cii": cii, "ubl": ubl}
MOST_TOLD: Final = 12
DESCRIPTION: Final = "The data of this invoice (EN 16931)"


class InvoiceError(DataError):
    """An invoice that breaks rules of EN 16931: `faults` tells which, at which field, and what would be right."""

    def __init__(self, faults: list[RuleFault], where: Where | None) -> None:
        self.faults = tuple(faults)
        told = "\n".join(f"  {fault}" for fault in faults[:MOST_TOLD])
        more = f"\n  and {len(faults) - MOST_TOLD} more" if len(faults) > MOST_TOLD else ""
        count = f"{len(faults)} rules" if len(faults) > 1 else "a rule"
        super().__init__(f"The invoice breaks {count} of EN 16931:\n{told}{more}", where=where)


class Invoice:
    """An invoice in the words of the semantic model of EN 16931-1.

    `data` is a mapping, such as {"number": "F-2041", "date": "2026-06-02", "currency": "EUR", "seller": {…}, "buyer":
    {…}, "lines": [{"name": …, "quantity": 42, "unit": "TNE", "price": "2.65", "vat_category": "S", "vat_rate": 21}]},
    or an InvoiceData; docs/invoices.md lists all names. Net amounts, the breakdown of the tax and the totals are
    worked out where they are not given. `profile` is how much a hybrid PDF carries of it: MINIMUM, BASIC WL, BASIC,
    EN 16931 or EXTENDED. Raises DataError for names and values that are not understood, and InvoiceError for what
    breaks a rule.
    """

    def __init__(self, data: Mapping[str, Any] | InvoiceData, *, profile: str = USUAL, source: str = "") -> None:
        self.profile = profile_of(profile)
        self.data: InvoiceData = worked_out(read(InvoiceData, data, source=source))
        self.source = source
        faults = broken_rules(self.data, self.profile)
        if faults:
            raise InvoiceError(faults, Where(source) if source else None)

    @classmethod
    def read(cls, path: str | os.PathLike[str], *, profile: str = USUAL) -> Invoice:
        """The invoice of a JSON, YAML or TOML file, or of an XML file of the syntax that hybrid PDFs carry."""
        file = Path(path)
        if file.suffix.lower() == ".xml":
            try:
                content = file.read_bytes()
            except OSError as error:
                raise DataError(f"It cannot be read: {error.strerror or error}.", where=Where(str(file))) from error
            return cls.from_xml(content, source=str(file))
        from fleetquill.tree.data import read_data

        data = read_data(file)
        if not isinstance(data, Mapping):
            raise DataError("It holds no mapping of names and values.", where=Where(str(file)))
        return cls(data.get("invoice", data), profile=profile, source=str(file))

    @classmethod
    def from_xml(cls, content: bytes, *, source: str = "") -> Invoice:
        """The invoice of a Cross Industry Invoice, with the profile that it names."""
        data, identifier = read_cii(content)
        profile = next((one for one in PROFILES if one.identifier == identifier), profile_of(USUAL))
        return cls(data, profile=profile.name, source=source)

    def __repr__(self) -> str:
        totals = self.data.totals
        due = f", {totals.due} {self.data.currency}" if totals is not None else ""
        return f"<Invoice {self.data.number}: {len(self.data.lines)} lines{due}>"

    def values(self) -> dict[str, Any]:
        """The invoice as plain values, those worked out among them: what a template is filled in with."""
        found: dict[str, Any] = plain(self.data)
        return found

    def to_bytes(self, kind: str = "cii") -> bytes:
        """The XML: 'cii', as hybrid PDFs carry it (UN/CEFACT D16B), or 'ubl' (UBL 2.1)."""
        if kind not in KINDS:
            raise OptionError(f"'{kind}' is no syntax of invoices.", remedy=meant(kind, KINDS))
        return KINDS[kind](self.data, self.profile)

    def write(self, path: str | os.PathLike[str], *, kind: str = "cii") -> Path:
        """Writes the XML to a file, whole or not at all, and gives its path."""
        content = self.to_bytes(kind)

        def send(stream: BinaryIO) -> None:
            stream.write(content)

        return write_whole(Path(path), send)

    def attachment(self) -> Attachment:
        """The data as the file that goes along with a hybrid PDF."""
        relationship = "Alternative" if self.profile.level >= 2 else "Data"  # what it is without lines
        return Attachment(FILE_NAME, self.to_bytes(), "text/xml", relationship, DESCRIPTION)
