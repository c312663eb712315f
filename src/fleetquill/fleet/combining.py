"""One file of all documents of a fleet, in the order of their records."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator, Sequence
from html import escape
from itertools import chain
from pathlib import Path
from typing import Final, NamedTuple
from urllib.parse import quote

from fleetquill.authoring.manuscript import Manuscript
from fleetquill.bindery.binding import bind
from fleetquill.bindery.parts import Part
from fleetquill.bindery.stamps import Stamp
from fleetquill.errors import DataError, OptionError
from fleetquill.fleet.places import FolderPlace, Place, ZipPlace
from fleetquill.fleet.spool import Item

LOOK: Final = "td { padding: 1pt 6pt 1pt 0; vertical-align: top } td + td { text-align: right } table { width: 100% }"


class Combined(NamedTuple):
    """A file of all: its path; whether each document begins on an odd page, for printing on both sides; the field that
    an index at the end goes by; what is stamped on the pages, such as 'Page {part_page} of {part_pages}' of a document,
    'Page {page} of {pages}' of all; and the labels of pages, 'parts' to begin anew in each, 'whole' of all."""

    path: str | os.PathLike[str]
    even: bool = False
    index_by: str = ""
    stamps: Sequence[Stamp] | Stamp = ()
    numbers: str = "parts"


def check_combined(kind: str, place: Place) -> None:
    """Raises OptionError where documents of a kind, in that place, cannot be put into one file."""
    if kind != "pdf":
        raise OptionError(f"Documents of the kind '{kind}' are not put into one file.", remedy="Make PDF files.")
    if not isinstance(place, (FolderPlace, ZipPlace)):
        raise OptionError("Documents of a store are not put into one file.", remedy="Make them into a folder first.")


def combine(asked: Combined, coming: Iterator[tuple[Item, int]], place: Place) -> None:
    """Binds documents as they come, each with how many pages it has; nothing where there are none. Raises DataError
    where a record lacks the index's field."""
    first = next(coming, None)
    if first is not None:
        parts = _parts(asked, chain([first], coming), place)
        bind(parts, asked.path, even=asked.even, stamps=asked.stamps, numbers=asked.numbers)


def _parts(asked: Combined, coming: Iterable[tuple[Item, int]], place: Place) -> Iterator[Part | Manuscript]:
    rows: list[tuple[str, int, str]] = []
    page = 1
    for item, pages in coming:
        source = _path(place, item.name)
        if asked.index_by:
            if asked.index_by not in item.record:
                raise DataError(f"Record {item.row} has no '{asked.index_by}' for the index.")
            rows.append((str(item.record[asked.index_by]), page, source))
        yield Part(source, title=Path(item.name).stem)
        page += pages + (pages % 2 if asked.even else 0)
    if rows:
        yield _index(asked.index_by, rows)


def _path(place: Place, name: str) -> str:
    """Where a document is on this machine."""
    folder = place.parts if isinstance(place, ZipPlace) else place
    assert isinstance(folder, FolderPlace)
    return str(Path(folder.folder, name))


def _index(field: str, rows: list[tuple[str, int, str]]) -> Manuscript:
    """An index: each value, and the pages where its documents begin."""
    pages: dict[str, list[str]] = {}
    for value, page, source in sorted(rows, key=lambda row: row[0].casefold()):
        address = quote(Path(source).name)
        pages.setdefault(value, []).append(f'<a href="{address}#page=1">{page}</a>')
    lines = "".join(f"<tr><td>{escape(value)}<td>{', '.join(found)}" for value, found in pages.items())
    title = f"Index by {escape(field)}"
    return Manuscript.from_html(
        f"<html lang=en><title>{title}</title><style>{LOOK}</style><h1>{title}</h1><table>{lines}</table>"
    )
