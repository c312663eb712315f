"""Remarks: what a careful proof-reader would point out about a document."""

from __future__ import annotations

import re
from typing import Final, NamedTuple

from fleetquill.errors import without_secrets

COLUMN: Final = re.compile(r" \(column \d+\)$")


class Remark(NamedTuple):
    """One thing to look at.

    `kind` is a short fixed word ('picture', 'style', 'overflow', 'glyph', …), `source` a file name
    or '', `line` counts from 1 (0: not known), `page` counts from 1 (0: not on a page).
    """

    kind: str
    message: str
    source: str = ""
    line: int = 0
    page: int = 0

    def __str__(self) -> str:
        place = self.source
        if self.line:
            place += f"{', ' if place else ''}line {self.line}"
        if self.page:
            place += f"{', ' if place else ''}page {self.page}"
        return f"{place}: {self.message}" if place else self.message


class Remarks:
    """Collects remarks in order, each once, up to a bound of one kind."""

    MOST_OF_A_KIND = 200
    MOST_NAMED = 12  # of things that one remark gathers

    def __init__(self) -> None:
        self._seen: dict[Remark, None] = {}
        self._counts: dict[str, int] = {}
        self._lasting: list[Remark] = []
        self._gathered: dict[str, dict[str, int]] = {}  # what stands for the gap in a remark's words, and how often

    def gather(self, kind: str, message: str, item: str, *, source: str = "", line: int = 0, page: int = 0) -> None:
        """One remark for all things of a kind, where the first of them stands: their names go where '{}' is."""
        if message not in self._gathered:
            self._gathered[message] = {}
            self.add_lasting(kind, message, source=source, line=line, page=page)
        items = self._gathered[message]
        items[item] = items.get(item, 0) + 1

    def add(self, kind: str, message: str, *, source: str = "", line: int = 0, page: int = 0) -> None:
        self._add(Remark(kind, without_secrets(message), without_secrets(source), line, page))

    def add_lasting(self, kind: str, message: str, *, source: str = "", line: int = 0, page: int = 0) -> None:
        """A remark that is made once, whatever is laid out again: `back_to` does not forget it."""
        remark = Remark(kind, without_secrets(message), without_secrets(source), line, page)
        if len(self._lasting) < self.MOST_OF_A_KIND:
            self._lasting.append(remark)
        self._add(remark)

    def _add(self, remark: Remark) -> None:
        if remark in self._seen:
            return
        count = self._counts.get(remark.kind, 0) + 1
        self._counts[remark.kind] = count
        if count <= self.MOST_OF_A_KIND:
            self._seen[remark] = None

    @property
    def count(self) -> int:
        """How many remarks there have been, left out ones and all."""
        return sum(self._counts.values())

    def mark(self) -> tuple[dict[Remark, None], dict[str, int]]:
        """What has been collected so far, to go back to."""
        return dict(self._seen), dict(self._counts)

    def back_to(self, mark: tuple[dict[Remark, None], dict[str, int]]) -> None:
        """Forgets what was added since, but for lasting remarks."""
        lasting = self._lasting
        self.forget_since(mark)
        for remark in lasting:
            self._add(remark)
        self._lasting = lasting

    def forget_since(self, mark: tuple[dict[Remark, None], dict[str, int]]) -> None:
        """Forgets all that was added since."""
        self._seen, self._counts, self._lasting = dict(mark[0]), dict(mark[1]), []

    def all(self) -> tuple[Remark, ...]:
        """Every remark in order; where there were too many of a kind, the last says how many more."""
        told: dict[tuple[str, str, str], list[Remark]] = {}
        for remark in self._seen:
            told.setdefault((remark.kind, COLUMN.sub("", remark.message), remark.source), []).append(remark)
        more = [
            Remark(kind, f"{count - self.MOST_OF_A_KIND} more remarks of this kind were left out.")
            for kind, count in self._counts.items()
            if count > self.MOST_OF_A_KIND
        ]
        return (*(self._told(same[0], len(same)) for same in told.values()), *more)

    def _told(self, remark: Remark, places: int) -> Remark:
        """What is told of a thing that was met at so many places: the first of them, and how many there are."""
        items = self._gathered.get(remark.message)
        if items is None:
            return remark if places == 1 else remark._replace(message=f"{remark.message} ({places} times)")
        named = list(items)[: self.MOST_NAMED]
        rest = f" and {len(items) - len(named)} more" if len(items) > len(named) else ""
        times = sum(items.values())
        often = f" ({times} times)" if times > 1 else ""
        return remark._replace(message=remark.message.replace("{}", ", ".join(named) + rest) + often)
