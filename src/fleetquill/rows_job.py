"""One document on its way to a file of rows: its tables, and nothing of how they look."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import BinaryIO, cast

from fleetquill.errors import OptionError, Where
from fleetquill.job import Written
from fleetquill.output.counted import CountedStream
from fleetquill.output.how import How
from fleetquill.output.kinds import Kind
from fleetquill.policy import Policy
from fleetquill.remarks import Remarks
from fleetquill.sheet_loading import SheetLoader
from fleetquill.stock import Stock
from fleetquill.structure.sheets import Room, sheets_of
from fleetquill.structure.tree_styles import TreeStyles
from fleetquill.style.base_sheet import base_sheet
from fleetquill.style.cascade import AUTHOR, USER_AGENT
from fleetquill.tree.base import Reader
from fleetquill.tree.document import Document
from fleetquill.tree.links import without_unsafe_links

LEFT_OUT = "Text and pictures outside the tables are not in a file of this kind."


class RowsJob:
    """Writes the tables of a document."""

    def __init__(
        self, document: Document, stock: Stock, reader: Reader, policy: Policy, styles: Sequence[Path]
    ) -> None:
        self.document = document = without_unsafe_links(document, strangers=policy.strangers)
        self._formats = stock.formats()
        self._reader = reader
        reader.homes = [*([document.home] if document.home is not None else ()), *document.files]
        self.remarks = Remarks()
        for kind, note, place in document.notes:
            self.remarks.add(kind, note, source=place.source, line=place.line)

        loader = SheetLoader(document, reader, self.remarks, stock.sheet, lambda rule, base: "", policy.check_style)
        sheets = [(AUTHOR, sheet) for sheet in loader.load(styles)]
        self._cascade = stock.cascade([(USER_AGENT, base_sheet()), *sheets], stock.font_settings())

    @property
    def files(self) -> tuple[Path, ...]:
        """The files that the document was made from."""
        return tuple(dict.fromkeys([*self.document.files, *self._reader.files]))

    def write(self, kind: Kind, stream: BinaryIO, how: How) -> Written:
        """Writes what `kind` is made of. Raises OptionError where the document has no table."""
        document = self.document
        styles = TreeStyles(self._cascade, document.root)
        sheets = sheets_of(Room(document, self._formats, styles, lambda url: self._reader.path(url, document.base)))
        if not sheets.tables:
            raise OptionError(
                f"The document has no table, and a file of the kind '{kind.name}' holds nothing else.",
                where=Where(document.source),
                remedy="Choose a kind that has pages or text, such as pdf or docx.",
            )
        if sheets.has_more:
            self.remarks.add("kind", LEFT_OUT, source=document.source)
        counted = CountedStream(stream)
        written = kind.write_rows(sheets, document.metadata, self._formats, how, cast(BinaryIO, counted))
        for message in written.remarks:
            self.remarks.add("kind", message, source=document.source)
        return Written(0, counted.length, written.rows)
