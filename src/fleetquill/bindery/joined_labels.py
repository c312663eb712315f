"""What the pages of a bound file are numbered (ISO 32000-2 §12.4.2)."""

from __future__ import annotations

from bisect import bisect_right
from typing import Any

from fleetquill.bindery.page_labels import label_rows
from fleetquill.bindery.parts import OpenPart
from fleetquill.pdf.objects import Name


class JoinedLabels:
    """Gathers labels: those of the parts, or those that `numbers` asks for ('whole' or 'parts')."""

    def __init__(self, numbers: str) -> None:
        self._numbers = numbers
        self._rows: list[Any] = []  # where a numbering begins, and what it is, in turn
        self._are_said = numbers == "parts"

    def add(self, part: OpenPart, first: int) -> None:
        """Takes the labels of a part whose pages stand from `first` on, counted from 0."""
        rows = label_rows(part.reader)
        if not rows:
            self._rows += [first, {"S": Name("D")}]
            return
        self._are_said = True
        starts = sorted(rows)
        before: tuple[str, bytes, int] | None = None
        for at, page in enumerate(part.pages):
            begins = bisect_right(starts, page.number - 1) - 1
            row, start = (rows[starts[begins]], starts[begins]) if begins >= 0 else ({}, 0)
            given = row.get("St", 1)
            count = (given if isinstance(given, int) else 1) + page.number - 1 - start
            style, prefix = str(row.get("S", "")), row.get("P", b"")
            if before is None or (style, prefix, count) != (before[0], before[1], before[2] + 1):
                said = {"S": Name(style) if style else None, "P": prefix or None, "St": count if count > 1 else None}
                self._rows += [first + at, said]
            before = style, prefix, count

    def add_blank(self, index: int) -> None:
        """A page without a label."""
        self._rows += [index, {}]

    def finish(self) -> dict[str, Any] | None:
        """The number tree; None where the pages are numbered as they stand."""
        if self._numbers == "whole" or not self._are_said:
            return None
        return {"Nums": self._rows} if self._rows else None
