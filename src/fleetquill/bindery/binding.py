"""Binding: parts put together into one file, with what lies under and over its pages, locked and signed."""

from __future__ import annotations

import io
import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from datetime import datetime
from functools import partial
from pathlib import Path
from time import perf_counter
from typing import Any, BinaryIO, Final, NamedTuple, cast

from fleetquill.bindery.joining import Joiner, JoinWish
from fleetquill.bindery.overlays import Letterhead, Overlays
from fleetquill.bindery.parts import OpenPart, Part, PartReader
from fleetquill.bindery.seal import Seal, sealed
from fleetquill.bindery.sheets import SHEETS, on_sheets
from fleetquill.bindery.stamps import Stamp
from fleetquill.errors import OptionError, OutputError, StrictError, Where, meant
from fleetquill.guard import guarded
from fleetquill.keywords import told_keywords
from fleetquill.output.counted import CountedStream
from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.copying import Shared
from fleetquill.pdf.locks import Wish, lock_wish, new_lock
from fleetquill.press import Press, Summary
from fleetquill.tree.lengths import PageSize
from fleetquill.tree.metadata import Metadata
from fleetquill.whole_files import write_whole

NUMBERS: Final = ("", "whole", "parts")
NO_PARTS: Final = "'parts' is a sequence of at least one part."
GIVE: Final = "Give a list, such as ['cover.html']."
SELECTORS: Final = ("#", ".")  # at the beginning of what is no name of a field


class BindWish(NamedTuple):
    """All that is asked of a bound file."""

    join: JoinWish
    letterheads: tuple[Callable[[PartReader, PdfFile, Shared], Letterhead], ...]
    stamps: tuple[Stamp, ...]
    sheets: str
    paper: PageSize
    lock: Wish | None
    seal: Seal | None
    date: datetime | None


@told_keywords
def bind(
    parts: Iterable[Any],
    target: str | os.PathLike[str] | BinaryIO,
    *,
    under: Any = None,
    over: Any = None,
    stamps: Sequence[Stamp] | Stamp = (),
    title: str = "",
    author: str = "",
    language: str = "",
    date: datetime | None = None,
    even: bool = False,
    numbers: str = "",
    outline: bool = True,
    sheets: str = "",
    page: PageSize = "",
    password: str | None = None,
    owner_password: str | None = None,
    allow: Sequence[str] | None = None,
    seal: Seal | None = None,
    strict: bool = False,
    press: Press | None = None,
) -> Summary:
    """Puts parts together into one PDF.

    Each of `parts` is a finished PDF (a path, bytes, a stream), an Edition, a Manuscript, whatever a press reads
    (HTML, pictures, workbooks …), or a Part, which says more of one. Links within and between parts, bookmarks (under a
    heading for each part, unless `outline` is false), fields, attached files, page labels and tags go along; fonts and
    pictures that are the same stand once. A link to the file of another part, such as 'terms.pdf#page=3', leads there.
    An iterator is asked for a part when the one before has been bound; links lead to parts that came before.

    `under` and `over` are finished PDFs whose pages lie under or over all others, as a letterhead does: the first on
    the first page, the last on all that follow. `stamps` are words on the pages. With `even` each part begins on an odd
    page, for printing on both sides. `numbers` are the labels of pages: those of the parts, 'whole' for those of the
    file, 'parts' to begin anew in each. `sheets` sets pages on larger paper: 'two-up', or 'booklet' in the order of a
    stapled one, on the paper `page` or on twice the first page.

    With `password` the file is locked by AES of 256 bits and opens with that; with `owner_password` it opens for
    whoever has none, who may only do what `allow` names: 'print', 'draft', 'change', 'copy', 'comment', 'fill',
    'arrange'. `seal` signs it. With `strict` a remark is an error, and a path is not written. `press` composes what
    is no PDF.

    `target` is a path, written whole or not at all, or a binary stream. Raises an error of the FleetQuillError family
    where a part cannot be read.
    """
    start = perf_counter()
    press = press or Press()
    stamps = (stamps,) if isinstance(stamps, Stamp) else tuple(stamps)
    for stamp in stamps:
        stamp.check()
    if numbers not in NUMBERS:
        raise OptionError(f"'numbers' is {numbers!r}.", remedy=meant(numbers, NUMBERS[1:]))
    if sheets not in SHEETS:
        raise OptionError(f"'sheets' is {sheets!r}.", remedy=meant(sheets, SHEETS[1:]))
    if isinstance(parts, (str, bytes)) or (isinstance(parts, Sequence) and not parts):
        raise OptionError(NO_PARTS, remedy=GIVE)
    letterheads = [partial(_letterhead, given, below=below) for given, below in ((under, True), (over, False)) if given]
    wish = BindWish(
        JoinWish(Metadata(title=title, author=author, language=language), even, numbers, outline),
        tuple(letterheads), stamps, sheets, page, lock_wish(password, owner_password, allow), seal, date,
    )  # fmt: skip
    path = Path(target) if isinstance(target, (str, os.PathLike)) else None
    work = _Binding(parts, wish, press, path)
    with guarded():

        def write(stream: BinaryIO) -> None:
            work.write(stream)
            told = work.remarks()
            if strict and told:
                more = f" ({len(told) - 1} more)" if len(told) > 1 else ""
                raise StrictError(f"A remark on a strict run: {told[0]}{more}")

        if path is not None:
            write_whole(path, write)
        else:
            write(cast(BinaryIO, target))
    return Summary("pdf", work.pages, tuple(work.remarks()), work.length, perf_counter() - start, work.files)


class _Binding:
    """One file that is bound."""

    def __init__(self, parts: Iterable[Any], wish: BindWish, press: Press, target: Path | None) -> None:
        self._parts = parts
        self._known = parts if isinstance(parts, Sequence) else None  # all of them, where they are not yet to come
        self._target = target
        self._names: list[str] = []  # of those that were bound
        self._wish = wish
        self._press = press
        shown = wish.seal.shown if wish.seal is not None else ""
        self._reader = PartReader(press, shown if isinstance(shown, str) and shown.startswith(SELECTORS) else "")
        self._firsts: list[int] = []  # pages before each part
        self._more: list[Any] = []
        self.pages = self.length = 0

    @property
    def files(self) -> tuple[Path, ...]:
        return tuple(map(Path, self._names))

    def remarks(self) -> list[Any]:
        return list(dict.fromkeys([*self._reader.remarks, *self._more]))

    def write(self, stream: BinaryIO) -> None:
        wish = self._wish
        counted = cast(BinaryIO, CountedStream(stream))
        if not wish.sheets and wish.seal is None:
            self._join(counted, wish.lock)
        else:
            held = io.BytesIO()
            if wish.sheets:
                self._join(held, None)
                held, more = on_sheets(held.getvalue(), wish.sheets, wish.paper, wish.lock)
                self._more += more
            else:
                self._join(held, wish.lock)
            content = held.getvalue()
            if wish.seal is not None:
                content = sealed(content, self._placed(wish.seal), password=_opening(wish.lock), press=self._press)
            counted.write(content)
        self.length = counted.length  # type: ignore[attr-defined]

    def _join(self, stream: BinaryIO, lock: Wish | None) -> None:
        wish = self._wish
        file = PdfFile(stream, lock=None if lock is None else new_lock(lock))
        openers = [partial(one, self._reader) for one in wish.letterheads]
        overlays = Overlays(file, self._press, openers, wish.stamps, self._total())
        names = [_name_of(part) for part in self._known or ()]
        joiner = Joiner(file, wish.join, names, overlays, several=self._known is None or len(self._known) > 1)
        for part in self._opened():
            self._firsts.append(joiner.add(part))
            self._names += [name] if (name := _name_of(part.part)) else []
        if not self._firsts:
            raise OptionError(NO_PARTS, remedy=GIVE)
        overlays.finish(joiner.page_count, len(self._firsts))
        self.pages = joiner.finish(wish.date)
        self._more += [*joiner.remarks, *overlays.remarks]

    def _placed(self, seal: Seal) -> Seal:
        """The seal, shown where the element that it names stands."""
        selector = self._reader.selector
        if not selector:
            return seal
        if not self._reader.located:
            raise OptionError(f"Nothing in the parts is selected by '{selector}', where the signature is to be shown.")
        part, found = self._reader.located[0]
        return seal._replace(shown=found._replace(page=found.page + self._firsts[part]))

    def _opened(self) -> Iterator[OpenPart]:
        for place, part in enumerate(self._parts):
            if self._target is not None:
                _refuse(self._target, part)
            yield self._reader.open(part, place)

    def _total(self) -> tuple[int, int] | None:
        """How many pages and parts there are, the pages counted where stamps say so; None where they are to come."""
        if self._known is None:
            return None
        if not any(stamp.wants_totals for stamp in self._wish.stamps):
            return 0, len(self._known)
        total = 0
        for part in self._opened():
            total += total % 2 if self._wish.join.even else 0
            total += len(part.pages)
        return total, len(self._known)


def _letterhead(given: Any, reader: PartReader, file: PdfFile, shared: Shared, *, below: bool) -> Letterhead:
    return Letterhead(reader.open(given, -1 if below else -2), file, shared, below=below)


def _name_of(part: Any) -> str:
    source = part.source if isinstance(part, Part) else part
    if isinstance(source, (str, os.PathLike)):
        return os.fspath(source)
    return str(getattr(source, "name", "") or "") if hasattr(source, "read") else ""


def _opening(lock: Wish | None) -> str | None:
    return None if lock is None else lock.owner or lock.password


def _refuse(target: Path, part: Any) -> None:
    """A file never takes the place of what it is made from."""
    name = _name_of(part)
    if name and target.exists() and Path(name).exists() and target.samefile(name):
        raise OutputError("The output is one of the parts.", where=Where(str(target)), remedy="Give it another name.")
