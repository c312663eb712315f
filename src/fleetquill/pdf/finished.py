"""A page of a finished file, to be shown in another."""

from __future__ import annotations

from typing import NamedTuple

from fleetquill.pdf.page_boxes import size_of
from fleetquill.pdf.reading import PdfPage, PdfReader


class FinishedPage(NamedTuple):
    """A page of a finished file, and what that is called."""

    reader: PdfReader
    page: PdfPage
    name: str

    @property
    def size(self) -> tuple[float, float]:
        """Width and height as it is shown, in points."""
        return size_of(self.page, self.reader)

    @property
    def is_archived(self) -> bool:
        """Whether its file says that it is one for archives."""
        metadata = self.reader.resolve(self.reader.catalog.get("Metadata"))
        return metadata is not None and b"pdfaid" in getattr(metadata, "content", b"")

    @property
    def has_more(self) -> bool:
        """Whether there are fields, links or notes on it."""
        return bool(self.reader.array(self.page.entries.get("Annots")))
