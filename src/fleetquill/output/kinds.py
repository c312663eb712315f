"""The ways out: what files can be. A new one is a folder with a file `document.py`, and its row here.

Its file has one function, by the way that the kind is made: `open_document` for pages in one file, `write_rows` for
tables, `write_flow` for text that no page holds. Leaves are pages that are files of their own (see leaves.py).
"""

from __future__ import annotations

import os
from collections.abc import Callable
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO, Final, Literal, NamedTuple

from fleetquill.drawing.paged import PagedOutput
from fleetquill.errors import OptionError, nearest
from fleetquill.formats import Formats
from fleetquill.graphics.reduction import PictureRules
from fleetquill.output.besides import Besides
from fleetquill.output.how import How, RowsWritten
from fleetquill.output.pdf.store import PdfStore
from fleetquill.tree.metadata import Metadata

if TYPE_CHECKING:  # rooms of other kinds than pages are opened when one is asked for
    from fleetquill.structure.flow import Flow
    from fleetquill.structure.sheets import Sheets

RowsWriter = Callable[["Sheets", Metadata, Formats, How, BinaryIO], RowsWritten]
Opener = Callable[[BinaryIO, PdfStore, PictureRules, Besides], PagedOutput]
Way = Literal["pages", "leaves", "rows", "flow", "web"]
FlowWriter = Callable[["Flow", Metadata, How, BinaryIO], list[str]]


class Kind(NamedTuple):
    """A kind of file: its name, which is its ending, too, what it is called on the web, and how it is made."""

    name: str
    media_type: str
    way: Way = "pages"

    def open(self, stream: BinaryIO, store: PdfStore, rules: PictureRules, besides: Besides) -> PagedOutput:
        """Begins a file of pages."""
        opener: Opener = self._room().open_document
        return opener(stream, store, rules, besides)

    def write_rows(
        self, sheets: Sheets, metadata: Metadata, formats: Formats, how: How, stream: BinaryIO
    ) -> RowsWritten:
        """Writes a file of tables."""
        writer: RowsWriter = self._room().write_rows
        return writer(sheets, metadata, formats, how, stream)

    def write_flow(self, flow: Flow, metadata: Metadata, how: How, stream: BinaryIO) -> list[str]:
        """Writes a file of text that flows; gives what it could not say."""
        writer: FlowWriter = self._room().write_flow
        return writer(flow, metadata, how, stream)

    def _room(self) -> Any:
        return import_module(f"fleetquill.output.{self.name}.document")


PDF: Final = Kind("pdf", "application/pdf")
SVG: Final = Kind("svg", "image/svg+xml", "leaves")
PNG: Final = Kind("png", "image/png", "leaves")
KINDS: Final = {
    kind.name: kind
    for kind in (
        PDF,
        SVG,
        PNG,
        Kind("xlsx", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "rows"),
        Kind("csv", "text/csv; charset=utf-8", "rows"),
        Kind("html", "text/html; charset=utf-8", "web"),
        Kind("docx", "application/vnd.openxmlformats-officedocument.wordprocessingml.document", "flow"),
        Kind("txt", "text/plain; charset=utf-8", "flow"),
        Kind("md", "text/markdown; charset=utf-8", "flow"),
    )
}


def kind_of(target: object, name: str | None = None) -> Kind:
    """The kind that is asked for by name, or by the ending of a path; PDF where nothing says. OptionError else."""
    asked = name
    if asked is None:
        asked = Path(target).suffix.lower().removeprefix(".") if isinstance(target, (str, os.PathLike)) else ""
        if not asked:
            return PDF
    if asked not in KINDS:
        meant = nearest(asked, KINDS)
        known = f"Did you mean '{meant}'?" if meant else f"It may be {', '.join(KINDS)}."
        named = f"The output's ending '.{asked}'" if name is None else f"'{asked}'"
        raise OptionError(f"{named} is no kind of file that can be written.", remedy=known)
    return KINDS[asked]
