"""Documents as they are now: made again when a file changes, the last good pages kept where that fails."""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping
from pathlib import Path
from time import perf_counter
from typing import Any, Final, NamedTuple

from fleetquill.drawing.paged import Bookmark
from fleetquill.edition import Edition
from fleetquill.errors import FleetQuillError
from fleetquill.press import Press
from fleetquill.remarks import Remark

MOST_DRAWN: Final = 60  # pages of a document whose drawings are kept


class Trial(NamedTuple):
    """A document that can be shown: its name, what it is made of, and what it is filled in with."""

    name: str
    source: Any
    given: Callable[[], Mapping[str, Any]]  # data and parameters, read anew each time
    files: tuple[Path, ...]  # that are watched from the start


class Shown(NamedTuple):
    """A document as it is now: its edition, the last that could be made; what is wrong, where it could not."""

    version: int
    edition: Edition | None
    fault: str
    seconds: float


class Proof:
    """One document that is watched. Several threads may ask."""

    def __init__(self, trial: Trial, press: Press) -> None:
        self.trial = trial
        self._press = press
        self._lock = threading.Lock()
        self._shown = Shown(0, None, "", 0.0)
        self._drawings: dict[int, str] = {}
        self.files: set[Path] = set(trial.files)

    @property
    def shown(self) -> Shown:
        """As it is now; made where it never was."""
        if not self._shown.version:
            self.make()
        return self._shown

    def make(self) -> Shown:
        """Makes it anew."""
        with self._lock:
            start = perf_counter()
            before, fault = self._shown, ""
            edition = before.edition
            try:
                edition = self._press.compose(self.trial.source, **self.trial.given())
                self.files = {*self.trial.files, *(path.absolute() for path in edition.files)}
                self._drawings = {}
            except FleetQuillError as error:  # what it was made from before is watched still
                fault = str(error)
            self._shown = Shown(before.version + 1, edition, fault, perf_counter() - start)
            return self._shown

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

    def state(self) -> dict[str, Any]:
        """All that the page in the browser shows besides the pages."""
        shown = self.shown
        edition = shown.edition
        pages = [] if edition is None else [[page.width, page.height] for page in edition.pages]
        return {
            "name": self.trial.name,
            "version": shown.version,
            "fault": shown.fault,
            "milliseconds": round(shown.seconds * 1000),
            "pages": pages,
            "remarks": [] if edition is None else [_told(remark) for remark in edition.remarks],
            "outline": [] if edition is None else [_mark(mark) for mark in edition.outline],
        }


def _told(remark: Remark) -> dict[str, Any]:
    source = Path(remark.source).name if remark.source else ""
    return {
        "kind": remark.kind, "message": remark.message, "source": source, "line": remark.line, "page": remark.page,
    }  # fmt: skip


def _mark(mark: Bookmark) -> dict[str, Any]:
    return {"label": mark.label, "page": mark.page, "y": mark.y, "children": [_mark(inner) for inner in mark.children]}
