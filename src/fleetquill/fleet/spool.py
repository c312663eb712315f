"""What is to be made, kept on disk: records that can be read again, however they came."""

from __future__ import annotations

import pickle
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple

from fleetquill.errors import DataError


class Item(NamedTuple):
    """A document to be made: its place among all, its name, what makes it another, and its record."""

    row: int
    name: str
    key: str
    record: Any


class Spool:
    """Items, in their order, in a file that goes with this."""

    def __init__(self) -> None:
        self._folder = tempfile.TemporaryDirectory(prefix="fleet-", ignore_cleanup_errors=True)
        self._path = Path(self._folder.name) / "items"
        self._file = self._path.open("wb")
        self.count = 0

    def add(self, item: Item) -> None:
        """Raises DataError where the record holds what no other process can be sent."""
        try:
            self._file.write(pickle.dumps(item, pickle.HIGHEST_PROTOCOL))
        except (pickle.PicklingError, TypeError, AttributeError) as error:
            raise DataError(f"Record {item.row} cannot be sent to another process ({error}).") from error
        self.count += 1

    def __iter__(self) -> Iterator[Item]:
        self._file.flush()
        with self._path.open("rb") as file:
            for _ in range(self.count):
                item: Item = pickle.load(file)
                yield item

    def close(self) -> None:
        self._file.close()
        self._folder.cleanup()
