"""A shelf: a folder of named documents that is kept with a project."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Final

from fleetquill.errors import OptionError, SourceError, Where, meant
from fleetquill.press import Press
from fleetquill.shelf.document import BRIEF, SOURCES, ShelfDocument
from fleetquill.shelf.settings import FILE, read_settings

BESIDES: Final = (".sample", ".schema")  # in the stems of files that belong to another
IN_A_FOLDER: Final = ("sample", "schema")
HIDDEN: Final = ("_", ".")  # at the beginning of what is no document: shared parts


class Shelf:
    """Named templates and briefs in a folder, with their sample data: `shelf["invoice"]` is a source like any other.

    A document is a file (HTML, Markdown, a brief, a manuscript as plain data) or a folder with one that has its name,
    or the only one in it. Beside it stand its sample ('invoice.sample.json', in a folder 'sample.json') and its schema.
    What begins with '_' is shared. 'shelf.toml' says what holds for all: `locale`, `currency`, `page`, `margin`,
    `conform`, `styles`, `fillable`, and under [documents.NAME] what differs for one.
    """

    def __init__(self, folder: str | os.PathLike[str]) -> None:
        self.folder = Path(folder)
        if not self.folder.is_dir():
            raise SourceError("The shelf is no folder that is there.", where=Where(str(self.folder)))
        self._settings = read_settings(self.folder)
        self._paths = dict(sorted(self._found()))
        unknown = next((name for name in self._settings.of if name not in self._paths), None)
        if unknown is not None:
            raise OptionError(
                f"'{FILE}' speaks of '{unknown}', which is not on the shelf.", where=Where(str(self.folder / FILE)),
                remedy=meant(unknown, self._paths),
            )  # fmt: skip

    @classmethod
    def of_package(cls, package: str, folder: str = "") -> Shelf:
        """The shelf that is installed with a package, in a folder of it. Raises SourceError where it is not there."""
        from importlib.resources import files

        try:
            found = files(package).joinpath(folder) if folder else files(package)
        except ModuleNotFoundError as error:
            raise SourceError(f"There is no package '{package}'.") from error
        return cls(Path(str(found)))

    def _found(self) -> Iterator[tuple[str, Path]]:
        """Names, and the files that they mean."""
        for path in self.folder.iterdir():
            if path.name.startswith(HIDDEN) or path.name == FILE:
                continue
            if path.is_dir():
                source = self._source_in(path)
                if source is not None:
                    yield path.name, source
            elif path.suffix.lower() in SOURCES and not path.stem.endswith(BESIDES):
                yield path.stem.removesuffix(BRIEF), path

    def _source_in(self, folder: Path) -> Path | None:
        """The document in a folder: the one with its name, or the only one."""
        found = [
            path
            for path in sorted(folder.iterdir())
            if path.is_file() and path.suffix.lower() in SOURCES and not path.name.startswith(HIDDEN)
            and not path.stem.endswith(BESIDES) and path.stem not in IN_A_FOLDER
        ]  # fmt: skip
        named = [path for path in found if path.stem.removesuffix(BRIEF) == folder.name]
        return named[0] if named else found[0] if len(found) == 1 else None

    # ---- as a mapping ----

    @property
    def names(self) -> tuple[str, ...]:
        """The names of its documents, in their order."""
        return tuple(self._paths)

    def __getitem__(self, name: str) -> ShelfDocument:
        """A document by its name. Raises OptionError with the nearest one where there is none."""
        path = self._paths.get(name)
        if path is None:
            raise OptionError(
                f"There is no '{name}' on the shelf.",
                where=Where(str(self.folder)),
                remedy=meant(str(name), self.names),
            )
        return ShelfDocument(name, path, self.folder, self._settings.for_document(name))

    def __contains__(self, name: object) -> bool:
        return name in self._paths

    def __iter__(self) -> Iterator[str]:
        return iter(self._paths)

    def __len__(self) -> int:
        return len(self._paths)

    def __repr__(self) -> str:
        return f"<Shelf {self.folder}: {', '.join(self.names) or 'nothing'}>"

    def press(self, **options: Any) -> Press:
        """A press whose templates find what is shared on the shelf; options are those of Press."""
        folders = [self.folder, *options.pop("template_folders", ())]
        return Press(template_folders=folders, **options)
