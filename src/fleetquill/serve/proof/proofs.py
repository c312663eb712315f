"""Documents as they are now: made again when a file changes, the last good pages kept where that fails."""

from __future__ import annotations

import io
import json
import threading
from collections.abc import Callable, Mapping
from pathlib import Path
from time import perf_counter, time_ns
from typing import Any, Final, NamedTuple

from fleetquill.bindery.comparing import compare
from fleetquill.drawing.paged import Bookmark
from fleetquill.edition import Edition
from fleetquill.errors import FleetQuillError, Where
from fleetquill.inspecting import Placement
from fleetquill.press import Press
from fleetquill.serve.plain import file_name, plain, told

Stamp = tuple[int, int]

MOST_CHANGES: Final = 400  # that are shown
MOST_DRAWN: Final = 60  # pages of a document whose drawings are kept


class Trial(NamedTuple):
    """A document that can be shown: its name, what it is made of, and what it is filled in with."""

    name: str
    source: Callable[[str], Any]  # with values as a locale writes them, '' for its own
    given: Callable[[], Mapping[str, Any]]  # data and parameters, read anew each time
    files: tuple[Path, ...]  # that are watched from the start


class Picked(NamedTuple):
    """What is tried in the browser in place of what the document says: '' for what it says."""

    page: str = ""
    landscape: bool = False
    locale: str = ""
    fillable: bool = False

    @classmethod
    def read(cls, said: Any) -> Picked | None:
        """What the browser says; None where that is something else."""
        usual = cls()._asdict()
        if not isinstance(said, dict) or any(type(said.get(name, was)) is not type(was) for name, was in usual.items()):
            return None
        return cls()._replace(**{name: said[name] for name in usual if name in said})


class Shown(NamedTuple):
    """A document as it is now: its edition, the last that could be made; what is wrong, where it could not."""

    version: int
    edition: Edition | None
    fault: str
    seconds: float
    where: Where | None = None  # of the fault


class Proof:
    """One document that is watched. Several threads may ask."""

    def __init__(self, trial: Trial, press_for: Callable[[str], Press]) -> None:
        self.trial = trial
        self.picked = Picked()
        self._press_for = press_for
        self._lock = threading.Lock()
        self._shown = Shown(0, None, "", 0.0)
        self._before: Edition | None = None  # the pages before those that are shown
        self._drawings: dict[int, str] = {}
        self._stamps: dict[Path, Stamp | None] = dict.fromkeys(trial.files)  # of the files, as they were read

    @property
    def files(self) -> frozenset[Path]:
        """What it was made from, or should have been."""
        return frozenset(self._stamps)

    @property
    def version(self) -> int:
        """How often it was made."""
        return self._shown.version

    def begin(self) -> None:
        """Makes it where it never was."""
        with self._lock:
            if not self._shown.version:
                self._make()

    def make(self) -> None:
        """Makes it anew."""
        with self._lock:
            self._make()

    def renew(self, *, saved: bool) -> bool:
        """Makes it anew where a file is another than it was read; one that could not be made, too, where some
        file was `saved`: the one that was missing may be there. Says whether it did."""
        with self._lock:
            stale = any(_stamp(path) != was for path, was in self._stamps.items())
            if stale or (saved and self._shown.fault):
                self._make()
                return True
            return False

    def _make(self) -> None:
        start, began = perf_counter(), time_ns()
        stamps = {path: _stamp(path) for path in self._stamps}
        before, fault, where = self._shown, "", None
        edition = before.edition
        try:
            press, source, given = self._asked()
            edition = press.compose(source, **given)
            self._before = before.edition
            found = {*self.trial.files, *(path.absolute() for path in edition.files)}
            stamps = {path: stamps[path] if path in stamps else _stamp(path, began) for path in found}
            self._drawings = {}
        except FleetQuillError as error:  # what it was made from before is watched still
            fault, where = str(error), error.where
        self._stamps = stamps
        self._shown = Shown(before.version + 1, edition, fault, perf_counter() - start, where)

    def file(self, kind: str) -> bytes:
        """It as a file of a kind. Raises what the press raises."""
        press, source, given = self._asked()
        stream = io.BytesIO()
        press.write(source, stream, kind=kind, **given)
        return stream.getvalue()

    def _asked(self) -> tuple[Press, Any, Mapping[str, Any]]:
        """The press, the source and what goes with it, as they are picked."""
        picked = self.picked
        given = {**self.trial.given(), "page": picked.page, "landscape": picked.landscape}
        return self._press_for(picked.locale), self.trial.source(picked.locale), {**given, "fillable": picked.fillable}

    def drawing(self, version: int, number: int) -> str | None:
        """A page as SVG; None where there is none, or the document has changed since."""
        with self._lock:
            shown = self._shown
            if shown.edition is None or version != shown.version or not 1 <= number <= shown.edition.page_count:
                return None
            if number not in self._drawings:
                if len(self._drawings) >= MOST_DRAWN:
                    self._drawings.clear()
                self._drawings[number] = shown.edition.pages[number - 1].to_svg()
            return self._drawings[number]

    def columns(self, version: int, number: int) -> list[Placement] | None:
        """The columns on a page; None where there is no such page, or the document has changed since."""
        with self._lock:
            shown = self._shown
            if shown.edition is None or version != shown.version or not 1 <= number <= shown.edition.page_count:
                return None
            return list(shown.edition.pages[number - 1].columns)

    def element(self, version: int, number: int, x: float, y: float) -> dict[str, Any] | None:
        """The element at a point of a page; None where there is none, or the document has changed since."""
        with self._lock:
            shown = self._shown
            if shown.edition is None or version != shown.version or not 1 <= number <= shown.edition.page_count:
                return None
            found = shown.edition.element_at(number, x, y)
        if found is None:
            return None
        style = [one._replace(source=file_name(one.source))._asdict() for one in found.style]
        known = {"source": file_name(found.source), "placement": found.placement._asdict(), "style": style}
        return found._asdict() | known

    def changes(self, version: int) -> dict[str, Any] | None:
        """What is another than before the last change: the first changes, and how many there are; None where the
        document has changed since."""
        with self._lock:
            shown, before = self._shown, self._before
        if version != shown.version:
            return None
        if shown.edition is None or before is None:
            return {"fault": "There is nothing before: save a change.", "count": 0, "changes": []}
        try:
            found = compare(before, shown.edition).changes
        except FleetQuillError as error:
            return {"fault": str(error), "count": 0, "changes": []}
        first = [{**change._asdict(), "said": str(change)} for change in found[:MOST_CHANGES]]
        return {"fault": "", "count": len(found), "changes": first}

    def data(self) -> str:
        """What it is filled in with, as JSON."""
        given = {name: value for name, value in self.trial.given().items() if value is not None}
        shown = given["data"] if list(given) == ["data"] else given
        return json.dumps(plain(shown), indent=2, ensure_ascii=False)

    def state(self) -> dict[str, Any]:
        """All that the page in the browser shows besides the pages."""
        shown = self._shown
        edition = shown.edition
        pages = [] if edition is None else [[page.width, page.height, *page.page_area[1:]] for page in edition.pages]
        return {
            "name": self.trial.name,
            "version": shown.version,
            "fault": shown.fault,
            "place": None
            if shown.where is None
            else {"source": file_name(shown.where.source), "line": shown.where.line},
            "picked": self.picked._asdict(),
            "milliseconds": round(shown.seconds * 1000),
            "pages": pages,
            "remarks": [] if edition is None else [told(remark) for remark in edition.remarks],
            "outline": [] if edition is None else [_mark(mark) for mark in edition.outline],
        }


def _stamp(path: Path, before: int = 0) -> Stamp | None:
    """When a file was changed, and its size; None where it is not there, or was changed since a time in ns."""
    try:
        found = path.stat()
    except OSError:
        return None
    return None if before and found.st_mtime_ns >= before else (found.st_mtime_ns, found.st_size)


def _mark(mark: Bookmark) -> dict[str, Any]:
    return {"label": mark.label, "page": mark.page, "y": mark.y, "children": [_mark(inner) for inner in mark.children]}
