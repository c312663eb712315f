"""Where the cells of rows stand when cells reach over several columns and rows (HTML §4.9.12.1)."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Final, Generic, NamedTuple, Protocol, TypeVar

BEYOND: Final = 1 << 20  # columns: more than any cell takes


class Spanning(Protocol):
    """A cell that takes so many columns and rows."""

    @property
    def across(self) -> int: ...

    @property
    def down(self) -> int: ...


C = TypeVar("C", bound=Spanning)


class Place(NamedTuple, Generic[C]):
    """The columns from `column` on that a cell has in a row; none has them, or one of a row above, where it is None."""

    column: int
    across: int
    cell: C | None = None
    is_covered: bool = False  # by a cell of a row above


class Spans:
    """Goes through the rows of a table of `count` columns, 0 for as many as its cells take.

    Where two cells overlap, the one above has the place, and the next one of the row stands where it would.
    """

    def __init__(self, count: int = 0) -> None:
        self._count = count
        self._covered: dict[int, tuple[int, int]] = {}  # columns where a cell from above begins: rows left, columns

    def places(self, cells: Sequence[C]) -> Iterator[Place[C]]:
        """The places of the next row, from the first column on, without gaps."""
        if not self._covered and not self._count and all(cell.across == cell.down == 1 for cell in cells):
            return (Place(column, 1, cell) for column, cell in enumerate(cells))  # as in nearly all rows
        return self._spanning(cells)

    def _spanning(self, cells: Sequence[C]) -> Iterator[Place[C]]:
        covered, self._covered = self._covered, {}
        end = self._count or max((column + across for column, (_, across) in covered.items()), default=0)
        column = reserved = 0  # up to `reserved` a cell would reach
        waiting = iter(cells)
        cell = next(waiting, None)
        while cell is not None or column < max(end, reserved):
            if column in covered:
                left, across = covered[column]
                if left > 1:
                    self._covered[column] = left - 1, across
                yield Place(column, across, None, True)
                column += across
                continue
            free = min((at for at in covered if at > column), default=self._count or column + BEYOND) - column
            if column < reserved or cell is None:
                across = min(free, (reserved if column < reserved else end) - column)
                yield Place(column, across)
                column += across
                continue
            reserved = column + cell.across if not self._count else min(column + cell.across, self._count)
            across = max(1, min(cell.across, free))
            if cell.down > 1:
                self._covered[column] = cell.down - 1, across
            yield Place(column, across, cell)
            column += across
            cell = next(waiting, None)
