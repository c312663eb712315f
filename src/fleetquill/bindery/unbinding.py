"""Taking a finished file apart: by its bookmarks, in parts of so many pages, or some pages of it."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Final, NamedTuple

from fleetquill.bindery.binding import bind
from fleetquill.bindery.page_choice import chosen_pages
from fleetquill.bindery.parts import Part
from fleetquill.bindery.sources import Finished, read_source
from fleetquill.bindery.volume import Volume
from fleetquill.errors import OptionError, OutputError, SourceError, Where
from fleetquill.keywords import told_keywords
from fleetquill.output.delivery import safe_name
from fleetquill.press import Press

NAMES: Final = ("bookmark", "number", "first", "last", "label", "name")  # that a name of files may have


class Piece(NamedTuple):
    """A part that was taken out: its file, and the pages that are in it."""

    path: Path
    first: int
    last: int
    bookmark: str


@told_keywords
def unbind(
    source: Finished,
    name: str | os.PathLike[str],
    *,
    at: str = "",
    every: int = 0,
    pages: str = "",
    level: int = 1,
    password: str | None = None,
    press: Press | None = None,
) -> list[Piece]:
    """Takes a finished PDF apart into files, and gives what was written.

    One of three says where: `at="bookmarks"` begins a part at each bookmark of a level (what stands before the first is
    one, too), `every` so many pages, `pages` takes those pages out, each range a file ('3-7', '1-2,5-'). `name` is
    that of the files, with {bookmark}, {number}, {first}, {last}, {label} (of its first page) or {name} (of the
    source): 'parts/{number:02} {bookmark}.pdf'. Links within a part, its bookmarks, fields, attached files and tags go
    along.

    Raises OptionError where two parts would have one name, or nothing says where to part; SourceError where the file
    cannot be read or has no bookmarks.
    """
    label, content = read_source(source)
    volume = Volume(content, password)
    volume.source = label
    ranges = list(_ranges(volume, at, every, pages, level))
    press = press or Press()
    folder, pattern = Path(name).parent, Path(name).name
    if not folder.is_dir():
        raise OutputError(f"The folder '{folder}' does not exist.", remedy="Make it, or choose another.")
    pieces: list[Piece] = []
    for number, (choice, first, last, bookmark) in enumerate(ranges, 1):
        record: dict[str, Any] = {
            "bookmark": bookmark or f"{first}-{last}", "number": number, "first": first, "last": last,
            "label": volume.pages[first - 1].label, "name": Path(label).stem or "document",
        }  # fmt: skip
        path = folder / safe_name(pattern.removesuffix(".pdf"), record)
        same = next((piece for piece in pieces if piece.path == path), None)
        if same is not None:
            raise OptionError(
                f"Two parts would have the name '{path.name}'.", remedy="Put {number} or {first} into the name."
            )
        if label and path.exists() and path.samefile(label):
            raise OutputError("A part would take the place of the file itself.", where=Where(str(path)))
        pieces.append(Piece(path, first, last, bookmark))
        ranges[number - 1] = choice, first, last, bookmark
    for piece, (choice, _, _, bookmark) in zip(pieces, ranges, strict=True):
        part = Part(content, pages=choice, title="", password=password)
        bind([part], piece.path, title=bookmark, press=press)
    return pieces


def _ranges(volume: Volume, at: str, every: int, pages: str, level: int) -> Iterator[tuple[str, int, int, str]]:
    """The pages of each part: as they are chosen, the first and the last, and its bookmark."""
    count = volume.page_count
    if sum(map(bool, (at, every, pages))) != 1:
        raise OptionError("One of 'at', 'every' and 'pages' says where the file is taken apart.")
    where = Where(volume.source) if volume.source else None
    if every:
        if not isinstance(every, int) or every < 1:
            raise OptionError(f"'every' is {every!r}.", remedy="Give a number of pages from 1 on.")
        for first in range(1, count + 1, every):
            last = min(count, first + every - 1)
            yield f"{first}-{last}", first, last, ""
    elif pages:
        for choice in pages.split(","):
            numbers = chosen_pages(choice, count, volume.source)
            yield choice, numbers[0], numbers[-1], ""
    else:
        if at != "bookmarks":
            raise OptionError(f"A file is not taken apart at '{at}'.", remedy="Say at='bookmarks'.")
        marks = sorted((page, title) for page, title in _marks(volume.outline, level) if page)
        if not marks:
            raise SourceError(f"The file has no bookmarks of level {level}.", where=where)
        starts: dict[int, str] = {}
        for page, title in marks:
            starts.setdefault(page, title)
        if 1 not in starts:
            starts = {1: "", **starts}
        firsts = list(starts)
        for place, first in enumerate(firsts):
            last = firsts[place + 1] - 1 if place + 1 < len(firsts) else count
            yield f"{first}-{last}", first, last, starts[first]


def _marks(bookmarks: Any, level: int) -> Iterator[tuple[int, str]]:
    for bookmark in bookmarks:
        if level == 1:
            yield bookmark.page, bookmark.label
        else:
            yield from _marks(bookmark.children, level - 1)
