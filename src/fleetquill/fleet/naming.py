"""The names of documents, made of their records: safe on every system, no two alike."""

from __future__ import annotations

import hashlib
import re
from typing import Final

from fleetquill.errors import DataError, OptionError
from fleetquill.fleet.records import Record
from fleetquill.output.delivery import safe_name
from fleetquill.output.kinds import KINDS, Kind, kind_of

SLASH: Final = re.compile(r"/(?![^{]*\})")  # outside of braces


class Names:
    """Names by a pattern such as '{year}/{number} {customer}.pdf'; `row` is the number of the record, from 1. Where two
    would be alike, that is an error, or the later ones are `numbered`."""

    def __init__(self, pattern: str, kind: str | None, *, numbered: bool) -> None:
        if not pattern.strip():
            raise OptionError("Documents need a name.", remedy="Write a pattern, such as '{number}.pdf'.")
        self.kind: Kind = kind_of(pattern, kind)
        *self._folders, last = SLASH.split(pattern)
        ending = f".{self.kind.name}"
        self._last = last[: -len(ending)] if last.lower().endswith(ending) else _without_other(last)
        self._numbered = numbered
        self._known: dict[bytes, int] = {}  # how often a name was given, by its hash

    def name(self, record: Record, row: int) -> str:
        """The name of a record's document. Raises DataError where the record lacks what the pattern names, or another
        has that name."""
        known = record if "row" in record else {**record, "row": row}
        parts = [safe_name(folder, known, extension="") for folder in self._folders]
        last = safe_name(self._last, known, extension="")
        name = self._whole(parts, last)
        count = self._seen(name)
        if count and not self._numbered:
            raise DataError(
                f"Record {row} has the name of another: '{name}'.",
                remedy="Name more of the record in the pattern, or ask for numbered names.",
            )
        while count:
            name = self._whole(parts, f"{last} {count + 1}")
            count = count + 1 if self._seen(name) else 0
        return name

    def _whole(self, parts: list[str], last: str) -> str:
        return "/".join((*parts, f"{last}.{self.kind.name}"))

    def _seen(self, name: str) -> int:
        """How often a name was given before; systems that know no case take two for one that differ in that alone."""
        mark = hashlib.blake2b(name.casefold().encode(), digest_size=16).digest()
        before = self._known.get(mark, 0)
        self._known[mark] = before + 1
        return before


def _without_other(last: str) -> str:
    ending = last.rpartition(".")[2].lower()
    return last[: -len(ending) - 1] if ending in KINDS and "." in last else last
