"""What is said of whole parts: files that go along, layers, inks, language, what they are called."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Final

from fleetquill.bindery.joined_names import free_name, name_tree
from fleetquill.bindery.trees import entries_of
from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.copying import Copier
from fleetquill.pdf.objects import Name, Ref, write
from fleetquill.pdf.reading import PdfReader
from fleetquill.tree.metadata import Metadata

LAYERS: Final = ("Order", "ON", "OFF", "Locked", "RBGroups", "AS")  # of optional content (ISO 32000-2 table 99)
LEAST_VERSION: Final = "1.7"


class JoinedRest:
    """Gathers what catalogs say."""

    def __init__(self, file: PdfFile) -> None:
        self._file = file
        self._files: dict[bytes, Ref] = {}
        self._associated: list[Any] = []
        self._layers: dict[str, list[Any]] = {}
        self._groups: list[Any] = []
        self._intents: dict[bytes, Any] = {}  # by what they are, written
        self._languages: list[str] = []
        self._version = LEAST_VERSION
        self._first: Metadata | None = None

    def add(self, reader: PdfReader, copier: Copier, place: int) -> None:
        """Takes what the catalog of a part says; `place` is its number, from 1 on."""
        catalog = reader.catalog
        names = reader.dictionary(catalog.get("Names"))
        for key, value in entries_of(names.get("EmbeddedFiles"), "Names", reader):
            if isinstance(key, bytes):
                copied = copier.value(value)
                held = copied if isinstance(copied, Ref) else self._file.add(copied)
                self._files[free_name(key, self._files, place)] = held
        self._associated += copier.value(reader.array(catalog.get("AF")))
        layers = reader.dictionary(catalog.get("OCProperties"))
        self._groups += copier.value(reader.array(layers.get("OCGs")))
        usual = reader.dictionary(layers.get("D"))
        for key in LAYERS:
            self._layers.setdefault(key, []).extend(copier.value(reader.array(usual.get(key))))
        intents = copier.value(reader.resolve(catalog.get("OutputIntents")))
        self._intents[write(intents) if intents else b""] = intents
        self._languages.append(reader.text(catalog.get("Lang")))
        said = reader.resolve(catalog.get("Version"))
        self._version = max(self._version, reader.version, str(said) if isinstance(said, str) else "")
        if self._first is None:
            info = reader.dictionary(reader.trailer.get("Info"))
            title, author, subject, keywords = (
                reader.text(info.get(key)) for key in ("Title", "Author", "Subject", "Keywords")
            )
            self._first = Metadata(title, author, subject, keywords)

    @property
    def has_several_intents(self) -> bool:
        """Whether parts are meant for different inks or screens."""
        return len([intents for intents in self._intents if intents]) > 1

    def metadata(self, own: Metadata, date: datetime | None) -> Metadata:
        """What the file says of itself: what it is asked to, else what its first part does."""
        first = self._first or Metadata()
        language = own.language or next(iter(self._languages), "")
        title, author = own.title or first.title, own.author or first.author
        return first._replace(title=title, author=author, language=language, created=date)

    def finish(self) -> dict[str, Any]:
        """What the catalog says of all that."""
        layers = {key: held for key, held in self._layers.items() if held}
        intents = next(iter(self._intents.values()), None) if len(self._intents) == 1 else None
        return {
            "Version": Name(self._version) if self._version > LEAST_VERSION else None,
            "AF": self._associated or None,
            "OCProperties": {"OCGs": self._groups, "D": layers} if self._groups else None,
            "OutputIntents": intents or None,
        }

    def embedded_files(self) -> Ref | None:
        """The name tree of the files that go along."""
        return name_tree(self._file, self._files)
