"""A document of a shelf: what is made of it, its sample, and what its data has to be like."""

from __future__ import annotations

import copy
import os
from collections.abc import Mapping
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from fleetquill.errors import DataError, Where
from fleetquill.formats import check_locale
from fleetquill.intake.endings import DATA, HTML, MARKDOWN
from fleetquill.intake.order import Habits, Run
from fleetquill.shelf.schemas import check_schema, guessed_schema, read_schema
from fleetquill.shelf.settings import Settings
from fleetquill.tree.data import read_data
from fleetquill.tree.document import Document
from fleetquill.tree.excerpt import put_on_page

if TYPE_CHECKING:
    from fleetquill.briefs.brief import Brief

SOURCES: Final = (*HTML, *MARKDOWN, *DATA)  # endings of documents
SAMPLES: Final = (".json", ".yaml", ".yml", ".toml", ".csv")
BRIEF: Final = ".brief"  # before the ending of a brief


class ShelfDocument:
    """A named document of a shelf: a source for `compose` and `write` like any other.

    `kind` is 'template' (HTML that data fills in), 'brief', 'markdown' or 'manuscript' (plain data); `path` its file.
    """

    def __init__(self, name: str, path: Path, folder: Path, settings: Settings) -> None:
        self.name = name
        self.path = path
        self.settings = settings
        self._shelf = folder

    def __repr__(self) -> str:
        return f"<ShelfDocument {self.name!r}: {self.kind}, {self.path}>"

    @cached_property
    def kind(self) -> str:
        ending = self.path.suffix.lower()
        if ending in MARKDOWN:
            return "markdown"
        if ending in DATA:
            return "brief" if "brief" in read_data(self.path) else "manuscript"
        return "template"

    @property
    def stem(self) -> str:
        """The name of its file without endings, by which what belongs to it is found."""
        return self.path.stem.removesuffix(BRIEF)

    def _beside(self, part: str, endings: tuple[str, ...]) -> Path | None:
        """A file that belongs to it: 'invoice.sample.json', or in a folder of its own 'sample.json'."""
        own = self.path.parent != self._shelf
        names = [f"{self.stem}.{part}", *([part] if own else [])]
        found = (self.path.parent / f"{name}{ending}" for name in names for ending in endings)
        return next((path for path in found if path.is_file()), None)

    @cached_property
    def sample_path(self) -> Path | None:
        return self._beside("sample", SAMPLES)

    @property
    def sample(self) -> dict[str, Any]:
        """Data that it can be tried with; nothing where none is kept. Of a brief it may have 'data', 'parameters'."""
        return {} if self.sample_path is None else read_data(self.sample_path)

    @property
    def schema(self) -> dict[str, Any]:
        """What its data has to be like, as JSON Schema: that of 'schema.json', else guessed from the sample."""
        path = self._beside("schema", (".json",))
        return guessed_schema(self.sample, self.name) if path is None else read_schema(path)

    @property
    def takes_data(self) -> bool:
        """Whether data fills it in."""
        return self.kind in ("template", "brief")

    @property
    def brief(self) -> Brief:
        """The brief that it is. Raises DataError where it is none."""
        from fleetquill.briefs.brief import Brief

        if self.kind != "brief":
            raise DataError(f"'{self.name}' is a {self.kind}, no brief.", where=Where(str(self.path)))
        return Brief.read(self.path)

    @property
    def folder(self) -> Path:
        """The shelf's folder."""
        return self._shelf

    def moved(self, folder: Path) -> ShelfDocument:
        """The same document of a copy of its shelf."""
        path = folder / self.path.absolute().relative_to(self._shelf.absolute())
        return ShelfDocument(self.name, path, folder, self.settings)

    def in_locale(self, locale: str) -> ShelfDocument:
        """The same document with values as another locale writes them, whatever the shelf says."""
        check_locale(locale)
        other = copy.copy(self)
        other.settings = self.settings._replace(locale=locale)
        return other

    def check(self, data: Any) -> None:
        """Raises DataError, with the path of each fault, where data does not fit its schema."""
        if self.kind == "template" and (self.sample_path is not None or self._beside("schema", (".json",)) is not None):
            check_schema(data, self.schema, self.name)

    def trial(self) -> tuple[Any, Mapping[str, Any] | None]:
        """The data and the parameters that it can be tried with."""
        if self.kind == "brief":
            sample = self.sample
            return sample.get("data"), sample.get("parameters")
        return (self.sample, None) if self.kind == "template" else (None, None)

    def document_for(self, run: Run) -> Document:
        """The document with what is given, in the shelf's own style, locale and paper."""
        if self.kind == "brief":
            document = self.brief.document_for(run)
        else:
            if self.kind != "template" and run.data is not None:
                raise DataError(f"'{self.name}' is a {self.kind}: it takes no data.", where=Where(str(self.path)))
            if self.kind == "template" and run.data is None and self.sample_path is not None:
                raise DataError(
                    f"'{self.name}' is a template: it needs data.", where=Where(str(self.path)),
                    remedy=f"Try it with its sample, shelf['{self.name}'].sample.",
                )  # fmt: skip
            if run.data is not None:
                self.check(run.data)
            document = run.read(self.path, run.data, Habits(self.settings.locale, self.settings.currency, self._shelf))
        return self._in_house_style(document)

    def _in_house_style(self, document: Document) -> Document:
        said = self.settings
        document.locale = document.locale or said.locale
        document.currency = document.currency or said.currency
        document.conform, document.fillable = said.conform, said.fillable
        head = document.root.find("head")
        for style in reversed(said.styles):  # before the document's own, which go before them
            path = self._shelf / style
            address = os.path.relpath(path, document.base) if isinstance(document.base, Path) else path.as_uri()
            sheet = document.root.makeelement("style")
            sheet.text = f'@import "{address}";'
            if head is not None:
                head.insert(0, sheet)
            document.files.append(path)
        if self.sample_path is not None:
            document.files.append(self.sample_path)
        found = put_on_page(document, said.page, said.margin, landscape=False)
        return found.titled(said.title) if said.title else found
